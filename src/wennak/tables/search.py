"""From places to readings: columns first, then rows, the judge asked in between."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import cache, partial
from itertools import islice

import numpy as np

from ..ink import Bools
from ..layout import PageLayout
from ..model import Box
from .choose import LEAST, choose, closed, judged_draft
from .closing import cuts_paragraph, ends_at, holds_text_beyond, lacks_column, lacks_row, reaches_beside
from .columns import column_choices
from .counted import lists_items
from .draft import TableDraft
from .edges import inner_edges, is_fitted, joins_edges
from .evidence import FEATURES, Judge, evidence
from .framed import without_cut_grids
from .grid import (
    Cut,
    cut_place,
    drawn_lines,
    joins_neighbours,
    parts_label,
    parts_marks,
    repeats_head,
    runs_on,
    stacks_lines,
    stacks_numbers,
    without_idle_columns,
)
from .lattice import find_lattices
from .numbers import is_value
from .places import Key, Place, around, find_places, grown, halves, in_columns, place_in, united
from .reading import UNKNOWN, Reading
from .rowcuts import CENTRED, row_choices, rows_of_centred
from .ruled import lattice_readings, shaded_readings
from .rulings import ends_with_uprights
from .walls import parted_by_rules

# What crossing lines draw is not read in any other way where it gains more than this.
SURE = 0.9
# A reading that gains more than this is not looked at closer: nothing better came up in hundreds of tables,
# but where several numbers stand in a cell.
CERTAIN, NUMBERS = 0.85, FEATURES.index("several_numbers")
# Of the ways to cut a promising place into columns so many are cut into rows in every way.
CUTS = 2
# So often the best set of readings is looked at closer.
ROUNDS = 4
# Of so many lines or more, a column has text in few where it has in one, or in this share.
FEW_LINES, FEW = 8, 0.2
# Runs, and one in so many of the other places of a page, are opened first; as many others where a reading of
# these gains so little, and all where one of either gains this.
SAMPLED, HOPEFUL, PROMISING = 8, 0.1, 0.2
# Boxes begin and end level within this (em).
LEVEL = 0.3
# A place has at least so many rows, of which the first show how many columns it has.
HEADS = 3
# Of the rows of a place that is only looked at first, so many.
OPENING = 6
# A reading gains so much less where a cell of it holds what stands side by side in columns of their own.
JOINED = 0.05
# And so much where a row of it holds two lines of numbers, each with its label, where its head stands in it
# once more, where a cell holds what inner edges or a rule part, or where its first or last row is text wider
# than the others; twice that where its head does again, where a label that ends with a comma is a row, or
# where its place lacks a row or a column of what stands there.
STACKED = 0.1
# And so much more where the cells of all its rows stand at mid height beside each other, in several of them
# one between two lines of another: no text does that by chance.
CENTRES = 0.3
# And so much more where its columns are as wide as their texts; less than what PROMISING lacks to LEAST.
FITTED = 0.09


@dataclass(frozen=True, slots=True)
class Sources:
    """What readings come from: grids of crossing lines, stretches of rows, and upright rules in these."""

    lattices: bool = True
    spaces: bool = True
    uprights: bool = True


ALL = Sources()


def search(layout: PageLayout, free: Bools, judge: Judge, sources: Sources = ALL) -> list[Reading]:
    """Return the readings of a page that are worth comparing, judged.

    What crossing lines draw for sure is read as drawn. Other places are opened with their first cuts.
    Those of the best set are then read in every way, and places a row or two larger and smaller, their
    halves, what stands around them and what neighbours make together are opened, until the best set holds
    nothing new.
    """
    lattices = find_lattices(layout.rules)
    out = lattice_readings(layout, free, lattices) if sources.lattices else []
    judged(layout, out, judge)
    for reading in out:
        if reading.gain > SURE:
            free = free.copy()
            free[reading.place.index] = False
    if sources.lattices:
        shaded = shaded_readings(layout, free, lattices, out)
        judged(layout, shaded, judge)
        out += shaded
    places = find_places(layout, free, lattices, sources.uprights) if sources.spaces else ()
    opened = _begun(layout, list(places), judge)
    done, em = set[Key](), layout.em
    for _ in range(ROUNDS):
        best = choose(closed([*out, *_readings(opened)]))
        fresh = [r for r in best if r.place.key not in done]
        if not fresh:
            break
        done.update(r.place.key for r in fresh)
        new = [r for r in fresh if r.cut is not None and (r.gain < CERTAIN or r.seen[NUMBERS] > 0)]
        whole = [place for place in united(layout, [r.place for r in best], free) if place.key not in done]
        near = whole.copy()
        near += [place for r in fresh for place in around(layout, r.place, free, sources.uprights)]
        near += [place for r in new for place in halves(layout, r.place)]
        near += in_columns(layout, [r.place for r in best], free, sources.uprights)
        for place in near:
            if place.key not in opened and (o := _Opened(layout, place)).begin():
                opened[place.key] = o
        for reading in new:
            for place in grown(layout, reading.place):
                if place.key not in opened:
                    opened[place.key] = _Opened(layout, place, reading)
                else:
                    opened[place.key].read(0, None, reading.way)
        boxes = [r.place.box for r in fresh if r.cut is not None]
        wider = [o.place for o in opened.values() if any(_is_wider(o.place.box, box, em) for box in boxes)]
        closer = dict.fromkeys(place.key for place in (*(r.place for r in new), *whole, *wider))
        _read_all(layout, [opened[key] for key in closer if key in opened], judge)
        judged(layout, _readings(opened), judge)
    return without_cut_grids(layout, lattices, closed(out + _readings(opened)))


def _is_wider(box: Box, other: Box, em: float) -> bool:
    """Whether a box is as high as another, reaches as far on both sides, and farther on one."""
    level = abs(box.y0 - other.y0) < LEVEL * em and abs(box.y1 - other.y1) < LEVEL * em
    more = box.x1 - box.x0 > other.x1 - other.x0 + em
    return level and more and box.x0 < other.x0 + LEVEL * em and box.x1 > other.x1 - LEVEL * em


def _begun(layout: PageLayout, places: Sequence[Place], judge: Judge) -> dict[Key, _Opened]:
    """The places of a page, begun and judged; a sample of them where nothing in it promises a table, as on a
    page of text: most places share their rows with many others.
    """
    opened: dict[Key, _Opened] = {}
    runs, others = ([place for place in places if place.run is run] for run in (True, False))
    half = SAMPLED // 2
    rest = [place for k, place in enumerate(others) if k % half]
    for part, least in ((runs + others[::SAMPLED], HOPEFUL), (others[half::SAMPLED], PROMISING), (rest, 0.0)):
        new = {place.key: o for place in part if (o := _Opened(layout, place)).begin()}
        judged(layout, _readings(new), judge)
        opened |= new
        # What ends in a larger strip is the same words seen among others: it adds nothing to what is opened.
        ended = {place.key: place for o in new.values() for place in o.ended() if place.key not in opened}
        opened |= {key: o for key, place in ended.items() if (o := _Opened(layout, place)).begin()}
        readings = _readings(opened)
        judged(layout, readings, judge)
        if all(r.gain < least for r in readings):
            break
    keys = dict.fromkeys([*(place.key for place in places), *opened])
    return {key: opened[key] for key in keys if key in opened}


def _readings(opened: Mapping[Key, _Opened]) -> list[Reading]:
    """All readings made of some places so far."""
    return [r for o in opened.values() for r in o.readings]


def judged(layout: PageLayout, readings: Sequence[Reading], judge: Judge) -> None:
    """Ask the judge what each reading gains, where it has not been asked."""
    new = [r for r in readings if r.gain == UNKNOWN]
    if new:
        seen = evidence(layout, new)
        # Readings share their place, and many their cuts.
        edges, fits = cache(partial(inner_edges, layout)), cache(partial(is_fitted, layout))
        beyond, parts = cache(holds_text_beyond), cache(partial(parted_by_rules, layout))
        rest, beside = cache(partial(cuts_paragraph, layout)), cache(partial(reaches_beside, layout))
        column, row_beyond = cache(partial(lacks_column, layout)), cache(partial(lacks_row, layout))
        for reading, gain, row in zip(new, judge(seen).tolist(), seen, strict=True):
            reading.gain, reading.seen = gain, row
            if (cut := reading.cut) and gain > LEAST - FITTED:
                reading.gain += FITTED * fits(cut)
            # What gains less is never chosen.
            if reading.gain > LEAST and cut and lists_items(layout, cut):
                # Whatever else tells for it.
                reading.gain = 0.0
            elif reading.gain > LEAST and cut:
                place = reading.place
                a, b = parts(cut).T
                crossed = bool((reading.table_row[a] == reading.table_row[b]).any())
                faults = max(stacks_numbers(cut, reading.table_row), min(repeats_head(cut), 2))
                faults += crossed + beyond(place) + rest(place) + joins_edges(layout, cut, edges(place))
                faults += 2 * (column(place) + row_beyond(place) + beside(place))
                faults += 2 * parts_label(cut, reading.table_row)
                faults += 2 * stacks_lines(cut.filled, reading.table_row)
                if reading.way == CENTRED and not (crossed or runs_on(layout, cut, reading.table_row)):
                    reading.gain += CENTRES
                reading.gain -= STACKED * faults
                reading.gain -= JOINED * joins_neighbours(cut, reading.table_row)
                reading.ends = ends_at(layout, cut)
            elif reading.gain > LEAST and reading.drawn is not None:
                reading.gain -= 2 * STACKED * stacks_lines(*drawn_lines(layout, reading.drawn))


def _read_all(layout: PageLayout, places: Sequence[_Opened], judge: Judge) -> None:
    """Read places with all cuts, and with all rows of the best of them."""
    for place in places:
        k = 1
        while place.read(k, OPENING):
            k += 1
    judged(layout, [r for place in places for r in place.readings], judge)
    for place in places:
        for k in place.best_cuts()[:CUTS]:
            place.read(k, None)


class _Opened:
    """A place with the ways to cut it into columns, and the readings made of it so far; where it is a bit
    more or less than that of a reading, first of all with the same columns and rows.
    """

    def __init__(self, layout: PageLayout, place: Place, like: Reading | None = None) -> None:
        self.layout, self.place = layout, place
        self.readings: list[Reading] = []
        self.cuts: list[Cut] = []
        self.made: set[tuple[int, bytes]] = set()
        self.choices = column_choices(layout, place, like.cut.cuts if like and like.cut else ())
        if like is not None:
            self.read(0, None, like.way)
            self._open_with_values()

    def read(self, k: int, most: int | None, way: int | None = None) -> bool:
        """Read the place with the k-th cuts and the first rows that these may make, `most` of them, or those
        made in one way; False where there are no such cuts.
        """
        if not self._has(k):
            return False
        cut = self.cuts[k]
        for number, (made, rows) in enumerate(islice(row_choices(self.layout, cut), most)):
            key = (k, rows.tobytes())
            if key not in self.made and way in (None, made):
                self.made.add(key)
                self.readings.append(Reading(self.place, None, cut, rows, (k, number), made))
        return True

    def begin(self) -> bool:
        """Read the place with its first cuts; where a row of numbers at its top has more texts than columns,
        with as many of these; where upright rules in it are as tall with these alone, which may be right
        where marks in cells pass for columns; where a column of these has text in few lines, as where a label
        over the middle of its column stands beside all the texts of it, with the first that have no such
        column; where they join texts at an inner edge, with the first that part these; and where others make
        rows of centred cells, with the first that do. False where there are no cuts.
        """
        found = self.read(0, OPENING)
        edges = inner_edges(self.layout, self.place) if found else []
        if edges and joins_edges(self.layout, self.cuts[0], edges):
            self._open_with(lambda cut: not joins_edges(self.layout, cut, edges))
        if found:
            self._open_with_values()
        ruled = len(self.place.cuts) if ends_with_uprights(self.layout, self.place.box) else 0
        if ruled:
            self._open_with(lambda cut: len(cut.cuts) == ruled)
        elif found and len(self.cuts[0].filled) >= FEW_LINES and not _is_full(self.cuts[0]):
            self._open_with(_is_full)
        beside = self.place.strip.facts.beside[self.place.first : self.place.last]
        if found and beside.sum() > 1 and all(r.way != CENTRED for r in self.readings):
            self._open_with(self._is_centred)
        return found

    def _open_with_values(self) -> None:
        """Read the place with a column for each text of a row at its top that holds several numbers, where
        there are more of these.
        """
        texts, rows = self.layout.words.texts, self.place.rows
        if len(rows) < HEADS or not self._has(0):
            return
        numeric = [row for row in rows[:HEADS] if sum(is_value(texts[i]) for i in row.words) > 1]
        count = max((len(row.spans) for row in numeric), default=0)
        if count > self.cuts[0].columns:
            self._open_with(lambda cut: cut.columns == count and not parts_marks(self.layout, cut))

    def _is_centred(self, cut: Cut) -> bool:
        """Whether all lines fall into rows of centred cells, not all of them level."""
        return rows_of_centred(cut, self.layout.em)[1] > 1

    def ended(self) -> Iterator[Place]:
        """Yield what stands above and below the rows at which tables end in readings of the place."""
        a, b = self.place.first, self.place.last
        for row in sorted({r.ends for r in self.readings if r.ends}):
            for first, last in ((a, a + row), (a + row, b)):
                if last - first > 1:
                    yield place_in(self.layout, self.place.strip, first, last)

    def _open_with(self, wanted: Callable[[Cut], bool]) -> None:
        """Read the place with the first of its other cuts that are as wanted, if any are."""
        k = 1
        while self._has(k):
            if wanted(self.cuts[k]):
                self.read(k, OPENING)
                return
            k += 1

    def _has(self, k: int) -> bool:
        """Whether there are k-th cuts."""
        while len(self.cuts) <= k:
            cuts = next(self.choices, None)
            if cuts is None:
                return False
            self.cuts.append(without_idle_columns(self.layout, cut_place(self.layout, self.place, cuts)))
        return True

    def best_cuts(self) -> list[int]:
        """The numbers of the cuts by their best reading."""
        best: dict[int, float] = {}
        for r in self.readings:
            best[r.usual[0]] = max(best.get(r.usual[0], -np.inf), r.gain)
        return sorted(best, key=lambda k: -best[k])


def _is_full(cut: Cut) -> bool:
    """Whether each column has text in more than few lines."""
    return bool((cut.filled.sum(axis=0) > max(1.0, FEW * len(cut.filled))).all())


def best_draft(
    layout: PageLayout, place: Place, judge: Judge, cuts: Sequence[float] | None, method: str
) -> TableDraft:
    """Return the best reading of a place, with the columns that are given, or else with any; one column where
    nothing parts it.
    """
    readings = all_readings(layout, place, judge, cuts)
    return judged_draft(readings[0], readings, len(layout.words), method)


def all_readings(
    layout: PageLayout, place: Place, judge: Judge, cuts: Sequence[float] | None = None
) -> list[Reading]:
    """Return all readings of a place, the best first, with the columns that are given, or else with any; one
    column where nothing parts it.
    """
    choices = [list(cuts)] if cuts is not None else [*column_choices(layout, place)] or [[]]
    readings = []
    for k, choice in enumerate(choices):
        cut = cut_place(layout, place, choice)
        for number, (way, table_row) in enumerate(row_choices(layout, cut)):
            readings.append(Reading(place, None, cut, table_row, (k, number), way))
    judged(layout, readings, judge)
    return sorted(readings, key=lambda r: -r.gain)
