"""Papers that come again and again: a year of ledgers, and inspections written on several forms.

In June the Board called a column otherwise, in September it parted one in two, and in November a total was
misprinted.
"""

from __future__ import annotations

import random
from dataclasses import dataclass

from .scenario import SEED, Entry, Paper, Sheet, account, cells

YEAR = 2031
MONTHS = ("January", "February", "March", "April", "May", "June", "July", "August", "September", "October",
          "November", "December")  # fmt: skip
RENAMED, PARTED, MISPRINTED = "June", "September", "November"
VESSELS = ("Gannet Rock", "Selkie", "Northern Lamp", "Eilis Gray", "Fulmar", "Brannsey Lass", "Tidewright")
CHARGES = ("Berth, one night", "Berth, three nights", "Water, 4 t", "Shore power", "Crane, per lift",
           "Waste, 1 m³", "Pilot to the roads")  # fmt: skip


@dataclass(frozen=True, slots=True)
class Charge:
    """A line of a ledger; `ore` is the amount, in hundredths of a crown."""

    vessel: str
    day: int
    what: str
    voucher: int
    ore: int


def charges(month: str) -> list[Charge]:
    """Return what was charged in a month, vessel by vessel."""
    rng = random.Random(f"{SEED} ledger {month}")
    out = []
    vouchers = iter(rng.sample(range(2000, 9800), 60))
    for vessel in rng.sample(VESSELS, rng.randrange(3, 7)):
        days = sorted(rng.sample(range(1, 29), rng.randrange(2, 7)))
        out += [
            Charge(vessel, day, rng.choice(CHARGES), next(vouchers), rng.randrange(4000, 260000, 5))
            for day in days
        ]
        if rng.random() < 0.6:
            credit = -rng.randrange(2000, 30000, 5)
            out.append(Charge(vessel, days[-1], "Credit for early departure", next(vouchers), credit))
    return out


def ledgers() -> list[Paper]:
    """Twelve ledgers, a month each."""
    return [_ledger(month) for month in MONTHS]


def _ledger(month: str) -> Paper:
    found = charges(month)
    parted = month == PARTED
    body: list[list[Entry]] = []

    def amounts(ore: int) -> list[str]:
        if not parted:
            return [account(ore)]
        return [account(ore), ""] if ore >= 0 else ["", account(-ore)]

    for vessel in dict.fromkeys(charge.vessel for charge in found):
        own = [charge for charge in found if charge.vessel == vessel]
        body.append(cells(vessel, "", "", *([""] * len(amounts(0)))))
        body += [cells(f"{c.day} {month}", c.what, str(c.voucher), *amounts(c.ore)) for c in own]
        body.append(cells("Subtotal", "", "", *amounts(sum(c.ore for c in own))))
    total = sum(c.ore for c in found)
    if month == MISPRINTED:
        total += 90_00
    body.append(cells("Total", "", "", *amounts(total)))
    names = ["Charged", "Credited"] if parted else ["Amount, crowns" if month == RENAMED else "Crowns"]
    number = MONTHS.index(month) + 1
    return Paper(
        f"berth-charges-{YEAR}-{number:02}",
        f"Berth charges, {month} {YEAR}",
        [
            ("h1", f"Berth charges, {month} {YEAR}"),
            ("p", "Charges at Hollinquay, in crowns. Credits stand in parentheses. Queries go to the harbour "
                  "office before the tenth of the next month."),
            Sheet("Table 1: Charges by vessel", [cells("Date", "Charge", "Voucher", *names)], body),
        ],
        "berth-charges",
    )  # fmt: skip


def card() -> Paper:
    """An inspection on a card: labels and values in the boxes of a table."""
    rows = [
        cells("Vessel", "Selkie", "Engine number", "SB-20433"),
        cells("Running hours", "9,871", "Inspector", "T. Orrin"),
        cells("Inspected on", "3 March 2031", "Next inspection", "1 September 2031"),
    ]
    return Paper(
        "inspection-card", "Inspection card",
        [("h1", "Inspection card"), Sheet("", [], rows),
         ("p", "Keep this card with the engine log. The shop at Oskay returns it with the next delivery.")],
    )  # fmt: skip


def letter() -> Paper:
    """An inspection as a letter: lines of text, then readings by cylinder."""
    rng = random.Random(f"{SEED} letter")
    readings = [
        cells(str(k), str(rng.randrange(378, 412)), f"{rng.randrange(285, 320) / 10:.1f}")
        for k in range(1, 7)
    ]
    return Paper(
        "inspection-letter", "Report on the main engine",
        [
            ("h1", "Report on the main engine"),
            ("p", "Name of vessel: Northern Lamp"),
            ("p", "Engine no.: SB-20390"),
            ("p", "Hours run: 15,260"),
            ("p", "Inspected by: A. Nilson, surveyor"),
            ("p", "Date of inspection: 22 May 2031"),
            ("p", "The readings below were taken at full load, an hour out. Cylinder 3 is to be cleaned."),
            Sheet("Table 1: Readings at full load",
                  [cells("Cylinder", "Exhaust temperature, °C", "Pressure, bar")], readings),
        ],
    )  # fmt: skip


def slip() -> Paper:
    """An inspection on a slip: fields over lines, named otherwise; the number is not filled in."""
    return Paper(
        "inspection-slip", "Engine room slip",
        [
            ("h1", "Engine room slip"),
            ("field", "Ship's name:|Gannet Rock"),
            ("field", "Engine serial no.:|"),
            ("field", "Checked by:|R. Tveit"),
            ("field", "Checked on:|9 April 2031"),
            ("field", "Hours on counter:|4,455"),
            ("field", "Next check due:|9 October 2031"),
            ("check", "Emergency stop tested|x"),
            ("check", "Belts and hoses sound|"),
        ],
    )  # fmt: skip


FORMS = (card, letter, slip)
