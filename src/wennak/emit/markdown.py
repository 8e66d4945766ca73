"""Document -> CommonMark with pipe tables."""

from __future__ import annotations

import re

from ..model import Block, Code, Document, Heading, ListBlock, Table
from .html import table_html

_SPECIAL = re.compile(r"([\\`*_\[\]<>~|])")
_LEADING = re.compile(r"^(\s*)(#{1,6}(?=\s|$)|[-+=](?=\s|$)|-{3,}|={2,}|>|(\d{1,9})([.)])(?=\s|$))")
_ENTITY = re.compile(r"&(?=#?\w+;)")


def to_markdown(document: Document) -> str:
    """Return the document as Markdown: blocks in reading order, each followed by an empty line."""
    return "\n".join(_block(block) for block in document.blocks)


def escaped(text: str) -> str:
    """Return text in which no character has a meaning to a Markdown reader."""
    text = _ENTITY.sub("&amp;", _SPECIAL.sub(r"\\\1", text))

    def shield(match: re.Match[str]) -> str:
        if match[3]:
            return f"{match[1]}{match[3]}\\{match[4]}"
        return f"{match[1]}\\{match[2]}"

    return _LEADING.sub(shield, text)


def _block(block: Block) -> str:
    if isinstance(block, Heading):
        return f"{'#' * block.level} {escaped(block.text)}\n"
    if isinstance(block, Table):
        return _table(block)
    if isinstance(block, ListBlock):
        lines = []
        for item in block.items:
            number = re.match(r"^(\d{1,9})([.)])$", item.label)
            mark = item.label if number else "-"
            label = f"{escaped(item.label)} " if block.ordered and not number else ""
            lines.append(f"{mark} {label}{escaped(item.text)}\n")
        return "".join(lines)
    if isinstance(block, Code):
        fence = "`" * max(3, 1 + max((len(m) for m in re.findall(r"`+", block.text)), default=0))
        return f"{fence}\n{block.text}\n{fence}\n"
    return f"{escaped(block.text)}\n"


def _table(table: Table) -> str:
    """A pipe table; an HTML table where cells of the body span, which pipes cannot say."""
    if any(c.row >= table.header_rows and (c.rowspan > 1 or c.colspan > 1) for c in table.cells):
        return table_html(table, provenance=False)
    texts = [[""] * table.columns for _ in range(table.rows)]
    for cell in table.cells:
        texts[cell.row][cell.column] = _cell(cell.text)
    head = [_cell(label) for label in table.header_labels()] if table.header_rows else [""] * table.columns
    lines = [head, ["---"] * table.columns, *texts[table.header_rows :]]
    body = "".join(f"| {' | '.join(line)} |\n" for line in lines)
    return f"**{escaped(table.caption)}**\n\n{body}" if table.caption else body


def _cell(text: str) -> str:
    return _ENTITY.sub("&amp;", _SPECIAL.sub(r"\\\1", " ".join(text.split())))
