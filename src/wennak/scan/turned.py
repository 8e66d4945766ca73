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
        box = (x0[own].min(), y0[own].min(), x1[own].max(), y1[own].max())
        wide = np.median((x1 - x0)[own] / (y1 - y0)[own]) >= WIDE
        if wide and len(own) >= LETTERS and box[3] - box[1] >= LONG * (box[2] - box[0]):
            members.append(at[own])
            boxes.append(box)
    return Turned(members, np.array(boxes, dtype=np.float64).reshape(-1, 4))
