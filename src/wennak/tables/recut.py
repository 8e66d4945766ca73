"""Parts of one table on two pages, read with the same columns: those of the part with more."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np

from ..ink import median
from ..layout import PageLayout
from ..layout.joining import MARKER
from .draft import TableDraft, cells_by_row
from .finish import finish
from .header import MAX_HEADER
from .judge import judge
from .places import place_of
from .search import best_draft

# Of the words of a part, at most this share may stand across the columns of the other.
CROSSED = 0.02
# A cut stands in a word when it is farther than this (em) from both its ends.
WITHIN = 0.1


def with_same_columns(
    above: TableDraft, below: TableDraft, first: PageLayout, second: PageLayout, repeats: bool
) -> Iterator[tuple[TableDraft, TableDraft]]:
    """Yield two parts as they are, and where they have not as many columns, one read with the columns of the
    other: the coarser with the finer ones, and, where the second `repeats` the head of the first, the finer
    with the coarser ones.
    """
    yield above, below
    if above.columns == below.columns or "tagged" in (above.method, below.method):
        return
    if not (above.column_edges and below.column_edges):
        # A method that says which words a cell has, and not where its edges are.
        return
    finer, page = (below, second) if above.columns < below.columns else (above, first)
    upper_first = (above.columns < below.columns) != _splits_items(page, finer)
    for upper in (upper_first, not upper_first) if repeats else (upper_first,):
        for shift in _shifts(above, below, first, second):
            if upper:
                again = _recut(first, above, [x - shift for x in below.column_edges[1:-1]])
                pair = (again or above, below)
            else:
                again = _recut(second, below, [x + shift for x in above.column_edges[1:-1]])
                pair = (above, again or below)
            if again is not None:
                yield pair


def _shifts(above: TableDraft, below: TableDraft, first: PageLayout, second: PageLayout) -> list[float]:
    """How far the columns of the second part may stand right of those of the first: by its left side, its
    right side, and the words of its first row.
    """
    em = first.em
    shifts = [below.box.x0 - above.box.x0, below.box.x1 - above.box.x1]
    heads = {
        first.words.texts[i]: float(first.words.x0[i])
        for c in above.cells
        if c.row <= MAX_HEADER
        for i in c.words
    }
    apart = [
        float(second.words.x0[i]) - heads[text]
        for c in below.cells
        if c.row == 0
        for i in c.words
        if (text := second.words.texts[i]) in heads
    ]
    shifts += [median(np.array(apart))] if apart else []
    out: list[float] = []
    for shift in (0.0 if abs(shift) < 2 * em else shift for shift in shifts):
        if all(abs(shift - known) > 0.5 * em for known in out):
            out.append(shift)
    return out


def _splits_items(layout: PageLayout, draft: TableDraft) -> bool:
    """Whether a column holds nothing but the marks of list items, set apart from their text."""
    texts = layout.words.texts
    body = [c for c in draft.cells if c.row >= draft.header_rows and c.words]
    columns = {c.column for c in body if c.colspan == 1}
    return any(all(MARKER.match(texts[i]) for c in body if c.column == k for i in c.words) for k in columns)


def _recut(layout: PageLayout, draft: TableDraft, cuts: Sequence[float]) -> TableDraft | None:
    """Read a part anew with other columns, unless too many of its words cross them."""
    members = np.array(sorted(i for c in draft.cells for i in c.words), dtype=np.int64)
    w, em = layout.words, layout.em
    # Where a part is all header, its last row has a label a column.
    top = draft.header_rows if draft.rows > MAX_HEADER else draft.rows - 1
    # Labels alone in their rows run over all columns.
    rows = [cells for row, cells in cells_by_row(draft).items() if row >= top and len(cells) > 1]
    body = np.array(sorted(i for cells in rows for c in cells for i in c.words), dtype=np.int64)
    across = np.zeros(len(body), dtype=np.bool_)
    for x in cuts:
        across |= (w.x0[body] < x - WITHIN * em) & (w.x1[body] > x + WITHIN * em)
    if (
        not len(members)
        or across.sum() > CROSSED * len(body)
        or not draft.box.x0 < cuts[0] < cuts[-1] < draft.box.x1
    ):
        return None
    place = place_of(layout, members, np.ones(len(w), dtype=np.bool_), draft.box)
    again = finish(layout, best_draft(layout, place, judge, cuts, draft.method), place.lines)
    again.caption = draft.caption
    return again
