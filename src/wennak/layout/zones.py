"""A page -> zones: pieces of the page that are read one after the other.

A zone is split where a strip of white space runs down between two texts that have nothing to do with each
other: columns of prose, a side bar, tables side by side. A strip between the columns of one table is no such
place: there the lines on both sides stand at the same heights and belong together.
"""

from __future__ import annotations

import enum
from dataclasses import dataclass

import numpy as np

from ..ink import Bools, Floats, Ints, distinct, median
from .page import PageLayout, Zone

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
# A zone beside another takes at least this share of the width.
MIN_ZONE = 0.15
# More room than this (em) between things counts as no more.
EMPTY = 3.0
# Shading lower than this (em) is the band of a row; higher, it lies behind whole texts.
BAND = 3.0
# A column that breaks off for this height (em), while the other is set apart there by this much and within so
# much of the same heights, ends above what stands there and goes on below it.
HOLE = 6.0
FRAMED_HOLE = 2.5
SET_APART = 0.55
BALANCE = 3.0
# Below columns that end there is at least so much room (em).
FOOT = 1.0
# Lines on both sides of a gutter within a table stand level: at least this share of the shorter side.
LEVEL_SHARE = 0.7
# Level is what differs by less than this (em). Of the lines of two texts, beyond those that stand level by
# chance, fewer than this share do where the texts have nothing to do with each other.
LEVEL = 0.2
UNRELATED = 0.25
# Tops that are meant to be level differ by less than this (em).
SAME = 0.1
_BIN = 0.25


class Parted(enum.Enum):
    """What a strip parts: columns of prose, tables with a frame each, texts whose lines do not match."""

    PROSE = 1
    FRAMED = 2
    UNLIKE = 3


@dataclass(slots=True)
class Spans:
    """Stretches of words without a wide gap: box, baseline, number of words that begin with a letter, summed
    width of all words, and the index of the first word.
    """

    x0: Floats
    x1: Floats
    y0: Floats
    y1: Floats
    baseline: Floats
    words: Ints
    ink: Floats
    first: Ints

    def __len__(self) -> int:
        return len(self.x0)

    def take(self, mask: Bools) -> Spans:
        """Return the spans that the mask selects."""
        return Spans(
            self.x0[mask], self.x1[mask], self.y0[mask], self.y1[mask], self.baseline[mask],
            self.words[mask], self.ink[mask], self.first[mask],
        )  # fmt: skip


def find_zones(layout: PageLayout, members: Ints, known: bool = False) -> list[Zone]:
    """Split words into zones in reading order; one zone where nothing parts the page. Where its tables are
    `known`, what is left is text.
    """
    turned = layout.words.turned[members]
    if turned.all():
        return []
    zones = _split(layout, members[~turned], known, 0)
    for i in members[turned].tolist():
        _join_turned(layout, zones, i)
    return zones


def _join_turned(layout: PageLayout, zones: list[Zone], i: int) -> None:
    """Add a word set sideways, such as the head of a narrow column, to the zone that it stands in or on."""
    w = layout.words
    x, y0, y1 = (w.x0[i] + w.x1[i]) / 2, w.y0[i] - layout.em, w.y1[i] + layout.em
    for zone in zones:
        if zone.x0 <= x <= zone.x1 and y1 > zone.y0 and y0 < zone.y1:
            zone.members = np.sort(np.append(zone.members, i))
            return


def text_spans(layout: PageLayout, members: Ints) -> Spans:
    """Group words (in page order) into spans."""
    w = layout.words
    row, x0, x1 = w.row[members], w.x0[members], w.x1[members]
    head = np.ones(len(members), dtype=np.bool_)
    head[1:] = (row[1:] != row[:-1]) | (x0[1:] - x1[:-1] > SPAN_GAP * w.size[members][1:])
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
        members[starts],
    )


def _split(layout: PageLayout, members: Ints, known: bool, depth: int) -> list[Zone]:
    w = layout.words
    spans = text_spans(layout, members)
    found = _gutter(layout, spans, known) if len(spans) >= 2 * MIN_LINES and depth < 6 else None
    if found is None:
        return [
            Zone(
                float(w.x0[members].min()), float(w.y0[members].min()),
                float(w.x1[members].max()), float(w.y1[members].max()), members,
            )
        ]  # fmt: skip
    x, top, bottom, kind = found
    middle = (w.y0[members] + w.y1[members]) / 2
    left = (w.x0[members] + w.x1[members]) / 2 < x
    bottom = _foot(layout, members, (middle > top) & (middle < bottom), left, bottom)
    bottom = _band(layout, members, (middle > top) & (middle < bottom), left, bottom)
    inside = (middle > top) & (middle < bottom)
    sides = [inside & left, inside & ~left]
    if all(side.any() for side in sides) and w.y1[members[sides[1]]].max() < w.y0[members[sides[0]]].min():
        # What stands right of the text above it is read first.
        sides.reverse()
    parts = [middle <= top, *sides, (middle >= bottom) & (middle > top)]
    hole = _hole(layout, members, inside & left, inside & ~left, kind)
    if hole is not None:
        first, last, own = hole
        # What is read as a band of its own stands beside the hole; the columns above it are read before it.
        side = inside & (left if own else ~left)
        above, below = side & (middle < first), side & (middle > last)
        other = inside & ~side
        half = other & (middle < (first + last) / 2)
        columns = [above, half] if own else [half, above]
        parts = [parts[0], *columns, side & ~above & ~below, below | (other & ~half) | parts[3]]
    out: list[Zone] = []
    for part in parts:
        if part.any():
            out += _split(layout, members[part], known, depth + 1)
    return out


def _foot(layout: PageLayout, members: Ints, inside: Bools, left: Bools, bottom: float) -> float:
    """Where columns end: above the bottom, where the right one has ended and the left one has room below
    which no text goes on, but something else begins that is read after both.
    """
    w, em = layout.words, layout.em
    beside, own = members[inside & ~left], members[inside & left]
    if not len(beside) or not len(own):
        return bottom
    end, last = _end(w.y1[beside], em), _end(w.y1[own], em)
    gaps = _gaps(w.y0[own], w.y1[own], FOOT * em)
    usual = median([b - a for a, b in gaps]) if len(gaps) > MIN_LINES else 0.0
    for a, b in gaps:
        if not (a - em < end < b and b - a > usual):
            continue
        rest = own[w.y0[own] > b - 0.5]
        other = w.font[rest[0]] < 0 or not _is_prose(text_spans(layout, rest), em)
        if b - a > HOLE * em or (other and last - b > HOLE * em):
            return (max(a, end) + b) / 2
    return bottom


def _band(layout: PageLayout, members: Ints, inside: Bools, left: Bools, bottom: float) -> float:
    """Where tables side by side, without prose, end: above the bottom, where below some of them others begin
    level on both sides.
    """
    w, em = layout.words, layout.em
    solid = inside & (w.font[members] < 0)
    texts = [members[inside & ~solid & side] for side in (left, ~left)]
    if not solid.any() or any(len(text) and _is_prose(text_spans(layout, text), em) for text in texts):
        return bottom
    begin = [
        _gaps(w.y0[members[solid & side]], w.y1[members[solid & side]], FOOT * em) for side in (left, ~left)
    ]
    level = [max(a[0], b[0]) for a in begin[0] for b in begin[1] if abs(a[1] - b[1]) < SAME * em]
    gaps = _gaps(w.y0[members[inside]], w.y1[members[inside]], FOOT * em)
    cuts = [(a + b) / 2 for a, b in gaps for above in level[:1] if a > above - em]
    return min([bottom, *cuts[:1]])


def _end(y1: Floats, em: float) -> float:
    """Where a column ends, by the feet of its words: a row far below the others, as the number of the page,
    does not go on with it.
    """
    last = float(y1.max())
    before = float(y1[y1 < last - em].max(initial=-np.inf))
    return before if HOLE * em < last - before < np.inf else last


def _hole(
    layout: PageLayout, members: Ints, left: Bools, right: Bools, kind: Parted
) -> tuple[float, float, bool] | None:
    """A place where one column breaks off and goes on far below, while the other holds something set apart
    at the same heights: the columns end above it and begin anew below it, as round a wide table.

    Returns the heights that part what is set apart from its column, and whether that is the left one.
    """
    w, em = layout.words, layout.em
    least = FRAMED_HOLE if kind is Parted.FRAMED else HOLE
    middle = (w.y0[members] + w.y1[members]) / 2
    for own, here, there in ((True, left, right), (False, right, left)):
        gaps = _gaps(w.y0[members[there]], w.y1[members[there]], least * em)
        breaks = _gaps(w.y0[members[here]], w.y1[members[here]], SET_APART * em)
        for top, bottom in gaps:
            first = [sum(g) / 2 for g in breaks if abs(g[0] - top) < BALANCE * em and g[1] < bottom]
            last = [sum(g) / 2 for g in breaks if abs(g[1] - bottom) < BALANCE * em and g[0] > top]
            if not (first and last and first[0] < last[-1]):
                continue
            rest = members[here & ((middle < first[0]) | (middle > last[-1]))]
            if kind is not Parted.UNLIKE or (len(rest) and _is_prose(text_spans(layout, rest), em)):
                return first[0], last[-1], own
    return None


def _gaps(y0: Floats, y1: Floats, least: float) -> list[tuple[float, float]]:
    """The stretches of at least that height without any of the boxes, between the first and the last."""
    order = np.argsort(y0, kind="stable")
    reach = np.maximum.accumulate(y1[order])[:-1]
    top = y0[order][1:]
    wide = top - reach >= least
    return list(zip(reach[wide].tolist(), top[wide].tolist(), strict=True))


def _gutter(layout: PageLayout, spans: Spans, known: bool) -> tuple[float, float, float, Parted] | None:
    """The tallest strip that parts two texts: its x, the heights between which it runs, and what it parts."""
    em = layout.em
    left, right = float(spans.x0.min()), float(spans.x1.max())
    # Where hardly any line begins well inside, as in one column of prose, there is nothing to part.
    inner = left + MIN_ZONE * (right - left)
    if (spans.x0 > inner).sum() < MIN_LINES or (spans.x1 < right - inner + left).sum() < MIN_LINES:
        return None
    bins = np.arange(left + em, right - em, _BIN * em)
    # So many lines must end left of a strip and begin right of it.
    first = np.partition(spans.x1, MIN_LINES - 1)[MIN_LINES - 1]
    last = np.partition(spans.x0, -MIN_LINES)[-MIN_LINES]
    bins = bins[(bins > first) & (bins < last)]
    if not len(bins):
        return None
    half = SPAN_GAP * em / 2
    top, bottom = float(spans.y0.min()) - 1, float(spans.y1.max()) + 1
    low, high = _tallest(spans, _bars(layout, top, bottom), bins, top, bottom, half, em)
    tall = high - low > MIN_LINES * em
    bins, low, high = bins[tall], low[tall], high[tall]
    inside = (spans.y0 >= low[:, None] - 0.5) & (spans.y1 <= high[:, None] + 0.5)
    sides = (spans.x1 <= bins[:, None] - half, spans.x0 >= bins[:, None] + half)
    tall = np.minimum(*((inside & side).sum(axis=1) for side in sides)) >= MIN_LINES
    candidates = zip(bins[tall].tolist(), low[tall].tolist(), high[tall].tolist(), strict=True)
    # Bins beside each other with the same heights are one strip; judge it once, at its middle.
    strips: dict[tuple[int, int], list[float]] = {}
    for x, top, bottom in candidates:
        strips.setdefault((round(top), round(bottom)), []).append(x)
    ranked = sorted(strips.items(), key=lambda s: (s[0][0] - s[0][1], -len(s[1])))
    for (top, bottom), xs in ranked[:12]:
        for run in _adjacent(xs, 1.5 * _BIN * em):
            x = (run[0] + run[-1]) / 2
            width = run[-1] - run[0] + 2 * half
            kind = _parts(layout, spans, x, top - 0.5, bottom + 0.5, width, known)
            if kind is not None:
                return x, *_without_shared_rows(spans, x, float(top), float(bottom), em), kind
    return None


def _tallest(
    spans: Spans, bars: Floats, bins: Floats, top: float, bottom: float, half: float, em: float
) -> tuple[Floats, Floats]:
    """Ends of the tallest stretch between two heights that is free around each x, by what stands in it:
    nothing comes nearer than `half`, and no rule or band of shading runs across by an em on both sides.
    """
    above, below = np.concatenate((spans.y0, bars[1])), np.concatenate((spans.y1, bars[3]))
    left = np.concatenate((spans.x0 - half, bars[0] + em))
    right = np.concatenate((spans.x1 + half, bars[2] - em))
    order = np.argsort(above, kind="stable")
    above = above[order]
    blocked = (left[order] < bins[:, None]) & (right[order] > bins[:, None])
    # The free stretch above each thing that blocks, and below the last; and where the things in it begin.
    ends = np.full((len(bins), len(order) + 1), top)
    np.maximum.accumulate(np.where(blocked, below[order], top), axis=1, out=ends[:, 1:])
    number = np.arange(len(order))
    begins = np.zeros((len(bins), len(order) + 1), dtype=np.int64)
    np.maximum.accumulate(np.where(blocked, number + 1, 0), axis=1, out=begins[:, 1:])
    # A stretch is as tall as what stands in it: what is empty in a page counts little.
    filled = np.cumsum(np.minimum(np.diff(above, prepend=above[0]), EMPTY * em))
    starts, so_far = np.append(filled, filled[-1])[begins], np.append(0.0, filled)
    room = np.where(blocked, so_far[:-1], -np.inf) - starts[:, :-1]
    best, rows = np.argmax(room, axis=1), np.arange(len(bins))
    last = so_far[-1] - starts[:, -1] > room[rows, best]
    low = np.where(last, ends[:, -1], ends[rows, best])
    return low, np.where(last, bottom, above[best])


def _bars(layout: PageLayout, top: float, bottom: float) -> Floats:
    """Rules, ends of frames and low bands of shading between two heights, as rows of x0, y0, x1, y1."""
    level, shades = layout.rules.level, layout.rules.shades
    boxes = np.concatenate(
        (
            np.stack((level.low, level.at, level.high, level.at)),
            _frame_ends(layout),
            np.stack((shades.x0, shades.y0, shades.x1, shades.y1))[
                :, shades.y1 - shades.y0 < BAND * layout.em
            ],
        ),
        axis=1,
    )
    found: Floats = boxes[:, (boxes[1] > top) & (boxes[3] < bottom)]
    return found


def _frame_ends(layout: PageLayout) -> Floats:
    """The heads and feet, drawn or not, of frames whose sides are two upright rules of the same extent, with
    no third one, as rows of x0, y0, x1, y1.
    """
    upright, em = layout.rules.upright, layout.em
    order = np.lexsort((upright.high, np.round(upright.low / em)))
    at, low, high = upright.at[order], upright.low[order], upright.high[order]
    apart = (np.abs(np.diff(low)) > 0.5 * em) | (np.abs(np.diff(high)) > 0.5 * em)
    edges = np.concatenate(([0], np.flatnonzero(apart) + 1, [len(at)]))
    pairs = edges[:-1][np.diff(edges) == 2]
    sides = np.sort(np.stack((at[pairs], at[pairs + 1])), axis=0)
    ends: Floats = np.concatenate(
        [np.stack((sides[0], y[pairs], sides[1], y[pairs])) for y in (low, high)], axis=1
    )
    return ends


def _adjacent(values: list[float], step: float) -> list[list[float]]:
    runs: list[list[float]] = []
    for value in sorted(values):
        if runs and value - runs[-1][-1] <= step:
            runs[-1].append(value)
        else:
            runs.append([value])
    return sorted(runs, key=lambda r: r[0] - r[-1])


def _parts(
    layout: PageLayout, spans: Spans, x: float, top: float, bottom: float, width: float, known: bool
) -> Parted | None:
    """What the texts left and right of a strip are, if they are two texts and not columns of one table."""
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
    prose = [_is_prose(s, em) for s in (left, right)]
    if all(prose) and (known or all(_is_dense(ls * 0.3 * em, em) for ls in lines)):
        return Parted.PROSE
    if _has_column_rules(layout, x, width, top, bottom):
        return None
    a, b = (left.baseline, right.baseline) if len(left) <= len(right) else (right.baseline, left.baseline)
    beside = a[(a > b.min() - em) & (a < b.max() + em)]
    share = float((_distances(beside if len(beside) >= MIN_LINES else a, b) < LEVEL * em).mean())
    if any(prose):
        return Parted.UNLIKE if share < LEVEL_SHARE else None
    # Lines that have nothing to do with each other stand level by chance.
    reach = float(b.max() - b.min()) + em
    chance = min(1.0, 2 * LEVEL * em * len(distinct(np.round(b / (0.3 * em)))) / reach)
    if share < chance + UNRELATED * (1 - chance):
        return Parted.UNLIKE
    own = all(_is_ruled(layout, s, x, top, bottom) for s in (left, right))
    apart = width > APART * em and _end_apart(left, right, width, em)
    framed = width > 1.5 * em and (own or apart or _same_labels(layout, left, right))
    return Parted.FRAMED if framed else None


def _has_column_rules(layout: PageLayout, x: float, width: float, top: float, bottom: float) -> bool:
    """Whether several upright rules of the same extent run along the strip, one of them in it, others on both
    sides: they part columns of a table, and do not just end one.
    """
    upright, em = layout.rules.upright, layout.em
    shared = np.minimum(upright.high, bottom) - np.maximum(upright.low, top)
    along = shared > LEVEL_SHARE * (bottom - top)
    reach = width / 2 + em
    for k in np.flatnonzero(along & (np.abs(upright.at - x) < reach)).tolist():
        same = (np.abs(upright.low - upright.low[k]) < em) & (np.abs(upright.high - upright.high[k]) < em)
        at = upright.at[same]
        if (at < x - reach).any() and (at > x + reach).any():
            return True
    return False


def _distances(a: Floats, b: Floats) -> Floats:
    """How far each value of a is from the nearest of b."""
    known = np.sort(b)
    at = np.searchsorted(known, a)
    out: Floats = np.minimum(
        np.abs(a - known[np.maximum(at - 1, 0)]), np.abs(a - known[np.minimum(at, len(known) - 1)])
    )
    return out


def _is_prose(spans: Spans, em: float) -> bool:
    width = float(spans.x1.max() - spans.x0.min())
    narrow = width < PROSE_WIDTH * em and not np.isinf(spans.ink).any()
    if narrow or spans.words.sum() < PROSE_SHARE * MIN_LINES * PROSE_WORDS:
        return False
    _, row = np.unique(np.round(spans.baseline / (0.3 * em)), return_inverse=True)
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
    firsts = []
    for side in (left, right):
        leading = side.take(side.x0 < side.x0.min() + layout.em)
        heads = zip(leading.baseline.tolist(), leading.first.tolist(), strict=True)
        firsts.append({round(b): layout.words.texts[i] for b, i in heads})
    shared = firsts[0].keys() & firsts[1].keys()
    same = sum(bool(firsts[0][b] == firsts[1][b]) for b in shared)
    return same >= MIN_LINES and same >= LEVEL_SHARE * len(shared)


def _without_shared_rows(spans: Spans, x: float, top: float, bottom: float, em: float) -> tuple[float, float]:
    """Cut rows of a table that runs across both columns off the ends of a strip between columns of prose.

    Such rows stand level on both sides and leave much of their width empty.
    """
    whole = (top, bottom)
    inside = spans.take((spans.y0 >= top - 0.5) & (spans.y1 <= bottom + 0.5))
    width = {s: _width(inside.take((inside.x1 <= x) == s)) for s in (True, False)}
    lines = np.round(inside.baseline / (0.3 * em))
    for number, edges in ((1, distinct(lines)), (-1, distinct(lines)[::-1])):
        shared = []
        for line in edges.tolist():
            row = inside.take(np.abs(lines - line) <= 0.5)
            left = row.x1 <= x
            full = [
                float(row.ink[left == s].sum()) > PROSE_FILL * width[s]
                and int(row.words[left == s].sum()) >= PROSE_WORDS
                for s in (True, False)
            ]
            if not left.any() or left.all() or any(full):
                break
            shared.append((float(row.y0.min()), float(row.y1.max())))
        if len(shared) >= 2 and number == 1:
            top = shared[-1][1] + 0.5
        elif len(shared) >= 2:
            bottom = shared[-1][0] - 0.5
    # Where every row is shared, the strip parts nothing but such rows, and they part at it.
    return (top, bottom) if bottom - top > MIN_LINES * em else whole


def _width(spans: Spans) -> float:
    return float(spans.x1.max() - spans.x0.min()) if len(spans) else 0.0
