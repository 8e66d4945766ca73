"""Where a place holds a table and more: what is below the rule, or the edge of shading, that closes it, or
text wider than it.
"""

from __future__ import annotations

from itertools import pairwise

import numpy as np

from ..ink import distinct
from ..layout import PageLayout
from ..model import Box
from .grid import SEVERAL, Cut
from .places import Place
from .rowcuts import MAX_ROOM
from .rulings import TALL, TOUCH
from .strip import SENTENCE

# Text reaches beyond the rows of a table by more than this (em).
BEYOND = 2.0
# A name has no more lines than one above so many.
LINES = 3
# Rows are ruled where there are more rules than this share of them.
MOST_RULED = 0.6


def ends_at(layout: PageLayout, cut: Cut) -> int:
    """Return the row of a place at which its table ends and something else begins, 0 where there is none: the
    first one below the last rule, or edge of shading, where one is above the second row in parts, if what is
    below holds nothing of the columns of numbers; or is lines of text, and these are prose, or the upright
    rules or the shading end there, or most rows are ruled.
    """
    facts, place = cut.place.strip.facts, cut.place
    rows, lines = slice(place.first, place.last), place.lines
    middles, parts = (facts.y0[rows] + facts.y1[rows]) / 2, facts.parts[rows]
    spoken = np.flatnonzero(parts)[:2]
    # A header may have a rule below it and none above.
    if not lines or len(spoken) < 2 or not lines[0] < middles[spoken[1]] < lines[-1] < middles[-1]:
        return 0
    past = middles > lines[-1]
    if parts[past].any():
        counted = (cut.numbers[~past].sum(axis=0) >= SEVERAL) & ~cut.filled[past].any(axis=0)
        beyond = bool(counted.any()) and not cut.numbers[past].any()
    else:
        told = facts.prose[rows][past].any() or _closes(layout, place.box, lines[-1])
        told |= len(lines) > MOST_RULED * np.sum(~past)
        beyond = int(parts[~past].sum()) >= SEVERAL and bool(told)
    return int(past.argmax()) if beyond else 0


def _closes(layout: PageLayout, box: Box, y: float) -> bool:
    """Whether upright rules, or shading of rows, in a box end at a height."""
    upright, shades, near = layout.rules.upright, layout.rules.shades, TOUCH * layout.em + 1.0
    ruled = (upright.at > box.x0 - TALL * layout.em) & (upright.at < box.x1 + TALL * layout.em)
    ruled &= (np.abs(upright.high - y) < near) & (upright.low < y - near)
    shaded = (shades.x0 < box.x1) & (shades.x1 > box.x0) & (np.abs(shades.y1 - y) < near)
    return bool(ruled.any() or shaded.any())


def holds_text_beyond(place: Place) -> bool:
    """Return whether the first or the last row of a place is running text from its left edge to farther right
    than all others: a cell over all columns would not.
    """
    facts, rows, em = place.strip.facts, place.rows, place.strip.layout.em
    for at, row, others in ((place.first, rows[0], rows[1:]), (place.last - 1, rows[-1], rows[:-1])):
        text = (facts.prose[at] or facts.sentence[at]) and not facts.parts[at]
        first = row.x0 < min(r.x0 for r in others) + BEYOND * em
        if text and first and row.x1 > max(r.x1 for r in others) + BEYOND * em:
            return True
    return False


def cuts_paragraph(layout: PageLayout, place: Place) -> bool:
    """Return whether the first row of a place is the last line of a paragraph that begins above it, and not
    with the name of a table.
    """
    facts, row = place.strip.facts, place.rows[0]
    if place.above is None or facts.parts[place.first] or not facts.texts[place.first].endswith("."):
        return False
    strip, k = place.above
    begun = strip.facts.texts[k]
    near = row.y0 - strip.rows[k].y1 < MAX_ROOM * layout.em
    named = strip.facts.named[max(k + 1 - LINES, 0) : k + 1].any()
    return near and begun.count(" ") > SENTENCE and begun[-1] not in ".:;!?" and not named


def reaches_beside(layout: PageLayout, place: Place) -> bool:
    """Return whether the first or the last rows of a place, at most half of them, hold all that it has of a
    column of the page beside the one that the others stand in, of which there is more elsewhere: text level
    with a table.
    """
    if len(layout.zones) < 2:
        return False
    zone, row = layout.zone_of()[place.index], layout.words.row[place.index]
    zones = distinct(zone)
    if len(zones) < 2 or int(zones[-1]) >= len(layout.zones):
        return False
    rows = distinct(row)
    own = int(np.bincount(zone).argmax())
    home = layout.zones[own]
    for k in zones.tolist():
        other = layout.zones[k]
        held = np.searchsorted(rows, distinct(row[zone == k]))
        few = held.max() < len(rows) / 2 or held.min() >= len(rows) / 2
        few &= len(other.members) > 2 * int((zone == k).sum())
        if k != own and few and (other.x0 >= home.x1 or other.x1 <= home.x0):
            return True
    return False


def lacks_column(layout: PageLayout, place: Place) -> bool:
    """Return whether most rows in parts of a place go on, left or right of it, with other words of their
    zone, all of them nearer than its own parts are to each other: the part of a page that it was found in
    ends within a table, and no other one is beside it.
    """
    w, zone, box = layout.words, layout.zone_of(), place.box
    rows = [row for row in place.rows if len(row.spans) > 1]
    if len(rows) < SEVERAL:
        return False
    apart = max(b[0] - a[1] for row in rows for a, b in pairwise(row.spans))
    level = [w.row[row.words[0]] for row in rows]
    others = (zone == zone[place.index[0]]) & ~w.turned & np.isin(w.row, level)
    others[place.index] = False
    most = len(distinct(w.row[others])) > len(rows) / 2
    return most and bool(w.x0[others].min() > box.x0 - apart and w.x1[others].max() < box.x1 + apart)


def lacks_row(layout: PageLayout, place: Place) -> bool:
    """Return whether an upright rule between the columns of a place parts the text of the row right above it,
    or right below it, as well.
    """
    upright, rows = layout.rules.upright, place.rows
    top, foot = (rows[0].y0 + rows[0].y1) / 2, (rows[-1].y0 + rows[-1].y1) / 2
    along = (upright.low < top) & (upright.high > foot)
    along &= (upright.at > place.box.x0) & (upright.at < place.box.x1)
    for beyond in (place.above, place.below) if along.any() else ():
        if beyond is not None:
            row = beyond[0].rows[beyond[1]]
            middle = (row.y0 + row.y1) / 2
            at = upright.at[along & (upright.low < middle) & (upright.high > middle)].tolist()
            if any(a[1] < x < b[0] for a, b in pairwise(row.spans) for x in at):
                return True
    return False
