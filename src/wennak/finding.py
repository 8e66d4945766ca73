"""Where a phrase stands in a document: headings, captions, cells, running text, and tables as a whole."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from .model import Block, Box, Contents, Document, Fields, Figure, ListBlock, Place, Table
from .phrases import ALIKE, Stand, stands

# So many characters before and after are told with a hit.
AROUND = 40


@dataclass(frozen=True, slots=True)
class Hit:
    """A place where a phrase stands.

    `kind` is that of the block ("heading", "paragraph" ...), "caption" of a table or figure, "cell" of a
    table, or "running" for heads and feet of pages. `score` says how alike, 0..1; `context` is the text
    around it. For what stands in a table `table` is its number, `row` and `column` those of the cell, all
    from 1 (0 for none).
    """

    source: str
    page: int
    kind: str
    score: float
    context: str
    box: Box
    table: int = 0
    row: int = 0
    column: int = 0


def find(document: Document, phrase: str, least: float = ALIKE) -> list[Hit]:
    """Return where a phrase stands in a document: the best first, those as good in reading order.

    Forms of a word and small misspellings count, by their `score`; numbers do not. `least` is the lowest
    score, 0..1.
    """
    hits = []
    for kind, text, places, at in _texts(document):
        for stand in stands(phrase, text, least):
            place = places[0] if places else Place(0, Box(0.0, 0.0, 0.0, 0.0))
            said = _around(text, stand)
            hits.append(Hit(document.source, place.page, kind, round(stand.score, 3), said, place.box, *at))
    return sorted(hits, key=lambda hit: -hit.score)


def _texts(document: Document) -> Iterator[tuple[str, str, list[Place], tuple[int, int, int]]]:
    """Every text with its kind, where it stands, and its table, row and column."""
    none, number = (0, 0, 0), 0
    for block in document.blocks:
        if isinstance(block, Table):
            number += 1
            yield "caption", block.caption, block.places, (number, 0, 0)
            for cell in block.cells:
                yield "cell", cell.text, cell.places, (number, cell.row + 1, cell.column + 1)
        else:
            for kind, text, places in _pieces(block):
                yield kind, text, places or block.places, none
    for head in document.running:
        yield "running", head.text, [head.place], none


def _pieces(block: Block) -> Iterator[tuple[str, str, list[Place]]]:
    match block:
        case ListBlock():
            for item in block.items:
                yield "list", f"{item.label} {item.text}", item.places
        case Fields():
            for entry in block.fields:
                yield "field", f"{entry.label} {entry.value}", entry.places
        case Contents():
            for line in block.entries:
                yield "contents", line.text, block.places
        case Figure():
            yield "caption", block.caption, block.places
            yield "figure", block.text, block.places
        case Table():
            pass
        case _:
            yield block.kind, block.text, block.places


def _around(text: str, stand: Stand) -> str:
    start, end = max(0, stand.start - AROUND), min(len(text), stand.end + AROUND)
    said = " ".join(text[start:end].split())
    return ("... " if start else "") + said + (" ..." if end < len(text) else "")
