"""Words that are broken at the end of a line without a hyphen, in columns too narrow for them."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
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
# A number up to its point, or further; a name up to a point; a number without decimals, and its last digit.
_POINT, _DECIMAL = re.compile(r"[-−]?\d+\."), re.compile(r"[-−]?\d+[.,]\d+")
_DOTTED, _COUNT, _DIGIT = re.compile(r"\w*_\w*\."), re.compile(r"\d{3,}"), re.compile(r"\d")
# A word of fewer letters tells nothing where it stands elsewhere.
LETTERS = 5
# The end of a name, alone in its line, in a table whose words are broken.
END = 3


@dataclass(frozen=True, slots=True)
class _Line:
    """A full line of a cell that is one word, and the first word of the next line; `ends`: which is alone and
    the last of its cell.
    """

    column: int
    word: int
    upper: str
    lower: str
    ends: bool


def broken_words(layout: PageLayout, columns: int, cells: Sequence[CellDraft]) -> set[int]:
    """Return the words of the cells of a table that go on in the next line of their cell.

    Such a word is alone in its line, which has no room for another letter. What follows cannot begin a word,
    or makes a word with it that stands elsewhere on the page, or both are one name in capitals; or single
    letters stand alone in the last line, and these or ends of numbers in another column. In columns where
    such words are broken, other names and numbers are too, and in their table names. Numbers alone prove
    nothing: they may stand below each other.
    """
    found = list(_full_lines(layout, columns, [c for c in cells if c.colspan == 1 and c.words]))
    if not found:
        return set()
    known = Counter(
        word for text in layout.words.texts for word in _WORD.findall(text) if len(word) >= LETTERS
    )
    sure = [line for line in found if _is_one(line, known)]
    letters = [line for line in found if _ends_in_letter(line, known)]
    numbers = [line for line in found if line.ends and _ends_in_digits(line)]
    if letters and (sure or len({line.column for line in letters + numbers}) > 1):
        sure += letters + numbers
    narrow = {line.column for line in sure}
    return {line.word for line in sure} | {
        line.word for line in found if narrow and _goes_on(line, line.column in narrow)
    }


def _full_lines(layout: PageLayout, columns: int, cells: Sequence[CellDraft]) -> Iterator[_Line]:
    """The lines of cells that are one word as wide as their column, and more lines follow."""
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
            last = after + 1 == len(starts) or cell[starts[after + 1]] != cell[starts[after]]
            ends_there = last and ends[after] - starts[after] == 1
            yield _Line(int(column[k]), upper, text, w.texts[lower], ends_there)


def _is_one(line: _Line, known: Counter[str]) -> bool:
    """Whether a line and what follows are one word."""
    upper, lower = line.upper, line.lower
    if lower.startswith(_CLOSING) or (line.ends and lower in ":;.!?"):
        return True
    if (_POINT.fullmatch(upper) and lower.isdecimal()) or (_DOTTED.fullmatch(upper) and lower[0].islower()):
        return True
    if _ends_in_letter(line, known) and len(upper) >= 2 * LETTERS and _NAME.search(upper):
        return True
    tail, head = _TAIL.search(upper), _HEAD.match(lower)
    if tail and head and tail[0] + head[0] in known:
        return True
    return bool(_CONSTANT.fullmatch(upper) and _CAPITALS.fullmatch(lower))


def _ends_in_letter(line: _Line, known: Counter[str]) -> bool:
    """Whether a small letter follows alone, and what it may be the end of is no word elsewhere ("Group")."""
    tail = _TAIL.search(line.upper)
    if not line.ends or tail is None or len(tail[0]) < LETTERS or known[tail[0]] > 1:
        return False
    return line.upper[-1].isalpha() and len(line.lower) == 1 and line.lower.islower()


def _ends_in_digits(line: _Line) -> bool:
    """Whether digits follow a decimal, or one digit a longer number."""
    decimal = _DECIMAL.fullmatch(line.upper) and line.lower.isdecimal()
    return bool(decimal or (_COUNT.fullmatch(line.upper) and _DIGIT.fullmatch(line.lower)))


def _goes_on(line: _Line, narrow: bool) -> bool:
    """Whether a line goes on where words of its table, and, if `narrow`, of its column, are broken."""
    upper, lower = line.upper, line.lower
    same = bool(_NAME.search(upper)) and lower[0].isupper() <= upper[-1].isupper()
    if narrow:
        digits = _ends_in_digits(line) or (upper.isdecimal() and lower.isdecimal())
        return same or (line.ends and digits)
    return line.ends and same and len(lower) <= END and lower.isalnum()
