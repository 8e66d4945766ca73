"""The cells of many readings in arrays, and what can be seen of each."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..ink import Bools, Floats, Ints, distinct
from ..layout import PageLayout
from ..layout.joining import MARKER
from .grid import Cut, merged
from .numbers import CURRENCIES, is_numeric
from .reading import Reading

# A word as prose has them. Names in programs begin small, too, but go on with nothing.
_PLAIN = re.compile(r"[^\W\d_]+(?:[-'\u2019\u2010][^\W\d_]+)*[-\u2010\u00ad.,:;!?)\u201d\u2019\"]*")
# Gaps within cells beyond this (em) say nothing more.
_FAR = 4.0
# What is seen of a cell, or of a piece of one: its sides, its words, how many of these are numbers and bold,
# its largest size and gap (em), room between its lines (em), its lines; whether it is a number, begins with
# the mark of an item, begins as prose goes on, ends with a stop, ends with a hyphen; a number that stands for
# its text.
(
    X0, X1, Y0, Y1, WORDS, DIGITS, BOLD, SIZE, GAP, WITHIN, LINES, NUMERIC, MARK, SMALL, STOP, HYPHEN, SAID
) = range(17)  # fmt: skip
_LEAST, _MOST, _SUM = [X0, Y0], [X1, Y1, SIZE, GAP], [WORDS, DIGITS, BOLD, SAID]
_OF_FIRST, _OF_LAST = [MARK, SMALL], [STOP, HYPHEN]


# The fields of Cells, in order.
Arrays = tuple[Ints, Ints, Ints, Ints, Ints, Floats]


@dataclass(slots=True)
class Cells:
    """Cells of readings, one entry each: the number of its reading, row, column, extents; `facts` (cells, 17)
    are what is seen of it.
    """

    of: Ints
    row: Ints
    column: Ints
    rowspan: Ints
    colspan: Ints
    facts: Floats


def cells_of(layout: PageLayout, readings: Sequence[Reading]) -> Cells:
    """Return the cells with text of all readings, those of a reading together."""
    drawn = [k for k, r in enumerate(readings) if r.cut is None]
    cut = [k for k, r in enumerate(readings) if r.cut is not None]
    parts = [_drawn(layout, readings, drawn)] if drawn else []
    parts += [_cut(layout, readings, cut)] if cut else []
    return Cells(*(np.concatenate(c) for c in zip(*parts, strict=True)))


def _drawn(layout: PageLayout, readings: Sequence[Reading], which: Sequence[int]) -> Arrays:
    """Cells of readings that lines draw: each is a piece of its own, seen line by line."""
    shape: list[tuple[int, int, int, int, int]] = []
    words: list[list[int]] = []
    for k in which:
        draft = readings[k].drawn
        for c in draft.cells if draft else ():
            if c.words:
                shape.append((k, c.row, c.column, c.rowspan, c.colspan))
                words.append(c.words)
    counts = np.array([len(w) for w in words], dtype=np.int64)
    index = np.array([i for w in words for i in w], dtype=np.int64)
    row = layout.words.row[index]
    begins = np.cumsum(counts) - counts
    new_line = np.concatenate(([True], row[1:] != row[:-1]))
    new_line[begins] = True
    lines = np.flatnonzero(new_line)
    cell_of = np.repeat(np.arange(len(words)), counts)[lines]
    facts = _pieces(layout, index, np.append(lines, len(index)))
    cell_begins = np.concatenate(([True], cell_of[1:] != cell_of[:-1]))
    return (*np.array(shape, dtype=np.int64).T, _joined(layout, facts, cell_begins, row[lines]))


def _cut(layout: PageLayout, readings: Sequence[Reading], which: Sequence[int]) -> Arrays:
    """Cells of readings that are cut places: pieces of one table row that share a column."""
    seen: dict[int, int] = {}
    cuts: list[Cut] = []
    for k in which:
        cut = readings[k].cut
        if cut is not None and id(cut) not in seen:
            seen[id(cut)] = len(cuts)
            cuts.append(cut)
    sizes = [len(c.row) for c in cuts]
    start = np.cumsum([0, *sizes])
    offset = np.cumsum([0, *(int(c.starts[-1]) for c in cuts)])
    index = np.concatenate([c.place.index for c in cuts])
    ends = np.concatenate([c.starts[:-1] + a for c, a in zip(cuts, offset, strict=False)])
    facts = _pieces(layout, index, np.append(ends, offset[-1]))
    of, row, columns, at, line = [], [], [], [], []
    height = 0
    for k in which:
        reading = readings[k]
        cut = reading.cut
        assert cut is not None
        a, n = start[seen[id(cut)]], len(cut.row)
        of.append(np.full(n, k))
        row.append(reading.table_row[cut.row] + height)
        height += int(reading.table_row[-1]) + 1
        at.append(np.arange(a, a + n))
        line.append(cut.row)
        columns.append(cut.columns)
    pieces = np.concatenate(at)
    first, last = (np.concatenate([getattr(c, name) for c in cuts])[pieces] for name in ("first", "last"))
    rows = np.concatenate(row)
    order, begins = merged(rows, first, last, max(columns))
    starts = np.flatnonzero(begins)
    of_cell = np.concatenate(of)[order][starts]
    base = np.zeros(len(readings), dtype=np.int64)
    base[list(which)] = np.cumsum([0, *(int(readings[k].table_row[-1]) + 1 for k in which)])[:-1]
    column = first[order][starts]
    span = np.maximum.reduceat(last[order], starts) - column + 1
    return (
        of_cell, rows[order][starts] - base[of_cell], column, np.ones(len(starts), dtype=np.int64), span,
        _joined(layout, facts[pieces[order]], begins, np.concatenate(line)[order]),
    )  # fmt: skip


def _pieces(layout: PageLayout, index: Ints, starts: Ints) -> Floats:
    """What is seen of stretches of words within a line; `starts` tells where each begins, and the end."""
    w, em = layout.words, layout.em
    begin, end, counts = starts[:-1], starts[1:] - 1, np.diff(starts)
    out = np.zeros((len(begin), 17))
    looks = _looks(w.texts, distinct(index))
    heads, tails = looks[index[begin]], looks[index[end]]
    fonts = layout.ink.fonts
    fixed = np.array([f.fixed_pitch for f in fonts] or [False], dtype=np.float64)[w.font[index[begin]]]
    bold = np.array([f.bold for f in fonts] or [False], dtype=np.float64)[w.font[index]]
    gap = np.zeros(len(index))
    gap[1:] = (w.x0[index][1:] - w.x1[index][:-1]) / em
    gap[begin] = 0.0
    # A sign may stand far from its number.
    gap[1:][(looks[index, 6][:-1] > 0) & (looks[index, 0][1:] > 0)] = 0.0
    out[:, X0], out[:, X1] = w.x0[index[begin]], np.maximum.reduceat(w.x1[index], begin)
    out[:, Y0], out[:, Y1] = np.minimum.reduceat(w.y0[index], begin), np.maximum.reduceat(w.y1[index], begin)
    out[:, WORDS], out[:, LINES] = counts, 1.0
    out[:, DIGITS] = np.add.reduceat(looks[index, 0], begin)
    out[:, BOLD], out[:, SAID] = np.add.reduceat(bold, begin), np.add.reduceat(looks[index, 5], begin)
    out[:, SIZE] = np.maximum.reduceat(w.size[index], begin)
    out[:, GAP] = np.maximum.reduceat(gap, begin).clip(0, _FAR)
    out[:, NUMERIC], out[:, MARK], out[:, SMALL] = heads[:, 0], heads[:, 1], heads[:, 2] * (1 - fixed)
    out[:, STOP], out[:, HYPHEN] = tails[:, 3], tails[:, 4]
    for k in np.flatnonzero((counts > 1) & (out[:, DIGITS] > 0)).tolist():
        text = " ".join([w.texts[i] for i in index[starts[k] : starts[k + 1]].tolist()])
        out[k, NUMERIC] = is_numeric(text)
    out[(counts > 1) & (out[:, DIGITS] == 0), NUMERIC] = 0.0
    return out


def _looks(texts: Sequence[str], which: Ints) -> Floats:
    """Of some words of a page: whether each is a number, is the mark of an item, begins small, ends with a
    stop, ends with a hyphen; a number that stands for its text; whether it is a sign of money.
    """
    out = np.zeros((len(texts), 7))
    said = [texts[i] for i in which.tolist()]
    known: dict[str, int] = {}
    number = [known.setdefault(t, len(known)) for t in said]
    seen = np.array([
        (
            is_numeric(t), bool(MARKER.match(t)), t[0].islower() and bool(_PLAIN.fullmatch(t)),
            t[-1] in ".:;", t[-1] in "-\u2010\u00ad" and len(t) > 2 and t[-2].isalpha(),
        )
        for t in known
    ], dtype=np.float64)  # fmt: skip
    out[which, :5] = seen[number]
    out[which, 5] = _scattered(len(known))[number]
    out[which, 6] = np.array([t in CURRENCIES for t in known])[number]
    return out


def _scattered(n: int) -> Floats:
    """Return n numbers from 0 to 1 of which no two sums are the same by rule: the counts from 1, mixed as
    Steele, Lea and Flood (2014) do.
    """
    z = np.arange(1, n + 1, dtype=np.uint64) * np.uint64(0x9E3779B97F4A7C15)
    z = (z ^ (z >> np.uint64(30))) * np.uint64(0xBF58476D1CE4E5B9)
    z = (z ^ (z >> np.uint64(27))) * np.uint64(0x94D049BB133111EB)
    z ^= z >> np.uint64(31)
    out: Floats = (z >> np.uint64(11)).astype(np.float64) / 2.0**53
    return out


def _joined(layout: PageLayout, pieces: Floats, begins: Bools, line: Ints) -> Floats:
    """What is seen of cells, given their pieces in order, which of these begin a cell, and their lines."""
    starts = np.flatnonzero(begins)
    if len(starts) == len(pieces):
        return pieces
    out = pieces[starts].copy()
    ends = np.append(starts[1:], len(pieces)) - 1
    for how, which in ((np.minimum, _LEAST), (np.maximum, _MOST), (np.add, _SUM)):
        out[:, which] = how.reduceat(pieces[:, which], starts, axis=0)
    out[:, _OF_LAST] = pieces[ends][:, _OF_LAST]
    on = np.zeros(len(pieces), dtype=np.bool_)
    on[1:] = ~begins[1:] & (line[1:] != line[:-1])
    out[:, LINES] = 1 + np.add.reduceat(on.astype(np.float64), starts)
    room = np.full(len(pieces), -np.inf)
    room[1:] = (pieces[1:, Y0] - pieces[:-1, Y1]) / layout.em
    room[~on] = -np.inf
    within = np.maximum.reduceat(room, starts)
    out[:, WITHIN] = np.where(np.isfinite(within), within, 0.0)
    out[starts != ends, NUMERIC] = 0.0
    return out
