"""A first draft of the truth, with what a person should look at first."""

from __future__ import annotations

import os
from collections.abc import Sequence
from pathlib import Path

from ..checks import said_of
from ..model import Cell, Document, Table
from ..scan import AS_NEEDED, Recognition
from .files import file_hash
from .model import Truth, TruthTable

# Methods whose readings are held against the draft.
OTHERS = ("spaced", "ruled", "tagged")
# Cells less sure than this are marked whatever the methods say.
SURE = 0.5
# A table of another method is the same table when it covers this share of the smaller one's page area.
SAME_PLACE = 0.5


def draft(
    source: str | Path,
    path: str | Path,
    method: str = "combined",
    password: str = "",
    recognition: Recognition = AS_NEEDED,
) -> Truth:
    """Return the draft of the truth of a PDF, to be saved at `path`.

    Every table is "drafted". Cells that other methods read otherwise, whose sums do not come out or that the
    method itself is unsure of are marked with the reason. Raises SourceError as `read` does.
    """
    # Truths are loaded and compared more often than drafted.
    from ..pipeline import read

    source, path = Path(source), Path(path)
    document = read(source, method=method, password=password, recognition=recognition)
    others = [
        read(source, method=name, password=password, recognition=recognition)
        for name in OTHERS
        if name != method
    ]
    tables = []
    for table in document.tables:
        pages = table.page_numbers
        tables.append(TruthTable(_whole(table), "drafted", pages=pages, doubts=_doubts(table, others)))
    return Truth(path, os.path.relpath(source, path.parent), file_hash(source), tables)


def _whole(table: Table) -> Table:
    """The table with a cell at every place: a truth has no holes."""
    grid = table.grid()
    empty = [
        Cell(r, c, "", header=r < table.header_rows)
        for r in range(table.rows)
        for c in range(table.columns)
        if grid[r][c] is None
    ]
    cells = sorted([*table.cells, *empty], key=lambda c: (c.row, c.column))
    return Table(table.rows, table.columns, cells, table.caption, table.header_rows, places=table.places)


def _doubts(table: Table, others: Sequence[Document]) -> dict[tuple[int, int], str]:
    doubts: dict[tuple[int, int], str] = {}
    readings = [(other, t) for other in others for t in other.tables if _same_place(table, t)]
    for cell in table.cells:
        if not cell.text:
            continue
        for _, reading in readings:
            said = _read_otherwise(cell, reading)
            if said:
                doubts.setdefault((cell.row, cell.column), f"{reading.method} reads {said}")
        if cell.confidence < SURE:
            doubts.setdefault((cell.row, cell.column), "the method is unsure of it")
    for check in table.checks:
        if not check.passed:
            doubts[check.row, check.column] = said_of(check)
    return doubts


def _same_place(a: Table, b: Table) -> bool:
    """Whether two readings are of one table: they share much of the smaller one's area on some page."""
    return any(
        p.page == q.page and p.box.shared(q.box) > SAME_PLACE * min(p.box.area, q.box.area)
        for p in a.places
        for q in b.places
    )


def _read_otherwise(cell: Cell, reading: Table) -> str:
    """What another reading has in the same place, if its text or its span differs; "" where it agrees.

    A method that saw no such place is no witness.
    """
    if not cell.places:
        return ""
    page, box = cell.places[0].page, cell.places[0].box
    x, y = (box.x0 + box.x1) / 2, (box.y0 + box.y1) / 2
    for other in reading.cells:
        for place in other.places:
            b = place.box
            if place.page == page and b.x0 <= x <= b.x1 and b.y0 <= y <= b.y1:
                if "".join(other.text.split()) != "".join(cell.text.split()):
                    return repr(" ".join(other.text.split())[:60])
                if (other.rowspan, other.colspan) != (cell.rowspan, cell.colspan):
                    return f"it over {other.rowspan} x {other.colspan} places"
                return ""
    return ""
