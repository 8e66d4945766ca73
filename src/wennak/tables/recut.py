"""Parts of one table, on two pages or on one, read with the same columns: those of the part with more."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence

import numpy as np

from ..layout import PageLayout
from ..layout.joining import MARKER
from ..model import Box
from .caption import NAMED
from .draft import CellDraft, TableDraft
from .header import MAX_HEADER
from .reading import inner_lines, read_grid, set_header
from .regions import lines_in
from .strips import rows_of

# Parts belong together when at least this share of the words of their headers is the same.
SAME_HEAD = 0.8
# Of the words of a part, at most this share may stand across the columns of the other.
CROSSED = 0.02
# Parts of one table on a page are at most this far apart (em), with at most so many labels between them.
SPLIT_ROOM = 9.0
MAX_LABELS = 3
# A cut stands in a word when it is farther than this (em) from both its ends.
WITHIN = 0.1


def with_same_columns(
    above: TableDraft, below: TableDraft, first: PageLayout, second: PageLayout
) -> tuple[TableDraft, TableDraft]:
    """Return two parts with as many columns each, if one can be read with the columns of the other."""
    if above.columns == below.columns or "tagged" in (above.method, below.method):
        return above, below
    if not _same_head(above, below, first, second):
        return above, below
    shift = below.box.x0 - above.box.x0
    shift = 0.0 if abs(shift) < 2 * first.em else shift
    finer, page = (below, second) if above.columns < below.columns else (above, first)
    if (above.columns < below.columns) != _splits_items(page, finer):
        cuts = [x - shift for x in below.column_edges[1:-1]]
        return _recut(first, above, cuts) or above, below
    cuts = [x + shift for x in above.column_edges[1:-1]]
    return above, _recut(second, below, cuts) or below


def join_split(layout: PageLayout, drafts: Sequence[TableDraft]) -> list[TableDraft]:
    """Join tables of a page that are one: nothing but labels of groups stands between them, and the lower one
    has no header of its own and falls into the columns of the upper one.
    """
    out: list[TableDraft] = []
    for draft in sorted(drafts, key=lambda d: d.box.y0):
        whole = None
        for k, above in enumerate(out):
            whole = _joined(layout, above, draft, [d for d in drafts if d not in (above, draft)])
            if whole is not None:
                out[k] = whole
                break
        if whole is None:
            out.append(draft)
    return out


def _joined(
    layout: PageLayout, above: TableDraft, below: TableDraft, others: Sequence[TableDraft]
) -> TableDraft | None:
    w, em = layout.words, layout.em
    a, b = above.box, below.box
    if (
        below.header_rows
        or b.y0 - a.y1 > SPLIT_ROOM * em
        or min(a.x1, b.x1) - max(a.x0, b.x0) < 0.8 * (b.x1 - b.x0)
    ):
        return None
    middle = (w.y0 + w.y1) / 2
    between = np.flatnonzero((middle > a.y1) & (middle < b.y0) & (w.x1 > a.x0 - em) & (w.x0 < a.x1 + em))
    rows = rows_of(layout, between)
    finer = above if above.columns >= below.columns else below
    cuts = finer.column_edges[1:-1]
    labels = all(row.x1 < cuts[0] + em and not NAMED.match(w.texts[row.words[0]]) for row in rows)
    if len(rows) > MAX_LABELS or not labels or any(d.box.y0 > a.y0 and d.box.y1 < b.y1 for d in others):
        return None
    # Values of the lower part stand in nearly all columns of the upper one.
    own = {c.column for c in below.cells if c.words}
    if abs(above.columns - below.columns) > 1 or len(own) < max(3, below.columns - 1):
        return None
    words = [i for d in (above, below) for c in d.cells for i in c.words] + between.tolist()
    whole = TableDraft(Box.around([a, b]), 0, above.columns, [CellDraft(0, 0, 1, 1, words)], above.method)
    return _recut(layout, whole, cuts, crossed_by=below)


def _same_head(a: TableDraft, b: TableDraft, first: PageLayout, second: PageLayout) -> bool:
    """Whether the headers say the same, as far as both have one."""
    count = min(a.header_rows, b.header_rows)
    if not b.header_rows:
        return True
    words = [
        Counter(layout.words.texts[i] for c in d.cells if c.row < count for i in c.words)
        for d, layout in ((a, first), (b, second))
    ]
    return (words[0] & words[1]).total() >= SAME_HEAD * max(words[0].total(), words[1].total(), 1)


def _splits_items(layout: PageLayout, draft: TableDraft) -> bool:
    """Whether a column holds nothing but the marks of list items, set apart from their text."""
    texts = layout.words.texts
    body = [c for c in draft.cells if c.row >= draft.header_rows and c.words]
    columns = {c.column for c in body if c.colspan == 1}
    return any(all(MARKER.match(texts[i]) for c in body if c.column == k for i in c.words) for k in columns)


def _recut(
    layout: PageLayout, draft: TableDraft, cuts: Sequence[float], crossed_by: TableDraft | None = None
) -> TableDraft | None:
    """Read a part anew with other columns, unless too many of its words, or of another part, cross them."""
    members = np.array(sorted(i for c in draft.cells for i in c.words), dtype=np.int64)
    w, em = layout.words, layout.em
    # Where a part is all header, its last row has a label a column.
    judged = crossed_by or draft
    top = judged.header_rows if judged.rows > MAX_HEADER else judged.rows - 1
    body = np.array(sorted(i for c in judged.cells if c.row >= top for i in c.words), dtype=np.int64)
    across = np.zeros(len(body), dtype=np.bool_)
    for x in cuts:
        across |= (w.x0[body] < x - WITHIN * em) & (w.x1[body] > x + WITHIN * em)
    if (
        not len(members)
        or across.sum() > CROSSED * len(body)
        or not draft.box.x0 < cuts[0] < cuts[-1] < draft.box.x1
    ):
        return None
    rows = rows_of(layout, members)
    inner = inner_lines(rows, lines_in(layout, draft.box))
    again = read_grid(layout, rows, cuts, draft.box, draft.method, inner)
    set_header(layout, again, inner)
    again.caption = draft.caption
    return again
