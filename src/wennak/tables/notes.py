"""Notes inside the closing rule of a table: a last row over all columns."""

from __future__ import annotations

from itertools import pairwise

import numpy as np

from ..ink import Bools
from ..layout import PageLayout
from ..model import Box
from .areas import words_inside
from .caption import names_table
from .draft import CellDraft, TableDraft, plain_text
from .rows import rows_of

# Text stands so near (em) to the rules above and below it; both end at the same places within so much, and it
# begins farther than that from their left ends: what stands outside begins with the rules.
NEAR, SAME_END = 1.2, 0.3
# The lines of a note are as large as each other within this (em).
SAME_SIZE = 0.1
# A note has at most so many lines.
LINES = 6


def add_note(layout: PageLayout, draft: TableDraft, free: Bools) -> None:
    """Make the text between the rule that ends a table and a like one below it a row of that table, where it
    is among the `free` words of its page and names no other.
    """
    em, box, level, w = layout.em, draft.box, layout.rules.level, layout.words
    own = draft.word_indices()
    # No rule through the last row, or above it, ends the table.
    last = float(((w.y0 + w.y1) / 2)[own].max())
    across = (level.low < box.x0 + em) & (level.high > box.x1 - em) & (level.at > last)
    found = np.flatnonzero(across)
    if len(found) < 2:
        return
    end, foot = found[np.argsort(level.at[found], kind="stable")[:2]].tolist()
    apart = max(abs(level.low[end] - level.low[foot]), abs(level.high[end] - level.high[foot]))
    if apart > SAME_END * em or level.at[end] > box.y1 + NEAR * em:
        return
    inside = Box(float(level.low[end]), float(level.at[end]), float(level.high[end]), float(level.at[foot]))
    members = words_inside(layout, inside)
    lines = rows_of(layout, members)
    if not 0 < len(lines) <= LINES or not free[members].all() or any(len(line.spans) > 1 for line in lines):
        return
    begins = lines[0].x0
    if abs(begins - layout.box(own).x0) > SAME_END * em and begins < inside.x0 + SAME_END * em:
        return
    # From rule to line, from line to line, and to the rule below.
    edges = [inside.y0, *(y for line in lines for y in (line.y0, line.y1)), inside.y1]
    words = [i for line in lines for i in line.words]
    if np.ptp([w.size[line.words].max() for line in lines]) > SAME_SIZE * em:
        # A heading, or text that follows the note.
        return
    if max(b - a for a, b in list(pairwise(edges))[::2]) > NEAR * em or names_table(
        plain_text(layout, words)
    ):
        return
    draft.cells = [*draft.cells, CellDraft(draft.rows, 0, 1, draft.columns, words)]
    draft.rows += 1
    draft.box = Box.around([box, layout.box(members)])
