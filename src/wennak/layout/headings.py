"""Which groups of lines are headings, and their levels, from all evidence together.

Tags say it outright; an entry of the outline names the heading; else size and weight tell it from the body.
"""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Sequence
from dataclasses import dataclass, field

from ..ink import OutlineItem
from ..model import Heading
from .captions import CAPTION
from .flow import Line, in_capitals

# A heading is set at least this much larger than the body.
LARGER = 1.09
# Sizes this near each other are one.
SAME_SIZE = 1.04
# Words a heading may have when only its weight tells it from the body, and lines and words it may ever have.
MAX_HEADING_WORDS = 16
MAX_LINES = 4
MAX_WORDS = 30
# What ends with a full stop and has at least so many words is a sentence, where only its size is a heading's.
SENTENCE = 4
# Its number, with what stands around it, adds no more characters to the title than these.
MAX_NUMBER = 20

_NUMBER = re.compile(r"^((?:\d{1,2}|[A-Z])(?:\.\d{1,2})*)\.?\s+(?=\S)|^([IVX]+)\.\s+(?=\S)")
_ITEM = re.compile(r"^([•●○■□▪▫◦‣–—∗*·⁃-]|\(?\d{1,3}[.)]|\(?[a-zA-Z][.)]|\(?[ivx]{1,5}[.)])\s+(?=\S)")
# Names of people: two to four words or initials with capitals, in a list.
_AND = re.compile(r"(?:\s*,)?\s*(?:,|\b(?:and|und|et|y|e|och|og|и)\b|&)\s*")
_NAME = re.compile(r"(?:(?:v[oa]n|de[rn]?|da|di|le|la)\s+)*[^\W\d_a-z][\w.'’-]*(?:\s+[^\W\d_][\w.'’-]*){1,4}")
_NOTE_MARKS = re.compile(r"(?<=[^\W\d])(?:\d+|[*†‡]+)(?:,(?:\d+|[*†‡]+))*")
_NO_WORD = re.compile(r"[\W_]+")
# What says which chapter begins, as a rule above its title: with its number, or in a line of its own.
_CHAPTER = re.compile(
    r"(?i:chapter|kapitel|chapitre|capítulo|capitolo|hoofdstuk|глава|appendix|anhang|annexe?|part|teil)"
    r"\s+(?i:\d{1,3}|[ivxlc]{1,7}|[a-z]|one|two|three|four|five|six|seven|eight|nine|ten|eleven|twelve|eins|zwei|"
    r"drei|vier|fünf|sechs|sieben|acht|neun|zehn|un|deux|trois|quatre|cinq|sept|huit|neuf|dix)"
)


@dataclass(slots=True)
class Evidence:
    """What a document says about its headings: size of its body text, outline entries by plain title,
    whether trusted tags name any headings, and the length of the longest text that may be such a title with
    its number.
    """

    body: float
    outline: dict[str, list[OutlineItem]] = field(default_factory=dict)
    tagged: bool = False
    longest: int = 0


@dataclass(slots=True)
class Found:
    """A heading with what its level is judged by; `said` is the level that its tag gives, or 0, and `depth`
    how deep its number goes: 0 where it has none, -1 for the title of a chapter.
    """

    heading: Heading
    size: float
    said: int
    depth: int


def evidence(pages: Sequence[Sequence[Line]], body: float, outline: Sequence[OutlineItem]) -> Evidence:
    """Collect what a document says about its headings."""
    titles: dict[str, list[OutlineItem]] = {}
    for item in outline:
        titles.setdefault(_plain(item.title), []).append(item)
    titles.pop("", None)
    longest = max((len(item.title) + MAX_NUMBER for item in outline), default=0)
    return Evidence(body, titles, any(_tag_level(line) for lines in pages for line in lines), longest)


def _take_outline_entry(text: str, page: int, facts: Evidence) -> bool:
    """Whether an entry of the outline is titled like a text on its page; an entry names one text only."""
    items = facts.outline.get(_plain(text), []) if len(text) <= facts.longest else []
    for item in items:
        if item.page in (0, page):
            items.remove(item)
            return True
    return False


def is_heading(group: Sequence[Line], text: str, facts: Evidence) -> bool:
    """Whether a group of lines with this text is a heading."""
    first, words = group[0], text.split()
    if _tag_level(first):
        return True
    if not any(c.isalpha() for c in text) or len(group) > MAX_LINES or len(words) > MAX_WORDS:
        return False
    if _take_outline_entry(text, first.place.page, facts):
        return True
    item = _ITEM.match(text)
    if (facts.tagged and first.role in ("P", "LI", "Caption", "TD", "TH")) or (
        item and not any(map(str.isalnum, item[1]))
    ):
        return False
    # What names a figure or table is no heading, however large or heavy.
    if CAPTION.match(text):
        return False
    if first.size > LARGER * facts.body:
        return not (text[-1] == "." and len(words) >= SENTENCE and not any(line.bold for line in group))
    if first.size < 0.95 * facts.body or len(group) > 2 or len(words) > MAX_HEADING_WORDS or first.level:
        return False
    if not (all(line.bold for line in group) or in_capitals(text)):
        return False
    return text[-1] not in ".,;" and not (item and not _NUMBER.match(text))


def found(heading: Heading, group: Sequence[Line], chapter: bool) -> Found:
    """Note what the level of a heading is judged by; `chapter`: whether a label says that one begins."""
    number = _NUMBER.match(heading.text)
    depth = number[1].count(".") + 1 if number and number[1] else -int(chapter)
    return Found(heading, round(group[0].size * 4) / 4, _tag_level(group[0]), depth)


def is_byline(head: Found, heads: Sequence[Found]) -> bool:
    """Whether the heading right below the title names the authors: the only one of its size, smaller than
    the title, and a list of names.
    """
    if head.said or head.size >= heads[0].size or [h.size for h in heads].count(head.size) > 1:
        return False
    names = _AND.split(_NOTE_MARKS.sub("", head.heading.text))
    return len(names) > 1 and all(map(_NAME.fullmatch, names))


def set_levels(heads: Sequence[Found]) -> None:
    """Give levels to all headings of a document: larger ones are higher; within a size, deeper numbers are
    lower. Where tags name them all, their levels stand.
    """
    if heads and all(head.said for head in heads):
        for head in heads:
            head.heading.level = min(6, head.said)
        return
    classes: list[float] = []
    for size in sorted({head.size for head in heads}, reverse=True):
        if not classes or classes[-1] / size > SAME_SIZE:
            classes.append(size)
    keys = []
    for head in heads:
        rank = next(k for k, size in enumerate(classes) if size / head.size <= SAME_SIZE)
        keys.append((rank, head.depth))
    for rank in {rank for rank, _ in keys}:
        # Numbers part a size only where they go to several depths; what has none stands with the highest.
        depths = sorted({depth for k, depth in keys if k == rank and depth > 0})
        keys = [
            (k, (max(depth, depths[0]) if len(depths) > 1 else 0) if k == rank and depth >= 0 else depth)
            for k, depth in keys
        ]
    ordered = sorted(set(keys))
    # A part of a longer document, whose highest headings are numbered, begins as deep as their numbers.
    top = {head.depth for head, key in zip(heads, keys, strict=True) if key == ordered[0]}
    begin = max(1, top.pop()) if len(top) == 1 else 1
    for head, key in zip(heads, keys, strict=True):
        head.heading.level = min(6, ordered.index(key) + begin)


def _tag_level(line: Line) -> int:
    """The level that a tag names: H1..H6, 1 for H and Title; 0 for anything else."""
    if line.role in ("H", "Title"):
        return 1
    return (
        int(line.role[1]) if len(line.role) == 2 and line.role[0] == "H" and line.role[1] in "123456" else 0
    )


def _plain(text: str) -> str:
    """A title without its number, case and spacing."""
    text = _NUMBER.sub("", unicodedata.normalize("NFKC", text).strip())
    return _NO_WORD.sub(" ", text).strip().casefold()


def chapter_label(texts: Sequence[str]) -> int:
    """Return how many of the headings that these texts begin with are the label of a chapter, whose title is
    the next one; 0 where there is none.
    """
    for count in (1, 2):
        if len(texts) > count and _CHAPTER.fullmatch(" ".join(texts[:count])):
            return 0 if _NUMBER.match(texts[count]) else count
    return 0
