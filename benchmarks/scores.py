"""How long scoring takes: python benchmarks/scores.py [TABLES] (1,000 tables of 30 x 8, two processes)."""

from __future__ import annotations

import random
import sys
import time
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

from wennak.bench.scores import score_document
from wennak.model import Cell, Document, Table
from wennak.truth import Truth, TruthTable

ROWS, COLUMNS, ERRORS = 30, 8, 20


def main(arguments: list[str]) -> int:
    """Score tables with errors against their truth by every metric, and print the time."""
    count = int(arguments[0]) if arguments else 1000
    start = time.perf_counter()
    with ProcessPoolExecutor(2) as pool:
        scores = list(pool.map(score, range(count), chunksize=20))
    mean = sum(scores) / len(scores)
    print(f"{count} tables of {ROWS} x {COLUMNS}: {time.perf_counter() - start:.1f} s, content {mean:.3f}")
    return 0


def score(seed: int) -> float:
    """Score one random table, read with some wrong cells; return its content similarity."""
    rng = random.Random(seed)
    true = [[f"{rng.randrange(99999) / 10}" for _ in range(COLUMNS)] for _ in range(ROWS)]
    read = [list(row) for row in true]
    for _ in range(ERRORS):
        read[rng.randrange(ROWS)][rng.randrange(COLUMNS)] = str(rng.randrange(999))
    tables = [
        Table(ROWS, COLUMNS, [Cell(r, c, t) for r, row in enumerate(rows) for c, t in enumerate(row)])
        for rows in (true, read)
    ]
    truth = Truth(Path("t.html"), tables=[TruthTable(tables[0])], document=Document("t", blocks=[tables[0]]))
    _, (result,) = score_document("t", truth, Document("t", blocks=[tables[1]]))
    return result.scores["content"] or 0.0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
