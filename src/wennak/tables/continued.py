"""Tables that run over pages become one table."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass

from ..model import Cell, Table
from .caption import NAMED

_CONTINUED = re.compile(r"\b(continued|cont['’.]?d?|fortsetzung|suite|continuación|продолжение)\b", re.I)
# Of the columns of two parts, at least this share stands at the same place, by overlap of their text.
SAME_COLUMNS = 0.8
# Or all edges of their columns agree within this share of the table's width, wherever the table stands.
SAME_EDGES = 0.02


def text_columns(table: Table) -> list[tuple[float, float] | None]:
    """Return left and right of the text in each column of a table on one page."""
    out: list[tuple[float, float] | None] = [None] * table.columns
    for cell in table.cells:
        if cell.colspan == 1 and cell.places:
            box, known = cell.places[0].box, out[cell.column]
            out[cell.column] = (min(known[0], box.x0), max(known[1], box.x1)) if known else (box.x0, box.x1)
    return out


@dataclass(slots=True)
class Part:
    """A table on one page: left and right of the text in each of its columns (None for an empty one), the
    edges of the columns as shares of its width, and
    whether nothing but running heads and feet stands above or below it, and whether its caption is below.
    """

    table: Table
    page: int
    columns: list[tuple[float, float] | None]
    edges: list[float]
    first_on_page: bool
    last_on_page: bool
    caption_below: bool = False


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
    own_name = bool(NAMED.match(b.caption)) and b.caption != a.caption
    if own_name and not said and not (below.caption_below and not NAMED.match(a.caption)):
        return False
    if a.columns != b.columns:
        return False
    if _head(a) and _head(a) == _head(b):
        return True
    if b.header_rows and not said and _head(a) != _head(b) and a.header_rows:
        return False
    alike = all(abs(x - y) < SAME_EDGES for x, y in zip(above.edges, below.edges, strict=True))
    return alike or _same_columns(above.columns, below.columns)


def _same_columns(
    above: Sequence[tuple[float, float] | None], below: Sequence[tuple[float, float] | None]
) -> bool:
    pairs = [(a, b) for a, b in zip(above, below, strict=True) if a and b]
    same = sum(min(a[1], b[1]) > max(a[0], b[0]) for a, b in pairs)
    return bool(pairs) and same >= SAME_COLUMNS * len(pairs)


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
        caption=b.caption
        if NAMED.match(b.caption) and not NAMED.match(a.caption)
        else a.caption or b.caption,
        header_rows=a.header_rows,
        method=a.method,
        confidence=min(a.confidence, b.confidence),
        places=a.places + b.places,
    )
