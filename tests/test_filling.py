"""Phrases found, schemas filled, sums checked, places pointed at."""

from __future__ import annotations

import csv
import io
import json
import random
import shutil
import sqlite3
import unittest
from collections.abc import Sequence
from decimal import Decimal
from typing import Any

import openpyxl
import pandas as pd
import pikepdf

import wennak
from tests.support import DEMO, InFolder, browser, run, run_here, text_pdf, words
from wennak.checks import find_checks
from wennak.filling import load_schema
from wennak.model import Cell, Table
from wennak.phrases import label_likeness, matched, stands
from wennak.relations import find_relations

SCHEMA: dict[str, Any] = json.loads((DEMO / "inspection.json").read_text(encoding="utf-8"))
FORMS: dict[str, dict[str, object]] = {
    "engine-inspection": {
        "vessel": "Eilis Gray", "engine_number": "SB-20417", "running_hours": 12408,
        "inspector": "M. Havers, second engineer", "inspected_on": "14 February", "next_inspection": None,
        "emergency_stop": False,
    },
    "inspection-card": {
        "vessel": "Selkie", "engine_number": "SB-20433", "running_hours": 9871, "inspector": "T. Orrin",
        "inspected_on": "3 March 2031", "next_inspection": "1 September 2031", "emergency_stop": None,
    },
    "inspection-letter": {
        "vessel": "Northern Lamp", "engine_number": "SB-20390", "running_hours": 15260,
        "inspector": "A. Nilson, surveyor", "inspected_on": "22 May 2031", "next_inspection": None,
        "emergency_stop": None,
    },
    "inspection-slip": {
        "vessel": "Gannet Rock", "engine_number": None, "running_hours": 4455, "inspector": "R. Tveit",
        "inspected_on": "9 April 2031", "next_inspection": "9 October 2031", "emergency_stop": True,
    },
}  # fmt: skip


def table_of(*rows: Sequence[str], header_rows: int = 1) -> Table:
    found = [
        Cell(r, c, text, header=r < header_rows) for r, row in enumerate(rows) for c, text in enumerate(row)
    ]
    return Table(len(rows), len(rows[0]), [cell for cell in found if cell.text], header_rows=header_rows)


class TestPhrases(unittest.TestCase):
    def test_forms_and_slips_count_numbers_do_not(self) -> None:
        text = "Charges for berthing at Hollinquay in 1998, and harbour dues."
        for phrase, found in (
            ("charge", True), ("berthing charges", False), ("harbor dues", True), ("Holinquay", True),
            ("in 1998", True), ("in 1999", False), ("dues and", False), ("HARBOUR", True),
            ("", False),
        ):  # fmt: skip
            self.assertEqual(bool(stands(phrase, text)), found, phrase)
        (stand,) = stands("harbour dues", text)
        self.assertEqual((text[stand.start : stand.end], stand.score), ("harbour dues", 1.0))

    def test_labels_are_alike_by_their_words(self) -> None:
        self.assertEqual(label_likeness("Date of inspection", "date_of_inspection:"), 1.0)
        self.assertGreater(label_likeness("Date of inspection", "Inspection date"), 0.75)
        for a, b in (("Shade", "Share"), ("Year 2023", "Year 2024"), ("Paid", "Unpaid")):
            self.assertLess(label_likeness(a, b), 0.75, (a, b))

    def test_each_label_is_used_once_and_the_best_of_all_are_taken(self) -> None:
        found = ["Date of birth", "Date", "Name"]
        matches = matched([["date"], ["date of birth"], ["place"]], found)
        self.assertEqual([m.found for m in matches], [1, 0, None])
        # The order of what is wanted and of what is found changes nothing.
        rng = random.Random(3)
        labels = ["Voucher", "Crowns", "Charge", "Vessel", "Day"]
        for _ in range(50):
            wanted, given = rng.sample(labels, 4), rng.sample(labels, 5)
            matches = matched([[w] for w in wanted], given)
            self.assertEqual([given[m.found] for m in matches if m.found is not None], wanted)


class TestFind(InFolder):
    def test_every_kind_of_place(self) -> None:
        for phrase, kind, page in (
            ("passengers and vehicles", "heading", 1), ("livestock cattle", "cell", 1),
            ("tickets bought", "list", 1), ("agents and pursers", "paragraph", 1),
            ("harbour board", "running", 1),
        ):  # fmt: skip
            hits = wennak.find(wennak.read(DEMO / "fares-circular.pdf"), phrase)
            self.assertEqual((hits[0].kind, hits[0].page), (kind, page), phrase)
        hit = wennak.find(wennak.read(DEMO / "tide-table.pdf"), "30 June")[0]
        self.assertEqual((hit.table, hit.row, hit.column, hit.page), (1, 62, 1, 2))

    def test_over_a_collection_for_people_and_for_programs(self) -> None:
        for name in ("fares-circular", "berth-ledger", "tide-table"):
            shutil.copy(DEMO / f"{name}.pdf", self.folder)
        (self.folder / "torn.pdf").write_bytes(b"%PDF-1.4 torn")
        told = run("find", "berth charges", ".", cwd=self.folder)
        self.assertEqual(told.returncode, 1)
        self.assertIn("berth-ledger.pdf\n  page 1    1.00  heading", told.stdout)
        self.assertIn("torn.pdf", told.stderr)
        lines = run_here(
            "find", "berth charge", ".", "--jsonl", "--workers", 1, cwd=self.folder
        ).stdout.splitlines()
        hits = [json.loads(line) for line in lines]
        self.assertEqual({hit["source"] for hit in hits}, {"berth-ledger.pdf"})
        self.assertTrue(all(0.8 <= hit["score"] < 1 for hit in hits))
        nothing = run_here("find", "zyzzogeton", "fares-circular.pdf", cwd=self.folder)
        self.assertEqual((nothing.returncode, nothing.stdout), (0, ""))
        self.assertIn("0 places in 0 documents", nothing.stderr)
        wrong = run_here("find", "?!", "fares-circular.pdf", cwd=self.folder)
        self.assertEqual(wrong.returncode, 2)
        self.assertIn("holds no words", wrong.stderr)

    def test_found_pages_are_read_on(self) -> None:
        path = self.folder / "many.pdf"
        path.write_bytes(text_pdf("of sailings", "of tides", "of berths and tides", "of nothing"))
        document = wennak.read(path, pages="found:tide")
        self.assertEqual([page.number for page in document.pages], [2, 3])
        result = run("convert", "many.pdf", "--pages", "found:berth", cwd=self.folder)
        self.assertEqual(result.stdout.strip(), "of berths and tides")
        lost = run_here("convert", "many.pdf", "--pages", "found:whales", cwd=self.folder)
        self.assertEqual(lost.returncode, 1)
        self.assertIn("many.pdf says 'whales' on no page", lost.stderr)
        wrong = run_here("convert", "many.pdf", "--pages", "found:", "--out", "x", cwd=self.folder)
        self.assertEqual(wrong.returncode, 2)
        self.assertIn("names no phrase", wrong.stderr)


class TestFields(InFolder):
    def test_four_forms_by_one_schema(self) -> None:
        for name, expected in FORMS.items():
            with self.subTest(name):
                filled = wennak.fields(wennak.read(DEMO / f"{name}.pdf"), SCHEMA)
                values = filled.values()
                readings = values.pop("readings")
                self.assertEqual(values, expected)
                for field in filled.fields.values():
                    self.assertEqual(bool(field.why), field.value is None)
                    self.assertTrue(field.value is None or (field.place and field.score > 0.7))
                self.assertEqual(len(readings), 6 if name == "inspection-letter" else 0)
                self.assertEqual(bool(filled.why), not readings)

    def test_nothing_comes_out_that_is_not_on_the_page(self) -> None:
        for name in FORMS:
            document = wennak.read(DEMO / f"{name}.pdf")
            printed = words(" ".join(document.texts()).replace(":", " "))
            filled = wennak.fields(document, SCHEMA)
            rows = [field for row in filled.records["readings"] for field in row.values()]
            for field in [*filled.fields.values(), *rows]:
                self.assertEqual(words(field.text.replace(":", " ")) - printed, words(""))

    def test_the_same_label_twice_is_ambiguous_and_left_out(self) -> None:
        document = wennak.Document("x", blocks=[
            wennak.Paragraph("Keeper: Ragna Tveit"), wennak.Paragraph("Keeper: T. Orrin"),
            wennak.Paragraph("Port: Oskay"), wennak.Paragraph("Port: Oskay"), wennak.Paragraph("Depth: n/a"),
            wennak.Paragraph("Count: many"),
        ])  # fmt: skip
        schema = {"properties": {
            "keeper": {"type": "string"}, "port": {"type": "string"}, "depth": {"type": ["number", "null"]},
            "count": {"type": "integer"},
            "owner": {"type": "object", "properties": {"name": {"type": "string"}}},
        }}  # fmt: skip
        filled = wennak.fields(document, schema)
        self.assertEqual(filled.fields["keeper"].ambiguous, ("Keeper: T. Orrin",))
        self.assertEqual(filled.fields["depth"].why, "it is not filled in")
        self.assertEqual(filled.fields["count"].why, "'many' is no integer")
        self.assertEqual(filled.values(), {
            "keeper": None, "port": "Oskay", "depth": None, "count": None, "owner": {"name": None},
        })  # fmt: skip

    def test_the_table_whose_columns_match_best_gives_the_records(self) -> None:
        document = wennak.read(DEMO / "fares-circular.pdf")
        column = {"type": "object", "properties": {
            "charged": {"type": "string"}, "kind": {"type": "string"}, "crowns": {"type": "number"},
        }}  # fmt: skip
        schema = {"properties": {"freight": {"type": "array", "items": column}}}
        rows = wennak.fields(document, schema).values()["freight"]
        self.assertEqual(rows[-1], {"charged": "per tonne", "kind": "Building materials", "crowns": 1240})
        self.assertEqual(len(rows), 5)

    def test_converting_with_a_schema(self) -> None:
        for name in FORMS:
            shutil.copy(DEMO / f"{name}.pdf", self.folder)
        shutil.copy(DEMO / "inspection.json", self.folder / "schema.json")
        result = run("convert", ".", "--fields", "schema.json", "--out", "out", cwd=self.folder)
        self.assertEqual(result.returncode, 0, result.stderr)
        lines = (self.folder / "out/fields.jsonl").read_text(encoding="utf-8").splitlines()
        told = {json.loads(line)["document"]: json.loads(line)["values"] for line in lines}
        for name, expected in FORMS.items():
            self.assertEqual(told[f"{name}.pdf"] | {"readings": []}, expected | {"readings": []})
            self.assertTrue((self.folder / f"out/{name}.fields.json").exists())
            self.assertFalse((self.folder / f"out/{name}.md").exists())
        one = run_here("convert", "inspection-slip.pdf", "--fields", "schema.json", cwd=self.folder)
        self.assertEqual(json.loads(one.stdout)["values"]["vessel"], "Gannet Rock")

    def test_what_is_no_schema_is_a_sentence(self) -> None:
        for text, said in (
            ("{", "is no JSON"), ("[1]", "needs to be that of an object"), ("{}", "names no properties"),
            ('{"properties": {"a": {"type": "money"}}}', "needs one type of string"),
            ('{"properties": {"a": {"type": "array"}}}', "needs items of the type object"),
            ('{"properties": {"a": {"type": "string", "aliases": "b"}}}', "need to be a list"),
            ("[" * 100_000, "is no JSON"),
        ):  # fmt: skip
            with self.subTest(text[:40]), self.assertRaises(wennak.UsageError) as caught:
                (self.folder / "schema.json").write_text(text)
                load_schema(self.folder / "schema.json")
            self.assertIn(said, str(caught.exception))
        result = run_here("convert", DEMO / "inspection-slip.pdf", "--fields", self.folder / "schema.json")
        self.assertEqual((result.returncode, result.stdout), (2, ""))
        self.assertIn("is no JSON", result.stderr)


class TestInteractiveForms(unittest.TestCase):
    """What a form holds counts where something else is drawn."""

    def form(self, **changed: str) -> bytes:
        try:
            from reportlab.pdfgen.canvas import Canvas
        except ImportError as error:
            self.skipTest(f"drawing needs the extra dev: {error}")
        out = io.BytesIO()
        canvas = Canvas(out)
        canvas.setFont("Helvetica", 11)
        texts = (("vessel", "Vessel:", "Selkie", 700), ("hours", "Running hours:", "9871", 660))
        for name, label, value, y in texts:
            canvas.drawString(72, y, label)
            canvas.acroForm.textfield(
                name=name, tooltip=label, value=value, x=180, y=y - 6, width=150, height=20
            )
        canvas.drawString(72, 620, "Port:")
        ports = ["Oskay", "Tarnvoe"]
        canvas.acroForm.choice(name="port", value="Oskay", options=ports, x=180, y=614, width=150, height=20)
        for name, label, checked, y in (
            ("belts", "Belts sound", True, 583),
            ("stop", "Stop tested", False, 553),
        ):
            canvas.acroForm.checkbox(name=name, checked=checked, x=72, y=y - 3, size=14)
            canvas.drawString(95, y, label)
        canvas.save()
        with pikepdf.open(io.BytesIO(out.getvalue())) as pdf:
            for widget in pdf.pages[0].Annots:
                if str(widget.T) in changed:
                    widget.V = pikepdf.String(changed[str(widget.T)])
            again = io.BytesIO()
            pdf.save(again)
        return again.getvalue()

    def values(self, data: bytes) -> tuple[dict[str, Any], list[str]]:
        document = wennak.read(data)
        schema = {"properties": {
            "vessel": {"type": "string"}, "running_hours": {"type": "number"}, "port": {"type": "string"},
            "belts": {"type": "boolean", "title": "Belts sound"},
            "stop": {"type": "boolean", "title": "Stop tested"},
        }}  # fmt: skip
        return wennak.fields(document, schema).values(), [f.message for f in document.findings]

    def test_what_is_drawn_is_what_the_form_holds(self) -> None:
        expected = {"vessel": "Selkie", "running_hours": 9871, "port": "Oskay", "belts": True, "stop": False}
        self.assertEqual(self.values(self.form()), (expected, []))

    def test_the_form_counts_where_they_differ_and_a_finding_says_so(self) -> None:
        values, findings = self.values(self.form(hours="9,902"))
        self.assertEqual(values["running_hours"], 9902)
        self.assertEqual(findings, [
            'in "Running hours:" on page 1 "9871" is drawn, but the form holds "9,902", which counts'
        ])  # fmt: skip


class TestStores(InFolder):
    def test_typed_values_are_those_in_print(self) -> None:
        kinds = "csv,xlsx,parquet"
        paper = DEMO / "yearly-accounts.pdf"
        result = run("tables", paper, "--save", self.folder, "--typed", "--as", kinds, "--red")
        self.assertEqual(result.returncode, 0, result.stderr)
        with (self.folder / "yearly-accounts-1.csv").open(encoding="utf-8", newline="") as file:
            rows = list(csv.DictReader(file))
        (table,) = wennak.read(paper).tables
        printed = {(c.row, c.column): c.text for c in table.cells}
        for row in rows:
            for k, name in enumerate(("column 1", "This year", "Last year")):
                text = printed.get((int(row["row"]) - 1, k), "")
                bare = "".join(c for c in text if c not in ",€() ") if k else text
                self.assertEqual(row[name].lstrip("-"), bare)
                self.assertEqual(row[name].startswith("-"), "(" in text and k > 0)
        book = openpyxl.load_workbook(self.folder / "yearly-accounts-1.xlsx")
        self.assertEqual(book.sheetnames, ["lines", "totals"])
        self.assertIn("[Red]", book["lines"]["B3"].number_format)
        frame = pd.read_parquet(self.folder / "yearly-accounts-1.parquet")
        said = [None if not row["This year"] else Decimal(row["This year"]) for row in rows]
        self.assertEqual([None if v is None else Decimal(v) for v in frame["This year"]], said)

    def test_rows_in_a_database_are_replaced_not_doubled(self) -> None:
        for name, count in (("fares-circular", 7), ("fares-circular", 7), ("fares-poster", 14)):
            into = f"sqlite:///{self.folder}/f.db#fares"
            result = run_here("tables", DEMO / f"{name}.pdf", "--show", 1, "--into", into)
            self.assertEqual(result.returncode, 0, result.stderr)
            with sqlite3.connect(self.folder / "f.db") as db:
                self.assertEqual(db.execute("select count(*) from fares").fetchone(), (count,))
        for said, *arguments in (
            ("choose the one to write with --show", "--into", into),
            ("has no column Kind", "--show", 2, "--into", into),
            ("There is no format 'md'", "--save", self.folder, "--typed", "--as", "md"),
        ):
            result = run_here("tables", DEMO / "fares-circular.pdf", *arguments)
            self.assertEqual(result.returncode, 2)
            self.assertIn(said, result.stderr)


class TestArithmetic(InFolder):
    ACCOUNT = (
        ("Date", "In", "Out", "Balance"), ("1 May", "", "", "100.00"), ("3 May", "40.50", "", "140.50"),
        ("4 May", "", "20.00", "120.50"), ("9 May", "1.00", "1.50", "120.00"),
        ("12 May", "", "20.00", "100.00"),
    )  # fmt: skip

    def test_running_balances(self) -> None:
        checks = find_relations(table_of(*self.ACCOUNT))
        self.assertEqual(
            [(c.kind, c.row, c.passed) for c in checks], [("balance", r, True) for r in range(2, 6)]
        )
        wrong = [list(row) for row in self.ACCOUNT]
        wrong[5][3] = "101.00"
        (failed,) = [c for c in find_relations(table_of(*wrong)) if not c.passed]
        self.assertEqual((failed.row, failed.expected, failed.printed), (5, 100.0, 101.0))

    def test_changes_and_shares_in_per_cent(self) -> None:
        rows = [("", "This year", "Last year", "Change, %")]
        for name, now, before in (
            ("Fares", 412, 398),
            ("Freight", 96, 120),
            ("Mail", 55, 50),
            ("Hire", 31, 29),
        ):
            rows.append((name, str(now), str(before), f"{(now - before) / before * 100:.1f}"))
        checks = find_relations(table_of(*rows))
        self.assertEqual([(c.kind, c.passed) for c in checks], [("percentage", True)] * 4)
        parts = {"Fares": 412, "Freight": 96, "Mail": 55}
        shares = [("", "Crowns", "Share")]
        shares += [(k, str(v), f"{v / 5.63:.1f} %") for k, v in parts.items()]
        shares.append(("Total", "563", "100.0 %"))
        checks = find_relations(table_of(*shares))
        self.assertEqual([(c.kind, c.passed) for c in checks], [("percentage", True)] * 4)

    def test_numbers_that_follow_from_nothing_are_left_alone(self) -> None:
        rng = random.Random(9)
        for _ in range(200):
            body = [[f"x{r}", *(str(rng.randrange(1, 900)) for _ in range(4))] for r in range(8)]
            self.assertEqual(find_relations(table_of(["", "A", "B", "C", "D"], *body)), [])

    def test_a_grand_total_with_a_slip_is_told_where_others_come_out(self) -> None:
        rows = [("", "Crowns"), ("a", "1,210"), ("b", "2,345"), ("Subtotal", "3,555"), ("c", "410"),
                ("d", "89"),
                ("Subtotal", "499"), ("Total", "4,045")]  # fmt: skip
        failed = [c for c in find_checks(table_of(*rows)) if not c.passed]
        self.assertEqual([(c.row, c.expected, c.printed) for c in failed], [(7, 4054.0, 4045.0)])

    def test_the_command_lists_what_does_not_come_out(self) -> None:
        wrong = run_here("tables", DEMO / "berth-charges-2031-11.pdf", "--checks")
        self.assertEqual(wrong.returncode, 3)
        self.assertIn("row 24, column 4 (Total): 22117.65 is printed", wrong.stdout)
        right = run_here("tables", DEMO / "yearly-accounts.pdf", "--checks")
        self.assertEqual(right.returncode, 0)
        self.assertIn("sum: 4 of 4 right", right.stdout)


class TestPointing(InFolder):
    def test_a_drag_gives_the_command_that_reads_that_region(self) -> None:
        from selenium.webdriver import ActionChains
        from selenium.webdriver.common.by import By

        shutil.copy(DEMO / "fares-circular.pdf", self.folder / "its fares.pdf")
        run("look", "its fares.pdf", "--out", "seen", cwd=self.folder)
        table = wennak.read(self.folder / "its fares.pdf").tables[0]
        around = table.places[0].box
        with browser(self) as driver:
            driver.set_window_size(1280, 1400)
            driver.get((self.folder / "seen/index.html").as_uri())
            layer = driver.find_element(By.CSS_SELECTOR, ".stage svg")
            scale = layer.size["width"] / 595.3

            def at(x: float, y: float) -> tuple[int, int]:
                size = layer.size
                return int(x * scale - size["width"] / 2), int(y * scale - size["height"] / 2)

            mouse = ActionChains(driver)
            mouse.move_to_element_with_offset(layer, *at(around.x0 - 6, around.y0 - 6)).click_and_hold()
            mouse.move_to_element_with_offset(layer, *at(around.x1 + 6, around.y1 + 4)).release().perform()
            starts = [
                min(p.box.x0 for c in table.cells if c.column == k for p in c.places) for k in range(1, 6)
            ]
            for x in [*(start - 4 for start in starts), 480]:
                mouse = ActionChains(driver)
                mouse.move_to_element_with_offset(
                    layer, *at(x, (around.y0 + around.y1) / 2)
                ).click().perform()
            driver.find_element(By.CSS_SELECTOR, ".pointed button").click()
            said = driver.find_element(By.CSS_SELECTOR, ".pointed .command").text
            recipe = driver.find_element(By.CSS_SELECTOR, ".pointed .recipe").text
            copied = driver.execute_script("return getSelection().toString()")
            self.assertEqual(driver.find_element(By.CSS_SELECTOR, ".pointed button").text, "Copied")
            driver.find_element(By.TAG_NAME, "body").send_keys("\ue00c")
            self.assertFalse(driver.find_element(By.CSS_SELECTOR, ".pointed").is_displayed())
        self.assertEqual(" ".join(copied.split()), said)
        import shlex

        program, *arguments = shlex.split(said)
        self.assertEqual(program, "wennak")
        result = run(*arguments, "--header-rows", 1, "--save", "out", cwd=self.folder)
        self.assertEqual(result.returncode, 0, result.stderr)
        lines = (self.folder / "out/its fares-1.csv").read_text(encoding="utf-8").splitlines()
        self.assertEqual(lines[0], "From,To,Adult,Child,Bicycle,Car with driver")
        self.assertEqual(len(lines), table.rows)
        # The same as lines of a recipe.
        names = "".join(f"  - {{name: {name}}}\n" for name in ("from", "to", "adult", "child", "bicycle"))
        text = f"wennak-recipe: 1\nname: fares\n{recipe}\ncolumns:\n{names}"
        (self.folder / "fares.yaml").write_text(text.replace("  cuts", "  header_rows: 1\n  cuts"))
        tried = run("recipe", "try", "fares.yaml", "its fares.pdf", cwd=self.folder)
        self.assertEqual(tried.returncode, 0, tried.stdout + tried.stderr)
        self.assertIn("It fits: 7 rows", tried.stdout)


if __name__ == "__main__":
    unittest.main()
