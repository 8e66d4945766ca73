"""Where a page holds pictures and drawings."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..ink import Bools, Floats, Ints
from ..model import Box
from .connected import connected
from .page import PageLayout

# A figure is at least this wide and high (em); smaller pictures are ornaments, symbols, bullets.
MIN_SIDE = 4.0
# Pieces of a drawing nearer than this (em) belong together.
NEAR = 1.5
# A drawing has at least so many curves or slanted lines: tables and boxes have none.
MIN_SHAPES = 5
# A picture that covers this share of the page, or has this many words on it, lies behind the text.
PAGE_SHARE = 0.6
WORDS_ON_PICTURE = 40


@dataclass(slots=True)
class FigureArea:
    """A figure: its box and the words in it, in page order."""

    box: Box
    words: Ints


def find_figures(layout: PageLayout, tables: Sequence[Box], taken: Bools) -> list[FigureArea]:
    """Return the pictures and drawings of a page that are not part of a table.

    `taken` marks words that are no part of a figure.
    """
    areas = [b for b in [*_pictures(layout), *_drawings(layout)] if not any(_meet(b, t) for t in tables)]
    out: list[FigureArea] = []
    for box in sorted(_outermost(areas), key=lambda b: (b.y0, b.x0)):
        words = np.flatnonzero(_inside(layout, box) & ~taken)
        if len(words) <= WORDS_ON_PICTURE:
            taken[words] = True
            out.append(FigureArea(box, words))
    return out


def _pictures(layout: PageLayout) -> list[Box]:
    p, em = layout.ink.pictures, layout.em
    if not len(p):
        return []
    x0, x1 = np.maximum(p.x0, 0), np.minimum(p.x1, layout.width)
    y0, y1 = np.maximum(p.y0, 0), np.minimum(p.y1, layout.height)
    large = p.visible & (x1 - x0 > MIN_SIDE * em) & (y1 - y0 > MIN_SIDE * em)
    large &= (x1 - x0) * (y1 - y0) < PAGE_SHARE * layout.width * layout.height
    sides = (side[large].tolist() for side in (x0, y0, x1, y1))
    return _grouped([Box(*b) for b in zip(*sides, strict=True)], em)


def _drawings(layout: PageLayout) -> list[Box]:
    """Clusters of curves and slanted lines, with the straight lines and bars that stand among them."""
    ink, em = layout.ink, layout.em
    s, o, f = ink.strokes, ink.shapes, ink.fills
    dx, dy = np.abs(s.x1 - s.x0), np.abs(s.y1 - s.y0)
    slanted = (dx > 0.5) & (dy > 0.5)
    if len(o) + int(slanted.sum()) < MIN_SHAPES:
        return []
    free = np.concatenate((np.ones(len(o), dtype=np.bool_), slanted, np.zeros(len(f), dtype=np.bool_)))
    x0 = np.concatenate((o.x0, np.minimum(s.x0, s.x1), f.x0))
    x1 = np.concatenate((o.x1, np.maximum(s.x0, s.x1), f.x1))
    y0 = np.concatenate((o.y0, np.minimum(s.y0, s.y1), f.y0))
    y1 = np.concatenate((o.y1, np.maximum(s.y0, s.y1), f.y1))
    on_page = (x1 > 0) & (x0 < layout.width) & (y1 > 0) & (y0 < layout.height)
    on_page &= (x1 - x0) * (y1 - y0) < PAGE_SHARE * layout.width * layout.height
    keep = np.flatnonzero(on_page)
    cluster = _clusters(layout, x0[keep], y0[keep], x1[keep], y1[keep])
    out = []
    for k in range(1, int(cluster.max(initial=0)) + 1):
        own = keep[cluster == k]
        box = Box(float(x0[own].min()), float(y0[own].min()), float(x1[own].max()), float(y1[own].max()))
        tall, wide = box.y1 - box.y0 > MIN_SIDE * em, box.x1 - box.x0 > MIN_SIDE * em
        if free[own].sum() >= MIN_SHAPES and tall and wide:
            out.append(_with_labels(layout, box))
    return out


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


def _with_labels(layout: PageLayout, box: Box) -> Box:
    """A drawing with the short texts at its sides: names of axes and their scales."""
    w, em = layout.words, layout.em
    for _ in range(3):
        near = (
            (w.x1 > box.x0 - NEAR * em) & (w.x0 < box.x1 + NEAR * em)
            & (w.y1 > box.y0 - 0.5 * em) & (w.y0 < box.y1 + 0.8 * em)
            & (w.x1 - w.x0 < 0.5 * (box.x1 - box.x0)) & (w.size < 1.02 * em)
        )  # fmt: skip
        members = np.flatnonzero(near & ~_in_long_rows(layout, box))
        if not len(members):
            break
        grown = Box.around([box, layout.box(members)])
        if grown == box:
            break
        box = grown
    return box


def _in_long_rows(layout: PageLayout, box: Box) -> Bools:
    """Words of rows below or above the box that fill most of its width: captions and text."""
    w = layout.words
    across = (w.x1 > box.x0) & (w.x0 < box.x1)
    filled = np.bincount(w.row, weights=np.where(across, w.x1 - w.x0, 0.0))
    long: Bools = (filled > 0.45 * (box.x1 - box.x0))[w.row]
    return long & ((w.y0 > box.y1 - 1) | (w.y1 < box.y0 + 1))


def _inside(layout: PageLayout, box: Box) -> Bools:
    w = layout.words
    x, y = (w.x0 + w.x1) / 2, (w.y0 + w.y1) / 2
    inside: Bools = (x > box.x0) & (x < box.x1) & (y > box.y0) & (y < box.y1)
    return inside


def _meet(a: Box, b: Box) -> bool:
    return a.x0 < b.x1 and b.x0 < a.x1 and a.y0 < b.y1 and b.y0 < a.y1


def _grouped(boxes: list[Box], em: float) -> list[Box]:
    """Pictures that touch are strips of one."""
    out: list[Box] = []
    for box in sorted(boxes, key=lambda b: (b.y0, b.x0)):
        wide = Box(box.x0 - 0.2 * em, box.y0 - 0.2 * em, box.x1 + 0.2 * em, box.y1 + 0.2 * em)
        touching = [b for b in out if _meet(wide, b)]
        out = [b for b in out if b not in touching]
        out.append(Box.around([box, *touching]))
    return out


def _outermost(boxes: list[Box]) -> list[Box]:
    """Join boxes that overlap."""
    out: list[Box] = []
    for box in boxes:
        touching = [b for b in out if _meet(box, b)]
        out = [b for b in out if b not in touching]
        out.append(Box.around([box, *touching]))
    return out
