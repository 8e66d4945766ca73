"""Columns right beside each other: where texts end below each other, and hardly more than a blank behind
them others begin so, as numbers set to the right before text set to the left do. Where a page draws its
blanks, but none between these, either is enough.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..ink import distinct, median
from ..layout import PageLayout
from .grid import Cut
from .places import Place
from .rows import SPAN_GAP

# Texts begin, and end, below each other within this (em), in so many rows and this share of them.
_NEAR, _ROWS, _SHARE = 0.12, 3, 0.25
# Words stand across one in no more than this share of the rows, and one more.
_ACROSS = 0.12
# Of more pairs of words, those of long justified text, none is sought; two are no nearer than this (em).
_MOST, _APART = 400, 0.7

# Where columns fit their texts, the longest is so near (em) to the next column, and this share of the rows or
# more has several of them.
_FIT, _MOST_PARTED = 1.5, 0.6


def inner_edges(layout: PageLayout, place: Place) -> list[float]:
    """Return the x between such texts in the rows of a place, from left to right."""
    w, strip, rows = layout.words, place.strip, place.last - place.first
    least = max(_ROWS, _SHARE * rows)
    first, last = strip.starts[place.first], strip.starts[place.last]
    at = strip.tight[np.searchsorted(strip.tight, first) : np.searchsorted(strip.tight, last)] - first
    if not least <= len(at) <= _MOST:
        return []
    index = place.index
    x0, x1, row, em = w.x0[index], w.x1[index], w.row[index], median(w.size[index])
    # What stands close before it is of the same text.
    close = (at > 0) & (x0[at] - x1[at - 1] < SPAN_GAP * em) & (row[at] == row[at - 1])
    firsts = (at - close).tolist()
    texts = np.array(
        [
            " ".join(w.texts[i] for i in index[a : b + 1].tolist())
            for a, b in zip(firsts, at.tolist(), strict=True)
        ]
    )
    end, begin, near = x1[at], x0[at + 1], _NEAR * em
    ended, begun = np.abs(end - end[:, None]) < near, np.abs(begin - begin[:, None]) < near
    apart = w.apart[index[at + 1]]
    alike = (ended & begun) | (apart & apart[:, None] & (ended | begun))
    found: list[float] = []
    for k in np.argsort(-alike.sum(axis=1), kind="stable").tolist():
        own = alike[k]
        low, high = float(end[own & (end <= begin[k])].max()), float(begin[own & (begin >= end[k])].min())
        x = (low + high) / 2 if low < high else float(end[k] + begin[k]) / 2
        if len(distinct(row[at[own]])) < least:
            break
        # One text again and again ends at one place wherever it is set.
        several = bool((texts[own] != texts[k]).any())
        across = len(distinct(row[(x0 < x) & (x1 > x)]))
        apart = all(abs(x - other) > _APART * em for other in found)
        if several and apart and across <= 1 + _ACROSS * rows:
            found.append(x)
    return sorted(found)


def joins_edges(layout: PageLayout, cut: Cut, edges: Sequence[float]) -> bool:
    """Return whether pieces of a cut place hold words on both sides of any of its inner edges, in as many
    rows as make one.
    """
    if not edges:
        return False
    w, index, pieces = layout.words, cut.place.index, len(cut.row)
    middle = (w.x0 + w.x1)[index] / 2
    piece = np.repeat(np.arange(pieces), np.diff(cut.starts))
    least = max(_ROWS, _SHARE * (cut.place.last - cut.place.first))
    sides = ([np.bincount(piece[s], minlength=pieces) > 0 for s in (middle < x, middle > x)] for x in edges)
    return any((left & right).sum() >= least for left, right in sides)


def is_fitted(layout: PageLayout, cut: Cut) -> bool:
    """Return whether the columns of a cut place are as wide as their longest text, each text set alike in its
    column and without a blank before the next one, on a page that draws its blanks: as programs lay out
    tables. Upright rules tell more.
    """
    w, index = layout.words, cut.place.index
    apart = int(w.apart[index].sum())
    if cut.place.cuts or apart < _ROWS:
        return False
    em = median(w.size[index])
    first, last = index[cut.starts[:-1]], index[cut.starts[1:] - 1]
    follows = np.append(False, (cut.row[1:] == cut.row[:-1]) & (cut.first[1:] == cut.last[:-1] + 1))
    at = np.flatnonzero(follows)
    parted, rows = distinct(cut.row[at]), cut.place.last - cut.place.first
    if len(parted) < max(_ROWS, _MOST_PARTED * rows) or parted[0] > 0 or parted[-1] < rows - 1:
        return False
    if apart > len(at) or not w.apart[first[at]].all():
        return False
    room = (w.x0[first[at]] - w.x1[last[at - 1]]) / em
    for column in range(1, cut.columns):
        own = cut.first[at] == column
        if own.sum() < _ROWS or float(room[own].min()) > _FIT:
            return False
        begins, ends = w.x0[first[at[own]]], w.x1[last[at[own]]]
        off = (np.abs(side - median(side)) > _NEAR * em for side in (begins, ends, (begins + ends) / 2))
        # A label may be set otherwise than its column.
        if min(int(side.sum()) for side in off) > 1:
            return False
    return True
