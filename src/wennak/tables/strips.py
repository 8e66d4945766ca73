"""Vertical whitespace shared by rows of text: the gutters between columns.

Text is seen as rows of spans (stretches of words without a wide gap). A gutter is a strip of x that hardly
any row's text covers, with text on both sides of it in several rows.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from ..ink import Bools, Floats, Ints
from ..layout import PageLayout
from ..layout.joining import MARKER
from .numbers import is_numeric

# A blank wider than this (em) ends a span of text within a row: wider than the blanks of most justified
# text, narrower than the gaps between most columns.
SPAN_GAP = 0.75
# Gaps narrower than this (em), or than the font's own blank by this factor, are blanks within text.
_BLANK = 0.36
_BLANK_FACTOR = 1.3
_FIXED_BLANK = 0.6
# Between numbers even a gap this narrow (em) parts columns, where so many rows agree.
_NUMBER_GAP = 0.42
_NUMBER_ROWS = 3
_NUMBER_FACTOR = 1.05
# Resolution of the coverage profile, in em.
_BIN = 0.1
# A line of so many words that fills most of the width is prose.
PROSE_WORDS = 8
PROSE_WIDTH = 0.6
# Text may begin this much (em) before the column that it stands under.
UNDER = 0.6
# A gutter must be this wide (em).
_MIN_STRIP = 0.12
# So many rows that agree make a gutter of a narrow gap: blanks of prose do not line up that long.
_MANY_ROWS = 5


@dataclass(frozen=True, slots=True)
class Strictness:
    """What passes for a gutter: the share of rows whose text may cross it (titles, labels of groups, ragged
    cells), and the median room (em) that rows leave there, in any case and where many rows agree.
    """

    crossing: float = 0.12
    wide: float = 0.7
    narrow: float = 0.38


USUAL = Strictness()


@dataclass(slots=True)
class Row:
    """Words that share a baseline within a region, from left to right."""

    words: list[int]
    x0: float
    x1: float
    y0: float
    y1: float
    baseline: float
    spans: list[tuple[float, float]]


def rows_of(layout: PageLayout, members: Ints) -> list[Row]:
    """Group words (given in page order) into rows with their spans."""
    if not len(members):
        return []
    w = layout.words
    row, x0, x1 = w.row[members], w.x0[members], w.x1[members]
    new_row = np.concatenate(([True], row[1:] != row[:-1]))
    room = (x0[1:] - x1[:-1]) / w.size[members][1:]
    wide = np.concatenate(([True], room > SPAN_GAP))
    # Between numbers less room parts spans.
    for k in np.flatnonzero((room > _NUMBER_GAP) & (room <= SPAN_GAP) & ~new_row[1:]).tolist():
        wide[k + 1] = _between_numbers(layout, int(members[k]), int(members[k + 1]))
    spans = np.flatnonzero(new_row | wide)
    rows = np.flatnonzero(new_row)
    edges = list(zip(x0[spans].tolist(), np.maximum.reduceat(x1, spans).tolist(), strict=True))
    words = members.tolist()
    ends = np.append(rows[1:], len(members))
    columns = (
        rows, ends, np.searchsorted(spans, rows), np.searchsorted(spans, ends), x0[rows],
        np.maximum.reduceat(x1, rows), np.minimum.reduceat(w.y0[members], rows),
        np.maximum.reduceat(w.y1[members], rows), w.baseline[members][rows],
    )  # fmt: skip
    out = []
    table = zip(*(k.tolist() for k in columns), strict=True)
    for a, b, c, d, left, right, top, bottom, baseline in table:
        parts = edges[c:d]
        if d - c > 2 and _is_stretched(layout, members[a:b]):
            parts = [(left, right)]
        out.append(Row(words[a:b], left, right, top, bottom, baseline, parts))
    return out


def is_prose_line(row: Row, width: float) -> bool:
    """Whether a row reads as a line of running text in a column of the given width."""
    return len(row.spans) == 1 and len(row.words) >= PROSE_WORDS and row.x1 - row.x0 > PROSE_WIDTH * width


def _between_numbers(layout: PageLayout, i: int, k: int) -> bool:
    """Whether two neighbouring words are numbers that a blank of their font would not part so far."""
    w = layout.words
    if not (is_numeric(w.texts[i]) and is_numeric(w.texts[k])):
        return False
    font = layout.ink.fonts[int(w.font[k])]
    blank = (_FIXED_BLANK if font.fixed_pitch else font.space) * float(w.size[k])
    return float(w.x0[k] - w.x1[i]) > _NUMBER_FACTOR * blank


def _is_stretched(layout: PageLayout, members: Ints) -> bool:
    """Whether words are set apart evenly, as justified text in a narrow column is."""
    w = layout.words
    texts = [w.texts[i] for i in members.tolist()]
    letters = sum(t.strip(".,;:()").isalpha() for t in texts)
    if len(texts) < 4 or letters < 0.7 * len(texts):
        return False
    gaps = w.x0[members][1:] - w.x1[members][:-1]
    usual, size = float(np.median(gaps)), float(w.size[members[0]])
    even = np.abs(gaps - usual) < 0.2 * usual + 0.1 * size
    return usual < 2.5 * size and bool(even.mean() > 0.85)


def gutters(
    layout: PageLayout,
    rows: Sequence[Row],
    x0: float,
    x1: float,
    em: float,
    stub: bool = True,
    strictness: Strictness = USUAL,
) -> list[float]:
    """Return the middles of the gutters between x0 and x1, from left to right.

    `stub` says that the first column of the table is among them, which may be one of numbers or marks.
    """
    n = len(rows)
    if not n or x1 - x0 < em:
        return []
    bins = int((x1 - x0) / (_BIN * em)) + 2
    covered = _coverage(layout, rows, x0, bins, em)
    reach0 = np.array([int((r.x0 - x0) / (_BIN * em)) for r in rows])
    reach1 = np.array([int((r.x1 - x0) / (_BIN * em)) for r in rows])
    at = np.arange(bins)
    # Rows with a single span say nothing about gutters: labels, notes, stubs without values.
    speaks = np.array([len(r.spans) > 1 for r in rows])
    if speaks.sum() < max(2, 0.1 * n):
        return []
    # Rest lines of wrapped cells say where no gutter is.
    edge = second_edge(rows, em)
    heard = speaks | np.array([r.x0 > edge for r in rows])
    crossing = covered[heard].sum(axis=0)
    both = ((reach0[:, None] < at) & (reach1[:, None] > at))[speaks]
    asked = both.sum(axis=0)
    free = crossing <= np.maximum(strictness.crossing * asked, 1.0 if speaks.sum() >= 4 else 0.0)
    free &= (at > 0) & (at < bins - 1)
    out = []
    strips = _runs(free)
    numbers = _coverage(layout, rows, x0, bins, em, numbers_only=True) if strips else covered
    for a, b in strips:
        c, d = _least_crossed(crossing, a, b)
        if (d - c) * _BIN < _MIN_STRIP:
            continue
        if not _separates(speaks, covered, numbers, (c + d) // 2, strictness):
            continue
        out.append(x0 + (c + d) / 2 * _BIN * em)
    return _without_markers(layout, rows, out, stub)


def _least_crossed(crossing: Ints, a: int, b: int) -> tuple[int, int]:
    """Within a strip, the widest part that the fewest rows cross; one too narrow gives way to the next: the
    head of a group may stand right over the gutter between its columns.
    """
    c, d = a, a
    for level in np.unique(crossing[a:b]).tolist():
        runs = [(a + u, a + v) for u, v in _runs(crossing[a:b] <= level)]
        c, d = max(runs, key=lambda r: r[1] - r[0])
        if (d - c) * _BIN >= _MIN_STRIP:
            break
    return c, d


def _without_markers(layout: PageLayout, rows: Sequence[Row], cuts: list[float], stub: bool) -> list[float]:
    """Drop gutters between the marks of lists in cells and the items that they mark."""
    w = layout.words
    index = [i for r in rows for i in r.words]
    column = np.searchsorted(np.array(cuts), (w.x0[index] + w.x1[index]) / 2)
    held: dict[int, list[str]] = {}
    for i, c in zip(index, column.tolist(), strict=True):
        held.setdefault(c, []).append(w.texts[i])
    return [cut for k, cut in enumerate(cuts) if (stub and k == 0) or not _are_markers(held.get(k, []))]


def _are_markers(texts: Sequence[str]) -> bool:
    """Whether texts are marks of list items: bullets, or counts that begin again and again."""
    if sum(bool(MARKER.match(t)) for t in texts) > 0.8 * len(texts):
        return True
    counts = [int(t) for t in texts if t.isascii() and t.isdigit() and len(t) < 3]
    steps = all(b in (a + 1, 1) for a, b in pairwise(counts))
    marks = len(counts) + sum(bool(MARKER.match(t)) for t in texts)
    return steps and counts.count(1) > 1 and marks > 0.8 * len(texts)


def second_edge(rows: Sequence[Row], em: float) -> float:
    """Return the x beyond which text stands under the second column of some rows or one further right.

    Infinite where no row has a second column.
    """
    several = [r for r in rows if len(r.spans) > 1]
    if not several:
        return np.inf
    left = min(r.x0 for r in several)
    return min(r.spans[1][0] for r in several if r.x0 < left + em) - UNDER * em


def hangs(rows: Sequence[Row], row: Row, em: float) -> bool:
    """Whether a plain row stands under a column other than the first, as the rest of a wrapped cell does."""
    return len(row.spans) == 1 and row.x0 > second_edge(rows, em)


def _separates(speaks: Bools, covered: Bools, numbers: Bools, middle: int, strictness: Strictness) -> bool:
    """Whether enough rows have text on both sides of the strip with enough room between."""
    rows = np.flatnonzero(speaks & ~covered[:, middle])
    left, right = covered[rows, :middle], covered[rows, middle:]
    rows_with_both = left.any(axis=1) & right.any(axis=1)
    last, first = middle - 1 - left[:, ::-1].argmax(axis=1), middle + right.argmax(axis=1)
    gaps = sorted(((first - last - 1) * _BIN)[rows_with_both].tolist())
    between = numbers[rows, last] & numbers[rows, first] & rows_with_both
    between_numbers = int(between.sum())
    if len(gaps) < 2:
        return False
    median = gaps[len(gaps) // 2]
    if between_numbers >= max(_NUMBER_ROWS, 0.6 * len(gaps)) and median >= _NUMBER_GAP:
        return True
    return median >= strictness.wide or (len(gaps) >= _MANY_ROWS and median >= strictness.narrow)


def _coverage(
    layout: PageLayout, rows: Sequence[Row], x0: float, bins: int, em: float, numbers_only: bool = False
) -> Bools:
    """Rows x bins: where words stand, or only those that are numbers."""
    w = layout.words
    edges = np.zeros((len(rows), bins + 1), dtype=np.int32)
    owner = np.repeat(np.arange(len(rows)), [len(r.words) for r in rows])
    index = np.array([i for r in rows for i in r.words], dtype=np.int64)
    if numbers_only:
        keep = np.array([is_numeric(w.texts[i]) for i in index.tolist()], dtype=np.bool_)
        owner, index = owner[keep], index[keep]
        if not len(index):
            return np.zeros((len(rows), bins), dtype=np.bool_)
    low = np.clip(((w.x0[index] - x0) / (_BIN * em)).astype(np.int64), 0, bins - 1)
    right = w.x1[index].copy()
    if not numbers_only:
        # Blanks within text count as text.
        gap = w.x0[index][1:] - right[:-1]
        blank = (owner[1:] == owner[:-1]) & (gap > 0) & (gap < blank_limits(layout, index[1:]))
        for k in np.flatnonzero(blank & (gap > _NUMBER_GAP * em)).tolist():
            blank[k] = not _between_numbers(layout, int(index[k]), int(index[k + 1]))
        right[:-1][blank] += gap[blank]
    high = np.clip(np.ceil((right - x0) / (_BIN * em)).astype(np.int64), 1, bins)
    np.add.at(edges, (owner, low), 1)
    np.add.at(edges, (owner, np.maximum(high, low + 1)), -1)
    covered: Bools = np.cumsum(edges, axis=1)[:, :bins] > 0
    return covered


def blank_limits(layout: PageLayout, index: Ints) -> Floats:
    """Return the gaps, in points, below which words follow the word before them in one stretch of text."""
    out: Floats = np.maximum(_BLANK * layout.words.size[index], _BLANK_FACTOR * _blank_widths(layout, index))
    return out


def _blank_widths(layout: PageLayout, index: Ints) -> Floats:
    """The width, in points, of a blank in the font of each word; 0 where the font has none."""
    space = np.array([_FIXED_BLANK if f.fixed_pitch else f.space for f in layout.ink.fonts])
    out: Floats = space[layout.words.font[index]] * layout.words.size[index]
    return out


def _runs(mask: Bools) -> list[tuple[int, int]]:
    """Half-open index ranges where the mask holds."""
    padded = np.concatenate(([False], mask, [False])).astype(np.int8)
    change = np.flatnonzero(np.diff(padded))
    return list(zip(change[::2].tolist(), change[1::2].tolist(), strict=True))


def column_of(x0: Floats, x1: Floats, cuts: Sequence[float]) -> tuple[Ints, Ints]:
    """First and last column of each interval, given the cuts between columns.

    An interval that only grazes a column (by less than a fifth of its own width) does not reach it.
    """
    edges = np.asarray(cuts, dtype=np.float64)
    slack = 0.2 * (x1 - x0)
    return np.searchsorted(edges, x0 + slack), np.searchsorted(edges, x1 - slack)
