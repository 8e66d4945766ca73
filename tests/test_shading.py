"""What shading behind cells tells, and what the lines of a grid leave out: rows, labels, columns, signs."""

from __future__ import annotations

import unittest

import numpy as np

from tests.test_continued import document, text
from tests.test_heads import NAMES, right, table
from tests.test_parts import VESSELS
from tests.test_readings import layouts
from tests.test_spans import cell, rule, shade, texts
from wennak.tables.draft import CellDraft, TableDraft
from wennak.tables.signs import hand_over

SIDES = ((66, 196), (198, 276), (278, 356), (358, 436))


def tiles(y0: float, y1: float, sides: tuple[tuple[int, int], ...] = SIDES) -> list[str]:
    """Shading behind each cell of a row by itself."""
    return [shade(a, y0, b, y1) for a, b in sides]


def rows(top: float) -> list[str]:
    """Rows of a label and three numbers, on shading."""
    out = []
    for r, name in enumerate(NAMES):
        y = top - 18 * r
        out += tiles(y - 5, y + 11)
        out.append(text(72, y, name))
        out += [right(b - 8, y, f"{13 * r + c}.{c}") for c, (_, b) in enumerate(SIDES[1:])]
    return out


class TestShading(unittest.TestCase):
    def test_lines_on_the_shading_of_one_cell_are_of_one_row(self) -> None:
        """Labels end level at the foot of the header; rows have their texts at mid height."""
        upper, lower = ("Hold", "Deck", "Quay"), ("left", "right", "dues")
        for pitch in (10, 12):
            for wrapped in ((1, 4), (0, 2, 4)):
                with self.subTest(pitch=pitch, wrapped=wrapped):
                    out, y = tiles(628 - pitch, 644), 626.0 - pitch
                    out.append(text(72, 634 - pitch, "Vessel"))
                    for (_, b), above, below in zip(SIDES[1:], upper, lower, strict=True):
                        out += [text(b - 40, 636, above), text(b - 40, 636 - pitch, below)]
                    for r, name in enumerate(VESSELS):
                        lines = [f"{name},", "Skerra"] if r in wrapped else [name]
                        height = 13 + pitch * (len(lines) - 1)
                        out += tiles(y - height + 1.5, y)
                        out += [text(72, y - 9 - pitch * k, said) for k, said in enumerate(lines)]
                        middle = y - 9 - pitch * (len(lines) - 1) / 2
                        out += [right(b - 8, middle, f"{13 * r}.{c}") for c, (_, b) in enumerate(SIDES[1:])]
                        y -= height
                    found = table(out)
                    self.assertEqual(texts(found)[0], ["Vessel", "Hold left", "Deck right", "Quay dues"])
                    self.assertEqual((found.rows, found.header_rows), (1 + len(VESSELS), 1))

    def test_a_label_spans_the_cells_below_its_shading(self) -> None:
        """It begins with its columns, as labels do that head one alone."""
        labels = [text(72, 618, "Vessel"), *(text(b - 40, 618, s) for (_, b), s in zip(
            SIDES[1:], ("Hold", "Deck", "Quay"), strict=True))]  # fmt: skip
        for first, last in ((1, 2), (1, 3), (2, 3)):
            with self.subTest(first=first, last=last):
                wide = (SIDES[first][0], SIDES[last][1])
                others = tuple(side for k, side in enumerate(SIDES) if not first <= k <= last)
                above = tiles(631, 647, (*others, wide))
                group = [text(SIDES[first][0] + 6, 636, "Landed")]
                found = table(above, tiles(613, 629), group, labels, rows(600))
                self.assertEqual(cell(found, "Landed"), (0, first, 1, last - first + 1))
                self.assertEqual(found.rows, 2 + len(NAMES))

    def test_labels_of_groups_on_the_shading_of_their_rows_are_a_column_of_the_table(self) -> None:
        for groups in ((4, 4), (3, 5), (6, 2)):
            with self.subTest(groups=groups):
                y, out = 600.0, []
                for k, (count, label) in enumerate(zip(groups, ("North basin", "Slip"), strict=True)):
                    out.append(shade(20, y - 18 * count + 13, 436, y + 13, (0.85, 0.95)[k]))
                    out.append(text(24, y - 9 * (count - 1), label))
                    y -= 18 * count
                head = [text(150, 618, "Vessel"), *(right(b - 8, 618, str(2021 + c)) for c, (_, b) in
                                                    enumerate(SIDES[1:]))]  # fmt: skip
                lines = []
                for r, name in enumerate(VESSELS):
                    lines.append(text(150, 600 - 18 * r, name))
                    lines += [
                        right(b - 8, 600 - 18 * r, f"{13 * r}.{c}") for c, (_, b) in enumerate(SIDES[1:])
                    ]
                found = table(out, head, lines, [rule(20, 436, 613)])
                self.assertEqual(found.columns, 5)
                self.assertEqual([c.text for c in found.cells if c.column == 0 and c.text],
                                 ["North basin", "Slip"])  # fmt: skip

    def test_signs_behind_the_numbers_of_a_grid_stay_there(self) -> None:
        """Though the last number of a row has none; where the first has one before it as well, they go on."""
        (layout,) = layouts(document([text(72, 600, "$"), text(172, 600, "33.5"), text(200, 600, "$"),
                                      text(272, 600, "20.5")]))  # fmt: skip
        for first, wanted in (([1, 2], [[1, 2], [3]]), ([0, 1, 2], [[0, 1], [2, 3]])):
            cells = [CellDraft(0, 0, 1, 1, list(first)), CellDraft(0, 1, 1, 1, [3])]
            grid = TableDraft(layout.box(np.arange(4)), 1, 2, cells, "ruled")
            hand_over(layout, grid, led=True)
            self.assertEqual([c.words for c in grid.cells], wanted)

    def test_a_sign_left_of_the_shading_of_its_column_goes_to_its_number(self) -> None:
        out, sides = [], (66, 166, 266, 366)
        levels = [620 - 20 * r for r in range(len(NAMES) + 1)]
        out += [rule(66, 366, y) for y in levels]
        out += [f"0.6 w {x} {levels[-1]} m {x} {levels[0]} l S" for x in (66, 366)]
        out += [shade(a, levels[-1], b, levels[0], g) for a, b, g in (
            (66, 166, 0.95), (170, 266, 0.85), (270, 366, 0.95))]  # fmt: skip
        for r, name in enumerate(NAMES):
            out.append(text(72, 606 - 20 * r, name))
            for c in (1, 2):
                out.append(right(sides[c + 1] - 8, 606 - 20 * r, f"{31 * r + c + 200}.{c}"))
                out += [text(sides[c] - 4, 606 - 20 * r, "$")] if r in (0, 5) else []
        found = table(out)
        self.assertEqual(texts(found)[0], ["Gannet", "$ 201.1", "$ 202.2"])
        self.assertEqual(texts(found)[5][1:], ["$ 356.1", "$ 357.2"])


class TestGrids(unittest.TestCase):
    X = (66, 166, 266, 366)

    def grid(
        self, levels: list[float], head: list[str], top: float, said: list[tuple[str, ...]]
    ) -> list[str]:
        out = [rule(66, 366, y) for y in levels]
        out += [f"0.6 w {x} {levels[-1]} m {x} {levels[0]} l S" for x in self.X]
        out += head
        for r, row in enumerate(said):
            out += [text(x + 6, top - 20 * r, s) for x, s in zip(self.X, row, strict=False) if s]
        return out

    def test_labels_as_far_above_a_row_as_rows_are_apart_are_a_row(self) -> None:
        """No line stands between them; the first row has a label alone, or numbers behind the labels too."""
        rest = [(name, f"{4 * r + 3}", f"{r}.5 m") for r, name in enumerate(NAMES)]
        for first in (("Outer quay", "", ""), ("Dunlin", "moored", "")):
            for stub in ("", "Vessel 2"):
                with self.subTest(first=first, stub=stub):
                    labels = (stub, "Crew", "Draught")
                    head = [text(x + 6, 626, s) for x, s in zip(self.X, labels, strict=False) if s]
                    levels = [640, *(600 - 20 * r for r in range(len(NAMES) + 1))]
                    found = table(self.grid(levels, head, 606, [first, *rest]))
                    wanted = [[*labels], [*first], *([*row] for row in rest)]
                    self.assertEqual(texts(found), wanted)

    def test_lines_of_one_label_are_no_rows_of_a_grid(self) -> None:
        rest = [(name, f"{4 * r + 3}", f"{r}.5 m") for r, name in enumerate(NAMES)]
        head = [
            text(72, 632, "Vessel"),
            text(172, 632, "Crew"),
            text(272, 632, "Draught"),
            text(272, 620, "at stern"),
        ]
        levels = [645, *(616 - 20 * r for r in range(len(NAMES) + 1))]
        found = table(self.grid(levels, head, 602, rest))
        self.assertEqual(texts(found)[0], ["Vessel", "Crew", "Draught at stern"])

    def test_labels_that_wrap_are_one_row_of_a_grid_as_tight_as_their_lines(self) -> None:
        rest = [(name, f"{4 * r + 3}", f"{r}.5 m") for r, name in enumerate(NAMES)]
        head = [text(x + 6, 632 - 12 * k, s) for k, row in enumerate(
            (("Name", "Crew", "Draught"), ("of vessel", "on board", "at stern"))
        ) for x, s in zip(self.X, row, strict=False)]  # fmt: skip
        levels = [645, *(616 - 13 * r for r in range(len(NAMES) + 1))]
        out = [rule(66, 366, y) for y in levels] + head
        out += [f"0.6 w {x} {levels[-1]} m {x} {levels[0]} l S" for x in self.X]
        for r, row in enumerate(rest):
            out += [text(x + 6, 606 - 13 * r, s) for x, s in zip(self.X, row, strict=False)]
        self.assertEqual(texts(table(out))[0], ["Name of vessel", "Crew on board", "Draught at stern"])

    def test_a_header_ends_in_the_cells_that_span_rows_as_well(self) -> None:
        """The line below it is missing, and the first group spans rows."""
        out = [rule(66, 366, y) for y in (640, 560, 500)] + [rule(166, 366, y) for y in (580, 540, 520)]
        out += [f"0.6 w {x} 500 m {x} 640 l S" for x in self.X]
        out += [rule(166, 366, 600), rule(166, 366, 620)]
        out = [each for each in out if each != rule(166, 366, 600)]
        bold = [(72, 616, "Berth"), (172, 626, "Seen"), (172, 606, "Crew"), (272, 606, "Beam")]
        out += [text(x, y, s, font="F2") for x, y, s in bold]
        out += [text(72, 576, "North basin"), text(72, 526, "Slip")]
        for r in range(5):
            out += [text(172, 586 - 20 * r, f"{3 * r + 1}"), text(272, 586 - 20 * r, f"{r}.5")]
        found = table(out)
        self.assertIn("Berth", [c.text for c in found.cells])
        self.assertEqual(cell(found, "North basin")[2], 2)
        self.assertEqual([c.text for c in found.cells if c.column == 2 and c.row > 1],
                         ["0.5", "1.5", "2.5", "3.5", "4.5"])  # fmt: skip

    def test_texts_in_the_lines_of_a_group_are_rows_and_lines_that_go_on_are_none(self) -> None:
        names = (
            ("Heron Reach", "Old mole", "Skerra light"),
            ("Stone pier", "Fish quay"),
            ("Ferry berth", "Slip"),
        )
        kept = ("Ropes", "Lamps", "Nets")
        for capitals in (True, False):
            out, y = [rule(66, 366, 620)], 620.0
            out += [text(x + 6, 606, s) for x, s in zip(self.X, ("Part", "Place", "Kept"), strict=False)]
            out.append(rule(66, 366, 600))
            y = 600.0
            for label, group in zip(("North", "South", "Outer"), names, strict=True):
                out.append(text(72, y - 12, label))
                for k, name in enumerate(group):
                    said = (name, kept[k]) if capitals or not k else (name.lower(), kept[k].lower())
                    out += [text(x + 6, y - 12 - 13 * k, s) for x, s in zip(self.X[1:], said, strict=False)]
                y -= 13 * len(group) + 6
                out.append(rule(66, 366, y))
            out += [f"0.6 w {x} {y} m {x} 620 l S" for x in self.X]
            with self.subTest(capitals=capitals):
                found = table(out)
                self.assertEqual(found.rows, 1 + (sum(map(len, names)) if capitals else len(names)))


if __name__ == "__main__":
    unittest.main()
