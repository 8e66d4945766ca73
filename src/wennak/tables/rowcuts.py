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
# Lines that overlap by more than this (em) are one row: cells set at mid height beside wrapped ones.
OVERLAP = 0.15


def row_starts(rows: Sequence[Row], filled: Sequence[frozenset[int]], em: float) -> list[bool]:
    """Tell for each line of text whether a table row begins there.

    `filled` names the columns in which each line has text. Two kinds of evidence: where the rooms between
    lines fall into two classes, the narrow ones lie within cells; else a line that leaves the stub (the
    first column) empty continues the row above it, unless it has as much text as a row of its own.
    """
    if not rows:
        return []
    bottoms = np.maximum.accumulate([r.y1 for r in rows])
    rooms = (np.array([r.y0 for r in rows[1:]]) - bottoms[:-1]) / em
    split = _two_classes(rooms, filled)
    starts = [True]
    for i in range(1, len(rows)):
        room = rooms[i - 1]
        if room < -OVERLAP:
            starts.append(False)
        elif room > MAX_ROOM:
            starts.append(True)
        elif split is not None:
            starts.append(bool(room > split))
        else:
            starts.append(0 in filled[i] or not _continues(filled[i - 1], filled[i], filled))
    return starts


def _two_classes(rooms: Floats, filled: Sequence[frozenset[int]]) -> float | None:
    """The room that parts narrow from wide ones, if they fall apart clearly and it makes sense."""
    ordered = np.sort(np.maximum(rooms, -OVERLAP))
    jumps = np.flatnonzero((np.diff(ordered) >= CLASS_STEP) & (ordered[:-1] <= MAX_ROOM))
    full = max(len(f) for f in filled)
    for at in jumps.tolist():
        split = float((ordered[at] + ordered[at + 1]) / 2)
        # Lines joined by the narrow rooms must look like wrapped cells: with less text than a whole row.
        narrow = np.flatnonzero(rooms <= split) + 1
        poorer = sum(len(filled[i]) < full or len(filled[i - 1]) < full for i in narrow.tolist())
        if poorer >= 0.6 * len(narrow):
            return split
    return None


def _continues(above: frozenset[int], here: frozenset[int], filled: Sequence[frozenset[int]]) -> bool:
    """Whether a line without stub text reads as the rest of the row above it."""
    if not here <= above:
        return False
    usual = float(np.median([len(f) for f in filled]))
    return len(here) <= max(1.0, 0.5 * usual)
