"""Statistics of values that belong to numbered groups, all groups at once."""

from __future__ import annotations

import numpy as np

from ..ink import Floats, Ints


def count(group: Ints, groups: int) -> Floats:
    """Return how many values each group has."""
    return np.bincount(group, minlength=groups).astype(np.float64)


def total(values: Floats, group: Ints, groups: int) -> Floats:
    """Return the sum of each group."""
    return np.bincount(group, weights=values, minlength=groups).astype(np.float64)


def mean(values: Floats, group: Ints, groups: int, empty: float = 0.0) -> Floats:
    """Return the mean of each group, `empty` for one without values."""
    n = count(group, groups)
    return np.where(n > 0, total(values, group, groups) / np.maximum(n, 1), empty)


def spread(values: Floats, group: Ints, groups: int) -> Floats:
    """Return the standard deviation of each group, 0 for one without values."""
    centre = mean(values, group, groups)
    return np.sqrt(mean((values - centre[group]) ** 2, group, groups))


def least(values: Floats, group: Ints, groups: int, empty: float = np.inf) -> Floats:
    """Return the smallest value of each group, `empty` for one without values."""
    out = np.full(groups, np.inf)
    np.minimum.at(out, group, values)
    return np.where(np.isinf(out), empty, out)


def most(values: Floats, group: Ints, groups: int, empty: float = -np.inf) -> Floats:
    """Return the largest value of each group, `empty` for one without values."""
    out = np.full(groups, -np.inf)
    np.maximum.at(out, group, values)
    return np.where(np.isinf(out), empty, out)


def median(values: Floats, group: Ints, groups: int, empty: float = 0.0) -> Floats:
    """Return the (lower) median of each group, `empty` for one without values."""
    order = np.lexsort((values, group))
    n = np.bincount(group, minlength=groups)
    at = np.cumsum(n) - n + np.maximum(n - 1, 0) // 2
    out = np.full(groups, empty)
    out[n > 0] = values[order][at[n > 0]]
    return out
