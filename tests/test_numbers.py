"""Printed texts and what they are worth: each rule of reading numbers, dates and signs by cases worked by
hand, and by printing known values in every way there is.
"""

from __future__ import annotations

import datetime
import itertools
import random
import unittest
from decimal import Decimal

from wennak.bench.grid import is_number, normal
from wennak.bench.grid import number_of as digits_of
from wennak.values import (
    Column,
    bare_of,
    date_of,
    decimal_mark,
    is_missing,
    number_of,
    typed_column,
    unit_of,
)


class TestNumbers(unittest.TestCase):
    def test_what_a_text_says(self) -> None:
        cases: list[tuple[str, str, str | None]] = [
            ("7", ".", "7"),
            ("0", ".", "0"),
            ("0.5", ".", "0.5"),
            (".5", ".", "0.5"),
            ("5.", ".", "5"),
            (",5", ",", "0.5"),
            ("12", "", "12"),
            ("1.5", "", None),
            ("1,5", "", None),
            ("(12)", ".", "-12"),
            ("( 12 )", ".", "-12"),
            ("(12", ".", None),
            ("12)", ".", None),
            ("12-", ".", "-12"),
            ("12−", ".", "-12"),
            ("12 -", ".", "-12"),
            ("-", ".", None),
            ("−", ".", None),
            ("-12", ".", "-12"),
            ("−12", ".", "-12"),
            ("− 12", ".", "-12"),
            ("- 12", ".", "-12"),
            ("+12", ".", "12"),
            ("(-12)", ".", "-12"),
            ("007", ".", None),
            ("00", ".", None),
            ("0,5", ",", "0.5"),
            ("1 234", ".", "1234"),
            ("1 234 567.5", ".", "1234567.5"),
            ("1'234", ".", "1234"),
            ("1’234", ".", "1234"),
            ("1 234", ".", "1234"),
            ("1\u2009234", ".", "1234"),
            ("1 23", ".", None),
            ("12 34", ".", None),
            ("1 234'567", ".", None),
            ("1234 567", ".", None),
            ("1,234", ".", "1234"),
            ("1,234.5", ".", "1234.5"),
            ("1.234,5", ",", "1234.5"),
            ("1,23", ".", None),
            ("12,34,567", ".", None),
            ("1234,567", ".", None),
            ("1,234,567", ".", "1234567"),
            ("1.2.3", ".", None),
            ("1.234.5", ",", None),
            ("1,5,", ",", None),
            ("1.5,5", ".", None),
            ("x", ".", None),
            ("1x", ".", None),
            ("", ".", None),
            ("1e5", ".", None),
            ("=1", ".", None),
            ("1.50", ".", "1.50"),
            ("1,000,000.001", ".", "1000000.001"),
        ]
        for text, mark, value in cases:
            with self.subTest(text, mark=mark):
                self.assertEqual(number_of(text, mark), None if value is None else Decimal(value))
        # Exactly as printed: the last nought is not lost.
        self.assertEqual(str(number_of("1.50", ".")), "1.50")

    def test_known_values_in_every_print(self) -> None:
        rng = random.Random(11)
        minus = (
            lambda t: f"-{t}",
            lambda t: f"−{t}",
            lambda t: f"({t})",
            lambda t: f"{t}-",
            lambda t: f"− {t}",
        )
        marks = ((",", "."), (".", ","), (" ", "."), ("'", "."), ("\u2009", ","), ("", "."), ("", ","))
        for (thousands, mark), negative in itertools.product(marks, minus):
            for _ in range(20):
                value = Decimal(rng.randrange(1, 10**9)).scaleb(-rng.randrange(3))
                text = f"{value:,}".replace(",", "T").replace(".", mark).replace("T", thousands)
                self.assertEqual(number_of(text, mark), value, text)
                self.assertEqual(number_of(negative(text), mark), -value, negative(text))

    def test_the_mark_of_a_column(self) -> None:
        cases: list[tuple[list[str], str]] = [
            (["1,234.50"], "."),
            (["1.234,50"], ","),
            (["2,40"], ","),
            (["2.40"], "."),
            (["1,234", "5.5"], "."),
            (["1.234", "5,5"], ","),
            (["1.5", "2,5"], ""),
            (["1,234"], "."),
            (["1.234"], ""),
            (["7", "8"], "."),
            (["1,234,567"], "."),
            (["1.234.567"], ","),
            (["1,234", "1.234"], ""),
            (["1234,567"], ","),
            ([",123"], ","),
            (["0,123"], ","),
            (["-0,123"], ","),
            (["12,345"], "."),
            (["1.2345"], "."),
            ([], "."),
            (["1,234.50", "1.234,50"], ""),
            (["(0.123"], "."),
        ]
        for texts, mark in cases:
            with self.subTest(texts):
                self.assertEqual(decimal_mark(texts), mark)
                self.assertEqual(decimal_mark(texts[::-1]), mark)

    def test_signs_notes_and_nothing(self) -> None:
        for text, unit, bare in (
            ("$ 7", "$", "7"),
            ("7 €", "€", "7"),
            ("£7", "£", "7"),
            ("7 USD", "USD", "7"),
            ("kr. 7", "kr", "7"),
            ("12 %", "%", "12"),
            ("12%", "%", "12"),
            ("12 % ", "%", "12"),
            ("7", "", "7"),
            ("7*", "", "7"),
            ("7†‡", "", "7"),
            ("7²", "", "7"),
            ("USDX 7", "", "USDX 7"),
            ("  1   234 ", "", "1 234"),
            ("CHF 7*", "CHF", "7"),
        ):
            with self.subTest(text):
                self.assertEqual((unit_of(text), bare_of(text)), (unit, bare))
        for text in ("", "-", "–", "—", "---", "...", "…", "n/a", "N/A", "n.a.", "n.a", "na", ":", "___"):
            self.assertTrue(is_missing(text), text)
        for text in ("0", "-1", "nab", "no", ".5", "::", "x"):
            self.assertFalse(is_missing(text), text)

    def test_days(self) -> None:
        for text, day in (
            ("2024-05-31", (2024, 5, 31)),
            ("31 May 2024", (2024, 5, 31)),
            ("1 Jan. 1999", (1999, 1, 1)),
            ("1 january 1999", (1999, 1, 1)),
            ("29 Feb 2024", (2024, 2, 29)),
            ("3 DECEMBER 2031", (2031, 12, 3)),
        ):
            self.assertEqual(date_of(text), datetime.date(*day), text)
        for text in (
            "2023-02-29",
            "31/05/2024",
            "May 2024",
            "31 May",
            "31 Mayo 2024",
            "0 May 2024",
            "32 May 2024",
            "2024-13-01",
            "31 Ma 2024",
            "24-05-31",
            "31  May 2024",
            "",
        ):
            self.assertIsNone(date_of(text), text)

    def test_a_column_is_typed_whole_or_not_at_all(self) -> None:
        for texts, column in (
            (["1", "", "3"], Column("number", [1.0, None, 3.0], [])),
            (["1", "x", "3"], Column("text", [None] * 3, [1])),
            (["x", "y"], Column("text", [None] * 2, [])),
            (["", "—"], Column("text", [None] * 2, [])),
            ([], Column("text", [], [])),
            (["1 May 2024", ""], Column("date", [datetime.date(2024, 5, 1), None], [])),
            (["1 May 2024", "7"], Column("text", [None] * 2, [0])),
            (["1.234", "x", "y"], Column("text", [None] * 3, [])),
            (["5", "1.234"], Column("text", [None] * 2, [1])),
            (["$ 1,200.00", "(300.00)", "12 %"], Column("number", [1200.0, -300.0, 12.0], [])),
        ):
            with self.subTest(texts):
                self.assertEqual(typed_column(texts), column)


class TestTextsThatAreCompared(unittest.TestCase):
    def test_differences_that_are_none(self) -> None:
        for text, same in (
            ("“1 − 2” ", '"1 - 2"'),
            ("a\u00a0b", "a b"),
            ("ﬁve", "five"),
            ("co\u00adop", "coop"),
            ("x\u200b", "x"),
            ("• one\n• two", "one two"),
            ("1. one\n2) two", "one two"),
            ("• one", "• one"),
            ("½", "1⁄2"),
            ("‘a’", "'a'"),
            ("a\n- b", "a b"),
            ("1999. x\ny", "1999. x y"),
            ("Ⅳ", "IV"),
            ("  a\t b\n", "a b"),
        ):
            self.assertEqual(normal(text), same, text)

    def test_what_makes_a_number_that_number(self) -> None:
        same = (
            ("(1,204.50)", "-1 204.5"),
            ("$ 12", "12"),
            ("1.204", "1,204"),
            ("12-", "-12"),
            ("7 %", "7"),
            ("7.0", "7"),
            ("7.", "7"),
            ("$ -3", "(3)"),
            ("1,50", "1.5"),
            ("12a", "12"),
            ("0.50", ".5"),
        )
        different = (("12.5", "125"), ("12", "-12"), ("1.2", "1.20.1"), ("1.204", "1.2040"), ("3", "30"))
        for one, other in same:
            self.assertEqual(digits_of(one), digits_of(other), one)
        for one, other in different:
            self.assertNotEqual(digits_of(one), digits_of(other), one)
        for text in (
            "7",
            "-7",
            "(7)",
            "7%",
            "$ 7",
            "7 €",
            "1,204.50",
            "1 204",
            "7*",
            "7a",
            "<7",
            "~ 7",
            "(7)†",
        ):
            self.assertTrue(is_number(text), text)
        for text in ("", "-", "x", "7 boats", "7/8", "12:30", "Oskay 7", "7e5", "%", "()"):
            self.assertFalse(is_number(text), text)
