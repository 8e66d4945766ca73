"""Scores of tables against their truth: plain functions, cells in, a number out."""

from __future__ import annotations

from collections.abc import Sequence
from collections.abc import Set as AbstractSet

import numpy as np
from scipy.optimize import linear_sum_assignment

from .truth import GridCell


def filled(cells: AbstractSet[GridCell]) -> frozenset[GridCell]:
    """Return the cells that hold text: empty ones say nothing that their neighbours' places do not."""
    return frozenset(c for c in cells if c[4])


def cell_f1(truth: AbstractSet[GridCell], read: AbstractSet[GridCell]) -> float:
    """F1 of cells, 0..1: a cell is right when its text, place and span are all those of the truth.

    Precision is the share of read cells that are right, recall the share of true cells that were read;
    F1 is their harmonic mean. Two empty tables agree (1.0).

    >>> cell_f1({(0, 0, 1, 1, "a"), (0, 1, 1, 1, "b")}, {(0, 0, 1, 1, "a"), (0, 1, 1, 1, "c")})
    0.5
    """
    t, r = filled(truth), filled(read)
    return 2 * len(t & r) / (len(t) + len(r)) if t or r else 1.0


def word_overlap(truth: AbstractSet[GridCell], read: AbstractSet[GridCell]) -> float:
    """Dice coefficient of the sets of words in two tables, 0..1; tells which tables belong together."""
    t = {w for c in truth for w in c[4].split()}
    r = {w for c in read for w in c[4].split()}
    return 2 * len(t & r) / (len(t) + len(r)) if t or r else 0.0


def match_tables(
    truth: Sequence[AbstractSet[GridCell]], read: Sequence[AbstractSet[GridCell]], least: float = 0.1
) -> list[tuple[int, int]]:
    """Return pairs (truth, read) of tables, one to one, with the greatest total word overlap.

    Pairs that overlap by `least` or less are no match. Optimal assignment after Kuhn (1955).
    """
    if not truth or not read:
        return []
    overlap = np.array([[word_overlap(t, r) for r in read] for t in truth])
    rows, columns = linear_sum_assignment(-overlap)
    return [(int(i), int(j)) for i, j in zip(rows, columns, strict=True) if overlap[i, j] > least]
