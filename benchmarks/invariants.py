"""What must hold of any document: python benchmarks/invariants.py FOLDER...

Reads every PDF in the folders and checks that
- each word of a page lands in exactly one line, table cell, caption or figure;
- no character comes out that is not on the page, but in numbers that are told to be corrected;
- what is taken from a page as an equation comes out with all its letters and digits;
- cells do not overlap and do not reach out of their table;
- HTML passes a strict parser, and HTML and Markdown read back to the same headings and cells;
- JSON fits its schema and comes back equal.
Prints one line a violation and exits with 1 if there is any.
"""

from __future__ import annotations

import json
import re
import sys
import unicodedata
from collections import Counter
from collections.abc import Iterable, Iterator
from functools import cache
from pathlib import Path
from typing import Any

import html5lib
import jsonschema
from lxml import html
from markdown_it import MarkdownIt

from wennak.emit import from_json, json_schema
from wennak.errors import OWN_ERROR, SourceError
from wennak.ink import PageInk, PdfFile, turned
from wennak.layout import Line
from wennak.layout.words import find_words
from wennak.methods import DEFAULT_METHOD
from wennak.model import Document, Heading, Table
from wennak.pipeline import document_of
from wennak.scan import AS_NEEDED, recognised
from wennak.stretches import read_page, read_stretch
from wennak.tables import find_method

# Characters that reading may add: a bullet for one that is drawn.
ADDED = "•"
CORRECTED = re.compile(r'"(.*)" was read .* changed into "(.*)": only')


def looked_through(path: Path) -> tuple[Document, list[str]]:
    """Return the PDF at `path` as it is read, and a sentence for everything that does not hold of it."""
    inked: Counter[str] = Counter()
    wrong: list[str] = []

    def looked_at(inks: Iterable[PageInk]) -> Iterator[PageInk]:
        for ink in inks:
            wrong.extend(_page(ink, inked))
            yield ink

    # As `wennak.read` does, but that its pages are looked at on their way.
    with PdfFile(path, path.name) as pdf:
        inks = recognised(pdf, list(range(1, pdf.page_count + 1)), AS_NEEDED)
        document = document_of(pdf, read_stretch(pdf, looked_at(inks), find_method(DEFAULT_METHOD)))
    return document, [*wrong, *_violations(document, inked)]


def _violations(document: Document, inked: Counter[str]) -> Iterator[str]:
    """Yield a sentence for what does not hold of a document whose pages show so many of each character."""
    yield from (f.message for f in document.findings if f.code == OWN_ERROR)
    out: Counter[str] = Counter()
    for text in [*document.texts(), *(f.text for f in document.running)]:
        out.update(_characters(text))
    for found in document.findings:
        # What only a sum that comes out bears out is told with what was read.
        if found.code == "corrected" and (said := CORRECTED.match(found.message)):
            out.update(_characters(said[1]))
            out.subtract(_characters(said[2]))
    surplus = {c: n for c, n in (out - inked).items() if c not in ADDED}
    if surplus:
        yield f"characters that are not on the page: {surplus}"
    for table in document.tables:
        yield from _grid(table)
    yield from _html(document)
    yield from _markdown(document)
    text = document.json()
    if from_json(text) != document:
        yield "JSON does not come back equal"
    _schema().validate(json.loads(text))


@cache
def _schema() -> jsonschema.Draft202012Validator:
    """What JSON has to fit; looked through once."""
    schema = json_schema()
    jsonschema.Draft202012Validator.check_schema(schema)
    return jsonschema.Draft202012Validator(schema)


def _characters(text: str) -> Iterator[str]:
    return (c for c in text if not c.isspace())


def _said(text: str) -> Iterator[str]:
    """The letters and digits of a text, without the alphabets of mathematics and without accents."""
    plain = unicodedata.normalize("NFKD", text.replace("∆", "Δ"))
    return (c for c in plain if unicodedata.category(c) in ("Lu", "Ll", "Lo", "Nd"))


def _page(ink: PageInk, inked: Counter[str]) -> Iterator[str]:
    number = ink.number
    page = read_page(ink, find_method(DEFAULT_METHOD))
    items, drafts, layout = page.items, page.drafts, page.layout
    words = Counter(c for text in layout.words.texts for c in text if not c.isspace())
    whole = find_words(turned(ink, layout.turns))
    inked += Counter(c for text in whole.texts for c in _characters(text))
    # Letters of equations stand for those of alphabets of their own, brackets for their pieces.
    inked.update(c for shown in layout.displays for c in _characters(shown.text))
    apart = Counter(c for text in whole.texts for c in _said(text))
    said = Counter(c for shown in layout.displays for c in _said(shown.text + shown.label))
    said += Counter(c for text in layout.words.texts for c in _said(text))
    if apart != said:
        yield f"page {number}: equations lost {dict(apart - said)}, gained {dict(said - apart)}"
    # What a form holds may come out in the place of what is drawn, and a finding says so.
    inked.update(c for entry in ink.form for c in entry.value if not c.isspace())
    uses = Counter(w for d in drafts for w in [*(i for c in d.cells for i in c.words), *d.caption])
    if any(count > 1 for count in uses.values()):
        yield f"page {number}: words that are in two cells or captions"
    placed = Counter(c for w in uses for c in layout.words.texts[w] if not c.isspace())
    for item in items.items:
        text = item.text if isinstance(item, Line) else getattr(item, "text", "")
        placed.update(_characters(text))
    if placed != words:
        yield f"page {number}: lost {dict(words - placed)}, gained {dict(placed - words)}"


def _grid(table: Table) -> Iterator[str]:
    taken: set[tuple[int, int]] = set()
    for cell in table.cells:
        for r in range(cell.row, cell.row + cell.rowspan):
            for c in range(cell.column, cell.column + cell.colspan):
                if (r, c) in taken:
                    yield f"cells overlap at row {r}, column {c} of {table.caption!r}"
                taken.add((r, c))
                if r >= table.rows or c >= table.columns:
                    yield f"a cell reaches out of the table at row {r}, column {c} of {table.caption!r}"


def _html(document: Document) -> Iterator[str]:
    page = document.html()
    html5lib.HTMLParser(strict=True).parse(page)
    body: Any = html.document_fromstring(page).find("body")
    heads = [(f"h{b.level}", b.text) for b in document.blocks if isinstance(b, Heading)]
    found = [(str(e.tag), e.text_content()) for e in body.iter("h1", "h2", "h3", "h4", "h5", "h6")]
    if heads != found:
        yield "HTML has other headings"
    cells = [_shown(c.text) for t in document.tables for c in t.cells if c.text]
    shown = [_flat(e.text_content()) for t in body.iter("table") for e in t.iter("td", "th")]
    if Counter(cells) != Counter(text for text in shown if text):
        yield "HTML has other cells"


def _flat(text: str) -> str:
    return "".join(_characters(text))


def _shown(text: str) -> str:
    """The text of a cell as HTML holds it: the marks of items are shown by style."""
    lines = text.split("\n")
    return _flat(
        "".join(re.sub(r"^([^\w\s]|\(?\w{1,4}[.)]) ", "", line) for line in lines) if lines[1:] else text
    )


def _markdown(document: Document) -> Iterator[str]:
    tokens: list[Any] = MarkdownIt("commonmark").enable("table").parse(document.markdown())
    opened: list[str] = []
    heads, cells = [], []
    for token in tokens:
        if token.nesting == 1:
            opened.append(token.type)
        elif token.nesting == -1:
            opened.pop()
        elif token.type == "inline" and opened[-1] == "heading_open":
            heads.append("".join(c.content for c in token.children))
        elif token.type == "inline" and opened[-1] in ("td_open", "th_open"):
            cells.append("".join(c.content for c in token.children))
        elif token.type == "html_block":
            cells += [
                e.text_content() for e in html.fragment_fromstring(token.content, "div").iter("td", "th")
            ]
    if heads != [b.text for b in document.blocks if isinstance(b, Heading)]:
        yield "Markdown has other headings"
    # Tables with spans are HTML in Markdown too, where style shows the marks of items.
    shown = Counter(_flat(text) for text in cells)
    # So are superscripts, which Markdown writes as raised letters.
    for cell in [c for t in document.tables for c in t.cells if c.text and not c.header]:
        ways = (_flat(cell.shown), _shown(cell.shown), _flat(cell.text))
        found = next((way for way in ways if shown[way]), None)
        if found is None:
            yield f"Markdown has other cells: {cell.shown!r}"
        else:
            shown[found] -= 1


def main(folders: list[str]) -> int:
    """Check every PDF below the folders."""
    paths = sorted(p for folder in folders for p in Path(folder).resolve().glob("**/*.pdf"))
    count = 0
    for path in paths:
        try:
            _, found = looked_through(path)
        except SourceError as error:
            print(error)
            continue
        except Exception as error:
            found = [f"{type(error).__name__}: {error}"]
        for said in found:
            print(f"{path.parent.name}/{path.name}: {said[:300]}")
        count += bool(found)
    print(f"{len(paths)} documents, {count} with violations")
    return 1 if count or not paths else 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
