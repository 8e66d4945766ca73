"""How far confidence can be trusted: python benchmarks/calibration.py TRUTH... [--out PICTURE.png]

Reads the PDFs that have a truth (NAME.html beside NAME.pdf, as `wennak truth` makes it), and tells of the
cells of each confidence how many are right: same row, column, span and text as in the true table; and of the
tables that are rather sure how many are invented: like no true one.
"""

from __future__ import annotations

import sys
from itertools import pairwise
from pathlib import Path

import numpy as np

from wennak.bench.grid import grid_of, normal
from wennak.bench.matching import match
from wennak.bench.readings import with_joined_signs
from wennak.errors import SourceError
from wennak.pipeline import read
from wennak.truth import Truth, find_truth

# A table given this is rather one than none.
TABLE = 0.5
BINS = (0.0, 0.2, 0.4, 0.6, 0.8, 0.9, 0.95, 0.98, 1.0001)


def main(arguments: list[str]) -> int:
    """Print the reliability and draw it."""
    out = arguments[arguments.index("--out") + 1] if "--out" in arguments else None
    folders = [Path(a) for a in arguments if a not in ("--out", out)]
    sure, right = [], []
    tables: list[tuple[float, bool]] = []
    try:
        truths = [truth for folder in folders for truth in find_truth(folder)]
    except SourceError as error:
        print(error)
        return 1
    for truth in truths:
        of_cells, of_tables = told(truth)
        tables += of_tables
        for said, ok in of_cells:
            sure.append(said)
            right.append(ok)
    if not sure:
        print("No truth was found in the folders named.")
        return 1
    p, y = np.array(sure), np.array(right, dtype=float)
    middles, shares = [], []
    for low, high in pairwise(BINS):
        inside = (p >= low) & (p < high)
        if inside.any():
            middles.append(p[inside].mean())
            shares.append(y[inside].mean())
            span = f"{low:.2f} to {min(high, 1):.2f}"
            print(f"{span}: {inside.sum():6d} cells, said {middles[-1]:.3f}, right {shares[-1]:.3f}")
    top = p >= 0.95
    print(f"all: {len(p)} cells, {y.mean():.4f} right")
    if top.any():
        print(f"confidence >= 0.95: {top.mean():.3f} of the cells, {y[top].mean():.4f} right")
    given = [known for said, known in tables if said >= TABLE]
    print(f"tables given {TABLE} or more: {len(given)} of {len(tables)}, {given.count(False)} invented")
    if out:
        _draw(middles, shares, out)
    return 0


def told(truth: Truth) -> tuple[list[tuple[float, bool]], list[tuple[float, bool]]]:
    """Confidence of each filled cell that was read, and whether it is right; and of each table, and whether
    it is like a true one.
    """
    assert truth.pdf is not None
    try:
        document = read(truth.pdf)
    except SourceError:
        return [], []
    # A sign in a column of its own and one before its number say the same.
    tables = [with_joined_signs(table) for table in document.tables]
    known = [grid_of(with_joined_signs(entry.table)) for entry in truth.tables]
    found = [grid_of(table) for table in tables]
    partner = {j: i for i, j in match(known, found).pairs.items()}
    out = []
    for j, (table, grid) in enumerate(zip(tables, found, strict=True)):
        true = set(known[partner[j]].cells) if j in partner else set()
        filled = [c for c in sorted(table.cells, key=lambda c: (c.row, c.column)) if normal(c.text)]
        out += [(c.confidence, place in true) for c, place in zip(filled, grid.cells, strict=True)]
    return out, [(table.confidence, j in partner) for j, table in enumerate(document.tables)]


def _draw(said: list[float], right: list[float], out: str) -> None:
    import matplotlib

    matplotlib.use("Agg")
    import matplotlib.pyplot as plt

    figure, axes = plt.subplots(figsize=(6.4, 5))
    axes.plot([0, 1], [0, 1], color="#8c8c8c", linestyle="--", label="as said")
    axes.plot(said, right, color="#0072b2", marker="o", label="cells read")
    axes.set(xlabel="confidence", ylabel="share of right cells", xlim=(0, 1.01), ylim=(0, 1.01))
    axes.legend()
    figure.tight_layout()
    figure.savefig(out, dpi=110)


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
