"""Strokes and thin fills -> ruling lines: upright and level, merged where they continue each other."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..ink import Bools, Floats, PageInk

# A filled rectangle thinner than this is a drawn line, in points (hairlines to heavy rules).
THIN = 3.2
# Lines nearer than this are one: double rules, both edges of a border, rounding. In points.
MERGE = 2.0
# A dashed or dotted line has at least so many pieces shorter than this (points), with gaps at most so many
# times as long.
PIECES, PIECE, GAP = 4, 12.0, 2.5
# A line shorter than this is a mark, not a rule. In points.
SHORT = 4.0
# What is lighter than this (grey level) is white. White lines are seen where shading is beside them, so near
# (points); on drawings with more pairs of lines and shades than this none is looked for.
WHITE, BESIDE, PAIRS = 0.97, 1.5, 2_000_000


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
    w, h = f.x1 - f.x0, f.y1 - f.y0
    area = (f.grey < 0.995) & (h > THIN) & (w > THIN)
    shades = Shades(f.x0[area], f.y0[area], f.x1[area], f.y1[area], f.grey[area])
    drawn = (s.grey < WHITE) | _on_shading(shades, s.x0, s.y0, s.x1, s.y1, s.grey >= WHITE)
    dx, dy = np.abs(s.x1 - s.x0), np.abs(s.y1 - s.y0)
    # A stroke wider than long is a bar of shading drawn as a line.
    level = drawn & (dy <= 0.5) & (dx >= SHORT) & (s.width <= THIN)
    upright = drawn & (dx <= 0.5) & (dy >= SHORT) & (s.width <= THIN)
    inked = (f.grey < WHITE) | _on_shading(
        shades, f.x0, f.y0, f.x1, f.y1, (f.grey >= WHITE) & (np.minimum(w, h) <= THIN)
    )
    flat = inked & (h <= THIN) & (w >= SHORT) & (w > 2 * h)
    tall = inked & (w <= THIN) & (h >= SHORT) & (h > 2 * w)
    # Bevelled borders are drawn as thin slanted polygons.
    ow, oh = o.x1 - o.x0, o.y1 - o.y0
    level_shape = (oh <= THIN) & (ow >= SHORT) & (ow > 3 * oh)
    upright_shape = (ow <= THIN) & (oh >= SHORT) & (oh > 3 * ow)
    # Pieces of dashed and dotted lines.
    x0, y0, x1, y1 = (
        np.concatenate((a[inked], b))
        for a, b in zip((f.x0, f.y0, f.x1, f.y1), (o.x0, o.y0, o.x1, o.y1), strict=True)
    )
    piece = (np.minimum(x1 - x0, y1 - y0) <= THIN) & (np.maximum(x1 - x0, y1 - y0) < PIECE)
    x0, y0, x1, y1 = x0[piece], y0[piece], x1[piece], y1[piece]
    across, down = _dashed((y0 + y1) / 2, x0, x1), _dashed((x0 + x1) / 2, y0, y1)
    return Rules(
        level=_merged(
            np.concatenate((s.y0[level], (f.y0 + f.y1)[flat] / 2, (o.y0 + o.y1)[level_shape] / 2, across.at)),
            np.concatenate((s.x0[level], f.x0[flat], o.x0[level_shape], across.low)),
            np.concatenate((s.x1[level], f.x1[flat], o.x1[level_shape], across.high)),
        ),
        upright=_merged(
            np.concatenate(
                (s.x0[upright], (f.x0 + f.x1)[tall] / 2, (o.x0 + o.x1)[upright_shape] / 2, down.at)
            ),
            np.concatenate((np.minimum(s.y0, s.y1)[upright], f.y0[tall], o.y0[upright_shape], down.low)),
            np.concatenate((np.maximum(s.y0, s.y1)[upright], f.y1[tall], o.y1[upright_shape], down.high)),
        ),
        shades=shades,
    )


def _on_shading(shades: Shades, x0: Floats, y0: Floats, x1: Floats, y1: Floats, white: Bools) -> Bools:
    """Which of some `white` lines, given by their ends, have shading on both sides of their middle."""
    out = np.zeros(len(x0), dtype=np.bool_)
    lines, dark = np.flatnonzero(white), shades.grey < WHITE
    if not dark.any() or len(lines) * len(shades) > PAIRS:
        return out
    level = np.abs(x1 - x0)[lines] > np.abs(y1 - y0)[lines]
    x, y = (x0 + x1)[lines] / 2, (y0 + y1)[lines] / 2
    far_x = np.where(level, 0.0, np.abs(x1 - x0)[lines] / 2 + BESIDE)
    far_y = np.where(level, np.abs(y1 - y0)[lines] / 2 + BESIDE, 0.0)
    both = np.ones(len(lines), dtype=np.bool_)
    for sign in (-1, 1):
        at_x, at_y = (x + sign * far_x)[:, None], (y + sign * far_y)[:, None]
        over = (shades.x0 < at_x) & (shades.x1 > at_x) & (shades.y0 < at_y) & (shades.y1 > at_y)
        both &= (over & dark).any(axis=1)
    out[lines[both]] = True
    return out


def _dashed(at: Floats, low: Floats, high: Floats) -> Lines:
    """The lines that short pieces make which follow each other on one line with gaps like themselves."""
    order = np.argsort(at, kind="stable")
    at, low, high = at[order], low[order], high[order]
    track = np.cumsum(np.append(0, np.diff(at) > MERGE / 2))[: len(at)]
    order = np.lexsort((low, track))
    at, low, high, track = at[order], low[order], high[order], track[order]
    gap = low[1:] - high[:-1]
    apart = (track[1:] != track[:-1]) | (gap > GAP * (high - low)[:-1] + MERGE / 4)
    starts = np.flatnonzero(np.append(True, apart)) if len(at) else np.empty(0, dtype=np.int64)
    counts = np.diff(np.append(starts, len(at)))
    keep = counts >= PIECES
    if not keep.any():
        return Lines(np.empty(0), np.empty(0), np.empty(0))
    first = starts[keep]
    return Lines(at[first], low[first], np.maximum.reduceat(high, starts)[keep])


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
