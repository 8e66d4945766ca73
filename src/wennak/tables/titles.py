"""Lines above a table that were read as its first row: its title, or the end of the text before it; and below
it, as its last row: its name, or the heading of what follows.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from ..ink import Ints
from ..layout import PageLayout
from ..model import Box
from .caption import NAMED, ends_name
from .draft import TableDraft, cells_by_row, plain_text, row_extents
from .header import header_rows
from .margins import MARGIN
from .rulings import lines_in
from .strip import is_sentence

# A table without its title has at least so many rows.
MIN_ROWS = 2
# What stands above the rules of a table has none within this far above it (em).
CLEAR = 1.2
# Rules of a table begin this near (em) to its first row.
BEGIN = 0.5
# A title begins or ends with its table, or stands over its middle, within this (em).
PLACED = 0.5
# A running head stands off the left edge of a table below it, and off its middle, by more than this (em).
ELSEWHERE = 2.0
# What stands apart is so much farther off (em) than labels are from their rows.
FARTHER = 0.3
# Prose has so many words.
PROSE = 8
# Of a paragraph no more lines than this are read as rows.
PARAGRAPH = 4
# A heading is larger than the text of a table by this factor.
LARGER = 1.1


def without_title(layout: PageLayout, draft: TableDraft) -> TableDraft:
    """Return a table without a first row that is one text above all rules: its caption, where that names a
    table or stands alone in italics at its edge or over its middle; text, where it is a sentence or ends one,
    or the name of the table, in larger type than the rest, the head of its page, or stands apart above labels
    of columns alone.
    """
    draft = _without_paragraph(layout, draft)
    first = [c for c in draft.cells if c.row == 0]
    said = [c for c in first if c.words]
    if draft.origin >= 0 or draft.rows <= MIN_ROWS or len(said) != 1 or any(c.rowspan > 1 for c in first):
        return draft
    words = np.array([i for c in draft.cells if c.row for i in c.words], dtype=np.int64)
    title = said[0].words
    box = layout.box(np.array(title))
    if not len(words) or _is_ruled_above(layout, box):
        return draft
    text = plain_text(layout, title)
    names = bool(NAMED.match(text)) or _stands_out(layout, title, box, draft, words)
    ending = text[0].islower() and text[-1] == "."
    sentence = said[0].colspan == draft.columns and (ending or is_sentence(text))
    larger = layout.words.size[title].min() > LARGER * layout.words.size[words].max()
    apart = _stands_apart(layout, draft)
    below = _below(layout, draft, 1)
    text_above = sentence or larger or apart or _heads_page(layout, box, layout.box(words))
    if not (names or text_above or ends_name(layout, below)):
        return draft
    return replace(below, caption=title) if names else below


def _below(layout: PageLayout, draft: TableDraft, first: int) -> TableDraft:
    """A table from a row on, above which no cell reaches into it and in which there is text."""
    rest = [replace(c, row=c.row - first) for c in draft.cells if c.row >= first]
    top = float(layout.words.y0[[i for c in rest for i in c.words]].min())
    return replace(
        draft, box=replace(draft.box, y0=top), rows=draft.rows - first, cells=rest,
        header_rows=max(draft.header_rows - first, 0),
    )  # fmt: skip


def _without_paragraph(layout: PageLayout, draft: TableDraft) -> TableDraft:
    """A table without first rows above all rules of which the last one is the end of a sentence across all
    columns: the lines above it, which gaps between words cut into cells, are of the same paragraph.
    """
    if draft.origin >= 0:
        return draft
    for end in range(min(PARAGRAPH, draft.rows - MIN_ROWS), 1, -1):
        above = [c for c in draft.cells if c.row < end]
        last = [c for c in above if c.row == end - 1 and c.words]
        text_below = any(c.words for c in draft.cells if c.row >= end)
        if not text_below or any(c.row + c.rowspan > end for c in above):
            continue
        if len(last) != 1 or last[0].colspan < draft.columns:
            continue
        text = plain_text(layout, last[0].words)
        words = np.array([i for c in above for i in c.words])
        if text[0].islower() and text[-1] == "." and not _is_ruled_above(layout, layout.box(words)):
            rest = _below(layout, draft, end)
            rest.header_rows = header_rows(layout, rest, lines_in(layout, rest.box))
            return rest
    return draft


def without_text_below(layout: PageLayout, draft: TableDraft) -> TableDraft:
    """Return a table without a last row that is one text below all rules which names a table, its caption if
    it has no other, or is in larger type than all above it: the heading of what follows; or which stands
    across all columns right below the rule that closes it.
    """
    last = [c for c in draft.cells if c.row + c.rowspan == draft.rows]
    said = [c for c in last if c.words]
    if draft.origin >= 0 or draft.rows <= MIN_ROWS or len(said) != 1 or any(c.rowspan > 1 for c in last):
        return draft
    rest = [c for c in draft.cells if c not in last]
    words = np.array([i for c in rest for i in c.words], dtype=np.int64)
    text, size = plain_text(layout, said[0].words), layout.words.size
    names = bool(NAMED.match(text))
    larger = len(words) and size[said[0].words].min() > LARGER * size[words].max()
    box = layout.box(np.array(said[0].words))
    whole = len(words) and said[0].colspan == draft.columns
    # What is short and begins as the stub does may be the label of a group that goes on elsewhere.
    label = len(words) and box.x0 < layout.words.x0[words].min() + layout.em
    whole = whole and (len(said[0].words) >= PROSE or not label)
    other = names or larger or (whole and _is_closed(layout, words, draft, box))
    if not len(words) or not other or _is_ruled_below(layout, box):
        return draft
    bottom = float(layout.words.y1[words].max())
    caption = said[0].words if names and not draft.caption else draft.caption
    return replace(
        draft, box=replace(draft.box, y1=bottom), rows=draft.rows - 1, cells=rest, caption=caption,
        header_rows=min(draft.header_rows, draft.rows - 1),
    )  # fmt: skip


def _stands_out(layout: PageLayout, title: list[int], box: Box, draft: TableDraft, rest: Ints) -> bool:
    """Whether a text alone is in italics, at an edge of a table or over its middle."""
    em, whole = layout.em, layout.ruled_box(draft.box)
    left, right = box.x0 - whole.x0, whole.x1 - box.x1
    placed = min(abs(left), abs(right)) < PLACED * em or abs(left - right) < 2 * PLACED * em
    italic = np.array([f.italic for f in layout.ink.fonts], dtype=np.bool_)[layout.words.font]
    return bool(placed and italic[title].all() and not italic[rest].any())


def _stands_apart(layout: PageLayout, draft: TableDraft) -> bool:
    """Whether the first row of a table stands in the stub, above labels without stub, farther from these than
    they are from the row below.
    """
    tops, feet = row_extents(layout, draft)
    below = [c for c in draft.cells if c.row == 1 and c.words]
    at_stub = any(c.row == 0 and c.column == 0 and c.colspan == 1 for c in draft.cells if c.words)
    rooms = tops[1:] - np.maximum.accumulate(feet)[:-1]
    labels = bool(below) and all(c.column > 0 for c in below)
    return at_stub and labels and bool(rooms[0] > rooms[1] + FARTHER * layout.em)


def _heads_page(layout: PageLayout, box: Box, rest: Box) -> bool:
    """Whether a text is the first one of its page, and rules of the table begin between it and the rest, or
    shading where it stands where no label of the table would.
    """
    w, em, level, upright = layout.words, layout.em, layout.rules.level, layout.rules.upright
    if box.y1 > MARGIN * layout.height or (w.y1[~w.turned] < box.y0).any():
        return False
    low, high = box.y1 - BEGIN * em, rest.y0 + BEGIN * em
    ruled = (level.at > low) & (level.at < high) & (level.low < rest.x0 + em) & (level.high > rest.x1 - em)
    sides = (
        (upright.low > low) & (upright.low < high) & (upright.at > rest.x0 - em) & (upright.at < rest.x1 + em)
    )
    # The shading of every second row begins below a label of the table as well.
    shades, off = layout.rules.shades, ELSEWHERE * em
    shaded = (shades.y0 > low) & (shades.y0 < high) & (shades.x0 < rest.x1) & (shades.x1 > rest.x0)
    elsewhere = min(abs(box.x0 - rest.x0), abs(box.x0 + box.x1 - rest.x0 - rest.x1) / 2) > off
    return bool(ruled.any() or sides.any() or (shaded.any() and elsewhere))


def _is_ruled_above(layout: PageLayout, box: Box) -> bool:
    """Whether a rule, or shading, begins above a text or runs behind it."""
    level, shades, em = layout.rules.level, layout.rules.shades, layout.em
    rules = (
        (level.at > box.y0 - CLEAR * em) & (level.at < box.y1) & (level.low < box.x1) & (level.high > box.x0)
    )
    behind = (shades.y0 < box.y1) & (shades.y1 > box.y0) & (shades.x0 < box.x1) & (shades.x1 > box.x0)
    return bool(rules.any() or (behind & (shades.y0 < (box.y0 + box.y1) / 2)).any())


def _is_closed(layout: PageLayout, rest: Ints, draft: TableDraft, text: Box) -> bool:
    """Whether a rule along the rest of a table runs right above the text of its last row, and another above
    it, or between all rows.
    """
    w, level, em = layout.words, layout.rules.level, layout.em
    along = (level.low < w.x0[rest].min() + em) & (level.high > w.x1[rest].max() - em)
    near = (level.at > draft.box.y0 - CLEAR * em) & (level.at < text.y0 + BEGIN * em)
    at = np.sort(level.at[along & near])
    middles = [
        float((w.y0[words].min() + w.y1[words].max()) / 2)
        for _, cells in sorted(cells_by_row(draft).items())
        if len(words := [i for c in cells for i in c.words])
    ]
    below = np.searchsorted(at, middles)
    closed = below[-1] > below[-2]
    return bool(closed and (below[0] > 0 or (np.diff(below) > 0).all()))


def _is_ruled_below(layout: PageLayout, box: Box) -> bool:
    """Whether a rule runs below a text."""
    level, em = layout.rules.level, layout.em
    rules = (
        (level.at > box.y0) & (level.at < box.y1 + CLEAR * em) & (level.low < box.x1) & (level.high > box.x0)
    )
    return bool(rules.any())
