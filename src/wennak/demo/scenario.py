"""The papers of the Skerra Sound Ferry and Harbour Board: what they say, before anything is drawn.

The Board, its ports, people and figures are invented. Everything follows from one seed.
"""

from __future__ import annotations

import math
import random
from dataclasses import dataclass, field

SEED = 4711
BOARD = "Skerra Sound Ferry and Harbour Board"


@dataclass(frozen=True, slots=True)
class Entry:
    """A cell of a table: its text and how many rows and columns it spans."""

    text: str
    rowspan: int = 1
    colspan: int = 1


@dataclass(slots=True)
class Sheet:
    """A table: rows of cells, where positions covered by a span are left out, as in HTML."""

    caption: str
    head: list[list[Entry]]
    body: list[list[Entry]]


@dataclass(slots=True)
class Paper:
    """A document: its parts in order. A part is a Sheet or a (style, text) pair."""

    name: str
    title: str
    parts: list[Sheet | tuple[str, str]] = field(default_factory=list)


def _cells(*texts: str) -> list[Entry]:
    return [Entry(t) for t in texts]


def fares() -> Paper:
    """A circular with two tables that are set without lines."""
    rng = random.Random(SEED)
    routes = [
        ("Hollinquay", "Oskay"), ("Hollinquay", "Brannsey"), ("Hollinquay", "Little Skerra"),
        ("Oskay", "Brannsey"), ("Oskay", "Tarnvoe"), ("Brannsey", "Tarnvoe"), ("Tarnvoe", "Fenholm"),
    ]  # fmt: skip
    rows = []
    for start, end in routes:
        adult = rng.randrange(420, 1480, 10) / 100
        car = adult * 3.5 + rng.randrange(0, 90, 10) / 100
        bicycle = "free" if adult < 7 else f"{adult * 0.25:.2f}"
        rows.append(_cells(start, end, f"{adult:.2f}", f"{adult / 2:.2f}", bicycle, f"{car:.2f}"))
    freight = [
        _cells("Parcel up to 10 kg", "per piece", "3.20"),
        _cells("Parcel up to 25 kg", "per piece", "5.75"),
        _cells("Livestock, sheep or goats", "per head", "1.95"),
        _cells("Livestock, cattle", "per head", "11.40"),
        _cells("Building materials", "per tonne", "1,240.00"),
    ]
    return Paper(
        "fares-circular",
        "Fares from 1 April",
        [
            ("h1", "Fares from 1 April"),
            ("p", "To all piers, agents and pursers. The fares below take the place of Circular 14 of last "
                  "year. They hold on every sailing of the Board, in both directions, until further notice."),
            ("h2", "Passengers and vehicles"),
            ("p", "All fares are single and in crowns. Children under five travel free with an adult."),
            Sheet("", [_cells("From", "To", "Adult", "Child", "Bicycle", "Car with driver")], rows),
            ("p", "Residents of Little Skerra and Fenholm pay half of every fare on showing their card."),
            ("h2", "Freight"),
            ("p", "Freight is taken at the purser's discretion and travels at the owner's risk."),
            Sheet("", [_cells("Kind", "Charged", "Crowns")], freight),
            ("h2", "What to tell passengers"),
            ("li", "Tickets bought before 1 April stay valid for thirty days."),
            ("li", "Vehicles over 5.5 m need a berth booked the day before."),
            ("li", "In winter the last sailing from Tarnvoe may be cancelled at short notice."),
        ],
    )  # fmt: skip


def timetable() -> Paper:
    """A leaflet whose table has lines, a header of two levels, and spans."""
    rng = random.Random(SEED + 1)
    head = [
        [Entry("Route", 2), Entry("Pier", 2), Entry("Summer", 1, 3), Entry("Winter", 1, 2)],
        _cells("Weekdays", "Saturday", "Sunday", "Weekdays", "Weekend"),
    ]
    body = []
    for route, piers in (
        ("1 North Sound", ["Hollinquay", "Oskay", "Brannsey"]),
        ("2 Outer Isles", ["Oskay", "Tarnvoe", "Fenholm", "Little Skerra"]),
        ("3 Night boat", ["Hollinquay", "Fenholm"]),
    ):
        starts = [rng.randrange(360, 540, 5) for _ in range(5)]
        if route.startswith("3"):
            starts = [s + 780 for s in starts]
        for stop, pier in enumerate(piers):
            times = [_clock(s + stop * (35 + 5 * stop)) for s in starts]
            row = _cells(pier, *times)
            if route.startswith("3"):
                # One boat serves the whole winter week.
                row = [*_cells(pier, *times[:2]), Entry("no sailing"), Entry(times[3], 1, 2)]
            body.append([Entry(route, len(piers)), *row] if stop == 0 else row)
    return Paper(
        "timetable",
        "Sailing times",
        [
            ("h1", "Sailing times"),
            ("p", "Summer runs from the first Monday of June to the last Sunday of August. Please be at the "
                  "pier ten minutes before departure; vehicles twenty."),
            Sheet("Table 1: Departures from each pier", head, body),
            ("p", "The night boat carries no vehicles over 3.5 t. Berths are booked at the pier office."),
        ],
    )  # fmt: skip


def _clock(minutes: int) -> str:
    return f"{minutes // 60 % 24:02d}:{minutes % 60:02d}"


def tides() -> Paper:
    """A tide table that runs over two pages and repeats its header."""
    rng = random.Random(SEED + 2)
    body = []
    for day in range(61):
        month, date = ("May", day + 1) if day < 31 else ("June", day - 30)
        spring = math.cos(2 * math.pi * (day - 4) / 14.77)
        first = (95 + day * 50.5) % 745
        cells = [f"{date} {month}"]
        for k in range(2):
            high = 4.1 + 0.9 * spring + rng.uniform(-0.12, 0.12)
            low = 1.5 - 0.8 * spring + rng.uniform(-0.12, 0.12)
            at = int(first + k * 745)
            # A second high water past midnight belongs to the next day.
            cells += [_clock(at), f"{high:.2f}"] if at < 1440 else ["", ""]
            cells += [_clock(at + 372), f"{low:.2f}"] if at + 372 < 1440 else ["", ""]
        body.append(_cells(*cells))
    columns = ["High 1", "m", "Low 1", "m", "High 2", "m", "Low 2", "m"]
    return Paper(
        "tide-table",
        "Tides at Hollinquay",
        [
            ("h1", "Tides at Hollinquay, May and June"),
            ("p", "Times are local. Heights are in metres above chart datum at the outer breakwater."),
            Sheet("Table 2: High and low water", [_cells("Date", *columns)], body),
            ("p", "Strong winds from the south-west raise the water by up to half a metre."),
        ],
    )


PAPERS = (fares, timetable, tides)
