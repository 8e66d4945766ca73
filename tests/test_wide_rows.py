"""Tables as office programs set them: rows far apart with labels of groups right below them, narrow columns
that break words, cells of several paragraphs and over page ends, text right above and below.
"""

from __future__ import annotations

import unittest
from collections.abc import Sequence

import numpy as np

import wennak
from tests.support import pdf_of, words
from tests.test_continued import FONTS, PROSE, document, text
from tests.test_readings import layouts
from tests.test_spans import rule, texts
from wennak.tables.draft import CellDraft, TableDraft, plain_text
from wennak.tables.stub_rows import with_near_lines_joined
from wennak.tables.unruled import with_known_lines_apart, with_rows_between_lines

CODE = {**FONTS, "F3": {"Subtype": "/Type1", "BaseFont": "/Courier", "Encoding": "/WinAnsiEncoding"}}
GROUPS = {"Pilot boats": 3, "Tugs": 4, "Ferries": 3}
COSTS = ("Crew", "Fuel", "Repairs", "Insurance")
STEP, NEAR = 34, 17


def right(x: float, y: float, said: str, font: str = "F1") -> str:
    """A number that ends at x: figures of Helvetica are .556 em wide, points .278."""
    return text(x - sum(2.78 if c in ".," else 5.56 for c in said), y, said, font=font)


def accounts(top: float, groups: Sequence[str], head: bool = True) -> tuple[list[str], list[list[str]]]:
    """Costs by group, a label of each right below the row before, and the rows that this makes."""
    out, rows = [], []
    y = top
    if head:
        out += [text(260, y, "2031", font="F2"), text(360, y, "2032", font="F2")]
        rows.append(["", "2031", "2032"])
    for g, group in enumerate(groups):
        y -= NEAR
        out.append(text(72, y, group, font="F2"))
        rows.append([group, "", ""])
        for k, cost in enumerate(COSTS[: GROUPS[group]]):
            y -= STEP
            values = [f"{(37 * g + 11 * k + 3) % 90 + 10}.{k}", f"{(53 * g + 7 * k + 5) % 90 + 10}.{k + 1}"]
            out += [text(84, y, cost), right(280, y, values[0]), right(380, y, values[1])]
            rows.append([cost, *values])
    return out, rows


def read(*pieces: Sequence[str], fonts: dict[str, dict[str, object]] | None = None) -> wennak.Document:
    return wennak.read(pdf_of("\n".join(p for piece in pieces for p in piece), fonts or FONTS))


class TestGroupsSetWide(unittest.TestCase):
    def test_labels_right_below_a_row_are_rows_of_one_table(self) -> None:
        drawn, rows = accounts(640, list(GROUPS))
        (table,) = read([text(72, 700, PROSE)], drawn).tables
        self.assertEqual(texts(table), rows)

    def test_signs_far_from_their_numbers_make_no_columns(self) -> None:
        drawn, rows = accounts(640, list(GROUPS))
        signs = [text(x, 640 - NEAR - STEP, "$") for x in (230, 330)]
        (table,) = read([text(72, 700, PROSE)], drawn, signs).tables
        rows[2] = [rows[2][0], *(f"${value}" for value in rows[2][1:])]
        said = [[cell.replace("$ ", "$") for cell in row] for row in texts(table)]
        self.assertEqual(said, rows)

    def test_a_label_of_two_lines_stays_one(self) -> None:
        names = [
            ("Harbour dues of", "the outer quay"),
            ("Light", "dues"),
            ("Pilotage in", "and out"),
            ("Towage", ""),
        ]
        out = [text(170, 640, "2031", font="F2"), text(270, 640, "2032", font="F2")]
        for k, (first, second) in enumerate(names):
            y = 610 - 40 * k
            out += [text(72, y, first), right(190, y, f"{k + 1}2.4"), right(290, y, f"{k + 3}7.1")]
            out += [text(72, y - 12, second)] if second else []
        (table,) = read([text(72, 700, PROSE)], out).tables
        self.assertEqual([row[0] for row in texts(table)[1:]], [" ".join(n).strip() for n in names])

    def test_the_last_row_of_a_page_behind_a_label_is_none_of_its_foot(self) -> None:
        first, rows = accounts(370, ["Pilot boats", "Tugs"])
        label = 370 - 3 * NEAR - 7 * STEP
        last = label - STEP
        first += [text(72, label, "Ferries", font="F2"), text(84, last, "Crew")]
        first += [right(280, last, "45.1"), right(380, last, "16.2")]
        self.assertLess(last, 80)
        found = read([text(72, 700, PROSE)], first)
        (table,) = found.tables
        self.assertEqual(texts(table), [*rows, ["Ferries", "", ""], ["Crew", "45.1", "16.2"]])

    def test_a_title_apart_from_labels_without_stub_is_no_row(self) -> None:
        out = [text(72, 640, "Costs of the fleet", font="F2")]
        out += [text(258, 614, "2031", font="F2"), text(358, 614, "2032", font="F2")]
        rows = [["", "2031", "2032"]]
        for k, cost in enumerate((*COSTS, "Paint", "Ropes")):
            rows.append([cost, f"{(37 * k + 3) % 90 + 10}.{k}", f"{(53 * k + 5) % 90 + 10}.{k}"])
            out += [text(72, 600 - 14 * k, cost)]
            out += [right(x, 600 - 14 * k, v) for x, v in zip((280, 380), rows[-1][1:], strict=True)]
        (table,) = read([text(72, 700, PROSE)], out).tables
        self.assertEqual(texts(table), rows)


class TestLabelsABlankApart(unittest.TestCase):
    def test_they_stand_over_the_columns_where_they_end(self) -> None:
        """Labels in fixed pitch, a blank apart, over numbers that end where they do."""
        ends = (252, 318, 396, 462)
        heads = ("Gulls", "Petrels", "Oystercatch", "Dunlins")
        out = [text(72, 640, "Quay", font="F3")]
        out += [text(x - 6 * len(h), 640, h, font="F3") for x, h in zip(ends, heads, strict=True)]
        for r, quay in enumerate(("North", "South", "Outer", "Inner", "Long", "Old")):
            out.append(text(72, 620 - 16 * r, quay, font="F3"))
            values = [str((17 * r + 5 * c) % 70 + 12) for c in range(4)]
            out += [text(x - 12, 620 - 16 * r, v, font="F3") for x, v in zip(ends, values, strict=True)]
        (table,) = read([text(72, 700, PROSE)], out, fonts=CODE).tables
        self.assertEqual(texts(table)[0], ["Quay", *heads])

    def test_two_labels_in_bold_head_two_columns_of_text(self) -> None:
        what = (
            "The depth of water",
            "The length of the quay",
            "The height of the tide",
            "The name of the light",
        )
        out = [text(72, 640, "Column", font="F2"), text(118, 640, "Note", font="F2")]
        for k, note in enumerate(what):
            out += [
                text(72, 620 - 16 * k, ("deep", "long", "tide", "light")[k]),
                text(118, 620 - 16 * k, note),
            ]
        (table,) = read([text(72, 700, PROSE)], out).tables
        self.assertEqual(texts(table)[0], ["Column", "Note"])


class TestTextAround(unittest.TestCase):
    def test_prose_below_the_last_rule_is_text(self) -> None:
        facts = [
            ("Depth:", "Nine metres at low water"),
            ("Light:", "Two white flashes"),
            ("Owner:", "Skerra Port"),
        ]
        out = [text(72, 700, "Outer quay", size=14, font="F2")]
        for k, (label, said) in enumerate(facts):
            y = 670 - 18 * k
            out += [text(72, y, label, font="F2"), text(140, y, said), rule(72, 400, y - 5)]
        prose = "The outer quay takes vessels of any length at all states of the tide."
        found = read(
            out, [text(72, 616, prose), text(72, 602, "Ask the harbour master before you moor there.")]
        )
        (table,) = found.tables
        self.assertEqual(texts(table), [list(row) for row in facts])
        self.assertIn(prose, found.markdown())


class TestNarrowColumns(unittest.TestCase):
    def columns(self, cells: Sequence[tuple[Sequence[str], str]], font: str = "F3") -> list[list[str]]:
        out, y = [text(72, 640, "Call", font="F2"), text(190, 640, "What it does", font="F2")], 620.0
        for lines, said in cells:
            out += [text(72, y - 11 * k, line, font=font) for k, line in enumerate(lines)]
            out.append(text(190, y, said))
            y -= 11 * len(lines) + 8
            out.append(rule(72, 400, y + 13))
        (table,) = read([text(72, 700, PROSE)], out, fonts=CODE).tables
        return texts(table)[1:]

    def test_words_broken_without_a_hyphen_are_whole(self) -> None:
        cells = [
            (("tide.table",), "The tides, as in tide.next_high_water"),
            (("tide.next_high_", "water[]"), "When the water is high"),
            (("berth.free[nort", "]"), "Whether a berth is free"),
            (("MOORING_NOT_ALL", "OWED"), "What a berth answers"),
        ]
        found = [row[0] for row in self.columns(cells)]
        self.assertEqual(found, ["".join(lines) for lines, _ in cells])

    def test_words_that_fill_their_line_stay_apart(self) -> None:
        cells = [
            (("Documentation", "of berths"), "A list"), (("Announcements", "for pilots"), "A book"),
            (("Harbour", "office"), "A house"), (("Tide", "tables"), "A book"),
        ]  # fmt: skip
        found = [row[0] for row in self.columns(cells, "F1")]
        self.assertEqual(found, [" ".join(lines) for lines, _ in cells])

    def test_a_hyphen_that_stands_elsewhere_on_the_page_is_kept(self) -> None:
        cells = [
            (("berth-name",), "A name"), (("free berth-", "name list"), "Names"),
            (("quay/low-", "water"), "A file"), (("pilots: har-", "bour"), "A place"),
        ]  # fmt: skip
        found = [row[0] for row in self.columns(cells)]
        self.assertEqual(found, ["berth-name", "free berth-name list", "quay/low-water", "pilots: harbour"])


class TestCells(unittest.TestCase):
    def test_paragraphs_of_a_cell_are_one_cell(self) -> None:
        cells = [
            ("depth", ["The depth of the water at the lowest tide that", "was ever measured at this quay."]),
            (
                "light",
                ["The light at the head of the quay.", "", "It is lit from dusk until dawn in any fog."],
            ),
            ("crane", ["The crane lifts twelve tonnes at eleven metres."]),
            ("rail", ["There is no rail on this quay."]),
        ]
        out = [text(72, 640, "Fact", font="F2"), text(140, 640, "What is said of it", font="F2")]
        y = 620.0
        for label, lines in cells:
            out.append(text(72, y, label))
            for line in lines:
                out += [text(140, y, line)] if line else []
                y -= 12 if line else 10
            y -= 6
        (table,) = read([text(72, 700, PROSE)], out).tables
        self.assertEqual([row[0] for row in texts(table)], ["Fact", *(label for label, _ in cells)])
        self.assertEqual(texts(table)[2][1], " ".join(line for line in cells[1][1] if line))

    def test_a_label_of_two_lines_between_two_rules_is_one(self) -> None:
        cells = [
            (["Lower", "moorings"], ["Vessels that lie there longer than a day pay by", "the week."]),
            (["Slip"], []),
            (["Cranes"], ["The old one lifts twelve tonnes, the other nine"]),
            (["Rail"], ["None"]),
            (["Small", "moorings"], ["Boats of the Board go before all others, in any weather."]),
            (["Light"], ["Lit from dusk until dawn"]),
            (["Upper", "moorings"], ["As the lower ones"]),
        ]
        for line in (12.5, 14, 15.5):
            with self.subTest(line=line):
                out = [text(76, 640, "Term", font="F2"), text(140, 640, "Background", font="F2")]
                y = 618.0
                for labels, said in cells:
                    out += [text(72, y - line * k, label) for k, label in enumerate(labels)]
                    out += [text(140, y - line * k, each) for k, each in enumerate(said)]
                    y -= line * max(len(labels), len(said)) + 8
                    out.append(rule(70, 440, y + 12))
                (table,) = read([text(72, 700, PROSE)], out).tables
                rows = [[" ".join(part) for part in each] for each in cells]
                self.assertEqual(texts(table), [["Term", "Background"], *rows])

    def test_lines_nearer_than_all_rows_are_of_the_row_above(self) -> None:
        said = [
            ("Quay", "Depth", "Kept by"), ("North", "4.2", "the Board"), ("Lower", "9.1", "the harbour"),
            ("moorings", "", "office"), ("Slip", "2.0", "its owner"), ("Light", "1.2", "the Board"),
            ("Outer", "7.7", "the Board"), ("", "3.4", ""), ("Mole", "5.5", "the Board"),
        ]  # fmt: skip
        # (room above the line that goes on, whether a rule runs there): rows that are left.
        for near, ruled, left in ((11, False, 8), (17, False, 9), (11, True, 9)):
            with self.subTest(near=near, ruled=ruled):
                y, pieces, grid = 640.0, [], []
                for row in said:
                    y -= near if row[0] == "moorings" else 18
                    grid += [rule(66, 320, y + 8.5)] if ruled and row[0] == "moorings" else []
                    pieces += [text(x, y, t) for x, t in zip((72, 160, 240), row, strict=True) if t]
                (layout,) = layouts(pdf_of("\n".join([*pieces, *grid]), FONTS))
                words = iter(np.lexsort((layout.words.x0, layout.words.row)).tolist())
                cells = []
                for r, row in enumerate(said):
                    for c, t in enumerate(row):
                        cells += [CellDraft(r, c, 1, 1, [next(words) for _ in t.split()])] if t else []
                draft = TableDraft(
                    layout.box(np.arange(len(layout.words))), len(said), 3, cells, "spaced", []
                )
                out = with_near_lines_joined(layout, draft, layout.rules.level.at.tolist())
                self.assertEqual(out.rows, left)
                held = [plain_text(layout, c.words) for c in out.cells if c.column == 2]
                self.assertEqual("the harbour office" in held, left == 8)
                self.assertEqual(
                    sorted(i for c in out.cells for i in c.words), list(range(len(layout.words)))
                )

    def test_a_text_that_goes_on_where_rows_stand_as_near_is_of_the_row_above(self) -> None:
        """It begins small below several words without an end, which fill their column."""
        for above, below, joined in (
            ("Alongside at Holm, late because the ramp", "did not come down", True),
            ("Alongside at Holm. The ramp came late.", "did not come down", False),
            ("Alongside at Holm, late because the ramp", "Pier closed", False),
            ("Alongside", "late", False),
        ):
            entries = [("0600", "4", "Left the pier with twelve cars on deck"), ("0645", "5", above)]
            entries += [
                ("", "", below),
                ("0700", "5", "Left Holm with forty on board"),
                ("0735", "6", "At anchor"),
            ]
            heads = [text(x, 640, t, font="F2") for x, t in ((72, "Time"), (130, "Wind"), (190, "Entry"))]
            rows = [
                text(x, 628 - 12 * r, t)
                for r, e in enumerate(entries)
                for x, t in zip((72, 130, 190), e, strict=True)
                if t
            ]
            (table,) = read([text(72, 700, PROSE)], heads, rows).tables
            said = [row[2] for row in texts(table)]
            self.assertEqual(f"{above} {below}" in said, joined, said)

    def test_lines_that_are_cells_elsewhere_in_their_column_are_rows(self) -> None:
        said = [
            ("Vessel", "Load", "Speed"), ("", "empty", "9.1"), ("Gannet", "", ""), ("", "laden", "8.2"),
            ("", "empty", ""), ("Tern", "", ""), ("", "laden", "7.7"), ("Skua", "laden", "6.4"),
        ]  # fmt: skip
        # The lines of the row "Tern", and what they are: parted only where both are known.
        for lower, rows in (("laden", 6), ("in tow", 5)):
            with self.subTest(lower):
                lines = [*said[:6], ("", lower, "7.7"), said[7]]
                pieces = [
                    text(x, 640 - 9 * r, t)
                    for r, row in enumerate(lines)
                    for x, t in zip((72, 160, 240), row, strict=True)
                    if t
                ]
                (layout,) = layouts(pdf_of("\n".join(pieces), FONTS))
                w = layout.words
                of = {640 - 9 * r: k for r, k in enumerate((0, 1, 1, 2, 3, 3, 3, 4))}
                cells: dict[tuple[int, int], CellDraft] = {}
                for i in range(len(w)):
                    row = of[round(layout.height - float(w.baseline[i]))]
                    place = (row, int(np.searchsorted((150, 230), w.x0[i])))
                    cells.setdefault(place, CellDraft(*place, 1, 1, [])).words.append(i)
                draft = TableDraft(layout.box(np.arange(len(w))), 5, 3, list(cells.values()), "spaced", [])
                out = with_known_lines_apart(layout, draft)
                self.assertEqual(out.rows, rows)
                speeds = {(c.row, plain_text(layout, c.words)) for c in out.cells if c.column == 2}
                self.assertIn((rows - 2, "7.7"), speeds)
                self.assertEqual(sorted(i for c in out.cells for i in c.words), list(range(len(w))))

    def test_rows_with_a_line_between_them_are_two(self) -> None:
        said = [("Term", "Tugs"), ("Lower", "14.2"), ("Outer", ""), ("Slip", "9.1"), ("Upper", "7.7")]
        pieces = [
            text(x, 640 - 18 * r, t)
            for r, row in enumerate(said)
            for x, t in zip((72, 200), row, strict=True)
        ]
        # (left of the rules, lines without a rule): whether the rows that came out as one are parted.
        for left, without, parts in ((66, (), True), (190, (), False), (66, (3,), False)):
            with self.subTest(left=left, without=without):
                rules = [rule(left, 260, 634 - 18 * r) for r in range(len(said)) if r not in without]
                (layout,) = layouts(pdf_of("\n".join([*pieces, *rules]), FONTS))
                index = {t: k for k, t in enumerate(layout.words.texts)}
                cells = [
                    CellDraft(r - (r > 1), c, 1, 1, [index[t]])
                    for r, row in enumerate(said)
                    for c, t in enumerate(row)
                    if t and r != 2
                ]
                next(c for c in cells if index["Lower"] in c.words).words.append(index["Outer"])
                draft = TableDraft(layout.box(np.arange(len(index))), len(said) - 1, 2, cells, "spaced", [])
                lines = [float(y) for y in layout.rules.level.at]
                out = with_rows_between_lines(layout, draft, lines)
                self.assertEqual(out.rows, len(said) - (not parts))
                held = sorted(i for c in out.cells for i in c.words)
                self.assertEqual(held, list(range(len(index))))

    def test_a_cell_that_goes_on_on_the_next_page_is_one(self) -> None:
        def page(top: float, rows: Sequence[tuple[str, str]]) -> list[str]:
            out = [text(72, top, "Berth", font="F2"), text(160, top, "What may moor there", font="F2")]
            out += [rule(72, 420, top + 12), rule(72, 420, top - 5)]
            for k, (label, said) in enumerate(rows):
                out += [text(72, top - 18 * (k + 1), label)] if label else []
                out += [text(160, top - 18 * (k + 1), said), rule(72, 420, top - 18 * (k + 1) - 5)]
            return out

        first = [(f"B{k}", f"Vessels of up to {10 + k} metres") for k in range(1, 10)]
        first.append(("B10", "Ferries, pilot boats and tugs,"))
        second = [
            ("", "but no vessel with dangerous goods"),
            ("B11", "Vessels of the port"),
            ("B12", "Any vessel"),
        ]
        pages = [[text(72, 720, PROSE), *page(240, first)], page(740, second)]
        (table,) = wennak.read(document(*pages)).tables
        whole = "Ferries, pilot boats and tugs, but no vessel with dangerous goods"
        self.assertEqual(
            texts(table),
            [
                ["Berth", "What may moor there"],
                *map(list, first[:-1]),
                ["B10", whole],
                *map(list, second[1:]),
            ],
        )
        said = " ".join(cell.text for cell in table.cells)
        self.assertEqual(words(said)["Ferries,"], 1)
