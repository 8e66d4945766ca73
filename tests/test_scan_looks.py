"""How large and how heavy what was recognised is, and which numbers do not look as their column does."""

from __future__ import annotations

import unittest
from dataclasses import replace
from itertools import combinations

import numpy as np
from PIL import Image, ImageFilter

from tests.support import pdf_of
from tests.test_scan import page_of
from tests.test_scan_numbers import marked
from wennak.scan.marks import without
from wennak.scan.picture import Grey
from wennak.scan.pitch import fixed_pitch
from wennak.scan.raised import Raised, set_raised
from wennak.scan.rows import in_line
from wennak.scan.sizes import are_bold, settled, stroke_widths
from wennak.tables.odd import odd_numbers

SAID = ("Gannets and terns breed on the outer quay", "Berth dues are paid before vessels depart")


def line(font: str, said: str, dpi: float, blur: float) -> Grey:
    """One line of 9 point in a typeface, blurred as a scan is."""
    fonts = {"F1": {"Subtype": "/Type1", "BaseFont": f"/{font}", "Encoding": "/WinAnsiEncoding"}}
    page = page_of(pdf_of(f"BT /F1 9 Tf 40 700 Td ({said}) Tj ET", fonts), dpi).convert("L")
    part: Image.Image = page.crop((0, page.height // 16, page.width // 2, page.height // 6))
    return np.asarray(part.filter(ImageFilter.GaussianBlur(blur)))


def weight(grey: Grey, dpi: float) -> float:
    """The mean width of the strokes of a line."""
    marks, own = marked(grey, dpi)
    return float(np.average(stroke_widths(marks, grey)[own], weights=marks.area[own]))


class TestWeight(unittest.TestCase):
    def test_bold_is_told_at_any_resolution_and_however_blurred(self) -> None:
        for face, bold in (("Helvetica", "Helvetica-Bold"), ("Times-Roman", "Times-Bold")):
            for dpi, blur in ((110.0, 0.0), (110.0, 0.8), (200.0, 0.0), (200.0, 1.5)):
                with self.subTest(face=face, dpi=dpi, blur=blur):
                    plain = [weight(line(face, said, dpi, blur), dpi) for said in SAID]
                    heavy = weight(line(bold, SAID[0], dpi, blur), dpi)
                    found = are_bold(np.array([*plain, heavy]), np.full(3, 9.0), np.ones(3))
                    self.assertEqual(found.tolist(), [False, False, True])

    def test_larger_letters_are_no_bolder(self) -> None:
        stroke, size = np.array([1.0, 1.1, 2.0, 0.0]), np.array([10.0, 10.0, 20.0, 10.0])
        self.assertFalse(are_bold(stroke, size, np.ones(4)).any())

    def test_what_is_not_known_is_not_bold_and_tells_nothing(self) -> None:
        self.assertFalse(are_bold(np.zeros(3), np.full(3, 10.0), np.ones(3)).any())
        stroke = np.array([0.0, 0.0, 0.0, 1.0, 1.0, 1.5])
        self.assertEqual(np.flatnonzero(are_bold(stroke, np.full(6, 10.0), np.ones(6))).tolist(), [5])


class TestSizes(unittest.TestCase):
    def test_sizes_that_a_pixel_tells_apart_are_one(self) -> None:
        size, letters = np.array([16.0, 16.0, 14.0, 16.0]), np.ones(4)
        self.assertEqual(len(np.unique(settled(size, letters, 8.0))), 1)
        self.assertEqual(len(np.unique(settled(size, letters, 30.0))), 2)

    def test_short_pieces_are_as_large_as_their_line(self) -> None:
        """A line of twelve letters, a raised one in it and two beside it; one letter elsewhere."""
        piece = np.array([0] * 12 + [1] * 2 + [2])
        baseline = np.array([100.0] * 11 + [93.0] + [100.0] * 2 + [180.0])
        size = np.array([10.0] * 11 + [6.0] + [14.0] * 2 + [7.0])
        found = in_line(size, piece, baseline)
        self.assertEqual(found.tolist(), [10.0] * 11 + [6.0] + [10.0] * 2 + [7.0])

    def test_long_pieces_keep_their_size(self) -> None:
        piece, baseline = np.repeat([0, 1], 12), np.full(24, 100.0)
        size = np.repeat([10.0, 14.0], 12)
        np.testing.assert_array_equal(in_line(size, piece, baseline), size)


class TestAsterisks(unittest.TestCase):
    def test_they_stay_in_their_line_and_letters_of_notes_do_not(self) -> None:
        grey = line("Courier", "void* quay", 200, 0)
        marks, own = marked(grey)
        for text in "*b":
            baseline, size = np.array([50.0, 50.0]), np.array([20.0, 20.0])
            middle = (marks.x0[own] + marks.x1[own])[:2] / 2
            set_raised(["d", text], middle, baseline, size, marks, [Raised(own[1:2], text, 0.9)])
            self.assertEqual(baseline[1] == 50.0, text == "*")
            self.assertEqual(size[1] == 20.0, text == "*")

    def test_a_raised_sign_in_fixed_pitch_stands_where_it_is(self) -> None:
        grey = line("Courier", SAID[0].replace(" ", "m"), 200, 0)
        marks, own = marked(grey)
        n = len(own)
        x0, x1 = marks.x0[own].astype(float), marks.x1[own].astype(float)
        baseline = np.full(n, 40.0)
        baseline[20] = 34.0
        of = np.zeros(n, dtype=np.int64)
        fixed, left, right, _ = fixed_pitch(
            x0, x1, np.zeros(n, dtype=np.int64), baseline, np.zeros(n, dtype=bool), marks, of
        )
        self.assertTrue(fixed[20])
        self.assertLess(abs(left[20] - x0[20]), right[20] - left[20])
        self.assertLess(float((right - left).max()), 2 * float(np.median(right - left)))

    def test_letters_of_fixed_pitch_that_touch_are_two(self) -> None:
        marks, own = marked(line("Courier", SAID[0].replace(" ", "m"), 200, 0))
        x0, x1 = marks.x0[own].astype(float), marks.x1[own].astype(float)
        n = len(own)
        marks.x1[own[10]] = marks.x1[own[11]]
        marks = without(marks, np.arange(len(marks)) == own[11])
        blank = np.arange(n) == 10
        _, left, right, _ = fixed_pitch(
            x0, x1, np.zeros(n, np.int64), np.full(n, 40.0), blank, marks, np.zeros(len(marks), np.int64)
        )
        wide = float(np.median(np.diff(x0)))
        self.assertLess(abs(left[10] - x0[10]), wide / 4)
        self.assertLess(abs(right[9] - x1[9]), wide / 4)

    def test_a_line_of_each_of_two_pitches_has_its_own_or_none(self) -> None:
        parts = [marked(line("Courier", SAID[0].replace(" ", "m"), dpi, 0)) for dpi in (200, 220)]
        every = [marks for marks, _ in parts]
        columns = ("number", "x0", "y0", "x1", "y1", "area")
        both = replace(every[0], **{k: np.concatenate([getattr(m, k) for m in every]) for k in columns})
        n, of = len(both), np.repeat([0, 1], [len(marks) for marks in every])
        baseline = np.where(of == 0, 40.0, 140.0)
        fixed, left, right, _ = fixed_pitch(
            both.x0.astype(float), both.x1.astype(float), of, baseline, np.zeros(n, dtype=bool), both, of
        )
        self.assertTrue(fixed[of == 1].all())
        self.assertFalse(fixed[of == 0].any())
        self.assertTrue((right > left).all())


class TestOddNumbers(unittest.TestCase):
    KINDS = (
        ("points lost", ["21.3", "4.5", "11.2", "213", "0.9"], [3]),
        ("points for commas", ["1,5", "22,4", "3.7", "8,1", "9,9"], [2]),
        ("times", ["14:46", "11:47", "14.46", "9:05", "7:30"], [2]),
        ("thousands", ["2,029", "814", "1,310", "3120", "4,400", "92"], [3]),
        ("letters", ["0.125", "0.318", "N128", "0.700", "0.412"], [2]),
        ("signs cut off", ["€114.24", "€64.11", "€1", "€11.13", "€5.00"], [2]),
        ("whole numbers", ["12", "7", "1.4", "30", "8", "11"], [2]),
    )

    def test_what_is_written_otherwise_than_its_column_is_odd(self) -> None:
        for name, texts, odd in self.KINDS:
            with self.subTest(name):
                self.assertEqual([k for k, is_odd in enumerate(odd_numbers(texts)) if is_odd], odd)

    def test_text_dashes_and_numbers_of_all_kinds_are_not(self) -> None:
        for texts in (
            ["12", "1.5", "7", "3.25", "9"], ["n/a", "–", "12", "7", "30", "8", ""],
            ["Berth 4", "Quay 12.5", "Slip", "Mole 7"], ["1.5", "2.5"], [],
            ["1,200", "1,310", "87", "9,405", "12"],
        ):  # fmt: skip
            self.assertFalse(any(odd_numbers(texts)), texts)

    def test_the_order_of_a_column_does_not_matter(self) -> None:
        _, texts, odd = self.KINDS[0]
        for i, j in combinations(range(len(texts)), 2):
            turned = texts.copy()
            turned[i], turned[j] = turned[j], turned[i]
            self.assertEqual(
                [turned[k] for k, o in enumerate(odd_numbers(turned)) if o], [texts[k] for k in odd]
            )
