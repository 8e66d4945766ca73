"""Cells over several rows and columns, told by rules that break off, by shading and by mid height; signs and
notes that belong to a table.
"""

from __future__ import annotations

import unittest
from collections.abc import Sequence

import numpy as np

import wennak
from tests.support import covered, pdf_of
from tests.test_continued import FONTS, PROSE, text
from wennak.ink import PdfFile
from wennak.layout import lay_out
from wennak.tables.draft import CellDraft, TableDraft
from wennak.tables.spans import settle_labels_beside_rules

GROUPS = (
    ("North basin", ("Gannet", "Tern")), ("Slip", ("Eider", "Fulmar", "Skua")),
    ("Long quay", ("Petrel", "Dunlin")), ("South basin", ("Plover", "Knot", "Ruff", "Smew")),
)  # fmt: skip
VESSELS = [vessel for _, vessels in GROUPS for vessel in vessels]
STEP = 18


def rule(x0: float, x1: float, y: float) -> str:
    return f"0.6 w {x0} {y} m {x1} {y} l S"


def shade(x0: float, y0: float, x1: float, y1: float, grey: float = 0.85) -> str:
    return f"{grey} g {x0} {y0} {x1 - x0} {y1 - y0} re f 0 g"


def tables(*pieces: Sequence[str]) -> list[wennak.Table]:
    said = "\n".join(p for piece in ([text(72, 700, PROSE)], *pieces) for p in piece)
    return wennak.read(pdf_of(said, FONTS)).tables


def cell(table: wennak.Table, said: str) -> tuple[int, int, int, int]:
    """Row, column, and extents of the cell with a text."""
    found = next(c for c in table.cells if c.text == said)
    return found.row, found.column, found.rowspan, found.colspan


def texts(table: wennak.Table) -> list[list[str]]:
    return [["" if c is None else c.text for c in row] for row in table.grid()]


def numbers(x: float, top: float, rows: int, columns: int = 2) -> list[str]:
    return [
        text(x + 70 * c, top - STEP * r, f"{11 + 7 * r + c}.{c + 1}")
        for r in range(rows)
        for c in range(columns)
    ]


def grouped(ruled: bool) -> list[str]:
    """Vessels by berth, each berth at mid height of its rows, with rules between berths, and with rules
    between all rows that break off beside a berth if so told.
    """
    top, heads = 600, ("Berth", "Vessel", "Length", "Beam")
    out = [text(x, top + STEP, s, font="F2") for x, s in zip((72, 170, 270, 340), heads, strict=True)]
    out += [rule(72, 380, top + 13), rule(72, 380, top - STEP * len(VESSELS) + 13)]
    out += numbers(270, top, len(VESSELS))
    row = 0
    for berth, vessels in GROUPS:
        out.append(text(72, top - STEP * (row + (len(vessels) - 1) / 2), berth))
        for k, vessel in enumerate(vessels):
            out.append(text(170, top - STEP * row, vessel))
            row += 1
            if row < len(VESSELS) and (ruled or k + 1 == len(vessels)):
                out.append(rule(72 if k + 1 == len(vessels) else 170, 380, top - STEP * row + 13))
    return out


class TestSpans(unittest.TestCase):
    def test_labels_at_mid_height_span_their_rows_and_make_none(self) -> None:
        for ruled in (True, False):
            with self.subTest(ruled=ruled):
                (table,) = tables(grouped(ruled))
                self.assertEqual((table.rows, table.columns), (1 + len(VESSELS), 4))
                row = 1
                for berth, vessels in GROUPS:
                    self.assertEqual(cell(table, berth), (row, 0, len(vessels), 1))
                    row += len(vessels)
                places = covered(table)
                self.assertEqual(len(places), len(set(places)))

    def test_groups_span_what_rules_after_several_of_them_leave_to_them(self) -> None:
        top, row = 600, 0
        heads = ((72, "Berth"), (170, "Vessel"), (270, "Length"), (340, "Beam"))
        pieces = [text(x, top + STEP, s, font="F2") for x, s in heads]
        lines, known = [rule(72, 380, top + 13)], {}
        for k, (berth, vessels) in enumerate(GROUPS):
            pieces.append(text(72, top - STEP * (row + (len(vessels) - 1) / 2), berth))
            known[berth] = (1 + row, 0, len(vessels), 1)
            pieces += [text(170, top - STEP * (row + r), vessel) for r, vessel in enumerate(vessels)]
            row += len(vessels)
            if k % 2:
                lines.append(rule(72, 380, top - STEP * row + 13))
        pieces += [*numbers(270, top, row + 2), text(170, top - STEP * row, "At anchor")]
        pieces.append(text(72, top - STEP * (row + 1), "All berths"))
        (table,) = tables(pieces, lines)
        self.assertEqual({berth: cell(table, berth) for berth in known}, known)
        self.assertEqual(cell(table, "All berths"), (len(VESSELS) + 2, 0, 1, 1))

    def test_where_a_faint_line_breaks_off_nothing_goes_on_beside_a_label_of_a_group(self) -> None:
        at = (72, 220, 300, 380)
        drawn = [text(x, 640, said) for x, said in zip(at, ("Quay", "Grain", "Coal", "Fish"), strict=True)]
        rows = [("Inner quay", "17.1", "..", "20.4"), ("Outer quay", "..", "31.2", "n.a."), ("Moorings",),
                ("North mole", "11.5", "40.2", ".."), ("South mole", "12.5", "41.6", "9.9")]  # fmt: skip
        for k, row in enumerate(rows):
            drawn += [text(x, 620 - 20 * k, said) for x, said in zip(at, row, strict=False)]
        drawn.append(rule(72, 440, 634))
        # Above the label a line is seen below one column alone.
        drawn += [rule(212, 290, 594), rule(72, 440, 574)]
        (found,) = tables(drawn)
        self.assertEqual(found.rows, 6)
        self.assertEqual([c.text for c in found.cells if c.rowspan > 1], [])

    def test_labels_set_to_the_side_of_a_column_are_over_it_alone(self) -> None:
        top, at = 600, (72, 170, 250, 330)
        for shift, wanted in ((0, (0, 1, 1, 1)), (34, (0, 1, 1, 2))):
            with self.subTest(shift=shift):
                pieces = [text(170 + shift, top + 2 * STEP, "Spring", font="F2")]
                pieces += [text(330, top + 2 * STEP, "Autumn", font="F2"), rule(72, 390, top + 12)]
                labels = ("Vessel", "State", "Quay", "Remark")
                pieces += [text(x, top + STEP, s, font="F2") for x, s in zip(at, labels, strict=True)]
                for r, vessel in enumerate(VESSELS[:7]):
                    row = (vessel, "laden", f"Quay {r}", "as agreed")
                    pieces += [text(x, top - STEP * r, s) for x, s in zip(at, row, strict=True)]
                (table,) = tables(pieces)
                self.assertEqual(cell(table, "Spring"), wanted)

    def test_every_row_has_a_cell_of_its_own(self) -> None:
        for ruled in (True, False):
            (table,) = tables(grouped(ruled))
            held = {c.row for c in table.cells if c.text and c.rowspan == 1}
            self.assertEqual(held, set(range(table.rows)))

    def test_labels_at_mid_height_of_a_header_span_both_rows(self) -> None:
        top = 600
        labels = [text(72, top + 29, "Vessel", font="F2"), text(150, top + 29, "State", font="F2")]
        labels += [text(410, top + 29, "Unit", font="F2"), text(277, top + 38, "Value", font="F2")]
        labels += [text(x, top + 20, s, font="F2") for x, s in ((220, "Min"), (282, "Typ"), (346, "Max"))]
        body = [
            text(x, top - STEP * r, s)
            for r, vessel in enumerate(VESSELS[:6])
            for x, s in (
                (72, vessel),
                (150, "laden"),
                (220, f"{r + 2}"),
                (282, f"{r + 5}"),
                (346, f"{r + 9}"),
                (410, "kn"),
            )
        ]
        (table,) = tables(labels, [rule(72, 440, top + 14), rule(72, 440, top + 50)], body)
        self.assertEqual(cell(table, "Value"), (0, 2, 1, 3))
        for column, label in ((0, "Vessel"), (1, "State"), (5, "Unit")):
            self.assertEqual(cell(table, label), (0, column, 2, 1))
        self.assertEqual(cell(table, "Min"), (1, 2, 1, 1))

    def test_a_label_of_a_group_right_above_one_of_its_columns_is_no_part_of_that(self) -> None:
        """Lines so near to each other may be one label, where nothing tells them apart."""
        top, at = 600, (72, 200, 262, 322, 400)
        labels = ("Vessel", "Min", "Typical", "Max", "Unit")
        body = [
            text(x, top - STEP * r, s)
            for r, vessel in enumerate(VESSELS[:6])
            for x, s in zip(at, (vessel, f"{r + 2}", f"{r + 5}", f"{r + 9}", "kn"), strict=True)
        ]
        for raised, over, apart in ((5.5, 266, True), (0, 266, False), (0, 284, True)):
            with self.subTest(raised=raised, over=over):
                heads = [
                    text(x, top + 20 + (raised if k in (0, 4) else 0), s, font="F2")
                    for k, (x, s) in enumerate(zip(at, labels, strict=True))
                ]
                heads += [text(over, top + 31, "Value", font="F2"), rule(72, 430, top + 15)]
                (table,) = tables(heads, body, [rule(72, 430, top + 42)])
                if apart:
                    self.assertEqual(cell(table, "Value")[0], 0)
                    self.assertEqual(cell(table, "Typical"), (1, 2, 1, 1))
                else:
                    self.assertIn("Value Typical", texts(table)[0])

    def test_values_at_mid_height_of_labels_of_two_lines_make_no_rows(self) -> None:
        top, pieces = 600, []
        pieces += [text(x, 622, s, font="F2") for x, s in ((72, "Vessel"), (190, "Length"), (270, "Crew"))]
        y = top
        for r, vessel in enumerate(VESSELS[:7]):
            wrapped = r % 3 == 1
            pieces.append(text(72, y, f"{vessel}, once of"[: None if wrapped else len(vessel)]))
            if wrapped:
                pieces.append(text(72, y - 12, "Hollinquay"))
            at = y - 6 if wrapped else y
            pieces += [text(190, at, f"{r + 21}.{r}"), text(270, at, f"{r + 4}")]
            y -= 32 if wrapped else 20
        (table,) = tables(pieces, [rule(72, 300, 616)])
        self.assertEqual((table.rows, table.columns), (8, 3))
        self.assertEqual(texts(table)[2], [f"{VESSELS[1]}, once of Hollinquay", "22.1", "5"])

    def test_several_labels_of_two_lines_are_one_row_beside_others_at_mid_height(self) -> None:
        at = (72, 190, 250, 310, 370)
        pieces = [text(x, 634, s, font="F2") for x, s in zip(at[1:], ("Q1", "Q2", "Q3", "Q4"), strict=True)]
        pieces += [text(x, 622, "2025", font="F2") for x in at[1:]]
        pieces += [text(72, 628, "Vessel", font="F2"), rule(72, 400, 616)]
        for r, vessel in enumerate(VESSELS[:7]):
            row = (vessel, *(f"{x // 10 + 3 * r}.5" for x in at[1:]))
            pieces += [text(x, 600 - STEP * r, s) for x, s in zip(at, row, strict=True)]
        (table,) = tables(pieces)
        self.assertEqual(texts(table)[0], ["Vessel", "Q1 2025", "Q2 2025", "Q3 2025", "Q4 2025"])

    def test_labels_over_groups_share_out_the_columns_of_a_table_set_wide(self) -> None:
        top, step = 600, 27
        for groups in ((("Spring", 1, 2), ("Autumn", 3, 4)), (("Landings", 1, 4),)):
            with self.subTest(groups=len(groups)):
                at = (72, 200, 270, 340, 410)
                pieces = [
                    text(x, top + step, s, font="F2")
                    for x, s in zip(at, ("Port", "Cod", "Ling", "Hake", "Crab"), strict=True)
                ]
                for said, first, last in groups:
                    middle = (at[first] + at[last] + 20) / 2
                    pieces.append(text(middle - 2.9 * len(said), top + 2 * step, said, font="F2"))
                for r, vessel in enumerate(VESSELS[:7]):
                    pieces += [text(72, top - step * r, vessel)]
                    pieces += [text(x, top - step * r, f"{23 + 3 * r + x // 70}") for x in at[1:]]
                (table,) = tables(pieces)
                for said, first, last in groups:
                    self.assertEqual(cell(table, said), (0, first, 1, last - first + 1))
                self.assertEqual((table.rows, table.header_rows), (9, 2))

    def test_shading_of_its_own_tells_how_many_rows_a_cell_spans(self) -> None:
        top, at = 600, (72, 170, 250, 330)
        boxes = [shade(72, top - 4, 166, top + 32)]
        boxes += [shade(x, top + 16, x + 76, top + 32) for x in (170,)]
        boxes += [shade(x, top - 4, x + 76, top + 12) for x in at[1:]]
        pieces = [
            text(76, top + 2, "Port"),
            text(174, top + 20, "Spring"),
            shade(250, top + 16, 406, top + 32),
        ]
        pieces += [text(290, top + 20, "Autumn")]
        pieces += [text(x + 4, top, s) for x, s in zip(at[1:], ("Cod", "Ling", "Hake"), strict=True)]
        for r, vessel in enumerate(VESSELS[:5]):
            y = top - 20 * (r + 1)
            boxes += [shade(x, y - 4, x + (94 if x == 72 else 76), y + 12) for x in at]
            pieces += [text(76, y, vessel), *(text(x + 4, y, f"{x // 10 + 3 * r}.5") for x in at[1:])]
        (table,) = tables(boxes, pieces)
        self.assertEqual(cell(table, "Port"), (0, 0, 2, 1))

    def test_the_first_group_below_labels_over_the_last_columns_keeps_its_rows(self) -> None:
        top = 600
        pieces = [text(x, top + STEP, s, font="F2") for x, s in ((270, "Length"), (340, "Beam"))]
        pieces += [shade(72, top + 13, 380, top + 30), rule(72, 380, top + 13)]
        pieces += numbers(270, top, len(VESSELS))
        row = 0
        for berth, vessels in GROUPS:
            pieces.append(text(72, top - STEP * row, berth))
            for k, vessel in enumerate(vessels):
                pieces.append(text(170, top - STEP * row, vessel))
                row += 1
                pieces.append(rule(72 if k + 1 == len(vessels) else 170, 380, top - STEP * row + 13))
        (table,) = tables(pieces[2:3], pieces[:2], pieces[3:])
        self.assertEqual(cell(table, "North basin"), (1, 0, 2, 1))
        self.assertEqual(cell(table, "Slip"), (3, 0, 3, 1))

    def test_shading_parts_a_label_over_numbers_from_the_first_group_below_it(self) -> None:
        top = 600
        grounds, pieces = [], [text(306, top + 12, "2025")]
        lines = [rule(72, 340, top + 24), f"0.6 w 280 {top + 24} m 280 {top - STEP * 10 - 4} l S"]
        row = 0
        for berth, vessels in GROUPS[:3]:
            grounds.append(shade(72, top - 4 - STEP * row, 340, top - 4 - STEP * (row - 1) - 8))
            pieces.append(text(76, top - STEP * row, berth, font="F2"))
            row += 1
            for vessel in vessels:
                pieces += [text(88, top - STEP * row, vessel), text(306, top - STEP * row, f"{31 + 7 * row}")]
                lines.append(rule(72, 340, top - STEP * row + 13))
                row += 1
            lines.append(rule(72, 340, top - STEP * row + 13))
        (table,) = tables(grounds, pieces, lines)
        self.assertEqual(texts(table)[:2], [["", "2025"], ["North basin", ""]])

    def test_lines_of_one_label_above_the_others_belong_to_it(self) -> None:
        top, at = 600, (72, 170, 240, 320, 400)
        labels = ("Vessel", "Crew", "from", "Home port", "Draught")
        pieces = [text(x, top + STEP, s, font="F2") for x, s in zip(at, labels, strict=True)]
        pieces += [text(240, top + STEP + 11, "Valid", font="F2"), rule(72, 440, top + 12)]
        for r, vessel in enumerate(VESSELS[:7]):
            row = (vessel, f"{r + 4}", f"0{r + 1}.03.2021", f"Port {'ABCDEFG'[r]}", f"{r + 2}.5")
            pieces += [text(x, top - STEP * r, s) for x, s in zip(at, row, strict=True)]
        (table,) = tables(pieces)
        self.assertEqual(texts(table)[0], ["Vessel", "Crew", "Valid from", "Home port", "Draught"])

    def test_labels_over_the_middle_of_wide_columns_stand_over_these(self) -> None:
        top = 600
        pieces = [text(120, top + STEP, "Division", font="F2"), text(290, top + STEP, "Vessel", font="F2")]
        pieces += [text(430, top + STEP, "2025", font="F2"), rule(72, 460, top + 12)]
        row = 0
        for berth, vessels in GROUPS:
            for k, vessel in enumerate(vessels):
                said = [(72, berth if k == 0 else ""), (210, vessel), (436, f"{row}.{k}")]
                pieces += [text(x, top - STEP * row, s) for x, s in said if s]
                row += 1
        (table,) = tables(pieces)
        self.assertEqual((table.rows, table.columns), (1 + len(VESSELS), 3))
        self.assertEqual(texts(table)[0], ["Division", "Vessel", "2025"])

    def test_a_label_that_begins_with_its_column_is_not_over_all(self) -> None:
        pieces = [text(x, 618, s, font="F2") for x, s in ((72, "Berth"), (190, "Vessel"), (290, "Stay"))]
        for r, vessel in enumerate(VESSELS[:6]):
            pieces.append(text(190, 600 - STEP * r, vessel))
            if r != 3:
                pieces += [text(72, 600 - STEP * r, f"Quay {r}"), text(290, 600 - STEP * r, f"{r + 4} h")]
        (table,) = tables(pieces, [rule(72, 318, 613)])
        self.assertEqual(cell(table, VESSELS[3])[1:], (1, 1, 1))


class TestSigns(unittest.TestCase):
    def test_a_sign_far_from_its_number_stands_right_before_its_minus(self) -> None:
        pieces = [text(200, 618, "2024"), text(300, 618, "2025")]
        for r, vessel in enumerate(VESSELS[:6]):
            y, minus = 600 - STEP * r, "-" if r % 2 else ""
            pieces += [text(72, y, vessel)]
            for x in (180, 280):
                said = f"{minus}{412 + 31 * r}.{x // 100}0"
                pieces += [text(x, y, "$"), text(x + 60 - 5.56 * len(said), y, said)]
        (table,) = tables(pieces)
        self.assertEqual((table.rows, table.columns), (7, 3))
        self.assertEqual(texts(table)[2], [VESSELS[1], "$-443.10", "$-443.20"])

    def test_a_label_over_signs_and_numbers_keeps_them_together(self) -> None:
        pieces = [text(205, 618, "2024", font="F2"), text(262, 618, "2025", font="F2")]
        for r, vessel in enumerate(VESSELS[:6]):
            y = 600 - STEP * r
            pieces += [text(72, y, vessel)]
            for x in (180, 243):
                said = f"{(1.4 + r) * x:.2f}"
                pieces += [text(x, y, "$"), text(x + 58 - 5.56 * len(said), y, said)]
        (table,) = tables(pieces)
        self.assertEqual((table.rows, table.columns), (7, 3))
        self.assertTrue(all(row[1][0] == row[2][0] == "$" for row in texts(table)[1:]))


class TestNotes(unittest.TestCase):
    def test_a_note_inside_the_closing_rule_of_tight_rows_is_a_row(self) -> None:
        step, size = 9.5, 7.5
        pieces = [
            text(x, 600 - step * r, s, size)
            for r, vessel in enumerate(VESSELS[:8])
            for x, s in ((76, vessel), (170, f"{r + 3} h"), (260, f"{4 * r + 11}"))
        ]
        lines = [rule(72, 320, 600 - step * r + 7.2) for r in range(9)] + [
            rule(72, 320, 600 - step * 9 + 7.2)
        ]
        note = [text(76, 600 - step * 8, "Note: stays are rounded up.", 6.5)]
        (table,) = tables(pieces, lines, note)
        self.assertEqual(cell(table, "Note: stays are rounded up."), (8, 0, 1, 3))

    def test_a_first_row_beside_the_rules_of_its_table_is_no_running_head(self) -> None:
        top = 760
        grounds = [shade(72, top - 34, 380, top - 14), shade(72, top - 130, 380, top - 110)]
        pieces = [
            text(76, top - 28, "Inner harbour", font="F2"),
            text(76, top - 124, "Outer harbour", font="F2"),
        ]
        pieces += [text(76, top, "Whole coast"), *numbers(220, top, 1)]
        for r, vessel in enumerate(VESSELS[:8]):
            y = top - 52 - STEP * r - (24 if r > 3 else 0)
            pieces += [text(76, y, vessel), *numbers(220, y, 1)]
        sides = [f"1 w {x} {top + 14} m {x} {top - 80 - STEP * 8} l S" for x in (72, 380)]
        prose = [text(72, 300, PROSE), text(72, 280, PROSE)]
        said = "\n".join([*grounds, *pieces, *sides, *prose])
        (table,) = wennak.read(pdf_of(said, FONTS)).tables
        self.assertEqual(texts(table)[0], ["Whole coast", "11.1", "12.2"])

    def test_a_sentence_alone_in_the_last_row_spans_all_columns(self) -> None:
        x, body = (72, 260, 340), [(name, f"{k}7.5", f"{k + 3}1.2") for k, name in enumerate(VESSELS)]
        rows = [text(left, 640 - STEP * r, said) for r, row in enumerate(body)
                for left, said in zip(x, row, strict=True)]  # fmt: skip
        foot = 640 - STEP * len(body)
        rows += [rule(66, 400, 640 - 5 - STEP * r) for r in range(-1, len(body) + 1)]
        for note in ("Note: The sum is that of May.", "Note: The sum of the third quay was 4.2 last year."):
            (found,) = tables(rows, [text(72, foot, note)])
            self.assertEqual(cell(found, note), (len(body), 0, 1, 3), note)
        (found,) = tables(rows, [text(72, foot, "Sum of all that is seen")])
        self.assertEqual(cell(found, "Sum of all that is seen"), (len(body), 0, 1, 1))


class TestGroupsInGrids(unittest.TestCase):
    def test_lines_of_numbers_beside_labels_are_rows_whatever_the_lines_are_around(self) -> None:
        x, edges = (72, 160, 280, 350), (66, 152, 272, 342, 410)
        groups = (("North basin", 2), ("Slip", 1), ("Long quay", 3), ("South basin", 2))
        drawn, wanted, y, k = [], [["Berth", "Vessel", "In", "Out"]], 630.0, 0
        drawn += [text(left, 644, label, font="F2") for left, label in zip(x, wanted[0], strict=True)]
        drawn += [rule(66, 410, 658), rule(66, 410, 638)]
        for name, count in groups:
            drawn.append(text(72, y - 4 - 7 * (count - 1), name))
            for r in range(count):
                row = [name, VESSELS[k], f"1,{230 + 7 * k}", f"{411 - 9 * k}"]
                drawn += [text(left, y - 4 - 14 * r, said) for left, said in zip(x[1:], row[1:], strict=True)]
                wanted.append(row)
                k += 1
            y -= 14 * count
            drawn.append(rule(66, 410, y + 8))
            y -= 2
        drawn += [f"0.6 w {edge} 658 m {edge} {y + 10} l S" for edge in edges]
        (found,) = tables(drawn)
        self.assertEqual(texts(found), wanted)
        self.assertEqual(cell(found, "Long quay"), (4, 0, 3, 1))


class TestLabelsBesideRules(unittest.TestCase):
    """A label below another one, with a rule at its mid height."""

    def settled(self, low: float, high: float, span: int) -> list[tuple[int, int, int]]:
        said = (
            (0, 2, 1, (300, 720, "2031")),
            (1, 1, span, (240, 700, "Quay")),
            (2, 1, 1, (230, 680, "In")),
            (2, 2, 1, (330, 680, "Out")),
        )
        content = "\n".join([*(text(*place) for *_, place in said), rule(low, high, 703)])
        with PdfFile(pdf_of(content, FONTS), "crews.pdf") as pdf:
            layout = lay_out(pdf.page(1))
        at = {word: k for k, word in enumerate(layout.words.texts)}
        cells = [CellDraft(row, column, 1, span, [at[place[2]]]) for row, column, span, place in said]
        draft = TableDraft(layout.box(np.arange(len(layout.words))), 3, 3, cells, "spaced")
        settle_labels_beside_rules(layout, draft)
        return [(c.row, c.column, c.colspan) for c in draft.cells]

    def test_a_label_beside_a_rule_goes_to_the_row_where_its_column_is_free(self) -> None:
        self.assertEqual(self.settled(290, 345, 1), [(0, 2, 1), (0, 1, 1), (1, 1, 1), (1, 2, 1)])

    def test_all_columns_that_it_spans_have_to_be_free(self) -> None:
        self.assertEqual(self.settled(290, 345, 2), [(0, 2, 1), (1, 1, 2), (2, 1, 1), (2, 2, 1)])

    def test_rules_of_other_tables_part_nothing(self) -> None:
        self.assertEqual(self.settled(60, 200, 1), [(0, 2, 1), (1, 1, 1), (2, 1, 1), (2, 2, 1)])


if __name__ == "__main__":
    unittest.main()
