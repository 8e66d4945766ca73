"""Pages as office programs print them: sheets, whose columns stand right beside each other, statements with
sums below rules, data sheets in sections, forms with labels in columns, tables right above other text.
"""

from __future__ import annotations

import io
import random
import unittest
from collections.abc import Sequence
from itertools import pairwise

import numpy as np
from reportlab.pdfbase.pdfmetrics import stringWidth
from reportlab.pdfgen.canvas import Canvas

import wennak
from tests.support import InFolder, run_here
from tests.test_readings import layouts
from wennak.model import Box, Heading, Paragraph
from wennak.tables.draft import CellDraft, TableDraft, plain_text
from wennak.tables.torn import add_rest

PIERS = ("North pier", "Slip", "Long quay", "South basin", "Old quay", "West dock", "Ferry berth")
REMARKS = ("closed in gales", "new ladder", "water and power", "dredged in spring", "lamp is out")
PAD, STEP, SIZE = 1.2, 15.0, 10
ADDRESS = ("Mrs I. Tulloch", "14 Pier Road", "Skerra", "Account 00 41 772")
MONTHS = ("Jan", "May", "Mar", "Dec", "Jul", "Aug", "Oct")
COLUMNS = ("count", "money", "share", "remark", "flag", "money", "count")
# How the labels of a sheet are set: all to the left, as the program does, or as what is below them.
SET = ("left", "own", "right")


class Page:
    """A page that is written on line by line."""

    def __init__(self) -> None:
        self.out = io.BytesIO()
        self.canvas = Canvas(self.out, pagesize=(842, 595), invariant=True)

    def text(self, x: float, y: float, said: str, bold: bool = False, right: bool = False) -> None:
        self.canvas.setFont("Helvetica-Bold" if bold else "Helvetica", SIZE)
        (self.canvas.drawRightString if right else self.canvas.drawString)(x, y, said)

    def rule(self, x0: float, x1: float, y: float) -> None:
        self.canvas.setLineWidth(0.6)
        self.canvas.line(x0, y, x1, y)

    def frame(self, x0: float, y0: float, x1: float, y1: float) -> None:
        self.canvas.rect(x0, y0, x1 - x0, y1 - y0)

    def pdf(self) -> bytes:
        self.canvas.save()
        return self.out.getvalue()

    def read(self) -> wennak.Document:
        return wennak.read(self.pdf(), name="page.pdf")

    def table(self) -> wennak.Table:
        (found,) = self.read().tables
        return found


def texts(table: wennak.Table) -> list[list[str]]:
    return [["" if c is None else c.text for c in row] for row in table.grid()]


def sheet(seed: int, labels: str) -> tuple[Page, list[list[str]]]:
    """A sheet of random columns as narrow as their texts, and its cells."""
    rng = random.Random(seed)
    kinds = ["name", *rng.sample(COLUMNS, rng.randint(2, 6))]
    made = {
        "name": lambda: rng.choice(PIERS),
        "remark": lambda: rng.choice(REMARKS),
        "flag": lambda: rng.choice(("yes", "no")),
        "count": lambda: f"{rng.randint(1, 9999):,}",
        "money": lambda: f"{rng.uniform(1, 20000):,.2f}",
        "share": lambda: f"{rng.uniform(1, 99):.1f}%",
    }
    heads = [f"{kind.capitalize()} {k}" if k else "Pier" for k, kind in enumerate(kinds)]
    body = [
        [made[kind]() if k == 0 or rng.random() < 0.9 else "" for k, kind in enumerate(kinds)]
        for _ in range(rng.randint(6, 14))
    ]
    page, x = Page(), 60.0
    for k, kind in enumerate(kinds):
        numbers = kind in ("count", "money", "share")
        cells = [heads[k], *(row[k] for row in body)]
        width = (
            max(stringWidth(cell, "Helvetica-Bold", SIZE) for cell in cells) + 2 * PAD + rng.uniform(0, 15)
        )
        for r, cell in enumerate(cells):
            right = (numbers and labels != "left") or labels == "right" if r == 0 else numbers
            page.text(x + width - PAD if right else x + PAD, 520 - STEP * r, cell, r == 0, right)
        x += width
    return page, [heads, *body]


class TestSheets(unittest.TestCase):
    def test_columns_right_beside_each_other_stay_apart(self) -> None:
        for seed in range(8):
            for labels in SET:
                with self.subTest(seed=seed, labels=labels):
                    page, cells = sheet(seed, labels)
                    self.assertEqual(texts(page.table()), cells)

    def test_words_of_one_text_that_stand_below_each_other_are_one(self) -> None:
        page = Page()
        cells = [["Pier", "Opened", "Calls"]]
        cells += [[pier, f"{3 + k} May {1990 + k}", f"{40 + 7 * k}"] for k, pier in enumerate(PIERS)]
        for r, row in enumerate(cells):
            for x, cell, right in zip((60, 200, 260), row, (False, True, True), strict=True):
                page.text(x, 500 - STEP * r, cell, r == 0, right)
        self.assertEqual(texts(page.table()), cells)

    def test_dates_of_one_year_end_where_the_next_column_begins(self) -> None:
        page = Page()
        cells = [["Pier", "Opened", "Name"]]
        cells += [[pier, f"{3 + 4 * k} {MONTHS[k]} 31", REMARKS[k % 5]] for k, pier in enumerate(PIERS)]
        for r, row in enumerate(cells):
            for x, cell, right in zip((60, 200, 202.2), row, (False, r > 0, False), strict=True):
                page.text(150 if (r, x) == (0, 200) else x, 500 - STEP * r, cell, r == 0, right)
        self.assertEqual(texts(page.table()), cells)

    def test_wrapped_cells_stand_on_the_line_of_their_row(self) -> None:
        page = Page()
        page.text(170, 530, "Cost", True)
        for x, label in ((60, "Pier"), (222, "Remark"), (350, "Calls")):
            page.text(x, 530, label, True)
        told = [["Pier", "Cost", "Remark", "Calls"]]
        for k, pier in enumerate(PIERS):
            y, lines = 500 - 32 * k, (f"{REMARKS[k % 5]} and", REMARKS[(k + 1) % 5])
            page.text(60, y, pier)
            page.text(220, y, f"{137 * k + 12}.50", right=True)
            page.text(222, y + 12, f"{lines[0]} ")
            page.text(222, y, lines[1])
            page.text(380, y, str(90 + k), right=True)
            told.append([pier, f"{137 * k + 12}.50", " ".join(lines), str(90 + k)])
        self.assertEqual([[" ".join(c.split()) for c in row] for row in texts(page.table())], told)

    def test_the_name_of_the_first_section_stands_between_labels_and_rows(self) -> None:
        page, told, y = Page(), [["Pier", "Cost", "Calls", "Share"]], 520.0
        for x, label in zip((60, 150, 221, 281), told[0], strict=True):
            page.text(x, y, label, True)
        for section in ("North", "South"):
            y -= STEP
            page.text(60, y, section, True)
            told.append([section, "", "", ""])
            for k in range(5):
                y -= STEP
                row = [PIERS[k], f"{137 * k + 12}.50", str(70 + k), f"{k + 3}.5%"]
                for x, cell, right in zip((60, 220, 280, 340), row, (False, True, True, True), strict=True):
                    page.text(x, y, cell, right=right)
                page.rule(60, 342, y - 3)
                told.append(row)
        found = page.table()
        self.assertEqual((texts(found), found.header_rows), (told, 1))

    def test_labels_above_a_grid_go_to_the_columns_between_its_lines(self) -> None:
        page = Page()
        edges, rows = (60, 120, 142, 184, 212), 6
        cells = [["Pier", "Use", "Remark", "Calls"]]
        cells += [[PIERS[k], f"{k + 1}%", "closed" if k % 2 else "open", f"{90 + k}"] for k in range(rows)]
        for r, row in enumerate(cells):
            for k, cell in enumerate(row):
                right = k % 2 == 1
                page.text(edges[k + right] + (-1 if right else 1), 500 - STEP * r, cell, r == 0, right)
        for a, b in pairwise(edges):
            for r in range(rows):
                page.frame(a, 496 - STEP * r, b, 496 - STEP * (r + 1))
        self.assertEqual(texts(page.table()), cells)

    def test_labels_in_one_face_with_what_stands_over_them_go_to_their_columns(self) -> None:
        """No line parts the name of a group of columns from their labels, nor these from each other."""
        page = Page()
        edges = (60, 150, 210, 270, 330, 390)
        page.frame(60, 470, 150, 500)
        page.frame(150, 470, 330, 500)
        page.frame(330, 470, 390, 500)
        for x, y, said in ((64, 489, "Parameter"), (228, 489, "Limits"), (344, 489, "Unit")):
            page.text(x, y, said)
        for x, said in ((190, "Min"), (252, "Typ"), (312, "Max")):
            page.text(x, 474, said)
        for x in (210, 270):
            page.canvas.line(x, 470, x, 485)
        rows = [[PIERS[k], f"{k}.5", f"{k + 3}", f"{9 * k + 4}.25", "m"] for k in range(5)]
        for r, row in enumerate(rows):
            for k, (cell, left, right) in enumerate(zip(row, edges, edges[1:], strict=False)):
                page.frame(left, 454 - 16 * r, right, 470 - 16 * r)
                page.text(right - 3 if k else left + 3, 458 - 16 * r, cell, right=k > 0)
        found = page.table()
        labels = {c.text: (c.row, c.column, c.colspan) for c in found.cells if c.row < 2 and c.text}
        self.assertEqual(labels["Limits"], (0, 1, 3))
        self.assertEqual([labels[t] for t in ("Min", "Typ", "Max")], [(1, 1, 1), (1, 2, 1), (1, 3, 1)])
        self.assertEqual(texts(found)[2:], rows)

    def test_one_face_over_all_columns_holds_labels_of_all_but_the_first(self) -> None:
        page = Page()
        edges = (60, 150, 210, 270, 330)
        page.frame(60, 470, 330, 500)
        page.text(220, 489, "Tonnes")
        for x, said in ((190, "Q1"), (250, "Q2"), (310, "Q3")):
            page.text(x, 474, said)
        rows = [[PIERS[k], f"{k},2", f"{k + 3},4", f"{9 * k},5"] for k in range(5)]
        for r, row in enumerate(rows):
            for k, (cell, left, right) in enumerate(zip(row, edges, edges[1:], strict=False)):
                page.frame(left, 454 - 16 * r, right, 470 - 16 * r)
                page.text(right - 3 if k else left + 3, 458 - 16 * r, cell, right=k > 0)
        (found,) = wennak.read(page.pdf(), method="ruled").tables
        labels = {c.text: (c.row, c.column, c.colspan) for c in found.cells if c.row < 2 and c.text}
        self.assertEqual(labels, {"Tonnes": (0, 1, 3), "Q1": (1, 1, 1), "Q2": (1, 2, 1), "Q3": (1, 3, 1)})
        self.assertEqual(texts(found)[2:], rows)

    def test_white_lines_on_shading_are_lines(self) -> None:
        """Each cell is shaded, with a white frame; labels stand at mid height of the rows of their group."""
        page, edges = Page(), (60, 130, 220, 280, 340)
        groups = {"Inner quay": 3, "Mole": 1, "Outer quay": 2, "Slip": 2}
        rows, top = [], 500

        def cell(x0: float, x1: float, y0: float, y1: float, said: str, right: bool = False) -> None:
            page.canvas.setFillGray(0.85)
            page.canvas.rect(x0, y0, x1 - x0, y1 - y0, stroke=0, fill=1)
            page.canvas.setStrokeGray(1)
            page.canvas.setLineWidth(2)
            for ends in ((x0, y0, x1, y0), (x0, y1, x1, y1), (x0, y0, x0, y1), (x1, y0, x1, y1)):
                page.canvas.line(*ends)
            page.canvas.setFillGray(0)
            page.text(x1 - 4 if right else x0 + 4, (y0 + y1) / 2 - 3, said, right=right)

        for group, count in groups.items():
            cell(edges[0], edges[1], top - 15 * count, top, group)
            for k in range(count):
                row = [f"{PIERS[len(rows) % 5]} {len(rows)}", f"{7 * len(rows)}", f"{k}.5"]
                for said, x0, x1 in zip(row, edges[1:], edges[2:], strict=False):
                    cell(x0, x1, top - 15 * (k + 1), top - 15 * k, said, right=said not in row[:1])
                rows.append([group if not k else "", *row])
            top -= 15 * count
        pdf = page.pdf()
        (layout,) = layouts(pdf)
        self.assertEqual([round(x) for x in layout.rules.upright.at.tolist()], [130, 220, 280])
        (found,) = wennak.read(pdf).tables
        labels = [(c.text, c.row, c.rowspan) for c in found.cells if c.column == 0]
        starts = [0, 3, 4, 6]
        self.assertEqual(labels, [(g, at, n) for (g, n), at in zip(groups.items(), starts, strict=True)])
        told = {(c.row, c.column): c.text for c in found.cells}
        self.assertEqual([[told.get((r, c), "") for c in range(4)] for r in range(8)], rows)


class TestRows(unittest.TestCase):
    def test_a_line_above_a_sum_gives_it_no_label(self) -> None:
        page = Page()
        rows = [("Dues", "4,120"), ("Grants", "610"), ("Other", "88"), ("", "4,818"), ("Staff", "2,210")]
        rows += [("Repairs", "1,402"), ("Fuel", "733"), ("", "4,345"), ("Surplus", "473")]
        page.text(260, 500 + STEP, "2031", True, True)
        for r, (label, number) in enumerate(rows):
            page.text(60, 500 - STEP * r, label)
            page.text(260, 500 - STEP * r, number, right=True)
            if not label or label == "Surplus":
                page.rule(210, 262, 511 - STEP * r)
        found = page.table()
        self.assertEqual(texts(found)[-len(rows) :], [list(row) for row in rows])
        self.assertFalse([c for c in found.cells if c.rowspan > 1])

    def test_the_name_of_a_first_section_is_no_header(self) -> None:
        sections = {"Measuring": 3, "Power": 2, "Case": 3}
        for bold in (True, False):
            page, y, told = Page(), 500.0, []
            for name, rows in sections.items():
                page.text(62, y, name, bold)
                page.frame(60, y - 4, 360, y + 11)
                told.append(name)
                for k in range(rows):
                    y -= STEP
                    for x, cell in zip(
                        (60, 180, 280), (f"{name} {k}", f"{7 * k + 2}.{k}", "mm"), strict=True
                    ):
                        page.text(x + 2, y, cell)
                        page.frame(x, y - 4, {60: 180, 180: 280, 280: 360}[x], y + 11)
                y -= STEP
            found = page.table()
            self.assertEqual(found.header_rows, 0, bold)
            self.assertEqual([c.text for c in found.cells if c.colspan == 3], told)

    def test_a_table_ends_at_its_last_rule(self) -> None:
        page = Page()
        rows = [["Fee", "Unit", "Amount"]]
        rows += [[pier, "call", f"{12 + 7 * k}.50"] for k, pier in enumerate(PIERS[:5])]
        for r, row in enumerate(rows):
            for x, cell, right in zip((60, 200, 400), row, (False, False, True), strict=True):
                page.text(x, 500 - STEP * r, cell, r == 0, right)
        for r in (0, 1, 6):
            page.rule(58, 402, 511 - STEP * r)
        for r, dashes in ((6, False), (8, True), (9, False)):
            for x, said in ((60, "For the Trust"), (250, "For the Operator")):
                page.text(x, 500 - STEP * r, "_" * 18 if dashes else said if r == 6 else "Name, date")
        self.assertEqual(texts(page.table()), rows)

    def test_a_paragraph_right_below_a_table_is_none_of_its_rows(self) -> None:
        for style in ("shaded", "framed", "ruled"):
            page, told = Page(), [["Pier", "Remark", "Calls"]]
            told += [[pier, REMARKS[k % 5], str(90 + 7 * k)] for k, pier in enumerate(PIERS)]
            for r, row in enumerate(told):
                y = 500 - STEP * r
                page.canvas.setFillGray(0.85)
                if style == "shaded" and r % 2 == 0:
                    page.canvas.rect(58, y - 4, 360, STEP, stroke=0, fill=1)
                page.canvas.setFillGray(0)
                if style == "framed":
                    page.frame(58, y - 4, 418, y + 11)
                    for x in (170, 320) if r % 2 else ():
                        page.canvas.line(x, y - 4, x, y + 11)
                if style == "ruled" and r in (0, len(told) - 1):
                    page.rule(58, 418, y - 4)
                for x, cell in zip((60, 172, 322), row, strict=True):
                    page.text(x, y, cell, r == 0)
            for k, said in enumerate(
                ("What the wardens saw at the piers in the first week of", "May is told here.")
            ):
                page.text(60, 500 - STEP * (len(told) + 0.2 + k), said)
            with self.subTest(style=style):
                self.assertEqual(texts(page.table()), told)

    def test_labels_left_of_a_grid_are_its_first_column(self) -> None:
        page, told = Page(), []
        for r, pier in enumerate(("", *PIERS[:4])):
            y, rows = 500 - 2 * STEP * r, ("Opened", "Remark", "Calls")
            row = rows if r == 0 else (str(1990 + r), REMARKS[r], str(90 + 7 * r))
            page.text(62, y, pier, True)
            told.append([pier, *row])
            for k, cell in enumerate(row):
                page.text(152 + 100 * k, y, cell, r == 0)
                page.frame(150 + 100 * k, y - 19, 250 + 100 * k, y + 11)
        page.text(60, 330, "Right below the grid a paragraph begins, and nothing of it is of the grid above.")
        self.assertEqual(texts(page.table()), told)

    def test_a_number_on_the_line_of_its_row_is_of_that_row_alone(self) -> None:
        page = Page()
        for r, (pier, lines) in enumerate(zip(PIERS[:3], (4, 4, 2), strict=True)):
            y = 480 - 60 * r
            page.text(60, y, pier)
            for k in range(lines):
                page.text(150, y - 12 * k, REMARKS[(r + k) % 5])
            page.text(300, y, f"{r + 3}1.50")
            if r:
                page.text(400, y, f"{16 + 7 * r}.3 %")
            page.rule(58, 460, y + 12)
        page.rule(58, 460, 340)
        found = page.table()
        self.assertFalse([c.text for c in found.cells if c.rowspan > 1])


class TestPages(unittest.TestCase):
    def read(self, rest: dict[float, Sequence[str]], more: int) -> wennak.Table:
        """A table whose last row goes on with some lines on the next page, with more rows below these."""
        page, y = Page(), 500.0
        for x, label in ((60, "Pier"), (200, "What was seen"), (440, "Calls")):
            page.text(x, y, label, True)
        page.rule(58, 470, y - 4)
        for k in range(9):
            y -= 3 * STEP
            page.text(60, y, PIERS[k % 7])
            page.text(200, y, "A boat that came in with a broken")
            page.text(200, y - 12, "mast had nobody on board and")
            page.text(440, y, str(90 + 7 * k))
        page.canvas.showPage()
        y = 540.0
        for x, lines in rest.items():
            for k, said in enumerate(lines):
                page.text(x, y - 12 * k, said)
        for k in range(more):
            y -= 3 * STEP
            page.text(60, y, PIERS[k])
            page.text(200, y, "All was quiet there from dusk")
            page.text(200, y - 12, "to dawn.")
            page.text(440, y, str(900 + k))
        page.text(
            60,
            y - 4 * STEP,
            "All of this is in the book of the harbour office, which any captain may look at.",
        )
        return page.table()

    def test_a_row_broken_at_the_foot_of_a_page_is_one(self) -> None:
        for rest in ({200: ["was towed to the slip."]}, {60: ["quay"], 200: ["was towed to the", "slip."]}):
            for more in (0, 3):
                with self.subTest(rest=rest, more=more):
                    found = self.read(rest, more)
                    self.assertEqual(found.rows, 10 + more)
                    row = [" ".join(c.split()) for c in texts(found)[9]]
                    stub = f"{PIERS[1]} quay" if 60 in rest else PIERS[1]
                    said = "A boat that came in with a broken mast had nobody on board and was towed to"
                    self.assertEqual(row, [stub, f"{said} the slip.", "146"])

    def test_labels_at_the_foot_of_a_page_head_the_numbers_on_the_next(self) -> None:
        page = Page()
        for k in range(26):
            page.text(
                60,
                540 - 18 * k,
                "What the wardens saw at the piers in a week of gales is told below.",
            )
        page.text(60, 60, "Pier", True)
        page.text(300, 60, "Calls", True)
        page.canvas.showPage()
        for k in range(9):
            page.text(60, 530 - STEP * k, PIERS[k % 7])
            page.text(480, 530 - STEP * k, str(90 + 7 * k), right=True)
        found = page.table()
        self.assertEqual((found.header_rows, texts(found)[0]), (1, ["Pier", "Calls"]))

    def test_a_last_row_holds_all_lines_of_its_cells(self) -> None:
        lines = [
            "A boat that came in with a broken",
            "mast had nobody on board and was",
            "towed to the slip.",
        ]
        torn = TableDraft(Box(60, 100, 500, 140), 2, 3, [], "spaced", column_edges=[60, 190, 430, 500])
        page = Page()
        for y, row in ((480, ("Slip", "Closed in gales.", "90")), (460, ("Long quay", lines[0], "97"))):
            for x, cell in zip((60, 200, 440), row, strict=True):
                page.text(x, y, cell)
        for k, said in enumerate(lines[1:], 1):
            page.text(200, 460 - 12 * k, said)
        page.text(60, 400, "mast had nobody on board")
        (layout,) = layouts(page.pdf())
        w = layout.words
        torn.box = Box(60, 100, 500, float(w.y1[w.texts.index("97")]))
        for r, y in enumerate((480, 460)):
            for c, (low, high) in enumerate(pairwise(torn.column_edges)):
                own = (abs(w.baseline - (595 - y)) < 1) & (w.x0 >= low) & (w.x0 < high)
                torn.cells.append(CellDraft(r, c, 1, 1, own.nonzero()[0].tolist()))
        free = ~np.isin(np.arange(len(w)), torn.word_indices())
        add_rest(layout, torn, free)
        self.assertEqual([plain_text(layout, c.words) for c in torn.cells if c.row == 1][1], " ".join(lines))

    def test_a_row_that_begins_with_a_capital_is_a_row_of_its_own(self) -> None:
        for stub, said in (("Long quay", "closed in gales."), ("quay", "Closed in gales.")):
            found = self.read({60: [stub], 200: [said]}, 2)
            self.assertNotIn(said, texts(found)[9][1])


class TestLabels(unittest.TestCase):
    def delivery(self) -> wennak.Document:
        page = Page()
        page.text(60, 520, "Quay Street stores lend what a boat may need in the season that begins in May.")
        for r, row in enumerate(
            (
                ("Ship to", "Hamnavoe Yard", "No.", "DN-2093"),
                ("", "Quay Street 2", "Date", "3 March 2031"),
                ("", "Hamnavoe", "Carrier", "Isles Freight"),
            )
        ):
            for x, said in zip((60, 130, 330, 400), row, strict=True):
                page.text(x, 480 - 18 * r, said, x in (60, 330))
        page.text(60, 400, "All goods are to be looked at on the day on which they come, and a loss is told.")
        return page.read()

    def test_a_value_of_several_lines_is_read_before_the_next_column_of_labels(self) -> None:
        said = " ".join(b.text for b in self.delivery().blocks if isinstance(b, Paragraph | Heading))
        self.assertIn("Hamnavoe Yard\nQuay Street 2\nHamnavoe", said)
        self.assertLess(said.index("Quay Street 2"), said.index("DN-2093"))

    def test_labels_above_their_values_are_read_with_these(self) -> None:
        page = Page()
        card = (("Leaves", "07:15"), ("Gate closes", "06:55"), ("Deck", "B"), ("Seat", "42 on the left"))
        for k, (label, value) in enumerate(card):
            page.text(60 + 170 * k, 480, label)
            page.text(60 + 170 * k, 467, value, True)
        page.text(60, 430, "Be at the pier half an hour before the ferry leaves, with your ticket at hand.")
        said = [b.text for b in page.read().blocks if isinstance(b, Paragraph | Heading)]
        self.assertEqual(said[:8], [text for pair in card for text in pair])

    def test_a_label_beside_its_value_is_no_heading(self) -> None:
        self.assertFalse([b.text for b in self.delivery().blocks if isinstance(b, Heading)])

    def test_stops_are_of_the_label_that_they_end(self) -> None:
        self.assertIn("**No.**", self.delivery().markdown())

    def test_running_feet_do_not_tell_how_large_the_text_is(self) -> None:
        out = io.BytesIO()
        canvas = Canvas(out, pagesize=(595, 842), invariant=True)
        for number in range(3):
            canvas.setFont("Helvetica", 10)
            for r, said in enumerate(ADDRESS if number == 0 else ()):
                canvas.drawString(60, 760 - 13 * r, said)
            canvas.setFont("Helvetica", 8)
            for r in range(30):
                for x, said in zip(
                    (60, 200, 320), (f"{r + 1} May", PIERS[r % 7], f"{31 * r}.50"), strict=True
                ):
                    canvas.drawString(x, 680 - 14 * r, said)
            canvas.drawString(
                60, 40, f"Skerra Savings Bank, founded in 1871 by the boatmen of the sound, page {number}"
            )
            canvas.showPage()
        canvas.save()
        document = wennak.read(out.getvalue(), name="statement.pdf")
        self.assertFalse([b.text for b in document.blocks if isinstance(b, Heading)])
        self.assertIn("14 Pier Road", document.markdown())


class TestCommand(InFolder):
    def test_a_sheet_comes_out_of_the_command_as_it_is(self) -> None:
        page, cells = sheet(3, "left")
        source = self.folder / "sheet.pdf"
        source.write_bytes(page.pdf())
        run_here("convert", source, "--out", self.folder / "out")
        (written,) = (self.folder / "out").rglob("*.md")
        said = written.read_text(encoding="utf-8")
        for row in cells:
            self.assertIn(f"| {' | '.join(row)} |", said)


if __name__ == "__main__":
    unittest.main()
