"""Where, between the rows of a strip, something may begin or end."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..ink import Bools, Floats, Ints, median
from ..layout import PageLayout
from ..model import Box
from .rows import UNDER, Row
from .rulings import lines_in
from .strip import RowFacts, Strip

# So many rows at either end may be captions, titles and notes.
AROUND = 4
# Rules, or ends of them, at less than this share of the seams are few.
FEW = 0.4
# Pieces of one upright rule, which leaves out labels of groups, are nearer to each other than this (em).
PIECES = 3.0


def seam_strengths(layout: PageLayout, strip: Strip, first: int, last: int) -> Floats:
    """Return how likely something begins or ends between each two rows of a stretch; a strip keeps it."""
    if (first, last) not in strip.seams:
        strip.seams[first, last] = _strengths(layout, strip, first, last)
    return strip.seams[first, last]


def _strengths(layout: PageLayout, strip: Strip, first: int, last: int) -> Floats:
    f, em = strip.facts, layout.em
    a, b = slice(first, last - 1), slice(first + 1, last)
    bottoms = np.maximum.accumulate(f.y1[first:last])[:-1]
    rooms = (f.y0[b] - bottoms) / em
    usual = median(rooms) if len(rooms) else 0.0
    # Plain rows under a column other than the first go on in its cells.
    speaks = f.parts[first:last] | _hanging(strip.rows[first:last], f.parts[first:last], em)
    out: Floats = np.clip(rooms - usual, -0.5, 2.5)
    out = out + 1.0 * (speaks[:-1] != speaks[1:]) - 1.0 * (speaks[1:] & ~f.parts[b])
    out += 1.0 * (np.abs(f.size[a] / f.size[b] - 1) > 0.06) + 0.4 * (f.bold[a] != f.bold[b])
    out += 3.0 * f.named[b] + 1.0 * f.named[a] + 0.7 * (f.prose[a] != f.prose[b])
    # Plain rows near the ends may be captions, titles and notes.
    n = last - first - 1
    at = np.arange(n)
    plain = ~speaks[:-1] | ~speaks[1:]
    out += 0.7 * (plain & ((at < AROUND + 2) | (at >= n - AROUND - 2)))
    out += _changes(f, strip.rows, first, last, em)
    head = next((t for t, p in zip(f.texts[first:last], f.parts[first:last], strict=True) if p), "")
    out += 3.0 * np.array([t == head for t in f.texts[b]])
    out += _rule_changes(layout, strip, first, last)
    return out


def _hanging(rows: Sequence[Row], parts: Bools, em: float) -> Bools:
    """Which plain rows begin right of where the second part of the last row in parts begins, or near it."""
    out = np.zeros(len(rows), dtype=np.bool_)
    edge = np.inf
    for k, row in enumerate(rows):
        if parts[k]:
            edge = row.spans[1][0] if len(row.spans) > 1 else edge
        else:
            out[k] = row.x0 > edge - UNDER * em
    return out


def _changes(f: RowFacts, rows: Sequence[Row], first: int, last: int, em: float) -> Floats:
    """How much the starts of text in the rows above and below each seam differ, 0..1.5."""
    n = last - first
    left = min(r.x0 for r in rows[first:last])
    width = max(r.x1 for r in rows[first:last]) - left
    bins = int(width / (0.5 * em)) + 2
    own = [r.spans if part else [] for r, part in zip(rows[first:last], f.parts[first:last], strict=True)]
    spans = np.array([s for part in own for s in part]).reshape(-1, 2)
    begin, end = ((spans - left) / (0.5 * em)).astype(np.int64).T
    row = np.repeat(np.arange(n), [len(part) for part in own])
    edges = np.zeros((n, bins + 1), dtype=np.int64)
    np.add.at(edges, (row, begin), 1)
    np.add.at(edges, (row, end + 1), -1)
    covered = np.cumsum(edges, axis=1)[:, :-1] > 0
    total: Ints = np.concatenate((np.zeros((1, bins), dtype=np.int64), np.cumsum(covered, axis=0)))
    at = np.arange(1, n)
    above = total[at] - total[np.maximum(at - 4, 0)] > 0
    below = total[np.minimum(at + 4, n)] - total[at] > 0
    both, any_ = (above & below).sum(axis=1), (above | below).sum(axis=1)
    enough = above.any(axis=1) & below.any(axis=1)
    out: Floats = np.where(enough, 1.5 * (1 - both / np.maximum(any_, 1)), 0.0)
    return out


def _rule_changes(layout: PageLayout, strip: Strip, first: int, last: int) -> Floats:
    """1 where one of few rules runs between two rows, or shading begins or ends there, and 1 more where an
    upright rule does, 2 where several do. Where rows are shaded in turn, rules alone tell.
    """
    rows = strip.rows[first:last]
    box = Box(min(r.x0 for r in rows), rows[0].y0, max(r.x1 for r in rows), max(r.y1 for r in rows))
    middles = np.array([(r.y0 + r.y1) / 2 for r in rows])
    ends = _upright_ends(layout, box)
    out = np.zeros(len(rows) - 1)
    # Rules alone are looked for where these and shading are not few.
    rules = (lines_in(layout, box, shaded) for shaded in (True, False))
    for sets, most in ((rules, 1), ((ends,), 2)):
        for at in sets:
            between = np.searchsorted(middles, at) - 1
            counts = np.bincount(between[(between >= 0) & (between < len(out))], minlength=len(out))
            if (counts > 0).sum() < FEW * len(out):
                out += np.minimum(counts, most)
                break
    return out


def _upright_ends(layout: PageLayout, box: Box) -> Floats:
    """The y at which upright rules within the sides of a box begin and end; they may be drawn in pieces."""
    upright, em = layout.rules.upright, layout.em
    inside = np.flatnonzero((upright.at > box.x0) & (upright.at < box.x1))
    inside = inside[np.lexsort((upright.low[inside], np.round(upright.at[inside])))]
    at, low, high = upright.at[inside], upright.low[inside], upright.high[inside]
    begins = np.ones(len(at), dtype=np.bool_)
    begins[1:] = (np.abs(np.diff(at)) >= 1) | (low[1:] - high[:-1] >= PIECES * em)
    out: Floats = np.concatenate((low[begins], high[np.roll(begins, -1)]))
    return out
