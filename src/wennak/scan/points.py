"""What marks say of themselves: dashes and dots that stand alone, boxes, points that touch a figure."""

from __future__ import annotations

import numpy as np

from ..ink import UNKNOWN, Ints, median
from .marks import Marks
from .picture import Mask
from .recogniser import Read
from .shapes import known_faces, likest

# More dots that stand alone are one sign.
MOST_DOTS = 2
# So many dashes that share this much of their width are an equals sign.
EQUALS, OVER = 2, 0.7
# A dash wider than this (heights of letters) is an en dash.
WIDE = 0.7
# Digits are at least this share of the highest of them.
DIGIT = 0.7
# The stem of a 1 is inked over this share of its height, and at most so wide; its foot begins this far down,
# and reaches further to one side by less than the last of these (heights): by .06 at most in 124 typefaces,
# by .07 to .25 where a point touches it.
STEM, SINGLE, FOOT, POINT = 0.6, 0.35, 0.75, 0.09
# A pixel is chance.
CHANCE = 1.0
_BETWEEN = frozenset(".,:")
# A mark is a point where it is at most so wide and high and its foot so near the baseline (heights of
# capitals); points are lost between all letters of a word of so many letters, or none; those that are put
# there are as sure as the last of these.
DOT, LOW, LETTERS, PUT = 0.3, 0.12, (2, 4), 0.8
# No more marks than this are told by their shapes alone, where they are so like known letters, in doubt.
FEW, LIKE, UNSURE = 3, 0.6, 0.5
# What is written is at least so wide and at most so high (heights of letters), and this share of its box ink.
WRITTEN, INKED = (1.2, 3.0), 0.2


def dashes(marks: Marks, own: Ints, height: float) -> Read:
    """Return marks that are dashes as such, two over each other as one sign."""
    out = Read()
    low, high = float(marks.x0[own].max()), float(marks.x1[own].min())
    if len(own) == EQUALS and high - low > OVER * float(marks.w[own].max()):
        out.put("=", float(marks.x0[own].min()), float(marks.x1[own].max()), 0.9, False)
        return out
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
        text, like = likest(marks.ink_of(k), faces)
        if like > LIKE and text.isalnum():
            out.put(text, float(marks.x0[k]), float(marks.x1[k]), UNSURE, False)
    return out if len(out.texts) == len(own) else Read()


def unread(marks: Marks, own: Ints) -> Read:
    """Return the sign for what is not known where marks that nothing was read in look written: a value must
    not be left out without a word.
    """
    out = Read()
    x0, y0, x1, y1 = marks.x0[own].min(), marks.y0[own].min(), marks.x1[own].max(), marks.y1[own].max()
    wide, high = (x1 - x0) / marks.height, (y1 - y0) / marks.height
    inked = float(marks.area[own].sum()) / float((x1 - x0) * (y1 - y0))
    if wide >= WRITTEN[0] and DIGIT <= high <= WRITTEN[1] and inked >= INKED:
        out.put(UNKNOWN, float(x0), float(x1), 0.0, False)
    return out


def without_echo(read: Read, marks: Marks, own: Ints) -> Read:
    """Return what was read without its second letter where one mark is read as a letter and once more as the
    same letter of the other case. (Two equal digits may touch, and be one mark.)
    """
    first, second = read.texts if len(read.texts) == 2 else ("", "")
    if len(own) == 1 and first != second and first.lower() == second.lower():
        out = Read()
        out.put(read.texts[0], float(marks.x0[own[0]]), float(marks.x1[own[0]]), min(read.sure), False)
        return out
    return read


def box_character(marks: Marks, mark: int, checked: bool) -> Read:
    """Return a mark that is a check box as such."""
    out = Read()
    out.put("☒" if checked else "☐", float(marks.x0[mark]), float(marks.x1[mark]), 0.9, False)
    return out


def with_touching_points(read: Read, marks: Marks, own: Ints) -> Read:
    """Return what was read with a point, in doubt, behind each 1 before a digit whose foot reaches much
    further to the right of its stem than to the left, in words that have none: recognisers take a point that
    touches a foot for a part of it.
    """
    middle = (marks.x0[own] + marks.x1[own]) / 2
    for a, b in reversed([*read.words()]):
        if not _BETWEEN.isdisjoint(read.texts[a:b]):
            continue
        for k in range(b - 2, a - 1, -1):
            if read.texts[k] != "1" or not read.texts[k + 1].isdigit():
                continue
            low = (read.x1[k - 1] + read.x0[k]) / 2 if k else -np.inf
            held = own[(middle > low) & (middle < (read.x1[k] + read.x0[k + 1]) / 2)]
            if len(held) == 1 and _reaches_right(marks.ink_of(int(held[0]))):
                end = float(marks.x1[held[0]])
                read.insert(k + 1, ".", end - POINT * float(marks.h[held[0]]), end, UNSURE, False)
    return read


def with_lost_points(read: Read, marks: Marks, own: Ints) -> Read:
    """Return what was read with the points of abbreviations, a letter each, that recognisers leave out: where
    marks are points between all letters of a short word.
    """
    foot, height = foot_and_height(marks, own)
    small = np.maximum(marks.w[own], marks.h[own]) <= DOT * height
    low = own[small & (np.abs(marks.y1[own] - foot) <= LOW * height)]
    middle = (marks.x0[low] + marks.x1[low]) / 2
    for a, b in reversed([*read.words()]):
        end = b - 1 if read.texts[b - 1] == "." else b
        if not LETTERS[0] <= end - a <= LETTERS[1] or not all(text.isalpha() for text in read.texts[a:end]):
            continue
        letters = np.add(read.x0[a:end], read.x1[a:end]) / 2
        held = np.searchsorted(letters, middle)
        if (np.bincount(held, minlength=len(letters) + 1)[1 : len(letters)] == 1).all():
            for k in range(end - 1, a, -1):
                point = low[held == k - a][0]
                read.insert(k, ".", float(marks.x0[point]), float(marks.x1[point]), PUT, False)
    return read


def foot_and_height(marks: Marks, own: Ints) -> tuple[float, float]:
    """Where the digits among marks stand, and how high they are."""
    high = own[marks.h[own] >= DIGIT * marks.h[own].max()]
    return median(marks.y1[high]), median(marks.h[high])


def _reaches_right(ink: Mask) -> bool:
    """Whether ink is a single stem with a foot that reaches further to the right of it than to the left."""
    h = len(ink)
    stem = np.flatnonzero(ink.sum(axis=0) > STEM * h)
    if not len(stem) or np.ptp(stem) > SINGLE * h:
        return False
    foot = np.flatnonzero(ink[int(FOOT * h) :].any(axis=0))
    beyond = ink[: int(STEM * h), stem[-1] + 2 :].any()
    further = (foot[-1] - stem[-1]) - (stem[0] - foot[0])
    return not beyond and bool(further > max(POINT * h, CHANCE))
