"""Where the columns of a place may part: several answers, none of them preferred."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import chain, pairwise

import numpy as np

from ..ink import median
from ..layout import PageLayout
from .gutters import USUAL, Strictness, gutters
from .places import Place

# What passes for a gutter, beside what does as usual: with more text across and less room, and the other way.
_LOOSE = Strictness(crossing=0.3, wide=0.36, narrow=0.28)
_STRICT = Strictness(crossing=0.04, wide=1.2, narrow=0.9)
# Labels in lines of their own begin so near (em) to each other, and end so far before other text.
_APART = 0.7
# With so many rows, the first ones may be set apart from the columns below them.
_LONG = 5
_HEADS = (1, 2, 3)


def column_choices(layout: PageLayout, place: Place, first: Sequence[float] = ()) -> Iterator[list[float]]:
    """Yield lists of cuts between columns that may be those of a place, each different from the others; these
    first, if there are any.
    """
    em = median(layout.words.size[place.index])
    known: list[list[float]] = []
    for cuts in chain([list(first)], _proposals(place, em)):
        if cuts and not any(_same(cuts, other, em) for other in known):
            known.append(cuts)
            yield cuts


def _proposals(place: Place, em: float) -> Iterator[list[float]]:
    usual = _cuts(place, place.cuts, em, USUAL)
    yield usual
    for strictness in (_LOOSE, _STRICT):
        yield _cuts(place, place.cuts, em, strictness)
    if place.cuts:
        yield list(place.cuts)
        yield _cuts(place, [], em, USUAL)
    for head in _HEADS:
        if place.last - place.first - head >= _LONG - 2:
            yield _cuts(place, place.cuts, em, USUAL, head)
    labels = max(place.rows[: len(_HEADS)], key=lambda row: len(row.spans)).spans
    if len(labels) > len(usual) + 1:
        # Columns may have nothing but a label.
        gaps = [(a, b) for (_, a), (b, _) in pairwise(labels)]
        yield [next((x for x in usual if a < x < b), _between(place, a, b)) for a, b in gaps]
    if (beside := _beside_labels(place, em)) is not None:
        yield [beside, *(x for x in usual if x > beside + _APART * em)]


def _between(place: Place, a: float, b: float) -> float:
    """The middle of what the text of a place leaves free of a gap between two labels, if it does."""
    spans = [span for row in place.rows for span in row.spans]
    left = max([a, *(x1 for x0, x1 in spans if x0 < a and x1 < b)])
    right = min([b, *(x0 for x0, x1 in spans if x1 > b and x0 > a)])
    return (left + right) / 2 if left < right else (a + b) / 2


def _beside_labels(place: Place, em: float) -> float | None:
    """The x between labels that have lines of their own, as those at mid height of their rows do, and where
    most other lines begin; None where it parts any text.
    """
    several = [r for r in place.rows if len(r.spans) > 1]
    alone = [r for r in place.rows if len(r.spans) == 1]
    left = min(r.x0 for r in place.rows)
    labels = [r.x1 for r in alone if r.x0 < left + _APART * em]
    if len(labels) < 2 or not several:
        return None
    end = max(labels)
    begins = [r.x0 for r in several if r.x0 > end + _APART * em]
    if 2 * len(begins) < len(several):
        return None
    begin = min(begins)
    x = (end + begin) / 2
    return None if any(x0 < x < x1 for r in place.rows for x0, x1 in r.spans) else x


def _cuts(
    place: Place, ruled: Sequence[float], em: float, strictness: Strictness, without: int = 0
) -> list[float]:
    """Upright rules, and the gutters between each two of them, in the rows but the first."""
    out = list(ruled)
    for x0, x1 in pairwise([-np.inf, *ruled, np.inf]):
        profile = place.strip.profile(x0, x1)
        if profile is not None:
            a, b = np.searchsorted(profile.at, (place.first + without, place.last)).tolist()
            if b > a:
                out += gutters(profile, a, b, em, x0 == -np.inf, strictness)
    return sorted(out)


def _same(a: Sequence[float], b: Sequence[float], em: float) -> bool:
    return len(a) == len(b) and all(abs(x - y) < 0.25 * em for x, y in zip(a, b, strict=True))
