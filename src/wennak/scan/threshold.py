"""Grey -> ink or no ink."""

from __future__ import annotations

import numpy as np
from PIL import Image

from ..ink import Floats
from .picture import Grey, Mask

# Most of a page is ground. By how much the noise darkens the darkest quarter of it, ink does this many times:
# without that a blank page would be cut through its noise.
NOISE = 8
# Ink that is no more levels than this darker than noise may be is hardly darker.
HARDLY = 4


def ink_level(grey: Grey) -> int:
    """Return the level below which a pixel of an evenly lit page is ink."""
    return min(_levels(grey))


def is_noisy(grey: Grey) -> bool:
    """Return whether some ink of an evenly lit page is hardly darker than its noise may be."""
    ink, noise = _levels(grey)
    return noise < ink + HARDLY


def _levels(grey: Grey) -> tuple[int, int]:
    """The level that parts ink from ground, and that below which noise does not reach."""
    counts = np.array(Image.fromarray(grey).histogram(), dtype=np.float64)
    quarter = int(np.searchsorted(counts.cumsum(), counts.sum() / 4))
    return otsu(counts), 255 - NOISE * (255 - quarter)


def otsu(counts: Floats) -> int:
    """Return the level of a histogram that parts two classes so that they differ most (Otsu, A threshold
    selection method from gray-level histograms, 1979).
    """
    total = counts.cumsum()
    sums = (counts * np.arange(256)).cumsum()
    below, above = total[:-1], total[-1] - total[:-1]
    sound = (below > 0) & (above > 0)
    if not sound.any():
        return 128
    between = np.zeros(255)
    apart = sums[:-1] / np.maximum(below, 1) - (sums[-1] - sums[:-1]) / np.maximum(above, 1)
    between[sound] = (below * above * apart**2)[sound]
    return int(between.argmax()) + 1


def inked(grey: Grey) -> Mask:
    """Return which pixels are ink."""
    mask: Mask = grey < ink_level(grey)
    return mask
