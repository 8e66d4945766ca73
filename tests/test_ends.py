"""What is of a table and what is beside it: lists, paragraphs, names of figures, text of another column;
parts with other columns, labels of sections, dots, and forms that go on.
"""

from __future__ import annotations

import unittest

import numpy as np

import wennak
from tests.test_continued import PROSE, document, grids, text
from tests.test_heads import NAMES, body, completed, right, table, years
from tests.test_layout import line, prose
from tests.test_parts import VESSELS
from tests.test_places import read
from tests.test_readings import layouts
from tests.test_spans import cell, rule, texts
from wennak.tables.closing import cuts_paragraph, reaches_beside
from wennak.tables.draft import CellDraft, TableDraft
from wennak.tables.header_spans import _between_rows
from wennak.tables.places import place_of
from wennak.tables.signs import join_labels
from wennak.tables.stub_rows import _is_caseless


class TestBeside(unittest.TestCase):
    def test_a_list_beside_a_few_lines_of_another_column_is_no_table(self) -> None:
        """A note as wide as the page stands above both."""
        for count in (5, 6, 8):
            with self.subTest(items=count):
                out = [
                    text(
                        60,
                        720,
                        "Notes of the harbour office on what was seen in the sound in the spring of 2023.",
                        8,
                    )
                ]
                for k, name in enumerate(VESSELS[:count]):
                    out += [text(60, 704 - 14 * k, f"{k + 1}."), text(80, 704 - 14 * k, name)]
                for k, said in enumerate(
                    ("as they were in 2022. The dues were 8.7,", "compared with 6.5 in the year before.")
                ):
                    out.append(text(320, 704 - 14 * k, said))
                y = 704 - 14 * count - 4
                out += [
                    text(60, y - 14 * k, "the keeper counted every vessel in the sound at noon")
                    for k in range(4)
                ]
                self.assertEqual(grids(document(out)), [])

    def test_text_of_the_other_column_level_with_a_form_is_no_row_of_it(self) -> None:
        form = [("Draught:", "4.5 m"), ("Since:", "1 May 2019"), ("Berth:", "North 7"), ("State:", "moored")]
        for beside in (1, 2):
            with self.subTest(lines_beside=beside):
                said = prose(60, 740, 30, "before", 9)
                y = 740 - 12 * 30 - 20.0
                for k, (label, value) in enumerate(form):
                    said += line(110, y - 24 * k, label, 9) + line(170, y - 24 * k, value, 9)
                right_column = prose(330, 740, 29, "beside", 9)
                for k in range(beside):
                    right_column += line(330, y + 14 * (beside - 1) - 14 * k, "- Each missing hour", 9)
                held = [c.text for t in read(said + right_column).tables for c in t.cells]
                self.assertFalse([said for said in held if "missing" in said])

    def test_the_last_line_of_a_paragraph_begins_no_table(self) -> None:
        form = [("Code", "82417"), ("Draught", "4.5 m"), ("Crew", "17"), ("Dues", "31.20 a day")]
        for last in ("Skerra.", "in the sound.", "spring."):
            with self.subTest(last=last):
                out = [text(72, 700 - 12 * k, PROSE[:-1] + ",") for k in range(2)] + [text(72, 676, last)]
                for k, (label, value) in enumerate(form):
                    out += [text(90, 656 - 16 * k, label), text(170, 656 - 16 * k, value)]
                for grid in grids(document(out)):
                    self.assertEqual(grid[0], ["Code", "82417"])

    def test_the_name_of_a_figure_heads_no_table(self) -> None:
        """It stands over both columns of what is below, as their labels might."""
        for name in ("Fig. 1:", "Chart 2:", "Figure 3"):
            left_out = f"{name} Landings in the quarter"
            said = [text(72, 616, name), text(140, 616, "Landings in the quarter")]
            rows = [*(text(72, 600 - 16 * r, s) for r, s in enumerate(NAMES)),
                    *(text(200, 600 - 16 * r, f"{17 * r}.5") for r in range(len(NAMES)))]  # fmt: skip
            with self.subTest(name=name):
                _, draft = completed(left_out, said, rows)
                self.assertEqual((draft.rows, draft.header_rows), (len(NAMES), 0))

    def test_a_sentence_right_below_a_table_at_the_foot_ends_it(self) -> None:
        for ended in (True, False):
            above, below = [], []
            for k in range(8):
                above += [text(72, 176 - 14 * k, NAMES[k % 6]), right(200, 176 - 14 * k, f"{17 * k}.5")]
                below += [text(72, 740 - 14 * k, VESSELS[k]), right(200, 740 - 14 * k, f"{13 * k}.5")]
            if ended:
                above.append(text(72, 62, "The rooms of the harbour office were sound in 2023."))
            with self.subTest(ended=ended):
                found = grids(document([text(72, 200, PROSE), *above], below))
                self.assertEqual(len(found), 1 + ended)
                # The head of the next page is no such sentence.
                below.append(text(72, 770, "Notes of the harbour office."))
                found = grids(document([text(72, 200, PROSE), *above], below))
                self.assertEqual(len(found), 1 + ended)

    def test_upright_rules_of_a_table_reach_into_no_other_column(self) -> None:
        """A label without a value has the text of the next column right of the rule."""
        rows = [
            ("Object", "Litter"),
            ("Town pier", ""),
            ("Slip", "79"),
            ("Old mole", "35"),
            ("Quay", "33"),
            ("Yard", ""),
        ]
        said = prose(60, 740, 30, "before")
        y = 740 - 30 * 14 - 20.0
        for k, (label, value) in enumerate(rows):
            said += line(64, y - 14 * k, label) + line(230, y - 14 * k, value)
        said += f"0.8 w 200 {y - 75} m 200 {y + 11} l S "
        said += prose(330, 740, 40, "beside")
        (found,) = read(said).tables
        self.assertEqual([row[0] for row in texts(found)], [label for label, _ in rows])
        self.assertEqual(found.columns, 2)

    def test_places_that_hold_more_than_a_table_are_known(self) -> None:
        """The last line of a paragraph, and text of the other column level with the first row."""
        form = [("Draught", "4.5 m"), ("Since", "1 May 2019"), ("Berth", "North 7"), ("State", "moored")]
        left = [text(60, 740 - 12 * k, "the keeper counts every vessel that passes", 9) for k in range(20)]
        left += [text(60, 500, "the sound at noon.", 9)]
        left += [
            text(60 + 90 * c, 480 - 14 * k, s, 9) for k, row in enumerate(form) for c, s in enumerate(row)
        ]
        beside = [
            text(330, 740 - 12 * k, "and writes it down in the book of the light", 9) for k in range(20)
        ]
        beside += [text(330, 480, "Each missing hour", 9), text(330, 466, "The gust record", 9)]
        (layout,) = layouts(document([*left, *beside]))
        w, high = layout.words, layout.height
        own = (w.x1 < 300) & (w.y0 > high - 495)
        first, level = own | ((w.x1 < 300) & (w.y0 > high - 510)), own | ((w.x0 > 320) & (w.y0 > high - 495))
        for held, paragraph, other in ((own, False, False), (first, True, False), (level, False, True)):
            index = np.flatnonzero(held)
            place = place_of(layout, index, np.ones(len(w), dtype=np.bool_), layout.box(index))
            self.assertEqual(cuts_paragraph(layout, place), paragraph)
            self.assertEqual(reaches_beside(layout, place), other)


class TestParts(unittest.TestCase):
    def test_a_form_goes_on_though_its_parts_begin_with_quantities(self) -> None:
        """Rules stand between groups of lines that say nothing of a header."""
        form = [
            ("Dues", "29.96 p/day"), ("Losses", "0.4 %"), ("Draught", "2.5 m"), ("Time", "31 h"),
            ("Code", "86765"), ("Keeper", "B. Aldis"), ("Load", "12.5 t"), ("Heat", "34 GJ"),
            ("Depth", "0.5 m"), ("Remarks", "moored"), ("Vessels", "3"), ("Place", "Oskay"),
            ("Since", "28 May 1988"),
        ]  # fmt: skip
        for first in (6, 7, 8):
            pages = []
            for part, top in ((form[:first], 60 + 14 * first), (form[first:], 740)):
                page = [rule(72, 260, top + 12)]
                for k, (label, value) in enumerate(part):
                    page += [text(72, top - 14 * k, label), right(256, top - 14 * k, value)]
                    page += [rule(72, 260, top - 14 * k - 3)] if k % 3 == 1 else []
                pages.append(page)
            pages[0].insert(0, text(72, 700, PROSE))
            with self.subTest(first=first):
                self.assertEqual(grids(document(*pages)), [[list(row) for row in form]])
                self.assertEqual(wennak.read(document(*pages)).tables[0].header_rows, 0)

    def test_a_row_of_units_ends_the_header(self) -> None:
        units = [right(260 + 80 * c, 616, f"({unit})") for c, unit in enumerate(("t", "kn", "m"))]
        found = table(years(3, 632), [rule(66, 430, 626)], units, body(3))
        self.assertEqual(texts(found)[1], ["", "[t]", "[kn]", "[m]"])
        self.assertEqual(found.header_rows, 2)
        self.assertEqual(table(years(3, 616), [rule(66, 430, 611)], body(3)).header_rows, 1)

    def test_a_part_with_an_empty_column_goes_on(self) -> None:
        """A column of notes has no text on the second page."""
        above, below = [text(72, 700, PROSE)], []
        rows = [
            (f"{name} {k}", f"{k}7" if k % 3 == 0 else "", f"{31 * k}.5")
            for k, name in enumerate(VESSELS * 3, 1)
        ]
        for part, top, page in ((rows[:14], 60 + 16 * 14, above), (rows[14:], 740, below)):
            for k, (label, note, value) in enumerate(part):
                note = note if page is above else ""
                page += [text(72, top - 16 * k, label), right(360, top - 16 * k, value)]
                page += [right(230, top - 16 * k, note)] if note else []
        above += [text(72, 60 + 16 * 15, s) if s == "Vessel" else right(x, 60 + 16 * 15, s)
                  for x, s in ((72, "Vessel"), (230, "Note"), (360, "2021"))]  # fmt: skip
        (found,) = grids(document(above, below))
        self.assertEqual(len(found), 1 + len(rows))
        self.assertEqual(found[-1], [rows[-1][0], "", rows[-1][2]])


class TestLabels(unittest.TestCase):
    def test_the_label_of_the_first_section_may_stand_over_the_middle(self) -> None:
        """The labels of the columns are above it, and other sections have theirs at the same place."""
        out = []
        for k, name in enumerate(NAMES):
            y = 600 - 16 * k - 16 * (k > 2)
            out.append(text(72, y, name))
            out += [right(260 + 80 * c, y, f"{17 * k + c}.{c}") for c in range(3)]
        out.append(text(226, 600 - 16 * 3, "Outer quay", font="F2"))
        first = [text(226, 616, "Inner quay", font="F2")]
        head = [text(72, 632, "Vessel", font="F2"), *(text(x, 632, s, font="F2") for x, s in
                ((238, "Dues"), (318, "Crew"), (398, "Stay")))]  # fmt: skip
        _, draft = completed("Inner Vessel Dues Crew Stay", head, first, out)
        self.assertEqual((draft.rows, draft.header_rows), (2 + len(NAMES) + 1, 1))

    def test_a_label_between_two_header_rows_spans_both_where_nothing_else_makes_a_row_there(self) -> None:
        said = [
            (72, 618, "Vessel"),
            (210, 630, "Seen"),
            (172, 606, "Quay"),
            (272, 606, "Slip"),
            (72, 590, "Tern"),
        ]
        (layout,) = layouts(document([text(*each) for each in said]))
        for last, column, rows in ((3, 0, 3), (3, 1, 4), (2, 0, 4)):
            places = ((1, column), (0, 1), (2, 1), (2, 2), (last, 0))
            cells = [CellDraft(row, k, 1, 1, [n]) for n, (row, k) in enumerate(places)]
            edges = [72.0, 150.0, 250.0, 330.0]
            box = layout.box(np.arange(5))
            draft = TableDraft(box, 4, 3, cells, "spaced", header_rows=3, column_edges=edges)
            _between_rows(draft)
            self.assertEqual((draft.rows, draft.header_rows), (rows, rows - 1))
            self.assertEqual(cells[0].rowspan, 2 if rows == 3 else 1)

    def test_writing_without_capitals_goes_on_in_its_own_kind(self) -> None:
        self.assertTrue(all(map(_is_caseless, "\u05d2\u0644\u4e2d")))
        self.assertFalse(any(map(_is_caseless, "aZ7\u042f\u03b1.")))

    def test_a_label_set_off_to_the_left_of_its_numbers_heads_them(self) -> None:
        for label in ("1993", "Dues"):
            with self.subTest(label=label):
                out = [text(72, 620, "Vessel"), right(260, 620, "1994"), text(300, 620, label)]
                for k, name in enumerate(VESSELS):
                    out += [text(72, 600 - 16 * k, name), right(260, 600 - 16 * k, f"{3100 * k + 7}.5")]
                    out.append(right(430, 600 - 16 * k, f"{1700 * k + 3}.5"))
                found = table(out)
                self.assertEqual((found.columns, texts(found)[0]), (3, ["Vessel", "1994", label]))

    def test_a_number_set_off_to_the_left_heads_no_column(self) -> None:
        """What stands in a column above all that the next one holds may be a number of its own."""
        out = [text(72, 600, "Gannet"), text(200, 600, "0.17"), text(72, 584, "Tern"), text(300, 584, "0.27")]
        (layout,) = layouts(document(out))
        for label, below, columns in (("Dues", "0.27", 2), ("0.17", "0.27", 3), ("Dues", "$", 3)):
            layout.words.texts[1], layout.words.texts[3] = label, below
            places = ((0, 0), (0, 1), (1, 0), (1, 2))
            cells = [CellDraft(row, column, 1, 1, [k]) for k, (row, column) in enumerate(places)]
            draft = TableDraft(
                layout.box(np.arange(4)), 2, 3, cells, "spaced", column_edges=[72, 150, 250, 330]
            )
            join_labels(layout, draft)
            self.assertEqual(draft.columns, columns)

    def test_dots_that_stand_for_what_is_missing_are_no_leader(self) -> None:
        out = [rule(66, 330, 614 - 16 * r) for r in range(len(NAMES) + 1)]
        out += [
            f"0.6 w {x} {614 - 16 * len(NAMES)} m {x} 614 l S" for x in (66, 150, 190, 220, 250, 280, 330)
        ]
        for k, name in enumerate(NAMES):
            out.append(text(72, 602 - 16 * k, name))
            said = [f"{k}.5", "..", "..", "..", ".."] if k % 2 else [f"{k}.5", "..", f"{k}.7", "..", f"{k}.9"]
            out += [right(186 + 30 * c, 602 - 16 * k, s) for c, s in enumerate(said)]
        found = table(out)
        self.assertEqual(texts(found)[1][1:], ["1.5", "..", "..", "..", ".."])

    def test_two_dots_in_a_last_column_stay_where_leaders_end_there_too(self) -> None:
        out = [right(328, 700 - 16 * k, "." * 40) for k in range(4)]
        out += [text(72, 700 - 16 * k, f"Chapter {k}") for k in range(4)]
        out += [right(350, 700 - 16 * k, str(3 * k + 2)) for k in range(4)]
        for k, name in enumerate(NAMES):
            out += [text(72, 600 - 16 * k, name), right(220, 600 - 16 * k, f"{k}1.5")]
            out.append(right(328, 600 - 16 * k, ".." if k in (1, 3) else f"{k}2.7"))
        found = wennak.read(document([rule(66, 332, 613), *out])).tables[-1]
        self.assertEqual(texts(found)[1][-1], "..")

    def test_a_label_over_the_stub_is_over_no_other_column_where_it_may_be_over_the_rest(self) -> None:
        """In the middle of the first three columns as of the two in the middle of these."""
        sides = (72, 150, 230, 310)
        rows = [(name, f"{k}71.5", f"{k}72.5", f"{k}73.5") for k, name in enumerate(NAMES)]
        out = [text(x, 616, s) for x, s in zip(sides, ("Vessel", "Crew", "Dues", "Stay"), strict=True)]
        for k, row in enumerate(rows):
            out += [text(x, 600 - 16 * k, s) for x, s in zip(sides, row, strict=True)]
        found = table([text(150, 632, "Outer quay")], out, [rule(66, 360, 611)])
        self.assertNotEqual(cell(found, "Outer quay")[1], 0)


if __name__ == "__main__":
    unittest.main()
