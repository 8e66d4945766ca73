"""Cells that stand over several columns or rows: told by lines that break off, by how text is centred."""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection, Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from ..ink import Floats, distinct
from ..layout import PageLayout
from ..model import Box
from .draft import CellDraft, TableDraft, cells_by_row, columns_of, plain_text
from .header_spans import spread_headers
from .numbers import is_numeric
from .strip import is_sentence
from .walls import Walls, find_walls

# A label alone in its row is over all columns when its middle is this near (em) to theirs.
CENTRED = 0.7
# A label at mid height of its rows is this near (em) to the middle of them.
MID_HEIGHT = 0.35
# One off the lines beside it by this (em) belongs to several rows.
OFF_LINE = 0.2
# A label alone in its row is set this far (em) from the left edge of its column to be centred over all.
OFF_LEFT = 0.7
# A blank between words is narrower than this (em).
BLANK = 0.5
# A rule runs beside a label at mid height when top and foot of that are farther than this share of it.
RUNS_BESIDE = 0.2
# Texts of a column that begin so near (em) to each other are set to its left side.
SAME_SIDE = 0.15
# A shade wider than its cell tells what that spans where more than this share of the shaded cells are as wide
# as theirs.
OWN = 0.5
# Columns are parted by upright lines where these stand beside this share of the rows.
PARTED = 0.5


@dataclass(slots=True)
class _Label:
    """Cells of one column that make one label: its top and bottom, and whether it is off the lines beside
    it.
    """

    cells: list[CellDraft]
    y0: float
    y1: float
    floating: bool


def spread_cells(layout: PageLayout, draft: TableDraft) -> None:
    """Let cells span the empty places around them that the page shows to be theirs."""
    if draft.drawn or not draft.cells:
        return
    settled = spread_headers(layout, draft)
    walls = find_walls(layout, draft)
    if walls is None:
        return
    for column in (*range(min(3, draft.columns - 1)), draft.columns - 1):
        _at_mid_height(layout, draft, walls, column)
    if len(layout.rules.level):
        _where_level_lines_break(layout, draft, walls)
    if len(layout.rules.upright):
        _where_upright_lines_break(layout, draft, walls, settled)
    spread_over_shading(layout, draft)
    _centred_labels(layout, draft, walls)
    _over_all_if_note(layout, draft)
    _drop_hollow_rows(draft)


def _by_place(draft: TableDraft) -> dict[tuple[int, int], CellDraft]:
    """The cell with text that covers each place."""
    return {
        (r, c): cell
        for cell in draft.cells
        if cell.words
        for r in range(cell.row, cell.row + cell.rowspan)
        for c in range(cell.column, cell.column + cell.colspan)
    }


def settle_labels_beside_rules(layout: PageLayout, draft: TableDraft) -> None:
    """Give labels that stand alone in a row at the height of a rule beside them, which parts the rows above
    and below, to one of these rows: they stand at mid height of both.
    """
    level = layout.rules.level
    if not len(level):
        return
    rows = cells_by_row(draft)
    covered = {r for c in draft.cells if c.rowspan > 1 for r in range(c.row, c.row + c.rowspan)}
    below = rows.get(draft.rows - 1, [])
    for r in range(draft.rows - 2, 0, -1):
        above, own = rows.get(r - 1, []), rows.get(r, [])
        sides = [columns_of(cells) for cells in (above, below)]
        free = [held.isdisjoint(columns_of(own)) for held in sides]
        if own and r not in covered and all(sides) and any(free) and _beside_rule(layout, draft.box, own):
            for c in draft.cells:
                c.row -= c.row > r or (free[0] and any(c is label for label in own))
            draft.rows -= 1
            if free[0]:
                rows[r - 1] = [*above, *own]
            else:
                below = [*below, *own]
        else:
            below = own


def _beside_rule(layout: PageLayout, table: Box, cells: Sequence[CellDraft]) -> bool:
    """Whether a rule of a table runs at mid height of the text of some of its cells, and through none."""
    level = layout.rules.level
    box = layout.box(np.array([i for c in cells for i in c.words]))
    reach = RUNS_BESIDE * (box.y1 - box.y0)
    beside = (level.at > box.y0 + reach) & (level.at < box.y1 - reach)
    beside &= (level.low < table.x1) & (level.high > table.x0)
    boxes = [layout.box(np.array(c.words)) for c in cells] if beside.any() else []
    through = [beside & (level.low < b.x1) & (level.high > b.x0) for b in boxes]
    return bool(beside.any() and not np.any(through))


def _where_level_lines_break(layout: PageLayout, draft: TableDraft, walls: Walls) -> None:
    """Below the header, a column that a line between rows leaves out goes on in the next row; numbers do
    not, and nothing does beside a label that stands alone in its row. What is not set at mid height of its
    rows has a line above and one below them: a line over a sum leaves out the label before it, too.
    """
    held = _by_place(draft)
    open_ = walls.level.any(axis=1, keepdims=True) & ~walls.level
    bounded = np.pad(walls.level, ((1, 1), (0, 0)), constant_values=True)
    bounded[draft.header_rows] = True
    open_[: draft.header_rows] = False
    # Where text stands above and below in what a line leaves out, a row ends: lines above totals run below
    # numbers alone.
    full = np.zeros((draft.rows, draft.columns), dtype=np.bool_)
    full[[r for r, _ in held], [c for _, c in held]] = True
    upper, lower = full[:-1] & open_, full[1:] & open_
    ends = np.array(upper.any(axis=1) & lower.any(axis=1))
    ends |= ~full[1:, 1:].any(axis=1)
    for c in range(draft.columns):
        r = 0
        while r < draft.rows - 1:
            end = r
            while end < draft.rows - 1 and open_[end, c]:
                end += 1
            cells = {id(x): x for k in range(r, end + 1) if (x := held.get((k, c)))}
            if end > r and len(cells) == 1:
                (cell,) = cells.values()
                stays = ends[r:end].any() or not (bounded[r, c] and bounded[end + 1, c])
                if stays and not _is_between(layout, cell, walls.top[r], walls.bottom[end]):
                    r = end + 1
                    continue
                plain = cell.colspan == 1 and cell.rowspan == 1
                if plain and not any(ch.isdigit() for ch in plain_text(layout, cell.words)):
                    cell.row, cell.rowspan = r, end - r + 1
            r = end + 1


def _is_between(layout: PageLayout, cell: CellDraft, top: float, bottom: float) -> bool:
    """Whether the text of a cell stands at mid height between two y."""
    box = layout.box(np.array(cell.words))
    return abs(box.y0 + box.y1 - top - bottom) / 2 < MID_HEIGHT * layout.em


def _where_upright_lines_break(
    layout: PageLayout, draft: TableDraft, walls: Walls, settled: Collection[int]
) -> None:
    """A row that lines between columns leave out has one cell there; the stub of a header may be empty."""
    held = _by_place(draft)
    parted = walls.upright.mean(axis=0) >= PARTED
    for r in range(draft.rows):
        c, last = 0, draft.columns - 1
        while c < last:
            end = c
            while end < last and parted[end] and not walls.upright[r, end]:
                end += 1
            cells = {id(x): x for k in range(c, end + 1) if (x := held.get((r, k)))}
            if end > c and len(cells) == 1:
                (cell,) = cells.values()
                first = 1 if c == 0 and cell.column and r < max(draft.header_rows, 1) else c
                inside = cell.column >= c and cell.column + cell.colspan <= end + 1
                if walls.upright[r, cell.column : cell.column + cell.colspan - 1].any():
                    # It was shared out by its middle, over a line: lines on both sides of it tell better.
                    box = layout.box(np.array(cell.words))
                    inside = walls.left[c] < box.x0 and box.x1 < walls.right[end]
                if cell.rowspan == 1 and inside and id(cell) not in settled:
                    cell.column, cell.colspan = first, end - first + 1
            c = end + 1


def spread_over_shading(layout: PageLayout, draft: TableDraft) -> None:
    """Let a cell with shading of its own that goes on behind empty places above or below it span these, and
    one alone in its row those beside it, where other cells have shading of their own.
    """
    shades = layout.rules.shades
    walls = find_walls(layout, draft) if len(shades) and not draft.drawn else None
    if walls is None:
        return
    held = _by_place(draft)
    shaded = [
        (cell, *behind, list(range(cell.column, cell.column + cell.colspan)))
        for cell in draft.cells
        if cell.words and cell.rowspan == 1 and (behind := _shade_behind(layout, walls, cell))
    ]
    single = sum(across == own for _, _, across, own in shaded)
    for cell, over, across, own in shaded:
        alone = {id(held[p]) for p in ((r, c) for r in over for c in across) if p in held} == {id(cell)}
        if alone and 1 < len(over) < draft.rows and across == own:
            cell.row, cell.rowspan = over[0], len(over)
        elif alone and over == [cell.row] and set(own) < set(across) and single > OWN * len(shaded):
            cell.column, cell.colspan = across[0], len(across)


def _shade_behind(layout: PageLayout, walls: Walls, cell: CellDraft) -> tuple[list[int], list[int]] | None:
    """The rows and columns whose middles the lowest shade behind a cell covers; None where it has none."""
    shades, box = layout.rules.shades, layout.box(np.array(cell.words))
    x, y = (box.x0 + box.x1) / 2, (box.y0 + box.y1) / 2
    behind = np.flatnonzero((shades.x0 < x) & (shades.x1 > x) & (shades.y0 < y) & (shades.y1 > y))
    if not len(behind):
        return None
    k = int(behind[(shades.y1 - shades.y0)[behind].argmin()])
    rows, columns = (walls.top + walls.bottom) / 2, (walls.left + walls.right) / 2
    over = np.flatnonzero((rows > shades.y0[k]) & (rows < shades.y1[k])).tolist()
    across = np.flatnonzero((columns > shades.x0[k]) & (columns < shades.x1[k])).tolist()
    return over, across


def _drop_hollow_rows(draft: TableDraft) -> None:
    """Drop rows in which nothing stands but cells that span a row above or below as well."""
    if all(c.rowspan == 1 for c in draft.cells):
        return
    held: list[set[int]] = [set() for _ in range(draft.rows)]
    for c in draft.cells:
        for cells in held[c.row : c.row + c.rowspan] if c.words else ():
            cells.add(id(c))
    for r in range(draft.rows - 1, -1, -1):
        if held[r] and any(held[r] <= other for other in (*held[max(r - 1, 0) : r], *held[r + 1 : r + 2])):
            for c in draft.cells:
                c.rowspan -= c.row <= r < c.row + c.rowspan and c.rowspan > 1
                c.row -= c.row > r
            del held[r]
            draft.rows -= 1
            draft.header_rows -= r < draft.header_rows


def _centred_labels(layout: PageLayout, draft: TableDraft, walls: Walls) -> None:
    """A label alone in its row and set over the middle of the table heads all columns."""
    w, em = layout.words, layout.em
    left, right = float(walls.left[0]), float(walls.right[-1])
    # Rules end where the table does, its text may end before.
    whole = layout.ruled_box(draft.box)
    middles = ((left + right) / 2, (whole.x0 + whole.x1) / 2)
    covered = {r for c in draft.cells if c.rowspan > 1 for r in range(c.row, c.row + c.rowspan)}
    for r, cells in cells_by_row(draft).items():
        if len(cells) != 1 or r in covered or r < draft.header_rows:
            continue
        x0, x1 = float(w.x0[cells[0].words].min()), float(w.x1[cells[0].words].max())
        off = min(abs((x0 + x1) / 2 - middle) for middle in middles)
        own = cells[0].column
        if (
            own
            and abs(x0 - walls.left[own]) < SAME_SIDE * em
            and sum(c.column == own for c in draft.cells) > 2
        ):
            # It begins with the others of its column, and is over the middle by chance.
            continue
        if off < CENTRED * em and x0 > left + OFF_LEFT * em:
            cells[0].column, cells[0].colspan = 0, draft.columns


def _over_all_if_note(layout: PageLayout, draft: TableDraft) -> None:
    """Let a sentence alone in the last row span all columns: no label of rows is one. Columns may part it at
    its blanks.
    """
    w, last = layout.words, draft.rows - 1
    cells = sorted(cells_by_row(draft).get(last, []), key=lambda c: c.column)
    if draft.header_rows > last or not cells or any(c.row < last < c.row + c.rowspan for c in draft.cells):
        return
    words = [i for c in cells for i in c.words]
    gaps = (w.x0[b.words].min() - w.x1[a.words].max() for a, b in pairwise(cells))
    apart = len(cells) > 1 and (len(distinct(w.row[words])) > 1 or max(gaps) > BLANK * layout.em)
    labels = (plain_text(layout, c.words) for c in draft.cells if c.column == 0 and c.row < last and c.words)
    text = plain_text(layout, words)
    if cells[0].column or apart or text[-1] != "." or not is_sentence(text) or any(map(is_sentence, labels)):
        return
    draft.cells = [c for c in draft.cells if c.row < last]
    draft.cells.append(CellDraft(last, 0, 1, draft.columns, words))


def _at_mid_height(layout: PageLayout, draft: TableDraft, walls: Walls, column: int) -> None:
    """Labels of a column that all stand at mid height of the rows up to the next one span these rows: of all
    rows below the header, or of those between any two rules.
    """
    own = [c for c in draft.cells if c.column == column and c.words and c.row >= draft.header_rows]
    own.sort(key=lambda c: c.row)
    if not 1 < len(own) < draft.rows - draft.header_rows or any(c.rowspan > 1 or c.colspan > 1 for c in own):
        return
    top, bottom = _heights(layout, draft, own)
    labels = _labels(layout, own, top, bottom)
    tiled = _tiled(layout, labels, draft.header_rows, draft.rows - 1, top, bottom)
    found = tiled[0] if tiled is not None and tiled[1] == draft.rows else []
    # A number that stands on the line of a row is that row's, and of no other.
    several = [label for label, _, height in found if height > 1 and not label.floating]
    if any(_counts(layout, label.cells[0]) for label in several):
        return
    if not found or not (any(label.floating for label in labels) or _ruled_apart(layout, found, top, bottom)):
        ends = [r for r in range(draft.header_rows, draft.rows - 1) if walls.level[r, column]]
        found = _between_rules(
            layout, labels, [draft.header_rows, *(r + 1 for r in ends), draft.rows], top, bottom
        )
    for label, row, height in found:
        cell = label.cells[0]
        cell.row, cell.rowspan = row, height
        cell.words = [i for c in label.cells for i in c.words]
        for more in label.cells[1:]:
            draft.cells.remove(more)


def _heights(layout: PageLayout, draft: TableDraft, own: Sequence[CellDraft]) -> tuple[Floats, Floats]:
    """Top and bottom of each row, as columns with more cells than some have them."""
    w = layout.words
    cells = [c for c in draft.cells if c.words and c.rowspan == 1 and c.colspan == 1]
    count = Counter(c.column for c in cells if c.row >= draft.header_rows)
    top, bottom = np.full(draft.rows, np.inf), np.full(draft.rows, -np.inf)
    for c in cells:
        if count[c.column] > len(own):
            top[c.row] = min(top[c.row], float(w.y0[c.words].min()))
            bottom[c.row] = max(bottom[c.row], float(w.y1[c.words].max()))
    for c in own:
        if not np.isfinite(top[c.row]):
            top[c.row], bottom[c.row] = float(w.y0[c.words].min()), float(w.y1[c.words].max())
    return top, bottom


def _labels(layout: PageLayout, own: Sequence[CellDraft], top: Floats, bottom: Floats) -> list[_Label]:
    """The labels that the cells of a column make, from top to bottom: of several lines, or one each."""
    w, em = layout.words, layout.em
    labels: list[_Label] = []
    for c in own:
        y0, y1 = float(w.y0[c.words].min()), float(w.y1[c.words].max())
        floating = abs(y0 + y1 - top[c.row] - bottom[c.row]) / 2 > OFF_LINE * em
        last = labels[-1] if labels else None
        if (
            last
            and floating
            and last.floating
            and y0 - last.y1 < OFF_LINE * em
            and c.row == last.cells[-1].row + 1
        ):
            labels[-1] = _Label([*last.cells, c], last.y0, y1, True)
        else:
            labels.append(_Label([c], y0, y1, floating))
    return labels


def _tiled(
    layout: PageLayout, labels: Sequence[_Label], first: int, last: int, top: Floats, bottom: Floats
) -> tuple[list[tuple[_Label, int, int]], int] | None:
    """Labels with the first of their rows and how many they have, where the rows from the first on can be
    shared out so that each stands at mid height of its own, and the row after these, at most that after the
    last; None where they cannot.
    """
    begin, found = first, []
    for k, label in enumerate(labels):
        row = label.cells[0].row
        end = labels[k + 1].cells[0].row if k + 1 < len(labels) else last
        if row < begin or begin > last or not np.isfinite(top[begin]):
            return None
        ends = [e for e in range(label.cells[-1].row, max(end, row) + 1) if np.isfinite(bottom[e])]
        off = [abs((top[begin] + bottom[e]) / 2 - (label.y0 + label.y1) / 2) for e in ends]
        at = int(np.argmin(off)) if off else 0
        if not off or off[at] > MID_HEIGHT * layout.em:
            return None
        found.append((label, begin, ends[at] - begin + 1))
        begin = ends[at] + 1
    return (found, begin) if begin <= last + 1 else None


def _between_rules(
    layout: PageLayout, labels: Sequence[_Label], edges: Sequence[int], top: Floats, bottom: Floats
) -> list[tuple[_Label, int, int]]:
    """The same for the rows from each edge to before the next, where several of these hold labels of several
    rows; nothing where any of them but the last, which totals and notes may end, cannot be shared out so. Of
    numbers one may stand in the middle by chance.
    """
    out: list[tuple[_Label, int, int]] = []
    several = 0
    if any(_counts(layout, label.cells[0]) for label in labels):
        return []
    for first, end in pairwise(edges):
        own = [label for label in labels if first <= label.cells[0].row and label.cells[-1].row < end]
        tiled = _tiled(layout, own, first, end - 1, top, bottom) if own else ([], end)
        if end < edges[-1] and (tiled is None or tiled[1] != end):
            return []
        if tiled is not None:
            several += any(height > 1 for _, _, height in tiled[0])
            out += tiled[0]
    return out if several > 1 else []


def _counts(layout: PageLayout, cell: CellDraft) -> bool:
    """Whether a cell holds a number."""
    text = plain_text(layout, cell.words)
    return is_numeric(text) and any(c.isdigit() for c in text)


def _ruled_apart(
    layout: PageLayout, groups: Sequence[tuple[_Label, int, int]], top: Floats, bottom: Floats
) -> bool:
    """Whether level rules run between all groups of rows, and beside no label within one: labels on a line of
    their own do not tell whether they stand at mid height.
    """
    w, level, reach = layout.words, layout.rules.level, OFF_LINE * layout.em
    for label, first, height in groups:
        x0, x1 = (float(f(side[label.cells[0].words])) for f, side in ((np.min, w.x0), (np.max, w.x1)))
        over = level.at[(level.low < x1) & (level.high > x0)]
        for row in range(max(first, groups[0][1] + 1), first + height):
            ruled = bool(((over > bottom[row - 1] - reach) & (over < top[row] + reach)).any())
            if ruled != (row == first):
                return False
    return True
