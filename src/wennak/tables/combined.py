"""The method `combined`: every reading that applies, the best kept for each place."""

from __future__ import annotations

import numpy as np

from ..layout import PageLayout
from .draft import TableDraft
from .regions import words_inside
from .ruled import read_ruled
from .spaced import read_spaced_outside
from .tagged import read_tagged


def read_combined(layout: PageLayout) -> list[TableDraft]:
    """Return the tables of a page: those that trusted tags name; where there are none, ruled ones first, then
    what white space draws in the rest.
    """
    taken = np.zeros(len(layout.words), dtype=np.bool_)
    tagged = read_tagged(layout)
    for draft in tagged:
        taken[draft.word_indices()] = True
    drafts = [d for d in _outermost(read_ruled(layout)) if not taken[d.word_indices()].any()]
    for draft in drafts:
        taken[words_inside(layout, draft.box)] = True
    return tagged + drafts + read_spaced_outside(layout, taken)


def _outermost(drafts: list[TableDraft]) -> list[TableDraft]:
    """Drop tables that lie inside another one."""
    keep = []
    for d in drafts:
        b = d.box
        inside = any(
            o is not d and o.box.x0 - 1 <= b.x0 and o.box.y0 - 1 <= b.y0 and o.box.x1 + 1 >= b.x1
            and o.box.y1 + 1 >= b.y1
            for o in drafts
        )  # fmt: skip
        if not inside:
            keep.append(d)
    return keep
