"""Lines -> running text."""

from __future__ import annotations

import re
from collections.abc import Container, Iterable, Sequence

from ..model import Mark, MarkKind

# Marks of list items: bullets, numbers and letters with a point or parenthesis.
MARKER = re.compile(r"^([•●○■□▪◦‣–—*·-]|\(?[0-9ivxlc]{1,4}[.)]|\(?[a-zA-Z][.)])$")
# Start, end, kind and target of a mark to be.
Stretch = tuple[int, int, MarkKind, str]
# A word with a hyphen within.
_COMPOUND = re.compile(r"[^\W\d]+(?:-[^\W\d]+)+")
HYPHENS = "-\u2010\u00ad"
DASHES = "\u2013\u2014"
_LAST_WORD = re.compile(r"[\w-]+$")
_FIRST_WORD = re.compile(r"[\w-]+")
# The end of an address or a name of programs, whose hyphens are its own.
_ADDRESS = re.compile(r"[^\s/_=@\\]*[/_=@\\]\S*-$")
_URL = re.compile(r"\S://\S*$")
# What goes on with an address, and is no word of a sentence.
_WITH_POINTS = re.compile(r"[\w-]+[./_=?#]\w")
_BROKEN = re.compile(r"[^\W\d_]{2,}[-\u2010\u00ad]$")


def join_lines(lines: Sequence[str], compounds: Container[str] = ()) -> str:
    """Join lines with blanks; a word broken with a hyphen before a small letter becomes whole again.

    Words among `compounds` (in small letters) keep their hyphen. Scripts that are written without blanks
    (Chinese, Japanese) are joined without them.
    """
    return joined_lines(lines, compounds)[0]


def joined_lines(lines: Sequence[str], compounds: Container[str] = ()) -> tuple[str, list[int]]:
    """Join lines as `join_lines` does; also returns where each of them begins."""
    text, starts = "", []
    for line in lines:
        if not line or not text:
            text += line
        elif text[-1] in HYPHENS:
            text = _over_hyphen(text, line, compounds)
        elif (_unspaced(text[-1]) and _unspaced(line[0])) or _goes_on(text, line):
            text += line
        else:
            text += " " + line
        starts.append(len(text) - len(line))
    return text, starts


def _over_hyphen(text: str, line: str, compounds: Container[str]) -> str:
    if text[-1] == "\u00ad":
        return text[:-1] + line
    if _ADDRESS.search(text):
        return text + line
    if (broken := _BROKEN.search(text)) and line[0].islower():
        first = _LAST_WORD.search(text)
        rest = _FIRST_WORD.match(line)
        whole = f"{first[0] if first else broken[0]}{rest[0] if rest else ''}".lower()
        return text + line if whole.replace("\u2010", "-") in compounds else text[:-1] + line
    # A compound such as "1990-2000" or "X-Ray" keeps its hyphen and takes no blank; a dash stays a dash.
    return text + line if text[-2:-1].isalnum() and line[0].isalnum() else f"{text} {line}"


def _goes_on(text: str, line: str) -> bool:
    """Whether a line ends in a dash within a word, or after a stroke within an address of the web."""
    if text[-1] in DASHES:
        return text[-2:-1].isalnum() and line[0].isalnum()
    return text[-1] == "/" and bool(_URL.search(text) and _WITH_POINTS.match(line))


def _unspaced(char: str) -> bool:
    return "\u2e80" <= char <= "\u9fff" or "\uf900" <= char <= "\ufaff" or "\uff00" <= char <= "\uffef"


def compound_words(texts: Iterable[str]) -> frozenset[str]:
    """Return the words, in small letters, that stand in texts with a hyphen within."""
    return frozenset(found.lower() for text in texts if "-" in text for found in _COMPOUND.findall(text))


def merged_marks(marks: Iterable[Mark]) -> list[Mark]:
    """Join marks of one kind and target with at most a blank between them (scripts, with none); sorted by
    where they begin.
    """
    return joined_stretches((m.start, m.end, m.kind, m.target) for m in marks)


def joined_stretches(stretches: Iterable[Stretch]) -> list[Mark]:
    """Make marks of stretches given by start, end, kind and target; see `merged_marks`."""
    out: list[Stretch] = []
    last: dict[tuple[MarkKind, str], int] = {}
    for start, end, kind, target in sorted(stretches):
        at = last.get((kind, target), -1)
        if at >= 0 and kind != "note" and start <= out[at][1] + (kind not in ("sup", "sub")):
            out[at] = (out[at][0], max(out[at][1], end), kind, target)
        else:
            last[kind, target] = len(out)
            out.append((start, end, kind, target))
    return [Mark(*stretch) for stretch in out]


def shifted_marks(marks: Iterable[Mark], by: int, length: int) -> list[Mark]:
    """Move marks by so many characters, and cut off what then lies outside 0..length."""
    moved = (Mark(max(0, m.start + by), min(length, m.end + by), m.kind, m.target) for m in marks)
    return [m for m in moved if m.start < m.end]
