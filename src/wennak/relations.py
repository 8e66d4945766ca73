"""Percentages and running balances that a table carries in itself, found by what its numbers bear out."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Sequence
from itertools import combinations, permutations
from typing import Literal

import numpy as np
import numpy.typing as npt

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
Floats = npt.NDArray[np.float64]


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
    values = np.array([[np.nan if v is None else v[0] for v in column] for column in numbers])
    known = ~np.isnan(values)
    labels = table.header_labels() if table.header_rows else [""] * table.columns
    totals = sorted(set(total_rows(table)))
    body = [r for r in range(table.header_rows, table.rows) if r not in totals]
    out: list[Check] = []
    texts = _texts(table)
    for c in range(table.columns):
        left = np.flatnonzero(known[:c].any(axis=1))[-_NEAR:].tolist()
        if not left or not known[c].any():
            continue
        if _is_percent(texts[c], labels[c]):
            ways = _percentages(values, left, body, totals)
            out += _best("percentage", numbers, c, [*body, *totals], ways, BORNE_OUT, 3)
        else:
            named = _BALANCE.search(labels[c]) is not None
            share, least = (BORNE_OUT, 3) if named else (CERTAIN, LEAST_ROWS)
            out += _best("balance", numbers, c, body[1:], _balances(values, c, left, body), share, least)
    return out


def _texts(table: Table) -> list[list[str]]:
    """The texts that begin in each column below the header."""
    out: list[list[str]] = [[] for _ in range(table.columns)]
    for c in table.cells:
        if c.row >= table.header_rows and c.text:
            out[c.column].append(c.text)
    return out


def _is_percent(texts: Sequence[str], label: str) -> bool:
    if _PERCENT.search(label):
        return True
    return bool(texts) and 2 * sum(unit_of(text) == "%" for text in texts) > len(texts)


def _percentages(values: Floats, left: list[int], body: list[int], totals: list[int]) -> Iterator[Floats]:
    """What numbers left of percentages make them, in the rows of the body and those of totals behind them:
    changes and shares of columns in per cent of each other, and shares in totals.
    """
    own = values[:, [*body, *totals]]
    with np.errstate(divide="ignore", invalid="ignore"):
        for a, b in permutations(left, 2):
            other = np.where(own[b] == 0, np.nan, own[b])
            yield (own[a] - other) / np.abs(other) * 100
            yield own[a] / other * 100
        for a in left:
            wholes = [v for v in values[a, totals].tolist() if v == v]
            wholes.append(sum(v for v in values[a, body].tolist() if v == v))
            for whole in dict.fromkeys(wholes):
                if whole:
                    yield own[a] / whole * 100


def _balances(values: Floats, column: int, left: list[int], body: list[int]) -> Floats:
    """What numbers left of balances make them, in all rows of the body but the first, by each way: what
    is put in, taken out, or both (ways, rows).
    """
    before, own = values[column, body[:-1]], values[left][:, body[1:]]
    moved, known = np.nan_to_num(own), ~np.isnan(own)
    a, b = np.array([*combinations(range(len(left)), 2)], dtype=np.int64).reshape(-1, 2).T
    both = np.where(known[a] | known[b], moved[a] - moved[b], np.nan)
    one = np.where(known, moved, np.nan)
    out: Floats = np.concatenate(
        (before + one, before - one, *np.stack((before + both, before - both), axis=1))
    )
    return out


def _best(
    kind: Literal["percentage", "balance"], numbers: Numbers, column: int, rows: list[int],
    ways: Iterable[Floats], share: float, least: int,
) -> list[Check]:  # fmt: skip
    """The checks of the way that holds in most rows, where it holds in enough of them."""
    if len(rows) < least:
        return []
    shown = [numbers[column][r] for r in rows]
    slack = 1.02 if kind == "percentage" else 0.01
    printed = np.array([np.nan if v is None else v[0] for v in shown])
    room = np.array([np.nan if v is None else 0.5 * 10.0 ** -v[1] * slack for v in shown])
    told = np.array([*ways]).reshape(-1, len(rows))
    borne = (np.abs(told - printed) <= room).sum(axis=1)
    if borne.max(initial=0) < least:
        return []
    best = told[borne.argmax()]
    checks = []
    for r, value, expected, near in zip(rows, shown, best.tolist(), room.tolist(), strict=True):
        if value is None or np.isnan(expected):
            continue
        places = max(value[1], 2) if kind == "percentage" else 6
        passed = abs(expected - value[0]) <= near
        checks.append(Check(kind, r, column, round(expected, places), value[0], passed))
    # A zero that follows from a zero shows nothing.
    telling = sum(check.passed and bool(check.expected) for check in checks)
    return checks if telling >= least and telling >= share * len(checks) else []
