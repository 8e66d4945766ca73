"""What every method returns: a table as cells that hold words of the page."""

from __future__ import annotations

import re
from collections.abc import Container, Iterable, Sequence
from dataclasses import dataclass, field, fields, replace
from itertools import pairwise
from operator import attrgetter

import numpy as np

from ..ink import Floats, Ints, distinct
from ..layout import PageLayout
from ..layout.bidi import logical
from ..layout.joining import MARKER, compound_words, join_lines
from ..layout.page import rounded_boxes
from ..model import Box, Cell, Mark, Place, Table
from .broken import broken_words
from .numbers import CURRENCIES

# The blank between a sign that stands apart and the minus of its number.
_BEFORE_MINUS = re.compile(r"^(\D{1,3}) (?=[-−–—])")
# A sign stands apart when it is farther from its number than this (em).
SIGN_APART = 0.6
# What a text does not end with.
_OPEN = frozenset(",(-–—/&")


@dataclass(slots=True)
class CellDraft:
    """A cell: first row and column, extent, and the indices of its words in reading order; `element` is the
    structure element that it is, -1 for none; `signed`: a sign that stands apart belongs to its number;
    `said` is what it says where no word of the page does.
    """

    row: int
    column: int
    rowspan: int
    colspan: int
    words: list[int]
    element: int = -1
    signed: bool = False
    said: str = ""


# All fields of a cell: `replace` takes its time to find out what they are.
_ALL = attrgetter(*(f.name for f in fields(CellDraft)))


@dataclass(slots=True)
class TableDraft:
    """A table on one page as a method reads it. `box` is that of its grid, `caption` holds word indices.

    `origin` and `row_elements` are the structure elements that the table and its rows are, where the method
    goes by them. `drawn` tells that its cells are faces of crossing lines.
    `alternatives` are other readings of the same place; `own` is how this program reads it, where a service
    was asked and its answer taken. `gain` is what the judge said of this one, 0..1, `rival` how much less it
    said of the best other one, and `seen` what it went by (FEATURES); nothing where it was not asked.
    `agreed` tells of each word of the page how far other readings put it where this one does (2, words).
    """

    box: Box
    rows: int
    columns: int
    cells: list[CellDraft]
    method: str
    header_rows: int = 0
    caption: list[int] = field(default_factory=list)
    column_edges: list[float] = field(default_factory=list)
    origin: int = -1
    row_elements: list[int] = field(default_factory=list)
    drawn: bool = False
    alternatives: list[TableDraft] = field(default_factory=list)
    own: TableDraft | None = None
    gain: float = 1.0
    rival: float = 1.0
    seen: Floats = field(default_factory=lambda: np.empty(0))
    agreed: Floats = field(default_factory=lambda: np.empty((2, 0)))

    def copy(self) -> TableDraft:
        """Return the same grid with cells of its own."""
        return replace(self, cells=[CellDraft(*_ALL(cell)) for cell in self.cells])

    def word_indices(self) -> Ints:
        """Return the indices of all words in the cells and the caption."""
        inside = [w for cell in self.cells for w in cell.words]
        return distinct(np.array([*inside, *self.caption], dtype=np.int64))


def cells_by_row(draft: TableDraft) -> dict[int, list[CellDraft]]:
    """Return the cells with text that begin in each row that has some, in the order of `draft.cells`."""
    rows: dict[int, list[CellDraft]] = {}
    for c in draft.cells:
        if c.words:
            rows.setdefault(c.row, []).append(c)
    return rows


def columns_of(cells: Iterable[CellDraft]) -> set[int]:
    """Return the columns that some cells are in."""
    return {k for c in cells for k in range(c.column, c.column + c.colspan)}


def columns_off(
    above: Sequence[tuple[float, float] | None], below: Sequence[tuple[float, float] | None], shift: float
) -> list[float]:
    """Return how far the texts of each column of two tables, the second so far right of the first, are from
    beginning, ending or having their middle at one place; columns without text in either are left out.
    """
    pairs = [(a, b) for a, b in zip(above, below, strict=True) if a and b]
    return [
        min(abs(a[0] - b[0] + shift), abs(a[1] - b[1] + shift), abs(sum(a) - sum(b) + 2 * shift) / 2)
        for a, b in pairs
    ]


def goes_on(above: str, text: str) -> bool:
    """Return whether a text may be the rest of the one above it: it begins small, or that has no end."""
    return text[:1].islower() or above[-1:] in _OPEN


def bands(layout: PageLayout, draft: TableDraft, lines: Sequence[float]) -> Ints:
    """Return how many of some level lines (their y) lie above the middle of each row; each row holds text."""
    tops, feet = row_extents(layout, draft)
    return np.searchsorted(np.asarray(lines, dtype=np.float64), (tops + feet) / 2)


def row_extents(layout: PageLayout, draft: TableDraft) -> tuple[Floats, Floats]:
    """Return where the text that begins in each row has its top, infinite where there is none, and where the
    text that ends there has its foot, infinite downwards.
    """
    w = layout.words
    tops, feet = np.full(draft.rows, np.inf), np.full(draft.rows, -np.inf)
    held = [(c.row, c.row + c.rowspan - 1, len(c.words)) for c in draft.cells]
    first, last, counts = np.array(held, dtype=np.int64).reshape(-1, 3).T
    index = np.array([i for c in draft.cells for i in c.words], dtype=np.int64)
    np.minimum.at(tops, np.repeat(first, counts), w.y0[index])
    np.maximum.at(feet, np.repeat(last, counts), w.y1[index])
    return tops, feet


def fonts_of(layout: PageLayout, words: Sequence[int]) -> frozenset[tuple[str, int]]:
    """Return the fonts of some words, by name and half points."""
    w = layout.words
    found = set(zip(w.font[words].tolist(), np.round(2 * w.size[words]).tolist(), strict=True))
    return frozenset((layout.ink.fonts[font].name, int(size)) for font, size in found)


def text_columns(
    layout: PageLayout, draft: TableDraft, first_row: int = 0
) -> list[tuple[float, float] | None]:
    """Return left and right of the text in each column, of cells in one column from a row on; None where
    there is none.
    """
    cells = [c for c in draft.cells if c.colspan == 1 and c.words and c.row >= first_row]
    if not cells:
        return [None] * draft.columns
    w = layout.words
    index = np.array([i for c in cells for i in c.words], dtype=np.int64)
    column = np.repeat([c.column for c in cells], [len(c.words) for c in cells])
    left, right = np.full(draft.columns, np.inf), np.full(draft.columns, -np.inf)
    np.minimum.at(left, column, w.x0[index])
    np.maximum.at(right, column, w.x1[index])
    sides = zip(left.tolist(), right.tolist(), strict=True)
    return [(a, b) if a <= b else None for a, b in sides]


def plain_text(layout: PageLayout, members: Sequence[int]) -> str:
    """Return words with blanks between them, as they stand."""
    texts = layout.words.texts
    return texts[members[0]] if len(members) == 1 else " ".join([texts[i] for i in members])


def words_text(
    layout: PageLayout, members: list[int], broken: Container[int] = (), compounds: Container[str] = ()
) -> str:
    """Join words to text, row by row; a word broken at a line end is put together again: without a hyphen
    those that are `broken`, with it those among `compounds`.

    Items of a list, which begin with a mark each, stand on lines of their own.
    """
    if len(members) == 1:
        return logical(layout.words.texts[members[0]])
    rows: list[list[int]] = []
    texts: list[list[str]] = []
    last = None
    for i in members:
        row, text = int(layout.words.row[i]), layout.words.texts[i]
        if row == last:
            rows[-1].append(i)
            texts[-1].append(text)
        elif last is not None and rows[-1][-1] in broken:
            rows[-1].append(i)
            texts[-1][-1] += text
        else:
            rows.append([i])
            texts.append([text])
        last = row
    lines = [logical(" ".join(row)) for row in texts]
    starts = [k for k, row in enumerate(texts) if MARKER.match(row[0]) and len(row) > 1]
    if len(rows) > 1 and len(starts) < 2:
        # Bullets that are drawn, or that only the tags tell of, become characters.
        drawn = [k for k in range(len(rows)) if _begins_item(layout, rows, k)]
        for k in set(drawn) - set(starts):
            lines[k] = f"• {lines[k]}"
        starts = sorted({*starts, *drawn})
    if len(starts) < 2:
        return join_lines(lines, compounds)
    bounds = [0, *starts, len(lines)]
    return "\n".join(join_lines(lines[a:b], compounds) for a, b in pairwise(bounds) if a < b)


def script_marks(layout: PageLayout, members: Sequence[int], text: str) -> list[Mark]:
    """Return where superscripts and subscripts of words stand in the text that these became."""
    scripts, texts = layout.words.scripts, layout.words.texts
    if not scripts or scripts.keys().isdisjoint(members):
        return []
    out, at = [], 0
    for i in members:
        found = text.find(texts[i], at)
        if found < 0:
            # Broken at the end of a line, or read from right to left.
            continue
        for start, end, raised in scripts.get(i, ()):
            if end - start < len(texts[i]):
                out.append(Mark(found + start, found + end, "sup" if raised else "sub"))
        at = found + len(texts[i])
    return out


def _begins_item(layout: PageLayout, rows: list[list[int]], k: int) -> bool:
    first, tags = rows[k][0], layout.tags
    if tags is not None:
        block = int(tags.block[first])
        return tags.role(block) == "LI" and (k == 0 or block != tags.block[rows[k - 1][0]])
    w = layout.words
    box = Box(float(w.x0[first]), float(w.y0[first]), float(w.x1[first]), float(w.y1[first]))
    return layout.has_dot(box, float(w.size[first]))


def _places(layout: PageLayout, cells: list[CellDraft]) -> list[list[Place]]:
    """Where the words of each cell stand; nothing for an empty one."""
    filled = [c for c in cells if c.words]
    if not filled:
        return [[] for _ in cells]
    w = layout.words
    index = np.array([i for c in filled for i in c.words], dtype=np.int64)
    starts = np.cumsum([0, *(len(c.words) for c in filled[:-1])])
    sides = (
        np.minimum.reduceat(w.x0[index], starts), np.minimum.reduceat(w.y0[index], starts),
        np.maximum.reduceat(w.x1[index], starts), np.maximum.reduceat(w.y1[index], starts),
    )  # fmt: skip
    places = iter(layout.places(rounded_boxes(*sides)))
    return [[next(places)] if c.words else [] for c in cells]


def _sign_apart(layout: PageLayout, cell: CellDraft) -> bool:
    """Whether a cell begins with a sign that stands farther from its number than a blank."""
    w = layout.words
    if len(cell.words) < 2 or w.texts[cell.words[0]] not in CURRENCIES:
        return False
    sign, number = cell.words[:2]
    return bool(w.x0[number] - w.x1[sign] > SIGN_APART * w.size[number])


def _compounds(layout: PageLayout, draft: TableDraft) -> frozenset[str]:
    """The words with a hyphen within a line of a page, where lines of a table may break such words."""
    texts = layout.words.texts
    if not any(len(c.words) > 1 and any(texts[i][-1] == "-" for i in c.words[:-1]) for c in draft.cells):
        return frozenset()
    return compound_words(texts)


def finished(draft: TableDraft, layout: PageLayout, sure: Sequence[float] | None = None) -> Table:
    """Turn a draft into a table of the model; `sure` gives the confidence of each of its cells."""
    cells = []
    score = np.round(sure, 3).tolist() if sure is not None else [1.0] * len(draft.cells)
    order = sorted(range(len(draft.cells)), key=lambda k: (draft.cells[k].row, draft.cells[k].column))
    drafted = [draft.cells[k] for k in order]
    broken, compounds = broken_words(layout, draft.columns, draft.cells), _compounds(layout, draft)
    for k, c, places in zip(order, drafted, _places(layout, drafted), strict=True):
        header = c.row < draft.header_rows
        text = c.said or words_text(layout, c.words, broken, compounds)
        if c.signed or _sign_apart(layout, c):
            text = _BEFORE_MINUS.sub(r"\1", text)
        if text or c.rowspan > 1 or c.colspan > 1 or header:
            marks = [] if c.said else script_marks(layout, c.words, text)
            cells.append(
                Cell(c.row, c.column, text, c.rowspan, c.colspan, header, places, score[k], marks=marks)
            )
    box = draft.box
    if draft.caption:
        box = Box.around([box, layout.box(np.array(draft.caption))])
    return Table(
        rows=draft.rows,
        columns=draft.columns,
        cells=cells,
        caption=words_text(layout, draft.caption),
        header_rows=draft.header_rows,
        method=draft.method,
        confidence=round(sum(c.confidence for c in cells) / len(cells), 3) if cells else 0.0,
        places=[layout.place(box)],
    )
