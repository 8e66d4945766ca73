"""How many documents tell two methods apart: python benchmarks/power.py RUN FIRST SECOND [--draws N]

RUN is a folder that `wennak bench run` wrote. Documents are drawn from it again and again, as many as a
benchmark might have, and the share of draws is told in which the two methods are found to differ (p < 0.05):
the power of such a benchmark, where the methods differ as they do in RUN.
"""

from __future__ import annotations

import argparse

import numpy as np

from wennak.bench import load_results
from wennak.bench.statistics import paired_p
from wennak.bench.summary import MAIN, document_scores

SIZES = (5, 10, 20, 40, 80, 160)
SURE = 0.05


def main() -> None:
    """Print the table."""
    parser = argparse.ArgumentParser(
        description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter
    )
    parser.add_argument("run")
    parser.add_argument("first")
    parser.add_argument("second")
    parser.add_argument("--draws", type=int, default=400)
    options = parser.parse_args()
    names, scores = document_scores(load_results(options.run), MAIN)
    d = np.array(scores[options.first]) - np.array(scores[options.second])
    spread = f"standard deviation {d.std(ddof=1):.3f}, equal on {(d == 0).mean():.0%}"
    print(f"{len(names)} documents, mean difference {d.mean():+.3f}, {spread}")
    rng = np.random.default_rng(1)
    for size in SIZES:
        told = [paired_p(rng.choice(d, size).tolist()) < SURE for _ in range(options.draws)]
        print(f"{size:4d} documents: told apart in {np.mean(told):.0%} of {options.draws} draws")


if __name__ == "__main__":
    main()
