"""Tables side by side without rules that part them, and what only looks like them."""

from __future__ import annotations

import unittest
from collections.abc import Sequence

import wennak
from tests.support import pdf_of
from tests.test_continued import FONTS, PROSE, text

NAMES = ("Gannet", "Tern", "Eider", "Fulmar", "Skua", "Petrel")
Pairs = Sequence[tuple[str, str]]
GANNET = (
    ("Length", "31.4 m"), ("Beam", "8.2 m"), ("Draught", "2.6 m"), ("Crew", "7"), ("Built", "1994"),
    ("Home port", "Hollinquay"), ("Speed", "11.5 kn"),
)  # fmt: skip
TERN = (
    ("Crew", "5"), ("Speed", "9.0 kn"), ("Length", "24.9 m"), ("Owner", "Skerra Lines"), ("Beam", "6.8 m"),
    ("Fuel", "diesel"),
)  # fmt: skip
# The same form, with labels of which none stands in both.
LEFT = tuple(zip(("Vessel", "Length", "Beam", "Draught", "Crew", "Built"), "ABCDEF", strict=True))
RIGHT = tuple(zip(("Owner", "Home port", "Speed", "Fuel", "Insured", "Surveyed"), "GHIJKL", strict=True))


def pairs(x: float, said: Pairs, top: float = 600, value: float = 90) -> list[str]:
    out = []
    for r, (label, number) in enumerate(said):
        out += [text(x, top - 16 * r, label), text(x + value, top - 16 * r, number)]
    return out


def tables(*pieces: list[str]) -> list[list[list[str]]]:
    said = "\n".join(p for piece in ([text(72, 700, PROSE)], *pieces) for p in piece)
    return [
        [["" if c is None else c.text for c in row] for row in t.grid()]
        for t in wennak.read(pdf_of(said, FONTS)).tables
    ]


def rows(said: Pairs) -> list[list[str]]:
    return [list(pair) for pair in said]


class TestSides(unittest.TestCase):
    def test_labels_that_stand_in_both_tell_two_tables(self) -> None:
        for apart in (220, 250, 290):
            with self.subTest(apart=apart):
                found = tables(pairs(72, GANNET), pairs(72 + apart, TERN))
                self.assertEqual(found, [rows(GANNET), rows(TERN)])

    def test_the_same_labels_in_each_row_tell_two_tables_however_near(self) -> None:
        eider = [(label, f"{k}.5 t") for k, (label, _) in enumerate(GANNET)]
        for value in (90, 150):
            with self.subTest(value=value):
                found = tables(pairs(72, GANNET, 600, value), pairs(300, eider, 600, value))
                self.assertEqual(found, [rows(GANNET), rows(eider)])

    def test_names_above_both_tell_two_tables(self) -> None:
        names = [text(72, 622, "Table 1. Gannet", 10, "F2"), text(320, 622, "Table 2. Owners", 10, "F2")]
        found = tables(names, pairs(72, LEFT), pairs(320, RIGHT))
        self.assertEqual(found, [rows(LEFT), rows(RIGHT)])

    def test_three_tables_with_a_name_each_are_three(self) -> None:
        # Between the names, which stand on one line, are gaps far wider than the blanks in them.
        said = [
            ("Table 1 | Ships of the quay", LEFT),
            ("Table 2 | Owners of ships", RIGHT),
            ("Table 3 | Ferries", TERN),
        ]
        names = [text(72 + 165 * k, 622, name, 8, "F2") for k, (name, _) in enumerate(said)]
        found = tables(names, *(pairs(72 + 165 * k, table, 600, 80) for k, (_, table) in enumerate(said)))
        self.assertEqual(found, [rows(table) for _, table in said])

    def test_rules_over_either_side_tell_two_tables(self) -> None:
        left = [(name, f"{3 * k + 4}", f"{k}.5 m") for k, name in enumerate(NAMES)]
        right = [(f"{k} May", f"{31 * k + 7}", f"{k}.25") for k in range(1, 9)]

        def drawn(ends: Sequence[Sequence[int]]) -> list[list[list[str]]]:
            said = [
                text(x, 600 - 16 * r, cell)
                for begin, table in ((72, left), (278, right))
                for r, row in enumerate(table)
                for x, cell in zip((begin, begin + 100, begin + 160), row, strict=True)
            ]
            return tables(said, [f"0.8 w {a} {y} m {b} {y} l S" for a, b, y in ends])

        both = [[list(row) for row in left], [list(row) for row in right]]
        self.assertEqual(drawn([(72, 262, 514), (278, 468, 482)]), both)
        # One that runs over both joins them, and rules over some columns of a table part nothing.
        for ends in ([(72, 468, 482), (278, 468, 514)], [(172, 262, 612), (378, 468, 612)]):
            with self.subTest(ends=ends):
                self.assertEqual([len(table[0]) for table in drawn(ends)], [6])

    def test_a_head_that_is_repeated_beside_itself_tells_two_parts_of_one_table(self) -> None:
        """However few rows the right one has."""
        head = ("Vessel", "1906", "1907")
        body = [(name, f"{k}7", f"{k}.5") for k, name in enumerate(("Skua", "Tern", "Gannet", "Petrel"))]

        def part(left: float, rows: list[tuple[str, ...]]) -> list[str]:
            return [text(left + 70 * c, 600 - 16 * r, said, 10, "F1" if r else "F2")
                    for r, row in enumerate([head, *rows]) for c, said in enumerate(row)]  # fmt: skip

        for count in (1, 2, 4):
            more = [(f"Dunlin {k}", f"{k}9", f"{k}.1") for k in range(count)]
            found = tables(part(72, body), part(300, more))
            self.assertEqual([row for table in found for row in table if row != list(head)],
                             [list(row) for row in (*body, *more)])  # fmt: skip

    def test_a_form_in_two_halves_is_one_table(self) -> None:
        for name in ([], [text(72, 622, "Table 1. Gannet and her owners", 10, "F2")]):
            with self.subTest(name=name):
                found = tables(name, pairs(72, LEFT), pairs(320, RIGHT))
                self.assertEqual(found, [[[*a, *b] for a, b in zip(LEFT, RIGHT, strict=True)]])

    def test_a_plain_table_beside_one_that_rules_mark_off(self) -> None:
        berths = ("North pier", "South pier", "Slip", "Long quay", "Basin", "Mole")
        left = [
            text(x, 600 - 16 * r, s)
            for r, b in enumerate(berths)
            for x, s in ((72, b), (150, f"{3 * r + 4}"), (190, f"{r}.5 m"))
        ]
        right, grounds = [], []
        for r in range(14):
            y = 600 - 16 * r
            if r % 4 == 3:
                grounds.append(f"0.85 g 320 {y - 4} 200 14 re f 0 g")
            said = "Total" if r % 4 == 3 else NAMES[r % 6]
            right += [
                text(324, y, said),
                text(410, y, f"{12 + 5 * r}.{r % 10}"),
                text(470, y, f"{31 * r + 7}"),
            ]
        rules = [f"0.6 w {x} 388 m {x} 612 l S" for x in (400, 460)]
        found = tables(left, grounds, rules, right)
        self.assertEqual([len(t) for t in found], [6, 14])
        self.assertEqual([row[0] for row in found[0]], list(berths))

    def test_labels_of_groups_over_several_rows_end_no_table(self) -> None:
        said, names = [], iter(NAMES * 3)
        for first, quay in ((0, "Hollinquay"), (1, "Oskay"), (4, "Brannsey"), (5, "Tarnvoe"), (6, "Fenholm")):
            said += [text(72, 600 - 16 * first, quay), text(150, 600 - 16 * first, f"{first + 2} berths")]
        for r in range(14):
            y = 600 - 16 * r
            said += [text(250, y, next(names)), text(320, y, f"{r}.{r % 7}"), text(380, y, f"{31 * r + 7}")]
        found = tables(said)
        self.assertEqual([(len(t), len(t[0])) for t in found], [(14, 5)])

    def test_the_left_one_ends_one_whole_row_before_the_right_one(self) -> None:
        days = [(f"2031-0{k}", str(137 * k), str(90 + k)) for k in range(1, 10)]
        nights = [(f"{k} May", str(3 * k), f"0.{k}") for k in range(1, 11)]
        for more in (1, 2):
            left, right = days[: 10 - more], nights
            pieces = [
                text(x, 600 - 16 * r, said)
                for own, first, head in (
                    (left, 72, ("Date", "Out", "In")),
                    (right, 320, ("Day", "Fish", "Ice")),
                )
                for r, row in enumerate((head, *own))
                for x, said in zip((first, first + 60, first + 100), row, strict=True)
            ]
            with self.subTest(more=more):
                found = tables(pieces)
                self.assertEqual([len(t) for t in found], [len(left) + 1, len(right) + 1])
                self.assertEqual([t[-1] for t in found], [list(left[-1]), list(right[-1])])

    def test_a_sum_below_the_right_columns_alone_ends_no_table(self) -> None:
        rows_of = [("Pilotage", "each", "12", "40.50"), ("Towage", "hour", "3", "310.00")] * 3
        pieces = [
            text(x, 600 - 16 * r, said)
            for r, row in enumerate(
                (("Charge", "Unit", "Count", "Sum"), *rows_of, ("", "", "Total", "1051.50"))
            )
            for x, said in zip((72, 150, 300, 370), row, strict=True)
        ]
        (found,) = tables(pieces)
        self.assertEqual(found[-1], ["", "", "Total", "1051.50"])

    def test_the_same_names_from_and_to_are_one_table(self) -> None:
        quays = ("Hollinquay", "Oskay", "Brannsey", "Tarnvoe", "Fenholm", "Skerra")
        legs = [(a, f"{k}:40", quays[(k + 2) % 6], f"{k + 1}:15") for k, a in enumerate(quays)]
        said = [
            text(x, 600 - 16 * r, s)
            for r, leg in enumerate(legs)
            for x, s in zip((72, 152, 204, 290), leg, strict=True)
        ]
        heads = [
            text(x, 616, s, 10, "F2")
            for x, s in zip((72, 152, 204, 290), ("From", "leaves", "To", "arrives"), strict=True)
        ]
        (found,) = tables(heads, said)
        self.assertEqual(found[1:], [list(leg) for leg in legs])


if __name__ == "__main__":
    unittest.main()
