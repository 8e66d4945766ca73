"""Scores of one table against its truth: plain functions, two grids in, a number out.

All lie in 0..1, 1 being a perfect reading; two empty tables agree.
"""

from __future__ import annotations

import functools
from collections import Counter
from dataclasses import dataclass
from itertools import pairwise
from typing import Any

import numpy as np
import numpy.typing as npt
from rapidfuzz import process
from rapidfuzz.distance import Indel

from .grid import Grid, header_paths, is_number, number_of

Floats = npt.NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Rates:
    """Precision, recall and their harmonic mean."""

    precision: float
    recall: float
    f1: float


def rates(common: float, truth: float, read: float) -> Rates:
    """Precision common/read, recall common/truth, F1 2 common/(truth + read); 1 where both are empty.

    >>> rates(1, 2, 4)
    Rates(precision=0.25, recall=0.5, f1=0.3333333333333333)
    """
    if not truth and not read:
        return Rates(1.0, 1.0, 1.0)
    return Rates(
        common / read if read else 0.0, common / truth if truth else 0.0, 2 * common / (truth + read)
    )


def cell_rates(truth: Grid, read: Grid) -> Rates:
    """Exact cells: a cell is right when its text, first row and column, and spans all are those of the truth.

    Of the truth ``a b`` and the reading ``a c`` one cell of two is right: precision, recall and F1 are 0.5.
    """
    common = len(set(truth.cells) & set(read.cells))
    return rates(common, len(truth.cells), len(read.cells))


def adjacency_f1(truth: Grid, read: Grid) -> float:
    """F1 of adjacency relations (Göbel, Hassan, Oro, Orsi 2012).

    A relation is the texts of two cells with text that are neighbours to the right or below, over empty
    places if need be. ``a b`` has one relation, ``a c`` another: 0.
    """
    a, b = _relations(truth), _relations(read)
    return rates((a & b).total(), a.total(), b.total()).f1


def _relations(grid: Grid) -> Counter[tuple[str, str, str]]:
    rows, columns = grid.shape
    at = np.full((rows, columns), -1, dtype=np.int64)
    for i, (r, c, h, w, _) in enumerate(grid.cells):
        at[r : r + h, c : c + w] = i
    out: Counter[tuple[str, str, str]] = Counter()
    seen: set[tuple[int, int, str]] = set()
    for lines, way in ((at, "right"), (at.T, "down")):
        for line in lines:
            held = line[line >= 0].tolist()
            for i, j in pairwise(held):
                if i != j and (i, j, way) not in seen:
                    seen.add((i, j, way))
                    out[grid.cells[i][4], grid.cells[j][4], way] += 1
    return out


def content_similarity(truth: Grid, read: Grid) -> float:
    """Grid similarity of content (Smock, Pesala, Abraham 2022).

    2 S / (places of the truth + places of the reading), where S sums the similarity of texts (2 LCS / sum of
    lengths) over the best alignment of rows and of columns that keeps their order; the two are found one
    after the other, as in the source. ``a b`` against ``a c`` gives 0.5.
    """
    if not truth.texts.size or not read.texts.size:
        return float(truth.texts.size == read.texts.size)
    return _share(*_text_alignment(truth, read), truth, read)


def topology_similarity(truth: Grid, read: Grid) -> float:
    """Grid similarity of topology: as of content, with the overlap of the cells' extents, each relative to
    its place, in place of the similarity of texts (intersection over union).
    """
    if not truth.texts.size or not read.texts.size:
        return float(truth.texts.size == read.texts.size)
    similar = _overlap(truth.extents, read.extents)
    return _share(similar, *alignment(similar), truth, read)


def location_similarity(truth: Grid, read: Grid) -> float | None:
    """Grid similarity of location: as of content, with the overlap of the boxes of cells on their page; None
    where either table does not say where its cells stand.
    """
    if not truth.boxes or not read.boxes:
        return None
    similar = _box_overlap(_placed(truth), _placed(read))
    return _share(similar, *alignment(similar), truth, read)


Pairs = list[tuple[int, int]]


def _share(similar: Floats, rows: Pairs, columns: Pairs, truth: Grid, read: Grid) -> float:
    """Twice the similarity of the aligned places over all places of both grids."""
    total = truth.texts.size + read.texts.size
    return 2 * float(sum(similar[r, c, k, l] for r, k in rows for c, l in columns)) / total


# Several scores of one table go by the same alignment; grids are equal only to themselves.
@functools.lru_cache(maxsize=1)
def _text_alignment(truth: Grid, read: Grid) -> tuple[Floats, Pairs, Pairs]:
    similar = _text_similarity(truth, read)
    return similar, *alignment(similar)


def alignment(similar: Floats) -> tuple[Pairs, Pairs]:
    """Return the pairs of rows, and of columns, that align two grids best, each in order.

    `similar` (m, n, p, q): similarity of place (i, j) of one grid to place (k, l) of the other. Rows are
    aligned by the best alignment of their places, columns likewise.
    """
    rows = _best(similar.transpose(0, 2, 1, 3))[..., -1, -1]
    columns = _best(similar.transpose(1, 3, 0, 2))[..., -1, -1]
    return _pairs(rows), _pairs(columns)


def _best(scores: Floats) -> Floats:
    """Summed score of the best order-preserving alignment of each two prefixes, over the last two axes."""
    n, q = scores.shape[-2:]
    best = np.zeros((*scores.shape[:-2], n + 1, q + 1))
    for i in range(n):
        through = best[..., i, :-1] + scores[..., i, :]
        best[..., i + 1, 1:] = np.maximum(best[..., i, 1:], through)
        np.maximum.accumulate(best[..., i + 1, :], axis=-1, out=best[..., i + 1, :])
    return best


def _pairs(scores: Floats) -> Pairs:
    best = _best(scores)
    i, j = scores.shape
    out = []
    while i and j:
        if best[i, j] == best[i - 1, j]:
            i -= 1
        elif best[i, j] == best[i, j - 1]:
            j -= 1
        else:
            i, j = i - 1, j - 1
            out.append((i, j))
    return out[::-1]


def _text_similarity(a: Grid, b: Grid) -> Floats:
    ones, at = np.unique(a.texts.ravel().astype(str), return_inverse=True)
    others, over = np.unique(b.texts.ravel().astype(str), return_inverse=True)
    similar = process.cdist(ones, others, scorer=Indel.normalized_similarity, dtype=np.float64)
    similar[np.ix_(ones == "", others == "")] = 1.0
    similar[np.ix_(ones == "", others != "")] = 0.0
    similar[np.ix_(ones != "", others == "")] = 0.0
    out: Floats = similar[np.ix_(at, over)].reshape(a.texts.shape + b.texts.shape)
    return out


def _overlap(x: Any, y: Any) -> Floats:
    a, b = x[:, :, None, None, :], y[None, None]
    low, high = np.maximum(a[..., :2], b[..., :2]), np.minimum(a[..., 2:], b[..., 2:])
    inner = np.prod(np.clip(high - low, 0, None), axis=-1)
    areas = [np.prod(z[..., 2:] - z[..., :2], axis=-1) for z in (a, b)]
    out: Floats = inner / np.maximum(areas[0] + areas[1] - inner, 1e-9)
    return out


def _placed(grid: Grid) -> Floats:
    """Page and box of the cell at each place: (rows, columns, 5); page 0 where it is not known."""
    out = np.zeros((*grid.shape, 5))
    for (r, c, h, w, _), place in grid.boxes:
        out[r : r + h, c : c + w] = (place.page, place.box.x0, place.box.y0, place.box.x1, place.box.y1)
    return out


def _box_overlap(x: Floats, y: Floats) -> Floats:
    same = x[:, :, None, None, 0] == y[None, None, :, :, 0]
    empty = (x[:, :, None, None, 0] == 0) & (y[None, None, :, :, 0] == 0)
    return np.where(empty, 1.0, np.where(same, _overlap(x[..., 1:], y[..., 1:]), 0.0))


def header_fidelity(truth: Grid, read: Grid) -> float:
    """F1 of column headers: a column's labels, from the top down, with the text right below them, must come
    back. Only tables that have header rows on either side are judged; others agree.

    A table whose header was read as body scores 0, for it has no headers.
    """
    if not truth.header_rows and not read.header_rows:
        return 1.0
    sides = [
        Counter(zip(header_paths(g), g.texts[g.header_rows].tolist(), strict=True))
        if g.header_rows
        else Counter()
        for g in (truth, read)
    ]
    return rates((sides[0] & sides[1]).total(), sides[0].total(), sides[1].total()).f1


def text_similarity(truth: Grid, read: Grid) -> float:
    """Similarity of all text in reading order: 1 - edits / (sum of lengths), edits inserting or deleting one
    character (Indel). Tells whether characters are right, wherever they stand.
    """
    a, b = ("\n".join(c[4] for c in g.cells) for g in (truth, read))
    return float(Indel.normalized_similarity(a, b))


@dataclass(frozen=True, slots=True)
class Numbers:
    """What became of the numbers of a table.

    `truth` counts the numbers of the truth; of these `right` stand in the right place with the right value,
    `moved` stand elsewhere, `changed` have another number in their place, `lost` are nowhere. `invented`
    counts numbers read that stand for none of the truth.
    """

    truth: int
    right: int
    moved: int
    changed: int
    lost: int
    invented: int

    @property
    def fidelity(self) -> float:
        """Right numbers over true and invented ones; 1 where there are none."""
        total = self.truth + self.invented
        return self.right / total if total else 1.0


def numeric_fidelity(truth: Grid, read: Grid) -> Numbers:
    """Follow every number of the truth into the reading, by the best alignment of rows and columns.

    Numbers are equal when their digits, sign and decimal mark are: "(1,204)" equals "-1 204".
    """
    known = {c[:2]: number_of(c[4]) for c in truth.cells if is_number(c[4])}
    found = {c[:2]: number_of(c[4]) for c in read.cells if is_number(c[4])}
    if not known:
        return Numbers(0, 0, 0, 0, 0, len(found) if not read.texts.size else _unknown(truth, found))
    partner = places(truth, read)
    right = {at for at, value in known.items() if found.get(partner.get(at, (-1, -1))) == value}
    used = {partner[at] for at in right}
    spare = Counter(value for at, value in found.items() if at not in used)
    moved = changed = 0
    claimed: set[tuple[int, int]] = set()
    for at, value in known.items():
        if at in right:
            continue
        there = partner.get(at, (-1, -1))
        if spare[value] > 0:
            spare[value] -= 1
            moved += 1
        elif there in found and there not in used:
            changed += 1
            claimed.add(there)
    instead = Counter(found[at] for at in claimed)
    invented = (spare - instead).total()
    return Numbers(
        len(known), len(right), moved, changed, len(known) - len(right) - moved - changed, invented
    )


def _unknown(truth: Grid, found: dict[tuple[int, int], str]) -> int:
    """Numbers read that are nowhere in a truth without cells that are numbers; parts of its texts are not."""
    text = " ".join(c[4] for c in truth.cells)
    return sum(value not in text for value in found.values())


def places(truth: Grid, read: Grid) -> dict[tuple[int, int], tuple[int, int]]:
    """Return where each place of the truth stands in the reading, by the best alignment."""
    if not truth.texts.size or not read.texts.size:
        return {}
    _, row_pairs, column_pairs = _text_alignment(truth, read)
    rows = _with_leftovers(row_pairs, truth.shape[0], read.shape[0])
    columns = _with_leftovers(column_pairs, truth.shape[1], read.shape[1])
    return {(r, c): (k, l) for r, k in rows for c, l in columns}


def _with_leftovers(pairs: Pairs, m: int, p: int) -> Pairs:
    """Pair, in order, rows that have no likeness but stand between the same neighbours."""
    out: Pairs = []
    for (a, b), (c, d) in pairwise([(-1, -1), *pairs, (m, p)]):
        out += zip(range(a + 1, c), range(b + 1, d), strict=False)
        out.append((c, d))
    return out[:-1]


@dataclass(frozen=True, slots=True)
class Judged:
    """One cell of the truth or of the reading: its place there, its text, and what became of it.

    `verdict`: "same"; "changed" (another text in its place; `other` is that); "moved" (its text stands
    elsewhere); "missing" (of the truth); "extra" (of the reading); "span" (its text is right, its span not).
    """

    row: int
    column: int
    text: str
    verdict: str
    other: str = ""


def judged_cells(truth: Grid, read: Grid) -> tuple[list[Judged], list[Judged]]:
    """Return a verdict on each cell with text of the truth, and on each of the reading."""
    partner = places(truth, read)
    back = {there: here for here, there in partner.items()}
    theirs, ours = {c[:2]: c for c in read.cells}, {c[:2]: c for c in truth.cells}
    pairs = {at: partner[at] for at in ours if partner.get(at) in theirs}
    same = {at for at, there in pairs.items() if ours[at][4] == theirs[there][4]}
    spare_read = Counter(c[4] for at, c in theirs.items() if back.get(at) not in same)
    spare_true = Counter(c[4] for at, c in ours.items() if at not in same)
    first, second = [], []
    for at, cell in ours.items():
        there = pairs.get(at)
        if at in same and there is not None:
            verdict = "same" if cell[2:4] == theirs[there][2:4] else "span"
            first.append(Judged(*at, cell[4], verdict))
        elif spare_read[cell[4]] > 0:
            first.append(Judged(*at, cell[4], "moved"))
        elif there is not None:
            first.append(Judged(*at, cell[4], "changed", theirs[there][4]))
        else:
            first.append(Judged(*at, cell[4], "missing"))
    for at, cell in theirs.items():
        here = back.get(at)
        if here in same:
            verdict = "same" if ours[here][2:4] == cell[2:4] else "span"
            second.append(Judged(*at, cell[4], verdict))
        elif spare_true[cell[4]] > 0:
            second.append(Judged(*at, cell[4], "moved"))
        elif here in ours:
            second.append(Judged(*at, cell[4], "changed", ours[here][4]))
        else:
            second.append(Judged(*at, cell[4], "extra"))
    return first, second
