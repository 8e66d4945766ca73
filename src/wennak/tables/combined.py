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

    What a method later in this order reads at the place of a table is kept beside it, unless lines draw its
    every cell.
    """
    taken = np.zeros(len(layout.words), dtype=np.bool_)
    tagged = read_tagged(layout)
    for draft in tagged:
        taken[draft.word_indices()] = True
    ruled: list[TableDraft] = []
    others: list[TableDraft] = []
    for draft in _outermost(read_ruled(layout)):
        (others if taken[draft.word_indices()].any() else ruled).append(draft)
    judged = taken.copy()
    for draft in ruled:
        inside = words_inside(layout, draft.box)
        taken[inside] = True
        judged[inside] |= not draft.drawn
    if judged.any():
        _keep_alternatives(layout, [*tagged, *ruled], [*others, *read_spaced_outside(layout, ~judged)])
    return [*tagged, *ruled, *read_spaced_outside(layout, taken)]


def _keep_alternatives(layout: PageLayout, found: list[TableDraft], others: list[TableDraft]) -> None:
    """Put each of the other readings beside the table that holds most of its words."""
    owner = np.full(len(layout.words), len(found))
    for k, draft in enumerate(found):
        owner[draft.word_indices()] = k
    for other in others:
        k = int(np.bincount(owner[other.word_indices()]).argmax())
        if k < len(found):
            found[k].alternatives.append(other)


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
