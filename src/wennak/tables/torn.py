"""Rows of which the edge of a zone cut off a part, as in a wide table right above the columns of a page, or
where turned labels stand beside the name of the table.
"""

from __future__ import annotations

import numpy as np

from ..ink import Bools
from ..layout import PageLayout
from .draft import CellDraft, TableDraft


def add_torn(layout: PageLayout, draft: TableDraft, free: Bools) -> None:
    """Put the `free` words that stand level with the words of a row, in a column that is empty there, into a
    table.
    """
    if len(draft.column_edges) != draft.columns + 1:
        return
    w = layout.words
    left, *cuts, right = draft.column_edges
    inside = free & np.isin(w.row, w.row[draft.word_indices()]) & (w.x0 > left) & (w.x1 < right)
    if not inside.any():
        return
    single = [c for c in draft.cells if c.words and c.rowspan == 1]
    row_of = {row: c.row for c in single for row in w.row[c.words].tolist()}
    found: dict[tuple[int, int], list[int]] = {}
    for i in np.flatnonzero(inside & np.isin(w.row, list(row_of))).tolist():
        column = int(np.searchsorted(cuts, w.x0[i]))
        if column != int(np.searchsorted(cuts, w.x1[i])):
            return
        found.setdefault((row_of[int(w.row[i])], column), []).append(i)
    there = {
        (c.row + i, c.column + j): c for c in draft.cells for i in range(c.rowspan) for j in range(c.colspan)
    }
    empty = CellDraft(0, 0, 1, 1, [])
    if any((c := there.get(at, empty)).words or c.rowspan * c.colspan > 1 for at in found):
        return
    kept = [c for c in draft.cells if (c.row, c.column) not in found]
    draft.cells = sorted(
        [*kept, *(CellDraft(*at, 1, 1, words) for at, words in found.items())],
        key=lambda c: (c.row, c.column),
    )
