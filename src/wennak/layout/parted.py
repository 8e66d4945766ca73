"""What a strip of white space down a page parts: columns of prose, tables with a frame each, texts whose
lines do not match; or nothing, where it runs between the columns of one table.
"""

from __future__ import annotations

import enum
from dataclasses import dataclass

import numpy as np

from ..ink import Bools, Floats, Ints, distinct
from .page import PageLayout

# A gap this wide (em) ends a span of words, and a strip must be this wide to part zones.
SPAN_GAP = 0.75
# Tables side by side stand at least this far apart (em).
APART = 4.0
# A strip with fewer lines than this on either side parts nothing.
MIN_LINES = 4
# In a line of prose there are at least so many words, not counting numbers, and text fills so much of its
# column; a column narrower than this (em) holds no prose.
PROSE_WIDTH = 9.0
PROSE_WORDS = 3
PROSE_FILL = 0.6
# In a column of prose at least this share of the lines are such lines.
PROSE_SHARE = 0.4
# In prose at least this share of the height is filled with lines that follow each other closely.
DENSE = 0.75
# Lines on both sides of a gutter within a table stand level: at least this share of the shorter side.
LEVEL_SHARE = 0.7
# Level is what differs by less than this (em). Of the lines of two texts, beyond those that stand level by
# chance, fewer than this share do where the texts have nothing to do with each other.
LEVEL = 0.2
UNRELATED = 0.25
# Of the lines of an index at least this share are titles with leaders; others are letters over them, and
# further pages of an entry.
ENTRIES = 0.3


class Parted(enum.Enum):
    """What a strip parts: columns of prose, tables with a frame each, texts whose lines do not match."""

    PROSE = 1
    FRAMED = 2
    UNLIKE = 3


@dataclass(slots=True)
class Spans:
    """Stretches of words without a wide gap, but where a leader runs through it: box, baseline, number of
    words that begin with a letter, summed width of all words, whether a leader runs through, and the index
    of the first word.
    """

    x0: Floats
    x1: Floats
    y0: Floats
    y1: Floats
    baseline: Floats
    words: Ints
    ink: Floats
    led: Bools
    first: Ints

    def __len__(self) -> int:
        return len(self.x0)

    def take(self, mask: Bools) -> Spans:
        """Return the spans that the mask selects."""
        return Spans(
            self.x0[mask], self.x1[mask], self.y0[mask], self.y1[mask], self.baseline[mask],
            self.words[mask], self.ink[mask], self.led[mask], self.first[mask],
        )  # fmt: skip


def text_spans(layout: PageLayout, members: Ints) -> Spans:
    """Return the spans of words, given in page order."""
    w = layout.words
    row, x0, x1 = w.row[members], w.x0[members], w.x1[members]
    head = np.ones(len(members), dtype=np.bool_)
    led = w.led[members]
    wide = x0[1:] - x1[:-1] > SPAN_GAP * w.size[members][1:]
    head[1:] = (row[1:] != row[:-1]) | (wide & ~led[1:])
    starts = np.flatnonzero(head)
    # What stands in place of a table or a figure fills its column, however narrow.
    ink = np.add.reduceat(x1 - x0, starts)
    ink[w.font[members][starts] < 0] = np.inf
    return Spans(
        x0[starts],
        np.maximum.reduceat(x1, starts),
        np.minimum.reduceat(w.y0[members], starts),
        np.maximum.reduceat(w.y1[members], starts),
        w.baseline[members][starts],
        np.add.reduceat(w.letter[members].astype(np.int64), starts),
        ink,
        np.logical_or.reduceat(led, starts),
        members[starts],
    )


def what_parts(
    layout: PageLayout, spans: Spans, x: float, top: float, bottom: float, width: float, known: bool
) -> Parted | None:
    """Return what the texts left and right of a strip are, if they are two texts and no columns of one table;
    where the tables of a page are `known`, no density is asked of prose.
    """
    inside = (spans.y0 >= top) & (spans.y1 <= bottom)
    left, right = spans.take(inside & (spans.x1 <= x)), spans.take(inside & (spans.x0 >= x))
    em = layout.em
    lines = [distinct(np.round(s.baseline / (0.3 * em))) for s in (left, right)]
    if min(len(ls) for ls in lines) < MIN_LINES:
        return None
    shades = layout.rules.shades
    striped = (shades.x0 < x + 1) & (shades.x1 > x - 1) & (shades.y0 > top - em) & (shades.y1 < bottom + em)
    if (striped & (shades.y1 - shades.y0 < 0.5 * (bottom - top))).any():
        return None
    # Titles with leaders on both sides are those of two columns of an index.
    if all((s.led & (s.words > 0)).sum() >= ENTRIES * len(s) for s in (left, right)):
        return Parted.UNLIKE
    prose = [is_prose(s, em) for s in (left, right)]
    if all(prose) and (known or all(_is_dense(ls * 0.3 * em, em) for ls in lines)):
        return Parted.PROSE
    gap = float(left.x1.max()), float(right.x0.min())
    if _has_column_rules(layout, x, width, top, bottom) or _is_empty_column(layout, gap, top, bottom):
        return None
    a, b = (left.baseline, right.baseline) if len(left) <= len(right) else (right.baseline, left.baseline)
    beside = a[(a > b.min() - em) & (a < b.max() + em)]
    share = float((_distances(beside if len(beside) else a, b) < LEVEL * em).mean())
    if any(prose):
        return Parted.UNLIKE if share < LEVEL_SHARE else None
    # Lines that have nothing to do with each other stand level by chance.
    reach = float(b.max() - b.min()) + em
    chance = min(1.0, 2 * LEVEL * em * len(distinct(np.round(b / (0.3 * em)))) / reach)
    if share < chance + UNRELATED * (1 - chance):
        return Parted.UNLIKE
    framed = width > 1.5 * em and (
        all(_is_ruled(layout, s, x, top, bottom) for s in (left, right))
        or (width > APART * em and _end_apart(left, right, width, em))
        or _same_labels(layout, left, right)
    )
    return Parted.FRAMED if framed else None


def _has_column_rules(layout: PageLayout, x: float, width: float, top: float, bottom: float) -> bool:
    """Whether several upright rules of the same extent run along the strip, one of them in it, others on both
    sides: they part columns of a table, and do not just end one.
    """
    upright, em = layout.rules.upright, layout.em
    reach = width / 2 + em
    for k in _along(layout, top, bottom):
        if abs(upright.at[k] - x) < reach:
            at = _of_one_extent(layout, k)
            if (at < x - reach).any() and (at > x + reach).any():
                return True
    return False


def _is_empty_column(layout: PageLayout, gap: tuple[float, float], top: float, bottom: float) -> bool:
    """Whether upright rules of the same extent run along both sides of the gap between two texts and beyond
    it, as along a column of a table that is empty in some rows.
    """
    upright, em = layout.rules.upright, layout.em
    for k in _along(layout, top, bottom):
        if upright.low[k] < top - em or upright.high[k] > bottom + em:
            at = _of_one_extent(layout, k)
            inside = at[(at > gap[0] - em) & (at < gap[1] + em)]
            if len(inside) and inside.max() - inside.min() > em:
                return True
    return False


def _along(layout: PageLayout, top: float, bottom: float) -> list[int]:
    """The upright rules along most of a height, by number."""
    upright = layout.rules.upright
    shared = np.minimum(upright.high, bottom) - np.maximum(upright.low, top)
    numbers: list[int] = np.flatnonzero(shared > LEVEL_SHARE * (bottom - top)).tolist()
    return numbers


def _of_one_extent(layout: PageLayout, k: int) -> Floats:
    """The x of the upright rules that begin and end where one does, its own among them."""
    upright, em = layout.rules.upright, layout.em
    same = (np.abs(upright.low - upright.low[k]) < em) & (np.abs(upright.high - upright.high[k]) < em)
    at: Floats = upright.at[same]
    return at


def _distances(a: Floats, b: Floats) -> Floats:
    """How far each value of a is from the nearest of b."""
    known = np.sort(b)
    at = np.searchsorted(known, a)
    out: Floats = np.minimum(
        np.abs(a - known[np.maximum(at - 1, 0)]), np.abs(a - known[np.minimum(at, len(known) - 1)])
    )
    return out


def is_prose(spans: Spans, em: float) -> bool:
    """Return whether enough lines of a text are full of words, or stand for something that is."""
    width = float(spans.x1.max() - spans.x0.min())
    narrow = width < PROSE_WIDTH * em and not np.isinf(spans.ink).any()
    if narrow or spans.words.sum() < PROSE_SHARE * MIN_LINES * PROSE_WORDS:
        return False
    line = np.round(spans.baseline / (0.3 * em))
    row = np.searchsorted(distinct(line), line)
    words, ink = np.bincount(row, weights=spans.words), np.bincount(row, weights=spans.ink)
    full = (words >= PROSE_WORDS) & (ink >= PROSE_FILL * width)
    return len(words) >= MIN_LINES and float(full.mean()) >= PROSE_SHARE


def _is_dense(baselines: Floats, em: float) -> bool:
    """Whether lines follow each other without holes, as in prose; cells end at any height."""
    steps = np.diff(baselines)
    return float((steps[steps < 1.9 * em]).sum()) >= DENSE * float(baselines[-1] - baselines[0])


def _is_ruled(layout: PageLayout, side: Spans, x: float, top: float, bottom: float) -> bool:
    """Whether level rules or shading of its own run over the whole text on one side of a strip."""
    level, shades, em = layout.rules.level, layout.rules.shades, layout.em
    x0, x1 = float(side.x0.min()), float(side.x1.max())
    whole = (np.abs(level.low - x0) < 2 * em) & (np.abs(level.high - x1) < 2 * em)
    ruled = whole & (level.at > top - 2 * em) & (level.at < bottom + 2 * em)
    near = (shades.y0 > top - 2 * em) & (shades.y1 < bottom + 2 * em) & (shades.x1 > x0) & (shades.x0 < x1)
    if ruled.sum() >= 2 or not near.any():
        return bool(ruled.sum() >= 2)
    low, high = float(shades.x0[near].min()), float(shades.x1[near].max())
    clear = high < x - 0.4 * em or low > x + 0.4 * em
    return clear and abs(low - x0) < 2 * em and abs(high - x1) < 2 * em


def _end_apart(left: Spans, right: Spans, width: float, em: float) -> bool:
    """Whether two texts in columns end in different rows, and stand much farther apart than their columns."""
    a, b = float(left.baseline.max()), float(right.baseline.max())
    if abs(a - b) < 0.5 * em:
        return False
    longer = left if a > b else right
    beyond = longer.take(longer.baseline > min(a, b) + 0.5 * em)
    inner = []
    for side in (left, right):
        order = np.lexsort((side.x0, np.round(side.baseline)))
        x0, x1, line = side.x0[order], side.x1[order], np.round(side.baseline[order])
        gaps = (x0[1:] - x1[:-1])[line[1:] == line[:-1]]
        if len(gaps) < MIN_LINES:
            return False
        inner.append(float(np.quantile(gaps, 0.9)))
    # What goes on below is a row of that text, in several pieces.
    rows = distinct(np.round(beyond.baseline))
    return width > 2 * max(inner) and len(beyond) >= 2 * len(rows)


def _same_labels(layout: PageLayout, left: Spans, right: Spans) -> bool:
    """Whether lines on both sides begin with the same words: cards or records side by side."""
    texts = layout.words.texts
    leading = [side.take(side.x0 < side.x0.min() + layout.em) for side in (left, right)]
    words = [[texts[i] for i in side.first.tolist()] for side in leading]
    if {*words[0]}.isdisjoint(words[1]):
        return False
    firsts = [
        {round(at): word for at, word in zip(side.baseline.tolist(), own, strict=True)}
        for side, own in zip(leading, words, strict=True)
    ]
    shared = firsts[0].keys() & firsts[1].keys()
    same = sum(bool(firsts[0][b] == firsts[1][b]) for b in shared)
    return same >= MIN_LINES and same >= LEVEL_SHARE * len(shared)
