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

    All nodes of all trees lie in flat arrays: a case goes on to `left` where its feature is at most the
    threshold, and otherwise to the node behind that; leaves point to themselves. `depth` is the longest way
    down.
    """

    base: float
    roots: Ints
    feature: Ints
    threshold: Floats
    left: Ints
    value: Floats
    depth: int

    def sums(self, cases: Floats) -> Floats:
        """Return the sum of the trees for each case, given as rows of features (cases, features)."""
        flat, width = np.ascontiguousarray(cases).ravel(), cases.shape[1]
        start = np.repeat(np.arange(len(cases)) * width, len(self.roots))
        at = np.tile(self.roots, len(cases))
        for _ in range(self.depth):
            value = flat.take(start + self.feature.take(at))
            at = self.left.take(at) + (value > self.threshold.take(at))
        out: Floats = self.base + self.value.take(at).reshape(len(cases), -1).sum(axis=1)
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
    # Children are put side by side; behind them lie the roots. Nothing is above the threshold of a leaf.
    inner = np.flatnonzero(left >= 0)
    order = np.concatenate((roots, np.stack((left[inner], right[inner]), axis=1).ravel()))
    place = np.empty(len(left), dtype=np.int64)
    place[order] = np.arange(len(order))
    leaf = left[order] < 0
    return Trees(
        part["base"], place[roots], feature[order], np.where(leaf, np.inf, threshold[order]),
        np.where(leaf, np.arange(len(order)), place[left[order]]), value[order], part["depth"],
    )  # fmt: skip
