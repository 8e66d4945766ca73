"""The structure that a service answered, filled with all the words of a table: none is lost, none is new."""

from __future__ import annotations

from collections import defaultdict
from itertools import pairwise

import numpy as np

from ..ink import Ints
from ..layout import PageLayout
from ..tables import TableDraft
from .answer import TextCell
from .ground import Entry, Frame, Grounded, drafted
from .lines import NEXT_LINE, SAME_LINE

# Where a larger share of the texts stands elsewhere than answered, the structure is not that of the page.
ELSEWHERE = 0.1


def complete(layout: PageLayout, one: Grounded, wanted: Ints) -> TableDraft | None:
    """Return the table with each of the `wanted` words in it; None where one has no place without doubt.

    Words that no cell claims (their text was answered wrongly, or their row left out) go where the height of
    their line and the reach of the columns put them: into a row that was answered, into the lines of a cell
    whose text was not found, or, several columns of them, into a row of their own.
    """
    frame = one.frame
    if frame is None or one.elsewhere > ELSEWHERE * len(one.answered.cells):
        return None
    claimed = {w for _, stand in frame.cells for w in stand.words}
    left = set(wanted.tolist()) - claimed
    entries = [Entry(c.row, c.column, c.rowspan, c.colspan, list(s.words)) for c, s in frame.cells]
    open_cells = _not_found(one, frame)
    heights = dict(frame.rows)
    for cell, stand in frame.cells:
        if cell.rowspan == 1:
            heights.setdefault(cell.row, stand.top)
    lines = [[i for i in line if i in left] for line in frame.lines.lines]
    if sum(map(len, lines)) < len(left):
        # Words that are turned, or stand outside the picture.
        return None
    for line in filter(None, lines):
        parts = _by_column(layout, frame, line)
        if parts is None or not _placed(layout, heights, parts, entries, open_cells):
            return None
    taken = [
        (row, column)
        for e in entries
        for row in {e.row, *(r for r in _rows(entries) if e.row <= r <= e.row + e.rowspan - 1)}
        for column in range(e.column, e.column + e.colspan)
    ]
    if len(taken) > len(set(taken)) or not _below_each_other(layout, entries):
        return None
    w = layout.words
    for e in entries:
        e.words.sort(key=lambda i: (int(w.row[i]), float(w.x0[i])))
    return drafted(layout, entries, one.answered.header_rows)


def _below_each_other(layout: PageLayout, entries: list[Entry]) -> bool:
    """Whether each row stands below the one before it, by a line at least."""
    w = layout.words
    top: dict[float, float] = {}
    for e in entries:
        if e.rowspan == 1:
            top[e.row] = min(top.get(e.row, np.inf), min(float(w.baseline[i]) for i in e.words))
    least = SAME_LINE * layout.em
    return all(top[b] - top[a] > least for a, b in pairwise(sorted(top)))


def _rows(entries: list[Entry]) -> set[float]:
    return {e.row for e in entries}


def _not_found(one: Grounded, frame: Frame) -> dict[tuple[int, int], TextCell]:
    """The cells whose texts were not found, by row and column."""
    found = {id(cell) for cell, _ in frame.cells}
    return {(c.row, c.column): c for c in one.answered.cells if id(c) not in found}


def _by_column(layout: PageLayout, frame: Frame, line: list[int]) -> dict[int, list[int]] | None:
    """The words of a line by column; None where one stands across the edge of two, or in none."""
    w = layout.words
    out: dict[int, list[int]] = defaultdict(list)
    for i in line:
        middle = (w.x0[i] + w.x1[i]) / 2
        at = [c for c, (left, right) in frame.spans.items() if left < middle < right]
        if len(at) != 1:
            return None
        left, right = frame.spans[at[0]]
        if w.x0[i] < left - layout.em or w.x1[i] > right + layout.em:
            return None
        out[at[0]].append(i)
    return out


def _placed(
    layout: PageLayout,
    heights: dict[int, float],
    parts: dict[int, list[int]],
    entries: list[Entry],
    open_cells: dict[tuple[int, int], TextCell],
) -> bool:
    """Put the words of a line into their cells, or a row of their own; tell whether that can be done."""
    w = layout.words
    first = next(iter(parts.values()))[0]
    at, height = float(w.baseline[first]), float(w.y1[first] - w.y0[first])
    level = [r for r, y in heights.items() if abs(y - at) < SAME_LINE * height]
    if level:
        for column, words in parts.items():
            _add(entries, open_cells, level[0], column, words)
        return True
    above = max((r for r, y in heights.items() if y < at), default=None)
    if above is not None and all((above, column) in open_cells for column in parts):
        # A further line of texts that were not found: their first lines have come before.
        near = [
            e for e in entries
            if e.row == above and e.column in parts
            and at - max(float(w.baseline[i]) for i in e.words) < NEXT_LINE * height
        ]  # fmt: skip
        if len(near) == len(parts):
            for entry in near:
                entry.words += parts[entry.column]
            return True
    if len(parts) < 2:
        return False
    key = _between(entries, above, min(heights, default=0))
    entries += [Entry(key, column, 1, 1, words) for column, words in parts.items()]
    return True


def _add(
    entries: list[Entry], open_cells: dict[tuple[int, int], TextCell], row: int, column: int, words: list[int]
) -> None:
    """Put words into the cell at a place, which may reach over several rows or columns."""
    for e in entries:
        if e.row <= row <= e.row + e.rowspan - 1 and e.column <= column < e.column + e.colspan:
            e.words += words
            return
    cell = open_cells.get((row, column))
    extent = (cell.rowspan, cell.colspan) if cell else (1, 1)
    entries.append(Entry(row, column, *extent, words))


def _between(entries: list[Entry], above: int | None, first: int) -> float:
    """The number of a row of its own behind those that were put behind the same row before."""
    if above is None:
        behind = [r for r in _rows(entries) if r < first]
        return (max(behind) + first) / 2 if behind else first - 1
    behind = [r for r in _rows(entries) if above <= r < above + 1]
    return (max(behind) + above + 1) / 2
