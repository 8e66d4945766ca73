"""Which lines of text make one row of a table: several answers, none of them preferred."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from ..ink import Bools, Floats, Ints, distinct, median
from ..layout import PageLayout
from .centred import centred_rows, lines_between
from .grid import Cut

# Rooms between lines fall into two classes, within cells and between rows, when they differ by this (em); of
# the widest such steps so many are tried.
CLASS_STEP = 0.12
STEPS = 3
# Room within a cell is at most this (em).
MAX_ROOM = 0.9
# Lines that overlap by more than this (em) do not both begin rows: labels at mid height of several.
OVERLAP = 0.35
# A line stands half a step below another, and a step is the usual one, within this (em).
HALF_OFF = 0.3
# Lines that far apart in the order of lines do not overlap.
AROUND = 8
# The numbers of ways that differ in their heads alone are so far apart.
WAYS = 100
# The way of rows of centred cells, in several of which one stands between two lines of another.
CENTRED = -2
# At most so many lines at the top are tried as one row of heads.
HEAD_LINES = 4


def row_choices(layout: PageLayout, cut: Cut) -> Iterator[tuple[int, Ints]]:
    """Yield the ways in which the lines of text of a place may make rows, each different from the others: the
    number of the way, and for each line the number of its row. The first differ most.
    """
    facts, em = cut.place.strip.facts, layout.em
    here = slice(cut.place.first, cut.place.last)
    tops, bottoms = facts.y0[here], facts.y1[here]
    anchors, held = _anchors(tops, bottoms, cut.filled, em)
    lines = _Lines(
        tops[anchors], bottoms[anchors], cut.filled[anchors], cut.numbers[anchors],
        np.searchsorted(np.asarray(cut.place.lines), ((tops + bottoms) / 2)[anchors]), em,
    )  # fmt: skip
    heads = _head_lines(facts.bold[here][anchors], lines)
    centred, between = rows_of_centred(cut, em)
    parted, several = rows_of_centred(cut, em, farther=True)
    if between > 1:
        yield CENTRED, _numbered(centred)
    if several > 1 and (parted != centred).any():
        yield CENTRED, _numbered(parted)
    bases = []
    known: set[bytes] = set()
    for way, starts in enumerate(_proposals(lines)):
        if starts.tobytes() not in known:
            known.add(starts.tobytes())
            bases.append((way, starts))
            yield way, _numbered(starts)[held]
    for way, base in bases:
        for k, starts in enumerate(_with_heads(base, heads), 1):
            if starts.tobytes() not in known:
                known.add(starts.tobytes())
                yield way + k * WAYS, _numbered(starts)[held]
    if between == 1:
        yield WAYS - 1, _numbered(centred)


def rows_of_centred(cut: Cut, em: float, farther: bool = False) -> tuple[Bools, int]:
    """Return for each line of a place but the first whether a row of centred cells begins there, and how many
    of these have a cell that stands between two lines of another; none where no such rows hold all lines.
    `farther`: rows are farther apart than the lines of a cell.
    """
    facts, here = cut.place.strip.facts, slice(cut.place.first, cut.place.last)
    none = np.zeros(here.stop - here.start - 1, dtype=np.bool_)
    # A line between two others stands beside one, and the other beside it; where lines are set wide, none.
    if facts.beside[here].sum() < 2 and not (farther and lines_between(facts.y0[here], cut.filled, em) > 1):
        return none, 0
    found = centred_rows(facts.y0[here], facts.y1[here], cut.filled, em, farther)
    return found or (none, 0)


def _numbered(starts: Bools) -> Ints:
    """The number of the row of each line, given whether one begins at each but the first."""
    out = np.zeros(len(starts) + 1, dtype=np.int64)
    starts.cumsum(out=out[1:])
    return out


@dataclass(slots=True)
class _Lines:
    """Lines of text from top to bottom: top, bottom, which columns they fill and with numbers, the number of
    the band between rules that they stand in.
    """

    tops: Floats
    bottoms: Floats
    filled: Bools
    numbers: Bools
    band: Ints
    em: float


def _anchors(tops: Floats, bottoms: Floats, filled: Bools, em: float) -> tuple[Ints, Ints]:
    """Return the lines that make rows, and for each line the number of that which it goes with: itself, or,
    for one that stands between others as a label at mid height of several does, the one above it.

    Of lines that overlap, those that fill more columns make rows.
    """
    n, reach, count = len(tops), OVERLAP * em, filled.sum(axis=1)
    every = np.arange(n)
    if n < 3:
        return every, every
    between = _at_half_steps(tops, filled, HALF_OFF * em)
    anchor = ~between
    if (tops[1:] < np.maximum.accumulate(bottoms)[:-1] - reach).any():
        anchor[:] = False
        for i in np.lexsort((tops, -count)).tolist():
            near = anchor[max(0, i - AROUND) : i + AROUND + 1]
            beside = slice(max(0, i - AROUND), i + AROUND + 1)
            shared = np.minimum(bottoms[i], bottoms[beside]) - np.maximum(tops[i], tops[beside])
            anchor[i] = not between[i] and not (near & (shared > reach)).any()
    anchors = np.flatnonzero(anchor)
    return anchors, np.maximum(np.searchsorted(anchors, every, "right") - 1, 0)


def _at_half_steps(tops: Floats, filled: Bools, near: float) -> Bools:
    """Which lines stand half a step below the line above, in other columns than this and the line below:
    labels at mid height of rows set wide, that fill fewer columns than both, or of a header, where the line
    above heads some columns of the line below.
    """
    count = filled.sum(axis=1)
    out = np.zeros(len(tops), dtype=np.bool_)
    steps = np.diff(tops[2 * count > count.max()])
    if not len(steps):
        return out
    above, here, below = filled[:-2], filled[1:-1], filled[2:]
    usual = np.abs(tops[2:] - tops[:-2] - median(steps)) < near
    fewer = usual & (count[1:-1] < np.minimum(count[:-2], count[2:]))
    # Several labels of two lines fill as many columns with both: these make one row.
    twice = (count[:-2] == count[2:]) & (count[2:] > 1)
    heads = (here ^ below).all(axis=1) & ~(above & here).any(axis=1) & ~twice
    out[1:-1] = np.abs(tops[1:-1] - (tops[:-2] + tops[2:]) / 2) < near
    out[1:-1] &= (fewer | heads) & ~(here & (above | below)).any(axis=1)
    return out


def _proposals(lines: _Lines) -> Iterator[Bools]:
    """For each line but the first, whether a row begins there: as many ways for any lines, some of them the
    same.
    """
    tops, bottoms, filled, em = lines.tops, lines.bottoms, lines.filled, lines.em
    rooms = (tops[1:] - np.maximum.accumulate(bottoms)[:-1]) / em
    apart = rooms > -OVERLAP
    ruled = lines.band[1:] > lines.band[:-1]
    count = filled.sum(axis=1)
    stub = filled[1:, 0]
    stacked = (lines.numbers[1:] & lines.numbers[:-1]).any(axis=1)
    # A line may be the rest of the row above: one of the two lacks the stub or most text.
    rest = ~filled[1:, 0] | ~filled[:-1, 0] | (count[1:] == 1) | (count[1:] < 0.6 * count[:-1])
    few = ~(filled[1:] & ~filled[:-1]).any(axis=1) & (count[1:] <= max(1.0, 0.5 * count.max()))
    usual, stubs = apart & (stacked | ~rest), apart & (stub | stacked | ~few)
    ordered = distinct(np.round(rooms[apart], 2))
    steps = np.flatnonzero((np.diff(ordered) >= CLASS_STEP) & (ordered[:-1] <= MAX_ROOM))
    steps = steps[np.argsort(ordered[steps] - ordered[steps + 1], kind="stable")][:STEPS]
    classes = [rooms > (ordered[at] + ordered[at + 1]) / 2 for at in steps.tolist()]
    yield ruled | usual
    yield ruled if ruled.any() else usual
    yield usual
    yield stubs
    yield apart
    for k in range(STEPS):
        yield classes[k] if k < len(classes) else usual
    yield apart & stub
    for k in range(STEPS):
        yield (classes[k] | stacked) if k < len(classes) else usual
    for starts in (stubs, apart & stub, apart & stacked):
        yield ruled | starts


def _with_heads(starts: Bools, heads: Sequence[int]) -> Iterator[Bools]:
    """The same rows with the first line in a row of its own, as a head of groups is, and with so many lines
    at the top in one row.
    """
    first = starts.copy()
    first[:1] = True
    yield first
    for head in heads:
        joined = starts.copy()
        joined[: head - 1] = False
        joined[head - 1 : head] = True
        yield joined


def _head_lines(bold: Bools, lines: _Lines) -> list[int]:
    """How many lines at the top may be one row of heads: up to the first rule, or as long as they are
    bold.
    """
    out = set()
    at = np.flatnonzero((lines.band[1:] > lines.band[:-1])[:HEAD_LINES])
    if len(at):
        out.add(int(at[0]) + 1)
    bold = bold[: min(HEAD_LINES + 1, len(bold))]
    out.add(len(bold) if bold.all() else int(bold.argmin()))
    return [k for k in sorted(out) if 1 < k <= HEAD_LINES and k < len(lines.tops)]
