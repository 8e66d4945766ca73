"""Tables that run over pages become one table."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, field, replace

from ..layout.joining import join_lines
from ..model import Box, Cell, Table
from .caption import NAMED

_CONTINUED = re.compile(r"\b(continued|cont['’.]?d?|fortsetzung|suite|continuación|продолжение)\b", re.I)
# Of the columns of two parts, at least this share stands at the same place, by overlap of their text.
SAME_COLUMNS = 0.8
# Or all edges of their columns agree within this share of the table's width, wherever the table stands.
SAME_EDGES = 0.02


@dataclass(slots=True)
class Part:
    """A table on one page: its box with the text upright, left and right of the text in each of its columns
    (None for an empty one), the edges of the columns as shares of its width, whether nothing but running
    heads and feet stands above or below it, and whether its caption is below.
    `origin`, `row_elements` and `cell_elements` (by row and column) are what the structure tree names them.
    """

    table: Table
    page: int
    box: Box
    columns: list[tuple[float, float] | None]
    edges: list[float]
    first_on_page: bool
    last_on_page: bool
    caption_below: bool = False
    origin: int = -1
    row_elements: list[int] = field(default_factory=list)
    cell_elements: dict[tuple[int, int], int] = field(default_factory=dict)


def joined(parts: Sequence[Part]) -> list[tuple[Table, int]]:
    """Join parts that continue each other; returns each table with the index of its first part."""
    out: list[tuple[Table, int]] = []
    previous: Part | None = None
    for index, part in enumerate(parts):
        if previous is not None and part.origin >= 0 and part.origin == previous.origin:
            part = _one_table(previous, part)
            out[-1] = (part.table, out[-1][1])
        elif previous is not None and continues(previous, part):
            out[-1] = (_joined(out[-1][0], part.table), out[-1][1])
        else:
            out.append((part.table, index))
        previous = part
    return out


def _one_table(above: Part, below: Part) -> Part:
    """Join two parts of what the tags call one table: rows and cells that both have are the same ones."""
    rows = [*above.row_elements, *(r for r in below.row_elements if r not in above.row_elements)]
    place = {element: r for r, element in enumerate(rows)}
    last = above.row_elements[-1]
    known = {element: c for c in above.table.cells if (element := above.cell_elements[c.row, c.column]) >= 0}
    elements = dict(above.cell_elements)
    cells = list(above.table.cells)
    taken = {p for c in cells for p in _positions(c.row, c.column, c.rowspan, c.colspan)}
    for c in below.table.cells:
        element = below.cell_elements[c.row, c.column]
        row = place[below.row_elements[c.row]]
        end = place[below.row_elements[c.row + c.rowspan - 1]] + 1
        if element in known:
            cell = known[element]
            if not any(
                p in taken
                for p in _positions(
                    cell.row + cell.rowspan, cell.column, end - cell.row - cell.rowspan, cell.colspan
                )
            ):
                cell.rowspan = max(cell.rowspan, end - cell.row)
                taken.update(_positions(cell.row, cell.column, cell.rowspan, cell.colspan))
            # A head that is repeated says nothing new; a row broken over the page goes on.
            if below.row_elements[c.row] == last and c.text:
                cell.text = join_lines([cell.text, c.text])
            cell.places += c.places
        else:
            area = _positions(row, c.column, end - row, c.colspan)
            rowspan = 1 if any(p in taken for p in area) else end - row
            elements[row, c.column] = element
            cells.append(replace(c, row=row, rowspan=rowspan))
            taken.update(area)
    table = replace(
        above.table, rows=len(rows), cells=cells, places=above.table.places + below.table.places,
        caption=above.table.caption or below.table.caption,
        alternatives=above.table.alternatives + below.table.alternatives,
    )  # fmt: skip
    return replace(below, table=table, row_elements=rows, cell_elements=elements)


def _positions(row: int, column: int, rowspan: int, colspan: int) -> list[tuple[int, int]]:
    return [(row + i, column + j) for i in range(rowspan) for j in range(colspan)]


def follows(above: Part, below: Part) -> bool:
    """Whether a part stands where a table would go on: at the top of the next page, or of the next column."""
    if not (above.last_on_page and below.first_on_page):
        return False
    if below.page == above.page + 1:
        return True
    a, b = above.box, below.box
    return below.page == above.page and b.x0 > a.x1 - 1 and b.y0 < a.y0


def continues(above: Part, below: Part) -> bool:
    """Whether a part goes on with the table of another."""
    if not follows(above, below):
        return False
    if above.origin >= 0 or below.origin >= 0:
        return False
    a, b = above.table, below.table
    said = bool(_CONTINUED.search(b.caption))
    own_name = bool(NAMED.match(b.caption)) and b.caption != a.caption
    if own_name and not said and not (below.caption_below and not NAMED.match(a.caption)):
        return False
    if a.columns != b.columns:
        return False
    # Labels of groups right below the header may pass for header rows; what is repeated tells.
    if _repeated(a, b) and a.header_rows and b.header_rows:
        return True
    if b.header_rows and not said and a.header_rows:
        return False
    alike = all(abs(x - y) < SAME_EDGES for x, y in zip(above.edges, below.edges, strict=True))
    return alike or _same_columns(above.columns, below.columns)


def _repeated(a: Table, b: Table) -> int:
    """The number of rows at the top of b that repeat those of a."""
    for rows in range(min(a.rows, b.rows - 1, 4), 0, -1):
        head = _head(a, rows)
        if len([text for *_, text in head if text]) > 1 and head == _head(b, rows):
            return rows
    return 0


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
    repeated = _repeated(a, b)
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
        header_rows=min(a.header_rows, repeated) if repeated else a.header_rows,
        method=a.method,
        confidence=min(a.confidence, b.confidence),
        places=a.places + b.places,
        alternatives=a.alternatives + b.alternatives,
    )
