"""A table that a service answered, looked up on the page: structure from there, characters from here.

Each text is sought among the words of the page. Where most texts of a row and of a column stand says where
row and column are; a text that does not stand where its row and column cross is not taken. So a changed
digit, an invented row, a value of another row and a shifted column are told, and lines within the table
that nothing claims are lost rows.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, field
from itertools import pairwise
from statistics import median

import numpy as np

from ..ink import Bools
from ..layout import PageLayout
from ..tables import CellDraft, TableDraft, text_columns
from .answer import TextCell, TextTable
from .lines import NEXT_LINE, Lines, Stand

METHOD = "remote"
# A text stands in its row up to this share of the way to the row below.
NEARER = 0.6
# Above the first and below the last row, a line so near (in distances of rows) may be a lost row.
BEYOND = 1.6
# A word stands across the border of two columns where this share of it is on either side at least.
SLACK = 0.25
# Between words of two columns there is at least this room, in heights of a word; a blank takes less.
BLANK = 0.6
# Rooms that differ by less, in points, are the same.
SAME_ROOM = 0.5
# A line of which cells claim less than this share of the words is in no row: a label alone, which an invented
# row may have in common with it, makes it none.
CLAIMED = 1 / 3
# How a text that does not stand on the page is marked where it is kept all the same.
MARKED = "[not on the page: {}]"


@dataclass(frozen=True, slots=True)
class Frame:
    """Where a table stands: its cells with the words that say their texts, the heights of its rows, the reach
    of its columns (both by number), and the lines of the page.
    """

    cells: list[tuple[TextCell, Stand]]
    rows: dict[int, float]
    spans: dict[int, tuple[float, float]]
    lines: Lines


@dataclass(slots=True)
class Grounded:
    """A table whose cells hold words of the page; without draft and frame where hardly any text of it stands
    there.

    `answered` is the table as it was answered; `ungrounded` are the texts, with row and column from 1, that
    do not stand where they should, `elsewhere` the number of those that stand in another place; `lost` are
    lines of the page, within the table, that no cell claims.
    """

    answered: TextTable
    draft: TableDraft | None = None
    frame: Frame | None = None
    ungrounded: list[tuple[int, int, str]] = field(default_factory=list)
    elsewhere: int = 0
    lost: list[str] = field(default_factory=list)


def ground(
    layout: PageLayout, tables: Sequence[TextTable], within: Bools | None = None, keep: bool = False
) -> list[Grounded]:
    """Look up the tables of a page, in their order, among its words `within` a region (all if None); no word
    belongs to two of them. With `keep`, texts that do not stand there are kept in the drafts, marked.
    """
    page = Lines(layout, within)
    used: set[int] = set()
    out = [_grounded(layout, page, table, used, keep) for table in tables]
    for one in out:
        if one.frame is not None:
            one.lost = _unclaimed(layout, one.frame, used)
    return out


def _grounded(layout: PageLayout, page: Lines, table: TextTable, used: set[int], keep: bool) -> Grounded:
    """Look up one table; the words that it takes go to `used`."""
    found = {id(cell): page.stands(cell.text) for cell in table.cells}
    rows = _row_heights(table, found)
    spans = _column_spans(table, found, rows)
    chosen: dict[int, Stand] = {}
    taken = set(used)
    # Those that can stand in one place only come first.
    for cell in sorted(table.cells, key=lambda c: (len(found[id(c)]), c.row, c.column)):
        fitting = [
            s for s in found[id(cell)] if _fits(s, cell, rows, spans) and not taken.intersection(s.words)
        ]
        if fitting:
            best = min(fitting, key=lambda s: (abs(s.top - rows.get(cell.row, s.top)), s.x0))
            chosen[id(cell)] = best
            taken.update(best.words)
    ungrounded = [(c.row + 1, c.column + 1, c.text) for c in table.cells if id(c) not in chosen]
    cells = [(cell, chosen[id(cell)]) for cell in table.cells if id(cell) in chosen]
    if 2 * len(cells) < len(table.cells) or len(cells) < 2:
        return Grounded(table, ungrounded=ungrounded)
    used |= taken
    entries = [Entry(c.row, c.column, c.rowspan, c.colspan, list(s.words)) for c, s in cells]
    if keep:
        entries += [
            Entry(c.row, c.column, c.rowspan, c.colspan, [], MARKED.format(c.text))
            for c in table.cells
            if id(c) not in chosen
        ]
    draft = drafted(layout, entries, table.header_rows)
    elsewhere = sum(bool(found[id(c)]) for c in table.cells if id(c) not in chosen)
    return Grounded(table, draft, Frame(cells, rows, spans, page), ungrounded, elsewhere)


def _unclaimed(layout: PageLayout, frame: Frame, used: set[int]) -> list[str]:
    """Return the lines within a table, or right above or below it, of which cells claim few words or none."""
    w = layout.words
    stands = [stand for _, stand in frame.cells]
    x0, x1 = min(s.x0 for s in stands), max(s.x1 for s in stands)
    top, bottom = min(s.top for s in stands), max(s.bottom for s in stands)
    free = []
    for line in frame.lines.lines:
        inside = [i for i in line if w.x1[i] > x0 - 1 and w.x0[i] < x1 + 1]
        if inside and len(used.intersection(inside)) < CLAIMED * len(inside):
            free.append((float(w.baseline[line[0]]), inside))
    found = [(at, inside) for at, inside in free if top < at < bottom]
    above = [(top - at, inside) for at, inside in reversed(free) if at <= top]
    below = [(at - bottom, inside) for at, inside in free if at >= bottom]
    found += [(top - d, inside) for d, inside in _beside(layout, frame, above)]
    found += [(bottom + d, inside) for d, inside in _beside(layout, frame, below)]
    return [" ".join(w.texts[i] for i in inside) for _, inside in sorted(found)]


def _beside(
    layout: PageLayout, frame: Frame, lines: Sequence[tuple[float, list[int]]]
) -> list[tuple[float, list[int]]]:
    """Those of the lines on one side of a table, the nearest first, that go on with its rows.

    They follow it at the distance of rows and keep to its columns: no word of theirs stands across two,
    and half of the columns have one, in the last of them at least.
    """
    w = layout.words
    heights = sorted(frame.rows.values())
    steps = [b - a for a, b in pairwise(heights)]
    # Of a table with one row it is not known how far apart its rows are.
    room = BEYOND * median(steps) if steps else NEXT_LINE * layout.em
    borders = _borders(frame)
    out: list[tuple[float, list[int]]] = []
    rows, last = 0, 0.0
    for distance, inside in lines:
        across = any(_crosses(layout, inside, border, least) for border, least in borders)
        if distance - last > room or across:
            break
        last = distance
        out.append((distance, inside))
        columns = {
            c
            for c, (left, right) in frame.spans.items()
            if any(left < (w.x0[i] + w.x1[i]) / 2 < right for i in inside)
        }
        if len(columns) > 1 and 2 * len(columns) >= len(frame.spans):
            rows = len(out)
    return out[:rows]


def _borders(frame: Frame) -> list[tuple[float, float]]:
    """The borders of columns, and the least room that rows have between the texts on either side."""
    rows: dict[int, list[Stand]] = defaultdict(list)
    for cell, stand in frame.cells:
        if cell.colspan == 1:
            rows[cell.row].append(stand)
    out = []
    for border in (right for _, right in frame.spans.values() if np.isfinite(right)):
        rooms = [np.inf]
        for stands in rows.values():
            left = max((s.x1 for s in stands if s.middle < border), default=-np.inf)
            right = min((s.x0 for s in stands if s.middle > border), default=np.inf)
            rooms.append(right - left)
        out.append((border, float(min(rooms))))
    return out


def _crosses(layout: PageLayout, line: Sequence[int], border: float, room: float) -> bool:
    """Whether a line of words, from left to right, runs across the border of two columns: a word does, or
    two do with no more than a blank between them, and less than the `room` that rows have there.
    """
    w = layout.words
    for i in line:
        # Borders are only so exact: a word may be beyond one with an end.
        slack = SLACK * float(w.x1[i] - w.x0[i])
        if w.x0[i] + slack < border < w.x1[i] - slack:
            return True
    left = [i for i in line if (w.x0[i] + w.x1[i]) / 2 < border]
    right = [i for i in line if (w.x0[i] + w.x1[i]) / 2 >= border]
    if not left or not right:
        return False
    height = float(w.y1[right[0]] - w.y0[right[0]])
    # Where columns stand close, rows may have little more than a blank between them themselves.
    return float(w.x0[right[0]] - w.x1[left[-1]]) < min(BLANK * height, room - SAME_ROOM)


def _row_heights(table: TextTable, found: dict[int, list[Stand]]) -> dict[int, float]:
    """The height of each row: the chain from top to bottom that most texts agree with."""
    votes: list[dict[float, int]] = [defaultdict(int) for _ in range(table.rows)]
    for cell in table.cells:
        if cell.rowspan == 1:
            for height in {round(s.top, 1) for s in found[id(cell)]}:
                votes[cell.row][height] += 1
    # Row by row, the best chain that ends at each height or above it (dynamic programming).
    heights = sorted({height for row in votes for height in row})
    place = {height: k for k, height in enumerate(heights, start=1)}
    chains: list[tuple[int, dict[int, float]]] = [(0, {})] * (len(heights) + 1)
    for number, row in enumerate(votes):
        fresh = list(chains)
        for height, count in row.items():
            score, chain = chains[place[height] - 1]
            if score + count > fresh[place[height]][0]:
                fresh[place[height]] = score + count, {**chain, number: height}
        for k in range(1, len(fresh)):
            if fresh[k - 1][0] > fresh[k][0]:
                fresh[k] = fresh[k - 1]
        chains = fresh
    return chains[-1][1]


def _column_spans(
    table: TextTable, found: dict[int, list[Stand]], rows: dict[int, float]
) -> dict[int, tuple[float, float]]:
    """From where to where each column reaches: halfway to the middles of its neighbours."""
    edges: dict[int, list[Stand]] = defaultdict(list)
    for cell in table.cells:
        if cell.colspan == 1 and cell.row in rows:
            above = max((h for r, h in rows.items() if r < cell.row), default=-np.inf)
            below = min((h for r, h in rows.items() if r > cell.row), default=np.inf)
            level = [s for s in found[id(cell)] if above < s.top < below]
            if len(level) == 1:
                edges[cell.column].append(level[0])
    spans = {c: (median(s.x0 for s in found_), median(s.x1 for s in found_)) for c, found_ in edges.items()}
    out: dict[int, tuple[float, float]] = {}
    known = sorted(spans)
    for k, c in enumerate(known):
        left, right = -np.inf, np.inf
        if k:
            left = (spans[known[k - 1]][1] + spans[c][0]) / 2
        if k + 1 < len(known):
            right = (spans[c][1] + spans[known[k + 1]][0]) / 2
        out[c] = (float(left), float(right))
    return out


def _fits(
    stand: Stand, cell: TextCell, rows: dict[int, float], spans: dict[int, tuple[float, float]]
) -> bool:
    """Whether words stand where the row and the column of a cell cross."""
    above = max((h for r, h in rows.items() if r < cell.row), default=-np.inf)
    below = min((h for r, h in rows.items() if r >= cell.row + cell.rowspan), default=np.inf)
    own = [rows[r] for r in range(cell.row, cell.row + cell.rowspan) if r in rows]
    if not above < stand.top < below:
        return False
    # Nearer to the row below it is a text of that.
    if cell.rowspan == 1 and own and stand.top - own[0] > (below - own[0]) * NEARER:
        return False
    columns = [spans[c] for c in range(cell.column, cell.column + cell.colspan) if c in spans]
    if not columns:
        return False
    return columns[0][0] <= stand.middle <= columns[-1][1]


@dataclass(slots=True)
class Entry:
    """A cell by the numbers of its rows and columns, which need not follow each other, with its words, and
    what it says where nothing on the page does.
    """

    row: float
    column: int
    rowspan: int
    colspan: int
    words: list[int]
    said: str = ""


def drafted(layout: PageLayout, entries: Sequence[Entry], header_rows: int) -> TableDraft:
    """Return the table of some cells, without the rows and columns in which none begins."""
    rows = sorted({entry.row for entry in entries})
    columns = sorted({entry.column for entry in entries})
    down = {r: k for k, r in enumerate(rows)}
    across = {c: k for k, c in enumerate(columns)}
    cells = []
    for e in entries:
        rowspan = sum(e.row <= r <= e.row + e.rowspan - 1 for r in rows)
        colspan = sum(e.column <= c < e.column + e.colspan for c in columns)
        cells.append(CellDraft(down[e.row], across[e.column], rowspan, colspan, e.words, said=e.said))
    members = np.array(sorted(w for cell in cells for w in cell.words), dtype=np.int64)
    header = sum(r < header_rows for r in rows)
    draft = TableDraft(layout.box(members), len(rows), len(columns), cells, METHOD, header)
    draft.column_edges = _column_edges(layout, draft)
    return draft


def _column_edges(layout: PageLayout, draft: TableDraft) -> list[float]:
    """The edges of columns, halfway between their texts; none where they cannot be told."""
    texts = [span for span in text_columns(layout, draft) if span is not None]
    if len(texts) < draft.columns:
        return []
    between = [(a[1] + b[0]) / 2 for a, b in pairwise(texts)]
    edges = [draft.box.x0, *between, draft.box.x1]
    return edges if edges == sorted(edges) else []
