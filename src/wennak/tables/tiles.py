"""Rows that came out as several though the shading behind each of their cells holds all lines of these."""

from __future__ import annotations

from itertools import pairwise

import numpy as np

from ..ink import Ints
from ..layout import PageLayout
from .draft import CellDraft, TableDraft

# Edges of shading this near (points) are level.
LEVEL = 1.0
# So many bands of cells shaded one by one are several.
SEVERAL = 3


def with_tiles_joined(layout: PageLayout, draft: TableDraft) -> TableDraft:
    """Join rows that one band of cells, each shaded by itself, holds, where most such bands hold one row."""
    shades = layout.rules.shades
    if len(shades) < 2 * SEVERAL or any(c.rowspan > 1 for c in draft.cells):
        return draft
    bands = [_band(layout, draft, row) for row in range(draft.rows)]
    joined = [a is not None and a == b for a, b in pairwise(bands)]
    held = np.bincount(np.cumsum([0, *(not same for same in joined)]))
    if not any(joined) or (held == 1).sum() < max(SEVERAL, (held > 1).sum() + 1):
        return draft
    number = np.cumsum([0, *(not same for same in joined)]).tolist()
    cells: dict[tuple[int, int, int], CellDraft] = {}
    for c in sorted(draft.cells, key=lambda c: c.row):
        key = number[c.row], c.column, c.colspan
        words = [*cells[key].words, *c.words] if key in cells else c.words
        cells[key] = CellDraft(key[0], c.column, 1, c.colspan, words)
    places = [(row, k) for row, first, over in cells for k in range(first, first + over)]
    if len(set(places)) < len(places):
        return draft
    out = draft.copy()
    out.cells, out.rows = list(cells.values()), number[-1] + 1
    return out


def _band(layout: PageLayout, draft: TableDraft, row: int) -> tuple[int, int] | None:
    """The upper and lower edge, in units of LEVEL, of the shades that each hold the words of one column in a
    row, and are level; None where they are not, or where one alone holds all.
    """
    tiles = {c.column: _tiles(layout, c) for c in draft.cells if c.row == row and c.words}
    each = [int(own[0]) for own in tiles.values() if len(own) == 1]
    shades = layout.rules.shades
    edges = {(round(float(shades.y0[k]) / LEVEL), round(float(shades.y1[k]) / LEVEL)) for k in each}
    whole = len(each) == len(tiles) and len(set(each)) == len(each)
    return edges.pop() if whole and len(each) > 1 and len(edges) == 1 else None


def _tiles(layout: PageLayout, cell: CellDraft) -> Ints:
    """The smallest shade behind each word of a cell, each once; -1 for none."""
    w, s = layout.words, layout.rules.shades
    x, y = ((w.x0 + w.x1) / 2)[cell.words, None], ((w.y0 + w.y1) / 2)[cell.words, None]
    behind = (s.x0 < x) & (x < s.x1) & (s.y0 < y) & (y < s.y1)
    area = np.where(behind, (s.x1 - s.x0) * (s.y1 - s.y0), np.inf)
    return np.array(sorted({*np.where(behind.any(axis=1), area.argmin(axis=1), -1).tolist()}))
