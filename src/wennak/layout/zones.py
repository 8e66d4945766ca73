"""Columns of prose on a page: zones that are read one after the other."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..ink import Ints
from .page import PageLayout

# A line of prose is at least this wide (em) and has at least so many words.
_LINE = 11.0
_WORDS = 3
# Two columns of prose run side by side over at least so many rows.
_ROWS = 5
# In a column of prose most lines run to its right edge: at least this share of lines fills this much.
_FULL_LINES = 0.5
_FILL = 0.8
_SPAN_GAP = 0.75


@dataclass(slots=True)
class Zone:
    """A column: its left and right edge and the words in it, in page order."""

    x0: float
    x1: float
    members: Ints


def find_zones(layout: PageLayout, members: Ints) -> list[Zone]:
    """Split words into columns of prose, left to right; one zone where there is one column.

    Words that cross a gutter between columns go with the left one.
    """
    cuts = page_gutters(layout, members)
    w = layout.words
    if not len(members):
        return []
    left, right = float(w.x0[members].min()), float(w.x1[members].max())
    column = np.searchsorted(np.array(cuts), w.x0[members] + 1e-6)
    edges = [left, *cuts, right]
    return [
        Zone(edges[k], edges[k + 1], members[column == k])
        for k in range(len(cuts) + 1)
        if (column == k).any()
    ]


def page_gutters(layout: PageLayout, members: Ints) -> list[float]:
    """Return the x of gutters with columns of prose on both sides, from left to right."""
    gaps = _gaps_in_prose(layout, members[~layout.words.turned[members]])
    cuts: list[float] = []
    while len(gaps) >= _ROWS:
        # The x that lies in most of the gaps.
        starts = sorted({g[0] for g in gaps})
        best = max(starts, key=lambda s: sum(g[0] <= s + 0.01 < g[1] for g in gaps))
        chosen = [g for g in gaps if g[0] <= best + 0.01 < g[1]]
        gaps = [g for g in gaps if not g[0] <= best + 0.01 < g[1]]
        if len(chosen) < _ROWS:
            break
        low, high = max(g[0] for g in chosen), min(g[1] for g in chosen)
        left, right = min(g[2] for g in chosen), max(g[3] for g in chosen)
        full_left = np.mean([(g[0] - left) / max(low - left, 1) > _FILL for g in chosen])
        full_right = np.mean([(g[3] - high) / max(right - high, 1) > _FILL for g in chosen])
        if full_left >= _FULL_LINES and full_right >= _FULL_LINES:
            cuts.append((low + high) / 2)
    return sorted(cuts)


def _gaps_in_prose(layout: PageLayout, members: Ints) -> list[tuple[float, float, float, float]]:
    """Wide gaps between two long stretches of words in one row.

    Each as (end of the left one, start of the right one, start of the left one, end of the right one).
    """
    w = layout.words
    if len(members) < 2 * _WORDS:
        return []
    row, x0, x1 = w.row[members], w.x0[members], w.x1[members]
    head = np.ones(len(members), dtype=np.bool_)
    head[1:] = (row[1:] != row[:-1]) | (x0[1:] - x1[:-1] > _SPAN_GAP * w.size[members][1:])
    starts = np.flatnonzero(head)
    count = np.diff(np.append(starts, len(members)))
    left, right, at = x0[starts], np.maximum.reduceat(x1, starts), row[starts]
    long = (right - left >= _LINE * layout.em) & (count >= _WORDS)
    pair = np.flatnonzero((at[1:] == at[:-1]) & long[1:] & long[:-1])
    columns = (right[pair], left[pair + 1], left[pair], right[pair + 1])
    return list(zip(*(c.tolist() for c in columns), strict=True))
