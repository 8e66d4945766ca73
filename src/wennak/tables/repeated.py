"""Heads that a table repeats on its next page."""

from __future__ import annotations

import re
from collections.abc import Sequence

from rapidfuzz import fuzz

from ..model import Cell, Table
from .header import MAX_HEADER

# Words that were recognised from two pictures are the same where so many percent of their letters agree, and
# all digits do; each word of so many letters or more is as like one of the others.
ALIKE, LONG = 80.0, 5
_DIGIT = re.compile(r"\d")


def repeats_head(a: Table, b: Table, picture: bool = False) -> bool:
    """Whether rows at the top of b say what the header of a says, however they are parted into cells; of a
    `picture`, letters of it may be misread.
    """
    return repeated_rows(a, b, picture) is not None


def repeated_rows(a: Table, b: Table, picture: bool = False) -> tuple[int, int] | None:
    """Past the last row of a's header that the rows at the top of b repeat, word by word, and the number of
    these: all of the header may stand there in more or fewer rows.
    """
    said, new = row_words(a), row_words(b)
    for rows in range(min(b.rows - 1, MAX_HEADER), 0, -1):
        words = sum(map(len, new[:rows]))
        beside = any(c.row < rows and c.column and c.text for c in b.cells)
        # A single word over the labels of rows may head a group as well.
        if words < 2 and not (words and (beside or rows == b.header_rows)):
            continue
        for first in range(max(a.header_rows - rows, 0) + 1 if rows <= a.rows else 0):
            there = said[first : first + rows]
            if len(there) == rows and all(are_same(x, y, picture) for x, y in zip(there, new, strict=False)):
                return first + rows, rows
        if a.header_rows and are_same(_flat(said[: a.header_rows]), _flat(new[:rows]), picture):
            return a.header_rows, rows
    # One of them may lack the labels of groups.
    labels = [[text for c in table.cells if _is_lowest(table, c) and (text := c.text)] for table in (a, b)]
    same = len(labels[0]) > 1 and are_same(labels[0], labels[1], picture)
    return (a.header_rows, b.header_rows) if same else None


def are_same(a: Sequence[str], b: Sequence[str], picture: bool) -> bool:
    """Whether words are the same, in whatever order; of a `picture`, in the same one, where letters may be
    misread.
    """
    if sorted(a) == sorted(b):
        return True
    one, other = " ".join(a), " ".join(b)
    if not picture or _DIGIT.findall(one) != _DIGIT.findall(other) or fuzz.ratio(one, other) < ALIKE:
        return False
    return _are_among(one.split(), other.split()) and _are_among(other.split(), one.split())


def _are_among(words: Sequence[str], others: Sequence[str]) -> bool:
    """Whether each long word is much like one of the others."""
    long = (word for word in words if len(word) >= LONG)
    return all(any(fuzz.ratio(word, other) >= ALIKE for other in others) for word in long)


def row_words(table: Table) -> list[list[str]]:
    """The words of the cells that begin in each of the first rows, however they are parted into cells."""
    words: list[list[str]] = [[] for _ in range(min(table.rows, 2 * MAX_HEADER))]
    for cell in sorted(table.cells, key=lambda c: c.column):
        if cell.row < len(words):
            words[cell.row] += cell.text.split()
    return words


def _is_lowest(table: Table, cell: Cell) -> bool:
    """Whether a cell of a header reaches down to its last row."""
    return cell.row < table.header_rows <= cell.row + cell.rowspan


def _flat(rows: Sequence[Sequence[str]]) -> list[str]:
    return [word for row in rows for word in row]
