"""What marks say of themselves: dashes and dots that stand alone, boxes, and blanks."""

from __future__ import annotations

import itertools

import numpy as np

from ..ink import Ints
from .marks import Marks
from .recogniser import Read
from .shapes import known_faces, likest

# More dots that stand alone are one sign.
MOST_DOTS = 2
# A dash wider than this (heights of letters) is an en dash.
WIDE = 0.7
# Digits are at least this share of the highest of them.
DIGIT = 0.7
# A gap wider than this (heights of capitals), and so many times as wide as those between most letters (beside
# a digit, the second), is a blank; between digits, and between two letters alone, it is wider than the third
# of these, before the last three digits of whole thousands than the last.
BLANK, APART, CLEARLY, THOUSANDS = 0.3, (3.0, 2.4), 0.42, 0.36
_POINTS, _CLOSING = ".,:", ".,:;!?'\"”’)]}…"
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
    """Return three dots that stand alone as one character, fewer as what they are."""
    out = Read()
    if len(own) > MOST_DOTS:
        out.put("…", float(marks.x0[own].min()), float(marks.x1[own].max()), 0.9, False)
        return out
    for k in own.tolist():
        out.put(".", float(marks.x0[k]), float(marks.x1[k]), 0.9, False)
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
    if len(read.texts) < 2 or len(own) < 2:
        return read
    reach = np.maximum.accumulate(marks.x1[own])
    gap = (marks.x0[own][1:] - reach[:-1]) / foot_and_height(marks, own)[1]
    alone = len(read.texts) == 2
    usual = max(float(np.median(gap)), 0.0)
    wide = np.flatnonzero((gap > BLANK) & (alone or gap > min(APART) * usual))
    for k in wide.tolist():
        middle = (reach[k] + marks.x0[own[k + 1]]) / 2
        at = int(np.searchsorted(np.add(read.x0, read.x1) / 2, middle))
        if not 0 < at < len(read.texts) or any(read.blank[max(1, at - 1) : at + 2]):
            continue
        # Digits stand wider apart than letters, and what parts a point from its number is for the recogniser.
        before, after = read.texts[at - 1], read.texts[at]
        beside, digits = before.isdigit() != after.isdigit(), before.isdigit() and after.isdigit()
        parted = before not in _POINTS and after not in _CLOSING and (beside or not alone)
        parted &= alone or gap[k] > APART[beside or digits] * usual
        least = THOUSANDS if digits and _digits_from(read, at) == 3 else CLEARLY if alone or digits else BLANK
        if parted and gap[k] > least:
            read.blank[at] = True
    return read


def _digits_from(read: Read, at: int) -> int:
    """How many digits follow each other from a character on."""
    return sum(1 for _ in itertools.takewhile(str.isdigit, read.texts[at:]))


def foot_and_height(marks: Marks, own: Ints) -> tuple[float, float]:
    """Where the digits among marks stand, and how high they are."""
    high = own[marks.h[own] >= DIGIT * marks.h[own].max()]
    return float(np.median(marks.y1[high])), float(np.median(marks.h[high]))
