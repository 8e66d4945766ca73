"""Ground truth: drafting, checking by hand in a real browser, taking in, validating."""

from __future__ import annotations

import shutil
import time
from pathlib import Path
from typing import Any

import openpyxl

import wennak
from tests.support import DEMO, InFolder, browser, run, run_here
from wennak.bench import benchmark
from wennak.model import Cell
from wennak.truth import draft, load_truth, save_truth, take, truth_html, validate


class TestFiles(InFolder):
    def test_a_truth_comes_back_as_it_was_saved(self) -> None:
        for name in ("timetable", "tide-table", "cargo-manifest", "berth-ledger"):
            shutil.copy(DEMO / f"{name}.pdf", self.folder)
            made = draft(self.folder / f"{name}.pdf", self.folder / f"{name}.html")
            made.tables[0].remarks = 'Read "twice" <b>'
            last = made.tables[0].table.cells[-1]
            made.tables[0].doubts[last.row, last.column] = 'a & "b"'
            save_truth(made)
            again = load_truth(made.path)
            self.assertEqual(truth_html(again), truth_html(made))
            self.assertEqual(again.tables[0].doubts, made.tables[0].doubts)
            self.assertEqual(again.pdf, self.folder / f"{name}.pdf")
            self.assertEqual([p for p in validate(again) if p.grave], [])

    def test_validation_finds_what_is_wrong(self) -> None:
        shutil.copy(DEMO / "timetable.pdf", self.folder)
        made = draft(self.folder / "timetable.pdf", self.folder / "timetable.html")
        table = made.tables[0].table

        def said() -> str:
            return "; ".join(p.message for p in validate(made))

        self.assertEqual(said(), "is drafted and not checked by a person")
        text, table.cells[3].text = table.cells[3].text, "Atlantis"
        self.assertIn("whose text is not on the page", said())
        table.cells[3].text = text
        gone = next(c for c in table.cells if c.rowspan == c.colspan == 1)
        table.cells.remove(gone)
        self.assertIn("1 place without a cell", said())
        table.cells += [gone, Cell(0, 0, "")]
        self.assertIn("1 place that two cells cover, first row 1, column 1", said())
        table.cells.pop()
        made.tables[0].pages = [7]
        self.assertIn("stands on page 7", said())
        made.tables[0].pages = []
        with (self.folder / "timetable.pdf").open("ab") as file:
            file.write(b"%")
        self.assertIn("is not the file that the truth was made from", said())
        (self.folder / "timetable.pdf").unlink()
        self.assertIn("is not there", said())

    def test_doubts_are_what_methods_disagree_on_and_sums_that_fail(self) -> None:
        made = draft(DEMO / "berth-ledger.pdf", self.folder / "a.html")
        self.assertEqual(made.tables[0].state, "drafted")
        plain = draft(DEMO / "cargo-manifest.pdf", self.folder / "b.html", method="plain")
        doubts = plain.tables[0].doubts
        self.assertTrue(doubts)
        self.assertTrue(all(d.startswith(("spaced reads", "the method is unsure")) for d in doubts.values()))

    def test_sheets_are_taken_in_with_their_merged_cells(self) -> None:
        pdf = shutil.copy(DEMO / "timetable.pdf", self.folder)
        (self.folder / "t.csv").write_text("Pier;Boats\nOskay;7\n", encoding="utf-8")
        made, changes = take(self.folder / "t.csv", self.folder, pdf)
        self.assertEqual((made.path.name, made.tables[0].state, len(changes)), ("timetable.html", "given", 1))
        book = openpyxl.Workbook()
        for row in (["Pier", "Boats", None], [None, "May", "June"], ["Oskay", 7, 12]):
            book.active.append(row)
        book.active.merge_cells("B1:C1")
        book.active.merge_cells("A1:A2")
        book.save(self.folder / "t.xlsx")
        made, (change,) = take(self.folder / "t.xlsx", self.folder, pdf)
        spans = {
            (c.row, c.column): (c.rowspan, c.colspan) for c in load_truth(made.path).tables[0].table.cells
        }
        self.assertEqual((spans[0, 0], spans[0, 1], spans[2, 2]), ((2, 1), (1, 2), (1, 1)))
        self.assertIn("2 x 2 became 3 x 3", change.lines)
        self.assertTrue((self.folder / "timetable.bak").exists())


class TestCommands(InFolder):
    def test_from_draft_to_status(self) -> None:
        papers = self.folder / "papers"
        papers.mkdir()
        for name in ("timetable", "fares-circular"):
            shutil.copy(DEMO / f"{name}.pdf", papers)
        drafted = run("truth", "draft", papers, "--out", self.folder / "truth")
        self.assertEqual(drafted.returncode, 0, drafted.stderr)
        self.assertIn("fares-circular.html: 2 tables", drafted.stdout)
        again = run_here("truth", "draft", papers, "--out", self.folder / "truth")
        self.assertEqual((again.returncode, "was left alone" in again.stderr), (1, True))
        status = run_here("truth", "status", self.folder / "truth")
        self.assertEqual(status.returncode, 0, status.stderr)
        self.assertIn("drafted and not checked", status.stdout)
        # Nothing is checked yet, so there is nothing to score, unless drafts are asked for.
        refused = run("bench", "run", self.folder / "truth", "--out", self.folder / "run")
        self.assertEqual((refused.returncode, "no truth that was checked" in refused.stderr), (1, True))
        scored = run_here("bench", "run", self.folder / "truth", "--drafts", "--methods", "combined", "--out",
                     self.folder / "run")  # fmt: skip
        self.assertEqual(scored.returncode, 0, scored.stderr)

    def test_bad_input_gets_one_sentence(self) -> None:
        (self.folder / "empty.html").write_text("")
        (self.folder / "state.html").write_text('<table data-state="perhaps"><tr><td>x</td></tr></table>')
        (self.folder / "words.html").write_text("<p>no table</p>")
        (self.folder / "x.csv").write_bytes(b"\xff\xfe\x00a")
        pdf = DEMO / "timetable.pdf"
        (self.folder / "bare").mkdir(exist_ok=True)
        for code, said, arguments in (
            (1, "does not exist", ["draft", "none.pdf", "--out", self.folder / "t"]),
            (1, "cannot be read as HTML", ["take", self.folder / "empty.html", "--into", self.folder]),
            (
                1,
                "must be drafted, checked or given",
                ["take", self.folder / "state.html", "--into", self.folder],
            ),
            (1, "holds no table", ["take", self.folder / "words.html", "--into", self.folder]),
            (1, "save it as CSV", ["take", self.folder / "x.csv", "--into", self.folder, "--pdf", pdf]),
            (2, "--pdf", ["take", self.folder / "x.csv", "--into", self.folder]),
            (1, "does not exist", ["status", self.folder / "none"]),
            (1, "holds no truth", ["sheet", self.folder / "bare"]),
        ):
            result = (run if code == 2 else run_here)("truth", *arguments)
            self.assertEqual(result.returncode, code, (arguments, result.stdout, result.stderr))
            self.assertIn(said, result.stderr)
            self.assertNotIn("Traceback", result.stderr)


class TestSheet(InFolder):
    def test_checked_in_a_browser_and_taken_in_the_scores_change(self) -> None:
        shutil.copy(DEMO / "timetable.pdf", self.folder)
        pdf, path = self.folder / "timetable.pdf", self.folder / "timetable.html"
        # A draft that lost its last row, a span and a digit.
        made = draft(pdf, path)
        table = made.tables[0].table
        table.cells = [c for c in table.cells if c.row < table.rows - 1]
        table.rows -= 1
        for c in table.cells:
            c.rowspan = min(c.rowspan, table.rows - c.row)
            if c.text == "Summer":
                c.colspan = 1
                table.cells += [Cell(0, c.column + k, "", header=True) for k in (1, 2)]
        next(c for c in table.cells if ":" in c.text).text = "99:99"
        made.tables[0].doubts = {(2, 2): "not read alike"}
        save_truth(made)
        before = benchmark(self.folder, ["combined"], self.folder / "a", drafts=True)
        self.assertLess(before.method("combined").tables[0].scores["exact"], 1)
        result = run("truth", "sheet", path, "--out", self.folder / "sheets")
        self.assertEqual(result.returncode, 0, result.stderr)
        right = load_truth(DEMO / "timetable.html").tables[0].table
        with browser(self) as driver:
            driver.get((self.folder / "sheets/timetable-sheet.html").as_uri())
            self.assertIn("1 doubtful cell and 1 of 1 tables left", driver.find_element("id", "left").text)
            # It opens at what is doubtful, and says why.
            self.assertEqual(driver.find_element("id", "why").text, "Doubtful: not read alike")
            self._edit(driver, made.tables[0].table.rows, made.tables[0].table.columns, right)
            driver.find_element("id", "check").click()
            self.assertIn("who you are", driver.find_element("id", "said").text)
            driver.find_element("id", "by").send_keys("Ragna Tveit")
            driver.find_element("id", "check").click()
            self.assertIn("checked by Ragna Tveit", driver.find_element("id", "state").text)
            self.assertIn("0 doubtful cells and 0 of 1 tables left", driver.find_element("id", "left").text)
            driver.find_element("id", "save").click()
            saved = self._download(self.folder / "downloads/timetable.html")
        taken = run("truth", "take", saved, "--into", self.folder)
        self.assertEqual(taken.returncode, 0, taken.stderr)
        self.assertIn("drafted, now checked", taken.stdout)
        checked = load_truth(path).tables[0]
        self.assertEqual((checked.state, checked.by), ("checked", "Ragna Tveit"))
        self.assertEqual([p.message for p in validate(load_truth(path))], [])
        after = wennak.benchmark(self.folder, ["combined"], self.folder / "b")
        self.assertEqual(after.method("combined").tables[0].scores["exact"], 1)

    def _edit(self, driver: Any, rows: int, columns: int, right: Any) -> None:
        """Bring the grid to that of the right table with the tools of the sheet."""
        cell = lambda r, c: driver.find_element("css selector", f'[data-at="{r},{c}"]')  # noqa: E731
        press = lambda name: driver.find_element("id", name).click()  # noqa: E731
        # Insert and delete come back to where they began, and so does undo.
        size = lambda: len(driver.find_elements("css selector", "#grid tr"))  # noqa: E731
        cell(0, 0).click()
        press("row-add")
        self.assertEqual(size(), rows + 1)
        press("undo")
        self.assertEqual(size(), rows)
        for k in range(rows, right.rows):
            cell(k - 1, 0).click()
            press("row-add")
        for k in range(columns, right.columns):
            cell(0, k - 1).click()
            press("column-add")
        for found in right.cells:
            driver.execute_script(
                "const c = document.querySelector(`[data-at='${arguments[0]},${arguments[1]}']`);"
                "c.focus(); c.innerText = arguments[2]; c.blur();",
                found.row, found.column, found.text,
            )  # fmt: skip
        covered = {
            (c.row + i, c.column + j)
            for c in right.cells
            for i in range(c.rowspan)
            for j in range(c.colspan)
            if i or j
        }
        for r, c in covered:
            driver.execute_script(
                "const c = document.querySelector(`[data-at='${arguments[0]},${arguments[1]}']`);"
                "if (c) { c.focus(); c.innerText = ''; c.blur(); }",
                r, c,
            )  # fmt: skip
        from selenium.webdriver import ActionChains, Keys

        for found in right.cells:
            there = cell(found.row, found.column)
            spans = [int(there.get_attribute(name) or 1) for name in ("rowspan", "colspan")]
            if spans != [found.rowspan, found.colspan]:
                cell(found.row, found.column).click()
                last = cell(found.row + found.rowspan - 1, found.column + found.colspan - 1)
                ActionChains(driver).key_down(Keys.SHIFT).click(last).key_up(Keys.SHIFT).perform()
                press("merge")
        for r in range(right.header_rows):
            first = next(c for c in right.cells if c.row == r)
            heads = driver.find_elements("css selector", f'#grid th[data-at^="{r},"]')
            if not heads:
                cell(r, first.column).click()
                press("header")

    def _download(self, path: Path) -> Path:
        for _ in range(100):
            if path.exists():
                break
            time.sleep(0.1)
        self.assertTrue(path.exists(), f"{path.name} was not saved")
        return path
