"""Tables that a first look at their page could miss, or take for others."""

from __future__ import annotations

import unittest

from reportlab.pdfbase.pdfmetrics import stringWidth

from tests.support import pdf_of
from tests.test_continued import grids as texts_of
from tests.test_layout import FONTS, line, prose
from tests.test_places import read, rows, rule

VESSELS = ("Skua", "Tern", "Gannet", "Petrel", "Fulmar", "Puffin", "Razorbill", "Dunlin")


def grids(content: str) -> list[list[list[str]]]:
    """The texts of the tables of a page, row by row."""
    return texts_of(pdf_of(content, FONTS))


class TestColumns(unittest.TestCase):
    def test_a_table_in_the_middle_of_its_column_goes_on_in_the_next(self) -> None:
        """Both columns have room at one height, above the last table of the left one."""
        times = [(name, f"{7 + k}:10", f"{8 + k}:25") for k, name in enumerate(VESSELS)]
        x = (110, 180, 220)
        foot = rows(x, 170, [("Vessel", "Out", "Home"), *times[:5]])
        foot += rule(100, 164, 250, 164) + rule(100, 84, 250, 84)
        top = rows(tuple(left + 252 for left in x), 760, times[5:]) + rule(352, 724, 502, 724)
        content = prose(60, 760, 46, "left") + foot + top + prose(312, 690, 41, "right")
        self.assertEqual(grids(content), [[["Vessel", "Out", "Home"], *map(list, times)]])

    def test_marks_below_a_label_of_their_own_are_a_column(self) -> None:
        """Before items, with nothing of theirs above, they are marks of a list."""
        x = (72, 202, 260)
        body = [(name, "\xb7" if k % 3 else "\x95", f"Keeper {k}") for k, name in enumerate(VESSELS)]
        headed = [("Vessel", "Lit", "In charge"), *body]
        below = [
            ("Item", "Min", "Max"),
            *((name, f"0.{k}5", f"0.{k}9") for k, name in enumerate(VESSELS[:4])),
        ]
        content = rows(x, 740, headed) + rows(x, 560, below)
        for y, right in ((752, 340), (734, 340), (606, 340), (572, 300), (554, 300), (488, 300)):
            content += rule(66, y, right, y)
        wanted = [[cell.replace("\x95", "\u2022") for cell in row] for row in headed]
        self.assertEqual(grids(content), [wanted, [*map(list, below)]])

    def test_labels_set_apart_evenly_are_no_line_of_text(self) -> None:
        """One of them heads a column without values."""
        head, x = ("Reading", "State", "Least", "Usual", "Most", "Unit"), [72.0]
        for label in head[:-1]:
            x.append(x[-1] + stringWidth(label, "Helvetica", 10) + 15)
        body = [(name, "rest", "", f"{k}.61", f"3{k}.0", "mm") for k, name in enumerate(VESSELS[:4])]
        content = prose(72, 760, 6, "before") + rows(tuple(x), 640, [head, *body])
        content += rule(66, 634, 370, 634) + rule(66, 652, 370, 652) + rule(66, 570, 370, 570)
        self.assertEqual(grids(content), [[list(head), *map(list, body)]])


class TestRows(unittest.TestCase):
    def test_lines_that_a_rule_parts_are_no_row(self) -> None:
        """Labels of groups stand at mid height of their rows; rules run beside them."""
        groups, x = (("North", 3), ("East", 2), ("South", 3), ("West", 2)), (72, 133, 240, 320)
        states = ("limited", "out of service", "at sea", "limited", "planned")
        content, y, wanted = rows(x, 700, [("Quay", "Vessel", "State", "Dues")]), 684.0, []
        content += rule(66, 695, 380, 695)
        for group, count in groups:
            content += line(72, y - 7.6 * (count - 1), group)
            for k in range(count):
                number = len(wanted)
                name = f"{VESSELS[number % 8]} of Oskay" if number % 3 else "Tern"
                values = (name, states[number % 5], f"$7{number},50" if number in (0, 1, 2, 4, 9) else "n.a.")
                content += rows(x[1:], y, [values])
                content += rule(66 if k == count - 1 else 126, y - 5, 380, y - 5)
                wanted.append([group, *values])
                y -= 15.2
        (found,) = grids(content)
        self.assertEqual(found, [["Quay", "Vessel", "State", "Dues"], *wanted])

    def test_values_beside_the_end_of_a_label_that_a_comma_parts_are_of_its_row(self) -> None:
        x, y = (72, 200, 250, 300), 700.0
        body = [
            (f"{name},/Oskay" if k in (1, 6) else name, f"{k}", f"{9 - k}.5", f"no_{k}")
            for k, name in enumerate(VESSELS)
        ]
        content = rows(x, y, [("Vessel", "Crew", "Load", "Mark")]) + rule(66, y - 6, 340, y - 6)
        for label, *values in body:
            y -= 18
            first, _, rest = label.partition("/")
            if rest:
                content += line(72, y, first)
                y -= 16
            content += rows(x, y, [(rest or first, *values)])
        content += rule(66, y - 6, 340, y - 6) + rule(66, 712, 340, 712)
        wanted = [[row[0].replace("/", " "), *row[1:]] for row in body]
        self.assertEqual(grids(content), [[["Vessel", "Crew", "Load", "Mark"], *wanted]])

    def test_rows_farther_apart_than_their_lines_are_found_beside_another_column(self) -> None:
        x = (320, 378, 428, 488)
        body = [
            ("Reading room", "Skua", "n.a.", "No change"),
            ("Berth", "Tern", "n.a.", "n.a."),
            ("Crane", "Gannet", "n.a.", "Needs a second visit"),
            ("Slip", "Petrel", "Oskay", "Came late"),
            ("New lamp store", "n.a.", "Brannsey", "n.a."),
            ("Quay 11", "Puffin", "Oskay", "n.a."),
        ]
        content, y = rows(x, 752, [("", "Name", "Port", "Note")]) + rule(312, 746, 546, 746), 734.0
        for row in body:
            cells = [cell.split() if len(cell) > 8 else [cell] for cell in row]
            for left, cell in zip(x, cells, strict=True):
                content += "".join(line(left, y - 11 * k, text) for k, text in enumerate(cell))
            y -= 11 * (max(map(len, cells)) - 1) + 16
        content += (
            rule(312, y + 10, 546, y + 10) + prose(60, 760, 40, "left") + prose(312, y - 20, 20, "right")
        )
        self.assertEqual(grids(content), [[["", "Name", "Port", "Note"], *map(list, body)]])


class TestHeads(unittest.TestCase):
    def test_a_head_in_the_middle_of_values_at_the_side_is_theirs(self) -> None:
        """Of two lines, and above values of which some are none."""
        body = [(name, f"{k}1.26", f"{k}.86" if k % 3 else "n/a") for k, name in enumerate(VESSELS[:7])]
        content = line(165, 700, "Vessel") + line(330, 700, "Code") + line(432, 700, "Dues (a day)")
        content += line(448, 678, "(crowns)")
        for k, (name, code, dues) in enumerate(body):
            y = 655 - 23 * k
            content += line(72, y, name) + line(304, y, code)
            content += line(522 - stringWidth(dues, "Helvetica", 10), y, dues)
        content += "".join(rule(66, y, 526, y) for y in (712, 692, 670, 510))
        wanted = [["Vessel", "Code", "Dues (a day)"], ["", "", "(crowns)"], *map(list, body)]
        self.assertEqual(grids(content), [wanted])

    def test_an_underlined_running_head_above_an_empty_place_is_none_of_a_row(self) -> None:
        body = [
            (name, f"2{k},8" if k % 2 == 0 else "", f"{k},06" if k % 2 else "")
            for k, name in enumerate(VESSELS)
        ]
        content = (
            rows((72, 300, 420), 740, body) + line(390, 770, "Notes of keepers", 8) + rule(390, 766, 456, 766)
        )
        content += "".join(rule(66, 752 - 16 * k, 456, 752 - 16 * k) for k in range(9))
        self.assertEqual(grids(content + prose(72, 580, 20, "below")), [[*map(list, body)]])

    def test_values_above_a_line_are_no_labels_whatever_stands_right_above_it(self) -> None:
        """The line parts groups, whose labels stand at mid height; the last one has the total as well."""
        head = ("", "", "Lit", "Load", "Crew")
        body = [
            ("", "Skua", "no", "0,9", "64"), ("North", "Tern", "", "", "101"),
            ("", "Gannet", "yes", "1,9", "413"), ("", "Petrel", "yes", "0,6", "386"),
            ("East", "Fulmar", "no", "4,4", "19"), ("", "Puffin", "no", "3,5", "12"),
            ("All", "", "", "63,3", "85"),
        ]  # fmt: skip
        content = rows((72, 140, 230, 280, 330), 700, [head, *body]) + rule(66, 712, 370, 712)
        content += rule(66, 647, 370, 647) + rule(66, 583, 370, 583)
        (table,) = read(content).tables
        labels = [(c.text, c.row, c.rowspan) for c in table.cells if c.column == 0 and c.text]
        self.assertEqual((table.header_rows, labels), (1, [("North", 1, 3), ("East", 4, 3), ("All", 7, 1)]))


if __name__ == "__main__":
    unittest.main()
