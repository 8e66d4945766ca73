"""What the shading behind single cells tells: rows that came out as several, and labels above a table."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise

import numpy as np

from ..layout import PageLayout
from .draft import CellDraft, TableDraft
from .rows import Row, within

# Edges of shading this near (points) are level.
LEVEL = 1.0
# Shaded cells of one table are no farther apart than this (em).
APART = 0.5
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


def labels_on_tiles(layout: PageLayout, draft: TableDraft, row: Row) -> list[CellDraft]:
    """Return the labels in a row above a table whose shading begins and ends where that behind the cells of
    the first row does, right above it; none where that of any does not, or one alone is over all columns.
    """
    shades = layout.rules.shades
    own = [within(layout, row, *span) for span in row.spans] if len(shades) else []
    tiles = [_tile(layout, words) for words in own]
    if min(tiles, default=-1) < 0:
        return []
    foot, near = float(shades.y1[tiles].max()), APART * layout.em
    under = [(c, _tile(layout, c.words)) for c in draft.cells if c.row == 0 and c.words]
    under = [(c, k) for c, k in under if k >= 0 and abs(shades.y0[k] - foot) < near]
    out = []
    for words, k in zip(own, tiles, strict=True):
        begins = [c.column for c, tile in under if abs(shades.x0[tile] - shades.x0[k]) < LEVEL]
        ends = [c.column + c.colspan for c, tile in under if abs(shades.x1[tile] - shades.x1[k]) < LEVEL]
        if not begins or not ends or ends[0] - begins[0] == draft.columns:
            return []
        out.append(CellDraft(0, begins[0], 1, ends[0] - begins[0], words))
    return out


def _band(layout: PageLayout, draft: TableDraft, row: int) -> tuple[int, int] | None:
    """The upper and lower edge, in units of LEVEL, of the shades that each hold the words of one cell in a
    row, and are level; None where they are not, or where one alone holds all.
    """
    tiles = [_tile(layout, c.words) for c in draft.cells if c.row == row and c.words]
    if len(tiles) < 2 or len(set(tiles)) < len(tiles) or min(tiles) < 0:
        return None
    shades = layout.rules.shades
    edges = {(round(float(shades.y0[k]) / LEVEL), round(float(shades.y1[k]) / LEVEL)) for k in tiles}
    return edges.pop() if len(edges) == 1 else None


def _tile(layout: PageLayout, words: Sequence[int]) -> int:
    """The smallest shade behind some words, where it is the same behind all; -1 where none is."""
    w, s = layout.words, layout.rules.shades
    x, y = ((w.x0 + w.x1) / 2)[words, None], ((w.y0 + w.y1) / 2)[words, None]
    behind = (s.x0 < x) & (x < s.x1) & (s.y0 < y) & (y < s.y1)
    area = np.where(behind, (s.x1 - s.x0) * (s.y1 - s.y0), np.inf)
    smallest = {*np.where(behind.any(axis=1), area.argmin(axis=1), -1).tolist()}
    return int(smallest.pop()) if len(smallest) == 1 else -1
