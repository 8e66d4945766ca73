"""How many displayed equations are found, and how many are read exactly:
python benchmarks/equations.py FOLDER... [--wrong N]

Each folder holds documents that tools/draw_equations.py has drawn. An equation is found where one formula of
the document has most of its symbols; what is left of the document's formulas is a piece of one, where nearly
all that it holds stands in one equation, or invented. Trees are compared as MathML without its attributes, by
the characters that are drawn.
"""

from __future__ import annotations

import argparse
import json
import unicodedata
from collections import Counter
from collections.abc import Sequence
from pathlib import Path
from typing import Any, NamedTuple

import numpy as np
from lxml import etree
from scipy.optimize import linear_sum_assignment

import wennak

# A name, and what the element of that name holds.
Tree = tuple[Any, ...]

# An equation is found by a formula whose symbols are its own to this extent (F1).
FOUND = 0.6
# A piece of an equation holds so little else.
PIECE = 0.8
# Characters that look alike, whichever of them a program takes.
ALIKE = str.maketrans("‾ˉ¯⃗∣˜ˆ⋅−ϵ∗", "---→|~^·-ε*")


class Score(NamedTuple):
    """How many equations are true, found, in pieces, invented, exact, rightly numbered; F1 of each found."""

    true: int
    found: int
    pieces: int
    invented: int
    exact: int
    numbered: int
    symbols: list[float]


def tree_of(mathml: str) -> Tree:
    """Return an equation as nested tuples; rows within rows, and rows of one, are no more."""
    return canonical(etree.fromstring(mathml))


def canonical(node: etree._Element) -> Tree:
    """Return an element as `tree_of` does."""
    name = etree.QName(node).localname
    if name in ("mi", "mn", "mo", "mtext"):
        return ("token", plain(node.text or ""))
    children: list[Tree] = []
    for child in node:
        made = canonical(child)
        rows = name in ("math", "mrow", "mtd") and made[0] == "row"
        children += made[1:] if rows else [made]
    if name in ("math", "mrow", "mtd"):
        children = [c for c in children if c != ("row",)]
        return children[0] if len(children) == 1 else ("row", *children)
    return (name, *children)


def plain(text: str) -> str:
    """Return a text without blanks, each character as it is compared."""
    return unicodedata.normalize("NFKC", "".join(text.split())).translate(ALIKE)


def tokens(tree: Tree) -> Counter[str]:
    """Return how often each symbol stands in a tree."""
    if tree[0] == "token":
        return Counter([tree[1]])
    return sum((tokens(part) for part in tree[1:]), Counter())


def f1(a: Counter[str], b: Counter[str]) -> float:
    """Return the harmonic mean of precision and recall of symbols, 0..1."""
    return 2 * (a & b).total() / max(1, a.total() + b.total())


def alike(tree: Tree, own: Tree | Counter[str]) -> float:
    """Return the F1 of the symbols of two equations, of the characters where one has no tree."""
    return f1(characters(tree), own) if isinstance(own, Counter) else f1(tokens(tree), tokens(own))


def characters(tree: Tree) -> Counter[str]:
    """Return how often each character stands in a tree."""
    return Counter("".join(tokens(tree).elements()))


def is_piece(own: Tree | Counter[str], trees: Sequence[Tree]) -> bool:
    """Return whether nearly all that a formula holds stands in one of the equations."""
    held = own if isinstance(own, Counter) else characters(own)
    return any((held & characters(tree)).total() >= PIECE * held.total() for tree in trees)


def measure(pdf: Path, wrong: list[str]) -> Score:
    """Compare the formulas of a document with its truth."""
    truth = json.loads(pdf.with_suffix(".json").read_text(encoding="utf-8"))
    read = [b for b in wennak.read(pdf).blocks if isinstance(b, wennak.Formula)]
    trees = [tree_of(entry["mathml"]) for entry in truth]
    # Of what has no tree the characters are compared.
    own = [tree_of(b.mathml) if b.mathml else Counter(plain(b.text)) for b in read]
    near = np.array([[alike(t, o) for o in own] for t in trees]).reshape(len(trees), len(own))
    pairs = [(i, j) for i, j in zip(*linear_sum_assignment(-near), strict=True) if near[i, j] >= FOUND]
    exact = [trees[i] == own[j] for i, j in pairs]
    wrong += [
        f"{pdf.name}: {near[i, j]:.2f}\n  {truth[i]['mathml'][66:-7]}\n  {read[j].tex or read[j].text}"
        for (i, j), right in zip(pairs, exact, strict=True)
        if not right
    ]
    missed = set(range(len(trees))) - {i for i, _ in pairs}
    wrong += [f"{pdf.name}: missed\n  {truth[i]['mathml'][66:-7]}" for i in sorted(missed)]
    extra = set(range(len(own))) - {j for _, j in pairs}
    pieces = {j for j in extra if is_piece(own[j], trees)}
    wrong += [
        f"{pdf.name}: {'a piece' if j in pieces else 'invented'}\n  {read[j].tex or read[j].text}"
        for j in sorted(extra)
    ]
    numbered = sum(read[j].label == truth[i]["number"] for i, j in pairs)
    symbols = [float(near[i, j]) for i, j in pairs]
    invented = len(extra) - len(pieces)
    return Score(len(trees), len(pairs), len(pieces), invented, sum(exact), numbered, symbols)


def main() -> None:
    """Measure folders of drawings."""
    parser = argparse.ArgumentParser(
        description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter
    )
    parser.add_argument("folders", type=Path, nargs="+")
    parser.add_argument("--wrong", type=int, default=0, help="print so many that are not right")
    asked = parser.parse_args()
    wrong: list[str] = []
    for folder in asked.folders:
        scores = [measure(pdf, wrong) for pdf in sorted(folder.glob("q*.pdf"))]
        true, found, pieces, invented, exact, numbered = (
            sum(counts) for counts in list(zip(*scores, strict=True))[:6]
        )
        symbols = [value for score in scores for value in score.symbols]
        print(
            f"{folder.name}: {len(scores)} documents, {true} equations: found {found / true:.3f}, "
            f"in pieces {pieces}, invented {invented}, symbols {np.mean(symbols or [0]):.4f}, "
            f"exact {exact / max(1, found):.3f}, number right {numbered / max(1, found):.3f}"
        )
    print("\n".join(wrong[: asked.wrong]))


if __name__ == "__main__":
    main()
