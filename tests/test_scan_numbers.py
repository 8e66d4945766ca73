"""Numbers in pictures: told sign by sign, compared with what was recognised, doubted where both differ."""

from __future__ import annotations

import dataclasses
import functools
import io
import random
import string
import unittest
from collections.abc import Sequence

import numpy as np
from PIL import Image, ImageDraw, ImageFilter, ImageFont

import wennak
from tests.support import pdf_of, script
from tests.test_scan import page_of, with_lines
from wennak.ink import Grey, Ints
from wennak.model import DOUBTFUL, Cell, Table
from wennak.scan.light import even_light, smoothed
from wennak.scan.marks import Marks, find_marks
from wennak.scan.numerals import CLASSES, CUT, OTHER, Sign, network, read_signs
from wennak.scan.pieces import find_pieces
from wennak.scan.points import lone_letters, with_touching_points, without_echo
from wennak.scan.raised import Raised, with_raised, without_raised
from wennak.scan.recogniser import Read
from wennak.scan.rulings import with_posts
from wennak.scan.sizes import baseline_and_size, cased
from wennak.scan.symbols import lone_symbol, with_signs
from wennak.scan.threshold import inked, is_noisy
from wennak.scan.witness import Opinion, dispute, judged, spans, with_commas

# Typefaces, with how near (thousandths of an em) a point has to be to touch the foot of a 1.
FACES = {"Times-Roman": 200, "Times-Bold": 140, "Helvetica": 300, "Helvetica-Bold": 280, "Courier": 300}
NUMBERS = ("31415", "92653.58", "-97,932", "(3,846.26)", "43:38", "3279.5", "02.88", "1/4", "77101", "+5,820")


def drawn(text: str, font: str = "F1", dpi: float = 200, spread: float = 0, size: float = 12) -> Grey:
    """A page that shows one line of text, its letters so many points further apart."""
    escaped = text.replace("(", r"\(").replace(")", r"\)")
    page = page_of(pdf_of(f"BT /{font} {size} Tf {spread} Tc 72 700 Td ({escaped}) Tj ET"), dpi)
    return np.asarray(page)[: page.height // 4, : page.width // 2]


def marked(grey: Grey, dpi: float = 200) -> tuple[Marks, Ints]:
    """The marks of a page, and their numbers from left to right."""
    marks = find_marks(inked(grey), dpi)
    return marks, np.argsort(marks.x0, kind="stable")


def seen(grey: Grey, dpi: float = 200) -> str:
    """What the signs of a line look like."""
    marks, own = marked(grey, dpi)
    return "".join(sign.text for sign in read_signs(grey, marks, own))


def said(text: str, marks: Marks, own: Ints, sure: float = 0.99) -> Read:
    """A reading that spreads a text evenly over the marks of a line."""
    places = np.linspace(marks.x0[own].min(), marks.x1[own].max(), len(text) + 1).tolist()
    read, blank = Read(), False
    for k, char in enumerate(text):
        if char != " ":
            read.put(char, places[k], places[k + 1], sure, blank)
        blank = char == " "
    return read


def plain(opinion: Opinion) -> str:
    return "".join(opinion.read.texts)


class TestSigns(unittest.TestCase):
    def test_numbers_are_told_sign_by_sign_at_any_resolution(self) -> None:
        for dpi in (130, 200, 300):
            for number in NUMBERS:
                with self.subTest(number=number, dpi=dpi):
                    self.assertEqual(seen(drawn(number, dpi=dpi), dpi), number)

    def test_digits_that_touch_and_points_that_touch_digits_are_parted(self) -> None:
        for number in ("8804", "2.59", "600.3"):
            grey = drawn(number, spread=-1.9, size=16)
            self.assertLess(len(find_marks(inked(grey), 200)), len(number), "nothing touches")
            self.assertEqual(seen(grey), number)

    def test_a_point_that_touches_the_foot_of_a_one_is_a_point_in_doubt(self) -> None:
        touched = 0
        faces = {f"F{k}": {"Subtype": "/Type1", "BaseFont": f"/{face}"} for k, face in enumerate(FACES)}
        for dpi in (150, 200, 300):
            for k, (face, near) in enumerate(FACES.items()):
                for kern, printed in ((0, "17"), (0, "11"), (near, "1.7"), (near, "1.1")):
                    text = f"[({printed[0]}) {kern} ({printed[1:]})] TJ"
                    page = page_of(pdf_of(f"BT /F{k} 14 Tf 72 700 Td {text} ET", faces), dpi)
                    marks, own = marked(np.asarray(page)[: page.height // 4, : page.width // 2], dpi)
                    digits = printed.replace(".", "")
                    if len(own) != len(digits):
                        # They do not touch.
                        continue
                    touched += "." in printed
                    read = with_touching_points(said(digits, marks, own), marks, own)
                    with self.subTest(dpi=dpi, face=face, printed=printed):
                        self.assertEqual("".join(read.texts), printed)
                        self.assertEqual(min(read.sure) < DOUBTFUL, "." in printed)
        self.assertGreater(touched, 3)
        # In small print a pixel more on one side is chance.
        for dpi in (80, 95, 110, 125, 140):
            for face in range(len(FACES)):
                for digits in ("17", "11", "189"):
                    page = page_of(pdf_of(f"BT /F{face} 7 Tf 72 700 Td ({digits}) Tj ET", faces), dpi)
                    marks, own = marked(np.asarray(page)[: page.height // 4, : page.width // 2], dpi)
                    if len(own) == len(digits):
                        read = with_touching_points(said(digits, marks, own), marks, own)
                        self.assertEqual("".join(read.texts), digits)

    def test_broken_digits_are_one(self) -> None:
        grey = drawn("3850.2", size=18).copy()
        rows = np.flatnonzero((grey < 128).any(axis=1))
        grey[rows[len(rows) // 4]] = 255
        self.assertGreater(len(find_marks(inked(grey), 200)), len("3850.2"))
        self.assertEqual(seen(grey), "3850.2")

    def test_most_digits_are_read_through_blur_and_noise(self) -> None:
        rng, draw = np.random.default_rng(4), random.Random(4)
        right = count = 0
        for _ in range(12):
            number = "".join(draw.choice("0123456789") for _ in range(12))
            blurred = Image.fromarray(drawn(number, size=9)).filter(ImageFilter.GaussianBlur(0.9))
            noisy = np.asarray(blurred) * 0.6 + 70 + rng.normal(0, 5, (blurred.height, blurred.width))
            grey = even_light(noisy.clip(0, 255).astype(np.uint8), 200).grey
            marks, own = marked(grey)
            large = own[marks.h[own] > 0.5 * marks.h[own].max()]
            found = "".join(sign.text for sign in read_signs(grey, marks, large))
            count += len(number)
            right += (
                sum(a == b for a, b in zip(found, number, strict=False)) if len(found) == len(number) else 0
            )
        self.assertGreater(right / count, 0.95)

    def test_nothing_is_told_of_nothing(self) -> None:
        grey = drawn("1")
        marks, own = marked(grey)
        self.assertEqual(read_signs(grey, marks, own[:0]), [])
        small = drawn("18", dpi=30)
        marks, own = marked(small, 30)
        self.assertEqual(read_signs(small, marks, own), [])

    def test_how_likely_signs_are_comes_to_one(self) -> None:
        likely = network().likely(np.random.default_rng(1).random((7, 480)))
        self.assertEqual(likely.shape, (7, len(CLASSES)))
        np.testing.assert_allclose(likely.sum(axis=1), 1)
        self.assertEqual(len({OTHER, CUT, *CLASSES}), len(CLASSES))


class TestSmallSigns(unittest.TestCase):
    def page(self, *texts: tuple[str, float, float, float], rules: str = "") -> bytes:
        """A page of texts, each with its place and size, and of rules."""
        lines = [rules]
        lines += [f"BT /F1 {size} Tf {x} {y} Td ({text}) Tj ET" for text, x, y, size in texts]
        grey = np.asarray(page_of(pdf_of("\n".join(lines)), 200))
        out = io.BytesIO()
        Image.fromarray(grey).save(out, "PNG", dpi=(200, 200))
        return out.getvalue()

    def said(self, data: bytes) -> list[str]:
        return wennak.read(data, name="page.png").markdown().replace("&lt;", "<").split()

    def test_signs_that_fill_empty_places_are_not_left_out(self) -> None:
        rows = [
            ("Gannet", "12"),
            ("Tern", "-"),
            ("Skua", ".."),
            ("Fulmar", "31"),
            ("Auk", "-"),
            ("Eider", ".."),
        ]
        texts = [
            (text, x, 700 - 20 * k, 10.0)
            for k, row in enumerate(rows)
            for text, x in zip(row, (72.0, 200.0), strict=True)
        ]
        said = "".join(self.said(self.page(*texts)))
        for name, value in rows:
            self.assertIn(f"{name}|{value}", said)

    def test_dirt_on_no_line_fills_no_place(self) -> None:
        texts = [("The gannet dives", 72.0, 600.0, 10.0), ("The tern dives", 72.0, 550.0, 10.0)]
        said = self.said(self.page(*texts, ("-", 200.0, 575.0, 7.0), ("..", 240.0, 575.0, 7.0)))
        self.assertEqual(said, "The gannet dives The tern dives".split())

    def test_dashes_of_an_upright_rule_are_no_signs_of_its_numbers(self) -> None:
        rows = [("Gannet", "37", "64"), ("Tern", "43", "61"), ("Skua", "25", "74"), ("Auk", "62", "37")]
        texts = [
            (text, x, 700 - 14.0 * k, 10.0)
            for k, row in enumerate(rows)
            for text, x in zip(row, (72.0, 160.0, 190.0), strict=True)
        ]
        data = self.page(*texts, rules="0.6 w [3 1.5] 0 d 175 650 m 175 712 l S")
        said = "".join(self.said(data))
        for row in rows:
            self.assertIn("|".join(row), said)

    def test_thousands_units_and_minus_stand_as_they_are_printed(self) -> None:
        numbers = ["9 148,9 km", "131.3 t", "-35.0%", "25 677", "1117", "3 a"]
        texts = [(text, 72.0, 700 - 24.0 * k, 10.0) for k, text in enumerate(numbers)]
        said = self.said(self.page(*texts))
        self.assertEqual(
            [word.replace("−", "-").replace("\\", "") for word in said], " ".join(numbers).split()
        )

    def test_apostrophes_and_degrees_are_no_raised_signs(self) -> None:
        for size in (9.0, 12.0):
            texts = ["the supplier's note", 'the name "malloc"', "is", r"Maximum \(\260C\)", r"25 \260C"]
            lines = [(text, 72.0, 700 - 30.0 * k, size) for k, text in enumerate(texts)]
            said = " ".join(self.said(self.page(*lines))).replace("’", "'")
            self.assertIn("the supplier's note", said)
            # The quotation mark that opens is often read as strokes, in whatever way.
            self.assertRegex(said, r'malloc\W*["”]\W* is Maximum')
            self.assertIn("25 °C", said)
            self.assertIn("(°C)", said)
            self.assertNotIn("<sup>", said)

    def test_raised_figures_and_letters_are_read_and_stand_raised(self) -> None:
        for raised, words in (("2", "18 W/m"), ("a", "27.08"), ("b", "1.88"), ("3", "45 m")):
            texts = [(f"Flow {'.' * 30} 8", 72.0, 700.0, 12.0), (words, 72.0, 660.0, 12.0)]
            grey = np.asarray(Image.open(io.BytesIO(self.page(texts[1]))))
            end = float(np.flatnonzero((grey < 128).any(axis=0)).max()) * 72 / 200
            data = self.page(*texts, (raised, end + 0.8, 665.0, 8.0))
            html = wennak.read(data, name="page.png").html()
            self.assertIn(f"{words}<sup>{raised}</sup>", html)


class TestSymbols(unittest.TestCase):
    def lone(self, picture: Image.Image) -> str:
        marks, own = marked(np.asarray(picture), 300)
        # Letters beside it tell how high letters are.
        marks = dataclasses.replace(marks, height=30.0)
        return "".join(lone_symbol(marks, own).texts)

    def test_ticks_and_discs_are_told_by_their_outlines(self) -> None:
        rng = random.Random(5)
        for _ in range(30):
            picture = Image.new("L", (90, 90), 255)
            draw = ImageDraw.Draw(picture)
            left, turn, w, h = 10, rng.randrange(18, 28), rng.randrange(34, 50), rng.randrange(34, 50)
            ends = ((left, 10 + h * rng.uniform(0.5, 0.7)), (turn, 10 + h), (left + w, 10))
            draw.line(ends, 0, rng.randrange(3, 7), joint="curve")
            self.assertEqual(self.lone(picture), "✓")
            picture = Image.new("L", (90, 90), 255)
            size = rng.randrange(12, 40)
            ImageDraw.Draw(picture).ellipse((20, 20, 20 + size, 20 + size), 0)
            self.assertEqual(self.lone(picture), "●" if size >= 20 else "•")

    def test_letters_and_digits_are_neither(self) -> None:
        for size in (28, 44):
            font = ImageFont.load_default(size)
            for text in string.ascii_letters + string.digits + "/\\<>+*=-#&%$?!":
                picture = Image.new("L", (90, 90), 255)
                ImageDraw.Draw(picture).text((20, 15), text, 0, font)
                with self.subTest(text=text, size=size):
                    self.assertEqual(self.lone(picture), "")

    def test_recognisers_take_these_for_others(self) -> None:
        for printed, read, true in (("5  3", "5£3", "5±3"), ("5  3", "5x3", "5±3"), ("N  m", "N-m", "N·m")):
            with self.subTest(true):
                grey = _with_sign(printed, true[1])
                marks, own = marked(grey)
                out = with_signs(said(read, marks, own), marks, own)
                self.assertEqual("".join(out.texts), true)

    def test_pounds_stay_pounds(self) -> None:
        for size in (9, 12, 24):
            # The code of a pound sign.
            marks, own = marked(drawn(r"8 \243 5", size=size))
            self.assertEqual(len(own), 3)
            for text in ("8£5", "8+5"):
                read = said(text, marks, own)
                read.x0, read.x1 = marks.x0[own].tolist(), marks.x1[own].tolist()
                self.assertEqual(with_signs(read, marks, own).texts, list(text))

    def test_a_reading_of_nothing_but_a_raised_sign_is_no_error(self) -> None:
        # Recognisers may give one character only, where the raised one stands.
        grey = drawn("x'2")
        marks, own = marked(grey)
        raised = [Raised(own[-1:], "2", 0.9)]
        read = Read()
        read.put("?", float(marks.x0[own[-1]]), float(marks.x1[own[-1]]), 0.6, False)
        left = without_raised(read, marks, raised)
        self.assertEqual(left.texts, [])
        self.assertEqual(judged(left, functools.partial(read_signs, grey, marks), marks, own).read.texts, [])
        self.assertEqual(with_raised(left, marks, raised).texts, ["2"])

    def test_a_short_word_that_looks_like_a_number_is_one_in_doubt(self) -> None:
        grey = drawn("7.7")
        marks, own = marked(grey)
        read = said("DIT", marks, own)
        for sure, text in ((0.9, "7.7"), (0.995, "DIT")):
            read.sure = [sure] * 3
            found = judged(read, functools.partial(read_signs, grey, marks), marks, own)
            self.assertEqual(plain(found), text)
            self.assertEqual(max(found.read.sure) < DOUBTFUL, text == "7.7")


def _with_sign(printed: str, sign: str) -> Grey:
    """A line with a sign drawn into the room of its two blanks."""
    grey = np.array(drawn(printed, size=24))
    marks, own = marked(grey)
    left, right = int(marks.x1[own[0]]), int(marks.x0[own[-1]])
    foot, height = int(marks.y1[own[0]]), int(marks.h[own[0]])
    middle, half = (left + right) // 2, (right - left) // 2 - 6
    if sign == "±":
        grey[foot - 3 : foot, middle - half : middle + half] = 0
        grey[foot - height // 2 - 2 : foot - height // 2 + 1, middle - half : middle + half] = 0
        grey[foot - height + 6 : foot - 8, middle - 1 : middle + 2] = 0
    else:
        at = foot - height // 2
        grey[at - 3 : at + 3, middle - 3 : middle + 3] = 0
    return grey


class TestWitnesses(unittest.TestCase):
    def judged(self, printed: str, text: str) -> Opinion:
        grey = drawn(printed)
        marks, own = marked(grey)
        return judged(said(text, marks, own), functools.partial(read_signs, grey, marks), marks, own)

    def test_what_is_borne_out_stays_as_sure_as_it_was(self) -> None:
        for number in NUMBERS:
            found = self.judged(number, number)
            self.assertEqual((plain(found), found.alike, found.settled), (number, 1.0, True))
            self.assertGreater(min(found.read.sure), 0.9)

    def test_signs_that_were_missed_are_put_and_those_that_are_not_there_doubted(self) -> None:
        for printed, text in (("29.4", "294"), ("(12)", "12)"), ("-6.35", "635"), ("2.11", "2:11")):
            found = self.judged(printed, text)
            self.assertEqual(plain(found), printed)
            self.assertEqual(found.alike, 1.0)
        found = self.judged("1234", "12.34")
        self.assertLess(found.read.sure[2], DOUBTFUL)
        self.assertGreater(min(found.read.sure[:2]), DOUBTFUL)

    def test_a_digit_that_looks_like_another_is_doubted_and_never_changed(self) -> None:
        for printed, text in (("2468", "2463"), ("1,520", "1,620"), ("77", "7"), ("93", "983")):
            found = self.judged(printed, text)
            self.assertEqual(plain(found), text)
            self.assertLess(max(found.read.sure), DOUBTFUL)
            self.assertFalse(found.settled)

    def test_letters_beside_digits_may_look_like_anything(self) -> None:
        for text in ("B714", "M-398", "96kg", "Q3", "m25"):
            found = self.judged(text, text)
            self.assertEqual((plain(found), found.alike), (text, 1.0))
        for text in ("5m²", "x²1", "1²", "²"):
            self.assertEqual(plain(self.judged("5m2", text)), text)
        words = self.judged("free of charge", "free of charge")
        self.assertEqual((plain(words), words.settled), ("freeofcharge", True))

    def test_a_long_word_of_letters_and_digits_is_compared_at_once(self) -> None:
        signs = [Sign("1", 1.0, k, k + 1, 0.0) for k in range(60)]
        self.assertIsNone(spans("a1" * 40, signs[:39]))
        found = spans("a1" * 40, signs)
        assert found is not None
        self.assertEqual(len(found), 80)
        self.assertEqual(spans("7.5", [Sign(c, 1.0, 0, 1, 0.0) for c in "7.5"]), [(0, 1), (2, 3)])

    def test_a_short_word_that_looks_like_a_number_is_looked_at_again(self) -> None:
        self.assertFalse(self.judged("10", "lO").settled)
        self.assertTrue(self.judged("am", "am").settled)

    def test_what_looks_differ_on_is_in_doubt(self) -> None:
        marks, own = marked(drawn("No 1,520 at 9.5"))
        first, second = (said(text, marks, own) for text in ("No 1,520 at 9.5", "No 1,620 at 9.5"))
        dispute(first, [second])
        sure = [min(first.sure[a:b]) for a, b in first.words()]
        self.assertEqual([value < DOUBTFUL for value in sure], [False, True, False, False])

    def test_points_among_many_commas_that_look_like_these_are_commas(self) -> None:
        def page(points: Sequence[tuple[str, float]], decimals: str = "25") -> list[Opinion]:
            out = []
            for point, odds in points:
                read = Read()
                for k, char in enumerate(f"1{point}{decimals}"):
                    read.put(char, k, k + 1.0, 0.99, False)
                out.append(Opinion(read, 1.0, True, [(1, odds)]))
            return out

        clear = page([(",", 5.0)] * 6 + [(".", 6.0), (".", -5.0)])
        with_commas(clear)
        self.assertEqual([plain(o)[1] for o in clear], [","] * 7 + ["."])
        poor = page([(",", -1.0)] * 4 + [(".", -2.0)] * 3)
        with_commas(poor)
        self.assertEqual({plain(o) for o in poor}, {"1,25"})
        self.assertEqual([min(o.read.sure) < DOUBTFUL for o in poor], [False] * 4 + [True] * 3)
        english = page([(".", -4.0)] * 8 + [(",", -1.0)])
        with_commas(english)
        self.assertEqual([plain(o) for o in english], ["1.25"] * 8 + ["1,25"])
        thousands = page([(",", 1.0)] * 2 + [(".", -2.6)] * 30 + [(".", -5.0)], "250")
        with_commas(thousands)
        self.assertEqual([plain(o) for o in thousands], ["1,250"] * 32 + ["1.250"])
        self.assertEqual(
            [min(o.read.sure) < DOUBTFUL for o in thousands], [False] * 2 + [True] * 30 + [False]
        )
        mixed = page([(",", 1.0)] * 2 + [(".", -4.8)] * 30, "250")
        with_commas(mixed)
        self.assertEqual([plain(o) for o in mixed], ["1,250"] * 2 + ["1.250"] * 30)
        # Soft points may look like commas, but not like those that part thousands on the same page.
        for odds, decimals in ((-1.5, "1.25"), (3.0, "1,25")):
            soft = page([(",", odds)] * 2 + [(".", odds)] * 9)
            with_commas([*soft, *page([(",", 5.0)] * 4, "250")])
            self.assertEqual([plain(o) for o in soft[2:]], [decimals] * 9)


class TestMisreadNumbers(unittest.TestCase):
    def test_numbers_are_set_beside_the_true_ones(self) -> None:
        bench = script("benchmarks/misread.py")
        table = self.table([["Wharf", "1,520.5", "12"], ["Quay", "−4", "31"]])
        same = self.table([["Wharf", "1,520.5", "12"], ["Quay", "-4", "31"]])
        self.assertTrue(all(item.right for item in bench._beside("a", table, same)))
        other = self.table([["Wharf", "15205", "12"], ["Quay", "-4", ""]])
        found = [(item.true, item.said, item.right) for item in bench._beside("a", table, other)]
        self.assertEqual(
            found, [("1,520.5", "15205", False), ("12", "12", True), ("−4", "-4", True), ("31", "", False)]
        )

    def table(self, rows: Sequence[Sequence[str]]) -> Table:
        cells = [Cell(r, c, text) for r, row in enumerate(rows) for c, text in enumerate(row)]
        return Table(rows=len(rows), columns=len(rows[0]), cells=cells)


class TestMarksOfNumbers(unittest.TestCase):
    def test_points_beside_a_rule_are_no_fringe_of_it(self) -> None:
        rulings = with_lines((200, 1000, 1400, 1000), width=3)
        picture = Image.new("L", (1700, 2400), 255)
        draw = ImageDraw.Draw(picture)
        for k in range(20):
            draw.rectangle((200 + 40 * k, 1100, 210 + 40 * k, 1118), fill=0)
        draw.rectangle((500, 993, 503, 996), fill=0)
        draw.rectangle((700, 996, 760, 997), fill=0)
        marks = find_marks(inked(np.asarray(picture)), 200)
        _, parts = with_posts(rulings, marks)
        self.assertEqual(sorted(marks.x0[parts].tolist()), [700])

    def test_a_letter_is_told_by_its_shape_where_nothing_was_recognised(self) -> None:
        for text in ("N", "E", "7"):
            marks, own = marked(drawn(text, size=14))
            found = lone_letters(marks, own)
            self.assertEqual(found.texts, [text])
            self.assertLess(found.sure[0], DOUBTFUL)
        marks, own = marked(drawn("Many letters", size=14))
        self.assertEqual(lone_letters(marks, own).texts, [])

    def test_one_mark_is_one_letter(self) -> None:
        marks, own = marked(drawn("S", size=14))
        self.assertEqual(without_echo(said("Ss", marks, own), marks, own).texts, ["S"])
        self.assertEqual(without_echo(said("So", marks, own), marks, own).texts, ["S", "o"])

    def test_three_dots_alone_are_an_ellipsis_and_those_of_a_word_are_not(self) -> None:
        picture = Image.new("L", (900, 200), 255)
        draw = ImageDraw.Draw(picture)
        for x in (50, 80, 110, 140):
            draw.rectangle((x, 60, x + 14, 90), fill=0)
        for x in (500, 512, 524):
            draw.rectangle((x, 86, x + 3, 89), fill=0)
        for x in (160, 172, 184):
            draw.rectangle((x, 86, x + 3, 89), fill=0)
        marks = find_marks(inked(np.asarray(picture)), 200)
        pieces = find_pieces(marks, np.zeros((200, 900), dtype=np.bool_))
        self.assertEqual(sorted(marks.x0[pieces.ellipsis].tolist()), [500, 512, 524])
        self.assertEqual(len(set(pieces.of[pieces.ellipsis].tolist())), 1)

    def test_letters_that_hang_stand_on_the_line_of_their_word(self) -> None:
        found = []
        for text in ("Hxnz", "pqgy", "p", "(10)", "pass"):
            marks, own = marked(drawn(text, size=20))
            x0, x1 = marks.x0[own] + 0.0, marks.x1[own] + 0.0
            found.append(baseline_and_size(list(text), x0, x1, marks, own))
        for baseline, size in found[1:]:
            self.assertAlmostEqual(baseline, found[0][0], delta=2)
            self.assertAlmostEqual(size / found[0][1], 1, delta=0.12)

    def test_letters_that_are_alike_in_both_cases_are_told_by_size(self) -> None:
        texts = [list("Total"), ["X"], ["x"], list("VOX"), ["X"]]
        sizes = [np.full(5, 20.0), np.full(1, 14.4), np.full(1, 28.0), np.full(3, 20.5), np.full(1, 19.0)]
        cased(texts, sizes)
        self.assertEqual(["".join(text) for text in texts], ["Total", "x", "X", "VOX", "X"])
        self.assertAlmostEqual(float(sizes[1][0]), 14.4 * 0.69 / 0.5)

    def test_noise_is_seen_and_smoothed_away(self) -> None:
        clean = even_light(np.asarray(drawn("Weekdays only " * 5)), 200).grey
        self.assertFalse(is_noisy(clean))
        noise = np.random.default_rng(3).normal(0, 14, clean.shape)
        noisy = (clean * 0.5 + 100 + noise).clip(0, 255).astype(np.uint8)
        self.assertTrue(is_noisy(even_light(noisy, 200).grey))
        wanted = clean < 128
        rough, smooth = (inked(even_light(page, 200).grey) for page in (noisy, smoothed(noisy, 0.9)))
        shared = [float((found & wanted).sum() / (found | wanted).sum()) for found in (rough, smooth)]
        self.assertGreater(shared[1], shared[0] + 0.1)


if __name__ == "__main__":
    unittest.main()
