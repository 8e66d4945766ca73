"""Ground truth tables, as they lie in HTML files beside their PDFs."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from lxml import etree, html

from ..errors import MissingSource, SourceError

# (row, column, rowspan, colspan, text) of a cell.
GridCell = tuple[int, int, int, int, str]


@dataclass(frozen=True, slots=True)
class TruthDocument:
    """A document with known tables: its name, its PDF, and the cells of each table."""

    name: str
    pdf: Path
    tables: tuple[frozenset[GridCell], ...]


def find_truth(folder: str | Path) -> list[TruthDocument]:
    """Return the documents of a truth folder: every NAME.html that lies beside a NAME.pdf, by name.

    Raises MissingSource if there is none, SourceError if a truth file cannot be read.
    """
    root = Path(folder)
    if not root.is_dir():
        raise MissingSource(f"{folder} is not a folder; name one that holds NAME.pdf beside NAME.html.")
    pairs = [(p, p.with_suffix(".pdf")) for p in sorted(root.rglob("*.html"))]
    found = [
        TruthDocument(truth.relative_to(root).with_suffix("").as_posix(), pdf, truth_tables(truth))
        for truth, pdf in pairs
        if pdf.exists()
    ]
    if not found:
        raise MissingSource(f"{folder} holds no truth; put NAME.html beside NAME.pdf.")
    return found


def truth_tables(path: Path) -> tuple[frozenset[GridCell], ...]:
    """Return the cells of every table in an HTML file; tables within tables belong to their cell."""
    try:
        tree = html.document_fromstring(path.read_bytes(), parser=html.HTMLParser(encoding="utf-8"))
    except (etree.ParserError, ValueError) as error:
        raise SourceError(f"{path} cannot be read as HTML; check that it is a truth file.") from error
    outer = [t for t in tree.iter("table") if next(t.iterancestors("table"), None) is None]
    return tuple(frozenset(_cells(table)) for table in outer)


def _cells(table: html.HtmlElement) -> list[GridCell]:
    rows = [r for r in table.iter("tr") if next(r.iterancestors("table"), None) is table]
    taken: set[tuple[int, int]] = set()
    cells: list[GridCell] = []
    for r, row in enumerate(rows):
        c = 0
        for cell in row.iterchildren("td", "th"):
            while (r, c) in taken:
                c += 1
            rowspan = min(_span(cell.get("rowspan")), len(rows) - r)
            colspan = _span(cell.get("colspan"))
            taken |= {(r + i, c + j) for i in range(rowspan) for j in range(colspan)}
            cells.append((r, c, rowspan, colspan, " ".join(cell.text_content().split())))
            c += colspan
    return cells


def _span(value: str | None) -> int:
    return min(int(value), 1000) if value and value.isdigit() and int(value) > 0 else 1
