"""The best set of readings that share no words."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise

import numpy as np

from ..ink import Bools, distinct, median
from .agreement import agreement
from .draft import TableDraft, plain_text
from .numbers import is_value
from .reading import SHADED, Reading, bits_of

# What words gain as text: a reading that gains less is left as text.
LEAST = 0.3
# What crossing lines draw counts so much more.
DRAWN = 0.05
# So many sets are kept in view while readings are added.
BEAM = 24
# So many labels of groups stand one above the other, no farther than this from rows (distances of rows);
# columns of numbers have them in more than this share of their rows.
LABELS, FARTHER, MOSTLY = 3, 1.5, 0.5
# Columns beside a reading have text in more than this share of its rows.
BESIDE = 0.3
# Columns that stand in another column of the page have to gain this with the others.
SOUND = 0.5
# What goes on beyond the end of a table gains so much more than the table, or is none.
BEYOND = 0.2
# Other readings of a place are kept beside the best where they are expected to be at most this much worse.
NEAR, MOST = 0.15, 2


def worth(reading: Reading, least: float = LEAST) -> float:
    """Return what taking a reading gains over leaving its words as text: so much for each of its pieces. By
    words, a line of prose that is swallowed would count more than the table above it.
    """
    return (reading.gain + DRAWN * (reading.cut is None and reading.way != SHADED) - least) * reading.pieces


def choose(readings: Sequence[Reading], least: float = LEAST) -> list[Reading]:
    """Return the readings without common words that gain most together over what text gains, from top to
    bottom.
    """
    best: dict[int, tuple[float, Reading]] = {}
    for reading in readings:
        if reading.gain > least:
            gained = worth(reading, least)
            if reading.bits not in best or best[reading.bits][0] < gained:
                best[reading.bits] = gained, reading
    ranked = sorted(best.values(), key=lambda b: (-b[0], b[1].place.key))
    # Sets as (gain, words taken as bits, readings).
    sets: list[tuple[float, int, tuple[Reading, ...]]] = [(0.0, 0, ())]
    for gained, reading in ranked:
        sets += [
            (g + gained, taken | reading.bits, (*chosen, reading))
            for g, taken, chosen in sets
            if not taken & reading.bits
        ]
        sets = sorted(sets, key=lambda s: -s[0])[:BEAM]
    return _in_order(sets[0][2])


def closed(readings: Sequence[Reading]) -> list[Reading]:
    """Return readings without those that go on beyond the end of a table, where what is above is one and they
    gain little more.
    """
    best: dict[tuple[int, int, int], float] = {}
    for r in readings:
        key = (id(r.place.strip), r.place.first, r.place.last)
        best[key] = max(best.get(key, LEAST), r.gain)

    def goes_on(r: Reading) -> bool:
        above = best.get((id(r.place.strip), r.place.first, r.place.first + r.ends), LEAST)
        return r.ends > 0 and above > max(LEAST, r.gain - BEYOND)

    return [r for r in readings if not goes_on(r)]


def with_columns_beside(chosen: Sequence[Reading], readings: Sequence[Reading]) -> list[Reading]:
    """Return chosen readings, each with the columns beside it where one of as many rows has these as well and
    gains nearly as much, or a rule runs over all of them: labels that tell rows apart tell little of whether
    they are a table.
    """
    out = list(chosen)
    for k, reading in enumerate(chosen):
        others = sum(r.bits for r in out if r is not out[k])
        wider = [r for r in readings if not r.bits & others and _has_more_columns(r, reading)]
        out[k] = max(wider, key=lambda r: r.gain, default=reading)
    return out


def _has_more_columns(wider: Reading, reading: Reading) -> bool:
    """Whether a reading has as many rows as another and nothing but columns beside it more, and gains nearly
    as much or is held together by rules.
    """
    rows, columns = reading.shape
    if (
        wider.bits & reading.bits != reading.bits
        or wider.gain <= LEAST
        or wider.shape[0] != rows
        or wider.shape[1] <= columns
    ):
        return False
    ruled = _is_ruled_across(wider)
    layout, box, index = reading.place.strip.layout, reading.place.box, reading.place.index
    w, zone = layout.words, layout.zone_of()
    more = wider.place.index[~np.isin(wider.place.index, index)]
    held = len(distinct(w.row[more]))
    # What stands in another column of the page may be its text.
    least = 0.0 if np.isin(zone[more], zone[index]).all() else SOUND
    if wider.gain < max(least, reading.gain - NEAR) and not ruled:
        return False
    beside = ((w.x1[more] < box.x0) | (w.x0[more] > box.x1)) & (w.y1[more] > box.y0)
    return bool(beside.all()) and (held > BESIDE * rows or (ruled and held > 1))


def _is_ruled_across(reading: Reading) -> bool:
    """Whether a level rule runs over all texts of a reading, or shading behind some of its rows."""
    layout, box = reading.place.strip.layout, reading.place.box
    level, shades, em = layout.rules.level, layout.rules.shades, layout.em
    near = (level.at > box.y0 - em) & (level.at < box.y1 + em)
    ruled = near & (level.low < box.x0 + em) & (level.high > box.x1 - em)
    inside = (shades.y0 > box.y0 - em) & (shades.y1 < box.y1 + em)
    inside &= shades.y1 - shades.y0 < (box.y1 - box.y0) / 2
    shaded = inside & (shades.x0 < box.x0 + em) & (shades.x1 > box.x1 - em)
    return bool(ruled.any() or shaded.any())


def in_one(chosen: Sequence[Reading], readings: Sequence[Reading]) -> list[Reading]:
    """Return chosen readings with one of all their words for those below each other that are the groups of
    one table: the lower ones have the same columns and no head, and nothing but labels stands between, no
    farther off than its rows are from each other.
    """
    out = list(chosen)
    while len(out) > 1:
        wholes = [
            (len(groups), whole.gain, whole)
            for whole in readings
            if whole.gain > LEAST and whole.cut is not None and (groups := _groups_of(whole, out))
        ]
        if not wholes:
            break
        whole = max(wholes, key=lambda each: each[:2])[2]
        out = _in_order([whole, *(r for r in out if not r.bits & whole.bits)])
    return out


def _in_order(readings: Sequence[Reading]) -> list[Reading]:
    """Readings from top to bottom."""
    return sorted(readings, key=lambda r: (r.place.box.y0, r.place.box.x0))


def _groups_of(whole: Reading, chosen: Sequence[Reading]) -> list[Reading]:
    """Those of the chosen readings, from top to bottom, that are the groups of a table which a reading of all
    their words is; none where they are not.
    """
    groups = [r for r in chosen if r.bits & whole.bits]
    same = all(r.bits & whole.bits == r.bits and r.shape[1] == whole.shape[1] for r in groups)
    if len(groups) < 2 or not same or any(map(_has_head, groups[1:])):
        return []
    return groups if _by_labels(whole, groups) else []


def _has_head(reading: Reading) -> bool:
    """Whether no number stands in the first row of a reading where most rows below have some."""
    numbers = reading.cut.numbers if reading.cut else _numbers_in(reading)
    below = numbers[1:] if len(numbers) > 1 else numbers
    usual = below.sum(axis=0) > MOSTLY * len(below)
    return not usual.any() or not numbers[0][usual].any()


def _numbers_in(reading: Reading) -> Bools:
    """In which rows and columns of a drawn reading a number stands alone."""
    layout, out = reading.place.strip.layout, np.zeros(reading.shape, dtype=np.bool_)
    for cell in reading.drawn.cells if reading.drawn else ():
        out[cell.row, cell.column] = bool(cell.words) and is_value(plain_text(layout, cell.words))
    return out


def _by_labels(whole: Reading, groups: Sequence[Reading]) -> bool:
    """Whether nothing but labels, which are no sentences, parts some readings below each other, in rows no
    farther apart than others.
    """
    place = whole.place
    facts, ends = place.strip.facts, place.strip.starts[place.first : place.last + 1]
    rows = [bits_of(place.strip.index[a:b]) for a, b in pairwise(ends.tolist())]
    held = [[k for k, bits in enumerate(rows) if bits & group.bits] for group in groups]
    other = facts.parts | facts.named | facts.prose | facts.sentence
    steps = np.diff(facts.y0[place.first : place.last])
    near = FARTHER * median(steps)
    if held[0][0] > 0 or held[-1][-1] < len(rows) - 1:
        return False
    return all(
        a[-1] < b[0] <= a[-1] + LABELS + 1
        and not other[place.first + a[-1] + 1 : place.first + b[0]].any()
        and bool(steps[a[-1] : b[0]].max() <= near)
        for a, b in pairwise(held)
    )


def alternatives(reading: Reading, readings: Sequence[Reading]) -> list[Reading]:
    """Return the best readings of the same words with other rows or columns that are nearly as good."""
    out: list[Reading] = []
    shapes = {reading.shape}
    near = [r for r in readings if r.bits == reading.bits and r.gain > reading.gain - NEAR]
    for other in sorted(near, key=lambda r: -r.gain):
        if other.shape not in shapes and len(out) < MOST:
            shapes.add(other.shape)
            out.append(other)
    return out


def judged_draft(
    reading: Reading, readings: Sequence[Reading], words: int, method: str = "spaced"
) -> TableDraft:
    """Return a reading as a draft that knows what the judge said of it, and of the others; `words` is the
    number of words of its page.
    """
    draft = reading.draft(method)
    draft.gain, draft.rival, draft.seen = reading.gain, _rival(reading, readings), reading.seen.copy()
    draft.agreed = agreement(reading, readings, words)
    return draft


def _rival(reading: Reading, readings: Sequence[Reading]) -> float:
    """Return how much less than a reading the best other one of some of its words gains, 0..1."""
    best = max((r.gain for r in readings if r is not reading and r.bits & reading.bits), default=0.0)
    return min(1.0, max(0.0, reading.gain - best))
