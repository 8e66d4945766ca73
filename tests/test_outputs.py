"""What is written can be read back by a Markdown parser, an HTML parser and ourselves; and it is inert."""

from __future__ import annotations

import json
import random
import re
import tempfile
import unittest
from pathlib import Path

from lxml import etree, html

import wennak
from tests.support import DEMO, run_here
from wennak.emit import from_json, json_schema
from wennak.model import (
    Block,
    Box,
    Cell,
    Code,
    Document,
    Finding,
    Heading,
    ListBlock,
    ListItem,
    PageSize,
    Paragraph,
    Place,
    Table,
)

try:
    from markdown_it import MarkdownIt
except ImportError:
    MarkdownIt = None

HOSTILE = [
    "<script>alert(1)</script>", "a | b \\| c", "*stars* _lines_ `ticks` ~~no~~", "# no heading",
    "1. no list", "- no item", "+ plus", "> no quote", "[no](javascript:alert(1))", "&amp; & &#35; <b>",
    "=SUM(A1)", "---", "===", "a\\", "![x](y)", "\u202eturned\u202c", "100 % ~ 5", "<!-- gone? -->", "|",
    "12) twelve", "***", "http://skerra.example/?a=1&b=2",
]  # fmt: skip


def random_table(rng: random.Random, spans: bool) -> Table:
    rows, columns = rng.randrange(2, 6), rng.randrange(1, 5)
    cells, taken = [], set()
    for r in range(rows):
        for c in range(columns):
            if (r, c) in taken or rng.random() < 0.15:
                continue
            width = height = 1
            if spans and rng.random() < 0.25:
                width, height = rng.randrange(1, columns - c + 1), rng.randrange(1, rows - r + 1)
                area = {(i, j) for i in range(r, r + height) for j in range(c, c + width)}
                if area & taken:
                    width = height = 1
            taken |= {(i, j) for i in range(r, r + height) for j in range(c, c + width)}
            text = rng.choice([rng.choice(HOSTILE), f"cell {r} {c}", f"{r}.{c}"])
            cells.append(Cell(r, c, text, height, width, r == 0))
    return Table(rows, columns, cells, caption=rng.choice(["", "Table 1: Fares *now*"]), header_rows=1)


def random_document(rng: random.Random, spans: bool = False) -> Document:
    blocks: list[Block] = []
    for _ in range(8):
        text = rng.choice(HOSTILE)
        items = [ListItem(rng.choice(HOSTILE), "•") for _ in range(3)]
        blocks.append(
            rng.choice(
                [
                    Heading(text, rng.randrange(1, 7)),
                    Paragraph(text),
                    ListBlock(items),
                    Code(f"{text}\n  x ``` y"),
                ]
            )
        )
        blocks.append(random_table(rng, spans))
    places = [Place(1, Box(1.0, 2.0, 3.5, 4.0))]
    blocks.append(Paragraph("last", places=places))
    return Document("sound.pdf", title="<b>Title</b>", blocks=blocks)


class TestHtml(unittest.TestCase):
    def test_parses_back_to_the_same_texts_and_runs_nothing(self) -> None:
        for seed in range(30):
            document = random_document(random.Random(seed), spans=True)
            page = document.html()
            tree = html.document_fromstring(page)
            self.assertEqual(list(tree.iter("script", "iframe", "a", "img", "b")), [])
            body = tree.find("body")
            heads = [
                (int(e.tag[1]), e.text_content()) for e in body.iter() if re.fullmatch("h[1-6]", str(e.tag))
            ]
            self.assertEqual(heads, [(b.level, b.text) for b in document.blocks if b.kind == "heading"])
            found = [
                [c.text_content() for c in t.iter("td", "th") if c.text_content()] for t in body.iter("table")
            ]
            self.assertEqual(found, [[c.text for c in t.cells] for t in document.tables])
            items = [li.text_content() for li in body.iter("li")]
            self.assertEqual(items, [i.text for b in document.blocks if b.kind == "list" for i in b.items])
            # Well formed as XML too, but for the void elements and the doctype.
            strict = page.replace("<!DOCTYPE html>", "").replace('<meta charset="utf-8">', "")
            etree.fromstring(strict.encode())

    def test_spans_cover_the_grid_without_holes(self) -> None:
        for seed in range(40):
            table = random_table(random.Random(seed), spans=True)
            (found,) = html.document_fromstring(Document("x", blocks=[table]).html()).iter("table")
            taken: set[tuple[int, int]] = set()
            for r, row in enumerate(found.iter("tr")):
                c = 0
                for cell in row:
                    while (r, c) in taken:
                        c += 1
                    area = {
                        (r + i, c + j)
                        for i in range(int(cell.get("rowspan", 1)))
                        for j in range(int(cell.get("colspan", 1)))
                    }
                    self.assertFalse(area & taken)
                    taken |= area
            self.assertEqual(taken, {(r, c) for r in range(table.rows) for c in range(table.columns)})


@unittest.skipIf(MarkdownIt is None, "needs the extra dev (markdown-it-py)")
class TestMarkdown(unittest.TestCase):
    def test_a_parser_reads_back_headings_paragraphs_items_and_cells(self) -> None:
        parser = MarkdownIt("commonmark").enable("table")
        for seed in range(60):
            document = random_document(random.Random(seed))
            tokens = parser.parse(document.markdown())
            opened: list[str] = []
            got: dict[str, list[str]] = {"h": [], "cell": [], "li": [], "code": []}
            for token in tokens:
                if token.nesting == 1:
                    opened.append(token.type)
                elif token.nesting == -1:
                    opened.pop()
                elif token.type == "fence":
                    got["code"].append(token.content.removesuffix("\n"))
                elif token.type == "inline":
                    self.assertTrue(
                        all(c.type in ("text", "strong_open", "strong_close") for c in token.children), token
                    )
                    text = "".join(c.content for c in token.children)
                    kind = {"heading_open": "h", "td_open": "cell", "th_open": "cell"}.get(opened[-1])
                    if kind is None and "list_item_open" in opened:
                        kind = "li"
                    if kind and text:
                        got[kind].append(text)
            said = [
                " ".join(c.text.split())
                for t in document.tables
                for c in sorted(t.cells, key=lambda c: (c.row, c.column))
            ]
            self.assertEqual(got["cell"], said)
            self.assertEqual(got["h"], [b.text for b in document.blocks if b.kind == "heading"])
            self.assertEqual(
                got["li"], [i.text for b in document.blocks if b.kind == "list" for i in b.items]
            )
            self.assertEqual(got["code"], [b.text for b in document.blocks if b.kind == "code"])


class TestJson(unittest.TestCase):
    def test_comes_back_equal_and_names_its_format(self) -> None:
        published = Path(__file__).parent.parent / "docs/wennak-document.schema.json"
        self.assertEqual(json.loads(published.read_text(encoding="utf-8")), json_schema())
        for seed in range(30):
            document = random_document(random.Random(seed), spans=True)
            data = json.loads(document.json())
            self.assertEqual((data["format"], data["version"]), ("wennak-document", 2))
            self.assertEqual(from_json(document.json()), document)
            self.assertEqual(document.json(), document.json())
            self.assertLessEqual(set(data), set(json_schema()["properties"]))

    def test_other_json_is_refused(self) -> None:
        for text in ("{}", "[]", '{"format": "wennak-document", "version": 99}'):
            with self.assertRaises(ValueError):
                from_json(text)


class TestSave(unittest.TestCase):
    def test_the_ending_names_the_format_and_unknown_ones_are_refused(self) -> None:
        document = random_document(random.Random(1))
        with tempfile.TemporaryDirectory() as folder:
            for ending, text in (
                ("md", document.markdown()),
                ("html", document.html()),
                ("json", document.json()),
            ):
                path = Path(folder) / f"deep/er.{ending}"
                document.save(path)
                self.assertEqual(path.read_text(encoding="utf-8"), text)
            with self.assertRaises(wennak.UsageError):
                document.save(Path(folder) / "x.docx")
            self.assertEqual(len(list((Path(folder) / "deep").iterdir())), 3)


class TestShown(unittest.TestCase):
    EVIL = "<script>alert(1)</script>"

    def table(self) -> Table:
        cells = [
            Cell(0, 0, "Year", header=True), Cell(0, 1, self.EVIL, 1, 2, True),
            Cell(1, 0, "2031"), Cell(1, 1, "512", confidence=0.3), Cell(1, 2, "7", confidence=0.9),
        ]  # fmt: skip
        places = [Place(page, Box(0, 0, 10, 10)) for page in (2, 3)]
        return Table(2, 3, cells, self.EVIL, 1, "spaced", 0.64, places)

    def test_short_in_a_terminal(self) -> None:
        table = self.table()
        self.assertEqual(repr(table), f"<Table 2 x 3, page 2-3, spaced 0.64: {self.EVIL}>")
        findings = [Finding("odd", self.EVIL, 2)] * 9
        document = Document("a.pdf", pages=[PageSize(1, 10, 10)], blocks=[table], findings=findings)
        self.assertEqual(repr(document), "<Document 'a.pdf': 1 page, 1 table, 9 findings>")
        read = wennak.read(DEMO / "tide-table.pdf")
        self.assertLess(len(repr(read)), 80)
        self.assertLess(len(repr(read.tables)), 120)

    def test_whole_and_harmless_in_a_notebook(self) -> None:
        table = self.table()
        document = Document("a.pdf", blocks=[table] * 7, findings=[Finding("odd", self.EVIL, 2)] * 9)
        for shown, count in ((table._repr_html_(), 1), (document._repr_html_(), 5)):
            tree = html.fromstring(f"<div>{shown}</div>")
            self.assertEqual(tree.xpath("//script"), [])
            self.assertEqual(len(tree.xpath("//table")), count)
            (first, *_) = tree.xpath("//table")
            self.assertEqual([len(row) for row in first.xpath(".//tr")], [2, 3])
            (doubtful,) = first.xpath(".//td[@title]")
            self.assertEqual((doubtful.text, doubtful.get("title")), ("512", "confidence 0.30, from spaced"))
        self.assertIn("and 4 more", shown)
        self.assertIn("and 2 more", shown)

    def test_small_pages_in_a_notebook_hold_every_block_in_its_place(self) -> None:
        document = wennak.read(DEMO / "fares-circular.pdf")
        tree = html.fromstring(f"<div>{document._repr_html_()}</div>")
        drawn = tree.xpath("//svg")
        self.assertEqual(len(drawn), len(document.pages))
        for page, svg in zip(document.pages, drawn, strict=True):
            boxes = [
                tuple(round(side) for side in (p.box.x0, p.box.y0, p.box.x1 - p.box.x0, p.box.y1 - p.box.y0))
                for b in document.blocks
                for p in b.places
                if p.page == page.number
            ]
            sides = ("x", "y", "width", "height")
            found = [tuple(int(r.get(side)) for side in sides) for r in svg.xpath("./rect")]
            self.assertEqual(sorted(boxes), sorted(found))
        evil = Document("a.pdf", pages=[PageSize(2, 10, 20)], blocks=[self.table()])
        tree = html.fromstring(f"<div>{evil._repr_html_()}</div>")
        self.assertEqual(tree.xpath("//script"), [])
        self.assertEqual(len(tree.xpath("//svg/rect")), 1)

    def test_the_page_of_all_tables_lists_them(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            result = run_here("tables", DEMO / "fares-circular.pdf", "--save", folder, "--as", "html")
            self.assertEqual(result.returncode, 0, result.stderr)
            (path,) = Path(folder).iterdir()
            tree = html.fromstring(path.read_text(encoding="utf-8"))
        self.assertEqual(tree.findtext(".//title"), "fares-circular.pdf: tables")
        links = [a.get("href") for a in tree.xpath("//ol/li/a")]
        self.assertEqual(links, ["#table-1", "#table-2"])
        self.assertEqual([h.get("id") for h in tree.xpath("//h2")], ["table-1", "table-2"])
        self.assertEqual(tree.xpath("//h2")[0].text, "Table 1, page 1")
        self.assertEqual(len(tree.xpath("//table")), 2)
