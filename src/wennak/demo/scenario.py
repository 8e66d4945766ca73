"""The papers of the Skerra Sound Ferry and Harbour Board: what they say, before anything is drawn.

The Board, its ports, people and figures are invented. Everything follows from one seed.
"""

from __future__ import annotations

import math
import random
from dataclasses import dataclass, field, replace

SEED = 4711
# What is written in the figure of the research note: the scales of both axes and the name of one.
FIGURE_LABELS = ("0.0", "0.5", "1.0", "1.5", "2.0", "0", "6", "12", "18", "24", "wind, m/s")
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


@dataclass(frozen=True, slots=True)
class Line:
    """A line of text: where it begins on the page (points from the top left), its size, and what it says."""

    x: float
    y: float
    size: float
    text: str


# From where to where a rule is drawn: x0, y0, x1, y1.
Rule = tuple[float, float, float, float]


@dataclass(slots=True)
class Paper:
    """A document: its parts in order. A part is a Sheet or a (style, text) pair.

    In texts, ^1^ is a raised 1 and *word* is set in italics. The text of a field is "label|value", of a check
    box "label|x" or "label|", of a formula "formula|number", of a footnote "mark|text". `look` is the paper
    whose tables look alike, itself if empty.
    """

    name: str
    title: str
    parts: list[Sheet | tuple[str, str]] = field(default_factory=list)
    look: str = ""


def cells(*texts: str) -> list[Entry]:
    """Return cells without spans."""
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
        rows.append(cells(start, end, f"{adult:.2f}", f"{adult / 2:.2f}", bicycle, f"{car:.2f}"))
    freight = [
        cells("Parcel up to 10 kg", "per piece", "3.20"),
        cells("Parcel up to 25 kg", "per piece", "5.75"),
        cells("Livestock, sheep or goats", "per head", "1.95"),
        cells("Livestock, cattle", "per head", "11.40"),
        cells("Building materials", "per tonne", "1,240.00"),
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
            Sheet("", [cells("From", "To", "Adult", "Child", "Bicycle", "Car with driver")], rows),
            ("p", "Residents of Little Skerra and Fenholm pay half of every fare on showing their card."),
            ("h2", "Freight"),
            ("p", "Freight is taken at the purser's discretion and travels at the owner's risk."),
            Sheet("", [cells("Kind", "Charged", "Crowns")], freight),
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
        cells("Weekdays", "Saturday", "Sunday", "Weekdays", "Weekend"),
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
            row = cells(pier, *times)
            if route.startswith("3"):
                # One boat serves the whole winter week.
                row = [*cells(pier, *times[:2]), Entry("no sailing"), Entry(times[3], 1, 2)]
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
        texts = [f"{date} {month}"]
        for k in range(2):
            high = 4.1 + 0.9 * spring + rng.uniform(-0.12, 0.12)
            low = 1.5 - 0.8 * spring + rng.uniform(-0.12, 0.12)
            at = int(first + k * 745)
            # A second high water past midnight belongs to the next day.
            texts += [_clock(at), f"{high:.2f}"] if at < 1440 else ["", ""]
            texts += [_clock(at + 372), f"{low:.2f}"] if at + 372 < 1440 else ["", ""]
        body.append(cells(*texts))
    columns = ["High 1", "m", "Low 1", "m", "High 2", "m", "Low 2", "m"]
    return Paper(
        "tide-table",
        "Tides at Hollinquay",
        [
            ("h1", "Tides at Hollinquay, May and June"),
            ("p", "Times are local. Heights are in metres above chart datum at the outer breakwater."),
            Sheet("Table 2: High and low water", [cells("Date", *columns)], body),
            ("p", "Strong winds from the south-west raise the water by up to half a metre."),
        ],
    )


def research() -> Paper:
    """A note in two columns with a figure, a formula, code, a quotation, a table and footnotes."""
    rng = random.Random(SEED + 3)
    rows = []
    for name, fetch in (
        ("Outer breakwater", 41.0),
        ("Oskay roads", 23.5),
        ("Tarnvoe", 12.0),
        ("Fenholm", 8.5),
    ):
        height = 0.031 * fetch + rng.uniform(0.1, 0.3)
        rows.append(cells(name, f"{fetch:.1f}", f"{height:.2f}", f"{height * 1.86:.2f}"))
    return Paper(
        "swell-note",
        "Swell at the piers of Skerra Sound",
        [
            ("h1", "Swell at the piers of Skerra Sound"),
            ("h2", "1 Purpose"),
            ("p", "The Board wishes to know on how many days of a year swell keeps its boats from coming "
                  "alongside. Pursers have noted the state of the sea since 1987,^1^ but by eye only. This note "
                  "compares their notes with a gauge that stood at four piers for one winter, and gives a rule "
                  "of thumb by which a crossing may be called off the evening before. A well-kept gauge costs "
                  "less than one day without sailings."),
            ("h2", "2 Measurements"),
            ("p", "The gauge samples the height of the surface four times a second. Heights are counted from "
                  "trough to crest, and the mean of the highest third is called the *significant height*. At the "
                  "outer breakwater the longest fetch is 41 kilometres; behind Fenholm it is less than nine."),
            ("quote", "A swell of one metre at the breakwater is felt as half a metre at Oskay and as nothing "
                      "at all at Fenholm, whatever the wind does there."),
            ("p", "So the purser Imke Tordal put it in her log of 1991, and Table 1 bears her out."),
            Sheet("Table 1: Fetch and height at four piers",
                  [cells("Pier", "Fetch, km", "Mean, m", "Top, m")], rows),
            ("h2", "3 A rule of thumb"),
            ("p", "For winds that have blown long enough, height grows with the square root of the fetch:"),
            ("formula", "H = 0.0163 u \u221aF|(1)"),
            ("p", "where u is the speed of the wind in metres a second and F the fetch in kilometres. The program "
                  "of the harbour office works it out for every pier:"),
            ("code", "for pier in piers:\n    h = 0.0163 * wind * sqrt(pier.fetch)\n    if h > pier.limit:\n"
                     "        call_off(pier)"),
            ("p", "Figure 1 shows the heights that were measured beside those of the rule. The rule is high by a "
                  "tenth in calm weather and right to within six per cent in a gale.^2^"),
            ("figure", "Figure 1: Measured heights and the rule, by speed of the wind"),
            ("h2", "4 What follows"),
            ("li", "Crossings to the outer piers are called off when the rule gives more than 1.2 m."),
            ("li", "The gauge returns to the outer breakwater every October."),
            ("li", "Pursers go on with their notes, which cost nothing."),
            ("note", "1|The logs are kept at the pier office in Hollinquay; those of 1994 are lost."),
            ("note", "2|Force 8 or more, 31 hours in all."),
        ],
    )  # fmt: skip


def manifest() -> Paper:
    """A cargo manifest on a sheet set across, with cells that run over several lines."""
    rows = [
        ("1", "Pallet, 12 sacks", "Animal feed, pelleted, in paper sacks of 25 kg", "Brannsey Growers' Union",
         "300", "Keep dry; stow away from fertiliser and from anything that smells"),
        ("2", "Crate", "Spare injectors for the auxiliary engine of the ferry Eilis Gray",
         "Skerra Sound Ferry and Harbour Board, workshop", "48", ""),
        ("3", "Drum", "Hydraulic oil, grade 46", "Tarnvoe Fish Pier Company", "205",
         "On deck only; papers for dangerous goods are with the mate"),
        ("4", "Loose", "Roof timbers, sawn, up to 6.2 m", "I. Tordal, Little Skerra", "1,140",
         "Lashed on trestles"),
        ("5", "Pallet", "Tinned goods and flour for the island shop", "Fenholm Stores", "412", ""),
        ("6", "Bag", "Mail", "Post office, Oskay", "31", "By hand to the purser"),
    ]  # fmt: skip
    total = sum(int(row[4].replace(",", "")) for row in rows)
    body = [cells(*row) for row in rows]
    body.append(cells("", "", "Total", "", f"{total:,}", ""))
    head = [cells("No.", "Packing", "Contents", "Consignee", "Mass, kg", "Remarks")]
    return Paper(
        "cargo-manifest",
        "Cargo manifest",
        [
            ("h1", "Cargo manifest, voyage 214"),
            ("p", "Hollinquay to Fenholm by way of Oskay and Tarnvoe, 3 March, sailing at 06:40."),
            Sheet("", head, body),
            ("p", "Masses are those declared by the shippers. The mate has checked lashings and labels."),
        ],
    )


def inspection() -> Paper:
    """A form with labelled fields and check boxes."""
    return Paper(
        "engine-inspection",
        "Engine inspection",
        [
            ("h1", "Engine inspection"),
            ("h2", "Vessel"),
            ("field", "Vessel:|Eilis Gray"),
            ("field", "Port engine no.:|SB-20417"),
            ("field", "Running hours:|12,408"),
            ("field", "Inspected by:|M. Havers, second engineer"),
            ("field", "Date of inspection:|14 February"),
            ("field", "Next inspection due:|"),
            ("h2", "Findings"),
            ("check", "Oil pressure within limits|x"),
            ("check", "Cooling water free of oil|x"),
            ("check", "Exhaust temperature even over all cylinders|"),
            ("check", "Belts and hoses sound|x"),
            ("check", "Emergency stop tested|"),
            ("p", "Cylinder 4 runs 35 degrees hotter than the others. The injector is to be changed before the "
                  "vessel returns to the outer route; see crate 2 of voyage 214."),
        ],
    )  # fmt: skip


def notice() -> Paper:
    """A notice in Greek, for visiting crews."""
    rows = [
        cells("Hollinquay", "2,40", "24"), cells("Oskay", "1,95", "12"), cells("Fenholm", "1,50", "6"),
    ]  # fmt: skip
    return Paper(
        "crew-notice",
        "Ανακοίνωση",
        [
            ("h1", "Ανακοίνωση προς τα πληρώματα"),
            ("p", "Τα σκάφη που επισκέπτονται τα λιμάνια μας πληρώνουν για κάθε νύχτα και κάθε μέτρο μήκους. Το "
                  "νερό και το ρεύμα περιλαμβάνονται στην τιμή."),
            Sheet("Πίνακας 1: Τέλη ελλιμενισμού", [cells("Λιμάνι", "Κορώνες ανά μέτρο", "Θέσεις")], rows),
            ("h2", "Πριν από τον απόπλου"),
            ("li", "Ενημερώστε το γραφείο του λιμανιού."),
            ("li", "Επιστρέψτε το κλειδί των ντους."),
            ("p", "Σε περίπτωση κακοκαιρίας η αναχώρηση μπορεί να καθυστερήσει."),
        ],
    )  # fmt: skip


def ledger() -> Paper:
    """Berth charges: a line for each vessel heads its charges, credits stand in parentheses, totals follow."""
    rng = random.Random(SEED + 7)
    body: list[list[Entry]] = []
    grand = 0
    for vessel in ("Gannet Rock", "Selkie", "Northern Lamp"):
        body.append(cells(vessel, "", "", ""))
        total = 0
        for day, what in zip(
            sorted(rng.sample(range(1, 31), 4)),
            ("Berth, one night", "Water, 4 t", "Shore power", "Credit for early departure"),
            strict=True,
        ):
            ore = rng.randrange(4000, 260000, 5)
            if what.startswith("Credit"):
                ore = -ore // 50 * 5
            total += ore
            body.append(cells(f"{day} April", what, str(rng.randrange(2001, 2990)), account(ore)))
        body.append(cells("Subtotal", "", "", account(total)))
        grand += total
    body.append(cells("Total", "", "", account(grand)))
    return Paper(
        "berth-ledger",
        "Berth charges, April",
        [
            ("h1", "Berth charges, April"),
            ("p", "Charges at Hollinquay, in crowns. Credits stand in parentheses. Queries go to the harbour "
                  "office before the tenth of May."),
            Sheet("Table 1: Charges by vessel", [cells("Date", "Charge", "Voucher", "Crowns")], body),
        ],
    )  # fmt: skip


def misprinted_ledger() -> Paper:
    """The copy of the ledger that hung on the wall: a worn type made a 3 of an 8 in one charge."""
    paper = ledger()
    (sheet,) = (part for part in paper.parts if isinstance(part, Sheet))
    row = next(k for k, entries in enumerate(sheet.body) if "8" in entries[3].text and entries[0].text)
    sheet.body[row][3] = replace(sheet.body[row][3], text=sheet.body[row][3].text.replace("8", "3", 1))
    return paper


def quay_rules() -> tuple[list[Line], list[Rule]]:
    """A notice as an old typesetting program wrote it: lines of text at places on the page, and rules."""
    text = [
        (18.0, "Rules of the quay"),
        (11.0, "Vessels lie at the quay at their own risk. Lines are to be doubled when the harbour"),
        (11.0, "office hoists the black ball; who leaves fenders on the wall pays for them. Fuel is sold"),
        (11.0, 'from 7 to 19 hours, ice from 5. "Keep the crane\'s swing clear" means every day.'),
        (14.0, "Charges for the use of the crane"),
    ]
    lines = []
    y = 70.0
    for size, words in text:
        y += 2 * size if size > 11 else 15
        lines.append(Line(64, y, size, words))
    rows = [
        ("Lift", "Up to, kg", "Crowns"), ("Nets and boxes", "250", "14.50"), ("Engine parts", "900", "62.75"),
        ("Small boats", "2,400", "138.00"), ("Containers", "6,000", "371.20"),
    ]  # fmt: skip
    rules: list[Rule] = []
    y += 14
    for row in rows:
        rules.append((64, y, 420, y))
        y += 18
        lines += [Line(x, y - 5, 11.0, cell) for x, cell in zip((68, 234, 344), row, strict=True)]
    rules.append((64, y, 420, y))
    lines.append(Line(64, y + 30, 11.0, "J. Quill, harbour master, Hollinquay, 9 June"))
    return lines, rules


def account(ore: int) -> str:
    """Return an amount in crowns as accounts print it: below zero in parentheses."""
    amount = f"{abs(ore) // 100:,}.{abs(ore) % 100:02d}"
    return f"({amount})" if ore < 0 else amount


def accounts() -> Paper:
    """Two years beside each other; the currency sign of a sum stands in a column of its own in print."""
    rng = random.Random(SEED + 8)
    body: list[list[Entry]] = []
    sums: list[list[int]] = []
    for title, entries in (
        ("Income", ("Passenger fares", "Vehicles and freight", "Mail contract")),
        ("Expenditure", ("Fuel", "Wages and pensions", "Repairs and docking", "Harbour dues")),
    ):
        body.append(cells(title, "", ""))
        rows = [[rng.randrange(90, 2400) for _ in range(2)] for _ in entries]
        for name, row in zip(entries, rows, strict=True):
            body.append(cells(name, *(f"{v:,}" for v in row)))
        sums.append([sum(column) for column in zip(*rows, strict=True)])
        body.append(cells(f"Total {title.lower()}", *(f"€ {v:,}" for v in sums[-1])))
    result = [a - b for a, b in zip(*sums, strict=True)]
    body.append(cells("Result for the year", *(f"€ {v:,}" if v >= 0 else f"€ ({-v:,})" for v in result)))
    return Paper(
        "yearly-accounts",
        "Accounts of the Board",
        [
            ("h1", "Accounts of the Board"),
            ("p", "In thousands. The accounts were laid before the Board at Hollinquay and found in order."),
            Sheet("Table 1: Income and expenditure", [cells("", "This year", "Last year")], body),
            ("p", "Wages include those of the crew of the night boat, which sailed from June only."),
        ],
    )  # fmt: skip


def poster() -> Paper:
    """The tables of the fares circular once more, for the wall of a pier, made with another program."""
    tables = [part for part in fares().parts if isinstance(part, Sheet)]
    return Paper("fares-poster", "Fares at a glance", [("h1", "Fares at a glance"), *tables])


PAPERS = (fares, timetable, tides, research, manifest, inspection, notice, ledger, accounts, poster)
