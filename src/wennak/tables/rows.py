"""Words -> rows of text, each with its spans: stretches of words without a wide gap."""

from __future__ import annotations

import functools
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..ink import Floats, Ints, median
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
# Between numbers even a gap this narrow (em), and wider than the font's blank by this factor, parts spans.
NUMBER_GAP = 0.42
_NUMBER_FACTOR = 1.05
# Usual blanks are of such widths (em). Where this share of them is drawn, none of these parts columns; where
# none are, columns are parted by more than these, by this factor.
_BLANKS, _DRAWN, _OVER = (0.15, 0.36), 0.1, 1.25
# A line of so many words that fills most of the width is prose.
PROSE_WORDS = 8
PROSE_WIDTH = 0.6
# Text may begin this much (em) before the column that it stands under.
UNDER = 0.6


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
    wide = np.concatenate(([True], (room > SPAN_GAP) | w.apart[members][1:]))
    # Between numbers less room parts spans.
    for k in np.flatnonzero((room > NUMBER_GAP) & ~wide[1:] & ~new_row[1:]).tolist():
        wide[k + 1] = between_numbers(layout, int(members[k]), int(members[k + 1]))
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


def within(layout: PageLayout, row: Row, x0: float, x1: float) -> list[int]:
    """Return the words of a row that begin between two x."""
    return [i for i in row.words if x0 <= layout.words.x0[i] <= x1]


def span_of(layout: PageLayout, row: Row) -> Ints:
    """Return the number of the span that each word of a row stands in."""
    out: Ints = np.searchsorted([x0 for x0, _ in row.spans], layout.words.x0[row.words], "right") - 1
    return out


def is_prose_line(row: Row, width: float) -> bool:
    """Whether a row reads as a line of running text in a column of the given width."""
    return len(row.spans) == 1 and len(row.words) >= PROSE_WORDS and row.x1 - row.x0 > PROSE_WIDTH * width


def between_numbers(layout: PageLayout, i: int, k: int) -> bool:
    """Whether two neighbouring words are numbers that a blank of their font would not part so far."""
    w = layout.words
    if not (is_numeric(w.texts[i]) and is_numeric(w.texts[k])):
        return False
    font = layout.ink.fonts[int(w.font[k])]
    blank = (_FIXED_BLANK if font.fixed_pitch else font.space) * float(w.size[k])
    return float(w.x0[k] - w.x1[i]) > _NUMBER_FACTOR * blank


def _is_stretched(layout: PageLayout, members: Ints) -> bool:
    """Whether words are set apart evenly, as justified text in a narrow column is, and with blanks, where the
    page draws these.
    """
    w = layout.words
    letters = sum(_is_word(w.texts[i]) for i in members.tolist())
    if len(members) < 4 or letters < 0.7 * len(members) or w.apart[members[1:]].all():
        return False
    gaps = w.x0[members][1:] - w.x1[members][:-1]
    usual, size = median(gaps), float(w.size[members[0]])
    even = np.abs(gaps - usual) < 0.2 * usual + 0.1 * size
    if usual >= 2.5 * size or even.mean() <= 0.85:
        return False
    # Most gaps that are wide are so here; a few wide ones between texts part these.
    wide = gaps > SPAN_GAP * w.size[members][1:]
    return bool(2 * (even & wide).sum() >= wide.sum())


@functools.lru_cache(8192)
def _is_word(text: str) -> bool:
    return text.strip(".,;:()").isalpha()


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


def blank_limits(layout: PageLayout, index: Ints) -> Floats:
    """Return the gaps, in points, below which words follow the word before them in one stretch of text."""
    out: Floats = np.maximum(_BLANK * layout.words.size[index], _BLANK_FACTOR * _blank_widths(layout, index))
    return out


def _blank_widths(layout: PageLayout, index: Ints) -> Floats:
    """The width, in points, of a blank in the font of each word; 0 where the font has none."""
    space = np.array([_FIXED_BLANK if f.fixed_pitch else f.space for f in layout.ink.fonts])
    out: Floats = space[layout.words.font[index]] * layout.words.size[index]
    return out


def tight_pairs(layout: PageLayout, index: Ints) -> Ints:
    """Return the positions, among words given row by row, of those that have the next one right behind them
    and no blank between: none of the marks of items, and none in fixed pitch, where blanks are as wide as
    letters.
    """
    w, em = layout.words, median(layout.words.size[index])
    room, here = _rooms(layout, index), _rooms(layout, np.arange(len(w)))
    drawn = w.spaced[1:][(here > _BLANKS[0] * em) & (here < _BLANKS[1] * em)]
    if len(drawn) and drawn.mean() >= _DRAWN:
        apart = (room > _BLANKS[0] * em) & ~w.spaced[index][1:]
    else:
        blanks = np.sort(room[(room > _BLANKS[0] * em) & (room < _BLANKS[1] * em)])
        apart = room > (_OVER * float(blanks[len(blanks) // 4]) if len(blanks) else _BLANKS[0] * em)
    at = np.flatnonzero(apart & (room < SPAN_GAP * em))
    fonts = layout.ink.fonts
    kept = [
        not fonts[font].fixed_pitch and MARKER.match(w.texts[i]) is None
        for i, font in zip(index[at].tolist(), w.font[index[at + 1]].tolist(), strict=True)
    ]
    return at[np.array(kept, dtype=np.bool_)]


def _rooms(layout: PageLayout, index: Ints) -> Floats:
    """The room behind each of some words, given row by row, before the next one; 0 at the ends of rows."""
    w = layout.words
    return np.where(np.diff(w.row[index]) == 0, w.x0[index][1:] - w.x1[index][:-1], 0.0)


def column_of(x0: Floats, x1: Floats, cuts: Sequence[float]) -> tuple[Ints, Ints]:
    """First and last column of each interval, given the cuts between columns.

    An interval that only grazes a column (by less than a fifth of its own width) does not reach it.
    """
    edges = np.asarray(cuts, dtype=np.float64)
    slack = 0.2 * (x1 - x0)
    return np.searchsorted(edges, x0 + slack), np.searchsorted(edges, x1 - slack)
