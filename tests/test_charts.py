"""Charts are figures with their labels, and no tables; and other small things that stand among text."""

from __future__ import annotations

import unittest
from collections import Counter
from collections.abc import Sequence
from itertools import product

import wennak
from tests.support import pdf_of
from wennak.model import Figure, Paragraph

PROSE = "The harbour office counted the calls at the quay in every month and set them down."
MONTHS = ("Jan", "Feb", "Mar", "Apr", "May")


def text(x: float, y: float, said: str, size: float = 9) -> str:
    return f"BT /F1 {size} Tf {x} {y} Td ({said}) Tj ET"


def bars(
    left: float, foot: float, values: Sequence[float], scale: Sequence[str], upright: bool = True
) -> str:
    """A chart of bars with an axis, a scale and names; `upright` or lying."""
    out, side = ["0.3 g"], 160.0
    step = side / (len(scale) - 1)
    for k, value in enumerate(values):
        at = 10 + k * 30
        box = (left + at, foot, 18, value * side) if upright else (left, foot + at, value * side, 18)
        out.append("{} {} {} {} re f".format(*box))
        out.append(
            text(left + at, foot - 14, MONTHS[k]) if upright else text(left - 30, foot + at + 5, MONTHS[k])
        )
    for k, label in enumerate(scale):
        out.append(
            text(left - 30, foot + k * step - 3, label)
            if upright
            else text(left + k * step - 4, foot - 14, label)
        )
    out.append(f"{left} {foot} m {left} {foot + side} l S {left} {foot} m {left + side} {foot} l S")
    return "\n".join(out)


def paragraphs(document: wennak.Document) -> list[str]:
    return [block.text for block in document.blocks if isinstance(block, Paragraph)]


class TestCharts(unittest.TestCase):
    VALUES = (0.4, 0.9, 0.55, 0.7, 0.2)

    def test_a_chart_is_a_figure_with_all_its_labels(self) -> None:
        scales = (
            ["0", "50", "100", "150"],
            ["0", "0.5", "1", "1.5", "2"],
            ["0", "1,000", "2,000"],
            ["0%", "20%", "40%"],
        )
        for scale, upright in product(scales, (True, False)):
            with self.subTest(scale=scale, upright=upright):
                page = "\n".join(
                    [text(72, 740, PROSE), bars(150, 450, self.VALUES, scale, upright), text(72, 400, PROSE)]
                )
                document = wennak.read(pdf_of(page))
                figures = [block for block in document.blocks if isinstance(block, Figure)]
                self.assertEqual(len(figures), 1)
                self.assertEqual(Counter(figures[0].text.split()), Counter([*scale, *MONTHS]))
                self.assertEqual((document.tables, paragraphs(document)), ([], [PROSE, PROSE]))

    def test_numbers_that_are_no_scale_leave_bars_alone(self) -> None:
        page = "\n".join([text(72, 740, PROSE), bars(150, 450, self.VALUES, ["7", "2", "900", "4"], True)])
        document = wennak.read(pdf_of(page))
        self.assertFalse([block for block in document.blocks if isinstance(block, Figure)])
        self.assertIn("900", document.markdown())

    def test_a_table_by_years_with_rules_stays_a_table(self) -> None:
        rows = [
            ("Year", "Calls", "Dues"),
            *((str(2018 + k), f"{410 + 7 * k}", f"{31.5 + k}") for k in range(6)),
        ]
        drawn = []
        for r, row in enumerate(rows):
            drawn += [text(x, 700 - 20 * r, cell) for x, cell in zip((80, 180, 280), row, strict=True)]
            drawn.append(f"72 {694 - 20 * r} m 340 {694 - 20 * r} l S")
        drawn.append("150 714 m 150 574 l S")
        (table,) = wennak.read(pdf_of("\n".join(drawn))).tables
        self.assertEqual(
            [[c.text if c else "" for c in row] for row in table.grid()], [list(r) for r in rows]
        )


class TestAmongText(unittest.TestCase):
    def test_texts_side_by_side_are_read_one_after_the_other(self) -> None:
        left = ["Tern Shipping", "14 Quay Street", "Skerra Town"]
        right = ["Harbour Board", "2 Custom House Lane", "North Skerra", "Telephone 41 70 22"]
        lines = [text(72, 740, PROSE)]
        lines += [
            text(x, 700 - 11 * k, said)
            for x, texts in ((72, left), (330, right))
            for k, said in enumerate(texts)
        ]
        document = wennak.read(pdf_of("\n".join(lines)))
        self.assertEqual(document.tables, [])
        said = document.markdown()
        order = [said.index(each) for each in (*left, *right)]
        self.assertEqual(order, sorted(order))

    def test_labels_with_a_colon_are_read_across(self) -> None:
        pairs = [
            ("Vessel: Gannet", "Berth: 4"),
            ("Master: Ada Linn", "Arrived: May 2"),
            ("Agent: Tern", "Sailed: May 4"),
        ]
        lines = [
            text(x, 700 - 11 * k, said)
            for k, row in enumerate(pairs)
            for x, said in zip((72, 330), row, strict=True)
        ]
        said = wennak.read(pdf_of("\n".join(lines))).markdown()
        order = [said.index(each.split(": ")[1]) for row in pairs for each in row]
        self.assertEqual(order, sorted(order))

    def test_scripts_stay_with_their_letter_however_far_they_are_lowered(self) -> None:
        for drop in (1.5, 3.0, 5.0):
            with self.subTest(drop=drop):
                drawn = f"BT /F1 10 Tf 72 700 Td (the load c) Tj /F1 8 Tf 0 -{drop} Td 43.4 0 Td (j) Tj ET\n"
                drawn += "BT /F1 10 Tf 125 700 Td (is given below) Tj ET\n" + text(72, 680, PROSE)
                self.assertIn("the load cj is given below", wennak.read(pdf_of(drawn)).markdown())


if __name__ == "__main__":
    unittest.main()
