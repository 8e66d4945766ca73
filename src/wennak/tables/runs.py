"""Rows of text -> runs that follow each other like rows of a table: one proposal among others."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from ..ink import median
from ..layout import PageLayout
from .caption import NAMED
from .rows import Row, hangs, is_prose_line

# Rows with more room above them than this (em) never go on with what stands above.
MAX_ROOM = 2.4
# A plain row opens something new when the room above it exceeds the usual room of the run by this factor and
# this much (em); between rules that mark off a table, by the larger ones.
ROOM_FACTOR, ROOM = 1.5, 0.35
RULED_FACTOR, RULED_ROOM = 2.5, 0.9
# A plain row over several columns is a heading when the room below it exceeds that above by this factor.
HEAD_FACTOR = 1.25
# Text larger than the run's by this factor is a heading.
LARGER = 1.12
# More plain rows than this in sequence, each at the left edge, are no part of a table.
MAX_PLAIN = 4
# Plain rows right above a run that stand over its columns are header lines; at most so many.
MAX_ABOVE = 3
# A table that goes on from the page before begins in this share of the page's height.
PAGE_TOP = 0.15
# A header stands over the middle of its columns within this (em).
CENTRED = 0.7
# Text begins at the edge of a column when it is this near (em).
ALIGNED = 0.15
# So many rows back and ahead are looked at.
BACK = 24
AHEAD = 4


@dataclass(slots=True)
class Search:
    """Where runs are sought: width of the text there, and whether rules mark off the place."""

    width: float
    ruled: bool = False


def find_runs(layout: PageLayout, rows: Sequence[Row], search: Search) -> list[list[Row]]:
    """Return runs of rows, most of them in several spans, that follow each other like rows of a table.

    Plain rows (in one span) belong to a run where they stand under a column other than the first, or in line
    with the rows around them.
    """
    runs: list[list[Row]] = []
    run: list[Row] = []
    plain = 0
    for i, row in enumerate(rows):
        several = len(row.spans) > 1
        recent = run[-BACK:]
        if run and _breaks(layout, recent, rows[i : i + AHEAD], plain, search):
            runs.append(run)
            run, plain = [], 0
        if run or several:
            if not run:
                run = _group_lines(layout, rows, i) or _header_lines(layout, rows[:i], rows[i:])
                plain = 0
            run.append(row)
            plain = 0 if several or hangs(recent, row, layout.em) else plain + 1
    if run:
        runs.append(run)
    if not search.ruled:
        runs = [_trimmed(layout, r) for r in runs]
    return [r for r in runs if len(r) >= 2]


def _breaks(layout: PageLayout, run: Sequence[Row], rest: Sequence[Row], plain: int, search: Search) -> bool:
    """Whether the first of the rows that are left begins something other than the run above it."""
    row, em = rest[0], layout.em
    room = row.y0 - max(r.y1 for r in run[-3:])
    if room > MAX_ROOM * em:
        return room > 2 * MAX_ROOM * em or not (_in_line(run, row) or _heads(run, rest, room))
    sizes = layout.words.size
    larger = float(sizes[row.words[0]]) > LARGER * float(sizes[run[-1].words[0]]) and _size(
        layout, [row]
    ) > LARGER * _size(layout, run)
    if len(row.spans) > 1 and not larger:
        return False
    # A run of a row or two does not tell its usual room yet; the rows to come may.
    usual = _usual_room([*run, *rest] if len(run) < AHEAD else run, em)
    if larger and room > usual:
        return True
    if len(row.spans) > 1 or hangs(run, row, em) or _falls_into_columns(layout, run, row):
        return False
    if not search.ruled and (is_prose_line(row, search.width) or plain >= MAX_PLAIN):
        return True
    factor, more = (RULED_FACTOR, RULED_ROOM) if search.ruled else (ROOM_FACTOR, ROOM)
    if room > factor * usual + more * em:
        return True
    # A heading is nearer to what it heads than to what stands above it.
    below = rest[1].y0 - row.y1 if len(rest) > 1 else 0.0
    return below > HEAD_FACTOR * max(usual + ROOM * em, room) and _reaches_over(run, row, em)


def _in_line(run: Sequence[Row], row: Row) -> bool:
    """Whether a row has the columns of the last rows of a run that have several."""
    several = [r for r in run if len(r.spans) > 1][-2:]
    return (
        len(row.spans) > 2
        and len(several) > 1
        and all(
            len(r.spans) == len(row.spans)
            and all(a[0] < b[1] and b[0] < a[1] for a, b in zip(r.spans, row.spans, strict=True))
            for r in several
        )
    )


def _heads(run: Sequence[Row], rest: Sequence[Row], room: float) -> bool:
    """Whether the header lines of a loosely set table stand above the rows to come: in their columns, and not
    much farther from them than they from each other.
    """
    full = next((r for r in rest if len(r.spans) > 1), None)
    head = run[-1]
    if len(run) >= AHEAD or full is None or len(rest) < 2 or not 2 < len(head.spans) == len(full.spans):
        return False
    over = all(a[0] < b[1] and b[0] < a[1] for a, b in zip(head.spans, full.spans, strict=True))
    return over and room < 2 * (rest[1].y0 - rest[0].y1)


def _falls_into_columns(layout: PageLayout, run: Sequence[Row], row: Row) -> bool:
    """Whether a row without wide gaps has a word that begins right at the second column of the run."""
    w, em = layout.words, layout.em
    seconds = sorted(r.spans[1][0] for r in run if len(r.spans) > 1)
    if len(seconds) < 2 or abs(row.x0 - run[0].x0) > em:
        return False
    edge = seconds[len(seconds) // 2]
    agreed = sum(abs(x - edge) < ALIGNED * em for x in seconds) >= max(2, 0.6 * len(seconds))
    return agreed and bool((np.abs(w.x0[row.words[1:]] - edge) < ALIGNED * em).any())


def _usual_room(run: Sequence[Row], em: float) -> float:
    """The median room between the rows of a run; little where there is only one row."""
    rooms = [max(0.0, b.y0 - a.y1) for a, b in pairwise(run)]
    return median(rooms) if rooms else 0.35 * em


def _size(layout: PageLayout, rows: Sequence[Row]) -> float:
    return median(layout.words.size[[i for r in rows for i in r.words]])


def _group_lines(layout: PageLayout, rows: Sequence[Row], i: int) -> list[Row]:
    """Labels of groups above the first full row on a page, where a table goes on from the page before."""
    first, em = rows[i], layout.em
    if not 0 < i <= MAX_ABOVE or len(first.spans) < 2 or rows[0].y0 > PAGE_TOP * layout.height:
        return []
    rooms = [b.y0 - a.y1 for a, b in pairwise(rows[: i + 2])]
    over_stub = all(
        first.x0 - 3 * em < row.x0 < first.x0 + em and row.x1 < first.spans[1][0] - em for row in rows[:i]
    )
    close = max(rooms[:i]) < 1.1 * rooms[-1] + 0.2 * em if len(rooms) > i else False
    return list(rows[:i]) if over_stub and close else []


def _header_lines(layout: PageLayout, above: Sequence[Row], rest: Sequence[Row]) -> list[Row]:
    """Plain rows right above the first row of a run that stand over its columns but the first."""
    out: list[Row] = []
    first, em = rest[0], layout.em
    edge = first.y0
    if len(first.spans) < 2:
        return out
    # Header lines stand no looser than the rows below them; what names the table, or is set over the middle
    # of it, is its caption.
    loose = min(MAX_ROOM * em, 1.2 * (rest[1].y0 - first.y1) + 0.1 * em) if len(rest) > 1 else 0.0
    for row in reversed(above[-MAX_ABOVE:]):
        over = len(row.spans) == 1 and row.x0 > first.spans[0][1] - 0.3 * layout.em
        # The head of the stub may run over two lines.
        near = 0.6 * (rest[1].y0 - first.y1) if len(rest) > 1 else 0.0
        over |= (
            len(row.spans) == 1
            and abs(row.x0 - first.x0) < 0.5 * em
            and row.x1 < first.spans[1][0] - em
            and edge - row.y1 < min(near, 0.4 * em)
        )
        # Beside heads set sideways, the head of the stub stands in a row of its own.
        over |= row.y0 > edge
        middle = abs(row.x0 + row.x1 - first.x0 - first.x1) / 2
        named = NAMED.match(layout.words.texts[row.words[0]])
        caption = middle < 1.5 * em or named or not _heads_group(first, row, em)
        room = 0.6 * em if caption else max(0.6 * em, loose)
        if not over or edge - row.y1 > room or row.x1 > first.x1 + 2 * em:
            break
        out.insert(0, row)
        edge = row.y0
    return out


def _heads_group(first: Row, row: Row, em: float) -> bool:
    """Whether a row stands over the middle of some columns of a full row, and no wider than they."""
    middle, width = (row.x0 + row.x1) / 2, row.x1 - row.x0
    groups = ((a[0], b[1]) for k, a in enumerate(first.spans[1:], 1) for b in first.spans[k:])
    return any(abs((x0 + x1) / 2 - middle) < CENTRED * em and x1 - x0 > width - em for x0, x1 in groups)


def _reaches_over(run: Sequence[Row], row: Row, em: float) -> bool:
    """Whether a plain row runs from the left edge into the second column of the run above it."""
    several = [r for r in run if len(r.spans) > 1]
    second = sorted(r.spans[1][0] for r in several)
    return bool(second) and row.x1 > second[len(second) // 2] + em


def _trimmed(layout: PageLayout, run: list[Row]) -> list[Row]:
    """Drop plain rows at the end that do not hang under a column."""
    end = len(run)
    while end and len(run[end - 1].spans) == 1:
        if hangs(run[: end - 1], run[end - 1], layout.em):
            break
        end -= 1
    return run[:end]
