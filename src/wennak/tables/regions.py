"""Where tables may be: places that level rules, upright rules or shading mark off."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from itertools import pairwise

import numpy as np

from ..ink import Ints
from ..layout import PageLayout
from ..layout.rules import Lines
from ..model import Box
from .strips import UNDER, Row, rows_of

# Rules belong to one table when their ends agree within this (points).
SAME_ENDS = 4.0
# Rules that belong to some columns only leave text beside this share of the rows between them.
PART_SHARE = 0.4
# Upright rules that break off for less than this (em) go on.
BRIDGE = 3.6
# Room between rows of a striped table, or between a row and the edge of a stripe, is at most this (em).
TABLE_ROOM = 1.0
# A line of so many words that fills most of the width is prose.
PROSE_WORDS = 8
PROSE_WIDTH = 0.6


@dataclass(slots=True)
class Region:
    """A place that may hold a table: its box, the x of upright rules in it, the y of level separators."""

    box: Box
    cuts: list[float] = field(default_factory=list)
    lines: list[float] = field(default_factory=list)


def words_inside(layout: PageLayout, box: Box) -> Ints:
    """Return the indices of the words whose middle lies in the box."""
    w = layout.words
    x, y = (w.x0 + w.x1) / 2, (w.y0 + w.y1) / 2
    return np.flatnonzero((x >= box.x0) & (x <= box.x1) & (y >= box.y0) & (y <= box.y1))


def is_prose_line(row: Row, width: float) -> bool:
    """Whether a row reads as a line of running text in a column of the given width."""
    return len(row.spans) == 1 and len(row.words) >= PROSE_WORDS and row.x1 - row.x0 > PROSE_WIDTH * width


def level_regions(layout: PageLayout) -> list[Region]:
    """Regions between level rules of the same extent that hold text in columns, the largest first."""
    level = layout.rules.level
    found: list[Region] = []
    for family in _families(level):
        if len(family) < 2 or level.high[family[0]] - level.low[family[0]] < 4 * layout.em:
            continue
        ys = sorted(float(level.at[i]) for i in family)
        x0, x1 = float(level.low[family].min()), float(level.high[family].max())
        found += _tabular_bands(layout, x0 - 1, x1 + 1, ys)
    out = [r for r in found if not _is_part(layout, r.box, [o.box for o in found if o is not r])]
    return sorted(out, key=lambda r: -(r.box.y1 - r.box.y0) * (r.box.x1 - r.box.x0))


def _is_part(layout: PageLayout, box: Box, others: Sequence[Box]) -> bool:
    """Whether the rows in a box go on beside it outside all rules, as those over totals do."""
    w = layout.words
    members = words_inside(layout, box)
    home = max(layout.zones, key=lambda z: np.isin(z.members, members).sum(), default=None)
    if home is None or not len(members):
        return False
    rows = np.unique(w.row[members])
    beside = home.members[np.isin(w.row[home.members], rows)]
    middle = (w.x0[beside] + w.x1[beside]) / 2
    outside = (middle < box.x0) | (middle > box.x1)
    for o in others:
        if o.y0 < box.y1 and o.y1 > box.y0:
            outside &= (middle < o.x0) | (middle > o.x1)
    return len(np.unique(w.row[beside[outside]])) > PART_SHARE * len(rows)


def upright_regions(layout: PageLayout) -> list[Region]:
    """Regions beside upright rules of the same extent."""
    upright = _bridged(layout.rules.upright, BRIDGE * layout.em)
    out = []
    for family in _families(upright):
        xs = sorted(float(upright.at[i]) for i in family)
        y0, y1 = float(upright.low[family].min()), float(upright.high[family].max())
        if y1 - y0 < 1.5 * layout.em:
            continue
        middle = (xs[0] + xs[-1]) / 2
        for zone in layout.zones:
            shared = min(y1, zone.y1) - max(y0, zone.y0)
            beside = not zone.x0 - layout.em <= middle <= zone.x1 + layout.em
            if beside or shared < min(1.5 * layout.em, 0.5 * (zone.y1 - zone.y0)):
                continue
            box = Box(min(zone.x0, xs[0]) - 1, y0 - 1, max(zone.x1, xs[-1]) + 1, y1 + 1)
            if len(members := words_inside(layout, box)):
                inner = layout.box(members)
                cuts = [x for x in xs if inner.x0 < x < inner.x1]
                if cuts:
                    out.append(
                        Region(Box(inner.x0 - 1, y0 - 1, inner.x1 + 1, y1 + 1), cuts, lines_in(layout, box))
                    )
                break
    return out


def _bridged(lines: Lines, most: float) -> Lines:
    """Join lines on one track that break off for a row that runs across them."""
    order = np.lexsort((lines.low, np.round(lines.at / SAME_ENDS)))
    out: list[list[float]] = []
    for i in order.tolist():
        at, low, high = float(lines.at[i]), float(lines.low[i]), float(lines.high[i])
        if out and abs(out[-1][0] - at) < SAME_ENDS / 2 and low - out[-1][2] < most:
            out[-1][2] = max(out[-1][2], high)
        else:
            out.append([at, low, high])
    table = np.array(out, dtype=np.float64).reshape(-1, 3)
    return Lines(table[:, 0], table[:, 1], table[:, 2])


def shaded_areas(layout: PageLayout) -> list[Box]:
    """Areas striped with shading: bands of one width with only closely set rows between them."""
    bands = _bands(layout, Box(0, 0, layout.width, layout.height))
    bands = [b for b in bands if b.x1 - b.x0 > 4 * layout.em and b.y1 - b.y0 < 0.3 * layout.height]
    areas: list[Box] = []
    for band in sorted(bands, key=lambda b: (round(b.x0 / SAME_ENDS), round(b.x1 / SAME_ENDS), b.y0)):
        last = areas[-1] if areas else None
        if (
            last
            and abs(band.x0 - last.x0) < SAME_ENDS
            and abs(band.x1 - last.x1) < SAME_ENDS
            and _closely_filled(layout, Box(last.x0, last.y1, last.x1, band.y0))
        ):
            areas[-1] = Box(last.x0, last.y0, last.x1, max(last.y1, band.y1))
        else:
            areas.append(band)
    return areas


def _closely_filled(layout: PageLayout, gap: Box) -> bool:
    """Whether the rows in a gap follow each other, and its edges, without much room, as in a table."""
    edge = gap.y0
    for row in rows_of(layout, words_inside(layout, gap)):
        if row.y0 - edge > TABLE_ROOM * layout.em:
            return False
        edge = max(edge, row.y1)
    return gap.y1 - edge <= TABLE_ROOM * layout.em


def lines_in(layout: PageLayout, box: Box) -> list[float]:
    """The y of level rules, and of edges of shading, that run across most of a region."""
    level = layout.rules.level
    width = box.x1 - box.x0
    overlap = np.minimum(level.high, box.x1) - np.maximum(level.low, box.x0)
    inside = (level.at > box.y0 - 1) & (level.at < box.y1 + 1) & (overlap > 0.6 * width)
    ys = [float(y) for y in level.at[inside]]
    for band in _bands(layout, box):
        if band.x1 - band.x0 > 0.6 * width and band.y1 - band.y0 < 0.9 * (box.y1 - box.y0):
            ys += [band.y0, band.y1]
    ys.sort()
    return [y for i, y in enumerate(ys) if i == 0 or y - ys[i - 1] > 2.0]


def _families(lines: Lines) -> list[list[int]]:
    """Group parallel lines whose ends agree."""
    families: list[list[int]] = []
    for i in np.lexsort((lines.at, lines.low)).tolist():
        for family in families:
            j = family[0]
            if (
                abs(lines.low[i] - lines.low[j]) < SAME_ENDS
                and abs(lines.high[i] - lines.high[j]) < SAME_ENDS
            ):
                family.append(i)
                break
        else:
            families.append([i])
    return families


def _bands(layout: PageLayout, box: Box) -> list[Box]:
    """Shaded boxes in the region; those side by side at one height are taken together."""
    s = layout.rules.shades
    # Shading reaches beyond the text by the padding of its cells.
    room = layout.em
    inside = (s.y0 >= box.y0 - room) & (s.y1 <= box.y1 + room) & (s.x1 > box.x0) & (s.x0 < box.x1)
    bands: dict[tuple[int, int], list[Box]] = {}
    for i in np.flatnonzero(inside).tolist():
        key = (round(float(s.y0[i])), round(float(s.y1[i])))
        part = Box(max(float(s.x0[i]), box.x0), float(s.y0[i]), min(float(s.x1[i]), box.x1), float(s.y1[i]))
        row = bands.setdefault(key, [])
        if row and part.x0 - row[-1].x1 < 0.5 * layout.em and part.x0 >= row[-1].x0:
            row[-1] = Box.around([row[-1], part])
        else:
            row.append(part)
    return [b for row in bands.values() for b in row]


def _tabular_bands(layout: PageLayout, x0: float, x1: float, ys: Sequence[float]) -> list[Region]:
    """Cut a family of rules where what stands between two of them is no part of a table."""
    bands = []
    for top, bottom in pairwise(ys):
        rows = rows_of(layout, words_inside(layout, Box(x0, top, x1, bottom)))
        bands.append((top, bottom, rows, bottom - top - _height(rows)))
    # The room that rows leave to the rules around them; headings between two tables leave more.
    slacks = [slack for *_, rows, slack in bands if any(len(r.spans) > 1 for r in rows)]
    usual = float(np.median(slacks)) if slacks else 0.0
    out: list[Region] = []
    start: float | None = None
    for top, bottom, rows, slack in bands:
        several = any(len(r.spans) > 1 for r in rows)
        loose = slack > 1.6 * usual + 0.5 * layout.em
        belongs = bool(rows) and (several or not loose) and not _is_prose(rows, x1 - x0)
        if belongs and start is None:
            start = top
        if start is not None and not belongs and (rows or bottom - top > 1.5 * layout.em):
            out.append(Region(Box(x0, start, x1, top)))
            start = None
    if start is not None:
        out.append(Region(Box(x0, start, x1, ys[-1])))
    return [
        Region(box, [], lines_in(layout, box))
        for r in out
        if r.box.y1 > r.box.y0 and (box := _with_outer_rows(layout, r.box))
    ]


def _with_outer_rows(layout: PageLayout, box: Box) -> Box:
    """Add the row above the first rule and that below the last one, where rules only part rows."""
    em = layout.em
    span = Box(box.x0, box.y0 - 12 * em, box.x1, box.y1 + 12 * em)
    rows = rows_of(layout, words_inside(layout, span))
    top, bottom = box.y0, box.y1
    for row in reversed([r for r in rows if r.y1 <= box.y0 + 1]):
        near = top - row.y1 < (TABLE_ROOM if top == box.y0 else 0.4) * em
        if not near or not (len(row.spans) > 1 or _under_second(rows, row, em)):
            break
        top = row.y0
    usual = 0.4 * em
    for row in [r for r in rows if r.y0 >= box.y1 - 1]:
        room = row.y0 - bottom
        near = room < TABLE_ROOM * em and (bottom == box.y1 or room < usual)
        if not near or not (len(row.spans) > 1 or _under_second(rows, row, em)):
            break
        # Rows beyond the last rule follow each other as the first of them follows it.
        usual, bottom = max(usual, room + 0.15 * em), row.y1
    return Box(
        box.x0, top - (1.0 if top < box.y0 else 0.0), box.x1, bottom + (1.0 if bottom > box.y1 else 0.0)
    )


def _under_second(rows: Sequence[Row], row: Row, em: float) -> bool:
    """Whether a row in one span stands under the second column of the rows around it."""
    second = [r.spans[1][0] for r in rows if len(r.spans) > 1]
    return bool(second) and row.x0 > min(second) - UNDER * em


def _height(rows: Sequence[Row]) -> float:
    return rows[-1].y1 - rows[0].y0 if rows else 0.0


def _is_prose(rows: Sequence[Row], width: float) -> bool:
    long = [r for r in rows if is_prose_line(r, width)]
    single = all(len(r.spans) == 1 for r in rows)
    return len(long) >= max(2, 0.5 * len(rows)) or (single and len(rows) > 2)
