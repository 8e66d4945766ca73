"""Ruling lines -> lattices: the grid that crossing lines draw, with the walls that are missing."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..ink import Bools, Floats, Ints, connected, distinct
from ..layout import PageLayout
from ..layout.rules import Lines, Rules
from .rulings import level_edges

# Lines this near (points) meet; grid lines this near are one.
TOUCH = 3.0
# A wall stands where a line covers this share of a cell's side.
COVER = 0.6


@dataclass(slots=True)
class Lattice:
    """A grid of lines: `xs` and `ys` are the grid lines from left to right and top to bottom.

    upright[j, i]: a wall stands at xs[i] beside row j; level[j, i]: a wall stands at ys[j] over column i.
    """

    xs: Floats
    ys: Floats
    upright: Bools
    level: Bools

    @property
    def rows(self) -> int:
        """Number of bands between grid lines."""
        return len(self.ys) - 1

    @property
    def columns(self) -> int:
        """Number of strips between grid lines."""
        return len(self.xs) - 1


def find_lattices(rules: Rules) -> list[Lattice]:
    """Return every connected set of crossing lines that bounds at least one cell."""
    level, upright = rules.level, rules.upright
    n, m = len(level), len(upright)
    if not n or not m:
        return []
    crosses = (
        (level.at[:, None] >= upright.low[None] - TOUCH)
        & (level.at[:, None] <= upright.high[None] + TOUCH)
        & (upright.at[None] >= level.low[:, None] - TOUCH)
        & (upright.at[None] <= level.high[:, None] + TOUCH)
    )
    i, j = np.nonzero(crosses)
    label = connected(i, j + n, n + m)
    out = []
    for component in distinct(label[i]).tolist():
        h, v = np.flatnonzero(label[:n] == component), np.flatnonzero(label[n:] == component)
        lattice = _lattice(_part(level, h), _part(upright, v))
        if lattice is not None:
            out.append(lattice)
    return out


def shaded_lattices(layout: PageLayout, lattices: Sequence[Lattice]) -> list[Lattice]:
    """Return the lattices that the lines of a page and the edges of shading draw together, where these are as
    large as those of the lines alone: shading tells cells apart where lines are missing.
    """
    u, s = layout.rules.upright, layout.rules.shades
    if not len(s) or not lattices:
        return []
    sides = ((u.at, s.x0, s.x1), (u.low, s.y0, s.y0), (u.high, s.y1, s.y1))
    upright = Lines(*(np.concatenate(side) for side in sides))
    boxes = np.array([_ends(each) for each in lattices])
    return [
        each
        for each in find_lattices(Rules(Lines(*level_edges(layout)), upright, s))
        if (np.abs(boxes - _ends(each)) < TOUCH).all(axis=1).any()
    ]


def _ends(lattice: Lattice) -> Floats:
    return np.array([lattice.xs[0], lattice.xs[-1], lattice.ys[0], lattice.ys[-1]])


def _part(lines: Lines, index: Ints) -> Lines:
    return Lines(lines.at[index], lines.low[index], lines.high[index])


def _lattice(level: Lines, upright: Lines) -> Lattice | None:
    xs, ys = _grid_lines(upright.at), _grid_lines(level.at)
    # Level lines that stick out beyond the outermost upright lines open a column there, and vice versa.
    xs = _with_ends(xs, float(level.low.min()), float(level.high.max()))
    ys = _with_ends(ys, float(upright.low.min()), float(upright.high.max()))
    if len(xs) < 2 or len(ys) < 2:
        return None
    up = _walls(upright, xs, ys)
    flat = _walls(level, ys, xs).T
    return Lattice(xs, ys, up.T, flat.T)


def _grid_lines(at: Floats) -> Floats:
    at = np.sort(at)
    group = np.concatenate(([0], np.cumsum(np.diff(at) > TOUCH)))
    return np.bincount(group, weights=at) / np.bincount(group)


def _with_ends(grid: Floats, low: float, high: float) -> Floats:
    if low < grid[0] - 3 * TOUCH:
        grid = np.concatenate(([low], grid))
    if high > grid[-1] + 3 * TOUCH:
        grid = np.concatenate((grid, [high]))
    return grid


def _walls(lines: Lines, at: Floats, across: Floats) -> Bools:
    """For each grid line in `at` and each band of `across`, whether lines cover the band's side."""
    covered = np.zeros((len(at), len(across) - 1))
    nearest = np.abs(lines.at[:, None] - at[None]).argmin(axis=1)
    low, high = across[:-1], across[1:]
    overlap = np.minimum(lines.high[:, None], high[None]) - np.maximum(lines.low[:, None], low[None])
    np.add.at(covered, nearest, np.clip(overlap, 0, None))
    return covered >= COVER * (high - low)[None]
