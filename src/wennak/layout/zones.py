"""A page -> zones: pieces of the page that are read one after the other.

A zone is split where a strip of white space runs down between two texts that have nothing to do with each
other: columns of prose, a side bar, tables side by side. A strip between the columns of one table is no such
place: there the lines on both sides stand at the same heights and belong together.
"""

from __future__ import annotations

import numpy as np

from ..ink import Bools, Floats, Ints, distinct, median
from .page import PageLayout, Zone
from .parted import (
    MIN_LINES,
    PROSE_FILL,
    PROSE_WORDS,
    SPAN_GAP,
    Parted,
    Spans,
    is_prose,
    text_spans,
    what_parts,
)

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
# Tops that are meant to be level differ by less than this (em).
SAME = 0.1
# Strips are sought at places this far apart (em).
_BIN = 0.25


def find_zones(layout: PageLayout, members: Ints, known: bool) -> list[Zone]:
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
    which no text goes on, but something else begins that is read after both; what is set in the middle of
    the left one is part of that.
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
        if _is_centred(layout, own[w.y0[own] < a], rest):
            continue
        other = w.font[rest[0]] < 0 or not is_prose(text_spans(layout, rest), em)
        if b - a > HOLE * em or (other and last - b > HOLE * em):
            return (max(a, end) + b) / 2
    return bottom


def _is_centred(layout: PageLayout, column: Ints, rest: Ints) -> bool:
    """Whether what stands right below a column is narrower than it, and set in its middle."""
    w, em = layout.words, layout.em
    first = rest[w.y0[rest] < w.y0[rest].min() + em]
    left, right = w.x0[first].min() - w.x0[column].min(), w.x1[column].max() - w.x1[first].max()
    return bool(min(left, right) > em and abs(left - right) < em)


def _band(layout: PageLayout, members: Ints, inside: Bools, left: Bools, bottom: float) -> float:
    """Where tables side by side, without prose, end: above the bottom, where below some of them others begin
    level on both sides.
    """
    w, em = layout.words, layout.em
    solid = inside & (w.font[members] < 0)
    texts = [members[inside & ~solid & side] for side in (left, ~left)]
    if not solid.any() or any(len(text) and is_prose(text_spans(layout, text), em) for text in texts):
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
            first = min((g for g in breaks if g[1] < bottom), key=lambda g: abs(g[0] - top), default=None)
            last = min((g for g in breaks if g[0] > top), key=lambda g: abs(g[1] - bottom), default=None)
            if not (first and last and first < last):
                continue
            if max(abs(first[0] - top), abs(last[1] - bottom)) >= BALANCE * em:
                continue
            above, below = sum(first) / 2, sum(last) / 2
            rest = members[here & ((middle < above) | (middle > below))]
            if kind is not Parted.UNLIKE or (len(rest) and is_prose(text_spans(layout, rest), em)):
                return above, below, own
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
            kind = what_parts(layout, spans, x, top - 0.5, bottom + 0.5, width, known)
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
    # Between two edges all places have the same around them.
    bins, place = _apart(bins, left, right)
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
    return low[place], np.where(last, bottom, above[best])[place]


def _apart(bins: Floats, left: Floats, right: Floats) -> tuple[Floats, Ints]:
    """The first of all rising places that have the same edges left and right of them, and the number of the
    one that stands for each.
    """
    passed = np.searchsorted(np.sort(left), bins) + np.searchsorted(np.sort(right), bins, side="right")
    new = np.append(True, np.diff(passed) > 0)
    return bins[new], np.cumsum(new) - 1


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
    if len(upright) < 2:
        return np.empty((4, 0))
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
            # A leader fills its line.
            full = [
                bool(row.led[left == s].any())
                or (
                    float(row.ink[left == s].sum()) > PROSE_FILL * width[s]
                    and int(row.words[left == s].sum()) >= PROSE_WORDS
                )
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
