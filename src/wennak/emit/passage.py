"""Document -> passages for retrieval: pieces of limited size that can be understood alone."""

from __future__ import annotations

import json
import re
from collections.abc import Callable, Iterator, Sequence
from dataclasses import asdict, dataclass, field

from ..model import Block, Box, Contents, Document, Heading, ListBlock, Place, Table, block_texts
from .formats import LIMIT
from .records import record_lines, row_lines

# A token is a run of letters and digits, or any other character that is no blank.
_TOKEN = re.compile(r"\w+|[^\w\s]")
_SENTENCE = re.compile(r"(?<=[.!?…。])\s+")


@dataclass(slots=True)
class Passage:
    """A piece of a document.

    `headings` is the path of headings above it, from the highest; `pages` and `places` say where it stands;
    `size` is the size of its text by the counter used; `kind` is "table" for tables and their parts.
    """

    source: str
    number: int
    kind: str
    headings: list[str]
    text: str
    size: int
    pages: list[int] = field(default_factory=list)
    places: list[Place] = field(default_factory=list)


def count_tokens(text: str) -> int:
    """Return the number of runs of letters and digits, and of other characters that are no blanks.

    >>> count_tokens("Berth 4: £12.50")
    7
    """
    return len(_TOKEN.findall(text))


def passages(
    document: Document,
    limit: int = LIMIT,
    count: Callable[[str], int] = count_tokens,
    records: bool = False,
) -> list[Passage]:
    """Cut a document into passages of at most `limit` by `count`.

    A heading begins a new passage. Text is cut between blocks, else between sentences, else between words. A
    table is a passage of its own; a larger one is cut between rows, and each part repeats its caption and
    header; a row is never cut, even where it alone exceeds the limit. Rows are those of a pipe table, or with
    `records` lines of "header: value".
    Raises ValueError if `limit` is less than 1.
    """
    if limit < 1:
        raise ValueError("The limit of a passage must be at least 1.")
    out: list[Passage] = []
    path: list[Heading] = []
    waiting: list[tuple[str, Sequence[Place]]] = []
    used = True

    def add(kind: str, text: str, places: Sequence[Place]) -> None:
        pages = sorted({place.page for place in places})
        names = [h.text for h in path]
        out.append(
            Passage(document.source, len(out) + 1, kind, names, text, count(text), pages, list(places))
        )

    def flush() -> None:
        if waiting:
            add("text", "\n\n".join(text for text, _ in waiting), [p for _, ps in waiting for p in ps])
            waiting.clear()

    def leave() -> None:
        # A heading with nothing under it is told by itself.
        flush()
        if path and not used:
            add("text", path.pop().text, [])

    for block in document.blocks:
        if isinstance(block, Heading):
            flush()
            if path and not used and block.level <= path[-1].level:
                leave()
            path[:] = [h for h in path if h.level < block.level] + [block]
            used = False
            continue
        used = True
        if isinstance(block, Table):
            flush()
            for text, places in _table_parts(block, limit, count, records):
                add("table", text, places)
            continue
        for text in _cut(_block_text(block), limit, count):
            if waiting and count("\n\n".join([*(t for t, _ in waiting), text])) > limit:
                flush()
            waiting.append((text, block.places))
    leave()
    return out


def to_passages(document: Document, limit: int = LIMIT, records: bool = False) -> str:
    """Return the passages of a document as JSON Lines, one passage a line."""
    lines = (json.dumps(asdict(p), ensure_ascii=False) for p in passages(document, limit, records=records))
    return "".join(f"{line}\n" for line in lines)


def _block_text(block: Block) -> str:
    match block:
        case ListBlock():
            return "\n".join(f"{'  ' * i.depth}{i.label or '-'} {i.text}" for i in block.items)
        case Contents():
            return "\n".join(f"{'  ' * e.depth}{e.text} {e.page}".rstrip() for e in block.entries)
        case _:
            return "\n".join(block_texts(block))


def _cut(text: str, limit: int, count: Callable[[str], int]) -> Iterator[str]:
    """Pieces of a text within the limit: lines, else sentences, else words."""
    if count(text) <= limit:
        if text:
            yield text
        return
    for separator, glue in ((re.compile(r"\n"), "\n"), (_SENTENCE, " "), (re.compile(r"\s+"), " ")):
        parts = separator.split(text)
        if len(parts) > 1:
            yield from _packed(parts, glue, limit, count)
            return
    yield text


def _packed(parts: Sequence[str], glue: str, limit: int, count: Callable[[str], int]) -> Iterator[str]:
    """Join as many parts as the limit allows; a part beyond it is cut further."""
    held = ""
    for part in parts:
        longer = f"{held}{glue}{part}" if held else part
        if count(longer) <= limit:
            held = longer
            continue
        if held:
            yield held
        held = ""
        pieces = list(_cut(part, limit, count))
        yield from pieces[:-1]
        held = pieces[-1] if pieces else ""
    if held:
        yield held


def _table_parts(
    table: Table, limit: int, count: Callable[[str], int], records: bool
) -> Iterator[tuple[str, list[Place]]]:
    """Text and places of each part of a table that keeps within the limit."""
    head, rows = record_lines(table) if records else row_lines(table)
    start = "\n".join([*([table.caption, ""] if table.caption else []), *head])
    parts: list[list[int]] = [[]]
    for k, (_, row) in enumerate(rows):
        held = [rows[i][1] for i in parts[-1]]
        if held and count("\n".join([start, *held, row])) > limit:
            parts.append([])
        parts[-1].append(k)
    for part in parts:
        text = "\n".join([start, *(rows[k][1] for k in part)]).strip("\n")
        numbers = {rows[k][0] for k in part}
        if text:
            yield text, table.places if len(parts) == 1 else _places_of_rows(table, numbers)


def _places_of_rows(table: Table, rows: set[int]) -> list[Place]:
    """The boxes around some rows, one a page."""
    boxes: dict[int, list[Box]] = {}
    for cell in table.cells:
        if rows & set(range(cell.row, cell.row + cell.rowspan)):
            for place in cell.places:
                boxes.setdefault(place.page, []).append(place.box)
    return [Place(page, Box.around(found)) for page, found in sorted(boxes.items())]
