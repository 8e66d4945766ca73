"""Readings that leave out rows of a grid whose lines go on around these."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..layout import PageLayout
from ..model import Box
from .areas import words_inside
from .choose import LEAST
from .lattice import Lattice
from .reading import Reading, bits_of
from .rows import rows_of

# A grid of fewer rows may be a frame around a table with its notes.
MIN_ROWS = 4


def without_cut_grids(
    layout: PageLayout, lattices: Sequence[Lattice], readings: Sequence[Reading]
) -> list[Reading]:
    """Return the readings without those that hold some rows of a grid and leave out others, where one holds
    them all. A row counts where its text falls into parts; names and notes may stand in the grid, too.
    """
    out = list(readings)
    for lattice in lattices:
        framed = lattice.upright[:, 0].all() and lattice.upright[:, -1].all()
        if lattice.rows < MIN_ROWS or not framed or not lattice.level.all():
            continue
        box = Box(*(float(v) for v in (lattice.xs[0], lattice.ys[0], lattice.xs[-1], lattice.ys[-1])))
        rows = [r for r in rows_of(layout, words_inside(layout, box)) if len(r.spans) > 1]
        held = bits_of(np.array([i for r in rows for i in r.words], dtype=np.int64))
        if any(r.bits & held == held and r.gain > LEAST for r in out):
            out = [r for r in out if r.bits & held in (0, held)]
    return out
