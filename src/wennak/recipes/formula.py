"""Arithmetic over the columns of a table: read into a tree of our own, worked out exactly, nothing else.

    comparison = sum [ ("=" | "!=" | "<" | "<=" | ">" | ">=") sum ]
    sum        = product { ("+" | "-") product }
    product    = signed { ("*" | "/") signed }
    signed     = "-" signed | atom
    atom       = number | "text" | name | [name with spaces] | name "(" comparison {"," comparison} ")"
               | "(" comparison ")"

There are no attributes, no indices, no powers and no names but those of columns and values, so that no
formula can reach anything beside the table, or take long.
"""

from __future__ import annotations

import datetime
import operator
import re
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from decimal import ROUND_HALF_UP, Context, Decimal, DecimalException, Overflow
from typing import Any, cast

Value = str | Decimal | datetime.date | bool | None

MAX_LENGTH = 1000
MAX_DEPTH = 40
MAX_PLACES = 12
_EXACT = Context(prec=34, rounding=ROUND_HALF_UP)
_TOKEN = re.compile(
    r"\s*(?:(?P<number>\d+(?:\.\d+)?)|(?P<name>[^\W\d]\w*)|\[(?P<long>[^\]\n]+)\]|\"(?P<text>[^\"\n]*)\""
    r"|(?P<sign><=|>=|!=|[-+*/(),=<>]))"
)
_COMPARED: dict[str, Callable[[Any, Any], bool]] = {
    "=": operator.eq, "!=": operator.ne, "<": operator.lt, "<=": operator.le, ">": operator.gt,
    ">=": operator.ge,
}  # fmt: skip
# Functions of values in one row, and of a column: how many arguments they take.
OF_VALUES = {"abs": 1, "round": 2}
OF_COLUMNS = ("sum", "count", "mean", "first", "last", "least", "greatest")
EARLIER = "earlier"
FUNCTIONS = (*OF_VALUES, *OF_COLUMNS, EARLIER)


class FormulaError(ValueError):
    """A formula cannot be read, or not be worked out; the message says why and what to do."""


@dataclass(frozen=True, slots=True)
class Constant:
    """A number or a text."""

    value: Decimal | str


@dataclass(frozen=True, slots=True)
class Name:
    """A column, or a value taken from the document."""

    name: str


@dataclass(frozen=True, slots=True)
class Call:
    """A function with its arguments."""

    function: str
    arguments: tuple[Tree, ...]


@dataclass(frozen=True, slots=True)
class Operation:
    """Two terms and the sign between them."""

    sign: str
    left: Tree
    right: Tree


Tree = Constant | Name | Call | Operation


@dataclass(frozen=True, slots=True)
class Scope:
    """What the names of a formula stand for: `row` is the row it is worked out for, `rows` are all rows,
    `taken` are values of the document, `earlier` is the scope of the earlier period's data.
    """

    rows: Sequence[Mapping[str, Value]]
    row: Mapping[str, Value] | None = None
    taken: Mapping[str, Value] = field(default_factory=dict)
    earlier: Scope | None = None


@dataclass(frozen=True, slots=True)
class Formula:
    """A formula that was read; `text` is how it was written."""

    text: str
    tree: Tree

    @property
    def compares(self) -> bool:
        """Whether it says that something holds."""
        return isinstance(self.tree, Operation) and self.tree.sign in _COMPARED

    def names(self) -> set[str]:
        """Return the columns and values that it names, those of earlier data left out."""
        return {node.name for node in _nodes(self.tree) if isinstance(node, Name)}

    def outside(self) -> set[str]:
        """Return the names that stand outside of functions of a column."""
        return {node.name for node in _nodes(self.tree, into_columns=False) if isinstance(node, Name)}

    def asks_earlier(self) -> bool:
        """Whether it compares with earlier data."""
        return any(isinstance(node, Call) and node.function == EARLIER for node in _nodes(self.tree))

    def value(self, scope: Scope) -> Value:
        """Return its value: None where something that it needs is missing, or it divides by zero.

        Raises FormulaError where it names what is not there, or does arithmetic with texts.
        """
        try:
            return _value(self.tree, scope)
        except DecimalException as error:
            raise FormulaError(f"{self.text!r} gives a number that is too large.") from error


def read_formula(text: str) -> Formula:
    """Return the formula that a text says. Raises FormulaError if it says none."""
    if len(text) > MAX_LENGTH:
        raise FormulaError(f"A formula has at most {MAX_LENGTH} characters; this one has {len(text)}.")
    reader = _Reader(text)
    tree = reader.comparison(0)
    if reader.sign or reader.kind:
        raise reader.wrong()
    for node in _nodes(tree):
        if isinstance(node, Operation) and any(
            isinstance(side, Operation) and side.sign in _COMPARED for side in (node.left, node.right)
        ):
            raise FormulaError(f"{text!r} compares more than once, or within arithmetic; compare two sums.")
    return Formula(text, tree)


def _nodes(tree: Tree, into_columns: bool = True) -> Iterator[Tree]:
    waiting = [tree]
    while waiting:
        node = waiting.pop()
        yield node
        if isinstance(node, Operation):
            waiting += [node.left, node.right]
        elif isinstance(node, Call):
            column = node.function in OF_COLUMNS and not into_columns
            waiting += () if column or node.function == EARLIER else node.arguments


class _Reader:
    """Reads a formula from left to right; `kind` and `sign` tell the token it stands at."""

    def __init__(self, text: str) -> None:
        self._text, self._at = text, 0
        self.kind = self.sign = self._said = ""
        self._next()

    def _next(self) -> None:
        rest = self._text[self._at :]
        if not rest.strip():
            self.kind = self.sign = self._said = ""
            self._at = len(self._text)
            return
        token = _TOKEN.match(self._text, self._at)
        if token is None:
            at = self._at + len(rest) - len(rest.lstrip())
            raise FormulaError(f"{self._text[at]!r} has no meaning in the formula {self._text!r}.")
        self._at = token.end()
        self.kind = str(token.lastgroup)
        self._said = token[self.kind]
        self.sign = self._said if self.kind == "sign" else ""

    def wrong(self) -> FormulaError:
        """Return what to say of the token that cannot stand where it does."""
        where = f"{self._said!r} cannot stand there" if self.kind else "it ends too early"
        return FormulaError(f"The formula {self._text!r} cannot be read: {where}.")

    def comparison(self, depth: int) -> Tree:
        """Read a comparison, or a sum alone."""
        if depth > MAX_DEPTH:
            raise FormulaError(f"The formula is nested more than {MAX_DEPTH} deep.")
        left = self._sum(depth)
        if self.sign not in _COMPARED:
            return left
        sign = self.sign
        self._next()
        return Operation(sign, left, self._sum(depth))

    def _sum(self, depth: int) -> Tree:
        left = self._product(depth)
        while self.sign in ("+", "-"):
            sign = self.sign
            self._next()
            left = Operation(sign, left, self._product(depth))
        return left

    def _product(self, depth: int) -> Tree:
        left = self._signed(depth)
        while self.sign in ("*", "/"):
            sign = self.sign
            self._next()
            left = Operation(sign, left, self._signed(depth))
        return left

    def _signed(self, depth: int) -> Tree:
        if depth > MAX_DEPTH:
            raise FormulaError(f"The formula is nested more than {MAX_DEPTH} deep.")
        if self.sign == "-":
            self._next()
            return Operation("-", Constant(Decimal(0)), self._signed(depth + 1))
        return self._atom(depth)

    def _atom(self, depth: int) -> Tree:
        kind, said = self.kind, self._said
        if self.sign == "(":
            self._next()
            inner = self.comparison(depth + 1)
            self._close()
            return inner
        if kind in ("", "sign"):
            raise self.wrong()
        self._next()
        if kind == "number":
            return Constant(Decimal(said))
        if kind == "text":
            return Constant(said)
        if kind == "name" and self.sign == "(":
            return self._call(said, depth)
        return Name(said.strip())

    def _call(self, name: str, depth: int) -> Call:
        if name not in FUNCTIONS:
            raise FormulaError(f"There is no function {name!r}; choose from {', '.join(FUNCTIONS)}.")
        self._next()
        arguments = [self.comparison(depth + 1)]
        while self.sign == ",":
            self._next()
            arguments.append(self.comparison(depth + 1))
        self._close()
        needed = OF_VALUES.get(name, 1)
        if len(arguments) != needed:
            raise FormulaError(f"{name} takes {needed} value{'s' * (needed > 1)}, not {len(arguments)}.")
        return Call(name, tuple(arguments))

    def _close(self) -> None:
        if self.sign != ")":
            raise self.wrong()
        self._next()


def _value(tree: Tree, scope: Scope) -> Value:
    match tree:
        case Constant():
            return tree.value
        case Name():
            for known in (scope.row or {}, scope.taken):
                if tree.name in known:
                    return known[tree.name]
            if any(tree.name in row for row in scope.rows[:1]):
                said = f"{tree.name!r} is a column; say of which row: first({tree.name}), sum({tree.name})."
                raise FormulaError(said)
            raise FormulaError(f"There is no column and no value {tree.name!r}.")
        case Call():
            return _called(tree, scope)
        case Operation():
            left, right = _value(tree.left, scope), _value(tree.right, scope)
            if left is None or right is None:
                return None
            return _operated(tree.sign, left, right)


def _operated(sign: str, left: Value, right: Value) -> Value:
    if sign in _COMPARED:
        if type(left) is not type(right):
            raise FormulaError(f"{_said(left)} and {_said(right)} cannot be compared.")
        return _COMPARED[sign](left, right)
    a, b = _number(left), _number(right)
    match sign:
        case "+":
            return _EXACT.add(a, b)
        case "-":
            return _EXACT.subtract(a, b)
        case "*":
            return _EXACT.multiply(a, b)
    return _EXACT.divide(a, b) if b else None


def _called(call: Call, scope: Scope) -> Value:
    name, arguments = call.function, call.arguments
    if name == EARLIER:
        if scope.earlier is None:
            raise FormulaError("There is no earlier data to compare with; name it with --earlier.")
        return _value(arguments[0], scope.earlier)
    if name in OF_VALUES:
        values = [_value(a, scope) for a in arguments]
        if any(v is None for v in values):
            return None
        numbers = [_number(v) for v in values]
        if name == "abs":
            return abs(numbers[0])
        if not 0 <= numbers[1] <= MAX_PLACES or numbers[1] % 1:
            raise FormulaError(f"round takes 0 to {MAX_PLACES} decimal places, not {numbers[1]}.")
        return _EXACT.quantize(numbers[0], Decimal(1).scaleb(-int(numbers[1])))
    found = [_value(arguments[0], Scope(scope.rows, row, scope.taken, scope.earlier)) for row in scope.rows]
    filled = [v for v in found if v is not None and v != ""]
    if name == "count":
        return Decimal(len(filled))
    if name == "sum":
        return _sum(filled)
    if not filled:
        return None
    match name:
        case "first":
            return filled[0]
        case "last":
            return filled[-1]
        case "mean":
            return _EXACT.divide(_sum(filled), Decimal(len(filled)))
    if len({type(v) for v in filled}) > 1:
        raise FormulaError(f"{name} needs values of one kind.")
    pick = min if name == "least" else max
    return pick(cast("list[Decimal]", filled))


def _sum(values: Sequence[Value]) -> Decimal:
    total = Decimal(0)
    for value in values:
        total = _EXACT.add(total, _number(value))
    return total


def _number(value: Value) -> Decimal:
    if not isinstance(value, Decimal):
        raise FormulaError(f"{_said(value)} is no number; give its column a type that is one.")
    if abs(value.adjusted()) > 30:
        raise Overflow
    return value


def _said(value: Value) -> str:
    return f"{value}" if isinstance(value, Decimal) else repr(value if isinstance(value, str) else str(value))
