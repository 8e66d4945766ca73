"""What marks say of themselves: dashes and dots that stand alone, boxes, blanks, and bars under signs."""

from __future__ import annotations

import numpy as np

from ..ink import Ints
from .marks import Marks
from .recogniser import Read
from .shapes import known_faces, likest

# A dash wider than this (heights of letters) is an en dash.
WIDE = 0.7
# Digits are at least this share of the highest of them.
DIGIT = 0.7
# A gap wider than this (heights of capitals), and so many times as wide as those between most letters, is a
# blank; between digits it is wider than the last of these.
BLANK, APART, DIGITS = 0.3, 3.0, 0.42
# The foot of a sign is this share of its height; over so much of its width a bar reaches.
FOOT, BAR = 0.2, 0.8
_POINTS = ".,"
# No more marks than this are told by their shapes alone, where they are so like known letters, in doubt.
FEW, LIKE, UNSURE = 3, 0.6, 0.5


def dashes(marks: Marks, own: Ints, height: float) -> Read:
    """Return marks that are dashes as such."""
    out = Read()
    for k in own.tolist():
        text = "–" if marks.w[k] > WIDE * height else "-"
        out.put(text, float(marks.x0[k]), float(marks.x1[k]), 0.9, bool(out.texts))
    return out


def ellipsis(marks: Marks, own: Ints) -> Read:
    """Return three dots that stand alone as one character."""
    out = Read()
    out.put("…", float(marks.x0[own].min()), float(marks.x1[own].max()), 0.9, False)
    return out


def lone_letters(marks: Marks, own: Ints) -> Read:
    """Return what a few marks are most like that a recogniser says nothing of, in doubt."""
    out = Read()
    tall = [k for k in own.tolist() if marks.h[k] >= DIGIT * marks.height]
    if len(own) > FEW or len(tall) < len(own):
        return out
    faces = known_faces()
    for k in tall:
        ink = marks.labels[marks.y0[k] : marks.y1[k], marks.x0[k] : marks.x1[k]] == marks.number[k]
        text, like = likest(ink, faces)
        if like > LIKE and text.isalnum():
            out.put(text, float(marks.x0[k]), float(marks.x1[k]), UNSURE, False)
    return out if len(out.texts) == len(own) else Read()


def without_echo(read: Read, marks: Marks, own: Ints) -> Read:
    """Return what was read without its second letter where one mark is read as a letter and once more as the
    same letter of the other case.
    """
    if len(own) == 1 and len(read.texts) == 2 and len({text.lower() for text in read.texts}) == 1:
        out = Read()
        out.put(read.texts[0], float(marks.x0[own[0]]), float(marks.x1[own[0]]), min(read.sure), False)
        return out
    return read


def box_character(marks: Marks, mark: int, checked: bool) -> Read:
    """Return a mark that is a check box as such."""
    out = Read()
    out.put("☒" if checked else "☐", float(marks.x0[mark]), float(marks.x1[mark]), 0.9, False)
    return out


def with_blanks(read: Read, marks: Marks, own: Ints) -> Read:
    """Return what was read with a blank in every gap that is as wide as one: wider by far than those between
    letters.
    """
    if len(read.texts) < 3 or len(own) < 3:
        return read
    reach = np.maximum.accumulate(marks.x1[own])
    gap = (marks.x0[own][1:] - reach[:-1]) / _baseline(marks, own)[1]
    wide = np.flatnonzero((gap > BLANK) & (gap > APART * max(float(np.median(gap)), 0.0)))
    for k in wide.tolist():
        middle = (reach[k] + marks.x0[own[k + 1]]) / 2
        at = int(np.searchsorted(np.add(read.x0, read.x1) / 2, middle))
        if not 0 < at < len(read.texts) or any(read.blank[max(1, at - 1) : at + 2]):
            continue
        # Digits stand wider apart than letters, and what parts a point from its number is for the recogniser.
        before, after = read.texts[at - 1], read.texts[at]
        digits = before.isdigit() and after.isdigit()
        if before not in _POINTS and after.isalnum() and (not digits or gap[k] > DIGITS):
            read.blank[at] = True
    return read


def with_signs(read: Read, marks: Marks, own: Ints) -> Read:
    """Return what was read with plus-minus where a bar lies under a plus: recognisers see the plus only."""
    for k, text in enumerate(read.texts):
        if text != "+":
            continue
        middle = (marks.x0[own] + marks.x1[own]) / 2
        inside = own[(middle > read.x0[k]) & (middle < read.x1[k])]
        if len(inside):
            x0, x1 = int(marks.x0[inside].min()), int(marks.x1[inside].max())
            y0, y1 = int(marks.y0[inside].min()), int(marks.y1[inside].max())
            ink = np.isin(marks.labels[y0:y1, x0:x1], marks.number[inside])
            if (ink[-max(1, round(FOOT * len(ink))) :].mean(axis=1) > BAR).any():
                read.texts[k] = "±"
    return read


def _baseline(marks: Marks, own: Ints) -> tuple[float, float]:
    """Where the digits among marks stand, and how high they are."""
    high = own[marks.h[own] >= DIGIT * marks.h[own].max()]
    return float(np.median(marks.y1[high])), float(np.median(marks.h[high]))
