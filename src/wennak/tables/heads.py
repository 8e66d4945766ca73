"""Header rows right above a table that its reading leaves out: labels over groups of columns or over all but
the first, or the labels of the columns themselves.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from itertools import pairwise

import numpy as np

from ..ink import Bools, Ints, median
from ..layout import CAPTION, PageLayout
from ..model import Box
from .areas import words_inside
from .caption import NAMED
from .draft import CellDraft, TableDraft, cells_by_row, columns_of, plain_text, text_columns
from .group_labels import shared_out
from .header import MAX_HEADER
from .header_spans import OFF_ROW, REACH, columns_over, is_held, rules_below, spread_headers, text_top
from .numbers import is_value
from .rows import Row, rows_of, within
from .rulings import lines_in
from .spans import spread_over_shading
from .strip import is_sentence
from .tiles import labels_on_tiles

# A header stands this near above its table, and a label this near to the middle of its columns (em).
NEAR, CENTRED = 1.8, 0.75
# ... or as near as so many times the room between its rows.
AS_ROWS = 1.3
# Lines of one label begin, end or have their middles within so little (em), and follow each other so near; or
# so near where several labels have two: one alone may be a name.
SAME_SIDE, SAME_LINE, SAME_LABEL, SAME_LABELS = 0.3, 0.3, 0.35, 0.6
# A blank between words is narrower than this (em).
BLANK = 0.4
# Where rules tell what its labels are over it may stand so far above; what is so near is of its row (em).
RULED_NEAR, BESIDE = 3.0, 3.0
# The rules along a table begin and end so near to its first and last row (em).
BEGINS = 1.2
# A column of texts may be so much wider (em) than those that it has.
WIDER = 3.0
# The middle of the columns is farther than this (em) from that of the table: there its name would stand.
ELSEWHERE = 1.5
# A running head has no more parts, each of them over a column, than one less.
SEVERAL = 3
# Headers have at most so many words, and are at most so much larger than the text, or than their table's.
WORDS, LARGER = 8, 1.1


def add_heads(layout: PageLayout, draft: TableDraft, free: Bools, margin: Bools) -> None:
    """Put the header rows that stand above a table among the `free` words of its page into it, and those at
    the `margin`, where running heads are, that rules, lines, labels at mid height or several labels, each
    over a column, tell to be of it.
    """
    rows, here = draft.rows, free | margin
    _add_section(layout, draft, here)
    while draft.header_rows < MAX_HEADER and (row := _above(layout, draft, here)) is not None:
        if not _add_row(layout, draft, here, row, sure=bool(free[row.words].all())):
            lines = _with_lines_above(layout, draft, here, row)
            if len(lines.words) == len(row.words) or not _add_all(layout, draft, lines):
                break
            row = lines
        here[row.words] = False
    if draft.rows > rows:
        spread_over_shading(layout, draft)


def _add_section(layout: PageLayout, draft: TableDraft, free: Bools) -> None:
    """Put the label of the first section that stands right above a table without a header into it, where
    rules as wide as the table run above and below it, or others in it are set as this one and a row of labels
    stands above.
    """
    row = None if draft.header_rows else _above(layout, draft, free)
    if row is None or len(row.spans) > 1:
        return
    ruled = _is_ruled_off(layout, draft, row)
    own = (cells[0] for cells in cells_by_row(draft).values() if len(cells) == 1)
    alike = next((c for c in own if _is_set_alike(layout, c.words, row)), None)
    if not ruled and alike is None:
        return
    span = draft.columns if ruled or alike is None else alike.colspan
    label = CellDraft(0, 0, 1, span, list(row.words))
    cells = [label, *(replace(c, row=c.row + 1) for c in draft.cells)]
    box = Box.around([draft.box, layout.box(np.array(row.words))])
    grown = replace(draft, cells=cells, rows=draft.rows + 1, box=box)
    free = free.copy()
    free[row.words] = False
    upper = None if ruled else _above(layout, grown, free)
    if ruled or (upper is not None and len(_labels(layout, grown, upper)) >= SEVERAL):
        draft.cells, draft.rows, draft.box = grown.cells, grown.rows, box


def _is_set_alike(layout: PageLayout, words: Sequence[int], row: Row) -> bool:
    """Whether words are in the font of a row and begin, or have their middle, where it does."""
    w = layout.words
    x0, x1 = float(w.x0[words].min()), float(w.x1[words].max())
    off = min(abs(x0 - row.x0), abs(x0 + x1 - row.x0 - row.x1) / 2)
    return bool(w.font[words[0]] == w.font[row.words[0]]) and off < SAME_SIDE * layout.em


def _is_ruled_off(layout: PageLayout, draft: TableDraft, row: Row) -> bool:
    """Whether level rules as wide as a table run right above a row and right below it."""
    level, near, box = layout.rules.level, BEGINS * layout.em, draft.box
    wide = (np.abs(level.low - box.x0) < near) & (np.abs(level.high - box.x1) < near)
    at = level.at[wide]
    above, below = (at < row.baseline) & (at > row.y0 - near), (at > row.baseline) & (at < row.y1 + near)
    return bool(above.any() and below.any())


def _add_row(layout: PageLayout, draft: TableDraft, free: Bools, row: Row, sure: bool) -> bool:
    """Put a row above a table into it, if it is of its header; where that is not `sure` to be no running
    head, it has to be told by more than where its labels stand.
    """
    if stub := _stub_labels(layout, draft, free, row):
        draft.cells = [*stub, *draft.cells]
    elif groups := (
        _groups(layout, draft, row) or labels_on_tiles(layout, draft, row) or _in_frame(layout, draft, row)
    ):
        _add_groups(layout, draft, groups)
    elif firsts := _first_lines(layout, draft, row):
        for cell, words in firsts:
            cell.words = [*words, *cell.words]
    elif not _add_labels(layout, draft, row, sure):
        return False
    draft.box = Box.around([draft.box, layout.box(np.array(row.words))])
    return True


def _with_lines_above(layout: PageLayout, draft: TableDraft, free: Bools, row: Row) -> Row:
    """A row above a table with the lines right above it: labels that wrap have several."""
    free = free.copy()
    for _ in range(MAX_HEADER - 1):
        free[row.words] = False
        upper = _above(layout, draft, free)
        if upper is None or row.y0 - upper.y1 > SAME_LABELS * layout.em:
            break
        spans: list[tuple[float, float]] = []
        for x0, x1 in sorted([*row.spans, *upper.spans]):
            if spans and x0 < spans[-1][1]:
                spans[-1] = spans[-1][0], max(spans[-1][1], x1)
            else:
                spans.append((x0, x1))
        words, ends = sorted([*row.words, *upper.words]), (spans[0][0], max(x1 for _, x1 in spans))
        row = Row(words, *ends, upper.y0, row.y1, row.baseline, spans)
    return row


def _add_all(layout: PageLayout, draft: TableDraft, lines: Row) -> bool:
    """Put the labels of the columns that some lines hold into a row above a table."""
    cells = _labels(layout, draft, lines)
    if len(cells) < SEVERAL or draft.box.y0 - lines.y1 > NEAR * layout.em:
        return False
    draft.cells = [*cells, *(replace(c, row=c.row + 1) for c in draft.cells)]
    draft.rows, draft.header_rows = draft.rows + 1, 1
    draft.box = Box.around([draft.box, layout.box(np.array(lines.words))])
    return True


def _add_labels(layout: PageLayout, draft: TableDraft, row: Row, sure: bool) -> bool:
    """Put the labels of a row, over columns where these have theirs, into a row above a table."""
    cells = _label(layout, draft, row) or _labels(layout, draft, row) or _shared(layout, draft, row)
    over_several = any(c.colspan > 1 for c in cells)
    near = NEAR * layout.em
    if over_several or len(cells) > 1:
        # Rows set wide have their labels as far apart; one alone over one column may be a name.
        near = max(near, AS_ROWS * _room(layout, draft))
    both = _raised(layout, draft, row) if over_several else []
    if not cells or not (sure or both or len(cells) >= SEVERAL) or draft.box.y0 - row.y1 > near:
        return False
    heads = max(draft.header_rows, 1) if is_head(layout, draft) else 0
    for cell in draft.cells:
        if any(cell is each for each in both):
            cell.rowspan += 1
        else:
            cell.row += 1
    draft.cells = [*cells, *draft.cells]
    draft.rows, draft.header_rows = draft.rows + 1, heads + 1
    return True


def _above(layout: PageLayout, draft: TableDraft, free: Bools) -> Row | None:
    """The nearest row above a table in its width, if it is near and goes on neither left nor right."""
    w, em, box = layout.words, layout.em, draft.box
    around = words_inside(
        layout, Box(box.x0 - em, box.y0 - 3 * RULED_NEAR * em, box.x1 + em, box.y0 + 0.3 * em)
    )
    around = around[free[around]]
    rows = rows_of(layout, around[~w.turned[around]])
    rows += _sideways(layout, around[w.turned[around]])
    row = max(rows, key=lambda row: row.y1, default=None)
    if row is None:
        return None
    level = (w.row == w.row[row.words[0]]) & (w.x1 > row.x0 - BESIDE * em) & (w.x0 < row.x1 + BESIDE * em)
    if level.sum() > len(row.words) or box.y0 - row.y1 > RULED_NEAR * em:
        return None
    text = plain_text(layout, row.words)
    usual = max(em, median(w.size[draft.word_indices()]))
    long, large = len(row.words) > WORDS * len(row.spans), float(w.size[row.words].max()) > LARGER * usual
    # What ends as a sentence does is no label; the last word of one of several may be a short one.
    parts = [plain_text(layout, within(layout, row, *span)) for span in row.spans]
    ended = text[-1] in ".:;" if len(parts) == 1 else any(map(is_sentence, parts))
    named = NAMED.match(text) or CAPTION.match(text)
    return None if named or ended or long or large else row


def _sideways(layout: PageLayout, turned: Ints) -> list[Row]:
    """The labels set sideways that stand lowest and beside each other, as one row."""
    w = layout.words
    if not len(turned):
        return []
    lowest = turned[np.argmax(w.y1[turned])]
    beside = turned[w.y1[turned] > w.y0[lowest]]
    beside = beside[np.argsort(w.x0[beside], kind="stable")]
    x0, x1, foot = w.x0[beside].tolist(), w.x1[beside].tolist(), float(w.y1[lowest])
    spans = list(zip(x0, x1, strict=True))
    return [Row(beside.tolist(), x0[0], max(x1), float(w.y0[beside].min()), foot, foot, spans)]


def _stub_labels(layout: PageLayout, draft: TableDraft, free: Bools, row: Row) -> list[CellDraft]:
    """The labels of the first columns, which have none, that a row holds at mid height between the labels of
    the others and those over groups of these; nothing where it does not.
    """
    count = len(row.spans)
    labelled = columns_of([c for c in draft.cells if c.row == 0 and c.words])
    if count >= draft.columns or labelled != set(range(count, draft.columns)) or _counts(layout, row.words):
        return []
    columns = text_columns(layout, draft)
    for k, (x0, x1) in enumerate(row.spans):
        own, behind = columns[k], columns[k + 1]
        if behind is None or x1 > behind[0] or (k and (own is None or x1 < own[0] or x0 > own[1])):
            return []
    others = free.copy()
    others[row.words] = False
    upper = _above(layout, draft, others)
    if upper is None or upper.x0 < row.x1 or not _looks_alike(layout, draft, row):
        return []
    foot = max(layout.box(np.array(c.words)).y1 for c in draft.cells if c.row == 0 and c.words)
    if abs(row.y0 + row.y1 - upper.y0 - foot) / 2 >= OFF_ROW * layout.em:
        return []
    return [CellDraft(0, k, 1, 1, within(layout, row, *span)) for k, span in enumerate(row.spans)]


def _first_lines(layout: PageLayout, draft: TableDraft, row: Row) -> list[tuple[CellDraft, list[int]]]:
    """The labels of a table of which a row right above them holds the first lines, with the words of these;
    nothing where it holds anything else.
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
        if len(under) != 1 or under[0][0].colspan > 1 or _counts(layout, words):
            return []
        cell, box = under[0]
        off = min(abs(box.x0 - x0), abs(box.x1 - x1), abs(box.x0 + box.x1 - x0 - x1) / 2)
        if off > SAME_SIDE * em or not -SAME_LINE * em < box.y0 - row.y1 < near:
            return []
        out.append((cell, words))
    return out


def _raised(layout: PageLayout, draft: TableDraft, row: Row) -> list[CellDraft]:
    """The cells of the first row that stand at mid height of that and of a row of labels above it."""
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
    both = columns_of(_raised(layout, draft, row))
    own = [k for k in range(draft.columns) if k not in (both or {0})]
    side_by_side = bool(own) and own[-1] - own[0] + 1 == len(own)
    return range(own[0], own[-1] + 1) if side_by_side else range(0)


def _label(layout: PageLayout, draft: TableDraft, row: Row) -> list[CellDraft]:
    """The label over all columns but the first that a row is, or over all that have no label at mid height;
    nothing where it is none.
    """
    columns = text_columns(layout, draft)
    if len(row.spans) != 1 or draft.columns < 3 or not is_head(layout, draft) or None in columns[1:]:
        return []
    if not _looks_alike(layout, draft, row):
        return []
    if _raised(layout, draft, row):
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
    room = 0.0 if all(_counts(layout, words) for words in last if words) else WIDER * em
    centred = (first + x1) / 2 - CENTRED * em < middle < (x0 + x1 + room) / 2 + CENTRED * em
    apart = middle - (draft.box.x0 + draft.box.x1) / 2 > ELSEWHERE * em
    inside = row.x0 > first and row.x1 < x1 + CENTRED * em
    return [CellDraft(0, 1, 1, draft.columns - 1, list(row.words))] if centred and apart and inside else []


def _looks_alike(layout: PageLayout, draft: TableDraft, row: Row) -> bool:
    """Whether a row is in the weight and slope of the labels of a table, as labels over these are and names
    of tables may not be.
    """
    w, fonts = layout.words, layout.ink.fonts
    first = [i for c in draft.cells if c.row == 0 for i in c.words]
    faces = [
        {(fonts[w.font[i]].bold, fonts[w.font[i]].italic) for i in words} for words in (row.words, first)
    ]
    return bool(faces[0] & faces[1])


def _shared(layout: PageLayout, draft: TableDraft, row: Row) -> list[CellDraft]:
    """The labels of a row that share out all columns which have a label below, but the first, each over the
    middle of several; nothing where they do not.
    """
    columns = text_columns(layout, draft)
    own = _lower_columns(layout, draft, row)
    spans = [span for k in own if (span := columns[k])]
    labels = [within(layout, row, x0, x1) for x0, x1 in row.spans]
    if not own or len(spans) < len(own) or len(labels) < 2 or not is_head(layout, draft):
        return []
    if any(_counts(layout, words) for words in labels):
        return []
    # The first of these may be of the labels of rows.
    for first in range(len(spans) - 2 * len(labels) + 1):
        groups = shared_out(spans[first:], row.spans, CENTRED * layout.em)
        if min((b - a for a, b in groups), default=0) > 1:
            places = zip(labels, groups, strict=True)
            return [CellDraft(0, own[first + a], 1, b - a, words) for words, (a, b) in places]
    return []


def _room(layout: PageLayout, draft: TableDraft) -> float:
    """The usual room between the rows of a table."""
    w = layout.words
    held = [
        np.array([i for c in draft.cells if c.row == r and c.rowspan == 1 for i in c.words], dtype=np.int64)
        for r in range(draft.rows)
    ]
    rooms = [w.y0[b].min() - w.y1[a].max() for a, b in pairwise(held) if len(a) and len(b)]
    return median(np.array(rooms)) if rooms else 0.0


def _groups(layout: PageLayout, draft: TableDraft, row: Row) -> list[CellDraft]:
    """The labels of groups of columns that a row holds, each with a rule below it over whole columns, but not
    all, or of one column, beside labels below such a rule; nothing where any is none.
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
        if own is None or not own[0] <= at <= own[1] or (own[0] == 0 and own[1]) or _counts(layout, words):
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


def _in_frame(layout: PageLayout, draft: TableDraft, row: Row) -> list[CellDraft]:
    """The labels that a row holds above those of the columns, set as these, where rules tell that the table
    begins with it; nothing where they do not.
    """
    if not (is_head(layout, draft) and _looks_alike(layout, draft, row)) or not _is_ruled(layout, draft, row):
        return []
    labels = [within(layout, row, x0, x1) for x0, x1 in row.spans]
    over = [_columns_below(layout, draft, *span) for span in row.spans]
    if any(_counts(layout, words) for words in labels) or any(a[1] >= b[0] for a, b in pairwise(over)):
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


def _add_groups(layout: PageLayout, draft: TableDraft, groups: list[CellDraft]) -> None:
    """Put labels of groups into the first row of a table, where it is empty there and stands beside them, or
    into one above it.
    """
    w = layout.words
    first = [i for c in draft.cells if c.row == 0 for i in c.words]
    held = any(is_held(draft, 0, c.column, c.column + c.colspan - 1) for c in groups)
    held |= max(w.y1[i] for c in groups for i in c.words) < w.y0[first].min(initial=np.inf)
    if held:
        for cell in draft.cells:
            cell.row += 1
        draft.rows += 1
    # What was no header is one now.
    draft.header_rows = max(draft.header_rows, 1) + held
    draft.cells = [*groups, *draft.cells]
    draft.box = Box.around([draft.box, *(layout.box(np.array(c.words)) for c in groups)])
    spread_headers(layout, draft)


def _labels(layout: PageLayout, draft: TableDraft, row: Row) -> list[CellDraft]:
    """The labels of the columns that a row holds, where the table has none; nothing where it does not."""
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
        if len(over) != 1 or over[0] in cells or _counts(layout, words):
            return []
        cells[over[0]] = CellDraft(0, over[0], 1, 1, words)
    # One column may have none, or all those of the labels of rows.
    stub = min(cells)
    numbers = any(_counts(layout, c.words) for c in draft.cells if c.column < stub and c.words)
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
    """Whether the first row has labels over all columns but the first."""
    first = [c for c in draft.cells if c.row == 0 and c.words and c.column]
    covered = sum(c.colspan for c in first)
    return covered == draft.columns - 1 and not any(_counts(layout, c.words) for c in first)


def _counts(layout: PageLayout, words: Sequence[int]) -> bool:
    """Whether words are a number, and no year."""
    return is_value(plain_text(layout, words))
