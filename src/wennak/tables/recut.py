"""Parts of one table on two pages, read with the same columns: those of the part with more."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..layout import PageLayout
from ..layout.joining import MARKER
from .draft import TableDraft
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
    above: TableDraft, below: TableDraft, first: PageLayout, second: PageLayout
) -> tuple[TableDraft, TableDraft]:
    """Return two parts with as many columns each, if one can be read with the columns of the other."""
    if above.columns == below.columns or "tagged" in (above.method, below.method):
        return above, below
    if not (above.column_edges and below.column_edges):
        # A method that says which words a cell has, and not where its edges are.
        return above, below
    shift = below.box.x0 - above.box.x0
    shift = 0.0 if abs(shift) < 2 * first.em else shift
    finer, page = (below, second) if above.columns < below.columns else (above, first)
    if (above.columns < below.columns) != _splits_items(page, finer):
        cuts = [x - shift for x in below.column_edges[1:-1]]
        return _recut(first, above, cuts) or above, below
    cuts = [x + shift for x in above.column_edges[1:-1]]
    return above, _recut(second, below, cuts) or below


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
    body = np.array(sorted(i for c in draft.cells if c.row >= top for i in c.words), dtype=np.int64)
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
