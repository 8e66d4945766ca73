"""Tables of contents: titles with, at the end of their line, the numbers of pages."""

from __future__ import annotations

import re
from collections.abc import Sequence
from itertools import pairwise

from ..measures import distinct
from ..model import Contents, ContentsEntry
from .blocks import places_of
from .flow import Line
from .joining import joined_lines

# A table of contents has at least so many entries.
MIN_ENTRIES = 3
# Of the steps from page to page below a heading that names the contents at most this share goes back; leaders
# alone say less, and there none does.
FALLS = 0.25
# Of entries without such a heading this share has leaders.
LED = 0.5
# Entries, and items of lists, this much (em) farther in than others are a level lower.
NESTED = 0.8

_NAMES = ("contents", "inhalt", "inhaltsverzeichnis", "sommaire", "índice", "содержание", "оглавление")
_TEXTS = ("document", "report", "issue", "chapter", "section", "manual", "guide")
_HEADING = re.compile(
    rf"^(table of contents|in this ({'|'.join(_TEXTS)})|table des matières|{'|'.join(_NAMES)})$", re.I
)
_FOLIO = re.compile(r"^([ivxlc]{1,7}|\d{1,4})$", re.I)


def names_contents(text: str) -> bool:
    """Return whether a text is the heading of a table of contents."""
    return bool(_HEADING.match(text.strip()))


def are_pages(numbers: Sequence[int], headed: bool) -> bool:
    """Return whether numbers can be the pages of a table of contents; `headed`: whether a heading says so."""
    steps = [b - a for a, b in pairwise(numbers)]
    falls = sum(step < 0 for step in steps)
    return len(numbers) >= MIN_ENTRIES and max(steps) > 0 and falls <= (FALLS * len(steps) if headed else 0)


def contents_runs(lines: Sequence[Line]) -> list[tuple[int, int]]:
    """Return the stretches of lines that are the entries of tables of contents, by first and past last."""
    runs: list[tuple[int, int]] = []
    k = 0
    while k < len(lines):
        ends = _entries(lines, k)
        if len(ends) < MIN_ENTRIES:
            k += 1
            continue
        headed = k > 0 and names_contents(lines[k - 1].text)
        if not (headed and are_pages([page for _, page, _ in ends if page >= 0], headed)):
            ends = ends[: _first_fall([page for _, page, _ in ends])]
        led = sum(led for *_, led in ends)
        if len(ends) >= MIN_ENTRIES and (headed or led >= LED * len(ends)):
            runs.append((k, ends[-1][0]))
            k = ends[-1][0]
        else:
            k += 1
    return runs


def _entries(lines: Sequence[Line], k: int) -> list[tuple[int, int, bool]]:
    """The entries that follow each other from a line on: where each ends, its page (-1 for one that is no
    plain number), and whether a leader goes there.
    """
    out: list[tuple[int, int, bool]] = []
    while k + 1 < len(lines):
        if _is_entry(lines[k], lines[k + 1]):
            number = lines[k + 1]
            k += 2
            out.append((k, int(number.text) if number.text.isdigit() else -1, number.led))
            continue
        # A title may run over two lines.
        wraps = out and k + 2 < len(lines) and _is_entry(lines[k + 1], lines[k + 2])
        if not (wraps and lines[k].column == lines[k + 1].column):
            break
        k += 1
    return out


def _first_fall(pages: Sequence[int]) -> int:
    """How many pages stand before the first that is lower than one before it."""
    last = -1
    for k, page in enumerate(pages):
        if 0 <= page < last:
            return k
        last = max(last, page)
    return len(pages)


def _is_entry(title: Line, number: Line) -> bool:
    level = abs(title.baseline - number.baseline) < 0.3 * title.size
    return level and number.box.x0 > title.box.x1 and bool(_FOLIO.match(number.text))


def contents_of(lines: Sequence[Line]) -> Contents:
    """Return the table of contents whose entries these lines are."""
    entries: list[ContentsEntry] = []
    lefts = {round(line.box.x0) for line in lines if not _FOLIO.match(line.text)}
    title: list[Line] = []
    for line in lines:
        if title and _FOLIO.match(line.text) and _is_entry(title[-1], line):
            text, _ = joined_lines([part.text for part in title])
            indent = title[0].box.x0
            step = NESTED * title[0].size
            depth = sum(left < indent - step for left in distinct(lefts, step))
            entries.append(ContentsEntry(text, line.text, depth))
            title = []
        else:
            title.append(line)
    return Contents(entries, places_of(lines))
