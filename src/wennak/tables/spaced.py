"""The method `spaced`: tables whose columns are set apart by white space, with or without some rules."""

from __future__ import annotations

import re
from collections.abc import Sequence
from itertools import pairwise

import numpy as np

from ..ink import Bools, Ints
from ..layout import PageLayout
from ..layout.groups import ENDS
from ..layout.joining import MARKER
from ..model import Box
from .draft import TableDraft
from .reading import inner_lines, read_grid, set_header
from .recut import join_split
from .regions import (
    Region,
    level_regions,
    lines_in,
    shaded_areas,
    upright_regions,
    words_inside,
)
from .runs import Search, find_runs
from .signs import join_signs, keep_labels
from .strips import SPAN_GAP, Row, gutters, rows_of, second_edge

# Running heads stand in this share of the page at either end, set off from the text by this (em).
MARGIN = 0.12
MARGIN_GAP = 1.6
# A few lines with so many words on both sides of a gap are two texts.
PROSE_WORDS = 4
PROSE_ROWS = 5
# Headings are set at least this much larger than the text.
LARGER = 1.05
_SECTION = re.compile(r"^\d+(\.\d+)*\.?$")
# A line that leaves less room than this (em) is full.
FULL_LINE = 0.3
# Pieces of brackets over several lines: what they hold is a matrix, not a table.
_BRACKETS = frozenset(map(chr, range(0x239B, 0x23AE)))
# Distances of rows are the same within this (em).
SAME_PITCH = 0.15
# An item of a counted list has more words than this; a row of a table seldom has.
ITEM_WORDS = 4


def read_spaced(layout: PageLayout) -> list[TableDraft]:
    """Return the tables that white space draws."""
    return read_spaced_outside(layout, np.zeros(len(layout.words), dtype=np.bool_))


def read_spaced_outside(layout: PageLayout, taken: Bools) -> list[TableDraft]:
    """Return the tables among the words that are not `taken` yet."""
    taken = taken | _margin_words(layout)
    for area in layout.fields:
        taken[area.words] = True
    drafts: list[TableDraft] = []
    if taken.all():
        return drafts
    for region in [*upright_regions(layout), *_whole(layout, level_regions(layout))]:
        members = words_inside(layout, region.box)
        rows = rows_of(layout, members[~taken[members]])
        for part in find_runs(layout, rows, Search(region.box.x1 - region.box.x0, ruled=True)):
            draft = _read_region(layout, part, _cut_to(layout, region, part, len(part) == len(rows)))
            if draft is not None:
                drafts.append(draft)
            if draft is not None or region.cuts:
                taken[[i for r in part for i in r.words]] = True
    areas = shaded_areas(layout)
    for zone in layout.zones:
        free = zone.members[~taken[zone.members]]
        if not areas and not _has_gaps(layout, free):
            continue
        for part in find_runs(layout, rows_of(layout, free), Search(zone.x1 - zone.x0, areas)):
            box = layout.box(np.array([i for r in part for i in r.words], dtype=np.int64))
            draft = _read_region(layout, part, Region(box, [], lines_in(layout, box)))
            if draft is not None:
                drafts.append(draft)
    return join_split(layout, drafts)


def _whole(layout: PageLayout, regions: list[Region]) -> list[Region]:
    """Leave out regions that hold only the head of a table whose rows go on beyond the rules."""
    if not regions:
        return []
    runs = [
        [row for row in run if len(row.spans) > 1]
        for zone in layout.zones
        for run in find_runs(layout, rows_of(layout, zone.members), Search(zone.x1 - zone.x0))
    ]
    boxes = [r.box for r in regions]
    free = [sum(not any(_holds(b, row) for b in boxes) for row in run) for run in runs]
    return [
        region
        for region in regions
        if not any(
            (inside := sum(_holds(region.box, row) for row in run)) > 0 and beyond >= max(3, 1.5 * inside)
            for run, beyond in zip(runs, free, strict=True)
        )
    ]


def _has_gaps(layout: PageLayout, members: Ints) -> bool:
    """Whether two rows or more have wide gaps; a page of prose is not looked at any closer."""
    w = layout.words
    row, x0, x1 = w.row[members], w.x0[members], w.x1[members]
    wide = (row[1:] == row[:-1]) & (x0[1:] - x1[:-1] > SPAN_GAP * w.size[members][1:])
    return len(np.unique(row[1:][wide])) >= 2


def _holds(box: Box, row: Row) -> bool:
    return box.y0 <= (row.y0 + row.y1) / 2 <= box.y1 and row.x0 < box.x1 and row.x1 > box.x0


def _cut_to(layout: PageLayout, region: Region, rows: Sequence[Row], whole: bool) -> Region:
    """The part of a region that some of its rows take up."""
    if whole or not rows:
        return region
    box = Box(region.box.x0, rows[0].y0, region.box.x1, rows[-1].y1)
    return Region(box, region.cuts, lines_in(layout, box))


def _read_region(layout: PageLayout, rows: Sequence[Row], region: Region) -> TableDraft | None:
    if len(rows) < 2 or not (region.cuts or _speaks(layout, rows)):
        return None
    members = [i for r in rows for i in r.words]
    em = float(np.median(layout.words.size[members]))
    box = region.box
    cuts = list(region.cuts)
    for x0, x1 in pairwise([box.x0, *region.cuts, box.x1]):
        part = rows_of(layout, _between(layout, members, x0, x1)) if region.cuts else rows
        cuts += gutters(layout, part, x0, x1, em, stub=x0 == box.x0)
    cuts.sort()
    if not cuts or not _is_table(layout, rows, cuts, region):
        return None
    inner = inner_lines(rows, region.lines)
    draft = read_grid(layout, rows, cuts, box, "spaced", inner)
    idle = _idle_cuts(draft, cuts) - set(region.cuts)
    if idle and len(idle) < len(cuts):
        cuts = [c for c in cuts if c not in idle]
        draft = read_grid(layout, rows, cuts, box, "spaced", inner)
    if draft.rows < 2 or (not region.lines and _is_broken_square(draft)):
        return None
    join_signs(layout, draft)
    keep_labels(draft)
    set_header(layout, draft, inner)
    return draft


def _is_broken_square(draft: TableDraft) -> bool:
    """Whether there are two rows and two columns with an empty cell: chance, without level rules."""
    return draft.rows == draft.columns == 2 and sum(bool(c.words) for c in draft.cells) < 4


def _idle_cuts(draft: TableDraft, cuts: Sequence[float]) -> set[float]:
    """Cuts beside columns that hold no text of their own: the room between a label and its values."""
    own = {c.column for c in draft.cells if c.colspan == 1 and c.words}
    idle = set()
    for k in set(range(draft.columns)) - own:
        over = [c for c in draft.cells if c.words and c.column <= k < c.column + c.colspan]
        rightwards = sum(c.column + c.colspan > k + 1 for c in over) >= sum(c.column < k for c in over)
        at = k if (rightwards and k < len(cuts)) or k == 0 else k - 1
        idle.add(cuts[at])
    return idle


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
        if marked and sum(len(f) == 1 and bool(MARKER.match(f[0])) for f in marked) > 0.6 * len(marked):
            return False
        if len(region.lines) < 2 and (
            _is_counted(marked, sum(len(r.words) for r in rows))
            or _are_headings(layout, rows, marked)
            or _is_prose(layout, rows, cuts[0])
            or _is_annotated(layout, rows, cuts[0])
        ):
            return False
    if len(region.lines) < 2 and (_is_code(layout, rows) or _is_contents(layout, rows)):
        return False
    return not any(_BRACKETS.issuperset(texts[i]) for r in rows for i in r.words)


def _speaks(layout: PageLayout, rows: Sequence[Row]) -> bool:
    """Whether enough rows fall into several parts."""
    speaking = sum(len(r.spans) > 1 for r in rows)
    edge = second_edge(rows, layout.em)
    plain = sum(len(r.spans) == 1 and r.x0 <= edge for r in rows)
    return speaking >= 2 and speaking >= 0.3 * (speaking + plain)


def _are_headings(layout: PageLayout, rows: Sequence[Row], firsts: Sequence[Sequence[str]]) -> bool:
    """Whether all rows begin with a section number and are set larger or heavier than the text."""
    w, bold = layout.words, [f.bold for f in layout.ink.fonts]
    numbered = all(len(f) == 1 and _SECTION.match(f[0]) for f in firsts) and len(firsts) == len(rows)
    return numbered and all(
        float(w.size[r.words].max()) > LARGER * layout.em or all(bold[int(w.font[i])] for i in r.words)
        for r in rows
    )


def _is_prose(layout: PageLayout, rows: Sequence[Row], cut: float) -> bool:
    """Whether a few lines read as running text on both sides of the only cut."""
    if len(rows) > PROSE_ROWS:
        return False
    left = [int((layout.words.x1[r.words] <= cut + 1).sum()) for r in rows]
    full = sum(PROSE_WORDS <= n <= len(r.words) - PROSE_WORDS for n, r in zip(left, rows, strict=True))
    return full >= 0.5 * len(rows)


def _is_annotated(layout: PageLayout, rows: Sequence[Row], cut: float) -> bool:
    """Whether the labels left of the only cut are notes in the margin of a running text: its lines follow
    each other evenly, and some labels stand beside the middle of a sentence.
    """
    w, texts = layout.words, layout.words.texts
    pitches = np.diff([r.baseline for r in rows])
    if np.ptp(pitches) > SAME_PITCH * layout.em:
        return False
    rights = [[i for i in r.words if w.x1[i] > cut + 1] for r in rows]
    edge = max(r.x1 for r in rows)
    beside = [
        edge - float(w.x1[above[-1]]) < FULL_LINE * layout.em
        and min(len(above), len(right)) >= PROSE_WORDS
        and texts[above[-1]][-1] not in ENDS
        and not texts[right[0]][0].isupper()
        for row, above, right in zip(rows[1:], rights, rights[1:], strict=False)
        if above and right and right[0] != row.words[0]
    ]
    return sum(beside) > 1 and sum(beside) > 0.4 * len(beside)


def _is_counted(firsts: Sequence[Sequence[str]], words: int) -> bool:
    """Whether the first column counts 1, 2, 3 and what stands beside it reads like sentences."""
    counts = [f[0] for f in firsts]
    ordinal = all(len(f) == 1 for f in firsts) and counts == [str(i + 1) for i in range(len(counts))]
    return ordinal and len(counts) > 1 and words > ITEM_WORDS * len(counts)


def _is_code(layout: PageLayout, rows: Sequence[Row]) -> bool:
    """Whether rows are set in fixed pitch on a page that is not."""
    fixed = np.array([f.fixed_pitch for f in layout.ink.fonts], dtype=np.bool_)[layout.words.font]
    members = [i for r in rows for i in r.words]
    return bool(fixed[members].mean() > 0.8 and fixed.mean() < 0.6)


def _is_contents(layout: PageLayout, rows: Sequence[Row]) -> bool:
    """Whether leaders run to numbers that never fall: the pages of a table of contents."""
    last = [r.words[-1] for r in rows if layout.words.led[r.words[-1]]]
    pages = [int(text) for i in last if (text := layout.words.texts[i]).isdigit()]
    return len(last) >= 0.6 * len(rows) and len(pages) >= 3 and pages == sorted(pages)


def _margin_words(layout: PageLayout) -> Bools:
    """Words of a line at the very top or bottom of the page that stands apart: a running head or foot."""
    w = layout.words
    out = np.zeros(len(w), dtype=np.bool_)
    upright = np.flatnonzero(~w.turned)
    starts = np.flatnonzero(np.diff(w.row[upright], prepend=-1))
    if len(starts) < 4:
        return out
    ends = np.append(starts[1:], len(upright))
    for edge, neighbour, next_one in ((0, 1, 2), (-1, -2, -3)):
        row, beside, beyond = (upright[starts[k] : ends[k]] for k in (edge, neighbour, next_one))
        top, bottom = float(w.y0[row].min()), float(w.y1[row].max())
        gap = max(float(w.y0[beside].min()) - bottom, top - float(w.y1[beside].max()))
        # A row as far from the next as that from the one after it belongs with them.
        pitch = abs(float(w.baseline[beside[0]] - w.baseline[beyond[0]]))
        if abs(abs(float(w.baseline[row[0]] - w.baseline[beside[0]])) - pitch) < SAME_PITCH * layout.em:
            continue
        at_edge = bottom < MARGIN * layout.height if edge == 0 else top > (1 - MARGIN) * layout.height
        out[row] = at_edge and gap > MARGIN_GAP * layout.em
    return out
