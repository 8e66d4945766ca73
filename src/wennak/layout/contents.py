"""Tables of contents and indexes: titles with, at the end of their line, the numbers of pages."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise, takewhile

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
# Of the steps from entry to entry of an index at most this share goes back in the alphabet; it has at least
# so many entries, and so many letters that head them, or an entry with several pages.
UNSORTED, INDEX_ENTRIES, LETTERS = 0.25, 5, 2
# Numbers of pages end at one place within this (em).
FLUSH = 0.5
# Entries, and items of lists, this much (em) farther in than others are a level lower.
NESTED = 0.8

_NAMES = ("contents", "inhalt", "inhaltsverzeichnis", "sommaire", "índice", "содержание", "оглавление")
_TEXTS = ("document", "report", "issue", "chapter", "section", "manual", "guide")
_HEADING = re.compile(
    rf"^(table of contents|in this ({'|'.join(_TEXTS)})|table des matières|{'|'.join(_NAMES)})$", re.I
)
_ARABIC = r"\d{1,4}"
_ANY = rf"(?:[ivxlc]{{1,7}}|{_ARABIC})"
# Pages and ranges of pages; behind a comma they go on on the next line.
_LIST = "{0}(?:[-–]{0})?(?:, ?{0}(?:[-–]{0})?)*,?"
_FOLIO = re.compile(rf"^{_ANY}$", re.I)
_FOLIOS = re.compile(rf"^{_LIST.format(_ANY)}$", re.I)
# An entry may fill its line with title and pages, but for some dots.
_FULL = re.compile(rf"^(.*?[^\s.,])[\s.]+({_LIST.format(_ARABIC)})$")


def names_contents(text: str) -> bool:
    """Return whether a text is the heading of a table of contents."""
    return bool(_HEADING.match(text.strip()))


def are_pages(numbers: Sequence[int], headed: bool) -> bool:
    """Return whether numbers can be the pages of a table of contents; `headed`: whether a heading says so."""
    steps = [b - a for a, b in pairwise(numbers)]
    falls = sum(step < 0 for step in steps)
    return len(numbers) >= MIN_ENTRIES and max(steps) > 0 and falls <= (FALLS * len(steps) if headed else 0)


def is_index(titles: Sequence[str], pages: Sequence[str]) -> bool:
    """Return whether entries are those of an index: in the order of the alphabet, with an entry of several
    pages, or with letters, which have none, above the entries that begin with them.
    """
    names = [title.casefold() for title in titles]
    steps = list(pairwise(names))
    falls = sum(below < name for name, below in steps)
    headed = sum(
        not page and below.startswith(name) for page, (name, below) in zip(pages, steps, strict=False)
    )
    several = any("," in page for page in pages)
    return (
        all(not page or _FOLIOS.match(page) for page in pages)
        and (several or headed >= LETTERS)
        and len(pages) - pages.count("") >= INDEX_ENTRIES
        and falls <= UNSORTED * len(steps)
    )


@dataclass(frozen=True, slots=True)
class _Entry:
    """An entry, where its title and where it itself ends: past the last line of that, and past those with its
    pages; the last line of its title; whether a leader runs to its pages, or has no room. A letter that heads
    others has no pages.
    """

    end: int
    titled: int
    title: str
    pages: str
    led: bool

    @property
    def page(self) -> int:
        """Its page; -1 for what is no plain number."""
        return int(self.pages) if self.pages.isdigit() else -1


def contents_runs(lines: Sequence[Line]) -> list[tuple[int, int]]:
    """Return the stretches of lines that are the entries of tables of contents and of indexes, by first and
    past last.
    """
    runs: list[tuple[int, int]] = []
    k = 0
    while k < len(lines):
        entries = _entries(lines, k)
        if len(entries) >= MIN_ENTRIES and not _is_led_index(entries):
            entries = _contents(lines, k, entries)
        if len(entries) < MIN_ENTRIES:
            k += 1
            continue
        runs.append((k, entries[-1].end))
        k = entries[-1].end
    return runs


def _is_led_index(entries: Sequence[_Entry]) -> bool:
    led = all(entry.led for entry in entries if entry.pages)
    return led and is_index([entry.title for entry in entries], [entry.pages for entry in entries])


def _contents(lines: Sequence[Line], k: int, entries: list[_Entry]) -> list[_Entry]:
    """The entries of a table of contents among those that follow each other from a line on; none where it is
    none.
    """
    entries = list(takewhile(lambda entry: _FOLIO.match(entry.pages), entries))
    headed = k > 0 and names_contents(lines[k - 1].text)
    pages = [entry.page for entry in entries]
    if not (headed and are_pages([page for page in pages if page >= 0], headed)):
        entries = entries[: _first_fall(pages)]
    led = sum(entry.led for entry in entries)
    return entries if len(entries) >= MIN_ENTRIES and (headed or led >= LED * len(entries)) else []


def _entries(lines: Sequence[Line], k: int) -> list[_Entry]:
    """The entries that follow each other from a line on."""
    out: list[_Entry] = []
    while k + 1 < len(lines):
        if _is_entry(lines[k], lines[k + 1]):
            pages, led, end = lines[k + 1].text, lines[k + 1].led, k + 2
            while pages.endswith(",") and end < len(lines) and _FOLIOS.match(lines[end].text):
                pages, end = f"{pages} {lines[end].text}", end + 1
            out.append(_Entry(end, k + 1, lines[k].text, pages, led))
            k = end
            continue
        if len(lines[k].text) == 1 and lines[k].text.isalpha():
            out.append(_Entry(k + 1, k + 1, lines[k].text, "", False))
            k += 1
            continue
        follows = k + 2 < len(lines) and _is_entry(lines[k + 1], lines[k + 2])
        # What no entry follows may be prose.
        among = out and (follows or _full(lines[k + 1], lines[k]))
        if among and (full := _full(lines[k], lines[out[-1].end - 1])):
            out.append(_Entry(k + 1, k + 1, *full, True))
            k += 1
            continue
        # A title may run over two lines.
        if not (out and follows and lines[k].column == lines[k + 1].column):
            break
        k += 1
    return out


def _full(line: Line, number: Line) -> tuple[str, str] | None:
    """The title and the pages of an entry that fills its line up to where those of the one before end."""
    found = _FULL.match(line.text)
    flush = abs(line.box.x1 - number.box.x1) < FLUSH * line.size and line.column == number.column
    return (found[1], found[2]) if found and flush else None


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
    pages = _FOLIOS if number.led else _FOLIO
    return level and number.box.x0 > title.box.x1 and bool(pages.match(number.text))


def contents_of(lines: Sequence[Line]) -> Contents:
    """Return the table of contents, or the index, whose entries these lines are; in an index, entries are a
    level below the letters that head them.
    """
    found = _entries(lines, 0)
    titles = [
        lines[start : entry.titled]
        for start, entry in zip((0, *(entry.end for entry in found)), found, strict=False)
    ]
    lettered = any(not entry.pages for entry in found)
    lefts: dict[int, set[int]] = {}
    for first, *_ in titles:
        lefts.setdefault(first.column, set()).add(round(first.box.x0))
    entries: list[ContentsEntry] = []
    for entry, title in zip(found, titles, strict=True):
        text, _ = joined_lines([*(part.text for part in title[:-1]), entry.title])
        step = NESTED * title[0].size
        depth = sum(left < title[0].box.x0 - step for left in distinct(lefts[title[0].column], step))
        depth += lettered and bool(entry.pages)
        entries.append(ContentsEntry(text, entry.pages, depth))
    return Contents(entries, places_of(lines))
