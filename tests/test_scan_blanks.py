"""Blanks, points and brackets of pictures that marks tell better than what was read of them."""

from __future__ import annotations

import unittest

import numpy as np

from tests.test_scan_lists import as_text
from tests.test_scan_numbers import drawn, marked, plain
from wennak.ink import Ints
from wennak.scan.blanks import with_blanks
from wennak.scan.marks import Marks
from wennak.scan.numerals import read_signs
from wennak.scan.page import SPACE, usual_blank
from wennak.scan.points import with_lost_points
from wennak.scan.recogniser import Read
from wennak.scan.witness import judged
from wennak.scan.writing import Writing


def at_marks(text: str, marks: Marks, own: Ints) -> Read:
    """A reading without blanks that says each character of a text at the marks that it is of."""
    read, places = Read(), list[list[float]]()
    for k in own.tolist():
        if places and marks.x0[k] < places[-1][1]:
            places[-1][1] = max(places[-1][1], float(marks.x1[k]))
        else:
            places.append([float(marks.x0[k]), float(marks.x1[k])])
    for char, (x0, x1) in zip(text.replace(" ", ""), places, strict=True):
        read.put(char, x0, x1, 0.99, False)
    return read


class TestBlanks(unittest.TestCase):
    def blanks(self, shown: str, told: str) -> str:
        """A drawn text as it is told with other blanks, and then mended."""
        marks, own = marked(drawn(shown))
        read = at_marks(shown, marks, own)
        blanks = [k - told[:k].count(" ") for k, char in enumerate(told) if char == " "]
        read.blank = [k in blanks for k in range(len(read.texts))]
        return as_text(with_blanks(read, marks, own))

    def test_room_beside_a_narrow_1_is_no_blank(self) -> None:
        for number, told in (
            ("113,0", "1 13,0"),
            ("122", "1 22"),
            ("2011", "201 1"),
            ("11.02.2030", "1 1.02.2030"),
        ):
            self.assertEqual(self.blanks(number, told), number)

    def test_a_blank_that_is_there_stays(self) -> None:
        for number in ("1 132", "12 447", "41 27"):
            self.assertEqual(self.blanks(number, number), number)

    def test_one_pair_of_digits_says_nothing(self) -> None:
        self.assertEqual(self.blanks("1 2", "1 2"), "1 2")

    def test_a_plus_minus_has_blanks_on_both_sides_or_none(self) -> None:
        for told in ("41 ±7", "41± 7", "41±7", "41 ± 7"):
            self.assertEqual(self.blanks("41 ± 7", told), "41 ± 7")
        self.assertEqual(self.blanks("41±7", "41±7"), "41±7")


class TestLostPoints(unittest.TestCase):
    def points(self, shown: str, told: str) -> str:
        marks, own = marked(drawn(shown))
        read = Read()
        left = at_marks(shown, marks, own)
        text = iter(told)
        wanted = next(text, "")
        for k, char in enumerate(left.texts):
            if char == wanted:
                read.put(char, left.x0[k], left.x1[k], 0.99, False)
                wanted = next(text, "")
        self.assertEqual("".join(read.texts), told)
        return as_text(with_lost_points(read, marks, own))

    def test_points_between_all_letters_come_back(self) -> None:
        for shown, told in (
            ("n.a.", "na."),
            ("n.a", "na"),
            ("a.m.", "am."),
            ("z.B.", "zB."),
            ("u.s.w.", "usw."),
        ):
            self.assertEqual(self.points(shown, told), shown)

    def test_words_without_points_and_what_has_them_stay(self) -> None:
        for text in ("na", "am.", "mast", "n.a.", "fee.", "7.5"):
            self.assertEqual(self.points(text, text), text)

    def test_one_point_of_several_gaps_is_dirt(self) -> None:
        self.assertEqual(self.points("us.w", "usw"), "usw")


class TestBracketsReadAsASign(unittest.TestCase):
    def test_a_figure_in_brackets_is_what_it_looks_like(self) -> None:
        for shown, told in (("(1)", "®"), ("(2)", "@"), ("(5)", "©"), ("(11)", "an")):
            grey = drawn(shown)
            marks, own = marked(grey)
            read = Read()
            low, high = float(marks.x0[own].min()), float(marks.x1[own].max())
            edges = np.linspace(low, high, len(told) + 1)
            for k, char in enumerate(told):
                read.put(char, float(edges[k]), float(edges[k + 1]), 0.8, False)
            opinion = judged(read, lambda which, g=grey, m=marks: read_signs(g, m, which), marks, own)
            self.assertEqual(plain(opinion), shown)
            self.assertLess(min(opinion.read.sure), 0.6, "such a reading is in doubt")


class TestUsualBlank(unittest.TestCase):
    def writing(self, gaps: list[float]) -> Writing:
        n = 2 * len(gaps)
        x0 = np.array([10.0 * k for k in range(n)])
        x1 = x0 + 10.0
        blank = np.zeros(n, dtype=np.bool_)
        for k, gap in enumerate(gaps):
            x1[2 * k] = x0[2 * k + 1] - 10 * gap
            blank[2 * k + 1] = True
        return Writing(
            ["a"] * n, x0, x1, np.zeros(n, dtype=np.int64), np.zeros(n), np.full(n, 10.0), np.ones(n), blank,
            np.zeros(n), np.zeros(n, dtype=np.bool_), np.zeros(n),
        )  # fmt: skip

    def test_most_blanks_of_a_page_tell_how_wide_one_is(self) -> None:
        self.assertAlmostEqual(usual_blank(self.writing([0.38] * 25 + [1.9] * 9)), 0.38)

    def test_a_few_do_not(self) -> None:
        self.assertEqual(usual_blank(self.writing([0.38] * 5)), SPACE)


if __name__ == "__main__":
    unittest.main()
