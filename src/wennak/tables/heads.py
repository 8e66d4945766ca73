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
from .head_labels import (
    BEGINS,
    BESIDE,
    SAME_LABELS,
    SAME_SIDE,
    counts,
    first_lines,
    is_head,
    label_over,
    labels_in_frame,
    labels_of_columns,
    labels_of_groups,
    labels_shared_out,
    looks_alike,
    raised,
)  # fmt: skip
from .header import MAX_HEADER
from .header_spans import OFF_ROW, is_held, spread_headers
from .margins import MARGIN
from .rows import Row, rows_of, within
from .spans import spread_over_shading
from .strip import is_sentence
from .tiles import labels_on_tiles

# A header stands this near above its table (em).
NEAR = 1.8
# ... or as near as so many times the room between its rows.
AS_ROWS = 1.3
# Where rules tell what its labels are over it may stand so far above (em).
RULED_NEAR = 3.0
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
    if ruled or (upper is not None and len(labels_of_columns(layout, grown, upper)) >= SEVERAL):
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
        labels_of_groups(layout, draft, row)
        or labels_on_tiles(layout, draft, row)
        or labels_in_frame(layout, draft, row)
    ):
        _add_groups(layout, draft, groups)
    elif firsts := first_lines(layout, draft, row):
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
    cells = labels_of_columns(layout, draft, lines)
    if len(cells) < SEVERAL or draft.box.y0 - lines.y1 > NEAR * layout.em:
        return False
    draft.cells = [*cells, *(replace(c, row=c.row + 1) for c in draft.cells)]
    draft.rows, draft.header_rows = draft.rows + 1, 1
    draft.box = Box.around([draft.box, layout.box(np.array(lines.words))])
    return True


def _add_labels(layout: PageLayout, draft: TableDraft, row: Row, sure: bool) -> bool:
    """Put the labels of a row, over columns where these have theirs, into a row above a table."""
    cells = (
        label_over(layout, draft, row)
        or labels_of_columns(layout, draft, row)
        or labels_shared_out(layout, draft, row)
    )
    over_several = any(c.colspan > 1 for c in cells)
    near = NEAR * layout.em
    if over_several or len(cells) > 1:
        # Rows set wide have their labels as far apart; one alone over one column may be a name.
        near = max(near, AS_ROWS * _room(layout, draft))
    both = raised(layout, draft, row) if over_several else []
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
    return None if named or ended or long or large or _is_running_head(layout, row) else row


def _is_running_head(layout: PageLayout, row: Row) -> bool:
    """Whether a row is the first of its page and underlined as far as it reaches, and no farther."""
    w, level, near = layout.words, layout.rules.level, SAME_SIDE * layout.em
    below = (level.at > row.baseline) & (level.at < row.y1 + BEGINS * layout.em)
    as_wide = below & (np.abs(level.low - row.x0) < near) & (np.abs(level.high - row.x1) < near)
    return row.y1 < MARGIN * layout.height and bool(as_wide.any()) and bool((w.y1 >= row.y0).all())


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
    if count >= draft.columns or labelled != set(range(count, draft.columns)) or counts(layout, row.words):
        return []
    columns = text_columns(layout, draft)
    for k, (x0, x1) in enumerate(row.spans):
        own, behind = columns[k], columns[k + 1]
        if behind is None or x1 > behind[0] or (k and (own is None or x1 < own[0] or x0 > own[1])):
            return []
    others = free.copy()
    others[row.words] = False
    upper = _above(layout, draft, others)
    if upper is None or upper.x0 < row.x1 or not looks_alike(layout, draft, row):
        return []
    foot = max(layout.box(np.array(c.words)).y1 for c in draft.cells if c.row == 0 and c.words)
    if abs(row.y0 + row.y1 - upper.y0 - foot) / 2 >= OFF_ROW * layout.em:
        return []
    return [CellDraft(0, k, 1, 1, within(layout, row, *span)) for k, span in enumerate(row.spans)]


def _room(layout: PageLayout, draft: TableDraft) -> float:
    """The usual room between the rows of a table."""
    w = layout.words
    held = [
        np.array([i for c in draft.cells if c.row == r and c.rowspan == 1 for i in c.words], dtype=np.int64)
        for r in range(draft.rows)
    ]
    rooms = [w.y0[b].min() - w.y1[a].max() for a, b in pairwise(held) if len(a) and len(b)]
    return median(np.array(rooms)) if rooms else 0.0


def _add_groups(layout: PageLayout, draft: TableDraft, groups: list[CellDraft]) -> None:
    """Put labels of groups into the first row of a table, where it is empty there and stands beside them, or
    into one above it.
    """
    w = layout.words
    first = [i for c in draft.cells if c.row == 0 for i in c.words]
    held = any(is_held(draft, 0, c.column, c.column + c.colspan - 1) for c in groups)
    held |= bool(max(w.y1[i] for c in groups for i in c.words) < w.y0[first].min(initial=np.inf))
    if held:
        for cell in draft.cells:
            cell.row += 1
        draft.rows += 1
    # What was no header is one now.
    draft.header_rows = max(draft.header_rows, 1) + held
    draft.cells = [*groups, *draft.cells]
    draft.box = Box.around([draft.box, *(layout.box(np.array(c.words)) for c in groups)])
    spread_headers(layout, draft)
