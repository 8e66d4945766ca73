"""Read the same page by several methods, see where they differ, and direct the reading if all are off."""

from pathlib import Path

import wennak
from wennak.demo import write_collection

METHODS = ("combined", "ruled", "spaced", "plain")

write_collection(Path("wennak-demo"))
paper = "wennak-demo/papers/timetable.pdf"
for method in METHODS:
    tables = wennak.read(paper, pages="1", method=method).tables
    sizes = [f"{t.rows} x {t.columns} ({t.confidence:.2f})" for t in tables]
    print(f"{method:10}", ", ".join(sizes) or "no table")

# Cells that the default method and the one by ruling lines do not agree on.
ours, theirs = (wennak.read(paper, method=method).tables[0] for method in ("combined", "ruled"))
texts = {(c.row, c.column): c.text for c in theirs.cells}
different = [c for c in ours.cells if texts.get((c.row, c.column)) != c.text]
print(f"{len(different)} cells differ between combined and ruled")

# Where the automatic reading is off: name the place (and where columns part, if need be).
table = wennak.read_table("wennak-demo/papers/fares-circular.pdf", region="1,10%,22%,90%,48%", header_rows=1)
print(table)
print(table.frame().head(3).to_string())

# Pages with what was read drawn over them, beside the result.
pages = wennak.look(paper, "seen")
print(f"Open {pages[0]} in a browser.")
