"""Percentages and running balances that a table carries in itself, found by what its numbers bear out."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Iterator
from itertools import combinations, pairwise, permutations

from .checks import BORNE_OUT, Numbers, numbers_of, total_rows
from .model import Check, Table
from .values import unit_of

# A relation that no header speaks of must hold in nearly every row, of at least so many.
CERTAIN = 0.9
LEAST_ROWS = 4
_BALANCE = re.compile(r"\b(balance|saldo|solde|kontostand|остаток|υπόλοιπο)\b", re.I)
_PERCENT = re.compile(r"%|\bper ?cent(age)?\b|\bprozent\b|\bpourcent\b", re.I)
# Columns farther left than this many are not tried in pairs.
_NEAR = 5
_Expected = Callable[[int], float | None]


def find_relations(table: Table, numbers: Numbers | None = None) -> list[Check]:
    """Compare columns of percentages, and running balances, with the columns that they may follow from.

    A column is of percentages where its header or its values say so. It may be the change between two columns
    left of it, one as a share of another, or the share of each row in a total. A balance is the one before it
    and what was put in less what was taken out. The relation that holds in most rows counts; where a header
    speaks of it, rows in which it fails are failed checks, else nearly all have to hold. `numbers` are those
    of the table, where they are known already.
    """
    if table.header_rows >= table.rows:
        return []
    numbers = numbers or numbers_of(table)
    labels = table.header_labels() if table.header_rows else [""] * table.columns
    totals = set(total_rows(table))
    body = [r for r in range(table.header_rows, table.rows) if r not in totals]
    out: list[Check] = []
    for c in range(table.columns):
        left = [k for k in range(c) if any(v is not None for v in numbers[k])][-_NEAR:]
        if not left or not any(v is not None for v in numbers[c]):
            continue
        if _is_percent(table, c, labels[c]):
            rows = [*body, *sorted(totals)]
            ways = _percentages(numbers, left, body, totals)
            out += _best("percentage", numbers, c, rows, ways, BORNE_OUT, 3)
        else:
            named = _BALANCE.search(labels[c]) is not None
            share, least = (BORNE_OUT, 3) if named else (CERTAIN, LEAST_ROWS)
            out += _best("balance", numbers, c, body[1:], _balances(numbers, c, left, body), share, least)
    return out


def _is_percent(table: Table, column: int, label: str) -> bool:
    if _PERCENT.search(label):
        return True
    texts = [c.text for c in table.cells if c.column == column and c.row >= table.header_rows and c.text]
    return bool(texts) and 2 * sum(unit_of(text) == "%" for text in texts) > len(texts)


def _percentages(
    numbers: Numbers, left: list[int], body: list[int], totals: Iterable[int]
) -> Iterator[_Expected]:
    for a, b in permutations(left, 2):
        yield lambda r, a=a, b=b: _ratio(numbers, r, a, b, change=True)  # type: ignore[misc]
        yield lambda r, a=a, b=b: _ratio(numbers, r, a, b, change=False)  # type: ignore[misc]
    for a in left:
        wholes = [v[0] for r in totals if (v := numbers[a][r]) is not None]
        wholes.append(sum(v[0] for r in body if (v := numbers[a][r]) is not None))
        for whole in dict.fromkeys(wholes):
            if whole:
                yield lambda r, a=a, whole=whole: _part(numbers, r, a, whole)  # type: ignore[misc]


def _ratio(numbers: Numbers, row: int, a: int, b: int, change: bool) -> float | None:
    """One number in per cent of another in its row, or the change from the other to it."""
    one, other = numbers[a][row], numbers[b][row]
    if one is None or other is None or not other[0]:
        return None
    return (one[0] - other[0]) / abs(other[0]) * 100 if change else one[0] / other[0] * 100


def _part(numbers: Numbers, row: int, a: int, whole: float) -> float | None:
    one = numbers[a][row]
    return one[0] / whole * 100 if one is not None else None


def _balances(numbers: Numbers, c: int, left: list[int], body: list[int]) -> Iterator[_Expected]:
    before = {r: numbers[c][p] for p, r in pairwise(body)}
    signed = [[(k, 1)] for k in left] + [[(k, -1)] for k in left]
    signed += [[(a, s), (b, -s)] for a, b in combinations(left, 2) for s in (1, -1)]
    for parts in signed:

        def expected(r: int, parts: list[tuple[int, int]] = parts) -> float | None:
            last = before.get(r)
            moved = [v[0] * sign for k, sign in parts if (v := numbers[k][r]) is not None]
            return last[0] + sum(moved) if last is not None and moved else None

        yield expected


def _best(
    kind: str, numbers: Numbers, column: int, rows: list[int], ways: Iterable[_Expected], share: float,
    least: int,
) -> list[Check]:  # fmt: skip
    """The checks of the way that holds in most rows, where it holds in enough of them."""
    best: list[Check] = []
    for way in ways:
        found = []
        for r in rows:
            printed, expected = numbers[column][r], way(r)
            if printed is None or expected is None:
                continue
            room = 0.5 * 10.0 ** -printed[1] * (1.02 if kind == "percentage" else 0.01)
            passed = abs(expected - printed[0]) <= room
            told = round(expected, max(printed[1], 2) if kind == "percentage" else 6)
            found.append(Check(kind, r, column, told, printed[0], passed))  # type: ignore[arg-type]
        best = max(best, found, key=lambda checks: sum(check.passed for check in checks))
    # A zero that follows from a zero shows nothing.
    telling = sum(check.passed and bool(check.expected) for check in best)
    return best if telling >= least and telling >= share * len(best) else []
