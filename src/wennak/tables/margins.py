"""Which words may stand in tables."""

from __future__ import annotations

import re

import numpy as np

from ..ink import Bools, Ints
from ..layout import PageLayout
from .lookalikes import lookalikes

# Pieces of brackets over several lines: what they hold is a matrix.
BRACKETS = frozenset(map(chr, range(0x239B, 0x23AE)))
# Running heads stand in this share of the page at either end, set off from the text by this (em).
MARGIN = 0.12
MARGIN_GAP = 1.6
# A rule along more than this share of the page is that of a frame around it.
FRAME = 0.85
# So many lines at an end of the page tell how far apart rows are; distances are the same within this (em).
NEAR = 6
SAME_PITCH = 0.15
# A blank is narrower than this (em): a label and its value stand farther apart.
BLANK = 0.6

# A number between marks, after a word, before how many there are.
_NUMBERED = re.compile(r"(?:[^\W\d]+\.?\s)?[-–—|]?\s?(\d+)(?:\s?(?:/|[^\W\d]+)\s?\d+)?\s?[-–—|]?")


def free_words(layout: PageLayout) -> Bools:
    """Return which words may stand in tables: those that `loose_words` gives, but for running heads and
    feet.
    """
    return loose_words(layout) & ~margin_words(layout)


def loose_words(layout: PageLayout) -> Bools:
    """Return all words but those of texts that only look like tables, of notes in the margin, of
    programs, of what tall brackets hold, of charts, and of fields of forms, told by a box to be checked or a
    label with a colon.
    """
    free = np.ones(len(layout.words), dtype=np.bool_)
    for drawing in layout.drawings:
        if drawing.scale:
            free[layout.words.inside(drawing.box)] = False
    free &= ~(lookalikes(layout) | layout.side_notes)
    for listing in layout.listings:
        free[listing] = False
    texts = layout.words.texts
    for area in layout.fields:
        if area.checked is not None or (len(area.label) and texts[area.label[-1]][-1] == ":"):
            free[area.words] = False
    brackets = [i for i in np.flatnonzero(free).tolist() if BRACKETS.issuperset(texts[i])]
    if brackets:
        w, zone = layout.words, layout.zone_of()
        for i in brackets:
            free &= ~((w.y0 < w.y1[i]) & (w.y1 > w.y0[i]) & (zone == zone[i]))
    return free


def margin_words(layout: PageLayout) -> Bools:
    """Return which words belong to a running head or foot."""
    w = layout.words
    out = np.zeros(len(w), dtype=np.bool_)
    upright = np.flatnonzero(~w.turned)
    starts = np.flatnonzero(np.diff(w.row[upright], prepend=-1))
    if len(starts) < 4:
        return out
    ends = np.append(starts[1:], len(upright))
    numbers = range(len(starts))
    for at_top, ends_at in ((True, numbers[:NEAR]), (False, numbers[::-1][:NEAR])):
        near = [upright[starts[k] : ends[k]] for k in ends_at]
        row, beside = near[:2]
        top, bottom = float(w.y0[row].min()), float(w.y1[row].max())
        at_edge = bottom < MARGIN * layout.height if at_top else top > (1 - MARGIN) * layout.height
        if at_edge and is_page_number(layout, row):
            out[row] = True
            continue
        gap = max(float(w.y0[beside].min()) - bottom, top - float(w.y1[beside].max()))
        # A row as far from the next as that from the one after it belongs with them, and one as far from it
        # as others are, where it stands in columns with these.
        pitches = np.abs(np.diff([float(w.baseline[k[0]]) for k in near]))
        same = np.abs(pitches[1:] - pitches[0]) < SAME_PITCH * layout.em
        if same[0] or (same.any() and any(_in_columns(layout, row, k) for k in near[1:])):
            continue
        out[row] = at_edge and gap > MARGIN_GAP * layout.em and not _share_a_rule(layout, row, beside)
    return out


def _in_columns(layout: PageLayout, row: Ints, other: Ints) -> bool:
    """Whether all words of a line, two or more, begin or end where words of another do."""
    w, near = layout.words, BLANK / 4 * layout.em
    met = [(np.abs(side[row][:, None] - side[other][None, :]) < near).any(axis=1) for side in (w.x0, w.x1)]
    return len(row) > 1 and bool((met[0] | met[1]).all())


def _share_a_rule(layout: PageLayout, row: Ints, beside: Ints) -> bool:
    """Whether an upright rule stands beside two lines, one of a table and none of a frame around the page."""
    w, upright = layout.words, layout.rules.upright
    middles = [float((w.y0[k] + w.y1[k]).mean() / 2) for k in (row, beside)]
    along = (upright.low < min(middles)) & (upright.high > max(middles))
    return bool((along & (upright.high - upright.low < FRAME * layout.height)).any())


def is_page_number(layout: PageLayout, row: Ints) -> bool:
    """Return whether some words of a line say nothing but the number of their page, with blanks between."""
    w = layout.words
    found = _NUMBERED.fullmatch(" ".join(w.texts[i] for i in row.tolist()))
    blank = (w.x0[row[1:]] - w.x1[row[:-1]] < BLANK * w.size[row[1:]]).all()
    return found is not None and int(found[1]) == layout.number and bool(blank)
