"""Where the columns of a place may part: several answers, none of them preferred."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import chain, pairwise

import numpy as np

from ..ink import Floats, median
from ..layout import PageLayout
from .edges import inner_edges
from .grid import share_across
from .gutters import USUAL, Strictness, gutters
from .numbers import CURRENCIES, is_value
from .places import Place
from .rows import Row

# What passes for a gutter, beside what does as usual: with more text across and less room, and the other way.
_LOOSE = Strictness(crossing=0.3, wide=0.36, narrow=0.28)
_STRICT = Strictness(crossing=0.04, wide=1.2, narrow=0.9)
# Labels in lines of their own begin so near (em) to each other, and end so far before other text.
_APART = 0.7
# A word stands in a column that it reaches into by more than this (em); half of it is left of its label.
_BEFORE = 0.15
# What ends no farther (em) before a column ends with the column on its left.
_RIGHT_BEFORE = 0.6
# With so many rows, the first ones may be set apart from the columns below them.
_LONG = 5
_HEADS = (1, 2, 3)


def column_choices(layout: PageLayout, place: Place, first: Sequence[float] = ()) -> Iterator[list[float]]:
    """Yield lists of cuts between columns that may be those of a place, each different from the others; these
    first, if there are any.
    """
    em = median(layout.words.size[place.index])
    known: list[list[float]] = []
    for cuts in chain([list(first)], _proposals(layout, place, em)):
        if cuts and not any(_same(cuts, other, em) for other in known):
            known.append(cuts)
            yield cuts


def _proposals(layout: PageLayout, place: Place, em: float) -> Iterator[list[float]]:
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
    row = max(place.rows[: len(_HEADS)], key=lambda row: len(row.spans))
    labels = row.spans
    for side in (1, -1):
        yield _at_labels(layout, place, row, em, usual, side)
    yield _at_edges(layout, place, em, usual)
    if len(labels) > len(usual) + 1:
        # Columns may have nothing but a label.
        gaps = [(a, b) for (_, a), (b, _) in pairwise(labels)]
        yield [next((x for x in usual if a < x < b), _between(place, a, b)) for a, b in gaps]
    yield _between_all(place, em)
    if (beside := _beside_labels(place, em)) is not None:
        yield [beside, *(x for x in usual if x > beside + _APART * em)]


def _at_labels(
    layout: PageLayout, place: Place, row: Row, em: float, usual: Sequence[float], side: int
) -> list[float]:
    """The x right before the labels in a row, of columns that begin with these (`side` 1), or right behind
    those of columns that end with them (-1). So are sheets set: text to the left, numbers to the right, right
    before the next label. Nothing where words stand across these x, where there are several texts between two
    of them, or where they part the words as the usual cuts do, which no word stands across.

    Other words stand at each x, or on the same side of it as of a usual cut. What stands behind a blank, and
    not behind more room, may be within a label: there is an inner edge.
    """
    w, near = layout.words, _BEFORE * em
    texts = [w.texts[i] for i in row.words]
    if any(is_value(t) and t[-1] not in CURRENCIES for t in texts):
        # These are values.
        return []
    begins, ends = (w.x0, w.x1) if side > 0 else (-w.x1, -w.x0)
    known = np.array(usual) if side > 0 else -np.array(usual)
    apart = {x0 for x0, _ in row.spans[1:]} if side > 0 else {-x1 for _, x1 in row.spans[:-1]}
    x0, x1 = begins[place.index], ends[place.index]
    others = w.row[place.index] != w.row[row.words[0]]
    inner: list[float] | None = None
    cuts = []
    for x in sorted(begins[row.words].tolist())[1:]:
        across = bool(((x0 < x - near) & (x1 > x + near)).any())
        if x in apart:
            if across or not (_is_edge(x, x0[others], x1[others], em) or _is_known(x, known, x0[others])):
                return []
            cuts.append(side * (x - near / 2))
        elif not across:
            inner = inner_edges(layout, place) if inner is None else inner
            if any(0 < x - side * y < _RIGHT_BEFORE * em for y in inner):
                cuts.append(side * (x - near / 2))
    cuts.sort()
    held = (np.searchsorted(cuts, np.mean(row.spans, axis=1)) for row in place.rows)
    if not cuts or any((np.diff(columns) == 0).any() for columns in held):
        return []
    middle = (w.x0 + w.x1)[place.index] / 2
    same = (np.searchsorted(cuts, middle) == np.searchsorted(usual, middle)).all()
    return [] if same and not share_across(layout, place.index, usual) else cuts


def _is_edge(x: float, begins: Floats, ends: Floats, em: float) -> bool:
    """Whether words begin at an x, or end right before it."""
    here = (np.abs(begins - x) < _BEFORE * em) | ((ends < x) & (ends > x - _RIGHT_BEFORE * em))
    return bool(here.sum() > 1)


def _is_known(x: float, cuts: Floats, begins: Floats) -> bool:
    """Whether no words begin between an x and one of some cuts."""
    return any(not ((begins > min(x, c)) & (begins < max(x, c))).any() for c in cuts.tolist())


def _at_edges(layout: PageLayout, place: Place, em: float, usual: Sequence[float]) -> list[float]:
    """The usual cuts, and those between texts that end and texts that begin below each other; nothing where
    there are no others of these.
    """
    found = [x for x in inner_edges(layout, place) if all(abs(x - other) > _APART * em for other in usual)]
    return sorted([*usual, *found]) if found else []


def _between_all(place: Place, em: float) -> list[float]:
    """The middles of what no text of a place reaches into, where there is room."""
    out, end = [], np.inf
    for x0, x1 in sorted(span for r in place.rows for span in r.spans) if not place.cuts else ():
        if x0 - end > _APART * em:
            out.append((end + x0) / 2)
        end = x1 if end == np.inf else max(end, x1)
    return out


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
