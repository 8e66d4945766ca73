"""What belongs to the page and not to the content: running heads and feet, page numbers, watermarks."""

from __future__ import annotations

import re
from collections.abc import Sequence

import numpy as np

from ..ink import Floats, distinct
from ..model import Box
from .display_places import EQUATION
from .flow import Line, PageItems

_PAGE_NUMBER = re.compile(r"^\W*(page\s+)?([ivxlcdm]+|\d{1,4})(\s*(/|of)\s*\d{1,4})?\W*$", re.I)

# A number and nothing else, and how long it may be.
_BARE = re.compile(r"\W{0,2}([ivxlcdm]{1,6}|\d{1,4})\W{0,2}", re.I)
BARE_LENGTH = 10
# A number alone in the middle below all else is that of the page below this share of its height.
LOWER = 0.6

# Running heads and feet stand in this share of the page's height at either end.
MARGIN = 0.13
# What may repeat over a table that goes on stands in this share.
ENDS = 0.2
# A short line alone in this share of the height is one even where nothing repeats it, if it is set no larger
# than the body and its baseline is farther than this (em) from all others.
EDGE = 0.11
EDGE_GAP = 2.2
EDGE_WORDS = 14
# A sentence has so many words.
SENTENCE = 3
# Steps from line to line are the same within this (em).
SAME_STEP = 0.2
# Text reaches into the margins on no more than this share of the pages: chapters begin lower than others.
FEW = 0.25
# Repeated lines stand within this many points of the same height on every page.
SAME_HEIGHT = 3
# What is said, but for its numbers, and at which height.
RunningKey = tuple[str, int]


def find_running(pages: Sequence[PageItems], body: float) -> set[int]:
    """Return the identities of the lines of pages that are running heads, feet and the like."""
    seen: dict[tuple[str, int], list[tuple[int, Line]]] = {}
    out: set[int] = set()
    # Lines that stand apart, and the page of each.
    apart: list[tuple[int, Line]] = []
    written = [[item for item in page.items if isinstance(item, Line)] for page in pages]
    outer = [_in_margins(lines, page.height) for page, lines in zip(pages, written, strict=True)]
    edge = {id(line) for lines in outer for line in lines}
    inner = {line.text for lines in written for line in lines if id(line) not in edge}
    for k, (page, lines, margins) in enumerate(zip(pages, written, outer, strict=True)):
        levels = distinct(np.round([line.baseline for line in lines], 1))
        equations = _equations(margins, page)
        for line in margins:
            seen.setdefault(_key(line), []).append((page.number, line))
            if line.turned or id(line) in equations or not _outermost(line, lines, page):
                continue
            largest = float("inf") if line.text in inner else body
            if line.role == "Artifact" or _PAGE_NUMBER.match(line.text):
                out.add(id(line))
            elif _stands_apart(line, levels, page, largest):
                apart.append((k, line))
        # Most lines are known by their length to be no number.
        short = [line for line in lines if len(line.text) <= BARE_LENGTH]
        out |= {id(line) for line in short if _BARE.fullmatch(line.text) and _is_last(line, page)}
    for found in seen.values():
        if len({number for number, _ in found}) >= 2:
            out |= {id(line) for _, line in found}
    # What repeats is known already: in a long document that is most of it.
    unknown = [(k, line) for k, line in apart if id(line) not in out]
    return out | _beyond_text(pages, unknown, out) if unknown else out


def _beyond_text(pages: Sequence[PageItems], apart: Sequence[tuple[int, Line]], known: set[int]) -> set[int]:
    """Return which lines that stand apart on their pages do so beyond where the text of other pages ends."""
    others = known | {id(line) for _, line in apart}
    text = [[item.box for item in page.items if id(item) not in others] for page in pages]
    tops = np.array([min((box.y0 for box in boxes), default=np.nan) for boxes in text])
    feet = np.array([max((box.y1 for box in boxes), default=np.nan) for boxes in text])
    out = set()
    for k, line in apart:
        above = _middle(line, pages[k]) < 0.5
        room = np.delete(tops - line.box.y0 if above else line.box.y1 - feet, k)
        room = np.sort(room[np.isfinite(room)])
        if not len(room) or room[int(FEW * len(room))] > SAME_HEIGHT:
            out.add(id(line))
    return out


def repeatable(lines: Sequence[Line], height: float) -> dict[int, RunningKey]:
    """Return what each line at the ends of a page says and where, by its identity: where one of the next page
    says the same there, both are running heads or feet, or the heads of a table that goes on.
    """
    return {id(line): _key(line) for line in _in_margins(lines, height, ENDS)}


def running_key(text: str, top: float) -> RunningKey:
    """Return what a line with its top (points) is as a running head or foot: numbers change from page to
    page, the rest does not.
    """
    return re.sub(r"\d+", "#", text), round(top / SAME_HEIGHT)


def _key(line: Line) -> RunningKey:
    return running_key(line.text, _box(line).y0)


def _box(line: Line) -> Box:
    """Where a line stands on its page as this is read, or as it lies for what is set sideways to that."""
    return line.place.box if line.turned else line.box


def _middle(line: Line, page: PageItems) -> float:
    """How far down its page a line stands, as a share of its height."""
    height = page.width if line.turned and page.sideways else page.height
    return (_box(line).y0 + _box(line).y1) / 2 / height


def _in_margins(lines: Sequence[Line], height: float, share: float = MARGIN) -> list[Line]:
    """The lines that stand in the margins, and those set sideways; what a leader runs up to belongs to its
    label.
    """
    top, bottom = share * height, (1 - share) * height
    return [
        line
        for line in lines
        if (line.turned or not top < (line.box.y0 + line.box.y1) / 2 < bottom) and not line.led
    ]


def _outermost(line: Line, lines: Sequence[Line], page: PageItems) -> bool:
    """Whether no other line stands between this one and its end of the page."""
    top = _middle(line, page) < 0.5
    return all(
        other is line or (other.box.y0 > line.box.y1 if top else other.box.y1 < line.box.y0 + 1)
        for other in lines
        if abs(other.baseline - line.baseline) > 1
    )


def _equations(lines: Sequence[Line], page: PageItems) -> set[int]:
    """The numbers in parentheses that stand level with something, and the lines among that: equations."""
    numbers = [line for line in lines if EQUATION.match(line.text)]
    beside = [
        (line, item)
        for line in numbers
        for item in page.items
        if item is not line and item.box.y0 < line.box.y1 and line.box.y0 < item.box.y1
    ]
    return {id(each) for pair in beside for each in pair}


def _is_last(line: Line, page: PageItems) -> bool:
    """Whether a line stands alone in the middle below all else on its page; or at its foot, on a page whose
    text is set sideways.
    """
    box = _box(line)
    width = page.height if line.turned and page.sideways else page.width
    if abs(box.x0 + box.x1 - width) > 2 * line.size or _middle(line, page) < LOWER:
        return False
    if line.turned:
        return _middle(line, page) > 1 - MARGIN
    clear = line.box.y0 - EDGE_GAP * line.size
    return len(page.items) > 1 and all(item is line or item.box.y1 < clear for item in page.items)


def _stands_apart(line: Line, levels: Floats, page: PageItems, body: float) -> bool:
    """Whether a short line, no sentence, stands at the very edge of the page, well away from the text, whose
    baselines are given.
    """
    y, words = _middle(line, page), line.text.split()
    if len(words) >= SENTENCE and words[-1][-1] in ".!?":
        return False
    if EDGE < y < 1 - EDGE or line.size > 1.05 * body or len(words) > EDGE_WORDS:
        return False
    steps = np.sort(np.abs(levels - line.baseline))
    steps = steps[steps > 1]
    if not len(steps) or steps[0] <= EDGE_GAP * min(body, line.size):
        return False
    # A line as far from the next as that from the one after it is one of a loosely set text.
    return len(steps) < 2 or bool(abs(steps[1] - 2 * steps[0]) > SAME_STEP * line.size)
