"""Which lines of text make one row of a table: wrapped cells stay together, rows stay apart."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..ink import Floats
from .strips import Row

# Rooms between lines fall into two classes, within cells and between rows, when they differ by this (em).
CLASS_STEP = 0.18
# Room within a cell is at most this (em); lines farther apart are never one row.
MAX_ROOM = 0.8
# Of the lines that narrow rooms would join, at least this share must look like the rest of a wrapped cell.
WRAPPED_SHARE = 0.6
# Of the lines after wide rooms, at least this share begins with a label where every row has one.
LABELLED = 0.7
# A line is set farther in than another by at least this (em).
INDENT = 0.5
# Lines that overlap by more than this (em) are one row: cells set at mid height beside wrapped ones.
OVERLAP = 0.15
# A row about a label at mid height ends within this share of a line of where its last line does.
LINES_OFF = 0.6


def row_starts(
    rows: Sequence[Row], filled: Sequence[frozenset[int]], numbers: Sequence[frozenset[int]], em: float
) -> list[bool]:
    """Tell for each line of text whether a table row begins there.

    `filled` names the columns in which each line has text, `numbers` those in which it is a number. Numbers
    in one column stand in rows of their own. Else, where the rooms between lines fall into two classes, the
    narrow ones lie within cells; where they do not, a line that leaves the stub (the first column) empty
    continues the row above it, unless it has as much text as a row of its own.
    """
    if not rows:
        return []
    bottoms = np.maximum.accumulate([r.y1 for r in rows])
    rooms = (np.array([r.y0 for r in rows[1:]]) - bottoms[:-1]) / em
    groups = [filled[i] == {0} and rows[i + 1].x0 > rows[i].x0 + INDENT * em for i in range(len(rows) - 1)]
    split = _two_classes(rooms, filled, numbers, [*groups, False])
    if split is None and (centred := _centred(rows, filled)) is not None:
        return centred
    starts = [True]
    wide = np.flatnonzero(rooms > (MAX_ROOM if split is None else split)) + 1
    # Where rows begin with a label, text under one other column goes on in its cell, however far below.
    labelled = len(wide) > 2 and sum(0 in filled[i] for i in wide.tolist()) >= LABELLED * len(wide)
    for i in range(1, len(rows)):
        room = rooms[i - 1]
        if (
            labelled
            and len(filled[i]) == 1
            and 0 not in filled[i]
            and not numbers[i]
            and filled[i] <= filled[i - 1]
        ):
            starts.append(False)
            continue
        if room < -OVERLAP:
            starts.append(False)
        elif room > MAX_ROOM or numbers[i] & numbers[i - 1]:
            starts.append(True)
        elif split is not None:
            starts.append(bool(room > split))
        else:
            starts.append(0 in filled[i] or not _continues(filled[i - 1], filled[i], filled))
    return starts


def _centred(rows: Sequence[Row], filled: Sequence[frozenset[int]]) -> list[bool] | None:
    """Rows whose short cells stand at mid height beside cells of many lines, if the lines bear that out.

    A label at mid height gives the height of its row: as far as the row reaches above it, it reaches below.
    Lines fall into such rows if each ends between two lines, and the last with the table.
    """
    first = next((i for i in range(1, len(rows)) if 0 not in filled[i]), None)
    if first is None or not all(0 in f for f in filled[:first]):
        return None
    labels = [i for i in range(first, len(rows)) if 0 in filled[i]]
    if len(labels) < 2:
        return None
    middles = [(r.y0 + r.y1) / 2 for r in rows]
    pitch = float(np.median(np.diff(middles[first:])))
    starts = [True] * first + [False] * (len(rows) - first)
    begin = first
    for label in labels:
        if label < begin:
            return None
        top = min(r.y0 for r in rows[begin : label + 1])
        bottom = 2 * middles[label] - top
        end = next((i for i in range(label, len(rows)) if middles[i] > bottom), len(rows))
        if abs(max(r.y1 for r in rows[begin:end]) - bottom) > LINES_OFF * pitch:
            return None
        starts[begin] = True
        begin = end
    return starts if begin == len(rows) else None


def _two_classes(
    rooms: Floats, filled: Sequence[frozenset[int]], numbers: Sequence[frozenset[int]], groups: Sequence[bool]
) -> float | None:
    """The room that parts narrow from wide ones, if they fall apart clearly and it makes sense.

    `groups` tells of lines that head a group: a label alone, with a line set farther in below it.
    """
    ordered = np.sort(rooms[rooms >= -OVERLAP])
    jumps = np.flatnonzero((np.diff(ordered) >= CLASS_STEP) & (ordered[:-1] <= MAX_ROOM))
    for at in jumps.tolist():
        split = float((ordered[at] + ordered[at + 1]) / 2)
        # Lines joined by the narrow rooms must look like wrapped cells, not like rows.
        narrow = (np.flatnonzero((rooms <= split) & (rooms >= -OVERLAP)) + 1).tolist()
        stacked = sum(bool(numbers[i] & numbers[i - 1]) for i in narrow)
        wrapped = sum(_is_rest(filled[i - 1], filled[i]) and not groups[i] for i in narrow)
        if wrapped >= WRAPPED_SHARE * len(narrow) and stacked <= 0.1 * len(narrow):
            return split
    return None


def _is_rest(above: frozenset[int], here: frozenset[int]) -> bool:
    """Whether two neighbouring lines may be parts of one row: one of them lacks the stub or most text."""
    return 0 not in here or 0 not in above or len(here) == 1 or len(here) < 0.6 * len(above)


def _continues(above: frozenset[int], here: frozenset[int], filled: Sequence[frozenset[int]]) -> bool:
    """Whether a line without stub text reads as the rest of the row above it."""
    if not here <= above:
        return False
    return len(here) <= max(1.0, 0.5 * max(len(f) for f in filled))
