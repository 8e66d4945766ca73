"""The cells of all tables of a document, one a row: the long form, for tables of tables."""

from __future__ import annotations

import datetime
from collections.abc import Iterator
from dataclasses import dataclass

from ..model import Document, Table
from ..values import typed_column, unit_of

BETWEEN = " / "


@dataclass(frozen=True, slots=True)
class CellRow:
    """One cell below the header that holds text.

    `document` is the name of its document; `table`, `row` and `column` count from 1, rows with the header
    rows. `row_path` are the labels that head its row, its own last, `column_path` those of its column.
    `value` is the number that the text says, where its whole column is certain, `date` the day (ISO 8601),
    `unit` the currency or percent. `page` and the box (points from the top left) are those of the first place
    that the cell stands at.
    """

    document: str
    table: int
    row: int
    column: int
    row_path: str
    column_path: str
    text: str
    value: float | None
    date: str | None
    unit: str
    page: int
    x0: float
    y0: float
    x1: float
    y1: float
    confidence: float


def cell_rows(document: Document) -> Iterator[CellRow]:
    """Yield the cells of all tables, table by table, row by row."""
    for number, table in enumerate(document.tables, start=1):
        yield from _rows(document.source, number, table)


def _rows(name: str, number: int, table: Table) -> Iterator[CellRow]:
    labels = table.header_labels() if table.header_rows else [""] * table.columns
    paths, grid = table.row_paths(), table.grid()
    body = range(table.header_rows, table.rows)
    typed = [
        _values([c.shown if (c := grid[r][k]) and c.column == k else "" for r in body])
        for k in range(table.columns)
    ]
    for r in body:
        for k, cell in enumerate(grid[r]):
            if cell is None or not cell.text or (cell.row, cell.column) != (r, k):
                continue
            own = grid[r][0]
            label = [own.text] if k and own is not None and own.text else []
            value, date = typed[k][r - table.header_rows]
            place = cell.places[0] if cell.places else None
            box = place.box if place else None
            unit = unit_of(cell.text) if value is not None else ""
            yield CellRow(
                name, number, r + 1, k + 1,
                BETWEEN.join(" ".join(part.split()) for part in (*paths[r], *label)),
                " ".join(labels[k].split()), cell.shown, value, date, unit,
                place.page if place else 0,
                *((box.x0, box.y0, box.x1, box.y1) if box else (0.0, 0.0, 0.0, 0.0)),
                round(cell.confidence, 4),
            )  # fmt: skip


def _values(texts: list[str]) -> list[tuple[float | None, str | None]]:
    """Number and day of each text of a column."""
    return [
        (None, v.isoformat()) if isinstance(v, datetime.date) else (v, None)
        for v in typed_column(texts).values
    ]
