"""Arithmetic that a table carries in itself: totals against rows and columns, changes against years."""

from __future__ import annotations

import re
from collections import Counter
from typing import Literal

from .model import Cell, Check, Table
from .values import typed_column

_TOTAL = re.compile(
    r"\b(sub)?totals?\b|\bsumme\b|\binsgesamt\b|\bsomme\b|\btotale?\b|^sum\b|\bитого\b|\bσύνολο\b", re.I
)
_CHANGE = re.compile(
    r"\b(change|difference|increase|decrease|veränderung|differenz|variation|écart|изменение)\b|[Δ±]|\+/-",
    re.I,
)
_TAIL = re.compile(r"[.,](\d+)\D*$")
# A column is a sum or a difference of others where this share of its rows bears it out.
BORNE_OUT = 0.6
# A total is nearly a sum where it is off by no more than this share of it.
NEARLY = 0.01
# Sums of rounded numbers may be off by half a unit of the last place for each of them.
_HALF = 0.5
# By column and row: a number and its decimal places, None for no number.
Numbers = list[list[tuple[float, int] | None]]


def is_total(text: str) -> bool:
    """Return whether a label speaks of a total."""
    return _TOTAL.search(text) is not None


def total_rows(table: Table) -> list[int]:
    """Return the rows below the header whose label, or first text, speaks of a total."""
    first: dict[int, Cell] = {}
    for cell in table.cells:
        own = cell.row >= table.header_rows and cell.text
        if own and (cell.row not in first or cell.column < first[cell.row].column):
            first[cell.row] = cell
    return [row for row, cell in sorted(first.items()) if is_total(cell.text)]


def find_checks(table: Table, numbers: Numbers | None = None) -> list[Check]:
    """Compare the totals of a table with the sums of the rows they may stand for.

    A total may sum the rows since the total before it, all rows above that are no totals, or the totals
    above. The reading that holds for most columns is the one that counts; columns where it fails are failed
    checks. A total that no reading fits in any column is judged as those with the same label are, if that
    fits at least two of them, or, where other totals come out, by a reading that it is near; if not, it may
    sum something else, and is not judged. Columns whose header
    speaks of a total or of a change are compared likewise with the columns left of them. `numbers` are those
    of the table, where they are known already.
    """
    totals = total_rows(table)
    labels = table.header_labels() if table.header_rows else []
    across = [c for c, label in enumerate(labels) if _TOTAL.search(label) or _CHANGE.search(label)]
    if not totals and not across:
        return []
    numbers = numbers or numbers_of(table)
    out = [check for c in across for check in _column_checks(table, numbers, c, labels)]
    label = {c.row: c.text.casefold() for c in table.cells if c.column == 0}
    fitting: Counter[tuple[str, int]] = Counter()
    unfitted: list[tuple[int, list[list[Check]]]] = []
    for k, row in enumerate(totals):
        since = totals[k - 1] + 1 if k else table.header_rows
        candidates = (
            list(range(since, row)),
            [r for r in range(table.header_rows, row) if r not in totals],
            totals[:k],
        )
        readings = [_compare(numbers, rows, row) if len(rows) > 1 else [] for rows in candidates]
        best = max(range(len(readings)), key=lambda k: _passed(readings[k]))
        if _passed(readings[best]):
            out += readings[best]
            fitting[label.get(row, ""), best] += 1
        else:
            unfitted.append((row, readings))
    for row, readings in unfitted:
        alike = [reading for k, reading in enumerate(readings) if fitting[label.get(row, ""), k] > 1]
        # Where other totals come out, one that is nearly a sum is a sum with a mistake.
        near = [r for r in readings if fitting and r and all(_is_slip(check, numbers) for check in r)]
        out += next(iter(alike or near), [])
    return sorted(out, key=lambda check: (check.row, check.column))


def _is_slip(check: Check, numbers: Numbers) -> bool:
    """Whether a total is nearly what it should be, but farther off than rounding its terms can explain."""
    printed = numbers[check.column][check.row]
    terms = sum(v is not None for v in numbers[check.column][: check.row])
    off = abs(check.expected - check.printed)
    rounding = _HALF * terms * 10.0 ** -(printed[1] if printed else 0)
    return rounding < off <= NEARLY * abs(check.expected)


def said_of(check: Check) -> str:
    """Return in words what a failed check found."""
    where = {
        "sum": "the rows above sum to", "row sum": "the columns left of it sum to",
        "difference": "the two columns before it differ by",
        "percentage": "the columns left of it give", "balance": "the balance before and its row give",
    }[check.kind]  # fmt: skip
    return f"{check.printed:.12g} is printed, {where} {check.expected:.12g}"


def _column_checks(table: Table, numbers: Numbers, column: int, labels: list[str]) -> list[Check]:
    """Checks of a column of totals or changes, row by row, against the columns that it may be made of."""
    left = [c for c in range(column) if any(v is not None for v in numbers[c])]
    body = range(table.header_rows, table.rows)
    if _TOTAL.search(labels[column]):
        last = max((c for c in left if _TOTAL.search(labels[c])), default=-1)
        signed = [[(c, 1) for c in left if c > last], [(c, 1) for c in left if not _TOTAL.search(labels[c])]]
        kind: Literal["row sum", "difference"] = "row sum"
    else:
        pairs = [(left[-2], left[-1])] if len(left) > 1 else []
        signed = [[(a, 1), (b, -1)] for p in pairs for a, b in (p, p[::-1])]
        kind = "difference"
    best: list[Check] = []
    for parts in signed:
        found = []
        for r in body if len(parts) > 1 else ():
            printed = numbers[column][r]
            terms = [(v, sign) for c, sign in parts if (v := numbers[c][r]) is not None]
            if printed is None or len(terms) < 2 or len(terms) < len(parts) * (kind == "difference"):
                continue
            expected, passed = _adds_up([(v * sign, p) for (v, p), sign in terms], printed)
            found.append(Check(kind, r, column, expected, printed[0], passed))
        best = max(best, found, key=_passed)
    return best if len(best) > 1 and _passed(best) >= BORNE_OUT * len(best) else []


def _adds_up(parts: list[tuple[float, int]], printed: tuple[float, int]) -> tuple[float, bool]:
    """What numbers, each with its decimal places, sum to, and whether that is what is printed."""
    places = max(p for _, p in [printed, *parts])
    expected = round(sum(value for value, _ in parts), places)
    room = _HALF * len(parts) * 10.0**-places if places else 0.0
    return expected, abs(expected - printed[0]) <= room + 1e-9


def _passed(checks: list[Check]) -> int:
    return sum(check.passed for check in checks)


def _compare(numbers: Numbers, rows: list[int], total: int) -> list[Check]:
    """Checks of one total against the sums of some rows, in each column that holds numbers there."""
    out = []
    for column, values in enumerate(numbers):
        printed = values[total]
        parts = [value for r in rows if (value := values[r]) is not None]
        if printed is None or len(parts) < 2:
            continue
        expected, passed = _adds_up(parts, printed)
        out.append(Check("sum", total, column, expected, printed[0], passed))
    return out


def numbers_of(table: Table) -> Numbers:
    """Of each column, the number in each row and its decimal places; None where there is none."""
    texts = [[""] * table.rows for _ in range(table.columns)]
    for cell in table.cells:
        if cell.row >= table.header_rows and cell.colspan == 1:
            texts[cell.column][cell.row] = cell.shown
    out: Numbers = []
    for column in texts:
        values = typed_column(column)
        kept = values.values if values.kind == "number" else [None] * table.rows
        out.append(
            [
                (float(v), decimal_places(text)) if isinstance(v, float) else None
                for v, text in zip(kept, column, strict=True)
            ]
        )
    return out


def decimal_places(text: str) -> int:
    """Return how many digits of a number stand after its point."""
    tail = _TAIL.search(text)
    return len(tail[1]) if tail and len(tail[1]) != 3 else 0
