"""Make ground truth: draft it, see what a person should look at, and take a checked file back in."""

from pathlib import Path

from wennak.demo import write_collection
from wennak.truth import draft, find_truth, load_truth, save_truth, take, validate, write_sheet

write_collection(Path("wennak-demo"))

# A draft marks the cells on which methods disagree; nobody has checked it yet.
paper = Path("wennak-demo/papers/cargo-manifest.pdf")
entry = draft(paper, Path("truth/cargo-manifest.html"))
save_truth(entry)
for number, table in enumerate(entry.tables, start=1):
    print(f"Table {number}: {table.state}, {len(table.doubts)} doubtful cells")

# The sheet is a page for the browser: the picture of the page beside a grid that can be edited.
print(f"Check it in a browser: {write_sheet(entry, 'sheets')}")

# What the browser saves is taken in like this; here a file in the same form stands for it.
saved = Path("saved/cargo-manifest.html")
saved.parent.mkdir(exist_ok=True)
text = Path("truth/cargo-manifest.html").read_text(encoding="utf-8")
first = next(cell.text for cell in entry.tables[0].table.cells if cell.text.isdigit())
saved.write_text(text.replace(f">{first}<", ">99<", 1), encoding="utf-8")
checked, changes = take(saved, "truth", paper)
for change in changes:
    print(f"Table {change.table} was {change.before}, is {change.after}:", *change.lines)

# Whether a benchmark may rest on it: holes, overlaps, a PDF that has changed.
for path in (e.path for e in find_truth("truth")):
    problems = validate(load_truth(path))
    print(f"{path}: {'sound' if not any(p.grave for p in problems) else problems}")
