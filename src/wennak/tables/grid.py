"""Columns + lines of text -> a table draft: rows, spans, cells. Shared by all methods."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence

import numpy as np

from ..layout import PageLayout
from ..model import Box
from .draft import CellDraft, TableDraft, plain_text
from .numbers import is_numeric
from .rowcuts import row_starts
from .strips import Row, blank_limits, column_of

# Text begins at the edge of its column when it is this near (em).
ALIGNED = 0.12


def build_grid(
    layout: PageLayout,
    rows: Sequence[Row],
    cuts: Sequence[float],
    box: Box,
    method: str,
    separators: Sequence[float] = (),
    trusted: bool = False,
) -> TableDraft:
    """Build the grid of a table whose columns are known.

    `cuts` are the x between columns, `separators` the y of level lines or shading edges inside the box;
    where these are `trusted`, they alone part the rows. Each word goes to the column that holds it; words
    without a wide gap between them stay in one cell, which spans the columns that its text reaches into.
    """
    columns = len(cuts) + 1
    edges = _left_edges(layout, rows, cuts)
    pieces = _pieces(layout, rows, cuts, edges)
    filled = [frozenset([c for first, last, _ in p for c in range(first, last + 1)]) for p in pieces]
    numbers = [_number_columns(layout, p) for p in pieces]
    band = np.searchsorted(np.sort(np.asarray(separators, dtype=np.float64)), [_middle(r) for r in rows])
    starts: list[bool] = []
    for value in dict.fromkeys(band.tolist()):
        members = [i for i, b in enumerate(band.tolist()) if b == value]
        if trusted:
            starts += [True, *(_begins_body(filled, numbers, i, columns) for i in members[1:])]
        else:
            starts += row_starts(
                [rows[i] for i in members],
                [filled[i] for i in members],
                [numbers[i] for i in members],
                layout.em,
            )
    row_number = np.cumsum(starts) - 1
    cells: dict[tuple[int, int], CellDraft] = {}
    by_row: dict[int, list[tuple[int, int, list[int]]]] = defaultdict(list)
    for i, parts in enumerate(pieces):
        by_row[int(row_number[i])] += parts
    for r, parts in by_row.items():
        for first, last, words in _merged(parts):
            cells[r, first] = CellDraft(r, first, 1, last - first + 1, words)
    return TableDraft(
        box=box,
        rows=int(row_number[-1]) + 1 if len(row_number) else 0,
        columns=columns,
        cells=list(cells.values()),
        method=method,
        column_edges=[box.x0, *cuts, box.x1],
    )


def _begins_body(
    filled: Sequence[frozenset[int]], numbers: Sequence[frozenset[int]], i: int, columns: int
) -> bool:
    """Whether a line of numbers follows a line of labels as full as itself: a header without a line below."""
    full = len(filled[i - 1]) >= 0.6 * columns and len(filled[i]) >= 0.6 * columns
    return full and len(numbers[i]) > 1 and not numbers[i - 1]


def _number_columns(layout: PageLayout, pieces: Sequence[tuple[int, int, list[int]]]) -> frozenset[int]:
    """The columns in which a line holds a number."""
    found = []
    for first, last, words in pieces:
        text = plain_text(layout, words)
        if first == last and any(c.isdigit() for c in text) and is_numeric(text):
            found.append(first)
    return frozenset(found)


def _middle(row: Row) -> float:
    return (row.y0 + row.y1) / 2


def _left_edges(layout: PageLayout, rows: Sequence[Row], cuts: Sequence[float]) -> list[float | None]:
    """Where the text right of each cut begins in at least half of the rows, None where it does not agree."""
    w, em = layout.words, layout.em
    out: list[float | None] = []
    x = w.x0[[i for r in rows for i in r.words]]
    starts = np.cumsum([0, *(len(r.words) for r in rows[:-1])])
    for cut in cuts:
        firsts = np.minimum.reduceat(np.where(x >= cut - 0.2 * em, x, np.inf), starts)
        firsts = firsts[np.isfinite(firsts)]
        agreed = (np.abs(firsts[:, None] - firsts) < ALIGNED * em).sum(axis=1)
        best = int(agreed.argmax()) if len(firsts) else 0
        agree = len(firsts) > 0 and agreed[best] >= max(3, 0.5 * len(firsts))
        out.append(float(firsts[best]) if agree else None)
    return out


def _pieces(
    layout: PageLayout, rows: Sequence[Row], cuts: Sequence[float], edges: Sequence[float | None]
) -> list[list[tuple[int, int, list[int]]]]:
    """Cut rows of words at the column cuts, each into (first column, last column, words).

    A stretch of words is only cut where a gap wider than a usual blank falls on a cut; a span that crosses
    cuts otherwise stays whole.
    """
    w = layout.words
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
                # A blank across a cut: the text runs on, unless numbers stand on both sides or the column's
                # text begins right here.
                edge = edges[pb] if a == pb + 1 else None
                parted = is_numeric(w.texts[i]) and is_numeric(w.texts[words[-1]])
                parted |= edge is not None and abs(x0 - edge) < ALIGNED * layout.em
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
