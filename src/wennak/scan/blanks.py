"""Blanks between the characters of a line: where gaps are as wide as one, and where they are not."""

from __future__ import annotations

import itertools
from collections.abc import Iterator

import numpy as np

from ..ink import Ints
from .marks import Marks
from .points import DIGIT, foot_and_height
from .recogniser import Read

# A gap wider than this (heights of capitals), and so many times as wide as those between most letters (beside
# a digit, the second), is a blank; between digits, and between two letters alone, it is wider than the third
# of these.
BLANK, APART, CLEARLY = 0.3, (3.0, 2.4), 0.42
# Figures are as far apart from middle to middle; thousands are this much further, and parted by a gap as wide
# as this (heights of capitals).
THOUSANDS, FURTHER, PARTED = 3, 0.1, 0.3
# Signs that have blanks on both sides, or on none.
_EVEN = "±"
_POINTS, _CLOSING, _DASHES = ".,:", ".,:;!?'\"”’)]}…", "-–—−"


def with_blanks(read: Read, marks: Marks, own: Ints) -> Read:
    """Return what was read with a blank in every gap that is as wide as one: wider by far than those between
    letters.
    """
    if len(read.texts) < 2 or len(own) < 2:
        return read
    reach = np.maximum.accumulate(marks.x1[own])
    foot, height = foot_and_height(marks, own)
    gap = (marks.x0[own][1:] - reach[:-1]) / height
    alone = len(read.texts) == 2
    usual = max(float(np.median(gap)), 0.0)
    wide = np.flatnonzero((gap > BLANK) & (alone or gap > min(APART) * usual))
    for k in wide.tolist():
        middle = (reach[k] + marks.x0[own[k + 1]]) / 2
        at = int(np.searchsorted(np.add(read.x0, read.x1) / 2, middle))
        if not 0 < at < len(read.texts) or any(read.blank[max(1, at - 1) : at + 2]):
            continue
        # Digits stand wider apart than letters, and what parts a point or a minus from its number is for the
        # recogniser.
        before, after = read.texts[at - 1], read.texts[at]
        beside, digits = before.isdigit() != after.isdigit(), before.isdigit() and after.isdigit()
        parted = before not in _POINTS and after not in _CLOSING and (beside or not alone)
        parted &= not (before in _DASHES and after.isdigit())
        parted &= alone or gap[k] > APART[beside or digits] * usual
        if parted and gap[k] > (CLEARLY if alone or digits else BLANK):
            read.blank[at] = True
    read = _with_thousands(read, marks, own, foot, height)
    return _even_beside_signs(_without_blanks_in_numbers(read, marks, own, height), height)


def _without_blanks_in_numbers(read: Read, marks: Marks, own: Ints, height: float) -> Read:
    """Return what was read without the blanks between digits that stand no further apart, from middle to
    middle, than digits without a blank do: a narrow 1 leaves room on both sides.
    """
    middle = (marks.x0[own] + marks.x1[own]) / 2
    digit = [text.isdigit() for text in read.texts]
    at = np.full(len(digit), np.nan)
    for k in np.flatnonzero(digit).tolist():
        held = (middle > read.x0[k]) & (middle < read.x1[k]) & (marks.h[own] >= DIGIT * height)
        if held.sum() == 1:
            at[k] = middle[held][0]
    step = np.append(np.nan, np.diff(at)) / height
    parted = np.array(read.blank) & np.isfinite(step)
    usual = step[~np.array(read.blank) & np.isfinite(step)]
    if len(usual):
        for k in np.flatnonzero(parted & (step < np.median(usual) + FURTHER)).tolist():
            read.blank[k] = False
    return read


def _even_beside_signs(read: Read, height: float) -> Read:
    """Return what was read with a blank on both sides of a plus-minus between numbers that has one on either
    side, or room for one on both.
    """
    for k in range(1, len(read.texts) - 1):
        if read.texts[k] in _EVEN and read.texts[k - 1].isdigit() and read.texts[k + 1].isdigit():
            room = min(read.x0[k] - read.x1[k - 1], read.x0[k + 1] - read.x1[k]) / height
            read.blank[k] = read.blank[k + 1] = read.blank[k] or read.blank[k + 1] or room > BLANK
    return read


def _with_thousands(read: Read, marks: Marks, own: Ints, foot: float, height: float) -> Read:
    """Return what was read with a blank before each three of the last digits of whole numbers that stand
    further apart there than the others.
    """
    digits = own[(marks.h[own] >= DIGIT * height) & (np.abs(marks.y1[own] - foot) < DIGIT * height)]
    middle = (marks.x0 + marks.x1) / 2
    for a, b in _whole_numbers(read):
        low, high = read.x0[a], read.x1[b - 1]
        at = digits[(middle[digits] > low) & (middle[digits] < high)]
        # Nothing stands in between, as points that are not read do.
        if len(at) != b - a or ((middle[own] > low) & (middle[own] < high)).sum() > len(at):
            continue
        step, gap = np.diff(middle[at]) / height, (marks.x0[at[1:]] - marks.x1[at[:-1]]) / height
        thousand = (b - a - np.arange(1, b - a)) % THOUSANDS == 0
        if step[thousand].min() > step[~thousand].max() + FURTHER and gap[thousand].min() > PARTED:
            for k in np.flatnonzero(thousand).tolist():
                read.blank[a + 1 + k] = True
    return read


def _whole_numbers(read: Read) -> Iterator[tuple[int, int]]:
    """From where to where digits follow each other that are more than three, and no decimals."""
    for a, b in read.words():
        for digits, run in itertools.groupby(range(a, b), lambda k: read.texts[k].isdigit()):
            places = list(run)
            decimals = places[0] > a and read.texts[places[0] - 1] in _POINTS
            if digits and not decimals and len(places) > THOUSANDS:
                yield places[0], places[-1] + 1
