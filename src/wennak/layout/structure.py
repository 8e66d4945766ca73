"""Lines in reading order -> blocks with roles, for the whole document."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import pairwise

from ..model import Block, Box, Code, Furniture, Heading, ListBlock, ListItem, Paragraph, Place
from .flow import Item, Line, TableMark
from .joining import join_lines

_BULLET = re.compile(r"^([•●○■□▪▫◦‣–—∗*·⁃-]|\(?\d{1,3}[.)]|\(?[a-zA-Z][.)]|\(?[ivx]{1,5}[.)])\s+(?=\S)")
# A count set apart from the text that follows it.
_COUNT = re.compile(r"^(\d{1,3})(?=\s|$)\s*")
_NUMBERED = re.compile(r"^((?:\d{1,2}|[A-Z])(?:\.\d{1,2})*\.?|[IVX]+\.)\s+\S")
_PAGE_NUMBER = re.compile(r"^\W*(page\s+)?([ivxlcdm]+|\d{1,4})(\s*(/|of)\s*\d{1,4})?\W*$", re.I)

# A heading is set at least this much larger than the body.
LARGER = 1.09
# Paragraphs part where lines stand this much farther apart than the leading of the text.
LOOSE = 1.32
# A first line is indented by at least this (em).
INDENT = 0.8
# Running heads and feet stand in this share of the page's height at either end.
MARGIN = 0.13
# A short line alone in this share of the height is one even where nothing repeats it, if it is set no larger
# than the body and its baseline is farther than this (em) from all others.
EDGE = 0.11
EDGE_GAP = 2.2
EDGE_WORDS = 14
# Words a heading may have when only its weight tells it from the body.
MAX_HEADING_WORDS = 16


# What makes headings of one level look alike: size and weight.
Look = tuple[float, bool]


@dataclass(slots=True)
class PageItems:
    """The lines and table marks of a page in reading order."""

    number: int
    width: float
    height: float
    items: list[Item]


def structure(
    pages: Sequence[PageItems], table_at: Callable[[int, int], Block | None]
) -> tuple[list[Block], list[Furniture]]:
    """Build the blocks of a document and its furniture; the items of the pages are used up.

    `table_at(page, index)` gives the block for a table mark, or None where the table continues one that
    already stands in the text.
    """
    body = _body_size(pages)
    furniture = _furniture(pages, body)
    leading = _leading(pages)
    blocks: list[Block] = []
    kept: list[Furniture] = []
    heads: list[tuple[Heading, Look]] = []
    for page in pages:
        lines: list[Line] = []
        for item in page.items:
            if isinstance(item, TableMark):
                _close(lines, blocks, heads, body, leading)
                lines = []
                block = table_at(page.number, item.index)
                if block is not None:
                    blocks.append(block)
            elif (page.number, id(item)) in furniture:
                kept.append(Furniture(item.text, item.place))
            else:
                lines.append(item)
        _close(lines, blocks, heads, body, leading)
        # Of a long document, the lines and the blocks made of them need not be held together.
        page.items = []
    _levels(heads)
    return _joined_over_pages(blocks), kept


def _body_size(pages: Sequence[PageItems]) -> float:
    weight: Counter[float] = Counter()
    for page in pages:
        for item in page.items:
            if isinstance(item, Line):
                weight[round(item.size * 4) / 4] += len(item.text)
    return weight.most_common(1)[0][0] if weight else 10.0


def _leading(pages: Sequence[PageItems]) -> float:
    """The usual distance of baselines within paragraphs, in em."""
    steps: Counter[float] = Counter()
    for page in pages:
        lines = [i for i in page.items if isinstance(i, Line)]
        for a, b in pairwise(lines):
            step = (b.baseline - a.baseline) / max(a.size, 0.1)
            if a.column == b.column and 0.8 < step < 2.2:
                steps[round(step * 20) / 20] += 1
    return steps.most_common(1)[0][0] if steps else 1.2


def _close(
    lines: list[Line], blocks: list[Block], heads: list[tuple[Heading, Look]], body: float, leading: float
) -> None:
    for group in _groups(lines, body, leading):
        block = _block(group, body)
        if isinstance(block, Heading):
            heads.append((block, _look(group[0])))
        previous = blocks[-1] if blocks else None
        if isinstance(block, ListBlock) and isinstance(previous, ListBlock):
            previous.items += block.items
            previous.places += block.places
        else:
            blocks.append(block)


def _groups(lines: list[Line], body: float, leading: float) -> list[list[Line]]:
    """Part lines into paragraphs, items and headings."""
    groups: list[list[Line]] = []
    for line in lines:
        if groups and _same_block(groups[-1], line, body, leading):
            groups[-1].append(line)
        else:
            groups.append([line])
    return groups


def _same_block(group: list[Line], line: Line, body: float, leading: float) -> bool:
    last, first = group[-1], group[0]
    if line.column != last.column or line.place.page != last.place.page:
        return False
    step = (line.baseline - last.baseline) / last.size
    if step < 0.5 or abs(line.size / last.size - 1) > 0.08 or line.fixed != last.fixed:
        return False
    local = (group[1].baseline - group[0].baseline) / last.size if len(group) > 1 else leading
    if step > max(LOOSE * min(local, max(leading, 1.0)), local + 0.2):
        return False
    if line.fixed:
        return True
    if line.bold != last.bold and (line.bold or (last.bold and all(g.bold for g in group))):
        return False
    if _begins_item(line) and not _hangs(line, group):
        return False
    marked = _begins_item(first)
    em = line.size
    indented = line.box.x0 - last.box.x0 > INDENT * em
    if marked:
        return not (line.box.x0 < first.box.x0 - 0.3 * em)
    # An indented line begins a paragraph, unless it is the second of a hanging one.
    if indented and len(group) > 1:
        return False
    if indented and len(group) == 1:
        return last.box.x1 > last.right - 3 * em
    # A line that ends early closes its paragraph when the next one begins a sentence.
    room = last.right - last.box.x1
    first_word = line.text.split(" ", 1)[0]
    fits = room > (line.box.x1 - line.box.x0) * len(first_word) / max(1, len(line.text)) + 2 * em
    return not (fits and last.text[-1:] in ".:!?" and not line.text[:1].islower())


def _begins_item(line: Line) -> bool:
    return line.dot or bool(_BULLET.match(line.text)) or bool(_COUNT.match(line.label))


def _hangs(line: Line, group: list[Line]) -> bool:
    """Whether a line that begins like an item is a line of running text, such as a broken range."""
    return len(group) > 1 and abs(line.box.x0 - group[-1].box.x0) < 1 and line.text[:1] in "-–—*"


def _block(group: list[Line], body: float) -> Block:
    places = _places(group)
    first = group[0]
    if all(l.fixed for l in group) and (len(group) > 1 or first.text != " ".join(first.text.split())):
        return Code(_code_text(group), places)
    text = join_lines([l.text for l in group])
    if first.dot:
        return ListBlock([ListItem(text, "•", 0, places)], places=list(places))
    if _is_heading(group, body, text):
        return Heading(text, 0, places)
    match = _BULLET.match(text) or (_COUNT.match(text) if _COUNT.match(first.label) else None)
    if match:
        item = ListItem(text[match.end() :], match[1], 0, places)
        return ListBlock([item], ordered=match[1][-1:] in ".)" or match[1].isalnum(), places=list(places))
    return Paragraph(text, places)


def _is_heading(group: list[Line], body: float, text: str) -> bool:
    first = group[0]
    words = text.split()
    if not any(c.isalpha() for c in text) or len(group) > 4 or len(words) > 30:
        return False
    if first.size > LARGER * body:
        return True
    if first.size < 0.95 * body or len(group) > 2 or len(words) > MAX_HEADING_WORDS:
        return False
    if first.bold and all(l.bold for l in group):
        return text[-1] not in ".,;" and not (_BULLET.match(text) and not _NUMBERED.match(text))
    return False


def _levels(heads: list[tuple[Heading, Look]]) -> None:
    """Levels by look: size first, then weight."""
    looks = sorted({look for _, look in heads}, reverse=True)
    merged: dict[Look, int] = {}
    level, last = 0, None
    for look in looks:
        if last is None or last[0] / look[0] > 1.04 or last[1] != look[1]:
            level += 1
        merged[look] = level
        last = look
    for head, look in heads:
        head.level = min(6, merged[look])


def _look(line: Line) -> Look:
    return (round(line.size * 4) / 4, line.bold)


def _code_text(group: list[Line]) -> str:
    left = min(l.box.x0 for l in group)
    out = []
    for line in group:
        pitch = (line.box.x1 - line.box.x0) / max(1, len(line.text))
        out.append(" " * max(0, round((line.box.x0 - left) / pitch) if pitch > 0 else 0) + line.text)
    return "\n".join(out)


def _places(group: list[Line]) -> list[Place]:
    by_page: dict[int, list[Box]] = {}
    for line in group:
        by_page.setdefault(line.place.page, []).append(line.place.box)
    return [Place(page, Box.around(boxes)) for page, boxes in by_page.items()]


def _joined_over_pages(blocks: list[Block]) -> list[Block]:
    """A paragraph that stops in mid sentence goes on in the next one, if that starts on the next page."""
    out: list[Block] = []
    for block in blocks:
        last = out[-1] if out else None
        if isinstance(block, Paragraph) and isinstance(last, Paragraph) and _runs_on(last, block):
            last.text = join_lines([last.text, block.text])
            last.places += block.places
            continue
        out.append(block)
    return out


def _runs_on(above: Paragraph, below: Paragraph) -> bool:
    a, b = above.places[-1], below.places[0]
    turned_over = a.page != b.page or b.box.y0 < a.box.y1 - 1
    return turned_over and above.text[-1:] not in '.:!?”"' and below.text[:1].islower()


def _stands_apart(line: Line, lines: Sequence[Line], height: float, body: float) -> bool:
    """Whether a short line stands at the very edge of the page, well away from the text."""
    y = (line.place.box.y0 + line.place.box.y1) / 2 / height
    if EDGE < y < 1 - EDGE or line.size > 1.05 * body or len(line.text.split()) > EDGE_WORDS:
        return False
    others = [abs(l.baseline - line.baseline) for l in lines if abs(l.baseline - line.baseline) > 1]
    return bool(others) and min(others) > EDGE_GAP * body


def _furniture(pages: Sequence[PageItems], body: float) -> set[tuple[int, int]]:
    """Lines in the margins that return on several pages, page numbers, and small lines at the very edge.

    Returned by page number and identity of the line.
    """
    seen: dict[tuple[str, int], list[tuple[int, Line]]] = {}
    numbers: list[tuple[int, Line]] = []
    for page in pages:
        lines = [i for i in page.items if isinstance(i, Line)]
        for line in lines:
            y = (line.place.box.y0 + line.place.box.y1) / 2 / page.height
            if MARGIN < y < 1 - MARGIN:
                continue
            key = (re.sub(r"\d+", "#", line.text), round(line.place.box.y0 / 3))
            seen.setdefault(key, []).append((page.number, line))
            edge = all(
                l is line or (l.box.y0 > line.box.y1 if y < 0.5 else l.box.y1 < line.box.y0 + 1)
                for l in lines
                if abs(l.baseline - line.baseline) > 1
            )
            if edge and (_PAGE_NUMBER.match(line.text) or _stands_apart(line, lines, page.height, body)):
                numbers.append((page.number, line))
    out = {(number, id(line)) for number, line in numbers}
    for found in seen.values():
        if len({number for number, _ in found}) >= 2:
            out |= {(number, id(line)) for number, line in found}
    return out
