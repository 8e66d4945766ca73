"""The method `spaced`: tables whose columns are set apart by white space, with or without some rules."""

from __future__ import annotations

import re
from collections.abc import Sequence
from itertools import pairwise

import numpy as np

from ..ink import Bools, Ints
from ..layout import PageLayout, Zone
from ..model import Box
from .draft import TableDraft
from .grid import build_grid
from .header import header_rows
from .regions import (
    Region,
    is_prose_line,
    level_regions,
    lines_in,
    shaded_areas,
    upright_regions,
    words_inside,
)
from .ruled import trusts
from .strips import Row, gutters, rows_of

# A table without lines ends where the next text is farther than this (em).
MAX_GAP = 3.2
# Running heads stand in this share of the page at either end, set off from the text by this (em).
MARGIN = 0.12
MARGIN_GAP = 1.6
_MARKER = re.compile(r"^([•●○■□▪◦‣–—*·-]|\(?[0-9ivxlc]{1,4}[.)]|\(?[a-zA-Z][.)])$")


def read_spaced(layout: PageLayout) -> list[TableDraft]:
    """Return the tables that white space draws."""
    return read_spaced_outside(layout, np.zeros(len(layout.words), dtype=np.bool_))


def read_spaced_outside(layout: PageLayout, taken: Bools) -> list[TableDraft]:
    """Return the tables among the words that are not `taken` yet."""
    taken = taken | _margin_words(layout)
    drafts = []
    for region in [*upright_regions(layout), *level_regions(layout)]:
        members = words_inside(layout, region.box)
        members = members[~taken[members]]
        draft = _read_region(layout, rows_of(layout, members), region)
        if draft is not None:
            drafts.append(draft)
            taken[members] = True
    areas = shaded_areas(layout)
    for zone in layout.zones:
        free = zone.members[~taken[zone.members]]
        for rows in _runs(layout, rows_of(layout, free), zone, areas):
            box = layout.box(np.array([i for r in rows for i in r.words], dtype=np.int64))
            draft = _read_region(layout, rows, Region(box, [], lines_in(layout, box)))
            if draft is not None:
                drafts.append(draft)
    return drafts


def _read_region(layout: PageLayout, rows: Sequence[Row], region: Region) -> TableDraft | None:
    if len(rows) < 2:
        return None
    members = [i for r in rows for i in r.words]
    em = float(np.median(layout.words.size[members]))
    box = region.box
    cuts = list(region.cuts)
    for x0, x1 in pairwise([box.x0, *region.cuts, box.x1]):
        part = rows_of(layout, _between(layout, members, x0, x1)) if region.cuts else rows
        cuts += gutters(layout, part, x0, x1, em)
    cuts.sort()
    if not cuts or not _is_table(layout, rows, cuts, region):
        return None
    inner = [y for y in region.lines if rows[0].y1 - 1 < y < rows[-1].y0 + 1]
    trusted = len(inner) >= 3 and trusts(layout, rows, cuts, inner)
    draft = build_grid(layout, rows, cuts, box, "spaced", inner, trusted)
    if draft.rows < 2:
        return None
    draft.header_rows = header_rows(layout, draft, inner)
    draft.score = 0.7
    return draft


def _between(layout: PageLayout, members: Sequence[int], x0: float, x1: float) -> Ints:
    index = np.array(members, dtype=np.int64)
    middle = (layout.words.x0[index] + layout.words.x1[index]) / 2
    return index[(middle >= x0) & (middle <= x1)]


def _is_table(layout: PageLayout, rows: Sequence[Row], cuts: Sequence[float], region: Region) -> bool:
    """Tell tables from lists, code, prose in columns and lines that are wide apart by chance."""
    if region.cuts:
        return True
    texts = layout.words.texts
    if len(cuts) == 1:
        firsts = [[texts[i] for i in r.words if layout.words.x1[i] <= cuts[0] + 1] for r in rows]
        marked = [f for f in firsts if f]
        if marked and sum(len(f) == 1 and bool(_MARKER.match(f[0])) for f in marked) > 0.6 * len(marked):
            return False
    if len(region.lines) < 2 and _is_code(layout, rows):
        return False
    speaking = sum(len(r.spans) > 1 for r in rows)
    return speaking >= 2 and speaking >= 0.3 * len(rows)


def _is_code(layout: PageLayout, rows: Sequence[Row]) -> bool:
    """Whether rows are set in fixed pitch on a page that is not."""
    fixed = np.array([f.fixed_pitch for f in layout.ink.fonts], dtype=np.bool_)[layout.words.font]
    members = [i for r in rows for i in r.words]
    return bool(fixed[members].mean() > 0.8 and fixed.mean() < 0.6)


def _margin_words(layout: PageLayout) -> Bools:
    """Words of a line at the very top or bottom of the page that stands apart: a running head or foot."""
    w = layout.words
    out = np.zeros(len(w), dtype=np.bool_)
    rows = rows_of(layout, np.flatnonzero(~w.turned))
    if len(rows) < 4:
        return out
    for row, next_row, at_edge in (
        (rows[0], rows[1], rows[0].y1 < MARGIN * layout.height),
        (rows[-1], rows[-2], rows[-1].y0 > (1 - MARGIN) * layout.height),
    ):
        gap = max(next_row.y0 - row.y1, row.y0 - next_row.y1)
        if at_edge and gap > MARGIN_GAP * layout.em:
            out[row.words] = True
    return out


def _runs(layout: PageLayout, rows: Sequence[Row], zone: Zone, areas: Sequence[Box]) -> list[list[Row]]:
    """Runs of rows that may be tables: rows in several spans, with few plain ones between them.

    Rows in an area striped with shading belong together whatever they look like.
    """
    out: list[list[Row]] = []
    current: list[Row] = []
    plain, area = 0, -1
    width = zone.x1 - zone.x0
    for row in rows:
        several = len(row.spans) > 1
        here = _area_of(row, areas)
        if current and here >= 0 and here == area:
            current.append(row)
            plain = 0
            continue
        if current:
            gap = (row.baseline - current[-1].baseline) / layout.em
            apart = not several and here < 0 and _stands_apart(current, row)
            left_area = area >= 0 and here < 0 and not several
            if (
                gap > MAX_GAP
                or is_prose_line(row, width)
                or apart
                or left_area
                or (not several and plain >= 2)
            ):
                out.append(current)
                current, plain = [], 0
        area = here
        if several or here >= 0:
            current.append(row)
            plain = 0
        elif current:
            current.append(row)
            plain += 1
    if current:
        out.append(current)
    return [trimmed for run in out if len(trimmed := _trimmed(layout, run, areas)) >= 2]


def _area_of(row: Row, areas: Sequence[Box]) -> int:
    middle = (row.y0 + row.y1) / 2
    for k, a in enumerate(areas):
        if a.y0 <= middle <= a.y1 and row.x0 < a.x1 and row.x1 > a.x0:
            return k
    return -1


def _stands_apart(above: Sequence[Row], row: Row) -> bool:
    """Whether a plain row is set off from the rows above it by more than those are from each other."""
    if len(above) < 3:
        return False
    gaps = [b.y0 - a.y1 for a, b in pairwise(above)]
    return row.y0 - above[-1].y1 > max(1.25 * max(gaps), max(gaps) + 0.3 * (row.y1 - row.y0))


def _trimmed(layout: PageLayout, run: list[Row], areas: Sequence[Box]) -> list[Row]:
    """Drop plain rows at the end, except those that continue the last row closely."""
    end = len(run)
    while end and len(run[end - 1].spans) == 1 and _area_of(run[end - 1], areas) < 0:
        end -= 1
    while (
        end < len(run)
        and run[end].baseline - run[end - 1].baseline < 1.45 * layout.em
        and run[end].x0 > run[0].x0 + layout.em
    ):
        end += 1
    return run[:end]
