"""Convert a folder of PDFs into Markdown and JSON, and see what became of each."""

from pathlib import Path

import wennak
from wennak.demo import write_collection


def main() -> None:
    """Convert the papers, with a file among them that is none."""
    write_collection(Path("wennak-demo"))
    Path("wennak-demo/papers/minutes.pdf").write_text("This is no PDF.")
    outcomes = wennak.convert("wennak-demo/papers", "texts", ["md", "json"], workers=2)
    Path("wennak-demo/papers/minutes.pdf").unlink()

    for outcome in outcomes:
        print(f"{outcome.name:24} {outcome.state:10} {outcome.pages} pages, {outcome.tables} tables")
    for outcome in outcomes:
        if outcome.error:
            print(f"For a person: {outcome.error}")

    # The JSON gives back the document, with the place of every block and cell.
    document = wennak.load("texts/tide-table.json")
    table = document.tables[0]
    cell = table.cells[-1]
    print(f"{table!r} ends with {cell.text!r}, on page {cell.places[0].page} at {cell.places[0].box}")


# Workers begin by importing this script.
if __name__ == "__main__":
    main()
