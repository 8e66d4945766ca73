"""Boosted regression trees, evaluated with NumPy: the form in which what was fitted is kept and shipped."""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import dataclass
from importlib.resources import files
from typing import Any

import numpy as np

from ..ink import Floats, Ints


@dataclass(slots=True)
class Trees:
    """A sum of regression trees.

    All nodes of all trees lie in flat arrays: a case goes left where its feature is at most the threshold;
    leaves point to themselves. `depth` is the longest way down.
    """

    base: float
    roots: Ints
    feature: Ints
    threshold: Floats
    left: Ints
    right: Ints
    value: Floats
    depth: int

    def sums(self, cases: Floats) -> Floats:
        """Return the sum of the trees for each case, given as rows of features (cases, features)."""
        at = np.broadcast_to(self.roots, (len(cases), len(self.roots)))
        rows = np.arange(len(cases))[:, None]
        for _ in range(self.depth):
            left = cases[rows, self.feature[at]] <= self.threshold[at]
            at = np.where(left, self.left[at], self.right[at])
        out: Floats = self.base + self.value[at].sum(axis=1)
        return out


def load_trees(name: str, features: Sequence[str]) -> list[Trees]:
    """Return the sums of trees of a file in data/. Raises ValueError if they were fitted on other
    features.
    """
    data = json.loads(files("wennak.tables").joinpath("data", name).read_text(encoding="utf-8"))
    if data["features"] != list(features):
        raise ValueError(f"data/{name} was fitted on other features; fit it again (CONTRIBUTING.md).")
    return [_trees(part) for part in data["sums"]]


def _trees(part: dict[str, Any]) -> Trees:
    roots, feature, left, right = (
        np.array(part[key], dtype=np.int64) for key in ("roots", "feature", "left", "right")
    )
    threshold, value = (np.array(part[key], dtype=np.float64) for key in ("threshold", "value"))
    leaf, own = left < 0, np.arange(len(left))
    left, right = np.where(leaf, own, left), np.where(leaf, own, right)
    return Trees(part["base"], roots, feature, threshold, left, right, value, part["depth"])
