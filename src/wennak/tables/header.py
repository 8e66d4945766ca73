"""Which rows at the top of a table are column headers."""

from __future__ import annotations

import re
from collections.abc import Sequence
from itertools import pairwise

import numpy as np

from ..layout import PageLayout
from .draft import TableDraft, cells_by_row, columns_of, plain_text, row_extents
from .numbers import YEAR, is_numeric

MAX_HEADER = 4
# A font of a header is used for no more than this share of the words below it.
OTHER_FONT = 0.1
# Labels of a group are set in by at least this (em) from the label that heads it.
INDENT = 0.5
# Labels of groups begin, or have their middles, within this (em).
SAME_PLACE = 0.3
# Digits, and a sign between some.
_DIGITS, _SIGNED = re.compile(r"\d"), re.compile(r"\d[.,:/-]\d")
# A number and its unit; a unit in brackets.
_QUANTITY = re.compile(r"\d[\d.,]*\s[^\d\s]+")
_UNIT = re.compile(r"[(\[][^\d()\[\]]{1,8}[)\]]")
# What only values end with.
DECIMALS = re.compile(r"\d[.,]\d+\W*$")


def header_rows(layout: PageLayout, draft: TableDraft, lines: Sequence[float] = ()) -> int:
    """Return the number of header rows, judged by level lines, weight of type and kind of content."""
    if draft.rows < 2 or _is_form(layout, draft):
        return 0
    tops, bottoms = (ends.tolist() for ends in row_extents(layout, draft))
    ruled = [k for k in range(1, draft.rows) if any(bottoms[k - 1] - 1 <= y <= tops[k] + 1 for y in lines)]
    # Lines between all rows say nothing about the header; few of them do.
    few = len(lines) < 0.6 * (draft.rows - 1)
    by_line = ruled[0] if few and ruled and ruled[0] <= MAX_HEADER and not _are_even(ruled) else 0
    if by_line > 1 and _has_decimals(layout, draft):
        # It parts groups of rows.
        by_line = 0
    bold = _bold_rows(layout, draft) or _rows_in_another_font(layout, draft)
    count = by_line or bold or int(_numeric_body(layout, draft))
    if count < 2 and not by_line and _heads_rows(layout, draft, 0):
        return 0
    if count < 2 and draft.rows > 2 and _heads_groups(draft) and (count or not _has_decimals(layout, draft)):
        count = 2
    # Below values nothing heads them.
    count = next((row for row in range(1, count) if _holds_values(layout, draft, row)), count)
    while count > 1 and any(
        is_none(layout, draft, count - 1) for is_none in (_heads_indented, _heads_rows, _goes_on_below)
    ):
        count -= 1
    count += bool(count) and _holds_units(layout, draft, count)
    return _spanned(draft, count) if count else 0


def _is_form(layout: PageLayout, draft: TableDraft) -> bool:
    """Whether a table holds what is said to labels, the first one too: they end with a colon, or it is a
    quantity with its unit in a column that is not of numbers.
    """
    if draft.columns != 2:
        return False
    labels, said = (
        {c.row: plain_text(layout, c.words) for c in draft.cells if c.column == column and c.words}
        for column in (0, 1)
    )
    colons = len(labels) == draft.rows and all(text.endswith(":") for text in labels.values())
    measured = _QUANTITY.fullmatch(said.get(0, "")) is not None
    return colons or (measured and sum(map(is_numeric, said.values())) < len(said) / 2)


def _are_even(ruled: Sequence[int]) -> bool:
    """Whether lines below some rows stand below every second row, or every third, and so on."""
    return len(ruled) > 2 and ruled[0] > 1 and {b - a for a, b in pairwise(ruled)} == {ruled[0]}


def _heads_groups(draft: TableDraft) -> bool:
    """Whether the first row has much fewer cells than the second, and not one over each of the last columns,
    or stands with labels of several columns over all of the second: it heads groups.
    """
    wide = [c for c in draft.cells if c.words and c.row == 0 and c.column and c.colspan > 1]
    over = {column for c in wide for column in range(c.column, c.column + c.colspan)}
    first, second = ({c.column for c in draft.cells if c.words and c.row == r} for r in (0, 1))
    if first == set(range(draft.columns - len(first), draft.columns)):
        return False
    # A label with nothing below it may be one at mid height of both rows.
    both = first & second
    return bool(second) and (second <= over or 0 < len(both) < min(0.7 * len(second), len(second) - 1))


def _has_decimals(layout: PageLayout, draft: TableDraft) -> bool:
    """Whether any cell of the first row is a value."""
    first = (plain_text(layout, c.words) for c in draft.cells if c.row == 0 and c.words)
    return any(is_numeric(text) and DECIMALS.search(text) for text in first)


def _heads_indented(layout: PageLayout, draft: TableDraft, row: int) -> bool:
    """Whether a row holds nothing but a label, and the label below it is set in: it heads a group of rows."""
    here, below = ([c for c in draft.cells if c.row == r and c.words] for r in (row, row + 1))
    labels = [c for c in below if c.column == 0]
    if len(here) != 1 or here[0].column or not labels:
        return False
    w = layout.words
    return float(w.x0[labels[0].words].min() - w.x0[here[0].words].min()) > INDENT * layout.em


def _heads_rows(layout: PageLayout, draft: TableDraft, row: int) -> bool:
    """Whether a row holds nothing but a label, as one below it does that begins or has its middle there:
    they head groups of rows.
    """
    w = layout.words
    rows = sorted(cells_by_row(draft).items())
    lone = [cells[0] for r, cells in rows if len(cells) == 1 and r >= row]
    ends = [(float(w.x0[c.words].min()), float(w.x1[c.words].max())) for c in lone]
    if not lone or lone[0].row != row:
        return False
    (x0, x1), near = ends[0], SAME_PLACE * layout.em
    return any(min(abs(a - x0), abs(a + b - x0 - x1) / 2) < near for a, b in ends[1:])


def _holds_values(layout: PageLayout, draft: TableDraft, row: int) -> bool:
    """Whether a row holds decimals below labels of the first row that are of their columns alone, or any
    number but a year beside a label that stands below that of the stub: the line below it parts groups of
    rows.
    """
    first, own = (
        {
            c.column: plain_text(layout, c.words)
            for c in draft.cells
            if c.row == r and c.words and c.colspan == 1
        }
        for r in (0, row)
    )
    labelled = {column for column, text in first.items() if not is_numeric(text)}
    beside = 0 in labelled and 0 in own and not is_numeric(own[0])
    return any(
        is_numeric(text)
        and (DECIMALS.search(text) or (beside and text[-1:].isdigit() and not YEAR.fullmatch(text)))
        for column, text in own.items()
        if column and column in labelled
    )


def _holds_units(layout: PageLayout, draft: TableDraft, row: int) -> bool:
    """Whether a row holds nothing but units in brackets, in several columns and not beside a label."""
    texts = {c.column: plain_text(layout, c.words) for c in draft.cells if c.row == row and c.words}
    return len(texts) > 1 and 0 not in texts and all(map(_UNIT.fullmatch, texts.values()))


def _goes_on_below(layout: PageLayout, draft: TableDraft, row: int) -> bool:
    """Whether values of a row, in most of its columns, are written as those right below: times, say, of the
    same digits and signs. Numbers without a sign, such as years, may be labels of columns of such.
    """
    here, below = (
        {
            c.column: _DIGITS.sub("0", plain_text(layout, c.words))
            for c in draft.cells
            if c.row == r and c.words and c.colspan == 1
        }
        for r in (row, row + 1)
    )
    same = sum(
        _SIGNED.search(text) is not None and below.get(column) == text for column, text in here.items()
    )
    return same > 0.5 * (len(here) - (0 in here))


def _spanned(draft: TableDraft, count: int) -> int:
    """Extend the header over rows that its cells span."""
    return min(
        max([count, *(c.row + c.rowspan for c in draft.cells if c.row < count)]), max(count, draft.rows - 1)
    )


def _bold_rows(layout: PageLayout, draft: TableDraft) -> int:
    """Number of leading rows set all bold where the body is not."""
    is_bold = np.array([f.bold for f in layout.ink.fonts], dtype=np.bool_)[layout.words.font].tolist()
    bold = [[0, 0] for _ in range(draft.rows)]
    for c in draft.cells:
        bold[c.row][0] += sum(is_bold[i] for i in c.words)
        bold[c.row][1] += len(c.words)
    heads = 0
    while heads < min(MAX_HEADER, draft.rows - 1) and bold[heads][1] and bold[heads][0] == bold[heads][1]:
        heads += 1
    body = bold[heads:]
    share = sum(b for b, _ in body) / max(1, sum(n for _, n in body))
    return heads if share < 0.6 else 0


def _rows_in_another_font(layout: PageLayout, draft: TableDraft) -> int:
    """Number of leading rows set in fonts that the rows below them hardly use: italic, or another family."""
    names = [f.name for f in layout.ink.fonts]
    family = np.array([names.index(name) for name in names], dtype=np.int64)
    words = np.array([i for c in draft.cells for i in c.words], dtype=np.int64)
    row = np.repeat([c.row for c in draft.cells], [len(c.words) for c in draft.cells])
    counts = np.zeros((draft.rows, len(names)), dtype=np.int64)
    np.add.at(counts, (row, family[layout.words.font[words]]), 1)
    for heads in range(min(MAX_HEADER, draft.rows - 1), 0, -1):
        own, body = counts[:heads].sum(axis=0), counts[heads:].sum(axis=0)
        rare = (body[own > 0] <= OTHER_FONT * body.sum()).all()
        if rare and counts[:heads].any(axis=1).all() and body.sum() >= own.sum():
            return heads
    return 0


def _numeric_body(layout: PageLayout, draft: TableDraft) -> bool:
    """Whether some column holds numbers below a first row that holds none; a year over other numbers is
    none.
    """
    columns = range(draft.columns)
    numeric, years, total = ([0 for _ in columns] for _ in range(3))
    dated: set[int] = set()
    for c in draft.cells:
        if not c.words:
            continue
        text = plain_text(layout, c.words)
        is_number, is_year = is_numeric(text), YEAR.fullmatch(text) is not None
        if c.row == 0 and is_number and not is_year:
            return False
        if c.row == 0 and is_year:
            dated.update(columns_of([c]))
        elif c.row and c.colspan == 1:
            numeric[c.column] += is_number
            years[c.column] += is_year
            total[c.column] += 1
    if any(years[k] for k in dated):
        return False
    return any(total[k] >= 2 and numeric[k] >= 0.7 * total[k] for k in columns)
