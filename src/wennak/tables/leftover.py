"""Rows that are left over at the top of a page or column, read with the columns of the table that ends the
one before: by themselves, a row or two show no columns.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from ..ink import Bools, Ints, distinct, median
from ..layout import PageLayout
from .continued import ROOM, Part, are_numbers, body_texts, row_words
from .draft import CellDraft, TableDraft
from .finish import finish
from .margins import loose_words
from .numbers import is_numeric
from .recut import WITHIN
from .rows import Row, rows_of
from .signs import AFTER, BEFORE, hand_over

# What tags or a service say to be a table goes on where they say so.
SAID = ("tagged", "remote")
# Ends of texts this near (em) to those of a column stand where these do; so far labels may be indented.
ALIGNED, INDENT = 0.5, 3.0
# The rows begin within so many from the top: above them may be running heads.
FIRST = 4
# What stands beside a column this near (em) is looked at with it, and is no other text.
BESIDE = 1.0
# Rows are farther apart than the lines within them where the difference is at least this (em).
APART = 0.15


@dataclass(frozen=True, slots=True)
class _Columns:
    """The columns of a table: the cuts between them, where their texts reach, whether they hold numbers; and
    the words of the rows that head them.
    """

    cuts: list[float]
    spans: list[tuple[float, float] | None]
    numeric: list[bool]
    heads: list[list[str]]

    def repeated(self, layout: PageLayout, line: Row) -> bool:
        """Whether a line repeats one of the heads."""
        return sorted(layout.words.texts[i] for i in line.words) in self.heads


def left_over(
    layout: PageLayout, taken: Bools, draft: TableDraft, part: Part, before: PageLayout
) -> TableDraft | None:
    """Return the first rows of a page, among its words that are not taken, that stand in the columns of a
    table on the page before, or on the same page in a column left of them; None where there are none.

    `draft`, `part` and `before`, the layout of its page, are that table's. Whether it goes on with them is
    not asked here.
    """
    if draft.method in SAID or draft.columns < 2 or len(draft.column_edges) != draft.columns + 1:
        return None
    w, box, beside = layout.words, part.box, BESIDE * layout.em
    upright = ~taken & ~w.turned
    free = upright & loose_words(layout)
    numeric = [are_numbers(body_texts(part.table, column)) for column in range(draft.columns)]
    heads = row_words(part.table)[: part.table.header_rows]
    pitch = (box.y1 - box.y0) / part.table.rows
    for shift in _shifts(layout, free, part):
        inside = free & (w.x0 > box.x0 + shift - beside) & (w.x1 < box.x1 + shift + beside)
        columns = _Columns(
            [x + shift for x in draft.column_edges[1:-1]],
            [None if span is None else (span[0] + shift, span[1] + shift) for span in part.columns],
            numeric,
            heads,
        )
        rows = rows_of(layout, np.flatnonzero(inside))
        for first in range(min(FIRST, len(rows))):
            lines, filled = _fitting(layout, rows[first:], columns, ROOM * pitch)
            if not lines or _cut_off(layout, lines, upright & ~inside):
                continue
            room = _row_room(before, draft)
            if not _above_table(layout, taken, lines[-1], ROOM * pitch):
                lines = lines[: _last(lines, filled, room or 0.0)]
            return _read(layout, lines, draft, columns, room)
    return None


def _shifts(layout: PageLayout, free: Bools, part: Part) -> list[float]:
    """How far right of the table's place its rows may go on: at the same place on the next page, or where
    text begins at the top.
    """
    w = layout.words
    elsewhere = np.flatnonzero(free)
    out = [0.0]
    if layout.number == part.page:
        elsewhere = elsewhere[w.x0[elsewhere] > part.box.x1]
        out = []
    for row in rows_of(layout, elsewhere)[:FIRST]:
        out += [x0 - part.box.x0 for x0, _ in row.spans]
    return [s for k, s in enumerate(out) if all(abs(s - t) > 1.0 for t in out[:k])]


def _fitting(
    layout: PageLayout, lines: Sequence[Row], columns: _Columns, room: float
) -> tuple[list[Row], list[int]]:
    """The first lines that stand in the columns, below heads that are repeated, as far as they follow each
    other, and in how many columns each has text (0 for the heads). The first has text in two at least, and
    one of them in half of the columns.
    """
    out: list[Row] = []
    counts: list[int] = []
    for line in lines:
        count = 0
        if any(counts) or not columns.repeated(layout, line):
            count = _columns_filled(layout, line, columns)
            if not count or (count < 2 and not any(counts)):
                break
        if out and line.y0 - out[-1].y1 > room:
            break
        out.append(line)
        counts.append(count)
    return (out, counts) if 2 * max(counts, default=0) >= len(columns.spans) else ([], [])


def _above_table(layout: PageLayout, taken: Bools, line: Row, room: float) -> bool:
    """Whether a table stands right below a line."""
    w = layout.words
    below = (w.y0 > line.baseline) & (w.y0 < line.y1 + room) & (w.x1 > line.x0) & (w.x0 < line.x1)
    return bool(below.any() and taken[below].all())


def _last(lines: Sequence[Row], filled: Sequence[int], within: float) -> int:
    """How many lines there are up to the last one with text in several columns, and with the lines below that
    which are of its row: `within` so little.
    """
    last = max(k for k, count in enumerate(filled) if count > 1)
    while last + 1 < len(lines) and lines[last + 1].y0 - lines[last].y1 <= within:
        last += 1
    return last + 1


def _columns_filled(layout: PageLayout, line: Row, columns: _Columns) -> int:
    """In how many columns a line has text as the table has it there; 0 where it has other text in any."""
    w, em, cuts = layout.words, layout.em, np.array(columns.cuts)
    if any("=" in w.texts[i] for i in line.words):
        # An equation with its number.
        return 0
    # Signs are handed over to their numbers.
    words = np.array([i for i in line.words if w.texts[i] not in BEFORE | AFTER], dtype=np.int64)
    x0, x1 = w.x0[words, None], w.x1[words, None]
    if ((x0 < cuts - WITHIN * em) & (x1 > cuts + WITHIN * em)).any():
        return 0
    column = np.searchsorted(cuts, (w.x0[words] + w.x1[words]) / 2)
    filled: list[int] = distinct(column).tolist()
    groups = [words[column == c] for c in filled]
    fit = all(_stands(layout, group, columns, c) for c, group in zip(filled, groups, strict=True))
    apart = all(w.x0[b].min() - w.x1[a].max() > ALIGNED * em for a, b in pairwise(groups))
    return len(filled) if fit and apart else 0


def _stands(layout: PageLayout, words: Ints, columns: _Columns, column: int) -> bool:
    """Whether words stand, and are, as the texts of a column."""
    w, em, span = layout.words, layout.em, columns.spans[column]
    x0, x1 = float(w.x0[words].min()), float(w.x1[words].max())
    if span is None:
        return True
    if columns.numeric[column]:
        return is_numeric(" ".join(w.texts[i] for i in words)) and x1 > span[0] and x0 < span[1]
    near = ALIGNED * em
    if column == 0 and -near < x0 - span[0] < INDENT * em:
        return True
    middle = abs(x0 + x1 - span[0] - span[1]) / 2
    return min(abs(x0 - span[0]), abs(x1 - span[1]), middle) < near


def _cut_off(layout: PageLayout, lines: Sequence[Row], others: Bools) -> bool:
    """Whether lines go on, left or right, with other words."""
    w, beside = layout.words, BESIDE * layout.em
    return any(
        (
            others & (w.row == w.row[line.words[0]]) & (w.x1 > line.x0 - beside) & (w.x0 < line.x1 + beside)
        ).any()
        for line in lines
    )


def _row_room(layout: PageLayout, draft: TableDraft) -> float | None:
    """The room between lines beyond which a row begins, as the table has it; None where it has no lines
    within rows, or these are as far apart as rows.
    """
    w = layout.words
    within, between = [], []
    last = None
    for row in range(draft.rows):
        words = np.array(
            [i for c in draft.cells if c.row == row and c.rowspan == 1 for i in c.words], dtype=np.int64
        )
        lines = rows_of(layout, words[np.lexsort((w.x0[words], w.row[words]))])
        within += [b.y0 - a.y1 for a, b in pairwise(lines)]
        if lines and last is not None:
            between.append(lines[0].y0 - last.y1)
        last = lines[-1] if lines else None
    if not within or not between or median(between) - median(within) < APART * layout.em:
        return None
    return float(median(between) + median(within)) / 2


def _read(
    layout: PageLayout, lines: Sequence[Row], draft: TableDraft, columns: _Columns, room: float | None
) -> TableDraft:
    """The table that lines make with these columns.

    Where the table they go on with does not tell by `room`, those are rows that begin in the first column or
    have a number in a column of numbers.
    """
    w = layout.words
    cells: dict[tuple[int, int], CellDraft] = {}
    row, heads = 0, 0
    for k, line in enumerate(lines):
        column = np.searchsorted(columns.cuts, (w.x0[line.words] + w.x1[line.words]) / 2).tolist()
        if k == heads and columns.repeated(layout, line):
            row, heads = k, k + 1
        elif k and k == heads:
            row += 1
        elif k and room is not None:
            row += line.y0 - lines[k - 1].y1 > room
        elif k:
            row += any(c == 0 or columns.numeric[c] for c in column)
        for c, i in zip(column, line.words, strict=True):
            cells.setdefault((row, c), CellDraft(row, c, 1, 1, [])).words.append(i)
    box = layout.box(np.array([i for line in lines for i in line.words]))
    edges = [box.x0, *columns.cuts, box.x1]
    out = TableDraft(box, row + 1, draft.columns, list(cells.values()), draft.method, column_edges=edges)
    # That a column holds more than signs is seen in the other rows only.
    hand_over(layout, out, least=1)
    return finish(layout, out, [], heads)
