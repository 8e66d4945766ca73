"""What marks say of themselves: dashes that stand alone, and points in numbers."""

from __future__ import annotations

import numpy as np

from ..ink import Ints
from .marks import Marks
from .recogniser import Read

# A dash wider than this (heights of letters) is an en dash.
WIDE = 0.7
# A point in a number is at least and at most so high and wide, of the height of digits, and ends this near to
# the baseline; a comma reaches this far below it.
POINT, LOW, COMMA = (0.09, 0.42), 0.14, 0.07
# Digits are at least this share of the highest of them.
DIGIT = 0.7
# A gap wider than this (heights of capitals), and so many times as wide as those between most letters, is a
# blank; between digits it is wider than the last of these.
BLANK, APART, DIGITS = 0.3, 3.0, 0.42
# A mark wider than this, and than each of its multiples (heights of digits), may be digits that touch.
TOUCHING = 0.55
# The foot of a sign is this share of its height; over so much of its width a bar reaches.
FOOT, BAR = 0.2, 0.8
# How sure a point is that only its mark tells of, and one without a mark.
SEEN, UNSEEN = 0.6, 0.5
_POINTS = ".,"
# What stands beside numbers and is as high.
_BESIDE = "$€£¥()%"


def dashes(marks: Marks, own: Ints, height: float) -> Read:
    """Return marks that are dashes as such."""
    out = Read()
    for k in own.tolist():
        text = "–" if marks.w[k] > WIDE * height else "-"
        out.put(text, float(marks.x0[k]), float(marks.x1[k]), 0.9, bool(out.texts))
    return out


def box_character(marks: Marks, mark: int, checked: bool) -> Read:
    """Return a mark that is a check box as such."""
    out = Read()
    out.put("☒" if checked else "☐", float(marks.x0[mark]), float(marks.x1[mark]), 0.9, False)
    return out


def miscounted(read: Read, marks: Marks, own: Ints) -> bool:
    """Return whether a number has more or fewer digits than high marks stand in its place.

    Digits that touch are one mark: fewer marks than digits are no miscount where one is wide.
    """
    for a, b in read.words():
        word = read.texts[a:b]
        if sum(text.isdigit() for text in word) < 2 or not all(_of_number(text) for text in word):
            continue
        inside = _inside(marks, own, read.x0[a], max(read.x1[a:b]))
        if not len(inside):
            return True
        _, height = _baseline(marks, inside)
        high = inside[marks.h[inside] >= DIGIT * height]
        count = sum(text not in _POINTS and text != "-" for text in word)
        widest = float(np.maximum(1, np.round(marks.w[high] / (TOUCHING * height))).sum())
        if not len(high) <= count <= widest:
            return True
    return False


def _of_number(text: str) -> bool:
    return text.isdigit() or text in _POINTS or text in _BESIDE


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


def with_points(read: Read, marks: Marks, own: Ints) -> Read:
    """Return what was read with the points in numbers that the marks show.

    Where digits and high marks of a word come to the same number, each mark is one of its characters, and the
    small marks that stand low between them are points and commas. `own` is sorted by x.
    """
    out = Read()
    for a, b in read.words():
        word = read.texts[a:b]
        inside = _inside(marks, own, read.x0[a], max(read.x1[a:b]))
        aligned = _aligned(word, marks, inside) if sum(text.isdigit() for text in word) > 1 else None
        if aligned is None:
            for k in range(a, b):
                out.put(read.texts[k], read.x0[k], read.x1[k], read.sure[k], read.blank[k])
            continue
        at = a
        for n, mark in enumerate(aligned):
            x0, x1 = float(marks.x0[mark]), float(marks.x1[mark])
            blank = n == 0 and read.blank[a]
            if not _is_point(marks, mark, inside):
                while read.texts[at] in _POINTS:
                    # A point that no mark shows.
                    out.put(read.texts[at], x0, x0, min(read.sure[at], UNSEEN), blank)
                    at, blank = at + 1, False
                out.put(read.texts[at], x0, x1, read.sure[at], blank)
                at += 1
            elif at < b and read.texts[at] in _POINTS:
                out.put(read.texts[at], x0, x1, read.sure[at], blank)
                at += 1
            else:
                base = _baseline(marks, inside)
                comma = marks.y1[mark] - base[0] > COMMA * base[1]
                out.put("," if comma else ".", x0, x1, SEEN, blank)
        for k in range(at, b):
            out.put(read.texts[k], read.x0[k], read.x1[k], min(read.sure[k], UNSEEN), False)
    return out


def _inside(marks: Marks, own: Ints, low: float, high: float) -> Ints:
    middle = (marks.x0[own] + marks.x1[own]) / 2
    slack = 0.15 * float(marks.h[own].max(initial=1))
    inside: Ints = own[(middle > low - slack) & (middle < high + slack)]
    return inside


def _baseline(marks: Marks, own: Ints) -> tuple[float, float]:
    """Where the digits among marks stand, and how high they are."""
    high = own[marks.h[own] >= DIGIT * marks.h[own].max()]
    return float(np.median(marks.y1[high])), float(np.median(marks.h[high]))


def _is_point(marks: Marks, mark: int, own: Ints) -> bool:
    base, height = _baseline(marks, own)
    w, h = marks.w[mark] / height, marks.h[mark] / height
    low = (base - marks.y1[mark]) / height < LOW and (base - marks.y0[mark]) / height < POINT[1]
    return bool(POINT[0] < h < POINT[1] and POINT[0] < w < POINT[1] and low)


def high_marks(word: list[str], marks: Marks, own: Ints, low: float, high: float) -> list[tuple[str, int]]:
    """Return the characters of a number between two places, without its points, each with its mark; none
    where they do not come out.
    """
    inside = _inside(marks, own, low, high)
    found = _aligned(word, marks, inside)
    if found is None:
        return []
    standing = [mark for mark in found if not _is_point(marks, mark, inside)]
    return list(zip([text for text in word if text not in _POINTS], standing, strict=True))


def _aligned(word: list[str], marks: Marks, own: Ints) -> list[int] | None:
    """The marks that are the characters and points of a number, or None where they do not come out."""
    if not len(own) or not all(_of_number(text) for text in word):
        return None
    _, height = _baseline(marks, own)
    high = [k for k in own.tolist() if DIGIT * height <= marks.h[k] <= height / DIGIT]
    # A point stands between digits, over and under neither.
    points = [
        k
        for k in own.tolist()
        if _is_point(marks, k, own)
        and marks.x0[high[0]] < marks.x0[k]
        and all(marks.x1[k] <= marks.x0[j] + 1 or marks.x0[k] >= marks.x1[j] - 1 for j in high)
    ]
    if len(high) + len(points) != len(own) or len(high) != len([t for t in word if t not in _POINTS]):
        return None
    return sorted([*high, *points], key=lambda k: int(marks.x0[k]))
