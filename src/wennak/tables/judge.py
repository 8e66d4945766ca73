"""What taking a reading gains over leaving its words as text: a fitted model over what can be seen of it.

Two sums of boosted regression trees lie in data/judge.npz, fitted by tools/fit_judge.py on drawn documents
with known truth. The one estimates how similar a reading is to a true table; the other how likely it is the
best of all readings of its table. The first knows tables from text, the second right readings from near ones.
"""

from __future__ import annotations

import functools

import numpy as np

from ..ink import Floats
from .evidence import FEATURES
from .trees import Trees, load_trees

# The share of the second in what is gained.
BEST = 0.4


def judge(seen: Floats) -> Floats:
    """Return the expected gain (0..1) of readings, given as rows of FEATURES."""
    alike, best = _trees()
    likely = 1 / (1 + np.exp(-best.sums(seen)))
    out: Floats = (1 - BEST) * alike.sums(seen).clip(0, 1) + BEST * likely
    return out


@functools.cache
def _trees() -> tuple[Trees, Trees]:
    alike, best = load_trees("judge.npz", FEATURES)
    return alike, best
