"""Rows that came out as one: two with a line between them; the last one of the header and the next one."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from itertools import pairwise

import numpy as np

from ..ink import Floats, Ints, distinct, median
from ..layout import PageLayout
from .draft import CellDraft, TableDraft, bands, cells_by_row, goes_on, plain_text
from .header import MAX_HEADER, OTHER_FONT
from .header_spans import OVER_LINE
from .numbers import YEAR, is_given, is_numeric, is_value
from .rulings import level_edges

# Labels stand at mid height of two lines, or level with one, within this (em).
MID_HEIGHT = 0.25
# So many columns of numbers, and groups of rows, are several.
SEVERAL = 2
# Two lines are rows where they are so many times as far apart as rows of one line, and so far (em) that they
# are none of one label.
AS_ROWS, LINES = 0.85, 1.4
# The room between two rows is wider than that between lines of one cell by this (em of the row).
WIDER = 0.3


def with_shown_head_apart(layout: PageLayout, draft: TableDraft) -> TableDraft:
    """Part the row of a table that holds labels and the first row below them, where the labels are in a font
    or of a size that nothing below is, or shading begins or ends between.
    """
    for row in range(min(MAX_HEADER, draft.rows)):
        begin = _by_face(layout, draft, row) or _by_shade(layout, draft, row)
        if begin is not None:
            return parted(layout, draft, row, begin, whole=False)
    return draft


def with_groups_apart(layout: PageLayout, draft: TableDraft) -> TableDraft:
    """Part a first row that holds labels of groups of columns and the labels of these below them: one cell
    has two lines, others stand level with the second, and others at mid height of both, or the lines of this,
    or of several, are none of one label.
    """
    w, near = layout.words, MID_HEIGHT * layout.em
    cells = [c for c in draft.cells if c.row == 0 and c.words and c.rowspan == 1]
    lines = [distinct(w.row[c.words]) for c in cells]
    several = [own for own in lines if len(own) > 1]
    if not several or len(several[0]) != 2 or any(own.tolist() != several[0].tolist() for own in several):
        return draft
    base = [float(w.baseline[c.words[0]]) for c in cells]
    top, foot = (float(w.baseline[w.row == r][0]) for r in several[0].tolist())
    single = [k for k, own in enumerate(lines) if len(own) == 1]
    low = [k for k in single if abs(base[k] - foot) < near]
    between = [k for k in single if abs(base[k] - (top + foot) / 2) < near]
    groups = [c for c, own in zip(cells, lines, strict=True) if len(own) > 1]
    wide = any(c.colspan > 1 for c in groups)
    if not low or foot - top <= 3 * near or len(low) + len(between) < len(single) or wide:
        return draft
    second = int(several[0][-1])
    apart = all(_stand_apart(layout, group, second, top, foot) for group in groups)
    if not (apart or (between and len(groups) == 1)):
        return draft
    middle = [cells[k].column for k in between]
    out = parted(layout, draft, 0, second)
    both = [replace(c, rowspan=2) if c.row == 0 and c.column in middle else c for c in out.cells]
    return replace(out, cells=both)


def _stand_apart(layout: PageLayout, cell: CellDraft, second: int, top: float, foot: float) -> bool:
    """Whether the two lines of a cell, the second given by its row of the page and both by their baselines,
    are no lines of one label: a rule wider than both runs between them, or they neither begin nor end at one
    place, nor have their middles there.
    """
    w, em, level = layout.words, layout.em, layout.rules.level
    box = layout.box(np.array(cell.words))
    ruled = (level.at > top) & (level.at < foot) & (level.low < box.x0 - em) & (level.high > box.x1 + em)
    upper, lower = (
        layout.box(np.array([i for i in cell.words if (w.row[i] == second) == lower]))
        for lower in (False, True)
    )
    middles = abs(upper.x0 + upper.x1 - lower.x0 - lower.x1) / 2
    sides = abs(upper.x0 - lower.x0), abs(upper.x1 - lower.x1), middles
    return bool(ruled.any()) or min(sides) > MID_HEIGHT * em


def with_head_apart(layout: PageLayout, draft: TableDraft) -> TableDraft:
    """The same for a grid, in which nothing else parts them: the labels may also stand farther from the first
    row than lines of a cell do and hold no digits.
    """
    shown = with_shown_head_apart(layout, draft)
    if shown is not draft:
        return shown
    for row in range(min(MAX_HEADER, draft.rows - 1)):
        begin = _by_room(layout, draft, row) or _by_pitch(layout, draft, row)
        if begin is not None:
            return parted(layout, draft, row, begin, whole=False)
        if any(_has_digits(layout, c.words) for c in draft.cells if c.row == row and c.colspan == 1):
            break
    return _with_labels_apart(layout, draft)


def with_numbers_apart(layout: PageLayout, draft: TableDraft) -> TableDraft:
    """Part the rows of a grid in which several columns hold a number in each of the same lines, beside labels
    that do not go on, or texts that all begin with capitals: rows of groups, between the lines around these.
    There are several such groups, and no other cells of several lines below the first row.
    """
    held = [_lines_of_group(layout, draft, row) for row in range(draft.rows)]
    groups = [row for row, lines in enumerate(held) if lines]
    if len(groups) < SEVERAL or any(lines is None for lines in held[1:]):
        return draft
    for row in reversed(groups):
        draft = _in_lines(layout, draft, row, held[row] or [])
    return draft


def _lines_of_group(layout: PageLayout, draft: TableDraft, row: int) -> list[int] | None:
    """The rows of the page that the lines of a group are which a row of a grid holds; none where all its
    cells have one line, and None where they are no group.
    """
    cells = [_lines(layout, c) for c in draft.cells if c.row == row and c.rowspan == 1 and c.words]
    several = [own for own in cells if len(own) > 1]
    if not several:
        return []
    begins = sorted(several[0])
    texts = [[plain_text(layout, own[k]) for k in begins if k in own] for own in several]
    numbers = sum(all(map(is_given, said)) for said in texts)
    labels = [said for said in texts if not any(map(is_numeric, said))]
    wrapped = any(goes_on(a, b) for said in labels for a, b in pairwise(said))
    same = all(sorted(own) == begins for own in several)
    anew = len(labels) >= SEVERAL and all(text[0].isupper() for said in labels for text in said)
    return begins if same and ((numbers >= SEVERAL and labels and not wrapped) or anew) else None


def _in_lines(layout: PageLayout, draft: TableDraft, row: int, lines: Sequence[int]) -> TableDraft:
    """A grid in which each of some lines of a row is a row of its own. Cells without text in any and texts at
    mid height span all.
    """
    w, more, cells = layout.words, len(lines) - 1, []
    middle = float(np.mean([w.baseline[w.row == line][0] for line in (lines[0], lines[-1])]))
    for c in draft.cells:
        own = _lines(layout, c) if c.row == row and c.rowspan == 1 else {}
        if c.row > row:
            cells.append(replace(c, row=c.row + more))
            continue
        if c.row + c.rowspan <= row:
            cells.append(c)
            continue
        alone = len(own) == 1 and not is_given(plain_text(layout, c.words))
        amid = alone and abs(float(w.baseline[c.words[0]]) - middle) < MID_HEIGHT * layout.em
        if not own or not own.keys() <= {*lines} or amid:
            cells.append(replace(c, rowspan=c.rowspan + more))
        else:
            cells += [replace(c, row=row + k, words=own[line]) for k, line in enumerate(lines) if line in own]
    return replace(draft, rows=draft.rows + more, cells=cells)


def _with_labels_apart(layout: PageLayout, draft: TableDraft) -> TableDraft:
    """Part a row of the header in which a cell over several columns ends in a line of labels, one in each of
    them but the first of the table, below text over their middle.
    """
    w = layout.words
    for cell in draft.cells:
        number, end = w.row[cell.words], cell.column + cell.colspan
        if cell.colspan < 2 or cell.row >= MAX_HEADER or len(distinct(number)) < 2:
            continue
        begin = int(number.max())
        held = _by_column(layout, draft, [i for i in cell.words if w.row[i] == begin])
        first = min(held, default=0)
        over = layout.box(np.array([i for i in cell.words if w.row[i] < begin]))
        middle = draft.column_edges[first] + draft.column_edges[end]
        centred = abs(over.x0 + over.x1 - middle) / 2 < layout.em
        whole = first in {cell.column, 1} and len(held) == end - first > 1
        if centred and whole and cell.row + cell.rowspan < draft.rows:
            row = cell.row + cell.rowspan - 1
            out = parted(layout, draft, row, begin)
            upper, lower = (
                next(c for c in out.cells if c.column == cell.column and c.row == at)
                for at in (cell.row, row + 1)
            )
            cells = [replace(lower, column=column, colspan=1, words=words) for column, words in held.items()]
            cells.append(replace(upper, column=first, colspan=end - first))
            rest = [c for c in out.cells if c is not upper and c is not lower]
            return replace(out, cells=[*rest, *cells])
    return draft


def _by_column(layout: PageLayout, draft: TableDraft, words: list[int]) -> dict[int, list[int]]:
    """Words of a line by the column between whose edges they stand; none where one runs over an edge."""
    out: dict[int, list[int]] = {}
    edges = np.asarray(draft.column_edges)
    for i in words:
        first, last = np.searchsorted(edges, (layout.words.x0[i], layout.words.x1[i])).tolist()
        if first != last:
            return {}
        out.setdefault(first - 1, []).append(i)
    return out


def _by_face(layout: PageLayout, draft: TableDraft, row: int) -> int | None:
    """The row of the page at which the first row below the labels begins, in a row of the table with the last
    of these, told by font and size.
    """
    w = layout.words
    first = [c for c in draft.cells if c.row <= row < c.row + c.rowspan and c.words]
    words = words_of(first)
    if len(first) < 2 or len(distinct(w.row[words])) < 2:
        return None
    # Sizes to the quarter point.
    face = np.stack((typefaces(layout)[w.font], np.round(4 * w.size)), axis=1)
    other = (face[words] != face[words[w.row[words].argmin()]]).any(axis=1)
    if not other.any():
        return None
    begin = int(w.row[words][other].min())
    above = w.row[words] < begin
    lower = sum(bool((w.row[c.words] >= begin).any()) for c in first)
    ends = any(w.row[c.words].max() >= begin for c in first if c.row + c.rowspan - 1 == row)
    if lower < 2 or not ends or not any(_is_parted(layout, c, begin) for c in first):
        return None
    below = words_of([c for c in draft.cells if c.row > row])
    again = (face[below] == face[words[above][0]]).all(axis=1)
    return begin if (other | above).all() and again.sum() <= OTHER_FONT * len(below) else None


def typefaces(layout: PageLayout) -> Ints:
    """Return a number for each font of a page, the same for parts of one; strokes around letters make another
    font of one.
    """
    seen: dict[tuple[str, bool], int] = {}
    return np.array([seen.setdefault((f.name, f.bold), len(seen)) for f in layout.ink.fonts] or [0])


def _by_shade(layout: PageLayout, draft: TableDraft, row: int) -> int | None:
    """The same, told by the edge of shading that runs between lines of most cells of a row, or between cells
    above and below it alone.
    """
    w, shades = layout.words, layout.rules.shades
    cells = [c for c in draft.cells if c.row + c.rowspan - 1 == row and c.words]
    if not len(shades) or len(cells) < 2:
        return None
    words = words_of(cells)
    # A label of several rows alone stands above a row, and not in it.
    own = words_of([c for c in cells if c.row == row])
    low, high = float(w.y0[words].min()), float(w.y1[words].max())
    middle = (w.y0 + w.y1) / 2
    for y in sorted({*shades.y0.tolist(), *shades.y1.tolist()}):
        if not (low < y < high and (middle[words] > y).any() and (middle[own] < y).any()):
            continue
        over = (np.abs(shades.y0 - y) < 1) | (np.abs(shades.y1 - y) < 1)
        shaded = [
            c for c in cells
            if (over & (shades.x0 < w.x0[c.words].min()) & (shades.x1 > w.x1[c.words].max())).any()
        ]  # fmt: skip
        both = [c for c in cells if (middle[c.words] < y).any() and (middle[c.words] > y).any()]
        below = words[middle[words] > y]
        begin = int(w.row[below].min())
        enough = [c for c in shaded if any(c is each for each in both)] if both else shaded
        if len(enough) > max(1, len(cells) / 2) and w.row[words[middle[words] < y]].max() < begin:
            return begin
    return None


def _by_room(layout: PageLayout, draft: TableDraft, row: int) -> int | None:
    """The same, told by the widest room in a row of a grid: most of its cells have text above and below."""
    w = layout.words
    cells = [c for c in draft.cells if c.row + c.rowspan - 1 == row and c.words]
    both = [c for c in cells if len(distinct(w.row[c.words])) > 1]
    if len(both) < max(2, len(cells) / 2):
        return None
    number, room = _rooms(layout, cells)
    widest = int(room.argmax())
    begin = int(number[widest + 1])
    across = [c for c in cells if _is_parted(layout, c, begin)]
    within = [_rooms(layout, [c])[1] for c in draft.cells if c.words and c not in cells]
    usual = median(np.concatenate(within)) if within and len(np.concatenate(within)) else 0.0
    if len(across) < max(2, len(cells) / 2) or room[widest] < usual + WIDER * median(w.size[words_of(cells)]):
        return None
    above, below = (
        [[i for i in c.words if (w.row[i] < begin) == head] for c in cells] for head in (True, False)
    )
    digits = [any(_has_digits(layout, words) for words in side) for side in (above, below)]
    return begin if digits == [False, True] else None


def _by_pitch(layout: PageLayout, draft: TableDraft, row: int) -> int | None:
    """The same, told by two lines as far apart as rows of one line are: most of the cells but the stub have
    something in the first of them, which is no number and does not go on in the second.
    """
    w = layout.words
    held = [[c for c in draft.cells if c.row == r and c.rowspan == 1 and c.words] for r in range(draft.rows)]
    own = distinct(w.row[words_of(held[row])]).tolist()
    if len(own) != 2:
        return None
    at = [w.baseline[words_of(cells)] for cells in held]
    near = MID_HEIGHT * layout.em
    level = [float(y[0]) if len(y) and np.ptp(y) < near else np.nan for y in at]
    pitches = np.diff(level)
    pitches = pitches[np.isfinite(pitches)]
    first, second = (float(w.baseline[w.row == number][0]) for number in own)
    apart = max(AS_ROWS * median(pitches), LINES * layout.em) if len(pitches) >= SEVERAL else np.inf
    if second - first < apart:
        return None
    lines = [(c.column, _lines(layout, c)) for c in held[row]]
    labels = {column: plain_text(layout, said[own[0]]) for column, said in lines if own[0] in said}
    most = 2 * sum(column > 0 for column in labels) > draft.columns - 1
    rests = [plain_text(layout, said[own[1]]) for _, said in lines if len(said) > 1]
    wrapped = bool(rests) and all(text[0].islower() for text in rests)
    return own[1] if most and not wrapped and not any(map(is_value, labels.values())) else None


def _rooms(layout: PageLayout, cells: list[CellDraft]) -> tuple[Ints, Floats]:
    """The rows of the page that words of some cells stand in, from top to bottom, and the room between."""
    w, words = layout.words, words_of(cells)
    number = distinct(w.row[words])
    of = np.searchsorted(number, w.row[words])
    top, bottom = np.full(len(number), np.inf), np.full(len(number), -np.inf)
    np.minimum.at(top, of, w.y0[words])
    np.maximum.at(bottom, of, w.y1[words])
    order = np.argsort(top, kind="stable")
    room: Floats = top[order][1:] - np.maximum.accumulate(bottom[order])[:-1]
    return number[order], room


def with_known_lines_apart(layout: PageLayout, draft: TableDraft) -> TableDraft:
    """Part rows in which a cell holds line by line what stands in other cells of its column alone, as the
    same conditions are repeated for every quantity; in the first row below its label.
    """
    lines = [(c, _lines(layout, c)) for c in draft.cells if len(c.words) > 1]
    several = [(c, own) for c, own in lines if len(own) > 1 and c.column and c.rowspan == 1]
    if not several:
        return draft
    alone = {(c.column, plain_text(layout, c.words)) for c, own in lines if len(own) == 1}
    alone |= {(c.column, plain_text(layout, c.words)) for c in draft.cells if len(c.words) == 1}
    begins: dict[int, list[int]] = {}
    for c, own in several:
        known = [(c.column, plain_text(layout, words)) in alone for words in own.values()]
        if all(known[not c.row :]):
            begins.setdefault(c.row, sorted(own)[1:])
    for row in sorted(begins, reverse=True):
        for begin in reversed(begins[row]):
            draft = parted(layout, draft, row, begin)
    return draft


def _lines(layout: PageLayout, cell: CellDraft) -> dict[int, list[int]]:
    """The words of each line of a cell, by its row of the page."""
    out: dict[int, list[int]] = {}
    for i in cell.words:
        out.setdefault(int(layout.words.row[i]), []).append(i)
    return out


def with_rows_between_lines(layout: PageLayout, draft: TableDraft, lines: Sequence[float]) -> TableDraft:
    """Part rows through which one of some level lines (their y) runs, between the lines of their text and
    along all of it, where each row below the header is then between two of these alone.
    """
    w, reach, out = layout.words, OVER_LINE * layout.em, draft
    for y in lines:
        for row in range(out.rows):
            words = words_of([c for c in out.cells if c.row == row and c.rowspan == 1])
            below = (w.y0[words] + w.y1[words]) / 2 > y
            if not below.any() or below.all() or not _runs_along(layout, y, words):
                continue
            begin = int(w.row[words][below].min())
            clear = w.y1[words][~below].max() < y + reach and w.y0[words][below].min() > y - reach
            if clear and w.row[words][~below].max() < begin:
                out = parted(layout, out, row, begin)
                break
    if out is draft or len(cells_by_row(out)) < out.rows:
        return draft
    return out if (np.bincount(bands(layout, out, lines))[1:] < 2).all() else draft


def _runs_along(layout: PageLayout, y: float, words: Ints) -> bool:
    """Whether rules, or edges of shading, at a y run along all of some words."""
    w, near = layout.words, layout.em / 10
    at, low, high = level_edges(layout)
    own = np.abs(at - y)[:, None] < near
    over = (low[:, None] < w.x0[words] + near) & (high[:, None] > w.x1[words] - near)
    return bool((own & over).any(axis=0).all())


def parted(layout: PageLayout, draft: TableDraft, row: int, begin: int, whole: bool = True) -> TableDraft:
    """Part a row of a grid above a row of the page; cells that go on below it stay `whole`, unless it ends a
    header.
    """
    w = layout.words
    cells = []
    for c in draft.cells:
        last = c.row + c.rowspan - 1
        above, below = ([i for i in c.words if (w.row[i] < begin) == head] for head in (True, False))
        if c.row > row:
            cells.append(replace(c, row=c.row + 1))
        elif last < row:
            cells.append(c)
        elif last == row or (below and not (above and whole)):
            # Empty places are no cells: others may span them.
            if above:
                cells.append(replace(c, rowspan=row - c.row + 1, words=above))
            if below:
                cells.append(replace(c, row=row + 1, rowspan=last - row + 1, words=below))
        else:
            cells.append(replace(c, rowspan=c.rowspan + 1))
    return replace(draft, rows=draft.rows + 1, cells=cells)


def _is_parted(layout: PageLayout, cell: CellDraft, begin: int) -> bool:
    rows = layout.words.row[cell.words]
    return bool(len(rows) and rows.min() < begin <= rows.max())


def _has_digits(layout: PageLayout, words: list[int]) -> bool:
    """Whether a text has digits that make no year."""
    text = plain_text(layout, words) if words else ""
    return any(c.isdigit() for c in YEAR.sub("", text))


def words_of(cells: Sequence[CellDraft]) -> Ints:
    """Return the indices of the words of cells, cell by cell."""
    return np.array([i for c in cells for i in c.words], dtype=np.int64)
