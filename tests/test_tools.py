"""What stands beside the package: fits are averaged, small errors are made one at a time, errors cost what
they do; and how the command line looks in a narrow terminal.
"""

from __future__ import annotations

import ast
import random
import re
import shutil
import sys
import unittest
from dataclasses import replace
from pathlib import Path

import numpy as np
import pypdfium2

import wennak
from tests.support import DEMO, InFolder, run, run_here, script
from wennak.bench.readings import Compared
from wennak.model import DOUBTFUL
from wennak.tables.trees import prepared
from wennak.truth import find_truth, load_truth

SCANS = ("engine-inspection-scan.pdf", "quay-rules-nameless.pdf")


def random_sum(seed: int, features: int = 4, trees: int = 5) -> dict[str, object]:
    """A sum of trees of one decision each, as it is kept in a file."""
    rng = np.random.default_rng(seed)
    out: dict[str, list[float]] = {k: [] for k in ("roots", "feature", "threshold", "left", "right", "value")}
    for _ in range(trees):
        start = len(out["feature"])
        out["roots"].append(start)
        out["feature"] += [int(rng.integers(features)), 0, 0]
        out["threshold"] += [float(rng.normal()), 0.0, 0.0]
        out["left"] += [start + 1, -1, -1]
        out["right"] += [start + 2, -1, -1]
        out["value"] += [0.0, *(float(v) for v in rng.integers(-8, 8, 2))]
    return {"base": float(rng.normal()), "depth": 1, **out}


class TestFit(unittest.TestCase):
    def test_the_mean_of_two_fits_says_what_both_say_on_average(self) -> None:
        one, other = random_sum(1), random_sum(2, trees=9)
        both = prepared(script("tools/fit_judge.py").mean(one, other))
        cases = np.random.default_rng(3).normal(size=(200, 4))
        expected = (prepared(one).sums(cases) + prepared(other).sums(cases)) / 2
        self.assertLess(np.abs(both.sums(cases) - expected).max(), 1e-9)


class TestDrawnByTex(unittest.TestCase):
    def test_what_is_set_is_what_is_said_to_be_true(self) -> None:
        sys.path.insert(0, str(Path(__file__).parent.parent / "tools"))
        self.addCleanup(sys.path.pop, 0)
        draw = script("tools/draw_tex.py").document
        for seed in range(60):
            source, tables = draw(random.Random(seed))
            self.assertEqual((source, len(tables)), (draw(random.Random(seed))[0], source.count("tabcolsep")))
            self.assertEqual(
                source.replace(r"\{", "").replace(r"\}", "").count("{"),
                source.replace(r"\{", "").replace(r"\}", "").count("}"),
            )
            bodies = re.findall(r"\\begin\{(?:tabular|longtable)\}.*?\n(.*?)\\end", source, re.S)
            for table, body in zip(tables, bodies, strict=True):
                rows = [line for line in body.splitlines() if line.endswith(r"\\") and "rule" not in line[:9]]
                self.assertEqual(
                    [row.replace(r"\&", "").count(" & ") + 1 for row in rows],
                    [sum(cell is not None for cell in row) for row in table.rows],
                )
                for row in table.rows:
                    self.assertEqual(sum(cell.colspan for cell in row if cell), len(table.kinds))


class TestScansOfDrawings(InFolder):
    def test_pages_become_pictures_as_large_with_everything_where_it_was(self) -> None:
        data, _ = script("tools/draw_documents.py").document(random.Random(4))
        paper, scanned = self.folder / "0004.pdf", self.folder / "scanned.pdf"
        paper.write_bytes(data)
        scan = script("tools/draw_scans.py").scan
        scan(paper, scanned, random.Random(7))
        before, after = (pypdfium2.PdfDocument(path) for path in (paper, scanned))
        self.assertEqual(len(before), len(after))
        for old, new in zip(before, after, strict=True):
            self.assertLess(np.abs(np.subtract(old.get_size(), new.get_size())).max(), 1)
            self.assertEqual(new.get_textpage().count_chars(), 0)
            shown, seen = (
                np.asarray(page.render(scale=0.15, grayscale=True).to_pil(), dtype=float)
                for page in (old, new)
            )
            like = [np.corrcoef(shown.ravel(), p.ravel())[0, 1] for p in (seen, seen[::-1], seen[:, ::-1])]
            self.assertGreater(like[0], 0.3)
            self.assertGreater(like[0], max(like[1:]) + 0.1)
        again = self.folder / "again.pdf"
        scan(paper, again, random.Random(7))
        self.assertEqual(again.read_bytes(), scanned.read_bytes())


class TestMutants(unittest.TestCase):
    SOURCE = '"""Said."""\n\ndef sign(x: int) -> int:\n    """Said."""\n    return 1 if x > 0 else -1\n'

    def test_each_is_one_change_and_none_is_the_module_itself(self) -> None:
        tree = ast.parse(self.SOURCE)
        found = [ast.unparse(mutant) for _, mutant in script("benchmarks/mutants.py").mutated(tree)]
        self.assertEqual(len(found), len(set(found)))
        self.assertNotIn(ast.unparse(tree), found)
        returned = {text.rsplit("return ", 1)[1] for text in found}
        self.assertEqual(
            returned,
            {"None", "1 if x >= 0 else -1", "1 if not x > 0 else -1", "2 if x > 0 else -1",
             "1 if x > 1 else -1", "1 if x > 0 else -2"},
        )  # fmt: skip
        self.assertTrue(all(text.count("Said.") == 2 for text in found))


class TestErrors(unittest.TestCase):
    def test_each_kind_of_error_costs_what_it_should(self) -> None:
        drawn = script("tools/draw_errors.py")
        scores = {name: drawn.scores(drawn.table_of(rows)) for name, rows in drawn.READ.items()}
        self.assertEqual(set(scores.pop("as it is").values()), {1.0})
        for name, found in scores.items():
            with self.subTest(name):
                self.assertLess(found["exact cells"], 1.0)
                self.assertLess(found["content"], 1.0)
        self.assertLess(scores["a digit changed"]["numbers"], 1.0)
        self.assertEqual(scores["header lost"]["headers"], 0.0)
        self.assertEqual(scores["two columns merged"]["numbers"], 0.0)
        self.assertLess(scores["a column shifted from the second row on"]["headers"], 0.5)


class TestNarrowTerminals(InFolder):
    def test_a_survey_loses_no_word(self) -> None:
        for name in SCANS:
            shutil.copy(DEMO / name, self.folder)
        advice = "scanned: its pages will be recognised", "told by their shapes; look at a page"
        wanted = {word for said in advice for word in said.split()}
        for columns, how in ((60, run), (80, run_here), (100, run_here), (160, run_here)):
            with self.subTest(columns=columns):
                said = how("survey", self.folder, env={"COLUMNS": str(columns)}).stdout
                self.assertEqual(wanted - set(said.split()), set())
                self.assertLessEqual(max(map(len, said.splitlines())), columns)

    def test_a_mark_stays_with_its_value(self) -> None:
        (table,) = wennak.read(DEMO / "berth-ledger-photo.jpg").tables
        doubtful = sum(cell.confidence < DOUBTFUL for cell in table.cells if cell.text)
        self.assertGreater(doubtful, 0)
        said = run("tables", DEMO / "berth-ledger-photo.jpg", "--show", 1, env={"COLUMNS": "50"}).stdout
        self.assertEqual(len(re.findall(r"\S\((?:\?|!)\)", said)), doubtful + 1)
        self.assertIsNone(re.search(r"(?m)^\s*\((?:\?|!)\)\s*$", said))

    def test_a_document_from_standard_input(self) -> None:
        given = (DEMO / "timetable.pdf").read_bytes()
        result = run("tables", "-", given=given)
        self.assertEqual(result.returncode, 0, result.stderr)
        self.assertIn("11 x 7", result.stdout)
        empty = run("tables", "-", given=b"")
        self.assertEqual(empty.returncode, 1, empty.stderr)
        self.assertEqual(len(empty.stderr.strip().splitlines()), 1, empty.stderr)


class TestCalibration(unittest.TestCase):
    def test_a_table_that_no_true_one_is_like_is_invented(self) -> None:
        """Cells and tables are told as they were read; without the truth of one table it is invented."""
        calibration = script("benchmarks/calibration.py")
        (known,) = (t for t in find_truth(DEMO) if t.path.name == "timetable.html")
        truth = load_truth(known.path)
        cells, tables = calibration.told(truth)
        self.assertTrue(all(right for _, right in cells))
        self.assertEqual([known for _, known in tables], [True] * len(truth.tables))
        cells, tables = calibration.told(replace(truth, tables=truth.tables[1:]))
        self.assertEqual([known for _, known in tables].count(False), 1)
        self.assertFalse(all(right for _, right in cells))


class TestOracle(unittest.TestCase):
    def test_the_best_of_all_is_one_of_the_readings_or_what_is_read_in_the_end(self) -> None:
        oracle = script("benchmarks/oracle.py")
        shown = [t for t in find_truth(DEMO) if t.path.name in ("fares-poster.html", "timetable.html")]
        found = [oracle.scores_of(truth.path) for truth in shown]
        parts = [part for own, _ in found for part in own]
        counts = [len(load_truth(truth.path).tables) for truth in shown]
        self.assertEqual(len(parts), sum(counts))
        self.assertEqual([whole for _, whole in found], [[(1.0, 1.0)] * count for count in counts])
        for *_, best, first, of_all, _ in parts:
            self.assertGreaterEqual(oracle.worth(of_all), max(oracle.worth(best), oracle.worth(first)))
            self.assertEqual(of_all, (1.0, 1.0))

    def test_what_is_read_in_the_end_counts_where_no_reading_is_as_good(self) -> None:
        oracle = script("benchmarks/oracle.py")
        tables = Compared(np.array([0.4, 0.9, 1.0]), np.array([0.0, 0.0, 1.0]), np.array([0, 0, 1]))
        self.assertEqual(oracle.best_of(tables, 0), (0.9, 0.0))
        self.assertEqual(oracle.best_of(tables, 1), (1.0, 1.0))
        self.assertEqual(oracle.best_of(tables, 2), (0.0, 0.0))
