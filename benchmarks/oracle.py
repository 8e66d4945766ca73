"""How good tables could come out: python benchmarks/oracle.py TRUTH... [--worst N]

Reads every PDF that has a truth in all ways that are compared (the readings that `combined` chooses
from) and prints, by trait of the true table, the content similarity and share of exact tables of the
best of them, of the one that the judge puts first, and of the best of them and of what `combined` makes
of the page in the end (tables side by side parted, rows put back). The gap between the first two is the
judge's; what the best of all lacks was never generated. Traits are those of the benchmark, and of
meta.json beside the truth where there is one.

Parts of tables over several pages are parts of their own there. A last line tells the same of whole tables:
the best of all parts of each, and of the document as it is read, where rows of the next page are put back.
"""

from __future__ import annotations

import argparse
import json
from collections import defaultdict
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

import numpy as np

from wennak.bench.grid import grid_of
from wennak.bench.matching import match
from wennak.bench.metrics import content_similarity
from wennak.bench.readings import Compared, observe, with_joined_signs
from wennak.errors import SourceError
from wennak.pipeline import read
from wennak.tables.judge import judge_of
from wennak.truth import Truth, find_truth, load_truth

# What exactness counts beside content similarity when the best reading is sought.
EXACT = 0.3
# Content similarity, and whether it is exact.
Score = tuple[float, float]
# (document, page, table, best, first, best of all, traits) of a part of a table.
Part = tuple[str, int, int, Score, Score, Score, list[str]]


def main() -> None:
    """Print the table, and the worst parts if asked."""
    parser = argparse.ArgumentParser(
        description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter
    )
    parser.add_argument("truth", nargs="+", type=Path)
    parser.add_argument("--worst", type=int, default=0)
    parser.add_argument("--workers", type=int, default=2)
    options = parser.parse_args()
    try:
        paths = [t.path for folder in options.truth for t in find_truth(folder)]
    except SourceError as error:
        parser.error(str(error))
    with ProcessPoolExecutor(options.workers) as pool:
        found = list(pool.map(scores_of, paths, chunksize=4))
    parts = [part for own, _ in found for part in own]
    tables = [table for _, own in found for table in own]
    groups: dict[str, list[Part]] = defaultdict(list)
    for part in parts:
        for trait in ["all", *part[6]]:
            groups[trait].append(part)
    heads = " ".join(f"{name:>7} {'exact':>7}" for name in ("best", "first", "of all"))
    print(f"{'':24} {'parts':>6} {heads}")
    for trait, own in sorted(groups.items()):
        means = np.array([sum(part[3:6], ()) for part in own]).mean(axis=0)
        print(f"{trait[:24]:24} {len(own):6d} " + " ".join(f"{v:7.3f}" for v in means))
    whole = " ".join(f"{v:7.3f}" for v in np.mean(tables, axis=0))
    print(f"{'whole tables':24} {len(tables):6d} {'':31} {whole}")
    for name, page, table, _, first, best, _ in sorted(parts, key=lambda p: p[5])[: options.worst]:
        print(f"{name}, page {page}, table {table + 1}: best of all {best[0]:.3f}, first {first[0]:.3f}")


def scores_of(path: Path) -> tuple[list[Part], list[Score]]:
    """The parts of the true tables of a document, page by page, and the best of each of its true tables."""
    truth = load_truth(path)
    meta = path.with_name("meta.json")
    traits = json.loads(meta.read_text(encoding="utf-8")).get("traits", []) if meta.exists() else []
    parts: list[Part] = []
    of: dict[int, list[Score]] = defaultdict(list)
    try:
        pages = observe(truth.pdf, truth, judge_of) if truth.pdf else []
        whole = as_read(truth)
    except SourceError as error:
        print(f"{path}: {error}")
        return parts, []
    for page in pages:
        for part, table in enumerate(page.parts.tolist()):
            own = np.flatnonzero(page.table == part)
            first = (0.0, 0.0)
            if len(own):
                at = own[page.gains[own].argmax()]
                first = (float(page.similar[at]), float(page.exact[at]))
            best = best_of(page, part)
            of_all = max(best, best_of(page.combined, part), key=worth)
            of[table].append(of_all)
            parts.append((str(truth.pdf), page.page, part, best, first, of_all, traits))
    tables = []
    for number, score in enumerate(whole):
        similar, exact = zip(*of.get(number, [(0.0, 0.0)]), strict=True)
        tables.append(max(score, (float(np.mean(similar)), min(exact)), key=worth))
    return parts, tables


def as_read(truth: Truth) -> list[Score]:
    """The score of what the document as it is read has for each true table that has rows."""
    known = [grid_of(with_joined_signs(entry.table)) for entry in truth.tables if entry.table.rows]
    read_ = [grid_of(with_joined_signs(table)) for table in read(truth.pdf).tables] if truth.pdf else []
    pairs = match(known, read_).pairs
    return [
        (content_similarity(grid, read_[pairs[i]]), float(set(grid.cells) == set(read_[pairs[i]].cells)))
        if i in pairs
        else (0.0, 0.0)
        for i, grid in enumerate(known)
    ]


def best_of(tables: Compared, part: int) -> Score:
    """The score of the best of some tables for a true part of their page."""
    own = np.flatnonzero(tables.table == part)
    scores = zip(tables.similar[own].tolist(), tables.exact[own].tolist(), strict=True)
    return max(scores, key=worth, default=(0.0, 0.0))


def worth(score: Score) -> float:
    """What a score counts when the best is sought."""
    return (1 - EXACT) * score[0] + EXACT * score[1]


if __name__ == "__main__":
    main()
