"""From places to readings: columns first, then rows, the judge asked in between."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..ink import Bools
from ..layout import PageLayout
from .choose import choose
from .columns import column_choices
from .draft import TableDraft
from .evidence import Judge
from .grid import Cut, assembled, cut_rows, without_idle_columns
from .lattice import find_lattices
from .places import Key, Place, find_places, grown, halves, place_key, united
from .reading import Reading, judged
from .rowcuts import row_choices
from .ruled import lattice_readings

# Of the ways to cut a promising place into columns so many are cut into rows in every way.
CUTS = 2
# So often the best set of readings is looked at closer.
ROUNDS = 4
# Of the rows of a place that is only looked at first, so many.
OPENING = 3


@dataclass(frozen=True, slots=True)
class Sources:
    """What readings come from: grids of crossing lines, stretches of rows, and upright rules in these."""

    lattices: bool = True
    spaces: bool = True
    uprights: bool = True


ALL = Sources()


def search(layout: PageLayout, free: Bools, judge: Judge, sources: Sources = ALL) -> list[Reading]:
    """Return the readings of a page that are worth comparing, judged.

    All places are opened with their first cuts. Those of the best set are then read in every way, and places
    a row or two larger and smaller, their halves, and what neighbours make together are opened beside them,
    until the best set holds nothing new.
    """
    lattices = find_lattices(layout.rules)
    drawn = lattice_readings(layout, free, lattices) if sources.lattices else ()
    out = [Reading(place, draft) for place, draft in drawn]
    places = find_places(layout, free, lattices, sources.uprights) if sources.spaces else ()
    opened = {o.key: o for place in places if (o := _Opened(layout, place)).read(0, OPENING)}
    judged(layout, [*out, *(r for o in opened.values() for r in o.readings)], judge)
    done: set[Key] = set()
    for _ in range(ROUNDS):
        best = choose([*out, *(r for o in opened.values() for r in o.readings)])
        new = [key for r in best if (key := place_key(r.place)) in opened and key not in done]
        if not new:
            break
        done.update(new)
        beside = united(layout, [r.place for r in best])
        for key in new:
            _read_all(layout, opened[key], judge)
            beside += [*grown(layout, opened[key].place), *halves(layout, opened[key].place)]
        for place in beside:
            o = _Opened(layout, place)
            if o.key not in opened and o.read(0, OPENING):
                opened[o.key] = o
        judged(layout, [r for o in opened.values() for r in o.readings], judge)
    return out + [r for o in opened.values() for r in o.readings]


def _read_all(layout: PageLayout, place: _Opened, judge: Judge) -> None:
    """Read a place with all cuts, and with all rows of the best of them."""
    k = 1
    while place.read(k, OPENING):
        k += 1
    judged(layout, place.readings, judge)
    for k in place.best_cuts()[:CUTS]:
        place.read(k, None)
    judged(layout, place.readings, judge)


class _Opened:
    """A place with the ways to cut it into columns, and the readings made of it so far."""

    def __init__(self, layout: PageLayout, place: Place) -> None:
        self.layout, self.place = layout, place
        self.key = place_key(place)
        self.choices = column_choices(layout, place)
        self.readings: list[Reading] = []
        self.cuts: list[Cut] = []
        self.made: list[tuple[int, list[bool]]] = []

    def read(self, k: int, most: int | None) -> bool:
        """Read the place with the k-th cuts and the first rows that these may make, `most` of them; False
        where there are no such cuts.
        """
        while len(self.cuts) <= k:
            cuts = next(self.choices, None)
            if cuts is None:
                return False
            self.cuts.append(without_idle_columns(self.layout, cut_rows(self.layout, self.place.rows, cuts)))
        cut = self.cuts[k]
        for number, starts in enumerate(row_choices(self.layout, cut, self.place.lines)[:most]):
            if (k, starts) not in self.made:
                self.made.append((k, starts))
                draft = assembled(cut, starts, self.place.box, "spaced")
                draft.usual = (k == 0, number)
                self.readings.append(Reading(self.place, draft))
        return True

    def best_cuts(self) -> list[int]:
        """The numbers of the cuts by their best reading."""
        best: dict[int, float] = {}
        for (k, _), r in zip(self.made, self.readings, strict=True):
            best[k] = max(best.get(k, -np.inf), r.gain)
        return sorted(best, key=lambda k: -best[k])


def best_draft(
    layout: PageLayout, place: Place, judge: Judge, cuts: Sequence[float] | None, method: str
) -> TableDraft:
    """Return the best reading of a place, with the columns that are given, or else with any; one column where
    nothing parts it.
    """
    choices = [list(cuts)] if cuts is not None else [*column_choices(layout, place)] or [[]]
    readings = []
    for choice in choices:
        cut = cut_rows(layout, place.rows, choice)
        for starts in row_choices(layout, cut, place.lines):
            draft = assembled(cut, starts, place.box, method)
            readings.append(Reading(place, draft))
    judged(layout, readings, judge)
    return max(readings, key=lambda r: r.gain).draft
