"""What a faultless eye would read: the true tables of a document, page by page, each where it stands."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from ..ink import PdfFile
from ..layout import PageLayout
from ..model import Box, Document, PageSize, Table
from ..remote import Grounded, ground
from ..remote.answer import TextCell, TextTable
from ..truth import Truth
from .parts import part_of
from .readings import layouts_of, true_parts


def as_seen(truth: Truth, pdf: Path) -> Document:
    """Return the document of a truth with the part of each table that stands on a page as a table of its own;
    what cannot be found on its page takes up all of it. Raises SourceError where the PDF cannot be read.
    """
    tables = [entry.table for entry in truth.tables if entry.table.rows]
    with PdfFile(pdf, pdf.name) as file:
        layouts = layouts_of(file)
    parts = true_parts(tables, layouts)
    blocks = []
    for page, layout in enumerate(layouts):
        here: set[int] = set()
        for k, first, last in parts.get(page, []):
            # In a further column of a page, the header on it is that of the first.
            blocks.append(_placed(layout, tables[k], first, last, k not in here))
            here.add(k)
    sizes = [PageSize(layout.number, layout.width, layout.height) for layout in layouts]
    return Document(pdf.name, blocks=list(blocks), pages=sizes)


def _placed(layout: PageLayout, table: Table, first: int, last: int, repeated: bool) -> Table:
    """The rows of a table from `first` to before `last`, below its header where the page repeats that."""
    head = table.header_rows if first and repeated else 0
    own = max(table.header_rows - first, 0)
    part = replace(part_of(table, first, last, head), header_rows=head or min(own, last - first))
    found = _found(layout, part)
    if head and any(row <= head for row, _, _ in found.ungrounded):
        part = replace(part_of(table, first, last), header_rows=own)
        found = _found(layout, part)
    box = found.draft.box if found.draft else Box(0.0, 0.0, layout.width, layout.height)
    return replace(part, places=[layout.place(box)])


def _found(layout: PageLayout, table: Table) -> Grounded:
    cells = [TextCell(c.row, c.column, c.text, c.rowspan, c.colspan) for c in table.cells if c.text]
    return ground(layout, [TextTable(table.rows, table.columns, cells)])[0]
