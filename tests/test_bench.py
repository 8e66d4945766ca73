"""Scores: hand-worked examples, properties that any such score must have, and a whole run on the demo."""

from __future__ import annotations

import json
import random
import shutil

import wennak
from tests.support import DEMO, InFolder
from wennak.bench.metrics import cell_f1, match_tables, word_overlap

Cells = frozenset[tuple[int, int, int, int, str]]


def sheet(rng: random.Random, rows: int = 6, columns: int = 4) -> Cells:
    return frozenset((r, c, 1, 1, f"{rng.randrange(999)}") for r in range(rows) for c in range(columns))


class TestScores(InFolder):
    def test_hand_worked(self) -> None:
        truth = {
            (0, 0, 1, 1, "Pier"),
            (0, 1, 1, 2, "Boats"),
            (1, 0, 1, 1, "Oskay"),
            (1, 1, 1, 1, "7"),
            (1, 2, 1, 1, ""),
        }
        shifted = {(0, 0, 1, 1, "Pier"), (0, 1, 1, 2, "Boats"), (1, 0, 1, 1, "Oskay"), (1, 2, 1, 1, "7")}
        # Four cells hold text on either side; three agree in text, place and span.
        self.assertEqual(cell_f1(truth, shifted), 2 * 3 / 8)
        self.assertEqual(cell_f1(truth, truth), 1.0)
        self.assertEqual(cell_f1(truth, set()), 0.0)
        self.assertEqual(cell_f1(set(), set()), 1.0)

    def test_symmetric_and_falling_with_every_error(self) -> None:
        rng = random.Random(1)
        for _ in range(20):
            truth = sheet(rng)
            cells, last = sorted(truth), 1.0
            for i in range(len(cells)):
                r, c, h, w, text = cells[i]
                cells[i] = (r, c, h, w, text + "x")
                score = cell_f1(truth, frozenset(cells))
                self.assertLess(score, last)
                self.assertAlmostEqual(score, cell_f1(frozenset(cells), truth))
                last = score
            self.assertEqual(last, 0.0)

    def test_tables_are_matched_whatever_their_order(self) -> None:
        rng = random.Random(2)
        truth = [sheet(rng) for _ in range(6)]
        order = rng.sample(range(6), 6)
        read = [truth[i] for i in order] + [frozenset({(0, 0, 1, 1, "nothing like it")})]
        self.assertEqual(sorted(match_tables(truth, read)), sorted((i, order.index(i)) for i in range(6)))
        self.assertEqual(match_tables(truth, []), [])
        self.assertEqual(word_overlap(truth[0], truth[0]), 1.0)


class TestRun(InFolder):
    def test_methods_over_the_demo(self) -> None:
        results = wennak.benchmark(DEMO, ["ruled", "combined"], out=self.folder)
        self.assertEqual([r.method for r in results], ["ruled", "combined"])
        self.assertEqual([len(r.tables) for r in results], [7, 7])
        self.assertEqual(results[1].mean_cell_f1, 1.0)
        self.assertLess(results[0].mean_cell_f1, 1.0)
        data = json.loads((self.folder / "results.json").read_text(encoding="utf-8"))
        self.assertEqual(data["results"][1]["mean_cell_f1"], 1.0)

    def test_a_failing_document_scores_zero_and_is_named(self) -> None:
        shutil.copy(DEMO / "timetable.html", self.folder / "x.html")
        (self.folder / "x.pdf").write_bytes(b"%PDF-1.4 broken")
        (result,) = wennak.benchmark(self.folder, ["combined"])
        self.assertEqual((result.mean_cell_f1, result.found, len(result.failures)), (0.0, 0, 1))

    def test_no_truth_and_unknown_methods_are_refused(self) -> None:
        with self.assertRaises(wennak.MissingSource):
            wennak.benchmark(self.folder)
        with self.assertRaises(wennak.UsageError):
            wennak.benchmark(DEMO, ["magic"])
