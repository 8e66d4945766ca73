"""Rules and edges of shading that run through a part of a page."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..ink import Bools, Floats
from ..layout import PageLayout
from ..model import Box
from .rows import Row

# A rule across this share of the width parts rows; one along this share of the height parts columns.
ACROSS, ALONG = 0.6, 0.5
# Level rules with this much room (em) between their ends end where a table ends; with less than this they are
# one, drawn cell by cell.
BREAK = 0.8
TOUCH = 0.1
# An upright rule is as tall as what it stands in when it ends this near (em): labels may stand above it.
TALL = 1.5


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


def level_edges(layout: PageLayout) -> tuple[Floats, Floats, Floats]:
    """Return the y of level rules, then of the upper and the lower edges of shading, and the x that each runs
    from and to.
    """
    level, shades = layout.rules.level, layout.rules.shades
    return (
        np.concatenate((level.at, shades.y0, shades.y1)),
        np.concatenate((level.low, shades.x0, shades.x0)),
        np.concatenate((level.high, shades.x1, shades.x1)),
    )


def lines_in(layout: PageLayout, box: Box, shaded: bool = True) -> list[float]:
    """Return the y of level rules, and if `shaded` of edges of shading, that run across most of a box."""
    level, shades, em = layout.rules.level, layout.rules.shades, layout.em
    y, low, high = level_edges(layout)
    if not len(y if shaded else level):
        return []
    kind = np.repeat([0, 1, 2], [len(level), len(shades), len(shades)])
    shared = np.minimum(high, box.x1) - np.maximum(low, box.x0)
    near = (y > box.y0 - em) & (y < box.y1 + em) & (shared > 0) & ((kind == 0) | shaded)
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


def stand_apart(layout: PageLayout, rows: Sequence[Row], box: Box) -> bool:
    """Return whether rows in a box are those of tables side by side: all level rules and shading in it end at
    one gap and begin again behind it, over several columns each. Rules drawn column by column end at each.
    """
    rules, em = layout.rules, layout.em
    level, shades = rules.level, rules.shades
    if len(level) + 2 * len(shades) < 4:
        return False
    at, low, high = level_edges(layout)
    inside = (at > box.y0 - em) & (at < box.y1 + em) & (low < box.x1) & (high > box.x0)
    if inside.sum() < 4:
        return False
    at, low, high = in_one(at[inside], low[inside], high[inside], em)
    order = np.argsort(low, kind="stable")
    reach = np.maximum.accumulate(high[order])[:-1]
    gaps = np.flatnonzero(low[order][1:] - reach > BREAK * em)
    wide = _over_columns(rows, low, high, em) if len(gaps) else None
    for k in gaps.tolist():
        a, b = reach[k], low[order][k + 1]
        ends, begins = at[(np.abs(high - a) < 0.5 * em) & wide], at[(np.abs(low - b) < 0.5 * em) & wide]
        if min(map(len, (ends, begins))) and min(np.ptp(ends), np.ptp(begins)) > em:
            return True
    return False


def in_one(at: Floats, low: Floats, high: Floats, em: float) -> tuple[Floats, Floats, Floats]:
    """Return level lines from top to bottom and left to right, each once, those that touch as one."""
    if not len(at):
        return at, low, high
    touch = TOUCH * em
    places = np.round(np.stack((high, low, at)) / touch)
    order = np.lexsort(places)
    new = np.append(True, (np.diff(places[:, order]) != 0).any(axis=0))
    at, low, high = at[order[new]], low[order[new]], high[order[new]]
    apart = (np.abs(np.diff(at)) > touch) | (np.abs(low[1:] - high[:-1]) > touch)
    starts = np.flatnonzero(np.concatenate(([True], apart)))
    return at[starts], low[starts], np.maximum.reduceat(high, starts)


def _over_columns(rows: Sequence[Row], low: Floats, high: Floats, em: float) -> Bools:
    """Over which stretches from left to right a row has two parts or more."""
    of = np.repeat(np.arange(len(rows)), [len(r.spans) for r in rows])
    x0, x1 = np.array([span for r in rows for span in r.spans]).T
    out = np.zeros(len(low), dtype=np.bool_)
    known: dict[tuple[int, int], bool] = {}
    for k, (a, b) in enumerate(zip(low.tolist(), high.tolist(), strict=True)):
        key = (round(a / (0.3 * em)), round(b / (0.3 * em)))
        if key not in known:
            own = of[(x0 > a - 0.3 * em) & (x1 < b + 0.3 * em)]
            known[key] = len(own) > 0 and int(np.bincount(own).max()) > 1
        out[k] = known[key]
    return out


def ends_with_uprights(layout: PageLayout, box: Box) -> bool:
    """Return whether an upright rule in a box begins and ends where that does."""
    upright, near = layout.rules.upright, TALL * layout.em
    inside = (upright.at > box.x0) & (upright.at < box.x1)
    ends = (np.abs(upright.low - box.y0) < near) & (np.abs(upright.high - box.y1) < near)
    return bool((inside & ends).any())
