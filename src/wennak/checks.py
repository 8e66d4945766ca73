"""Arithmetic that a table carries in itself: totals against the rows above them."""

from __future__ import annotations

import re

from .model import Check, Table
from .values import typed_column

_TOTAL = re.compile(
    r"\b(sub)?totals?\b|\bsumme\b|\binsgesamt\b|\bsomme\b|\btotale?\b|^sum\b|\bитого\b|\bσύνολο\b", re.I
)
# Sums of rounded numbers may be off by half a unit of the last place for each of them.
_HALF = 0.5


def total_rows(table: Table) -> list[int]:
    """Return the rows below the header whose label, or first text, speaks of a total."""
    first: dict[int, str] = {}
    for cell in sorted(table.cells, key=lambda c: (c.row, c.column)):
        if cell.row >= table.header_rows and cell.text and cell.row not in first:
            first[cell.row] = cell.text
    return [row for row, text in sorted(first.items()) if _TOTAL.search(text)]


def find_checks(table: Table) -> list[Check]:
    """Compare the totals of a table with the sums of the rows they may stand for.

    A total may sum the rows since the total before it, all rows above that are no totals, or the totals
    above. The reading that holds for most columns is the one that counts; columns where it fails are failed
    checks. A total that no reading fits in any column is not judged: it may sum something else.
    """
    totals = total_rows(table)
    if not totals:
        return []
    numbers = _numbers(table)
    out: list[Check] = []
    for k, row in enumerate(totals):
        since = totals[k - 1] + 1 if k else table.header_rows
        candidates = (
            list(range(since, row)),
            [r for r in range(table.header_rows, row) if r not in totals],
            totals[:k],
        )
        best = max(
            (_compare(numbers, rows, row) for rows in candidates if len(rows) > 1), key=_passed, default=[]
        )
        if _passed(best):
            out += best
    return out


def _passed(checks: list[Check]) -> int:
    return sum(check.passed for check in checks)


def _compare(numbers: list[list[tuple[float, int] | None]], rows: list[int], total: int) -> list[Check]:
    """Checks of one total against the sums of some rows, in each column that holds numbers there."""
    out = []
    for column, values in enumerate(numbers):
        printed = values[total]
        parts = [value for r in rows if (value := values[r]) is not None]
        if printed is None or len(parts) < 2:
            continue
        places = max(p for _, p in [printed, *parts])
        expected = round(sum(value for value, _ in parts), places)
        room = _HALF * len(parts) * 10.0**-places if places else 0.0
        passed = abs(expected - printed[0]) <= room + 1e-9
        out.append(Check("sum", total, column, expected, printed[0], passed))
    return out


def _numbers(table: Table) -> list[list[tuple[float, int] | None]]:
    """Of each column, the number in each row and its decimal places; None where there is none."""
    texts = [[""] * table.rows for _ in range(table.columns)]
    for cell in table.cells:
        if cell.row >= table.header_rows and cell.colspan == 1:
            texts[cell.column][cell.row] = cell.text
    out: list[list[tuple[float, int] | None]] = []
    for column in texts:
        values = typed_column(column)
        kept = values.values if values.kind == "number" else [None] * table.rows
        out.append(
            [
                (float(v), _places(text)) if isinstance(v, float) else None
                for v, text in zip(kept, column, strict=True)
            ]
        )
    return out


def _places(text: str) -> int:
    tail = re.search(r"[.,](\d+)\D*$", text)
    return len(tail[1]) if tail and len(tail[1]) != 3 else 0
