"""Superscripts and subscripts: told from the text that they stand in, in every output and in every value."""

from __future__ import annotations

import re
import unittest

import wennak
from tests.support import pdf_of
from wennak.emit.json import from_json
from wennak.values import typed_column

RAISED, LOWERED, LEVEL = "/F1 6.5 Tf 4 Ts ", "/F1 6.5 Tf -2 Ts ", "/F1 10 Tf 0 Ts "


def shown(x: float, y: float, text: str) -> str:
    """A text at a place, in which ^{...} is raised and _{...} is lowered."""
    out = f"BT {LEVEL}{x} {y} Td "
    looks = {"^": RAISED, "_": LOWERED}
    for part in re.finditer(r"([\^_])\{([^}]*)\}|([^\^_]+)", text):
        said = (part[2] or part[3]).replace("(", r"\(").replace(")", r"\)")
        out += f"{looks.get(part[1], LEVEL)}({said}) Tj "
    return f"{out}ET "


def table(rows: list[list[str]]) -> str:
    """A ruled table at the top of a page."""
    out = ""
    for r in range(len(rows) + 1):
        out += f"60 {720 - 20 * r} m 420 {720 - 20 * r} l S "
    for c in range(len(rows[0]) + 1):
        out += f"{60 + 120 * c} 720 m {60 + 120 * c} {720 - 20 * len(rows)} l S "
    for r, row in enumerate(rows):
        out += "".join(shown(66 + 120 * c, 706 - 20 * r, text) for c, text in enumerate(row))
    return out


class TestParagraphs(unittest.TestCase):
    TEXT = "The tank holds 12 m^{3} of CO_{2} at 10^{-3} of its load and the x_{i+1} of the board"

    def setUp(self) -> None:
        lines = "".join(shown(60, 700 - 13 * k, f"{self.TEXT} number {k}.") for k in range(3))
        self.document = wennak.read(pdf_of(lines))

    def test_html_has_elements_and_markdown_characters(self) -> None:
        html, markdown = self.document.html(), self.document.markdown()
        for said in ("m<sup>3</sup>", "CO<sub>2</sub>", "10<sup>-3</sup>", "x<sub>i+1</sub>"):
            self.assertEqual(html.count(said), 3, said)
        for said in ("m³", "CO₂", "10⁻³", "xᵢ₊₁"):
            self.assertEqual(markdown.count(said), 3, said)

    def test_the_text_itself_is_plain_and_json_comes_back(self) -> None:
        text = " ".join(self.document.texts())
        self.assertEqual(text.count("10-3 of"), 3)
        self.assertEqual(from_json(self.document.json()), self.document)

    def test_what_unicode_has_no_characters_for_stays_as_it_is(self) -> None:
        document = wennak.read(
            pdf_of(shown(60, 700, "The load L_{crit} of each of the beams is known here."))
        )
        self.assertIn("Lcrit of", document.markdown())
        self.assertIn("L<sub>crit</sub>", document.html())

    def test_a_mark_of_a_note_is_one_and_no_other_raised_text(self) -> None:
        page = shown(60, 700, "The lamp of the pier^{1} is 3 m^{2} wide and stands by the sea on a long rod.")
        page += "".join(
            shown(60, 687 - 13 * k, "It is lit by the keeper at dusk and put out at dawn.") for k in (0, 1)
        )
        page += "BT /F1 7 Tf 60 400 Td (1 Since the storm of last year.) Tj ET"
        html = wennak.read(pdf_of(page)).html()
        self.assertIn('pier<sup><a href="#note-1">1</a></sup>', html)
        self.assertIn("m<sup>2</sup>", html)


class TestTables(unittest.TestCase):
    ROWS = (
        ["Place", "Area (km^{2})", "Load^{a}"],
        ["Oskay", "12.5^{1}", "3"],
        ["Tordal", "7.25", "10^{3}"],
        ["Eilis", "19.75^{2}", "4"],
    )

    def setUp(self) -> None:
        (self.table,) = wennak.read(pdf_of(table([list(row) for row in self.ROWS]))).tables

    def test_cells_hold_plain_text_and_where_it_is_raised(self) -> None:
        cells = {(c.row, c.column): c for c in self.table.cells}
        self.assertEqual((cells[1, 1].text, cells[1, 1].shown), ("12.51", "12.5¹"))
        self.assertEqual([(m.start, m.end, m.kind) for m in cells[1, 1].marks], [(4, 5, "sup")])
        self.assertEqual(cells[0, 1].shown, "Area (km²)")
        self.assertEqual(cells[2, 1].marks, [])

    def test_no_output_takes_a_mark_for_a_digit(self) -> None:
        document = wennak.Document("d.pdf", blocks=[self.table])
        self.assertIn("| Oskay | 12.5¹ |", document.markdown())
        self.assertIn("12.5<sup>1</sup>", document.html())
        self.assertTrue(any("12.5¹" in passage.text for passage in document.passages()))
        self.assertEqual(self.table.frame().iloc[0, 1], "12.5¹")

    def test_values_are_without_the_mark(self) -> None:
        frame = self.table.frame(typed=True)
        self.assertEqual(frame.iloc[:, 1].tolist(), [12.5, 7.25, 19.75])

    def test_sums_are_without_the_mark(self) -> None:
        rows = [["Pier", "Tons"], ["Oskay", "12^{1}"], ["Tordal", "30"], ["Eilis", "8^{2}"], ["Total", "50"]]
        (found,) = wennak.read(pdf_of(table([[*row, "x"] for row in rows]))).tables
        self.assertEqual([(c.expected, c.passed) for c in found.checks], [(50.0, True)])


class TestValues(unittest.TestCase):
    def test_a_power_of_ten_is_no_number_with_a_note(self) -> None:
        self.assertEqual(typed_column(["12¹", "7ᵃ", "3"]).values, [12.0, 7.0, 3.0])
        for power in ("10³", "5 × 10³", "10⁻³"):
            self.assertEqual(typed_column([power, "7"]).kind, "text", power)


if __name__ == "__main__":
    unittest.main()
