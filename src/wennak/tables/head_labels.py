"""Which labels a row above a table holds: of its columns, over groups of them, over all but the first, or the
first lines of labels that it has.
"""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise

import numpy as np

from ..layout import PageLayout
from ..model import Box
from .draft import CellDraft, TableDraft, columns_of, plain_text, text_columns
from .group_labels import shared_out
from .header_spans import OFF_ROW, REACH, columns_over, is_held, rules_below, text_top
from .numbers import is_value
from .rows import Row, within
from .rulings import lines_in

# A label stands this near to the middle of its columns (em).
CENTRED = 0.75
# Lines of one label begin, end or have their middles within so little (em), and follow each other so near; or
# so near where several labels have two: one alone may be a name.
SAME_SIDE, SAME_LINE, SAME_LABEL, SAME_LABELS = 0.3, 0.3, 0.35, 0.6
# A blank between words is narrower than this (em).
BLANK = 0.4
# What is so near is of the same row (em), and a rule beside a table.
BESIDE = 3.0
# The rules along a table begin and end so near to its first and last row (em).
BEGINS = 1.2
# A column of texts may be so much wider (em) than those that it has.
WIDER = 3.0
# The middle of the columns is farther than this (em) from that of the table: there its name would stand.
ELSEWHERE = 1.5


def first_lines(layout: PageLayout, draft: TableDraft, row: Row) -> list[tuple[CellDraft, list[int]]]:
    """Return the labels of a table of which a row right above them holds the first lines, with the words of
    these; nothing where it holds anything else.
    """
    w, em = layout.words, layout.em
    if len(row.spans) >= draft.columns or not is_head(layout, draft):
        return []
    first = [(c, layout.box(np.array(c.words))) for c in draft.cells if c.row == 0 and c.words]
    near = (SAME_LABELS if len(row.spans) > 1 else SAME_LABEL) * em
    out = []
    for x0, x1 in row.spans:
        under = [(c, b) for c, b in first if b.x0 < x1 and b.x1 > x0]
        words = [i for i in row.words if x0 <= w.x0[i] <= x1]
        if len(under) != 1 or under[0][0].colspan > 1 or counts(layout, words):
            return []
        cell, box = under[0]
        off = min(abs(box.x0 - x0), abs(box.x1 - x1), abs(box.x0 + box.x1 - x0 - x1) / 2)
        if off > SAME_SIDE * em or not -SAME_LINE * em < box.y0 - row.y1 < near:
            return []
        out.append((cell, words))
    return out


def raised(layout: PageLayout, draft: TableDraft, row: Row) -> list[CellDraft]:
    """Return the cells of the first row that stand at mid height of that and of a row of labels above it."""
    middle = sum(row.spans[0]) / 2
    first = [c for c in draft.cells if c.row == 0 and c.words]
    boxes = [layout.box(np.array(c.words)) for c in first]
    under = min(boxes, key=lambda b: abs(b.x0 + b.x1 - 2 * middle), default=None)
    if under is None:
        return []
    off = OFF_ROW * layout.em
    return [
        c for c, b in zip(first, boxes, strict=True) if under.y0 - b.y0 > off and under.y1 - b.y1 > off
    ]  # fmt: skip


def _lower_columns(layout: PageLayout, draft: TableDraft, row: Row) -> range:
    """The columns that labels above a table may be over: those without a label at mid height, or all but the
    first; none where these are not side by side.
    """
    both = columns_of(raised(layout, draft, row))
    own = [k for k in range(draft.columns) if k not in (both or {0})]
    side_by_side = bool(own) and own[-1] - own[0] + 1 == len(own)
    return range(own[0], own[-1] + 1) if side_by_side else range(0)


def label_over(layout: PageLayout, draft: TableDraft, row: Row) -> list[CellDraft]:
    """Return the label over all columns but the first that a row is, or over all that have no label at mid
    height; nothing where it is none.
    """
    columns = text_columns(layout, draft)
    if len(row.spans) != 1 or draft.columns < 3 or not is_head(layout, draft) or None in columns[1:]:
        return []
    if not looks_alike(layout, draft, row):
        return []
    if raised(layout, draft, row):
        own = _lower_columns(layout, draft, row)
        spans = [span for k in own if (span := columns[k])]
        # Wherever it stands over them, it is over all: its row has no other.
        reach = CENTRED * layout.em
        over = bool(spans) and row.x0 > spans[0][0] - reach and row.x1 < spans[-1][1] + reach
        return [CellDraft(0, own[0], 1, len(own), list(row.words))] if over else []
    # Where a column of numbers set to the right begins is not seen: right of the text beside it.
    first = columns[0][1] if columns[0] else draft.box.x0
    x0 = min(span[0] for span in columns[1:] if span)
    x1 = max(span[1] for span in columns[1:] if span)
    em, middle = layout.em, (row.x0 + row.x1) / 2
    last = [c.words for c in draft.cells if c.column == draft.columns - 1 and c.row >= draft.header_rows]
    room = 0.0 if all(counts(layout, words) for words in last if words) else WIDER * em
    centred = (first + x1) / 2 - CENTRED * em < middle < (x0 + x1 + room) / 2 + CENTRED * em
    apart = middle - (draft.box.x0 + draft.box.x1) / 2 > ELSEWHERE * em
    inside = row.x0 > first and row.x1 < x1 + CENTRED * em
    return [CellDraft(0, 1, 1, draft.columns - 1, list(row.words))] if centred and apart and inside else []


def looks_alike(layout: PageLayout, draft: TableDraft, row: Row) -> bool:
    """Return whether a row is in the weight and slope of the labels of a table, as labels over these are and
    names of tables may not be.
    """
    w, fonts = layout.words, layout.ink.fonts
    first = [i for c in draft.cells if c.row == 0 for i in c.words]
    faces = [
        {(fonts[w.font[i]].bold, fonts[w.font[i]].italic) for i in words} for words in (row.words, first)
    ]
    return bool(faces[0] & faces[1])


def labels_shared_out(layout: PageLayout, draft: TableDraft, row: Row) -> list[CellDraft]:
    """Return the labels of a row that share out all columns which have a label below, but the first, each
    over the middle of several; nothing where they do not.
    """
    columns = text_columns(layout, draft)
    own = _lower_columns(layout, draft, row)
    spans = [span for k in own if (span := columns[k])]
    labels = [within(layout, row, x0, x1) for x0, x1 in row.spans]
    if not own or len(spans) < len(own) or len(labels) < 2 or not is_head(layout, draft):
        return []
    if any(counts(layout, words) for words in labels):
        return []
    # The first of these may be of the labels of rows.
    for first in range(len(spans) - 2 * len(labels) + 1):
        groups = shared_out(spans[first:], row.spans, CENTRED * layout.em)
        if min((b - a for a, b in groups), default=0) > 1:
            places = zip(labels, groups, strict=True)
            return [CellDraft(0, own[first + a], 1, b - a, words) for words, (a, b) in places]
    return []


def labels_of_groups(layout: PageLayout, draft: TableDraft, row: Row) -> list[CellDraft]:
    """Return the labels of groups of columns that a row holds, each with a rule below it over whole columns,
    but not all, or of one column, beside labels below such a rule; nothing where any is none.
    """
    columns = text_columns(layout, draft)
    out: list[CellDraft] = []
    places: list[int] = []
    for x0, x1 in row.spans:
        words = within(layout, row, x0, x1)
        at = int(np.searchsorted(draft.column_edges[1:-1], (x0 + x1) / 2))
        below = text_top(layout, draft, 0, at)
        over = (
            found
            for low, high in rules_below(layout, (x0 + x1) / 2, row.y1, below)
            if (found := columns_over(columns, low, high, REACH * layout.em))
        )
        own = next(over, None)
        if own is None and row.y1 > draft.box.y0 and not is_held(draft, 0, at, at):
            own = (at, at)
        if own is None or not own[0] <= at <= own[1] or (own[0] == 0 and own[1]) or counts(layout, words):
            return []
        out.append(CellDraft(0, own[0], 1, own[1] - own[0] + 1, words))
        places.append(at)
    # What stands over the labels of rows alone, or alone over a row of values, above the line that a table
    # begins with, is a running head.
    between = Box(draft.box.x0, row.y1, draft.box.x1, draft.box.y0)
    alone = len(out) == 1 and not is_head(layout, draft)
    if (alone or all(cell.column == 0 for cell in out)) and lines_in(layout, between):
        return []
    if all(a.column + a.colspan <= b.column for a, b in pairwise(out)):
        return out
    # One rule below several labels: each is over a column of its own first.
    if len(set(places)) < len(places):
        return []
    return [CellDraft(0, at, 1, 1, cell.words) for at, cell in zip(places, out, strict=True)]


def labels_in_frame(layout: PageLayout, draft: TableDraft, row: Row) -> list[CellDraft]:
    """Return the labels that a row holds above those of the columns, set as these, where rules tell that the
    table begins with it; nothing where they do not.
    """
    if not (is_head(layout, draft) and looks_alike(layout, draft, row)) or not _is_ruled(layout, draft, row):
        return []
    labels = [within(layout, row, x0, x1) for x0, x1 in row.spans]
    over = [_columns_below(layout, draft, *span) for span in row.spans]
    if any(counts(layout, words) for words in labels) or any(a[1] >= b[0] for a, b in pairwise(over)):
        return []
    places = zip(labels, over, strict=True)
    return [CellDraft(0, first, 1, last - first + 1, words) for words, (first, last) in places]


def _is_ruled(layout: PageLayout, draft: TableDraft, row: Row) -> bool:
    """Whether upright rules along a table, on both of its sides or between its columns, begin with a row
    above it, or a level rule as wide as the table runs above that row, and none between.
    """
    em, box, upright, level = layout.em, draft.box, layout.rules.upright, layout.rules.level
    begins = (upright.low > row.y0 - BEGINS * em) & (upright.low < row.y0 + SAME_LINE * em)
    along = upright.at[begins & (upright.high > box.y1 - em) & (upright.high < box.y1 + BEGINS * em)]
    left = (along > box.x0 - BESIDE * em) & (along < box.x0)
    right = (along > box.x1) & (along < box.x1 + BESIDE * em)
    inside = (along > box.x0) & (along < box.x1)
    if inside.any() or (left.any() and right.any()):
        return True
    wide = (np.abs(level.low - box.x0) < BEGINS * em) & (np.abs(level.high - box.x1) < BEGINS * em)
    above = wide & (level.at < row.baseline) & (level.at > row.y0 - BEGINS * em)
    return bool(above.any() and not (wide & (level.at > row.baseline) & (level.at < box.y0)).any())


def _columns_below(layout: PageLayout, draft: TableDraft, x0: float, x1: float) -> tuple[int, int]:
    """The first and last column that a label from x0 to x1 is over: the most beside the first one of which it
    stands over the middle, or the one that its middle is in.
    """
    columns = text_columns(layout, draft)
    found = [
        (first, last)
        for first in range(1, draft.columns)
        for last in range(first, draft.columns)
        if (a := columns[first]) and (b := columns[last])
        and abs(a[0] + b[1] - x0 - x1) / 2 < SAME_SIDE * layout.em
    ]  # fmt: skip
    at = int(np.searchsorted(draft.column_edges[1:-1], (x0 + x1) / 2))
    return max(found, key=lambda each: each[1] - each[0], default=(at, at))


def labels_of_columns(layout: PageLayout, draft: TableDraft, row: Row) -> list[CellDraft]:
    """Return the labels of the columns that a row holds, where the table has none; else nothing."""
    columns = text_columns(layout, draft)
    # One label alone is that of the only column beside the labels of rows.
    spans = _at_columns(layout, row, columns, draft.column_edges[1:-1] if draft.drawn else [])
    if (draft.header_rows and is_head(layout, draft)) or len(spans) < min(2, draft.columns - 1):
        return []
    w = layout.words
    cells: dict[int, CellDraft] = {}
    for x0, x1 in spans:
        over = [c for c, span in enumerate(columns) if span and span[0] < x1 and span[1] > x0]
        if len(spans) == 1:
            # It may reach over the text beside its column, and ends as its numbers do; a name begins where
            # the table does.
            near = CENTRED * layout.em
            named = columns[0] is not None and x0 <= columns[0][0] + near
            alike = [c for c, span in enumerate(columns) if c and span and abs(span[1] - x1) < near]
            over = [] if named else alike
        elif not over:
            # Set to the side where what is below is centred, it stands over none of that, but in its column.
            sides = enumerate(pairwise(draft.column_edges))
            over = [c for c, (left, right) in sides if left <= x0 and x1 <= right]
            # Set to the left of numbers set to the right, it stands right behind the text of the one before.
            ends = [(columns[c - 1], columns[c]) for c in range(1, len(columns))] if not over else []
            over += [c for c, (a, b) in enumerate(ends, 1) if a and b and a[1] <= x0 and x1 <= b[1]]
        words = [i for i in row.words if x0 <= (w.x0[i] + w.x1[i]) / 2 <= x1]
        if len(over) != 1 or over[0] in cells or counts(layout, words):
            return []
        cells[over[0]] = CellDraft(0, over[0], 1, 1, words)
    # One column may have none, or all those of the labels of rows.
    stub = min(cells)
    numbers = any(counts(layout, c.words) for c in draft.cells if c.column < stub and c.words)
    missing = draft.columns - len(cells)
    return list(cells.values()) if missing <= 1 or (missing == stub and not numbers) else []


def _at_columns(
    layout: PageLayout, row: Row, columns: Sequence[tuple[float, float] | None], walls: Sequence[float]
) -> list[tuple[float, float]]:
    """Left and right of the parts of a row, those parted too that begin where a column does, farther than a
    blank from the part before, or behind one of the walls between the columns of a grid.
    """
    w, em = layout.words, layout.em
    reach = SAME_SIDE * em / 2
    begins = [span[0] for span in columns if span]
    out: list[tuple[float, float]] = []
    for i in sorted(row.words, key=lambda i: float(w.x0[i])):
        x0, x1 = float(w.x0[i]), float(w.x1[i])
        if out and x0 < out[-1][1]:
            # It stands in another line of the same label.
            out[-1] = (out[-1][0], max(x1, out[-1][1]))
            continue
        apart = not out or any(x0 == a for a, _ in row.spans)
        apart = apart or any(out[-1][1] - reach < x < x0 + reach for x in walls)
        if apart or (x0 - out[-1][1] > BLANK * em and any(abs(x0 - x) < SAME_SIDE * em for x in begins)):
            out.append((x0, x1))
        else:
            out[-1] = (out[-1][0], max(x1, out[-1][1]))
    return out


def is_head(layout: PageLayout, draft: TableDraft) -> bool:
    """Return whether the first row has labels over all columns but the first."""
    first = [c for c in draft.cells if c.row == 0 and c.words and c.column]
    covered = sum(c.colspan for c in first)
    return covered == draft.columns - 1 and not any(counts(layout, c.words) for c in first)


def counts(layout: PageLayout, words: Sequence[int]) -> bool:
    """Return whether words are a number, and no year."""
    return is_value(plain_text(layout, words))
