"""Which documents a recipe is for, and where in one the table is."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace
from pathlib import Path

from ..errors import UsageError, WennakError
from ..expected import header_alike, with_expected_header
from ..finding import Hit, find
from ..model import Block, Cell, Document, Fields, Heading, Paragraph, Table, block_texts
from ..pages import page_numbers
from ..phrases import label_likeness, stands
from ..pipeline import read_table
from .model import Documents, Recipe, Region, Take, size_of

# Sizes of pages that differ by less (pt) are the same.
SAME_SIZE = 3.0
# A table has the headers of a recipe where they are as alike as this on average.
HEADERS_ALIKE = 0.7


@dataclass(frozen=True, slots=True)
class Found:
    """The table of a recipe, or why there is none; `said` tells where it is and why it is that one."""

    table: Table | None
    said: str


def why_unfit(documents: Documents, document: Document) -> list[str]:
    """Return why a recipe is not for a document, a sentence each; nothing where it is."""
    out = [f"it does not say {phrase!r}" for phrase in documents.says if not _says(document, phrase)]
    out += [f"it says {phrase!r}" for phrase in documents.says_not if _says(document, phrase)]
    if documents.page_size is not None and document.pages:
        width, height = size_of(documents.page_size)
        page = document.pages[0]
        if max(abs(page.width - width), abs(page.height - height)) > SAME_SIZE:
            out.append(f"its pages are {page.width:.0f} x {page.height:.0f} pt, not {documents.page_size}")
    if documents.producer is not None and not stands(documents.producer, document.producer):
        out.append(f"it was made by {document.producer or 'an unnamed program'}, not {documents.producer}")
    return out


def _says(document: Document, phrase: str) -> bool:
    return any(stands(phrase, text) for text in _all_texts(document))


def _all_texts(document: Document) -> list[str]:
    """Everything that a document says: its title, its text, its running heads and feet."""
    return [document.title, *document.texts(), *(f.text for f in document.running)]


def taken(takes: Sequence[Take], document: Document) -> tuple[dict[str, str], list[str]]:
    """Return the values that stand outside the table by name, and what was not found."""
    out: dict[str, str] = {}
    lost = []
    texts = _all_texts(document)
    for take in takes:
        if take.field is not None:
            fields = [f for b in document.blocks if isinstance(b, Fields) for f in b.fields if f.value]
            best = max(fields, key=lambda f: label_likeness(take.field or "", f.label), default=None)
            if best is None or label_likeness(take.field, best.label) < HEADERS_ALIKE:
                lost.append(f"there is no field {take.field!r}")
            else:
                out[take.names()[0]] = best.value
            continue
        match = next((m for text in texts if (m := re.search(take.pattern or "", text))), None)
        if match is None:
            lost.append(f"no text has the pattern {take.pattern}")
        else:
            out |= {name: text or "" for name, text in match.groupdict().items()}
    return out, lost


def find_table(
    recipe: Recipe, document: Document, source: str | Path | bytes | None = None, password: str = ""
) -> Found:
    """Return the table that a recipe means. A region is read from `source`, the file of the document.

    Raises UsageError where a region is named and there is no source.
    """
    where = recipe.table
    if where.region is not None:
        return _region(recipe, where.region, document, source, password)
    tables = document.tables
    said = []
    if where.pages is not None:
        count = max((page.number for page in document.pages), default=0)
        try:
            pages = set(page_numbers(where.pages, count, document.source))
        except WennakError as error:
            return Found(None, str(error).rstrip("."))
        tables = [t for t in tables if t.places and t.places[0].page in pages]
        said.append(f"on pages {where.pages}")
    if where.near is not None:
        near = where.near
        tables = [t for t in tables if any(stands(near, text) for text in _context(document, t))]
        said.append(f"near {near!r}")
    if where.headers:
        names = [[header] for header in where.headers]
        headed = [with_expected_header(t, names) for t in tables]
        scores = [(header_alike(names, t), t) for t in headed]
        tables = [t for score, t in scores if score >= HEADERS_ALIKE]
        said.append(f"with headers like {', '.join(where.headers)}")
        if not tables and scores:
            best, closest = max(scores, key=lambda pair: pair[0])
            found = ", ".join(filter(None, closest.header_labels())) or "none"
            return Found(None, f"no table {' '.join(said)}; the closest has {found} ({best:.2f} alike)")
    if len(tables) < where.number:
        return Found(None, f"no table {' '.join(said)}" + f" number {where.number}" * (where.number > 1))
    table = tables[where.number - 1]
    parts = [table, *_following(document.tables, table)] if recipe.read.join else [table]
    others = [t for t in tables if not any(t.places == part.places for part in parts)]
    if others and "number" not in where.model_fields_set:
        # The rows of the others would be left out without a word.
        found = ", ".join(f"page {t.places[0].page}" for t in [table, *others] if t.places)
        return Found(None, f"{len(others) + 1} tables {' '.join(said)} ({found}); say number, or read.join")
    pages_said = sorted({place.page for part in parts for place in part.places})
    at = f"page{'s' * (len(pages_said) > 1)} {', '.join(map(str, pages_said))}"
    told = f"{at}: {table.caption or 'without a caption'}"
    if len(parts) > 1:
        told += f", joined with {len(parts) - 1} that follow"
    return Found(_joined(parts), told)


def _context(document: Document, table: Table) -> list[str]:
    """What stands around a table: its caption, the headings above it, the text before it."""
    headings: list[Heading] = []
    before: Block | None = None
    for block in document.blocks:
        if block is table:
            break
        if isinstance(block, Heading):
            headings = [h for h in headings if h.level < block.level] + [block]
        before = block
    texts = [table.caption, *(h.text for h in headings)]
    return texts + (block_texts(before) if isinstance(before, (Paragraph, Heading)) else [])


def _following(tables: Sequence[Table], table: Table) -> list[Table]:
    """The tables after one that have its headers, or as many columns and none."""
    # A table whose header was told by what was expected is a copy that stands where it stood.
    at = next(k for k, t in enumerate(tables) if t is table or t.places == table.places)
    out = []
    for other in tables[at + 1 :]:
        same = other.header_labels() == table.header_labels() if other.header_rows else True
        if other.columns != table.columns or not same:
            break
        out.append(other)
    return out


def _joined(parts: Sequence[Table]) -> Table:
    """Tables with the same columns as one: below each other, the headers of the first."""
    first = parts[0]
    if len(parts) == 1:
        return first
    cells: list[Cell] = list(first.cells)
    rows, heads = first.rows, list(first.heads or [-1] * first.rows)
    for part in parts[1:]:
        down = rows - part.header_rows
        cells += [replace(c, row=c.row + down) for c in part.cells if c.row >= part.header_rows]
        heads += [h + down if h >= 0 else -1 for h in (part.heads or [-1] * part.rows)[part.header_rows :]]
        rows += part.rows - part.header_rows
    places = [place for part in parts for place in part.places]
    return replace(first, rows=rows, cells=cells, heads=heads, places=places, checks=[])


def _region(
    recipe: Recipe, region: Region, document: Document, source: str | Path | bytes | None, password: str
) -> Found:
    if source is None:
        raise UsageError("A recipe with a region reads the file itself; give the source beside the document.")
    above, below = (_anchor(document, phrase, recipe) for phrase in (region.below, region.above))
    lost = [p for p, hit in ((region.below, above), (region.above, below)) if p is not None and hit is None]
    if lost:
        return Found(None, f"nothing says {lost[0]!r}, where the region is")
    hits = [hit for hit in (above, below) if hit is not None]
    page = hits[0].page
    if any(hit.page != page for hit in hits):
        return Found(None, f"{region.below!r} and {region.above!r} stand on different pages")
    height = next(p.height for p in document.pages if p.number == page)
    top = above.box.y1 if above else 0.0
    bottom = below.box.y0 if below else height
    if bottom <= top:
        return Found(None, f"{region.above!r} stands above {region.below!r}")
    place = f"{page},{region.left},{top:.2f},{region.right},{bottom:.2f}"
    try:
        table = read_table(source, place, recipe.read.cuts, recipe.read.header_rows, password)
    except UsageError as error:
        return Found(None, str(error).rstrip("."))
    return Found(table, f"page {page}: between {top:.0f} and {bottom:.0f} pt from the top")


def _anchor(document: Document, phrase: str | None, recipe: Recipe) -> Hit | None:
    if phrase is None:
        return None
    hits = find(document, phrase)
    if recipe.table.pages is not None and hits:
        count = max(page.number for page in document.pages)
        pages = set(page_numbers(recipe.table.pages, count, document.source))
        hits = [hit for hit in hits if hit.page in pages]
    return hits[0] if hits else None
