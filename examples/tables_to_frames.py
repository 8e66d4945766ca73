"""Take the tables of a document as pandas frames: as printed, and typed where a column is certain."""

from pathlib import Path

import wennak
from wennak.demo import write_collection

write_collection(Path("wennak-demo"))
document = wennak.read("wennak-demo/papers/berth-ledger.pdf")
(table,) = document.tables
print(f"{table!r}\n")

# Text as printed: "(20.00)" is a credit, and stays what it is on the page.
printed = table.frame()
print(printed.head(4).to_string(), "\n")

# Typed: numbers as such, credits negative; a column that is not certain throughout stays text.
typed = table.frame(typed=True)
print(typed.head(4).to_string(), "\n")

# What a person should look at before the numbers are used: cells in doubt, and sums that do not come out.
doubtful = [cell for cell in table.cells if cell.text and cell.confidence < 0.9]
wrong = [check for check in table.checks if not check.passed]
print(f"{len(doubtful)} cells below 0.9; {len(table.checks)} sums checked, {len(wrong)} do not come out")

# As files: a workbook with merged cells, or CSV whose formula-like texts are harmless.
Path("tables").mkdir(exist_ok=True)
table.save("tables/berth-ledger.xlsx")
table.save("tables/berth-ledger.csv")
