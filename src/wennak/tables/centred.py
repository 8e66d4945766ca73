"""Rows whose cells stand at mid height beside each other, so that few of their lines stand level."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from itertools import accumulate, pairwise

import numpy as np

from ..ink import Bools, Floats

# The middles of the cells of a row are this near (em): a line more or less moves one by half a line.
OFF = 0.25
# A row has at most so many lines, its label so many, and begins at least this far (em) below the last one.
LINES, LABEL_LINES, STEP = 24, 4, 0.5
# Lines of a cell are hardly (em) farther apart than the nearest lines of any column.
LOOSE = 0.3


def centred_rows(
    tops: Floats, bottoms: Floats, filled: Bools, em: float, farther: bool = False
) -> tuple[Bools, int] | None:
    """Return for each line but the first whether a row begins there, if all lines fall into rows of centred
    cells with labels in the first column, but for a head; and how many of these have a cell that stands
    between two lines of another. Of several ways to do so, that with the most rows; None where there is none.
    `farther`: rows are farther apart than the lines of a cell, and below the head may be the rest of one.

    `tops`, `bottoms` (lines, from top to bottom): where they stand, in points; `filled` (lines, columns):
    which columns have text there.
    """
    n = len(tops)
    lines = _Lines(tops, bottoms, filled, em, farther)
    # Of the lines before each: rows, those with lines between others, where the last one begins.
    best: list[tuple[int, int, int] | None] = [(0, 0, 0), *[None] * n]
    for i in range(n):
        if (known := best[i]) is None:
            continue
        # Without a label there are a head over the others and, below one with a label, the rest of a row.
        heads = 1 if farther and filled[:i, 0].any() else 0
        for end, between in lines.rows_from(i, known[0] > heads):
            found = (known[0] + 1, known[1] + between, i)
            if (other := best[end]) is None or found[:2] > other[:2]:
                best[end] = found
    if (whole := best[n]) is None:
        return None
    starts = np.zeros(n, dtype=np.bool_)
    at: tuple[int, int, int] | None = whole
    while at is not None and at[0]:
        starts[at[2]] = True
        at = best[at[2]]
    return starts[1:], whole[1]


def lines_between(tops: Floats, filled: Bools, em: float) -> int:
    """Return how many lines stand at mid height between two of another column, in none of its columns."""
    above, here, below = filled[:-2], filled[1:-1], filled[2:]
    middle = np.abs(tops[1:-1] - (tops[:-2] + tops[2:]) / 2) < OFF * em
    return int((middle & (above & below).any(axis=1) & ~(here & (above | below)).any(axis=1)).sum())


class _Lines:
    """Lines of text from top to bottom, with what is asked of them again and again."""

    def __init__(self, tops: Floats, bottoms: Floats, filled: Bools, em: float, farther: bool) -> None:
        self.em, self.middles = em, ((tops + bottoms) / 2).tolist()
        self.sides = list(zip(tops.tolist(), bottoms.tolist(), strict=True))
        self.columns = [row.nonzero()[0].tolist() for row in filled]
        # The highest middle of each line and those after it.
        self.next = list(accumulate(reversed(self.middles), min))[::-1]
        steps = [np.diff(tops[own]) for own in filled.T if own.sum() > 1]
        self.far = min((float(s.min()) for s in steps), default=0.0) + LOOSE * em
        # Where no row ends: between two lines of a column that are as near as those of a cell.
        self.held = np.zeros(len(tops) + 1, dtype=np.bool_)
        if farther:
            for own in filled.T:
                at = np.flatnonzero(own)
                for a, b in pairwise(at.tolist()):
                    self.held[a + 1 : b + 1] |= tops[b] - tops[a] <= self.far

    def rows_from(self, i: int, labelled: bool) -> Iterator[tuple[int, bool]]:
        """Yield where rows of centred cells that begin with a line may end, one past their last line, and
        whether a cell of them stands between two lines of another; `labelled`: only those with a label.
        """
        n, last = len(self.middles), self.middles[i]
        cells: dict[int, _Cell] = {}
        for j in range(i, min(n, i + LINES)):
            top, bottom = self.sides[j]
            last = max(last, self.middles[j])
            if any(k in cells and top - cells[k].last > self.far for k in self.columns[j]):
                return
            for k in self.columns[j]:
                cells.setdefault(k, _Cell(top, bottom)).add(top, bottom)
            if 0 in cells and cells[0].lines > LABEL_LINES:
                return
            if self.held[j + 1] or (j + 1 < n and self.next[j + 1] - last < STEP * self.em):
                continue
            halves = [(cell.top + cell.bottom) / 2 for cell in cells.values()]
            if (0 in cells or not labelled) and max(halves) - min(halves) < OFF * self.em:
                yield j + 1, len({cell.lines % 2 for cell in cells.values()}) > 1


@dataclass(slots=True)
class _Cell:
    """The lines of a cell so far: its top and bottom, how many they are, the top of the last."""

    top: float
    bottom: float
    lines: int = 0
    last: float = 0.0

    def add(self, top: float, bottom: float) -> None:
        """Take in the next line."""
        self.bottom, self.lines, self.last = max(self.bottom, bottom), self.lines + 1, top
