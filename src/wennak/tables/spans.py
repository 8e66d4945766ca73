"""Header cells that stand over several columns or rows, told by how they are centred."""

from __future__ import annotations

import functools

from ..layout import PageLayout
from .draft import CellDraft, TableDraft, text_columns

# A header cell is over a group of columns when its middle is this near (em) to theirs ...
CENTRED = 0.7
# ... but it may stand anywhere over its own column; that costs at most this much.
OFF_CENTRE = 0.9
# What it costs to leave a column without a header cell, other than the first.
UNCOVERED = 0.5
# A header cell set this far (em) from the middle of its row towards an empty neighbour spans both.
OFF_ROW = 0.3


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

    def off_centre(k: int, a: int, b: int) -> float:
        left, right = extents[a], extents[b]
        return abs(middles[k] - (left[0] + right[1]) / 2) / layout.em if left and right else 1e6

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
