"""Document -> CommonMark with pipe tables."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from urllib.parse import quote

from ..model import (
    Block,
    Code,
    Contents,
    Document,
    Field,
    Fields,
    Figure,
    Footnote,
    Formula,
    Heading,
    ListBlock,
    Mark,
    Paragraph,
    Table,
)
from ..scripts import in_scripts
from .html import table_html
from .inline import Node, as_shown, nested, safe_link, stretches, with_pages
from .records import record_lines

_SPECIAL = re.compile(r"([\\`*_\[\]<>~|])")
_LEADING = re.compile(r"^(\s*)(#{1,6}(?=\s|$)|[-+=](?=\s|$)|-{3,}|={2,}|>|(\d{1,9})([.)])(?=\s|$))")
_WORD = re.compile(r"\w")
# What may stand between stars: from the first to the last letter or digit; between blanks, to the last sign.
_CORE = re.compile(r"\w(?:.*\w)?", re.S)
_SOLID = re.compile(r"\S(?:.*\S)?", re.S)
_ENTITY = re.compile(r"&(?=#?\w+;)")


def to_markdown(document: Document, page_marks: bool = False, records: bool = False) -> str:
    """Return the document as Markdown: blocks in reading order, each followed by an empty line.

    With `page_marks` a comment says where each page begins; with `records` each row of a table is an item
    that names its headers.
    """
    parts = []
    before: Block | None = None
    for block, pages in with_pages(document):
        if page_marks:
            parts += [f"<!-- page {page} -->\n" for page in pages]
        elif isinstance(block, ListBlock) and isinstance(before, ListBlock):
            # Two lists in a row would be read as one.
            parts.append("<!-- -->\n")
        parts.append(_records(block) if records and isinstance(block, Table) else _block(block))
        before = block
    return "\n".join(parts)


def escaped(text: str) -> str:
    """Return text in which no character has a meaning to a Markdown reader."""
    return _shielded(_escape(text))


def _escape(text: str) -> str:
    return _ENTITY.sub("&amp;", _SPECIAL.sub(r"\\\1", text))


def _shielded(text: str) -> str:
    """What would begin a list, heading or quote at the start of a line, made plain."""

    def shield(match: re.Match[str]) -> str:
        if match[3]:
            return f"{match[1]}{match[3]}\\{match[4]}"
        return f"{match[1]}\\{match[2]}"

    return _LEADING.sub(shield, text)


def _formula(block: Formula) -> str:
    picture = f"\n![{escaped(block.text)}](<{quote(block.picture)}>)\n" if block.picture else ""
    if not block.tex:
        return f"{escaped(f'{block.text} {block.label}'.strip())}\n{picture}"
    number = block.label.removeprefix("(").removesuffix(")")
    label = rf" \tag{{{number}}}" if number and number != block.label else f" {block.label}" if number else ""
    return f"$$\n{block.tex}{label}\n$$\n{picture}"


def _block(block: Block) -> str:
    match block:
        case Heading():
            return f"{'#' * block.level} {escaped(block.text)}\n"
        case Table():
            return _table(block)
        case ListBlock() if block.style == "terms":
            return "\n".join(f"**{escaped(i.label)}**\n\n{_inline(i.text, i.marks)}\n" for i in block.items)
        case ListBlock():
            return "".join(_items(nested(block.items), ""))
        case Code():
            fence = "`" * max(3, 1 + max((len(m) for m in re.findall(r"`+", block.text)), default=0))
            return f"{fence}\n{block.text}\n{fence}\n"
        case Formula():
            return _formula(block)
        case Figure():
            picture = f"![{escaped(block.caption)}](<{quote(block.picture)}>)\n" if block.picture else ""
            parts = [picture, escaped(block.text), f"*{escaped(block.caption)}*" if block.caption else ""]
            return "\n\n".join(part.strip() for part in parts if part) + "\n"
        case Footnote():
            return f"{escaped(block.label)} {_inline(block.text, block.marks)}\n"
        case Fields():
            return "".join(f"- {_field(f)}\n" for f in block.fields)
        case Contents():
            return "".join(
                f"{'  ' * e.depth}- {escaped(f'{e.text} {e.page}'.rstrip())}\n" for e in block.entries
            )
        case Paragraph():
            return f"{'> ' if block.quoted else ''}{_inline(block.text, block.marks)}\n"


def _field(entry: Field) -> str:
    if entry.checked is not None:
        state = "x" if entry.checked else " "
        return f"\\[{state}\\] {escaped(f'{entry.label} {entry.value}'.strip())}"
    return escaped(f"{entry.label.rstrip(':')}: {entry.value}".strip())


def _items(nodes: Sequence[Node], indent: str) -> Iterator[str]:
    for node in nodes:
        item = node.item
        number = re.match(r"^(\d{1,9})([.)])$", item.label)
        mark = item.label if number else "-"
        # A label that Markdown has no word for stays before the text.
        label = f"{escaped(item.label)} " if item.label[-1:] in (".", ")") and not number else ""
        yield f"{indent}{mark} {label}{_inline(item.text, item.marks)}\n"
        yield from _items(node.below, indent + " " * (len(mark) + 1))


def _inline(text: str, marks: Sequence[Mark]) -> str:
    """Text with emphasis, links, scripts and line breaks, where Markdown can say them: emphasis only between
    blanks and marks of punctuation, since stars inside a word may be read as stars; scripts where Unicode has
    all of their characters.
    """
    pieces = list(stretches(text, marks))
    out = []
    for k, (piece, kinds) in enumerate(pieces):
        before = pieces[k - 1] if k else ("", {})
        after = pieces[k + 1] if k + 1 < len(pieces) else ("", {})
        shown = _escape(in_scripts(piece, {"sup", *kinds} if "note" in kinds else kinds))
        # Between blanks marks of punctuation may be emphasised with the words.
        apart = before[0][-1:].strip() == "" == after[0][:1].strip()
        core = (_SOLID if apart and _WORD.search(piece) else _CORE).search(piece)
        if _starred(kinds) and core and not _starred(before[1]) and not _starred(after[1]):
            left, right = piece[: core.start()], piece[core.end() :]
            if not _WORD.search((before[0] + left)[-1:] + (right + after[0])[:1]):
                stars = "*" * (2 * ("bold" in kinds) + ("italic" in kinds))
                shown = f"{_escape(left)}{stars}{_escape(core[0])}{stars}{_escape(right)}"
        if (target := safe_link(kinds.get("link", ""))) and piece.strip() == piece:
            shown = f"[{shown}](<{target}>)"
        out.append(shown)
    return "\\\n".join(map(_shielded, "".join(out).split("\n")))


def _starred(kinds: dict[str, str]) -> bool:
    return "bold" in kinds or "italic" in kinds


def _table(table: Table) -> str:
    """A pipe table; an HTML table where cells of the body span, which pipes cannot say."""
    if any(c.row >= table.header_rows and c.spans for c in table.cells):
        return table_html(table, provenance=False)
    table = as_shown(table)
    texts = [[""] * table.columns for _ in range(table.rows)]
    for cell in table.cells:
        texts[cell.row][cell.column] = _cell(cell.text)
    head = [_cell(label) for label in table.header_labels()] if table.header_rows else [""] * table.columns
    lines = [head, ["---"] * table.columns, *texts[table.header_rows :]]
    body = "".join(f"| {' | '.join(line)} |\n" for line in lines)
    return f"**{escaped(table.caption)}**\n\n{body}" if table.caption else body


def _records(table: Table) -> str:
    _, lines = record_lines(table)
    caption = f"**{escaped(table.caption)}**\n\n" if table.caption else ""
    return caption + "".join(f"- {escaped(line)}\n" for _, line in lines)


def _cell(text: str) -> str:
    return _escape(" ".join(text.split()))
