"""What a notebook shows of a document, of a table, and of rows of text."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from html import escape

from ..model import DOUBTFUL, Document, Table
from .html import table_label

# So many findings, and tables, of a document are shown.
SHOWN = 5


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
    """Return a document as a notebook shows it: what it holds, the findings, and its tables."""
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
    return f"<p>{escape(repr(document), quote=False)}</p>{told}{tables}"


def shown_rows(title: str, names: Sequence[str], rows: Iterable[Sequence[str]]) -> str:
    """Return rows of text as a notebook shows them, with a title above and the names of the columns."""

    def line(tag: str, texts: Sequence[str]) -> str:
        return "<tr>" + "".join(f"<{tag}>{escape(text, quote=False)}</{tag}>" for text in texts) + "</tr>"

    body = line("th", names) + "".join(line("td", row) for row in rows)
    return f'<p>{escape(title, quote=False)}</p><table style="text-align:left">{body}</table>'
