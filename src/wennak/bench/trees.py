"""Tree edit distance similarity of tables (Zhong, ShafieiBavani, Jimeno Yepes 2020).

A table is the tree table > thead, tbody > tr > td. The distance is that of Zhang and Shasha (1989): the least
number of nodes inserted, deleted and changed, in order. Changing a node into one of another kind, or a cell
into one of other spans, costs 1; a cell into one of other text, the normalised Levenshtein distance.
"""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
import numpy.typing as npt
from rapidfuzz import process
from rapidfuzz.distance import Levenshtein

from .grid import Grid

Floats = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]
_CELL, _ROW, _BODY, _HEAD, _TABLE = range(5)


@dataclass(slots=True)
class _Tree:
    """The nodes of a table in postorder: kind (0 cell, 1 row, 2 body, 3 head, 4 table), the leftmost leaf
    below each, and the spans and text of cells.
    """

    kind: list[int] = field(default_factory=list)
    leaf: list[int] = field(default_factory=list)
    spans: list[tuple[int, int]] = field(default_factory=list)
    texts: list[str] = field(default_factory=list)

    def add(self, kind: int, first: int, spans: tuple[int, int] = (0, 0), text: str = "") -> None:
        self.leaf.append(min(first, len(self.kind)))
        self.kind.append(kind)
        self.spans.append(spans)
        self.texts.append(text)


def tree_similarity(truth: Grid, read: Grid, texts: bool = True) -> float:
    """1 - distance / nodes of the larger tree, in 0..1; without `texts` only the structure counts.

    A reading of ``a b`` as ``a c`` changes one of 5 nodes (table, tbody, tr, 2 td) wholly: 0.8.
    """
    a, b = _tree(truth), _tree(read)
    # A reading without errors is most frequent, and its distance known.
    if (a.kind, a.leaf, a.spans) == (b.kind, b.leaf, b.spans) and (not texts or a.texts == b.texts):
        return 1.0
    return 1.0 - _distance(a, b, texts) / max(len(a.kind), len(b.kind))


def _tree(grid: Grid) -> _Tree:
    tree = _Tree()
    at = {}
    for r, c, h, w, text in grid.cells:
        at[r, c] = (h, w, text)
    covered = {(r + i, c + j) for r, c, h, w, _ in grid.cells for i in range(h) for j in range(w) if i or j}
    rows, columns = grid.shape
    for kind, part in ((_HEAD, range(grid.header_rows)), (_BODY, range(grid.header_rows, rows))):
        first = len(tree.kind)
        for r in part:
            start = len(tree.kind)
            for c in range(columns):
                if (r, c) not in covered:
                    h, w, text = at.get((r, c), (1, 1, ""))
                    tree.add(_CELL, len(tree.kind), (h, w), text)
            tree.add(_ROW, start)
        if len(tree.kind) > first:
            tree.add(kind, first)
    tree.add(_TABLE, 0)
    return tree


def _costs(a: _Tree, b: _Tree, texts: bool) -> Floats:
    """What it costs to change each node of one tree into each of the other."""
    x, y = (np.array(t.kind)[:, None] for t in (a, b))
    cost: Floats = (x != y.T).astype(np.float64)
    cells, others = np.flatnonzero(x[:, 0] == _CELL), np.flatnonzero(y[:, 0] == _CELL)
    spans, over = (np.array([t.spans[i] for i in at]).reshape(-1, 2) for t, at in ((a, cells), (b, others)))
    differ = (spans[:, None] != over[None]).any(axis=2)
    unlike = np.zeros(differ.shape)
    if texts and differ.size:
        unlike = process.cdist(
            [a.texts[i] for i in cells], [b.texts[j] for j in others],
            scorer=Levenshtein.normalized_distance, dtype=np.float64,
        )  # fmt: skip
    cost[np.ix_(cells, others)] = np.where(differ, 1.0, unlike)
    return cost


def _distance(a: _Tree, b: _Tree, texts: bool) -> float:
    """Zhang and Shasha's distance; those of cells and rows, which are most, in closed form and in bulk."""
    cost = _costs(a, b, texts)
    n, m = cost.shape
    kinds, others = np.array(a.kind), np.array(b.kind)
    leaf, over = np.array(a.leaf), np.array(b.leaf)
    size, sizes = np.arange(n) - leaf + 1, np.arange(m) - over + 1
    known = np.full((n, m), np.nan)
    cells, other_cells = np.flatnonzero(kinds == _CELL), np.flatnonzero(others == _CELL)
    known[np.ix_(cells, other_cells)] = cost[np.ix_(cells, other_cells)]
    # A single node against a tree: the tree's other nodes, and the cheapest change into one of its nodes.
    for j in np.flatnonzero(others != _CELL).tolist():
        known[cells, j] = sizes[j] - 1 + cost[cells, over[j] : j + 1].min(axis=1)
    for i in np.flatnonzero(kinds != _CELL).tolist():
        known[i, other_cells] = size[i] - 1 + cost[leaf[i] : i + 1][:, other_cells].min(axis=0)
    _fill_rows(known, cost, np.flatnonzero(kinds == _ROW), np.flatnonzero(others == _ROW), leaf, over)
    rows, others_rows = (
        _alike(np.flatnonzero(kinds == _ROW), size),
        _alike(np.flatnonzero(others == _ROW), sizes),
    )
    tall, wide = (np.flatnonzero((k == _BODY) | (k == _HEAD)).tolist() for k in (kinds, others))
    for j in wide:
        for group in rows:
            known[group, j] = _forest(known, cost, group, j, leaf, over)[-1, :, -1]
    for i in tall:
        for group in others_rows:
            known[i, group] = _forest(known.T, cost.T, group, i, over, leaf)[-1, :, -1]
        for j in wide:
            known[i, j] = _forest(known, cost, np.array([i]), j, leaf, over)[-1, 0, -1]
    # Both roots are tables, which are best changed into each other: what is left are the forests below them.
    return float(_forest(known, cost, np.array([n - 1]), m - 1, leaf, over)[-2, 0, -2])


def _alike(rows: Ints, size: Ints) -> list[Ints]:
    """Rows in groups with the same number of cells."""
    return [rows[size[rows] == n] for n in np.unique(size[rows]).tolist()]


def _fill_rows(known: Floats, cost: Floats, rows: Ints, others: Ints, leaf: Ints, over: Ints) -> None:
    """Distances of all rows of one table to all of the other: of the sequences of their cells, since two
    roots of one kind are best changed into each other, which costs nothing.
    """
    if not len(rows) or not len(others):
        return
    n, m = rows - leaf[rows], others - over[others]
    # A row without cells is its own leftmost leaf.
    most, widest = int(n.max()), int(m.max())
    i = np.minimum(leaf[rows][:, None] + np.arange(max(most, 1)), len(cost) - 1)
    j = np.minimum(over[others][:, None] + np.arange(max(widest, 1)), cost.shape[1] - 1)
    change = cost[i[:, None, :, None], j[None, :, None, :]]
    best = np.zeros((len(rows), len(others), most + 1, widest + 1))
    best[:, :, 0] = np.arange(widest + 1)
    steps = np.arange(widest + 1)
    for k in range(most):
        row = best[:, :, k] + 1
        row[..., 1:] = np.minimum(row[..., 1:], best[:, :, k, :-1] + change[:, :, k, :widest])
        best[:, :, k + 1] = np.minimum.accumulate(row - steps, axis=-1) + steps
    known[np.ix_(rows, others)] = best[
        np.arange(len(rows))[:, None], np.arange(len(others))[None], n[:, None], m[None]
    ]


def _forest(known: Floats, cost: Floats, roots: Ints, j: int, leaf: Ints, over: Ints) -> Floats:
    """Distances of the trees under `roots`, all of one shape, from the tree under node j, by those of the
    trees within them: (k, r, l) is that of the first k nodes under root r from the first l nodes under j.
    """
    start, count = int(over[j]), int(roots[0] - leaf[roots[0]]) + 1
    columns = np.arange(start, j + 1)
    steps = np.arange(len(columns) + 1)
    best = np.zeros((count + 1, len(roots), len(columns) + 1))
    best[0] = steps
    whole = over[columns] == start
    before = over[columns] - start
    firsts = leaf[roots]
    for k in range(count):
        nodes = firsts + k
        first = int(leaf[nodes[0]] - firsts[0])
        split = best[first][:, before] + known[nodes, start : j + 1]
        if first == 0:
            split = np.where(whole, best[k][:, :-1] + cost[nodes, start : j + 1], split)
        current = best[k] + 1
        np.minimum(current[:, 1:], split, out=current[:, 1:])
        best[k + 1] = np.minimum.accumulate(current - steps, axis=1) + steps
    return best
