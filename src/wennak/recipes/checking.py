"""What must hold of the data, and whether it does."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from decimal import Decimal
from typing import Protocol

from .formula import Formula, FormulaError, Operation, Scope, Value, read_formula
from .model import AddsUp, Allowed, Check, Count, Matching
from .rows import Row

# So many rows that break a check are named.
NAMED = 3


class Line(Protocol):
    """A row of the data."""

    @property
    def values(self) -> dict[str, Value]:
        """Its values by column."""

    @property
    def kind(self) -> str:
        """Whether it is a line or a total."""

    @property
    def row(self) -> int:
        """Its row in the table."""


@dataclass(frozen=True, slots=True)
class Verdict:
    """What became of a check: its name, whether it holds, and in words what was found."""

    check: str
    passed: bool
    said: str


_Lines = Sequence[tuple[Line, Row]]


def verdicts(checks: Iterable[Check], scope: Scope, lines: _Lines) -> list[Verdict]:
    """Return a verdict for each check. `lines` are all rows in their order, totals too, with their texts."""
    out = []
    for check in checks:
        (name,) = check.model_fields_set
        try:
            wrong, said = _judged(check, scope, lines)
        except FormulaError as error:
            wrong, said = [str(error).rstrip(".")], ""
        more = f" and {len(wrong) - NAMED} more" if len(wrong) > NAMED else ""
        out.append(Verdict(name, not wrong, "; ".join(wrong[:NAMED]) + more if wrong else said))
    return out


def _judged(check: Check, scope: Scope, lines: _Lines) -> tuple[list[str], str]:
    """What is wrong, and what to say where nothing is."""
    body = [(line, row) for line, row in lines if line.kind != "total"]
    match check:
        case Check(rows=Count() as count):
            return _count(count, len(body))
        case Check(allowed=Allowed() as allowed):
            wrong = [
                f"row {line.row}: {line.values[allowed.column]}"
                for line, _ in body
                if str(line.values[allowed.column] or "") not in allowed.values
            ]
            return wrong, f"{allowed.column} is one of {len(allowed.values)} values in {len(body)} rows"
        case Check(matching=Matching() as matching):
            wrong = [
                f"row {line.row}: {line.values[matching.column]}"
                for line, _ in body
                if not re.search(matching.pattern, str(line.values[matching.column] or ""))
            ]
            return wrong, f"{matching.column} has the pattern in {len(body)} rows"
        case Check(adds_up=AddsUp() as adds_up):
            return _adds_up(adds_up, lines)
        case Check(each=str() as text):
            return _each(text, scope, body)
        case Check(whole=str() as text):
            return _whole(text, scope)
    return _unique(check.unique or (), [line for line, _ in body])


def _count(count: Count, n: int) -> tuple[list[str], str]:
    if n < count.at_least:
        return [f"there are {n} rows, fewer than {count.at_least}"], ""
    if count.at_most is not None and n > count.at_most:
        return [f"there are {n} rows, more than {count.at_most}"], ""
    return [], f"{n} rows"


def _unique(names: Sequence[str], lines: Sequence[Line]) -> tuple[list[str], str]:
    counts = Counter(tuple(line.values[name] for name in names) for line in lines)
    wrong = [f"{', '.join(map(str, key))} is there {n} times" for key, n in counts.items() if n > 1]
    return wrong, f"{len(counts)} different values of {', '.join(names)}"


def _adds_up(adds_up: AddsUp, lines: _Lines) -> tuple[list[str], str]:
    pattern = re.compile(adds_up.totals)
    wrong, right = [], 0
    for column in adds_up.columns:
        since: list[Line] = []
        all_lines: list[Line] = []
        for line, row in lines:
            if line.kind != "total":
                since.append(line)
                all_lines.append(line)
                continue
            if not pattern.search(row.text):
                continue
            per = adds_up.per
            parts = [p for p in all_lines if p.values[per] == line.values[per]] if per else since
            since = []
            printed = line.values[column]
            if printed is None:
                continue
            assert isinstance(printed, Decimal)
            total = sum((v for p in parts if isinstance(v := p.values[column], Decimal)), Decimal(0))
            if abs(total - printed) > adds_up.within:
                off = f"{abs(total - printed):,} {'more' if total > printed else 'less'}"
                said = f"is {printed:,} in print, but {len(parts)} lines sum to {total:,}, {off}"
                wrong.append(f"row {line.row}: {column} {said}")
            else:
                right += 1
    if not right and not wrong:
        return [f"no total has the pattern {adds_up.totals}"], ""
    come = "total comes" if right == 1 else "totals come"
    return wrong, f"{right} {come} out ({adds_up.totals} in {', '.join(adds_up.columns)})"


def _each(text: str, scope: Scope, body: _Lines) -> tuple[list[str], str]:
    formula = read_formula(text)
    wrong, missing = [], 0
    for line, _ in body:
        value = formula.value(Scope(scope.rows, line.values, scope.taken, scope.earlier))
        missing += value is None
        if value is False:
            wrong.append(f"row {line.row}: {text} does not hold")
    said = f"{text} holds in {len(body) - missing} rows"
    return wrong, said + (f"; in {missing} something is missing" if missing else "")


def _whole(text: str, scope: Scope) -> tuple[list[str], str]:
    formula = read_formula(text)
    value = formula.value(scope)
    if value is None:
        return [f"{text} cannot be worked out, as something is missing"], ""
    tree = formula.tree
    assert isinstance(tree, Operation)
    sides = [Formula(text, side).value(scope) for side in (tree.left, tree.right)]
    said = f"{sides[0]} and {sides[1]}"
    return ([] if value else [f"{text} does not hold: {said}"]), f"{text} holds: {said}"
