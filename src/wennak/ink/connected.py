"""What hangs together."""

from __future__ import annotations

import numpy as np

from .arrays import Ints


def connected(a: Ints, b: Ints, count: int) -> Ints:
    """Return the number of the component of each of `count` things, where `a[i]` and `b[i]` touch.

    Components are numbered by their first thing. Every thing takes on the least label that it touches, and
    labels follow their labels, until touching things agree: few rounds, however long the chains.
    (SciPy has this, but loading its sparse matrices takes longer than reading a page.)
    """
    label = np.arange(count)
    while (label[a] != label[b]).any():
        low = np.minimum(label[a], label[b])
        for side in (a, b):
            # What a thing is labelled by is lowered, which takes along all that bear this label.
            np.minimum.at(label, label[side], low)
        while (label[label] != label).any():
            label = label[label]
    numbers: Ints = np.unique(label, return_inverse=True)[1].astype(np.int64)
    return numbers
