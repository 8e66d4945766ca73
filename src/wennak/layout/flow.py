"""Words outside tables -> lines in reading order, with tables and figures standing among them."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from itertools import chain, groupby, pairwise
from operator import itemgetter

import numpy as np

from ..ink import Bools, Ints, distinct, median
from ..model import Box, Mark, Place
from .beside import beside, rows_of, set_apart, with_values
from .bidi import logical
from .displays import Display
from .figures import FigureArea
from .joining import Stretch, joined_stretches
from .page import FieldArea, PageLayout, rounded_boxes
from .tags import Tags

# A gap this wide (em) parts two pieces of text that happen to stand at one height.
PART_GAP = 2.5
# A label before an item has at most so many characters and stands this far (em) before its text.
LABEL_LENGTH = 5
LABEL_GAP = 0.7
# Fewer capitals than this are an abbreviation.
CAPITALS = 8
# Baselines that differ by less stand level: producers round them (points).
LEVEL = 0.25


@dataclass(slots=True)
class Line:
    """A line of text with what its role is judged by.

    `column` is the number of its zone on the page, `left` and `right` are the edges of that zone; `dot` tells
    of a bullet drawn as a shape before it, `label` is a short first word set well apart from the rest,
    `led` tells that a dotted leader runs up to it, `turned` that it does not run from left to right, `lead`
    is how many of its first characters are raised, `listed` tells that it is of a program, `level` that other
    text of its zone stands at its height. `marks` of kind
    "note" are raised ends of words that may be marks of footnotes. `block`, `role` and `nest` are its block
    in the structure tree, the type of that and the number of lists around it; -1, nothing and 0 without tags.
    """

    text: str
    place: Place
    box: Box
    baseline: float
    size: float
    bold: bool
    italic: bool
    fixed: bool
    column: int
    left: float
    right: float
    dot: bool = False
    label: str = ""
    led: bool = False
    turned: bool = False
    lead: int = 0
    listed: bool = False
    level: bool = False
    marks: list[Mark] = field(default_factory=list)
    part: int = -1
    block: int = -1
    role: str = ""
    nest: int = 0


def in_capitals(text: str) -> bool:
    """Whether a text of several letters and more than one word is set all in capitals."""
    return text.isupper() and " " in text.strip() and sum(map(str.isalpha, text)) >= CAPITALS


@dataclass(slots=True)
class TableMark:
    """The place of table number `index` of the page in the reading order."""

    index: int
    box: Box


@dataclass(slots=True)
class FigureMark:
    """The place of a figure in the reading order, and the text in it."""

    text: str
    place: Place
    box: Box


@dataclass(slots=True)
class FieldMark:
    """The place of a field of a form in the reading order; `text` is all that is written in it."""

    text: str
    place: Place
    box: Box
    label: str
    value: str
    checked: bool | None


@dataclass(slots=True)
class DisplayMark:
    """The place of an equation in the reading order."""

    display: Display
    place: Place
    box: Box


Item = Line | TableMark | FigureMark | FieldMark | DisplayMark


@dataclass(slots=True)
class PageItems:
    """The lines and the marks of tables and figures of a page in reading order; its width and height as it is
    read, `sideways` if it lies on its side; `em` is the size of most of its text, that of tables too, and
    `raised` holds the raised ends of its words.
    """

    number: int
    width: float
    height: float
    items: list[Item]
    em: float
    sideways: bool = False
    raised: frozenset[str] = frozenset()


def flow(
    layout: PageLayout,
    taken: Bools,
    tables: Sequence[tuple[Box, Ints]],
    figures: Sequence[FigureArea] = (),
    fields: Sequence[FieldArea] = (),
) -> list[Item]:
    """Return the lines, tables, figures and fields of a page in reading order.

    `taken` marks the words that stand in tables, figures and fields; a table is given by its box and words.
    The order is that of the tags where they are trusted, else zone by zone, from top to bottom in each; a
    table is read with the zone that holds most of its words.
    """
    zones = layout.zone_of()
    groups = _by_tags(layout, zones) if layout.tags else zones
    # Of each item its group, its height in that, and its zone.
    keyed: list[tuple[float, tuple[float, ...], float, Item]] = []

    def put(item: TableMark | FigureMark | FieldMark | DisplayMark, members: Ints) -> None:
        home, zone = (_home(layout, of, item.box, members, of is not zones) for of in (groups, zones))
        keyed.append((home, _height(item, layout.em), zone, item))

    for index, (box, members) in enumerate(tables):
        put(TableMark(index, box), members)
    for figure in figures:
        text = " ".join(layout.words.texts[i] for i in figure.words.tolist())
        put(FigureMark(text, layout.place(figure.box), figure.box), figure.words)
    for area in fields:
        put(_field_mark(layout, area), area.words)
    none = np.empty(0, dtype=np.int64)
    for display in layout.displays:
        put(DisplayMark(display, layout.place(display.box), display.box), none)
    free = np.flatnonzero(~taken)
    lines = list(_lines(layout, free[np.argsort(groups[free], kind="stable")], groups))
    columns = _columns(lines)
    for line, group in lines:
        keyed.append((group, columns.get(id(line), _height(line, layout.em)), line.column, line))
    turns = _turns([(group, zone, item.box) for group, _, zone, item in keyed]) if layout.tags else {}
    level = _levels(height for _, (height, *_), *_ in keyed)
    keyed.sort(key=lambda e: (e[0], turns.get((e[0], e[2]), 0), level[e[1][0]], e[1][1:]))
    return [item for *_, item in keyed]


def _turns(items: Iterable[tuple[float, float, Box]]) -> dict[tuple[float, float], int]:
    """Which column of its group, counted from 0, each zone of it is read with, given group, zone and box of
    items: one that begins right of the zones before it and above their top goes on in the next column.
    """
    boxes: dict[float, dict[float, list[Box]]] = defaultdict(lambda: defaultdict(list))
    for group, zone, box in items:
        boxes[group][zone].append(box)
    out: dict[tuple[float, float], int] = {}
    for group, zones in boxes.items():
        turn, before = 0, None
        for zone, around in sorted(
            ((zone, Box.around(own)) for zone, own in zones.items()),
            key=lambda entry: (entry[1].x0, entry[0]),
        ):
            if before is not None and around.x0 > before.x1 and around.y0 < before.y0:
                turn, before = turn + 1, None
            out[group, zone] = turn
            before = Box.around([before, around]) if before else around
    return out


def _field_mark(layout: PageLayout, area: FieldArea) -> FieldMark:
    texts = layout.words.texts
    text, label, value = (
        " ".join(texts[i] for i in part.tolist()) for part in (area.words, area.label, area.value)
    )
    shown = value if area.said is None else area.said
    return FieldMark(text, layout.place(area.box), area.box, label, shown, area.checked)


def _by_tags(layout: PageLayout, zones: Ints) -> Ints:
    """The block of each word; words without one go with the word before them in their zone, and so does text
    right in an element that holds other blocks, since only these have an order.
    """
    tags = layout.tags
    assert tags is not None
    block = tags.block
    blocks = distinct(block[block >= 0]).tolist()
    above = {e for b in blocks for e in tags.ancestors(b)}
    placed = (block >= 0) & ~np.isin(block, [b for b in blocks if b in above])
    order = np.argsort(zones, kind="stable")
    at = np.maximum.accumulate(np.where(placed[order], np.arange(len(order)), -1))
    out = np.empty(len(order), dtype=np.int64)
    out[order] = np.where(at >= 0, block[order][at], -1)
    return out


def _home(layout: PageLayout, groups: Ints, box: Box, members: Ints, first: bool) -> float:
    """The group that a table or figure is read with: the `first` of its words, or that of most of them."""
    if len(members):
        held = groups[members]
        return float(held.min()) if first else float(np.bincount(held).argmax())
    w = layout.words
    if not len(w):
        return 0.0
    # What has no words is read after the nearest text above it that shares its column.
    shared = (w.x0 < box.x1) & (w.x1 > box.x0)
    above = shared & (w.y1 < box.y0 + 1)
    candidates = np.flatnonzero(above if above.any() else shared if shared.any() else w.row >= 0)
    far = np.abs(w.y1[candidates] - box.y0)
    return float(groups[candidates[int(far.argmin())]])


def _height(item: Item, em: float) -> tuple[float, float]:
    return (item.baseline if isinstance(item, Line) else item.box.y0 + em, item.box.x0)


def _levels(heights: Iterable[float]) -> dict[float, int]:
    """The number of the level of each height from the top down: what stands level differs by a little."""
    order = distinct(np.array([*heights]))
    return dict(
        zip(order.tolist(), np.cumsum(np.diff(order, prepend=order[:1]) > LEVEL).tolist(), strict=True)
    )


def _columns(lines: Sequence[tuple[Line, float]]) -> dict[int, tuple[float, ...]]:
    """Where lines of texts side by side are read: at the height of their first lines, text by text; each is
    told its text.
    """
    out: dict[int, tuple[float, ...]] = {}
    parts = 0

    def put(text: Sequence[Line], top: float, left: float) -> None:
        nonlocal parts
        if not any(id(line) in out for line in text):
            for line in text:
                line.part = parts
                out[id(line)] = (top, left, line.baseline, line.box.x0)
            parts += 1

    for _, own in groupby(sorted(lines, key=lambda item: (item[1], item[0].baseline)), key=itemgetter(1)):
        zone = [line for line, _ in own]
        rows = rows_of(zone)
        for line, after in (pair for row in rows for pair in pairwise(row)):
            line.level = after.level = True
        for texts in chain(beside(rows), with_values(rows)):
            top = min(line.baseline for text in texts for line in text)
            for text in texts:
                put(text, top, min(line.box.x0 for line in text))
        for text, top in set_apart(zone):
            put(text, top, text[0].box.x0)
    return out


def _lines(layout: PageLayout, members: Ints, groups: Ints) -> Iterator[tuple[Line, float]]:
    """Words that follow each other in a row of their group without a wide gap make a line."""
    if not len(members):
        return
    w, fonts, tags = layout.words, layout.ink.fonts, layout.tags
    row, x0, x1, size = w.row[members], w.x0[members], w.x1[members], w.size[members]
    group = groups[members]
    head = np.ones(len(members), dtype=np.bool_)
    apart = x0[1:] - x1[:-1] > PART_GAP * size[1:]
    traits = np.array([(f.bold, f.italic, f.fixed_pitch) for f in fonts], dtype=np.bool_)[w.font[members]]
    listed = np.zeros(len(members), dtype=np.bool_)
    for listing in layout.listings:
        own = np.isin(members, listing)
        listed |= own
        apart &= ~(own[1:] & own[:-1])
        # Numbers of lines are set as they may.
        size[own], traits[own, 2] = median(w.size[listing]), True
    if tags:
        block = tags.block[members]
        holds = np.isin(block, np.array([e for e in distinct(block).tolist() if tags.is_container(e)]))
        apart = (apart & holds[1:]) | (block[1:] != block[:-1])
    head[1:] = (row[1:] != row[:-1]) | apart | w.turned[members][1:] | (group[1:] != group[:-1])
    starts = np.flatnonzero(head)
    width = np.maximum(x1 - x0, 0.01)
    total = np.add.reduceat(width, starts)
    shares = np.add.reduceat(traits * width[:, None], starts) / total[:, None] > 0.9
    links = _linked(layout)
    special = np.logical_or.reduceat(
        traits[:, 0] | traits[:, 1] | (links[members] >= 0) | w.scripted[members], starts
    ).tolist()
    zone_of = layout.zone_of() if tags else groups
    boxes = rounded_boxes(
        np.minimum.reduceat(x0, starts), np.minimum.reduceat(w.y0[members], starts),
        np.maximum.reduceat(x1, starts), np.maximum.reduceat(w.y1[members], starts),
    )  # fmt: skip
    columns = (
        starts, np.append(starts[1:], len(members)),
        w.baseline[members][starts], np.add.reduceat(size * width, starts) / total,
    )  # fmt: skip
    words = members.tolist()
    texts = list(map(w.texts.__getitem__, words))
    looks = np.column_stack((traits[:, :2], links[members], w.trail[members]))
    firsts = members[starts]
    led, turned, lead = w.led[firsts].tolist(), w.turned[firsts].tolist(), w.lead[firsts].tolist()
    zones, styles, own = zone_of[firsts].tolist(), shares.tolist(), group[starts].tolist()
    labelled = _labelled(layout, members, starts, columns[1])
    edges = [(z.x0, z.x1) for z in layout.zones] + [(float(x0.min()), float(x1.max()))]
    places = layout.places(boxes)
    for k, (a, b, base, em) in enumerate(zip(*(c.tolist() for c in columns), strict=True)):
        bold, italic, fixed = styles[k]
        shown = _fixed_text(layout, words[a:b]) if fixed else " ".join(texts[a:b])
        if 0 < lead[k] < len(texts[a]):
            # A raised mark at the start of a line stands before its text, not in its first word.
            shown = f"{shown[: lead[k]]} {shown[lead[k] :]}"
        text = logical(shown)
        left, right = edges[zones[k]]
        line = Line(
            text, places[k], boxes[k], base, em, bold, italic, fixed, zones[k], left, right,
            layout.has_dot(boxes[k], em), texts[a] if labelled[k] else "", led[k], turned[k], lead[k],
            bool(listed[a]),
        )  # fmt: skip
        if special[k] and text == shown and not fixed:
            line.marks = _marks(layout, words[a:b], texts[a:b], looks[a:b].tolist(), lead[k])
        if tags:
            line.block = int(tags.block[words[a]])
            line.role, line.nest = _role(layout, tags, words[a], line.block), tags.depth(line.block)
        yield line, float(own[k])


def _role(layout: PageLayout, tags: Tags, word: int, element: int) -> str:
    """The type of a block's element; "Artifact" for what the tags leave out on purpose."""
    mark = int(layout.words.mark[word])
    if element < 0 and mark >= 0 and layout.ink.marks[mark][0] == "/Artifact":
        return "Artifact"
    return tags.role(element)


def _linked(layout: PageLayout) -> Ints:
    """The number of the link that each word stands in, -1 for none."""
    w = layout.words
    out = np.full(len(w), -1, dtype=np.int64)
    if not layout.ink.links:
        return out
    x, y = (w.x0 + w.x1) / 2, (w.y0 + w.y1) / 2
    for k, (rectangle, _) in enumerate(layout.ink.links):
        x0, y0, x1, y1 = rectangle
        out[(x > x0) & (x < x1) & (y > y0) & (y < y1)] = k
    return out


def _marks(
    layout: PageLayout, words: list[int], texts: list[str], looks: list[list[int]], lead: int
) -> list[Mark]:
    """What parts of a line are: bold, italic, links, raised ends, superscripts and subscripts.

    `looks` tells of each of its words whether it is bold and italic, the number of its link and how many of
    its last characters are raised; `lead` is how many of the first characters of the line are.
    """
    out: list[Stretch] = []
    at = 0
    for word, text, (bold, italic, link, trail) in zip(words, texts, looks, strict=True):
        end = at + len(text)
        if bold:
            out.append((at, end, "bold", ""))
        if italic:
            out.append((at, end, "italic", ""))
        if link >= 0:
            out.append((at, end, "link", layout.ink.links[link][1]))
        if at == 0 and 0 < lead < end:
            end += 1
        if 0 < trail < len(text):
            out.append((end - trail, end, "note", text[-trail:]))
        for a, b, raised in layout.words.scripts.get(word, ()) if at or not lead else ():
            if b - a < len(text) and not (raised and b == len(text) and trail):
                out.append((at + a, at + b, "sup" if raised else "sub", ""))
        at = end + 1
    return joined_stretches(out)


def _labelled(layout: PageLayout, members: Ints, starts: Ints, ends: Ints) -> list[bool]:
    """Whether each line begins with a short word set well apart from the rest."""
    w = layout.words
    first, second = members[starts], members[np.minimum(starts + 1, ends - 1)]
    apart = w.x0[second] - w.x1[first] > LABEL_GAP * w.size[first]
    out = [False] * len(starts)
    for k in np.flatnonzero(apart & (ends - starts > 1)).tolist():
        out[k] = len(w.texts[int(first[k])]) <= LABEL_LENGTH
    return out


def _fixed_text(layout: PageLayout, run: list[int]) -> str:
    """Text in fixed pitch keeps the number of its blanks."""
    w = layout.words
    out = w.texts[run[0]]
    for a, b in pairwise(run):
        # The number of a line may be smaller than the line.
        k = a if w.size[a] >= w.size[b] else b
        pitch = (float(w.x1[k]) - float(w.x0[k])) / max(1, len(w.texts[k]))
        blanks = round((float(w.x0[b]) - float(w.x1[a])) / pitch) if pitch > 0 else 1
        out += " " * max(1, min(blanks, 40)) + w.texts[b]
    return out
