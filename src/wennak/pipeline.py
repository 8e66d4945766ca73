"""From a source to a document: the whole path, top to bottom."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from .checks import find_checks
from .corrections import correct
from .errors import NotPdf, UsageError, existing
from .ink import OutlineItem, PageInk, PdfFile
from .layout import (
    Line,
    PageItems,
    PageLayout,
    TableMark,
    find_figures,
    flow,
    lay_out,
    raised_ends,
    structure,
)
from .measures import page_and_box, points
from .model import Block, Box, Document, Finding, PageSize, Table
from .pages import page_numbers
from .scan import AS_NEEDED, Recognition, is_picture, recognised
from .stubs import set_hierarchy
from .tables import (
    Method,
    Part,
    TableDraft,
    attach_captions,
    confidences,
    find_method,
    finished,
    follows,
    joined,
    read_directed,
    text_columns,
    with_same_columns,
)

DEFAULT_METHOD = "combined"
# A heavy line larger than the text by this factor and this near (em) to a table heads it, even where running
# heads stand.
LARGER = 1.05
NEAR = 1.6


def read(
    source: str | Path | bytes,
    pages: str | None = None,
    method: str = DEFAULT_METHOD,
    password: str = "",
    name: str | None = None,
    recognition: Recognition = AS_NEEDED,
) -> Document:
    """Read a PDF, or a picture of pages (PNG, JPEG, TIFF).

    `source` is a path or the bytes of the file; `pages` chooses pages ("1-3,7", from 1; "last"; every page
    if None); `method` names the way tables are read; `password` opens a locked file; `name` is what the
    document calls itself (the file's name if None); `recognition` says which pages are read from their
    picture (those without text).
    Raises SourceError (its kinds say why) if the file cannot be read or has no such page, and UsageError
    for a method that does not exist.
    """
    reader = find_method(method)
    name, data = opened(source, name)
    with PdfFile(data, name, password) as pdf:
        numbers = page_numbers(pages, pdf.page_count, name)
        document = Document(source=name, title=pdf.title, language=pdf.language)
        page_items: list[PageItems] = []
        parts: list[Part] = []
        marks: list[tuple[int, int]] = []
        last: Placed | None = None
        for ink in recognised(pdf, numbers, recognition):
            items, drafts, layout = read_page(ink, reader)
            width, height = round(ink.width, 2), round(ink.height, 2)
            label = pdf.page_label(ink.number)
            document.pages.append(PageSize(ink.number, width, height, label, ink.source, ink.turned))
            notes = [*ink.notes, *layout.findings]
            document.findings += [Finding(code, message, ink.number) for code, message in notes]
            page_items.append(items)
            for placed in _placed(drafts, layout, items):
                if last is not None and follows(last.part, placed.part):
                    pair = with_same_columns(last.draft, placed.draft, last.layout, layout)
                    parts[-1], placed = last.read_as(pair[0]).part, placed.read_as(pair[1])
                parts.append(placed.part)
                marks.append((ink.number, placed.index))
                last = placed
        outline = pdf.outline
    _assemble(document, page_items, parts, marks, outline)
    return document


def read_table(
    source: str | Path | bytes,
    region: str,
    cuts: Sequence[str] = (),
    header_rows: int | None = None,
    password: str = "",
    recognition: Recognition = AS_NEEDED,
) -> Table:
    """Read one table as directed, where the automatic reading is off.

    `region` is "page,left,top,right,bottom" and `cuts` are the x between columns; lengths are in points, or
    end in mm, in or % (of the page). `header_rows` is found as in any table if None.
    Raises SourceError if the file cannot be read, and UsageError for a region that is none or holds no text.
    """
    name, data = opened(source)
    with PdfFile(data, name, password) as pdf:
        sizes = {n: pdf.page_size(n) for n in range(1, pdf.page_count + 1)}
        page, box = page_and_box(region, sizes)
        (ink,) = recognised(pdf, [page], recognition)
        layout = lay_out(ink)
        width = sizes[page][0]
        # On a page that is read sideways, columns part along its height.
        marks = [Box(x, x, x, x) for x in (points(cut, width) for cut in cuts)]
        at = [layout.seen_box(mark).x0 for mark in marks]
        draft = read_directed(layout, layout.seen_box(box), at, header_rows)
    if draft is None:
        raise UsageError(f"There is no text in the region {region!r}; look at the page with wennak look.")
    table = _table(draft, layout)
    _judge(table)
    return table


def read_page(ink: PageInk, reader: Method) -> tuple[PageItems, list[TableDraft], PageLayout]:
    """Read one page: its lines and tables in reading order, and the drafts of the tables."""
    layout = lay_out(ink)
    drafts = sorted(reader(layout), key=lambda d: (d.box.y0, d.box.x0))
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
    return PageItems(ink.number, ink.width, ink.height, items, raised), drafts, layout


def opened(source: str | Path | bytes, name: str | None = None) -> tuple[str, Path | bytes]:
    """Return the name of a source and the PDF that it is, or that shows the pictures that it is.

    Raises SourceError where there is none.
    """
    if isinstance(source, bytes):
        name = name or "document.pdf"
        return name, _as_pdf(source, name) if is_picture(source) else source
    path = existing(source)
    if path.is_dir():
        raise NotPdf(f"{source} is a folder; name one PDF, or convert the folder.")
    name = name or path.name
    return name, _as_pdf(path, name) if is_picture(path) else path


def _as_pdf(source: Path | bytes, name: str) -> bytes:
    # What opens pictures is loaded only where there is one.
    from .scan.files import as_pdf

    return as_pdf(source, name)


@dataclass(slots=True)
class Placed:
    """A draft, its number on the page, its page, and the table that it gives."""

    index: int
    draft: TableDraft
    layout: PageLayout
    part: Part

    def read_as(self, draft: TableDraft) -> Placed:
        """Return the same with another draft."""
        return (
            self
            if draft is self.draft
            else Placed(
                self.index,
                draft,
                self.layout,
                _part(draft, self.layout, self.part.first_on_page, self.part.last_on_page),
            )
        )


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
    table = _table(draft, layout)
    others = [_table(other, layout) for other in draft.alternatives]
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


def _table(draft: TableDraft, layout: PageLayout) -> Table:
    """The table that a draft is, with the confidence of its cells."""
    return finished(draft, layout, confidences(layout, draft).tolist())


def _corrected(table: Table, recognised: set[int]) -> list[Finding]:
    """Correct what was misread in a table of pages that are pictures, as far as its sums prove it."""
    if not any(place.page in recognised for cell in table.cells for place in cell.places):
        return []
    return [
        Finding(
            "corrected",
            f'"{found.read}" was read in row {found.cell.row + 1} of a table, and changed into '
            f'"{found.cell.text}": only so its sum comes out',
            found.cell.places[0].page if found.cell.places else 0,
        )
        for found in correct(table)
    ]


def _judge(table: Table) -> None:
    """Note what a whole table, over all its pages, says of itself: its sums, and which rows head others."""
    table.checks = find_checks(table)
    set_hierarchy(table)


def _said(table: Table) -> set[tuple[int, int, int, int, str]]:
    """What a reading says: each text with its place and extent in the grid."""
    return {(c.row, c.column, c.rowspan, c.colspan, c.text) for c in table.cells if c.text}


def _assemble(
    document: Document,
    page_items: list[PageItems],
    parts: list[Part],
    marks: list[tuple[int, int]],
    outline: list[OutlineItem],
) -> None:
    whole = {marks[index]: table for table, index in joined(parts)}
    recognised = {page.number for page in document.pages if page.source == "picture"}
    for table in whole.values():
        document.findings += _corrected(table, recognised)
        _judge(table)

    def table_at(page: int, index: int) -> Block | None:
        return whole.get((page, index))

    document.blocks, document.furniture = structure(page_items, table_at, outline)
