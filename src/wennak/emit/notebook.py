"""What a notebook shows of a document, of a table, and of rows of text."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from html import escape

from ..model import DOUBTFUL, Box, Document, PageSize, Table
from .html import table_label
from .overlay import COLOURS, DOUBT, role_name

# So many pages, findings, and tables, of a document are shown.
SHOWN = 5
# The height of a page that is shown small, in pixels.
SMALL = 150


def shown_table(table: Table) -> str:
    """Return a table as a notebook shows it: doubtful cells marked, the pointer on one says why."""
    rows = []
    grid = table.grid()
    for r, row in enumerate(grid):
        cells = []
        for c, cell in enumerate(row):
            if cell is not None and (cell.row, cell.column) == (r, c):
                tag = "th" if cell.header else "td"
                spans = f' rowspan="{cell.rowspan}" colspan="{cell.colspan}"' if cell.spans else ""
                doubt = cell.text and cell.confidence < DOUBTFUL
                why = f"confidence {cell.confidence:.2f}, from {table.method or 'elsewhere'}"
                mark = f' style="background:#fff1c2" title="{escape(why)}"' if doubt else ""
                cells.append(f"<{tag}{spans}{mark}>{escape(cell.text, quote=False)}</{tag}>")
            elif cell is None:
                cells.append("<td></td>")
        rows.append(f"<tr>{''.join(cells)}</tr>")
    caption = f"<caption>{escape(table.caption, quote=False)}</caption>" if table.caption else ""
    return f'<table style="text-align:left">{caption}{"".join(rows)}</table>'


def shown_document(document: Document) -> str:
    """Return a document as a notebook shows it: what it holds, its pages small, the findings, its tables."""
    findings = "".join(
        f"<li>{f'page {f.page}: ' if f.page else ''}{escape(f.message, quote=False)}</li>"
        for f in document.findings[:SHOWN]
    )
    more = len(document.findings) - SHOWN
    rest = f"<li>and {more} more in <code>.findings</code></li>" if more > 0 else ""
    tables = "".join(
        f"<p><b>{table_label(table, number)}</b></p>{shown_table(table)}"
        for number, table in enumerate(document.tables[:SHOWN], start=1)
    )
    left = len(document.tables) - SHOWN
    tables += f"<p>and {left} more in <code>.tables</code></p>" if left > 0 else ""
    told = f"<ul>{findings}{rest}</ul>" if findings else ""
    return f"<p>{escape(repr(document), quote=False)}</p>{_small_pages(document)}{told}{tables}"


def _small_pages(document: Document) -> str:
    """The first pages as they were read: blocks as rectangles in colours of their kinds, named where the
    pointer is on one, doubtful cells marked; and what the colours mean.
    """
    shown = document.pages[:SHOWN]
    if not shown:
        return ""
    numbers = {page.number for page in shown}
    there = {b.kind for b in document.blocks if any(place.page in numbers for place in b.places)}
    colours: dict[str, str] = {kind: colour for kind, colour in COLOURS.items() if kind in there}
    if any(cell.confidence < DOUBTFUL for table in document.tables for cell in table.cells if cell.text):
        colours["doubtful cell"] = DOUBT
    key = "".join(f' <span style="color:{colour}">&#9632;</span> {kind}' for kind, colour in colours.items())
    more = len(document.pages) - SHOWN
    rest = f" and {more} more in <code>.pages</code>" if more > 0 else ""
    return f"<div>{''.join(_small_page(document, page) for page in shown)}{rest}</div><p>Read as:{key}</p>"


def _small_page(document: Document, page: PageSize) -> str:
    drawn = []
    for number, block in enumerate(document.blocks, start=1):
        name = f"{number} {role_name(block)}"
        drawn += [_rectangle(p.box, COLOURS[block.kind], name) for p in block.places if p.page == page.number]
        if isinstance(block, Table):
            drawn += [
                _rectangle(place.box, DOUBT, f"{name}: {cell.text}, confidence {cell.confidence:.2f}")
                for cell in block.cells
                if cell.text and cell.confidence < DOUBTFUL
                for place in cell.places
                if place.page == page.number
            ]
    width = SMALL * page.width / max(page.height, 1.0)
    return (
        f'<svg width="{width:.0f}" height="{SMALL}" viewBox="0 0 {page.width:.0f} {page.height:.0f}" '
        f'style="background:white;border:1px solid #8c8c8c;margin:0 8px 4px 0">'
        f"<title>page {page.number}</title>{''.join(drawn)}</svg>"
    )


def _rectangle(box: Box, colour: str, name: str) -> str:
    return (
        f'<rect x="{box.x0:.0f}" y="{box.y0:.0f}" width="{box.x1 - box.x0:.0f}" '
        f'height="{box.y1 - box.y0:.0f}" fill="{colour}" fill-opacity="0.45" stroke="{colour}">'
        f"<title>{escape(name, quote=False)}</title></rect>"
    )


def shown_rows(title: str, names: Sequence[str], rows: Iterable[Sequence[str]]) -> str:
    """Return rows of text as a notebook shows them, with a title above and the names of the columns."""

    def line(tag: str, texts: Sequence[str]) -> str:
        return "<tr>" + "".join(f"<{tag}>{escape(text, quote=False)}</{tag}>" for text in texts) + "</tr>"

    body = line("th", names) + "".join(line("td", row) for row in rows)
    return f'<p>{escape(title, quote=False)}</p><table style="text-align:left">{body}</table>'
