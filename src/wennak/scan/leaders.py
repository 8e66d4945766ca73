"""Lines of dots that lead from words to words, as characters."""

from __future__ import annotations

import numpy as np

from ..ink import Bools, Floats
from .marks import Marks
from .sizes import TOPS, piece_baselines
from .writing import Writing

# A leader has at least so many dots, a step (em) apart; lines of text are apart by more than this (em).
DOTS, STEP, ROW = 6, 0.5, 0.2


def with_leaders(writing: Writing, marks: Marks, dots: Bools, lines: Floats) -> Writing:
    """Return the characters of a page row by row, with the dots of its leaders: marks that are dots, and
    lines of dots (rows of at, low, high, thickness).
    """
    em = float(np.median(writing.size)) if len(writing) else marks.height / TOPS["x"]
    at = np.flatnonzero(dots)
    left, right, base = marks.x0[at] + 0.0, marks.x1[at] + 0.0, marks.y1[at] + 0.0
    for line, low, high, thick in lines.tolist():
        count = max(DOTS, round((high - low) / (STEP * em)))
        places = np.linspace(low, high - thick, count)
        left, right = np.append(left, places), np.append(right, places + thick)
        base = np.append(base, np.full(count, line + thick / 2))
    n = len(left)
    if not n:
        return writing
    first = int(writing.piece.max(initial=-1)) + 1
    none = np.zeros(n, dtype=np.bool_)
    columns = [
        np.concatenate(pair)
        for pair in (
            (writing.x0, left), (writing.x1, right), (writing.piece, np.full(n, first)),
            (writing.baseline, base), (writing.size, np.full(n, em)), (writing.sure, np.ones(n)),
            (writing.blank, none), (writing.stroke, np.zeros(n)), (writing.fixed, none),
            (writing.angle, np.zeros(n)),
        )
    ]  # fmt: skip
    # What stands on its side stays in its own order.
    turned = columns[-1] != 0
    level = np.flatnonzero(~turned)
    # Raised signs stand with the piece that they belong to; each dot is a piece by itself.
    piece = np.append(writing.piece, first + np.arange(n))
    line = piece_baselines(piece, columns[3])
    by_row = level[np.argsort(line[level], kind="stable")]
    row = np.cumsum(np.append(0, np.diff(line[by_row]) > ROW * em))
    order = np.append(by_row[np.lexsort((columns[0][by_row], row))], np.flatnonzero(turned))
    texts = [*writing.texts, *["."] * n]
    return Writing([texts[k] for k in order.tolist()], *(column[order] for column in columns))
