"""Which rows of a true table stand on which page, told by their words: truths seldom say."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np

from ..model import Table
from .grid import normal

# What it costs to go on to another page, in rows.
NEXT_PAGE = 0.4


@dataclass(slots=True)
class PageText:
    """The normal words of a page, and those that follow each other in its rows."""

    words: frozenset[str]
    pairs: frozenset[tuple[str, str]]


def page_text(rows: Sequence[Sequence[str]]) -> PageText:
    """Return what a page says, given the words of each of its rows."""
    said = [[part for word in row for part in normal(word).split()] for row in rows]
    return PageText(
        frozenset(word for row in said for word in row),
        frozenset(pair for row in said for pair in pairwise(row)),
    )


def row_pages(table: Table, pages: Sequence[PageText]) -> list[int]:
    """Return the index of the page that each row of a table stands on, never falling.

    The assignment whose rows find most of their words, and of the words that follow each other, on their
    pages; changing to another page costs a little.
    """
    texts: list[list[str]] = [[] for _ in range(table.rows)]
    for cell in sorted(table.cells, key=lambda c: (c.row, c.column)):
        texts[cell.row] += normal(cell.text).split()
    found = np.array([[_found(text, page) for page in pages] for text in texts]).reshape(
        len(texts), len(pages)
    )
    # Rows from the top; best[p]: the most that is found with the last row on page p.
    best = found[0].copy()
    came: list[list[int]] = []
    for row in found[1:]:
        step = np.where(
            np.arange(len(pages))[:, None] == np.arange(len(pages)), best[:, None], best[:, None] - NEXT_PAGE
        )
        step[np.tril_indices(len(pages), -1)] = -np.inf
        came.append(step.argmax(axis=0).tolist())
        best = step.max(axis=0) + row
    at = int(best.argmax())
    out = [at]
    for before in reversed(came):
        at = before[at]
        out.append(at)
    return out[::-1]


def _found(text: Sequence[str], page: PageText) -> float:
    if not text:
        return 0.0
    pairs = list(pairwise(text))
    words = _words_found(text, page)
    return 0.5 * words + 0.5 * (sum(pair in page.pairs for pair in pairs) / len(pairs) if pairs else words)


def row_found(table: Table, row: int, page: PageText) -> float:
    """Return the share of the words of a row that a page has, 0..1."""
    text = [word for c in table.cells if c.row == row for word in normal(c.text).split()]
    return _words_found(text, page) if text else 1.0


def _words_found(text: Sequence[str], page: PageText) -> float:
    return sum(word in page.words for word in text) / len(text)


def part_of(table: Table, first: int, last: int, head: int = 0) -> Table:
    """Return the rows from `first` to before `last`, below the first `head` rows where these come earlier."""
    head = min(head, first)
    cells = []
    for c in table.cells:
        rows = [r for r in range(c.row, c.row + c.rowspan) if first <= r < last]
        heads = [r for r in range(c.row, c.row + c.rowspan) if r < head]
        if rows:
            cells.append(replace(c, row=rows[0] - first + head, rowspan=len(rows)))
        elif heads:
            cells.append(replace(c, row=heads[0], rowspan=len(heads)))
    return replace(table, rows=last - first + head, cells=cells)
