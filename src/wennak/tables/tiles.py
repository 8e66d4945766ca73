"""What the shading behind single cells tells: rows that came out as several, and labels above a table."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from itertools import pairwise

import numpy as np

from ..ink import Ints
from ..layout import PageLayout
from .draft import CellDraft, TableDraft, cells_by_row
from .rows import Row, within

# Edges of shading this near (points) are level.
LEVEL = 1.0
# Shaded cells of one table are no farther apart than this (em).
APART = 0.5
# So many bands of cells shaded one by one are several.
SEVERAL = 3
# On drawings with more pairs of words and shades than this no tiles are looked for.
PAIRS = 2_000_000


def with_tiles_joined(layout: PageLayout, draft: TableDraft) -> TableDraft:
    """Join rows that one band of cells, each shaded by itself, holds, where most such bands hold one row."""
    words, shades = draft.word_indices(), layout.rules.shades
    if len(shades) < 2 * SEVERAL or len(words) * len(shades) > PAIRS:
        return draft
    if any(c.rowspan > 1 for c in draft.cells):
        return draft
    behind = dict(zip(words.tolist(), _smallest_behind(layout, words).tolist(), strict=True))
    held_by = cells_by_row(draft)
    bands = [_band(layout, held_by.get(row, []), behind) for row in range(draft.rows)]
    joined = [a is not None and b is not None and np.allclose(a, b, 0, LEVEL) for a, b in pairwise(bands)]
    number = np.cumsum([0, *(not same for same in joined)])
    held = np.bincount(number)
    if not any(joined) or (held == 1).sum() < max(SEVERAL, (held > 1).sum() + 1):
        return draft
    cells: dict[tuple[int, int, int], CellDraft] = {}
    for c in sorted(draft.cells, key=lambda c: c.row):
        key = int(number[c.row]), c.column, c.colspan
        cells[key] = replace(c, row=key[0], words=[*(cells[key].words if key in cells else ()), *c.words])
    places = [(row, k) for row, first, over in cells for k in range(first, first + over)]
    if len(set(places)) < len(places):
        return draft
    return replace(draft, rows=int(number[-1]) + 1, cells=list(cells.values()))


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


def _band(
    layout: PageLayout, cells: Sequence[CellDraft], behind: Mapping[int, int]
) -> tuple[float, float] | None:
    """The upper and lower edge of the shades that each hold the words of one of some cells, and are level;
    None where they are not, or where one alone holds all. `behind` is the shade behind each word.
    """
    tiles = [{behind[i] for i in c.words} for c in cells]
    each = [k for tile in tiles for k in tile]
    if len(cells) < 2 or len(each) > len(cells) or len(set(each)) < len(each) or min(each) < 0:
        return None
    tops, feet = layout.rules.shades.y0[each], layout.rules.shades.y1[each]
    level = np.ptp(tops) < LEVEL and np.ptp(feet) < LEVEL
    return (float(tops.min()), float(feet.min())) if level else None


def _tile(layout: PageLayout, words: Sequence[int]) -> int:
    """The smallest shade behind some words, where it is the same behind all; -1 where none is."""
    smallest = {*_smallest_behind(layout, np.array(words)).tolist()}
    return int(smallest.pop()) if len(smallest) == 1 else -1


def _smallest_behind(layout: PageLayout, words: Ints) -> Ints:
    """The smallest shade behind the middle of each of some words; -1 where none is."""
    w, s = layout.words, layout.rules.shades
    x, y = ((w.x0 + w.x1) / 2)[words, None], ((w.y0 + w.y1) / 2)[words, None]
    behind = (s.x0 < x) & (x < s.x1) & (s.y0 < y) & (y < s.y1)
    area = np.where(behind, (s.x1 - s.x0) * (s.y1 - s.y0), np.inf)
    return np.where(behind.any(axis=1), area.argmin(axis=1), -1)
