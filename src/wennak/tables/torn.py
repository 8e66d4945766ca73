"""Rows of which a part was cut off: by the edge of a zone, as in a wide table right above the columns of a
page, or where turned labels stand beside the name of the table; or the rest of the cells of the last one.
"""

from __future__ import annotations

import numpy as np

from ..ink import Bools
from ..layout import PageLayout
from ..model import Box
from .draft import CellDraft, TableDraft, goes_on, plain_text
from .rows import rows_of

# Lines of a cell begin within this (em), and follow each other within so much; so much is looked at below.
SAME, CLOSE, LINES = 0.3, 0.6, 8.0


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


def add_rest(layout: PageLayout, draft: TableDraft, free: Bools) -> None:
    """Put the `free` lines right below a table that go on with cells of its last row into these: they begin
    with them, in small letters, and not in the first column alone.
    """
    if len(draft.column_edges) != draft.columns + 1:
        return
    w, em, box = layout.words, layout.em, draft.box
    last = {c.column: c for c in draft.cells if c.row == draft.rows - 1 and c.words and c.rowspan == 1}
    below = free & ~w.turned & (w.y0 > box.y1 - SAME * em) & (w.y0 < box.y1 + LINES * em)
    cuts = np.array(draft.column_edges[1:-1])
    found: dict[int, list[int]] = {}
    foot = box.y1
    for line in rows_of(layout, np.flatnonzero(below & (w.x1 > box.x0) & (w.x0 < box.x1))):
        columns = np.searchsorted(cuts, w.x0[line.words]).tolist()
        across = columns != np.searchsorted(cuts, w.x1[line.words]).tolist()
        if across or line.y0 - foot > CLOSE * em or not last.keys() >= set(columns):
            break
        own: dict[int, list[int]] = {}
        for column, word in zip(columns, line.words, strict=True):
            own.setdefault(column, []).append(word)
        if not all(_goes_on(layout, last[c], words, c in found) for c, words in own.items()):
            break
        for column, words in own.items():
            found.setdefault(column, []).extend(words)
        foot = line.y1
    if found.keys() - {0}:
        for column, words in found.items():
            last[column].words = [*last[column].words, *words]
        draft.box = Box.around([box, layout.box(draft.word_indices())])


def _goes_on(layout: PageLayout, cell: CellDraft, words: list[int], further: bool) -> bool:
    """Whether a line below a cell begins where that does, and goes on with its text."""
    w = layout.words
    begins = abs(float(w.x0[words].min() - w.x0[cell.words].min())) < SAME * layout.em
    return begins and (further or goes_on(plain_text(layout, cell.words), plain_text(layout, words)))
