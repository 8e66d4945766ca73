"""Rows that are left over at an end of a page or column, read with the columns of the table that stands at
the next one: by themselves, a row or two show no columns.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence, Set
from dataclasses import replace

import numpy as np

from ..ink import Bools
from ..layout import PageLayout, running_key
from ..model import Box, Cell, Table
from .caption import NAMED
from .continued import ROOM, Part, begins_large
from .draft import CellDraft, TableDraft, fonts_of, goes_on, plain_text
from .fitting import BESIDE, Columns, columns_filled, columns_of, is_cut_off, labels, read_lines, row_room
from .group_labels import group_labels
from .head_labels import is_head
from .header import MAX_HEADER
from .margins import is_page_number, loose_words, margin_words
from .rows import Row, rows_of, span_of
from .tagged import words_of_table

# Lines of one row follow each other within this (em).
CLOSE = 0.6
# The rows begin within so many from the end: beyond them may be running heads or feet.
FIRST = 4


def left_over(
    layout: PageLayout, taken: Bools, draft: TableDraft, part: Part, before: PageLayout
) -> TableDraft | None:
    """Return the first rows of a page, among its words that are not taken, that stand in the columns of a
    table on the page before, or on the same page in a column left of them; None where there are none.

    `draft`, `part` and `before`, the layout of its page, are that table's. Whether it goes on with them is
    not asked here.
    """
    if not _shows_columns(draft):
        return None
    w = layout.words
    upright = elsewhere = ~taken & ~w.turned & _may_be_of(layout, draft)
    if layout.number == part.page:
        elsewhere = upright & (w.x0 > part.box.x1)
    if not elsewhere.any():
        return None
    loose = loose_words(layout)
    free = upright & loose
    pitch = (part.box.y1 - part.box.y0) / part.table.rows
    faces = _faces(before, draft.word_indices().tolist())
    every = ends = rows_of(layout, np.flatnonzero(free))
    if layout.number == part.page:
        ends = rows_of(layout, np.flatnonzero(elsewhere & loose))
    if not ends:
        return None
    room = row_room(before, draft)
    for shift in _shifts(layout, ends, part):
        inside = _in_width(layout, every, part, shift)
        columns = columns_of(draft, part, shift)
        rows = rows_of(layout, np.flatnonzero(inside))
        rest = _rest_of_row(layout, rows, columns, part.table)
        for first in (rest,) if rest else range(min(FIRST, len(rows))):
            lines, filled = _fitting(layout, rows[first:], columns, ROOM * pitch)
            if lines and not _above_table(layout, taken, lines[-1], ROOM * pitch):
                lines = lines[: _last(lines, filled, room or 0.0)]
            lines = [*rows[:rest], *lines]
            same = _faces(layout, [i for line in lines for i in line.words]) <= faces
            if lines and same and not is_cut_off(layout, lines, upright & ~inside):
                read = read_lines(layout, lines, draft, columns, room, rest=rest)
                label = _group_label(layout, rows[:first][::-1], faces, part.box.x0 + shift, part)
                near = label and lines[0].y0 - rows[first - 1].y1 < ROOM * pitch
                return _below_label(layout, label, read) if label and near else read
    return None


def rows_above(
    layout: PageLayout, taken: Bools, before: Part, draft: TableDraft, part: Part
) -> TableDraft | None:
    """Return a table without a header with the rest of the last row of the table `before`, which it goes on
    with, at the top of its page, among the words that are not taken, and the rows between in its columns; or
    with the label of a group there, where that table has such. None where anything else stands there.
    """
    if draft.header_rows or not _shows_columns(draft) or draft.method == "tagged":
        return None
    if draft.columns != before.table.columns:
        return None
    w, box = layout.words, draft.box
    draft, taken = _without_title(layout, draft, taken)
    higher = ~taken & ~w.turned & (w.y1 < box.y0 + 1) & (w.x1 > box.x0) & (w.x0 < box.x1)
    lines = rows_of(layout, np.flatnonzero(higher))
    near = len(lines) > 0 and box.y0 - lines[-1].y1 < ROOM * (box.y1 - box.y0) / draft.rows
    if not near:
        return None
    faces = _faces(layout, draft.word_indices().tolist())
    columns = columns_of(draft, part, 0.0)
    rest = _rest_of_row(layout, lines, columns, before.table)
    if not rest:
        label = _group_label(layout, lines[::-1], faces, box.x0, before)
        return _below_label(layout, label, draft) if label else None
    whole = all(
        0 in (held := columns_filled(layout, line, columns)) and len(held) > 1 for line in lines[rest:]
    )
    if not whole or not _faces(layout, [i for line in lines for i in line.words]) <= faces:
        return None
    return _below(read_lines(layout, lines, draft, columns, row_room(layout, draft), rest=rest), draft)


def label_below(layout: PageLayout, taken: Bools, draft: TableDraft, part: Part) -> TableDraft | None:
    """Return a table with the label of a group right below it, among the words that are not taken, where it
    has such above their groups and no more text is below; else None.
    """
    if not _shows_columns(draft) or draft.method == "tagged" or not _last_label(part.table):
        return None
    w, box = layout.words, draft.box
    draft, taken = _without_title(layout, draft, taken)
    lower = ~taken & ~w.turned & (w.y0 > box.y1 - 1) & (w.x1 > box.x0) & (w.x0 < box.x1)
    lines = rows_of(layout, np.flatnonzero(lower))
    if not lines or lines[0].y0 - box.y1 > ROOM * (box.y1 - box.y0) / draft.rows:
        return None
    label = _group_label(layout, lines, _faces(layout, draft.word_indices().tolist()), box.x0, part)
    if label is None:
        return None
    cell = replace(label, row=draft.rows)
    box = Box.around([box, layout.box(np.array(label.words))])
    return replace(draft, cells=[*draft.cells, cell], rows=draft.rows + 1, box=box)


def _without_title(layout: PageLayout, draft: TableDraft, taken: Bools) -> tuple[TableDraft, Bools]:
    """A table without a title that names none, and which words are taken then: the label of a group may pass
    for a title.
    """
    if not draft.caption or NAMED.match(plain_text(layout, draft.caption)):
        return draft, taken
    taken = taken.copy()
    taken[draft.caption] = False
    return replace(draft, caption=[]), taken


def _last_label(table: Table) -> Cell | None:
    """The last label of a group, the only text of its row: in the first column, or the second behind numbers
    of the rows; None where there is none.
    """
    counts = Counter(c.row for c in table.cells if c.text and c.row >= table.header_rows)
    alone = [
        c for c in table.cells if c.column < 2 and c.text and c.places and c.rowspan == counts[c.row] == 1
    ]
    return max(alone, key=lambda c: (-c.column, c.row), default=None)


def _group_label(
    layout: PageLayout, lines: Sequence[Row], faces: Set[tuple[bool, int]], x0: float, part: Part
) -> CellDraft | None:
    """The first of some lines beyond an end of a table as the label of a group, as other cells of the table
    `part` that it goes on with or begins are, if it begins where that or a text of its stub does, or has its
    middle where they have theirs in a font of its rows, in its `faces`, and the other lines are running heads
    or feet.
    """
    other = _last_label(part.table) if lines else None
    if other is None or len(lines[0].spans) > 1 or is_page_number(layout, np.array(lines[0].words)):
        return None
    line, box = lines[0], other.places[0].box
    if part.page != layout.number and running_key(plain_text(layout, line.words), line.y0) in part.ends:
        # It is repeated from page to page.
        return None
    page = other.places[0].page
    table = next(p.box.x0 for p in part.table.places if p.page == page)
    # Labels of groups may stand behind the numbers of rows, and be set in as their own are.
    begins = {0.0} if not other.column else set[float]()
    begins |= {c.places[0].box.x0 - table for c in part.table.cells if _is_beside(c, other)}
    centred = abs((line.x0 + line.x1 - box.x0 - box.x1) / 2 - x0 + table) < layout.em
    if all(abs(line.x0 - x0 - begin) >= layout.em for begin in begins) and not (
        centred and fonts_of(layout, line.words) <= part.rows
    ):
        return None
    margin = margin_words(layout)
    others = all(margin[further.words].all() for further in lines[1:])
    same = _faces(layout, line.words) <= faces
    return CellDraft(0, other.column, 1, other.colspan, line.words) if others and same else None


def _is_beside(cell: Cell, label: Cell) -> bool:
    """Whether a text stands in the column of a label of a group, on its page."""
    same = cell.column == label.column and cell.colspan == 1 and bool(cell.text and cell.places)
    return same and cell.places[0].page == label.places[0].page


def _below_label(layout: PageLayout, label: CellDraft, draft: TableDraft) -> TableDraft:
    """A table with the label of a group as its first row."""
    above = replace(draft, cells=[label], rows=1, box=layout.box(np.array(label.words)))
    return _below(above, draft)


def _below(above: TableDraft, draft: TableDraft) -> TableDraft:
    """A table with the rows of another as its first ones."""
    below = [replace(cell, row=cell.row + above.rows) for cell in draft.cells]
    box = Box.around([above.box, draft.box])
    return replace(draft, cells=[*above.cells, *below], rows=above.rows + draft.rows, box=box)


def _rest_of_row(layout: PageLayout, lines: Sequence[Row], columns: Columns, table: Table) -> int:
    """How many of the first lines of a page are the rest of the last row of a table: texts that go on with
    its, in columns whose other texts begin with capitals, beside the first column.
    """
    above = {c.column: c.text for c in table.cells if c.row == table.rows - 1 and c.text and c.colspan == 1}
    large = {column for column in above if begins_large(table, column) and not columns.numeric[column]}
    seen: set[int] = set()
    for k, line in enumerate(lines):
        held = columns_filled(layout, line, columns)
        texts = {column: plain_text(layout, words.tolist()) for column, words in held.items()}
        fresh = texts.keys() - seen
        going_on = all(goes_on(above[c], texts[c]) for c in fresh) if texts.keys() <= large else False
        apart = k and line.y0 - lines[k - 1].y1 > CLOSE * layout.em
        if not texts or not going_on or apart or not texts.get(0, "a")[0].islower():
            return k if seen - {0} else 0
        seen |= fresh
    return len(lines) if seen - {0} else 0


def begun(
    layout: PageLayout, taken: Bools, draft: TableDraft, part: Part, after: PageLayout
) -> TableDraft | None:
    """Return the last rows of a page, among its words that are not taken, that a table begins with which goes
    on at the top of the next page, or on the same page in a column right of them; None where there are none.

    They repeat the head of that table, or have the only one. `draft`, `part` and `after`, the layout of its
    page, are that table's. Whether it goes on with them is not asked here.
    """
    if not _shows_columns(draft):
        return None
    w = layout.words
    free = ~taken & ~w.turned & _may_be_of(layout, draft)
    elsewhere = free
    if layout.number == part.page:
        free = free & _above_wide(layout, taken, part.box)
        elsewhere = free & (w.x1 < part.box.x0)
    if not elsewhere.any():
        return None
    loose = loose_words(layout)
    free, elsewhere = free & loose, elsewhere & loose
    every = ends = rows_of(layout, np.flatnonzero(free))
    if layout.number == part.page:
        ends = rows_of(layout, np.flatnonzero(elsewhere))
    begins = next((c.words[:1] for c in draft.cells if c.row < draft.header_rows and c.words), [])
    heads = [
        float(w.x0[k] - after.words.x0[i])
        for i in begins
        for k in np.flatnonzero(elsewhere).tolist()
        if w.texts[k] == after.words.texts[i]
    ]
    shifts = _shifts(layout, ends[::-1], part, heads)
    found = [
        rows for shift in shifts if (rows := _begun_at(layout, taken, every, (draft, part, after), shift))
    ]
    # Where a shift is wrong, columns are missed.
    return max(found, key=lambda rows: len(rows.word_indices()), default=None)


def _begun_at(
    layout: PageLayout,
    taken: Bools,
    every: Sequence[Row],
    later: tuple[TableDraft, Part, PageLayout],
    shift: float,
) -> TableDraft | None:
    """Those of the rows that a table begins with which goes on later, so far left of them."""
    draft, part, after = later
    room = ROOM * (part.box.y1 - part.box.y0) / part.table.rows
    inside = _in_width(layout, every, part, shift)
    free = ~taken & ~layout.words.turned
    columns = columns_of(draft, part, shift)
    rows = rows_of(layout, np.flatnonzero(inside))[::-1]
    faces = _faces(after, draft.word_indices().tolist())
    for first in range(len(rows)):
        lines, filled = _fitting_upwards(layout, rows[first:], columns, room)
        head: list[CellDraft] = []
        heads: list[Row] = []
        # Lines of a head may stand in the columns as well.
        for count in range(len(lines), -1, -1):
            above = rows[first + count :]
            if count and above and lines[count - 1].y0 - above[0].y1 > room:
                continue
            head, heads = _repeated_head(layout, above, draft, after, shift)
            if heads:
                break
        else:
            # What repeats no head ends its page or column.
            if first >= FIRST:
                continue
            # A line in other type is a label, however well it stands in the columns.
            other = (n for n, line in enumerate(lines) if not _faces(layout, line.words) <= faces)
            own = filled[: next(other, len(lines))]
            count = max((n + 1 for n, several in enumerate(own) if several > 1), default=0)
            heads = _only_head(layout, rows[first + count :], lines[:count], columns, room)
            if not count and own and 0 in columns_filled(layout, lines[0], columns):
                # The label of a group may end the page right below the head.
                above = _only_head(layout, rows[first + 1 :], lines[:1], columns, room)
                heads, count = (above, 1) if above else (heads, count)
            if not heads and count:
                # The labels of columns may look like a row; those of groups above them tell.
                above = _only_head(layout, rows[first + count - 1 :], lines[: count - 1], columns, room)
                heads, count = (above, count - 1) if len(above) > 1 else (heads, count)
            head = [
                cell
                for k, line in enumerate(heads[::-1])
                for cell in (k + 1 < len(heads) and group_labels(layout, line, columns, k))
                or labels(layout, line, columns, k)
            ]
            if not heads and not count and is_head(after, draft):
                # The labels of groups may stand by themselves, those of columns below them on the next page.
                labelled = group_labels(layout, rows[first], columns, 0)
                if labelled and not is_cut_off(layout, rows[first : first + 1], free & ~inside):
                    return _groups_alone(rows[first], labelled, draft, part, columns, shift)
            if not heads and 2 * max(filled[:count], default=0) < draft.columns:
                continue
        same = _faces(layout, [i for line in lines[:count] for i in line.words]) <= faces
        if same and not is_cut_off(layout, [*lines[:count], *heads], free & ~inside):
            read = read_lines(layout, lines[:count][::-1], draft, columns, row_room(after, draft), head)
            return read if count else _as_wide(read, part, columns, shift)
    return None


def _groups_alone(
    line: Row, labelled: list[CellDraft], draft: TableDraft, part: Part, columns: Columns, shift: float
) -> TableDraft:
    """The labels of groups in a line as a table as wide as that which they head."""
    alone = TableDraft(
        Box(line.x0, line.y0, line.x1, line.y1), 1, draft.columns, labelled, draft.method, header_rows=1
    )
    return _as_wide(alone, part, columns, shift)


def _as_wide(head: TableDraft, part: Part, columns: Columns, shift: float) -> TableDraft:
    """A head as wide as the table that it is of, so far left of it: labels are not as wide as columns."""
    box = replace(head.box, x0=part.box.x0 + shift, x1=part.box.x1 + shift)
    return replace(head, box=box, column_edges=[box.x0, *columns.cuts, box.x1])


def _fitting_upwards(
    layout: PageLayout, lines: Sequence[Row], columns: Columns, room: float
) -> tuple[list[Row], list[int]]:
    """The last lines that stand in the columns, from the foot upwards, and in how many each has text."""
    out: list[Row] = []
    counts: list[int] = []
    for line in lines:
        count = len(columns_filled(layout, line, columns))
        if not count or columns.repeated(layout, line) or (out and out[-1].y0 - line.y1 > room):
            break
        out.append(line)
        counts.append(count)
    return out, counts


def _only_head(
    layout: PageLayout, above: Sequence[Row], lines: Sequence[Row], columns: Columns, room: float
) -> list[Row]:
    """The lines right above some, or at the foot, that are a head, from the lowest upwards: that has labels
    over one column each, for most of them, those above it labels of groups, or two at least.
    """
    out: list[Row] = []
    for line in above[:MAX_HEADER]:
        below = out[-1:] or lines[-1:]
        cells = labels(layout, line, columns, 0)
        single = sum(c.colspan == 1 for c in cells)
        if out:
            fits = len(cells) > 1 or bool(group_labels(layout, line, columns, 0))
        else:
            fits = 2 * single > len(columns.spans) and single == len(cells)
        if not fits or (below and below[0].y0 - line.y1 > room):
            break
        out.append(line)
    return out


def _repeated_head(
    layout: PageLayout, above: Sequence[Row], draft: TableDraft, after: PageLayout, shift: float
) -> tuple[list[CellDraft], list[Row]]:
    """The head that a table repeats later, as cells of the lines right above its first rows, given from there
    upwards, and these lines; nothing where they do not hold the same words.
    """
    texts = layout.words.texts
    for rows in range(draft.header_rows, 0, -1):
        head = [c for c in draft.cells if c.row + c.rowspan <= rows and c.words]
        wanted = Counter(after.words.texts[i] for c in head for i in c.words)
        words: list[int] = []
        heads: list[Row] = []
        for line in above:
            if len(words) >= wanted.total():
                break
            heads.append(line)
            words += line.words
        if not words or Counter(texts[i] for i in words) != wanted:
            continue
        out = []
        for cell in head:
            own = []
            for i in cell.words:
                x = float(after.words.x0[i]) + shift
                same = [k for k in words if texts[k] == after.words.texts[i]]
                own.append(min(same, key=lambda k: abs(float(layout.words.x0[k]) - x)))
                words.remove(own[-1])
            out.append(replace(cell, words=own))
        return out, heads
    return [], []


def _faces(layout: PageLayout, words: Sequence[int]) -> set[tuple[bool, int]]:
    """Whether some words are in fixed pitch, each with its size to the half point."""
    w = layout.words
    return {(layout.ink.fonts[w.font[i]].fixed_pitch, round(2 * float(w.size[i]))) for i in words}


def _shows_columns(draft: TableDraft) -> bool:
    """Whether a table may lend its columns; what a service says to be one goes on where that says so."""
    return draft.method != "remote" and draft.columns > 1 and len(draft.column_edges) == draft.columns + 1


def _above_wide(layout: PageLayout, taken: Bools, box: Box) -> Bools:
    """Which words stand above what runs below a table in a column over this and those left of it, where it is
    taken: it ends the columns.
    """
    w, em = layout.words, layout.em
    end = layout.height
    for zone in layout.zones:
        if zone.x0 < box.x0 - em and zone.x1 > box.x0 + em and zone.y0 > box.y0:
            held = zone.members[taken[zone.members]]
            end = min(end, float(w.y0[held].min()) if len(held) else zone.y0)
    return w.y1 < end + em


def _may_be_of(layout: PageLayout, draft: TableDraft) -> Bools:
    """Which words may belong to a table: what tags say to be one goes on with what they give to it."""
    if draft.method == "tagged":
        return words_of_table(layout, draft.origin)
    return np.ones(len(layout.words), dtype=np.bool_)


def _in_width(layout: PageLayout, rows: Sequence[Row], part: Part, shift: float) -> Bools:
    """Which words of some rows stand within the width of a table, so far right of it: whole stretches of text
    that begin there.
    """
    beside = BESIDE * layout.em
    low, high = part.box.x0 + shift - beside, part.box.x1 + shift + beside
    inside = np.zeros(len(layout.words), dtype=np.bool_)
    for row in rows:
        inside[row.words] = np.array([low < x0 < high for x0, _ in row.spans])[span_of(layout, row)]
    return inside


def _shifts(layout: PageLayout, rows: Sequence[Row], part: Part, others: Sequence[float] = ()) -> list[float]:
    """How far right of the table's place its rows may stand, each once: at the same place on another page,
    where text begins in the first rows given, and so far as `others` tell.
    """
    out = [] if layout.number == part.page else [0.0]
    for row in rows[:FIRST]:
        out += [x0 - part.box.x0 for x0, _ in row.spans]
    out += others
    return [s for k, s in enumerate(out) if all(abs(s - t) > 1.0 for t in out[:k])]


def _fitting(
    layout: PageLayout, lines: Sequence[Row], columns: Columns, room: float
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
            count = len(columns_filled(layout, line, columns))
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
