"""Programs in fixed pitch whose comments, assigned values or numbers of lines stand in a column: read line by
line, and no table.
"""

from __future__ import annotations

import numpy as np

from ..ink import Ints
from .page import PageLayout
from .parted import SPAN_GAP, text_spans

# So many lines with a comment or a value behind what they say, if half of all are such, are a program; and so
# many that are numbered one by one, and say what they say without a gap, if more than half are.
LEAST = 3
# Lines of one program follow each other within this (em), and what is farther behind one is not of it.
ROOM, ASIDE = 2.0, 2.5
# Numbers of lines that are smaller are less than this of the size of the lines.
SMALLER = 0.9
# What a comment or a value that is assigned begins with, alone or right before its first word.
SIGNS = ("/*", "//", "#", "--", "%", ";", "=", ":=")


def find_listings(layout: PageLayout) -> list[Ints]:
    """Return the words of each program whose lines are parted by comments, values or their numbers."""
    w = layout.words
    fixed = np.array([f.fixed_pitch for f in layout.ink.fonts] or [False], dtype=np.bool_)[w.font]
    upright = np.flatnonzero(~w.turned)
    if not fixed[upright].any():
        return []
    starts = np.flatnonzero(np.diff(w.row[upright], prepend=-1))
    # The number of a line may be set otherwise than the line.
    shown = fixed[upright]
    shown[starts[[w.texts[i].isdecimal() for i in upright[starts].tolist()]]] = True
    # What stands far behind a line, as a picture does, is not of it.
    far = np.append(True, w.x0[upright[1:]] - w.x1[upright[:-1]] > ASIDE * w.size[upright[1:]])
    ends = np.append(starts[1:], len(upright))
    until = np.minimum.reduceat(np.where(shown, len(upright), np.arange(len(upright))), starts)
    whole = np.flatnonzero((until >= ends) | ((until > starts) & far[np.minimum(until, ends - 1)])).tolist()
    if len(whole) < LEAST:
        return []
    beside, ends = (until < ends).tolist(), np.minimum(until, ends).tolist()
    spans = text_spans(layout, upright).first
    out: list[Ints] = []
    lines: list[Ints] = []
    last, more = -1, 0
    for k in whole:
        row = upright[starts[k] : ends[k]]
        if lines and (k > last + 1 or w.y0[row].min() - w.y1[lines[-1]].max() >= ROOM * layout.em):
            out += _programs(layout, lines, more, spans)
            lines, more = [], 0
        lines.append(row)
        last, more = k, more + beside[k]
    return out + _programs(layout, lines, more, spans)


def _programs(layout: PageLayout, lines: list[Ints], more: int, spans: Ints) -> list[Ints]:
    """The words of lines that are a program, as one; `more` of them have something else beside them."""
    if 2 * more > len(lines):
        # A column of names in fixed pitch.
        return []
    parted = sum(_is_parted(layout, row, spans) for row in lines)
    if parted >= max(LEAST, len(lines) / 2) or _are_numbered(layout, lines, spans):
        return [np.concatenate(lines)]
    return []


def _are_numbered(layout: PageLayout, lines: list[Ints], spans: Ints) -> bool:
    """Whether most lines begin with a number, each one more than that of the line above, and have no gap but
    the one behind it; some may be empty. Names with their numbers in a table begin at one place, and are set
    as large as these.
    """
    w = layout.words
    numbered, last = 0, -1
    said: list[int] = []
    for row in lines:
        first = w.texts[row[0]]
        if first.isdecimal():
            begun, ended = np.searchsorted(spans, row[[0, -1]], side="right")
            if ended <= begun + 1 and last in (-1, int(first) - 1):
                numbered += 1
                said += row[:2].tolist() if len(row) > 1 else []
            last = int(first)
    if len(said) < 2 * LEAST or 2 * numbered <= len(lines):
        return False
    numbers, texts = said[::2], said[1::2]
    far = w.x0[texts] - w.x1[numbers] > SPAN_GAP * w.size[texts]
    smaller = w.size[numbers].mean() < SMALLER * w.size[texts].mean()
    return bool(smaller or np.ptp(w.x0[texts]) > SPAN_GAP * layout.em or not far.any())


def _is_parted(layout: PageLayout, row: Ints, spans: Ints) -> bool:
    """Whether the last of several parts of a line, given where parts begin, is a comment or a value of some
    words.
    """
    last = spans[np.searchsorted(spans, row[-1], side="right") - 1]
    return bool(row[-1] > last > row[0]) and layout.words.texts[last].startswith(SIGNS)
