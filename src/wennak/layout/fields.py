"""Fields of forms: values written over a line beside their label, and check boxes."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from ..ink import Bools, Floats, Ints, distinct
from ..model import Box
from .forms import form_fields
from .page import FieldArea, PageLayout

# A check box is a square of this size (em), its text begins at most so far (em) to its right.
BOX_SIZE = (0.5, 1.8)
BOX_REACH = 2.5
# The line under a value is at least this long (em) and at most this far (em) below the baseline.
LINE_LENGTH = 4.0
LINE_DROP = (-0.1, 0.7)
# A label ends at most this far (em) before its line; a line right behind its label so far.
LABEL_REACH, BEHIND = 12.0, 1.0
# A gap this wide (em) ends a text beside a box.
GAP = 2.5
# Fewer boxes, or lines that begin at one place, are something else.
MIN_FIELDS = 2
# A box stands farther than this (em) from text before it.
INLINE = 0.6
# What is so near (points) is at one place; a line so many times as long as the side of a square goes on.
SAME, LONGER = 1.0, 1.5
# What is written into a box to check it.
_MARKS = frozenset("xX✓✔✗✘✕✖×•*")
# Characters that are a box by themselves, empty and filled.
_EMPTY, _FILLED = "☐□", "☑☒■"
_BOXES = frozenset(_EMPTY + _FILLED)


def find_fields(layout: PageLayout) -> list[FieldArea]:
    """Return the fields of a page from top to bottom."""
    if not len(layout.words):
        return []
    drawn = sorted([*_check_boxes(layout), *_over_lines(layout)], key=lambda f: _reading_order(f, layout.em))
    taken = np.zeros(len(layout.words), dtype=np.bool_)
    out = []
    for area in [*form_fields(layout), *drawn]:
        # No word stands in two fields.
        if not taken[area.words].any():
            taken[area.words] = True
            out.append(area)
    return sorted(out, key=lambda f: _reading_order(f, layout.em))


def _reading_order(area: FieldArea, em: float) -> tuple[int, float]:
    return round(area.box.y0 / em), area.box.x0


def _check_boxes(layout: PageLayout) -> list[FieldArea]:
    squares = [
        (box, _is_marked(layout, box))
        for box in _squares(layout)
        if not _frames_text(layout, box) and not _is_cell(layout, box)
    ]
    out = []
    rights = [box.x0 for box, _ in squares]
    for box, marked in squares:
        label = _text_right_of(layout, box, [x for x in rights if x > box.x1])
        if len(label):
            out.append(_box_field(layout, box, label, marked))
    out += _box_characters(layout)
    return out if len(out) >= MIN_FIELDS else []


def _squares(layout: PageLayout) -> list[Box]:
    """Squares of the size of a letter drawn with lines."""
    s, em = layout.ink.strokes, layout.em
    y0, y1 = np.minimum(s.y0, s.y1), np.maximum(s.y0, s.y1)
    low, high = (share * em for share in BOX_SIZE)
    side = (np.abs(s.x1 - s.x0) < SAME / 2) & (y1 - y0 > low) & (y1 - y0 < high)
    at = np.flatnonzero(side)
    if not 2 * MIN_FIELDS <= len(at) <= 400:
        return []
    at = at[np.lexsort((s.x0[at], np.round(y0[at])))]
    out: list[Box] = []
    for a, b in zip(at[:-1].tolist(), at[1:].tolist(), strict=True):
        height, width = float(y1[a] - y0[a]), float(s.x0[b] - s.x0[a])
        level = abs(y0[a] - y0[b]) < SAME and abs(y1[a] - y1[b]) < SAME
        if level and abs(width - height) < 0.2 * height:
            out.append(Box(float(s.x0[a]), float(y0[a]), float(s.x0[b]), float(y1[a])))
    return out


def _frames_text(layout: PageLayout, box: Box) -> bool:
    """Whether a square is drawn round a letter, or stands in a line of text: no box to be checked."""
    w = layout.words
    inside = np.flatnonzero(_within((w.x0 + w.x1) / 2, (w.y0 + w.y1) / 2, box))
    before = _on_line(layout, box) & (w.x1 < box.x0 + 1) & (w.x1 > box.x0 - INLINE * layout.em)
    return bool(before.any()) or any(w.texts[i] not in _MARKS for i in inside.tolist())


def _is_cell(layout: PageLayout, box: Box) -> bool:
    """Whether the level lines of a square go on beyond it, as in a grid: a column may be as narrow."""
    level, width = layout.rules.level, box.x1 - box.x0
    along = (level.low < box.x0 + SAME) & (level.high > box.x1 - SAME)
    longer = along & (level.high - level.low > LONGER * width)
    return all(bool((longer & (np.abs(level.at - y) < SAME)).any()) for y in (box.y0, box.y1))


def _is_marked(layout: PageLayout, box: Box) -> bool:
    """Whether something is drawn or written within a box."""
    s, o, w = layout.ink.strokes, layout.ink.shapes, layout.words
    x, y = (s.x0 + s.x1) / 2, (s.y0 + s.y1) / 2
    slanted = (np.abs(s.x1 - s.x0) > 1) & (np.abs(s.y1 - s.y0) > 1)
    return bool(
        (slanted & _within(x, y, box)).any()
        or _within((o.x0 + o.x1) / 2, (o.y0 + o.y1) / 2, box).any()
        or _within((w.x0 + w.x1) / 2, (w.y0 + w.y1) / 2, box).any()
    )


def _within(x: Floats, y: Floats, box: Box) -> Bools:
    inside: Bools = (x > box.x0) & (x < box.x1) & (y > box.y0) & (y < box.y1)
    return inside


def _on_line(layout: PageLayout, box: Box) -> Bools:
    """The words that stand at the height of a box."""
    w, middle = layout.words, (box.y0 + box.y1) / 2
    level: Bools = (w.y0 < middle) & (w.y1 > middle)
    return level


def _text_right_of(layout: PageLayout, box: Box, others: list[float]) -> Ints:
    """The words that follow a box on its line, up to the next box or a wide gap."""
    w, em = layout.words, layout.em
    end = min(others, default=np.inf)
    beside = np.flatnonzero(_on_line(layout, box) & (w.x0 > box.x1 - 0.2 * em) & ~w.turned)
    beside = beside[np.argsort(w.x0[beside], kind="stable")]
    out: list[int] = []
    reach = box.x1 + (BOX_REACH - GAP) * em
    for i in beside.tolist():
        if w.x0[i] - reach > GAP * em or (w.x0[i] >= end and end > box.x1 + em):
            break
        out.append(i)
        reach = float(w.x1[i])
    return np.array(out, dtype=np.int64)


def _box_field(layout: PageLayout, box: Box, label: Ints, marked: bool) -> FieldArea:
    w = layout.words
    mark = np.flatnonzero(_within((w.x0 + w.x1) / 2, (w.y0 + w.y1) / 2, box))
    none = np.empty(0, dtype=np.int64)
    around = Box.around([box, layout.box(label)])
    return FieldArea(around, np.concatenate((mark, label)), label, none, marked)


def _box_characters(layout: PageLayout) -> Iterator[FieldArea]:
    """Boxes that are characters, each at the start of a line, after a wide gap or after the label of one."""
    w = layout.words
    if _BOXES.isdisjoint(w.texts):
        return
    at = [i for i, text in enumerate(w.texts) if text[0] in _EMPTY + _FILLED and len(text) == 1]
    row = -1
    for i, after in zip(at, [*at[1:], -1], strict=True):
        first = i == 0 or w.row[i - 1] != w.row[i] or w.x0[i] - w.x1[i - 1] > GAP * w.size[i] / 2
        first = first or w.row[i] == row
        box = Box(float(w.x0[i]), float(w.y0[i]), float(w.x1[i]), float(w.y1[i]))
        # Words of a row come from left to right: the next box ends the label of this one.
        others = [float(w.x0[after])] if after > i and w.row[after] == w.row[i] else []
        label = _text_right_of(layout, box, others)
        if first and len(label):
            row = int(w.row[i])
            yield _box_field(layout, box, label, w.texts[i] in _FILLED)


def _over_lines(layout: PageLayout) -> list[FieldArea]:
    """Values over lines, each with a label before its line and nothing after it but the label of the next.

    The lines begin at one place, where half of the labels or more end with a colon, since rows of a table may
    stand over lines as well; or each right behind its label, and each row with one that ends with a colon.
    """
    texts, level = layout.words.texts, layout.rules.level
    if not any(text.endswith(":") for text in texts):
        return []
    long = np.flatnonzero(level.high - level.low > LINE_LENGTH * layout.em)
    rows = [_row_over_lines(layout, at, long) for at in distinct(level.at[long]).tolist()]
    found = [(low, area) for row in rows for low, area in row]
    out = []
    for row in rows:
        named = [texts[int(area.label[-1])].endswith(":") for _, area in row]
        tight = all(low - layout.box(area.label).x1 < BEHIND * layout.em for low, area in row)
        for low, area in row:
            alike = [other for at, other in found if abs(at - low) < 2]
            ended = sum(texts[int(other.label[-1])].endswith(":") for other in alike)
            if (named[0] and tight) or (len(alike) >= MIN_FIELDS and ended >= 0.5 * len(alike)):
                out.append(area)
    return out if len(out) >= MIN_FIELDS else []


def _row_over_lines(layout: PageLayout, at: float, long: Ints) -> list[tuple[float, FieldArea]]:
    """The fields whose lines are at a height, from left to right, and where each line begins; none where
    any text there is neither before nor over one.
    """
    w, em, level = layout.words, layout.em, layout.rules.level
    drop = at - w.baseline
    members = np.flatnonzero((drop > LINE_DROP[0] * em) & (drop < LINE_DROP[1] * em) & ~w.turned)
    if not len(members) or len(distinct(w.row[members])) > 1:
        return []
    lines = sorted((float(level.low[k]), float(level.high[k])) for k in long.tolist() if level.at[k] == at)
    found: list[tuple[float, FieldArea]] = []
    begin, held = -np.inf, 0
    for low, high in lines:
        label = members[(w.x0[members] > begin) & (w.x1[members] < low + 1)]
        value = members[(w.x0[members] > low - 1) & (w.x1[members] < high + em)]
        if not len(label) and not len(value):
            # A line for something else.
            continue
        if not len(label) or not low - LABEL_REACH * em < float(w.x1[label].max()) < low:
            return []
        own = np.concatenate((label, value))
        found.append(
            (low, FieldArea(Box.around([layout.box(own), Box(low, at, high, at)]), own, label, value, None))
        )
        begin, held = high - em, held + len(own)
    return found if held == len(members) else []
