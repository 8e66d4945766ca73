"""Strokes and thin fills -> ruling lines: upright and level, merged where they continue each other."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..ink import Floats, PageInk

# A filled rectangle thinner than this is a drawn line, in points (hairlines to heavy rules).
THIN = 3.2
# Lines nearer than this are one: double rules, both edges of a border, rounding. In points.
MERGE = 2.0
# A line shorter than this is a mark, not a rule. In points.
SHORT = 4.0


@dataclass(slots=True)
class Lines:
    """Parallel ruling lines: `at` is the shared coordinate, `low` and `high` the extent along the line."""

    at: Floats
    low: Floats
    high: Floats

    def __len__(self) -> int:
        return len(self.at)


@dataclass(slots=True)
class Shades:
    """Shaded rectangles, as boxes with their grey level; white ones are left out."""

    x0: Floats
    y0: Floats
    x1: Floats
    y1: Floats
    grey: Floats

    def __len__(self) -> int:
        return len(self.x0)


@dataclass(slots=True)
class Rules:
    """Level lines, upright lines and shading of one page."""

    level: Lines
    upright: Lines
    shades: Shades


def find_rules(ink: PageInk) -> Rules:
    """Collect the ruling lines and the shading of a page."""
    s, f, o = ink.strokes, ink.fills, ink.shapes
    if not (len(s) or len(f) or len(o)):
        none = np.empty(0)
        return Rules(Lines(none, none, none), Lines(none, none, none), Shades(none, none, none, none, none))
    drawn = s.grey < 0.97
    dx, dy = np.abs(s.x1 - s.x0), np.abs(s.y1 - s.y0)
    # A stroke wider than long is a bar of shading drawn as a line.
    level = drawn & (dy <= 0.5) & (dx >= SHORT) & (s.width <= THIN)
    upright = drawn & (dx <= 0.5) & (dy >= SHORT) & (s.width <= THIN)
    w, h = f.x1 - f.x0, f.y1 - f.y0
    inked = f.grey < 0.97
    flat = inked & (h <= THIN) & (w >= SHORT) & (w > 2 * h)
    tall = inked & (w <= THIN) & (h >= SHORT) & (h > 2 * w)
    # Bevelled borders are drawn as thin slanted polygons.
    ow, oh = o.x1 - o.x0, o.y1 - o.y0
    level_shape = (oh <= THIN) & (ow >= SHORT) & (ow > 3 * oh)
    upright_shape = (ow <= THIN) & (oh >= SHORT) & (oh > 3 * ow)
    area = (f.grey < 0.995) & (h > THIN) & (w > THIN)
    return Rules(
        level=_merged(
            np.concatenate((s.y0[level], (f.y0 + f.y1)[flat] / 2, (o.y0 + o.y1)[level_shape] / 2)),
            np.concatenate((s.x0[level], f.x0[flat], o.x0[level_shape])),
            np.concatenate((s.x1[level], f.x1[flat], o.x1[level_shape])),
        ),
        upright=_merged(
            np.concatenate((s.x0[upright], (f.x0 + f.x1)[tall] / 2, (o.x0 + o.x1)[upright_shape] / 2)),
            np.concatenate((np.minimum(s.y0, s.y1)[upright], f.y0[tall], o.y0[upright_shape])),
            np.concatenate((np.maximum(s.y0, s.y1)[upright], f.y1[tall], o.y1[upright_shape])),
        ),
        shades=Shades(f.x0[area], f.y0[area], f.x1[area], f.y1[area], f.grey[area]),
    )


def _merged(at: Floats, low: Floats, high: Floats) -> Lines:
    """Lines that lie on each other or continue each other become one."""
    if len(at) < 2:
        return Lines(at, low, high)
    order = np.argsort(at, kind="stable")
    at, low, high = at[order], low[order], high[order]
    track = np.concatenate(([0], np.cumsum(np.diff(at) > MERGE / 2)))
    order = np.lexsort((low, track))
    at, low, high, track = at[order], low[order], high[order], track[order]
    span = float(high.max() - low.min()) + 10 * MERGE
    reach = np.maximum.accumulate(high + track * span) - track * span
    head = np.concatenate(([True], (track[1:] != track[:-1]) | (low[1:] > reach[:-1] + MERGE)))
    starts = np.flatnonzero(head)
    counts = np.diff(np.append(starts, len(at)))
    return Lines(
        np.add.reduceat(at, starts) / counts,
        np.minimum.reduceat(low, starts),
        np.maximum.reduceat(high, starts),
    )
