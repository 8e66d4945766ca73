"""Header rows above a table: labels over several columns, labels of columns, and what is none."""

from __future__ import annotations

import unittest

import wennak
from tests.support import pdf_of
from tests.test_continued import FONTS, PROSE, text

NAMES = ("Gannet", "Tern", "Eider", "Fulmar", "Skua", "Petrel")
# Width of a digit and of a point of the typeface, in em.
DIGIT, POINT = 0.556, 0.278


def right(x: float, y: float, said: str) -> str:
    """A number that ends at x."""
    width = 10 * sum(POINT if c == "." else DIGIT for c in said)
    return text(x - width, y, said)


def body(columns: int, top: float = 600, apart: float = 80) -> list[str]:
    """Rows with a label and numbers set to the right, the first column of them ending at 260."""
    out = []
    for r, name in enumerate(NAMES):
        out.append(text(72, top - 16 * r, name))
        out += [right(260 + apart * c, top - 16 * r, f"{17 * r + c}.{c}") for c in range(columns)]
    return out


def years(columns: int, y: float, apart: float = 80) -> list[str]:
    return [right(260 + apart * c, y, str(2021 + c)) for c in range(columns)]


def table(*pieces: list[str]) -> wennak.Table:
    (found,) = wennak.read(pdf_of("\n".join(p for piece in pieces for p in piece), FONTS)).tables
    return found


class TestHeads(unittest.TestCase):
    def test_a_label_over_the_columns_spans_them(self) -> None:
        for columns in (2, 3, 4):
            with self.subTest(columns=columns):
                middle = (240 + 260 + 80 * (columns - 1)) / 2
                label = [text(middle - 35, 632, "Landings, tonnes")]
                found = table([text(72, 700, PROSE)], label, years(columns, 616), body(columns))
                first = next(c for c in found.cells if c.text)
                self.assertEqual(
                    (first.text, first.row, first.column, first.colspan, first.header),
                    ("Landings, tonnes", 0, 1, columns, True),
                )
                self.assertEqual((found.rows, found.header_rows), (len(NAMES) + 2, 2))

    def test_years_above_a_body_head_it(self) -> None:
        group = [text(72, 600, "Landings")]
        found = table(years(3, 616), group, body(3, 584))
        over = [c.text for c in found.cells if c.row == 0 and c.column]
        self.assertEqual((over, found.header_rows), (["2021", "2022", "2023"], 1))

    def test_a_header_wider_than_its_column_stays_over_it(self) -> None:
        lines = [text(72, 600 - 16 * r, f"{name} of the northern stations") for r, name in enumerate(NAMES)]
        lines += [right(260, 600 - 16 * r, str(3 + 5 * r)) for r in range(len(NAMES))]
        head = text(260 - 60, 620, "Landings, kg", 10, "F2")
        found = table([text(72, 700, PROSE)], [head], lines)
        cell = next(c for c in found.cells if c.text == "Landings, kg")
        self.assertEqual((cell.row, cell.column, cell.colspan), (0, 1, 1))

    def test_a_number_on_the_line_of_its_row_is_of_no_other_row(self) -> None:
        # The first and the third row have nothing in the last column; the second one stands midway.
        for ruled in (True, False):
            lines = [text(230, 616, "Catch", 10, "F2"), text(315, 616, "Trips", 10, "F2")]
            for k, name in enumerate(NAMES):
                at = 600 - 16 * k
                lines += [text(72, at, name), right(260, at, f"{7 + k}.5")]
                lines += [right(340, at, str(90 - k))] if k not in (0, 2) else []
                lines += [f"0.4 w 72 {at - 4} m 340 {at - 4} l S"] if ruled else []
            with self.subTest(ruled=ruled):
                trips = {c.text: (c.row, c.rowspan) for c in table(lines).cells if c.column == 2 and c.row}
                self.assertEqual(trips, {str(90 - k): (k + 1, 1) for k in (1, 3, 4, 5)})

    def test_what_stands_above_otherwise_is_no_row(self) -> None:
        above = {
            "a sentence": text(72, 632, PROSE),
            "a name": text(72, 632, "Table 4. Landings of the quay"),
            "a heading": text(72, 640, "Landings", 15, "F2"),
            "a title over the middle": text(160, 632, "Landings of the quay, tonnes"),
            "a label far above": text(260, 680, "Landings, tonnes"),
        }
        for what, piece in above.items():
            with self.subTest(what):
                found = table([piece], years(3, 616), body(3))
                self.assertEqual(found.rows, len(NAMES) + 1)
        # A word at the margin may head the labels; it is no label of the numbers.
        found = table([text(72, 632, "Landings")], years(3, 616), body(3))
        spanned = [c.text for c in found.cells if c.text == "Landings" and c.column + c.colspan > 1]
        self.assertEqual(spanned, [])


if __name__ == "__main__":
    unittest.main()
