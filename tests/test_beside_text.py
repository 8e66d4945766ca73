"""What stands in a column of its own and is no table: notes in the margin, comments of programs."""

from __future__ import annotations

import io
import unittest
from collections.abc import Sequence

from reportlab.lib.enums import TA_JUSTIFY
from reportlab.lib.styles import ParagraphStyle
from reportlab.pdfgen.canvas import Canvas
from reportlab.platypus import Paragraph

import wennak
from tests.support import words

LEFT, RIGHT, PITCH = 150, 500, 12
CATCH = (
    "The boats of Skerra Sound land their catch at three piers, and what each of them brings in is "
    "weighed and written down before it is sold, so that the warden can tell on any day how much of the"
    " quota for herring and for cod is left to be fished in the weeks that remain of the season and "
    "which boats have had their share of it already."
)
PIERS = (
    "At the north pier a second scale was put up in spring since boats had to wait there for hours with"
    " fish on deck that the sun had spoilt before anybody had looked at it, and the harbour office was "
    "told of this more than once by those who had to throw away a part of what they had caught and by "
    "the warden as well."
)
TIDES = (
    "What is landed at night is weighed in the morning by the first of the two wardens who are on duty "
    "then, as neither of the scales has a light and the tide gives boats of more than twelve metres no "
    "choice as to when they come in, which is why the books show most of the catch in the forenoon of "
    "the following day."
)


class Page:
    """A page of justified text, whose lines are known."""

    def __init__(self) -> None:
        self.out = io.BytesIO()
        self.canvas = Canvas(self.out, pagesize=(612, 792), invariant=True)
        self.y = 720.0

    def text(self, said: str, left: float = LEFT, room: float = 0.0) -> float:
        """Set a paragraph; where the baseline of its first line is."""
        style = ParagraphStyle(
            "text", fontName="Times-Roman", fontSize=10, leading=PITCH, alignment=TA_JUSTIFY
        )
        paragraph = Paragraph(said, style)
        _, height = paragraph.wrap(RIGHT - left, 700)
        self.y -= height + room
        paragraph.drawOn(self.canvas, left, self.y)
        return self.y + height - 10

    def note(self, said: str, y: float, x: float = LEFT - 12, font: str = "Courier") -> None:
        self.canvas.setFont(font, 9)
        self.canvas.drawRightString(x, y, said)

    def lines(self, lines: Sequence[str], font: str) -> None:
        self.canvas.setFont(font, 9)
        for line in lines:
            self.y -= 11
            self.canvas.drawString(LEFT, self.y, line)

    def read(self) -> wennak.Document:
        self.canvas.save()
        return wennak.read(self.out.getvalue(), name="page.pdf")


class TestNotesInTheMargin(unittest.TestCase):
    def noted(self, right: bool = False) -> wennak.Document:
        page = Page()
        x = 560 if right else LEFT - 12
        first = page.text(CATCH)
        page.note("quota", first - PITCH, x)
        page.note("season", first - 2 * PITCH, x)
        second = page.text(PIERS)
        page.note("scale", second - PITCH, x)
        page.text(TIDES)
        return page.read()

    def test_are_no_column_and_text_runs_on_beside_them(self) -> None:
        for right in (False, True):
            with self.subTest(right=right):
                document = self.noted(right)
                self.assertEqual(document.tables, [])
                said = " ".join(document.markdown().split())
                for text in (CATCH, PIERS, TIDES):
                    self.assertIn(text, said)

    def test_stand_where_paragraphs_begin_while_most_have_none(self) -> None:
        page = Page()
        first = page.text(CATCH)
        page.note("quota", first)
        page.note("season", first - PITCH)
        for text in (PIERS, TIDES):
            page.text(text, room=12)
        second = page.text(CATCH, room=12)
        page.note("scale", second)
        page.text(PIERS, room=12)
        document = page.read()
        self.assertEqual(document.tables, [])
        said = " ".join(document.markdown().split())
        for text, count in ((CATCH, 2), (PIERS, 2), (TIDES, 1)):
            self.assertEqual(said.count(text), count)

    def test_come_once_each_and_nothing_is_added(self) -> None:
        document = self.noted()
        found = words(document.markdown().replace("```", ""))
        self.assertEqual(found, words(f"{CATCH} {PIERS} {TIDES} quota season scale"))

    def test_labels_where_texts_begin_are_a_column(self) -> None:
        page = Page()
        page.text(CATCH, left=80)
        for label, text in (("quota", CATCH), ("scale", PIERS), ("tide", TIDES)):
            page.canvas.line(80, page.y - 4, RIGHT, page.y - 4)
            first = page.text(text, room=10)
            page.canvas.setFont("Times-Roman", 10)
            page.canvas.drawString(80, first, label)
        page.canvas.line(80, page.y - 4, RIGHT, page.y - 4)
        (table,) = page.read().tables
        self.assertEqual(
            [[c.text for c in table.cells if c.row == r] for r in range(table.rows)],
            [["quota", CATCH], ["scale", PIERS], ["tide", TIDES]],
        )


class TestPrograms(unittest.TestCase):
    LINES = (
        "LIMIT_HERRING = 120     # tonnes a week, all boats",
        "LIMIT_COD     = 45      # tonnes a week, all boats",
        "PIER          = 'north' # where the new scale is",
        "OPEN          = 6       # hour of the first weighing",
    )

    def read(self, lines: Sequence[str], font: str = "Courier") -> wennak.Document:
        page = Page()
        page.text(CATCH)
        page.y -= 12
        page.lines(lines, font)
        page.y -= 12
        page.text(PIERS)
        return page.read()

    def test_are_read_line_by_line_as_they_are_set(self) -> None:
        for sign in ("#", "//", "--", "%"):
            lines = [line.replace("#", sign) for line in self.LINES]
            with self.subTest(sign=sign):
                document = self.read(lines)
                self.assertEqual(document.tables, [])
                self.assertIn("```\n" + "\n".join(lines) + "\n```", document.markdown())

    def test_values_that_are_assigned_stay_in_their_lines(self) -> None:
        for sign in ("=", ":="):
            lines = [
                "boat {",
                f"  name    {sign} Aila;",
                f"  licence {sign} 12;",
                f"  landed  {sign} 12.4;  /* tonnes */",
                f"  pier    {sign} north",
                "}",
            ]
            with self.subTest(sign=sign):
                document = self.read(lines)
                self.assertEqual(document.tables, [])
                self.assertIn("```\n" + "\n".join(lines) + "\n```", document.markdown())

    def test_numbers_of_lines_stay_before_their_lines(self) -> None:
        lines = [
            "def catch(boat):",
            "    week = 0",
            "    for day in days(boat):",
            "        week += day",
            "    return week",
        ]
        page = Page()
        page.text(CATCH)
        page.y -= 12
        for k, line in enumerate(lines, start=98):
            page.y -= 11
            page.canvas.setFont("Helvetica", 5)
            page.canvas.drawRightString(LEFT, page.y, str(k))
            page.canvas.setFont("Courier", 9)
            page.canvas.drawString(LEFT + 10 + 5.4 * (len(line) - len(line.lstrip())), page.y, line.lstrip())
        page.y -= 12
        page.text(PIERS)
        document = page.read()
        self.assertEqual(document.tables, [])
        (code,) = (b for b in document.blocks if b.kind == "code")
        numbers, texts = zip(*(row.strip().split(" ", 1) for row in code.text.split("\n")), strict=True)
        self.assertEqual(numbers, ("98", "99", "100", "101", "102"))
        self.assertEqual([text.strip() for text in texts], [line.strip() for line in lines])
        steps = [len(text) - len(text.lstrip()) for text in texts]
        self.assertEqual([step - steps[0] for step in steps], [0, 4, 4, 8, 4])

    def test_what_stands_far_beside_numbered_lines_is_none_of_theirs(self) -> None:
        page = Page()
        page.text(CATCH)
        page.y -= 12
        lines = ("open the pier", "weigh the catch", "close the pier", "rest")
        for k, line in enumerate(lines, start=1):
            page.y -= 11
            page.canvas.setFont("Courier", 9)
            page.canvas.drawString(LEFT, page.y, f"{k} {line}")
            page.canvas.setFont("Times-Roman", 10)
            page.canvas.drawString(RIGHT - 60, page.y, ("", "pier", "scale", "")[k - 1])
        page.y -= 12
        page.text(PIERS)
        document = page.read()
        self.assertEqual(document.tables, [])
        (code,) = (b for b in document.blocks if b.kind == "code")
        self.assertEqual(code.text, "\n".join(f"{k} {line}" for k, line in enumerate(lines, start=1)))

    def test_numbered_names_at_one_place_are_a_table(self) -> None:
        rows = [("0", "LANDED"), ("1", "SOLD"), ("2", "RETURNED"), ("3", "SPOILT"), ("4", "LOST")]
        page = Page()
        page.text(CATCH)
        page.y -= 12
        for number, name in [("State", "Name"), *rows]:
            page.y -= 14
            page.canvas.setFont("Courier" if name.isupper() else "Helvetica", 9)
            page.canvas.drawString(LEFT, page.y, number)
            page.canvas.drawString(LEFT + 60, page.y, name)
            if number in ("State", "4"):
                page.canvas.line(LEFT, page.y - 3, LEFT + 120, page.y - 3)
        (table,) = page.read().tables
        texts = [[c.text for c in table.cells if c.row == r] for r in range(table.rows)]
        self.assertEqual(texts, [["State", "Name"], *map(list, rows)])

    def test_numbered_names_with_a_text_behind_each_are_a_table(self) -> None:
        rows = [("201", "LANDED", "Weighed at the pier"), ("202", "SOLD", "Handed to the buyer")]
        rows += [("203", "RETURNED", "Thrown back alive"), ("204", "SPOILT", "Thrown away")]
        page = Page()
        page.text(CATCH)
        page.y -= 12
        for number, name, said in rows:
            page.y -= 14
            page.canvas.setFont("Helvetica", 9)
            page.canvas.drawString(LEFT, page.y, number)
            page.canvas.drawString(LEFT + 160, page.y, said)
            page.canvas.setFont("Courier", 9)
            page.canvas.drawString(LEFT + 30, page.y, name)
        (table,) = page.read().tables
        texts = [[c.text for c in table.cells if c.row == r] for r in range(table.rows)]
        self.assertEqual(texts, [list(row) for row in rows])

    def test_counted_values_are_a_table_in_fixed_pitch_too(self) -> None:
        boats = (("Aila", "12.4"), ("Brisk", "9.1"), ("Corrie", "17.0"), ("Dulse", "6.25"))
        rows = [f"{k}  {boat:<12}{tonnes:>8}" for k, (boat, tonnes) in enumerate(boats, start=1)]
        (table,) = self.read(["   Boat          Tonnes", *rows]).tables
        self.assertEqual([c.text for c in table.cells if c.row == 4], ["4", "Dulse", "6.25"])

    def test_values_without_comments_are_a_table_in_fixed_pitch_too(self) -> None:
        catch = (("Boat", "Licence", "Tonnes"), ("Aila", "# 12", "12.4"), ("Brisk", "# 7", "9.1"))
        catch += (("Corrie", "# 31", "17.0"), ("Dulse", "# 4", "6.25"))
        lights = (("Pier", "Lights", "Colour"), ("north", "2", "#00aa00"), ("south", "1", "#cc0000"))
        lights += (("west", "3", "#ffffff"), ("old", "1", "#cccc00"))
        for font, rows in (("Courier", catch), ("Helvetica", catch), ("Courier", lights)):
            page = Page()
            page.text(CATCH)
            page.y -= 12
            page.canvas.setFont(font, 9)
            for k, (first, second, last) in enumerate(rows):
                page.y -= 14
                page.canvas.drawString(LEFT, page.y, first)
                page.canvas.drawString(LEFT + 120, page.y, second)
                page.canvas.drawRightString(LEFT + 300, page.y, last)
                for y in (10, -4) if k == 0 else (-4,) if k == len(rows) - 1 else ():
                    page.canvas.line(LEFT, page.y + y, LEFT + 300, page.y + y)
            with self.subTest(font=font, rows=rows[0]):
                (table,) = page.read().tables
                texts = [[c.text for c in table.cells if c.row == r] for r in range(table.rows)]
                self.assertEqual(texts, [list(row) for row in rows])


class TestTextAbove(unittest.TestCase):
    def test_a_short_column_of_text_is_no_column_of_the_table_beside_it(self) -> None:
        """Rows of the table stand at mid height of its lines again and again."""
        lines = [" ".join(CATCH.split()[8 * k : 8 * k + 8]) for k in range(6)]
        rows = [("", "Jan", "Feb", "Mar")]
        rows += [(f"Pier {k}", f"{17 * k}", f"{9 + k}", f"{40 - 3 * k}") for k in range(1, 7)]
        for pitch in (14, 16, 20):
            page = Page()
            page.canvas.setFont("Helvetica", 10)
            for k, said in enumerate(lines):
                page.canvas.drawString(60, 720 - PITCH * k, said)
            for k, row in enumerate(rows):
                for x, cell in zip((340, 430, 470, 510), row, strict=True):
                    page.canvas.drawString(x, 720 - pitch * k, cell)
            document = page.read()
            grids = [[[c.text if c else "" for c in row] for row in t.grid()] for t in document.tables]
            self.assertEqual(grids, [[list(row) for row in rows]], pitch)

    def test_lines_of_a_paragraph_with_gaps_over_the_columns_are_no_rows(self) -> None:
        rows = (("boat", "pier", "tonnes"), ("Aila", "north", "12.4"), ("Brisk", "south", "9.1"))
        rows += (("Corrie", "north", "17.0"), ("Dulse", "west", "6.25"), ("Eider", "south", "8.0"))
        page = Page()
        page.text(CATCH)
        page.y -= 12
        page.lines([f"{a:<16}{b:<16}{c:>8}" for a, b, c in rows], "Courier")
        document = page.read()
        (table,) = document.tables
        texts = [[c.text for c in table.cells if c.row == r] for r in range(table.rows)]
        self.assertEqual(texts, [list(row) for row in rows])
        self.assertEqual(table.header_rows, 1)
        self.assertIn(CATCH, " ".join(document.markdown().split()))


if __name__ == "__main__":
    unittest.main()
