"""Cells of a header over several columns or rows: told by shading and rules of their own, else by how labels
are centred.
"""

from __future__ import annotations

import functools
from collections.abc import Callable, Collection, Sequence
from dataclasses import replace

import numpy as np

from ..ink import Floats, median
from ..layout import PageLayout
from ..model import Box
from .draft import CellDraft, TableDraft, cells_by_row, plain_text, text_columns
from .numbers import is_numeric
from .rowcuts import MAX_ROOM

# A header cell is over a group of columns when its middle is this near (em) to theirs ...
CENTRED = 0.7
# ... but it may stand anywhere over its own column; that costs at most this much.
OFF_CENTRE = 0.9
# What it costs where a cell is set well only within sides that may stand anywhere between texts.
BETWEEN = 0.3
# Labels are set to a side of their column where they begin or end this near (em) to where it does.
ONE_SIDE = 0.12
# A header cell that begins or ends this near (em) to the text of a column is its own.
SAME_SIDE = 0.3
# Without rules a table is wider than its text by this (em) on each side.
SIDE = 0.5
# What it costs to leave a column without a header cell, other than the first.
UNCOVERED = 0.5
# A header cell set this far (em) from the middle of its row towards an empty neighbour spans both.
OFF_ROW = 0.3
# ... and both its ends this far: more lines are no more rows.
OFF_ENDS = 0.1
# A header that is wider than the first two columns begins this far (em) from their left edge.
OFF_LEFT = 0.7
# Text reaches at most this far (em) over the ends of the shading or rule that it belongs to.
REACH = 0.6
# Text reaches so far (em) over the rule above or below it.
OVER_LINE = 0.3


def spread_headers(layout: PageLayout, draft: TableDraft) -> set[int]:
    """Let header cells span the empty columns and rows that are theirs, and return those (`id`) for which
    shading or rules tell it.

    Only rows above the last header row can hold cells over several columns.
    """
    _off_the_stub(layout, draft)
    settled: set[int] = set()
    for r in range(min(max(draft.header_rows, 1), draft.rows - 1)):
        settled |= _settle(layout, draft, r)
    if draft.header_rows > 1:
        _between_rows(draft)
        _over_both(layout, draft)
        # Of the text below the topmost header rows.
        extents = text_columns(layout, draft, draft.header_rows - 1)
        for r in range(draft.header_rows - 1):
            _over_columns(layout, draft, r, extents, settled)
        _over_both(layout, draft)
        for r in reversed(range(draft.header_rows - 1)):
            if _is_one_row(layout, draft, r):
                _join_rows(draft, r)
    return settled


def _is_one_row(layout: PageLayout, draft: TableDraft, row: int) -> bool:
    """Whether two header rows hold the lines of labels that wrap, since none is over several columns, which
    is what a second row would be for: others stand at mid height of both, or at the foot of both, where the
    second lines go on in small letters or brackets.
    """
    own = [c for c in draft.cells if c.words and c.row <= row + 1 and c.row + c.rowspan > row]
    if any(c.colspan > 1 for c in own):
        return False
    lower = {c.column: c for c in own if c.row > row}
    upper = {c.column: c for c in own if c.row + c.rowspan == row + 1}
    if not upper or not upper.keys() <= lower.keys():
        return False
    if len(own) > len(upper) + len(lower):
        wrapped = upper.keys() == lower.keys()
    else:
        rests = [plain_text(layout, lower[k].words) for k in upper]
        wrapped = bool(lower.keys() - upper.keys() - {0}) and not any(map(_begins_anew, rests))
    boxes = [[layout.box(np.array(side[k].words)) for side in (upper, lower)] for k in upper]
    return wrapped and all(
        b.y0 - a.y1 < MAX_ROOM * layout.em and not rules_below(layout, (b.x0 + b.x1) / 2, a.y1, b.y0)
        for a, b in boxes
    )


def _begins_anew(text: str) -> bool:
    """Whether a text is no rest of a label: it begins with a capital, or is a number."""
    return text[0].isupper() or is_numeric(text)


def _join_rows(draft: TableDraft, row: int) -> None:
    """Make one of a header row and the next."""
    upper = {c.column: c for c in draft.cells if c.row + c.rowspan == row + 1}
    lower = [c for c in draft.cells if c.row == row + 1 and c.column in upper]
    for c in lower:
        upper[c.column].words += c.words
        upper[c.column].rowspan += c.rowspan
    draft.cells = [c for c in draft.cells if c not in lower]
    _close_row(draft, row)


def _close_row(draft: TableDraft, row: int) -> None:
    """Take the row below a header row away: in it begins nothing, and what spans both spans one less."""
    for c in draft.cells:
        if c.row > row:
            c.row -= 1
        elif c.row + c.rowspan > row + 1:
            c.rowspan -= 1
    draft.rows, draft.header_rows = draft.rows - 1, draft.header_rows - 1


def _off_the_stub(layout: PageLayout, draft: TableDraft) -> None:
    """A header that is wider than its column, and so runs out of it over the first one, is still its own: it
    ends where that does, or is set over its middle.
    """
    columns = text_columns(layout, draft, draft.header_rows)[:2]
    first, second = columns if len(columns) == 2 else (None, None)
    if first is None or second is None:
        return
    w, em = layout.words, layout.em
    for cell in draft.cells:
        if cell.words and cell.row < draft.header_rows and (cell.column, cell.colspan) == (0, 2):
            x0, x1 = float(w.x0[cell.words].min()), float(w.x1[cell.words].max())
            own = min(abs(x1 - second[1]), abs(x0 + x1 - second[0] - second[1]) / 2) < CENTRED * em
            both = abs(x0 + x1 - first[0] - second[1]) / 2 < CENTRED * em
            if own and not both and x0 > first[0] + OFF_LEFT * em:
                cell.column, cell.colspan = 1, 1


def _settle(layout: PageLayout, draft: TableDraft, row: int) -> set[int]:
    """Let the cells at the foot of a header row span the columns that their shading is over, or a rule below
    them, and return these cells (`id`).
    """
    shades, em = layout.rules.shades, layout.em
    if not (len(shades) or len(layout.rules.level)):
        return set()
    # Labels alone in their rows run out of their columns.
    several = [c for cells in cells_by_row(draft).values() if len(cells) > 1 for c in cells]
    columns = text_columns(layout, replace(draft, cells=several), row + 1)
    below = min((b.y0 for b in _boxes(layout, draft, row + 1)), default=np.inf)
    above = max((b.y1 for b in _boxes(layout, draft, row - 1)), default=-np.inf)
    inner = (shades.y1 < below + REACH * em) & (shades.y0 > above - REACH * em)
    out = set()
    for cell in [c for c in draft.cells if c.row + c.rowspan - 1 == row and c.words]:
        box = layout.box(np.array(cell.words))
        x, y = (box.x0 + box.x1) / 2, (box.y0 + box.y1) / 2
        behind = inner & (shades.x0 < x) & (shades.x1 > x) & (shades.y0 < y) & (shades.y1 > y)
        sides = sorted(
            zip(shades.x0[behind].tolist(), shades.x1[behind].tolist(), strict=True),
            key=lambda ends: ends[1] - ends[0],
        )
        if row < max(draft.header_rows - 1, 1):
            sides += rules_below(layout, x, box.y1, text_top(layout, draft, row + 1, cell.column))
        reach = REACH * em
        over = (found for low, high in sides if (found := _over(draft, cell, columns, low, high, reach)))
        if own := next(over, None):
            cell.column, cell.colspan = own[0], own[1] - own[0] + 1
            out.add(id(cell))
    return out


def _boxes(layout: PageLayout, draft: TableDraft, row: int) -> list[Box]:
    return [layout.box(np.array(c.words)) for c in draft.cells if c.row == row and c.words]


def _over(
    draft: TableDraft,
    cell: CellDraft,
    columns: Sequence[tuple[float, float] | None],
    low: float,
    high: float,
    reach: float,
) -> tuple[int, int] | None:
    """First and last of the columns between two x, not all of them, where these are the cell's alone and none
    is cut.
    """
    found = columns_over(columns, low, high, reach)
    if found is None:
        return None
    return None if is_held(draft, cell.row + cell.rowspan - 1, *found, but=cell) else found


def rules_below(layout: PageLayout, x: float, bottom: float, top: float) -> list[tuple[float, float]]:
    """Return left and right of the level rules that an x is over, between the bottom of a text and the top of
    another.
    """
    level, reach = layout.rules.level, OVER_LINE * layout.em
    under = (level.low < x) & (level.high > x) & (level.at > bottom - reach) & (level.at < top + reach)
    return list(zip(level.low[under].tolist(), level.high[under].tolist(), strict=True))


def columns_over(
    columns: Sequence[tuple[float, float] | None], low: float, high: float, reach: float
) -> tuple[int, int] | None:
    """Return first and last of the columns, given by left and right of their text, that stand between two x,
    or reach so far over them; None where these are all or none, or one is cut.
    """
    known = [(k, *side) for k, side in enumerate(columns) if side]
    inside = [k for k, x0, x1 in known if x0 > low - reach and x1 < high + reach]
    if not 0 < len(inside) < len(columns):
        return None
    first, last = inside[0], inside[-1]
    cut = any(x0 < high - reach and x1 > low + reach for k, x0, x1 in known if not first <= k <= last)
    return None if cut else (first, last)


def text_top(layout: PageLayout, draft: TableDraft, row: int, column: int) -> float:
    """Return where the text of a column begins, from a row on; infinite where there is none."""
    words = [
        i for c in draft.cells if c.row >= row and c.column <= column < c.column + c.colspan for i in c.words
    ]
    return float(layout.words.y0[words].min()) if words else np.inf


def _over_columns(
    layout: PageLayout,
    draft: TableDraft,
    r: int,
    extents: list[tuple[float, float] | None],
    settled: Collection[int],
) -> None:
    """Share the columns out among the cells of a header row so that all are centred best together: over the
    text or between the edges of their columns, or else between sides that may stand anywhere between texts.
    """
    row = sorted(
        (c for c in draft.cells if c.row <= r < c.row + c.rowspan and c.words), key=lambda c: c.column
    )
    if not row or len(row) == draft.columns:
        return
    boxes = [layout.box(np.array(c.words)) for c in row]
    edges, em = draft.column_edges, layout.em
    numeric = any(is_numeric(plain_text(layout, c.words)) for c in row)
    ruled = [_ruled_side(layout, draft, c, box, r) for c, box in zip(row, boxes, strict=True)]
    labels = list(zip(row, boxes, strict=True))
    if all(_keeps_side(c, box, extents, em) for c, box in labels):
        left = all(_begins(c, box, extents, em) for c, box in labels)
        if left and len(row) > 2:
            # Where all begin with their columns, one is in the middle of others by chance.
            _along_rules(row, r, extents, ruled)
            return
        if numeric or not any(_is_amid(c, box, extents, em) for c, box in labels):
            return

    def off_centre(k: int, a: int, b: int) -> float:
        left, right = extents[a], extents[b]
        if not (left and right and left[0] > ruled[k][0] and right[1] < ruled[k][1]):
            return 1e6
        by_text, by_edges = (left[0] + right[1]) / 2, (edges[a] + edges[b + 1]) / 2
        middle = (boxes[k].x0 + boxes[k].x1) / 2
        # What is over the labels of rows and other columns, and not over all, is rare.
        stub = a == 0 and 0 < b < draft.columns - 1
        return min(abs(middle - by_text), abs(middle - by_edges)) / em + UNCOVERED * stub

    ways = [_shared_out(draft, row, settled, off_centre)]
    if None not in extents and not numeric:
        # Where the sides of cells may stand: from the text on the left to that on the right.
        whole, side = layout.ruled_box(draft.box), SIDE * em
        texts = [text for text in extents if text]
        low = [min(whole.x0, draft.box.x0 - side), *(x1 for _, x1 in texts)]
        high = [*(x0 for x0, _ in texts), max(whole.x1, draft.box.x1 + side)]

        def off_sides(k: int, a: int, b: int) -> float:
            if not a:
                # The stub keeps its own head.
                return 0.0 if b == 0 and row[k].column == 0 else 1e6
            box = boxes[k]
            if texts[a][0] < ruled[k][0] or texts[b][1] > ruled[k][1]:
                return 1e6
            if a == b and min(abs(box.x0 - texts[a][0]), abs(box.x1 - texts[a][1])) < SAME_SIDE * em:
                return 0.0
            middle = (box.x0 + box.x1) / 2
            first, last = (sorted((low[j], high[j])) for j in (a, b + 1))
            off = max((first[0] + last[0]) / 2 - middle, middle - (first[1] + last[1]) / 2, 0.0)
            return BETWEEN + off / em

        ways.append(_shared_out(draft, row, settled, off_sides))
    cost, groups = min(ways, key=lambda way: way[0])
    if cost < 1e5:
        for cell, (first, last) in zip(row, groups, strict=True):
            if cell.row == r and cell.rowspan == 1:
                cell.column, cell.colspan = first, last - first + 1


def _begins(cell: CellDraft, box: Box, extents: Sequence[tuple[float, float] | None], em: float) -> bool:
    """Whether a label begins where the text of its column does."""
    own = extents[cell.column]
    return own is not None and abs(box.x0 - own[0]) < ONE_SIDE * em


def _along_rules(
    row: Sequence[CellDraft],
    r: int,
    extents: Sequence[tuple[float, float] | None],
    ruled: Sequence[tuple[float, float]],
) -> None:
    """Let labels that begin with their columns span those up to the next label that a rule below is over."""
    nexts = [c.column for c in row[1:]] + [len(extents)]
    for cell, (low, high), end in zip(row, ruled, nexts, strict=True):
        over = columns_over(extents, low, high, 0.0)
        if over and over[0] <= cell.column <= over[1] and cell.row == r and cell.rowspan == 1:
            cell.colspan = min(over[1] + 1, end) - cell.column


def _keeps_side(cell: CellDraft, box: Box, extents: Sequence[tuple[float, float] | None], em: float) -> bool:
    """Whether a label begins or ends where the text of its column does, and stays off that of the others: set
    to one side, it does not say how many columns it is over.
    """
    own, k = extents[cell.column], cell.column
    if own is None or cell.colspan > 1:
        return False
    before = max((text[1] for text in extents[:k] if text), default=-np.inf)
    after = min((text[0] for text in extents[k + 1 :] if text), default=np.inf)
    return (
        min(abs(box.x0 - own[0]), abs(box.x1 - own[1])) < ONE_SIDE * em and before < box.x0 < box.x1 < after
    )


def _ruled_side(
    layout: PageLayout, draft: TableDraft, cell: CellDraft, box: Box, row: int
) -> tuple[float, float]:
    """From where to where the columns of a label reach at most: along the rule below it, where one is."""
    reach = REACH * layout.em
    x, top = (box.x0 + box.x1) / 2, text_top(layout, draft, row + 1, cell.column)
    rules = rules_below(layout, x, box.y1, top) if cell.rowspan == 1 else []
    low, high = max(rules, key=lambda rule: rule[1] - rule[0], default=(-np.inf, np.inf))
    return low - reach, high + reach


def _is_amid(cell: CellDraft, box: Box, extents: Sequence[tuple[float, float] | None], em: float) -> bool:
    """Whether a label stands over the middle of the text of its column and as many on both sides of it."""
    k, middle = cell.column, (box.x0 + box.x1) / 2
    pairs = [(extents[k - j], extents[k + j]) for j in range(1, min(k - 1, len(extents) - 1 - k) + 1)]
    return any(a and b and abs((a[0] + b[1]) / 2 - middle) < SAME_SIDE * em for a, b in pairs)


def _shared_out(
    draft: TableDraft,
    row: Sequence[CellDraft],
    settled: Collection[int],
    off: Callable[[int, int, int], float],
) -> tuple[float, tuple[tuple[int, int], ...]]:
    """The least cost of sharing columns out among the cells of a row, and first and last column of each;
    `off` tells how far (em) the k-th is off where it is over some columns.
    """

    @functools.cache
    def best(k: int, a: int) -> tuple[float, tuple[tuple[int, int], ...]]:
        """Least cost, and groups, for the cells from k on in the columns from a on."""
        if k == len(row):
            return UNCOVERED * (draft.columns - a), ()
        own = (row[k].column, row[k].column + row[k].colspan - 1)
        if id(row[k]) in settled:
            rest, groups = best(k + 1, own[1] + 1) if own[0] >= a else (1e9, ((0, 0),) * (len(row) - k - 1))
            return sum(UNCOVERED for column in range(a, own[0]) if column) + rest, (own, *groups)
        found = (1e9, ((0, 0),) * (len(row) - k))
        for first in range(a, own[0] + 1):
            skipped = sum(UNCOVERED for column in range(a, first) if column)
            for last in range(own[1], draft.columns):
                error = off(k, first, last)
                cost = min(error, OFF_CENTRE) if (first, last) == own else error if error < CENTRED else 1e6
                rest, groups = best(k + 1, last + 1) if last + 1 <= draft.columns else (1e9, ())
                total = skipped + cost + rest
                if total < found[0]:
                    found = (total, ((first, last), *groups))
        return found

    return best(0, 0)


def _between_rows(draft: TableDraft) -> None:
    """Let labels between two header rows span both where nothing else makes a row there, and nothing stands
    above or below them.
    """
    for r in reversed(range(1, draft.header_rows - 1)):
        between = [c for c in draft.cells if c.row <= r < c.row + c.rowspan and c.words]
        alone = all((c.row, c.rowspan, c.colspan) == (r, 1, 1) for c in between)
        beside = ((row, c.column) for c in between for row in (r - 1, r + 1))
        if not between or not alone or any(is_held(draft, row, column, column) for row, column in beside):
            continue
        draft.cells = [c for c in draft.cells if c.row != r or c.words]
        for cell in between:
            cell.row, cell.rowspan = r - 1, 3
        _close_row(draft, r - 1)


def _over_both(layout: PageLayout, draft: TableDraft) -> None:
    """Let header cells at mid height of two rows span both: no label over several columns is over these."""
    for cell in [c for c in draft.cells if c.row < draft.header_rows and c.rowspan == 1 and c.words]:
        _over_rows(layout, draft, cell)


def _over_rows(layout: PageLayout, draft: TableDraft, cell: CellDraft) -> None:
    """Let a header cell that is set towards the empty place above or below it span both rows."""
    others = [c for c in draft.cells if c.row == cell.row and c.rowspan == 1 and c is not cell and c.words]

    def taken(c: CellDraft, row: int) -> bool:
        return is_held(draft, row, c.column, c.column + c.colspan - 1, but=c)

    for step in (1, -1):
        neighbour = cell.row + step
        if not 0 <= neighbour < draft.header_rows or taken(cell, neighbour):
            continue
        # Cells that have another there are of one row for sure.
        sure = [c for c in others if taken(c, neighbour)] or others
        if not sure:
            continue
        own, line = (_height(layout, cells) for cells in ([cell], sure))
        off = step * (own - line)
        if off.mean() > OFF_ROW * layout.em and off.min() > OFF_ENDS * layout.em:
            cell.row, cell.rowspan = min(cell.row, neighbour), 2
            return


def _height(layout: PageLayout, cells: Sequence[CellDraft]) -> Floats:
    """Top and bottom of the text of cells, (2,): those that most have."""
    boxes = [layout.box(np.array(c.words)) for c in cells]
    return np.array([median(np.array([b.y0 for b in boxes])), median(np.array([b.y1 for b in boxes]))])


def is_held(draft: TableDraft, row: int, first: int, last: int, but: CellDraft | None = None) -> bool:
    """Return whether a cell with text, other than one, stands in a row in some columns."""
    return any(
        c is not but
        and c.words
        and c.row <= row < c.row + c.rowspan
        and c.column <= last
        and c.column + c.colspan > first
        for c in draft.cells
    )
