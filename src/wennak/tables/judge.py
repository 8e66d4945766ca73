"""What taking a reading gains over leaving its words as text: a fitted model over what can be seen of it.

Two sums of boosted regression trees lie in data/judge.npz, fitted by tools/fit_judge.py on drawn documents
with known truth. The one estimates how similar a reading is to a true table; the other how likely it is the
best of all readings of its table. The first knows tables from text, the second right readings from near ones.
Pages that are pictures are judged by the mean of these and of two sums that were fitted on such pages alone
(data/judge-pictures.npz): places and sizes are rough there, and thin rules are not seen.
"""

from __future__ import annotations

import functools

import numpy as np

from ..ink import Floats
from ..layout import PageLayout
from .evidence import FEATURES, Judge
from .trees import Trees, load_trees

# The share of the second in what is gained.
BEST = 0.4


def judge_of(layout: PageLayout) -> Judge:
    """Return the judge of the readings of a page."""
    return _judge_of_pictures if layout.ink.source == "picture" else judge


def judge(seen: Floats) -> Floats:
    """Return the expected gain (0..1) of readings, given as rows of FEATURES."""
    return _gains("judge.npz", seen)


def _judge_of_pictures(seen: Floats) -> Floats:
    out: Floats = (judge(seen) + _gains("judge-pictures.npz", seen)) / 2
    return out


def _gains(name: str, seen: Floats) -> Floats:
    alike, best = _trees(name)
    likely = 1 / (1 + np.exp(-best.sums(seen)))
    out: Floats = (1 - BEST) * alike.sums(seen).clip(0, 1) + BEST * likely
    return out


@functools.cache
def _trees(name: str) -> tuple[Trees, Trees]:
    alike, best = load_trees(name, FEATURES)
    return alike, best
