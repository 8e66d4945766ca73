"""Recipes: drafted, tried, applied to a year of ledgers, drift told; every mistake in one a sentence."""

from __future__ import annotations

import contextlib
import csv
import json
import random
import re
import shlex
import shutil
import sqlite3
import subprocess
import sys
import unittest
from decimal import Decimal
from pathlib import Path
from typing import Any

import openpyxl

import wennak
from tests.support import DEMO, InFolder, pdf_of, run, run_here
from wennak.demo import write_collection
from wennak.demo.scenario import Paper, Sheet, accounts, cells
from wennak.demo.series import MISPRINTED, MONTHS, PARTED, RENAMED, charges
from wennak.recipes import (
    RecipeError,
    apply_fitting,
    apply_recipe,
    draft_recipe,
    drift_of,
    read_recipe,
    recipe_schema,
)
from wennak.recipes.formula import FormulaError, Scope, read_formula

RECIPE = (DEMO / "berth-charges.yaml").read_text(encoding="utf-8")
LEDGERS = sorted(DEMO.glob("berth-charges-*.pdf"))
DRIFTED = RECIPE.replace("    type: money\n", '    aliases: ["Amount, crowns"]\n    type: money\n')
KEPT = [month for month in MONTHS if month not in (PARTED, MISPRINTED)]


def rows_in(path: Path) -> list[dict[str, str]]:
    with path.open(encoding="utf-8", newline="") as file:
        return list(csv.DictReader(file))


def opened_by_office(workbook: Path) -> dict[str, list[dict[str, str]]]:
    """The rows of each sheet of a workbook, as an office suite reads them; skips where there is none."""
    office = shutil.which("soffice")
    if office is None:
        raise unittest.SkipTest("needs LibreOffice (soffice) on the PATH")
    out = workbook.parent / "office"
    filter_ = "csv:Text - txt - csv (StarCalc):44,34,76,1,,0,false,true,false,false,false,-1"
    home = f"-env:UserInstallation=file://{workbook.parent}/office-home"
    command = [office, home, "--headless", "--convert-to", filter_, "--outdir", out, workbook]
    subprocess.run(command, check=True, capture_output=True, timeout=120)
    return {path.stem.rsplit("-", 1)[1]: rows_in(path) for path in out.iterdir()}


def drawn(paper: Paper, path: Path) -> Path:
    """Draw a paper; skips the test where what draws is not installed."""
    try:
        from wennak.demo.draw import draw
    except ImportError as error:
        raise unittest.SkipTest(f"drawing needs the extra dev: {error}") from error
    draw(paper, path)
    return path


class Ledgers(InFolder):
    """A folder with ledgers of some months and two recipes, of which one knows what June has changed."""

    months: tuple[str, ...] = ("January", RENAMED, MISPRINTED)
    how = staticmethod(run_here)

    def setUp(self) -> None:
        super().setUp()
        (self.folder / "ledgers").mkdir()
        for month in self.months:
            shutil.copy(LEDGERS[MONTHS.index(month)], self.folder / "ledgers")
        (self.folder / "recipe.yaml").write_text(RECIPE, encoding="utf-8")
        (self.folder / "drifted.yaml").write_text(DRIFTED, encoding="utf-8")
        self.kept = [month for month in self.months if month in KEPT]

    def apply(self, recipe: str, *more: object) -> subprocess.CompletedProcess[str]:
        return self.how("recipe", "apply", recipe, "ledgers", "--out", "data", *more, cwd=self.folder)


class TestYear(Ledgers):
    """The ledgers of a year in one command."""

    months, how = MONTHS, staticmethod(run)

    def test_ten_months_to_the_cent_one_drifted_one_refused(self) -> None:
        first = self.apply("recipe.yaml")
        self.assertEqual(first.returncode, 3, first.stderr)
        self.assertIn("9 documents in the data, 3 for review, 0 failed", first.stderr)
        self.assertIn("the header 'Crowns' is now 'Amount, crowns'", first.stderr)
        renamed = f"berth-charges-2031-{MONTHS.index(RENAMED) + 1:02}"
        self.assertTrue((self.folder / f"data/review/{renamed}.png").read_bytes().startswith(b"\x89PNG"))
        # Drift is taken into the recipe.
        second = self.apply("drifted.yaml")
        self.assertEqual(second.returncode, 3, second.stderr)
        self.assertIn("10 documents in the data, 2 for review, 0 failed", second.stderr)
        lines = rows_in(self.folder / "data/berth-charges.csv")
        said = [charge for month in KEPT for charge in charges(month)]
        self.assertEqual(
            sorted((r["vessel"], r["charge"], r["voucher"], Decimal(r["crowns"])) for r in lines),
            sorted((c.vessel, c.what, str(c.voucher), Decimal(c.ore) / 100) for c in said),
        )
        days = {f"2031-{MONTHS.index(m) + 1:02}-{c.day:02}" for m in KEPT for c in charges(m)}
        self.assertEqual({r["day"] for r in lines}, days)
        january = [r["day"] for r in lines if r["document"] == lines[0]["document"]]
        self.assertEqual(january, sorted(january))
        totals = rows_in(self.folder / "data/berth-charges-totals.csv")
        total = sum(Decimal(r["crowns"]) for r in lines)
        self.assertEqual(total, sum(Decimal(r["crowns"]) for r in totals if r["label"] == "Total"))
        self.assertEqual(total, sum(Decimal(r["crowns"]) for r in totals if r["label"] == "Subtotal"))
        # What is no longer for review is gone from there.
        kinds = {p.suffix for p in (self.folder / "data/review").iterdir()}
        self.assertEqual(kinds, {".png", ".json"})
        review = rows_in(self.folder / "data/review.csv")
        months = {MONTHS[int(r["document"][-6:-4]) - 1] for r in review}
        self.assertEqual(months, {PARTED, MISPRINTED})
        self.assertEqual({p.stem[-2:] for p in (self.folder / "data/review").iterdir()}, {"09", "11"})
        why = {MONTHS[int(r["document"][-6:-4]) - 1]: r["why"] for r in review if "moved" not in r["why"]}
        self.assertIn("90.00 less", why[MISPRINTED])
        self.assertIn("no column like 'crowns'", why[PARTED])

        ours = [
            {name: row[name] for name in ("day", "vessel", "charge", "voucher", "crowns")} for row in lines
        ]
        # An office suite gets the same numbers from the workbook.
        book = openpyxl.load_workbook(self.folder / "data/berth-charges.xlsx")
        sheet = book["lines"]
        self.assertEqual((sheet.freeze_panes, sheet["D2"].data_type), ("A2", "s"))
        self.assertIn("[Red]", sheet["E2"].number_format)
        theirs = opened_by_office(self.folder / "data/berth-charges.xlsx")["lines"]
        self.assertEqual(len(ours), len(theirs))
        for one, other in zip(ours, theirs, strict=True):
            other = {name: other[name] for name in one}
            exact = Decimal(one.pop("crowns")), Decimal(other.pop("crowns"))
            self.assertEqual((one, exact[0]), (other, exact[1]))


class TestRuns(Ledgers):
    """What a run keeps to, on three months."""

    def test_the_same_command_does_nothing_twice_and_workers_change_nothing(self) -> None:
        self.apply("drifted.yaml", "--workers", 2)
        first = {p.name: p.read_bytes() for p in (self.folder / "data").glob("*.csv")}
        self.assertEqual(len(first), 3)
        again = self.apply("drifted.yaml", "--workers", 1)
        self.assertEqual(again.returncode, 3)
        self.assertEqual(first, {p.name: p.read_bytes() for p in (self.folder / "data").glob("*.csv")})
        with sqlite3.connect(self.folder / "data/wennak-journal.sqlite") as db:
            attempts = db.execute("select distinct attempts from documents").fetchall()
        self.assertEqual(attempts, [(1,)])
        recipe = wennak.load_recipe(self.folder / "drifted.yaml")
        wennak.apply_recipes([recipe], self.folder / "ledgers", self.folder / "data", fresh=True)
        self.assertEqual(first, {p.name: p.read_bytes() for p in (self.folder / "data").glob("*.csv")})

    def test_a_database_holds_each_row_once(self) -> None:
        into = f"sqlite:///{self.folder}/year.db#charges"
        self.apply("drifted.yaml", "--into", "sqlite:///year.db#charges")
        recipe = wennak.load_recipe(self.folder / "drifted.yaml")
        wennak.apply_recipes([recipe], self.folder / "ledgers", self.folder / "data", into=into)
        with sqlite3.connect(self.folder / "year.db") as db:
            count, total = db.execute("select count(*), sum(crowns) from charges").fetchone()
            whole = sum(len(charges(month)) for month in self.kept)
            self.assertEqual(
                (count, round(total * 100)), (whole, sum(c.ore for m in self.kept for c in charges(m)))
            )
            # Rows that others have put there stay.
            db.execute("insert into charges (document, crowns) values ('other.pdf', 1)")
        recipe = wennak.load_recipe(self.folder / "recipe.yaml")
        wennak.apply_recipes([recipe], self.folder / "ledgers", self.folder / "data", into=into)
        with sqlite3.connect(self.folder / "year.db") as db:
            (count,) = db.execute("select count(*) from charges").fetchone()
        self.assertEqual(count, whole - len(charges(RENAMED)) + 1)

    def test_what_cannot_be_used_is_a_sentence(self) -> None:
        (self.folder / "other.db").write_bytes(b"no database, but a text of some length, for a start")
        result = self.apply("recipe.yaml", "--earlier", "other.db")
        self.assertEqual(result.returncode, 2, result.stderr)
        self.assertIn("is no CSV file of an earlier run", result.stderr)
        recipe = wennak.load_recipe(self.folder / "recipe.yaml")
        for said, given in (
            ("names no table of a database", {"into": "year.db"}),
            ("cannot be written to", {"into": f"sqlite:///{self.folder}/other.db#charges"}),
            ("is no address of a database", {"into": "nonsense://#x"}),
            ("does not exist", {"earlier": self.folder / "gone.csv"}),
            ("is no CSV file of an earlier run", {"earlier": self.folder / "recipe.yaml"}),
        ):
            with self.subTest(said), self.assertRaises(wennak.WennakError) as caught:
                wennak.apply_recipes([recipe], self.folder / "ledgers", self.folder / "x", **given)
            self.assertIn(said, str(caught.exception))

    def test_the_library_does_the_same(self) -> None:
        recipe = wennak.load_recipe(self.folder / "drifted.yaml")
        outcomes = wennak.apply_recipes([recipe], self.folder / "ledgers", self.folder / "own")
        self.apply("drifted.yaml")
        for name in ("berth-charges.csv", "berth-charges-totals.csv", "review.csv"):
            self.assertEqual(
                (self.folder / "own" / name).read_bytes(), (self.folder / "data" / name).read_bytes()
            )
        refused = [o.name for o in outcomes if any(f.code == "review" for f in o.notes)]
        self.assertEqual([MONTHS[int(name[-6:-4]) - 1] for name in refused], [MISPRINTED])

    def test_drift_says_what_moved_and_what_broke(self) -> None:
        result = run("recipe", "drift", "recipe.yaml", "ledgers", cwd=self.folder)
        self.assertEqual(result.returncode, 3)
        self.assertIn("1 document as before, 2 drifted", result.stdout)
        self.assertEqual(result.stdout.count(": as before\n"), 1)
        self.assertIn("the header 'Crowns' is now 'Amount, crowns'", result.stdout)

    def test_a_check_compares_with_the_earlier_period(self) -> None:
        known = wennak.load_recipe(self.folder / "drifted.yaml")
        wennak.apply_recipes([known], self.folder / "ledgers", self.folder / "data")
        check = '  - whole: "count(voucher) <= 3 * earlier(count(voucher))"\n'
        tail = '  - whole: "sum(crowns) > 100 * earlier(sum(crowns))"\n'
        text = DRIFTED.replace("checks:\n", f"checks:\n{check}")
        (self.folder / "later.yaml").write_text(text, encoding="utf-8")
        (self.folder / "wrong.yaml").write_text(text.replace(check, check + tail), encoding="utf-8")
        one = "ledgers/berth-charges-2031-01.pdf"
        earlier = ("--earlier", "data/berth-charges.csv")
        good = run_here("recipe", "try", "later.yaml", one, *earlier, cwd=self.folder)
        bad = run_here("recipe", "try", "wrong.yaml", one, *earlier, cwd=self.folder)
        none = run_here("recipe", "apply", "later.yaml", one, "--out", "x", cwd=self.folder)
        self.assertEqual(good.returncode, 0, good.stdout + good.stderr)
        self.assertEqual(bad.returncode, 3)
        self.assertIn("does not hold", bad.stdout)
        self.assertEqual(none.returncode, 2)
        self.assertIn("name its data with --earlier", none.stderr)


class TestSeveral(Ledgers):
    """Recipes side by side."""

    months = ("January", RENAMED, PARTED, MISPRINTED)

    def test_several_recipes_share_the_documents_out(self) -> None:
        (self.folder / "recipes").mkdir()
        (self.folder / "recipes/a.yaml").write_text(DRIFTED, encoding="utf-8")
        parted = RECIPE.replace("name: berth-charges", "name: parted").replace(
            "  - name: crowns\n", "  - name: crowns\n    aliases: [Charged]\n    needed: false\n"
        )
        tail = parted.index("checks:")
        parted = parted[:tail].replace("    filled: true\n", "") + "output:\n  formats: [csv]\n"
        parted = parted.replace("says: [Berth charges]", "says: [Credited]")
        (self.folder / "recipes/b.yaml").write_text(parted, encoding="utf-8")
        result = self.apply("recipes")
        self.assertIn("3 documents in the data, 1 for review", result.stderr)
        rows = rows_in(self.folder / "data/parted.csv")
        self.assertEqual({r["document"][-6:-4] for r in rows}, {"09"})
        self.assertEqual(len(rows), len(charges(PARTED)))


class TestTryAndDraft(InFolder):
    def test_a_draft_fits_its_document_and_the_whole_year(self) -> None:
        shutil.copy(LEDGERS[0], self.folder / "ledger.pdf")
        made = run("recipe", "draft", "ledger.pdf", "--name", "charges", cwd=self.folder)
        self.assertEqual(made.returncode, 0, made.stderr)
        text = (self.folder / "charges.yaml").read_text(encoding="utf-8")
        recipe = read_recipe(text)
        self.assertEqual([c.type for c in recipe.columns], ["text", "date", "text", "identifier", "money"])
        sums = [c.adds_up for c in recipe.checks if c.adds_up is not None]
        self.assertEqual([(s.totals, s.per) for s in sums], [("^Subtotal", "group"), ("^Total", None)])
        fits = [apply_recipe(recipe, wennak.read(path)).good for path in LEDGERS]
        self.assertEqual(
            [m for m, fit in zip(MONTHS, fits, strict=True) if not fit], [RENAMED, PARTED, MISPRINTED]
        )
        again = run("recipe", "draft", "ledger.pdf", "--name", "charges", cwd=self.folder)
        self.assertEqual(again.returncode, 2)
        self.assertIn("is there already", again.stderr)

    def test_a_draft_of_a_misprint_says_which_sum_does_not_come_out(self) -> None:
        document = wennak.read(LEDGERS[MONTHS.index(MISPRINTED)])
        text = draft_recipe(document, document.tables[0], "drafted")
        self.assertIn("  - adds_up: {columns: [crowns], totals: '^Subtotal', per: group}\n", text)
        self.assertIn("# It does not hold here: row 24: crowns is 22,117.65 in print", text)
        self.assertIn("  # - adds_up: {columns: [crowns], totals: '^Total'}\n", text)
        self.assertTrue(apply_recipe(read_recipe(text), document).good)

    def test_two_tables_that_fit_need_a_number(self) -> None:
        document = wennak.read(DEMO / "fares-circular.pdf")
        text = "wennak-recipe: 1\nname: x\ntable: {near: Fares}\ncolumns:\n  - {name: Kind, needed: false}\n"
        applied = apply_recipe(read_recipe(text), document)
        self.assertIn("2 tables near 'Fares' (page 1, page 1); say number", applied.problems[0])
        numbered = text.replace("Fares}", "Fares, number: 2}")
        self.assertEqual(len(apply_recipe(read_recipe(numbered), document).records), 5)

    def test_values_in_doubt_are_told(self) -> None:
        document = wennak.read(DEMO / "berth-ledger.pdf")
        (table,) = document.tables
        recipe = read_recipe(draft_recipe(document, table, "drafted"))
        self.assertEqual(apply_recipe(recipe, document).doubtful, [])
        cell = next(c for c in table.cells if c.text == "2143")
        cell.confidence = 0.3
        self.assertEqual(apply_recipe(recipe, document).doubtful, ["row 3, voucher: '2143'"])

    def test_every_demo_table_gets_a_draft_that_fits_it(self) -> None:
        for path in sorted(DEMO.glob("*.pdf")):
            if path in LEDGERS[1:] or path.stem.endswith(("-nameless", "-scan")):
                continue
            document = wennak.read(path)
            for number, table in enumerate(document.tables, start=1):
                with self.subTest(path.name, table=number):
                    recipe = read_recipe(draft_recipe(document, table, "drafted"))
                    applied = apply_recipe(recipe, document)
                    self.assertEqual(applied.problems, [])
                    self.assertGreater(len(applied.records), 0)
                    self.assertTrue(drift_of(recipe, document).none)

    def test_nothing_comes_out_that_is_not_on_the_page(self) -> None:
        for path in LEDGERS:
            document = wennak.read(path)
            printed = {c.text for t in document.tables for c in t.cells}
            heading = document.title
            for record in apply_recipe(read_recipe(DRIFTED), document).records:
                for name in ("vessel", "charge", "voucher"):
                    self.assertIn(record.values[name], printed)
                day = record.values["day"]
                self.assertIn(f"{day.day} {MONTHS[day.month - 1]}", printed)  # type: ignore[union-attr]
                self.assertIn(str(day.year), heading)  # type: ignore[union-attr]

    def test_try_tells_each_step_with_counts_and_samples(self) -> None:
        path = LEDGERS[MONTHS.index(MISPRINTED)]
        result = run_here("recipe", "try", DEMO / "berth-charges.yaml", path)
        self.assertEqual(result.returncode, 3)
        for said in (
            "table      page 1: Table 1: Charges by vessel", "month = 'November', year = '2031'",
            "carried down as vessel; 23 rows before", "column     day from 'Date', 1.00 alike, as date",
            "check      adds_up: WRONG", "It would go to the review folder",
        ):  # fmt: skip
            self.assertIn(said, result.stdout)

    def test_another_document_is_not_for_it(self) -> None:
        result = run_here("recipe", "try", DEMO / "berth-charges.yaml", DEMO / "timetable.pdf")
        self.assertEqual(result.returncode, 3)
        self.assertIn("it does not say 'Berth charges'", result.stdout)
        applied = apply_fitting([read_recipe(RECIPE)], wennak.read(DEMO / "timetable.pdf"))
        self.assertFalse(applied.good)
        self.assertEqual(applied.records, [])


class TestLayouts(InFolder):
    """Tables that have to be found, cleaned and computed with."""

    def test_the_balance_of_a_report_of_twenty_pages(self) -> None:
        (sheet,) = (part for part in accounts().parts if isinstance(part, Sheet))
        chapters: list[Any] = [("h1", "Report of the Board for the year")]
        prose = "The Board met at Hollinquay and heard the purser, the mate and the harbour master. " * 12
        decoy = Sheet("Table 9: Sailings", [cells("", "This year", "Last year")],
                      [cells("Sailings", "412", "398"), cells("Cancelled", "17", "22")])  # fmt: skip
        for number in range(1, 22):
            chapters += [
                ("h2", f"Of matter {number}"),
                ("p", prose),
                ("p", prose),
                ("p", prose),
                ("p", prose),
            ]
            if number == 7:
                chapters.append(decoy)
            if number == 14:
                chapters += [("h2", "The balance of the year"), sheet]
        report = drawn(
            Paper("report", "Report of the Board", chapters, "yearly-accounts"), self.folder / "r.pdf"
        )
        document = wennak.read(report)
        self.assertGreaterEqual(len(document.pages), 20)
        hit = wennak.find(document, "balances of the year")[0]
        self.assertEqual((hit.kind, hit.context), ("heading", "The balance of the year"))
        recipe = """
wennak-recipe: 1
name: balance
table:
  near: balance of the year
columns:
  - {name: item, aliases: [column 1]}
  - {name: this_year, type: money}
  - {name: last_year, type: money}
  - {name: change, type: money, formula: this_year - last_year}
  - {name: change_percent, type: percent, formula: "round((this_year - last_year) / abs(last_year) * 100, 1)"}
checks:
  - rows: {at_least: 8}
output: {formats: [csv, xlsx]}
"""
        (self.folder / "balance.yaml").write_text(recipe)
        result = run("recipe", "apply", "balance.yaml", "r.pdf", "--out", "data", cwd=self.folder)
        self.assertEqual(result.returncode, 0, result.stderr)
        rows = {r["item"]: r for r in rows_in(self.folder / "data/balance.csv")}
        for row in rows_in(self.folder / "data/balance-totals.csv"):
            rows[row["item"]] = row
        said = {row[0].text: [e.text for e in row[1:]] for row in sheet.body}
        self.assertEqual(set(rows), set(said))

        def amount(text: str) -> Decimal | None:
            digits = re.sub(r"[^0-9]", "", text)
            return None if not digits else Decimal(digits) * (-1 if "(" in text else 1)

        for item, (now, before) in said.items():
            one, other, row = amount(now), amount(before), rows[item]
            self.assertEqual(Decimal(row["this_year"]) if row["this_year"] else None, one)
            self.assertEqual(Decimal(row["last_year"]) if row["last_year"] else None, other)
            if one is not None and other is not None:
                self.assertEqual(Decimal(row["change"]), one - other)
                percent = float(one - other) / float(abs(other)) * 100
                self.assertLessEqual(abs(float(row["change_percent"]) - percent), 0.0500001)
        # An office suite opens the workbook and gives the same numbers back, those below zero too.
        sheets = opened_by_office(self.folder / "data/balance.xlsx")
        again = {row["item"]: row for row in [*sheets["lines"], *sheets["totals"]]}
        numbers = ("this_year", "last_year", "change", "change_percent")
        for item, row in rows.items():
            ours, theirs = ([Decimal(r[n]) if r[n] else None for n in numbers] for r in (row, again[item]))
            self.assertEqual(ours, theirs)
        self.assertTrue(any(Decimal(row["this_year"] or 0) < 0 for row in again.values()))

    def test_vendors_with_numbers_head_their_lines(self) -> None:
        body = [cells("101 Skerra Ropes", "", "", ""), cells("2 March", "PO-7", "Hawser, 200 m", "1,480.00"),
                cells("9 March", "", "Shackles", "96.50"), cells("117 Oskay Fuel & Ice", "", "", ""),
                cells("4 March", "PO-9", "Diesel, 2,000 l", "12,400.75"),
                cells("5 March", "PO-10", "Ice", "88.00"),
                cells("Total", "", "", "14,065.25")]  # fmt: skip
        head = [cells("Date", "Order", "What", "Crowns")]
        paper = Paper("vendors", "Vendors", [("h1", "Vendors"), Sheet("", head, body)], "berth-ledger")
        document = wennak.read(drawn(paper, self.folder / "vendors.pdf"))
        recipe = read_recipe(r"""
wennak-recipe: 1
name: vendors
clean:
  - carry: {pattern: '^(?P<number>\d{3}) (?P<vendor>[A-Z].+)$', rows: group}
columns:
  - {name: number, type: identifier, filled: true}
  - {name: vendor}
  - {name: date}
  - {name: order}
  - {name: what}
  - {name: crowns, type: money, filled: true}
checks:
  - adds_up: {columns: [crowns], totals: ^Total}
  - whole: "sum(crowns) = 14065.25"
""")
        applied = apply_recipe(recipe, document)
        self.assertEqual(applied.problems, [])
        self.assertEqual(
            [tuple(r.values[n] for n in ("number", "vendor", "order", "crowns")) for r in applied.records],
            [("101", "Skerra Ropes", "PO-7", Decimal("1480.00")),
             ("101", "Skerra Ropes", None, Decimal("96.50")),
             ("117", "Oskay Fuel & Ice", "PO-9", Decimal("12400.75")),
             ("117", "Oskay Fuel & Ice", "PO-10", Decimal("88.00"))],
        )  # fmt: skip

    def test_records_of_two_lines(self) -> None:
        body = [cells("2217", "14 March 2031", ""), cells("", "Fuel for the night boat", "1,240.00"),
                cells("2218", "15 March 2031", ""), cells("", "Lamp oil", "(36.20)"),
                cells("2225", "19 March 2031", ""), cells("", "Paint, grey", "410.00 CR")]  # fmt: skip
        head = [cells("Voucher", "Entry", "Crowns")]
        paper = Paper("entries", "Entries", [("h1", "Entries"), Sheet("", head, body)], "inspection-letter")
        document = wennak.read(drawn(paper, self.folder / "entries.pdf"))
        text = r"""
wennak-recipe: 1
name: entries
clean:
  - records:
      begins: '^(?P<voucher>\d{4}) (?P<day>\d+ \w+ \d{4})$'
      lines: ['^(?P<what>.+?) (?P<crowns>\(?[\d,.]+\)?( CR)?)$']
columns:
  - {name: voucher, type: identifier}
  - {name: day, type: date, format: "%d %B %Y"}
  - {name: what}
  - {name: crowns, type: money, filled: true}
"""
        applied = apply_recipe(read_recipe(text), document)
        self.assertEqual(applied.problems, [])
        self.assertEqual([r.values["crowns"] for r in applied.records],
                         [Decimal("1240.00"), Decimal("-36.20"), Decimal("-410.00")])  # fmt: skip
        self.assertEqual(
            [str(r.values["day"]) for r in applied.records], ["2031-03-14", "2031-03-15", "2031-03-19"]
        )
        # A line that no pattern has is told, never left out in silence.
        wrong = apply_recipe(read_recipe(text.replace("( CR)?", "")), document)
        self.assertIn("1 line with no pattern", wrong.problems[0])

    def test_a_region_hangs_on_what_stands_around_it(self) -> None:
        shutil.copy(DEMO / "fares-circular.pdf", self.folder / "fares.pdf")
        text = """
wennak-recipe: 1
name: freight
table:
  region: {below: Freight is taken at the purser's discretion, above: What to tell passengers}
read: {header_rows: 1, cuts: [210, 258]}
columns:
  - {name: kind}
  - {name: charged}
  - {name: crowns, type: money}
"""
        document = wennak.read(self.folder / "fares.pdf")
        applied = apply_recipe(read_recipe(text), document, self.folder / "fares.pdf")
        self.assertEqual(applied.problems, [])
        self.assertEqual(len(applied.records), 5)
        self.assertEqual(applied.records[-1].values["crowns"], Decimal("1240.00"))
        with self.assertRaises(wennak.UsageError):
            apply_recipe(read_recipe(text), document)
        lost = text.replace("What to tell passengers", "Nothing of the kind")
        said = apply_recipe(read_recipe(lost), document, self.folder / "fares.pdf").problems
        self.assertEqual(said, ["nothing says 'Nothing of the kind', where the region is"])

    def test_steps_split_join_fill_and_drop(self) -> None:
        body = [cells("Gannet Rock", "A-12 Engine", "3"), cells("", "B-7 Hull", "4"),
                cells("Selkie", "A-1 Mast", "9"),
                cells("see note", "", "")]  # fmt: skip
        sheet = Sheet("", [cells("Vessel", "Part", "Count")], body)
        paper = Paper("parts", "Parts", [("h1", "Parts"), sheet],
                      "inspection-letter")  # fmt: skip
        document = wennak.read(drawn(paper, self.folder / "parts.pdf"))
        recipe = read_recipe(r"""
wennak-recipe: 1
name: parts
clean:
  - drop: {pattern: '^see note'}
  - fill: [Vessel]
  - split: {column: Part, pattern: '^(?P<code>[A-Z]-\d+) (?P<name>.+)$'}
  - join: {columns: [Vessel, code], into: key, between: "/"}
columns:
  - {name: key}
  - {name: name}
  - {name: count, type: number}
checks:
  - unique: [key]
  - allowed: {column: name, values: [Engine, Hull, Mast]}
  - matching: {column: key, pattern: '^\w+( \w+)?/[A-Z]-\d+$'}
  - each: count > 2
""")
        applied = apply_recipe(recipe, document)
        self.assertEqual(applied.problems, [])
        self.assertEqual(
            [r.values["key"] for r in applied.records], ["Gannet Rock/A-12", "Gannet Rock/B-7", "Selkie/A-1"]
        )


def table_of(*rows: tuple[str, ...]) -> wennak.Table:
    """A table with one header row, on page 1."""

    def at(r: int, c: int) -> list[wennak.Place]:
        return [wennak.Place(1, wennak.Box(100 * c, 20 * r, 100 * c + 60, 20 * r + 10))]

    found = [
        wennak.Cell(r, c, text, header=not r, places=at(r, c))
        for r, row in enumerate(rows)
        for c, text in enumerate(row)
        if text
    ]
    place = wennak.Place(1, wennak.Box(0, 0, 500, 300))
    return wennak.Table(len(rows), len(rows[0]), found, header_rows=1, places=[place])


class TestDocuments(unittest.TestCase):
    """Conditions and values that stand outside the table."""

    BILL = """
wennak-recipe: 1
name: bill
documents: {says: [Bill of the harbour], says_not: [Draft], page_size: A4, producer: Quayside Press}
take:
  - {field: Total due, name: due}
  - pattern: 'Bill no\\. (?P<number>\\d+)'
columns:
  - {name: number, type: identifier}
  - {name: what}
  - {name: crowns, type: money}
checks:
  - whole: sum(crowns) = due
"""

    def bill(self, due: str = "1,312.50", **changed: Any) -> wennak.Document:
        blocks: list[wennak.Block] = [
            wennak.Heading("Bill of the harbour", 1), wennak.Paragraph("Bill no. 2217, payable in May"),
            wennak.Fields([wennak.Field("Total due:", due), wennak.Field("Berth:", "7")]),
            table_of(("What", "Crowns"), ("Berth", "1,240.00"), ("Water", "72.50")),
        ]  # fmt: skip
        document = wennak.Document("bill.pdf", pages=[wennak.PageSize(1, 595.3, 841.9)], blocks=blocks)
        document.producer = "Quayside Press 3"
        for name, value in changed.items():
            setattr(document, name, value)
        return document

    def test_a_total_elsewhere_in_the_document(self) -> None:
        recipe = read_recipe(self.BILL)
        applied = apply_recipe(recipe, self.bill())
        self.assertEqual(applied.problems, [])
        self.assertEqual([r.values["number"] for r in applied.records], ["2217", "2217"])
        wrong = apply_recipe(recipe, self.bill("1,321.50"))
        self.assertEqual(
            wrong.problems, ["check 1, whole: sum(crowns) = due does not hold: 1312.50 and 1321.50"]
        )
        bare = self.bill()
        del bare.blocks[2]
        self.assertIn("there is no field 'Total due'", apply_recipe(recipe, bare).problems)

    def test_each_condition_says_why_a_document_is_another(self) -> None:
        recipe = read_recipe(self.BILL)
        draft = self.bill()
        draft.blocks.append(wennak.Paragraph("This is a draft."))
        for document, said in (
            (draft, "it says 'Draft'"),
            (self.bill(producer="Other"), "it was made by Other, not Quayside Press"),
            (self.bill(pages=[wennak.PageSize(1, 842, 595)]), "its pages are 842 x 595 pt, not A4"),
            (self.bill(blocks=[]), "it does not say 'Bill of the harbour'"),
        ):  # fmt: skip
            applied = apply_recipe(recipe, document)
            self.assertEqual((applied.unfit, applied.records), ([said], []))


class TestMistakes(unittest.TestCase):
    """Every mistake has its line, its field, and what to do."""

    def said(self, old: str, new: str) -> str:
        self.assertIn(old, RECIPE)
        with self.assertRaises(RecipeError) as caught:
            read_recipe(RECIPE.replace(old, new), "r.yaml")
        return str(caught.exception)

    def test_each_kind_of_mistake(self) -> None:
        for old, new, said in (
            ("type: money", "type: mony", "columns.5.type: 'mony' is not allowed; choose from 'text'"),
            ("type: money", "tipe: money", "columns.5.tipe: there is no such field; did you mean type?"),
            ("name: berth-charges", "nam: berth-charges", "name: is missing"),
            ("name: berth-charges", "name: ../x", "name: '../x' cannot name files"),
            ("rows: {at_least: 3}", "rows: {at_least: many}", "checks.1.rows.at_least: 'many' is no number"),
            ("rows: {at_least: 3}", "rows: {at_least: -3}", "is too small; the least is 0"),
            ("'^Subtotal'", "'^(Subtotal'", "checks.4.adds_up.totals: '^(Subtotal' is no regular expression"),
            ("'(?P<vessel>.+)'", "'(.+)'", "clean.1.carry.pattern: '(.+)' names no part"),
            ("[crowns], totals: '^Total'", "[crown], totals: '^Total'", "did you mean crowns?"),
            ("unique: [voucher]", "unique: [vouchers]", "there is no column 'vouchers' in columns"),
            ("unique: [voucher]", "each: crowns", "says nothing that can hold or not"),
            ("unique: [voucher]", 'each: "crowns > amount"', "there is no column 'amount'"),
            ("unique: [voucher]", "whole: crowns > 3", "say of which rows: sum(crowns)"),
            ("unique: [voucher]", "each: crowns >", "cannot be read: it ends too early"),
            ("unique: [voucher]", 'each: "__import__(1) = 1"', "There is no function '__import__'"),
            ("unique: [voucher]", "unique: voucher", "checks.2.unique: this needs a list"),
            ("format: \"%d %B %Y\"", "format: \"%d %B\"", "has no year"),
            ("page_size: A4\n  headers", "page_size: A9\n  headers", "is no page size"),
            ("says: [Berth charges]", "says: Berth charges", "documents.says: this needs a list"),
            ("filled: true\n  - name: day", "filled: perhaps\n  - name: day", "is neither yes nor no"),
            ("formats: [csv, xlsx]", "formats: [csv, pdf]", "output.formats.2: 'pdf' is not allowed"),
            ("order: [day, voucher]", "order: [days]", "output.order: there is no column 'days'"),
            ("  - join: {", "  - drop: {rows: total}\n    join: {", "A step does one thing"),
            ("wennak-recipe: 1", "wennak-recipe: 7", "wennak-recipe: '7' is not allowed"),
            ("  near: Charges by vessel", "  near: x\n  near: x", "table.near: is said twice"),
            ("near: Charges by vessel", "near: [Charges", "this is not YAML"),
            ("near: Charges by vessel", "near: *charges", "write & * and ! in quotes"),
            ("near: Charges by vessel", "near: !!python/name:os.system x", "write & * and ! in quotes"),
            ("near: Charges by vessel", "region: {left: 3mm}", "A region hangs on a phrase"),
            ("near: Charges by vessel", "pages: 3-1", "runs backwards"),
            ("near: Charges by vessel", "number: 0", "is too small; the least is 1"),
        ):  # fmt: skip
            with self.subTest(new):
                message = self.said(old, new)
                self.assertIn(said, message)
                self.assertRegex(message, r"^r\.yaml, line \d+")
                changed = RECIPE.replace(old, new)
                lines = [int(n) for n in re.findall(r"line (\d+)", message)]
                self.assertTrue(all(1 <= n <= changed.count("\n") + 1 for n in lines))

    def test_the_line_is_that_of_the_mistake(self) -> None:
        line = RECIPE[: RECIPE.index("type: money")].count("\n") + 1
        self.assertIn(f"line {line}, columns.5.type", self.said("type: money", "type: mony"))

    def test_files_that_are_no_recipes(self) -> None:
        for text in (
            "",
            "[]",
            "just words",
            "a: b: c",
            "\x00",
            "- " * 500 + "x",
            "{" * 300,
            "wennak-recipe: 1",
        ):
            with self.subTest(text[:20]), self.assertRaises(RecipeError):
                read_recipe(text)

    def test_cut_and_changed_recipes_are_read_or_refused(self) -> None:
        rng = random.Random(5)
        for _ in range(100):
            at = rng.randrange(len(RECIPE))
            text = (
                RECIPE[:at]
                + rng.choice(["", ":", "- ", "{", "'", "\t", "x", "\n", "0"])
                + RECIPE[at + rng.randrange(9) :]
            )
            try:
                read_recipe(text)
            except RecipeError as error:
                self.assertTrue(str(error).endswith("."), error)

    def test_the_shipped_schema_is_that_of_the_model(self) -> None:
        kept = json.loads(Path("docs/wennak-recipe.schema.json").read_text(encoding="utf-8"))
        self.assertEqual(kept, recipe_schema())


class TestFormulas(unittest.TestCase):
    ROWS = ({"a": Decimal(3), "b": Decimal("0.1"), "name": "x"}, {"a": Decimal(5), "b": None, "name": "y"})

    def value(self, text: str, row: int | None = None) -> object:
        return read_formula(text).value(
            Scope(self.ROWS, None if row is None else self.ROWS[row], {"due": Decimal(8)})
        )

    def test_arithmetic_is_exact(self) -> None:
        for text, value in (
            ("a + b * 2", Decimal("3.2")), ("(a + b) * 2", Decimal("6.2")), ("-a - -b", Decimal("-2.9")),
            ("round(a / 7, 3)", Decimal("0.429")), ("abs(b - a)", Decimal("2.9")), ("a / 0", None),
            ("sum(a) = due", True), ("sum(a * a)", Decimal(34)), ("count(b)", Decimal(1)),
            ("mean(a)", Decimal(4)), ("least(a) + greatest(a)", Decimal(8)), ('first(name) = "x"', True),
            ("last(name)", "y"), ("[a] >= 3", True),
        ):  # fmt: skip
            self.assertEqual(self.value(text, 0), value, text)
        self.assertIsNone(self.value("a + b", 1))

    def test_what_cannot_be_worked_out_is_a_sentence(self) -> None:
        for text in ("a + name", 'a = "x"', "sum(name)", "earlier(sum(a))", "round(a, 99)", "zz"):
            with self.subTest(text), self.assertRaises(FormulaError):
                self.value(text, 0)
        with self.assertRaises(FormulaError):
            self.value("*".join(["99999999999999999999"] * 40), 0)

    def test_no_text_reaches_anything_else(self) -> None:
        """Ten thousand strings, of pieces of this language and of Python: each is read or refused."""
        rng = random.Random(11)
        pieces = (
            "a b name due 1 2.5 + - * / ** ( ) , = == < sum abs round first earlier [ ] \" ' . __class__ "
            "__import__ os eval lambda : ; { } % @ import é \\ if else 0x1f 1e9"
        ).split()
        pieces += [" ", "\n"]
        values, refused = 0, 0
        for _ in range(10_000):
            text = "".join(rng.choice(pieces) for _ in range(rng.randrange(1, 14)))
            try:
                value = self.value(text, 0)
            except FormulaError:
                refused += 1
                continue
            values += 1
            self.assertIn(type(value), (Decimal, str, bool, type(None)))
        self.assertGreater(values, 100)
        self.assertGreater(refused, 5000)

    def test_deep_and_long_formulas_are_refused(self) -> None:
        for text in (
            "(" * 500 + "a" + ")" * 500,
            "-" * 500 + "a",
            "a + " * 400 + "a",
            "abs(" * 200 + "a" + ")" * 200,
        ):
            with self.subTest(text[:9]), self.assertRaises(FormulaError):
                read_formula(text)
        self.assertEqual(self.value("1+" * 490 + "1"), Decimal(491))


class TestTypes(unittest.TestCase):
    def values(self, column: str, *texts: str) -> tuple[list[object], list[str]]:
        from wennak.recipes.typed import typed

        recipe = read_recipe(f"wennak-recipe: 1\nname: x\ncolumns:\n  - {column}\n")
        values, wrong = typed(recipe.columns[0], texts)
        return list(values), [said for _, said in wrong]

    def test_money_as_accounts_print_it(self) -> None:
        texts = ("1,234.50", "(36.20)", "36.20-", "€ 5.00", "410.00 CR", "12.00 Dr", "–", "n/a", "-7.25")
        values, wrong = self.values("{name: x, type: money}", *texts)
        numbers = ["1234.50", "-36.20", "-36.20", "5.00", "-410.00", "12.00", None, None, "-7.25"]
        self.assertEqual(values, [n if n is None else Decimal(n) for n in numbers])
        self.assertEqual(wrong, [])

    def test_the_decimal_mark_is_that_of_the_column_or_said(self) -> None:
        self.assertEqual(
            self.values("{name: x, type: number}", "1.234,5", "7")[0], [Decimal("1234.5"), Decimal(7)]
        )
        _, wrong = self.values("{name: x, type: number}", "1.234")
        self.assertIn("leaves its decimal mark open", wrong[0])
        self.assertEqual(self.values('{name: x, type: number, decimal: ","}', "1.234")[0], [Decimal(1234)])
        self.assertEqual(self.values('{name: x, type: number, decimal: "."}', "1.234")[0], [Decimal("1.234")])

    def test_identifiers_dates_and_missing_marks(self) -> None:
        self.assertEqual(self.values("{name: x, type: identifier}", "007", "12 3")[0], ["007", "123"])
        self.assertEqual(self.values('{name: x, missing: ["x", "?"]}', "x", "a")[0], [None, "a"])
        values, wrong = self.values('{name: x, type: date, format: "%d.%m.%Y"}', "03.04.2031", "3 April 2031")
        self.assertEqual(str(values[0]), "2031-04-03")
        self.assertIn("is no date of the form", wrong[0])
        _, wrong = self.values("{name: x, type: money, filled: true}", "", "12x")
        self.assertEqual(len(wrong), 2)
        self.assertEqual(
            self.values("{name: x, type: percent}", "12.5 %", "(3) %")[0], [Decimal("12.5"), Decimal(-3)]
        )


class TestDocs(InFolder):
    """What the reference says is true."""

    TEXT = Path("docs/recipes.md").read_text(encoding="utf-8")

    def test_its_recipes_can_be_read(self) -> None:
        blocks = re.findall(r"^```yaml\n(.*?)^```$", self.TEXT, re.M | re.S)
        self.assertEqual([read_recipe(block).name for block in blocks],
                         ["berth-charges", "vendors", "entries", "freight"])  # fmt: skip
        applied = apply_recipe(read_recipe(blocks[0]), wennak.read(LEDGERS[5]))
        self.assertEqual(applied.problems, [])

    def test_its_commands_and_its_code_run(self) -> None:
        write_collection(self.folder)
        for path in [*LEDGERS[1:10], LEDGERS[11]]:
            (self.folder / "ledgers" / path.name).unlink()
        commands = re.findall(r"^wennak (.*?)(?:   .*)?$", self.TEXT, re.M)
        self.assertEqual(len(commands), 11)
        # Each would begin a Python of its own; here one runs them all.
        with contextlib.chdir(self.folder):
            codes = [run_here(*shlex.split(command)).returncode for command in commands]
        # One month is refused.
        self.assertEqual(codes, [0, 0, 0, 0, 0, 3, 3, 0, 0, 0, 0])
        (code,) = re.findall(r"^```python\n(.*?)^```$", self.TEXT, re.M | re.S)
        done = subprocess.run([sys.executable, "-c", code], cwd=self.folder, capture_output=True, text=True)
        self.assertEqual(done.returncode, 0, done.stderr)


class TestOrigin(unittest.TestCase):
    def test_a_document_without_tables_is_for_review(self) -> None:
        document = wennak.read(pdf_of("BT /F1 11 Tf 72 700 Td (Berth charges of nobody) Tj ET"))
        applied = apply_recipe(read_recipe(RECIPE.replace("  page_size: A4\n\n", "\n")), document)
        self.assertIn("no text has the pattern", applied.problems[0])
        self.assertFalse(applied.good)


if __name__ == "__main__":
    unittest.main()
