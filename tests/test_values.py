"""Values, sums, sheets and directed reading: what a table gives beyond its printed texts."""

from __future__ import annotations

import csv
import datetime
import io
import random
import unittest

import openpyxl

import wennak
from tests.support import DEMO, InFolder, run, run_here
from tests.test_outputs import HOSTILE, random_table
from wennak.checks import find_checks, total_rows
from wennak.emit import table_bytes
from wennak.model import Cell, Table
from wennak.values import typed_column


def table_of(rows: list[list[str]], header_rows: int = 1) -> Table:
    cells = [
        Cell(r, c, text, header=r < header_rows)
        for r, row in enumerate(rows)
        for c, text in enumerate(row)
        if text
    ]
    return Table(len(rows), max(map(len, rows)), cells, header_rows=header_rows)


class TestValues(unittest.TestCase):
    def test_numbers_are_typed_only_where_a_whole_column_is_certain(self) -> None:
        for texts, values in (
            (["1,234.50", "(12.00)", "3-", "—", "$ 7"], [1234.5, -12.0, -3.0, None, 7.0]),
            (["2,40", "1.234,56", "€ 7"], [2.4, 1234.56, 7.0]),
            (["12 %", "7.5%", "n/a"], [12.0, 7.5, None]),
            (["1 234 567", "12*", "−5"], [1234567.0, 12.0, -5.0]),
            (["1,234", "5,678", "912"], [1234.0, 5678.0, 912.0]),
        ):
            column = typed_column(texts)
            self.assertEqual((column.kind, column.values), ("number", values), texts)

    def test_what_may_mean_two_things_stays_text(self) -> None:
        for texts in (
            ["007", "012"], ["1.234", "5.678"], ["July 2007"], ["12:30"], ["1,2.3"], ["1.5", "2,5"],
            ["3/4"], ["5 boats"], ["1,23,4.5"], ["=1+1"], ["1e5"],
        ):  # fmt: skip
            self.assertEqual(typed_column(texts).kind, "text", texts)
        dates = typed_column(["2024-02-29", "1 May 2024", ""])
        self.assertEqual(dates.values, [datetime.date(2024, 2, 29), datetime.date(2024, 5, 1), None])
        self.assertEqual(typed_column(["2023-02-29"]).kind, "text")

    def test_numbers_survive_every_way_of_printing_them(self) -> None:
        rng = random.Random(8)
        styles = (
            lambda v: f"{v:,.2f}", lambda v: f"({-v:,.2f})" if v < 0 else f"{v:,.2f}",
            lambda v: f"{abs(v):,.2f}-" if v < 0 else f"$ {v:,.2f}",
            lambda v: f"{v:,.2f}".replace(",", " ").replace(".", ","),
            lambda v: f"{v:,.2f}".translate(str.maketrans(",.", ".,")) + "†",
        )  # fmt: skip
        for style in styles:
            values = [round(rng.uniform(-9e6, 9e6), 2) for _ in range(20)]
            self.assertEqual(typed_column([style(v) for v in values]).values, values)

    def test_frames_hold_types_and_say_what_stayed_text(self) -> None:
        table = table_of([["Pier", "Boats", "Fee", "Since"], ["Oskay", "4", "2.40", "2 May 1990"],
                          ["Tarnvoe", "n/a", "free", "1 June 1991"]])  # fmt: skip
        frame = table.frame(typed=True)
        self.assertEqual(str(frame["Boats"].dtype), "Int64")
        self.assertEqual(frame["Fee"].tolist(), ["2.40", "free"])
        self.assertEqual(frame.attrs["not_typed"], {"Fee": ["free"]})
        self.assertEqual(frame["Since"].dt.month.tolist(), [5, 6])
        self.assertEqual(table.frame()["Boats"].tolist(), ["4", "n/a"])


class TestChecks(unittest.TestCase):
    ROWS = (
        ["Item", "May", "June"], ["Rope", "1.5", "10"], ["Oil", "2.5", "20"], ["Subtotal", "4.0", "30"],
        ["Flour", "1", "5"], ["Tea", "2", "6"], ["Subtotal", "3", "11"], ["Total", "7.0", "41"],
    )  # fmt: skip

    def test_totals_are_found_and_changed_digits_with_them(self) -> None:
        table = table_of([list(r) for r in self.ROWS])
        self.assertEqual(total_rows(table), [3, 6, 7])
        checks = find_checks(table)
        self.assertEqual((len(checks), all(c.passed for c in checks)), (6, True))
        for row, column in ((1, 2), (7, 2)):
            rows = [list(r) for r in self.ROWS]
            rows[row][column] = str(int(rows[row][column]) + 90)
            failed = [c for c in find_checks(table_of(rows)) if not c.passed]
            self.assertTrue(failed and all(c.column == 2 for c in failed), (row, column))

    def test_columns_of_totals_and_changes_are_compared_with_those_before(self) -> None:
        rows = [["Pier", "May", "June", "Total", "Change"], ["Oskay", "7", "12", "19", "5"],
                ["Fenholm", "9", "4", "13", "(5)"], ["Tarnvoe", "1", "1", "2", "0"]]  # fmt: skip
        checks = find_checks(table_of([row[:4] for row in rows]))
        self.assertEqual([(c.kind, c.passed) for c in checks], [("row sum", True)] * 3)
        changes = find_checks(table_of([[*row[:3], row[4]] for row in rows]))
        self.assertEqual([(c.kind, c.passed) for c in changes], [("difference", True)] * 3)
        rows[1][3] = "91"
        (failed,) = [c for c in find_checks(table_of([row[:4] for row in rows])) if not c.passed]
        self.assertEqual((failed.row, failed.column, failed.expected), (1, 3, 19))
        # A column that merely has such a name is not judged.
        rows = [["Pier", "May", "Change"], ["Oskay", "7", "400"], ["Fenholm", "9", "300"]]
        self.assertEqual(find_checks(table_of(rows)), [])

    def test_nothing_is_said_where_no_sum_fits(self) -> None:
        rows = [["Item", "Boats"], ["Rope", "1"], ["Oil", "5"], ["Total of last year", "99"]]
        self.assertEqual(find_checks(table_of(rows)), [])


class TestSheets(InFolder):
    def test_text_stays_text_in_every_sheet(self) -> None:
        for seed in range(20):
            table = random_table(random.Random(seed), spans=True)
            book = openpyxl.load_workbook(io.BytesIO(table_bytes([table], "xlsx")))
            sheet = book.worksheets[0]
            for cell in table.cells:
                place = sheet.cell(cell.row + 1, cell.column + 1)
                self.assertEqual((place.value or "", place.data_type in "sn"), (cell.text, True))
            merged = sum(c.rowspan > 1 or c.colspan > 1 for c in table.cells)
            self.assertEqual(len(sheet.merged_cells.ranges), merged)
            rows = list(csv.reader(io.StringIO(table_bytes([table], "csv").decode())))
            self.assertEqual((len(rows), {len(r) for r in rows}), (table.rows, {table.columns}))
            for text in (t for row in rows for t in row):
                self.assertNotRegex(text, r"^[=@]")
        self.assertIn("=SUM(A1)", HOSTILE)

    def test_listing_showing_comparing_and_saving(self) -> None:
        paper = DEMO / "cargo-manifest.pdf"
        listed = run("tables", paper)
        self.assertEqual(listed.returncode, 0, listed.stderr)
        self.assertIn("8 x 6", listed.stdout)
        self.assertIn("1 of 1 right", listed.stdout)
        self.assertIn("2,136", run_here("tables", paper, "--show", "1").stdout)
        compared = run_here("tables", DEMO / "timetable.pdf", "--compare").stdout
        self.assertIn("1: spaced", compared)
        saved = run_here(
            "tables",
            paper,
            "--save",
            self.folder / "out",
            "--as",
            "csv,xlsx,html,json,md,tsv",
            "--totals",
            "apart",
        )
        self.assertEqual(saved.returncode, 0, saved.stderr)
        names = sorted(p.name for p in (self.folder / "out").iterdir())
        expected = ["-1.csv", "-1.tsv", ".html", ".json", ".md", ".xlsx"]
        self.assertEqual(names, [f"cargo-manifest{ending}" for ending in expected])
        lines = (self.folder / "out/cargo-manifest-1.csv").read_text(encoding="utf-8").splitlines()
        self.assertEqual(lines[-2:], [",,,,,", ',,Total,,"2,136",'])

    def test_bad_input_gets_one_sentence(self) -> None:
        paper = DEMO / "timetable.pdf"
        for code, said, arguments in (
            (1, "does not exist", ["none.pdf"]),
            (2, "There is no table 9", [paper, "--show", "9"]),
            (2, "is no region", [paper, "--region", "1,2,3"]),
            (2, "is empty", [paper, "--region", "1,9,9,2,2"]),
            (2, "is no length", [paper, "--region", "1,9,9,2ft,20"]),
            (2, "no page 7", [paper, "--region", "7,0,0,9,9"]),
            (2, "no text in the region", [paper, "--region", "1,0,0,9,9"]),
            (2, "--region", [paper, "--cuts", "9"]),
            (2, "no format 'doc'", [paper, "--save", "x", "--as", "doc"]),
            (2, "no method", [paper, "--method", "magic"]),
        ):
            result = (run if code == 1 else run_here)("tables", *arguments)
            self.assertEqual(result.returncode, code, (said, result.stderr))
            self.assertIn(said, result.stderr)
            self.assertNotIn("Traceback", result.stderr)


class TestDirected(unittest.TestCase):
    def test_region_cuts_and_header_rows_are_followed(self) -> None:
        paper = DEMO / "fares-circular.pdf"
        (first, _) = wennak.read(paper).tables
        box = first.places[0].box
        region = f"1,{box.x0 - 2},{box.y0 - 2}pt,{box.x1 + 2},{box.y1 + 2}"
        again = wennak.read_table(paper, region)
        self.assertEqual(
            [(c.row, c.column, c.text) for c in again.cells], [(c.row, c.column, c.text) for c in first.cells]
        )
        cut = next(c for c in first.cells if c.column == 2).places[0].box.x0 - 3
        halves = wennak.read_table(paper, region, [f"{cut}"], header_rows=0)
        self.assertEqual((halves.columns, halves.header_rows), (2, 0))
        self.assertEqual(halves.frame().iloc[1, 0], "Hollinquay Oskay")

    def test_plain_is_the_baseline(self) -> None:
        tables = wennak.read(DEMO / "fares-circular.pdf", method="plain").tables
        self.assertEqual([(t.rows, t.columns, t.method) for t in tables], [(8, 6, "plain"), (6, 3, "plain")])


if __name__ == "__main__":
    unittest.main()
