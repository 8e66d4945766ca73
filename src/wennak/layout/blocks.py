"""A group of lines -> a block."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import accumulate

from ..model import (
    Block,
    Box,
    Code,
    Footnote,
    Formula,
    Heading,
    ListBlock,
    ListItem,
    Mark,
    Paragraph,
    Place,
)
from .flow import Line
from .groups import COUNT, ITEM, Style, is_set_line_by_line
from .headings import Evidence, is_heading
from .joining import joined_lines, merged_marks, shifted_marks

# A block quote is set in from both edges of its column by at least this (em).
QUOTE_INDENT = 1.2
# Words of a formula are mostly short: of those with this many letters there is at most this share.
FORMULA_WORD = 4
FORMULA_WORDS = 0.25
FORMULA_INDENT = 1.2

_NOTE = re.compile(r"^([*†‡§¶]{1,3}|\d{1,3}|[a-z])[.)]?\s*(?=\S)")
_RELATION = re.compile(r"[=<>≤≥≈≡∼∝→⇒∈∑∏∫√±×÷∂∇∞⟨⟩]|[\u2200-\u22ed]")
# Letters that formulas do not use: words of these scripts are short.
_OTHER_SCRIPT = re.compile("[\u0400-\u1fff\u2e80-\ud7ff\uf900-\ufaff]")
_NUMBERED = re.compile(r"\s*(\(\d{1,3}(?:\.\d{1,3})*[a-z]?\))$")
_CODE = re.compile(r"[{}()\[\]<>;=\\/|$#@:]|\s")


@dataclass(slots=True)
class Piece:
    """A block with the lines it was made of."""

    block: Block
    lines: Sequence[Line]


def make_block(group: Sequence[Line], style: Style, facts: Evidence, raised: frozenset[str]) -> Block:
    """Return the block that a group of lines is; `raised` holds the raised ends of words of the page."""
    places = places_of(group)
    first = group[0]
    text, marks = _joined(group, style)
    # Asked once: an entry of the outline names one text only.
    coded = _is_code(group)
    headed = coded and len(group) == 1 and is_heading(group, text, facts)
    if coded and not headed:
        return Code(_code_text(group), places)
    note = _note(first, text, style, raised)
    if note:
        label, start = note
        return Footnote("", label, text[start:], shifted_marks(marks, -start, len(text) - start), places)
    if first.dot and not (ITEM.match(text) and first.role == "LI"):
        return ListBlock([ListItem(text, "•", 0, marks, places)], places=list(places))
    if first.role == "Formula" or _is_formula(group, text):
        number = _NUMBERED.search(text)
        said, label = (text[: number.start()], number[1]) if number else (text, "")
        return Formula(said, label, places=places)
    if headed or (first.role != "LI" and is_heading(group, text, facts)):
        return Heading(text, 0, places)
    if first.part >= 0 and is_set_line_by_line(group):
        return _paragraph(group, text, marks, places)
    match = ITEM.match(text) or (COUNT.match(text) if COUNT.match(first.label) else None)
    if match or first.role == "LI":
        return listed(text, marks, match, places)
    return _paragraph(group, text, marks, places)


def listed(text: str, marks: Sequence[Mark], match: re.Match[str] | None, places: list[Place]) -> ListBlock:
    """Return a text as the only item of a list; `match` is that of its mark, where it has one."""
    label, start = (match[1], match.end()) if match else ("", 0)
    counted = bool(label) and (label[-1] in ".)" or label.isalnum())
    item = ListItem(text[start:], label, 0, shifted_marks(marks, -start, len(text) - start), places)
    return ListBlock([item], "numbers" if counted else "bullets", list(places))


def _paragraph(group: Sequence[Line], text: str, marks: list[Mark], places: list[Place]) -> Paragraph:
    if is_set_line_by_line(group) and not group[-1].led:
        text, marks = _joined(group, None)
    return Paragraph(text, marks, _is_quote(group), places)


def places_of(group: Sequence[Line]) -> list[Place]:
    """The place of a group on each page that it stands on."""
    return merged_places([line.place for line in group])


def merged_places(places: Sequence[Place]) -> list[Place]:
    """One place a page: the box around those on it."""
    if len(places) == 1:
        return [places[0]]
    by_page: dict[int, list[Box]] = {}
    for place in places:
        by_page.setdefault(place.page, []).append(place.box)
    return [Place(page, Box.around(boxes)) for page, boxes in by_page.items()]


def _joined(group: Sequence[Line], style: Style | None) -> tuple[str, list[Mark]]:
    """The text of a group and its marks: joined as running text of a style, or line by line."""
    if len(group) == 1:
        return group[0].text, merged_marks(group[0].marks)
    texts = [line.text for line in group]
    if style is None:
        text, starts = "\n".join(texts), list(accumulate((len(t) + 1 for t in texts[:-1]), initial=0))
    else:
        text, starts = joined_lines(texts, style.compounds)
    if not any(line.marks for line in group):
        return text, []
    ends = [*starts[1:], len(text)]
    marks: list[Mark] = []
    for line, start, end in zip(group, starts, ends, strict=True):
        # A hyphen dropped at the end of a line is no longer there to be marked.
        marks += [Mark(m.start + start, min(m.end + start, end), m.kind, m.target) for m in line.marks]
    return text, merged_marks(m for m in marks if m.start < m.end)


def _is_code(group: Sequence[Line]) -> bool:
    """Whether lines are code: in fixed pitch, and not just a name that stands alone."""
    if not all(line.fixed for line in group) or group[0].role in ("LI", "TD", "TH"):
        return False
    return len(group) > 1 or bool(_CODE.search(group[0].text.strip()))


def _code_text(group: Sequence[Line]) -> str:
    left = min(line.box.x0 for line in group)
    out = []
    for line in group:
        pitch = (line.box.x1 - line.box.x0) / max(1, len(line.text))
        out.append(" " * max(0, round((line.box.x0 - left) / pitch) if pitch > 0 else 0) + line.text)
    return "\n".join(out)


def _note(first: Line, text: str, style: Style, raised: frozenset[str]) -> tuple[str, int] | None:
    """Label of a footnote and where its text begins, if a word of the page bears that label as its mark."""
    if first.role not in ("Note", "FENote") and first.size > 0.95 * style.body:
        return None
    if 0 < first.lead < len(text):
        label, start = text[: first.lead], first.lead
        start += len(text[start:]) - len(text[start:].lstrip())
    else:
        match = _NOTE.match(text)
        if match is None:
            return None
        label, start = match[1], match.end()
    return (label, start) if label in raised else None


def _is_formula(group: Sequence[Line], text: str) -> bool:
    """Whether a group set in from its column reads as a formula: a relation between short names."""
    if not is_relation(group, text) or ITEM.match(text) or _OTHER_SCRIPT.search(text):
        return False
    words = text.split()
    long = sum(len(re.sub(r"[\W\d_]", "", w)) >= FORMULA_WORD for w in words)
    return long <= FORMULA_WORDS * len(words)


def is_relation(group: Sequence[Line], text: str) -> bool:
    """Whether a group is a few lines, set in from their column, that hold a sign of relation."""
    if len(group) > 3 or not _RELATION.search(text) or len(text) < 3 or text[-1:] == ":":
        return False
    if any(line.fixed for line in group) or group[0].role == "P":
        return False
    return group[0].box.x0 - group[0].left >= FORMULA_INDENT * group[0].size


def _is_quote(group: Sequence[Line]) -> bool:
    if len(group) < 2:
        return False
    em, left, right = group[0].size, group[0].left, group[0].right
    # All lines but the first of a paragraph begin at its edge; the longest reaches its right one.
    inner = min(line.box.x0 for line in group) - left
    outer = right - max(line.box.x1 for line in group)
    return inner > QUOTE_INDENT * em and outer > QUOTE_INDENT * em and inner < 6 * em and outer < 6 * em
