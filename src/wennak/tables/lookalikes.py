"""Texts in columns that are no tables by what they say: contents pages, indexes, counted lists, addresses
side by side.
"""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator, Sequence
from itertools import pairwise, takewhile

import numpy as np

from ..ink import Bools, Ints, median
from ..layout import PageLayout, are_pages, names_contents
from .indexes import index_words
from .numbers import is_numeric
from .rows import SPAN_GAP, Row, rows_of, span_of

# The heading of a table of contents has at most so many words.
HEADING_WORDS = 4
# Marks, texts and lines of one address begin at the same place within this (em).
SAME_PLACE = 0.4
# Lines of an item or of an address follow each other within this (em), items within that.
LINE_ROOM, ITEM_ROOM = 1.2, 2.0
# The rooms between the lines of an address differ by less than this (em).
EVEN = 0.3
# Numbers alone, without a point or bracket, count items where there are at least so many.
BARE_ITEMS = 3
# Lists of several on a page have so many entries on average: few numbers may rise by chance.
LISTED = 5
# Columns of text have more than this share of the width of the page, those of tables mostly less.
CELL = 1 / 3
# An address has so many lines.
ADDRESS_LINES = range(2, 9)

# Marks of first and second items.
FIRST, SECOND = (frozenset((n, f"{n}.", f"{n})", f"({n})", f"[{n}]")) for n in ("1", "2"))
# What may be a postal code, or its first half.
_CODE = re.compile(r"(?:[A-Z]{1,2}-)?\d{4,6}(?:-\d{4})?|[A-Z]{1,2}\d{1,2}")
MARK = re.compile(r"[(\[]?(\d{1,3})[.)\]]?")
# The line of an address that names the place: with a number before it, or behind it.
_POSTCODE = re.compile(
    r"(?:[A-Z]{1,2}-)?\d{4,6}\s+[^\W\d_][^\d,;:]*|[^\W\d_][^\d;:]*,?\s+(?:[A-Z]{2}\s+)?\d{5}(?:-\d{4})?"
    r"|[^\W\d_][^\d;:]*\s[A-Z]{1,2}\d[\dA-Z]?\s\d[A-Z]{2}"
)


def lookalikes(layout: PageLayout) -> Bools:
    """Return which words of a page stand in such texts."""
    out = np.zeros(len(layout.words), dtype=np.bool_)
    out[_led_words(layout)] = True
    texts = layout.words.texts
    for zone in layout.zones:
        starts = np.flatnonzero(np.diff(layout.words.row[zone.members], prepend=-1))
        begin = {texts[i] for i in zone.members[starts].tolist()}
        counted = not (begin.isdisjoint(FIRST) or begin.isdisjoint(SECOND))
        headed, coded = _has_heading(layout, zone.members, starts), _has_codes(layout, zone.members)
        if not (counted or coded or headed):
            # Most text is known to be none of these at once.
            continue
        rows = rows_of(layout, zone.members)
        found = [rows[k].words for k in _contents(layout, rows)] if headed else []
        found += _lists(layout, rows) if counted else []
        for words in [*found, *(_addresses(layout, rows) if coded else ())]:
            out[words] = True
    return out


def _led_words(layout: PageLayout) -> Ints:
    """The words of rows that end in page numbers after leaders: those of an index, and rows among neighbours
    of which most do; full lines between these end in such numbers without.
    """
    w = layout.words
    after = np.flatnonzero(w.led)
    if not len(after):
        return after
    index = index_words(layout, after)
    if len(index):
        return index
    # A number behind it tells a row of a table.
    behind = np.append(w.row[1:] == w.row[:-1], False).tolist()
    paged = np.array([
        w.texts[i].isdecimal() and not (behind[i] and is_numeric(w.texts[i + 1])) for i in after.tolist()
    ])  # fmt: skip
    group = np.cumsum(np.diff(w.row[after], prepend=w.row[after[0]]) > 1)
    most = np.bincount(group, weights=paged) > np.bincount(group) / 2
    pages = after[paged & most[group]]
    if not _rise(w.row[pages], [int(w.texts[i]) for i in pages.tolist()]):
        return after[:0]
    # A title that fills its line leaves no room for a leader.
    last = np.flatnonzero(np.append(w.row[1:] != w.row[:-1], True))
    inside = (w.row[last] > w.row[pages].min()) & (w.row[last] < w.row[pages].max())
    level = np.abs(w.x1[last] - median(w.x1[pages])) < SAME_PLACE * layout.em
    full = [i for i in last[inside & level].tolist() if w.texts[i].isdecimal()]
    ends = np.array([*pages.tolist(), *full])
    return np.flatnonzero(np.isin(w.row, w.row[ends]) & layout.shares_zone(ends))


def _rise(row: Ints, pages: Sequence[int]) -> bool:
    """Whether numbers rise as pages do: all over, or in long lists below each other, a row without a number
    between them, as lists of figures and of tables follow the contents.
    """
    parts = [0, *(k for k in range(1, len(pages)) if pages[k] < pages[k - 1] and row[k] > row[k - 1] + 1)]
    lists = [pages[a:b] for a, b in pairwise([*parts, len(pages)])]
    enough = len(lists) == 1 or len(pages) >= LISTED * len(lists)
    return enough and all(are_pages(numbers, headed=False) for numbers in lists)


def _has_codes(layout: PageLayout, members: Ints) -> bool:
    """Whether several of some words may be postal codes, and several stand far from the word before them."""
    w = layout.words
    row, gap = w.row[members], w.x0[members][1:] - w.x1[members][:-1]
    parted = (row[1:] != row[:-1]) | (gap > SPAN_GAP * w.size[members][1:])
    if parted.sum() - (row[1:] != row[:-1]).sum() < ADDRESS_LINES[0]:
        return False
    # They begin or end the line of an address.
    ends = np.append(parted, True) | np.insert(parted, 0, True)
    said = {w.texts[i] for i in members[ends].tolist()}
    return sum(bool(_CODE.fullmatch(text)) for text in said if text[-1:].isdigit()) > 1


def _has_heading(layout: PageLayout, members: Ints, starts: Ints) -> bool:
    """Whether a row of some words, given with where rows start, is the heading of a table of contents."""
    ends = np.append(starts[1:], len(members))
    short = ends - starts <= HEADING_WORDS
    texts = layout.words.texts
    return any(
        names_contents(" ".join(texts[i] for i in members[a:b].tolist()))
        for a, b in zip(starts[short].tolist(), ends[short].tolist(), strict=True)
    )


def _contents(layout: PageLayout, rows: Sequence[Row]) -> range:
    """The rows that end in page numbers below the heading of a table of contents; where leaders lead to all
    of them, in whatever order.
    """
    texts, led = layout.words.texts, layout.words.led
    for k, row in enumerate(rows):
        if len(row.words) <= HEADING_WORDS and names_contents(" ".join(texts[i] for i in row.words)):
            ends = [r.words[-1] for r in rows[k + 1 :] if len(r.words) > 1]
            pages = [int(text) for text in takewhile(str.isdecimal, (texts[i] for i in ends))]
            all_led = bool(pages) and all(led[i] for i in ends[: len(pages)])
            if are_pages(sorted(pages) if all_led else pages, headed=True):
                return range(k + 1, k + 1 + len(pages))
            return range(0)
    return range(0)


def _lists(layout: PageLayout, rows: Sequence[Row]) -> Iterator[list[int]]:
    """The words of lists whose items are counted from 1: each a number, a text set apart from it and its
    further lines, without rules between, without a row above that holds more and begins there as well, and
    in no row of a table.
    """
    k = 0
    while k < len(rows):
        last = _list_end(layout, rows, k)
        below = last - k > 1 and k and _goes_on_below(layout, rows[k - 1], rows[k])
        if last - k > 1 and not below and not _is_in_row(layout, rows, rows[k]):
            words = [i for row in rows[k:last] for i in row.words]
            if not _is_ruled(layout, words):
                yield words
        k = max(last, k + 1)


def _list_end(layout: PageLayout, rows: Sequence[Row], first: int) -> int:
    """Past the last row of the list that begins with a row; the row itself where none does."""
    em, w = layout.em, layout.words
    if _counted(layout, rows[first]) != 1:
        return first
    mark, text = (rows[first].words[k] for k in (0, 1))
    end, items, numeric = first + 1, 1, int(is_numeric(w.texts[text]))
    for row, above in zip(rows[first + 1 :], rows[first:], strict=False):
        room = row.y0 - above.y1
        if _counted(layout, row) == 1 + items and room < ITEM_ROOM * em:
            at, begin = row.words[:2]
            aligned = min(abs(w.x0[at] - w.x0[mark]), abs(w.x1[at] - w.x1[mark])) < SAME_PLACE * em
            if not aligned or abs(w.x0[begin] - w.x0[text]) > SAME_PLACE * em:
                break
            items, numeric = items + 1, numeric + is_numeric(w.texts[begin])
        elif len(row.spans) > 1 or abs(row.x0 - w.x0[text]) > SAME_PLACE * em or room > LINE_ROOM * em:
            break
        end += 1
    least = BARE_ITEMS if w.texts[mark].isdigit() else 2
    return end if items >= least and 2 * numeric < items else first


def _counted(layout: PageLayout, row: Row) -> int | None:
    """The number of an item that a row begins with, where nothing but one text follows."""
    match = MARK.fullmatch(layout.words.texts[row.words[0]])
    if match is None or len(row.words) < 2:
        return None
    x1 = float(layout.words.x1[row.words[0]])
    alone = row.spans[0][1] <= x1
    return int(match[1]) if len(row.spans) == 1 + alone else None


def _goes_on_below(layout: PageLayout, row: Row, item: Row) -> bool:
    """Whether one of several texts of a row stands over the numbers or the texts of the items, or two of them
    are parted where these are.
    """
    w, reach = layout.words, SAME_PLACE * layout.em
    mark, text = item.words[:2]
    begins = any(abs(x0 - w.x0[i]) < reach for x0, _ in row.spans[1:] for i in (mark, text))
    parted = any(a < w.x0[text] and b > w.x1[mark] for (_, a), (b, _) in pairwise(row.spans))
    return begins or (parted and row.x0 < w.x1[mark])


def _is_in_row(layout: PageLayout, rows: Sequence[Row], item: Row) -> bool:
    """Whether several texts stand level beside an item in a narrow part of the page, as beside a cell."""
    w = layout.words
    width = max(r.x1 for r in rows) - min(r.x0 for r in rows)
    if width > CELL * layout.width:
        return False
    level = np.flatnonzero((w.row == w.row[item.words[0]]) & ~w.turned)
    return any(len(row.spans) > len(item.spans) + 1 for row in rows_of(layout, level))


def _is_ruled(layout: PageLayout, words: Sequence[int]) -> bool:
    """Whether rules or the edges of shading part a text."""
    box = layout.box(np.array(words))
    level, upright, shades = layout.rules.level, layout.rules.upright, layout.rules.shades
    across = (level.low < box.x1) & (level.high > box.x0) & (level.at > box.y0) & (level.at < box.y1)
    down = (upright.low < box.y1) & (upright.high > box.y0) & (upright.at > box.x0) & (upright.at < box.x1)
    shaded = (shades.x0 < box.x1) & (shades.x1 > box.x0) & (shades.y0 < box.y1) & (shades.y1 > box.y0)
    parting = shaded & ((shades.y0 > box.y0) | (shades.y1 < box.y1))
    return bool(across.any() or down.any() or parting.any())


def _addresses(layout: PageLayout, rows: Sequence[Row]) -> Iterator[list[int]]:
    """The words of addresses that stand side by side: texts line by line from one left edge, each with one
    line that names a place by its postal code, and nothing beside them.
    """
    texts = layout.words.texts
    numbered = [any(t[0].isdigit() or t[-1].isdigit() for t in map(texts.__getitem__, r.words)) for r in rows]
    # No line of an address is farther from that with the code.
    far = ADDRESS_LINES[-1] + 1
    cells = [
        _cells(layout, row) if any(numbered[max(0, k - far) : k + far + 1]) else []
        for k, row in enumerate(rows)
    ]
    found = [
        _block(layout, rows, cells, k, x0)
        for k, row in enumerate(cells)
        for x0, words in row
        if numbered[k] and len(words) > 1 and _POSTCODE.fullmatch(" ".join(texts[i] for i in words))
    ]
    # What has several such lines is met as often.
    met = Counter(block[min(block)][0] for block in found)
    blocks = [b for b in found if len(b) in ADDRESS_LINES and met[b[min(b)][0]] == 1]
    while blocks:
        first = blocks[0]
        near = [b for b in blocks if b.keys() & first.keys()]
        blocks = [b for b in blocks if b not in near]
        words = [i for block in near for line in block.values() for i in line]
        words += _beside(layout, [cells[k] for k in {k for block in near for k in block}], near)
        whole = sum(len(rows[k].words) for k in {k for block in near for k in block})
        if len(near) > 1 and len(words) == whole and not _is_ruled(layout, words):
            yield words


def _beside(
    layout: PageLayout,
    rows: Sequence[Sequence[tuple[float, list[int]]]],
    blocks: Sequence[dict[int, list[int]]],
) -> list[int]:
    """The words of one more text beside addresses, line by line from one left edge, one of them with a number
    at its end, as the upper lines of a taller address are; none where there is anything else.
    """
    held = {i for block in blocks for line in block.values() for i in line}
    rest = [(x0, words) for row in rows for x0, words in row if not held & {*words}]
    texts = [layout.words.texts[words[-1]] for _, words in rest]
    if len(rest) != len(rows) or not any(text.isdigit() for text in texts):
        return []
    near = np.ptp([x0 for x0, _ in rest]) < SAME_PLACE * layout.em
    return [i for _, words in rest for i in words] if near and min(len(w) for _, w in rest) > 1 else []


def _cells(layout: PageLayout, row: Row) -> list[tuple[float, list[int]]]:
    """Where each span of a row begins, and its words."""
    cells: list[tuple[float, list[int]]] = [(x0, []) for x0, _ in row.spans]
    for word, span in zip(row.words, span_of(layout, row).tolist(), strict=True):
        cells[span][1].append(word)
    return cells


def _block(
    layout: PageLayout,
    rows: Sequence[Row],
    cells: Sequence[Sequence[tuple[float, list[int]]]],
    at: int,
    x0: float,
) -> dict[int, list[int]]:
    """The words of the lines right above and below a line that begin with it, by row: of as many as an
    address may have, and one more.
    """
    em = layout.em
    out: dict[int, list[int]] = {}
    usual = np.inf
    for steps in (range(at, len(rows)), range(at - 1, -1, -1)):
        before = at
        for k in steps:
            own = [words for x, words in cells[k] if abs(x - x0) < SAME_PLACE * em]
            room = max(rows[k].y0 - rows[before].y1, rows[before].y0 - rows[k].y1)
            if not own or room > min(LINE_ROOM * em, usual) or len(out) > ADDRESS_LINES[-1]:
                break
            if k != before:
                # Headings and text around it stand farther off than its lines.
                usual = min(usual, room + EVEN * em)
            out[k], before = own[0], k
    return out
