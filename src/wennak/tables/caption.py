"""Captions of tables: the lines right above or below that name them."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Sequence
from itertools import pairwise

import numpy as np

from ..ink import Bools, median
from ..layout import CAPTION, PageLayout, figure_boxes
from ..model import Box
from .draft import TableDraft
from .margins import MARGIN, margin_words
from .rows import Row, rows_of

NAMED = re.compile(
    r"^(?i:table|tab\.|tableau|tabelle|tabla|tabela|tabella|tabel|taulukko|tabell|таблица|πίνακας|exhibit|"
    r"schedule|list|表)\s*"
    r"(\d|[IVX]+\b|[A-Z]\b|[A-Z][.-]?\d|$)"
)
# Other words with a number name a table where they stand right beside it, unless they name parts of the text.
_NUMBERED = re.compile(r"^([^\W\d_]{3,})\.?\s(\d+(?:[.-]\d+)*|[IVX]+|[A-Z])\s?[.:–—-]\s+(?=\S)")
_PARTS_OF_TEXT = re.compile(
    r"(?i:chapter|section|part|step|appendix|annex|article|note|question|example|page|kapitel|abschnitt|teil|"
    r"schritt|anhang|artikel|beispiel|chapitre|étape|annexe|partie|глава|раздел|часть|приложение|пункт)$"
)
# A sentence about a table goes on in small letters behind its number.
_SAYS = re.compile(r"^[^\W\d_]+\.?\s*[\dA-Z][\w.-]*\s(?=[^\W\d_])[^A-ZÀ-ÞΑ-ΫА-Я]")
# The letter or sign of a note.
_NOTED = re.compile(r"^(?:[a-z]|[*†‡§¶]+)\s+[^\W\d_a-z]")
# A caption stands at most this far (em) from its table, a line that names it so far where nothing is between,
# and runs over at most so many lines.
REACH = 3.0
NAMED_REACH = 5.0
MAX_LINES = 4
# Its lines below a table follow each other within this (em), in one font.
LINE_ROOM = 0.6
# A line that is a caption by its place alone stands this near (em) and has at most so many words.
TITLE_REACH = 1.0
# One in italics or smaller than this (em), or that a number tells from text, may stand so far away (em).
SMALLER = 0.95
STYLED_REACH = 2.0
# Other text stands farther from it than the table by this factor; where it is set otherwise than text, at
# least as far as this share; and so much farther where it stands farther from its table than most do.
APART, STYLED_APART, FAR_APART = 1.3, 0.6, 2.5
TITLE_WORDS = 14
# What no title ends with.
ENDS = ".:;,"
# Lines with so many words show how large text is.
TEXT_WORDS = 8
# A line that goes on in the next takes at least this share of the width of its table.
FULL = 0.5
SECTION = re.compile(r"^\d+(\.\d+)*\.?\s|^[•●▪–—-]")
# How the caption of a table is sought among the words that are not taken: its words.
Finder = Callable[[PageLayout, TableDraft, Bools], list[int]]


def names_table(text: str) -> bool:
    """Return whether a line reads as the name of a table: by any word with a number that names no part of the
    text.
    """
    named = _NUMBERED.match(text)
    return bool(NAMED.match(text)) or bool(named and not _PARTS_OF_TEXT.match(named[1]))


def attach_captions(layout: PageLayout, drafts: list[TableDraft]) -> None:
    """Find the caption of each table among the words that are in no table.

    A line that names the table ("Table 3 ...") is sought first, above and below; else a short line right
    above the table, nearer to it than to what stands above, is its caption.
    """
    if not drafts:
        return
    taken = np.zeros(len(layout.words), dtype=np.bool_)
    for draft in drafts:
        taken[draft.word_indices()] = True
    # A line between two tables may name either: on one page all stand above, or all below.
    named = [
        _found(layout, drafts, taken, order)
        for order in ((_named_above, _named_below), (_named_below, _named_above))
    ]
    apart = [sum(_apart(layout, drafts[k], words) for k, words in found.items()) for found in named]
    below_first = (len(named[1]), -apart[1]) > (len(named[0]), -apart[0])
    for k, words in named[below_first].items():
        drafts[k].caption = words
        taken[words] = True
    # Running heads are titles of no table, nor are the names of figures.
    taken |= margin_words(layout)
    taken[_naming_figures(layout, [layout.ruled_box(draft.box) for draft in drafts], taken)] = True
    for k, words in _found(layout, drafts, taken, (_numbered, _title_above, _title_below)).items():
        drafts[k].caption = words


def _naming_figures(layout: PageLayout, tables: Sequence[Box], taken: Bools) -> list[int]:
    """The words of lines that name a figure, right above or below one."""
    figures = figure_boxes(layout, tables)
    lines = rows_of(layout, np.flatnonzero(~taken)) if figures else []
    return [
        i
        for row in lines
        if CAPTION.match(text := _text(layout, row)) and not NAMED.match(text)
        if any(
            abs(_room(figure, row)) < NAMED_REACH * layout.em and row.x0 < figure.x1 and row.x1 > figure.x0
            for figure in figures
        )
        for i in row.words
    ]


def _found(
    layout: PageLayout, drafts: Sequence[TableDraft], taken: Bools, order: Sequence[Finder]
) -> dict[int, list[int]]:
    """The captions that tables without one get, sought in this order, by the number of the table."""
    taken = taken.copy()
    found: dict[int, list[int]] = {}
    for find in order:
        for k, draft in enumerate(drafts):
            if not draft.caption and k not in found and (words := find(layout, draft, taken)):
                found[k] = words
                taken[words] = True
    return found


def ends_name(layout: PageLayout, draft: TableDraft) -> bool:
    """Return whether the line right above a table is the last one of a name that begins above it: each of its
    lines but the last is full.
    """
    rows = _rows_beside(layout, draft, above=True)
    for further, line in pairwise([*rows[:1], *_further_lines(layout, rows)]):
        if _has_room(layout, draft, line, further):
            return False
        if NAMED.match(_text(layout, line)):
            return True
    return False


def _has_room(layout: PageLayout, draft: TableDraft, line: Row, further: Row) -> bool:
    """Whether the first word of a further line had room in the line before it: within the sides of a table,
    or where it stands out of these, in its column of text.
    """
    w, em, box = layout.words, layout.em, layout.ruled_box(draft.box)
    width = box.x1 - box.x0
    if line.x0 < box.x0 - em or line.x1 > box.x1 + em:
        width = max((z.x1 - z.x0 for z in layout.zones if line.words[0] in z.members), default=width)
    first = further.words[0]
    return line.x1 - line.x0 + float(w.x1[first] - w.x0[first]) < width


def _apart(layout: PageLayout, draft: TableDraft, words: list[int]) -> float:
    """The room between a table and its caption, in points."""
    return _room(draft.box, layout.box(np.array(words)))


def _rows_beside(layout: PageLayout, draft: TableDraft, above: bool, wide: bool = False) -> list[Row]:
    """Rows above or below a table within reach, the nearest first; `wide`: also those left and right."""
    w, em, box = layout.words, layout.em, draft.box
    middle = (w.y0 + w.y1) / 2
    span = MAX_LINES * 1.5 * em + NAMED_REACH * em
    low, high = (box.y0 - span, box.y0) if above else (box.y1, box.y1 + span)
    near = (middle > low) & (middle < high) & ~w.turned
    # Columns of text beside the table are in zones of their own.
    beside = np.zeros(len(w), dtype=np.bool_)
    for zone in layout.zones:
        m = zone.members
        if len(m) and w.x1[m].max() > box.x0 and w.x0[m].min() < box.x1:
            beside[m] = True
    rows = rows_of(layout, np.flatnonzero(near & beside))
    if not wide:
        rows = [r for r in rows if r.x1 > box.x0 - 2 * em and r.x0 < box.x1 + 2 * em]
    return rows[::-1] if above else rows


def _named_above(layout: PageLayout, draft: TableDraft, taken: Bools) -> list[int]:
    found: list[list[int]] = []
    edge = draft.box.y0
    # A table in the middle of the page may have its caption at the left edge of the text.
    for whole in _rows_beside(layout, draft, above=True, wide=True)[:MAX_LINES]:
        row = _own_part(layout, whole, draft.box) or whole
        named = bool(NAMED.match(_text(layout, row)))
        reach = 1.0 if found else NAMED_REACH if named else REACH
        if edge - row.y1 > reach * layout.em or taken[row.words].any():
            break
        edge = row.y0
        if not named and len(row.spans) > 1:
            # Texts beside each other are no line of a name.
            continue
        found.insert(0, row.words)
        if named:
            words = [i for words in found for i in words]
            said = " ".join(layout.words.texts[i] for i in words)
            return [] if _SAYS.match(said) and said[-1] in ENDS else words
    return []


def _named_below(layout: PageLayout, draft: TableDraft, taken: Bools) -> list[int]:
    found: list[Row] = []
    edge, font = draft.box.y1, layout.words.font
    for whole in _rows_beside(layout, draft, above=False):
        row = _own_part(layout, whole, draft.box) or whole
        if row.y0 - edge > (REACH if not found else LINE_ROOM) * layout.em or taken[row.words].any():
            break
        if found and (
            font[row.words[0]] != font[found[-1].words[-1]] or _is_note(layout, draft, row, found[-1])
        ):
            break
        edge = row.y1
        if found or NAMED.match(_text(layout, row)):
            found.append(row)
        elif not layout.words.lead[row.words[0]]:
            # Notes alone may stand between a table and its name.
            break
        if len(found) == MAX_LINES:
            break
    return [i for row in found for i in row.words]


def _is_note(layout: PageLayout, draft: TableDraft, row: Row, above: Row) -> bool:
    """Whether a line below one of a name is a note: it has the letter of one, or a sentence ends above it,
    and its first word had room there.
    """
    begins = bool(_NOTED.match(_text(layout, row))) or _text(layout, above)[-1] == "."
    return begins and _has_room(layout, draft, above, row)


def _numbered(layout: PageLayout, draft: TableDraft, taken: Bools) -> list[int]:
    """A line of its own right above or below the table that names it by some word and a number."""
    for above in (True, False):
        rows = _rows_beside(layout, draft, above)
        row = _own_part(layout, rows[0], draft.box) if rows else None
        if row is None or taken[row.words].any():
            continue
        named = _NUMBERED.match(_text(layout, row))
        near = _is_plain(layout, row, taken) and _room(draft.box, row) < STYLED_REACH * layout.em
        if named and near and not _PARTS_OF_TEXT.match(named[1]):
            return row.words
    return []


def _title_above(layout: PageLayout, draft: TableDraft, taken: Bools) -> list[int]:
    """A short line right above the table."""
    return _title(layout, draft, taken, above=True)


def _title_below(layout: PageLayout, draft: TableDraft, taken: Bools) -> list[int]:
    """A short line in italics right below the table."""
    return _title(layout, draft, taken, above=False)


def _title(layout: PageLayout, draft: TableDraft, taken: Bools, above: bool) -> list[int]:
    """Short lines beside the table, at one of its edges or over its middle, no larger than the text: one, or
    several that are set otherwise than text is.
    """
    em = layout.em
    rows = _rows_beside(layout, draft, above)
    row = _own_part(layout, rows[0], draft.box) if rows else None
    if row is None or taken[row.words].any() or not _is_plain(layout, row, taken):
        return []
    styled = _is_styled(layout, row, above)
    lines = [row, *_further_lines(layout, rows)] if styled else [row]
    room, beyond, factor = _room(draft.box, row), REACH * em, APART
    if len(rows) > len(lines):
        further = rows[len(lines)]
        beyond = _room(lines[-1], further)
        # Between two tables it is that of the nearer one; a sentence may be of the text.
        ended = _text(layout, row)[-1] in ENDS or taken[further.words].any()
        factor = APART if not styled else 1.0 if ended else STYLED_APART
    if not styled and room >= TITLE_REACH * em:
        factor = FAR_APART
    near = room < STYLED_REACH * em and beyond > max(factor * room, 0.6 * em)
    if above:
        lines.reverse()
    # A sentence below a table says something of it, or goes on with the text.
    named = styled and _text(layout, lines[-1])[-1] not in ENDS
    if near and (named or above) and _is_title(layout, lines, layout.ruled_box(draft.box), styled):
        return [i for line in lines for i in line.words]
    return []


def _further_lines(layout: PageLayout, rows: Sequence[Row]) -> Iterator[Row]:
    """The rows behind the first that follow without room, in its font."""
    font = layout.words.font
    for row, further in pairwise(rows[:MAX_LINES]):
        if _room(row, further) > LINE_ROOM * layout.em or font[further.words[0]] != font[row.words[0]]:
            return
        yield further


def _room(a: Row | Box, b: Row | Box) -> float:
    """The height between two things above each other."""
    return max(a.y0 - b.y1, b.y0 - a.y1)


def _is_title(layout: PageLayout, lines: Sequence[Row], box: Box, styled: bool) -> bool:
    """Whether lines begin as a title does, are no sentence unless styled, and stand where that of a table
    does.
    """
    em, first = layout.em, lines[0].words[0]
    text = " ".join(_text(layout, line) for line in lines)
    if layout.words.lead[first] or not text[0].isalnum() or text[0].islower() or SECTION.match(text):
        return False
    if not styled and (len(lines[0].words) > TITLE_WORDS or text[-1] in ENDS):
        return False
    # All lines of a text but the last are full.
    if any(line.x1 - line.x0 < FULL * (box.x1 - box.x0) for line in lines[:-1]):
        return False
    single = all(len(line.spans) == 1 and line.x1 < box.x1 + 2 * em for line in lines)
    left, right = lines[0].x0 - box.x0, box.x1 - lines[0].x1
    return single and (min(abs(left), abs(right)) < em or abs(left - right) < 3 * em)


def _is_styled(layout: PageLayout, row: Row, above: bool) -> bool:
    """Whether a line is in italics, or above a table smaller than text, not at the head of the page."""
    w, fonts = layout.words, layout.ink.fonts
    if all(fonts[f].italic for f in w.font[row.words].tolist()):
        return True
    smaller = float(w.size[row.words].max()) < SMALLER * layout.em
    return (
        smaller and above and row.y0 > MARGIN * layout.height and not fonts[w.font[row.words[0]]].fixed_pitch
    )


def _own_part(layout: PageLayout, row: Row, box: Box) -> Row | None:
    """The part of a row that stands over or under a table, where others have theirs beside it; None where no
    part is the table's own.
    """
    room = 2 * layout.em
    over = [s for s in row.spans if s[1] > box.x0 and s[0] < box.x1]
    if len(over) != 1 or len(row.spans) == 1:
        return row if len(row.spans) == 1 else None
    x0, x1 = over[0]
    if x0 < box.x0 - room or x1 > box.x1 + room:
        return None
    x = layout.words.x0[row.words]
    own = [i for i, left in zip(row.words, x.tolist(), strict=True) if x0 <= left < x1]
    return rows_of(layout, np.array(own))[0]


def _is_plain(layout: PageLayout, row: Row, taken: Bools) -> bool:
    """Whether a line is no larger than the text of its page, or the lines of text that are not taken."""
    w = layout.words
    free = ~taken & ~w.turned
    text = free & (np.bincount(w.row[free], minlength=int(w.row.max()) + 1)[w.row] >= TEXT_WORDS)
    size = max(layout.em, median(w.size[text])) if text.any() else layout.em
    return float(w.size[row.words].max()) < 1.05 * size


def _text(layout: PageLayout, row: Row) -> str:
    return " ".join(layout.words.texts[i] for i in row.words)
