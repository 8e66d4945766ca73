"""Captions of tables: the lines right above or below that name them."""

from __future__ import annotations

import re

import numpy as np

from ..layout import PageLayout
from .draft import TableDraft
from .strips import rows_of

_NAMED = re.compile(
    r"^(table|tab\.|tableau|tabelle|tabla|tabela|tabella|tabel|taulukko|tabell|таблица|πίνακας|exhibit|表)\s*"
    r"([\dIVXA-Z]|$)",
    re.I,
)
# A caption stands at most this far (em) from its table and runs over at most so many lines.
REACH = 3.0
MAX_LINES = 4


def attach_captions(layout: PageLayout, drafts: list[TableDraft]) -> None:
    """Find the caption of each table among the words that are in no table."""
    taken = np.zeros(len(layout.words), dtype=np.bool_)
    for draft in drafts:
        taken[draft.word_indices()] = True
    for draft in drafts:
        for above in (True, False):
            found = _caption(layout, draft, taken, above)
            if found:
                draft.caption = found
                taken[found] = True
                break


def _caption(layout: PageLayout, draft: TableDraft, taken: np.ndarray, above: bool) -> list[int]:
    w, em, box = layout.words, layout.em, draft.box
    middle = (w.y0 + w.y1) / 2
    span = MAX_LINES * 1.5 * em + REACH * em
    near = (
        (middle > box.y0 - span) & (middle < box.y0)
        if above
        else (middle > box.y1) & (middle < box.y1 + span)
    )
    beside = (w.x1 > box.x0 - 2 * em) & (w.x0 < box.x1 + 2 * em)
    rows = rows_of(layout, np.flatnonzero(near & beside & ~w.turned))
    if above:
        rows = rows[::-1]
    found: list[list[int]] = []
    edge = box.y0 if above else box.y1
    for row in rows[:MAX_LINES]:
        gap = edge - row.y1 if above else row.y0 - edge
        limit = REACH if not found else 1.0
        if gap > limit * em or taken[row.words].any():
            break
        found.append(row.words)
        edge = row.y0 if above else row.y1
        named = bool(_NAMED.match(" ".join(w.texts[i] for i in row.words)))
        if above and named:
            return [i for words in reversed(found) for i in words]
        if not above and len(found) == 1 and not named:
            return []
    return [i for words in found for i in words] if found and not above else []
