"""Programs in fixed pitch whose comments stand in a column: read line by line, and no table."""

from __future__ import annotations

import numpy as np

from ..ink import Ints
from .page import PageLayout
from .parted import text_spans

# So many lines with a comment behind what they say, if these are half of all, are a program.
LEAST = 3
# Lines of one program follow each other within this (em).
ROOM = 2.0
# What a comment begins with, alone or right before its first word.
COMMENTS = ("/*", "//", "#", "--", "%", ";")


def find_listings(layout: PageLayout) -> list[Ints]:
    """Return the words of each program whose lines are parted by their comments."""
    w = layout.words
    fixed = np.array([f.fixed_pitch for f in layout.ink.fonts] or [False], dtype=np.bool_)[w.font]
    upright = np.flatnonzero(~w.turned)
    if not fixed[upright].any():
        return []
    starts = np.flatnonzero(np.diff(w.row[upright], prepend=-1))
    whole = np.flatnonzero(np.logical_and.reduceat(fixed[upright], starts)).tolist()
    if len(whole) < LEAST:
        return []
    ends = [*starts[1:].tolist(), len(upright)]
    spans = text_spans(layout, upright).first
    out: list[Ints] = []
    lines: list[Ints] = []
    last = -1
    for k in whole:
        row = upright[starts[k] : ends[k]]
        if lines and (k > last + 1 or w.y0[row].min() - w.y1[lines[-1]].max() >= ROOM * layout.em):
            out += _programs(layout, lines, spans)
            lines = []
        lines.append(row)
        last = k
    return out + _programs(layout, lines, spans)


def _programs(layout: PageLayout, lines: list[Ints], spans: Ints) -> list[Ints]:
    commented = sum(_has_comment(layout, row, spans) for row in lines)
    return [np.concatenate(lines)] if commented >= max(LEAST, len(lines) / 2) else []


def _has_comment(layout: PageLayout, row: Ints, spans: Ints) -> bool:
    """Whether the last of several parts of a line, given where parts begin, is a comment of some words."""
    last = spans[np.searchsorted(spans, row[-1], side="right") - 1]
    return bool(row[-1] > last > row[0]) and layout.words.texts[last].startswith(COMMENTS)
