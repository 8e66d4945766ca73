"""Which table read is which table of the truth."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from .grid import Grid, words_of
from .metrics import Rates, rates

# Tables that share fewer of their words than this are no match.
LEAST = 0.1
# A table is found when the content of its reading is this similar; one region when boxes overlap by this.
FOUND = 0.5
# A table was split, or several merged, where this share of the words of each part belongs to it.
OWN = 0.6
# Tables that share this much are one and the same, whatever else their words stand in.
WHOLE = 0.85


@dataclass(slots=True)
class Matching:
    """Pairs (truth, read) of tables, one to one; tables of the truth that were read in several parts, and
    readings that hold several tables of the truth, with the numbers of their parts.
    """

    pairs: dict[int, int]
    split: dict[int, list[int]]
    merged: dict[int, list[int]]


def match(truth: Sequence[Grid], read: Sequence[Grid]) -> Matching:
    """Match tables one to one with the greatest total overlap of words (F1), by optimal assignment (Kuhn
    1955). Parts of a split table and the tables in a merged one are named besides.
    """
    counts = [[Counter(words_of(g)) for g in grids] for grids in (truth, read)]
    common = np.array([[(a & b).total() for b in counts[1]] for a in counts[0]], dtype=float)
    common = common.reshape(len(truth), len(read))
    sizes = [np.array([c.total() for c in side], dtype=float) for side in counts]
    overlap = 2 * common / np.maximum(sizes[0][:, None] + sizes[1][None], 1)
    rows, columns = _assigned(overlap)
    pairs = {int(i): int(j) for i, j in zip(rows, columns, strict=True) if overlap[i, j] > LEAST}
    in_truth = common / np.maximum(sizes[1], 1)[None] > OWN
    in_read = common / np.maximum(sizes[0], 1)[:, None] > OWN
    split = {i: np.flatnonzero(in_truth[i]).tolist() for i in range(len(truth)) if in_truth[i].sum() > 1}
    merged = {j: np.flatnonzero(in_read[:, j]).tolist() for j in range(len(read)) if in_read[:, j].sum() > 1}
    # Small tables whose words all stand in a large one by chance are no parts of it.
    whole = {i for i, j in pairs.items() if overlap[i, j] >= WHOLE}
    split = {i: p for i, p in split.items() if i not in whole and common[i, p].sum() > OWN * sizes[0][i]}
    taken = {pairs[i] for i in whole}
    merged = {j: p for j, p in merged.items() if j not in taken and common[p, j].sum() > OWN * sizes[1][j]}
    return Matching(pairs, split, merged)


def detection_by_content(similar: Sequence[float], truth: int, read: int) -> Rates:
    """Precision, recall and F1 of detection: a table is found when the content of the reading matched with it
    is at least FOUND similar. `similar` holds the content similarity of each pair.
    """
    return rates(sum(s >= FOUND for s in similar), truth, read)


def detection_by_region(truth: Sequence[Grid], read: Sequence[Grid]) -> Rates | None:
    """Precision, recall and F1 of detection by place: the page areas of a table and its reading overlap by at
    least FOUND (intersection over union), one to one. None where the truth does not say where tables stand.
    """
    if not truth or not all(t.places for t in truth):
        return None
    overlap = np.array([[_area_overlap(a, b) for b in read] for a in truth]).reshape(len(truth), len(read))
    rows, columns = _assigned(overlap)
    return rates(int((overlap[rows, columns] >= FOUND).sum()), len(truth), len(read))


def _assigned(overlap: npt.NDArray[np.float64]) -> tuple[npt.NDArray[np.intp], npt.NDArray[np.intp]]:
    """Return the rows and columns of the assignment with the greatest total."""
    # Loaded where it is used: it takes as long as the rest of the benchmark.
    from scipy.optimize import linear_sum_assignment

    return linear_sum_assignment(overlap, maximize=True)


def _area_overlap(a: Grid, b: Grid) -> float:
    inner = sum(p.box.shared(q.box) for p in a.places for q in b.places if p.page == q.page)
    areas = [p.box.area for g in (a, b) for p in g.places]
    return inner / max(sum(areas) - inner, 1e-9)
