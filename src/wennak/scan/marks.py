"""Ink -> the pieces that hang together: letters, dots, specks, what is too large for a letter."""

from __future__ import annotations

import functools
from dataclasses import dataclass, replace

import numpy as np
from scipy import ndimage

from ..ink import Bools, Ints
from .picture import Labels, Mask, strips

# A speck is smaller than this share of the usual height of letters both ways, and lighter than this share of
# a full stop.
SPECK, STOP = 0.14, 0.3
# A check box is a square of this size (heights of letters), whose edges, so thick at most (share of it), are
# inked over this share; it is checked where more than so much inside is ink.
SQUARE, EDGE, CLOSED, CROSSED = (0.9, 2.6), 0.18, 0.93, 0.08
# Letters have at least so many pixels in height.
LEAST = 6
_AROUND = np.ones((3, 3), dtype=np.int64)


@dataclass(eq=False)
class Marks:
    """Connected pieces of ink: their boxes in pixels (x1 and y1 exclusive) and areas; `number` is that of
    each in `labels`, where 0 is no ink. `height` is the usual height of letters.
    """

    labels: Labels
    number: Ints
    x0: Ints
    y0: Ints
    x1: Ints
    y1: Ints
    area: Ints
    height: float

    def __len__(self) -> int:
        return len(self.x0)

    @functools.cached_property
    def w(self) -> Ints:
        """Widths in pixels."""
        return self.x1 - self.x0

    @functools.cached_property
    def h(self) -> Ints:
        """Heights in pixels."""
        return self.y1 - self.y0

    def ink_of(self, mark: int) -> Mask:
        """Return which pixels of its box are those of a mark."""
        rows, columns = slice(self.y0[mark], self.y1[mark]), slice(self.x0[mark], self.x1[mark])
        found: Mask = self.labels[rows, columns] == self.number[mark]
        return found


def find_marks(ink: Mask, dpi: float) -> Marks:
    """Return the connected pieces of ink, of eight neighbours."""
    labels, count = _labelled(ink)
    places = ndimage.find_objects(labels)
    boxes = np.array([(c.start, r.start, c.stop, r.stop) for r, c in places], dtype=np.int64).reshape(-1, 4)
    area = np.zeros(count + 1, dtype=np.int64)
    for rows in strips(len(labels)):
        area += np.bincount(labels[rows].ravel(), minlength=count + 1)
    x0, y0, x1, y1 = boxes.T
    return Marks(
        labels, np.arange(1, count + 1), x0, y0, x1, y1, area[1:], letter_height(x1 - x0, y1 - y0, dpi)
    )


def _labelled(ink: Mask) -> tuple[Labels, int]:
    """The number of each pixel's piece of ink, in two bytes where these do, and how many pieces there are."""
    labels: Labels = np.empty(ink.shape, dtype=np.uint16)
    try:
        return labels, ndimage.label(ink, _AROUND, output=labels)
    except RuntimeError:
        return ndimage.label(ink, _AROUND)


def squares(marks: Marks) -> tuple[Bools, Bools]:
    """Return which marks are frames of check boxes, and which of these hold a cross or a tick.

    What is drawn inside a frame counts where it touches it or not.
    """
    frame, filled = np.zeros(len(marks), dtype=np.bool_), np.zeros(len(marks), dtype=np.bool_)
    low, high = (share * marks.height for share in SQUARE)
    like = (marks.w >= low) & (marks.w <= high) & (np.abs(marks.w - marks.h) <= 0.15 * marks.h)
    for k in np.flatnonzero(like).tolist():
        own = marks.labels[marks.y0[k] : marks.y1[k], marks.x0[k] : marks.x1[k]]
        edge = max(2, round(EDGE * len(own)))
        ink = own == marks.number[k]
        sides = (
            ink[:edge].any(axis=0),
            ink[-edge:].any(axis=0),
            ink[:, :edge].any(axis=1),
            ink[:, -edge:].any(axis=1),
        )
        inner = own[edge + 1 : -edge - 1, edge + 1 : -edge - 1] > 0
        if min(float(side.mean()) for side in sides) >= CLOSED and inner.size and inner.mean() < 0.6:
            frame[k], filled[k] = True, inner.mean() > CROSSED
    return frame, filled


def without(marks: Marks, dirt: Bools) -> Marks:
    """Return the marks without some of them."""
    keep = np.flatnonzero(~dirt)
    columns = {name: getattr(marks, name)[keep] for name in ("number", "x0", "y0", "x1", "y1", "area")}
    return replace(marks, **columns)


def letter_heights(ink: Mask) -> float:
    """Return the height in pixels of most pieces of ink that may be letters, at whatever resolution; 0 where
    there are none.
    """
    labels, _ = ndimage.label(ink, _AROUND)
    places = ndimage.find_objects(labels)
    h = np.array([r.stop - r.start for r, _ in places], dtype=np.int64)
    w = np.array([c.stop - c.start for _, c in places], dtype=np.int64)
    likely = (h >= LEAST) & (h < len(ink) / 15) & (w < 3 * h) & (h < 4 * w)
    return float(np.median(h[likely])) if likely.any() else 0.0


def letter_height(w: Ints, h: Ints, dpi: float) -> float:
    """Return the usual height of letters in pixels: the median of what has the size of letters."""
    mm = dpi / 25.4
    likely = (h > 0.7 * mm) & (h < 14 * mm) & (w < 4 * h) & (h < 8 * w)
    if likely.sum() < 3:
        return 2.0 * mm
    return float(np.median(h[likely]))


def specks(marks: Marks) -> Bools:
    """Return which pieces are dirt: much smaller than a full stop."""
    small = np.maximum(marks.w, marks.h) < SPECK * marks.height
    stop = (0.22 * marks.height) ** 2
    found: Bools = small | (marks.area < STOP * stop)
    return found
