"""Tables in parts: over pages, in the next column, after a gap; and what only looks like that."""

from __future__ import annotations

import unittest
from collections.abc import Sequence
from itertools import pairwise

import wennak
from tests.support import InFolder, joined, pdf_of
from wennak.demo.scans import draw_scan
from wennak.model import Cell, Table
from wennak.scan import installed_languages
from wennak.tables import repeats_head

HEAD = ("Berth", "Vessel", "Draught (m)", "Stay (h)")
ROWS = [
    (f"B{k}", f"{name} {k}", f"{4 + k / 10:.1f}", str(6 + 5 * k % 17))
    for k, name in enumerate(
        ("Gannet", "Tern", "Eider", "Fulmar", "Skua", "Petrel", "Dunlin", "Plover"), start=1
    )
]
WIDTHS = (0, 70, 190, 290)
FONTS = {
    name: {"Subtype": "/Type1", "BaseFont": f"/{font}", "Encoding": "/WinAnsiEncoding"}
    for name, font in (("F1", "Helvetica"), ("F2", "Helvetica-Bold"), ("F4", "Helvetica-Oblique"))
}


def text(x: float, y: float, said: str, size: float = 10, font: str = "F1") -> str:
    return f"BT /{font} {size} Tf {x} {y} Td ({said.replace('(', '[').replace(')', ']')}) Tj ET"


def part(
    rows: Sequence[Sequence[str]], top: float, left: float = 72, scale: float = 1.0, bold: Sequence[int] = ()
) -> list[str]:
    """Rows of a table from a height downwards, some of them bold."""
    return [
        text(left + scale * x, top - 18 * r, cell, 10 * scale, "F2" if r in bold else "F1")
        for r, row in enumerate(rows)
        for x, cell in zip(WIDTHS, row, strict=False)
        if cell
    ]


def apart(rows: Sequence[Sequence[str]], top: float) -> list[str]:
    """Rows below a head with more room above and below labels of groups."""
    out = []
    for above, row in pairwise([HEAD, *rows]):
        top -= 18 + 14 * (sum(map(bool, row)) == 1) + 8 * (sum(map(bool, above)) == 1)
        out += part([row], top)
    return out


def document(*pages: Sequence[str]) -> bytes:
    return joined(pdf_of("\n".join(page), FONTS) for page in pages)


def grids(pdf: bytes) -> list[list[list[str]]]:
    """The texts of all tables, as drawn."""
    tables = wennak.read(pdf).tables
    return [[[cell.text if cell else "" for cell in row] for row in table.grid()] for table in tables]


def drawn(*rows: Sequence[str]) -> list[list[str]]:
    return [[cell.replace("(", "[").replace(")", "]") for cell in row] for row in rows]


PROSE = "The harbour office reviewed the berths of the quay in the spring and found them sound."


class TestContinued(unittest.TestCase):
    def test_wherever_a_page_ends_the_table_is_the_same(self) -> None:
        for k in range(1, len(ROWS)):
            for repeated in (True, False):
                with self.subTest(rows_on_first_page=k, repeated=repeated):
                    above = part([HEAD, *ROWS[:k]], 72 + 18 * k, bold=[0])
                    below = [HEAD, *ROWS[k:]] if repeated else ROWS[k:]
                    pdf = document(
                        [text(72, 740, PROSE), *above], part(below, 740, bold=[0] if repeated else [])
                    )
                    self.assertEqual(grids(pdf), [drawn(HEAD, *ROWS)])

    def test_running_heads_part_nothing_wherever_they_stand(self) -> None:
        def page(number: int, pieces: list[str]) -> list[str]:
            return [text(72, 700, f"Skerra Sound Harbour Board, page {number}"), *pieces]

        pdf = document(
            page(1, part([HEAD, *ROWS[:4]], 140, bold=[0])), page(2, part([HEAD, *ROWS[4:]], 660, bold=[0]))
        )
        self.assertEqual(grids(pdf), [drawn(HEAD, *ROWS)])

    def test_a_running_head_right_above_the_rules_of_a_table_is_no_row(self) -> None:
        def page(rows: Sequence[Sequence[str]]) -> list[str]:
            rules = ["0.6 w 66 753 m 420 753 l S", *(f"0.6 w {x} 560 m {x} 753 l S" for x in (66, 420))]
            lines = [f"0.6 w 66 {735 - 18 * k} m 420 {735 - 18 * k} l S" for k in range(len(rows))]
            return [text(262, 758, "Notes of the Board", 9), *rules, *lines, *part(rows, 740)]

        # Much room is left below the first: the second begins anew.
        pdf = document(page([HEAD, *ROWS[:4]]), page(ROWS[4:]))
        self.assertEqual(grids(pdf), [drawn(HEAD, *ROWS[:4]), drawn(*ROWS[4:])])

    def test_a_running_head_right_above_the_shading_of_a_table_is_no_row(self) -> None:
        shades = [f"0.9 g 66 {735 - 36 * k} 360 18 re f" for k in range(2)]
        above = part([HEAD, *ROWS[:4]], 162, bold=[0])
        below = [*shades, "0 g", text(262, 758, "Notes of the Board", 9), *part(ROWS[4:], 740)]
        self.assertEqual(grids(document(above, below)), [drawn(HEAD, *ROWS)])
        # A label of a group stands where the table begins.
        group = part([("Outer quay",), *ROWS[4:]], 758)
        self.assertEqual(grids(document(above, [*shades, "0 g", *group]))[0][5][0], "Outer quay")

    def test_a_head_is_repeated_in_other_rows(self) -> None:
        def page(rows: Sequence[Sequence[str]], top: float, lines: int) -> list[str]:
            head = [text(72, top, "Berth", font="F2"), text(142, top, "Vessel", font="F2")]
            for x, said in ((262, "Draught [m]"), (362, "Stay [h]")):
                first, second = said.split()
                head.append(text(x, top + (lines - 1) * 6, first, font="F2"))
                head.append(text(x + (lines == 1) * 45, top - (lines - 1) * 6, second, font="F2"))
            return [*head, *part(rows, top - 24)]

        pdf = document(page(ROWS[:4], 150, 2), page(ROWS[4:], 740, 1))
        (table,) = wennak.read(pdf).tables
        self.assertEqual([c.text for c in table.cells if c.column == 0 and c.row >= table.header_rows],
                         [row[0] for row in ROWS])  # fmt: skip

    def test_the_number_of_a_page_at_the_distance_of_rows_is_no_row(self) -> None:
        for said, number in (("Page {}", 190), ("{} / 2", 262), ("- {} -", 142)):
            pages = [
                [*part(rows, top, bold=[0] if top < 200 else []), text(number, 54 - 18, said.format(k))]
                for k, (rows, top) in enumerate((([HEAD, *ROWS[:4]], 126), (ROWS[4:], 740)), 1)
            ]
            with self.subTest(said):
                self.assertEqual(grids(document(*pages)), [drawn(HEAD, *ROWS)])
        # A label and its value are none, whatever the number.
        last = [*part([HEAD, *ROWS[:5]], 144, bold=[0]), text(72, 36, "B9"), text(142, 36, "1")]
        self.assertEqual(grids(document(last))[0][-1][:2], ["B9", "1"])

    def test_rows_that_pass_for_a_header_are_rows(self) -> None:
        pdf = document(part([HEAD, *ROWS[:4]], 140, bold=[0]), part(ROWS[4:], 740, bold=[0]))
        self.assertEqual(grids(pdf), [drawn(HEAD, *ROWS)])

    def test_a_column_that_is_empty_in_one_part_is_still_there(self) -> None:
        def prose(x: float, first: float, lines: int) -> list[str]:
            return [
                text(x, first - 12 * k, "found sound berths along the whole quay", 9) for k in range(lines)
            ]

        def rows_at(left: float, top: float, rows: Sequence[Sequence[str]]) -> list[str]:
            # The label of the first column stands over its middle, close to the next one.
            return [
                text(left + x + 38 * (r == c == 0), top - 16 * r, cell, 8, "F1" if r else "F2")
                for r, row in enumerate(rows)
                for c, (x, cell) in enumerate(zip((0, 74, 150, 190), row, strict=True))
                if cell
            ]

        head = ("Berth", "Vessel", "Depth", "Stay")
        rows = [(f"{berth} at the pier", *rest) for berth, *rest in ROWS[:4]]
        last = ("", *ROWS[4][1:])
        left, right = rows_at(60, 200, [head, *rows]), rows_at(320, 740, [head, last])
        pdf = document([*prose(60, 740, 40), *left, *right, *prose(320, 640, 40)])
        self.assertEqual(grids(pdf), [drawn(head, *rows, last)])

    def test_a_table_that_ends_high_on_its_page_does_not_go_on(self) -> None:
        for top, tables in ((140, 1), (500, 2)):
            with self.subTest(top=top):
                pdf = document(part([HEAD, *ROWS[:4]], top, bold=[0]), part(ROWS[4:], 740))
                self.assertEqual(len(grids(pdf)), tables)

    def test_a_part_elsewhere_on_its_page_has_the_same_columns(self) -> None:
        """Parts may stand farther right, as between margins that change; other columns are another table."""
        for widths, tables in ((WIDTHS, 1), ((0, 110, 205, 268), 2)):
            with self.subTest(tables=tables):
                moved = [
                    text(102 + x, 740 - 18 * r, cell)
                    for r, row in enumerate(ROWS[4:])
                    for x, cell in zip(widths, row, strict=True)
                ]
                pdf = document(part([HEAD, *ROWS[:4]], 140, bold=[0]), moved)
                self.assertEqual(len(grids(pdf)), tables)

    def test_columns_that_only_overlap_are_another_table(self) -> None:
        """A wide table of names and what they are at the foot of a page, a narrow one amid the next."""
        said = " is the vessel that lies there and has been told to leave"
        wide = [(f"BERTH_OF_{name.upper()}", name + said * (k % 2)) for k, (_, name, *_) in enumerate(ROWS)]

        def listed(rows: Sequence[Sequence[str]], x: tuple[int, int], end: int, top: int) -> list[str]:
            rules = [f"0.8 w {x[0]} {y} m {end} {y} l S" for y in (top + 13, top - 18 * len(rows) + 12)]
            cells = [(x[c], top - 18 * r, cell) for r, row in enumerate(rows) for c, cell in enumerate(row)]
            return [*rules, *(text(*cell) for cell in cells)]

        above = listed(wide[:4], (60, 200), 540, 140)
        narrow = [(name.upper(), f"The berth of {name}") for _, name, *_ in ROWS[4:]]
        same, other = listed(wide[4:], (60, 200), 540, 740), listed(narrow, (150, 230), 330, 740)
        for below, tables in ((same, 1), (other, 2)):
            with self.subTest(tables=tables):
                self.assertEqual(len(grids(document(above, below))), tables)

    def test_one_label_over_the_numbers_repeats_a_head(self) -> None:
        head = ("", "2025")
        rows = [(name, f"{k}7.{k}") for k, (_, name, *_) in enumerate(ROWS, start=1)]
        pdf = document(part([head, *rows[:4]], 140, bold=[0]), part([head, *rows[4:]], 740, bold=[0, 1]))
        self.assertEqual(grids(pdf), [drawn(head, *rows)])

    def test_a_head_is_repeated_without_its_labels_of_groups(self) -> None:
        groups = [text(180, 158, "Vessel and draught", font="F2"), "0.6 w 140 153 m 400 153 l S"]
        above = [*groups, *part([HEAD, *ROWS[:4]], 140, bold=[0])]
        pdf = document(above, part([HEAD, *ROWS[4:]], 740, bold=[0]))
        (table,) = wennak.read(pdf).tables
        self.assertEqual(sum(c.text == HEAD[0] for c in table.cells), 1)
        self.assertEqual(table.rows, 2 + len(ROWS))

    def test_another_header_begins_another_table(self) -> None:
        other = ("Crane", "Operator", "Load (t)", "Lifts")
        pdf = document(part([HEAD, *ROWS[:4]], 140, bold=[0]), part([other, *ROWS[4:]], 740, bold=[0]))
        self.assertEqual(grids(pdf), [drawn(HEAD, *ROWS[:4]), drawn(other, *ROWS[4:])])

    def test_another_title_begins_another_table(self) -> None:
        def titled(*titles: str) -> list[tuple[str, list[list[str]]]]:
            pages = [
                [text(72, top + 26, title, 9, "F2"), *part(own, top)]
                for title, own, top in zip(titles, (ROWS[:5], ROWS[5:]), (140, 640), strict=True)
            ]
            pages[0] = [text(72, 700 - 14 * k, PROSE) for k in range(36)] + pages[0]
            return [(t.caption, [[c.text for c in row if c] for row in t.grid()]) for t in read(*pages)]

        def read(*pages: list[str]) -> list[Table]:
            return wennak.read(document(*pages)).tables

        berths, guests = "Berths of the old quay, in figures", "Guests by berth, in figures"
        self.assertEqual(
            titled(berths, guests), [(berths, [*map(list, ROWS[:5])]), (guests, [*map(list, ROWS[5:])])]
        )
        for again in (berths, f"{berths}, continued", ""):
            with self.subTest(again=again):
                self.assertEqual(titled(berths, again), [(berths, [*map(list, ROWS)])])

    def test_labels_set_otherwise_begin_another_table(self) -> None:
        def labels(rows: Sequence[Sequence[str]], top: float, font: str) -> list[str]:
            values = part([("", *row[1:]) for row in rows], top)
            return [*(text(72, top - 18 * r, row[0], font=font) for r, row in enumerate(rows)), *values]

        # Totals at the end are bold in one table.
        for first, second, tables in (("F1", "F4", 2), ("F4", "F1", 2), ("F4", "F4", 1), ("F1", "F2", 1)):
            with self.subTest(first=first, second=second):
                above = [*part([HEAD], 144, bold=[0]), *labels(ROWS[:4], 126, first)]
                pdf = document([text(72, 740, PROSE), *above], labels(ROWS[4:], 740, second))
                self.assertEqual(len(grids(pdf)), tables)

    def test_a_text_between_parts_two_tables(self) -> None:
        above = part([HEAD, *ROWS[:4]], 400, bold=[0])
        pdf = document([*above, text(72, 280, PROSE)], part(ROWS[4:], 740))
        self.assertEqual(len(grids(pdf)), 2)

    def test_a_table_goes_on_in_the_next_column_of_the_page(self) -> None:
        def prose(x: float, first: float, lines: int) -> list[str]:
            return [
                text(x, first - 12 * k, "found sound berths along the whole of the quay", 9)
                for k in range(lines)
            ]

        left = part([HEAD, *ROWS[:4]], 200, 60, 0.6, bold=[0])
        right = part([HEAD, *ROWS[4:]], 740, 320, 0.6, bold=[0])
        pdf = document([*prose(60, 740, 40), *left, *right, *prose(320, 640, 40)])
        self.assertEqual(grids(pdf), [drawn(HEAD, *ROWS)])

    def test_the_rest_of_a_table_in_two_columns_of_the_next_page(self) -> None:
        above = [text(60, 760, PROSE), *part([HEAD, *ROWS[:2]], 108, 60, 0.6, bold=[0])]
        below = [*part(ROWS[2:5], 740, 60, 0.6), *part(ROWS[5:], 740, 320, 0.6)]
        below += [
            f"0.6 w {x} {752 - 18 * k} m {x + 200} {752 - 18 * k} l S" for x in (56, 316) for k in range(4)
        ]
        self.assertEqual(grids(document(above, below)), [drawn(HEAD, *ROWS)])
        # Two that begin there are two.
        self.assertEqual(len(grids(document([text(60, 760, PROSE)], below))), 2)

    def test_a_total_on_the_next_page_keeps_its_signs(self) -> None:
        above = part([HEAD, *ROWS], 230, bold=[0])
        total = [text(72, 740, "Total"), text(240, 740, "$"), text(262, 740, "44.8"), text(362, 740, "96")]
        (grid,) = grids(document(above, [*total, text(72, 700, PROSE)]))
        self.assertEqual(grid[:-1], drawn(HEAD, *ROWS))
        self.assertEqual(grid[-1], ["Total", "", "$ 44.8", "96"])

    def test_what_has_not_the_columns_stays_text(self) -> None:
        above = part([HEAD, *ROWS], 230, bold=[0])
        tops = {
            "an equation": [text(72, 740, "d = v t"), text(362, 740, "[3]")],
            "words where numbers stand": [
                text(72, 740, "B9"),
                text(262, 740, "none"),
                text(362, 740, "long"),
            ],
            "other columns": [text(72, 740, "B9"), text(215, 740, "5.2"), text(330, 740, "7")],
            "one column": [text(72, 740, "B9"), text(72, 722, "B10")],
            "below a sentence": [text(72, 690, PROSE), *part([ROWS[0]], 672)],
            "far apart": [text(72, 740, "Gull 9"), text(362, 300, "7")],
        }
        for what, top in tops.items():
            with self.subTest(what):
                (grid,) = grids(document(above, top))
                self.assertEqual(grid, drawn(HEAD, *ROWS))

    def test_rows_left_over_in_the_next_column_belong_to_the_table(self) -> None:
        prose = [
            text(x, 700 - 12 * k, "found sound berths along the whole of the quay", 9)
            for x, lines in ((60, 40), (320, 50))
            for k in range(lines)
        ]
        left = part([HEAD, *ROWS[:-1]], 190, 60, 0.6, bold=[0])
        pdf = document([*prose, *left, *part(ROWS[-1:], 740, 320, 0.6)])
        self.assertEqual(grids(pdf), [drawn(HEAD, *ROWS)])

    def test_rows_left_over_belong_to_the_table_that_goes_on_in_the_next_column_as_well(self) -> None:
        """The part in the right column of the second page stands where that of the first page did."""
        rows = [(f"B{k}", f"Vessel {k}", f"{4 + k / 10:.1f}", str(6 + 5 * k % 17)) for k in range(30)]
        prose = [
            text(x, 700 - 12 * k, "found sound berths along the whole of the quay", 9)
            for x, lines in ((60, 48), (320, 30))
            for k in range(lines)
        ]
        first = [*prose, *part([HEAD, *rows[:8]], 220, 320, 0.6, bold=[0])]
        left = [*part(rows[8:9], 740, 60, 0.6), *part(rows[9:28], 682, 60, 0.6)]
        below = [
            text(320, 680 - 12 * k, "found sound berths along the whole of the quay", 9) for k in range(9)
        ]
        found = grids(document(first, [*left, *part(rows[28:], 740, 320, 0.6), *below]))
        self.assertEqual(found[0], drawn(HEAD, *rows[:9]))
        self.assertEqual([row[0] for grid in found for row in grid], [row[0] for row in (HEAD, *rows)])

    def test_a_row_level_with_the_title_of_the_other_column_belongs_to_the_table_below_it(self) -> None:
        title = [text(60, 740, "Berths of Hollinquay", 14, "F2"), text(60, 700, PROSE[:50], 9)]
        left = part([HEAD, *ROWS[:-1]], 190, 60, 0.6, bold=[0])
        other = [("Pier", "Lamp", "Side"), ("Outer", "lit", "north"), ("Long", "dark", "east")]
        for below in ([], part([*other, ("Old", "-", "west")], 690, 320, 0.6, bold=[0])):
            pdf = document([*title, *left, *part(ROWS[-1:], 740, 320, 0.6), *below])
            with self.subTest(below=bool(below)):
                self.assertEqual(sorted(map(len, grids(pdf))), [4] * bool(below) + [len(ROWS) + 1])
                self.assertIn(drawn(HEAD, *ROWS), grids(pdf))

    def test_rows_at_a_foot_begin_the_table_of_the_next_page_or_column(self) -> None:
        foot = [HEAD, ROWS[0]]
        for repeated in (True, False):
            rest = part([HEAD, *ROWS[1:]] if repeated else ROWS[1:], 740, bold=[0] if repeated else [])
            for k in (1, 2):
                with self.subTest(rows=k, repeated=repeated, on="pages"):
                    rows = rest if k == 2 else part([*[HEAD] * repeated, *ROWS], 740, bold=[0] * repeated)
                    pdf = document([text(72, 740, PROSE), *part(foot[:k], 72 + 18 * k, bold=[0])], rows)
                    self.assertEqual(grids(pdf), [drawn(HEAD, *ROWS)])
                    self.assertIn(PROSE, [p.text for p in wennak.read(pdf).blocks if hasattr(p, "text")])
        prose = [
            text(x, first - 12 * k, "found sound berths along the whole of the quay", 9)
            for x, first, lines in ((60, 740, 49), (320, 560, 30))
            for k in range(lines)
        ]
        left, right = part(foot[:1], 130, 60, 0.6, [0]), part([HEAD, *ROWS], 740, 320, 0.6, [0])
        self.assertEqual(grids(document([*prose, *left, *right])), [drawn(HEAD, *ROWS)])

    def test_a_label_of_a_group_alone_at_an_end_of_a_page_is_a_row(self) -> None:
        """It stands by itself at the foot, or at the head of what follows, below running heads or none."""
        rows = [("Inner quay",), *ROWS[:2], ("Outer quay",), *ROWS[2:5], ("Moorings",), *ROWS[5:]]
        want = [drawn(HEAD, *((*row, *[""] * (4 - len(row))) for row in rows))]

        for ends in (7, 8):
            for running in ([], [text(430, 770, "Skerra Sound", 8)]):
                with self.subTest(ends=ends, running=bool(running)):
                    above = [*part([HEAD], 272, bold=[0]), *apart(rows[:ends], 272)]
                    pdf = document(
                        [*running, text(72, 740, PROSE), *above], [*running, *apart(rows[ends:], 740)]
                    )
                    self.assertEqual(grids(pdf), want)

    def test_a_label_of_a_group_behind_the_numbers_of_rows_is_a_row_at_an_end_of_a_page(self) -> None:
        rows = [("", "Inner quay"), *ROWS[:3], ("", "Outer quay"), *ROWS[3:6], ("", "Moorings"), *ROWS[6:]]
        rows = [(str(k), *row[1:]) if len(row) > 2 else row for k, row in enumerate(rows)]
        want = [drawn(HEAD, *((*row, *[""] * (4 - len(row))) for row in rows))]
        for ends in (8, 9):
            above = [text(72, 740, PROSE), *part([HEAD], 272, bold=[0]), *apart(rows[:ends], 272)]
            self.assertEqual(grids(document(above, apart(rows[ends:], 740))), want, ends)

    def test_the_number_of_a_page_right_below_a_table_with_groups_is_no_label(self) -> None:
        rows = [("Inner quay",), *ROWS[:3], ("Outer quay",), *ROWS[3:]]
        above = part([HEAD, *rows[:6]], 160, bold=[0])
        pdf = document([*above, text(72, 34, "1/2")], [*part(rows[6:], 740), text(72, 34, "2/2")])
        want = drawn(HEAD, *((*row, *[""] * (4 - len(row))) for row in rows))
        self.assertEqual(grids(pdf), [want])

    def test_labels_of_groups_at_a_foot_head_the_table_of_the_next_page(self) -> None:
        groups = {
            (("Arrivals", 1, 1), ("Both tides", 2, 2)): [(142, "Arrivals"), (300, "Both tides")],
            (("In the haven", 1, 3),): [(232, "In the haven")],
        }
        name = text(72, 110, "Table 4. Berths in use")
        for wanted, labels in groups.items():
            for k in (0, 1):
                with self.subTest(wanted, rows=k):
                    # Labels of columns on the same page, or on the next.
                    at = 72 + 18 * k
                    heads = [text(x, at, label) for x, label in labels]
                    foot = [text(72, 740, PROSE), name, *heads, *part([HEAD] * k, at - 18, bold=[0])]
                    rest = ROWS if k else [HEAD, *ROWS]
                    (table,) = wennak.read(document(foot, part(rest, 740, bold=[] if k else [0]))).tables
                    said = [(c.text, c.column, c.colspan) for c in table.cells if c.row == 0 and c.text]
                    self.assertEqual(tuple(said), wanted)
                    self.assertEqual((table.rows, table.header_rows), (len(ROWS) + 2, 2))
                    self.assertEqual(table.caption, "Table 4. Berths in use")

    def test_labels_of_groups_tell_a_head_at_a_foot_that_is_set_as_rows_are(self) -> None:
        """The label of a group of rows is below it, and many values are missing on the pages that follow."""
        at = (72, 230, 290, 350, 410)

        def row(y: float, cells: Sequence[str]) -> list[str]:
            return [text(x, y, cell) for x, cell in zip(at, cells, strict=True) if cell]

        head, label = ("Berth", "Q1", "Q2", "Q3", "Q4"), ("Outer quay", "", "", "", "")
        rows = [
            (f"{name}, {k}", f"{k}{r}.5", "n.a.", "n.a." if r % 2 else f"4{k}.{r}", f"{r}{k}.7")
            for k in range(10)
            for r, (_, name, *_) in enumerate(ROWS)
        ]
        foot = [text(72, 740, PROSE), text(236, 122, "Outer quay"), text(362, 122, "Moorings")]
        foot += [*row(104, head), *row(86, label)]
        pages = [
            [c for k, own in enumerate(part) for c in row(740 - 18 * k, own)]
            for part in (rows[:38], rows[38:])
        ]
        pages[1].append("0.5 w 66 735 m 440 735 l S")
        (table,) = wennak.read(document(foot, *pages)).tables
        self.assertEqual((table.rows, table.header_rows), (len(rows) + 3, 2))
        groups = [(c.text, c.column, c.colspan) for c in table.cells if c.row == 0 and c.text]
        self.assertEqual(groups, [("Outer quay", 1, 2), ("Moorings", 3, 2)])
        grid = [[c.text if c else "" for c in row] for row in table.grid()]
        self.assertEqual(grid[1:], drawn(head, label, *rows))

    def test_a_head_that_nothing_tells_from_rows_is_none_where_it_is_repeated(self) -> None:
        rows = [(f"Pier {k}", name, "lit", "north") for k, (_, name, *_) in enumerate(ROWS)]
        head = ("Place", "Vessel", "Lamp", "Side")
        program = [text(72, 700 - 12 * k, f"set {k}", 7) for k in range(3)]
        below = [*part([head, rows[-1]], 740), *program]
        (table,) = wennak.read(document(part([head, *rows[:-1]], 72 + 18 * len(rows)), below)).tables
        self.assertEqual([[c.text for c in row] for row in table.grid()], drawn(head, *rows))

    def test_lines_at_a_foot_that_are_no_head_stay_text(self) -> None:
        below = part([HEAD, *ROWS], 740, bold=[0])
        feet = {
            "a sentence": [text(72, 90, PROSE)],
            "words of the head": [text(72, 90, "Vessel"), text(190, 90, "Berth")],
            "another head": part([("Pier", "Lamp", "Height", "Seen from")], 90, bold=[0]),
            "labels of no groups": [text(140, 90, "Arrivals"), text(400, 90, "Both tides")],
            "one label without a name above": [text(240, 90, "In the haven")],
        }
        for what, foot in feet.items():
            with self.subTest(what):
                self.assertEqual(grids(document([text(72, 740, PROSE), *foot], below)), [drawn(HEAD, *ROWS)])

    def test_the_part_that_shows_more_gives_the_columns(self) -> None:
        # The last row leaves out the first column; by itself it shows three.
        last = ("", *ROWS[-1][1:])
        for head in (True, False):
            above = part([HEAD, *ROWS[:-1]], 240, bold=[0])
            below = part([HEAD, last] if head else [last, last], 740, bold=[0] if head else [])
            with self.subTest(head=head):
                rows = [last] if head else [last, last]
                self.assertEqual(grids(document(above, below)), [drawn(HEAD, *ROWS[:-1], *rows)])

    def test_a_line_of_a_program_is_no_row_left_over(self) -> None:
        fonts = {**FONTS, "F3": {"Subtype": "/Type1", "BaseFont": "/Courier", "Encoding": "/WinAnsiEncoding"}}
        above = part([(HEAD[0], HEAD[1]), *(row[:2] for row in ROWS)], 230, bold=[0])
        for font, rows in (("F1", 10), ("F3", 9)):
            top = [text(72, 740, "B9", font=font), text(142, 740, "Gull 9", font=font)]
            with self.subTest(font):
                pages = (above, [*top, text(72, 600, PROSE)])
                both = joined(pdf_of("\n".join(page), fonts) for page in pages)
                self.assertEqual([len(grid) for grid in grids(both)], [rows])

    def test_a_table_of_other_columns_is_not_forced_into_these(self) -> None:
        wide = [
            text(72 + 62 * c, 740 - 18 * r, f"{r + c}.{c}" if c else f"Light {r}")
            for r in range(9)
            for c in range(7)
        ]
        found = grids(document(part([HEAD, *ROWS], 230, bold=[0]), wide))
        self.assertEqual([(len(g), len(g[0])) for g in found], [(9, 4), (9, 7)])

    def test_a_label_of_several_rows_spans_them_wherever_a_page_ends(self) -> None:
        groups = {"North quay": 3, "South quay": 2, "Slip": 4, "Old basin": 3}
        rows = [(quay, k) for quay, count in groups.items() for k in range(count)]

        def lines(y: float, first: float) -> str:
            return f"0.6 w {first} {y} m 330 {y} l S"

        def page(top: float, rows: Sequence[tuple[str, int]]) -> list[str]:
            said = [text(x, top, t, font="F2") for x, t in ((72, "Quay"), (160, "Berth"), (250, "Draught"))]
            said += [lines(top + 13, 66), lines(top - 5, 66)]
            for r, (quay, k) in enumerate(rows, 1):
                y = top - 18 * r
                said += [text(160, y, f"{quay[0]}{k + 1}"), text(250, y, f"{4 + r % 3}.{k} m")]
                said += [text(72, y, quay)] if not k else []
                last = r == len(rows) or not rows[r][1]
                said.append(lines(y - 5, 66 if last else 154))
            foot = top - 18 * len(rows) - 5
            return said + [f"0.6 w {x} {foot} m {x} {top + 13} l S" for x in (66, 154, 244, 330)]

        (whole,) = wennak.read(document(page(700, rows))).tables
        spans = {c.text: (c.row, c.rowspan) for c in whole.cells if c.column == 0}
        self.assertEqual([spans[quay][1] for quay in groups], list(groups.values()))
        for k in range(2, len(rows) - 1):
            with self.subTest(rows_on_first_page=k):
                # The label of a group that goes on is not said again.
                pdf = document(page(60 + 18 * k, rows[:k]), page(740, rows[k:]))
                (table,) = wennak.read(pdf).tables
                self.assertEqual({c.text: (c.row, c.rowspan) for c in table.cells if c.column == 0}, spans)

    def test_a_part_without_its_first_column_keeps_the_others_and_its_rows(self) -> None:
        lefts = (72, 128, 196, 262, 340)
        said = [(name, f"{4 + k / 10:.1f}", f"{k}:10", f"{3 * k} t") for k, (_, name, *_) in enumerate(ROWS)]
        said[6] = ("The keeper's launch", *said[6][1:])

        def page(top: float, body: Sequence[tuple[str, ...]], groups: dict[int, str]) -> list[str]:
            out, y = [], top
            for k, row in enumerate(body):
                own = row[0].split(" launch") if "launch" in row[0] else [row[0]]
                out += [text(lefts[1], y, own[0])] + [text(lefts[1], y - 11, "launch")] * (len(own) - 1)
                out += [text(x, y, cell) for x, cell in zip(lefts[2:], row[1:], strict=True)]
                out += [text(lefts[0], y, groups[k])] if k in groups else []
                y -= 11 * (len(own) - 1) + 16
                out.append(f"0.6 w {72 if k + 1 in groups else 124} {y + 11} m 390 {y + 11} l S")
            return out

        labels = zip(lefts, ("Quay", "Vessel", "Draught", "In", "Load"), strict=True)
        head = [text(x, 100, said, font="F2") for x, said in labels]
        head += ["0.6 w 72 111 m 390 111 l S", "0.6 w 72 95 m 390 95 l S"]
        above = [text(72, 140, PROSE), *head, *page(84, said[:4], {0: "Inner", 3: "Outer"})]
        (table,) = wennak.read(document(above, page(740, said[4:], {}))).tables
        grid = [[cell.text if cell else "" for cell in row] for row in table.grid()]
        self.assertEqual([row[1:] for row in grid[1:]], [list(row) for row in said])

    def test_a_head_that_counts_its_columns_is_one_at_the_foot_of_a_column(self) -> None:
        names = [row[1] for row in ROWS[:5]]
        lefts = (60, 150, 172, 194, 216, 238)
        prose = [text(60, 740 - 12 * k, "found sound berths along the whole of the", 9) for k in range(40)]
        prose += [text(320, 630 - 12 * k, "found sound berths along the whole of the", 9) for k in range(30)]
        head = [text(x, 240, f"{k}", 9, "F2") for k, x in enumerate(lefts[1:], 1)]
        body = [
            [text(dx + x, y, said) for x, said in zip(lefts, (f"{k}: {name}", *"35879"[:k]), strict=False)]
            for k, (name, dx, y) in enumerate(
                ((n, 260 if k else 0, 740 - 18 * (k - 1) if k else 222) for k, n in enumerate(names)), 1
            )
        ]
        want = [
            ["", *"12345"],
            *([f"{k}: {n}", *"35879"[:k], *[""] * (5 - k)] for k, n in enumerate(names, 1)),
        ]
        self.assertEqual(grids(document([*prose, *head, *(p for row in body for p in row)])), [want])

    def test_what_runs_over_both_columns_ends_them(self) -> None:
        """Rows at the foot of a column begin the table of the next one above a table over both, too."""
        prose = [
            text(60, 740 - 12 * k, "found sound berths along the whole of the quay", 9) for k in range(9)
        ]
        left, right = part([HEAD, ROWS[0]], 616, 60, 0.6, [0]), part(ROWS[1:], 740, 320, 0.6)
        wide = [
            text(x, 530 - 18 * r, said)
            for r in range(5)
            for x, said in ((60, f"Pilotage number {r}"), (300, f"{r}.50"), (500, f"{3 * r} t"))
        ]
        below = [
            text(x, 400 - 12 * k, "found sound berths along the whole of the quay", 9)
            for x in (60, 320) for k in range(20)
        ]  # fmt: skip
        found = grids(document([*prose, *left, *right, *wide, *below]))
        self.assertEqual(found[0], drawn(HEAD, *ROWS))

    def test_labels_of_groups_at_the_top_of_a_page_are_no_running_head(self) -> None:
        names = [f"Quay {letter}" for letter in "ABCDEFGHKL"]

        def page(top: float, first: int, last: int) -> list[str]:
            said = [text(210, top, "Spring", font="F2"), text(350, top, "Autumn", font="F2")]
            said += [f"0.6 w {x} {top - 5} m {x + 110} {top - 5} l S" for x in (170, 310)]
            labels = ((72, "Quay"), (176, "cod"), (246, "ling"), (316, "hake"), (386, "skate"))
            said += [text(x, top - 26, t, font="F2") for x, t in labels]
            for r, name in enumerate(names[first:last], first):
                y = top - 46 - 18 * (r - first)
                said += [text(72, y, name)] + [text(176 + 70 * c, y, f"{r + 4}.{c}") for c in range(4)]
            return said

        (whole,) = wennak.read(document(page(700, 0, 10))).tables
        self.assertEqual((whole.rows, whole.header_rows), (12, 2))
        for k in (4, 6, 8):
            with self.subTest(rows_on_first_page=k):
                pdf = document(page(80 + 18 * k, 0, k), page(762, k, 10))
                said = [[c and c.text for c in row] for row in whole.grid()]
                self.assertEqual([[[c and c.text for c in row] for row in t.grid()]
                                  for t in wennak.read(pdf).tables], [said])  # fmt: skip

    def test_rules_below_groups_of_rows_make_no_header_at_either_end_of_a_page(self) -> None:
        """Below labels with a colon, and below rows that begin with a value with decimals."""
        said = ("Length", "Draught", "Keeper", "Code", "Berth", "Sound", "Since", "Visits", "Load", "Place")
        form = [(f"{label}:", f"{4 + k}.0 m") for k, label in enumerate(said)]
        values = [(f"B{k} of Oskay", f"{7 - k / 10:.1f}", f"{k}.5", f"{30 - k}.2") for k in range(10)]
        for rows, x in ((form, (72, 200)), (values, (72, 200, 280, 360))):
            for first in (5, 7):
                pages = []
                for own, top, lines in ((rows[:first], 60 + 18 * first, 38), (rows[first:], 760, 0)):
                    drawn = [text(72, 740 - 12 * k, PROSE[:80], 9) for k in range(lines)]
                    for r, row in enumerate(own):
                        y, number = top - 18 * r, r + (len(pages) and first)
                        drawn += [text(left, y, cell) for left, cell in zip(x, row, strict=True)]
                        drawn += [f"0.6 w 66 {y - 5} m 410 {y - 5} l S"] * (number % 3 == 2)
                        drawn += [f"0.6 w 190 {y - 5} m 190 {y + 13} l S"]
                    pages.append(drawn)
                (found,) = wennak.read(document(*pages)).tables
                self.assertEqual((found.rows, found.header_rows), (10, 0), (x, first))

    def test_a_table_goes_on_in_the_next_column_below_one_over_both(self) -> None:
        """The label of a group, set in as its rows are, ends the left part."""
        over = [text(244 + 46 * c, 740 - 16 * r, f"{r + 3}.{c}" if c else f"Quay {r}")
                for r in range(6) for c in range(4)]  # fmt: skip
        prose = [
            text(60, 620 - 12 * k, "found sound berths along the whole of the quay", 9) for k in range(8)
        ]
        rows = [
            ("Oskay", "", ""),
            *((f"B{k}", f"{k}.5", f"{30 - k}.2") for k in range(3)),
            ("Sound:", "", ""),
        ]
        rows += [(f"C{k}" if k < 7 else "Sum", f"{k + 1}.5", f"{20 - k}.2") for k in range(8)]

        def part(left: float, top: float, rows: Sequence[tuple[str, ...]]) -> list[str]:
            at = [(left + 10 * (row[0] not in ("Oskay", "Sum")), left + 90, left + 150) for row in rows]
            return [text(x, top - 14 * r, cell) for r, row in enumerate(rows)
                    for x, cell in zip(at[r], row, strict=True) if cell]  # fmt: skip

        head = [*part(60, 500, [("Berth", "In", "Out")]), "0.6 w 60 495 m 240 495 l S"]
        drawn = [*over, *prose, *head, *part(60, 480, rows[:5]), *part(330, 620, rows[5:])]
        drawn += [text(330, 490 - 12 * k, "found sound berths along the whole", 9) for k in range(8)]
        found = grids(document(drawn))[1]
        self.assertEqual([row[0].lstrip() for row in found if row], ["Berth", *(row[0] for row in rows)])

    def test_rows_of_times_above_the_first_rule_of_a_page_are_no_header(self) -> None:
        rows = [
            (f"Halt {'ABCDEFGHKLMN'[r]}", *(f"{7 + 2 * c}:{10 + 4 * r}" for c in range(3))) for r in range(12)
        ]

        def page(top: float, rows: Sequence[Sequence[str]], rules: Sequence[int]) -> list[str]:
            said = part(rows, top)
            return said + [f"0.6 w 66 {top - 18 * r - 5} m 330 {top - 18 * r - 5} l S" for r in rules]

        head = ("Halt", "Bus 11", "Bus 12", "Bus 14")
        pdf = document(page(72 + 18 * 5, [head, *rows[:5]], (0,)), page(740, rows[5:], (2,)))
        self.assertEqual(grids(pdf), [drawn(head, *rows)])

    def test_a_year_above_a_part_goes_on_with_the_table_that_it_heads(self) -> None:
        def accounts(left: float, top: float, head: str, rows: Sequence[tuple[str, str]]) -> list[str]:
            said = [f"0.6 w {left} {top + y} m {left + 130} {top + y} l S" for y in (13, -5)]
            said += [text(left + 90, top, head)]
            for r, (label, value) in enumerate(rows, 1):
                said += [text(left + 4, top - 18 * r, label), text(left + 90, top - 18 * r, value)]
            return said

        first = [(row[0], f"E {31 + 7 * k}") for k, row in enumerate(ROWS[:4])]
        more = [(row[0], f"E {12 + 9 * k}") for k, row in enumerate(ROWS[4:])]
        beside = [(f"Slip {k}", f"{27496 + 101 * k}" if k % 2 else f"E [{4401 * k}]") for k in range(4)]
        foot = accounts(72, 160, "2009", first) + accounts(300, 160, "June 30", beside)
        tables = wennak.read(document(foot, accounts(72, 740, "2009", more))).tables
        held = [{c.text for c in table.cells} for table in tables]
        self.assertFalse(any({beside[1][0], more[0][0]} <= said for said in held))
        self.assertTrue(any({first[0][0], more[0][0]} <= said for said in held))

    def test_pieces_of_a_table_at_the_top_of_a_page_are_right_below_each_other(self) -> None:
        said, y = [], 770.0
        for group, count in (("North", 3), ("South", 4), ("Slip", 7)):
            said += [f"0.6 w 66 {y} m 326 {y} l S", text(180, y - 12, group, font="F2")]
            for k in range(count):
                y -= 16
                said += [f"0.6 w 66 {y} m 326 {y} l S"]
                said += [f"0.6 w {x} {y - 16} m {x} {y} l S" for x in (66, 160, 240, 326)]
                cells = ((72, f"Vessel {'ABCDEFG'[k]}"), (170, f"{k + 4}.0"), (250, f"{k + 4}.1"))
                said += [text(x, y - 12, t) for x, t in cells]
            y -= 16
        (table,) = wennak.read(document([*said, text(72, y - 40, PROSE)])).tables
        self.assertEqual(
            {"North", "South", "Slip"} & {c.text for c in table.cells}, {"North", "South", "Slip"}
        )

    def test_missing_values_at_the_top_of_a_page_stay_missing(self) -> None:
        rows = [*ROWS[:4], (ROWS[4][0], "", *ROWS[4][2:]), *ROWS[5:]]
        pdf = document(part([HEAD, *rows[:4]], 72 + 18 * 4, bold=[0]), part([HEAD, *rows[4:]], 740, bold=[0]))
        self.assertEqual(grids(pdf), [drawn(HEAD, *rows)])

    def test_pieces_read_apart_give_the_same(self) -> None:
        from wennak.ink import PdfFile
        from wennak.pipeline import document_of
        from wennak.stretches import joined_stretches, read_stretch
        from wennak.tables import find_method

        reader = find_method("combined")
        data = document(
            part([HEAD, *ROWS[:4]], 140, bold=[0]),
            [*part(ROWS[4:], 740, bold=[0]), *part([HEAD, *ROWS[:3]], 300, bold=[0])],
            [*part(ROWS[:2], 740), text(72, 400, PROSE), *part([HEAD], 90, bold=[0])],
            [*part(ROWS, 740), *part([HEAD], 90, bold=[0])],
            part([HEAD, *ROWS], 740, bold=[0]),
        )
        whole = wennak.read(data, name="parts.pdf")
        self.assertEqual([table.rows for table in whole.tables], [9, 4, 2, 9, 9])
        for parted in ([1, 2, 3, 4, 5], [1, 2, 3, 5], [1, 3, 4, 5], [2, 5], [3, 5], [4, 5]):
            with self.subTest(parted), PdfFile(data, "parts.pdf") as pdf:
                pieces = [
                    read_stretch(pdf, pdf.pages(list(range(a + 1, b + 1))), reader)
                    for a, b in pairwise([0, *parted])
                ]
                joined = joined_stretches(
                    pieces,
                    lambda again, last, pdf=pdf: read_stretch(  # type: ignore[misc]
                        pdf, pdf.pages([page.number for page in again.pages]), reader, last
                    ),
                )
                self.assertEqual(document_of(pdf, joined), whole)


def table_of(*rows: Sequence[str], heads: int = 1) -> Table:
    """A table of texts, one a cell."""
    cells = [
        Cell(r, k, text=said, header=r < heads) for r, row in enumerate(rows) for k, said in enumerate(row)
    ]
    return Table(rows=len(rows), columns=len(rows[0]), cells=cells, header_rows=heads)


class TestMisreadHeads(InFolder):
    READ = ("Bertb", "Vesse!", "Draugbt (m)", "Stay (h)")
    FROM_2024, FROM_2025 = (("Berth", "Vessel", f"Draught {year}", "Stay (h)") for year in (2024, 2025))

    def test_letters_may_be_misread_in_pictures_and_digits_not(self) -> None:
        rows = ROWS[:3]
        for head, again, picture, same in (
            (HEAD, HEAD, False, True),
            (HEAD, self.READ, False, False),
            (HEAD, self.READ, True, True),
            (self.FROM_2024, self.FROM_2025, True, False),
            (HEAD, ("Quay", "Pilot", "Length (m)", "Fee (EUR)"), True, False),
            (HEAD, ROWS[4], True, False),
            (("Outer quay berth", *HEAD[1:]), ("Inner quay berth", *HEAD[1:]), True, False),
        ):
            with self.subTest(again=again, picture=picture):
                a, b = table_of(head, *rows), table_of(again, *rows)
                self.assertEqual(repeats_head(a, b, picture), same)
                self.assertEqual(repeats_head(b, a, picture), same)

    @unittest.skipUnless(installed_languages(), "needs the extra ocr")
    def test_a_scanned_table_goes_on_below_a_head_that_reads_a_little_otherwise(self) -> None:
        def pages(head: Sequence[str]) -> bytes:
            return document(part([HEAD, *ROWS[:4]], 140, bold=[0]), part([head, *ROWS[4:]], 740, bold=[0]))

        for head, parts in ((("Berlh", "Vesset", "Draught (m)", "Slay (h)"), 1), (self.FROM_2024, 2)):
            paper, scan = self.folder / "paper.pdf", self.folder / "scan.pdf"
            paper.write_bytes(pages(head))
            draw_scan(paper, scan)
            with self.subTest(head):
                self.assertEqual(len(grids(pages(head))), 2)
                tables = grids(scan.read_bytes())
                self.assertEqual(len(tables), parts)
                berths = [row[0] for table in tables for row in table if row[0].startswith("B")]
                self.assertEqual([b for b in berths if b[1].isdigit()], [row[0] for row in ROWS])


if __name__ == "__main__":
    unittest.main()
