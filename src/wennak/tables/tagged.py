"""The method `tagged`: tables that a tagged PDF names itself (ISO 32000-2, 14.8.4.8.3).

The tree gives rows, cells and spans; the ink must agree: cells of a row from left to right, rows from top to
bottom. A table that does not is left to the other methods.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from ..ink import Bools, StructureTree, distinct
from ..layout import PageLayout, Tags
from ..model import Box
from .draft import CellDraft, TableDraft, text_columns
from .header import header_rows
from .header_spans import REACH, columns_over, rules_below

# Neighbours of a row, and rows, must stand in the order of the tree in at least this share of cases.
AGREEMENT = 0.9
# A word reaches into a table's box by more than this (em).
STRANGER = 0.3
# What it costs that text stands at no side and off the middle of its columns, for all of their width.
PLACED = 0.1
# What it gains that a cell over several columns is over those that the rule below it is over.
RULED = 0.5
# What it costs that a cell over several columns is over the first one, too, where it need not be.
STUB = 0.02
_CELLS = ("TD", "TH")


@dataclass(slots=True)
class _Grid:
    """The cells of a table by element: row, column, rowspan, colspan; its rows by element, in order."""

    cells: dict[int, tuple[int, int, int, int]]
    rows: list[int]
    columns: int


def read_tagged(layout: PageLayout) -> list[TableDraft]:
    """Return the tables that the structure tree names and the ink bears out."""
    tags = layout.tags
    if tags is None:
        return []
    homes = {e: _home(tags.tree, e) for e in distinct(tags.element).tolist() if e >= 0}
    held: dict[int, dict[int, list[int]]] = {}
    for i, element in enumerate(tags.element.tolist()):
        table, part = homes.get(element, (-1, -1))
        if table >= 0:
            held.setdefault(table, {}).setdefault(part, []).append(i)
    drafts = (_draft(layout, tags, table, parts) for table, parts in sorted(held.items()))
    return [draft for draft in drafts if draft is not None]


def words_of_table(layout: PageLayout, table: int) -> Bools:
    """Return which words of a page its tags give to a table; all where it has none that can be trusted."""
    tags = layout.tags
    if tags is None:
        return np.ones(len(layout.words), dtype=np.bool_)
    own = [e for e in distinct(tags.element).tolist() if e >= 0 and _home(tags.tree, e)[0] == table]
    return np.isin(tags.element, own)


def _home(tree: StructureTree, element: int) -> tuple[int, int]:
    """The outermost table that an element stands in, and its cell or caption there, -1 for none."""
    table = part = inner = -1
    while element >= 0:
        role = tree.roles[element]
        if role in _CELLS or role == "Caption":
            inner = element
        elif role == "Table":
            table, part = element, inner
        element = tree.parents[element]
    return table, part


def _draft(layout: PageLayout, tags: Tags, table: int, parts: dict[int, list[int]]) -> TableDraft | None:
    grid = _grid(tags.tree, table)
    words = {part: members for part, members in parts.items() if part in grid.cells}
    if len(grid.rows) < 2 or grid.columns < 2 or not words:
        return None
    if not _set_in_columns(layout, grid, words):
        _distrust(layout)
        return None
    present = {grid.cells[part][0] for part in words}
    empty = {r for r, e in enumerate(grid.rows) if not tags.tree.filled[e]}
    rows = sorted(present | {r for r in empty if r - 1 in present and r < max(present)})
    cells = []
    for element, (row, column, rowspan, colspan) in grid.cells.items():
        inside = [k for k, r in enumerate(rows) if row <= r < row + rowspan]
        if inside:
            members = words.get(element, [])
            cells.append(CellDraft(inside[0], column, len(inside), colspan, members, element))
    # Text of the table in no cell of it, or a row mostly of cells without the text they should have: only
    # rows at the ends of the page may have it elsewhere.
    inner = [r for r in range(len(rows) - 1) if r > 0 or rows[0] == 0]
    if -1 in parts or any(_is_hollow(tags, cells, r) for r in inner) or not _agrees(layout, cells):
        _distrust(layout)
        return None
    inked = [i for c in cells for i in c.words]
    box = layout.box(np.array(inked, dtype=np.int64))
    draft = TableDraft(box, len(rows), grid.columns, cells, "tagged", origin=table)
    if _has_strangers(layout, tags, box, table):
        _distrust(layout)
        return None
    draft.row_elements = [grid.rows[r] for r in rows]
    draft.caption = [i for part, members in parts.items() if part not in grid.cells for i in members]
    draft.column_edges = _edges(layout, draft)
    heads = [all(tags.tree.roles[c.element] == "TH" for c in cells if c.row == r) for r in range(len(rows))]
    count = next((r for r, head in enumerate(heads) if not head), len(heads) - 1)
    draft.header_rows = count or header_rows(layout, draft)
    return draft


def _is_hollow(tags: Tags, cells: Sequence[CellDraft], row: int) -> bool:
    """Whether most cells of a row hold something by the tree and nothing by the ink; a blank is something."""
    own = [c for c in cells if c.row == row]
    hollow = sum(not c.words and tags.tree.filled[c.element] for c in own)
    return hollow > 1 and hollow > 0.5 * len(own)


def _has_strangers(layout: PageLayout, tags: Tags, box: Box, table: int) -> bool:
    """Whether words reach into a table's box that the tags give to something else; more may lie outside."""
    w, reach = layout.words, STRANGER * layout.em
    within = (w.x0 < box.x1 - reach) & (w.x1 > box.x0 + reach)
    within &= (w.y0 < box.y1 - reach) & (w.y1 > box.y0 + reach)
    elements = distinct(tags.element[within]).tolist()
    return any(e < 0 or _home(tags.tree, e)[0] != table for e in elements)


def _distrust(layout: PageLayout) -> None:
    said = f"a tagged table on page {layout.number} is not laid out as it is tagged"
    layout.findings.append(("tags-not-used", said))


def _set_in_columns(layout: PageLayout, grid: _Grid, words: dict[int, list[int]]) -> bool:
    """Move the cells of rows that lack some to the columns they stand in; False where that cannot be told.

    Some programs tag no empty cells: all cells after one would else stand a column too far left.
    """
    w = layout.words
    taken: dict[int, set[int]] = {}
    for row, column, rowspan, colspan in grid.cells.values():
        for r in range(row, row + rowspan):
            taken.setdefault(r, set()).update(range(column, column + colspan))
    short = {r for r, columns in taken.items() if len(columns) < grid.columns}
    # Where a cell of such a row reaches down, the rows below began to be filled beside the wrong column.
    for row, _, rowspan, _ in sorted(grid.cells.values()):
        if row in short:
            short.update(range(row, row + rowspan))
    spots = {e: (float(w.x0[m].min()), float(w.x1[m].max())) for e, m in words.items()}
    if _stand_elsewhere(grid, spots, short) > 1:
        # No row has all cells.
        return False
    extents = _extents(grid, spots, short)
    for row in sorted(short):
        own = [e for e, cell in grid.cells.items() if cell[0] == row]
        if not any(e in spots for e in own):
            continue
        if any(e not in spots for e in own) or any(extent is None for extent in extents):
            return False
        above = {
            c
            for e, (r, k, height, width) in grid.cells.items()
            if r < row < r + height
            for c in range(k, k + width)
        }
        sides = [extent for extent in extents if extent]
        cells = [
            (spots[e], grid.cells[e][3], _ruled(layout, words[e], grid.cells[e][3], sides)) for e in own
        ]  # fmt: skip
        place = _best_columns(cells, sides, above)
        if place is None:
            return False
        for element, column in zip(own, place, strict=True):
            _, _, rowspan, colspan = grid.cells[element]
            grid.cells[element] = (row, column, rowspan, colspan)
    return True


def _stand_elsewhere(grid: _Grid, spots: dict[int, tuple[float, float]], short: set[int]) -> int:
    """How many cells of one column, in rows that have as many as there are columns, have their middle among
    the texts of another column of these rows, and not among those of their own.
    """
    full = [e for e in spots if grid.cells[e][0] not in short and grid.cells[e][2:] == (1, 1)]
    column = np.array([grid.cells[e][1] for e in full])
    low, high = np.array([spots[e] for e in full]).reshape(-1, 2).T
    middle = (low + high) / 2
    own, other = np.zeros(len(full), dtype=np.int64), np.zeros(len(full), dtype=np.int64)
    for k in range(grid.columns):
        there = column == k
        held = ((low[there] < middle[:, None]) & (high[there] > middle[:, None])).sum(axis=1)
        own += held * there
        other += held * ~there
    # Each stands in its own place.
    return int(((own < 2) & (other > 0)).sum())


def _extents(
    grid: _Grid, spots: dict[int, tuple[float, float]], short: set[int]
) -> list[tuple[float, float] | None]:
    """Left and right of the text of each column, by the rows that have all cells."""
    out: list[tuple[float, float] | None] = [None] * grid.columns
    for element, (x0, x1) in spots.items():
        row, column, _, colspan = grid.cells[element]
        if row not in short and colspan == 1:
            known = out[column]
            out[column] = (min(known[0], x0), max(known[1], x1)) if known else (x0, x1)
    return out


def _ruled(
    layout: PageLayout, words: Sequence[int], width: int, extents: Sequence[tuple[float, float]]
) -> int | None:
    """The first of so many columns that a rule right below a text is over; None where none is."""
    box, em = layout.box(np.array(words)), layout.em
    for low, high in rules_below(layout, (box.x0 + box.x1) / 2, box.y1, box.y1 + em):
        over = columns_over(extents, low, high, REACH * em)
        if over and over[1] - over[0] + 1 == width:
            return over[0]
    return None


def _best_columns(
    cells: Sequence[tuple[tuple[float, float], int, int | None]],
    extents: Sequence[tuple[float, float]],
    above: set[int],
) -> list[int] | None:
    """The columns of cells in order, given by their text's extent, width in columns and the first of those
    that a rule below it is over, so that each overlaps its columns best, and of two that hold it whole is
    over what its rule is, or set at a side or over the middle of its own; None where one overlaps none.
    """
    best: dict[int, tuple[float, list[int]]] = {0: (0.0, [])}
    for (x0, x1), width, ruled in cells:
        after: dict[int, tuple[float, list[int]]] = {}
        for start, (score, place) in best.items():
            for column in range(start, len(extents) - width + 1):
                if above & set(range(column, column + width)):
                    continue
                end = column + width
                left, right = extents[column][0], extents[end - 1][1]
                # Cells end anywhere between the texts of their columns and those beside.
                low = extents[column - 1][1] if column else left
                high = extents[end][0] if end < len(extents) else right
                whole = (left, right) if width == 1 else (low, high)
                overlap = min(whole[1], x1) - max(whole[0], x0)
                if overlap <= 0:
                    continue
                middle = (x0 + x1) / 2
                off = min(
                    abs(x0 - low), abs(x0 - left), abs(x1 - right), abs(x1 - high),
                    max((low + right) / 2 - middle, middle - (left + high) / 2, 0.0),
                )  # fmt: skip
                stub = STUB * (width > 1 and column == 0)
                told = RULED * (width > 1 and column == ruled)
                gained = score + overlap / (x1 - x0) - PLACED * off / (right - left) - stub + told
                if end not in after or gained > after[end][0]:
                    after[end] = (gained, [*place, column])
        best = after
    return max(best.values())[1] if best else None


def _grid(tree: StructureTree, table: int) -> _Grid:
    """Place the cells of a table as HTML does: each in the first free column of its row."""
    cells: dict[int, tuple[int, int, int, int]] = {}
    rows: list[int] = []
    taken: set[tuple[int, int]] = set()
    columns = 0
    element = table + 1
    while element < len(tree) and tree.parents[element] >= table:
        role, parent = tree.roles[element], tree.parents[element]
        if role == "Table" or (role in _CELLS and (not rows or parent != rows[-1])):
            # What is nested in a cell is text of that cell.
            pass
        elif role == "TR" and _table_of(tree, element) == table:
            rows.append(element)
        elif role in _CELLS:
            row, column = len(rows) - 1, 0
            while (row, column) in taken:
                column += 1
            rowspan, colspan = tree.rowspans[element], tree.colspans[element]
            area = {(row + i, column + j) for i in range(rowspan) for j in range(colspan)}
            if area & taken:
                rowspan = colspan = 1
                area = {(row, column)}
            taken |= area
            cells[element] = (row, column, rowspan, colspan)
            columns = max(columns, column + colspan)
        element += 1
    for e, (row, column, rowspan, colspan) in cells.items():
        cells[e] = (row, column, min(rowspan, len(rows) - row), colspan)
    return _Grid(cells, rows, columns)


def _table_of(tree: StructureTree, element: int) -> int:
    while element >= 0 and tree.roles[element] != "Table":
        element = tree.parents[element]
    return element


def _agrees(layout: PageLayout, cells: Sequence[CellDraft]) -> bool:
    """Whether the ink of the cells stands in the order of the grid, across and down."""
    w = layout.words
    right: dict[int, list[tuple[int, float]]] = {}
    down: dict[int, float] = {}
    for c in cells:
        if c.words:
            right.setdefault(c.row, []).append(
                (c.column, float((w.x0[c.words].min() + w.x1[c.words].max()) / 2))
            )
            down[c.row] = min(down.get(c.row, np.inf), float(w.y0[c.words].min()))
    steps = [b[1] > a[1] for row in right.values() for a, b in pairwise(sorted(row))]
    steps += [down[b] > down[a] - 1 for a, b in pairwise(sorted(down))]
    return sum(steps) >= AGREEMENT * len(steps)


def _edges(layout: PageLayout, draft: TableDraft) -> list[float]:
    """Edges of the columns: half-way between their texts, as far as these are known."""
    inner, last = [], draft.box.x0
    for a, b in pairwise(text_columns(layout, draft)):
        last = (a[1] + b[0]) / 2 if a and b else last
        inner.append(last)
    return [draft.box.x0, *inner, draft.box.x1]
