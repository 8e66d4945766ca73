"""Rows below a header that are none by themselves, or two: labels of groups of rows that came out as the last
line of the row above, and paragraphs of one cell, or further lines of a row between rules, that came out as
rows.
"""

from __future__ import annotations

import re
from bisect import bisect_left
from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from ..ink import Ints, distinct, median
from ..layout import PageLayout
from .draft import CellDraft, TableDraft, bands, cells_by_row, goes_on, plain_text, row_extents
from .rowcuts import MAX_ROOM
from .signs import MARKS
from .unruled import parted, typefaces, words_of

# Labels stand this far (em) left of the rows of their group, and farther than this (em) below what is no line
# of theirs; lines overlap by less than the last.
INDENT, LINES_OFF, OVERLAP = 0.5, 0.5, 0.4
# Rules part the rows of a table where of the bands between them so many, and this share, hold one each.
BANDS, SINGLE = 3, 0.5
# Prose has so many words. Rooms differ by more than this (em).
PROSE, ROOMS = 6, 0.25
# A text that goes on in the next row has so many words, and ends this near (em) to where its column does.
REST, FULL = 4, 4.0
# The number that a name ends in has at most so many digits.
DIGITS = 2
# A number, also with a sign before it and a unit or a mark behind, or marks alone.
VALUE = re.compile(r"\W*(?:\d|$)")


def with_labels_apart(layout: PageLayout, draft: TableDraft) -> TableDraft:
    """Part rows whose last line is the label of a group of rows: it stands in the stub alone, and is no rest
    of the line above; rows of labels alone come elsewhere, or the next row is indented.
    """
    w, row = layout.words, 0
    rows = cells_by_row(draft)
    while row < draft.rows:
        label = _label(layout, rows.get(row, []))
        if len(label):
            alone = any(r != row and all(c.column == 0 for c in cells) for r, cells in rows.items())
            low = float(w.x0[label].min()) + INDENT * layout.em
            below = [c for c in rows.get(row + 1, []) if c.column == 0]
            if alone or any(w.x0[c.words].min() > low for c in below):
                draft = parted(layout, draft, row, int(w.row[label[0]]))
                rows = cells_by_row(draft)
        row += 1
    return draft


def _label(layout: PageLayout, cells: Sequence[CellDraft]) -> Ints:
    """The words of the last line in a row of a table, where these are the end of its stub, and no rest of the
    line above: the stub has none, or that has something beside it and is farther off than lines of one cell
    are; none otherwise.
    """
    w, em = layout.words, layout.em
    none = np.empty(0, dtype=np.int64)
    words = words_of(cells)
    if not len(words) or (w.row[words] == w.row[words[0]]).all() or any(c.rowspan > 1 for c in cells):
        return none
    stub = words_of([c for c in cells if c.column == 0])
    if not len(stub):
        return none
    last = w.row[words[w.y0[words].argmax()]]
    label: Ints = words[w.row[words] == last]
    others = words[w.row[words] != last]
    if w.y0[label].min() < w.y1[others].max() - OVERLAP * em or not np.isin(label, stub).all():
        return none
    above = stub[w.row[stub] != last]
    if not len(above):
        return label
    line = w.row[above[w.y0[above].argmax()]]
    beside = (w.row[others] == line) & ~np.isin(others, stub)
    return label if beside.any() and w.y0[label].min() - w.y1[above].max() > LINES_OFF * em else none


def with_paragraphs_joined(layout: PageLayout, draft: TableDraft) -> TableDraft:
    """Join rows that are nothing but prose in one column to the row above, whose text there they go on with:
    they stand nearer to it or farther from it than rows with a stub do from each other.
    """
    rows = cells_by_row(draft)
    lone = [
        r
        for r, cells in rows.items()
        if len(cells) == 1
        and cells[0].column
        and cells[0].colspan == cells[0].rowspan == 1
        and len(cells[0].words) >= PROSE
    ]
    if not lone or any(c.rowspan > 1 for c in draft.cells):
        return draft
    tops, feet = row_extents(layout, draft)
    begun = [r for r, cells in rows.items() if r - 1 in rows and any(c.column == 0 for c in cells)]
    if not begun or len(begun) < len(rows) - 1 - len(lone):
        return draft
    usual = median(np.array([tops[r] - feet[r - 1] for r in begun]))
    joined = [
        r
        for r in lone
        if r - 1 in rows
        and any(c.column == rows[r][0].column for c in rows[r - 1])
        and abs(tops[r] - feet[r - 1] - usual) > ROOMS * layout.em
    ]
    for r in reversed(joined):
        draft = _without_row(draft, r)
    return draft


def with_lines_joined(layout: PageLayout, draft: TableDraft, lines: Sequence[float]) -> TableDraft:
    """Join rows to those above that stand between the same two of some level `lines` (their y), where most
    rows stand between two alone: they go on with some of the texts above, no farther off than lines of one
    cell.
    """
    if len(lines) < BANDS or any(c.rowspan > 1 for c in draft.cells):
        return draft
    rows = cells_by_row(draft)
    if len(rows) < draft.rows:
        return draft
    band = bands(layout, draft, lines)
    if (np.bincount(band) == 1).sum() < max(BANDS, SINGLE * len(distinct(band))):
        return draft
    tops, feet = row_extents(layout, draft)
    for r in range(draft.rows - 1, 0, -1):
        if band[r] != band[r - 1] or tops[r] - feet[r - 1] >= MAX_ROOM * layout.em:
            continue
        if _goes_on_with(layout, rows[r - 1], rows[r]):
            draft = _without_row(draft, r)
    return draft


def with_near_lines_joined(layout: PageLayout, draft: TableDraft, lines: Sequence[float]) -> TableDraft:
    """Join rows to those above that go on with some of their texts, each nearer to the row above than any
    that do not are to theirs, and than most by far: lines of one cell, where nothing but room tells them, and
    none of some level `lines` (their y) runs between.
    """
    if draft.rows < BANDS + 2 or any(c.rowspan > 1 for c in draft.cells):
        return draft
    rows = cells_by_row(draft)
    if len(rows) < draft.rows:
        return draft
    tops, feet = row_extents(layout, draft)
    # The first row and what stands below it may be heads.
    more = np.diff(bands(layout, draft, lines))[1:] == 0
    more &= [_goes_on_with(layout, rows[r - 1], rows[r]) for r in range(2, draft.rows)]
    if (~more).sum() < BANDS:
        return draft
    rooms = tops[2:] - feet[1:-1]
    usual = rooms[~more]
    near = min(float(usual.min()), median(usual) - ROOMS * layout.em, MAX_ROOM * layout.em)
    joined = {r for r in range(2, draft.rows) if more[r - 2] and rooms[r - 2] < near}
    lone = [r for r, (cell, *others) in rows.items() if r and not others and cell.column == 0]
    if any(plain_text(layout, rows[r][0].words)[0].islower() for r in lone if r not in joined):
        # Labels of groups begin small here.
        joined.difference_update(lone)
    for r in sorted(joined, reverse=True):
        draft = _without_row(draft, r)
    return draft


def with_rests_joined(layout: PageLayout, draft: TableDraft) -> TableDraft:
    """Join rows that are nothing but a text in small letters to the row above, where several words without an
    end fill their column and this goes on with them; all other rows have a label in the stub.
    """
    rows = cells_by_row(draft)
    lone = [r for r, cells in rows.items() if r and not any(c.column == 0 for c in cells)]
    if not lone or draft.rows - len(lone) < BANDS or any(c.rowspan > 1 for c in draft.cells):
        return draft
    tops, feet = row_extents(layout, draft)
    if not all(_is_rest(layout, draft, rows.get(r - 1, []), rows[r]) for r in lone):
        return draft
    if any(tops[r] - feet[r - 1] >= MAX_ROOM * layout.em for r in lone):
        return draft
    for r in reversed(lone):
        draft = _without_row(draft, r)
    return draft


def with_items_joined(layout: PageLayout, draft: TableDraft, lines: Sequence[float]) -> TableDraft:
    """Join rows that are nothing but an item of a list, or the rest of one right of its mark, to the row that
    holds the first item in their column, where none of some level `lines` (their y) runs between.
    """
    w, rows = layout.words, cells_by_row(draft)
    if MARKS.isdisjoint([w.texts[cells[-1].words[0]] for cells in rows.values()]) or len(rows) < draft.rows:
        return draft
    if any(c.rowspan > 1 for c in draft.cells):
        return draft
    band = bands(layout, draft, lines)
    out = draft.copy()
    rows = cells_by_row(out)
    first, joined = 0, []
    for r in range(1, draft.rows):
        cell, *others = rows[r]
        begun = (c for c in rows[first] if c.column == cell.column and w.texts[c.words[0]] in MARKS)
        above = next(begun, None)
        alone = cell.column and not others and band[r] == band[first]
        if (
            above
            and alone
            and (w.texts[cell.words[0]] in MARKS or w.x0[cell.words].min() > w.x1[above.words[0]])
        ):
            joined.append(r)
            above.words = [*above.words, *cell.words]
        else:
            first = r
    cells = [replace(c, row=c.row - bisect_left(joined, c.row)) for c in out.cells if c.row not in joined]
    return replace(draft, rows=draft.rows - len(joined), cells=cells) if joined else draft


def _is_rest(
    layout: PageLayout, draft: TableDraft, above: Sequence[CellDraft], row: Sequence[CellDraft]
) -> bool:
    """Whether a row is one text that goes on with the last line above it in its column, which is full."""
    w = layout.words
    upper = [c for c in above if c.column == row[0].column and c.colspan == 1 and c.words]
    if len(row) > 1 or row[0].colspan > 1 or not row[0].words or not upper:
        return False
    said = plain_text(layout, upper[0].words)
    ends = [float(w.x1[c.words].max()) for c in draft.cells if c.column == row[0].column and c.words]
    full = float(w.x1[upper[0].words].max()) > max(ends) - FULL * layout.em
    open_ = len(said.split()) >= REST and said[-1] not in ".:;!?"
    return full and open_ and plain_text(layout, row[0].words)[0].islower()


def _goes_on_with(layout: PageLayout, above: Sequence[CellDraft], row: Sequence[CellDraft]) -> bool:
    """Whether all texts of a row stand below others of the row above, which has more, and may be the rest of
    these: no numbers, and not all in fonts of their own, as below a head. What has all but the stub is a row
    of the same group; what stands in the stub alone may be the label of a group, unless the line above is
    open or it begins small.
    """
    upper, own = ({c.column: c.words for c in cells if c.colspan == 1} for cells in (above, row))
    if len(own) < len(row) or not own.keys() < upper.keys():
        return False
    said = {column: plain_text(layout, words) for column, words in own.items()}
    if own.keys() == {0} and said[0].isdecimal():
        # Names may end in a small number; years are labels of groups.
        return len(said[0]) <= DIGITS and plain_text(layout, upper[0])[-1].isalpha()
    if any(map(VALUE.match, said.values())) or (len(own) > 1 and own.keys() == upper.keys() - {0}):
        return False
    face = typefaces(layout)[layout.words.font]
    if set(face[words_of(above)].tolist()).isdisjoint(face[words_of(row)].tolist()):
        return False
    if own.keys() != {0}:
        return True
    label = plain_text(layout, upper[0])
    # Writing that has no small letters goes on in its own kind.
    return goes_on(label, said[0]) or (_is_caseless(label[-1]) and _is_caseless(said[0][0]))


def _is_caseless(letter: str) -> bool:
    """Whether a letter is of a writing without capitals."""
    return letter.isalpha() and letter.lower() == letter.upper()


def _without_row(draft: TableDraft, row: int) -> TableDraft:
    """Put the texts of a row into the cells above, row by row."""
    cells = []
    for c in draft.cells:
        if c.row < row - 1 or c.row > row:
            cells.append(c if c.row < row else replace(c, row=c.row - 1))
        elif c.row == row - 1:
            own = [i for d in draft.cells if d.row == row and d.column == c.column for i in d.words]
            cells.append(replace(c, words=[*c.words, *own]))
    return replace(draft, rows=draft.rows - 1, cells=cells)
