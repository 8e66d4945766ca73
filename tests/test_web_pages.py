"""Pages as browsers print them: columns a point or two apart, cells at mid height beside each other, and no
rules that tell.
"""

from __future__ import annotations

import random
import unittest

import numpy as np
from reportlab.pdfbase.pdfmetrics import stringWidth

from tests.test_sheets import SIZE, Page, texts
from wennak.model import Heading
from wennak.tables.centred import centred_rows

PROSE = (
    "The gauge at the north pier was read each morning before the ferry left the sound.",
    "Values of the second gauge were kept apart until the office had compared the two.",
)
WORDS = "gauge pier tide sound ferry berth quay chart wind swell office crew lamp rope buoy".split()
LINE = 12.0


def tight(columns: list[list[str]], gap: float, bold: bool = True) -> Page:
    """A page of text around a table whose columns are as wide as their texts, so far apart."""
    page, y = Page(), 520.0
    page.text(60, y, PROSE[0])
    y -= 30
    x, head = 60.0, bold
    for column in columns:
        for k, said in enumerate(column):
            page.text(x, y - LINE * k, said, bold=head and not k)
        faces = ["Helvetica-Bold" if head and not k else "Helvetica" for k in range(len(column))]
        x += gap + max(stringWidth(t, f, SIZE) for t, f in zip(column, faces, strict=True))
    y -= LINE * len(columns[0]) + 18
    page.text(60, y, PROSE[1])
    return page


def centred(
    rows: list[list[list[str]]], lefts: list[float], line: float = LINE, room: float = 2, heads: int = 0
) -> Page:
    """A page of text around a table of cells of some lines each, at mid height beside each other, so many
    rows in bold.
    """
    page, y = Page(), 520.0
    page.text(60, y, PROSE[0])
    y -= 30
    for number, row in enumerate(rows):
        high = line * max(len(cell) for cell in row)
        for x, cell in zip(lefts, row, strict=True):
            top = y - (high - line * len(cell)) / 2
            for k, said in enumerate(cell):
                page.text(x, top - line * k, said, bold=number < heads)
        y -= high + room
    page.text(60, y - line - 4 * room, PROSE[1])
    return page


def sentences(rng: random.Random, lines: int) -> list[str]:
    """A text of so many lines, the first with a capital."""
    out = [" ".join(rng.choices(WORDS, k=6)) for _ in range(lines)]
    return [out[0].capitalize(), *out[1:]]


class TightColumnsTest(unittest.TestCase):
    def test_numbers_a_point_and_a_half_apart_are_not_one(self) -> None:
        """Without blanks drawn between them they are told apart by the gap that no font has."""
        for seed in range(4):
            rng = random.Random(seed)
            columns = [
                [name, *(f"{rng.randint(10**k, 10 ** (k + 1) - 1)}{end}" for _ in range(8))]
                for name, k, end in (("day", 6, ""), ("level", 2, ".7"), ("crew", 1, ""))
            ]
            with self.subTest(seed=seed):
                (table,) = tight(columns, 1.5).read().tables
                self.assertEqual(texts(table), [list(row) for row in zip(*columns, strict=True)])
                self.assertEqual(table.header_rows, 1)

    def test_labels_in_bold_above_two_columns_are_no_heading(self) -> None:
        document = tight(
            [["FEB", "26.30", "26.55", "25.90", "25.59"], ["MAR", "27.63", "27.09", "26.94", "26.01"]], 3
        )
        read = document.read()
        self.assertEqual(read.tables[0].rows, 5)
        self.assertFalse([b for b in read.blocks if isinstance(b, Heading)])

    def test_text_columns_right_beside_each_other_are_two(self) -> None:
        names = ["crypt", "level of tide", "sound", "wind force", "swell"]
        says = [
            "Hash of a word",
            "Height above chart",
            "Depth below keel",
            "By the scale of ten",
            "From the west",
        ]
        (table,) = tight([names, says], 3, bold=False).read().tables
        self.assertEqual(texts(table), [list(row) for row in zip(names, says, strict=True)])

    def test_a_sentence_right_below_is_no_row(self) -> None:
        page, rng = Page(), random.Random(3)
        for k in range(6):
            page.text(60, 500 - LINE * k, f"{rng.randint(10, 28)} May" if k else "day", bold=not k)
            page.text(100, 500 - LINE * k, f"{rng.randint(900, 999)}.{k}" if k else "level", bold=not k)
        page.text(60, 500 - LINE * 6, PROSE[0])
        (table,) = page.read().tables
        self.assertEqual((table.rows, table.columns), (6, 2))

    def test_labels_wider_than_their_values_stay_apart(self) -> None:
        for gap in (5, 8):
            columns = [
                ["Jumps", "101", "37", "58", "42"],
                ["Weight", "3.05", "2.55", "2.64", "1.10"],
                ["Circumference", "38", "35", "34", "36"],
                ["Rentals", "0", "0", "1", "0"],
            ]
            with self.subTest(gap=gap):
                (table,) = tight(columns, gap).read().tables
                self.assertEqual(texts(table), [list(row) for row in zip(*columns, strict=True)])

    def test_gaps_within_text_do_not_part_it(self) -> None:
        """A page that draws its blanks has item marks without: no columns."""
        page, y = Page(), 520.0
        for k in range(6):
            page.text(60, y - 14 * k, f"{k + 1}.")
            page.text(60 + stringWidth(f"{k + 1}.", "Helvetica", SIZE) + 2.5, y - 14 * k, PROSE[k % 2])
        self.assertFalse(page.read().tables)


class CentredCellsTest(unittest.TestCase):
    def test_labels_at_mid_height_of_texts(self) -> None:
        for seed in range(5):
            rng = random.Random(seed)
            counts = [2, 1, 2, 3, *(rng.choice((1, 2, 2, 4)) for _ in range(3))]
            rows = [[[f"v.{rng.choice(WORDS)}{k}"], sentences(rng, n)] for k, n in enumerate(counts)]
            with self.subTest(seed=seed):
                (table,) = centred(rows, [60, 150]).read().tables
                wanted = [[" ".join(cell) for cell in row] for row in rows]
                self.assertEqual(texts(table), wanted)

    def test_several_columns_of_several_lines(self) -> None:
        rng = random.Random(5)
        shapes = [(1, 1, 2), (1, 2, 1), (1, 1, 1), (1, 3, 2), (1, 2, 3), (1, 1, 2)]
        rows = [[[f"Part {k}"], sentences(rng, b), sentences(rng, c)] for k, (_, b, c) in enumerate(shapes)]
        (table,) = centred([[["Name"], ["First use"], ["Second use"]], *rows], [60, 130, 360]).read().tables
        self.assertEqual(texts(table)[1:], [[" ".join(cell) for cell in row] for row in rows])

    def test_two_texts_side_by_side_are_none(self) -> None:
        page, rng = Page(), random.Random(2)
        for k in range(14):
            page.text(60, 520 - LINE * k, " ".join(rng.choices(WORDS, k=9)))
            page.text(430, 514 - LINE * k, " ".join(rng.choices(WORDS, k=9)))
        self.assertFalse(page.read().tables)

    def test_rows_are_those_that_were_drawn(self) -> None:
        for seed in range(60):
            rng = random.Random(seed)
            lines: list[tuple[float, int]] = []
            wanted, between, y = [], 0, 0.0
            for _ in range(rng.randint(3, 9)):
                counts = [1, rng.randint(1, 5), rng.randint(1, 3)]
                high = 12.0 * max(counts)
                wanted.append(y)
                between += len({n % 2 for n in counts}) > 1
                for column, n in enumerate(counts):
                    top = y + (high - 12.0 * n) / 2
                    lines += [(top + 12.0 * k, column) for k in range(n)]
                y += high + 2
            tops = sorted({top for top, _ in lines})
            filled = np.array([[(top, c) in lines for c in range(3)] for top in tops])
            found = centred_rows(np.array(tops), np.array(tops) + 11.0, filled, 10.0)
            assert found is not None
            begins = [tops[0], *(t for t, first in zip(tops[1:], found[0], strict=True) if first)]
            with self.subTest(seed=seed):
                self.assertEqual(begins, wanted)
                self.assertEqual(found[1], between)

    def test_lines_at_one_height_bear_out_no_rows_of_centred_cells(self) -> None:
        """Labels beside the first of several lines leave lines without a label."""
        tops = np.arange(6) * 12.0
        filled = np.array(
            [[True, True], [False, True], [False, True], [True, True], [False, True], [False, True]]
        )
        found = centred_rows(tops, tops + 11.0, filled, 10.0)
        self.assertEqual(found[1] if found else 0, 0)


class PlainLookTest(unittest.TestCase):
    def test_counted_rows_below_labels_are_a_table(self) -> None:
        """Numbers in bold beside texts are no list where a label stands over each of the two."""
        keys = [
            "Lower the gangway",
            "Ring for the pilot",
            "Light the pier",
            "Read the gauge",
            "Call the office",
        ]
        for labels in (("Key", "Action"), ()):
            page, y = Page(), 520.0
            page.text(60, y, PROSE[0])
            y -= 30
            if labels:
                page.text(60, y, labels[0], bold=True)
                page.text(160, y, labels[1], bold=True)
            for k, said in enumerate(keys, 1):
                page.text(62, y - 22 * k, str(k), bold=True)
                page.text(100, y - 22 * k, said)
            page.text(60, y - 22 * 6 - 12, PROSE[1])
            tables = page.read().tables
            with self.subTest(labels=labels):
                self.assertEqual(len(tables), bool(labels))
                if labels:
                    rows = [[str(k), said] for k, said in enumerate(keys, 1)]
                    self.assertEqual(texts(tables[0]), [list(labels), *rows])

    def test_text_above_a_table_is_no_row_of_it(self) -> None:
        """Lines of one cell count nothing at the ends of a table, or taking them in would pay."""
        for seed in range(8):
            rng = random.Random(seed)
            page, y = Page(), 560.0
            lines = ("Shapes", "Table 2 shows the shapes that the office knows of. Where two", "are named,")
            for said in (*lines, "the first counts."):
                page.text(60, y, said, bold=said == "Shapes")
                y -= 14
            page.text(60, y - 6, "Table 2. Shapes of the sound", bold=True)
            for x, said in ((60, "Shape"), (160, "Meaning")):
                page.text(x, y - 26, said, bold=True)
            y -= 34
            rows = [["Shape", "Meaning"]]
            for name in rng.sample(WORDS, 7):
                meant = sentences(rng, rng.randint(1, 2))
                rows.append([f"({name})", " ".join(meant)])
                page.text(60, y - 20 - 7 * (len(meant) - 1), f"({name})")
                for k, said in enumerate(meant):
                    page.text(160, y - 20 - 14 * k, said)
                y -= 6 + 14 * len(meant)
            (table,) = page.read().tables
            with self.subTest(seed=seed):
                self.assertEqual(texts(table), rows)

    def test_rows_farther_apart_than_the_lines_of_a_cell(self) -> None:
        """Cells of two lines beside each other are no two rows where others stand at mid height."""
        for seed in range(40):
            rng = random.Random(seed)
            lines: list[tuple[float, int]] = []
            wanted, y = [], 0.0
            for _ in range(rng.randint(4, 9)):
                counts = [rng.randint(1, 2), rng.randint(1, 3)]
                high = 12.0 * max(counts)
                wanted.append(y + (high - 12.0 * max(counts)) / 2)
                for column, n in enumerate(counts):
                    lines += [(y + (high - 12.0 * n) / 2 + 12.0 * k, column) for k in range(n)]
                y += high + 7
            tops = sorted({top for top, _ in lines})
            filled = np.array([[(top, c) in lines for c in range(2)] for top in tops])
            found = centred_rows(np.array(tops), np.array(tops) + 11.0, filled, 10.0, farther=True)
            assert found is not None
            begins = [tops[0], *(t for t, first in zip(tops[1:], found[0], strict=True) if first)]
            with self.subTest(seed=seed):
                self.assertEqual(begins, wanted)

    def test_labels_between_lines_set_wide_are_of_their_row(self) -> None:
        """No line overlaps another where lines are set as wide as this."""
        for seed in range(4):
            rng = random.Random(seed)
            counts = [*[(1, 1)] * 8, (1, 2), (2, 1)]
            rows = [[sentences(rng, a), sentences(rng, b)] for a, b in (*rng.sample(counts, 10), (1, 2))]
            for row in rows:
                row[0] = [said.split()[0] for said in row[0]]
            rows = [[["Name"], ["What it does"]], *rows]
            document = centred(rows, [60, 170], line=20, room=7, heads=1).read()
            with self.subTest(seed=seed):
                (table,) = document.tables
                self.assertEqual(texts(table), [[" ".join(cell) for cell in row] for row in rows])


class NarrowColumnsTest(unittest.TestCase):
    def table(self, columns: list[list[list[str]]]) -> list[list[str]]:
        """The texts of a table of cells of lines, in a grid."""
        page, top = Page(), 520.0
        page.text(60, top, PROSE[0])
        y, x = top - 24, 60.0
        lefts = [x]
        for column in columns:
            widest = max(stringWidth(t, "Helvetica-Bold", SIZE) for cell in column for t in cell)
            lefts.append(lefts[-1] + widest + 9)
        for k in range(len(columns[0])):
            tall = LINE * max(len(column[k]) for column in columns) + 6
            for left, right, column in zip(lefts, lefts[1:], columns, strict=False):
                page.frame(left, y - tall, right, y)
                for n, said in enumerate(column[k]):
                    page.text(left + 4, y - 12 - LINE * n, said, bold=not k)
            y -= tall
        (table,) = page.read().tables
        return texts(table)

    def test_numbers_and_labels_broken_by_the_width_are_whole(self) -> None:
        columns = [
            [["childre", "n"], ["2"], ["4"], ["11"]],
            [["tide"], ["0.064", "5"], ["0.112", "3"], ["0.080", "1"]],
            [["level"], ["1356", "6"], ["2080", "4"], ["1177", "9"]],
            [["day"], ["22.", "0"], ["27.", "5"], ["37.", "0"]],
        ]
        want = [["".join(column[k]) for column in columns] for k in range(4)]
        self.assertEqual(self.table(columns), want)

    def test_numbers_below_each_other_stay_two(self) -> None:
        """Means above counts have all that broken numbers have, and "a" ends many a label."""
        columns = [
            [["Group", "a"], ["2"], ["4"], ["11"]],
            [["rate"], ["12.5", "30"], ["11.2", "31"], ["18.4", "28"]],
            [["Group", "b"], ["13.5", "3"], ["21.2", "1"], ["28.4", "8"]],
            [["day"], ["1356", "6"], ["2080", "4"], ["1177", "9"]],
        ]
        drawn = sorted(said for column in columns for cell in column for said in cell)
        read = [said for row in self.table(columns) for cell in row for said in cell.split()]
        self.assertEqual(sorted(read), drawn)


if __name__ == "__main__":
    unittest.main()
