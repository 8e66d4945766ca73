"""Pictures of pages and figures; what a browser makes of the pages that are written."""

from __future__ import annotations

import random
import unittest

from PIL import Image

import wennak
from tests.support import DEMO, InFolder, browser, run
from tests.test_outputs import HOSTILE, random_document
from wennak.emit.look_page import look_page
from wennak.model import Box, Document, Figure, Heading, ListBlock, ListItem, Mark, PageSize, Paragraph, Place


class TestLook(InFolder):
    def test_every_page_is_drawn_with_its_blocks(self) -> None:
        result = run("look", DEMO / "tide-table.pdf", "--out", self.folder / "out")
        self.assertEqual(result.returncode, 0, result.stderr)
        names = sorted(p.name for p in (self.folder / "out").iterdir())
        self.assertEqual(names, ["index.html", "page-1.png", "page-2.png"])
        with Image.open(self.folder / "out/page-2.png") as picture:
            # A4 at two pixels a point, with the colour of tables on it.
            self.assertEqual(picture.size, (1191, 1684))
            colours = {colour for _, colour in picture.getcolors(1 << 24)}
            self.assertIn((0, 158, 115), colours)
        page = (self.folder / "out/index.html").read_text(encoding="utf-8")
        self.assertIn("<td data-place=", page)
        self.assertIn("running", page)

    def test_bad_input_gets_one_sentence(self) -> None:
        (self.folder / "file").write_text("x")
        for code, said, arguments in (
            (1, "does not exist", ["none.pdf", "--out", self.folder / "out"]),
            (2, "is a file", [DEMO / "timetable.pdf", "--out", self.folder / "file"]),
            (1, "there is no page 9", [DEMO / "timetable.pdf", "--pages", "9", "--out", self.folder / "out"]),
        ):
            result = run("look", *arguments)
            self.assertEqual((result.returncode, result.stdout), (code, ""))
            self.assertIn(said, result.stderr)
            self.assertNotIn("Traceback", result.stderr)

    def test_pictures_of_figures_are_saved_and_shown(self) -> None:
        result = run(
            "convert", DEMO / "swell-note.pdf", "--out", self.folder, "--as", "html,md", "--pictures"
        )
        self.assertEqual(result.returncode, 0, result.stderr)
        with Image.open(self.folder / "swell-note-figures/figure-1.png") as picture:
            self.assertGreater(picture.width, 300)
        page = (self.folder / "swell-note.html").read_text(encoding="utf-8")
        self.assertIn('<img src="swell-note-figures/figure-1.png" alt="Figure 1: Measured heights', page)
        self.assertIn("](<swell-note-figures/figure-1.png>)", (self.folder / "swell-note.md").read_text())


class TestBrowser(InFolder):
    def test_hostile_text_runs_nothing(self) -> None:
        document = random_document(random.Random(3), spans=True)
        place = [Place(1, Box(1, 1, 9, 9))]
        attack = '"><img src=x onerror="window.hit=1"><script>window.hit=1</script>'
        for text in (*HOSTILE, attack):
            marks = [Mark(0, len(text), "link", "javascript:window.hit=1"), Mark(0, 2, "note", attack)]
            items = [ListItem(text, attack[:9], 0, marks, place)]
            document.blocks += [
                Paragraph(text, marks),
                Heading(text, 1),
                ListBlock(items),
                Figure(text, text, attack),
            ]
        document.title = document.source = document.language = attack
        document.pages = [PageSize(1, 100, 100, attack)]
        (self.folder / "a.html").write_text(document.html(page_marks=True), encoding="utf-8")
        (self.folder / "b.html").write_text(look_page(document, {1: "page-1.png"}, attack), encoding="utf-8")
        with browser(self) as driver:
            # The page that tells coordinates has a script of its own.
            for name, scripts in (("a.html", 0), ("b.html", 1)):
                driver.get((self.folder / name).as_uri())
                self.assertIsNone(driver.execute_script("return window.hit"))
                self.assertEqual(driver.execute_script("return document.scripts.length"), scripts)
                for link in driver.execute_script("return [...document.links].map(a => a.href)"):
                    self.assertTrue(link.startswith(("http:", "https:", "mailto:", "file:")), link)
        self.assertNotIn("](<javascript", document.markdown())


class TestLoad(InFolder):
    def test_a_saved_document_is_loaded_again(self) -> None:
        document = wennak.read(DEMO / "swell-note.pdf")
        document.save(self.folder / "a.json")
        self.assertEqual(wennak.load(self.folder / "a.json"), document)
        (self.folder / "b.json").write_text("{}")
        for name, kind in (("b.json", wennak.UsageError), ("c.json", wennak.MissingSource)):
            with self.assertRaises(kind):
                wennak.load(self.folder / name)
        self.assertIsInstance(document, Document)


if __name__ == "__main__":
    unittest.main()
