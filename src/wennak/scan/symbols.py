"""Signs that recognisers take for others, told by the outlines of their marks."""

from __future__ import annotations

from collections.abc import Set

import numpy as np

from ..ink import Ints
from .bullets import disc
from .marks import Marks
from .picture import Mask
from .points import foot_and_height
from .recogniser import Read

# Recognisers see these in plus-minus between numbers, in a minus, and in a dot at half height between
# letters.
IN_PLUS_MINUS, IN_MINUS, IN_DOT = "+£x%&", "=_~", "-'°"
# The foot of a sign is this share of its height; over so much of its width a bar reaches, which alone is so
# many times as wide as high.
FOOT, BAR, LONG = 0.2, 0.8, 2.5
# Of the ink of a plus-minus less than this is not also on its other side; of that of pounds about all.
UNEVEN = 0.65
# Degrees are a ring of this height (heights of capitals) before one of these.
RING, UNITS = (0.25, 0.6), (["C"], ["F"])
# A dot is about as wide as high, and at half height lies between these (heights of capitals over the foot).
ROUND, HALF = 1.5, (0.25, 0.65)
# A tick that stands alone is at least so high (heights of letters); signs are as sure as this.
HIGH, SURE = 0.6, 0.84
# An underscore is less wide than this (heights of capitals).
UNDERSCORE = 1.3
# The turn of a tick lies between these (shares of its width), its left end between these (of its height), its
# right end higher than the next; strokes cover less of its box than the one after, and a stem at its left is
# higher than the last.
TURN, LEFT, RIGHT, STROKES, STEM = (0.12, 0.6), (0.25, 0.85), 0.25, 0.5, 0.55


def with_signs(read: Read, marks: Marks, own: Ints) -> Read:
    """Return what was read with plus-minus, minus and the dot of products where their outlines say so."""
    for k, text in enumerate(read.texts):
        degrees = text != "°" and read.texts[k + 1 :] in UNITS and (k == 0 or read.blank[k])
        if not degrees and text not in IN_PLUS_MINUS + IN_MINUS + IN_DOT:
            continue
        middle = (marks.x0[own] + marks.x1[own]) / 2
        inside = own[(middle > read.x0[k]) & (middle < read.x1[k])]
        if not len(inside):
            continue
        if degrees and len(inside) == 1 and _is_ring(marks, own, int(inside[0])):
            read.texts[k] = "°"
            continue
        if text in IN_PLUS_MINUS:
            sides = read.texts[max(0, k - 1) : k + 2 : 2] if k else []
            amid = len(sides) == 2 and all(side.isdigit() for side in sides)
            if (amid or text == "+") and _is_plus_minus(marks, inside):
                read.texts[k] = "±"
            continue
        foot, height = foot_and_height(marks, own)
        over = (foot - (marks.y0[inside[0]] + marks.y1[inside[0]]) / 2) / height
        if len(inside) > 1 or not HALF[0] <= over <= HALF[1]:
            continue
        w, h = int(marks.w[inside[0]]), int(marks.h[inside[0]])
        if text in IN_MINUS and w > LONG * h:
            read.texts[k] = "−"
        beside = "".join(read.texts[k - 1 : k + 2 : 2]) if k and not any(read.blank[k : k + 2]) else ""
        if text in IN_DOT and len(beside) == 2 and beside.isalpha() and max(w, h) <= ROUND * min(w, h):
            read.texts[k] = "·"
    return read


def with_underscores(read: Read, marks: Marks, own: Ints) -> Read:
    """Return what was read with an underscore for each low bar between two letters, where recognisers see a
    blank as often.
    """
    foot, height = foot_and_height(marks, own)
    w, h = marks.w[own], marks.h[own]
    bars = own[(w > LONG * h) & (w < UNDERSCORE * height) & (marks.y0[own] + marks.h[own] / 2 >= foot)]
    for k in bars.tolist():
        x0, x1 = float(marks.x0[k]), float(marks.x1[k])
        if ((marks.x0[own] + marks.x1[own] > 2 * x0) & (marks.x0[own] + marks.x1[own] < 2 * x1)).sum() > 1:
            # It stands under a letter.
            continue
        middles = np.add(read.x0, read.x1) / 2
        at = int(np.searchsorted(middles, x0))
        if not 0 < at < len(read.texts):
            continue
        if middles[at] > x1:
            if not read.blank[at]:
                continue
            read.insert(at, "_", x0, x1, SURE, False)
        if read.texts[at] == "_":
            read.blank[at : at + 2] = [False] * len(read.blank[at : at + 2])
    return read


def _is_ring(marks: Marks, own: Ints, mark: int) -> bool:
    """Whether a mark is as a degree sign: round, small, and at the height of capitals."""
    foot, height = foot_and_height(marks, own)
    w, h = int(marks.w[mark]), int(marks.h[mark])
    over = (foot - marks.y1[mark]) / height
    return bool(
        RING[0] * height <= h <= RING[1] * height and max(w, h) <= ROUND * min(w, h) and over >= HALF[0]
    )


def _is_plus_minus(marks: Marks, inside: Ints) -> bool:
    """Whether a bar lies under a sign, over nearly all its width, and its left is as its right: pounds have a
    foot, too.
    """
    x0, x1 = int(marks.x0[inside].min()), int(marks.x1[inside].max())
    y0, y1 = int(marks.y0[inside].min()), int(marks.y1[inside].max())
    ink = np.isin(marks.labels[y0:y1, x0:x1], marks.number[inside])
    foot = (ink[-max(1, round(FOOT * len(ink))) :].mean(axis=1) > BAR).any()
    return bool(foot and (ink ^ ink[:, ::-1]).sum() < UNEVEN * ink.sum())


def lone_symbol(marks: Marks, own: Ints, rings: Set[int] = frozenset()) -> Read:
    """Return a tick, a disc or one of some rings that stands alone as such; nothing where a piece is none."""
    out = Read()
    if len(own) != 1:
        return out
    (k,) = own.tolist()
    tick = marks.h[k] >= HIGH * marks.height and _is_tick(marks.ink_of(k))
    text = "✓" if tick else "○" if k in rings else disc(marks, k)
    if text:
        out.put(text, float(marks.x0[k]), float(marks.x1[k]), SURE, False)
    return out


def _is_tick(ink: Mask) -> bool:
    """Whether a stroke falls to a turn and rises from there to the right, higher than it began."""
    h, w = ink.shape
    if not 0.5 < w / h < 2 or ink.mean() > STROKES:
        return False
    rows = np.arange(h)
    column = np.array([rows[ink[:, x]].mean() if ink[:, x].any() else 0.0 for x in range(w)]) / h
    turn = int(np.median(np.flatnonzero(ink[-1])))
    left, right = float(column[: max(1, w // 10)].mean()), float(column[-max(1, w // 10) :].mean())
    # It begins with a short stroke, not with the stem of a letter.
    stem = ink[:, : max(1, w // 10)].any(axis=1).mean() > STEM
    single = (np.diff(np.pad(ink, ((1, 0), (0, 0))).astype(np.int8), axis=0) == 1).sum(axis=0) == 1
    falls = np.diff(column[: turn + 1]) >= -1 / h
    rises = np.diff(column[turn:]) <= 1 / h
    return bool(
        not stem
        and single.mean() > BAR
        and TURN[0] <= (turn + 0.5) / w <= TURN[1]
        and LEFT[0] <= left <= LEFT[1]
        and turn > 0
        and right <= RIGHT
        and left - right > RIGHT / 2
        and falls.mean() > BAR
        and rises.mean() > BAR
    )
