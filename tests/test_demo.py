"""The demo collection: the generator makes the shipped files, and reading them gives back what they say."""

from __future__ import annotations

import os
import re
import unicodedata
import unittest
from collections import Counter
from pathlib import Path

from lxml import html

import wennak
from tests.support import DEMO, InFolder, run, words
from wennak.bench.grid import grid_of
from wennak.demo.scenario import FIGURE_LABELS, PAPERS, Paper, Sheet
from wennak.emit import from_json
from wennak.truth import load_truth, validate

ROOT = Path(__file__).parent.parent


def said(paper: Paper) -> Counter[str]:
    """Every word of a paper, once for each time it is said."""
    texts = []
    for part in paper.parts:
        if isinstance(part, Sheet):
            texts += [part.caption, *(e.text for row in [*part.head, *part.body] for e in row)]
        else:
            style, text = part
            texts.append(
                text.replace("^", "").replace("|x", "").replace("|", " ")
                if style == "check"
                else text.replace("^", "").replace("*", "" if style == "p" else "*").replace("|", " ")
            )
            texts += FIGURE_LABELS if style == "figure" else []
    return words(" ".join(texts))


class TestDemoFiles(InFolder):
    def test_generator_makes_the_shipped_files(self) -> None:
        try:
            from wennak.demo.draw import draw_all
        except ImportError as error:
            self.skipTest(f"drawing needs the extra dev: {error}")
        draw_all(self.folder)
        made = {p.name: p.read_bytes() for p in self.folder.iterdir()}
        # A recipe and a schema are written by hand.
        shipped = {p.name: p.read_bytes() for p in DEMO.iterdir() if p.suffix not in (".yaml", ".json")}
        self.assertEqual(sorted(made), sorted(shipped))
        for name, data in shipped.items():
            # The plotting library writes its version into the poster.
            if not name.startswith("fares-poster"):
                self.assertEqual(made[name], data, f"{name} differs from what the generator draws")

    def test_demo_command_runs_to_the_end(self) -> None:
        # Where the command of the README has just run it, that is looked at.
        if "WENNAK_DEMO_TOLD" in os.environ:
            folder, said = ROOT / "wennak-demo", Path(os.environ["WENNAK_DEMO_TOLD"]).read_text("utf-8")
        else:
            folder = self.folder / "demo"
            result = run("demo", "--out", folder)
            self.assertEqual(result.returncode, 0, result.stderr)
            said = result.stdout
        # The story of the job, in its order.
        told = ["13 documents", "13 of 13 papers", "The least sure", "12 of 13 come out", "9 of 12 months",
                "Use combined", "are answered at once", "What to open next"]  # fmt: skip
        at = [said.find(one) for one in told]
        self.assertEqual(at, sorted(at))
        self.assertNotIn(-1, at)
        self.assertTrue((folder / "benchmark/results.json").exists())
        for paper in PAPERS:
            for ending in ("md", "html", "json"):
                self.assertTrue((folder / f"converted/{paper().name}.{ending}").exists())


class TestDemoContent(unittest.TestCase):
    def test_tables_are_the_truth(self) -> None:
        for make in PAPERS:
            with self.subTest(make.__name__):
                document = wennak.read(DEMO / f"{make().name}.pdf")
                truth = load_truth(DEMO / f"{make().name}.html")
                self.assertEqual([p.message for p in validate(truth)], [])
                self.assertEqual(
                    [grid_of(t).cells for t in document.tables],
                    [grid_of(t.table).cells for t in truth.tables],
                )

    def test_one_table_drawn_by_two_programs_is_read_alike(self) -> None:
        for method in ("plain", "ruled", "spaced", "combined"):
            with self.subTest(method):
                both = [wennak.read(DEMO / f"fares-{n}.pdf", method=method) for n in ("circular", "poster")]
                grids = [[grid_of(t).cells for t in document.tables] for document in both]
                self.assertEqual(*grids)
                self.assertEqual(len(grids[0]), 0 if method == "ruled" else 2)

    def test_header_rows_are_found(self) -> None:
        for make in PAPERS:
            paper = make()
            sheets = [p for p in paper.parts if isinstance(p, Sheet)]
            document = wennak.read(DEMO / f"{paper.name}.pdf")
            self.assertEqual(
                [t.header_rows for t in document.tables], [len(s.head) for s in sheets], paper.name
            )

    def test_every_word_is_in_every_output_once(self) -> None:
        for make in PAPERS:
            paper = make()
            document = wennak.read(DEMO / f"{paper.name}.pdf")
            expected = said(paper)
            # Inline elements part no words.
            page = re.sub(r"</?(?:sup|a|em|strong)\b[^>]*>", "", document.html())
            # Formulas are set, not written.
            for block in (b for b in document.blocks if isinstance(b, wennak.Formula)):
                page = page.replace(block.mathml, block.text)
            body = html.document_fromstring(page).find("body")
            self.assertEqual(words(" ".join(body.itertext())), expected, f"HTML of {paper.name}")
            plain = document.markdown()
            for block in (b for b in document.blocks if isinstance(b, wennak.Formula)):
                number = block.label.strip("()")
                plain = plain.replace(f"$$\n{block.tex} \\tag{{{number}}}\n$$", f"{block.text} {block.label}")
            # Raised marks are characters of their own.
            plain = unicodedata.normalize("NFKC", plain.replace("\\", ""))
            if "<table>" in plain:
                plain = " ".join(html.fromstring(f"<div>{plain}</div>").itertext())
            marks = dict.fromkeys(["|", "---", "#", "##", "-", "", ">", "```", "*", "[x]", "[", "]"])
            found, wanted = words(re.sub(r"(?<!\s)\*|\*(?!\s)", "", plain)), expected.copy()
            for mark in marks:
                del found[mark], wanted[mark]
            self.assertEqual(found, wanted, f"Markdown of {paper.name}")
            again = from_json(document.json())
            items = [f"{i.label} {i.text}" for b in again.blocks if b.kind == "list" for i in b.items]
            texts = list(again.texts())
            self.assertEqual(
                words(" ".join(texts)) - words("• " * len(items)),
                expected - words("• "),
                f"JSON of {paper.name}",
            )

    def test_running_heads_are_kept_apart(self) -> None:
        document = wennak.read(DEMO / "tide-table.pdf")
        heads = [f.text for f in document.running]
        self.assertEqual(sum("Harbour Board" in h for h in heads), 2)
        self.assertEqual([h for h in heads if h.startswith("Page")], ["Page 1", "Page 2"])

    def test_table_over_two_pages_is_one_and_knows_where_it_stands(self) -> None:
        (table,) = wennak.read(DEMO / "tide-table.pdf").tables
        self.assertEqual([p.page for p in table.places], [1, 2])
        self.assertEqual(table.frame().shape, (61, 9))
        last = next(c for c in table.cells if c.row == table.rows - 1 and c.column == 0)
        self.assertEqual((last.text, last.places[0].page), ("30 June", 2))

    def test_json_comes_back_equal(self) -> None:
        for make in PAPERS:
            document = wennak.read(DEMO / f"{make().name}.pdf")
            self.assertEqual(from_json(document.json()), document)


if __name__ == "__main__":
    unittest.main()
