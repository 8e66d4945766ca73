"""Labels of rows that stand left of a grid, outside its lines."""

from __future__ import annotations

import numpy as np

from ..ink import Bools
from ..layout import PageLayout
from ..model import Box
from .draft import CellDraft, TableDraft, row_extents

# Labels begin below each other within this (em), and stand level with the first lines of their rows within so
# much; of the rows, and of the labels, this share does.
SAME, LEVEL, MOST = 0.3, 0.6, 0.8
# They have no more words than this each, and stand no farther (em) left of the grid.
WORDS, REACH = 8, 16.0


def add_stub(layout: PageLayout, draft: TableDraft, free: Bools) -> None:
    """Put the `free` words left of a grid, if nothing else stands there, into a first column of it: they
    begin at one place, most rows have some, and the first line of these is level with that of the row.
    """
    if not draft.drawn or draft.rows < 2 or len(draft.column_edges) != draft.columns + 1:
        return
    w, em, box = layout.words, layout.em, draft.box
    middle = (w.y0 + w.y1) / 2
    left = (w.x1 < box.x0 + SAME * em) & (middle > box.y0) & (middle < box.y1)
    if not left.any() or not (free & ~w.turned)[left].all():
        return
    tops = row_extents(layout, draft)[0]
    if not np.isfinite(tops).all():
        return
    words = np.flatnonzero(left)
    row = np.searchsorted(tops - LEVEL * em, w.y0[words], "right") - 1
    labels = [words[row == r] for r in range(draft.rows)]
    held = [(top, own) for top, own in zip(tops.tolist(), labels, strict=True) if len(own)]
    begin = float(w.x0[words].min())
    level = sum(abs(float(w.y0[own].min()) - top) < LEVEL * em for top, own in held)
    begins = sum(float(w.x0[own].min()) - begin < SAME * em for _, own in held)
    if (
        row.min() < 0
        or begin < box.x0 - REACH * em
        or len(held) < max(2, MOST * draft.rows)
        or min(level, begins) < MOST * len(held)
        or max(len(own) for _, own in held) > WORDS
    ):
        return
    stub = [CellDraft(r, 0, 1, 1, own.tolist()) for r, own in enumerate(labels) if len(own)]
    for cell in draft.cells:
        cell.column += 1
    draft.cells = sorted([*draft.cells, *stub], key=lambda c: (c.row, c.column))
    draft.columns += 1
    draft.column_edges = [begin, *draft.column_edges]
    draft.box = Box.around([box, layout.box(words)])
