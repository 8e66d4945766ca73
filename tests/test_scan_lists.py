"""Lines in pictures: rows, bullets and numbers of lists, rules of dashes, parted thousands, fixed pitch."""

from __future__ import annotations

import unittest
from collections.abc import Iterator
from pathlib import Path

import numpy as np
from PIL import Image, ImageDraw

import wennak
from tests.support import InFolder, pdf_of
from tests.test_scan import page_of, with_lines
from tests.test_scan_numbers import drawn, marked, said
from wennak.ink import Ints
from wennak.model import Code, Contents, Heading, ListBlock, Paragraph
from wennak.scan.blanks import with_blanks
from wennak.scan.bullets import rings, with_bullets
from wennak.scan.marks import Marks, find_marks
from wennak.scan.points import without_echo
from wennak.scan.recogniser import Read
from wennak.scan.rows import levelled
from wennak.scan.rulings import Rulings, find_rulings, with_posts
from wennak.scan.sizes import baseline_and_size
from wennak.scan.symbols import lone_symbol, with_underscores
from wennak.scan.threshold import inked

TITLES = ("Harbour dues", "Ferries", "Fish landed", "Ice and fuel", "Cranes", "Winter berths")
COURIER: dict[str, object] = {"Subtype": "/Type1", "BaseFont": "/Courier", "Encoding": "/WinAnsiEncoding"}
HELVETICA: dict[str, object] = {"Subtype": "/Type1", "BaseFont": "/Helvetica", "Encoding": "/WinAnsiEncoding"}
PROGRAM = (
    "for berth in harbour.list:",
    "    due = berth.length * 1.97",
    "    if due > limit: charge(berth, due)",
    "print(total, pilot.fee)",
)
PROSE = (
    "The harbour office keeps a list of berths, with the length of each",
    "and what is due for a night. Ships that stay for longer than a week",
    "pay half of that from the eighth night on, and nothing in winter.",
)
ITEMS = ("Ring the harbour office", "Name the ship and her length", "Wait for the pilot at the mole")


def as_text(read: Read) -> str:
    return "".join(" " * blank + text for text, blank in zip(read.texts, read.blank, strict=True)).strip()


def by_letters(text: str, marks: Marks, own: Ints) -> Read:
    """A reading that says of each mark of a line, but for low and high ones, which letter it is."""
    read = Read()
    tall = own[marks.h[own] > 0.5 * marks.h[own].max()]
    assert len(tall) == len(text), (len(tall), text)
    for char, k in zip(text, tall.tolist(), strict=True):
        read.put(char, float(marks.x0[k]), float(marks.x1[k]), 0.99, False)
    return read


class TestThousands(unittest.TestCase):
    def blanks(self, shown: str, text: str) -> str:
        marks, own = marked(drawn(shown))
        return as_text(with_blanks(by_letters(text, marks, own), marks, own))

    def test_thin_blanks_part_the_last_three_digits(self) -> None:
        # Two tenths of an em are put in between.
        for first, second in (("2", "163"), ("1", "041"), ("66", "442")):
            grey = drawn(first + second, spread=0).copy()
            marks, own = marked(grey)
            cut = int(marks.x0[own[len(first)]])
            thin = round(0.2 * 12 * 200 / 72)
            wide = np.full((grey.shape[0], grey.shape[1] + thin), 255, dtype=np.uint8)
            wide[:, :cut], wide[:, cut + thin :] = grey[:, :cut], grey[:, cut:]
            marks, own = marked(wide)
            read = with_blanks(by_letters(first + second, marks, own), marks, own)
            self.assertEqual(as_text(read), f"{first} {second}")

    def test_digits_of_years_and_what_a_sign_parts_stay_together(self) -> None:
        for number in ("1994", "2011", "1113", "41117", "7"):
            self.assertEqual(self.blanks(number, number), number)
        self.assertEqual(self.blanks("1'965", "1965"), "1965")
        self.assertEqual(self.blanks("1,965", "1965"), "1965")

    def test_a_minus_stays_with_its_number(self) -> None:
        marks, own = marked(drawn("-14.2", spread=1.2))
        self.assertEqual(as_text(with_blanks(said("-14.2", marks, own), marks, own)), "-14.2")

    def test_two_equal_digits_that_touch_are_two(self) -> None:
        marks, own = marked(drawn("88", spread=-1.6, size=16))
        self.assertEqual(len(own), 1, "they do not touch")
        self.assertEqual(without_echo(said("88", marks, own), marks, own).texts, ["8", "8"])


class TestUnderscores(unittest.TestCase):
    def test_a_low_bar_between_letters_is_an_underscore(self) -> None:
        for text in ("ref_87", "wind_list", "so_1"):
            marks, own = marked(drawn(text))
            at = text.index("_")
            read = by_letters(text.replace("_", ""), marks, own)
            read.blank[at] = True
            self.assertEqual(as_text(with_underscores(read, marks, own)), text)
            # One that was read stays, and no blank stands beside it.
            read.blank[at : at + 2] = [True, True]
            self.assertEqual(as_text(with_underscores(read, marks, own)), text)

    def test_no_other_bar_is_one(self) -> None:
        for text in ("ref-87", "plain words"):
            marks, own = marked(drawn(text))
            self.assertEqual(as_text(with_underscores(said(text, marks, own), marks, own)), text)


class TestBullets(unittest.TestCase):
    def line(self, shape: str, side: int) -> tuple[Marks, Ints]:
        """The marks of a line that begins with a shape of some pixels, at half the height of its capitals."""
        picture = Image.fromarray(drawn("Ice and fuel", size=14))
        rows, columns = np.nonzero(np.asarray(picture) < 128)
        middle = (int(rows.min()) + int(rows.max())) // 2
        x = int(columns.min()) - 2 * side - 8
        box = (x, middle - side // 2, x + side, middle - side // 2 + side)
        draw = ImageDraw.Draw(picture)
        if shape == "square":
            draw.rectangle(box, fill=0)
        elif shape == "disc":
            draw.ellipse(box, fill=0)
        else:
            draw.ellipse(box, outline=0, width=2)
        return marked(np.asarray(picture))

    def test_small_marks_before_a_blank_are_bullets_whatever_was_read(self) -> None:
        for shape, side, misread, bullet in (
            ("square", 10, "=", "•"),
            ("square", 19, "m", "•"),
            ("disc", 11, "*", "•"),
            ("ring", 12, "o", "◦"),
        ):
            marks, own = self.line(shape, side)
            read = with_bullets(said(f"{misread}Ice and fuel", marks, own), marks, own)
            self.assertEqual(as_text(read), f"{bullet} Ice and fuel", shape)

    def test_letters_and_stars_that_begin_a_line_are_none(self) -> None:
        for text in ("a few words", "I see", "* A note", "o clock"):
            marks, own = marked(drawn(text))
            self.assertEqual(as_text(with_bullets(said(text, marks, own), marks, own)), text)

    def test_numbers_of_items_end_with_a_point(self) -> None:
        for text, wanted in (
            ("2, The pilot", "2. The pilot"),
            ("2;", "2."),
            ("2, then", "2, then"),
            ("1,5", "1,5"),
        ):
            marks, own = marked(drawn(text))
            self.assertEqual(as_text(with_bullets(said(text, marks, own), marks, own)), wanted)

    def test_rings_are_signs_where_discs_as_large_stand_alone(self) -> None:
        picture = Image.fromarray(drawn("0 o O", size=14)).copy()
        draw = ImageDraw.Draw(picture)
        ring, disc = (300, 100, 318, 118), (400, 100, 418, 118)
        draw.ellipse(ring, outline=0, width=2)
        marks, own = marked(np.asarray(picture))
        self.assertEqual(rings(marks, own), set())
        draw.ellipse(disc, fill=0)
        marks, own = marked(np.asarray(picture))
        found = rings(marks, own)
        self.assertEqual([int(marks.x0[k]) for k in found], [300])
        (k,) = found
        self.assertEqual(lone_symbol(marks, np.array([k]), found).texts, ["○"])


class TestRulesUnderText(unittest.TestCase):
    """Rules right below letters, or not far below them."""

    def rulings(self, gap: int, dots: int = 0) -> tuple[Rulings, Marks]:
        """The rules of a page with three rows of words, each with a rule so many pixels below its letters."""
        content = [
            f"BT /F1 12 Tf {x} {700 - 30 * row} Td ({text}) Tj ET"
            for row in range(3)
            for x, text in ((72, "Harbour dues"), (220, "Common berths"), (400, "17.60"))
        ]
        picture = page_of(pdf_of("\n".join(content)))
        draw = ImageDraw.Draw(picture)
        for row in range(3):
            y = round((792 - 700 + 30 * row) * 200 / 72) + gap
            for x in range(180, 1300, dots or 1300):
                draw.rectangle((x, y, x + 3 if dots else 1300, y + 1), fill=0)
        grey = np.asarray(picture)
        ink = inked(grey)
        height = find_marks(ink, 200).height
        found = find_rulings(grey, ink, height, 200)
        return found, find_marks(ink & ~found.ink, 200)

    def test_a_rule_on_which_letters_stand_is_one_from_end_to_end(self) -> None:
        alone, _ = self.rulings(20)
        touching, marks = self.rulings(1)
        for found in (alone, touching):
            self.assertEqual(len(found.level), 3)
            self.assertTrue((np.abs(found.level[:, 1:3] - (180, 1300)) < 8).all())
        self.assertLess(int(marks.w.max()), 60, "letters hang together")

    def test_dots_below_words_are_a_rule(self) -> None:
        found, marks = self.rulings(9, dots=8)
        self.assertEqual((len(found.level), len(found.leaders)), (3, 0))
        self.assertTrue((np.abs(found.level[:, 1:3] - (180, 1300)) < 12).all())
        self.assertFalse(((marks.w < 6) & (marks.h < 4)).any(), "dots are left")


class TestRows(unittest.TestCase):
    def test_a_dash_alone_stands_on_the_line_of_the_letters(self) -> None:
        marks, own = marked(drawn("- x ..."))
        dash, letter, dots = own[:1], own[1:2], own[2:]
        line, em = baseline_and_size(["x"], *self.ends(marks, letter), marks, letter)
        for texts, part in ((["-"], dash), (["…"], dots)):
            base, size = baseline_and_size(texts, *self.ends(marks, part), marks, part)
            self.assertAlmostEqual(base, line, delta=0.12 * em)
            self.assertAlmostEqual(size, em, delta=0.3 * em)

    def ends(self, marks: Marks, own: Ints) -> tuple[np.ndarray, np.ndarray]:
        return marks.x0[own[:1]].astype(float), marks.x1[own[-1:]].astype(float)

    def test_pieces_of_one_line_have_one_baseline_and_raised_signs_stay_raised(self) -> None:
        base = np.array([100.0, 100.4, 95.4, 101.0, 130.0, 130.3])
        piece = np.array([7, 2, 2, 3, 4, 5])
        x0 = np.array([0.0, 60.0, 100.0, 120.0, 0.0, 500.0])
        found = levelled(base, piece, x0, x0 + 40.0, 20.0)
        self.assertEqual(len(set(found[[0, 1, 3]].tolist())), 1)
        self.assertAlmostEqual(found[1] - found[2], 5.0)
        self.assertEqual(found[4], found[5])
        # What stands far off may be of another column.
        far = levelled(
            base[:2], piece[:2] - piece[:2] + [0, 1], np.array([0.0, 500.0]), np.array([40.0, 540.0]), 8.0
        )
        self.assertEqual(far.tolist(), base[:2].tolist())
        self.assertGreater(found[4] - found[0], 29)
        self.assertEqual(len(levelled(base[:0], piece[:0], x0[:0], x0[:0], 20.0)), 0)

    def test_alike_dashes_near_each_other_are_a_rule_and_those_of_cells_are_not(self) -> None:
        def rules(step: int, length: int) -> int:
            picture = Image.new("L", (1700, 1100), 255)
            picture.paste(Image.fromarray(drawn("Letters of a page")))
            draw = ImageDraw.Draw(picture)
            for k in range(12):
                draw.rectangle((100 + step * k, 900, 100 + step * k + length, 906), fill=0)
            marks = find_marks(inked(np.asarray(picture)), 200)
            found, parts = with_posts(with_lines((200, 1000, 1400, 1000)), marks)
            self.assertEqual(int(parts.sum()), 12 * (len(found.level) - 1))
            return len(found.level)

        self.assertEqual(rules(30, 18), 2)
        self.assertEqual(rules(70, 18), 1)


class TestPages(InFolder):
    """Whole pages as pictures."""

    def scan(self, content: str) -> Path:
        path = self.folder / "paper.png"
        page_of(pdf_of(content), 150).crop((0, 0, 1275, 800)).save(path, dpi=(150, 150))
        return path

    def shown(self, *lines: tuple[float, str]) -> Iterator[str]:
        for k, (x, text) in enumerate(lines):
            yield f"BT /F1 11 Tf {x} {720 - 18 * (k // 2 if len(lines) > 8 else k)} Td ({text}) Tj ET"

    def test_contents_come_line_by_line(self) -> None:
        lines = [(72.0, "Contents"), (72.0, "")]
        for k, title in enumerate(TITLES):
            lines += [(72.0, f"{title} {'.' * (90 - 2 * len(title))}"), (460.0, str(3 + 4 * k))]
        document = wennak.read(self.scan("\n".join(self.shown(*lines))))
        (contents,) = [block for block in document.blocks if isinstance(block, Contents)]
        self.assertEqual(
            [(entry.text, entry.page) for entry in contents.entries],
            [(title, str(3 + 4 * k)) for k, title in enumerate(TITLES)],
        )

    def test_what_is_set_in_fixed_pitch_is_code_word_by_word(self) -> None:
        fonts = {"F1": HELVETICA, "F2": COURIER}
        content = [f"BT /F1 11 Tf 72 {740 - 14 * k} Td ({line}) Tj ET" for k, line in enumerate(PROSE)]
        for k, line in enumerate(PROGRAM):
            escaped = line.replace("(", r"\(").replace(")", r"\)")
            content.append(f"BT /F2 11 Tf 72 {680 - 14 * k} Td ({escaped}) Tj ET")
        path = self.folder / "paper.png"
        page_of(pdf_of("\n".join(content), fonts), 200).crop((0, 0, 1700, 900)).save(path, dpi=(200, 200))
        document = wennak.read(path)
        paragraph, code = document.blocks
        assert isinstance(paragraph, Paragraph) and isinstance(code, Code)
        self.assertEqual(paragraph.text, " ".join(PROSE))
        self.assertEqual(code.text.split("\n"), list(PROGRAM))

    def test_commas_of_large_titles_are_of_their_lines(self) -> None:
        title = "Charges, dues, fees"
        for size in (19, 23):
            with self.subTest(size=size):
                content = [f"BT /F1 {size} Tf 72 730 Td ({title}) Tj ET"]
                content += [
                    f"BT /F1 9 Tf 72 {700 - 13 * k} Td ({line}) Tj ET" for k, line in enumerate(PROSE * 3)
                ]
                blocks = wennak.read(self.scan("\n".join(content))).blocks
                self.assertEqual([block.text for block in blocks if isinstance(block, Heading)], [title])
                self.assertEqual(len(blocks), 2)

    def test_dashes_before_lines_make_a_list(self) -> None:
        content = ["BT /F1 11 Tf 72 740 Td (Ships that call for the first time do this:) Tj ET"]
        for k, item in enumerate(ITEMS):
            y = 716 - 18 * k
            content.append(f"BT /F1 11 Tf 80 {y} Td (-) Tj ET BT /F1 11 Tf 96 {y} Td ({item}) Tj ET")
        document = wennak.read(self.scan("\n".join(content)))
        (found,) = [block for block in document.blocks if isinstance(block, ListBlock)]
        self.assertEqual([item.text for item in found.items], list(ITEMS))


if __name__ == "__main__":
    unittest.main()
