"""Where the columns of a place may part: several answers, none of them preferred."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import pairwise

import numpy as np

from ..layout import PageLayout
from .places import Place
from .strips import USUAL, Row, Strictness, gutters, rows_of

# What passes for a gutter, beside what does as usual: with more text across and less room, and the other way.
_LOOSE = Strictness(crossing=0.3, wide=0.36, narrow=0.28)
_STRICT = Strictness(crossing=0.04, wide=1.2, narrow=0.9)
# With so many rows, the first ones may be set apart from the columns below them.
_LONG = 5
_HEADS = (1, 2, 3)


def column_choices(layout: PageLayout, place: Place) -> Iterator[list[float]]:
    """Yield lists of cuts between columns that may be those of a place, each different from the others."""
    em = float(np.median(layout.words.size[place.words]))
    known: list[list[float]] = []
    for cuts in _proposals(layout, place, em):
        if cuts and not any(_same(cuts, other, em) for other in known):
            known.append(cuts)
            yield cuts


def _proposals(layout: PageLayout, place: Place, em: float) -> Iterator[list[float]]:
    rows, cuts = place.rows, place.cuts
    for strictness in (USUAL, _LOOSE, _STRICT):
        yield _cuts(layout, rows, place, cuts, em, strictness)
    if cuts:
        yield list(cuts)
        yield _cuts(layout, rows, place, [], em, USUAL)
    for head in _HEADS:
        if len(rows) - head >= _LONG - 2:
            yield _cuts(layout, rows[head:], place, cuts, em, USUAL)


def _cuts(
    layout: PageLayout,
    rows: Sequence[Row],
    place: Place,
    ruled: Sequence[float],
    em: float,
    strictness: Strictness,
) -> list[float]:
    """Upright rules, and the gutters between each two of them."""
    box = place.box
    out = list(ruled)
    members = np.array([i for r in rows for i in r.words], dtype=np.int64)
    middle = (layout.words.x0[members] + layout.words.x1[members]) / 2
    for x0, x1 in pairwise([box.x0, *ruled, box.x1]):
        inside = rows_of(layout, members[(middle >= x0) & (middle <= x1)]) if ruled else rows
        out += gutters(layout, inside, x0, x1, em, x0 == box.x0, strictness)
    return sorted(out)


def _same(a: Sequence[float], b: Sequence[float], em: float) -> bool:
    return len(a) == len(b) and all(abs(x - y) < 0.25 * em for x, y in zip(a, b, strict=True))
