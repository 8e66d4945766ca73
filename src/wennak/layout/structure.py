"""Lines in reading order -> blocks with roles, for the whole document."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Sequence
from dataclasses import replace
from itertools import pairwise, takewhile

from ..equations import mathml, tex
from ..ink import OutlineItem
from ..model import (
    Block,
    Code,
    Contents,
    Field,
    Fields,
    Figure,
    Footnote,
    Formula,
    Heading,
    ListBlock,
    ListItem,
    Mark,
    Paragraph,
    Running,
    Table,
)
from .blocks import Piece, is_relation, listed, make_block, merged_places, places_of
from .captions import CAPTION
from .contents import NESTED, contents_of, contents_runs
from .display_places import EQUATION
from .flow import DisplayMark, FieldMark, FigureMark, Line, PageItems, TableMark
from .groups import ENDS, ITEM, SAME_SIZE, Style, body_size, group_lines, is_full, style_of
from .headings import (
    Evidence,
    Found,
    chapter_label,
    evidence,
    found,
    is_byline,
    set_levels,
)
from .joining import joined_lines, shifted_marks
from .running import find_running

# A figure and its caption stand at most this far apart (em).
CAPTION_REACH = 3.0
# A label of a figure has at most so many words.
LABEL_WORDS = 5
# A line that goes on below the last one follows it within this share of its height.
CLOSE = 0.5
# What is noted at the foot of a column is set at most this large, as a share of the text.
ASIDE = 0.92
# Items of a list follow each other within this (em).
TIGHT = 2.2

# A label without numbers, as "Part 1" has one, and what is said of it.
_LABELLED = re.compile(r"^[^\W\d][^:：\d]{0,24}[:：]\s+\S")
_NUMBER = re.compile(r"^\(?(\d{1,3})[.)]?$")


def structure(
    pages: Sequence[PageItems],
    table_at: Callable[[int, int], Block | None],
    outline: Sequence[OutlineItem] = (),
) -> tuple[list[Block], list[Running]]:
    """Build the blocks of a document and its running heads; the items of the pages are used up.

    `table_at(page, index)` gives the block for a table mark, or None where the table continues one that
    already stands in the text.
    """
    lines, sizes = [[i for i in page.items if isinstance(i, Line)] for page in pages], [p.em for p in pages]
    running = find_running(pages, body_size(lines, sizes))
    style = style_of([[line for line in ls if id(line) not in running] for ls in lines], sizes)
    if style.fixed:
        for line in (line for ls in lines for line in ls):
            line.fixed = line.listed
    facts = evidence(lines, style.body, outline)
    del lines
    kept: list[Running] = []
    heads: list[Found] = []
    text = _Text()
    for page in pages:
        kept += [Running(i.text, i.place) for i in page.items if isinstance(i, Line) and id(i) in running]
        pieces = list(_pieces(page, running, table_at, style, facts))
        _take_captions(pieces)
        _join_formulas(pieces)
        _take_items(pieces)
        _take_labelled(pieces)
        titles = _take_chapter_labels(pieces)
        heads += [found(p.block, p.lines, id(p) in titles) for p in pieces if isinstance(p.block, Heading)]
        text.add(pieces)
        # Of a long document, the lines and the blocks made of them need not be held together.
        page.items = []
    blocks = _without_byline(text.blocks, heads)
    set_levels(heads)
    return _without_lone_items(blocks), kept


def _take_items(pieces: list[Piece]) -> None:
    """Make headings that are numbered and follow each other line by line the items of a list: text set larger
    than most of a document.
    """
    numbers = [
        _counted(p.lines[0]) if isinstance(p.block, Heading) and not p.lines[0].role else None for p in pieces
    ]
    for (above, number), (below, following) in pairwise(zip(pieces, numbers, strict=True)):
        if number is None or following != number + 1:
            continue
        last, first = above.lines[-1], below.lines[0]
        step = (first.baseline - last.baseline) / first.size
        if not 0 < step < TIGHT or first.column != last.column or first.bold or last.bold:
            continue
        for piece in (above, below):
            if isinstance(heading := piece.block, Heading):
                piece.block = listed(heading.text, [], ITEM.match(heading.text), heading.places)


def _take_labelled(pieces: Sequence[Piece]) -> None:
    """Make headings of one size that follow each other, each a label and what is said of it, paragraphs: the
    lines of a form or of a letter's head.
    """
    labelled = [isinstance(p.block, Heading) and bool(_LABELLED.match(p.block.text)) for p in pieces]
    for k, (above, below) in enumerate(pairwise(pieces)):
        if labelled[k] and labelled[k + 1] and abs(below.lines[0].size / above.lines[0].size - 1) < SAME_SIZE:
            for piece in (above, below):
                if isinstance(heading := piece.block, Heading) and not piece.lines[0].role:
                    piece.block = Paragraph(heading.text, places=heading.places)


def _counted(line: Line) -> int | None:
    """The number that a line begins with, as items do."""
    match = ITEM.match(line.text)
    number = _NUMBER.match(match[1]) if match else None
    return int(number[1]) if number else None


def _take_chapter_labels(pieces: list[Piece]) -> set[int]:
    """Make labels of chapters right above their titles paragraphs; return the ids of the pieces of titles."""
    titles = set()
    for k, piece in enumerate(pieces):
        heads = [p.block for p in pieces[k : k + 3]]
        near = [h for h in takewhile(lambda h: isinstance(h, Heading), heads) if isinstance(h, Heading)]
        if count := chapter_label([h.text for h in near]):
            places = [place for h in near[:count] for place in h.places]
            piece.block = Paragraph(" ".join(h.text for h in near[:count]), places=merged_places(places))
            titles.add(id(pieces[k + count]))
            del pieces[k + 1 : k + count]
    return titles


def _without_byline(blocks: list[Block], heads: list[Found]) -> list[Block]:
    """What names the authors right below the title becomes a paragraph; it is dropped from the headings."""
    for title, below in pairwise(blocks):
        if not (isinstance(title, Heading) and title is heads[0].heading):
            continue
        if len(heads) > 1 and below is heads[1].heading and is_byline(heads[1], heads):
            del heads[1]
            return [Paragraph(b.text, places=b.places) if b is below else b for b in blocks]
        break
    return blocks


def _without_lone_items(blocks: list[Block]) -> list[Block]:
    """A single numbered or starred item that none follows or precedes by count is a paragraph, or a note."""
    lists = [b for b in blocks if isinstance(b, ListBlock)]
    lone = set()
    for k, block in enumerate(lists):
        here = _count(block.items[0])
        before = _count(lists[k - 1].items[-1]) if k else None
        after = _count(lists[k + 1].items[0]) if k + 1 < len(lists) else None
        counts = here is not None and (before == here - 1 or after == here + 1)
        if _is_lone(block) and not counts:
            lone.add(id(block))
    return [_as_paragraph(b) if isinstance(b, ListBlock) and id(b) in lone else b for b in blocks]


def _count(item: ListItem) -> int | None:
    number = _NUMBER.match(item.label)
    return int(number[1]) if number else None


def _as_paragraph(block: ListBlock) -> Paragraph:
    item = block.items[0]
    text = f"{item.label} {item.text}"
    return Paragraph(text, shifted_marks(item.marks, len(item.label) + 1, len(text)), places=block.places)


def _is_lone(block: ListBlock) -> bool:
    """Whether a list has one item, whose mark may be something else."""
    if len(block.items) > 1:
        return False
    label = block.items[0].label
    return label in ("*", "∗", "-", "–", "—") or label[-1:] in (".", ")") or label.isdigit()


def _pieces(
    page: PageItems,
    running: set[int],
    table_at: Callable[[int, int], Block | None],
    style: Style,
    facts: Evidence,
) -> Iterator[Piece]:
    """The blocks of one page in order."""
    waiting: list[Line] = []
    for item in [*page.items, None]:
        if isinstance(item, Line):
            if id(item) not in running:
                waiting.append(item)
            continue
        for group in _groups(waiting, style):
            block = group if isinstance(group, Contents) else make_block(group, style, facts, page.raised)
            yield Piece(block, [] if isinstance(group, Contents) else group)
        waiting = []
        if isinstance(item, TableMark):
            table = table_at(page.number, item.index)
            if table is not None:
                yield Piece(table, [])
        elif isinstance(item, FigureMark):
            yield Piece(Figure(text=item.text, places=[item.place]), [])
        elif isinstance(item, DisplayMark):
            yield Piece(_formula(item), [])
        elif isinstance(item, FieldMark):
            entry = Field(item.label, item.value, item.checked, [item.place])
            yield Piece(Fields([entry], [item.place]), [])


def _formula(mark: DisplayMark) -> Formula:
    shown = mark.display
    written = (tex(shown.tree), mathml(shown.tree)) if shown.tree else ("", "")
    return Formula(shown.text, shown.label, *written, places=[mark.place])


def _groups(lines: list[Line], style: Style) -> Iterator[list[Line] | Contents]:
    """Groups of lines, with tables of contents taken out."""
    start = 0
    for first, last in contents_runs(lines):
        yield from group_lines(lines[start:first], style)
        yield contents_of(lines[first:last])
        start = last
    yield from group_lines(lines[start:], style)


def _take_captions(pieces: list[Piece]) -> None:
    """Give each figure the caption that stands right below or above it; a short line between them, as below
    an axis, is a label of the figure. Beside text the caption may be read apart from it.
    """
    for k, piece in enumerate(pieces):
        if not isinstance(piece.block, Figure):
            continue
        for steps in ((1,), (-1,), (1, 2)):
            beside = [pieces[k + n] for n in steps if 0 <= k + n < len(pieces)]
            blocks = [p.block for p in beside if isinstance(p.block, Paragraph) and _is_near(piece, p)]
            if len(blocks) < len(steps) or not CAPTION.match(blocks[-1].text):
                continue
            if len(blocks) > 1 and not _is_label(piece, beside[0]):
                continue
            _take(piece.block, blocks)
            break
    named = [(p, p.block) for p in pieces if isinstance(p.block, Paragraph) and CAPTION.match(p.block.text)]
    for piece in pieces:
        if isinstance(piece.block, Figure) and not piece.block.caption:
            near = [block for caption, block in named if block.text and _is_near(piece, caption)]
            if near:
                _take(piece.block, near[:1])
    pieces[:] = [p for p in pieces if not (isinstance(p.block, Paragraph) and not p.block.text)]


def _take(figure: Figure, blocks: Sequence[Paragraph]) -> None:
    """Give a figure the last of some paragraphs as caption, the others as labels; these are empty then."""
    figure.caption = blocks[-1].text
    figure.text = " ".join(filter(None, [figure.text, *(block.text for block in blocks[:-1])]))
    for block in blocks:
        figure.places += block.places
        block.text = ""


def _is_label(figure: Piece, text: Piece) -> bool:
    """Whether a text below a figure is one short line within its width."""
    a, b = figure.block.places[0].box, text.block.places[0].box
    short = len(text.lines) == 1 and len(text.lines[0].text.split()) <= LABEL_WORDS
    return short and a.x0 <= b.x0 and b.x1 <= a.x1


def _join_formulas(pieces: list[Piece]) -> None:
    """Join the parts of a formula that stand above each other, and its number, set at the right, to it."""
    k = 1
    while k < len(pieces):
        above, below = pieces[k - 1], pieces[k]
        formula, block = above.block, below.block
        if isinstance(formula, Paragraph) and isinstance(block, Paragraph) and EQUATION.match(block.text):
            level = abs(above.lines[-1].baseline - below.lines[0].baseline) < above.lines[-1].size
            if level and is_relation(above.lines, formula.text):
                # A number at the margin makes a relation a formula, however long its names are.
                formula = above.block = Formula(formula.text, places=formula.places)
        lined = above.lines and below.lines
        if not lined or not isinstance(formula, Formula) or not isinstance(block, (Formula, Paragraph)):
            k += 1
            continue
        last, first = above.lines[-1], below.lines[0]
        number = isinstance(block, Paragraph) and bool(EQUATION.match(block.text))
        if number and not formula.label and abs(last.baseline - first.baseline) < 2 * last.size:
            formula.label = block.text
        elif isinstance(block, Formula) and first.baseline - last.baseline < 2 * last.size:
            formula.text, formula.label = f"{formula.text} {block.text}", formula.label or block.label
        else:
            k += 1
            continue
        above.lines = [*above.lines, *below.lines]
        formula.places = places_of(above.lines)
        del pieces[k]


def _is_near(figure: Piece, caption: Piece) -> bool:
    """Whether a text stands right above or below a figure, or beside it, as on a page that lies sideways."""
    a, b = figure.block.places[0].box, caption.block.places[0].box
    across, along = max(b.x0 - a.x1, a.x0 - b.x1), max(b.y0 - a.y1, a.y0 - b.y1)
    return min(across, along) < 0 and max(across, along) < CAPTION_REACH * caption.lines[0].size


class _Text:
    """The blocks of a document as they grow, page by page."""

    def __init__(self) -> None:
        self.blocks: list[Block] = []
        self._indents: list[float] = []
        self._notes = 0
        self._last: Paragraph | None = None
        self._end: Line | None = None
        self._item = self._element = -1
        self._code_indent = 0.0

    def add(self, pieces: Sequence[Piece]) -> None:
        """Add the blocks of a page, joining what goes on from the page or column before."""
        notes = self._number_notes(pieces)
        for piece in pieces:
            block = piece.block
            if isinstance(block, Paragraph):
                block.marks = list(_resolved(block.marks, notes))
            elif isinstance(block, ListBlock):
                for item in block.items:
                    item.marks = list(_resolved(item.marks, notes))
            elif isinstance(block, Footnote):
                block.marks = list(_resolved(block.marks, notes))
            last = self.blocks[-1] if self.blocks else None
            if isinstance(block, Fields) and isinstance(last, Fields):
                last.fields += block.fields
                last.places = merged_places([*last.places, *block.places])
            elif not self._goes_on(piece):
                self.blocks.append(block)
                if isinstance(block, Paragraph):
                    if not self._is_aside(piece):
                        self._last, self._end = block, piece.lines[-1]
                elif not isinstance(block, (Footnote, Table, Figure)):
                    self._last = None

    def _goes_on(self, piece: Piece) -> bool:
        """Join a piece to what stands before it, where it belongs to that."""
        # Each of them takes note of what it sees.
        return self._list(piece) or self._paragraph(piece) or self._code(piece)

    def _is_aside(self, piece: Piece) -> bool:
        """Whether a paragraph in smaller letters stands below one that stops in mid sentence: what is noted
        at the foot of a column, while the text goes on in the next one.
        """
        if self._last is None or self._end is None or self._last.text[-1:] in ENDS:
            return False
        return is_full(self._end) and piece.lines[0].size < ASIDE * self._end.size

    def _number_notes(self, pieces: Sequence[Piece]) -> dict[str, str]:
        """Number the footnotes of a page through the document; returns their ids by label."""
        ids: dict[str, str] = {}
        for piece in pieces:
            if isinstance(piece.block, Footnote):
                self._notes += 1
                piece.block.id = f"note-{self._notes}"
                ids.setdefault(piece.block.label, piece.block.id)
        return ids

    def _list(self, piece: Piece) -> bool:
        """Add an item to the list before it; sets the depth of the item."""
        block = piece.block
        if not isinstance(block, ListBlock):
            return False
        first = piece.lines[0]
        last = self.blocks[-1] if self.blocks else None
        if not isinstance(last, ListBlock):
            self._indents = []
        before, self._item = self._item, first.block
        item = block.items[0]
        if isinstance(last, ListBlock) and first.block >= 0 and first.block == before:
            # The same item goes on, over the page or round a table.
            _extend(last.items[-1], item.text, item.marks)
            last.items[-1].places += item.places
            last.places += block.places
            return True
        indent = NESTED * first.size * first.nest * 2 if first.nest else first.box.x0 - first.left
        while self._indents and self._indents[-1] > indent + 0.5 * first.size:
            self._indents.pop()
        if not self._indents or indent > self._indents[-1] + NESTED * first.size:
            self._indents.append(indent)
        item.depth = len(self._indents) - 1
        if not isinstance(last, ListBlock):
            return False
        last.items += block.items
        last.places += block.places
        return True

    def _paragraph(self, piece: Piece) -> bool:
        """Join a paragraph to one that stopped in mid sentence on the page or column before."""
        block, last = piece.block, self._last
        if not isinstance(block, Paragraph):
            return False
        element, self._element = self._element, piece.lines[0].block
        same = element == self._element
        # Where tags tell paragraphs apart, they say which goes on.
        goes_on = same if self._element >= 0 or element >= 0 else last is not None and _runs_on(last, block)
        # A text with others beside it goes on with none.
        if last is None or not goes_on or piece.lines[0].part >= 0:
            return False
        _extend(last, block.text, block.marks)
        last.places += block.places
        return True

    def _code(self, piece: Piece) -> bool:
        """Join code to code that stood at the end of the page or column before; keep its indentation."""
        block, last = piece.block, self.blocks[-1] if self.blocks else None
        indent, self._code_indent = self._code_indent, 0.0
        if not isinstance(block, Code):
            return False
        line = min(piece.lines, key=lambda ln: ln.box.x0)
        pitch = (line.box.x1 - line.box.x0) / max(1, len(line.text))
        self._code_indent = (line.box.x0 - line.left) / max(pitch, 0.1)
        if not (isinstance(last, Code) and _turned_over(last, block)):
            return False
        more = round(self._code_indent - indent)
        text = "\n".join(" " * max(0, more) + row for row in block.text.split("\n"))
        before = "\n".join(" " * max(0, -more) + row for row in last.text.split("\n"))
        last.text = f"{before}\n{text}"
        last.places += block.places
        self._code_indent = min(indent, self._code_indent)
        return True


def _turned_over(above: Block, below: Block) -> bool:
    """Whether a block goes on at the top of the page or column after that of the block before it."""
    a, b = above.places[-1], below.places[0]
    return a.page != b.page or b.box.y0 < a.box.y1 - 1


def _resolved(marks: Sequence[Mark], notes: dict[str, str]) -> Iterator[Mark]:
    """Let marks of footnotes name the note; other raised text is a superscript."""
    for mark in marks:
        if mark.kind != "note":
            yield mark
        elif mark.target in notes:
            yield replace(mark, target=notes[mark.target])
        else:
            yield replace(mark, kind="sup", target="")


def _extend(block: Paragraph | ListItem, text: str, marks: Sequence[Mark]) -> None:
    joined, starts = joined_lines([block.text, text])
    block.marks = [*shifted_marks(block.marks, 0, starts[1]), *shifted_marks(marks, starts[1], len(joined))]
    block.text = joined


def _runs_on(above: Paragraph, below: Paragraph) -> bool:
    if not (above.places and below.places and above.text and below.text):
        return False
    a, b = above.places[-1], below.places[0]
    # A strip between columns may begin in the middle of the paragraph above it.
    size = b.box.y1 - b.box.y0
    under = a.page == b.page and abs(a.box.x0 - b.box.x0) < size and -1 < b.box.y0 - a.box.y1 < CLOSE * size
    return (
        (under or _turned_over(above, below)) and above.text[-1:] not in '.:!?”"' and below.text[:1].islower()
    )
