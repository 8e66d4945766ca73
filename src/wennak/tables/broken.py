"""Words that are broken at the end of a line without a hyphen, in columns too narrow for them."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from itertools import pairwise
from typing import TYPE_CHECKING

import numpy as np

from ..ink import Ints
from ..layout import PageLayout
from ..layout.joining import HYPHENS

if TYPE_CHECKING:
    from .draft import CellDraft

# What never begins a word.
_CLOSING = tuple(",)]}")
# Names of programs: parts in one word, capital letters with underscores.
_NAME = re.compile(r"[_.:/\\(\[{'\"=@]|[a-z][A-Z]|\d[A-Za-z]|[A-Za-z]\d")
_CONSTANT = re.compile(r"[A-Z0-9]+_[A-Z0-9_]+")
_CAPITALS = re.compile(r"[A-Z0-9_]+")
_WORD, _TAIL, _HEAD = re.compile(r"\w+"), re.compile(r"\w+$"), re.compile(r"\w+")
# A word of fewer letters tells nothing where it stands elsewhere.
LETTERS = 5


def broken_words(layout: PageLayout, columns: int, cells: Sequence[CellDraft]) -> set[int]:
    """Return the words of the cells of a table that go on in the next line of their cell.

    Such a word is alone in its line, which has no room for another letter. What follows cannot begin a word,
    or makes a word with it that stands elsewhere on the page, or both are one name in capitals; in columns
    where such words are broken, other names are too.
    """
    found = list(_full_lines(layout, columns, [c for c in cells if c.colspan == 1 and c.words]))
    if not found:
        return set()
    texts = layout.words.texts
    known = {word for text in texts for word in _WORD.findall(text) if len(word) >= LETTERS}
    sure = {upper for _, upper, lower in found if _is_one(texts[upper], texts[lower], known)}
    narrow = {column for column, upper, _ in found if upper in sure}
    return sure | {
        upper
        for column, upper, lower in found
        if column in narrow
        and _NAME.search(texts[upper])
        and texts[lower][0].isupper() <= texts[upper][-1].isupper()
    }


def _full_lines(
    layout: PageLayout, columns: int, cells: Sequence[CellDraft]
) -> Iterator[tuple[int, int, int]]:
    """The lines of cells that are one word as wide as their column: the column, that word, and the first of
    the next line.
    """
    w = layout.words
    index: Ints = np.array([i for c in cells for i in c.words], dtype=np.int64)
    cell = np.repeat(np.arange(len(cells)), [len(c.words) for c in cells])
    starts = np.flatnonzero(np.append(True, (np.diff(cell) != 0) | (np.diff(w.row[index]) != 0)))
    if len(starts) == len(cells) or not len(cells):
        return
    width = np.maximum.reduceat(w.x1[index], starts) - np.minimum.reduceat(w.x0[index], starts)
    column = np.array([c.column for c in cells])[cell[starts]]
    widest = np.zeros(columns)
    np.maximum.at(widest, column, width)
    ends = np.append(starts[1:], len(index))
    for k, after in pairwise(range(len(starts))):
        upper, lower = int(index[starts[k]]), int(index[starts[after]])
        text = w.texts[upper]
        alone = cell[starts[k]] == cell[starts[after]] and ends[k] - starts[k] == 1
        if alone and text[-1] not in HYPHENS and widest[column[k]] - width[k] < width[k] / len(text):
            yield int(column[k]), upper, lower


def _is_one(upper: str, lower: str, known: set[str]) -> bool:
    """Whether two texts are one word."""
    if lower.startswith(_CLOSING):
        return True
    tail, head = _TAIL.search(upper), _HEAD.match(lower)
    if tail and head and tail[0] + head[0] in known:
        return True
    return bool(_CONSTANT.fullmatch(upper) and _CAPITALS.fullmatch(lower))
