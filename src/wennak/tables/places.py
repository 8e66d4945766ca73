"""Where tables may be: stretches of rows between places where something may begin or end.

A strip is a part of the page that rows are read in: a zone, several zones beside each other, what stands
between rules of one extent. Within a strip, seams lie between rows that may not belong together: every
stretch from seam to seam is a place. Nothing is decided here.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field, replace
from itertools import combinations

import numpy as np

from ..ink import Bools, Floats, Ints
from ..layout import PageLayout
from ..layout.rules import Lines
from ..model import Box
from .caption import NAMED
from .lattice import Lattice
from .runs import Search, find_runs
from .strips import UNDER, Row, is_prose_line, rows_of

# Rows farther apart than this (em), and than this many times the usual room, are never one table.
APART, APART_FACTOR = 4.0, 4.0
# More plain rows than this between two that fall into parts are a text of their own.
MOST_PLAIN = 24
# So many plain rows before the first and behind the last row in parts may belong to a table.
AROUND = 4
# The strongest seams of a stretch that are tried, beside its ends.
SEAMS = 6
# How many rows a promising place is grown at its top and foot.
STEPS = ((-1, 0), (-2, 0), (1, 0), (2, 0), (0, -1), (0, -2), (0, 1), (0, 2))
# The end of a stretch is a seam of this strength. Of the stretches between seams so many are tried.
ENDS, PLACES = 3.0, 20
# At so many seams within a promising place it is tried as two.
HALVES = 3
# A seam weaker than this is none.
WEAK = 0.5
# Rules and strips are the same when their ends agree within this (em).
SAME_ENDS = 1.2
# A rule across this share of the width parts rows; one along this share of the height parts columns.
ACROSS, ALONG = 0.6, 0.5
# Room above and below rules in which rows may belong to what the rules mark off (em).
REACH = 9.0


Key = tuple[int, int, int]


@dataclass(slots=True)
class Place:
    """Rows that may be one table: their box, the x of upright rules along them, the y of level rules and
    edges of shading across them, and the rows right above and below in the same strip (None at its ends).

    `first` is the number of its first row in its strip; `run` tells that its rows follow each other like rows
    of a table.
    """

    rows: list[Row]
    box: Box
    cuts: list[float]
    lines: list[float]
    above: Row | None = None
    below: Row | None = None
    strip: Strip | None = None
    first: int = 0
    run: bool = False

    @property
    def words(self) -> Ints:
        """The indices of its words, in page order."""
        return np.array(sorted(i for row in self.rows for i in row.words), dtype=np.int64)


@dataclass(slots=True)
class Strip:
    """A part of the page with its rows, from left to right x0 to x1."""

    x0: float
    x1: float
    rows: list[Row]
    facts: _Facts = field(init=False, repr=False)
    seams: Floats | None = None

    def strengths(self, layout: PageLayout) -> Floats:
        """Return how likely something begins or ends between each two of its rows."""
        if self.seams is None:
            self.seams = _strengths(layout, self, 0, len(self.rows))
        return self.seams


@dataclass(slots=True)
class _Facts:
    """What seams are judged by, one entry a row: top, bottom, size of its text, whether it falls
    into parts, is bold, reads as prose, names a table; and the text of each row.
    """

    y0: Floats
    y1: Floats
    size: Floats
    parts: Bools
    bold: Bools
    prose: Bools
    named: Bools
    texts: list[str]


def find_places(
    layout: PageLayout, free: Bools, lattices: Sequence[Lattice], uprights: bool = True
) -> Iterator[Place]:
    """Yield the places that may hold a table among the `free` words of a page with these lattices;
    `uprights`: with the upright rules in them.
    """
    seen: set[Key] = set()
    for strip in _strips(layout, free, lattices):
        intervals = dict.fromkeys(_runs(layout, strip), True)
        for first, last in _stretches(layout, strip):
            for interval in _intervals(layout, strip, first, last):
                intervals.setdefault(interval, False)
        for (a, b), run in intervals.items():
            place = _place(layout, strip, a, b)
            place.run = run
            key = place_key(place)
            if key not in seen:
                seen.add(key)
                yield place if uprights else replace(place, cuts=[])


def _runs(layout: PageLayout, strip: Strip) -> list[tuple[int, int]]:
    """The stretches of a strip that follow each other like rows of a table."""
    number = {row.words[0]: k for k, row in enumerate(strip.rows)}
    out = []
    for ruled in (False, True):
        for run in find_runs(layout, strip.rows, Search(strip.x1 - strip.x0, ruled)):
            first, last = number[run[0].words[0]], number[run[-1].words[0]] + 1
            if strip.facts.parts[first:last].sum() > 1:
                out.append((first, last))
    return out


def place_key(place: Place) -> Key:
    """Return what tells a place from the others of a page: its first and last word, and how many it has."""
    rows = place.rows
    return rows[0].words[0], rows[-1].words[-1], sum(len(r.words) for r in rows)


def grown(layout: PageLayout, place: Place) -> Iterator[Place]:
    """Yield a place with some rows more or less at its top or its foot."""
    if place.strip is None:
        return
    a, b = place.first, place.first + len(place.rows)
    for top, foot in STEPS:
        if 0 <= a + top < b + foot - 1 and b + foot <= len(place.strip.rows):
            yield _place(layout, place.strip, a + top, b + foot)


def halves(layout: PageLayout, place: Place) -> Iterator[Place]:
    """Yield what stands above and below the strongest seams within a place."""
    a, b = place.first, place.first + len(place.rows)
    if place.strip is None or b - a < 5:
        return
    strength = _strengths(layout, place.strip, a, b)
    for k in np.argsort(-strength, kind="stable")[:HALVES].tolist():
        for first, last in ((a, a + k + 1), (a + k + 1, b)):
            if last - first > 1:
                yield _place(layout, place.strip, first, last)


def united(layout: PageLayout, places: Sequence[Place]) -> list[Place]:
    """Return what neighbouring places of one strip make together, with the few rows between them."""
    out = []
    for upper in places:
        for lower in places:
            end = upper.first + len(upper.rows)
            if upper.strip is not None and upper.strip is lower.strip and 0 <= lower.first - end <= AROUND:
                out.append(_place(layout, upper.strip, upper.first, lower.first + len(lower.rows)))
    return out


def _place(layout: PageLayout, strip: Strip, a: int, b: int) -> Place:
    rows = strip.rows[a:b]
    box = Box(min(r.x0 for r in rows), rows[0].y0, max(r.x1 for r in rows), max(r.y1 for r in rows))
    above = strip.rows[a - 1] if a else None
    below = strip.rows[b] if b < len(strip.rows) else None
    return Place(list(rows), box, upright_in(layout, box), lines_in(layout, box), above, below, strip, a)


def words_inside(layout: PageLayout, box: Box) -> Ints:
    """Return the indices of the words whose middle lies in the box."""
    w = layout.words
    x, y = (w.x0 + w.x1) / 2, (w.y0 + w.y1) / 2
    return np.flatnonzero((x >= box.x0) & (x <= box.x1) & (y >= box.y0) & (y <= box.y1))


def place_of(layout: PageLayout, members: Ints, free: Bools, box: Box) -> Place:
    """Return the place that some words make, with the rows of free words above and below them."""
    em = layout.em
    around = words_inside(layout, Box(box.x0 - em, box.y0 - REACH * em, box.x1 + em, box.y1 + REACH * em))
    rows, near = rows_of(layout, members), rows_of(layout, around[free[around]])
    above = [r for r in near if r.y1 < box.y0 + 0.3 * em]
    below = [r for r in near if r.y0 > box.y1 - 0.3 * em]
    return Place(
        rows, box, upright_in(layout, box), lines_in(layout, box), above[-1] if above else None,
        below[0] if below else None,
    )  # fmt: skip


# --- Strips


def _strips(layout: PageLayout, free: Bools, lattices: Sequence[Lattice]) -> Iterator[Strip]:
    """The zones of a page, zones beside each other as one, and what rules of one extent mark off."""
    known: list[tuple[float, float, frozenset[int]]] = []
    members = [zone.members[free[zone.members]] for zone in layout.zones]
    groups = [m for m in members if len(m)]
    if len(groups) > 1:
        groups += [*_stacked(layout, groups), *_beside(layout, groups)]
    for part in groups:
        own = frozenset(part.tolist())
        if any(own == words for *_, words in known):
            continue
        known.append((*_extent(layout, part), own))
        if _is_tabular(layout, part):
            yield _strip(layout, part)
    for box in _marked_off(layout, lattices):
        part = words_inside(layout, box)
        part = part[free[part]]
        if not len(part) or not _is_tabular(layout, part):
            continue
        x0, x1 = _extent(layout, part)
        own = frozenset(part.tolist())
        reach = SAME_ENDS * layout.em
        if any(abs(x0 - a) < reach and abs(x1 - b) < reach and own <= words for a, b, words in known):
            continue
        known.append((x0, x1, own))
        yield _strip(layout, part)


def _strip(layout: PageLayout, part: Ints) -> Strip:
    strip = Strip(*_extent(layout, part), rows_of(layout, part))
    strip.facts = _facts(layout, strip)
    return strip


def _extent(layout: PageLayout, part: Ints) -> tuple[float, float]:
    return float(layout.words.x0[part].min()), float(layout.words.x1[part].max())


def _stacked(layout: PageLayout, groups: Sequence[Ints]) -> list[Ints]:
    """Each zone with all zones above and below it that do not stick out of it, where there are such."""
    em = layout.em
    boxes = [layout.box(m) for m in groups]
    found: set[frozenset[int]] = set()
    for a in boxes:
        inner = frozenset(
            k for k, b in enumerate(boxes) if b.x0 > a.x0 - SAME_ENDS * em and b.x1 < a.x1 + SAME_ENDS * em
        )
        if len(inner) > 1:
            found.add(inner)
    return [_joined(layout, [groups[k] for k in sorted(inner)]) for inner in sorted(found, key=sorted)]


def _joined(layout: PageLayout, parts: Sequence[Ints]) -> Ints:
    part = np.concatenate(parts)
    return part[np.lexsort((layout.words.x0[part], layout.words.row[part]))]


def _beside(layout: PageLayout, groups: Sequence[Ints]) -> list[Ints]:
    """Zones that stand beside each other, taken together, where not both are prose."""
    boxes = [layout.box(m) for m in groups]
    prose = [_is_prose(layout, m) for m in groups]
    joined: list[set[int]] = []
    for i, j in combinations(range(len(groups)), 2):
        a, b = boxes[i], boxes[j]
        level = min(a.y1, b.y1) - max(a.y0, b.y0) > 0.5 * min(a.y1 - a.y0, b.y1 - b.y0)
        if not level or (prose[i] and prose[j]):
            continue
        sets = [s for s in joined if i in s or j in s]
        joined = [s for s in joined if s not in sets] + [set().union({i, j}, *sets)]
    return [_joined(layout, [groups[k] for k in sorted(found)]) for found in joined]


def _is_prose(layout: PageLayout, part: Ints) -> bool:
    """Whether most rows of a part are lines of running text."""
    rows = rows_of(layout, part)
    x0, x1 = _extent(layout, part)
    return sum(is_prose_line(r, x1 - x0) for r in rows) > 0.5 * len(rows)


def _is_tabular(layout: PageLayout, part: Ints) -> bool:
    """Whether two rows have wide gaps or an upright rule between their words; prose is not looked at
    closer.
    """
    w, em = layout.words, layout.em
    row, x0, x1 = w.row[part], w.x0[part], w.x1[part]
    same = row[1:] == row[:-1]
    gap = np.where(same, x0[1:] - x1[:-1], 0.0)
    if len(np.unique(row[1:][gap > 0.6 * w.size[part][1:]])) >= 2:
        return True
    upright = layout.rules.upright
    if not len(upright):
        return False
    tall = upright.high - upright.low > em
    middle = (w.y0[part] + w.y1[part])[1:] / 2
    parted = (
        (upright.at[tall] > x1[:-1, None] - 0.1 * em)
        & (upright.at[tall] < x0[1:, None] + 0.1 * em)
        & (upright.low[tall] < middle[:, None])
        & (upright.high[tall] > middle[:, None])
    )
    return len(np.unique(row[1:][same & parted.any(axis=1)])) >= 2


def _marked_off(layout: PageLayout, lattices: Sequence[Lattice]) -> list[Box]:
    """What crossing rules, level rules of one extent, and shading of one extent mark off, with some rows
    above and below.
    """
    em, rules = layout.em, layout.rules
    boxes = [Box(float(g.xs[0]), float(g.ys[0]), float(g.xs[-1]), float(g.ys[-1])) for g in lattices]
    shades = rules.shades
    wide = shades.x1 - shades.x0 > 4 * em
    bands = Lines(
        np.concatenate((shades.y0[wide], shades.y1[wide])), np.tile(shades.x0[wide], 2),
        np.tile(shades.x1[wide], 2),
    )  # fmt: skip
    for lines in (rules.level, bands):
        boxes += _families(lines, em)
    out: list[Box] = []
    for b in sorted(boxes, key=lambda b: (b.y0, b.x0, b.x1)):
        for k, o in enumerate(out):
            near = abs(b.x0 - o.x0) < SAME_ENDS * em and abs(b.x1 - o.x1) < SAME_ENDS * em
            if near and b.y0 - o.y1 < REACH * em:
                out[k] = Box.around([b, o])
                break
        else:
            out.append(b)
    out = [b for b in out if b.x1 - b.x0 > 3 * em and b.y1 - b.y0 > em]
    return [Box(b.x0 - 0.3 * em, b.y0 - REACH * em, b.x1 + 0.3 * em, b.y1 + REACH * em) for b in out]


def _families(lines: Lines, em: float) -> list[Box]:
    """The boxes of level lines whose ends agree, two or more each."""
    order = np.lexsort((lines.at, lines.low))
    families: list[list[int]] = []
    for i in order[(lines.high - lines.low > 4 * em)[order]].tolist():
        for family in families:
            j = family[0]
            if max(abs(lines.low[i] - lines.low[j]), abs(lines.high[i] - lines.high[j])) < 0.5 * em:
                family.append(i)
                break
        else:
            families.append([i])
    out = []
    for family in families:
        if len(family) > 1:
            at, low, high = lines.at[family], lines.low[family], lines.high[family]
            out.append(Box(float(low.min()), float(at.min()), float(high.max()), float(at.max())))
    return out


# --- Seams


def _facts(layout: PageLayout, strip: Strip) -> _Facts:
    rows, w = strip.rows, layout.words
    index = np.array([i for r in rows for i in r.words], dtype=np.int64)
    starts = np.cumsum([0, *(len(r.words) for r in rows[:-1])])
    bold = np.array([f.bold for f in layout.ink.fonts] or [False], dtype=np.bool_)[w.font[index]]
    texts = [" ".join([w.texts[i] for i in r.words]) for r in rows]
    parts = np.array([len(r.spans) > 1 for r in rows], dtype=np.bool_)
    upright = layout.rules.upright
    for k in np.flatnonzero(~parts).tolist() if len(upright) else ():
        r = rows[k]
        middle = (r.y0 + r.y1) / 2
        cuts = upright.at[(upright.low < middle) & (upright.high > middle)]
        cuts = cuts[(cuts > r.x0) & (cuts < r.x1)]
        x0, x1 = w.x0[r.words], w.x1[r.words]
        parts[k] = bool(((x0[:, None] < cuts) & (x1[:, None] > cuts)).any(axis=0).sum() < len(cuts))
    return _Facts(
        np.array([r.y0 for r in rows]), np.array([r.y1 for r in rows]),
        np.maximum.reduceat(w.size[index], starts), parts,
        np.logical_and.reduceat(bold, starts),
        np.array([is_prose_line(r, strip.x1 - strip.x0) for r in rows], dtype=np.bool_),
        np.array([bool(NAMED.match(t)) for t in texts], dtype=np.bool_), texts,
    )  # fmt: skip


def _stretches(layout: PageLayout, strip: Strip) -> list[tuple[int, int]]:
    """Stretches of rows, as first and one past the last, that may hold tables."""
    facts, em = strip.facts, layout.em
    speaking = np.flatnonzero(facts.parts).tolist()
    if len(speaking) < 2:
        return []
    rooms = facts.y0[1:] - np.maximum.accumulate(facts.y1)[:-1]
    usual = float(np.median(rooms[rooms > -em])) if (rooms > -em).any() else 0.0
    apart = rooms > max(APART * em, APART_FACTOR * usual)
    ends = np.flatnonzero(apart).tolist()
    out: list[tuple[int, int]] = []
    run = [speaking[0], speaking[0]]
    runs = [run]
    for i in speaking[1:]:
        if i - run[1] > MOST_PLAIN or any(run[1] <= e < i for e in ends):
            run = [i, i]
            runs.append(run)
        run[1] = i
    for first, last in runs:
        a, b = first, last + 1
        while a > 0 and first - a < AROUND and not apart[a - 1] and not facts.parts[a - 1]:
            a -= 1
        while b < len(strip.rows) and b - last - 1 < AROUND and not apart[b - 1] and not facts.parts[b]:
            b += 1
        if last > first:
            out.append((a, b))
    return out


def _intervals(layout: PageLayout, strip: Strip, first: int, last: int) -> list[tuple[int, int]]:
    """The stretches between any two of the strongest seams that hold two rows in parts."""
    strength = _strengths(layout, strip, first, last)
    inner = np.argsort(-strength, kind="stable")[:SEAMS]
    points = sorted({first, last, *(first + 1 + int(k) for k in inner if strength[k] > WEAK)})
    speaks = np.concatenate(([0], np.cumsum(strip.facts.parts)))
    at = {p: ENDS if p in (first, last) else float(strength[p - first - 1]) for p in points}
    pairs = [(a, b) for a, b in combinations(points, 2) if speaks[b] - speaks[a] > 1]
    return sorted(pairs, key=lambda p: -at[p[0]] - at[p[1]])[:PLACES]


def _strengths(layout: PageLayout, strip: Strip, first: int, last: int) -> Floats:
    """How likely something begins or ends between each two rows of a stretch."""
    f, em = strip.facts, layout.em
    a, b = slice(first, last - 1), slice(first + 1, last)
    bottoms = np.maximum.accumulate(f.y1[first:last])[:-1]
    rooms = (f.y0[b] - bottoms) / em
    usual = float(np.median(rooms)) if len(rooms) else 0.0
    # Plain rows under a column other than the first go on in its cells.
    speaks = f.parts[first:last] | _hanging(strip.rows[first:last], f.parts[first:last], em)
    out: Floats = np.clip(rooms - usual, -0.5, 2.5)
    out = out + 1.0 * (speaks[:-1] != speaks[1:]) - 1.0 * (speaks[1:] & ~f.parts[b])
    out += 1.0 * (np.abs(f.size[a] / f.size[b] - 1) > 0.06) + 0.4 * (f.bold[a] != f.bold[b])
    out += 3.0 * f.named[b] + 1.0 * f.named[a] + 0.7 * (f.prose[a] != f.prose[b])
    # Plain rows near the ends may be captions, titles and notes.
    n = last - first - 1
    at = np.arange(n)
    plain = ~speaks[:-1] | ~speaks[1:]
    out += 0.7 * (plain & ((at < AROUND + 2) | (at >= n - AROUND - 2)))
    out += _changes(f, strip.rows, first, last, em)
    head = next((t for t, p in zip(f.texts[first:last], f.parts[first:last], strict=True) if p), "")
    out += 3.0 * np.array([t == head for t in f.texts[b]])
    out += _rule_changes(layout, strip, first, last)
    return out


def _hanging(rows: Sequence[Row], parts: Bools, em: float) -> Bools:
    """Which plain rows begin right of where the second part of the last row in parts begins, or near it."""
    out = np.zeros(len(rows), dtype=np.bool_)
    edge = np.inf
    for k, row in enumerate(rows):
        if parts[k]:
            edge = row.spans[1][0] if len(row.spans) > 1 else edge
        else:
            out[k] = row.x0 > edge - UNDER * em
    return out


def _changes(f: _Facts, rows: Sequence[Row], first: int, last: int, em: float) -> Floats:
    """How much the starts of text in the rows above and below each seam differ, 0..1.5."""
    n = last - first
    left = min(r.x0 for r in rows[first:last])
    width = max(r.x1 for r in rows[first:last]) - left
    bins = int(width / (0.5 * em)) + 2
    covered = np.zeros((n, bins), dtype=np.int64)
    for k, r in enumerate(rows[first:last]):
        for x0, x1 in r.spans if f.parts[first + k] else ():
            covered[k, int((x0 - left) / (0.5 * em)) : int((x1 - left) / (0.5 * em)) + 1] = 1
    total = np.concatenate((np.zeros((1, bins), dtype=np.int64), np.cumsum(covered, axis=0)))
    at = np.arange(1, n)
    above = total[at] - total[np.maximum(at - 4, 0)] > 0
    below = total[np.minimum(at + 4, n)] - total[at] > 0
    both, any_ = (above & below).sum(axis=1), (above | below).sum(axis=1)
    enough = above.any(axis=1) & below.any(axis=1)
    out: Floats = np.where(enough, 1.5 * (1 - both / np.maximum(any_, 1)), 0.0)
    return out


def _rule_changes(layout: PageLayout, strip: Strip, first: int, last: int) -> Floats:
    """1 where one of few rules runs between two rows, or shading begins or ends there."""
    rows = strip.rows[first:last]
    box = Box(min(r.x0 for r in rows), rows[0].y0, max(r.x1 for r in rows), max(r.y1 for r in rows))
    lines = np.array(lines_in(layout, box))
    out = np.zeros(len(rows) - 1)
    if not len(lines):
        return out
    middles = np.array([(r.y0 + r.y1) / 2 for r in rows])
    between = np.searchsorted(middles, lines) - 1
    between = np.unique(between[(between >= 0) & (between < len(out))])
    if len(between) < 0.4 * len(out):
        out[between] = 1.0
    return out


# --- Rules in a place


def upright_in(layout: PageLayout, box: Box) -> list[float]:
    """Return the x of upright rules along a box, each once: of one drawn in pieces, all count together."""
    upright, em = layout.rules.upright, layout.em
    shared = np.minimum(upright.high, box.y1) - np.maximum(upright.low, box.y0)
    inside = (upright.at > box.x0 + 0.2 * em) & (upright.at < box.x1 - 0.2 * em) & (shared > 0)
    if not inside.any():
        return []
    at, length = upright.at[inside], shared[inside]
    order = np.argsort(at, kind="stable")
    group = np.concatenate(([0], np.cumsum(np.diff(at[order]) > 0.3 * em)))
    total = np.bincount(group, weights=length[order])
    middle = np.bincount(group, weights=at[order]) / np.bincount(group)
    found: list[float] = middle[total > ALONG * (box.y1 - box.y0)].tolist()
    return found


def lines_in(layout: PageLayout, box: Box) -> list[float]:
    """Return the y of level rules, and of edges of shading, that run across most of a box."""
    level, shades, em = layout.rules.level, layout.rules.shades, layout.em
    y = np.concatenate((level.at, shades.y0, shades.y1))
    if not len(y):
        return []
    kind = np.repeat([0, 1, 2], [len(level), len(shades), len(shades)])
    low = np.concatenate((level.low, shades.x0, shades.x0))
    high = np.concatenate((level.high, shades.x1, shades.x1))
    shared = np.minimum(high, box.x1) - np.maximum(low, box.x0)
    near = (y > box.y0 - em) & (y < box.y1 + em) & (shared > 0)
    # Shading behind the whole says nothing of its rows.
    whole = np.concatenate((np.zeros(len(level)), np.tile(shades.y1 - shades.y0, 2)))
    near &= (whole < 0.9 * (box.y1 - box.y0)) | (box.y1 - box.y0 < 2 * em)
    y, kind, shared = y[near], kind[near], shared[near]
    order = np.lexsort((y, kind))
    y, kind, shared = y[order], kind[order], shared[order]
    if not len(y):
        return []
    # Pieces at one height count together: one edge a cell, as shading often is drawn.
    group = np.concatenate(([0], np.cumsum((np.diff(y) > 1.0) | (np.diff(kind) > 0))))
    total = np.bincount(group, weights=shared)
    middle = np.bincount(group, weights=y) / np.bincount(group)
    found = np.sort(middle[total > ACROSS * (box.x1 - box.x0)])
    return [float(v) for k, v in enumerate(found) if k == 0 or v - found[k - 1] > 2.0]
