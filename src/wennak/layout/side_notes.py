"""Notes in the margin beside running text: read after it, and no column of a table."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..ink import Bools, Ints
from .page import PageLayout, Zone
from .parted import SPAN_GAP, Spans, text_spans

# The measure of running text is that of at least so many lines that fill it, all within this (em).
MEASURE_LINES, SAME_END = 4, 0.3
# Of so many lines the first tell.
MOST_LINES = 300
# Lines of one paragraph follow each other within this (em); one without a note has at least so many.
LINE_ROOM, FREE_LINES = 0.9, 3
# The last line of a paragraph ends this far (em) before the measure does.
LAST = 2.0
# A line that fills the measure has so many words; a note has no more than that.
LINE_WORDS, NOTE_WORDS = 5, 3
# What ends a sentence: the line below begins something new.
STOPS = tuple(".:;?!")


@dataclass(slots=True)
class _Line:
    """The words of a row within the measure, and those beyond it."""

    text: list[int]
    notes: list[int]
    y0: float
    y1: float


def find_side_notes(layout: PageLayout) -> Bools:
    """Return which words of a page are notes in the margin.

    They stand beside lines of running text, most of them in the middle of a sentence, while some paragraph
    has none; or most of the text has none. All that stands on their side of the text are such notes. The
    labels of a table stand where its rows begin, each row has one, and the text around it begins where they
    do.
    """
    w, reach = layout.words, SAME_END * layout.em
    out = np.zeros(len(w), dtype=np.bool_)
    upright = np.flatnonzero(~w.turned)
    if not len(upright):
        return out
    spans = text_spans(layout, upright)
    number = np.searchsorted(spans.first, upright, side="right") - 1
    measure = _measure(layout, spans, np.bincount(number))
    if measure is None:
        return out
    left, right = measure[0] - reach, measure[1] + reach
    for beyond in (spans.x1 < left, spans.x0 > right):
        if beyond.any():
            lines = _lines(layout, upright, beyond[number])
            if _are_notes(layout, lines, left, right):
                out[[i for line in lines for i in line.notes]] = True
    return out


def _measure(layout: PageLayout, spans: Spans, words: Ints) -> tuple[float, float] | None:
    """Left and right of the rows without gaps that begin and end where most do; None where too few do.

    `words` gives how many words each span has.
    """
    row = layout.words.row[spans.first]
    alone = (np.diff(row, prepend=-1) > 0) & (np.diff(row, append=row[-1] + 1) > 0)
    long = alone & (words >= LINE_WORDS)
    if long.sum() < MEASURE_LINES:
        return None
    ends = np.stack((spans.x0, spans.x1), axis=1)[long][:MOST_LINES]
    same = (np.abs(ends[:, None] - ends) < SAME_END * layout.em).all(axis=2).sum(axis=1)
    best = int(same.argmax())
    left, right = ends[best].tolist()
    return (left, right) if same[best] >= MEASURE_LINES else None


def _lines(layout: PageLayout, upright: Ints, beyond: Bools) -> list[_Line]:
    w = layout.words
    starts = np.flatnonzero(np.diff(w.row[upright], prepend=-1))
    out = []
    for a, b in zip(starts.tolist(), [*starts[1:].tolist(), len(upright)], strict=True):
        own, noted = upright[a:b], beyond[a:b]
        text = own[~noted] if not noted.all() else own
        out.append(
            _Line(own[~noted].tolist(), own[noted].tolist(), float(w.y0[text].min()), float(w.y1[text].max()))
        )
    return out


def _are_notes(layout: PageLayout, lines: list[_Line], left: float, right: float) -> bool:
    """Whether what stands beyond a measure are notes."""
    w, em = layout.words, layout.em
    noted = [k for k, line in enumerate(lines) if line.notes]
    if any(len(lines[k].notes) > NOTE_WORDS for k in noted):
        return False
    paragraphs = _paragraphs(layout, lines, left, right)
    free = [count for count, has_note in paragraphs if count and not has_note]
    if max(free, default=0) < FREE_LINES:
        return False
    # Words that stand where paragraphs begin, as what these are about does, are few among them; a row of a
    # table has gaps.
    held = sum(count for count, has_note in paragraphs if has_note)
    if len(free) > 1 and sum(free) > held and not any(_is_row(layout, lines[k]) for k in noted):
        return True
    if any(len(lines[k].text) < LINE_WORDS for k in noted):
        return False
    going_on = 0
    for k in noted:
        above = lines[k - 1].text if k else []
        if above and lines[k].y0 - lines[k - 1].y1 < LINE_ROOM * em:
            full = w.x1[above[-1]] > right - 2 * SAME_END * em
            going_on += bool(full and not w.texts[above[-1]].endswith(STOPS))
    return 2 * going_on > len(noted)


def _is_row(layout: PageLayout, line: _Line) -> bool:
    """Whether a line or its note has gaps, as the rows of a table have, or the note is a number."""
    w = layout.words
    gaps = [
        (w.x0[part[1:]] - w.x1[part[:-1]] > SPAN_GAP * w.size[part[1:]]).any()
        for part in (np.array(line.text, dtype=np.int64), np.array(line.notes))
    ]
    return any(gaps) or not w.letter[line.notes].any()


def _paragraphs(layout: PageLayout, lines: list[_Line], left: float, right: float) -> list[tuple[int, bool]]:
    """How many lines the paragraphs of the text have, and whether a note: the first line of one is set in,
    has room above it, or stands below a line that is not full.
    """
    w, em = layout.words, layout.em
    out: list[tuple[int, bool]] = []
    count, noted, last, full = 0, False, -np.inf, True
    for line in lines:
        text = line.text or line.notes
        indented = w.x0[text[0]] > left + 2 * SAME_END * em
        if indented or not full or line.y0 - last > LINE_ROOM * em:
            out.append((count, noted))
            count, noted = 0, False
        noted |= bool(line.notes)
        count += len(line.text) >= LINE_WORDS
        last, full = line.y1, w.x1[text[-1]] > right - LAST * em
    return [*out, (count, noted)]


def with_notes(layout: PageLayout, zones: list[Zone], notes: Bools) -> list[Zone]:
    """Return zones without notes, each followed by those of the `notes` that stand beside it, the last one by
    those that stand beside none.
    """
    if not notes.any():
        return zones
    middle = (layout.words.y0 + layout.words.y1) / 2
    left, out = notes.copy(), []
    for k, zone in enumerate(zones):
        out.append(zone)
        beside = (middle > zone.y0) & (middle < zone.y1)
        own = np.flatnonzero(left & (beside | (k == len(zones) - 1)))
        if len(own):
            box = layout.box(own)
            out.append(Zone(box.x0, box.y0, box.x1, box.y1, own))
            left[own] = False
    return out
