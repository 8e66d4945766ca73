"""Grey -> ink or no ink."""

from __future__ import annotations

import numpy as np
from PIL import Image

from .picture import Grey, Mask


def otsu(grey: Grey) -> int:
    """Return the level below which a pixel is ink: the two classes that it parts differ most (Otsu, A
    threshold selection method from gray-level histograms, 1979).
    """
    counts = np.array(Image.fromarray(grey).histogram(), dtype=np.float64)
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
    mask: Mask = grey < otsu(grey)
    return mask
