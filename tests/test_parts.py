"""Where tables begin and end: at the foot of a page, below charts, beside sentences, at labels of groups."""

from __future__ import annotations

import unittest
from collections.abc import Sequence

import numpy as np
from reportlab.pdfbase.pdfmetrics import stringWidth

import wennak
from tests.support import joined, pdf_of
from tests.test_charts import bars
from tests.test_continued import grids as texts_of
from tests.test_layout import FONTS, line, prose
from tests.test_places import rows, rule
from tests.test_readings import layouts
from wennak.tables.draft import CellDraft, TableDraft
from wennak.tables.grid import drawn_lines, stacks_lines

VESSELS = ("Skua", "Tern", "Gannet", "Petrel", "Fulmar", "Puffin", "Razorbill", "Dunlin")


def grids(*pages: str) -> list[list[list[str]]]:
    """The texts of the tables of some pages, row by row."""
    return texts_of(joined(pdf_of(content, FONTS) for content in pages))


def shade(x0: float, y0: float, x1: float, y1: float) -> str:
    return f"0.85 g {x0} {y0} {x1 - x0} {y1 - y0} re f 0 g "


def to_the_right(x: float, y: float, text: str) -> str:
    return line(x - stringWidth(text, "Helvetica", 10), y, text)


class TestFoot(unittest.TestCase):
    BODY = tuple((name, f"{k}7.5", f"{k + 3}1.2", f"{9 - k}4.0") for k, name in enumerate(VESSELS))

    def values(self, top: float) -> str:
        out = ""
        for k, (name, *values) in enumerate(self.BODY):
            y = top - 18 * k
            out += line(72, y, name)
            out += "".join(to_the_right(x, y, v) for x, v in zip((250, 350, 450), values, strict=True))
        return out

    def test_a_head_ends_the_page_by_itself_or_with_the_label_of_a_group(self) -> None:
        """The stub has no label of its own, and the next page begins with values."""
        dates = ("Mar 1996", "Mar 1995", "Mar 1994")
        head = "".join(
            line(x - stringWidth(d, "Helvetica-Bold", 10), 96, d, font="F2")
            for x, d in zip((250, 350, 450), dates, strict=True)
        )
        head += rule(66, 90, 456, 90)
        for label in ("", "Outer quay:"):
            first = prose(72, 760, 50, "above") + head + (line(72, 74, label) if label else "")
            wanted = [["", *dates], *([[label, "", "", ""]] if label else []), *map(list, self.BODY)]
            self.assertEqual(grids(first, self.values(760)), [wanted], label)

    def test_the_label_of_a_group_over_the_middle_may_begin_a_page(self) -> None:
        """Uprights leave the labels out and the stub, which level rules hold together with the rest."""
        fonts = {**FONTS, "F4": {**FONTS["F1"], "BaseFont": "/Helvetica-Oblique"}}
        places = ("Outer quay", "Inner quay", "Sound", "Holm", "Mainland")
        groups = [(name, self.BODY[k : k + 1 + k % 3]) for k, name in enumerate(places)]

        def group(top: float, name: str, body: Sequence[Sequence[str]]) -> str:
            out = line(261 - stringWidth(name, "Helvetica-Oblique", 10) / 2, top, name, font="F4")
            for k, (label, *values) in enumerate(body, 1):
                y = top - 18 * k
                out += line(72, y, label) + "".join(rule(x, y - 5, x, y + 13) for x in (190, 290, 390))
                out += "".join(to_the_right(x, y, v) for x, v in zip((250, 350, 450), values, strict=True))
            return out + rule(66, top - 18 * len(body) - 5, 456, top - 18 * len(body) - 5)

        def page(top: float, groups: Sequence[tuple[str, Sequence[Sequence[str]]]]) -> str:
            out = ""
            for name, body in groups:
                out, top = out + group(top, name, body), top - 18 * (len(body) + 1)
            return out

        heads = ("In", "Out", "Left")
        head = line(72, 112, "Vessel", font="F2") + rule(66, 107, 456, 107)
        head += "".join(to_the_right(x, 112, label) for x, label in zip((250, 350, 450), heads, strict=True))
        wanted = [["Vessel", *heads]]
        for name, body in groups:
            wanted += [[name] * 4, *map(list, body)]
        first = prose(72, 760, 48, "above") + head + page(94, groups[:1])
        pdf = joined([pdf_of(first, fonts), pdf_of(page(760, groups[1:]), fonts)])
        self.assertEqual(texts_of(pdf), [wanted])

    def test_a_label_of_a_group_below_all_may_be_in_italics_and_a_running_head_is_none(self) -> None:
        """Right below a table it may pass for its title; what heads each page is no label of a group."""
        fonts = {**FONTS, "F4": {**FONTS["F1"], "BaseFont": "/Helvetica-Oblique"}}
        head = ["Vessel", "In", "Out", "Left"]
        rows = [("Sound", *self.BODY[:4]), ("Outer quay", *self.BODY[4:6]), ("Holm", *self.BODY[6:])]

        def page(top: float, lines: Sequence[str | tuple[str, ...]]) -> str:
            out = line(72, 800, "Landings of Oskay") + line(72, top, head[0], font="F2")
            out += "".join(to_the_right(x, top, h) for x, h in zip((250, 350, 450), head[1:], strict=True))
            y = top
            for row in lines:
                whole = isinstance(row, str)
                y -= 22 if whole else 18
                out += line(72, y, row if whole else row[0], font="F4" if whole else "F1")
                for x, said in zip((250, 350, 450), () if whole else row[1:], strict=False):
                    out += to_the_right(x, y, said) + rule(x - 60, y - 5, x - 60, y + 13)
            return out

        lines = [line for name, *body in rows for line in (name, *body)]
        wanted = [head, *([row] * 4 if isinstance(row, str) else list(row) for row in lines)]
        for k in (6, 9):
            first = prose(72, 760, 45 - 4 * (k > 6), "above") + page(80 + 18 * k, lines[:k])
            pdf = joined([pdf_of(first, fonts), pdf_of(page(760, lines[k:]), fonts)])
            self.assertEqual(texts_of(pdf), [wanted], k)

    def test_a_row_without_a_value_at_the_top_of_a_page_is_no_header(self) -> None:
        """The header of the table is set otherwise than its rows, and that row as these."""
        head = ("Vessel", "Keeper", "Catch")
        body = [(name, f"{name[0]}. Arkle", f"{k}3.1" if k != 4 else "") for k, name in enumerate(VESSELS)]
        x = (72, 200, 330)
        for font, parts in (("F2", 1), ("F1", 2)):
            first = prose(72, 760, 48, "above") + "".join(
                line(left, 140, label, font=font) for left, label in zip(x, head, strict=True)
            )
            found = grids(first + rows(x, 124, body[:4]), rows(x, 760, body[4:]))
            self.assertEqual(len(found), parts)
            self.assertEqual([row for table in found for row in table], [list(head), *map(list, body)])


class TestBetween(unittest.TestCase):
    def test_numbers_along_the_axis_of_a_chart_are_no_column_beside_the_table_below(self) -> None:
        body = [(f"{name} of Oskay", f"{k}7.5", f"{k + 3}1.2") for k, name in enumerate(VESSELS)]
        scale = [str(100 * k) for k in range(9)]
        content = prose(72, 760, 4, "above") + bars(112, 480, (0.4, 0.9, 0.55, 0.7, 0.2), scale) + "\n"
        content += line(170, 452, "Month") + line(124, 436, "Figure 1: Catch by month, 1994")
        content += rows((72, 200, 300), 408, [("Berth", "In", "Out"), *body]) + rule(72, 403, 330, 403)
        self.assertEqual(grids(content), [[["Berth", "In", "Out"], *map(list, body)]])
        (layout,) = layouts(pdf_of(content, FONTS))
        zones = [int(layout.zone_of()[layout.words.texts.index(word)]) for word in ("Berth", "In", "Skua")]
        self.assertEqual(len(set(zones)), 1)

    def test_sentences_between_two_lists_of_like_columns_part_them(self) -> None:
        lists = ("Berth Stay Dues Crew Load Draught".split(), "Keeper Lamp Height Reach Since".split())
        content, y, wanted = "", 740.0, []
        for labels in lists:
            for k, label in enumerate(labels):
                content += shade(66, y - 5, 196, y + 11) + shade(200, y - 5, 520, y + 11)
                content += line(72, y, label) + to_the_right(514, y, f"{k}7.5")
                y -= 18
            wanted.append([[label, f"{k}7.5"] for k, label in enumerate(labels)])
            content += line(
                66, y, "Note: Two of the entries of this list had to be corrected after the spring.", 8
            )
            content += line(
                66, y - 14, "The harbour office reviewed the berths of the outer quay in the spring."
            )
            y -= 37
        self.assertEqual(grids(content), wanted)

    def test_labels_of_groups_in_the_middle_of_a_table_make_no_column(self) -> None:
        content, y, wanted = rule(66, 755, 526, 755), 740.0, []
        for label, names in (("Outer quay", VESSELS[:4]), ("Slip", VESSELS[4:])):
            content += shade(66, y - 5, 526, y + 11)
            content += line(296 - stringWidth(label, "Helvetica-Bold", 10) / 2, y, label, font="F2")
            wanted.append([label] * 3)
            for k, name in enumerate(names):
                y -= 18
                content += line(72, y, name) + to_the_right(460, y, f"{k}7") + to_the_right(520, y, f"1{k}")
                wanted.append([name, f"{k}7", f"1{k}"])
            y -= 18
        self.assertEqual(grids(content + rule(66, y + 12, 526, y + 12)), [wanted])

    def test_a_label_alone_in_its_row_spans_what_its_shade_is_behind(self) -> None:
        """Where all other cells have shades of their own; where shades are of rows, it tells nothing."""
        sides = ((66, 196), (200, 276), (280, 356))
        for own in (True, False):
            content, y = "", 740.0
            for label, names in (("Outer quay", VESSELS[:4]), ("Slip", VESSELS[4:])):
                content += shade(66, y - 5, 356, y + 11) + line(72, y, label, font="F2")
                for k, name in enumerate(names):
                    y -= 18
                    content += "".join(shade(a, y - 5, b, y + 11) for a, b in (sides if own else [(66, 356)]))
                    content += (
                        line(72, y, name) + to_the_right(270, y, f"{k}7") + to_the_right(350, y, f"1{k}")
                    )
                y -= 18
            (table,) = wennak.read(pdf_of(content, FONTS)).tables
            spans = {c.text: c.colspan for c in table.cells if c.text in ("Outer quay", "Slip")}
            self.assertEqual(spans, dict.fromkeys(spans, 3 if own else 1))
            self.assertEqual(len(spans), 2)

    def test_a_grid_in_which_all_texts_span_rows_holds_no_lines_of_rows(self) -> None:
        (layout,) = layouts(pdf_of(line(72, 700, "Skua Tern"), FONTS))
        cells = [CellDraft(0, 0, 2, 1, [0]), CellDraft(1, 1, 2, 1, [1])]
        grid = TableDraft(layout.box(np.array([0, 1])), 3, 2, cells, "ruled")
        self.assertFalse(stacks_lines(*drawn_lines(layout, grid)))

    def test_rows_between_the_rules_around_their_group_are_rows(self) -> None:
        """Lines of cells that wrap are none, even where two columns have as many."""
        x, sides = (72, 190, 330, 430), (66, 184, 324, 424, 526)
        groups = [("Outer quay", 3), ("Slip", 4), ("North side", 3), ("Moorings", 5)]
        lines = [
            (f"{VESSELS[k % 8]} {k}", f"E-{31 * k % 17}", "lit" if k % 3 else "moored") for k in range(15)
        ]
        for ruled in (False, True):
            head = ("Place", "Vessel", "Mark", "Lamp")
            content, y, k, wanted = rows(x, 740, [head]) + rule(66, 754, 526, 754), 736.0, 0, [list(head)]
            content += rule(66, y, 526, y)
            for label, count in groups:
                own = [(label if n == 0 else "", *cells) for n, cells in enumerate(lines[k : k + count])]
                content += rows(x, y - 13, own, 14)
                k, y = k + count, y - 14 * count - 4
                content += rule(66, y, 526, y)
                wanted += [[*cells] for cells in own]
            if ruled:
                content += "".join(rule(side, y, side, 754) for side in sides)
            with self.subTest(ruled=ruled):
                self.assertEqual(grids(content), [wanted])
        lamps = ("lamp of the", "slip", "keeper of the", "light")
        content, y = "".join(rule(x, 754, x, 754 - 42 * 8) for x in sides) + rule(66, 754, 526, 754), 754
        for k, name in enumerate(VESSELS):
            content += line(72, y - 14, name) + rule(66, y - 42, 526, y - 42)
            for left in x[1:]:
                content += line(left, y - 14, lamps[2 * (k % 2)]) + line(left, y - 26, lamps[2 * (k % 2) + 1])
            y -= 42
        wanted = [[name, *[" ".join(lamps[2 * (k % 2) :][:2])] * 3] for k, name in enumerate(VESSELS)]
        self.assertEqual(grids(content), [wanted])


if __name__ == "__main__":
    unittest.main()
