"""Which lines of text make one row of a table: several answers, none of them preferred."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np

from ..ink import Bools, Floats
from ..layout import PageLayout
from .grid import Cut

# Rooms between lines fall into two classes, within cells and between rows, when they differ by this (em); of
# the widest such steps so many are tried.
CLASS_STEP = 0.12
STEPS = 3
# Room within a cell is at most this (em).
MAX_ROOM = 0.9
# Lines that overlap by more than this (em) are one row: cells set at mid height beside wrapped ones.
OVERLAP = 0.15
# A row about a label at mid height ends within this share of a line of where its last line does.
LINES_OFF = 0.6
# At most so many lines at the top are tried as one row of heads.
HEAD_LINES = 4


def row_choices(layout: PageLayout, cut: Cut, lines: Sequence[float]) -> list[list[bool]]:
    """Return the ways in which lines of text may make rows, each different from the others: for each line,
    whether a row begins there.

    `lines` are the y of level rules and of edges of shading across the place.
    """
    em = layout.em
    n = len(cut.rows)
    tops = np.array([r.y0 for r in cut.rows])
    bottoms = np.array([r.y1 for r in cut.rows])
    floating = _floating(tops, bottoms, OVERLAP * em)
    reach = np.maximum.accumulate(np.where(floating, -np.inf, bottoms))
    rooms = (tops[1:] - reach[:-1]) / em
    apart = (rooms > -OVERLAP) & ~floating[1:]
    middles = (tops + bottoms) / 2
    band = np.searchsorted(np.asarray(lines), middles)
    ruled = band[1:] > band[:-1]
    filled, numbers = cut.filled, cut.numbers
    stub = np.array([0 in f for f in filled[1:]], dtype=np.bool_)
    stacked = np.array([bool(numbers[i] & numbers[i - 1]) for i in range(1, n)], dtype=np.bool_)
    rest = np.array([_is_rest(filled, i) for i in range(1, n)], dtype=np.bool_)
    widest = max((len(f) for f in filled), default=0)
    few = np.array(
        [filled[i] <= filled[i - 1] and len(filled[i]) <= max(1.0, 0.5 * widest) for i in range(1, n)],
        dtype=np.bool_,
    )
    usual = apart & (stacked | ~rest)
    proposals = [usual, apart, apart & (stub | stacked | ~few), apart & stub]
    ordered = np.unique(np.round(rooms[apart], 2))
    steps = np.flatnonzero((np.diff(ordered) >= CLASS_STEP) & (ordered[:-1] <= MAX_ROOM))
    for at in sorted(steps.tolist(), key=lambda k: float(ordered[k] - ordered[k + 1]))[:STEPS]:
        wide = rooms > (ordered[at] + ordered[at + 1]) / 2
        proposals += [wide, wide | stacked]
    centred = _centred(cut, middles)
    if centred is not None:
        proposals.append(centred)
    if ruled.any():
        more = [ruled | usual, ruled, ruled | proposals[2], ruled | proposals[3], ruled | (apart & stacked)]
        proposals = [*more[:1], *proposals, *more[1:]]
    out: list[list[bool]] = []
    heads = _head_lines(layout, cut, ruled)
    for starts in proposals:
        for tried in (starts, *_with_heads(starts, heads)):
            told = [True, *tried.tolist()]
            if told not in out:
                out.append(told)
    return out


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


def _floating(tops: Floats, bottoms: Floats, reach: float) -> Bools:
    """Lines that stand between two others which do not overlap: labels at mid height of several rows."""
    out = np.zeros(len(tops), dtype=np.bool_)
    if len(tops) > 2:
        out[1:-1] = (
            (tops[1:-1] < bottoms[:-2] - reach)
            & (bottoms[1:-1] > tops[2:] + reach)
            & (tops[2:] > bottoms[:-2] - reach)
        )
    return out


def _is_rest(filled: Sequence[frozenset[int]], i: int) -> bool:
    """Whether a line may be the rest of the row above: one of the two lacks the stub or most text."""
    above, here = filled[i - 1], filled[i]
    return 0 not in here or 0 not in above or len(here) == 1 or len(here) < 0.6 * len(above)


def _head_lines(layout: PageLayout, cut: Cut, ruled: Bools) -> list[int]:
    """How many lines at the top may be one row of heads: up to the first rule, or as long as they are
    bold.
    """
    out = set()
    at = np.flatnonzero(ruled[:HEAD_LINES])
    if len(at):
        out.add(int(at[0]) + 1)
    bold = [f.bold for f in layout.ink.fonts]
    font = layout.words.font
    count = 0
    while count < min(HEAD_LINES + 1, len(cut.rows)) and all(
        bold[int(font[i])] for i in cut.rows[count].words
    ):
        count += 1
    out.add(count)
    return [k for k in sorted(out) if 1 < k <= HEAD_LINES and k < len(cut.rows)]


def _centred(cut: Cut, middles: Floats) -> Bools | None:
    """Rows whose short cells stand at mid height beside cells of many lines, if the lines bear that out.

    A label at mid height gives the height of its row: as far as the row reaches above it, it reaches below.
    Lines fall into such rows if each ends between two lines, and the last with the table.
    """
    rows, filled = cut.rows, cut.filled
    first = next((i for i in range(1, len(rows)) if 0 not in filled[i]), None)
    if first is None or not all(0 in f for f in filled[:first]):
        return None
    labels = [i for i in range(first, len(rows)) if 0 in filled[i]]
    if len(labels) < 2:
        return None
    pitch = float(np.median(np.diff(middles[first:])))
    starts = np.zeros(len(rows), dtype=np.bool_)
    starts[:first] = True
    begin = first
    for label in labels:
        if label < begin:
            return None
        top = min(r.y0 for r in rows[begin : label + 1])
        bottom = 2 * float(middles[label]) - top
        end = next((i for i in range(label, len(rows)) if middles[i] > bottom), len(rows))
        if abs(max(r.y1 for r in rows[begin:end]) - bottom) > LINES_OFF * pitch:
            return None
        starts[begin] = True
        begin = end
    return starts[1:] if begin == len(rows) else None
