"""Document -> one HTML5 page."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from html import escape
from urllib.parse import quote

from ..model import (
    Block,
    Cell,
    Code,
    Contents,
    Document,
    Fields,
    Figure,
    Footnote,
    Formula,
    Heading,
    ListBlock,
    Mark,
    Paragraph,
    Place,
    Table,
)
from .inline import Node, nested, safe_link, stretches, with_pages

# Labels are set in by so much (em) a step; half a step is the usual padding.
INDENT = 1.2
# The elements and attributes of MathML that show an equation and do nothing else: a document may come from
# elsewhere.
_MATHML = re.compile(
    r"(?:[^<>]|</?m(?:ath|row|[inos]|text|frac|sqrt|root|su[bp]|subsup|under|over|underover|table|t[rd])"
    r"(?: (?:xmlns|display|mathvariant|stretchy|accent|accentunder|movablelimits|linethickness|displaystyle"
    r'|style)="[-\w:;/. ]*")*>)+'
)
_MARK = re.compile(r"[^\w\s]|\(?\w{1,4}[.)]")
STYLE = """\
body { font: 1rem/1.5 system-ui, sans-serif; max-width: 60rem; margin: 2rem auto; padding: 0 1rem; }
table { border-collapse: collapse; margin: 1rem 0; font-variant-numeric: tabular-nums; }
caption { text-align: left; font-weight: 600; padding: 0.3rem 0; }
td, th { border: 1px solid #999; padding: 0.2rem 0.6rem; text-align: left; vertical-align: top; }
th { background: #eee; }
pre { background: #f5f5f5; padding: 0.6rem; overflow-x: auto; }
blockquote { margin: 0.8rem 2rem; color: #333; }
.formula { display: flex; align-items: center; font-family: "STIX Two Math", "Cambria Math", serif; }
.formula math { flex: 1; }
.formula .label { margin-left: auto; }
.formula img { max-height: 4rem; }
figure { margin: 1rem 0; border-left: 3px solid #bbb; padding-left: 0.8rem; }
figure img { max-width: 100%; }
figcaption { font-weight: 600; }
.drawn { color: #555; font-size: 0.9rem; }
.note { font-size: 0.9rem; }
.fields { display: grid; grid-template-columns: max-content 1fr; gap: 0.2rem 1rem; }
.fields dt { color: #444; }
.fields dd { margin: 0; font-weight: 600; }
.box::before { content: "\\2610"; margin-right: 0.4rem; }
.box[aria-checked="true"]::before { content: "\\2611"; }
.contents p { display: flex; justify-content: space-between; margin: 0.1rem 0; }
hr.page { border: 0; border-top: 1px dashed #999; margin: 1.5rem 0; }
hr.page::after { content: "page " attr(data-page); color: #666; font-size: 0.8rem; }
"""


def to_html(document: Document, page_marks: bool = False) -> str:
    """Return the document as an HTML5 page; `data-place` says on which pages and where each part stands.

    With `page_marks` a line shows where each page begins.
    """
    language = f' lang="{escape(document.language)}"' if document.language else ""
    title = document.title or document.source
    parts = [
        f'<!DOCTYPE html>\n<html{language}>\n<head>\n<meta charset="utf-8">\n<title>{escape(title)}</title>\n'
        f"<style>\n{STYLE}</style>\n</head>\n<body>\n"
    ]
    for block, pages in with_pages(document):
        if page_marks:
            parts += [f'<hr class="page" data-page="{page}">\n' for page in pages]
        parts += _block(block)
    parts.append("</body>\n</html>\n")
    return "".join(parts)


def tables_html(tables: Sequence[Table], name: str) -> str:
    """Return tables as one HTML5 page with that name: a list of them, then each under its number, page and
    caption.
    """
    heads = [table_label(table, number) for number, table in enumerate(tables, start=1)]
    parts = [
        f'<!DOCTYPE html>\n<html>\n<head>\n<meta charset="utf-8">\n<title>{escape(name)}: tables</title>\n'
        f"<style>\n{STYLE}</style>\n</head>\n<body>\n<h1>{escape(name, quote=False)}</h1>\n<ol>\n"
    ]
    for number, (table, head) in enumerate(zip(tables, heads, strict=True), start=1):
        said = f"{head}: {table.caption}" if table.caption else head
        parts.append(f'<li><a href="#table-{number}">{escape(said, quote=False)}</a></li>\n')
    parts.append("</ol>\n")
    for number, (table, head) in enumerate(zip(tables, heads, strict=True), start=1):
        parts.append(f'<h2 id="table-{number}">{escape(head, quote=False)}</h2>\n{table_html(table)}')
    parts.append("</body>\n</html>\n")
    return "".join(parts)


def table_label(table: Table, number: int) -> str:
    """Return the number of a table with the pages that it stands on."""
    pages = table.page_numbers
    where = f"page {pages[0]}" if len(pages) == 1 else f"pages {pages[0]} to {pages[-1]}"
    return f"Table {number}, {where}" if pages else f"Table {number}"


def body_html(document: Document) -> str:
    """Return what a document holds as HTML, without the page around it."""
    return "".join(part for block, _ in with_pages(document) for part in _block(block))


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
            spans += f' style="padding-left: {INDENT * (cell.indent + 0.5):g}em"' if cell.indent else ""
            place = _places(cell.places) if provenance else ""
            tag, scope = (
                ("th", f' scope="{"colgroup" if cell.colspan > 1 else "col"}"') if cell.header else ("td", "")
            )
            yield f"<{tag}{scope}{spans}{place}>{_cell_text(cell.text, cell.marks)}</{tag}>"


def _cell_text(text: str, marks: Sequence[Mark]) -> str:
    """Text of a cell; the lines of a list become one."""
    if "\n" not in text:
        return _inline(text, marks) if marks else escape(text, quote=False)
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


def block_html(block: Block) -> str:
    """Return one block as HTML."""
    return "".join(_block(block))


def _block(block: Block) -> Iterator[str]:
    where = _places(block.places)
    match block:
        case Heading():
            yield f"<h{block.level}{where}>{escape(block.text, quote=False)}</h{block.level}>\n"
        case Paragraph():
            paragraph = f"<p{where}>{_inline(block.text, block.marks)}</p>\n"
            yield f"<blockquote>\n{paragraph}</blockquote>\n" if block.quoted else paragraph
        case Code():
            yield f"<pre{where}><code>{escape(block.text, quote=False)}</code></pre>\n"
        case ListBlock():
            yield from _list(block, where)
        case Table():
            yield table_html(block)
        case Formula():
            label = f' <span class="label">{escape(block.label, quote=False)}</span>' if block.label else ""
            shown = block.mathml if _MATHML.fullmatch(block.mathml) else escape(block.text, quote=False)
            if block.picture:
                said = escape(block.tex or block.text)
                shown += f' <img src="{escape(quote(block.picture))}" alt="{said}">'
            yield f'<p class="formula"{where}>{shown}{label}</p>\n'
        case Figure():
            yield from _figure(block, where)
        case Footnote():
            text = f"<sup>{escape(block.label)}</sup> {_inline(block.text, block.marks)}"
            yield f'<aside class="note" id="{escape(block.id)}"><p{where}>{text}</p></aside>\n'
        case Fields():
            yield from _fields(block, where)
        case Contents():
            yield f'<div class="contents"{where}>\n'
            for entry in block.entries:
                page = f" <span>{escape(entry.page, quote=False)}</span>" if entry.page else ""
                text = f"{escape(entry.text, quote=False)}{page}"
                yield f'<p style="margin-left: {1.5 * entry.depth:g}rem">{text}</p>\n'
            yield "</div>\n"


def _inline(text: str, marks: Sequence[Mark]) -> str:
    """Text with bold, italic, scripts, links, marks of notes and line breaks."""
    out = []
    for piece, kinds in stretches(text, marks):
        shown = escape(piece, quote=False).replace("\n", "<br>\n")
        if "italic" in kinds:
            shown = f"<em>{shown}</em>"
        if "bold" in kinds:
            shown = f"<strong>{shown}</strong>"
        for kind in ("sup", "sub"):
            if kind in kinds:
                shown = f"<{kind}>{shown}</{kind}>"
        if "note" in kinds:
            shown = f'<sup><a href="#{escape(kinds["note"])}">{shown}</a></sup>'
        elif target := safe_link(kinds.get("link", "")):
            shown = f'<a href="{escape(target)}" rel="nofollow">{shown}</a>'
        out.append(shown)
    return "".join(out)


def _figure(block: Figure, where: str) -> Iterator[str]:
    yield f"<figure{where}>\n"
    if block.picture:
        yield f'<img src="{escape(quote(block.picture))}" alt="{escape(block.caption)}">\n'
    if block.text:
        yield f'<div class="drawn">{escape(block.text, quote=False)}</div>\n'
    if block.caption:
        yield f"<figcaption>{escape(block.caption, quote=False)}</figcaption>\n"
    yield "</figure>\n"


def _fields(block: Fields, where: str) -> Iterator[str]:
    """Labels and values; the state of a check box is a word, so that it is read aloud and searched too."""
    yield f'<dl class="fields"{where}>\n'
    for entry in block.fields:
        value = escape(entry.value, quote=False)
        if entry.checked is not None:
            box = f'<span class="box" role="checkbox" aria-checked="{str(entry.checked).lower()}"></span>'
            value = f"{box}{value}"
        yield f"<dt>{escape(entry.label, quote=False)}</dt><dd{_places(entry.places)}>{value}</dd>\n"
    yield "</dl>\n"


def _list(block: ListBlock, where: str) -> Iterator[str]:
    """A list, with lists in its items; the items show the printed labels, which are no part of their text."""
    if block.style == "terms":
        yield f"<dl{where}>\n"
        for item in block.items:
            text = _inline(item.text, item.marks)
            yield f"<dt>{escape(item.label, quote=False)}</dt><dd{_places(item.places)}><p>{text}</p></dd>\n"
        yield "</dl>\n"
        return
    yield from _items(nested(block.items), block.style == "numbers", where)


def _items(nodes: Sequence[Node], ordered: bool, where: str = "") -> Iterator[str]:
    tag = "ol" if ordered else "ul"
    yield f"<{tag}{where}>\n"
    for node in nodes:
        item = node.item
        number = re.fullmatch(r"(\d{1,9})[.)]?", item.label)
        label = f' value="{number[1]}"' if ordered and number else ""
        if not number and item.label:
            # Anything else is shown by the style sheet of the item: "a)", "(iv)".
            label = _label(item.label)
        yield f"<li{label}{_places(item.places)}>{_inline(item.text, item.marks)}"
        if node.below:
            yield "\n"
            yield from _items(
                node.below, node.below[0].item.label[-1:] in ".)" and bool(node.below[0].item.label)
            )
        yield "</li>\n"
    yield f"</{tag}>\n"


def _places(places: Sequence[Place]) -> str:
    return f' data-place="{place_text(places)}"' if places else ""


def place_text(places: Sequence[Place]) -> str:
    """Return page and box of each place: "page:x0,y0,x1,y1" with blanks between."""
    return " ".join(f"{p.page}:{p.box.x0:g},{p.box.y0:g},{p.box.x1:g},{p.box.y1:g}" for p in places)
