"""Second opinions on numbers: other looks at them, and the other digits of their page that they look like."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..ink import Floats, Ints, distinct
from .marks import Marks
from .points import high_marks
from .recogniser import Read
from .shapes import SIDE, shape_of

# A number that is not read alike in all looks is at most this sure: six of ten such are right.
DISPUTED = 0.55
# One whose digits are not told one by one, or do not look like others of their kind, is at most this sure.
UNCONFIRMED = 0.94
# A digit is compared with so many of each kind that are most like it, and leads by at least so much.
NEAREST, LEAD = 3, 0.05
# Characters of another look belong to a word where their middle lies on it, or this share of it beside.
SLACK = 0.05


def dispute(read: Read, others: Sequence[Read]) -> None:
    """Doubt the words of a line on which looks at it differ, where there are digits in any of these."""
    for a, b in read.words():
        low, high = read.x0[a], max(read.x1[a:b])
        said = {"".join(read.texts[a:b]), *(_said(other, low, high) for other in others)}
        if len(said) > 1 and any(char.isdigit() for word in said for char in word):
            read.sure[a:b] = [min(sure, DISPUTED) for sure in read.sure[a:b]]


def _said(read: Read, low: float, high: float) -> str:
    slack = SLACK * (high - low)
    return "".join(
        text
        for text, x0, x1 in zip(read.texts, read.x0, read.x1, strict=True)
        if low - slack < (x0 + x1) / 2 < high + slack
    )


def confirm(readings: Sequence[tuple[Read, Ints]], marks: Marks) -> None:
    """Doubt, a little, the numbers of a page that their shapes do not bear out.

    A reading comes with the marks of its line, from left to right.
    """
    digits: list[int] = []
    at: list[int] = []
    numbers: list[tuple[Read, int, int, list[int]]] = []
    for read, own in readings:
        for a, b in read.words():
            word = read.texts[a:b]
            if not any(text.isdigit() for text in word):
                continue
            high = high_marks(word, marks, own, read.x0[a], max(read.x1[a:b]))
            of_digits = [mark for text, mark in high if text.isdigit()]
            numbers.append((read, a, b, list(range(len(at), len(at) + len(of_digits)))))
            digits += [int(text) for text, _ in high if text.isdigit()]
            at += of_digits
    leads = digit_leads(np.array(digits, dtype=np.int64), np.array(at, dtype=np.int64), marks)
    for read, a, b, members in numbers:
        if not members or not (leads[members] > LEAD).all():
            read.sure[a:b] = [min(sure, UNCONFIRMED) for sure in read.sure[a:b]]


def digit_leads(digits: Ints, at: Ints, marks: Marks) -> Floats:
    """Return by how much each mark is more like other marks that are the same digit than like those of any
    other digit; less than nothing where it looks like another one, NaN where its digit is the only one.

    `digits` are 0..9, `at` the mark that each of them is.
    """
    pictures = np.empty((len(at), SIDE * SIDE))
    width = np.empty(len(at))
    for k, mark in enumerate(at.tolist()):
        x0, y0, x1, y1 = (int(side[mark]) for side in (marks.x0, marks.y0, marks.x1, marks.y1))
        ink = marks.labels[y0:y1, x0:x1] == marks.number[mark]
        shape = shape_of(ink, float(y1 - y0), float(y1 - y0))
        assert shape is not None
        pictures[k], width[k] = shape.picture, shape.width
    like = pictures @ pictures.T - np.abs(width[:, None] - width[None, :])
    np.fill_diagonal(like, -np.inf)
    by_digit = np.full((len(at), 10), -np.inf)
    for digit in distinct(digits).tolist():
        best = -np.sort(-like[:, digits == digit], axis=1)[:, :NEAREST]
        there = np.isfinite(best)
        # What is alone of its kind has nothing to be compared with.
        total, count = np.where(there, best, 0.0).sum(axis=1), there.sum(axis=1)
        by_digit[:, digit] = np.where(count > 0, total / np.maximum(count, 1), np.nan)
    rows = np.arange(len(at))
    same = by_digit[rows, digits]
    by_digit[rows, digits] = -np.inf
    leads: Floats = same - by_digit.max(axis=1, initial=-np.inf)
    return leads
