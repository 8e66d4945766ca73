"""Stretches of pages: read apart, by one process or several, and joined into what one reading would give."""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass, field

import numpy as np

from .ink import PageInk, PdfFile
from .layout import Line, PageItems, PageLayout, TableMark, find_figures, flow, lay_out, raised_ends
from .model import Finding, PageSize, Table
from .scan import Recognition, recognised
from .tables import (
    LookAhead,
    Method,
    Part,
    TableDraft,
    attach_captions,
    confidences,
    continues,
    finished,
    follows,
    text_columns,
    with_same_columns,
)

# A heavy line larger than the text by this factor and this near (em) to a table heads it, even where running
# heads stand.
LARGER = 1.05
NEAR = 1.6


@dataclass(slots=True, eq=False)
class Placed:
    """A draft, its number on the page, its page, and the table that it gives."""

    index: int
    draft: TableDraft
    layout: PageLayout
    part: Part

    def read_as(self, draft: TableDraft) -> Placed:
        """Return the same with another draft."""
        if draft is self.draft:
            return self
        part = _part(draft, self.layout, self.part.first_on_page, self.part.last_on_page)
        return Placed(self.index, draft, self.layout, part)

    def as_own(self) -> Placed:
        """Return the same as this program reads it."""
        return self.read_as(self.draft.own or self.draft)


@dataclass(slots=True)
class Stretch:
    """What stands on some pages of a document, in order: sizes, findings, items, and the parts of tables with
    the page and the number on it of each.

    `first` and `last` are its first and last table, where that could continue one before or behind the
    stretch; `before` is what the last table before it became, where the first one shows how to read that.
    """

    pages: list[PageSize] = field(default_factory=list)
    findings: list[Finding] = field(default_factory=list)
    items: list[PageItems] = field(default_factory=list)
    parts: list[Part] = field(default_factory=list)
    marks: list[tuple[int, int]] = field(default_factory=list)
    first: Placed | None = None
    last: Placed | None = None
    before: Part | None = None


def read_stretch(
    pdf: PdfFile,
    numbers: Sequence[int],
    reader: Method | LookAhead,
    recognition: Recognition,
    before: Placed | None = None,
    enough: Callable[[], bool] = lambda: False,
) -> Stretch:
    """Read pages, given by number (from 1); `before` is the last table of the pages before them.

    Reading stops behind the first page after which there is `enough`; `pages` of the stretch tell how far it
    went.
    """
    out = Stretch()
    last = before
    for ink, layout, found in _drafted(recognised(pdf, list(numbers), recognition), reader):
        items, drafts = _laid_out(ink, layout, found)
        width, height = round(ink.width, 2), round(ink.height, 2)
        label = pdf.page_label(ink.number)
        out.pages.append(PageSize(ink.number, width, height, label, ink.source, ink.turned))
        notes = [*ink.notes, *layout.findings]
        out.findings += [Finding(code, message, ink.number) for code, message in notes]
        out.items.append(items)
        for placed in _placed(drafts, layout, items):
            if not out.parts and placed.part.first_on_page:
                out.first = placed
            if last is not None and follows(last.part, placed.part):
                earlier, placed = _going_on(last, placed)
                if earlier is not last:
                    if out.parts:
                        out.parts[-1] = earlier.part
                    else:
                        out.before = earlier.part
            out.parts.append(placed.part)
            out.marks.append((ink.number, placed.index))
            last = placed
        if enough():
            break
    out.last = last if last is not None and last.part.last_on_page else None
    return out


def joined_stretches(
    stretches: Iterable[Stretch], read_again: Callable[[Stretch, Placed], Stretch]
) -> Stretch:
    """Join stretches that follow each other into the one that reading all their pages at once gives.

    Where a table goes on over a seam, and one of its parts is to be read with the columns of the other,
    `read_again` reads the pages of the later stretch with the last table before them.
    """
    out = Stretch()
    for stretch in stretches:
        if out.last and stretch.first and _changed(out.last, stretch.first):
            stretch = read_again(stretch, out.last)
        if stretch.before is not None:
            out.parts[-1] = stretch.before
        out.pages += stretch.pages
        out.findings += stretch.findings
        out.items += stretch.items
        # A stretch without tables leaves the last one as it was.
        out.last = stretch.last if stretch.parts else out.last
        out.parts += stretch.parts
        out.marks += stretch.marks
    return out


def _changed(last: Placed, first: Placed) -> bool:
    """Whether either of two tables is to be read with the columns of the other."""
    return follows(last.part, first.part) and _going_on(last, first) != (last, first)


def _going_on(last: Placed, first: Placed) -> tuple[Placed, Placed]:
    """Two tables that follow each other, with the columns of one where that is how they go on; as this
    program reads them, where they go on only so, and a service was asked about one of them.
    """
    pairs = [(last, first), (last, first.as_own()), (last.as_own(), first.as_own())]
    read = [_with_same_columns(*pair) for pair in dict.fromkeys(pairs)]
    return next((pair for pair in read if continues(pair[0].part, pair[1].part)), read[0])


def _with_same_columns(last: Placed, first: Placed) -> tuple[Placed, Placed]:
    one, other = with_same_columns(last.draft, first.draft, last.layout, first.layout)
    return last.read_as(one), first.read_as(other)


def _drafted(
    inks: Iterable[PageInk], reader: Method | LookAhead
) -> Iterator[tuple[PageInk, PageLayout, list[TableDraft]]]:
    """Each page with its layout and the drafts of its tables; of a method that looks ahead, some pages are
    begun before the first is done.
    """
    if not isinstance(reader, LookAhead):
        for ink in inks:
            layout = lay_out(ink)
            yield ink, layout, reader(layout)
        return
    begun: deque[tuple[PageInk, PageLayout, Callable[[], list[TableDraft]]]] = deque()
    for ink in inks:
        layout = lay_out(ink)
        begun.append((ink, layout, reader.begin(layout)))
        if len(begun) > reader.pages:
            ink, layout, wait = begun.popleft()
            yield ink, layout, wait()
    for ink, layout, wait in begun:
        yield ink, layout, wait()


def read_page(ink: PageInk, reader: Method) -> tuple[PageItems, list[TableDraft], PageLayout]:
    """Read one page: its lines and tables in reading order, and the drafts of the tables."""
    layout = lay_out(ink)
    items, drafts = _laid_out(ink, layout, reader(layout))
    return items, drafts, layout


def _laid_out(
    ink: PageInk, layout: PageLayout, found: Iterable[TableDraft]
) -> tuple[PageItems, list[TableDraft]]:
    """What stands on a page in reading order around its tables, and these in theirs."""
    drafts = sorted(found, key=lambda d: (d.box.y0, d.box.x0))
    attach_captions(layout, drafts)
    taken = np.zeros(len(layout.words), dtype=np.bool_)
    for draft in drafts:
        taken[draft.word_indices()] = True
    fields = [area for area in layout.fields if not taken[area.words].any()]
    for area in fields:
        taken[area.words] = True
    figures = find_figures(layout, [draft.box for draft in drafts], taken)
    tables = [(draft.box, draft.word_indices()) for draft in drafts]
    items = flow(layout, taken, tables, figures, fields)
    raised = raised_ends(layout.words)
    return PageItems(ink.number, ink.width, ink.height, items, raised), drafts


def _placed(drafts: list[TableDraft], layout: PageLayout, items: PageItems) -> Iterator[Placed]:
    """The tables of a page in reading order, with what tells whether they continue over its ends."""
    lines = [item for item in items.items if isinstance(item, Line)]
    margin = 0.1 * layout.height
    for mark in (item for item in items.items if isinstance(item, TableMark)):
        draft = drafts[mark.index]
        box = draft.box
        beside = [d.box for d in drafts if d is not draft]
        # Notes at the foot are set smaller than the text; they end no table.
        texts = [line.box for line in lines if line.size > 0.95 * layout.em or line.box.y1 < box.y0 + 2]
        over = [b for b in [*texts, *beside] if b.x0 < box.x1 and b.x1 > box.x0]
        heads = [
            line.box
            for line in lines
            if line.bold
            and line.size > LARGER * layout.em
            and box.y0 - line.box.y1 < NEAR * line.size
            and line.box.x0 > box.x0 - line.size
            and line.box.x1 < box.x1 + line.size
        ]
        above = [b for b in over if b.y1 < box.y0 + 2 and (b.y0 > margin or b in heads)]
        below = [b for b in over if b.y0 > box.y1 - 2 and b.y1 < layout.height - margin]
        yield Placed(mark.index, draft, layout, _part(draft, layout, not above, not below))


def _part(draft: TableDraft, layout: PageLayout, first: bool, last: bool) -> Part:
    """The part of a table that a draft is."""
    box = draft.box
    table = table_of(draft, layout)
    others = [table_of(other, layout) for other in draft.alternatives]
    table.alternatives = [other for other in others if _said(other) != _said(table)]
    return Part(
        table=table,
        page=layout.number,
        box=box,
        columns=text_columns(layout, draft),
        edges=[(x - box.x0) / max(box.x1 - box.x0, 1.0) for x in draft.column_edges],
        first_on_page=first,
        last_on_page=last,
        caption_below=any(layout.words.y0[i] > box.y1 - 2 for i in draft.caption),
        origin=draft.origin,
        row_elements=draft.row_elements,
        cell_elements={(c.row, c.column): c.element for c in draft.cells},
    )


def table_of(draft: TableDraft, layout: PageLayout) -> Table:
    """The table that a draft is, with the confidence of its cells."""
    return finished(draft, layout, confidences(layout, draft).tolist())


def _said(table: Table) -> set[tuple[int, int, int, int, str]]:
    """What a reading says: each text with its place and extent in the grid."""
    return {(c.row, c.column, c.rowspan, c.colspan, c.text) for c in table.cells if c.text}
