"""A page picture turned so that its lines of text run level."""

from __future__ import annotations

import numpy as np
from PIL import Image
from scipy import ndimage

from ..ink import Floats
from .picture import Grey

# The angle is sought within so many degrees, in steps that shrink to the finest one.
MAX_SKEW = 8.0
STEPS = (0.5, 0.1, 0.02)
# A page within this many degrees of level is left as it is: turning it would only blur it.
LEVEL = 0.04
# The search looks at about so many pixels down the page; it needs lines of text, not letters.
COARSE = 1100
# What is darker than its surroundings by this share of the range of the page is ink; less pixels say nothing.
INKED, SOME_INK = 0.25, 50


def find_skew(grey: Grey) -> float:
    """Return the angle in degrees by which the text of a page falls to the right (clockwise as seen).

    It is the one at which the rows of the page are told apart best into inked and blank: the sum of the
    squares of the ink of each row is greatest where lines of text and rules lie along rows.
    """
    step = max(1, grey.shape[0] // COARSE)
    small = _coarse(grey, step)
    # Ink is what is darker than its surroundings.
    dark = _darkness(small)
    ink = dark > INKED
    if ink.sum() < SOME_INK:
        return 0.0
    # The highest ink of each column, and the ink of each row left of each column and of the end.
    top = np.where(ink.any(axis=0), ink.argmax(axis=0), np.inf)
    left = np.zeros((small.shape[1] + 1, small.shape[0]), dtype=np.float32)
    np.cumsum(np.where(ink, dark, 0.0).T, axis=0, out=left[1:])
    best, reach = 0.0, MAX_SKEW
    for pace in STEPS:
        angles = best + np.arange(-round(reach / pace), round(reach / pace) + 1) * pace
        best = float(angles[np.argmax([_evenness(left, top, angle) for angle in angles])])
        reach = pace
    return best if abs(best) >= LEVEL else 0.0


def turned_by(grey: Grey, angle: float) -> Grey:
    """Return the picture turned counterclockwise by `angle` degrees about its middle."""
    if not angle:
        return grey
    fill = int(np.percentile(grey[::16, ::16], 90))
    picture = Image.fromarray(grey)
    return np.asarray(picture.rotate(angle, Image.Resampling.BICUBIC, fillcolor=fill))


def _evenness(left: Floats, top: Floats, angle: float) -> float:
    """The sum of the squares of the ink of each row of a page turned by an angle."""
    width, height = len(left) - 1, left.shape[1]
    # By how many rows each column is moved, and where columns begin that are moved by the same number.
    away = (np.arange(width) - width / 2) * np.tan(np.radians(angle))
    moved = -np.round(away + (top - away).min()).astype(np.int64)
    begins = np.flatnonzero(np.diff(moved, prepend=moved[0] - 1))
    parts = np.diff(left[np.append(begins, width)], axis=0)
    down = moved[begins] - moved.min()
    ink = np.zeros(height + int(down.max()))
    for first, part in zip(down.tolist(), parts, strict=True):
        ink[first : first + height] += part
    return float((ink**2).sum())


def _coarse(grey: Grey, step: int) -> Floats:
    h, w = (side // step * step for side in grey.shape)
    blocks = grey[:h, :w].reshape(h // step, step, w // step, step)
    means: Floats = blocks.mean(axis=(1, 3), dtype=np.float32)
    return means


def _darkness(small: Floats) -> Floats:
    """How much darker than its surroundings each pixel is, 0..1 of the range of the page."""
    around = ndimage.uniform_filter(ndimage.maximum_filter(small, 9), 25)
    span = max(1.0, float(np.percentile(around, 90) - small.min()))
    dark: Floats = np.clip((around - small) / span, 0.0, 1.0)
    return dark
