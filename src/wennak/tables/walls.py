"""Where rules part the cells of a grid: a wall for each side of each place that a rule covers."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from ..ink import Bools, Floats, Ints, distinct
from ..layout import PageLayout
from .draft import TableDraft, cells_by_row, row_extents, text_columns
from .grid import Cut
from .grouped import least, most

# A wall stands where lines cover this share of the side of a place.
COVER = 0.6
# Pieces of rules stand at one height within this (em), and between two lines where they reach into neither by
# more than so much.
LEVEL, PARTS = 0.1, 0.25


@dataclass(slots=True)
class Walls:
    """level[r, c]: a line runs between rows r and r + 1 in column c; upright[r, c]: one runs between the
    columns c and c + 1 beside row r. `top`, `bottom`, `left`, `right` are the extents of the text of rows and
    columns.
    """

    level: Bools
    upright: Bools
    top: Floats
    bottom: Floats
    left: Floats
    right: Floats


def find_walls(layout: PageLayout, draft: TableDraft) -> Walls | None:
    """Return the walls of a grid; None where a row or a column holds no text of its own."""
    em = layout.em
    top, bottom = row_extents(layout, replace(draft, cells=[c for c in draft.cells if c.rowspan == 1]))
    # Labels alone in their rows run out of their columns.
    several = [c for cells in cells_by_row(draft).values() if len(cells) > 1 for c in cells]
    sides = text_columns(layout, replace(draft, cells=several))
    if not np.isfinite(top).all() or any(side is None for side in sides):
        return None
    left, right = np.array([s for s in sides if s]).T
    rules = layout.rules
    level = _covered(
        rules.level.at, rules.level.low, rules.level.high,
        np.stack((np.minimum(bottom[:-1], top[1:]), np.maximum(bottom[:-1], top[1:])), axis=1),
        np.stack((left, right), axis=1), 0.3 * em,
    )  # fmt: skip
    upright = _covered(
        rules.upright.at, rules.upright.low, rules.upright.high,
        np.stack((np.minimum(right[:-1], left[1:]), np.maximum(right[:-1], left[1:])), axis=1),
        np.stack((top, bottom), axis=1), 0.3 * em,
    )  # fmt: skip
    return Walls(level, upright.T, top, bottom, left, right)


def _covered(at: Floats, low: Floats, high: Floats, between: Floats, along: Floats, reach: float) -> Bools:
    """For each stretch across and each along, whether lines in the one cover most of the other."""
    out = np.zeros((len(between), len(along)), dtype=np.bool_)
    length = np.maximum(along[:, 1] - along[:, 0], 0.1)
    for k, (a, b) in enumerate(between.tolist()):
        here = (at > a - reach) & (at < b + reach)
        if here.any():
            shared = np.minimum(high[here, None], along[:, 1]) - np.maximum(low[here, None], along[:, 0])
            out[k] = shared.clip(0).sum(axis=0) >= COVER * length
    return out


def parted_by_rules(layout: PageLayout, cut: Cut) -> Ints:
    """Return pairs of lines (pairs, 2) of different rows: next to each other in a column, where a rule
    between them runs over this column and the one beside it, or next to each other in the place, where it
    runs over all columns.
    """
    level, box, em = layout.rules.level, cut.place.box, layout.em
    inside = (level.at > box.y0) & (level.at < box.y1)
    found = [np.empty((0, 2), dtype=np.int64)]
    if not inside.any() or cut.columns < 2:
        return found[0]
    w, facts, index = layout.words, cut.place.strip.facts, cut.place.index
    at, own = level.at[inside], cut.first == cut.last
    left = least(w.x0[index[cut.starts[:-1]]][own], cut.first[own], cut.columns)
    right = most(w.x1[index[cut.starts[1:] - 1]][own], cut.last[own], cut.columns)
    # Of rules drawn cell by cell, those at one height are one.
    at = np.round(at / (LEVEL * em)) * LEVEL * em
    heights = distinct(at)
    over = np.zeros((len(heights), cut.columns + 2), dtype=np.bool_)
    np.logical_or.at(
        over[:, 1:-1],
        np.searchsorted(heights, at),
        (level.low[inside, None] < left + em) & (level.high[inside, None] > right - em),
    )
    across = heights[over[:, 1:-1].all(axis=1)]
    over[:, 1:-1] &= over[:, :-2] | over[:, 2:]
    reach = PARTS * em
    tops, bottoms = (side[cut.place.first : cut.place.last] for side in (facts.y0, facts.y1))
    every = [(np.arange(len(tops)), across)]
    every += [(np.flatnonzero(cut.filled[:, k]), heights[over[:, k + 1]]) for k in range(cut.columns)]
    for lines, rules in every:
        a, b = lines[:-1], lines[1:]
        first, last = np.searchsorted(rules, bottoms[a] - reach), np.searchsorted(rules, tops[b] + reach)
        found.append(np.stack((a, b), axis=1)[last > first])
    return np.concatenate(found)
