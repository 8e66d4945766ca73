"""Cells that stand over several columns or rows: told by lines that break off, by rules below heads, by how
their text is centred.
"""

from __future__ import annotations

import functools
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..ink import Floats
from ..layout import PageLayout
from .draft import CellDraft, TableDraft, cells_by_row, plain_text, text_columns
from .numbers import is_numeric
from .walls import Walls, find_walls

# A header cell is over a group of columns when its middle is this near (em) to theirs ...
CENTRED = 0.7
# ... but it may stand anywhere over its own column; that costs at most this much.
OFF_CENTRE = 0.9
# What it costs to leave a column without a header cell, other than the first.
UNCOVERED = 0.5
# A header cell set this far (em) from the middle of its row towards an empty neighbour spans both.
OFF_ROW = 0.3
# A label at mid height of its rows is this near (em) to the middle of them.
MID_HEIGHT = 0.35
# One off the lines beside it by this (em) belongs to several rows.
OFF_LINE = 0.2
# A label alone in its row is set this far (em) from the left edge of its column to be centred over all.
OFF_LEFT = 0.7
# Columns are parted by upright lines where these stand beside this share of the rows.
PARTED = 0.5


@dataclass(slots=True)
class _Label:
    """Cells of one column that make one label: its top and bottom, and whether it is off the lines beside
    it.
    """

    cells: list[CellDraft]
    y0: float
    y1: float
    floating: bool


def spread_cells(layout: PageLayout, draft: TableDraft) -> None:
    """Let cells span the empty places around them that the page shows to be theirs."""
    if draft.drawn or not draft.cells:
        return
    _off_the_stub(layout, draft)
    spread_headers(layout, draft)
    walls = find_walls(layout, draft)
    if walls is None:
        return
    if len(layout.rules.level):
        _under_heads(layout, draft, walls)
    for column in (*range(min(3, draft.columns - 1)), draft.columns - 1):
        _at_mid_height(layout, draft, column)
    if len(layout.rules.level):
        _where_level_lines_break(layout, draft, walls)
    if len(layout.rules.upright):
        _where_upright_lines_break(draft, walls)
    _centred_labels(layout, draft, walls)


def _off_the_stub(layout: PageLayout, draft: TableDraft) -> None:
    """A header that is wider than its column, and so runs out of it over the first one, is still its own: it
    ends where that does, or is set over its middle.
    """
    columns = text_columns(layout, draft, draft.header_rows)[:2]
    first, second = columns if len(columns) == 2 else (None, None)
    if first is None or second is None:
        return
    w, em = layout.words, layout.em
    for cell in draft.cells:
        if cell.words and cell.row < draft.header_rows and (cell.column, cell.colspan) == (0, 2):
            x0, x1 = float(w.x0[cell.words].min()), float(w.x1[cell.words].max())
            own = min(abs(x1 - second[1]), abs(x0 + x1 - second[0] - second[1]) / 2) < CENTRED * em
            both = abs(x0 + x1 - first[0] - second[1]) / 2 < CENTRED * em
            if own and not both and x0 > first[0] + OFF_LEFT * em:
                cell.column, cell.colspan = 1, 1


def _by_place(draft: TableDraft) -> dict[tuple[int, int], CellDraft]:
    """The cell with text that covers each place."""
    return {
        (r, c): cell
        for cell in draft.cells
        if cell.words
        for r in range(cell.row, cell.row + cell.rowspan)
        for c in range(cell.column, cell.column + cell.colspan)
    }


def _where_level_lines_break(layout: PageLayout, draft: TableDraft, walls: Walls) -> None:
    """Below the header, a column that a line between rows leaves out goes on in the next row; numbers do
    not.
    """
    held = _by_place(draft)
    open_ = walls.level.any(axis=1, keepdims=True) & ~walls.level
    open_[: draft.header_rows] = False
    for c in range(draft.columns):
        r = 0
        while r < draft.rows - 1:
            end = r
            while end < draft.rows - 1 and open_[end, c]:
                end += 1
            cells = {id(x): x for k in range(r, end + 1) if (x := held.get((k, c)))}
            if end > r and len(cells) == 1:
                (cell,) = cells.values()
                plain = cell.colspan == 1 and cell.rowspan == 1
                if plain and not any(ch.isdigit() for ch in plain_text(layout, cell.words)):
                    cell.row, cell.rowspan = r, end - r + 1
            r = end + 1


def _where_upright_lines_break(draft: TableDraft, walls: Walls) -> None:
    """A row that lines between columns leave out has one cell there."""
    held = _by_place(draft)
    parted = walls.upright.mean(axis=0) >= PARTED
    for r in range(draft.rows):
        c = 0
        while c < draft.columns - 1:
            end = c
            while end < draft.columns - 1 and parted[end] and not walls.upright[r, end]:
                end += 1
            cells = {id(x): x for k in range(c, end + 1) if (x := held.get((r, k)))}
            if end > c and len(cells) == 1:
                (cell,) = cells.values()
                if cell.rowspan == 1 and cell.column >= c and cell.column + cell.colspan <= end + 1:
                    cell.column, cell.colspan = c, end - c + 1
            c = end + 1


def _under_heads(layout: PageLayout, draft: TableDraft, walls: Walls) -> None:
    """A rule below a cell of the header, over some columns and no others, tells what it spans."""
    level, em, w = layout.rules.level, layout.em, layout.words
    for cell in [c for c in draft.cells if c.row < draft.header_rows - 1 and c.words]:
        bottom = float(w.y1[cell.words].max())
        r = cell.row + cell.rowspan - 1
        near = (level.at > bottom - 0.3 * em) & (level.at < walls.top[r + 1] + 0.3 * em)
        middle = (float(w.x0[cell.words].min()) + float(w.x1[cell.words].max())) / 2
        for k in np.flatnonzero(near & (level.low < middle) & (level.high > middle)).tolist():
            low, high = float(level.low[k]), float(level.high[k])
            over = np.flatnonzero((walls.left > low - 0.6 * em) & (walls.right < high + 0.6 * em)).tolist()
            if not 0 < len(over) < draft.columns:
                continue
            first, last = over[0], over[-1]
            others = any(
                c is not cell and c.words and c.row <= r < c.row + c.rowspan and c.column <= last
                and c.column + c.colspan > first
                for c in draft.cells
            )  # fmt: skip
            if not others and first <= cell.column + cell.colspan - 1 and cell.column <= last:
                cell.column, cell.colspan = first, last - first + 1
                break


def _centred_labels(layout: PageLayout, draft: TableDraft, walls: Walls) -> None:
    """A label alone in its row and set over the middle of the table heads all columns."""
    w, em = layout.words, layout.em
    middle = (float(walls.left[0]) + float(walls.right[-1])) / 2
    covered = {r for c in draft.cells if c.rowspan > 1 for r in range(c.row, c.row + c.rowspan)}
    for r, cells in cells_by_row(draft).items():
        if len(cells) != 1 or r in covered or r < draft.header_rows:
            continue
        x0, x1 = float(w.x0[cells[0].words].min()), float(w.x1[cells[0].words].max())
        if abs((x0 + x1) / 2 - middle) < CENTRED * em and x0 > walls.left[0] + OFF_LEFT * em:
            cells[0].column, cells[0].colspan = 0, draft.columns


def _at_mid_height(layout: PageLayout, draft: TableDraft, column: int) -> None:
    """Labels of a column that all stand at mid height of the rows up to the next one span these rows."""
    w, em = layout.words, layout.em
    own = [c for c in draft.cells if c.column == column and c.words and c.row >= draft.header_rows]
    own.sort(key=lambda c: c.row)
    if not 1 < len(own) < draft.rows - draft.header_rows or any(c.rowspan > 1 or c.colspan > 1 for c in own):
        return
    # The heights of rows are those of columns with more cells.
    cells = [c for c in draft.cells if c.words and c.rowspan == 1 and c.colspan == 1]
    count = Counter(c.column for c in cells if c.row >= draft.header_rows)
    top, bottom = np.full(draft.rows, np.inf), np.full(draft.rows, -np.inf)
    for c in cells:
        if count[c.column] > len(own):
            top[c.row] = min(top[c.row], float(w.y0[c.words].min()))
            bottom[c.row] = max(bottom[c.row], float(w.y1[c.words].max()))
    labels: list[_Label] = []
    for c in own:
        y0, y1 = float(w.y0[c.words].min()), float(w.y1[c.words].max())
        if not np.isfinite(top[c.row]):
            top[c.row], bottom[c.row] = y0, y1
        floating = abs(y0 + y1 - top[c.row] - bottom[c.row]) / 2 > OFF_LINE * em
        last = labels[-1] if labels else None
        if (
            last
            and floating
            and last.floating
            and y0 - last.y1 < OFF_LINE * em
            and c.row == last.cells[-1].row + 1
        ):
            labels[-1] = _Label([*last.cells, c], last.y0, y1, True)
        else:
            labels.append(_Label([c], y0, y1, floating))
    begin, found = draft.header_rows, []
    for k, label in enumerate(labels):
        first = label.cells[0].row
        last_row = labels[k + 1].cells[0].row if k + 1 < len(labels) else draft.rows - 1
        if first < begin or not np.isfinite(top[begin]):
            return
        ends = [e for e in range(label.cells[-1].row, max(last_row, first) + 1) if np.isfinite(bottom[e])]
        off = [abs((top[begin] + bottom[e]) / 2 - (label.y0 + label.y1) / 2) for e in ends]
        at = int(np.argmin(off)) if off else 0
        if not off or off[at] > MID_HEIGHT * em:
            return
        found.append((label, begin, ends[at] - begin + 1))
        begin = ends[at] + 1
    # A number that stands on the line of a row is that row's, and of no other.
    several = [label for label, _, height in found if height > 1 and not label.floating]
    own_line = any(_counts(layout, label.cells[0]) for label in several)
    told = any(label.floating for label in labels) and not own_line
    if begin != draft.rows or not (told or _ruled_apart(layout, found, top, bottom)):
        return
    for label, row, height in found:
        cell = label.cells[0]
        cell.row, cell.rowspan = row, height
        cell.words = [i for c in label.cells for i in c.words]
        for more in label.cells[1:]:
            draft.cells.remove(more)


def _counts(layout: PageLayout, cell: CellDraft) -> bool:
    """Whether a cell holds a number."""
    text = plain_text(layout, cell.words)
    return is_numeric(text) and any(c.isdigit() for c in text)


def _ruled_apart(
    layout: PageLayout, groups: Sequence[tuple[_Label, int, int]], top: Floats, bottom: Floats
) -> bool:
    """Whether level rules run between all groups of rows, and beside no label within one: labels on a line of
    their own do not tell whether they stand at mid height.
    """
    w, level, reach = layout.words, layout.rules.level, OFF_LINE * layout.em
    for label, first, height in groups:
        x0, x1 = (float(f(side[label.cells[0].words])) for f, side in ((np.min, w.x0), (np.max, w.x1)))
        over = level.at[(level.low < x1) & (level.high > x0)]
        for row in range(max(first, groups[0][1] + 1), first + height):
            ruled = bool(((over > bottom[row - 1] - reach) & (over < top[row] + reach)).any())
            if ruled != (row == first):
                return False
    return True


def spread_headers(layout: PageLayout, draft: TableDraft) -> None:
    """Let header cells span the empty columns and rows that they are centred over.

    Only rows above the last header row can hold cells over several columns.
    """
    if draft.header_rows < 2:
        return
    # Of the text below the topmost header rows.
    extents = text_columns(layout, draft, draft.header_rows - 1)
    for r in range(draft.header_rows - 1):
        _over_columns(layout, draft, r, extents)
    for cell in [c for c in draft.cells if c.row < draft.header_rows and c.rowspan == 1 and c.words]:
        _over_rows(layout, draft, cell)


def _over_columns(
    layout: PageLayout, draft: TableDraft, r: int, extents: list[tuple[float, float] | None]
) -> None:
    """Share the columns out among the cells of a header row so that all are centred best together."""
    row = sorted(
        (c for c in draft.cells if c.row <= r < c.row + c.rowspan and c.words), key=lambda c: c.column
    )
    if not row or len(row) == draft.columns:
        return
    w = layout.words
    middles = [(float(w.x0[c.words].min()) + float(w.x1[c.words].max())) / 2 for c in row]
    edges = draft.column_edges

    def off_centre(k: int, a: int, b: int) -> float:
        left, right = extents[a], extents[b]
        if not (left and right):
            return 1e6
        by_text, by_edges = (left[0] + right[1]) / 2, (edges[a] + edges[b + 1]) / 2
        return min(abs(middles[k] - by_text), abs(middles[k] - by_edges)) / layout.em

    @functools.cache
    def best(k: int, a: int) -> tuple[float, tuple[tuple[int, int], ...]]:
        """Least cost, and groups, for the cells from k on in the columns from a on."""
        if k == len(row):
            return UNCOVERED * (draft.columns - a), ()
        own = (row[k].column, row[k].column + row[k].colspan - 1)
        found = (1e9, ((0, 0),) * (len(row) - k))
        for first in range(a, own[0] + 1):
            skipped = sum(UNCOVERED for column in range(a, first) if column)
            for last in range(own[1], draft.columns):
                error = off_centre(k, first, last)
                cost = min(error, OFF_CENTRE) if (first, last) == own else error if error < CENTRED else 1e6
                rest, groups = best(k + 1, last + 1) if last + 1 <= draft.columns else (1e9, ())
                total = skipped + cost + rest
                if total < found[0]:
                    found = (total, ((first, last), *groups))
        return found

    cost, groups = best(0, 0)
    if cost < 1e5:
        for cell, (first, last) in zip(row, groups, strict=True):
            if cell.row == r and cell.rowspan == 1:
                cell.column, cell.colspan = first, last - first + 1


def _over_rows(layout: PageLayout, draft: TableDraft, cell: CellDraft) -> None:
    w, em = layout.words, layout.em
    middle = (float(w.y0[cell.words].min()) + float(w.y1[cell.words].max())) / 2
    others = [
        i for c in draft.cells if c.row == cell.row and c.rowspan == 1 and c is not cell for i in c.words
    ]
    if not others:
        return
    own = (float(w.y0[others].min()) + float(w.y1[others].max())) / 2
    step = 1 if middle > own + OFF_ROW * em else -1 if middle < own - OFF_ROW * em else 0
    neighbour = cell.row + step
    if not step or not 0 <= neighbour < draft.header_rows:
        return
    columns = range(cell.column, cell.column + cell.colspan)
    taken = any(
        c.row <= neighbour < c.row + c.rowspan and any(c.column <= k < c.column + c.colspan for k in columns)
        for c in draft.cells
    )
    if not taken:
        cell.row, cell.rowspan = min(cell.row, neighbour), 2
