"""Lines in reading order -> groups of lines that make one paragraph, item or heading."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from ..ink import median
from .display_places import EQUATION
from .flow import Line, in_capitals
from .joining import compound_words
from .tags import CONTAINERS

# A bullet, number or letter before an item, and a count set apart from the text that follows it.
ITEM = re.compile(r"^([•●○■□▪▫◦‣➢➤✓✔–—∗*·⁃-]|\(?\d{1,3}[.)]|\(?[a-zA-Z][.)]|\(?[ivx]{1,5}[.)])\s+(?=\S)")
COUNT = re.compile(r"^(\d{1,3})(?=\s|$)\s*")
# An initial before a name, no letter of an item among names; the letter of a note; a label and what is said
# of it: each such line is a text of its own.
_INITIAL = re.compile(r"^[^\W\d_]\.\s[^\W\d_]")
_NOTED = re.compile(r"^[a-z]\s+[^\W\d_a-z]")
_LABELLED = re.compile(r"^\w[^:：]{0,24}[:：]\s+\S")

# Paragraphs part where lines stand this much farther apart than the leading of the text.
LOOSE = 1.32
# A first line is indented by at least this (em).
INDENT = 0.8
# Lines set to the right, or centred, end or have their middles within this (em).
SAME_END = 0.3
# What ends a sentence; a line that leaves this share of the width empty ends a paragraph without it.
ENDS = ".:!?"
SHORT_LINE = 0.4
# Where more than this share of the text is in fixed pitch, that is how running text is set.
FIXED_BODY = 0.6
# Paragraphs have room between them unless more than the rest of this share of those that surely end, and are
# followed by another one, are nearer to it than so many times the leading.
ALMOST, SPACED = 0.8, 1.15
# Fewer characters than this, less than a line, do not tell how large the text is.
TELLING = 40
# Lines of one block differ in size by no more than this.
SAME_SIZE = 0.08


@dataclass(slots=True)
class Style:
    """How the running text of a document is set: its size, its leading in em, the words that are seen with a
    hyphen inside a line, whether it is in fixed pitch, which then tells no code, and whether there is room
    between paragraphs, so that lines without any make one.
    """

    body: float
    leading: float
    compounds: frozenset[str]
    fixed: bool
    spaced: bool


def style_of(pages: Sequence[Sequence[Line]], sizes: Sequence[float]) -> Style:
    """Measure the running text: the size of most of it, the usual distance of baselines, its compounds.

    Of each page the lines outside tables are given, and the size of most of its text, as for `body_size`.
    """
    lines = [line for page in pages for line in page]
    if not lines:
        return Style(10.0, 1.2, frozenset(), False, False)
    size = np.array([line.size for line in lines])
    baseline = np.array([line.baseline for line in lines])
    length = np.array([len(line.text) for line in lines])
    page = np.array([line.place.page for line in lines])
    column = np.array([line.column for line in lines])
    fixed = np.array([line.fixed and not line.listed for line in lines])
    step = np.diff(baseline) / np.maximum(size[:-1], 0.1)
    follows = (page[1:] == page[:-1]) & (column[1:] == column[:-1]) & (step > 0.8) & (step < 2.2)
    steps = Counter((np.round(step[follows] * 20) / 20).tolist())
    leading = steps.most_common(1)[0][0] if steps else 1.2
    return Style(
        body_size(pages, sizes),
        leading,
        compound_words(line.text for line in lines),
        bool(length[fixed].sum() > FIXED_BODY * length.sum()),
        _is_spaced(lines, leading),
    )


def body_size(pages: Sequence[Sequence[Line]], sizes: Sequence[float]) -> float:
    """Return the size of most text outside tables; where there is hardly any, it is no larger than that of
    most text of the pages, that of tables too: `sizes`, one for each page.
    """
    lines = [line for page in pages for line in page]
    # In steps of a quarter point.
    steps = np.round(np.array([line.size for line in lines] or [10.0]) * 4).astype(np.int64)
    said = np.bincount(steps, weights=[len(line.text) for line in lines] or [1])
    most = float(said.argmax()) / 4
    return most if said.max() >= TELLING else min(most, median(np.array(sizes or [most])))


def _is_spaced(lines: Sequence[Line], leading: float) -> bool:
    """Whether paragraphs of running text, where they surely end, are followed by more room than lines are."""
    steps = [
        (b.baseline - a.baseline) / a.size
        for a, b in pairwise(lines)
        if a.text[-1:] in ENDS
        and _is_short(a)
        and b.text[:1].isupper()
        and (a.column, a.place.page, a.bold) == (b.column, b.place.page, b.bold)
        and abs(b.size / a.size - 1) < SAME_SIZE
        and b.baseline > a.baseline
    ]
    apart = sum(step > SPACED * leading for step in steps)
    return apart >= ALMOST * len(steps)


def group_lines(lines: Sequence[Line], style: Style) -> list[list[Line]]:
    """Part lines into paragraphs, items and headings."""
    groups: list[list[Line]] = []
    for line in lines:
        if groups and _same_block(groups[-1], line, style):
            groups[-1].append(line)
        else:
            groups.append([line])
    return groups


def begins_item(line: Line) -> bool:
    """Whether a line begins with what marks an item or a note."""
    return line.dot or line.lead > 0 or bool(ITEM.match(line.text)) or bool(COUNT.match(line.label))


def _same_block(group: list[Line], line: Line, style: Style) -> bool:
    last, first = group[-1], group[0]
    if line.block != last.block or line.turned or last.turned:
        return False
    if line.block >= 0 and line.role not in CONTAINERS:
        return True
    if line.column != last.column or line.place.page != last.place.page or line.listed != last.listed:
        return False
    step = (line.baseline - last.baseline) / last.size
    # What a leader runs up to belongs to what it comes from, and ends it.
    if line.led or last.led:
        return line.led and abs(step) < 0.5
    if step < 0.5 or abs(line.size / last.size - 1) > SAME_SIZE:
        return False
    if line.fixed != last.fixed and not (is_full(last) and last.text[-1:] not in ENDS):
        return False
    local = (group[1].baseline - group[0].baseline) / last.size if len(group) > 1 else style.leading
    if step > max(LOOSE * min(local, max(style.leading, 1.0)), local + 0.2):
        return False
    if line.fixed and last.fixed:
        return True
    if line.bold != last.bold and (
        not _goes_on_bold(last, line) if line.bold else all(g.bold for g in group)
    ):
        return False
    capitals = in_capitals(last.text)
    if in_capitals(line.text) != capitals and (not _fills(last) if capitals else _has_room(last, line, 2.0)):
        return False
    aside = line.part >= 0 and line.part == last.part
    if begins_item(line) and not _hangs(line, group) and not (aside and _INITIAL.match(line.text)):
        return False
    em = line.size
    if begins_item(first) and not aside:
        # A line back at the mark goes on only where the line before it had no room left.
        back = line.box.x0 < first.box.x0 + 0.5 * em and not first.dot
        return not line.box.x0 < first.box.x0 - 0.3 * em and not (back and _has_room(last, line, 2.0))
    # Lines of a paragraph stand below each other, where it is not alone.
    if last.level and (line.box.x1 < last.box.x0 or line.box.x0 > last.box.x1):
        return False
    # The number of an equation stands alone at the margin.
    if EQUATION.match(last.text) and last.box.x0 > (last.left + last.right) / 2:
        return False
    # An indented line begins a paragraph, unless it is the second of a hanging one.
    indented = line.box.x0 - last.box.x0 > INDENT * em and not (aside and _ends_level(last, line))
    if indented and len(group) > 1:
        return False
    if indented and len(group) == 1:
        return last.box.x1 > last.right - 3 * em
    # Texts side by side go on to their end, and so do lines without room between them where paragraphs have
    # some.
    if aside:
        return not _LABELLED.match(line.text)
    # A line that ends early closes its paragraph when the next one begins a sentence.
    closed = last.text[-1:] in ENDS
    if style.spaced and _is_short(line) and not closed and step < SPACED * max(local, style.leading):
        return not _LABELLED.match(line.text)
    small = line.text[:1].islower() and not (closed and _NOTED.match(line.text))
    if small or not _has_room(last, line, 2.0):
        return True
    return not (closed or (_is_short(last) and line.text[:1].isupper()))


def is_set_line_by_line(group: Sequence[Line]) -> bool:
    """Whether the lines of a paragraph end where they were meant to, as those of an address do: each is
    short, and none goes on with a small letter.
    """
    return len(group) > 1 and all(
        (below.part >= 0 or _is_short(line)) and not below.text[:1].islower()
        for line, below in pairwise(group)
    )


def _goes_on_bold(last: Line, line: Line) -> bool:
    """Whether the end of a full line is bold, and a line goes on with it."""
    ends = any(m.kind == "bold" and m.end == len(last.text) for m in last.marks)
    return ends and last.text[-1] not in ENDS and not _has_room(last, line, 0.0)


def _has_room(last: Line, line: Line, more: float) -> bool:
    """Whether the first word of a line, and that much (em), would have fitted on the line before it."""
    first_word = line.text.split(" ", 1)[0]
    width = (line.box.x1 - line.box.x0) * len(first_word) / max(1, len(line.text))
    return last.right - last.box.x1 > width + more * line.size


def _ends_level(last: Line, line: Line) -> bool:
    """Whether two lines end below each other, or have their middles there: set to the right, or centred."""
    a, b = last.box, line.box
    return min(abs(a.x1 - b.x1), abs(a.x0 + a.x1 - b.x0 - b.x1) / 2) < SAME_END * line.size


def _is_short(line: Line) -> bool:
    """Whether a line leaves much of its column empty."""
    return line.right - line.box.x1 > SHORT_LINE * (line.right - line.left)


def is_full(line: Line) -> bool:
    """Return whether a line ends near the edge of its column."""
    return line.right - line.box.x1 < 4 * line.size


def _fills(line: Line) -> bool:
    """Whether a line takes up its column from side to side."""
    return line.box.x1 - line.box.x0 > line.right - line.left - 2 * line.size


def _hangs(line: Line, group: list[Line]) -> bool:
    """Whether a line that begins like an item is a line of running text, such as a broken range."""
    return len(group) > 1 and abs(line.box.x0 - group[-1].box.x0) < 1 and line.text[:1] in "-–—*"
