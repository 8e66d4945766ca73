"""Words outside tables -> lines in reading order, with tables standing among them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from ..ink import Bools, Floats, Ints
from ..model import Box, Place
from .bidi import logical
from .page import PageLayout

# A gap this wide (em) parts two pieces of text that happen to stand at one height.
PART_GAP = 2.5
# A label before an item has at most so many characters and stands this far (em) before its text.
LABEL_LENGTH = 5
LABEL_GAP = 0.7
# A bullet drawn as a shape is of this size (em) and its middle stands this far before the text.
DOT_SIZE = (0.12, 0.7)
DOT_REACH = (0.25, 2.2)


@dataclass(slots=True)
class Line:
    """A line of text with what its role is judged by.

    `column` is the number of its zone on the page, `left` and `right` are the edges of that zone; `dot` tells
    of a bullet drawn as a shape before it, `label` is a short first word set well apart from the rest.
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
    dot: bool = False
    label: str = ""


@dataclass(slots=True)
class TableMark:
    """The place of table number `index` of the page in the reading order."""

    index: int
    box: Box


Item = Line | TableMark


def flow(layout: PageLayout, taken: Bools, tables: Sequence[tuple[Box, Ints]]) -> list[Item]:
    """Return the lines and tables of a page in reading order: zone by zone, from top to bottom in each.

    `taken` marks the words that stand in tables; a table is given by its box and words, and is read with the
    zone that holds most of them.
    """
    zones = layout.zones
    zone_of_word = np.full(len(layout.words), len(zones), dtype=np.int64)
    for k, zone in enumerate(zones):
        zone_of_word[zone.members] = k
    items: list[list[Item]] = [[] for _ in range(len(zones) + 1)]
    for index, (box, members) in enumerate(tables):
        home = int(np.bincount(zone_of_word[members]).argmax()) if len(members) else len(zones)
        items[home].append(TableMark(index, box))
    for k, found in enumerate(items):
        members = np.flatnonzero((zone_of_word == k) & ~taken)
        found += _lines(layout, members, k)
        found.sort(key=lambda item: _height(item, layout.em))
    return [item for found in items for item in found]


def _height(item: Item, em: float) -> tuple[float, float]:
    return (item.baseline if isinstance(item, Line) else item.box.y0 + em, item.box.x0)


def _lines(layout: PageLayout, members: Ints, zone: int) -> list[Item]:
    """Words that follow each other in a row without a wide gap make a line."""
    if not len(members):
        return []
    w, fonts = layout.words, layout.ink.fonts
    row, x0, x1, size = w.row[members], w.x0[members], w.x1[members], w.size[members]
    head = np.ones(len(members), dtype=np.bool_)
    head[1:] = (row[1:] != row[:-1]) | (x0[1:] - x1[:-1] > PART_GAP * size[1:]) | w.turned[members][1:]
    starts = np.flatnonzero(head)
    width = np.maximum(x1 - x0, 0.01)
    total = np.add.reduceat(width, starts)
    traits = np.array([(f.bold, f.italic, f.fixed_pitch) for f in fonts], dtype=np.float64)[w.font[members]]
    shares = np.add.reduceat(traits * width[:, None], starts) / total[:, None] > 0.9
    columns = (
        starts, np.append(starts[1:], len(members)), np.minimum.reduceat(x0, starts),
        np.minimum.reduceat(w.y0[members], starts), np.maximum.reduceat(x1, starts),
        np.maximum.reduceat(w.y1[members], starts), w.baseline[members][starts],
        np.add.reduceat(size * width, starts) / total,
    )  # fmt: skip
    left, right = float(x0.min()), float(x1.max())
    if zone < len(layout.zones):
        left, right = layout.zones[zone].x0, layout.zones[zone].x1
    words = members.tolist()
    dots = _dots(layout)
    out: list[Item] = []
    for k, (a, b, l, t, r, bt, base, em) in enumerate(zip(*(c.tolist() for c in columns), strict=True)):
        run = words[a:b]
        bold, italic, fixed = shares[k].tolist()
        box = Box(l, t, r, bt)
        text = logical(_fixed_text(layout, run) if fixed else " ".join([w.texts[i] for i in run]))
        place = layout.place(box)
        out.append(
            Line(
                text, place, box if layout.turns else place.box, base, em, bold, italic, fixed, zone, left,
                right, _has_dot(dots, box, em), _label(layout, run),
            )
        )  # fmt: skip
    return out


def _dots(layout: PageLayout) -> Floats:
    """Middles of the small filled shapes of a page that may be bullets: rows of x, y."""
    ink = layout.ink
    x0, y0, x1, y1 = (
        np.concatenate((getattr(ink.shapes, side), getattr(ink.fills, side)))
        for side in ("x0", "y0", "x1", "y1")
    )
    w, h = x1 - x0, y1 - y0
    low, high = (share * layout.em for share in DOT_SIZE)
    small = (w > low) & (w < high) & (h > low) & (h < high) & (np.abs(w - h) < 0.4 * np.maximum(w, h))
    middles: Floats = np.stack(((x0 + x1) / 2, (y0 + y1) / 2), axis=1)[small]
    return middles


def _has_dot(dots: Floats, box: Box, em: float) -> bool:
    """Whether a bullet stands right before a line, within its height."""
    if not len(dots):
        return False
    near, far = (reach * em for reach in DOT_REACH)
    before = (dots[:, 0] > box.x0 - far) & (dots[:, 0] < box.x0 - near)
    return bool((before & (dots[:, 1] > box.y0) & (dots[:, 1] < box.y1)).any())


def _label(layout: PageLayout, run: list[int]) -> str:
    w = layout.words
    if len(run) < 2 or len(w.texts[run[0]]) > LABEL_LENGTH:
        return ""
    gap = float(w.x0[run[1]] - w.x1[run[0]])
    return w.texts[run[0]] if gap > LABEL_GAP * float(w.size[run[0]]) else ""


def _fixed_text(layout: PageLayout, run: list[int]) -> str:
    """Text in fixed pitch keeps the number of its blanks."""
    w = layout.words
    out = w.texts[run[0]]
    for a, b in pairwise(run):
        pitch = (float(w.x1[a]) - float(w.x0[a])) / max(1, len(w.texts[a]))
        blanks = round((float(w.x0[b]) - float(w.x1[a])) / pitch) if pitch > 0 else 1
        out += " " * max(1, min(blanks, 40)) + w.texts[b]
    return out
