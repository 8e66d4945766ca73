"""How often sums prove the right thing: python benchmarks/proofs.py TRUTH... [--seed N]

Takes the true tables whose sums come out, spoils one to three of their numbers as poor print does (a digit
like another, any other digit, a point or a digit lost), doubts cells about as often as recognition does, and
tells how many cells were changed by `wennak.corrections`, and how many of these into what is true.
"""

from __future__ import annotations

import dataclasses
import random
import re
import sys
from collections import Counter
from collections.abc import Sequence
from pathlib import Path

from wennak.checks import find_checks
from wennak.corrections import CONFUSED, correct
from wennak.errors import SourceError
from wennak.model import Table
from wennak.truth import find_truth

# Shares of wrong and of right numbers that are in doubt, as `misread.py` measures them.
DOUBTED_WRONG, DOUBTED_RIGHT = 0.85, 0.22
# How sure cells are that are in doubt, and others.
DOUBT, SURE = 0.5, 0.97
# What happens to a number, with its weight.
KINDS = {"like": 6, "any": 2, "point": 2, "lost": 1}


def main(arguments: list[str]) -> int:
    """Print the figures."""
    seed = int(arguments[arguments.index("--seed") + 1]) if "--seed" in arguments else 1
    folders = [Path(a) for a in arguments if not a.startswith("--") and a != str(seed)]
    try:
        truths = [truth for folder in folders for truth in find_truth(folder)]
    except SourceError as error:
        print(error)
        return 1
    tables = [entry.table for truth in truths for entry in truth.tables]
    tables = [table for table in tables if (checks := find_checks(table)) and all(c.passed for c in checks)]
    if not tables:
        print("No table whose sums come out has a truth in the folders named.")
        return 1
    rng = random.Random(seed)
    count: Counter[str] = Counter()
    for table in tables:
        count.update(tried(table, rng))
    made = count["right"] + count["wrong"]
    print(f"{len(tables)} tables, {count['spoiled']} numbers spoiled, {made} cells changed")
    print(f"changed into what is true: {count['right'] / max(1, made):.4f}; {count['wrong']} were not")
    return 0


def tried(table: Table, rng: random.Random) -> Counter[str]:
    """Return how many numbers of a table were spoiled, and how many of its cells changed right and wrong."""
    cells = [dataclasses.replace(cell, confidence=_sure(rng, DOUBTED_RIGHT)) for cell in table.cells]
    numbers = [k for k, cell in enumerate(cells) if not cell.header and re.search(r"\d", cell.text)]
    chosen = rng.sample(numbers, min(len(numbers), rng.choice((1, 1, 2, 3))))
    for k in chosen:
        cells[k].text = spoiled(cells[k].text, rng)
        cells[k].confidence = _sure(rng, DOUBTED_WRONG)
    true = {id(cell): table.cells[k].text for k, cell in enumerate(cells)}
    made = correct(dataclasses.replace(table, cells=cells))
    right = sum(change.cell.text == true[id(change.cell)] for change in made)
    return Counter(spoiled=len(chosen), right=right, wrong=len(made) - right)


def spoiled(text: str, rng: random.Random) -> str:
    """Return a number as poor print or a poor reader might give it."""
    (kind,) = rng.choices(list(KINDS), list(KINDS.values()))
    at = rng.choice([k for k, char in enumerate(text) if char.isdigit()])
    points = [k for k, char in enumerate(text) if char in ".,"]
    if kind == "point" and points:
        at = rng.choice(points)
        return text[:at] + text[at + 1 :]
    if kind == "lost":
        return text[:at] + text[at + 1 :]
    like = [c for c, others in CONFUSED.items() if text[at] in others]
    return text[:at] + rng.choice(like if kind == "like" and like else _others(text[at])) + text[at + 1 :]


def _others(digit: str) -> Sequence[str]:
    return [char for char in "0123456789" if char != digit]


def _sure(rng: random.Random, doubted: float) -> float:
    return DOUBT if rng.random() < doubted else SURE


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
