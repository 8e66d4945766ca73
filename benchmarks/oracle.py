"""How good tables could come out: python benchmarks/oracle.py TRUTH... [--worst N]

Reads every PDF that has a truth in all ways that are compared (the readings that `combined` chooses
from) and prints, by trait of the true table, the content similarity and share of exact tables of the
best of them, and of the one that the judge puts first. The gap between the two is the judge's; what the
best lacks was never generated. Traits are those of the benchmark, and of meta.json beside the truth
where there is one.
"""

from __future__ import annotations

import argparse
import json
from collections import defaultdict
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

import numpy as np

from wennak.bench.readings import observe
from wennak.errors import SourceError
from wennak.tables.judge import judge_of
from wennak.truth import find_truth, load_truth

# What exactness counts beside content similarity when the best reading is sought.
EXACT = 0.3
# (document, page, table, best content, best exact, first content, first exact, traits) of a part of a table.
Part = tuple[str, int, int, float, float, float, float, list[str]]


def main() -> None:
    """Print the table, and the worst parts if asked."""
    parser = argparse.ArgumentParser(
        description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter
    )
    parser.add_argument("truth", nargs="+", type=Path)
    parser.add_argument("--worst", type=int, default=0)
    parser.add_argument("--workers", type=int, default=2)
    options = parser.parse_args()
    paths = [t.path for folder in options.truth for t in find_truth(folder)]
    with ProcessPoolExecutor(options.workers) as pool:
        parts = [part for found in pool.map(parts_of, paths, chunksize=4) for part in found]
    groups: dict[str, list[Part]] = defaultdict(list)
    for part in parts:
        for trait in ["all", *part[7]]:
            groups[trait].append(part)
    print(f"{'':24} {'parts':>6} {'best':>7} {'exact':>7} {'first':>7} {'exact':>7}")
    for trait, own in sorted(groups.items()):
        means = np.array([part[3:7] for part in own]).mean(axis=0)
        print(f"{trait[:24]:24} {len(own):6d} " + " ".join(f"{v:7.3f}" for v in means))
    for name, page, table, *scores, _ in sorted(parts, key=lambda p: p[3])[: options.worst]:
        print(f"{name}, page {page}, table {table + 1}: best {scores[0]:.3f}, first {scores[2]:.3f}")


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
        worth = (1 - EXACT) * page.similar + EXACT * page.exact
        for table in range(page.parts):
            own = np.flatnonzero(page.table == table)
            best = first = (0.0, 0.0)
            if len(own):
                a, b = own[worth[own].argmax()], own[page.gains[own].argmax()]
                best = (float(page.similar[a]), float(page.exact[a]))
                first = (float(page.similar[b]), float(page.exact[b]))
            out.append((path.parent.name, page.page, table, *best, *first, traits))
    return out


if __name__ == "__main__":
    main()
