"""The hierarchy that the first column of a table shows: by indentation, and by rows that head others."""

from __future__ import annotations

from collections.abc import Container, Sequence
from itertools import pairwise

from .checks import total_rows
from .measures import distinct
from .model import Cell, Place, Table

# Labels of one level begin at one place, and levels are set in: in heights of a line.
SAME = 0.25
STEP = 0.5
# With more levels than this, labels are centred or set to the right rather than indented.
MAX_LEVELS = 5


def set_hierarchy(table: Table) -> None:
    """Set the `indent` of the labels in the first column of a table, and the `heads` of its rows.

    A row heads those below it whose labels are set in farther. Where the first label of the body stands alone
    in its row, such rows also head those that are set in as far, up to the next one like it or to a total.
    """
    stub = _stub(table)
    totals = set(total_rows(table))
    for cell, indent in zip(stub, _indents(table, stub, totals), strict=True):
        cell.indent = indent
    filled = [0] * (table.rows + 1)
    for cell in table.cells:
        filled[cell.row] += bool(cell.text)
    indents = {c.row: c.indent for c in stub}
    alone = {row for row in indents if filled[row] == 1 < filled[row + 1]}
    grouped = bool(stub) and stub[0].row in alone
    heads = [-1] * table.rows
    bare = set(range(table.header_rows + 1, table.rows)) - {c.row + k for c in stub for k in range(c.rowspan)}
    # The rows that may head what comes, with how far they reach.
    open_rows: list[tuple[int, bool, int]] = []
    for cell in stub:
        row = cell.row
        group = grouped and row in alone and indents.get(row + 1, cell.indent) == cell.indent
        rank = (cell.indent, not group)
        while open_rows and open_rows[-1][:2] >= rank:
            open_rows.pop()
        head = open_rows[-1][2] if open_rows else -1
        heads[row : row + cell.rowspan] = [head] * cell.rowspan
        if row not in totals:
            open_rows.append((*rank, row))
        elif open_rows and open_rows[-1][0] == cell.indent:
            open_rows.pop()
    for row in sorted(bare):
        heads[row] = heads[row - 1]
    table.heads = heads if max(heads, default=-1) >= 0 else []


def _indents(table: Table, stub: Sequence[Cell], totals: Container[int]) -> list[int]:
    """By how many steps labels are set in.

    They are where they begin at a few places only, the first of them at the leftmost, and each level follows
    one that is set in one step less. Tables read sideways on their page are left alone.
    """
    none = [0] * len(stub)
    if len(stub) < 3 or not _is_upright(table):
        return none
    boxes = [c.places[0].box for c in stub]
    height = min(box.y1 - box.y0 for box in boxes)
    shift = _margins(table, stub, height)
    starts = [box.x0 - by for box, by in zip(boxes, shift, strict=True)]
    ends = [box.x1 - by for box, by in zip(boxes, shift, strict=True)]
    # A label that runs over several columns may be centred over them.
    own = [c.colspan == 1 or start < SAME * height for c, start in zip(stub, starts, strict=True)]
    levels = distinct([start for start, is_own in zip(starts, own, strict=True) if is_own], SAME * height)
    steps = [b - a for a, b in pairwise(levels)]
    # Labels that end at one place are set to the right.
    if not steps or len(levels) > MAX_LEVELS or min(steps) < STEP * height or max(ends) - min(ends) < height:
        return none
    out: list[int] = []
    for cell, start, is_own in zip(stub, starts, own, strict=True):
        indent = sum(start >= level for level in levels) - 1 if is_own else 0
        # A total that is set in farther belongs to the rows above it, not to the last of them.
        out.append(min(indent, out[-1]) if cell.row in totals and out else indent)
    return out if out[0] == 0 and all(b <= a + 1 for a, b in pairwise(out)) else none


def _margins(table: Table, stub: Sequence[Cell], height: float) -> list[float]:
    """The x of the leftmost label in the part of the table that each label stands in.

    A part where none begins where labels of the first part do has a margin of its own; else it has that of
    the first, and may begin with labels that are set in.
    """
    parts = [_part(table, c.places[0]) for c in stub]
    lefts: dict[int, list[float]] = {}
    for part, cell in zip(parts, stub, strict=True):
        lefts.setdefault(part, []).append(cell.places[0].box.x0)
    first = lefts[parts[0]]
    margin = {
        part: min(first if any(abs(min(own) - x) < SAME * height for x in first) else own)
        for part, own in lefts.items()
    }
    return [margin[part] for part in parts]


def _part(table: Table, place: Place) -> int:
    """The part of a table, on a page or in a column of it, that a cell stands in."""
    middle = (place.box.y0 + place.box.y1) / 2
    for k, part in enumerate(table.places):
        beside = part.box.x0 - 1 <= place.box.x0 <= part.box.x1
        if part.page == place.page and beside and part.box.y0 <= middle <= part.box.y1:
            return k
    return -1


def _stub(table: Table) -> list[Cell]:
    """The labels of the body in the first column, from top to bottom."""
    own = [c for c in table.cells if c.column == 0 and c.row >= table.header_rows and c.text and c.places]
    return sorted(own, key=lambda c: c.row)


def _is_upright(table: Table) -> bool:
    """Whether two cells of a row stand beside each other on the page, and not above each other."""
    rows: dict[int, list[Cell]] = {}
    for cell in sorted(table.cells, key=lambda c: c.column):
        if cell.places and cell.rowspan == 1:
            rows.setdefault(cell.row, []).append(cell)
    for cells in rows.values():
        if len(cells) > 1:
            a, b = cells[0].places[0].box, cells[1].places[0].box
            return a.y0 < b.y1 and b.y0 < a.y1 and a.x0 < b.x0
    return False
