"""Pieces of text that stand on their side: labels turned to fit narrow columns."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from ..ink import Bools, Floats, Ints
from .marks import Marks
from .picture import Mask
from .pieces import smeared

# A turned piece has at least so many marks, and is so many times as long as thick.
LETTERS, LONG = 3, 2.0
# Letters on their side are wider than high: most by this much.
WIDE = 1.15
# Small print hangs together: a mark is several letters where it is so many times as long as thick, which is
# this much (heights of most letters). Other letters of the word are no further from it and no thicker than
# so many times that.
SEVERAL, HIGH, NEAR, WIDER = 1.5, (0.8, 2.5), 0.25, 1.2


@dataclass(slots=True)
class Turned:
    """Pieces that may stand on their side: the marks of each, and boxes in pixels."""

    members: list[Ints]
    boxes: Floats


def find_turned(marks: Marks, odd: Bools, walls: Mask) -> Turned:
    """Return what marks make lines from top to bottom or from bottom to top.

    `odd` are the marks that stand in no line with others; `walls` are pixels over which no line
    goes on.
    """
    at = np.flatnonzero(odd)
    x0, y0, x1, y1 = marks.x0[at], marks.y0[at], marks.x1[at], marks.y1[at]
    on_side = replace(marks, number=marks.number[at], x0=y0, y0=x0, x1=y1, y1=x1, area=marks.area[at])
    letter = on_side.h >= 0.5 * marks.height
    of = smeared(on_side, letter, np.zeros_like(letter), walls.T)
    members, boxes = [], []
    for k in range(int(of.max(initial=-1)) + 1):
        own = np.flatnonzero(of == k)
        own = own[np.argsort(y0[own], kind="stable")]
        wide = np.median((x1 - x0)[own] / (y1 - y0)[own]) >= WIDE
        word = _together(x0, y0, x1, y1, own, marks.height)
        if len(word) or (wide and len(own) >= LETTERS):
            own = word if len(word) else own
            box = (x0[own].min(), y0[own].min(), x1[own].max(), y1[own].max())
            if box[3] - box[1] >= LONG * (box[2] - box[0]):
                members.append(at[own])
                boxes.append(box)
    return Turned(members, np.array(boxes, dtype=np.float64).reshape(-1, 4))


def _together(x0: Ints, y0: Ints, x1: Ints, y1: Ints, own: Ints, height: float) -> Ints:
    """Those of some marks, from top to bottom, that are a word whose letters hang together."""
    high, thick = (y1 - y0)[own], (x1 - x0)[own]
    longest = int(high.argmax())
    reach = thick[longest]
    if high[longest] < SEVERAL * reach or not HIGH[0] * height <= reach <= HIGH[1] * height:
        return own[:0]
    gaps = y0[own][1:] - y1[own][:-1]
    fits = (gaps <= NEAR * reach) & (np.maximum(thick[1:], thick[:-1]) <= WIDER * reach)
    part = np.append(0, np.cumsum(~fits))
    word: Ints = own[part == part[longest]]
    return word
