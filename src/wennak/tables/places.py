"""Where tables may be: stretches of rows between places where something may begin or end.

Within a strip, seams lie between rows that may not belong together: every stretch between the strongest of
them is a place. So are runs of rows that follow each other like rows of a table. Nothing is decided here.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import combinations

import numpy as np

from ..ink import Bools, Ints, distinct, median
from ..layout import PageLayout, zones_around
from ..model import Box
from .areas import REACH, SAME_LEVEL, find_strips, is_tabular, words_inside
from .lattice import Lattice
from .rows import Row, rows_of, span_of
from .rulings import lines_in, stand_apart, upright_in
from .runs import Search, find_runs
from .seams import AROUND, seam_strengths
from .strip import At, Strip, strip_of

# Rows farther apart than this (em), and than this many times the usual room, are never one table.
APART, APART_FACTOR = 4.0, 4.0
# More plain rows than this between two that fall into parts are a text of their own.
MOST_PLAIN = 24
# Where more than this share of the rows are lines of running text, no table is sought.
MOST_PROSE = 0.4
# The strongest seams of a stretch that are tried, beside its ends.
SEAMS = 6
# Above and below a chosen place so many are tried.
NEAREST = 4
# How many rows a promising place is grown at its top and foot.
STEPS = ((-1, 0), (-2, 0), (1, 0), (2, 0), (0, -1), (0, -2), (0, 1), (0, 2))
# The end of a stretch is a seam of this strength. Of the stretches between seams so many are tried.
ENDS, PLACES = 3.0, 20
# At so many seams within a promising place it is tried as two.
HALVES = 3
# A seam weaker than this is none.
WEAK = 0.5
# What stands above or below something may overlap it by so much (em).
BEYOND = 0.3
# Columns of text are so far apart (em); of the gaps beside a table so many are tried.
GUTTER, GAPS = 1.0, 3

Key = tuple[int, int, int]


@dataclass(slots=True, eq=False)
class Place:
    """Rows of a strip, from `first` to before `last`, that may be one table.

    `box` is theirs; `cuts` are the x of upright rules along them, `lines` the y of level rules and edges of
    shading across them; `above` and `below` tell the strip and number of the rows right above and below, None
    at its ends; `run` that its rows follow each other like rows of a table; `whole` that its strip is
    nothing but the place.
    """

    strip: Strip
    first: int
    last: int
    box: Box
    cuts: list[float]
    lines: list[float]
    above: At | None = None
    below: At | None = None
    run: bool = False
    whole: bool = False

    @property
    def rows(self) -> Sequence[Row]:
        """Its rows from top to bottom."""
        return self.strip.rows[self.first : self.last]

    @property
    def index(self) -> Ints:
        """The indices of its words, row by row."""
        return self.strip.index[self.strip.starts[self.first] : self.strip.starts[self.last]]

    @property
    def key(self) -> Key:
        """What tells it from the others of a page: its first and last word, and how many it has."""
        index = self.index
        return int(index[0]), int(index[-1]), len(index)


def find_places(
    layout: PageLayout, free: Bools, lattices: Sequence[Lattice], uprights: bool = True
) -> Iterator[Place]:
    """Yield the places that may hold a table among the `free` words of a page with these lattices;
    `uprights`: with the upright rules in them.
    """
    seen: set[Key] = set()
    for strip in find_strips(layout, free, lattices):
        for place in _places_in(layout, strip, uprights):
            if place.key not in seen:
                seen.add(place.key)
                yield place


def around(layout: PageLayout, place: Place, free: Bools, uprights: bool = True) -> Iterator[Place]:
    """Yield the places among the `free` words level with a place, and those above and below it in its strip:
    where rules mark off one of two tables beside each other nothing tells the other from the page, and the
    strongest seams of a strip may all be elsewhere. `uprights`: with the upright rules in them.
    """
    w, box, strip = layout.words, place.box, place.strip
    level = free & (w.y1 > box.y0 - REACH * layout.em) & (w.y0 < box.y1 + REACH * layout.em)
    whole = _whole_texts(layout, np.flatnonzero(level), box)
    for part in (whole[w.x1[whole] < box.x0], whole[w.x0[whole] > box.x1]):
        if len(part) and is_tabular(layout, part):
            yield from _places_in(layout, strip_of(layout, part), uprights)
    for a, b in ((0, place.first), (place.last, len(strip.rows))):
        for first, last in _stretches(layout, strip) if b - a > 1 else ():
            if min(last, b) - max(first, a) > 1:
                for interval in _intervals(layout, strip, max(first, a), min(last, b))[:NEAREST]:
                    yield from _made(layout, strip, interval, False, uprights)


def in_columns(
    layout: PageLayout, chosen: Sequence[Place], free: Bools, uprights: bool = True
) -> Iterator[Place]:
    """Yield the places among the `free` words of a page that show once places are chosen: in zones around
    these that make no columns of it one, and on either side of a gap which nothing else in the zone of a
    chosen place reaches into. A table as wide as the page hides that what is above or below it stands in
    columns. `uprights`: with the upright rules in them.
    """
    w, rest = layout.words, free.copy()
    for place in chosen:
        rest[place.index] = False
    if not rest.any():
        return
    parts, home = [], layout.zone_of()
    known = {each.members.tobytes() for each in layout.zones}
    for zone in zones_around(layout, [(place.box, place.index) for place in chosen], known=False):
        own, part = zone.members[free[zone.members]], zone.members[rest[zone.members]]
        of = [layout.zones[k] for k in distinct(home[zone.members]).tolist() if k < len(layout.zones)]
        wider = zone.x1 - zone.x0 > max((each.x1 - each.x0 for each in of), default=0.0)
        if not wider and zone.members.tobytes() not in known:
            parts.append(own)
        if not 0 < len(part) < len(own):
            continue
        order = part[np.argsort(w.x0[part], kind="stable")]
        reach = np.maximum.accumulate(w.x1[order])[:-1]
        room = w.x0[order][1:] - reach
        for k in np.argsort(-room, kind="stable")[:GAPS].tolist():
            if room[k] > GUTTER * layout.em:
                parts += [part[w.x0[part] < reach[k]], part[w.x0[part] > reach[k]]]
    for part in parts:
        if len(part) and is_tabular(layout, part):
            yield from _places_in(layout, strip_of(layout, part), uprights)


def _whole_texts(layout: PageLayout, members: Ints, box: Box) -> Ints:
    """Those of some words whose texts end left of a box or begin right of it: lines of prose above it, and
    those below it, have no words beside it.
    """
    w, out = layout.words, [members[:0]]
    if not ((w.x1[members] < box.x0) | (w.x0[members] > box.x1)).any():
        return members[:0]
    for row in rows_of(layout, members):
        beside = np.array([x1 < box.x0 or x0 > box.x1 for x0, x1 in row.spans])
        out.append(np.array(row.words)[beside[span_of(layout, row)]])
    return np.sort(np.concatenate(out))


def _places_in(layout: PageLayout, strip: Strip, uprights: bool) -> Iterator[Place]:
    """The places of a strip that may be one table: runs, and stretches between seams."""
    intervals = dict.fromkeys(_runs(layout, strip), True)
    for first, last in _stretches(layout, strip):
        for interval in _intervals(layout, strip, first, last):
            intervals.setdefault(interval, False)
    for interval, run in intervals.items():
        yield from _made(layout, strip, interval, run, uprights)


def _made(
    layout: PageLayout, strip: Strip, interval: tuple[int, int], run: bool, uprights: bool
) -> Iterator[Place]:
    """The place that an interval of rows is, if it may be one table."""
    place = place_in(layout, strip, *interval)
    place.run = run
    if not uprights:
        place.cuts = []
    if _may_be_one(layout, place):
        yield place


def grown(layout: PageLayout, place: Place) -> Iterator[Place]:
    """Yield a place with some rows more or less at its top or its foot."""
    for top, foot in STEPS if not place.whole else ():
        a, b = place.first + top, place.last + foot
        if 0 <= a < b - 1 and b <= len(place.strip.rows):
            other = place_in(layout, place.strip, a, b)
            if _may_be_one(layout, other):
                yield other


def halves(layout: PageLayout, place: Place) -> Iterator[Place]:
    """Yield what stands above and below the strongest seams within a place."""
    a, b = place.first, place.last
    if place.whole or b - a < 5:
        return
    strength = seam_strengths(layout, place.strip, a, b)
    for k in np.argsort(-strength, kind="stable")[:HALVES].tolist():
        for first, last in ((a, a + k + 1), (a + k + 1, b)):
            if last - first > 1:
                yield place_in(layout, place.strip, first, last)


def united(layout: PageLayout, places: Sequence[Place], free: Bools) -> list[Place]:
    """Return what neighbouring places make together: those of one strip with the few rows between them, those
    of two strips beside each other where all their rows stand level.
    """
    pairs = [
        place_in(layout, upper.strip, upper.first, lower.last)
        for upper in places
        for lower in places
        if upper.strip is lower.strip
        and 0 <= lower.first - upper.last <= AROUND
        and not _apart(layout, upper.strip)[upper.last - 1 : lower.first].any()
    ]
    for left in places:
        for right in places:
            beside = left.strip is not right.strip and left.box.x1 < right.box.x0
            if beside and _stand_level(layout, left, right):
                both = np.sort(np.concatenate((left.index, right.index)))
                pairs.append(place_of(layout, both, free, Box.around([left.box, right.box])))
    return [place for place in pairs if _may_be_one(layout, place)]


def _stand_level(layout: PageLayout, left: Place, right: Place) -> bool:
    """Whether each row of two places has one of the other beside it."""
    own, others = (np.array([r.baseline for r in place.rows]) for place in (left, right))
    return len(own) == len(others) and bool((np.abs(own - others) < SAME_LEVEL * layout.em).all())


def _may_be_one(layout: PageLayout, place: Place) -> bool:
    """Whether a place holds no chart, and nothing that rules tell to be tables side by side."""
    return not layout.has_chart(place.box) and not stand_apart(layout, place.rows, place.box)


def place_in(layout: PageLayout, strip: Strip, a: int, b: int) -> Place:
    """Return the place that the rows from a to before b of a strip make."""
    rows = strip.rows[a:b]
    box = Box(min(r.x0 for r in rows), rows[0].y0, max(r.x1 for r in rows), max(r.y1 for r in rows))
    above = (strip, a - 1) if a else _outside(layout, strip)[0]
    below = (strip, b) if b < len(strip.rows) else _outside(layout, strip)[1]
    return Place(strip, a, b, box, upright_in(layout, box), lines_in(layout, box), above, below)


def _outside(layout: PageLayout, strip: Strip) -> tuple[At | None, At | None]:
    """The rows right above and below a strip that stand in several zones: columns of text that end above a
    table, or begin below it, may have taken a row of it.
    """
    if strip.outside is None:
        em, top, foot = layout.em, strip.rows[0].y0, max(r.y1 for r in strip.rows)
        reach = Box(strip.x0 - em, top - REACH * em, strip.x1 + em, foot + REACH * em)
        own = np.zeros(len(layout.words), dtype=np.bool_)
        own[strip.index] = True
        around = words_inside(layout, reach)
        zone = layout.zone_of()
        above, below = (
            at if at and len(distinct(zone[at[0].rows[at[1]].words])) > 1 else None
            for at in _around(layout, around[~own[around]], top, foot)
        )
        strip.outside = above, below
    return strip.outside


def _around(layout: PageLayout, words: Ints, top: float, foot: float) -> tuple[At | None, At | None]:
    """Those rows of some words that stand right above and below two heights."""
    if not len(words):
        return None, None
    strip, near = strip_of(layout, words), BEYOND * layout.em
    higher, lower = np.flatnonzero(strip.facts.y1 < top + near), np.flatnonzero(strip.facts.y0 > foot - near)
    return (
        (strip, int(higher[-1])) if len(higher) else None,
        (strip, int(lower[0])) if len(lower) else None,
    )


def place_of(layout: PageLayout, members: Ints, free: Bools, box: Box) -> Place:
    """Return the place that some words make, with the rows of free words above and below them."""
    em, strip = layout.em, strip_of(layout, members)
    around = words_inside(layout, Box(box.x0 - em, box.y0 - REACH * em, box.x1 + em, box.y1 + REACH * em))
    above, below = _around(layout, around[free[around]], box.y0, box.y1)
    return Place(
        strip, 0, len(strip.rows), box, upright_in(layout, box), lines_in(layout, box), above, below,
        whole=True,
    )  # fmt: skip


def _runs(layout: PageLayout, strip: Strip) -> list[tuple[int, int]]:
    """The stretches of a strip that follow each other like rows of a table."""
    number = {row.words[0]: k for k, row in enumerate(strip.rows)}
    out = []
    for ruled in (False, True):
        for run in find_runs(layout, strip.rows, Search(strip.x1 - strip.x0, ruled)):
            first, last = number[run[0].words[0]], number[run[-1].words[0]] + 1
            if strip.facts.aligned[first:last].sum() > 1:
                out.append((first, last))
    return out


def _apart(layout: PageLayout, strip: Strip) -> Bools:
    """Which rows but the last are never in one table with the next one."""
    facts, em = strip.facts, layout.em
    rooms = facts.y0[1:] - np.maximum.accumulate(facts.y1)[:-1]
    usual = median(rooms[rooms > -em]) if (rooms > -em).any() else 0.0
    return rooms > max(APART * em, APART_FACTOR * usual)


def _stretches(layout: PageLayout, strip: Strip) -> list[tuple[int, int]]:
    """Stretches of rows, as first and one past the last, that may hold tables."""
    facts = strip.facts
    speaking = np.flatnonzero(facts.aligned).tolist()
    if len(speaking) < 2:
        return []
    apart = _apart(layout, strip)
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
    strength = seam_strengths(layout, strip, first, last)
    inner = np.argsort(-strength, kind="stable")[:SEAMS]
    points = sorted({first, last, *(first + 1 + int(k) for k in inner if strength[k] > WEAK)})
    speaks, prose = (np.append(0, np.cumsum(f)) for f in (strip.facts.aligned, strip.facts.prose))
    at = [ENDS if p in (first, last) else float(strength[p - first - 1]) for p in points]
    found = []
    for i, k in combinations(range(len(points)), 2):
        a, b = points[i], points[k]
        if speaks[b] - speaks[a] > 1 and prose[b] - prose[a] <= MOST_PROSE * (b - a):
            # A table ends where it is parted from what is around it more than its own rows are.
            found.append((at[i] + at[k] - max(at[i + 1 : k], default=0.0), (a, b)))
    return [interval for _, interval in sorted(found, key=lambda f: -f[0])[:PLACES]]
