"""Vertical whitespace shared by rows of text: the gutters between columns.

A gutter is a strip of x that hardly any row's text covers, with text on both sides of it in several rows.
What stretches of the same rows are asked again and again lies ready, summed up from row to row.
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
from .rows import NUMBER_GAP, UNDER, Row, between_numbers, blank_limits

# Resolution of the coverage, in em.
_BIN = 0.1
# A gutter must be this wide (em).
_MIN_STRIP = 0.12
# So many rows that agree make a gutter of a narrow gap: blanks of prose do not line up that long.
_MANY_ROWS = 5
# Between numbers a narrow gap parts columns where so many rows agree.
_NUMBER_ROWS = 3
# A column with more than this share of marks holds the marks of lists.
_MARKS = 0.8


@dataclass(frozen=True, slots=True)
class Strictness:
    """What passes for a gutter: the share of rows whose text may cross it (titles, labels of groups, ragged
    cells), and the median room (em) that rows leave there, in any case and where many rows agree.
    """

    crossing: float = 0.12
    wide: float = 0.7
    narrow: float = 0.38


USUAL = Strictness()


@dataclass(slots=True, eq=False)
class Profile:
    """Where the text of some rows stands, in bins of `unit` points from x0 on.

    One entry a row: `at`, its number among all rows; `left`, where it begins; `second`, where its second span
    does (infinite where it has none); `speaks`, whether it has one. (rows, bins): `covered` by text;
    `numbers`: by numbers; `before` and `after`: the last bin with text below each bin (-1 for none), and the
    first from it on (bins for none). (rows + 1, bins): how many of the speaking rows before each cover a bin
    (`crossing`) and reach over it (`asked`). One entry a word: its row, middle, text and whether it may mark
    an item.
    """

    x0: float
    unit: float
    at: Ints
    left: Floats
    second: Floats
    speaks: Bools
    covered: Bools
    numbers: Bools
    before: Ints
    after: Ints
    crossing: Ints
    asked: Ints
    starts: Ints
    middle: Floats
    texts: list[str]
    marks: Bools


def profile_of(layout: PageLayout, rows: Sequence[Row], at: Ints, em: float) -> Profile:
    """Return where the text of rows stands; `at` are their numbers, `em` is the size of their text."""
    w, unit = layout.words, _BIN * em
    index = np.array([i for r in rows for i in r.words], dtype=np.int64)
    counts = np.array([len(r.words) for r in rows], dtype=np.int64)
    owner = np.repeat(np.arange(len(rows)), counts)
    texts = [w.texts[i] for i in index.tolist()]
    left, right = np.array([r.x0 for r in rows]), np.array([r.x1 for r in rows])
    x0 = float(left.min())
    bins = int((float(right.max()) - x0) / unit) + 2
    numeric = np.array([is_numeric(t) for t in texts], dtype=np.bool_)
    numbers = _coverage(owner[numeric], w.x0[index][numeric], w.x1[index][numeric], len(rows), x0, bins, unit)
    covered = _coverage(owner, w.x0[index], _with_blanks(layout, index, owner, em), len(rows), x0, bins, unit)
    speaks = np.array([len(r.spans) > 1 for r in rows], dtype=np.bool_)
    bin_of = np.arange(bins)
    low, high = ((side - x0) / unit for side in (left, right))
    over = (low.astype(np.int64)[:, None] < bin_of) & (high.astype(np.int64)[:, None] > bin_of)
    before = np.full((len(rows), bins), -1)
    before[:, 1:] = np.maximum.accumulate(np.where(covered, bin_of, -1), axis=1)[:, :-1]
    after = np.minimum.accumulate(np.where(covered, bin_of, bins)[:, ::-1], axis=1)[:, ::-1]
    return Profile(
        x0, unit, at, left, np.array([r.spans[1][0] if len(r.spans) > 1 else np.inf for r in rows]), speaks,
        covered, numbers, before, after, _summed(covered & speaks[:, None]), _summed(over & speaks[:, None]),
        np.append(0, np.cumsum(counts)), (w.x0[index] + w.x1[index]) / 2, texts,
        np.array([bool(MARKER.match(t)) or _is_count(t) for t in texts], dtype=np.bool_),
    )  # fmt: skip


def gutters(
    profile: Profile, first: int, last: int, em: float, stub: bool = True, strictness: Strictness = USUAL
) -> list[float]:
    """Return the middles of the gutters in the rows from `first` to before `last`, from left to right.

    `em` is the size of their text; `stub` says that the first column of the table is among them, which may be
    one of numbers or marks.
    """
    p, here = profile, slice(first, last)
    speaks, n = p.speaks[here], last - first
    several = int(speaks.sum())
    if several < max(2, 0.1 * n):
        return []
    # Rows with a single span say nothing about gutters: labels, notes, stubs without values. But rest lines
    # of wrapped cells say where no gutter is.
    crossing = p.crossing[last] - p.crossing[first]
    left, second = p.left[here], p.second[here]
    edge = second[speaks & (left < left[speaks].min() + em)].min() - UNDER * em
    resting = ~speaks & (left > edge)
    if resting.any():
        crossing = crossing + p.covered[here][resting].sum(axis=0)
    asked = p.asked[last] - p.asked[first]
    free = crossing <= np.maximum(strictness.crossing * asked, 1.0 if several >= 4 else 0.0)
    free &= asked > 0
    scale = p.unit / em
    out = []
    for a, b in _runs(free):
        c, d = _least_crossed(crossing, a, b, _MIN_STRIP / scale)
        if (d - c) * scale >= _MIN_STRIP and _separates(p, here, (c + d) // 2, scale, strictness):
            out.append(p.x0 + (c + d) / 2 * p.unit)
    return _without_markers(p, first, last, out, stub)


def _coverage(owner: Ints, x0: Floats, x1: Floats, rows: int, left: float, bins: int, unit: float) -> Bools:
    """Rows x bins: where words from x0 to x1 stand in their rows."""
    low = np.clip(((x0 - left) / unit).astype(np.int64), 0, bins - 1)
    high = np.clip(np.ceil((x1 - left) / unit).astype(np.int64), 1, bins)
    edges = np.bincount(owner * (bins + 1) + low, minlength=rows * (bins + 1))
    edges = edges - np.bincount(owner * (bins + 1) + np.maximum(high, low + 1), minlength=rows * (bins + 1))
    out: Bools = np.cumsum(edges.reshape(rows, bins + 1), axis=1)[:, :bins] > 0
    return out


def _with_blanks(layout: PageLayout, index: Ints, owner: Ints, em: float) -> Floats:
    """Where words end, with the blanks behind them: blanks within text count as text."""
    w = layout.words
    right = w.x1[index].copy()
    gap = w.x0[index][1:] - right[:-1]
    blank = (owner[1:] == owner[:-1]) & (gap > 0) & (gap < blank_limits(layout, index[1:]))
    blank &= ~w.apart[index][1:]
    for k in np.flatnonzero(blank & (gap > NUMBER_GAP * em)).tolist():
        blank[k] = not between_numbers(layout, int(index[k]), int(index[k + 1]))
    right[:-1][blank] += gap[blank]
    return right


def _summed(rows: Bools) -> Ints:
    """How many of the rows before each hold, bin by bin: one entry more than rows."""
    out = np.zeros((len(rows) + 1, rows.shape[1]), dtype=np.int64)
    np.cumsum(rows, axis=0, out=out[1:])
    return out


def _least_crossed(crossing: Ints, a: int, b: int, width: float) -> tuple[int, int]:
    """Within a strip, the widest part that the fewest rows cross; one too narrow gives way to the next: the
    head of a group may stand right over the gutter between its columns.
    """
    levels = sorted(set(crossing[a:b].tolist()))
    c, d = a, b
    for level in levels[:-1]:
        c, d = max(_runs(crossing[a:b] <= level), key=lambda r: r[1] - r[0])
        if d - c >= width:
            return a + c, a + d
    return a, b


def _separates(p: Profile, here: slice, middle: int, scale: float, strictness: Strictness) -> bool:
    """Whether enough rows have text on both sides of a bin with enough room between."""
    last, first = p.before[here, middle], p.after[here, middle]
    bins = p.covered.shape[1]
    both = p.speaks[here] & (first > middle) & (last >= 0) & (first < bins)
    rows = np.flatnonzero(both)
    if len(rows) < 2:
        return False
    last, first = last[rows], first[rows]
    median = float(np.sort(first - last - 1)[len(rows) // 2]) * scale
    if median >= strictness.wide or (len(rows) >= _MANY_ROWS and median >= strictness.narrow):
        return True
    numbers = p.numbers[here][rows]
    at = np.arange(len(rows))
    between = int((numbers[at, last] & numbers[at, first]).sum())
    return between >= max(_NUMBER_ROWS, 0.6 * len(rows)) and median >= NUMBER_GAP


def _without_markers(p: Profile, first: int, last: int, cuts: list[float], stub: bool) -> list[float]:
    """Drop gutters between the marks of lists in cells and the items that they mark."""
    if not cuts:
        return cuts
    a, b = p.starts[first], p.starts[last]
    column = np.searchsorted(np.array(cuts), p.middle[a:b])
    marks = np.bincount(column, weights=p.marks[a:b], minlength=len(cuts) + 1)
    full = np.bincount(column, minlength=len(cuts) + 1)
    likely = marks > _MARKS * full
    if likely.any():
        likely[:-1] &= ~_has_heads(p, first, np.array(cuts))
    return [
        cut
        for k, cut in enumerate(cuts)
        if (stub and k == 0)
        or not likely[k]
        or not are_markers([p.texts[a + i] for i in np.flatnonzero(column == k).tolist()])
    ]


def _has_heads(p: Profile, row: int, cuts: Floats) -> Bools:
    """Whether the columns on both sides of each cut have a text of their own in a row, and that on the left
    is no mark: they are not the marks of lists and their items.
    """
    at = ((cuts - p.x0) / p.unit).astype(np.int64)
    edges = np.concatenate(([-1], at, [p.covered.shape[1]]))
    own = slice(p.starts[row], p.starts[row + 1])
    marked = np.bincount(np.searchsorted(cuts, p.middle[own]), p.marks[own], len(cuts) + 1) > 0
    headed = (p.before[row, at] > edges[:-2]) & (p.after[row, at] < edges[2:])
    found: Bools = headed & ~p.covered[row, at] & ~marked[:-1]
    return found


def _is_count(text: str) -> bool:
    return text.isascii() and text.isdigit() and len(text) < 3


def are_markers(texts: Sequence[str]) -> bool:
    """Return whether texts are marks of list items: bullets, or counts that begin again and again."""
    if sum(bool(MARKER.match(t)) for t in texts) > _MARKS * len(texts):
        return True
    counts = [int(t) for t in texts if _is_count(t)]
    steps = all(b in (a + 1, 1) for a, b in pairwise(counts))
    return steps and counts.count(1) > 1


def _runs(mask: Bools) -> list[tuple[int, int]]:
    """Half-open index ranges where the mask holds."""
    padded = np.zeros(len(mask) + 2, dtype=np.int8)
    padded[1:-1] = mask
    change = np.flatnonzero(np.diff(padded))
    return list(zip(change[::2].tolist(), change[1::2].tolist(), strict=True))
