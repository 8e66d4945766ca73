"""Parts of one table on two pages, read with the same columns: those of the part with more."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

import numpy as np

from ..ink import median
from ..layout import PageLayout
from .draft import TableDraft, cells_by_row, columns_of, columns_off, text_columns
from .finish import finish
from .header import MAX_HEADER
from .judge import judge_of
from .places import place_of
from .search import best_draft

# Of the words of a part, at most this share may stand across the columns of the other.
CROSSED = 0.02
# A cut stands in a word when it is farther than this (em) from both its ends.
WITHIN = 0.1
# Texts of a column begin, end or have their middle within this (em) at one place on both pages.
ALIGNED = 0.3
# So much of what the judge gave a part may be lost by other columns, in rows: the more there are, the better
# it knows those that they show.
LOSS = 1.0


def with_same_columns(
    above: TableDraft, below: TableDraft, first: PageLayout, second: PageLayout, repeats: bool
) -> Iterator[tuple[TableDraft, TableDraft]]:
    """Yield two parts as they are, and where they have not as many columns, one read with the columns of the
    other, first where this joins no texts, then where most columns stand below each other, then what the
    judge holds best of all their words: a row or two show less than a page of them, and a column may have no
    text on one page.

    Unless the second `repeats` the head of the first, a part that loses much by it has columns of its own, if
    they are not the same but for an empty one.
    """
    yield above, below
    if above.columns == below.columns or "tagged" in (above.method, below.method):
        return
    if not (above.column_edges and below.column_edges):
        # A method that says which words a cell has, and not where its edges are.
        return
    pairs: list[tuple[bool, int, TableDraft, TableDraft]] = []

    for shift in _shifts(above, below, first, second):
        upper, lower = _recut(first, above, below, -shift), _recut(second, below, above, shift)
        for layout, own, again in ((first, above, upper), (second, below, lower)):
            if again is None:
                continue
            one, other = (again, below) if own is above else (above, again)
            # Signs may have gone to their numbers, and a column with them.
            if one.columns != other.columns:
                continue
            off = _elsewhere(one, other, first, second, shift)
            if repeats or _loses_little(own, again) or (not off and _is_same(own, again)):
                pairs.append((_joins(layout, own, again), off, one, other))
    for *_, one, other in sorted(pairs, key=lambda p: (p[0], p[1], -_worth(p[2]) - _worth(p[3]))):
        yield one, other


def _elsewhere(
    above: TableDraft, below: TableDraft, first: PageLayout, second: PageLayout, shift: float
) -> int:
    """In how many columns the texts of two parts neither begin nor end nor have their middle at one place,
    the second so far right of the first.
    """
    off = columns_off(text_columns(first, above), text_columns(second, below), shift)
    return sum(each > ALIGNED * first.em for each in off)


def _joins(layout: PageLayout, own: TableDraft, again: TableDraft) -> bool:
    """Whether other columns join texts that stand in two columns of a part, below its head; signs belong to
    their numbers.
    """
    texts = layout.words.texts
    column = {
        i: c.column
        for c in own.cells
        if c.colspan == 1 and c.row >= own.header_rows
        for i in c.words
        if any(map(str.isalnum, texts[i]))
    }
    return any(len({column[i] for i in c.words if i in column}) > 1 for c in again.cells)


def _loses_little(own: TableDraft, again: TableDraft) -> bool:
    """Whether other columns suit a part about as well as its own, and half of them have text."""
    filled = columns_of(c for c in again.cells if c.words)
    return (own.gain - again.gain) * own.rows < LOSS and 2 * len(filled) >= again.columns


def _is_same(own: TableDraft, again: TableDraft) -> bool:
    """Whether other columns leave the cells of a part as they are, beside empty columns."""
    held = [{tuple(sorted(c.words)) for c in draft.cells if c.words} for draft in (own, again)]
    return held[0] == held[1]


def _worth(draft: TableDraft) -> float:
    return draft.gain * sum(len(c.words) for c in draft.cells)


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


def _recut(layout: PageLayout, draft: TableDraft, other: TableDraft, shift: float) -> TableDraft | None:
    """Read a part anew with the columns of another, which stand so far right of there, unless too many of its
    words cross them.
    """
    members = np.array(sorted(i for c in draft.cells for i in c.words), dtype=np.int64)
    if not len(members):
        return None
    w, em = layout.words, layout.em
    cuts = [x + shift for x in other.column_edges[1:-1]]
    # Where a part is all header, its last row has a label a column.
    top = draft.header_rows if draft.rows > MAX_HEADER else draft.rows - 1
    # Labels alone in their rows run over all columns.
    rows = [cells for row, cells in cells_by_row(draft).items() if row >= top and len(cells) > 1]
    body = np.array(sorted(i for cells in rows for c in cells for i in c.words), dtype=np.int64)
    across = np.zeros(len(body), dtype=np.bool_)
    for x in cuts:
        across |= (w.x0[body] < x - WITHIN * em) & (w.x1[body] > x + WITHIN * em)
    if across.sum() > CROSSED * len(body):
        return None
    place = place_of(layout, members, np.ones(len(w), dtype=np.bool_), draft.box)
    # Columns at its sides that are empty here are none of its reading: its rules may not reach over them.
    before = [x for x in cuts if x - WITHIN * em <= w.x0[members].min()]
    after = [x for x in cuts if x + WITHIN * em >= w.x1[members].max()]
    inner = cuts[len(before) : len(cuts) - len(after)]
    again = finish(layout, best_draft(layout, place, judge_of(layout), inner, draft.method), place.lines)
    for cell in again.cells:
        cell.column += len(before)
    left, right = other.box.x0 + shift, other.box.x1 + shift
    box = again.box
    again.box = replace(
        box, x0=min(box.x0, left) if before else box.x0, x1=max(box.x1, right) if after else box.x1
    )
    again.columns += len(before) + len(after)
    again.column_edges = [again.box.x0, *before, *again.column_edges[1:-1], *after, again.box.x1]
    again.caption = draft.caption
    return again
