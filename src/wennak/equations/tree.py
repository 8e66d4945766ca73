"""The structure of an equation: symbols, and what stands over, under, beside and around them."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

Style = Literal["upright", "italic", "bold", "bold-italic", "script", "fraktur", "double-struck"]

# Names of functions and operators, which are set upright.
NAMES = frozenset(
    "arccos arcsin arctan arg cos cosh cot coth csc deg det dim exp gcd hom inf ker lg lim liminf limsup ln "
    "log max min Pr sec sin sinh sup tan tanh".split()
)
# Signs that a line of text sets apart from what stands on both sides of them.
APART = frozenset("=<>≤≥≈≡∼≅≃∝→⇒⇔↔←⊂⊆⊃⊇∈∋≠≪≫+−±∓")


@dataclass(frozen=True, slots=True)
class Symbol:
    """A letter, a number, a name such as "sin", a word, or a sign; its alphabet; and whether it is set higher
    than letters, as a bracket around a fraction is.
    """

    text: str
    style: Style = "upright"
    tall: bool = False


@dataclass(frozen=True, slots=True)
class Row:
    """What follows each other on one line; empty where nothing stands."""

    items: tuple[Node, ...] = ()


@dataclass(frozen=True, slots=True)
class Fraction:
    """What stands above and below a level rule."""

    over: Node
    under: Node


@dataclass(frozen=True, slots=True)
class Scripts:
    """A base with what is set lower and higher beside it, or below and above it (`limits`)."""

    base: Node
    sub: Node | None = None
    sup: Node | None = None
    limits: bool = False


@dataclass(frozen=True, slots=True)
class Radical:
    """What stands under a radical sign, and the index in it."""

    body: Node
    index: Node | None = None


@dataclass(frozen=True, slots=True)
class Accent:
    """What bears a mark over it, or under it (`below`), such as a hat, an arrow or a rule ("¯", "_")."""

    base: Node
    mark: str
    below: bool = False


@dataclass(frozen=True, slots=True)
class Grid:
    """Rows of cells: a matrix, cases, a binomial, or the lines of a system (without brackets)."""

    rows: tuple[tuple[Node, ...], ...]
    left: str = ""
    right: str = ""


Node = Symbol | Row | Fraction | Scripts | Radical | Accent | Grid


def row_of(items: list[Node]) -> Node:
    """Return nodes that follow each other as one; a single node is itself."""
    return items[0] if len(items) == 1 else Row(tuple(items))


def symbols_of(node: Node) -> Iterator[Symbol]:
    """Return the symbols of an equation, in the order in which it is read."""
    match node:
        case Symbol():
            yield node
        case Row(items):
            for item in items:
                yield from symbols_of(item)
        case Fraction(over, under):
            yield from symbols_of(over)
            yield from symbols_of(under)
        case Scripts(base, sub, sup):
            for part in (base, sub, sup):
                if part is not None:
                    yield from symbols_of(part)
        case Radical(body, index):
            if index is not None:
                yield from symbols_of(index)
            yield from symbols_of(body)
        case Accent(base):
            yield from symbols_of(base)
        case Grid(rows):
            for cells in rows:
                for cell in cells:
                    yield from symbols_of(cell)
