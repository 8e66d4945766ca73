"""Whole documents, drawn with known text or damaged on purpose, through the library as users call it."""

from __future__ import annotations

import io
import random
import unittest
from typing import Any
from unittest import mock

import pikepdf

import wennak
from tests.support import DEMO, pdf_of, script
from wennak.layout import PageLayout
from wennak.scan import installed_languages
from wennak.tables.reading import Reading
from wennak.tables.search import search as real_search

try:
    from reportlab.pdfbase import pdfmetrics
    from reportlab.pdfgen.canvas import Canvas
except ImportError:
    Canvas = None


class TestInvariants(unittest.TestCase):
    def test_they_hold_of_the_papers_of_the_demo(self) -> None:
        invariants = script("benchmarks/invariants.py")
        # The ledgers of a year are alike.
        ledgers = sorted(DEMO.glob("berth-charges-*.pdf"))
        for path in sorted({*DEMO.glob("*.pdf")} - {*ledgers[2:]}):
            self.assertEqual(invariants.looked_through(path)[1], [], path.name)


class TestDamage(unittest.TestCase):
    def test_damaged_files_are_read_or_refused_with_a_sentence(self) -> None:
        mutations = script("benchmarks/mutations.py")
        said = [mutations.attempt(data)[0] for _, data in mutations.variants(60, seed=2)]
        self.assertGreater(sum(s.startswith("read") for s in said), 30)

    def test_an_error_of_the_program_costs_no_more_than_its_page(self) -> None:
        whole = wennak.read(DEMO / "tide-table.pdf")
        done = []

        def search(layout: PageLayout, *rest: Any) -> list[Reading]:
            done.append(layout.ink.number)
            if layout.ink.number == 1:
                raise ZeroDivisionError
            return real_search(layout, *rest)

        with mock.patch("wennak.tables.combined.search", search):
            document = wennak.read(DEMO / "tide-table.pdf")
        (finding,) = (f for f in document.findings if f.code == "own-error")
        self.assertEqual((finding.page, set(done)), (1, {1, 2}))
        self.assertIn("the tables of page 1 were left as text", finding.message)
        self.assertIn("ZeroDivisionError", finding.message)
        # No word is lost, and the table of the other page is one.
        words = [sorted(" ".join(d.texts()).split()) for d in (document, whole)]
        self.assertGreaterEqual(len(words[0]), len(words[1]))
        self.assertEqual(set(words[0]), set(words[1]))
        self.assertTrue(document.tables)
        # What a caller can act on is said to the caller.
        locked = mock.Mock(side_effect=wennak.LockedPdf("it is locked"))
        with mock.patch("wennak.tables.combined.search", locked), self.assertRaises(wennak.LockedPdf):
            wennak.read(DEMO / "tide-table.pdf")

    @unittest.skipUnless(installed_languages(), "needs the extra ocr")
    def test_an_error_in_a_picture_costs_no_more_than_its_page(self) -> None:
        with mock.patch("wennak.scan.page.find_rulings", side_effect=IndexError):
            document = wennak.read(DEMO / "engine-inspection-scan.pdf")
        (finding,) = document.findings
        self.assertEqual((finding.code, finding.page, len(document.pages)), ("own-error", 1, 1))

    def test_bombs_end_with_a_finding(self) -> None:
        wide = pdf_of(b"0 0 m 1 1 l S " * 1_400_000)
        loop = pdf_of("/X Do")
        with pikepdf.open(io.BytesIO(loop)) as pdf:
            form = pdf.make_stream(b"/X Do /X Do BT /F1 9 Tf 9 9 Td (once) Tj ET")
            form.Type, form.Subtype = pikepdf.Name.XObject, pikepdf.Name.Form
            form.BBox = pikepdf.Array([0, 0, 600, 700])
            form.Resources = pikepdf.Dictionary(
                XObject=pikepdf.Dictionary(X=form), Font=pdf.pages[0].Resources.Font
            )
            pdf.pages[0].Resources.XObject = pikepdf.Dictionary(X=form)
            out = io.BytesIO()
            pdf.save(out)
        for data, code in ((wide, "too-much-content"), (out.getvalue(), "form-loop")):
            document = wennak.read(data)
            self.assertIn(code, [f.code for f in document.findings])
        self.assertEqual(document.markdown().split(), ["once"])


@unittest.skipIf(Canvas is None, "drawing needs the extra dev (reportlab)")
class TestDrawnText(unittest.TestCase):
    def test_words_come_back_whatever_the_spacing(self) -> None:
        """Random words, fonts, sizes, spacings and turns of the page, drawn by another program."""
        rng = random.Random(11)
        letters = "abcdefghijklmnopqrstuvwxyzäöüéñß0123456789"
        for trial in range(40):
            words = ["".join(rng.choice(letters) for _ in range(rng.randrange(1, 9))) for _ in range(30)]
            font = rng.choice(["Helvetica", "Times-Italic", "Courier-Bold", "Times-Roman"])
            size, spread = rng.uniform(6, 16), rng.choice([1.0, 1.0, 1.6])
            out = io.BytesIO()
            canvas = Canvas(out, invariant=1)
            turn = rng.choice([0, 90, 270])
            canvas.translate(300, 420)
            canvas.rotate(turn)
            canvas.setFont(font, size)
            blank = pdfmetrics.stringWidth(" ", font, size) * spread
            for row in range(6):
                x, part = -250.0, words[5 * row : 5 * row + 5]
                for word in part:
                    canvas.drawString(x, 200 - row * size * 1.3, word)
                    x += pdfmetrics.stringWidth(word, font, size) + blank
            canvas.save()
            with self.subTest(trial, font=font, turn=turn):
                document = wennak.read(out.getvalue())
                self.assertEqual(" ".join(document.texts()).split(), words)
                box = document.blocks[0].places[0].box
                left = box.x0 if turn == 0 else 842 - 420 + (250 if turn == 90 else -250)
                self.assertAlmostEqual(left, 50 if turn == 0 else left, delta=0.5)


class TestScripts(unittest.TestCase):
    def test_right_to_left_text_reads_in_order_with_its_numbers(self) -> None:
        self.reads("1990 םלוע םולש", "שלום עולם 1990")
        # As many letters of either direction: the comma tells in which order they are read.
        self.reads("Ivar, םולש", "Ivar, שלום")
        self.reads("Ivar ,םולש", "שלום, Ivar")

    def reads(self, shown: str, text: str) -> None:
        codes = {c: i + 1 for i, c in enumerate(dict.fromkeys(shown))}
        names = [pikepdf.Name(f"/uni{ord(c):04X}") for c in codes]
        font = {
            "Subtype": "/Type1", "BaseFont": "/Odd", "FirstChar": 0, "LastChar": 40,
            "Widths": pikepdf.Array([500] * 41),
            "Encoding": pikepdf.Dictionary(Differences=pikepdf.Array([1, *names])),
        }  # fmt: skip
        drawn = bytes(codes[c] for c in shown).hex()
        document = wennak.read(pdf_of(f"BT /F1 10 Tf 72 700 Td <{drawn}> Tj ET", {"F1": font}))
        self.assertEqual(document.markdown().strip(), text)

    def test_accents_join_their_letters_and_carets_stay(self) -> None:
        # 0x88 is the circumflex of WinAnsi; the letter is drawn back under it, as TeX does.
        document = wennak.read(pdf_of(b"BT /F1 10 Tf 72 700 Td [(f)(\x88)390(e)(te 2^3)] TJ ET"))
        self.assertEqual(document.markdown().strip(), "fête 2^3")
