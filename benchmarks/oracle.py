"""How good tables could come out: python benchmarks/oracle.py TRUTH... [--worst N]

Reads every PDF that has a truth in all ways that are compared (the readings that `combined` chooses
from) and prints, by trait of the true table, the content similarity and share of exact tables of the
best of them, of the one that the judge puts first, and of the best of them and of what `combined` makes
of the page in the end (tables side by side parted, rows put back). The gap between the first two is the
judge's; what the best of all lacks was never generated. Traits are those of the benchmark, and of
meta.json beside the truth where there is one.
"""

from __future__ import annotations

import argparse
import json
from collections import defaultdict
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

import numpy as np

from wennak.bench.readings import Compared, observe
from wennak.errors import SourceError
from wennak.tables.judge import judge_of
from wennak.truth import find_truth, load_truth

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
        parts = [part for found in pool.map(parts_of, paths, chunksize=4) for part in found]
    groups: dict[str, list[Part]] = defaultdict(list)
    for part in parts:
        for trait in ["all", *part[6]]:
            groups[trait].append(part)
    heads = " ".join(f"{name:>7} {'exact':>7}" for name in ("best", "first", "of all"))
    print(f"{'':24} {'parts':>6} {heads}")
    for trait, own in sorted(groups.items()):
        means = np.array([sum(part[3:6], ()) for part in own]).mean(axis=0)
        print(f"{trait[:24]:24} {len(own):6d} " + " ".join(f"{v:7.3f}" for v in means))
    for name, page, table, _, first, best, _ in sorted(parts, key=lambda p: p[5])[: options.worst]:
        print(f"{name}, page {page}, table {table + 1}: best of all {best[0]:.3f}, first {first[0]:.3f}")


def parts_of(path: Path) -> list[Part]:
    """The parts of the true tables of a document, page by page."""
    truth = load_truth(path)
    meta = path.with_name("meta.json")
    traits = json.loads(meta.read_text(encoding="utf-8")).get("traits", []) if meta.exists() else []
    out: list[Part] = []
    try:
        pages = observe(truth.pdf, truth, judge_of) if truth.pdf else []
    except SourceError as error:
        print(f"{path}: {error}")
        return out
    for page in pages:
        for table in range(page.parts):
            own = np.flatnonzero(page.table == table)
            first = (0.0, 0.0)
            if len(own):
                at = own[page.gains[own].argmax()]
                first = (float(page.similar[at]), float(page.exact[at]))
            best = best_of(page, table)
            of_all = max(best, best_of(page.combined, table), key=worth)
            out.append((str(truth.pdf), page.page, table, best, first, of_all, traits))
    return out


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
