"""The method `spaced`: tables whose columns are set apart by white space, with or without level rules."""

from __future__ import annotations

import re
from collections.abc import Sequence

import numpy as np

from ..layout import PageLayout, Zone
from ..layout.rules import Shades
from ..model import Box
from .draft import TableDraft
from .grid import build_grid
from .header import header_rows
from .ruled import trusts, words_inside
from .strips import Row, gutters, rows_of

# Level rules belong to one table when their ends agree within this (points).
SAME_ENDS = 4.0
# A table without lines ends where the next text is farther than this (em).
MAX_GAP = 3.2
_MARKER = re.compile(r"^([•●○■□▪◦‣–—*·-]|\(?[0-9ivxlc]{1,4}[.)]|\(?[a-zA-Z][.)])$")
_PROSE_WORDS = 8


def read_spaced(layout: PageLayout) -> list[TableDraft]:
    """Return the tables that white space draws."""
    return read_spaced_outside(layout, np.zeros(len(layout.words), dtype=np.bool_))


def read_spaced_outside(layout: PageLayout, taken: np.ndarray) -> list[TableDraft]:
    """Return the tables among the words that are not `taken` yet."""
    taken = taken.copy()
    drafts = []
    for box, lines in _ruled_regions(layout):
        members = words_inside(layout, box)
        members = members[~taken[members]]
        draft = _read_region(layout, rows_of(layout, members), box, lines)
        if draft is not None:
            drafts.append(draft)
            taken[members] = True
    for zone in layout.zones:
        free = zone.members[~taken[zone.members]]
        for rows in _runs(layout, rows_of(layout, free), zone):
            members = np.array([i for r in rows for i in r.words], dtype=np.int64)
            box = layout.box(members)
            draft = _read_region(layout, rows, box, _lines_in(layout, box))
            if draft is not None:
                drafts.append(draft)
    return drafts


def _read_region(
    layout: PageLayout, rows: Sequence[Row], box: Box, lines: Sequence[float]
) -> TableDraft | None:
    if len(rows) < 2:
        return None
    em = float(np.median(layout.words.size[[i for r in rows for i in r.words]]))
    cuts = gutters(layout, rows, box.x0, box.x1, em)
    if not cuts or not _is_table(layout, rows, cuts):
        return None
    inner = [y for y in lines if rows[0].y1 - 1 < y < rows[-1].y0 + 1]
    draft = build_grid(
        layout, rows, cuts, box, "spaced", inner, len(inner) >= 3 and trusts(layout, rows, cuts, inner)
    )
    if draft.rows < 2:
        return None
    draft.header_rows = header_rows(layout, draft, inner)
    draft.score = 0.7
    return draft


def _is_table(layout: PageLayout, rows: Sequence[Row], cuts: Sequence[float]) -> bool:
    """Tell tables from lists, prose in columns and lines that are wide apart by chance."""
    texts = layout.words.texts
    if len(cuts) == 1:
        firsts = [[texts[i] for i in r.words if layout.words.x1[i] <= cuts[0] + 1] for r in rows]
        marked = [f for f in firsts if f]
        if marked and sum(len(f) == 1 and bool(_MARKER.match(f[0])) for f in marked) > 0.6 * len(marked):
            return False
    speaking = sum(len(r.spans) > 1 for r in rows)
    return speaking >= 2 and speaking >= 0.3 * len(rows)


def _ruled_regions(layout: PageLayout) -> list[tuple[Box, list[float]]]:
    """Regions between level rules of the same extent that hold text in columns."""
    level = layout.rules.level
    order = np.lexsort((level.at, np.round(level.low / SAME_ENDS), np.round(level.high / SAME_ENDS)))
    families: list[list[int]] = []
    for i in order.tolist():
        for family in families:
            j = family[0]
            if (
                abs(level.low[i] - level.low[j]) < SAME_ENDS
                and abs(level.high[i] - level.high[j]) < SAME_ENDS
            ):
                family.append(i)
                break
        else:
            families.append([i])
    out = []
    for family in families:
        if len(family) < 2 or level.high[family[0]] - level.low[family[0]] < 4 * layout.em:
            continue
        ys = sorted(float(level.at[i]) for i in family)
        x0, x1 = float(level.low[family].min()), float(level.high[family].max())
        out += _tabular_bands(layout, x0 - 1, x1 + 1, ys)
    # Larger regions first, so that a family of short rules inside a table does not split it.
    return sorted(out, key=lambda r: -(r[0].y1 - r[0].y0) * (r[0].x1 - r[0].x0))


def _tabular_bands(
    layout: PageLayout, x0: float, x1: float, ys: list[float]
) -> list[tuple[Box, list[float]]]:
    """Cut a family of rules where prose stands between two of them."""
    out = []
    start = None
    for k in range(len(ys) - 1):
        members = words_inside(layout, Box(x0, ys[k], x1, ys[k + 1]))
        rows = rows_of(layout, members)
        broken = bool(rows) and _is_prose(layout, rows, x1 - x0)
        far = not rows and ys[k + 1] - ys[k] > 1.5 * layout.em
        if not broken and not far and rows and start is None:
            start = k
        if (broken or far) and start is not None:
            out.append((start, k))
            start = None
    if start is not None:
        out.append((start, len(ys) - 1))
    regions = []
    for a, b in out:
        box = Box(x0, ys[a], x1, ys[b])
        regions.append((box, _lines_in(layout, box)))
    return regions


def _is_prose(layout: PageLayout, rows: Sequence[Row], width: float) -> bool:
    single = [r for r in rows if len(r.spans) == 1]
    long = [r for r in single if len(r.words) >= _PROSE_WORDS and r.x1 - r.x0 > 0.6 * width]
    return len(long) >= max(2, 0.5 * len(rows)) or (len(single) == len(rows) and len(rows) > 2)


def _lines_in(layout: PageLayout, box: Box) -> list[float]:
    """The y of level rules, and of edges of shading where it alternates, across most of a region."""
    level, shades = layout.rules.level, layout.rules.shades
    width = box.x1 - box.x0
    overlap = np.minimum(level.high, box.x1) - np.maximum(level.low, box.x0)
    inside = (level.at > box.y0 - 1) & (level.at < box.y1 + 1) & (overlap > 0.6 * width)
    ys = [float(y) for y in level.at[inside]]
    for y0, y1, total in _shaded_bands(shades, box):
        if total > 0.6 * width:
            ys += [y0, y1]
    ys.sort()
    return [y for i, y in enumerate(ys) if i == 0 or y - ys[i - 1] > 2.0]


def _shaded_bands(shades: Shades, box: Box) -> list[tuple[float, float, float]]:
    """Shaded boxes in the region, those side by side taken together: top, bottom, covered width."""
    bands: dict[tuple[int, int], list[float]] = {}
    x0, y0, x1, y1 = shades.x0, shades.y0, shades.x1, shades.y1
    inside = (y0 >= box.y0 - 4) & (y1 <= box.y1 + 4) & (x1 > box.x0) & (x0 < box.x1)
    inside &= (y1 - y0) < 0.9 * (box.y1 - box.y0)
    for i in np.flatnonzero(inside).tolist():
        key = (round(float(y0[i])), round(float(y1[i])))
        band = bands.setdefault(key, [float(y0[i]), float(y1[i]), 0.0])
        band[2] += min(float(x1[i]), box.x1) - max(float(x0[i]), box.x0)
    return [(b[0], b[1], b[2]) for b in bands.values()]


def _runs(layout: PageLayout, rows: Sequence[Row], zone: Zone) -> list[list[Row]]:
    """Runs of rows that may be tables: rows in several spans, with few plain ones between them."""
    out: list[list[Row]] = []
    current: list[Row] = []
    plain = 0
    width = zone.x1 - zone.x0
    for row in rows:
        several = len(row.spans) > 1
        if current:
            gap = (row.baseline - current[-1].baseline) / layout.em
            prose = not several and len(row.words) >= _PROSE_WORDS and row.x1 - row.x0 > 0.6 * width
            if gap > MAX_GAP or prose or (not several and plain >= 2):
                out.append(current)
                current, plain = [], 0
        if several:
            current.append(row)
            plain = 0
        elif current:
            current.append(row)
            plain += 1
    if current:
        out.append(current)
    return [trimmed for run in out if len(trimmed := _trimmed(layout, run)) >= 2]


def _trimmed(layout: PageLayout, run: list[Row]) -> list[Row]:
    """Drop plain rows at the end, except those that continue the last row closely."""
    end = len(run)
    while end and len(run[end - 1].spans) == 1:
        end -= 1
    while (
        end < len(run)
        and run[end].baseline - run[end - 1].baseline < 1.45 * layout.em
        and run[end].x0 > run[0].x0 + layout.em
    ):
        end += 1
    return run[:end]
