"""How far the readings of a page agree about each of its words: in which row, columns and cell it stands."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..ink import Floats, Ints
from .grid import merged
from .reading import Reading

# A reading that gains so much less than the chosen one counts e times less: in close view, and in wide.
SCALES = np.array([[0.03], [0.12]])
# One that gains so much less is not asked.
FAR = 0.4


def agreement(reading: Reading, readings: Sequence[Reading], words: int) -> Floats:
    """Return which share of the readings of its words puts each word of a page where `reading` does, weighed
    by what they gain: in close view and in wide, (2, words), 0..1.

    Readings that put the same words there are one: there are many ways to the same rows and columns.
    """
    own = _placed(reading, words)
    gains: dict[bytes, float] = {}
    for other in readings:
        if other.gain > reading.gain - FAR and other.bits & reading.bits:
            same = np.packbits((_placed(other, words) == own) & (own >= 0)).tobytes()
            gains[same] = max(gains.get(same, -np.inf), other.gain)
    less = np.minimum(0.0, np.array(list(gains.values())) - reading.gain)
    weight = np.exp(less / SCALES)
    kept = np.frombuffer(b"".join(gains), dtype=np.uint8).reshape(len(gains), -1)
    out: Floats = weight @ np.unpackbits(kept, axis=1, count=words) / weight.sum(axis=1, keepdims=True)
    return out


def _placed(reading: Reading, words: int) -> Ints:
    """A number for the row and the columns of the cell that holds each word of a page, for its first word and
    how many it has; -1 for words of no cell.
    """
    out = np.full(words, -1, dtype=np.int64)
    if reading.cut is None:
        assert reading.drawn is not None
        full = [c for c in reading.drawn.cells if c.words]
        counts = np.array([len(c.words) for c in full], dtype=np.int64)
        places = [(c.row, c.column, c.column + c.colspan - 1, min(c.words)) for c in full]
        row, first, last, word = np.array(places, dtype=np.int64).reshape(-1, 4).T
        words_of = np.array([i for c in full for i in c.words], dtype=np.int64)
        out[words_of] = np.repeat(_numbers(row, first, last, word, counts), counts)
        return out
    cut = reading.cut
    rows, counts = reading.table_row[cut.row], np.diff(cut.starts)
    order, begins = merged(rows, cut.first, cut.last, cut.columns)
    heads = np.flatnonzero(begins)
    least = np.minimum.reduceat(cut.place.index, cut.starts[:-1])[order]
    cells = _numbers(
        rows[order][heads], cut.first[order][heads], np.maximum.reduceat(cut.last[order], heads),
        np.minimum.reduceat(least, heads), np.add.reduceat(counts[order], heads),
    )  # fmt: skip
    pieces = np.empty(len(order), dtype=np.int64)
    pieces[order] = np.repeat(cells, np.diff(np.append(heads, len(order))))
    out[cut.place.index] = np.repeat(pieces, counts)
    return out


def _numbers(row: Ints, first: Ints, last: Ints, word: Ints, count: Ints) -> Ints:
    """Return one number for what tells each cell."""
    return (((row * 256 + first) * 256 + last) * 65536 + word) * 1024 + count % 1024
