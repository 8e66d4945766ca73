"""Fonts that name no characters: what their glyphs look like says what they are."""

from __future__ import annotations

import subprocess
import sys
import unittest
from pathlib import Path

import matplotlib

import wennak
from tests.support import DEMO, InFolder, run, words
from wennak.demo.nameless import KINDS, draw_nameless
from wennak.demo.scenario import Line, quay_rules
from wennak.scan import Recognition, installed_languages

FACES = Path(matplotlib.get_data_path()) / "fonts" / "ttf"
LATIN = (
    "The harbour office of Skerra Sound closes at half past five in winter.",
    "Vessels over 24 metres give notice two days before they arrive, by letter,",
    "and state their draught, cargo and number of crew; extra cranes are booked",
    "with Jack Ivery. Zinc, maize and oxides are weighed at gate 6 (room 47).",
    "Berths cost 1,203.80 for a quarter, a reduction of 9.5% is granted.",
)
GREEK = (
    "Το λιμεναρχείο κλείνει τον χειμώνα στις πέντε και μισή. Τα πλοία άνω",
    "των 24 μέτρων πρέπει να ειδοποιούν δύο ημέρες πριν φθάσουν, με γράμμα,",
    "και να δηλώνουν το βύθισμα, το φορτίο και τον αριθμό του πληρώματος.",
)
CYRILLIC = (
    "Управление порта закрывается зимой в половине шестого. Суда длиннее",
    "24 метров должны известить о прибытии за два дня, письменно или по",
    "телефону, и указать осадку, груз и число людей на борту.",
)


def lines(texts: tuple[str, ...], size: float = 10.5) -> list[Line]:
    return [Line(60, 90 + 15 * k, size, text) for k, text in enumerate(texts)]


def said(document: wennak.Document) -> str:
    return " ".join(document.texts())


@unittest.skipUnless(installed_languages(), "needs the extra ocr")
class TestNamelessFonts(InFolder):
    def read(self, texts: tuple[str, ...], face: str, kind: str) -> wennak.Document:
        path = self.folder / "page.pdf"
        draw_nameless(path, [(lines(texts), [])], FACES / f"{face}.ttf", kind)
        return wennak.read(path)

    def found(self, texts: tuple[str, ...], face: str, kind: str) -> float:
        """The share of words that come out."""
        wanted = words(" ".join(texts))
        return sum((wanted & words(said(self.read(texts, face, kind)))).values()) / wanted.total()

    def test_latin_is_read_in_faces_that_are_not_known_beforehand(self) -> None:
        for face, kind in zip(("cmr10", "cmss10", "cmb10"), KINDS[:2] + KINDS[:1], strict=True):
            with self.subTest(face=face, kind=kind):
                self.assertGreaterEqual(self.found(LATIN, face, kind), 0.98)

    def test_every_kind_of_font_is_read(self) -> None:
        for kind in KINDS:
            with self.subTest(kind=kind):
                self.assertGreaterEqual(self.found(LATIN, "DejaVuSansMono-Bold", kind), 0.98)

    def test_greek_and_cyrillic_are_read(self) -> None:
        for texts in (GREEK, CYRILLIC):
            # Without words to go by, letters of italics that look alike are taken for each other.
            for face, share in (("DejaVuSans-BoldOblique", 0.95), ("DejaVuSerif-BoldItalic", 0.85)):
                with self.subTest(texts=texts[0], face=face):
                    self.assertGreaterEqual(self.found(texts, face, "outlines"), share)

    def test_the_notice_of_the_demo_says_what_it_says(self) -> None:
        document = wennak.read(DEMO / "quay-rules-nameless.pdf")
        straight = {"“": '"', "”": '"', "’": "'"}
        found = "".join(straight.get(c, c) for c in said(document))
        written = " ".join(line.text for line in quay_rules()[0])
        self.assertEqual(words(written) - words(found), words(""))
        (table,) = document.tables
        self.assertEqual([c.text for c in table.cells if c.row == 4], ["Containers", "6,000", "371.20"])
        self.assertEqual([f.code for f in document.findings], ["told-by-shape"])

    def test_a_page_says_the_same_alone_and_among_others(self) -> None:
        path = self.folder / "pages.pdf"
        pages = [(lines(LATIN[:2]), []), (lines(LATIN[2:], 8.0), []), (lines(LATIN[1:3], 14.0), [])]
        draw_nameless(path, pages, FACES / "cmr10.ttf")
        alone = [words(said(wennak.read(path, pages=str(number)))) for number in (1, 2, 3)]
        self.assertEqual(words(said(wennak.read(path))), sum(alone, start=words("")))
        self.assertEqual(alone[1], words(" ".join(LATIN[2:])))

    def test_pictures_do_not_become_letters(self) -> None:
        document = self.read(("✂✈✉☎★☯✌♞♜☂", "☯★✂♞✈☎☂✌✉♜", "♜♞✌☂☯★☎✉✈✂"), "DejaVuSans", "outlines")
        self.assertFalse([c for c in said(document) if c.isalnum()])
        self.assertIn("unknown-characters", [f.code for f in document.findings])

    def test_what_has_a_name_is_not_looked_at(self) -> None:
        document = wennak.read(DEMO / "crew-notice.pdf")
        self.assertNotIn("told-by-shape", [f.code for f in document.findings])

    def test_nothing_is_told_where_that_is_not_asked_for(self) -> None:
        never = wennak.read(DEMO / "quay-rules-nameless.pdf", recognition=Recognition("never"))
        self.assertEqual(set(said(never).replace(" ", "")), {"\ufffd"})

    def test_the_terminal_says_that_shapes_were_told(self) -> None:
        result = run("convert", DEMO / "quay-rules-nameless.pdf")
        self.assertEqual(result.returncode, 0)
        self.assertIn("| Engine parts | 900 | 62.75 |", result.stdout)
        self.assertIn("told by their shapes", result.stderr)


class TestWithoutTheExtra(unittest.TestCase):
    def test_the_command_that_adds_it_is_named(self) -> None:
        code = (
            "import sys; sys.modules['tesserocr'] = None; import wennak; "
            f"d = wennak.read({str(DEMO / 'quay-rules-nameless.pdf')!r}); "
            "print([f.message for f in d.findings])"
        )
        result = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, timeout=120)
        self.assertIn("pip install 'wennak[ocr]'", result.stdout, result.stderr)
