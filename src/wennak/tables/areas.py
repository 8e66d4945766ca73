"""The parts of a page that rows are read in: zones, zones beside or above each other as one, and what rules
of one extent mark off. Nothing is decided here, but that running text without wide gaps holds no table.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import combinations, pairwise

import numpy as np

from ..ink import Bools, Ints, distinct
from ..layout import PageLayout
from ..layout.rules import Lines
from ..model import Box
from .lattice import Lattice
from .rows import is_prose_line, rows_of
from .rulings import in_one
from .strip import MOST_OF, NEAR, SHARED, Strip, beside_gaps, strip_of

# Rules and strips are the same when their ends agree within this (em).
SAME_ENDS = 1.2
# Gaps between words wider than this (em) may part columns; the first few tell in most tables, and of others
# so many.
GAP, FIRST_GAPS, MOST_GAPS = 0.6, 40, 300
# Rows whose baselines are this near (em) stand level.
SAME_LEVEL = 0.2
# No column of labels is narrower, and two rows are higher, than this (em).
LABEL = 1.5
# Room above and below rules in which rows may belong to what the rules mark off (em).
REACH = 9.0
# So much room (em) ends the rows that follow each other.
ROOM = 2.5


def find_strips(layout: PageLayout, free: Bools, lattices: Sequence[Lattice]) -> Iterator[Strip]:
    """Yield the zones of a page, zones beside each other as one, and what rules of one extent mark off."""
    known: list[tuple[float, float, frozenset[int]]] = []
    members = [zone.members[free[zone.members]] for zone in layout.zones]
    groups = [m for m in members if len(m)]
    if len(groups) > 1:
        groups += [*_stacked(layout, groups), *_beside(layout, groups)]
    for part in groups:
        own = frozenset(part.tolist())
        if any(own == words for *_, words in known):
            continue
        known.append((*_extent(layout, part), own))
        if is_tabular(layout, part):
            yield strip_of(layout, part)
    for box in _marked_off(layout, lattices):
        part = words_inside(layout, box)
        part = part[free[part]]
        if not len(part) or not is_tabular(layout, part):
            continue
        x0, x1 = _extent(layout, part)
        own = frozenset(part.tolist())
        reach = SAME_ENDS * layout.em
        if any(abs(x0 - a) < reach and abs(x1 - b) < reach and own <= words for a, b, words in known):
            continue
        known.append((x0, x1, own))
        yield strip_of(layout, part)


def _extent(layout: PageLayout, part: Ints) -> tuple[float, float]:
    return float(layout.words.x0[part].min()), float(layout.words.x1[part].max())


def _stacked(layout: PageLayout, groups: Sequence[Ints]) -> list[Ints]:
    """Each zone with all zones above and below it that do not stick out of it, where there are such."""
    em = layout.em
    boxes = [layout.box(m) for m in groups]
    found: set[frozenset[int]] = set()
    for a in boxes:
        inner = frozenset(
            k for k, b in enumerate(boxes) if b.x0 > a.x0 - SAME_ENDS * em and b.x1 < a.x1 + SAME_ENDS * em
        )
        if len(inner) > 1:
            found.add(inner)
    return [_joined(layout, [groups[k] for k in sorted(inner)]) for inner in sorted(found, key=sorted)]


def _joined(layout: PageLayout, parts: Sequence[Ints]) -> Ints:
    part = np.concatenate(parts)
    return part[np.lexsort((layout.words.x0[part], layout.words.row[part]))]


def _beside(layout: PageLayout, groups: Sequence[Ints]) -> list[Ints]:
    """Zones that stand beside each other, taken together, where not both are prose."""
    boxes = [layout.box(m) for m in groups]
    prose = [_is_prose(layout, m) for m in groups]
    joined: list[set[int]] = []
    for i, j in combinations(range(len(groups)), 2):
        a, b = boxes[i], boxes[j]
        level = min(a.y1, b.y1) - max(a.y0, b.y0) > 0.5 * min(a.y1 - a.y0, b.y1 - b.y0)
        if not level or (prose[i] and prose[j]) or _apart(layout, groups[i], groups[j]):
            continue
        sets = [s for s in joined if i in s or j in s]
        joined = [s for s in joined if s not in sets] + [set().union({i, j}, *sets)]
    return [_joined(layout, [groups[k] for k in sorted(found)]) for found in joined]


def _apart(layout: PageLayout, a: Ints, b: Ints) -> bool:
    """Whether two parts have columns each, and rows that do not stand level: no halves of one table."""
    rows = sorted((rows_of(layout, part) for part in (a, b)), key=len)
    if not all(sum(len(r.spans) > 1 for r in own) > 0.5 * len(own) for own in rows):
        return False
    known = np.array([r.baseline for r in rows[1]])
    off = [float(np.abs(known - r.baseline).min()) > SAME_LEVEL * layout.em for r in rows[0]]
    return sum(off) > 0.5 * len(off)


def _is_prose(layout: PageLayout, part: Ints) -> bool:
    """Whether most rows of a part are lines of running text."""
    rows = rows_of(layout, part)
    x0, x1 = _extent(layout, part)
    return sum(is_prose_line(r, x1 - x0) for r in rows) > 0.5 * len(rows)


def is_tabular(layout: PageLayout, part: Ints) -> bool:
    """Return whether wide gaps of two rows stand above each other, or an upright rule between their words:
    prose is not looked at closer.
    """
    w, em = layout.words, layout.em
    row, x0, x1 = w.row[part], w.x0[part], w.x1[part]
    same = row[1:] == row[:-1]
    room = x0[1:] - x1[:-1]
    gaps = np.flatnonzero(same & ((room > GAP * w.size[part][1:]) | w.apart[part][1:]))
    for wide in (gaps[:FIRST_GAPS], gaps[:MOST_GAPS]) if len(gaps) > 1 else ():
        number = np.cumsum(np.append(0, np.diff(row[wide]) > 0))
        step = number - number[:, None]
        shared = np.minimum(x0[1:][wide], x0[1:][wide, None]) - np.maximum(x1[wide], x1[wide, None])
        least = np.minimum(SHARED * em, MOST_OF * np.minimum(room[wide], room[wide, None]))
        if ((step > 0) & (step <= NEAR) & (shared > least)).any():
            return True
    if _has_labels_beside(layout, part):
        return True
    upright = layout.rules.upright
    if not len(upright):
        return False
    tall = upright.high - upright.low > em
    middle = (w.y0[part] + w.y1[part])[1:] / 2
    parted = (
        (upright.at[tall] > x1[:-1, None] - 0.1 * em)
        & (upright.at[tall] < x0[1:, None] + 0.1 * em)
        & (upright.low[tall] < middle[:, None])
        & (upright.high[tall] > middle[:, None])
    )
    return len(distinct(row[1:][same & parted.any(axis=1)])) >= 2


def _has_labels_beside(layout: PageLayout, part: Ints) -> bool:
    """Whether two rows stand beside others, half a line higher or lower, with gaps above each other."""
    w, em = layout.words, layout.em
    at = np.flatnonzero(np.append(True, np.diff(w.row[part]) > 0))
    x0, y0 = np.minimum.reduceat(w.x0[part], at), np.minimum.reduceat(w.y0[part], at)
    x1, y1 = np.maximum.reduceat(w.x1[part], at), np.maximum.reduceat(w.y1[part], at)
    gaps = beside_gaps(x0, x1, y0, y1, em).values()
    return any(min(a[1], b[1]) - max(a[0], b[0]) > SHARED * em for a, b in pairwise(gaps))


def _marked_off(layout: PageLayout, lattices: Sequence[Lattice]) -> list[Box]:
    """What crossing rules, level rules of one extent, and shading of one extent mark off, with some rows
    above and below.
    """
    em, rules = layout.em, layout.rules
    boxes = [Box(float(g.xs[0]), float(g.ys[0]), float(g.xs[-1]), float(g.ys[-1])) for g in lattices]
    shades = rules.shades
    edges = np.concatenate((shades.y0, shades.y1)), np.tile(shades.x0, 2), np.tile(shades.x1, 2)
    bands = Lines(*in_one(*edges, em))
    for lines in (rules.level, bands):
        boxes += [b for b in _families(lines, em) if not _runs_beyond(rules.level, b, em)]
    out: list[Box] = []
    for b in sorted(boxes, key=lambda b: (b.y0, b.x0, b.x1)):
        for k, o in enumerate(out):
            near = abs(b.x0 - o.x0) < SAME_ENDS * em and abs(b.x1 - o.x1) < SAME_ENDS * em
            if near and b.y0 - o.y1 < REACH * em:
                out[k] = Box.around([b, o])
                break
        else:
            out.append(b)
    out = [b for b in out if b.x1 - b.x0 > 3 * em and b.y1 - b.y0 > em]
    return [_grown(layout, b) for b in out]


def _grown(layout: PageLayout, box: Box) -> Box:
    """What rules mark off, with the rows above and below it that keep within its sides and follow without
    much room, and some more.
    """
    w, em = layout.words, layout.em
    x0, x1 = box.x0 - 0.3 * em, box.x1 + 0.3 * em
    near = np.flatnonzero((w.x1 > x0) & (w.x0 < x1))
    within = (w.x0[near] > x0) & (w.x1[near] < x1)
    ends = []
    for sign, edge, begin, end in (
        (-1, box.y0, -w.y1[near], -w.y0[near]),
        (1, box.y1, w.y0[near], w.y1[near]),
    ):
        beyond = np.flatnonzero(begin > sign * edge - em)
        beyond = beyond[np.argsort(begin[beyond], kind="stable")]
        reach = np.maximum.accumulate(np.append(sign * edge, end[beyond]))
        stop = ~within[beyond] | (begin[beyond] - reach[:-1] > ROOM * em)
        last = reach[int(stop.argmax())] if stop.any() else reach[-1]
        ends.append(sign * max(float(last), sign * edge + REACH * em))
    return Box(x0, ends[0], x1, ends[1])


def _runs_beyond(level: Lines, box: Box, em: float) -> bool:
    """Whether a rule that runs through what others mark off goes on beyond it: they mark off a part only, as
    those do that leave out the labels of several rows.
    """
    inside = (level.at > box.y0 + LABEL * em) & (level.at < box.y1 - LABEL * em)
    through = inside & (level.low < box.x0 + SAME_ENDS * em) & (level.high > box.x1 - SAME_ENDS * em)
    return bool((through & ((level.low < box.x0 - LABEL * em) | (level.high > box.x1 + LABEL * em))).any())


def _families(lines: Lines, em: float) -> list[Box]:
    """The boxes of level lines whose ends agree, two or more each."""
    order = np.lexsort((lines.at, lines.low))
    families: list[list[int]] = []
    for i in order[(lines.high - lines.low > 4 * em)[order]].tolist():
        for family in families:
            j = family[0]
            if max(abs(lines.low[i] - lines.low[j]), abs(lines.high[i] - lines.high[j])) < 0.5 * em:
                family.append(i)
                break
        else:
            families.append([i])
    out = []
    for family in families:
        if len(family) > 1:
            at, low, high = lines.at[family], lines.low[family], lines.high[family]
            out.append(Box(float(low.min()), float(at.min()), float(high.max()), float(at.max())))
    return out


def words_inside(layout: PageLayout, box: Box) -> Ints:
    """Return the indices of the words whose middle lies in the box."""
    w = layout.words
    x, y = (w.x0 + w.x1) / 2, (w.y0 + w.y1) / 2
    return np.flatnonzero((x >= box.x0) & (x <= box.x1) & (y >= box.y0) & (y <= box.y1))
