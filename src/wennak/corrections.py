"""Misread characters that a sum proves: one doubtful cell, one confusion, and the sum comes out."""

from __future__ import annotations

import dataclasses
import re
from collections.abc import Iterator
from dataclasses import dataclass

from .checks import decimal_places, find_checks
from .model import DOUBTFUL, Cell, Check, Table

# What is taken for each other where print is poor.
CONFUSED = {
    "0": "689", "1": "47", "2": "7", "3": "589", "4": "19", "5": "3689", "6": "058", "7": "12", "8": "03569",
    "9": "03458", "O": "0", "o": "0", "S": "5", "l": "1", "I": "1", "|": "1", "B": "8", "Z": "2",
}  # fmt: skip
DIGITS = "0123456789"
# A cell that a sum proves is as sure as this.
PROVEN = 0.9
# What a sum lacks may differ from the change of a digit by this share, from rounding.
ROUNDING = 0.1
# No more changes than this are tried on a table.
MOST_TRIES = 300


@dataclass(frozen=True, slots=True)
class Correction:
    """What was read in a cell of a table, and what sums prove it to be."""

    cell: Cell
    read: str


def correct(table: Table) -> list[Correction]:
    """Change doubtful cells of a table of which exactly one change of one character makes a sum come out.

    A change counts that makes a failed check pass and none fail. Where several would do, in whatever cells,
    none is made: the sum may be misprinted.
    """
    out: list[Correction] = []
    tries = MOST_TRIES
    checks = find_checks(table)
    while failed := [check for check in checks if not check.passed]:
        proofs: dict[tuple[int, int], list[tuple[int, str, list[Check]]]] = {}
        for k, cell in enumerate(table.cells):
            if cell.header or not _concerned(cell, failed):
                continue
            for text, change in _misread(cell.text, cell.confidence < DOUBTFUL):
                if change is not None and not any(_fills(change, check) for check in failed):
                    continue
                tries -= 1
                if tries < 0:
                    return out
                changed = find_checks(_with(table, k, text))
                for check in _mended(checks, changed):
                    proofs.setdefault((check.row, check.column), []).append((k, text, changed))
        certain = [
            found[0]
            for found in proofs.values()
            if len(found) == 1 and _is_likely(table.cells[found[0][0]], found[0][1])
        ]
        if not certain:
            return out
        k, text, checks = certain[0]
        cell = table.cells[k]
        out.append(Correction(cell, cell.text))
        cell.text, cell.confidence = text, PROVEN
    return out


def _concerned(cell: Cell, failed: list[Check]) -> bool:
    """Whether a cell is part of a sum that does not come out."""
    return any(
        check.column == cell.column if check.kind == "sum" else check.row == cell.row for check in failed
    )


def _is_likely(cell: Cell, text: str) -> bool:
    """Whether a cell may be changed into a text: it is in doubt, and such texts are taken for each other."""
    return cell.confidence < DOUBTFUL and text in {likely for likely, _ in _misread(cell.text, False)}


def _misread(text: str, doubted: bool) -> Iterator[tuple[str, float | None]]:
    """What may have been printed where a text was read, one character another or a point more; and by how
    much that changes the number, where it is only a digit. What is `doubted` may be any other digit.
    """
    places = decimal_places(text)
    for k, char in enumerate(text):
        any_digit = DIGITS.replace(char, "") if doubted and char in DIGITS else ""
        for other in any_digit or CONFUSED.get(char, ""):
            after = sum(c.isdigit() for c in text[k + 1 :])
            change = (int(other) - int(char)) * 10.0 ** (after - places) if char.isdigit() else None
            yield text[:k] + other + text[k + 1 :], change
    if re.fullmatch(r"\W*\d{3,}\W*", text):
        last = max(k for k, char in enumerate(text) if char.isdigit()) + 1
        yield f"{text[: last - 2]}.{text[last - 2 :]}", None


def _fills(change: float, check: Check) -> bool:
    """Whether a change is as large as what a check lacks, give or take what rounding leaves."""
    lacks = abs(check.expected - check.printed)
    return abs(abs(change) - lacks) <= ROUNDING * abs(change)


def _with(table: Table, cell: int, text: str) -> Table:
    cells = list(table.cells)
    cells[cell] = dataclasses.replace(cells[cell], text=text)
    return dataclasses.replace(table, cells=cells)


def _mended(before: list[Check], after: list[Check]) -> list[Check]:
    """The checks that failed and pass after a change; none where any fails that did not."""
    failed_before, failed_after = (
        {(c.kind, c.row, c.column) for c in checks if not c.passed} for checks in (before, after)
    )
    passed_before, passed_after = (
        {(c.kind, c.row, c.column) for c in checks if c.passed} for checks in (before, after)
    )
    if failed_after - failed_before or passed_before - passed_after:
        return []
    return [c for c in before if not c.passed and (c.kind, c.row, c.column) in passed_after]
