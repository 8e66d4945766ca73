"""Charts are figures with their labels, and no tables; and other small things that stand among text."""

from __future__ import annotations

import unittest
from collections import Counter
from collections.abc import Sequence
from itertools import product

import wennak
from tests.support import pdf_of
from wennak.model import Figure, Heading, Paragraph

PROSE = "The harbour office counted the calls at the quay in every month and set them down."
FONTS: dict[str, dict[str, object]] = {
    name: {"Subtype": "/Type1", "BaseFont": f"/{face}", "Encoding": "/WinAnsiEncoding"}
    for name, face in (("F1", "Helvetica"), ("F2", "Helvetica-Oblique"))
}
MONTHS = ("Jan", "Feb", "Mar", "Apr", "May")


def text(x: float, y: float, said: str, size: float = 9, font: str = "F1") -> str:
    return f"BT /{font} {size} Tf {x} {y} Td ({said}) Tj ET"


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

    def test_three_values_that_go_with_their_places_by_chance_are_no_scale(self) -> None:
        """Columns of a table are shaded, and the values of the one before them rise nearly evenly."""
        rows = [
            ("Tern", "23", "66.1", "north"),
            ("Skua", "43", "67.9", "west"),
            ("Eider", "62", "44.1", "south"),
        ]
        drawn = ["0.8 g"]
        for r in range(3):
            drawn += [f"{left} {692 - 36 * r} 120 34 re f" for left in (200, 330)]
        drawn.append("0 g")
        for r, row in enumerate(rows):
            drawn += [text(x, 704 - 36 * r, cell) for x, cell in zip((80, 180, 290, 400), row, strict=True)]
        (table,) = wennak.read(pdf_of("\n".join(drawn))).tables
        self.assertEqual(
            [[c.text if c else "" for c in row] for row in table.grid()], [[*row] for row in rows]
        )

    def test_a_label_below_the_axis_does_not_part_a_chart_from_its_caption(self) -> None:
        content = bars(150, 420, self.VALUES, ["0", "50", "100", "150"])
        content += "\n" + text(210, 388, "Month") + "\n" + text(130, 366, "Fig. 2: Calls at the quay")
        content += "\n" + text(72, 700, PROSE) + "\n" + text(72, 320, PROSE)
        document = wennak.read(pdf_of(content))
        (figure,) = (block for block in document.blocks if isinstance(block, Figure))
        self.assertEqual(figure.caption, "Fig. 2: Calls at the quay")
        self.assertIn("Month", figure.text)
        self.assertEqual(paragraphs(document), [PROSE, PROSE])


class TestCaptions(unittest.TestCase):
    """Captions of tables under other names, side by side, and away from their tables."""

    ROWS = (
        ("Berth", "Calls", "Tons"),
        ("North quay", "41", "1204"),
        ("Old pier", "17", "380"),
        ("Slip", "9", "55"),
    )

    def table(self, x: float, y: float) -> list[str]:
        """Rows between rules, in 9 points."""
        out = [f"{x} {y + 12} m {x + 180} {y + 12} l S {x} {y - 4} m {x + 180} {y - 4} l S"]
        for k, row in enumerate(self.ROWS):
            out += [text(x + 70 * c, y - 14 * k, said) for c, said in enumerate(row)]
        return [*out, f"{x} {y - 47} m {x + 180} {y - 47} l S"]

    def cells(self, x: float, y: float, rows: Sequence[tuple[str, ...]] = ROWS) -> list[str]:
        """Rows without rules, 60 points a column."""
        return [
            text(x + 60 * c, y - 14 * k, said) for k, row in enumerate(rows) for c, said in enumerate(row)
        ]

    def captions(self, content: list[str]) -> list[str]:
        drawn = "\n".join([text(72, 740, PROSE), *content, text(72, 420, PROSE)])
        document = wennak.read(pdf_of(drawn, FONTS))
        self.assertEqual(paragraphs(document), [PROSE, PROSE])
        return [table.caption for table in document.tables]

    def test_any_word_with_a_number_names_the_table_it_stands_beside(self) -> None:
        for said in ("Schedule 3: Calls by berth", "List 1. Calls by berth", "Overview IV - Calls"):
            for y in (636, 546):
                with self.subTest(said=said, y=y):
                    self.assertEqual(self.captions([text(72, y, said), *self.table(72, 610)]), [said])

    def test_the_last_line_of_a_name_is_no_row(self) -> None:
        lines = (
            "Table 3: Calls in the spring at all berths of the outer quay, as they are compared with",
            "those of the autumn.",
        )
        for left, room in ((0, 16), (60, 16), (60, 13)):
            with self.subTest(left=left, room=room):
                names = [text(72, 622 + room, lines[0]), text(72 + left, 610 + room, lines[1])]
                content = [*names, *self.cells(72, 610, [*self.ROWS, *self.ROWS[1:]])]
                self.assertEqual(self.captions(content), [" ".join(lines)])
        # A line with room for more ends a name.
        name = "Table 3: Calls by berth"
        named = [text(72, 626, name), text(72, 610, "Moorings")]
        self.assertEqual(self.captions([*named, *self.cells(72, 594, self.ROWS[1:] * 2)]), [name])

    def test_parts_of_the_text_name_no_table(self) -> None:
        for said in ("Section 3: Calls by berth", "Step 1. Count the calls"):
            content = [text(72, 740, PROSE), text(72, 640, said), *self.table(72, 600)]
            document = wennak.read(pdf_of("\n".join(content)))
            self.assertEqual([table.caption for table in document.tables], [""])
            self.assertIn(said, document.markdown())

    def test_rows_beside_each_other_that_do_not_stand_level_are_two_tables(self) -> None:
        for low in range(2, 9):
            with self.subTest(low=low):
                content = [text(72, 740, PROSE), *self.table(72, 610), *self.table(340, 610 - low)]
                document = wennak.read(pdf_of("\n".join(content)))
                for table in document.tables:
                    read = [tuple(c.text if c else "" for c in row) for row in table.grid()]
                    self.assertEqual(read, list(self.ROWS))
                self.assertEqual(len(document.tables), 2)

    def test_rules_that_end_between_level_rows_part_two_tables(self) -> None:
        halves = [*self.table(72, 610), *self.table(270, 610)]
        bridge = [f"252 {y} m 270 {y} l S" for y in (622, 606, 563)]
        whole = [(*row, *row) for row in self.ROWS]
        for content, wanted in ((halves, [list(self.ROWS)] * 2), ([*halves, *bridge], [whole])):
            with self.subTest(tables=len(wanted)):
                document = wennak.read(pdf_of("\n".join([text(72, 740, PROSE), *content])))
                found = [[tuple(c.text for c in row if c) for row in t.grid()] for t in document.tables]
                self.assertEqual(found, wanted)

    def test_shading_cell_by_cell_parts_tables_as_bands_do(self) -> None:
        # Bands of two level tables, each drawn as three boxes that touch.
        bands = [
            f"0.85 g {x + 60 * c} {610 - 14 * k - 4} 60 14 re f 0 g"
            for x in (72, 320)
            for k in (0, 2)
            for c in range(3)
        ]
        content = [*bands, *self.cells(72, 610), *self.cells(320, 610)]
        document = wennak.read(pdf_of("\n".join([text(72, 740, PROSE), *content])))
        found = [[tuple(c.text for c in row if c) for row in t.grid()] for t in document.tables]
        self.assertEqual(found, [list(self.ROWS)] * 2)

    def test_tables_of_which_only_the_heads_are_shaded_are_found_side_by_side(self) -> None:
        body = [*self.ROWS[1:], *((f"Mole {k}", str(3 * k), str(101 * k)) for k in range(2, 9))]
        heads = (("Berth", "Calls", "Tons"), ("Quay", "Rent", "Days"), ("Ship", "Crew", "Fee"))
        tops = ((56, 612), (230, 596), (404, 612))
        content = [f"0.9 g {x - 4} {y - 4} 160 14 re f 0 g" for x, y in tops]
        for head, (x, y) in zip(heads, tops, strict=True):
            content += self.cells(x, y, [head, *body])
        document = wennak.read(pdf_of("\n".join([text(72, 740, PROSE), *content])))
        found = [[tuple(c.text for c in row if c) for row in t.grid()] for t in document.tables]
        self.assertEqual(found, [[head, *body] for head in heads])

    def test_rules_that_end_at_every_column_part_none(self) -> None:
        rows = [
            text(72 + 80 * c, 610 - 14 * k, said)
            for k, row in enumerate(self.ROWS)
            for c, said in enumerate((*row, *row[1:]))
        ]
        rules = [f"{70 + 80 * c} {y} m {136 + 80 * c} {y} l S" for y in (622, 606, 563) for c in range(5)]
        document = wennak.read(pdf_of("\n".join([text(72, 740, PROSE), *rows, *rules])))
        self.assertEqual([(t.rows, t.columns) for t in document.tables], [(4, 5)])

    def test_names_between_tables_belong_to_those_above_or_to_those_below(self) -> None:
        named = [
            f"Table {k}: Calls in {season}" for k, season in enumerate(("spring", "summer", "autumn"), 1)
        ]
        for shift in (23, -59):
            with self.subTest(above=shift > 0):
                content = [
                    line
                    for k, said in enumerate(named)
                    for line in (text(72, 690 - 86 * k + shift, said), *self.table(72, 690 - 86 * k))
                ]
                self.assertEqual(self.captions(content), named)

    def test_a_long_row_of_digits_above_a_table_is_read_at_once(self) -> None:
        # Patterns that try every way to part the digits would not come to an end.
        lines = [text(72, 740, PROSE), text(72, 628, "1" * 60, size=6), *self.table(72, 610)]
        (table,) = wennak.read(pdf_of("\n".join(lines))).tables
        self.assertEqual((table.rows, table.columns), (4, 3))

    def test_titles_side_by_side_stand_over_their_own_tables(self) -> None:
        titles = [text(72, 634, "Calls in spring", font="F2"), text(340, 628, "Calls in autumn", font="F2")]
        found = self.captions([*titles, *self.table(72, 610), *self.table(340, 604)])
        self.assertEqual(found, ["Calls in spring", "Calls in autumn"])


class TestAmongText(unittest.TestCase):
    def test_an_address_is_one_paragraph_where_paragraphs_have_room_between_them(self) -> None:
        address = ["Harbour Board", "Custom House Lane 2", "North Skerra", "Telephone 41 70 22"]
        labelled = ["Place: Oskay", "Copies: 3"]
        for apart, wanted in ((22, ["\n".join(address), *labelled]), (11, [*address, *labelled])):
            with self.subTest(apart=apart):
                lines, y = [], 740.0
                for said in [
                    [PROSE, "They went on."],
                    ["Then they rested."],
                    ["They slept."],
                    address,
                    labelled,
                    [PROSE],
                ]:
                    for k, part in enumerate(said):
                        lines.append(text(72, y, part))
                        y -= 11 if k < len(said) - 1 else apart
                found = paragraphs(wennak.read(pdf_of("\n".join(lines))))
                self.assertEqual([p for p in found if p in wanted], wanted)

    def beside(self, left: Sequence[str], right: Sequence[str]) -> wennak.Document:
        """A page with two short texts side by side between prose."""
        sides = [
            text(x, 700 - 11 * k, said)
            for x, texts in ((72, left), (330, right))
            for k, said in enumerate(texts)
        ]
        document = wennak.read(pdf_of("\n".join([text(72, 740, PROSE), *sides, text(72, 640, PROSE)])))
        self.assertEqual(document.tables, [])
        return document

    def test_texts_side_by_side_are_read_one_after_the_other(self) -> None:
        left = ["Tern Shipping", "14 Quay Street", "Skerra Town"]
        right = ["Harbour Board", "2 Custom House Lane", "North Skerra", "Telephone 41 70 22"]
        said = self.beside(left, right).markdown()
        order = [said.index(each) for each in (*left, *right)]
        self.assertEqual(order, sorted(order))

    def test_addresses_keep_their_lines_in_every_output(self) -> None:
        left = ["To:", "J. Tern & Sons", "# 14 *Quay* Street"]
        right = ["Harbour Board", "2 Custom House Lane", "North Skerra"]
        document = self.beside(left, right)
        self.assertEqual(paragraphs(document), [PROSE, "\n".join(left), "\n".join(right), PROSE])
        shown = document.markdown()
        self.assertIn("To:\\\nJ. Tern & Sons\\\n\\# 14 \\*Quay\\* Street\n", shown)
        self.assertIn("<br>\n2 Custom House Lane", document.html())

    def test_notes_below_a_table_are_texts_of_their_own(self) -> None:
        notes = ["a Estimate of the office.", "b Measured twice.", "c By the old count."]
        lines = [text(72, y, said) for y, said in ((740, PROSE), (729, "They went on."), (707, PROSE))]
        lines += [text(72, 680 - 10 * k, said, size=8) for k, said in enumerate(notes)]
        found = paragraphs(wennak.read(pdf_of("\n".join([*lines, text(72, 620, PROSE)]))))
        self.assertEqual([p for p in found if p in notes], notes)

    def test_the_number_of_an_equation_is_not_the_first_word_of_what_follows(self) -> None:
        equation = [text(120, 718, "d = v t"), text(505, 718, "\\(3\\)")]
        lines = [
            text(72, 740, PROSE),
            *equation,
            text(72, 700, "For the sake of order they went on counting."),
        ]
        document = wennak.read(pdf_of("\n".join(lines)))
        self.assertIn("For the sake of order they went on counting.", paragraphs(document))
        self.assertIn("d = v t (3)\n", document.markdown())

    def test_the_label_of_a_chapter_is_no_heading_and_its_title_the_highest(self) -> None:
        for label in (["CHAPTER", "FIVE"], ["Chapter 5"], ["Appendix B"]):
            with self.subTest(label=label):
                lines = [text(420, 760 - 22 * k, said, size=12) for k, said in enumerate(label)]
                heads = ("RULES OF THE QUAY", "5.1 Before arrival", "5.2 At the berth")
                for k, said in enumerate(heads):
                    lines += [text(72, 690 - 80 * k, said, size=15), text(72, 660 - 80 * k, PROSE)]
                document = wennak.read(pdf_of("\n".join(lines)))
                found = [(b.text, b.level) for b in document.blocks if isinstance(b, Heading)]
                self.assertEqual(found, list(zip(heads, (1, 2, 2), strict=True)))
                self.assertEqual(paragraphs(document)[0], " ".join(label))

    def test_a_part_before_a_numbered_chapter_stays_a_heading(self) -> None:
        heads = ("Part I", "1 Rules of the quay")
        lines = [text(72, 760 - 40 * k, said, size=18 - 4 * k) for k, said in enumerate(heads)]
        document = wennak.read(pdf_of("\n".join([*lines, text(72, 690, PROSE)])))
        self.assertEqual([b.text for b in document.blocks if isinstance(b, Heading)], list(heads))

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
