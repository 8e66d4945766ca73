"""Which lines of text make one row of a table: wrapped cells stay together, rows stay apart."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from .strips import Row

# Rows are set apart by gaps at least this much larger than the leading within a wrapped cell.
PADDED = 1.22
# Leading within a cell is at most this (em); lines farther apart are never one row.
MAX_LEADING = 1.75


def row_starts(rows: Sequence[Row], filled: Sequence[frozenset[int]], em: float) -> list[bool]:
    """Tell for each line of text whether a table row begins there.

    `filled` names the columns in which each line has text. Two kinds of evidence: where distances between
    lines fall into two classes, the narrow ones lie within cells; else a line that leaves the stub (the
    first column) empty continues the row above it, unless it has as much text as a row of its own.
    """
    n = len(rows)
    if n == 0:
        return []
    steps = np.array([rows[i].baseline - rows[i - 1].baseline for i in range(1, n)]) / em
    starts = [True] * n
    if n == 1:
        return starts
    split = _two_classes(steps, filled)
    for i in range(1, n):
        if steps[i - 1] > MAX_LEADING:
            continue
        if split is not None:
            starts[i] = bool(steps[i - 1] > split)
        else:
            starts[i] = 0 in filled[i] or not _continues(filled[i - 1], filled[i], filled)
    return starts


def _two_classes(steps: np.ndarray, filled: Sequence[frozenset[int]]) -> float | None:
    """The distance that parts narrow from wide steps, if they fall apart clearly and it makes sense."""
    ordered = np.sort(steps[steps <= 6])
    if len(ordered) < 2 or ordered[-1] / max(ordered[0], 0.1) < PADDED:
        return None
    jumps = ordered[1:] / np.maximum(ordered[:-1], 0.1)
    # Leading comes first: of the jumps that are large enough, the lowest.
    large = np.flatnonzero(jumps >= 1.12)
    if not len(large):
        return None
    at = int(large[0])
    split = float((ordered[at] + ordered[at + 1]) / 2)
    if ordered[at] > MAX_LEADING:
        return None
    # Lines joined by the narrow steps must look like wrapped cells: the continuation is poorer than a row.
    narrow = np.flatnonzero(steps <= split) + 1
    full = max(len(f) for f in filled)
    poorer = sum(len(filled[i]) < full for i in narrow.tolist())
    return split if poorer >= 0.6 * len(narrow) else None


def _continues(above: frozenset[int], here: frozenset[int], filled: Sequence[frozenset[int]]) -> bool:
    """Whether a line without stub text reads as the rest of the row above it."""
    if not here <= above:
        return False
    usual = float(np.median([len(f) for f in filled]))
    return len(here) <= max(1.0, 0.5 * usual)
