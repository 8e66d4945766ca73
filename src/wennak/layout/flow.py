"""Words outside tables -> lines in reading order, with tables standing among them."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from ..ink import Bools, Ints
from ..model import Box, Place
from .bidi import logical
from .page import PageLayout
from .zones import page_gutters

# A gap this wide (em) parts two pieces of text that happen to stand at one height.
PART_GAP = 2.5
# A gap this wide (em) across a gutter between columns of prose parts the columns.
GUTTER_GAP = 0.6


@dataclass(slots=True)
class Line:
    """A line of text with what its role is judged by.

    `left` and `right` are the edges of its column; `column` is -1 for a line that reaches across columns.
    """

    text: str
    place: Place
    box: Box
    baseline: float
    size: float
    bold: bool
    italic: bool
    fixed: bool
    column: int
    left: float
    right: float


@dataclass(slots=True)
class TableMark:
    """The place of table number `index` of the page in the reading order."""

    index: int
    box: Box


Item = Line | TableMark


def flow(layout: PageLayout, taken: Bools, tables: list[Box]) -> list[Item]:
    """Return the lines and tables of a page in reading order.

    Columns of prose are read one after the other; whatever reaches across a gutter between them parts the
    page into bands that are read from top to bottom.
    """
    free = np.flatnonzero(~taken)
    gutters = page_gutters(layout, free)
    items: list[Item] = [TableMark(i, box) for i, box in enumerate(tables)]
    items += _lines(layout, free, gutters)
    return _ordered(items, gutters, layout.em)


def _lines(layout: PageLayout, members: Ints, gutters: list[float]) -> list[Item]:
    """Words that follow each other in a row without a wide gap make a line."""
    if not len(members):
        return []
    w, fonts = layout.words, layout.ink.fonts
    cuts = np.array(gutters, dtype=np.float64)
    row, x0, x1, size = w.row[members], w.x0[members], w.x1[members], w.size[members]
    crossed = np.searchsorted(cuts, x0[1:] + 1) > np.searchsorted(cuts, x1[:-1] - 1)
    limit = np.where(crossed, GUTTER_GAP, PART_GAP) * size[1:]
    head = np.ones(len(members), dtype=np.bool_)
    head[1:] = (row[1:] != row[:-1]) | (x0[1:] - x1[:-1] > limit) | w.turned[members][1:]
    starts = np.flatnonzero(head)
    width = np.maximum(x1 - x0, 0.01)
    total = np.add.reduceat(width, starts)
    traits = np.array([(f.bold, f.italic, f.fixed_pitch) for f in fonts], dtype=np.float64)[w.font[members]]
    shares = np.add.reduceat(traits * width[:, None], starts) / total[:, None] > 0.9
    left, right = np.minimum.reduceat(x0, starts), np.maximum.reduceat(x1, starts)
    top = np.minimum.reduceat(w.y0[members], starts)
    bottom = np.maximum.reduceat(w.y1[members], starts)
    first, last = np.searchsorted(cuts, left + 1), np.searchsorted(cuts, right - 1)
    edges = [float(x0.min()), *gutters, float(x1.max())]
    columns = (
        starts, np.append(starts[1:], len(members)), left, top, right, bottom, w.baseline[members][starts],
        np.add.reduceat(size * width, starts) / total, first, last,
    )  # fmt: skip
    words = members.tolist()
    out: list[Item] = []
    for k, (a, b, l, t, r, bt, base, em, c0, c1) in enumerate(
        zip(*(c.tolist() for c in columns), strict=True)
    ):
        run = words[a:b]
        bold, italic, fixed = shares[k].tolist()
        box = Box(l, t, r, bt)
        text = logical(_fixed_text(layout, run) if fixed else " ".join([w.texts[i] for i in run]))
        column = c0 if c0 == c1 else -1
        place = layout.place(box)
        out.append(
            Line(
                text,
                place,
                box if layout.turns else place.box,
                base,
                em,
                bold,
                italic,
                fixed,
                column,
                edges[c0],
                edges[c1 + 1],
            )
        )
    return out


def _fixed_text(layout: PageLayout, run: list[int]) -> str:
    """Text in fixed pitch keeps the number of its blanks."""
    w = layout.words
    out = w.texts[run[0]]
    for a, b in pairwise(run):
        pitch = (float(w.x1[a]) - float(w.x0[a])) / max(1, len(w.texts[a]))
        blanks = round((float(w.x0[b]) - float(w.x1[a])) / pitch) if pitch > 0 else 1
        out += " " * max(1, min(blanks, 40)) + w.texts[b]
    return out


def _ordered(items: list[Item], gutters: list[float], em: float) -> list[Item]:
    def key(item: Item) -> tuple[float, float]:
        return (item.baseline if isinstance(item, Line) else item.box.y0 + em, item.box.x0)

    items = sorted(items, key=key)
    if not gutters:
        return items
    out: list[Item] = []
    band: list[Item] = []

    def close() -> None:
        band.sort(key=lambda i: (int(np.searchsorted(gutters, (i.box.x0 + i.box.x1) / 2)), *key(i)))
        out.extend(band)
        band.clear()

    for item in items:
        if any(item.box.x0 < g - 1 and item.box.x1 > g + 1 for g in gutters):
            close()
            out.append(item)
        else:
            band.append(item)
    close()
    return out
