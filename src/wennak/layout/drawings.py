"""Drawings on a page: lines, curves and bars that stand together, and whether these are drawn to a scale."""

from __future__ import annotations

import numpy as np

from ..ink import Bools, Floats, Ints, connected, distinct
from ..model import Box
from ..values import bare_of, number_of
from .captions import CAPTION
from .page import Drawing, PageLayout

# A figure is at least this wide and high (em); smaller pictures are ornaments, symbols, bullets.
MIN_SIDE = 4.0
# A picture that covers this share of the page lies behind the text.
PAGE_SHARE = 0.6
# A drawing without a scale has at least so many curves or slanted lines: tables and boxes have none.
MIN_SHAPES = 5
# Pieces of a drawing nearer than this (em) belong together.
NEAR = 1.5
# A scale has at least so many numbers, no farther than this (em of theirs) from its axis, over at least this
# share of it; places and values go together within this share of their range. The steps between fewer than so
# many values are whole times the least one, within the last share: three values of a table may go with their
# places by chance.
TICKS, MANY = 3, 5
REACH = 4.0
ALONG = 0.5
EVEN = 0.03
EXACT = 1e-6
# Of a chart, words cover no more than this share.
COVERED = 0.06


def find_drawings(layout: PageLayout) -> list[Drawing]:
    """Return the clusters of lines, curves and bars that are large enough for a figure, and told from tables
    with rules by curves and slanted lines, or a scale; with the labels at their sides.
    """
    ink, em = layout.ink, layout.em
    s, o, f = ink.strokes, ink.shapes, ink.fills
    dx, dy = np.abs(s.x1 - s.x0), np.abs(s.y1 - s.y0)
    slanted = (dx > 0.5) & (dy > 0.5)
    free = np.concatenate((np.ones(len(o), dtype=np.bool_), slanted, np.zeros(len(f), dtype=np.bool_)))
    x0 = np.concatenate((o.x0, np.minimum(s.x0, s.x1), f.x0))
    x1 = np.concatenate((o.x1, np.maximum(s.x0, s.x1), f.x1))
    y0 = np.concatenate((o.y0, np.minimum(s.y0, s.y1), f.y0))
    y1 = np.concatenate((o.y1, np.maximum(s.y0, s.y1), f.y1))
    on_page = (x1 > 0) & (x0 < layout.width) & (y1 > 0) & (y0 < layout.height)
    on_page &= (x1 - x0) * (y1 - y0) < PAGE_SHARE * layout.width * layout.height
    keep = np.flatnonzero(on_page)
    # Most pages have a rule or two at most.
    if not len(keep) or min(np.ptp((x0[keep], x1[keep])), np.ptp((y0[keep], y1[keep]))) <= MIN_SIDE * em:
        return []
    texts = layout.words.texts
    numbers = np.flatnonzero([text[-1].isdigit() or text[-1] == "%" for text in texts])
    if free.sum() < MIN_SHAPES and len(numbers) < TICKS:
        return []
    cluster = _clusters(layout, x0[keep], y0[keep], x1[keep], y1[keep])
    out = []
    for k in range(1, int(cluster.max(initial=0)) + 1):
        own = keep[cluster == k]
        box = Box(float(x0[own].min()), float(y0[own].min()), float(x1[own].max()), float(y1[own].max()))
        if box.y1 - box.y0 > MIN_SIDE * em and box.x1 - box.x0 > MIN_SIDE * em:
            scale = _scale(layout, numbers, box)
            if len(scale):
                out.append(Drawing(_with_axes(layout, box, scale), True))
            elif free[own].sum() >= MIN_SHAPES:
                out.append(Drawing(_with_labels(layout, box, em), False))
    return out


def _scale(layout: PageLayout, numbers: Ints, box: Box) -> Ints:
    """The numbers beside a drawing, or below it, whose values go with their places; none where more words
    stand in it than in a chart.
    """
    w, i = layout.words, numbers
    size = w.size[i]
    x, y = (w.x0[i] + w.x1[i]) / 2, (w.y0[i] + w.y1[i]) / 2
    level = (y > box.y0 - size) & (y < box.y1 + size)
    left = level & (w.x1[i] < box.x0 + size) & (w.x1[i] > box.x0 - REACH * size)
    right = level & (w.x0[i] > box.x1 - size) & (w.x0[i] < box.x1 + REACH * size)
    upright = (x > box.x0 - size) & (x < box.x1 + size)
    below = upright & (w.y0[i] > box.y1 - size) & (w.y0[i] < box.y1 + REACH * size)
    rows = [below & (w.row[i] == row) for row in distinct(w.row[i[below]]).tolist()]
    sides = [(side, y, box.y1 - box.y0) for side in (left, right)]
    sides += [(row, x, box.x1 - box.x0) for row in rows]
    scales = [i[which] for which, at, side in sides if _even(layout, i[which], at[which], side)]
    return scales[0] if scales and not _written(layout, box) else i[:0]


def _even(layout: PageLayout, index: Ints, at: Floats, side: float) -> bool:
    """Whether the values of numbers go with their places, over most of a side."""
    if len(index) < TICKS or not ALONG * side <= float(np.ptp(at)) < np.inf:
        return False
    off_middle = at - at.mean()
    for mark in (".", ","):
        found = [number_of(bare_of(layout.words.texts[i]), mark) for i in index.tolist()]
        if any(v is None for v in found):
            continue
        values = np.array(found, dtype=np.float64)
        extent = float(np.ptp(values)) if np.isfinite(values).all() else 0.0
        # The line through them by least squares.
        rest = values - values.mean()
        rest -= off_middle * (off_middle @ rest) / (off_middle @ off_middle)
        if 0 < extent < np.inf and float(np.abs(rest).max()) < EVEN * extent:
            steps = np.diff(np.sort(values))
            least = float(steps.min())
            return len(index) >= MANY or (
                least > EXACT * extent
                and float(np.abs(steps - least * np.round(steps / least)).max()) < EXACT * extent
            )
    return False


def _written(layout: PageLayout, box: Box) -> bool:
    """Whether words cover more of a drawing than of a chart."""
    w = layout.words
    covered = float(((w.x1 - w.x0) * (w.y1 - w.y0))[w.inside(box)].sum())
    return covered > COVERED * (box.x1 - box.x0) * (box.y1 - box.y0)


def _clusters(layout: PageLayout, x0: Floats, y0: Floats, x1: Floats, y1: Floats) -> Ints:
    """Number the boxes so that those near each other have one number, from 1."""
    cell = NEAR * layout.em / 2
    shape = (int(layout.height / cell) + 3, int(layout.width / cell) + 3)
    if shape[0] * shape[1] > 4_000_000:
        return np.zeros(len(x0), dtype=np.int64)
    painted = np.zeros(shape, dtype=np.bool_)
    c0, c1 = (np.clip((v / cell).astype(np.int64), 0, shape[1] - 1) for v in (x0, x1))
    r0, r1 = (np.clip((v / cell).astype(np.int64), 0, shape[0] - 1) for v in (y0, y1))
    for a, b, c, d in zip(r0.tolist(), r1.tolist(), c0.tolist(), c1.tolist(), strict=True):
        painted[a : b + 1, c : d + 1] = True
    return _labels(painted)[r0, c0]


def _labels(painted: Bools) -> Ints:
    """Number the painted cells of a raster so that those that touch have one number, from 1."""
    number = np.full((painted.shape[0] + 1, painted.shape[1] + 2), -1, dtype=np.int64)
    number[:-1, 1:-1][painted] = np.arange(int(painted.sum()))
    here = number[:-1, 1:-1]
    pairs = []
    for beside in (number[:-1, 2:], number[1:, 1:-1], number[1:, 2:], number[1:, :-2]):
        both = (here >= 0) & (beside >= 0)
        pairs.append(np.stack((here[both], beside[both])))
    a, b = np.concatenate(pairs, axis=1)
    size = max(1, int(painted.sum()))
    label = connected(a, b, size)
    out = np.zeros(painted.shape, dtype=np.int64)
    out[painted] = label[: int(painted.sum())] + 1
    return out


def _with_labels(layout: PageLayout, box: Box, size: float) -> Box:
    """A drawing with the short texts at its sides, no larger than `size`: names of axes and their scales."""
    w, em = layout.words, layout.em
    for _ in range(3):
        near = (
            (w.x1 > box.x0 - NEAR * em) & (w.x0 < box.x1 + NEAR * em)
            & (w.y1 > box.y0 - 0.5 * em) & (w.y0 < box.y1 + 0.8 * em)
            & (w.x1 - w.x0 < 0.5 * (box.x1 - box.x0)) & (w.size < 1.02 * size)
        )  # fmt: skip
        members = _without_names(layout, np.flatnonzero(near & ~_in_long_rows(layout, box)))
        if not len(members):
            break
        grown = Box.around([box, layout.box(members)])
        if grown == box:
            break
        box = grown
    return box


def _without_names(layout: PageLayout, members: Ints) -> Ints:
    """Words beside a drawing without those of rows that begin as its name does."""
    w = layout.words
    begins = np.flatnonzero(np.diff(w.row[members], prepend=-1))
    rows = np.split(members, begins[1:])
    named = [bool(len(row)) and bool(CAPTION.match(" ".join(w.texts[i] for i in row[:2]))) for row in rows]
    return np.concatenate([row[:0] if name else row for row, name in zip(rows, named, strict=True)])


def _with_axes(layout: PageLayout, plot: Box, scale: Ints) -> Box:
    """A chart with its scale, the labels at its sides, and the rows below that name its level axis and what
    stands along it.
    """
    w = layout.words
    size = max(layout.em, float(w.size[scale].max()))
    box = _with_labels(layout, Box.around([plot, layout.box(scale)]), size)
    for _ in range(2):
        below = (w.y0 > box.y1 - 0.5 * size) & (w.y0 < box.y1 + NEAR * size)
        below &= (w.x1 > box.x0) & (w.x0 < box.x1)
        row = np.flatnonzero(below & (w.row == w.row[below].min())) if below.any() else scale[:0]
        if not len(row) or not _names_axis(layout, plot, row):
            break
        box = Box.around([box, layout.box(row)])
    return box


def _names_axis(layout: PageLayout, plot: Box, row: Ints) -> bool:
    """Whether a row of words is spread along a plot, or short and in its middle without the number of a
    caption.
    """
    w = layout.words
    name, width = layout.box(row), plot.x1 - plot.x0
    if (w.x0[row[1:]] - w.x1[row[:-1]] > w.size[row[1:]]).sum() > 1:
        return name.x1 - name.x0 > ALONG * width
    off = abs(name.x0 + name.x1 - plot.x0 - plot.x1) / 2
    numbered = any(c.isdigit() for i in row[1:3].tolist() for c in w.texts[i])
    return not numbered and off < NEAR * layout.em and name.x1 - name.x0 < ALONG * width


def _in_long_rows(layout: PageLayout, box: Box) -> Bools:
    """Words of rows below or above the box that fill most of its width: captions and text."""
    w = layout.words
    across = (w.x1 > box.x0) & (w.x0 < box.x1)
    filled = np.bincount(w.row, weights=np.where(across, w.x1 - w.x0, 0.0))
    long: Bools = (filled > 0.45 * (box.x1 - box.x0))[w.row]
    return long & ((w.y0 > box.y1 - 1) | (w.y1 < box.y0 + 1))
