"""What items of lists begin with: small marks that recognisers take for letters, and numbers."""

from __future__ import annotations

import re

import numpy as np

from ..ink import Ints
from .marks import Marks
from .points import foot_and_height
from .recogniser import Read

# A disc is at least so many pixels high, a bullet so many heights of letters, a disc that stands for a bullet
# less than the next; a disc fills this share of its box, give or take.
LEAST, BULLET, LARGE, DISC, ABOUT = 5, 0.3, 0.7, np.pi / 4, 0.06
# A bullet is about as wide as high; a blank at least so wide (heights of letters) follows; its middle stands
# between these (heights of capitals over the foot).
ROUND, BLANK, RAISED = 1.5, 0.35, (0.28, 0.7)
# So much of the box of a bullet that is no ring is ink; so much of one that may be as large as the last
# (heights of letters).
FULL, SOLID, SQUARE = 0.6, 0.85, 1.05
# A ring is as high as wide, and as a disc beside it, but for this share.
AROUND = 0.15
# Numbers of items, whose point is read as another sign: no sentence goes on with a capital after them.
NUMBERED = re.compile(r"\d{1,2}[,;](?=[A-Z]|$)")


def with_bullets(read: Read, marks: Marks, own: Ints) -> Read:
    """Return what was read in a line with the bullet, or the number with its point, that it begins with."""
    number = NUMBERED.match("".join(read.texts))
    if number and all(read.blank[number.end() : number.end() + 1]):
        read.texts[number.end() - 1] = "."
    elif len(read.texts) > 1 and (bullet := _bullet(marks, own, read.texts[0])):
        read.texts[0], read.blank[1] = bullet, True
    return read


def _bullet(marks: Marks, own: Ints, said: str) -> str:
    """The bullet that the first mark of a line is: small, as high as wide, at half height, with a blank after
    it; nothing where it is none.
    """
    first, rest = int(own[0]), own[1:]
    foot, height = foot_and_height(marks, own)
    w, h = int(marks.w[first]), int(marks.h[first])
    over = (foot - (marks.y0[first] + marks.y1[first]) / 2) / height
    full = marks.ink_of(first).mean()
    most = SQUARE if full >= SOLID else LARGE
    small = BULLET * marks.height <= h <= most * marks.height and max(w, h) <= ROUND * min(w, h)
    apart = len(rest) and marks.x0[rest].min() - marks.x1[first] >= BLANK * marks.height
    if not (small and apart and RAISED[0] <= over <= RAISED[1]):
        return ""
    # Stars of notes are as small, and stand as high as some rings.
    return "•" if full >= FULL else "" if said == "*" else "◦"


def disc(marks: Marks, mark: int) -> str:
    """Return the disc or bullet that a mark is; nothing where it is none."""
    h, w = int(marks.h[mark]), int(marks.w[mark])
    if h < LEAST or h < BULLET * marks.height or abs(w - h) > max(1, 0.1 * h):
        return ""
    ink = marks.ink_of(mark)
    corners = ink[[0, 0, -1, -1], [0, -1, 0, -1]]
    round_ = abs(ink.mean() - DISC) <= ABOUT and not corners.any()
    return ("●" if h >= LARGE * marks.height else "•") if round_ else ""


def rings(marks: Marks, alone: Ints) -> set[int]:
    """Return which marks that stand alone are rings as large as discs that stand alone: where both are set,
    they are signs, and no letters and digits.
    """
    discs = [int(marks.h[k]) for k in alone.tolist() if disc(marks, k) == "●"]
    found = set()
    for k in alone.tolist():
        w, h = int(marks.w[k]), int(marks.h[k])
        if abs(w - h) > max(1, AROUND * h) or not any(abs(h - size) <= AROUND * size for size in discs):
            continue
        ink = marks.ink_of(k)
        if ink.mean() < FULL and not ink[h // 3 : h - h // 3, w // 3 : w - w // 3].any():
            found.add(k)
    return found
