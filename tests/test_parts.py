"""Where tables begin and end: at the foot of a page, below charts, beside sentences, at labels of groups."""

from __future__ import annotations

import unittest

from reportlab.pdfbase.pdfmetrics import stringWidth

from tests.support import joined, pdf_of
from tests.test_charts import bars
from tests.test_continued import grids as texts_of
from tests.test_layout import FONTS, line, prose
from tests.test_places import rows, rule
from tests.test_readings import layouts

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


if __name__ == "__main__":
    unittest.main()
