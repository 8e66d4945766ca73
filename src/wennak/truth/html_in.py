"""HTML -> the document that it holds: headings, paragraphs, lists, code and tables with their spans."""

from __future__ import annotations

import re
from collections.abc import Iterator

from lxml import etree, html

from ..errors import SourceError
from ..model import Block, Box, Cell, Code, Document, Heading, ListBlock, ListItem, Paragraph, Place, Table

# Elements that stand on lines of their own within a cell or a paragraph.
_LINES = frozenset(
    "address article aside blockquote br dd div dl dt footer form h1 h2 h3 h4 h5 h6 header hr li main nav ol "
    "p pre section table tbody td tfoot th thead tr ul".split()
)
_UNSEEN = frozenset(("script", "style", "template", "head", "title"))
_PLACE = re.compile(r"(\d+):(-?[\d.]+),(-?[\d.]+),(-?[\d.]+),(-?[\d.]+)")
_LARGEST_SPAN = 1000


def parse_html(text: str, name: str) -> html.HtmlElement:
    """Return the tree of an HTML text. Raises SourceError where nothing can be made of it."""
    try:
        return html.document_fromstring(text.encode("utf-8"), parser=html.HTMLParser(encoding="utf-8"))
    except (etree.ParserError, ValueError) as error:
        raise SourceError(f"{name} cannot be read as HTML; check that the file is whole.") from error


def html_document(tree: html.HtmlElement, name: str) -> tuple[Document, list[html.HtmlElement]]:
    """Return the document in an HTML tree, and the elements of its outermost tables in the same order."""
    body = tree.find("body")
    elements: list[html.HtmlElement] = []
    blocks = list(_blocks(tree if body is None else body, elements))
    return Document(source=name, title=(tree.findtext(".//title") or "").strip(), blocks=blocks), elements


def _blocks(parent: html.HtmlElement, tables: list[html.HtmlElement]) -> Iterator[Block]:
    """The blocks in an element; loose text makes paragraphs."""
    loose: list[str] = [parent.text or ""]

    def paragraph() -> Iterator[Block]:
        text = " ".join("".join(loose).split())
        loose.clear()
        if text:
            yield Paragraph(text)

    for child in parent:
        tag = child.tag if isinstance(child.tag, str) else ""
        if tag in _LINES:
            yield from paragraph()
        if tag == "table":
            tables.append(child)
            yield table_of(child)
        elif re.fullmatch("h[1-6]", tag):
            yield Heading(_flat(child), int(tag[1]))
        elif tag in ("ul", "ol"):
            yield ListBlock(list(_items(child, 0)), "numbers" if tag == "ol" else "bullets")
        elif tag == "pre":
            yield Code("".join(child.itertext()))
        elif tag in ("p", "dt", "dd", "li", "figcaption", "td", "th", "address"):
            yield from (Paragraph(text) for text in [_flat(child)] if text)
        elif tag in _LINES:
            yield from _blocks(child, tables)
        elif tag and tag not in _UNSEEN:
            inner = list(child.iter("table", "p", "ul", "ol", "h1", "h2", "h3", "h4", "h5", "h6", "pre"))
            if inner:
                yield from paragraph()
                yield from _blocks(child, tables)
            else:
                loose.append(" ".join(_lines(child)))
        loose.append(child.tail or "")
    yield from paragraph()


def _items(parent: html.HtmlElement, depth: int) -> Iterator[ListItem]:
    for number, child in enumerate(parent.iterchildren("li"), start=int(parent.get("start") or 1)):
        own, below = [child.text or ""], []
        for part in child:
            if part.tag in ("ul", "ol"):
                below.append(part)
            elif isinstance(part.tag, str):
                own += [" " if part.tag in _LINES else "", *_lines(part)]
            own.append(part.tail or "")
        label = f"{child.get('value') or number}." if parent.tag == "ol" else ""
        yield ListItem(" ".join("".join(own).split()), label, depth)
        for part in below:
            yield from _items(part, depth + 1)


def table_of(element: html.HtmlElement) -> Table:
    """Return the table of an element; tables within its cells belong to the text of those."""
    rows = [r for r in element.iter("tr") if next(r.iterancestors("table"), None) is element]
    taken: set[tuple[int, int]] = set()
    cells: list[Cell] = []
    heads = []
    for r, row in enumerate(rows):
        c = 0
        own = [e for e in row if e.tag in ("td", "th")]
        heads.append(bool(own) and (row.getparent().tag == "thead" or all(e.tag == "th" for e in own)))
        for entry in own:
            while (r, c) in taken:
                c += 1
            rowspan = min(_span(entry.get("rowspan")), len(rows) - r)
            colspan = _span(entry.get("colspan"))
            taken |= {(r + i, c + j) for i in range(rowspan) for j in range(colspan)}
            text = "\n".join(" ".join(line.split()) for line in _lines(entry) if line.strip())
            places = _places(entry.get("data-place"))
            cells.append(Cell(r, c, text, rowspan, colspan, entry.tag == "th", places))
            c += colspan
    header_rows = next((r for r, head in enumerate(heads) if not head), 0)
    columns = max((c + 1 for _, c in taken), default=0)
    caption = element.find("caption")
    return Table(
        rows=len(rows),
        columns=columns,
        cells=cells,
        caption="" if caption is None else _flat(caption),
        header_rows=header_rows,
        places=_places(element.get("data-place")),
    )


def _places(value: str | None) -> list[Place]:
    found = _PLACE.findall(value or "")
    return [Place(int(page), Box(*(float(side) for side in sides))) for page, *sides in found]


def _span(value: str | None) -> int:
    return min(int(value), _LARGEST_SPAN) if value and value.isdigit() and int(value) > 0 else 1


def _flat(element: html.HtmlElement) -> str:
    return " ".join(" ".join(_lines(element)).split())


def _lines(element: html.HtmlElement) -> list[str]:
    """The lines of text in an element; items of lists stand on lines of their own, without their marks."""
    lines = [""]

    def walk(node: html.HtmlElement) -> None:
        own_line = node is not element and node.tag in _LINES
        if own_line:
            lines.append("")
        lines[-1] += node.text or ""
        for child in node:
            if isinstance(child.tag, str) and child.tag not in _UNSEEN:
                walk(child)
            lines[-1] += child.tail or ""
        if own_line and node.tag != "br":
            lines.append("")

    walk(element)
    return [line for line in lines if line.strip()]
