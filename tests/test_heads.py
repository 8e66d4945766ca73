"""Header rows above a table: labels over several columns, labels of columns, and what is none."""

from __future__ import annotations

import unittest

import numpy as np
from reportlab.pdfbase.pdfmetrics import stringWidth

import wennak
from tests.support import covered, pdf_of
from tests.test_continued import FONTS, PROSE, text
from tests.test_readings import layouts, text_width
from tests.test_spans import cell, rule, texts
from wennak.layout import PageLayout
from wennak.tables.draft import CellDraft, TableDraft, plain_text
from wennak.tables.finish import finish
from wennak.tables.header_spans import spread_headers
from wennak.tables.heads import add_heads
from wennak.tables.judge import judge
from wennak.tables.places import place_of
from wennak.tables.search import best_draft

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


def completed(left_out: str, *pieces: list[str]) -> tuple[PageLayout, TableDraft]:
    """A page, and the table that is read of all but some words of it, completed with its heads."""
    (layout,) = layouts(pdf_of("\n".join(p for piece in pieces for p in piece), FONTS))
    rest = np.array([said not in left_out.split() for said in layout.words.texts])
    place = place_of(layout, np.flatnonzero(rest), ~rest, layout.box(np.flatnonzero(rest)))
    draft = finish(layout, best_draft(layout, place, judge, None, "spaced"), place.lines)
    add_heads(layout, draft, ~rest, np.zeros_like(rest))
    return layout, draft


class TestHeads(unittest.TestCase):
    def test_a_label_between_rules_as_wide_as_the_table_is_its_first_row(self) -> None:
        """Upright lines begin below the label of the first section; what has no rule above it is a title."""
        sides, bottom = (66, 140, 270, 350, 430), 612 - 16 * len(NAMES)
        lines = [rule(66, 430, 612 - 16 * r) for r in range(len(NAMES) + 1)]
        uprights = [f"0.6 w {x} {bottom} m {x} 612 l S" for x in sides]
        for ruled in (True, False):
            with self.subTest(ruled=ruled):
                top = [rule(66, 430, 628)] if ruled else []
                pieces = [text(72, 617, "Outer basin")], body(3), lines, uprights, top
                _, draft = completed("Outer basin", *pieces)
                self.assertEqual((draft.rows, draft.header_rows), (len(NAMES) + ruled, 0))
                self.assertEqual(draft.cells[0].colspan, 4 if ruled else 1)

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

    def test_lines_of_labels_that_wrap_level_are_one_header_row(self) -> None:
        """Beside labels at the foot of both lines, or at mid height; not where second lines begin anew."""
        for upper, middle, lower, wanted in (
            (("", "Change", "Rate", ""), (), ("Vessel", "in", "[kt]", "Spread"), "Change in|Rate [kt]"),
            (("", "Hull", "Sea", ""), ("Item", "", "", "Sum"), ("", "Age", "Lost", ""), "Hull Age|Sea Lost"),
            (("", "Week", "Sunday", ""), (), ("Vessel", "Out", "Home", "Spread"), "Week|Sunday"),
            (("Vessel", "Change", "Range", "Spread"), (), ("", "[kt]", "[nm]", ""), "Change|Range"),
        ):  # fmt: skip
            body = [(name, "14", "15", "16") for name in NAMES[:3]]
            lines = [
                (630, upper),
                (624, middle),
                (618, lower),
                (600, body[0]),
                (584, body[1]),
                (568, body[2]),
            ]
            shown = [(y, 72 + 80 * c, said) for y, row in lines for c, said in enumerate(row) if said]
            (layout,) = layouts(pdf_of("\n".join(text(x, y, said) for y, x, said in shown), FONTS))
            w = layout.words
            depth = w.y0 - w.y0.min()
            row = np.where(depth < 15, depth > 3, 2 + (depth - 22) // 16).astype(int).tolist()
            column = ((w.x0 - 71) // 80).astype(int).tolist()
            cells = [CellDraft(r, c, 1, 1, [i]) for i, (r, c) in enumerate(zip(row, column, strict=True))]
            draft = TableDraft(layout.box(np.arange(len(w))), 5, 4, cells, "spaced", header_rows=2)
            draft.column_edges = [66 + 80.0 * k for k in range(5)]
            spread_headers(layout, draft)
            heads = [plain_text(layout, c.words) for c in draft.cells if c.row == 0 and 0 < c.column < 3]
            self.assertEqual("|".join(heads), wanted)
            joined = " " in wanted
            self.assertEqual((draft.header_rows, draft.rows), (1, 4) if joined else (2, 5))
            if joined:
                self.assertEqual({c.rowspan for c in draft.cells}, {1})

    def test_labels_in_bold_are_no_part_of_a_row_of_several_lines_right_below(self) -> None:
        at = (72, 110, 150, 300)
        pieces = [
            text(x, 700, said, font="F2")
            for x, said in zip(at, ("No.", "Code", "Vessel", "Port"), strict=True)
        ]
        y = 689.5
        for k, name in enumerate(("Korrigan of the", *NAMES)):
            row = (str(40 + k), name[:2].upper(), name, "Haven of Hollinquay")
            pieces += [text(x, y, said) for x, said in zip(at, row, strict=True)]
            if not k:
                y -= 10.5
                pieces += [text(150, y, "outer Sound"), text(300, y, "and of the Sound")]
            y -= 13.5
        found = table(pieces)
        self.assertEqual((found.rows, found.columns, found.header_rows), (len(NAMES) + 2, 4, 1))
        said = [c.text for c in found.cells if c.row < 2]
        wanted = ["No.", "Code", "Vessel", "Port", "40", "KO", "Korrigan of the outer Sound"]
        self.assertEqual(said, [*wanted, "Haven of Hollinquay and of the Sound"])

    def test_shading_parts_the_labels_of_a_grid_from_its_first_row(self) -> None:
        at, feet = (72, 180, 290), (684, 656, 628, 600)
        rows = [
            ("Gannet", "moored at the northern", "by day"),
            ("Tern", "moored at the outer", "by night"),
            ("Skua", "anchored off the outer", "by day"),
        ]
        pieces = [f"0.85 g 66 {feet[1]} 334 28 re f 0.92 g 66 {feet[3]} 334 28 re f 0 g"]
        pieces += [f"0.8 w {x} {feet[-1]} m {x} 700 l S" for x in (174, 284)]
        pieces += [f"0.8 w 66 {y} m 400 {y} l S" for y in feet[1:]]
        pieces += [
            text(x, 686, said) for x, said in zip((90, 205, 300), ("Vessel", "Place", "When"), strict=True)
        ]
        for y, row in zip(feet, rows, strict=False):
            pieces += [text(x, y - 10, said) for x, said in zip(at, row, strict=True)]
            pieces.append(text(180, y - 23, "wall of the haven"))
        found = table(pieces)
        self.assertEqual((found.rows, found.columns), (len(rows) + 1, 3))
        self.assertEqual([c.text for c in found.cells if c.row == 0], ["Vessel", "Place", "When"])
        self.assertEqual(next(c.text for c in found.cells if c.row == 1), "Gannet")

    def test_the_first_label_of_a_group_of_rows_is_no_header(self) -> None:
        at = (72, 180, 260, 340)
        for middle in (True, False):
            with self.subTest(middle=middle):
                pieces = [
                    text(x, 700, said, font="F2")
                    for x, said in zip(at, ("Vessel", "Out", "Due", "Berth"), strict=True)
                ]
                y = 684
                for label, half in (("Fishing", NAMES[:3]), ("Ferries", NAMES[3:])):
                    pieces.append(text(203 if middle else 72, y, label, font="F2"))
                    for k, name in enumerate(half, 1):
                        row = (name, f"{k + 6}:10", f"{k + 9}:40", f"Quay {k}")
                        pieces += [text(x, y - 16 * k, said) for x, said in zip(at, row, strict=True)]
                    y -= 64
                found = table(pieces)
                self.assertEqual((found.rows, found.header_rows), (len(NAMES) + 3, 1))
                said = [(c.row, c.column, c.colspan) for c in found.cells if c.text in ("Fishing", "Ferries")]
                self.assertEqual([(r, c) for r, c, _ in said], [(1, 0), (5, 0)])
                self.assertEqual(len({wide for *_, wide in said}), 1)

    def test_shading_or_a_rule_tells_what_a_label_spans(self) -> None:
        # The label begins at the left of three of four columns, or stands off their middle.
        for x in (215, 250, 330):
            for ground in ("0.85 g 212 628 230 14 re f 0 g", "0.6 w 212 627 m 442 627 l S"):
                with self.subTest(x=x, ground=ground):
                    label = [ground, text(x, 632, "Landed")]
                    rules = [f"0.6 w 66 {y} m 520 {y} l S" for y in (644, 612, 512)]
                    found = table(rules, label, years(4, 616), body(4))
                    cell = next(c for c in found.cells if c.text == "Landed")
                    self.assertEqual((cell.row, cell.column, cell.colspan), (0, 1, 3))

    def test_a_label_over_the_middle_of_three_columns_is_over_all_of_them(self) -> None:
        at = (72, 160, 200, 240, 310)
        for label, x in (("Value", 198.5), ("Limits", 197)):
            with self.subTest(label):
                lines = [text(x, 632, label)]
                for r, row in enumerate([("Depth", "Min", "Typ", "Max", "Unit"), *([None] * len(NAMES))]):
                    said = row or (NAMES[r - 1], f"1{r}.5", f"2{r}.15", f"3{r}.5", "m")
                    lines += [text(x, 616 - 16 * r, t) for x, t in zip(at, said, strict=True)]
                rules = [rule(66, 336, y) for y in (644, *range(628, 500, -16))]
                found = table([text(72, 700, PROSE)], lines, rules)
                self.assertEqual(cell(found, label), (0, 1, 1, 3))

    def test_a_label_is_over_no_column_that_the_rule_below_it_leaves_out(self) -> None:
        # The first label is nearer to the middle of three columns than of those that are ruled.
        labels = [text(262, 632, "Spring"), text(358, 632, "Autumn")]
        heads = [text(72, 616, "Vessel"), *(text(190 + 50 * k, 616, f"B{k + 1}") for k in range(5))]
        rows = [text(72, 600 - 16 * r, name) for r, name in enumerate(NAMES)]
        rows += [
            text(190 + 50 * k, 600 - 16 * r, f"{r + 3}.{k}") for r in range(len(NAMES)) for k in range(5)
        ]
        found = table([text(72, 700, PROSE)], labels, heads, rows, [rule(232, 420, 628), rule(66, 420, 612)])
        self.assertEqual([cell(found, t) for t in ("Spring", "Autumn")], [(0, 2, 1, 2), (0, 4, 1, 2)])

    def test_lines_beside_a_label_tell_what_it_is_over(self) -> None:
        at = (72, 190, 250, 310, 370)
        lines = [text(270, 632, "Landings", font="F2")]
        for r, row in enumerate([("Vessel", "cod", "ling", "hake", "Unit"), *([None] * len(NAMES))]):
            said = row or (NAMES[r - 1], f"1{r}.5", f"2{r}.5", f"3{r}.5", "t")
            face = "F1" if r else "F2"
            lines += [text(x, 616 - 16 * r, t, font=face) for x, t in zip(at, said, strict=True)]
        sides = [f"0.6 w {x} 500 m {x} {644 if x in (180, 360) else 626} l S" for x in (180, 240, 300, 360)]
        found = table([text(72, 700, PROSE)], lines, sides, [rule(66, 420, 644), rule(66, 420, 500)])
        self.assertEqual(cell(found, "Landings"), (0, 1, 1, 3))

    def test_a_line_below_a_row_of_values_parts_groups_and_no_header(self) -> None:
        labels = [
            text(72, 616, "Quay"),
            *(right(260 + 80 * c, 616, said) for c, said in enumerate(("Grain", "Coal", "Fish"))),
        ]
        for below in (2, 3):
            with self.subTest(below=below):
                line = rule(72, 430, 600 - 16 * (below - 1) - 5)
                found = table([text(72, 700, PROSE)], labels, body(3), [line])
                self.assertEqual((found.rows, found.header_rows), (len(NAMES) + 1, 1))
        # Years are labels, and what stands over them heads groups.
        found = table([text(72, 700, PROSE)], [text(240, 632, "Landings, tonnes")], years(3, 616), body(3))
        self.assertEqual(found.header_rows, 2)

    def test_rules_below_every_second_row_tell_no_header(self) -> None:
        pairs = [*zip(NAMES, ("Oskay", "Hollinquay", "sold", "Tarnvoe", "Fenholm", "laid up"), strict=True)]
        said = [
            text(x, 600 - 16 * r, s)
            for r, pair in enumerate(pairs)
            for x, s in zip((72, 172), pair, strict=True)
        ]
        for below, heads in (((2, 4), 2), ((1, 4), 1), ((2, 4, 6), 0)):
            with self.subTest(below=below):
                rules = [f"0.6 w 66 {612 - 16 * k} m 260 {612 - 16 * k} l S" for k in below]
                more = [text(72, 504, "Kestrel"), text(172, 504, "Brannsey")]
                found = table([text(72, 700, PROSE)], rules, said, more)
                self.assertEqual((found.rows, found.header_rows), (7, heads))

    def test_labels_of_groups_above_labels_at_mid_height(self) -> None:
        said = ("sold", "kept on the quay", "sold at once")
        rules = [f"0.6 w {x} 500 m {x} 650 l S" for x in (140, 220, 310)] + ["0.6 w 66 609 m 400 609 l S"]
        head = [text(72, 654, "Table 2. Landings of the quay", 10, "F2"), "0.6 w 140 632 m 310 632 l S"]
        head += [text(72, 627, "Vessel"), text(320, 627, "Crew"), text(205, 638, "Spring")]
        head += [text(146, 617, "State"), text(226, 617, "Remarks")]
        rows = []
        for r, name in enumerate(NAMES[:4]):
            y = 596 - 26 * r
            rows += [text(72, y, name), text(146, y, "fresh"), text(226, y, said[r % 3])]
            rows += [text(320, y, "five hands"), text(320, y - 11, "and a boy")]
        found = table(head, rules, rows)
        cells = {c.text: (c.row, c.column, c.rowspan, c.colspan) for c in found.cells if c.row < 2}
        self.assertEqual(cells.get("Spring"), (0, 1, 1, 2))
        self.assertEqual((cells["Vessel"], cells["Crew"]), ((0, 0, 2, 1), (0, 3, 2, 1)))
        self.assertEqual(found.rows, 6)

    def test_one_rule_below_several_labels_is_shared_out(self) -> None:
        labels = [text(246, 646, "Landed"), text(405, 646, "Shipped"), "0.6 w 225 640 m 505 640 l S"]
        name = [text(72, 668, "Table 2. Landings of the quay"), text(72, 630, "Vessel")]
        rules = ["0.6 w 66 612 m 510 612 l S", *(f"0.6 w {x} 505 m {x} 655 l S" for x in (185, 345))]
        found = table(name, labels, rules, years(4, 618), body(4))
        spans = {c.text: (c.row, c.column, c.colspan) for c in found.cells if c.text in ("Landed", "Shipped")}
        self.assertEqual(spans, {"Landed": (0, 1, 2), "Shipped": (0, 3, 2)})
        taken = covered(found)
        self.assertEqual(len(taken), len(set(taken)))

    def test_shading_of_one_column_keeps_its_label_there(self) -> None:
        ground = "0.85 g 205 611 62 14 re f 0 g"
        uprights = [f"0.5 w {x} 520 m {x} 612 l S" for x in (200, 270, 350)]
        found = table([ground, text(215, 614, "Landed")], uprights, body(3))
        cell = next(c for c in found.cells if c.text == "Landed")
        self.assertEqual((cell.row, cell.column, cell.colspan), (0, 1, 1))

    def test_labels_may_be_centred_between_sides_that_no_line_shows(self) -> None:
        # Numbers stand at the right of their cells: their text is not centred in them.
        labels = [text(246, 632, "Landed"), text(405, 632, "Shipped")]
        found = table(labels, years(4, 616), body(4))
        spans = {c.text: (c.column, c.colspan) for c in found.cells if c.row == 0 and c.text}
        self.assertEqual(spans, {"Landed": (1, 2), "Shipped": (3, 2)})

    def test_an_empty_stub_is_no_part_of_the_label_beside_it(self) -> None:
        upright = ["0.5 w 180 520 m 180 612 l S"]
        for said in ("2021", "Note"):
            found = table(
                [right(260, 616, said) if said.isdigit() else text(240, 616, said)], upright, body(1)
            )
            cell = next(c for c in found.cells if c.text == said)
            self.assertEqual((cell.column, cell.colspan), (1, 1))

    def test_a_unit_stays_with_its_label(self) -> None:
        for unit in ("£", "$"):
            heads = [text(200, 616, f"Dues in {unit}", 10, "F2"), text(300, 616, "Calls", 10, "F2")]
            found = table(heads, body(2))
            self.assertEqual(
                [c.text for c in found.cells if c.row == 0 and c.text], [f"Dues in {unit}", "Calls"]
            )

    def test_a_line_above_a_total_makes_no_cell_taller(self) -> None:
        lines = [text(72, 616, "Quay", 10, "F2"), text(140, 616, "Vessel", 10, "F2"), right(260, 616, "2021")]
        for k, name in enumerate(NAMES):
            lines += [text(140, 600 - 16 * k, name), right(260, 600 - 16 * k, f"{7 + k}.5")]
        lines += [text(72, 600, "North"), text(72, 504, "Total"), right(260, 504, "60.0")]
        rules = [f"0.5 w 66 {y} m 264 {y} l S" for y in (630, 612, 500)] + ["0.5 w 225 516 m 264 516 l S"]
        found = table(rules, lines)
        self.assertEqual({c.rowspan for c in found.cells if c.text}, {1})
        self.assertEqual(
            [c.text for c in found.cells if c.row == found.rows - 1 and c.text], ["Total", "60.0"]
        )

    def test_a_line_above_a_total_right_below_its_group_makes_no_cell_taller(self) -> None:
        lines = [text(72, 616, "Quay", 10, "F2"), text(170, 616, "Vessel", 10, "F2"), right(290, 616, "2021")]
        rules = [f"0.5 w 66 {y} m 294 {y} l S" for y in (630, 612)]
        y = 600
        for k, quay in enumerate(("North quay", "South quay", "Slip", "Old basin")):
            lines += [text(72, y, quay), text(170, y, NAMES[k]), right(290, y, f"{7 + k}.5")]
            lines += [text(72, y - 16, f"Total {quay.lower()}"), right(290, y - 16, f"{7 + k}.5")]
            rules += [f"0.5 w 255 {y - 4} m 294 {y - 4} l S", f"0.5 w 66 {y - 20} m 294 {y - 20} l S"]
            y -= 32
        found = table(rules, lines)
        self.assertEqual({c.rowspan for c in found.cells if c.text}, {1})
        self.assertEqual([row[1] for row in texts(found)[2::2]], [""] * 4)

    def test_a_label_of_the_stub_between_two_lines_of_labels_belongs_to_both(self) -> None:
        for left in (False, True):
            with self.subTest(left=left):
                head = [text(72, 623, "Vessel"), text(202 if left else 287, 632, "Landings")]
                labels = [text(x, 614, said) for x, said in ((202, "cod"), (290, "ling"), (370, "hake"))]
                layout, draft = completed("Vessel Landings", head, labels, body(3, 594))
                w = layout.words
                heads = {w.texts[c.words[0]]: (c.row, c.column, c.rowspan, c.colspan) for c in draft.cells}
                self.assertEqual((heads["Vessel"], heads["Landings"]), ((0, 0, 2, 1), (0, 1, 1, 3)))
                self.assertEqual((draft.rows, draft.header_rows), (len(NAMES) + 2, 2))

    def test_labels_of_the_first_columns_between_two_lines_of_labels_belong_to_both(self) -> None:
        head = [text(72, 623, "Vessel"), text(235, 623, "Dues")]
        head += [text(329, 632, "Cod"), text(433, 632, "Landings")]
        head += [rule(66, 506, 645), rule(66, 506, 608), rule(290, 386, 627), rule(398, 506, 627)]
        labels = [text(x, 614, s) for x, s in ((300, "ling"), (360, "hake"), (418, "saithe"), (476, "tusk"))]
        layout, draft = completed("Vessel Dues Cod Landings", head, labels, body(5, 594, 60))
        heads = {plain_text(layout, c.words): (c.row, c.column, c.rowspan, c.colspan) for c in draft.cells}
        wanted = {"Vessel": (0, 0, 2, 1), "Dues": (0, 1, 2, 1), "Cod": (0, 2, 1, 2), "Landings": (0, 4, 1, 2)}
        self.assertEqual({label: heads[label] for label in wanted}, wanted)
        self.assertEqual((draft.rows, draft.header_rows), (len(NAMES) + 2, 2))

    def test_short_leaders_say_nothing_beside_long_ones(self) -> None:
        lines = []
        for k, (name, dots) in enumerate(zip(NAMES, (30, 28, 26, 4, 3, 24), strict=True)):
            y = 600 - 16 * k
            lines += [text(72, y, name), text(260 - 2.78 * dots, y, "." * dots)]
            lines += [] if dots < 5 else [right(320, y, f"{7 + k}.5")]
        said = " ".join(c.text for c in table(lines).cells)
        self.assertNotIn("..", said)
        self.assertIn("Fulmar", said)

    def test_a_head_at_the_other_side_of_its_column_heads_it(self) -> None:
        rules = [f"0.6 w 66 {y} m 428 {y} l S" for y in (632, 612, 576)]
        for x in (150, 210, 260):
            lines = [text(72, 618, "Quay", 10, "F2"), text(x, 618, "Landed", 10, "F2")]
            for k, name in enumerate(NAMES[:2]):
                lines += [text(72, 600 - 16 * k, name), right(420, 600 - 16 * k, f"{37 + k}.77")]
            with self.subTest(x=x):
                grid = [[cell.text if cell else "" for cell in row] for row in table(rules, lines).grid()]
                self.assertEqual(grid, [["Quay", "Landed"], ["Gannet", "37.77"], ["Tern", "38.77"]])

    def test_labels_in_a_grid_without_a_line_below_them_stay_apart_from_the_first_row(self) -> None:
        said = [(name, f"{4 * r + 3}", f"{r}.5 m") for r, name in enumerate(NAMES)]
        levels = (650, *(596 - 20 * r for r in range(6)))
        rules = [f"0.6 w 66 {y} m 366 {y} l S" for y in levels] + ["0.6 w 166 632 m 366 632 l S"]
        rules += [f"0.6 w {x} 496 m {x} {y} l S" for x, y in ((66, 650), (166, 650), (266, 632), (366, 650))]
        head = [text(72, 620, "Vessel"), text(172, 620, "Crew"), text(272, 620, "Draught")]
        lines = []
        for r, row in enumerate(said):
            lines += [text(x, 602 - 20 * r, cell) for x, cell in zip((72, 172, 272), row, strict=True)]
        found = table(rules, head, [text(240, 638, "In spring")], lines)
        rows = [[c.text if c else "" for c in row] for row in found.grid()]
        self.assertEqual(rows[-6:], [list(row) for row in said])
        self.assertEqual((rows[1][1:], len(rows)), (["Crew", "Draught"], 8))

    def test_labels_in_a_font_of_their_own_are_no_row_with_the_first_one(self) -> None:
        """Lines part all rows but the labels and the first one."""
        said = [(name, f"Quay {r}", f"{r}.5 m") for r, name in enumerate(NAMES)]
        said[0] = (said[0][0], "", "moored")
        rules = [f"0.6 w 66 {y} m 366 {y} l S" for y in (632, *(596 - 20 * r for r in range(6)))]
        uprights = [f"0.6 w {x} 496 m {x} 632 l S" for x in (66, 166, 266, 366)]
        lines = []
        for r, row in enumerate(said):
            lines.append(text(72, 602 - 20 * r, row[0], font="F2"))
            lines += [
                text(x, 602 - 20 * r, c, font="F1") for x, c in zip((172, 272), row[1:], strict=True) if c
            ]
        for own in ([], uprights):
            for labels in (("Vessel", "Place", "Draught"), ("", "", "Draught")):
                head = [text(x, 618, s, font="F4") for x, s in zip((72, 172, 272), labels, strict=True) if s]
                with self.subTest(uprights=bool(own), labels=labels):
                    found = table(rules, own, head, lines)
                    grid = [[c.text if c else "" for c in row] for row in found.grid()]
                    self.assertEqual(grid, [list(labels), *map(list, said)])
                    self.assertEqual(found.header_rows, 1)

    def test_no_row_of_a_grid_is_left_out_at_the_foot_of_a_page(self) -> None:
        for count in (24, 30, 36):
            with self.subTest(count=count):
                rules = [f"0.6 w 66 {762 - 19 * k} m 366 {762 - 19 * k} l S" for k in range(count + 1)]
                rules += [f"0.6 w {x} {762 - 19 * count} m {x} 762 l S" for x in (66, 366)]
                lines = []
                for r in range(count):
                    y = 748 - 19 * r
                    lines += [
                        text(72, y, f"{NAMES[r % 6]} {r}"),
                        right(250, y, f"{7 * r + 3}"),
                        right(340, y, f"{r}.{r % 9}"),
                    ]
                found = table(rules, lines, [text(280, 30, "- 1 -")])
                self.assertEqual((found.rows, found.columns), (count, 3))

    def test_a_label_over_two_columns_is_one_where_a_word_of_it_begins_as_one_of_them_does(self) -> None:
        def read(columns: tuple[float, ...], *label: str) -> wennak.Table:
            at = [
                text(x, 616 - 16 * (r + (r > 0)), said)
                for r, row in enumerate(rows)
                for x, said in zip(columns, row, strict=True)
            ]
            return table([text(72, 700, PROSE)], [*label], at)

        rows = [("Vessel", "Seats", "Location", "Code")]
        rows += [(n, f"{n[:3]} Haven", f"{n[:2]}well", str(610 + r)) for r, n in enumerate(NAMES)]
        whole = text(257.2 - text_width("Harbour"), 632, "Harbour "), text(260, 632, "office")
        found = read((72, 200, 260, 330), *whole, rule(196, 320, 628))
        self.assertEqual(cell(found, "Harbour office"), (0, 1, 1, 2))
        # What is set as the texts of its column are is a cell of it.
        found = read((72, 257.2 - text_width("Gan Haven"), 260, 330))
        self.assertEqual(texts(found), [list(row) for row in rows])

    def test_first_lines_of_several_labels_are_of_these_and_a_name_is_not(self) -> None:
        labels = [text(72, 612, "Vessel")] + [text(x, 612, "tonnes") for x in (226, 306)]
        for left_out, wanted in (("cod ling", 2), ("Landings", 0)):
            with self.subTest(left_out):
                above = [text(234 + 80 * k, 627, t) for k, t in enumerate(left_out.split())]
                layout, draft = completed(left_out, above, labels, body(2, 594))
                said = {plain_text(layout, c.words) for c in draft.cells if c.row == 0}
                self.assertEqual(len({f"{t} tonnes" for t in left_out.split()} & said), wanted, said)

    def test_a_label_that_a_reading_leaves_out_is_of_the_head_between_the_rules_along_the_table(self) -> None:
        for top, added in ((645, 1), (627, 0), (700, 0)):
            with self.subTest(top=top):
                sides = [f"0.6 w {x} 512 m {x} {top} l S" for x in (66, 426)]
                label = [text(226, 632, "Landings", font="F2")]
                heads = [text(72, 616, "Vessel", font="F2")]
                heads += [text(238 + 80 * c, 616, f"Y{c + 1}", font="F2") for c in range(3)]
                pieces = (sides, label, heads, body(3))
                _, draft = completed("Landings", *pieces)
                self.assertEqual((draft.rows, draft.header_rows), (len(NAMES) + 1 + added, 1 + added))

    def test_rules_that_begin_above_a_label_or_run_there_tell_that_the_table_begins_with_it(self) -> None:
        labels = [text(72, 616, "Vessel", font="F2")]
        labels += [text(240 + 70 * c, 616, f"Y{c + 1}", font="F2") for c in range(4)]
        label = [text(420 - text_width("Catch") / 2, 632, "Catch", font="F2")]
        wide = [rule(66, 476, 646), rule(66, 476, 514)]
        uprights = [f"0.6 w {x} 644 m {x} 512 l S" for x in (230, 300)]
        for rules, heads in ((wide, 2), (uprights, 2), ([*wide, rule(66, 476, 627)], 1), ([], 1)):
            with self.subTest(rules):
                layout, draft = completed("Catch", label, labels, rules, body(4, 600, 70))
                self.assertEqual((draft.rows, draft.header_rows), (len(NAMES) + heads, heads))
                found = {plain_text(layout, c.words): (c.row, c.column, c.colspan) for c in draft.cells}
                self.assertEqual(found.get("Catch"), (0, 3, 2) if heads == 2 else None)

    def test_a_running_head_that_a_line_runs_below_as_far_as_it_reaches_is_none(self) -> None:
        """Over whole columns, as a label of a group; farther down the page it is one."""
        for top, heads in ((748, 1), (520, 2)):
            with self.subTest(top=top):
                pieces = [right(260 + 80 * c, top, str(2021 + c)) for c in range(3)], body(3, top - 16)
                said = "Data sheet of Skerra Sound"
                end = 300 + stringWidth(said, "Helvetica", 10)
                over = [text(300, top + 24, said), rule(300, end, top + 19)]
                _, draft = completed(said, over, *pieces)
                self.assertEqual(draft.rows, heads + len(NAMES))

    def test_labels_of_several_lines_are_one_row(self) -> None:
        """Two of the labels have one line, level with the first ones of the others."""
        heads = (("Vessel",), ("Old", "quay"), ("Sound",), ("Long", "pier"))
        x = (72, 236, 316, 396)
        drawn = [
            text(left, 627 - 11 * k, line, font="F2")
            for left, lines in zip(x, heads, strict=True)
            for k, line in enumerate(lines)
        ]
        layout, draft = completed("Vessel Old quay Sound Long pier", drawn, body(3))
        said = {c.column: plain_text(layout, c.words) for c in draft.cells if c.row == 0}
        self.assertEqual(said, dict(enumerate(" ".join(lines) for lines in heads)))
        self.assertEqual((draft.rows, draft.header_rows), (len(NAMES) + 1, 1))

    def test_labels_of_columns_that_a_reading_leaves_out(self) -> None:
        """The last may be short for a word; where columns are set to the middle labels may be at their sides;
        they may be set sideways, and no label be over the labels of rows, in however many columns.
        """
        lines = [text(72, 600 - 16 * r, name) for r, name in enumerate(NAMES)]
        lines += [text(150, 600 - 16 * r, f"berth {'abcdef'[r]}") for r in range(len(NAMES))]
        lines += [text(260 + 80 * c, 600 - 16 * r, f"{17 * r + c}.{c}") for r in range(6) for c in range(3)]
        sides = [rule(66, 490, y) for y in (612, 515)]
        upright = [f"0.6 w {x} 612 m {x} 515 l S" for x in (66, 140, 230, 310, 390, 490)]
        said = ["Tons", "Calls", "Ref."]
        for names, above in (
            (said, [text(258 + 80 * c, 616, label, font="F2") for c, label in enumerate(said)]),
            (
                ["Cod", "Ling", "Hake"],
                [text(233 + 80 * c, 616, t) for c, t in enumerate(("Cod", "Ling", "Hake"))],
            ),
            (said, [f"BT /F2 10 Tf 0 1 -1 0 {270 + 80 * c} 616 Tm ({t}) Tj ET" for c, t in enumerate(said)]),
        ):
            layout, draft = completed(" ".join(names), above, lines, sides, upright)
            found = {c.column: plain_text(layout, c.words) for c in draft.cells if c.row == 0}
            self.assertEqual(found, dict(zip((2, 3, 4), names, strict=True)))
            self.assertEqual(draft.header_rows, 1)

    def test_groups_of_columns_may_begin_behind_the_second(self) -> None:
        labels = [text(72, 616, "Vessel", font="F2")]
        labels += [text(240 + 80 * c, 616, f"Y{c + 1}", font="F2") for c in range(5)]
        over = [text(x, 632, label, font="F2") for x, label in ((360, "Cod"), (519, "Ling"))]
        layout, draft = completed("Cod Ling", over, labels, body(5))
        found = {plain_text(layout, c.words): (c.column, c.colspan) for c in draft.cells if c.row == 0}
        self.assertEqual(found, {"Cod": (2, 2), "Ling": (4, 2)})

    def test_labels_of_groups_that_begin_with_their_columns_span_along_one_rule(self) -> None:
        """One rule below both does not say where the first ends: where the second begins. One stands in the
        middle of three columns by chance.
        """
        left = [
            text(x, y, said) for x, y, said in ((72, 632, "Vessel"), (240, 632, "Herring"), (400, 632, "Cod"))
        ]
        labels = [text(240 + 80 * c, 616, str(2021 + c % 2)) for c in range(4)]
        rows = [text(72, 600 - 16 * r, name) for r, name in enumerate(NAMES)]
        rows += [text(240 + 80 * c, 600 - 16 * r, f"{17 * r + c}.{c}") for r in range(6) for c in range(4)]
        rules = [rule(66, 520, 646), rule(236, 520, 628), rule(66, 520, 611), rule(66, 520, 515)]
        found = table([text(72, 720, PROSE)], left, labels, rows, rules)
        self.assertEqual([cell(found, t) for t in ("Herring", "Cod")], [(0, 1, 1, 2), (0, 3, 1, 2)])

    def test_a_row_written_as_those_below_is_no_header(self) -> None:
        """Below labels of groups stand times at once, as in a timetable, or labels of the columns."""
        for first, heads in (("06:1{}", 1), ("Line {}", 2)):
            groups = [text(72, 632, "Port", font="F2"), text(270, 632, "Morning", font="F2")]
            groups += [text(430, 632, "Afternoon", font="F2")]
            rows = [text(72, 616, "Skerra")] + [text(240 + 80 * c, 616, first.format(c)) for c in range(4)]
            for r, name in enumerate(NAMES):
                rows += [text(72, 600 - 16 * r, name)]
                rows += [text(240 + 80 * c, 600 - 16 * r, f"{7 + r + 3 * c:02}:{15 + r}") for c in range(4)]
            self.assertEqual(table([text(72, 720, PROSE)], groups, rows).header_rows, heads)

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
        with self.subTest("an underlined running head above the first line"):
            head = [text(66, 640, "Notes of the Board", 9), rule(66, 142, 637), rule(66, 428, 630)]
            self.assertEqual(table(head, years(3, 616), body(3)).rows, len(NAMES) + 1)
            self.assertNotIn("Notes", " ".join(c.text for c in table(head, years(3, 616), body(3)).cells))
        with self.subTest("a title as wide as the table"):
            title, wide = "Landings of the quay by vessel", text_width("Landings of the quay by vessel")
            piece = [text(66, 622, title, font="F4"), rule(66, 66 + wide, 615)]
            keys = [text(72, 600 - 16 * k, name, font="F4") for k, name in enumerate(NAMES)]
            values = [right(66 + wide, 600 - 16 * k, f"{17 * k + 3}.5") for k in range(len(NAMES))]
            self.assertEqual(table(piece, keys, values).rows, len(NAMES))
        with self.subTest("notes of two columns of text"):
            notes = [
                text(66, 626, "Source: This was expected."),
                text(280, 626, "the light found them all sound."),
            ]
            rules = [f"0.6 w 66 {616 - 20 * r} m 480 {616 - 20 * r} l S" for r in range(len(NAMES) + 1)]
            rules += [f"0.6 w {x} {616 - 20 * len(NAMES)} m {x} 616 l S" for x in (66, 270, 480)]
            lines = [
                text(x, 602 - 20 * r, said)
                for r, name in enumerate(NAMES)
                for x, said in ((72, name if r else "Key"), (276, f"quay {r}" if r else "Value"))
            ]
            self.assertEqual(table(notes, rules, lines).rows, len(NAMES))
        # A word at the margin may head the labels; it is no label of the numbers.
        found = table([text(72, 632, "Landings")], years(3, 616), body(3))
        spanned = [c.text for c in found.cells if c.text == "Landings" and c.column + c.colspan > 1]
        self.assertEqual(spanned, [])


class TestNotes(unittest.TestCase):
    """What stands below the last row between two rules of the table."""

    def read(self, note: list[str], ends: tuple[int, int] = (66, 428), foot: int = 493) -> list[wennak.Table]:
        rules = [f"0.6 w 66 {y} m 428 {y} l S" for y in (630, 612, 512)]
        pieces = [*rules, f"0.6 w {ends[0]} {foot} m {ends[1]} {foot} l S", *years(3, 616), *body(3), *note]
        return wennak.read(pdf_of("\n".join(pieces), FONTS)).tables

    def test_a_note_inside_the_closing_rule_is_a_row_over_all_columns(self) -> None:
        for said in ("Note: landed by hand, without the boats of the pier.", "Provisional."):
            (found,) = self.read([text(72, 499, said, 8)])
            cell = next(c for c in found.cells if c.text == said)
            self.assertEqual((cell.row, cell.column, cell.colspan), (found.rows - 1, 0, 4))
            self.assertEqual(found.rows, len(NAMES) + 2)

    def test_what_stands_there_otherwise_is_none(self) -> None:
        inside = text(72, 499, "Note: landed by hand.", 8)
        for what, found in {
            "it begins with the rules": self.read([text(66.3, 499, "Note: landed by hand.", 8)]),
            "the rule is another one": self.read([inside], ends=(66, 500)),
            "it stands far from the rule": self.read([inside], foot=470),
            "a heading follows": self.read(
                [text(72, 500, "Note: by hand.", 6), text(72, 491, "The pier", 11)], foot=486
            ),
            "it names another table": self.read([text(72, 499, "Table 3. Boats of the pier", 8)]),
        }.items():
            with self.subTest(what):
                self.assertEqual([t.rows for t in found], [len(NAMES) + 1])


if __name__ == "__main__":
    unittest.main()
