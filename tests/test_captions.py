"""Names of tables and figures, tables with one head, and titles of pages with little text."""

from __future__ import annotations

import unittest

import wennak
from tests.support import pdf_of
from tests.test_heads import body, completed
from tests.test_layout import FONTS, line, prose
from tests.test_places import rule
from wennak.model import Figure, Heading, Paragraph
from wennak.tables.caption import attach_captions
from wennak.tables.draft import plain_text

SLANTED = FONTS | {"F4": FONTS["F1"] | {"BaseFont": "/Helvetica-Oblique"}}
HEAD = ("Gate", "Tons", "Calls")
CELLS = [HEAD, ("North", "12.5", "31"), ("West", "9.25", "28"), ("South", "7.0", "4")]
RULES = (12, -5, -54)


def read(content: str, **page: object) -> wennak.Document:
    return wennak.read(pdf_of(content, SLANTED, **page))


def table(y: float, size: float = 10) -> str:
    """A table between y + 12 and y - 54."""
    cells = "".join(
        line(x, y - 16 * r, text, size)
        for r, row in enumerate(CELLS)
        for x, text in zip((60, 200, 300), row, strict=True)
    )
    return cells + "".join(rule(56, y + dy, 350, y + dy) for dy in RULES)


def chart(x0: float, y0: float, x1: float, y1: float) -> str:
    """A drawing with points on a curve, and labels along one side."""
    curve = " ".join(
        f"{x0 + k * (x1 - x0) / 6} {y0 + (k * k % 7) * (y1 - y0) / 7} {'l' if k else 'm'}" for k in range(7)
    )
    box = f"{x0} {y0} m {x0} {y1} l {x1} {y1} l {x1} {y0} l s"
    labels = "".join(line(x0 - 16, y0 + k * (y1 - y0) / 4, str(10 * k), 7) for k in range(4))
    return f"0.6 w {box} {curve} S {labels}"


def sideways(x: float, y: float, text: str, size: float = 8) -> str:
    return f"BT /F2 {size} Tf 0 1 -1 0 {x} {y} Tm ({text}) Tj ET "


class TestTables(unittest.TestCase):
    def caption(self, content: str) -> str:
        (found,) = read(content).tables
        return found.caption

    def test_a_line_in_italics_may_stand_as_near_to_the_text(self) -> None:
        for font, said, caption in (
            ("F4", "Cargo by gate", True),
            ("F4", "Of cargo this is all that there is.", False),
            ("F1", "Cargo by gate", False),
        ):
            above = prose(60, 740, 4, "before") + line(60, 678, said, 10, font)
            self.assertEqual(self.caption(above + table(650)), said if caption else "", said)

    def test_a_line_far_above_is_a_title_where_nothing_else_is_near(self) -> None:
        for far, caption in ((760, "Cargo by gate"), (712, "")):
            above = prose(60, far, 3, "before") + line(60, 676, "Cargo by gate")
            self.assertEqual(self.caption(above + table(650)), caption)

    def test_a_title_is_as_large_as_the_text_though_its_table_is_smaller(self) -> None:
        for size, caption in ((10, "Cargo by gate"), (12, "")):
            content = prose(60, 740, 3, "before") + line(60, 668, "Cargo by gate", size)
            small = "".join(table(650 - 90 * k, 7) for k in range(5))
            found = read(content + small).tables
            self.assertEqual([t.caption for t in found], [caption, "", "", "", ""])

    def test_a_note_below_a_name_is_not_of_it(self) -> None:
        for note in ("a Without the pier.", "Notes. Of the year before."):
            name = "Table 2: Cargo by gate." if note[0] == "N" else "Table 2: Cargo by gate"
            content = prose(60, 740, 4, "before") + table(650)
            self.assertEqual(self.caption(content + line(60, 580, name, 8) + line(60, 570, note, 8)), name)

    def test_a_sentence_about_a_table_names_none(self) -> None:
        for said, caption in (
            ("Table 4 shows the cargo of all gates by day and by night.", ""),
            (
                "Table 4 Cargo of all gates by day and by night",
                "Table 4 Cargo of all gates by day and by night",
            ),
        ):
            self.assertEqual(self.caption(line(60, 676, said) + table(650)), caption)

    def test_texts_beside_each_other_below_a_name_are_not_of_it(self) -> None:
        above = [line(60, 640, "Table 3: Cargo by gate"), line(110, 626, "4.5"), line(200, 626, "7.5")]
        layout, draft = completed("Table 3: Cargo by gate 4.5 7.5", above, body(2))
        attach_captions(layout, [draft])
        self.assertEqual(plain_text(layout, draft.caption), "Table 3: Cargo by gate")

    def test_the_name_of_a_figure_above_a_table_is_that_of_the_figure(self) -> None:
        content = prose(60, 760, 4, "before") + chart(80, 590, 300, 680)
        content += line(80, 574, "Chart 2 - Cargo by gate") + table(548)
        document = read(content)
        self.assertEqual([t.caption for t in document.tables], [""])
        (figure,) = (b for b in document.blocks if isinstance(b, Figure))
        self.assertEqual(figure.caption, "Chart 2 - Cargo by gate")


class TestStacked(unittest.TestCase):
    def test_tables_with_one_head_stay_apart_where_the_head_stands_apart(self) -> None:
        for size in (7, 8, 9, 10):
            for pitch in (98, 104, 116):
                stacked = "".join(table(650 - (pitch - 16) * k, size) for k in range(4))
                found = read(prose(60, 760, 4, "before") + stacked).tables
                said = [[cell.text for row in t.grid() for cell in row if cell] for t in found]
                self.assertEqual(said, [[text for row in CELLS for text in row]] * 4, (size, pitch))


class TestFigures(unittest.TestCase):
    def test_a_name_set_larger_than_the_text_is_no_heading(self) -> None:
        content = chart(80, 600, 300, 700) + line(80, 584, "Figure 1: Cargo by gate", 13)
        document = read(content + prose(60, 540, 6, "after"))
        self.assertFalse([b for b in document.blocks if isinstance(b, Heading)])
        (figure,) = (b for b in document.blocks if isinstance(b, Figure))
        self.assertEqual(figure.caption, "Figure 1: Cargo by gate")

    def test_on_a_page_that_lies_sideways(self) -> None:
        upright = chart(120, 400, 340, 500) + line(150, 384, "Figure 1: Cargo by gate", 10)
        upright += prose(60, 340, 6, "after") + line(390, 20, "- 3 -", 9)
        turned = f"q 0 1 -1 0 612 0 cm {upright} Q"
        document = read(turned)
        (figure,) = (b for b in document.blocks if isinstance(b, Figure))
        self.assertEqual(figure.caption, "Figure 1: Cargo by gate")
        self.assertEqual([r.text for r in document.running], ["- 3 -"])


class TestLittleText(unittest.TestCase):
    def test_the_title_of_a_page_with_one_table_is_a_heading(self) -> None:
        for note in ("", "As of March", "Sums may not add up"):
            content = line(60, 740, "Fares of the ferry", 18) + table(680)
            document = read(content + (line(60, 560, note) if note else ""))
            heads = [b.text for b in document.blocks if isinstance(b, Heading)]
            said = [b.text for b in document.blocks if isinstance(b, Paragraph)]
            self.assertEqual((heads, said), (["Fares of the ferry"], [note] * bool(note)))


if __name__ == "__main__":
    unittest.main()
