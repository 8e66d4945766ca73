"""Rows whose cells stand at mid height beside each other, so that few of their lines stand level."""

from __future__ import annotations

from itertools import accumulate

import numpy as np

from ..ink import Bools, Floats

# The middles of the cells of a row are this near (em): a line more or less moves one by half a line.
OFF = 0.25
# A row has at most so many lines, its label so many, and begins at least this far (em) below the last one.
LINES, LABEL_LINES, STEP = 24, 4, 0.5
# Lines of a cell are hardly (em) farther apart than the nearest lines of any column.
LOOSE = 0.3


def centred_rows(tops: Floats, bottoms: Floats, filled: Bools, em: float) -> tuple[Bools, int] | None:
    """Return for each line but the first whether a row begins there, if all lines fall into rows of centred
    cells with labels in the first column, and how many of these have a cell that stands between two lines of
    another. Of several ways to do so, that with the most rows; None where there is none.

    `tops`, `bottoms` (lines, from top to bottom): where they stand, in points; `filled` (lines, columns):
    which columns have text there.
    """
    n, middles = len(tops), ((tops + bottoms) / 2).tolist()
    lowest = list(accumulate(reversed(middles), min))[::-1]
    columns = [row.nonzero()[0].tolist() for row in filled]
    sides = list(zip(tops.tolist(), bottoms.tolist(), strict=True))
    steps = [np.diff(tops[own]) for own in filled.T if own.sum() > 1]
    far = min((float(s.min()) for s in steps), default=0.0) + LOOSE * em
    # Of the lines before each: rows, those with lines between others, where the last one begins.
    best: list[tuple[int, int, int] | None] = [(0, 0, 0), *[None] * n]
    for i in range(n):
        known = best[i]
        if known is None:
            continue
        cells: dict[int, list[float]] = {}
        last = middles[i]
        for j in range(i, min(n, i + LINES)):
            last = max(last, middles[j])
            top, bottom = sides[j]
            loose = False
            for column in columns[j]:
                if (cell := cells.get(column)) is None:
                    cells[column] = [top, bottom, 1, top]
                else:
                    loose |= top - cell[3] > far
                    cell[:] = [cell[0], max(cell[1], bottom), cell[2] + 1, top]
            if loose or (0 in cells and cells[0][2] > LABEL_LINES):
                break
            if j + 1 < n and lowest[j + 1] - last < STEP * em:
                continue
            # The first row may have no head over the labels.
            halves = [(top + bottom) / 2 for top, bottom, *_ in cells.values()]
            if (0 in cells or not i) and max(halves) - min(halves) < OFF * em:
                between = len({count % 2 for _, _, count, _ in cells.values()}) > 1
                found = (known[0] + 1, known[1] + between, i)
                if (other := best[j + 1]) is None or found[:2] > other[:2]:
                    best[j + 1] = found
    if (whole := best[n]) is None:
        return None
    starts = np.zeros(n, dtype=np.bool_)
    at: tuple[int, int, int] | None = whole
    while at is not None and at[0]:
        starts[at[2]] = True
        at = best[at[2]]
    return starts[1:], whole[1]
