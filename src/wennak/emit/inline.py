"""What Markdown and HTML share: text with marks as stretches that share their marks, lists as trees."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from urllib.parse import quote

from ..model import Block, Document, ListItem, Mark, Table

# Links lead out by these only; anything else (scripts, files) stays plain text.
_SAFE = re.compile(r"^(https?://|mailto:)", re.I)


def stretches(text: str, marks: Sequence[Mark]) -> Iterator[tuple[str, dict[str, str]]]:
    """Yield the text in pieces, each with the kinds of its marks and their targets."""
    edges = sorted({0, len(text), *(m.start for m in marks), *(min(m.end, len(text)) for m in marks)})
    for a, b in pairwise(edges):
        yield text[a:b], {m.kind: m.target for m in marks if m.start <= a and b <= m.end}


def as_shown(table: Table) -> Table:
    """Return a table whose cells hold their superscripts and subscripts as characters."""
    if not any(cell.marks for cell in table.cells):
        return table
    return replace(table, cells=[replace(cell, text=cell.shown, marks=[]) for cell in table.cells])


def safe_link(target: str) -> str:
    """Return a link's target in a form that is safe anywhere, or nothing where it may not be followed."""
    if not _SAFE.match(target):
        return ""
    return quote(target, safe="%:/?#[]@!$&'*+,;=~-._")


@dataclass(slots=True)
class Node:
    """An item of a list and the items nested in it."""

    item: ListItem
    below: list[Node]


def nested(items: Sequence[ListItem]) -> list[Node]:
    """Return the items of a list as a tree, by their depth."""
    roots: list[Node] = []
    path: list[Node] = []
    for item in items:
        while path and path[-1].item.depth >= item.depth:
            path.pop()
        node = Node(item, [])
        (path[-1].below if path else roots).append(node)
        path.append(node)
    return roots


def with_pages(document: Document) -> Iterator[tuple[Block, list[int]]]:
    """Yield each block with the pages that begin with it: those not begun before, up to its own."""
    waiting = [page.number for page in document.pages]
    for block in document.blocks:
        first = block.places[0].page if block.places else 0
        begun = [page for page in waiting if page <= first]
        waiting = waiting[len(begun) :]
        yield block, begun
