"""Boosted regression trees, evaluated with NumPy: the form in which what was fitted is kept and shipped.

A file is an archive of NumPy's (.npz): `about` holds JSON (format, version, what it was fitted on, names of
features, and `base` and `depth` of each sum); of the k-th sum, `k.roots` holds the node where each tree
begins, and of each node `k.feature` and `k.threshold` what it asks, `k.left` and `k.right` where to go on
(-1 at leaves) and `k.value` what a leaf adds.
"""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import dataclass
from importlib.resources import files
from typing import IO, Any

import numpy as np

from ..ink import Floats, Ints, looked_up

# Features are numbered below 2 to this power.
FEATURE_BITS = 10
_FEATURE = (1 << FEATURE_BITS) - 1


@dataclass(slots=True)
class Trees:
    """A sum of regression trees.

    All nodes of all trees lie in flat arrays: a case goes on to the node on the left where its feature is at
    most the threshold, and otherwise to the node behind that; leaves point to themselves. `node` holds both,
    the feature in its last FEATURE_BITS, since looking up takes most of the time. `depth` is the longest way
    down.
    """

    base: float
    roots: Ints
    node: Ints
    threshold: Floats
    value: Floats
    depth: int

    def sums(self, cases: Floats) -> Floats:
        """Return the sum of the trees for each case, given as rows of features (cases, features)."""
        flat, width = np.ascontiguousarray(cases).ravel(), cases.shape[1]
        start = np.repeat(np.arange(len(cases)) * width, len(self.roots))
        # All cases begin at the same nodes.
        node, threshold = self.node[self.roots], self.threshold[self.roots]
        at = ((node >> FEATURE_BITS) + (cases[:, node & _FEATURE] > threshold)).ravel()
        for _ in range(self.depth - 1):
            node = looked_up(self.node, at)
            value = looked_up(flat, start + (node & _FEATURE))
            at = (node >> FEATURE_BITS) + (value > looked_up(self.threshold, at))
        out: Floats = self.base + looked_up(self.value, at).reshape(len(cases), -1).sum(axis=1)
        return out


# What is known of each node of a sum of trees, and how it is kept.
PARTS = {
    "roots": np.int32, "feature": np.int16, "left": np.int32, "right": np.int32,
    "threshold": np.float64, "value": np.float64,
}  # fmt: skip


def load_trees(name: str, features: Sequence[str]) -> list[Trees]:
    """Load the sums of trees of a file in data/. Raises ValueError if they were fitted on other
    features.
    """
    with files("wennak.tables").joinpath("data", name).open("rb") as file:
        about, sums = read_sums(file)
    if about["features"] != list(features):
        raise ValueError(f"data/{name} was fitted on other features; fit it again (CONTRIBUTING.md).")
    return [prepared(part) for part in sums]


def read_sums(file: IO[bytes]) -> tuple[dict[str, Any], list[dict[str, Any]]]:
    """Read what a file says of itself, and its sums as they are kept."""
    with np.load(file, allow_pickle=False) as kept:
        about = json.loads(str(kept["about"]))
        sums = [
            {**own, **{key: kept[f"{k}.{key}"] for key in PARTS}} for k, own in enumerate(about.pop("sums"))
        ]
    return about, sums


def write_sums(file: IO[bytes], about: dict[str, Any], sums: Sequence[dict[str, Any]]) -> None:
    """Write sums of trees, and what is to be said of them, as `read_sums` reads them."""
    own = [{"base": part["base"], "depth": part["depth"]} for part in sums]
    arrays: dict[str, Any] = {
        f"{k}.{key}": np.array(part[key], dtype=kind)
        for k, part in enumerate(sums)
        for key, kind in PARTS.items()
    }
    np.savez_compressed(file, about=np.array(json.dumps({**about, "sums": own})), **arrays)


def prepared(part: dict[str, Any]) -> Trees:
    """Return a sum as it is evaluated: the roots, behind them children side by side."""
    roots, feature, left, right = (
        np.array(part[key], dtype=np.int64) for key in ("roots", "feature", "left", "right")
    )
    threshold, value = (np.array(part[key], dtype=np.float64) for key in ("threshold", "value"))
    inner = np.flatnonzero(left >= 0)
    order = np.concatenate((roots, np.stack((left[inner], right[inner]), axis=1).ravel()))
    place = np.empty(len(left), dtype=np.int64)
    place[order] = np.arange(len(order))
    leaf = left[order] < 0
    # Nothing is above the threshold of a leaf.
    left = np.where(leaf, np.arange(len(order)), place[left[order]])
    node = left << FEATURE_BITS | np.where(leaf, 0, feature[order])
    return Trees(
        part["base"],
        place[roots],
        node,
        np.where(leaf, np.inf, threshold[order]),
        value[order],
        part["depth"],
    )
