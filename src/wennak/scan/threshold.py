"""Shares of light -> ink or no ink."""

from __future__ import annotations

import numpy as np
from scipy import ndimage

from ..ink import Floats
from .light import Shares
from .picture import Mask

# Width of the window of the local threshold, in mm, and the two weights of Sauvola and Pietikainen (Adaptive
# document image binarization, 2000).
WINDOW, WEIGHT, RANGE = 5.0, 0.2, 0.5


def otsu(shares: Shares) -> float:
    """Return the threshold between the two classes of shares that differ most (Otsu 1979).

    Shares are 0..1; the classes are told apart in 256 steps.
    """
    counts, edges = np.histogram(shares, bins=256, range=(0.0, 1.0))
    total = counts.cumsum()
    sums = (counts * np.arange(256)).cumsum()
    below, above = total[:-1], total[-1] - total[:-1]
    sound = (below > 0) & (above > 0)
    if not sound.any():
        return 0.5
    between = np.zeros(255)
    mean_below = sums[:-1] / np.maximum(below, 1)
    mean_above = (sums[-1] - sums[:-1]) / np.maximum(above, 1)
    between[sound] = (below * above * (mean_below - mean_above) ** 2)[sound]
    return float(edges[int(between.argmax()) + 1])


def sauvola(shares: Shares, dpi: float) -> Floats:
    """Return the threshold of each pixel from mean and deviation around it."""
    size = max(5, round(WINDOW * dpi / 25.4) | 1)
    mean = ndimage.uniform_filter(shares, size)
    square = ndimage.uniform_filter(shares * shares, size)
    deviation = np.sqrt(np.maximum(square - mean * mean, 0.0))
    limit: Floats = mean * (1 + WEIGHT * (deviation / RANGE - 1))
    return limit


def inked(shares: Shares, dpi: float) -> Mask:
    """Return which pixels are ink."""
    mask: Mask = shares < otsu(shares)
    return mask
