"""Lines that stand in the columns of a table which stands elsewhere, and the table that they make."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from ..ink import Bools, Ints, distinct, median
from ..layout import PageLayout
from .continued import Part, are_numbers, body_texts
from .draft import CellDraft, TableDraft, plain_text
from .finish import finish
from .numbers import is_numeric, is_value
from .recut import WITHIN
from .repeated import row_words
from .rows import Row, rows_of
from .signs import AFTER, BEFORE, hand_over

# Ends of texts this near (em) to those of a column stand where these do; so far labels may be indented.
ALIGNED, INDENT = 0.5, 3.0
# What stands beside a column this near (em) is looked at with it, and is no other text.
BESIDE = 1.0
# Rows are farther apart than the lines within them where the difference is at least this (em).
APART = 0.15


@dataclass(frozen=True, slots=True)
class Columns:
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


def columns_of(draft: TableDraft, part: Part, shift: float) -> Columns:
    """Return the columns of a table, as they stand so far right of it."""
    return Columns(
        [x + shift for x in draft.column_edges[1:-1]],
        [None if span is None else (span[0] + shift, span[1] + shift) for span in part.columns],
        [are_numbers(body_texts(part.table, column)) for column in range(draft.columns)],
        # The first row may be a head that nothing tells from the others: where it is repeated, it is.
        [sorted(row) for row in row_words(part.table)[: max(part.table.header_rows, 1)]],
    )


def columns_filled(layout: PageLayout, line: Row, columns: Columns) -> dict[int, Ints]:
    """The words of a line by the columns in which it has text as the table has it there; nothing where it has
    other text in any.
    """
    w, em, cuts = layout.words, layout.em, np.array(columns.cuts)
    if any("=" in w.texts[i] for i in line.words):
        # An equation with its number.
        return {}
    # Signs are handed over to their numbers.
    words = np.array([i for i in line.words if w.texts[i] not in BEFORE | AFTER], dtype=np.int64)
    x0, x1 = w.x0[words, None], w.x1[words, None]
    if ((x0 < cuts - WITHIN * em) & (x1 > cuts + WITHIN * em)).any():
        return {}
    column = np.searchsorted(cuts, (w.x0[words] + w.x1[words]) / 2)
    filled: list[int] = distinct(column).tolist()
    groups = [words[column == c] for c in filled]
    fit = all(_stands(layout, group, columns, c) for c, group in zip(filled, groups, strict=True))
    apart = all(w.x0[b].min() - w.x1[a].max() > ALIGNED * em for a, b in pairwise(groups))
    return dict(zip(filled, groups, strict=True)) if fit and apart else {}


def labels(layout: PageLayout, line: Row, columns: Columns, row: int) -> list[CellDraft]:
    """Return the texts of a line as cells of a row, each over the columns that it reaches into; none where
    any stands beside the texts of its columns, but before numbers, or is a number that names no year and does
    not count the columns.
    """
    w, reach, cuts = layout.words, WITHIN * layout.em, columns.cuts
    left = w.x0[line.words]
    out: list[CellDraft] = []
    texts: list[str] = []
    for x0, x1 in line.spans:
        own = np.array(line.words)[(left >= x0) & (left <= x1)].tolist()
        first, last = (int(k) for k in np.searchsorted(cuts, (x0 + reach, x1 - reach)))
        last = max(first, last)
        under = [span for span in columns.spans[first : last + 1] if span]
        before = columns.spans[first - 1] if first else None
        # Labels set to the left stand beside numbers set to the right, behind the text of the column before.
        left_of = columns.numeric[first] and (before is None or x0 > before[1])
        beside = under and (x0 > under[-1][1] + reach or (x1 < under[0][0] - reach and not left_of))
        texts.append(plain_text(layout, own))
        taken = out and out[-1].column + out[-1].colspan > first
        if beside or taken:
            return []
        out.append(CellDraft(row, first, 1, last - first + 1, own))
    return out if not any(map(is_value, texts)) or _count_up(texts) else []


def _count_up(texts: Sequence[str]) -> bool:
    """Whether texts are 1, 2, 3 and so on, in brackets or not."""
    return len(texts) > 1 and [text.strip("()[].") for text in texts] == [
        str(k) for k in range(1, len(texts) + 1)
    ]


def _stands(layout: PageLayout, words: Ints, columns: Columns, column: int) -> bool:
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


def is_cut_off(layout: PageLayout, lines: Sequence[Row], others: Bools) -> bool:
    """Whether lines go on, left or right, with other words."""
    w, beside = layout.words, BESIDE * layout.em
    return any(
        (
            others & (w.row == w.row[line.words[0]]) & (w.x1 > line.x0 - beside) & (w.x0 < line.x1 + beside)
        ).any()
        for line in lines
    )


def row_room(layout: PageLayout, draft: TableDraft) -> float | None:
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


def read_lines(
    layout: PageLayout,
    lines: Sequence[Row],
    draft: TableDraft,
    columns: Columns,
    room: float | None,
    head: Sequence[CellDraft] = (),
    rest: int = 0,
) -> TableDraft:
    """The table that lines make with these columns, below the cells of a head; so many of the first ones are
    the `rest` of a row.

    Where the table they go on with does not tell by `room`, those are rows that begin in the first column or
    have a number in a column of numbers.
    """
    w = layout.words
    cells: dict[tuple[int, int], CellDraft] = {}
    row = heads = max((c.row + c.rowspan for c in head), default=0)
    for k, line in enumerate(lines):
        column = np.searchsorted(columns.cuts, (w.x0[line.words] + w.x1[line.words]) / 2).tolist()
        if not head and k == heads and columns.repeated(layout, line):
            row, heads = k, k + 1
        elif k < rest:
            pass
        elif k == rest > 0 or (k and row < heads):
            row += 1
        elif k and room is not None:
            row += line.y0 - lines[k - 1].y1 > room
        elif k:
            row += any(c == 0 or columns.numeric[c] for c in column)
        for c, i in zip(column, line.words, strict=True):
            cells.setdefault((row, c), CellDraft(row, c, 1, 1, [])).words.append(i)
    drafted = [*head, *cells.values()]
    box = layout.box(np.array([i for c in drafted for i in c.words]))
    edges = [box.x0, *columns.cuts, box.x1]
    rows = max(c.row + c.rowspan for c in drafted)
    out = TableDraft(box, rows, draft.columns, drafted, draft.method, column_edges=edges)
    # That a column holds more than signs is seen in the other rows only.
    hand_over(layout, out, least=1)
    return finish(layout, out, [], heads)
