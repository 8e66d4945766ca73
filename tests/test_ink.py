"""Reading what a page draws: characters, places, sizes, whatever the page does to them."""

from __future__ import annotations

import math
import random
import unittest

import numpy as np

import wennak
from tests.support import pdf_of, text_pdf
from wennak.ink import PageInk, PdfFile


def ink_of(data: bytes) -> PageInk:
    with PdfFile(data, "test.pdf") as pdf:
        return pdf.page(1)


def text_of(ink: PageInk, seen_only: bool = True) -> str:
    g = ink.glyphs
    return "".join(
        ink.texts.strings[t]
        for t, v in zip(g.text.tolist(), g.visible.tolist(), strict=True)
        if v or not seen_only
    )


class TestSizesOfDamagedFiles(unittest.TestCase):
    def test_what_is_too_large_to_be_seen_is_left_out(self) -> None:
        higher = 5 * "1 0 0 1e8 0 0 cm "
        large = f"q {higher} BT /F1 10 Tf 72 700 Td (Gannet) Tj ET Q"
        for seen, said in (("", ""), ("BT /F1 10 Tf 72 600 Td (Tern) Tj ET", "Tern")):
            with self.subTest(said):
                document = wennak.read(pdf_of(f"{large} {seen}"))
                self.assertEqual(document.markdown().strip(), said)


class TestPages(unittest.TestCase):
    def test_a_page_that_was_looked_at_ahead_is_read_once(self) -> None:
        with PdfFile(text_pdf("Gannet", "Tern"), "two.pdf") as pdf:
            ahead = pdf.page_ahead(2)
            first, second = pdf.pages([1, 2])
            self.assertEqual([text_of(page) for page in (first, second)], ["Gannet", "Tern"])
            self.assertIs(second, ahead)
            self.assertIsNot(pdf.page(2), ahead)


class TestText(unittest.TestCase):
    def test_strings_come_back_under_any_matrix(self) -> None:
        rng = random.Random(7)
        for trial in range(60):
            angle, size = rng.uniform(0, 2 * math.pi), rng.uniform(5, 30)
            a, b = math.cos(angle), math.sin(angle)
            spacing, scale, rise = rng.uniform(-0.5, 3), rng.choice([50, 100, 140]), rng.uniform(-3, 3)
            text = "".join(rng.choice("AbcdXyz0189 (),") for _ in range(12)).strip() or "x"
            shown = text.replace("(", r"\(").replace(")", r"\)")
            ink = ink_of(
                pdf_of(
                    f"BT /F1 {size:.3f} Tf {spacing:.3f} Tc {scale} Tz {rise:.3f} Ts "
                    f"{a:.5f} {b:.5f} {-b:.5f} {a:.5f} 300 400 Tm ({shown}) Tj ET"
                )
            )
            with self.subTest(trial):
                self.assertEqual(text_of(ink), text)
                g = ink.glyphs
                np.testing.assert_allclose(g.size, size, atol=0.01)
                # The origin of the first glyph: the text matrix moved by the rise; y grows downwards.
                self.assertAlmostEqual(g.x[0], 300 - b * rise, delta=0.02)
                self.assertAlmostEqual(g.y[0], 392 - a * rise, delta=0.02)
                steps = np.hypot(np.diff(g.x), np.diff(g.y))
                wide = {"A": 667, "b": 556, "0": 556, "X": 667, "c": 500}
                for i, char in enumerate(text[:-1]):
                    if char in wide:
                        expected = (wide[char] / 1000 * size + spacing) * scale / 100
                        self.assertAlmostEqual(steps[i], abs(expected), delta=0.02)

    def test_kerns_hexadecimal_escapes_and_nested_parentheses(self) -> None:
        ink = ink_of(
            pdf_of(r"BT /F1 10 Tf 72 700 Td [(A\102)-500<43 44>(\(e(f)\))20(g)] TJ 0 -20 Td (h) ' ET")
        )
        self.assertEqual(text_of(ink), "ABCD(e(f))gh")
        g = ink.glyphs
        self.assertAlmostEqual(g.x[2], 72 + 6.67 + 6.67 + 5.0, places=2)

    def test_differences_ligatures_and_unknown_codes(self) -> None:
        import pikepdf

        differences = pikepdf.Array(
            [1, pikepdf.Name.fi, pikepdf.Name("/uni20AC"), pikepdf.Name("/gobbledegook")]
        )
        encoding = pikepdf.Dictionary(Type=pikepdf.Name.Encoding, Differences=differences)
        font = {"Subtype": "/Type1", "BaseFont": "/Odd", "Encoding": encoding, "FirstChar": 1, "LastChar": 3,
                "Widths": pikepdf.Array([500, 500, 500])}  # fmt: skip
        ink = ink_of(pdf_of(b"BT /F1 10 Tf 72 700 Td (\x01\x02\x03) Tj ET", {"F1": font}))
        self.assertEqual(text_of(ink), "fi€\ufffd")
        self.assertEqual([code for code, _ in ink.notes], ["unknown-characters"])

    def test_short_rules_between_characters_are_underscores_and_others_are_not(self) -> None:
        words = "BT /F1 10 Tf 72 {y} Td ({a}) Tj {gap} 0 Td ({b}) Tj ET"

        def drawn(rule: str, a: str = "st", b: str = "dev", gap: float = 10.8) -> str:
            return text_of(ink_of(pdf_of(words.format(y=700, a=a, b=b, gap=gap) + " " + rule)))

        self.assertEqual(drawn("79.9 699.8 2.9 0.4 re f"), "st_dev")
        self.assertEqual(drawn("0.4 w 79.9 700 m 82.8 700 l S"), "st_dev")
        self.assertEqual(drawn("79.9 699.8 2.9 0.4 re 83.2 699.8 2.9 0.4 re f", gap=14.2), "st__dev")
        # Underlining, the bar of a fraction, a minus at middle height, and a rule that touches nothing.
        self.assertEqual(drawn("72 698.5 5 0.4 re f"), "stdev")
        fraction = "79.9 701 2.9 0.4 re f BT /F1 6 Tf 79.9 703 Td (1) Tj ET BT /F1 6 Tf 79.9 694 Td (2) Tj ET"
        self.assertNotIn("_", drawn(fraction))
        self.assertEqual(drawn("79.9 703.5 2.9 0.4 re f"), "stdev")
        self.assertEqual(drawn("150 700 2.9 0.4 re f"), "stdev")

    def test_hidden_text_is_marked_not_mixed_in(self) -> None:
        content = (
            "BT /F1 10 Tf 72 700 Td (seen) Tj 3 Tr ( invisible) Tj 0 Tr ET "
            "BT /F1 10 Tf 72 600 Td (covered) Tj ET 1 g 60 590 100 30 re f 0 g "
            "q 0 0 10 10 re W n BT /F1 10 Tf 72 500 Td (clipped) Tj ET Q "
            "BT /F1 10 Tf 900 500 Td (outside) Tj ET"
        )
        ink = ink_of(pdf_of(content))
        self.assertEqual(text_of(ink), "seen")
        self.assertEqual(text_of(ink, seen_only=False), "seen invisiblecoveredclippedoutside")

    def test_double_strikes_collapse_and_doubled_letters_stay(self) -> None:
        ink = ink_of(pdf_of("BT /F1 10 Tf 72 700 Td (full) Tj 0.3 0 Td (full) Tj ET"))
        self.assertEqual(text_of(ink), "full")

    def test_rotation_and_crop_box_give_the_page_as_seen(self) -> None:
        content = "BT /F1 10 Tf 100 700 Td (x) Tj ET"
        seen = {}
        for rotate in (0, 90, 180, 270):
            ink = ink_of(pdf_of(content, Rotate=rotate, CropBox=[50, 100, 550, 750]))
            seen[rotate] = (
                ink.width,
                ink.height,
                round(float(ink.glyphs.x[0])),
                round(float(ink.glyphs.y[0])),
            )
        self.assertEqual(seen[0], (500, 650, 50, 50))
        self.assertEqual(seen[90], (650, 500, 600, 50))
        self.assertEqual(seen[180], (500, 650, 450, 600))
        self.assertEqual(seen[270], (650, 500, 50, 450))


class TestGraphics(unittest.TestCase):
    def test_rules_however_they_are_drawn(self) -> None:
        ink = ink_of(
            pdf_of(
                "2 0 0 2 10 10 cm 1 w 10 20 m 60 20 l S 10 30 50 40 re S "
                "5 5 100 0.4 re f 0.5 g 5 6 50 60 re f"
            )
        )
        s, f = ink.strokes, ink.fills
        self.assertEqual(len(s), 5)
        self.assertEqual((s.x0[0], s.y0[0], s.x1[0], s.width[0]), (30, 742, 130, 2))
        self.assertEqual(len(f), 2)
        np.testing.assert_allclose((f.x0[0], f.y1[0] - f.y0[0], f.grey[0]), (20, 0.8, 0))
        self.assertEqual(f.grey[1], 0.5)

    def test_broken_content_never_raises(self) -> None:
        rng = random.Random(3)
        content = b"q 1 0 0 1 5 5 cm BT /F1 12 Tf 72 700 Td [(A)-20(B)] TJ ET Q 10 10 m 20 20 l S "
        content += b"BI /W 1 /H 1 ID x EI "
        for _ in range(300):
            broken = bytearray(content * 2)
            for _ in range(rng.randrange(1, 12)):
                broken[rng.randrange(len(broken))] = rng.randrange(256)
            ink = ink_of(pdf_of(bytes(broken)))
            self.assertTrue(np.isfinite(ink.glyphs.x).all())
