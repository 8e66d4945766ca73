"""Columns + lines of text -> a table draft: rows, spans, cells. Shared by all methods."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..ink import Floats
from ..layout import PageLayout
from ..model import Box
from .draft import CellDraft, TableDraft, plain_text
from .numbers import is_numeric
from .strips import Row, blank_limits, column_of

# Text begins at the edge of its column when it is this near (em).
ALIGNED = 0.12


@dataclass(slots=True)
class Cut:
    """Rows of words cut at columns: for each row its pieces (first column, last column, words), the columns
    that it fills, and those in which it holds a number.
    """

    rows: Sequence[Row]
    cuts: list[float]
    pieces: list[list[tuple[int, int, list[int]]]]
    filled: list[frozenset[int]]
    numbers: list[frozenset[int]]

    @property
    def columns(self) -> int:
        """Number of columns."""
        return len(self.cuts) + 1


def cut_rows(layout: PageLayout, rows: Sequence[Row], cuts: Sequence[float]) -> Cut:
    """Cut rows of words at the x between columns.

    Each word goes to the column that holds it; words without a wide gap between them stay in one piece, which
    spans the columns that its text reaches into.
    """
    pieces = _pieces(layout, rows, cuts)
    filled = [frozenset([c for first, last, _ in p for c in range(first, last + 1)]) for p in pieces]
    return Cut(rows, list(cuts), pieces, filled, [_number_columns(layout, p) for p in pieces])


def without_idle_columns(layout: PageLayout, cut: Cut) -> Cut:
    """Drop cuts beside columns that hold no text of their own: the room between a label and its values."""
    own = {first for p in cut.pieces for first, last, _ in p if first == last}
    idle = set()
    for k in set(range(cut.columns)) - own:
        over = [(first, last) for p in cut.pieces for first, last, _ in p if first <= k <= last]
        rightwards = sum(last > k for _, last in over) >= sum(first < k for first, _ in over)
        idle.add(k if (rightwards and k < len(cut.cuts)) or k == 0 else k - 1)
    if not idle or len(idle) >= len(cut.cuts):
        return cut
    return cut_rows(layout, cut.rows, [x for k, x in enumerate(cut.cuts) if k not in idle])


def assembled(cut: Cut, starts: Sequence[bool], box: Box, method: str) -> TableDraft:
    """Build the grid of rows that are cut at columns; `starts` tells at which of them a table row begins."""
    row_number = np.cumsum(starts) - 1
    by_row: dict[int, list[tuple[int, int, list[int]]]] = defaultdict(list)
    for r, parts in zip(row_number.tolist(), cut.pieces, strict=True):
        by_row[r] += parts
    cells = [
        CellDraft(r, first, 1, last - first + 1, words)
        for r, parts in by_row.items()
        for first, last, words in _merged(parts)
    ]
    return TableDraft(
        box=box,
        rows=int(row_number[-1]) + 1 if len(row_number) else 0,
        columns=cut.columns,
        cells=cells,
        method=method,
        column_edges=[box.x0, *cut.cuts, box.x1],
    )


def _number_columns(layout: PageLayout, pieces: Sequence[tuple[int, int, list[int]]]) -> frozenset[int]:
    """The columns in which a line holds a number."""
    found = []
    for first, last, words in pieces:
        text = plain_text(layout, words)
        if first == last and any(c.isdigit() for c in text) and is_numeric(text):
            found.append(first)
    return frozenset(found)


def _edges(
    layout: PageLayout, rows: Sequence[Row], cuts: Sequence[float]
) -> tuple[list[float | None], list[float | None]]:
    """Where the text right of each cut begins, and where that of its column ends, in at least half of the
    rows; None where it does not agree.
    """
    w, em = layout.words, layout.em
    index = [i for r in rows for i in r.words]
    x0, x1 = w.x0[index], w.x1[index]
    starts = np.cumsum([0, *(len(r.words) for r in rows[:-1])])
    left: list[float | None] = []
    right: list[float | None] = []
    for cut, end in zip(cuts, [*cuts[1:], np.inf], strict=True):
        beyond = x0 >= cut - 0.2 * em
        left.append(_agreed(np.minimum.reduceat(np.where(beyond, x0, np.inf), starts), em))
        own = beyond & (x1 <= end + 0.2 * em)
        right.append(_agreed(np.maximum.reduceat(np.where(own, x1, -np.inf), starts), em))
    return left, right


def _agreed(values: Floats, em: float) -> float | None:
    """The value that at least half of the finite ones, and three, share."""
    values = values[np.isfinite(values)]
    if len(values) < 3:
        return None
    agreed = (np.abs(values[:, None] - values) < ALIGNED * em).sum(axis=1)
    best = int(agreed.argmax())
    return float(values[best]) if agreed[best] >= max(3, 0.5 * len(values)) else None


def _pieces(
    layout: PageLayout, rows: Sequence[Row], cuts: Sequence[float]
) -> list[list[tuple[int, int, list[int]]]]:
    """Cut rows of words at the column cuts, each into (first column, last column, words).

    A stretch of words is only cut where a gap wider than a usual blank falls on a cut; a span that crosses
    cuts otherwise stays whole.
    """
    w = layout.words
    left, right_edges = _edges(layout, rows, cuts)
    index = np.array([i for r in rows for i in r.words], dtype=np.int64)
    first, last = column_of(w.x0[index], w.x1[index], cuts)
    columns = (first, last, w.x0[index], w.x1[index], blank_limits(layout, index))
    facts = zip(*(c.tolist() for c in columns), strict=True)
    out = []
    for row in rows:
        found: list[tuple[int, int, list[int]]] = []
        right = 0.0
        for i, (a, b, x0, x1, limit) in zip(row.words, facts, strict=False):
            gap, right = x0 - right, x1
            if found:
                pa, pb, words = found[-1]
                # A blank across a cut: the text runs on, unless numbers stand on both sides, or the column's
                # text begins right here, or a number ends where those of the column do.
                near = ALIGNED * layout.em
                begin, end = (left[pb], right_edges[pb]) if a == pb + 1 else (None, None)
                number = is_numeric(w.texts[i])
                parted = number and is_numeric(w.texts[words[-1]])
                parted |= begin is not None and abs(x0 - begin) < near
                parted |= number and end is not None and abs(x1 - end) < near
                if a <= pb or (gap < limit and a == pb + 1 and not parted):
                    found[-1] = (min(a, pa), max(b, pb), [*words, i])
                    continue
            found.append((a, b, [i]))
        out.append(found)
    return out


def _merged(parts: list[tuple[int, int, list[int]]]) -> list[tuple[int, int, list[int]]]:
    """Pieces of one table row that share a column become one cell."""
    out: list[tuple[int, int, list[int]]] = []
    for first, last, words in sorted(parts, key=lambda p: p[0]):
        if out and first <= out[-1][1]:
            a, b, before = out[-1]
            out[-1] = (a, max(b, last), sorted([*before, *words]))
        else:
            out.append((first, last, sorted(words)))
    return out
