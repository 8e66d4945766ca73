"""Tables side by side that were read as one: both have names, or labels that stand in the other as well, or
the left one ends where the right one goes on.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np

from ..ink import Bools, Ints, median
from ..layout import PageLayout
from .areas import SAME_LEVEL
from .caption import NAMED, NAMED_REACH
from .choose import LEAST, judged_draft
from .draft import TableDraft, plain_text
from .finish import finish
from .judge import judge_of
from .numbers import is_numeric
from .places import Place, place_of
from .reading import Reading
from .rows import Row, rows_of, within
from .search import all_readings

# A reading of fewer columns is one table.
MIN_COLUMNS = 3
# The room between tables side by side is wider than this (em).
ROOM = 1.5
# So many of the widest gaps are tried, and each that rules end before and begin behind.
GAPS = 3
# So many labels of the one stand in the other as well, and so large a share of those of the shorter.
SHARED, SHARE = 3, 0.3
# So many rows of the left one, and so many more of the right one, tell that it has ended; lines of wrapped
# cells stand closer than rows by this.
MORE, CLOSER = 4, 0.9
# More than this share of its labels differ from all others of its own.
DISTINCT = 0.75
# Of the rows of each more than this share have a label and something beside it.
SEVERAL = 0.5
# What may end a label.
_STOPS = " .:…"


def read_sides(layout: PageLayout, reading: Reading, free: Bools) -> list[TableDraft]:
    """Return the tables that stand side by side where a reading makes one; nothing where it is one."""
    if reading.cut is None or reading.cut.columns < MIN_COLUMNS:
        return []
    index, w = reading.place.index, layout.words
    middle = (w.x0[index] + w.x1[index]) / 2
    gaps = [
        (k, x)
        for k, x in enumerate(_gaps(layout, reading.place))
        if not _is_bridged(layout, reading.place, x)
    ]
    names = _names(layout, reading.place) if gaps else []
    for k, x in gaps:
        ruled = _are_ruled(layout, reading.place, x)
        if k >= GAPS and not ruled:
            continue
        sides = [np.sort(index[own]) for own in (middle < x, middle > x)]
        rows = [rows_of(layout, side) for side in sides]
        repeated = _repeats_head(layout, *rows)
        told = ruled or repeated or any(first < x < last for first, last in names)
        if k and not told and not _may_share_labels(layout, *sides):
            continue
        if not all(sum(len(r.spans) > 1 for r in own) > SEVERAL * len(own) for own in rows):
            continue
        # Columns of one table may hold the same names, as near to each other as the others, and level, but
        # then not the same in a row.
        if not (
            (
                _share_labels(layout, *rows)
                and (k == 0 or _stand_off(layout, *rows) or _are_level(layout, *rows))
            )
            or (k == 0 and _ends_first(layout, *rows))
            or told
        ):
            continue
        places = [place_of(layout, side, free, layout.box(side)) for side in sides]
        readings = [all_readings(layout, place, judge_of(layout)) for place in places]
        if repeated or all(own[0].gain > LEAST for own in readings):
            return [draft for own in readings for draft in _parted(layout, own, free)]
    return []


def _parted(layout: PageLayout, readings: Sequence[Reading], free: Bools) -> list[TableDraft]:
    """The tables of a side: its best reading, or what stands side by side in it again."""
    best = readings[0]
    parts = read_sides(layout, best, free)
    if parts:
        return parts
    draft = judged_draft(best, readings, len(layout.words), "spaced")
    return [finish(layout, draft, best.place.lines)]


def _gaps(layout: PageLayout, place: Place) -> Iterator[float]:
    """The middles of what no row in parts reaches into, from the widest on."""
    spans = sorted(span for row in place.rows if len(row.spans) > 1 for span in row.spans)
    if len(spans) < 2:
        return
    low, high = np.array(spans).T
    reach = np.maximum.accumulate(high)[:-1]
    room = low[1:] - reach
    for k in np.argsort(-room, kind="stable").tolist():
        if room[k] > ROOM * layout.em:
            yield float(reach[k] + low[k + 1]) / 2


def _is_bridged(layout: PageLayout, place: Place, x: float) -> bool:
    """Whether a rule or shading runs over an x: what it joins is one table."""
    level, shades, box, em = layout.rules.level, layout.rules.shades, place.box, layout.em
    ruled = (level.low < x) & (level.high > x) & (level.at > box.y0 - em) & (level.at < box.y1 + em)
    behind = (shades.x0 < x) & (shades.x1 > x) & (shades.y1 > box.y0) & (shades.y0 < box.y1)
    return bool(ruled.any() or behind.any())


def _are_ruled(layout: PageLayout, place: Place, x: float) -> bool:
    """Whether rules run over all that stands left of an x, and others over all that stands right of it."""
    w, level, box, em = layout.words, layout.rules.level, place.box, layout.em
    near = (level.at > box.y0 - em) & (level.at < box.y1 + em)
    if near.sum() < 2:
        return False
    x0, x1 = w.x0[place.index], w.x1[place.index]
    left, right = x1[x1 < x].max(initial=-np.inf), x0[x0 > x].min(initial=np.inf)
    low, high = level.low[near], level.high[near]
    over_left = (low < box.x0 + em) & (high > left - em) & (high < x)
    over_right = (low > x) & (low < right + em) & (high > box.x1 - em)
    return bool(over_left.any() and over_right.any())


def _repeats_head(layout: PageLayout, left: Sequence[Row], right: Sequence[Row]) -> bool:
    """Whether both sides begin with the same labels, level with each other, one of them of the labels of
    rows: a table that goes on beside itself.
    """
    heads = [
        [plain_text(layout, within(layout, row, *span)) for span in row.spans] for row in (left[0], right[0])
    ]
    level = abs(left[0].baseline - right[0].baseline) < SAME_LEVEL * layout.em
    return level and heads[0] == heads[1] and len(heads[0]) >= SHARED and not is_numeric(heads[0][0])


def _stand_off(layout: PageLayout, left: Sequence[Row], right: Sequence[Row]) -> bool:
    """Whether rows in parts of either side have none of the other beside them."""
    off = 0
    for own, others in ((left, right), (right, left)):
        known = np.array([r.baseline for r in others])
        parts = np.array([r.baseline for r in own if len(r.spans) > 1])
        off += int((np.abs(known - parts[:, None]).min(axis=1) > SAME_LEVEL * layout.em).sum())
    return off > 1


def _are_level(layout: PageLayout, left: Sequence[Row], right: Sequence[Row]) -> bool:
    """Whether most rows that stand level begin with the same label on either side."""
    a, b = (
        {round(row.baseline / layout.em): label for row, label in _labelled(layout, own)}
        for own in (left, right)
    )
    return 2 * sum(b.get(at) == label for at, label in a.items()) > max(len(a), len(b))


def _ends_first(layout: PageLayout, left: Sequence[Row], right: Sequence[Row]) -> bool:
    """Whether rows of the left side stand beside the first of the right one, without a gap, and none beside
    more that follow each other as those do: labels of one table go on as far as it does.

    These are half as many, or as whole as the others, with labels that differ as those on the left do.
    """
    lines = np.array([r.baseline for r in right])
    level = int((lines < left[-1].baseline + SAME_LEVEL * layout.em).sum())
    if not len(left) == level >= MORE or len(right) == level:
        return False
    many = len(right) - level >= max(MORE, level / 2)
    if not (many or (_are_whole(right, level) and all(_labels(layout, side) for side in (left, right)))):
        return False
    pitch = np.diff(lines)
    # The rest of wrapped cells stands closer.
    return bool(pitch[level - 1 :].min() > CLOSER * median(pitch[: level - 1]))


def _are_whole(rows: Sequence[Row], first: int) -> bool:
    """Whether rows, from one on, have as many parts as any has: the rest of a wrapped cell has fewer."""
    most = max(len(r.spans) for r in rows)
    return all(len(r.spans) == most for r in rows[first:])


def _may_share_labels(layout: PageLayout, left: Ints, right: Ints) -> bool:
    """Whether any row of the one side begins with the same word as one of the other."""
    w = layout.words
    a, b = (
        {w.texts[i].rstrip(_STOPS) for i in side[np.flatnonzero(np.diff(w.row[side], prepend=-1))].tolist()}
        for side in (left, right)
    )
    return not a.isdisjoint(b)


def _share_labels(layout: PageLayout, left: Sequence[Row], right: Sequence[Row]) -> bool:
    """Whether labels that begin rows of the one side begin rows of the other."""
    a, b = _labels(layout, left), _labels(layout, right)
    return len(a & b) >= max(SHARED, SHARE * min(len(a), len(b)))


def _labels(layout: PageLayout, rows: Sequence[Row]) -> set[str]:
    """What stands first in rows in parts, if it is no number and differs from row to row."""
    first = [label for _, label in _labelled(layout, rows)]
    found = {label for label in first if not is_numeric(label)}
    return found if len(found) > DISTINCT * len(first) else set()


def _labelled(layout: PageLayout, rows: Sequence[Row]) -> list[tuple[Row, str]]:
    """The rows in parts, each with what stands first in it."""
    parts = [(r, plain_text(layout, within(layout, r, *r.spans[0]))) for r in rows if len(r.spans) > 1]
    return [(r, label.rstrip(_STOPS)) for r, label in parts]


def _names(layout: PageLayout, place: Place) -> list[tuple[float, float]]:
    """Where the first and the last begin of lines that name tables and stand level above a place, or at its
    top.
    """
    w, em, box = layout.words, layout.em, place.box
    top = box.y0 - NAMED_REACH * em
    near = (w.y0 > top) & (w.y0 < place.rows[0].y1) & (w.x1 > box.x0 - em) & (w.x0 < box.x1 + em)
    rows = [
        [a for a, b in row.spans if NAMED.match(plain_text(layout, within(layout, row, a, b)))]
        for row in rows_of(layout, np.flatnonzero(near & ~w.turned))
    ]
    return [(names[0], names[-1]) for names in rows if names]
