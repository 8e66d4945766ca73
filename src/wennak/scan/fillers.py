"""Marks -> signs that fill an empty place of a table: a hyphen or two dots, too small for letters, alone."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from ..ink import Bools, Floats, Ints
from .marks import Marks

# A hyphen is so wide (heights of letters), so many times as wide as high, and this share of its box is ink.
WIDE, LONG, SOLID = 0.22, 1.5, 0.65
# Its middle stands this far above the foot of letters of its line (heights of letters).
RAISED = (0.2, 0.65)
# A dot is at least and at most so large, and about as wide as high; it stands this near to the foot of
# letters of its line, and two of them this near to each other (heights of letters).
DOT, ROUND, FOOT, APART = (0.1, 0.35), 1.7, 0.15, 0.7


def find_fillers(marks: Marks, loose: Bools, letter: Bools) -> Iterator[Ints]:
    """Yield the marks of each filler among those that belong to no piece: one for a hyphen, two for dots.

    What stands on no line of letters is dirt.
    """
    height = max(marks.height, 1.0)
    w, h = marks.w / height, marks.h / height
    feet = np.sort(marks.y1[letter]).astype(np.float64)
    middle = (marks.y0 + marks.y1) / 2
    solid = marks.area >= SOLID * marks.w * marks.h
    hyphen = loose & solid & (w >= WIDE) & (w >= LONG * h)
    for k in np.flatnonzero(hyphen).tolist():
        if _any_between(feet, middle[k] + RAISED[0] * height, middle[k] + RAISED[1] * height):
            yield np.array([k])
    small, large = np.minimum(w, h), np.maximum(w, h)
    dot = loose & ~hyphen & (large >= DOT[0]) & (large <= DOT[1]) & (large <= ROUND * small)
    at = np.flatnonzero(dot)
    near = FOOT * height
    at = at[[_any_between(feet, foot - near, foot + near) for foot in marks.y1[at].tolist()]]
    beside = (np.abs(middle[at][:, None] - middle[at]) < near) & (
        np.abs(marks.x0[at][:, None] - marks.x0[at]) < APART * height
    )
    # Three and more are an ellipsis or a leader, whose dots are found elsewhere, or dirt.
    for k in np.flatnonzero(beside.sum(axis=1) == 2).tolist():
        pair = at[beside[k]]
        if at[k] == pair[0] and beside[:, np.flatnonzero(beside[k])[1]].sum() == 2:
            yield pair[np.argsort(marks.x0[pair])]


def _any_between(sorted_values: Floats, low: float, high: float) -> bool:
    return bool(np.searchsorted(sorted_values, low) < np.searchsorted(sorted_values, high))
