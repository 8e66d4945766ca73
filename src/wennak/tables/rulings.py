"""Rules and edges of shading that run through a part of a page."""

from __future__ import annotations

import numpy as np

from ..layout import PageLayout
from ..model import Box

# A rule across this share of the width parts rows; one along this share of the height parts columns.
ACROSS, ALONG = 0.6, 0.5


def upright_in(layout: PageLayout, box: Box) -> list[float]:
    """Return the x of upright rules along a box, each once: of one drawn in pieces, all count together."""
    upright, em = layout.rules.upright, layout.em
    shared = np.minimum(upright.high, box.y1) - np.maximum(upright.low, box.y0)
    inside = (upright.at > box.x0 + 0.2 * em) & (upright.at < box.x1 - 0.2 * em) & (shared > 0)
    if not inside.any():
        return []
    at, length = upright.at[inside], shared[inside]
    order = np.argsort(at, kind="stable")
    group = np.concatenate(([0], np.cumsum(np.diff(at[order]) > 0.3 * em)))
    total = np.bincount(group, weights=length[order])
    middle = np.bincount(group, weights=at[order]) / np.bincount(group)
    found: list[float] = middle[total > ALONG * (box.y1 - box.y0)].tolist()
    return found


def lines_in(layout: PageLayout, box: Box) -> list[float]:
    """Return the y of level rules, and of edges of shading, that run across most of a box."""
    level, shades, em = layout.rules.level, layout.rules.shades, layout.em
    y = np.concatenate((level.at, shades.y0, shades.y1))
    if not len(y):
        return []
    kind = np.repeat([0, 1, 2], [len(level), len(shades), len(shades)])
    low = np.concatenate((level.low, shades.x0, shades.x0))
    high = np.concatenate((level.high, shades.x1, shades.x1))
    shared = np.minimum(high, box.x1) - np.maximum(low, box.x0)
    near = (y > box.y0 - em) & (y < box.y1 + em) & (shared > 0)
    # Shading behind the whole says nothing of its rows.
    whole = np.concatenate((np.zeros(len(level)), np.tile(shades.y1 - shades.y0, 2)))
    near &= (whole < 0.9 * (box.y1 - box.y0)) | (box.y1 - box.y0 < 2 * em)
    y, kind, shared = y[near], kind[near], shared[near]
    order = np.lexsort((y, kind))
    y, kind, shared = y[order], kind[order], shared[order]
    if not len(y):
        return []
    # Pieces at one height count together: one edge a cell, as shading often is drawn.
    group = np.concatenate(([0], np.cumsum((np.diff(y) > 1.0) | (np.diff(kind) > 0))))
    total = np.bincount(group, weights=shared)
    middle = np.bincount(group, weights=y) / np.bincount(group)
    found = np.sort(middle[total > ACROSS * (box.x1 - box.x0)])
    return [float(v) for k, v in enumerate(found) if k == 0 or v - found[k - 1] > 2.0]
