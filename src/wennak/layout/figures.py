"""Where a page holds pictures and drawings."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..ink import Bools, Ints
from ..model import Box
from .drawings import MIN_SIDE, PAGE_SHARE
from .page import PageLayout

# A picture with this many words on it lies behind the text.
WORDS_ON_PICTURE = 40


@dataclass(slots=True)
class FigureArea:
    """A figure: its box and the words in it, row by row as these are drawn one after the other: the labels
    of an axis are no lines of text, and programs draw them along the axis.
    """

    box: Box
    words: Ints


def find_figures(layout: PageLayout, tables: Sequence[Box], taken: Bools) -> list[FigureArea]:
    """Return the pictures and drawings of a page that are not part of a table.

    `taken` marks words that are no part of a figure.
    """
    out: list[FigureArea] = []
    for box in sorted(figure_boxes(layout, tables), key=lambda b: (b.y0, b.x0)):
        words = np.flatnonzero(layout.words.inside(box) & ~taken)
        if len(words) <= WORDS_ON_PICTURE:
            taken[words] = True
            out.append(FigureArea(box, _as_drawn(layout, words)))
    return out


def figure_boxes(layout: PageLayout, tables: Sequence[Box]) -> list[Box]:
    """Return where the pictures and drawings of a page are that meet no table."""
    drawn = [drawing.box for drawing in layout.drawings]
    return _outermost([b for b in [*_pictures(layout), *drawn] if not any(_meet(b, t) for t in tables)])


def _as_drawn(layout: PageLayout, words: Ints) -> Ints:
    """Words row by row, as the first of each row is drawn, and in a row as they are drawn."""
    drawn, row = layout.words.drawn[words], layout.words.row[words]
    first = np.full(int(row.max(initial=-1)) + 1, np.iinfo(np.int64).max)
    np.minimum.at(first, row, drawn)
    return words[np.lexsort((drawn, first[row]))]


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
