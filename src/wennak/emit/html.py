"""Document -> one HTML5 page."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from html import escape

from ..model import Block, Cell, Code, Document, Heading, ListBlock, Paragraph, Place, Table

_MARK = re.compile(r"[^\w\s]|\(?\w{1,4}[.)]")
_STYLE = """\
body { font: 1rem/1.5 system-ui, sans-serif; max-width: 60rem; margin: 2rem auto; padding: 0 1rem; }
table { border-collapse: collapse; margin: 1rem 0; font-variant-numeric: tabular-nums; }
caption { text-align: left; font-weight: 600; padding: 0.3rem 0; }
td, th { border: 1px solid #999; padding: 0.2rem 0.6rem; text-align: left; vertical-align: top; }
th { background: #eee; }
pre { background: #f5f5f5; padding: 0.6rem; overflow-x: auto; }
"""


def to_html(document: Document) -> str:
    """Return the document as an HTML5 page; `data-place` says on which pages and where each part stands."""
    language = f' lang="{escape(document.language)}"' if document.language else ""
    title = document.title or document.source
    parts = [
        f'<!DOCTYPE html>\n<html{language}>\n<head>\n<meta charset="utf-8">\n<title>{escape(title)}</title>\n'
        f"<style>\n{_STYLE}</style>\n</head>\n<body>\n"
    ]
    for block in document.blocks:
        parts += _block(block)
    parts.append("</body>\n</html>\n")
    return "".join(parts)


def table_html(table: Table, provenance: bool = True) -> str:
    """Return one table as an HTML `table` element."""
    grid = table.grid()
    out = [f"<table{_places(table.places) if provenance else ''}>\n"]
    if table.caption:
        out.append(f"<caption>{escape(table.caption)}</caption>\n")
    for section, first, last in (
        ("thead", 0, table.header_rows),
        ("tbody", table.header_rows, table.rows),
    ):
        if first < last:
            out.append(f"<{section}>\n")
            out += [f"<tr>{''.join(_row(grid[r], r, provenance))}</tr>\n" for r in range(first, last)]
            out.append(f"</{section}>\n")
    out.append("</table>\n")
    return "".join(out)


def _row(row: Sequence[Cell | None], r: int, provenance: bool) -> Iterator[str]:
    for c, cell in enumerate(row):
        if cell is None:
            yield "<td></td>"
        elif (cell.row, cell.column) == (r, c):
            spans = f' rowspan="{cell.rowspan}"' if cell.rowspan > 1 else ""
            spans += f' colspan="{cell.colspan}"' if cell.colspan > 1 else ""
            place = _places(cell.places) if provenance else ""
            tag, scope = (
                ("th", f' scope="{"colgroup" if cell.colspan > 1 else "col"}"') if cell.header else ("td", "")
            )
            yield f"<{tag}{scope}{spans}{place}>{_cell_text(cell.text)}</{tag}>"


def _cell_text(text: str) -> str:
    """Text of a cell; the lines of a list become one."""
    if "\n" not in text:
        return escape(text, quote=False)
    out, items = [], []
    for line in text.split("\n"):
        mark, _, rest = line.partition(" ")
        if rest and _MARK.fullmatch(mark):
            items.append(f"<li{_label(mark)}>{escape(rest, quote=False)}</li>")
        else:
            out.append(escape(line, quote=False))
    return f"{' '.join(out)}<ul>{''.join(items)}</ul>"


def _label(label: str) -> str:
    """Attribute that shows a printed label other than a plain bullet."""
    if label in "•●":
        return ""
    shown = escape(label.replace("\\", "").replace("'", ""))
    return f" style=\"list-style-type: '{shown} '\""


def _block(block: Block) -> Iterator[str]:
    where = _places(block.places)
    if isinstance(block, Heading):
        yield f"<h{block.level}{where}>{escape(block.text, quote=False)}</h{block.level}>\n"
    elif isinstance(block, Paragraph):
        yield f"<p{where}>{escape(block.text, quote=False)}</p>\n"
    elif isinstance(block, Code):
        yield f"<pre{where}><code>{escape(block.text, quote=False)}</code></pre>\n"
    elif isinstance(block, ListBlock):
        yield from _list(block)
    elif isinstance(block, Table):
        yield table_html(block)


def _list(block: ListBlock) -> Iterator[str]:
    """A list whose items show the printed labels, which are no part of their text."""
    tag = "ol" if block.ordered else "ul"
    yield f"<{tag}{_places(block.places)}>\n"
    for item in block.items:
        number = re.fullmatch(r"(\d{1,9})[.)]?", item.label)
        label = f' value="{number[1]}"' if block.ordered and number else ""
        if block.ordered and not number and item.label:
            # Anything else is shown by the style sheet of the item: "a)", "(iv)".
            label = _label(item.label)
        yield f"<li{label}{_places(item.places)}>{escape(item.text, quote=False)}</li>\n"
    yield f"</{tag}>\n"


def _places(places: Sequence[Place]) -> str:
    """Page and box of each place: "page:x0,y0,x1,y1" with blanks between."""
    if not places:
        return ""
    text = " ".join(f"{p.page}:{p.box.x0:g},{p.box.y0:g},{p.box.x1:g},{p.box.y1:g}" for p in places)
    return f' data-place="{text}"'
