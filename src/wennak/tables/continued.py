"""Tables that run over pages become one table."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass

from ..model import Cell, Table

_CONTINUED = re.compile(r"\b(continued|cont['’.]?d?|fortsetzung|suite|continuación|продолжение)\b", re.I)
# Column edges of two parts agree within this share of the table's width.
_EDGE_SHARE = 0.04


@dataclass(slots=True)
class Part:
    """A table on one page: its edges relative to its width, and whether text stands above or below it."""

    table: Table
    page: int
    edges: list[float]
    first_on_page: bool
    last_on_page: bool


def joined(parts: Sequence[Part]) -> list[tuple[Table, int]]:
    """Join parts that continue each other; returns each table with the index of its first part."""
    out: list[tuple[Table, int]] = []
    previous: Part | None = None
    for index, part in enumerate(parts):
        if previous is not None and _continues(previous, part):
            out[-1] = (_joined(out[-1][0], part.table), out[-1][1])
        else:
            out.append((part.table, index))
        previous = part
    return out


def _continues(above: Part, below: Part) -> bool:
    if below.page != above.page + 1 or not (above.last_on_page and below.first_on_page):
        return False
    a, b = above.table, below.table
    said = bool(_CONTINUED.search(b.caption))
    if b.caption and not said and b.caption != a.caption:
        return False
    if a.columns != b.columns:
        return False
    if _head(a) and _head(a) == _head(b):
        return True
    if b.header_rows and not said and _head(a) != _head(b) and a.header_rows:
        return False
    return all(abs(x - y) <= _EDGE_SHARE for x, y in zip(above.edges, below.edges, strict=True))


def _head(table: Table, rows: int | None = None) -> list[tuple[int, int, str]]:
    count = table.header_rows if rows is None else rows
    return [(c.row, c.column, c.text) for c in table.cells if c.row < count]


def _joined(a: Table, b: Table) -> Table:
    """The rows of b under those of a, without the header that b repeats."""
    repeated = 0
    for rows in range(min(a.rows, b.rows - 1, 4), 0, -1):
        if _head(a, rows) and _head(a, rows) == _head(b, rows):
            repeated = rows
            break
    cells = list(a.cells)
    for c in b.cells:
        if c.row >= repeated:
            header = c.row - repeated + a.rows < a.header_rows
            cells.append(
                Cell(
                    c.row - repeated + a.rows, c.column, c.text, c.rowspan, c.colspan, header, c.places,
                    c.confidence,
                )
            )  # fmt: skip
    return Table(
        rows=a.rows + b.rows - repeated,
        columns=a.columns,
        cells=cells,
        caption=a.caption,
        header_rows=a.header_rows,
        method=a.method,
        confidence=min(a.confidence, b.confidence),
        places=a.places + b.places,
    )
