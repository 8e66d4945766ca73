"""The methods that read by evidence: many readings of each place, the best set of them kept.

`combined` looks at everything; `ruled` at what crossing lines draw alone; `spaced` at white space, level
rules and shading.
"""

from __future__ import annotations

import numpy as np

from ..ink import Bools
from ..layout import PageLayout
from .choose import alternatives, choose, in_one, judged_draft, with_columns_beside
from .draft import TableDraft
from .finish import finish
from .heads import add_heads
from .judge import judge_of
from .margins import loose_words, margin_words
from .notes import add_note
from .same_heads import with_same_heads
from .search import Sources, search
from .sides import read_sides
from .stubs import add_stub
from .tagged import read_tagged
from .torn import add_rest, add_torn
from .unruled import with_shown_head_apart


def read_combined(layout: PageLayout) -> list[TableDraft]:
    """Return the tables of a page: those that trusted tags name, and the best readings of the rest."""
    tagged = read_tagged(layout)
    free = np.ones(len(layout.words), dtype=np.bool_)
    for draft in tagged:
        free[draft.word_indices()] = False
    if tagged:
        _keep_alternatives(layout, tagged, _read(layout, ~free, Sources()))
    return [*tagged, *_read(layout, free, Sources())]


def _keep_alternatives(layout: PageLayout, tagged: list[TableDraft], others: list[TableDraft]) -> None:
    """Put each reading of the ink beside the tagged table that holds most of its words."""
    owner = np.full(len(layout.words), len(tagged))
    for k, draft in enumerate(tagged):
        owner[draft.word_indices()] = k
    for other in others:
        k = int(np.bincount(owner[other.word_indices()]).argmax())
        if k < len(tagged):
            other.alternatives = []
            tagged[k].alternatives.append(other)


def read_ruled(layout: PageLayout) -> list[TableDraft]:
    """Return the tables that crossing ruling lines draw."""
    return _read(layout, np.ones(len(layout.words), dtype=np.bool_), Sources(spaces=False))


def read_spaced(layout: PageLayout) -> list[TableDraft]:
    """Return the tables that white space draws, with or without level rules and shading."""
    return _read(layout, np.ones(len(layout.words), dtype=np.bool_), Sources(lattices=False, uprights=False))


def _read(layout: PageLayout, free: Bools, sources: Sources) -> list[TableDraft]:
    loose = free & loose_words(layout)
    margin = loose & margin_words(layout)
    free = loose & ~margin
    readings = search(layout, free, judge_of(layout), sources)
    out = []
    chosen = in_one(with_columns_beside(choose(readings), readings), readings)
    for reading in with_same_heads(layout, chosen, readings):
        if sides := read_sides(layout, reading, free):
            out += sides
            continue
        judged = with_shown_head_apart(layout, judged_draft(reading, readings, len(layout.words)))
        draft = finish(layout, judged, reading.place.lines)
        draft.alternatives = [
            finish(layout, other.draft(), other.place.lines) for other in alternatives(reading, readings)
        ]
        out.append(draft)
    for draft in out:
        free[draft.word_indices()] = False
    for draft in out:
        add_stub(layout, draft, free)
        add_torn(layout, draft, free)
        add_rest(layout, draft, free)
        free[draft.word_indices()] = False
    for draft in out:
        add_heads(layout, draft, free, margin)
        add_note(layout, draft, free)
        free[draft.word_indices()] = margin[draft.word_indices()] = False
    return out
