"""Collected paths and images -> strokes, fills, shapes and pictures (ISO 32000-2, 8.5 and 8.9)."""

from __future__ import annotations

import numpy as np

from .arrays import Bools, Fills, Floats, Ints, Pictures, Shapes, Strokes, columns_of, distinct
from .collected import CURVE, MOVE, Collected

# A line is upright or level when its ends differ by less than this across, in points.
STRAIGHT = 0.35


def decode_graphics(collected: Collected) -> tuple[Strokes, Fills, Shapes]:
    """Compute the straight strokes, the filled rectangles and the boxes of all other painted shapes."""
    paths = collected.paths
    if not paths:
        return columns_of(Strokes, []), columns_of(Fills, []), columns_of(Shapes, [])
    counts = np.array([p[1] - p[0] for p in paths])
    path = np.repeat(np.arange(len(paths)), counts)
    first = np.repeat(np.array([p[0] for p in paths]) - (np.cumsum(counts) - counts), counts)
    index = np.arange(len(path)) + first
    xy = np.array(collected.points, dtype=np.float64).reshape(-1, 2)[index]
    kind = np.array(collected.kinds, dtype=np.int64)[index]
    a, b, c, d, e, f = np.array([p[2] for p in paths], dtype=np.float64)[path].T
    x = _bounded(a * xy[:, 0] + c * xy[:, 1] + e)
    y = _bounded(b * xy[:, 0] + d * xy[:, 1] + f)
    flags = np.array([(p[3], p[4], p[8], p[9]) for p in paths], dtype=np.bool_)
    values = np.array([(p[5], p[6], p[7]) for p in paths], dtype=np.float64)
    clip = np.array(collected.clips, dtype=np.float64)[[p[10] for p in paths]]
    order = np.array([p[11] for p in paths], dtype=np.int64)
    scale = np.sqrt(np.abs(a * d - b * c))

    follows = np.concatenate(([False], (path[1:] == path[:-1]) & (kind[1:] != MOVE)))
    line = follows & (kind != CURVE)
    drawn = np.flatnonzero(line & flags[path, 1])
    strokes, fills, odd = columns_of(Strokes, []), columns_of(Fills, []), drawn[:0]
    if len(drawn):
        strokes = _strokes(x, y, drawn, path, values, flags, clip, scale)
    if flags[:, 0].any():
        fills, odd = _fills(x, y, kind, follows, path, flags, values, clip, order)
    slanted = drawn[
        (np.abs(x[drawn] - x[drawn - 1]) > STRAIGHT) & (np.abs(y[drawn] - y[drawn - 1]) > STRAIGHT)
    ]
    curved = distinct(np.concatenate((path[kind == CURVE], path[slanted], odd)))
    shapes = _shapes(x, y, path, curved, clip) if len(curved) else columns_of(Shapes, [])
    return strokes, fills, shapes


def _bounded(values: Floats) -> Floats:
    """Coordinates of damaged files can be anything; far outside the page they are all alike."""
    return np.clip(np.nan_to_num(values), -1e6, 1e6)


def _strokes(
    x: Floats, y: Floats, at: Ints, path: Ints, values: Floats, flags: Bools, clip: Floats, scale: Floats
) -> Strokes:
    x0, y0, x1, y1 = x[at - 1], y[at - 1], x[at], y[at]
    cx0, cy0, cx1, cy1 = clip[path[at]].T
    inside = (
        (np.maximum(x0, x1) >= cx0 - 1)
        & (np.minimum(x0, x1) <= cx1 + 1)
        & (np.maximum(y0, y1) >= cy0 - 1)
        & (np.minimum(y0, y1) <= cy1 + 1)
    )
    strokes = Strokes(
        np.clip(np.minimum(x0, x1), cx0, cx1),
        np.where(x0 <= x1, y0, y1),
        np.clip(np.maximum(x0, x1), cx0, cx1),
        np.where(x0 <= x1, y1, y0),
        values[path[at], 0] * scale[at],
        values[path[at], 1],
        flags[path[at], 2],
    )
    level = np.abs(strokes.y1 - strokes.y0) <= STRAIGHT
    top, bottom = np.minimum(strokes.y0, strokes.y1), np.maximum(strokes.y0, strokes.y1)
    strokes.y0 = np.where(level, strokes.y0, np.clip(top, cy0, cy1))
    strokes.y1 = np.where(level, strokes.y1, np.clip(bottom, cy0, cy1))
    return strokes.take(np.flatnonzero(inside))


def _fills(
    x: Floats, y: Floats, kind: Ints, follows: Bools, path: Ints, flags: Bools, values: Floats,
    clip: Floats, order: Ints,
) -> tuple[Fills, Ints]:  # fmt: skip
    """Filled subpaths that are upright rectangles, and the paths with filled subpaths that are not."""
    part = np.cumsum(~follows) - 1
    starts = np.flatnonzero(~follows)
    owner = path[starts]
    skew = np.zeros(len(x), dtype=np.bool_)
    skew[1:] = follows[1:] & (np.abs(np.diff(x)) > STRAIGHT) & (np.abs(np.diff(y)) > STRAIGHT)
    skew |= kind == CURVE
    odd = np.bincount(part, weights=skew) > 0
    size = np.diff(np.append(starts, len(x)))
    x0, x1 = np.minimum.reduceat(x, starts), np.maximum.reduceat(x, starts)
    y0, y1 = np.minimum.reduceat(y, starts), np.maximum.reduceat(y, starts)
    corners = np.minimum(np.abs(x - x0[part]), np.abs(x - x1[part])) + np.minimum(
        np.abs(y - y0[part]), np.abs(y - y1[part])
    )
    odd |= np.maximum.reduceat(corners, starts) > STRAIGHT
    filled = flags[owner, 0]
    keep = np.flatnonzero(filled & ~odd & (size >= 2))
    cx0, cy0, cx1, cy1 = clip[owner[keep]].T
    fills = Fills(
        np.maximum(x0[keep], cx0),
        np.maximum(y0[keep], cy0),
        np.minimum(x1[keep], cx1),
        np.minimum(y1[keep], cy1),
        values[owner[keep], 2],
        flags[owner[keep], 3],
        order[owner[keep]],
    )
    fills = fills.take(np.flatnonzero((fills.x1 >= fills.x0) & (fills.y1 >= fills.y0)))
    return fills, owner[filled & odd]


def _shapes(x: Floats, y: Floats, path: Ints, which: Ints, clip: Floats) -> Shapes:
    starts = np.flatnonzero(np.concatenate(([True], path[1:] != path[:-1])))
    x0, x1 = np.minimum.reduceat(x, starts)[which], np.maximum.reduceat(x, starts)[which]
    y0, y1 = np.minimum.reduceat(y, starts)[which], np.maximum.reduceat(y, starts)[which]
    cx0, cy0, cx1, cy1 = clip[which].T
    shapes = Shapes(np.maximum(x0, cx0), np.maximum(y0, cy0), np.minimum(x1, cx1), np.minimum(y1, cy1))
    return shapes.take(np.flatnonzero((shapes.x1 > shapes.x0) & (shapes.y1 > shapes.y0)))


def decode_pictures(collected: Collected) -> Pictures:
    """Compute the box of every image: the unit square under its matrix, cut by the clip."""
    rows = []
    for (a, b, c, d, e, f), columns, lines, number, clip, order in collected.pictures:
        xs, ys = _bounded(np.array([(e, e + a, e + c, e + a + c), (f, f + b, f + d, f + b + d)])).tolist()
        cx0, cy0, cx1, cy1 = collected.clips[clip]
        x0, y0, x1, y1 = max(cx0, min(xs)), max(cy0, min(ys)), min(cx1, max(xs)), min(cy1, max(ys))
        rows.append((x0, y0, x1, y1, columns, lines, number, order, x1 > x0 and y1 > y0))
    return columns_of(Pictures, rows)
