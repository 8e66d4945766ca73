"""Readings that leave out rows where the lines of a grid, or upright rules between columns, go on."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Iterator, Sequence

import numpy as np

from ..ink import Ints
from ..layout import PageLayout
from ..model import Box
from .areas import words_inside
from .lattice import Lattice
from .reading import Reading, bits_of
from .rows import Row, rows_of, span_of
from .strip import Strip

# A grid of fewer rows may be a frame around a table with its notes.
MIN_ROWS = 4
# A reading that holds all rows is one where it gains this.
SOUND = 0.5


def without_cut_grids(
    layout: PageLayout, lattices: Sequence[Lattice], readings: Sequence[Reading]
) -> list[Reading]:
    """Return the readings without those that hold some rows of a grid and leave out others, where one holds
    them all. A row counts where its text falls into parts; names and notes may stand in the grid, too.
    """
    out = list(readings)
    strips = {id(r.place.strip): r.place.strip for r in readings}
    grids = [*_framed(layout, lattices), *(rows for s in strips.values() for rows in _along(layout, s))]
    for rows in grids:
        if len(rows) < MIN_ROWS:
            continue
        held = bits_of(np.array([i for words in rows for i in words], dtype=np.int64))
        if any(r.bits & held == held and r.gain > SOUND for r in out):
            out = [r for r in out if r.bits & held in (0, held)]
    return out


def _framed(layout: PageLayout, lattices: Sequence[Lattice]) -> Iterator[list[list[int]]]:
    """The words of the rows of each grid with lines around it and between all its rows."""
    for lattice in lattices:
        closed = lattice.upright[:, 0].all() and lattice.upright[:, -1].all() and lattice.level.all()
        if closed and lattice.rows >= MIN_ROWS:
            x0, y0, x1, y1 = (float(side[k]) for k in (0, -1) for side in (lattice.xs, lattice.ys))
            rows = rows_of(layout, words_inside(layout, Box(x0, y0, x1, y1)))
            yield [r.words for r in rows if len(r.spans) > 1]


def _along(layout: PageLayout, strip: Strip) -> Iterator[list[list[int]]]:
    """The words right beside upright rules of one extent, row by row of a strip: farther on may stand another
    table.
    """
    upright, zones = layout.rules.upright, layout.zone_of()
    inside = (upright.at > strip.x0) & (upright.at < strip.x1)
    sides: dict[tuple[int, int], list[float]] = {}
    for x, low, high in zip(
        *(f[inside].tolist() for f in (upright.at, upright.low, upright.high)), strict=True
    ):
        sides.setdefault((round(low), round(high)), []).append(x)
    for (low, high), at in sides.items():
        rows = [r for r in strip.rows if low < (r.y0 + r.y1) / 2 < high]
        # Behind a rule of another extent stands another table.
        others = [(*ends, x) for ends, own in sides.items() if ends != (low, high) for x in own]
        beside = [_beside(layout, zones, r, at, others) for r in rows]
        yield [words for words in beside if words]


def _beside(
    layout: PageLayout,
    zones: Ints,
    row: Row,
    at: Sequence[float],
    others: Sequence[tuple[float, float, float]],
) -> list[int]:
    """The words of a row in the parts right and left of each x; none where one of these is not there, in
    another column of the page, or behind another rule, given by its ends and its x.
    """
    middle, part, zone = (row.y0 + row.y1) / 2, span_of(layout, row), zones[row.words]
    begins, ends = zip(*row.spans, strict=True)
    crossing = [other for low, high, other in others if low < middle < high]
    parts: set[int] = set()
    for x in at:
        left, right = bisect_left(ends, x) - 1, bisect_right(begins, x)
        if left < 0 or right == len(begins) or any(ends[left] < other < begins[right] for other in crossing):
            continue
        if {*zone[part == left].tolist()} & {*zone[part == right].tolist()}:
            parts |= {left, right}
    return [i for i, own in zip(row.words, part.tolist(), strict=True) if own in parts]
