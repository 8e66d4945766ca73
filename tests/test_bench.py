"""Scores: hand-worked examples, properties that any such score must have, statistics on simulated data; and
whole runs on the demo.
"""

from __future__ import annotations

import csv
import random
import shutil
from itertools import combinations

import numpy as np

import wennak
from tests.support import DEMO, InFolder, browser, run, run_here
from wennak.bench import benchmark, compare_runs, load_results, summarise, write_report
from wennak.bench.grid import Grid, grid_of, normal, number_of
from wennak.bench.matching import match
from wennak.bench.metrics import (
    adjacency_f1,
    cell_rates,
    content_similarity,
    header_fidelity,
    judged_cells,
    location_similarity,
    numeric_fidelity,
    text_similarity,
    topology_similarity,
)
from wennak.bench.retrieval import Indexed, answer_all, questions_of
from wennak.bench.scores import score_document
from wennak.bench.statistics import compare_all, holm, mean_interval, paired_p, ranks
from wennak.bench.texts import heading_f1, level_agreement, reading_order, word_f1
from wennak.bench.trees import _costs, _tree, tree_similarity
from wennak.model import Box, Cell, Document, Place, Table
from wennak.truth import Truth, TruthTable

SYMMETRIC = (
    lambda a, b: cell_rates(a, b).f1, adjacency_f1, content_similarity, topology_similarity, tree_similarity,
    header_fidelity, text_similarity,
)  # fmt: skip


def table(*rows: str, head: int = 1) -> Table:
    """A table of rows such as "Pier|Boats"; "<" continues a cell to the left, "^" the one above."""
    cells: list[Cell] = []
    for r, row in enumerate(rows):
        for c, text in enumerate(row.split("|")):
            if text == "<":
                cells[-1].colspan += 1
            elif text == "^":
                next(x for x in cells if x.column == c and x.row + x.rowspan == r).rowspan += 1
            else:
                cells.append(Cell(r, c, text, header=r < head))
    return Table(len(rows), len(rows[0].split("|")), cells, header_rows=head)


def grid(*rows: str, head: int = 1) -> Grid:
    return grid_of(table(*rows, head=head))


def random_table(rng: random.Random, rows: int = 6, columns: int = 4) -> list[str]:
    return ["|".join(f"{rng.randrange(9999)}" for _ in range(columns)) for _ in range(rows)]


class TestTables(InFolder):
    def test_hand_worked(self) -> None:
        truth = grid("Pier|Boats|<", "Oskay|7|12", "Fenholm|3|5")
        shifted = grid("Pier|Boats|<", "Oskay||7", "Fenholm|3|5")
        # Of eight true cells seven have text in the reading; six of these are right.
        found = cell_rates(truth, shifted)
        self.assertEqual((found.precision, found.recall), (6 / 7, 6 / 8))
        self.assertEqual(found.f1, 12 / 15)
        # Nine places each; the cells 7 and 12 became nothing and 7: 7 right, 12 against 7 alike in none.
        self.assertAlmostEqual(content_similarity(truth, shifted), 2 * 7 / 18)
        self.assertEqual(topology_similarity(truth, shifted), 1.0)
        # Relations: 2+2+1 across and 3+2+2 down in the truth; see Göbel et al. for what counts.
        ours, theirs = adjacency_f1(truth, truth), adjacency_f1(grid("a|b", head=0), grid("a|c", head=0))
        self.assertEqual((ours, theirs), (1.0, 0.0))
        self.assertEqual(tree_similarity(grid("a|b", head=0), grid("a|c", head=0)), 0.8)
        self.assertEqual(tree_similarity(grid("a|b", head=0), grid("a|c", head=0), texts=False), 1.0)
        self.assertEqual(header_fidelity(truth, grid("Oskay|7|12", "Fenholm|3|5", head=0)), 0.0)
        self.assertEqual(content_similarity(truth, grid_of(Table(0, 0, []))), 0.0)
        self.assertEqual(tree_similarity(grid_of(Table(0, 0, [])), grid_of(Table(0, 0, []))), 1.0)

    def test_what_became_of_the_numbers(self) -> None:
        truth = grid("Pier|May|June", "Oskay|1,204|17", "Fenholm|(30)|8", "Tarnvoe|55|61")
        found = numeric_fidelity(
            truth, grid("Pier|May|June", "Oskay|1 204|71", "Fenholm|-30|", "Tarnvoe|61|9")
        )
        # 1,204 and (30) are right in other print; 17 was changed, 8 lost, 61 moved, 55 changed.
        self.assertEqual((found.truth, found.right, found.moved), (6, 2, 1))
        self.assertEqual(found.right + found.moved + found.changed + found.lost, found.truth)
        self.assertGreaterEqual(found.changed, 1)
        extra = numeric_fidelity(grid("a|b", "x|1"), grid("a|b", "x|1", "y|2"))
        self.assertEqual((extra.right, extra.invented, extra.fidelity), (1, 1, 0.5))
        for one, other in (("(1,204.50)", "-1 204.5"), ("$ 12", "12"), ("1.204", "1,204")):
            self.assertEqual(number_of(one), number_of(other))
        self.assertNotEqual(number_of("12.5"), number_of("125"))
        self.assertEqual(normal("• “a”\n• b – c"), '"a" b - c')

    def test_identity_symmetry_and_falling_with_every_error(self) -> None:
        rng = random.Random(1)
        for _ in range(8):
            rows = random_table(rng)
            truth = grid(*rows)
            for metric in SYMMETRIC:
                self.assertAlmostEqual(metric(truth, truth), 1.0)
            other = grid(*random_table(rng, 5, 3))
            last = [1.0] * len(SYMMETRIC)
            changed = [row.split("|") for row in rows]
            for r in range(len(rows)):
                for c in range(4):
                    changed[r][c] = "x" * 9
                read = grid(*("|".join(row) for row in changed))
                for k, metric in enumerate(SYMMETRIC):
                    score = metric(truth, read)
                    self.assertLessEqual(score, last[k] + 1e-9)
                    self.assertAlmostEqual(score, metric(read, truth))
                    self.assertAlmostEqual(metric(truth, other), metric(other, truth))
                    last[k] = score
            self.assertEqual(last[0], 0.0)

    def test_tree_distance_is_that_of_the_plain_recursion(self) -> None:
        rng = random.Random(5)
        for _ in range(60):
            a, b = (
                grid(*random_spans(rng, rng.randrange(1, 4), rng.randrange(1, 4)), head=rng.randrange(2))
                for _ in range(2)
            )
            x, y = _tree(a), _tree(b)
            nodes = max(len(x.kind), len(y.kind))
            for texts in (True, False):
                distance = plain_distance(x.leaf, y.leaf, _costs(x, y, texts))
                self.assertAlmostEqual(tree_similarity(a, b, texts), 1 - distance / nodes)

    def test_location_and_verdicts(self) -> None:
        def placed(shift: float) -> Grid:
            cells = [
                Cell(
                    r,
                    c,
                    f"{r}{c}",
                    places=[Place(1, Box(50 * c + shift, 20 * r, 50 * c + 40 + shift, 20 * r + 10))],
                )
                for r in range(2)
                for c in range(2)
            ]
            return grid_of(Table(2, 2, cells))

        self.assertEqual(location_similarity(placed(0), placed(0)), 1.0)
        # Boxes 40 wide moved by 10: 30 of 50 are shared.
        self.assertAlmostEqual(location_similarity(placed(0), placed(10)) or 0, 0.6)
        self.assertIsNone(location_similarity(placed(0), grid("00|01", "10|11")))
        first, second = judged_cells(grid("a|b", "c|d"), grid("a|x", "c|", "d|e"))
        self.assertEqual([j.verdict for j in first], ["same", "changed", "same", "moved"])
        self.assertEqual([j.verdict for j in second], ["same", "changed", "same", "moved", "extra"])

    def test_tables_are_matched_whatever_their_order_and_parts_are_named(self) -> None:
        rng = random.Random(2)
        rows = [random_table(rng) for _ in range(6)]
        truth = [grid(*r) for r in rows]
        order = rng.sample(range(6), 6)
        read = [truth[i] for i in order] + [grid("nothing|like it")]
        found = match(truth, read)
        self.assertEqual(found.pairs, {i: order.index(i) for i in range(6)})
        self.assertEqual((found.split, found.merged), ({}, {}))
        self.assertEqual(match(truth, []).pairs, {})
        halves = match(truth[:1], [grid(*rows[0][:3]), grid(*rows[0][3:])])
        self.assertEqual(halves.split, {0: [0, 1]})
        both = match(truth[:2], [grid(*rows[0], *rows[1])])
        self.assertEqual(both.merged, {0: [0, 1]})

    def test_a_very_long_table_is_scored_by_its_first_rows(self) -> None:
        rows = [f"{k}|{k * k}|{k % 7}|{-k}" for k in range(1500)]
        entry = TruthTable(table(*rows))
        blocks = [table(*rows)]
        truth = Truth(self.folder / "t.html", tables=[entry], document=Document("t", blocks=blocks))
        result, (scores,) = score_document("t", truth, Document("t", blocks=[table(*rows[:2], *rows[3:])]))
        self.assertEqual((result.found, scores.reading), (1, 0))
        self.assertGreater(scores.scores["content"], 0.99)
        self.assertLess(scores.scores["content"], 1.0)

    def test_texts(self) -> None:
        self.assertEqual(word_f1(["a", "b", "b"], ["b", "c"]), 0.4)
        self.assertAlmostEqual(reading_order(list("abcd"), list("acbd")) or 0, (1 + 4 / 6) / 2)
        self.assertIsNone(reading_order(["a", "a"], ["a"]))
        places = random.Random(3).sample(range(30), 30)
        kept = sum(a < b for a, b in combinations(places, 2))
        said = [str(k) for k in range(30)]
        self.assertAlmostEqual(reading_order(said, [said[k] for k in places]) or 0, kept / 435)
        self.assertEqual(heading_f1([(1, "A"), (2, "B")], [(1, "A")]), 2 / 3)
        self.assertEqual(level_agreement([(1, "A"), (2, "B")], [(2, "A"), (3, "B")]), 1.0)


def random_spans(rng: random.Random, rows: int, columns: int) -> list[str]:
    out = []
    for r in range(rows):
        row = [rng.choice(["a", "b", "ab", "c1", "x"]) for _ in range(columns)]
        if columns > 1 and rng.random() < 0.4:
            row[rng.randrange(1, columns)] = "<"
        elif r and rng.random() < 0.3 and out[-1].split("|")[0] not in "<^":
            row[0] = "^" if "<" not in out[-1] else row[0]
        out.append("|".join(row))
    return out


def plain_distance(leaf: list[int], over: list[int], cost: np.ndarray) -> float:
    """Tree edit distance as Zhang and Shasha write it down, node by node."""
    n, m = cost.shape
    known = np.zeros((n, m))
    roots = [sorted({first: i for i, first in enumerate(t)}.values()) for t in (leaf, over)]
    for i in roots[0]:
        for j in roots[1]:
            a, b = leaf[i], over[j]
            best = np.zeros((i - a + 2, j - b + 2))
            best[:, 0], best[0] = np.arange(i - a + 2), np.arange(j - b + 2)
            for x in range(a, i + 1):
                for y in range(b, j + 1):
                    k, l = x - a + 1, y - b + 1
                    both = leaf[x] == a and over[y] == b
                    way = (
                        best[k - 1, l - 1] + cost[x, y]
                        if both
                        else best[leaf[x] - a, over[y] - b] + known[x, y]
                    )
                    best[k, l] = min(best[k - 1, l] + 1, best[k, l - 1] + 1, way)
                    if both:
                        known[x, y] = best[k, l]
    return float(known[-1, -1])


class TestStatistics(InFolder):
    def test_intervals_cover_and_tests_hold_their_level(self) -> None:
        rng = np.random.default_rng(3)
        trials, inside, wrong, family, seen = 500, 0, 0, 0, 0
        for _ in range(trials):
            # Skewed as scores are: most near 1, some low.
            sample = rng.beta(6, 1.5, 25)
            interval = mean_interval(sample.tolist())
            inside += interval.low <= 0.8 <= interval.high
            a, b = rng.beta(6, 1.5, (2, 25))
            wrong += paired_p((a - b).tolist()) < 0.05
            seen += paired_p((a - b + 0.15).tolist()) < 0.05
        self.assertTrue(0.93 <= inside / trials <= 0.97, inside / trials)
        self.assertTrue(0.03 <= wrong / trials <= 0.067, wrong / trials)
        self.assertGreater(seen / trials, 0.85)
        for _ in range(120):
            scores = dict(zip("abcd", rng.beta(6, 1.5, (4, 12)).tolist(), strict=True))
            family += any(c.separable for c in compare_all("abcd", scores))
        self.assertLessEqual(family / 120, 0.08)

    def test_known_values(self) -> None:
        self.assertEqual(holm([0.01, 0.04, 0.03]), [0.03, 0.06, 0.06])
        # All of five differences of one sign: 2 of 32 tosses are as extreme.
        self.assertEqual(paired_p([0.1, 0.2, 0.1, 0.3, 0.1]), 2 / 32)
        self.assertEqual(paired_p([0.0, 0.0]), 1.0)
        self.assertEqual(mean_interval([0.5]).low, None)
        scores = {
            "good": [0.9] * 8,
            "same": [0.9] * 7 + [0.89],
            "bad": [0.1, 0.2, 0.1, 0.2, 0.3, 0.1, 0.2, 0.3],
        }
        self.assertEqual(ranks(["bad", "same", "good"], scores), {"good": 1, "same": 1, "bad": 3})


class TestRetrieval(InFolder):
    def test_an_answer_needs_value_label_and_header_in_one_passage(self) -> None:
        truth = grid("Pier|May|June", "Oskay|17|23", "Fenholm|31|8")
        questions = questions_of("d", truth)
        self.assertEqual([q.text for q in questions][:2], ["May of Oskay", "June of Oskay"])
        whole = "| Pier | May | June |\n| --- | --- | --- |\n| Oskay | 17 | 23 |\n| Fenholm | 31 | 8 |"

        def asked(*texts: str, kind: str = "table") -> dict[str, float]:
            found = answer_all(questions, [Indexed("d", kind, t) for t in texts])  # type: ignore[arg-type]
            self.assertEqual(found.answered[5] * 4 + sum(found.lost.values()), 4)
            return {"answered": found.answered[1], **{k: n for k, n in found.lost.items() if n}}

        self.assertEqual(asked(whole), {"answered": 1.0})
        self.assertEqual(
            asked(whole.replace("May | June", "June | May")), {"answered": 0.0, "header lost": 4}
        )
        self.assertEqual(asked(whole.replace("| 17 |", "| 71 |")), {"answered": 0.75, "value missing": 1})
        self.assertEqual(asked(whole.replace("Oskay", "")), {"answered": 0.5, "label lost": 2})
        head, body = whole.split("\n| Oskay")
        self.assertEqual(asked(head, f"| Oskay{body}")["answered"], 0.0)
        self.assertEqual(asked("Pier May June\nOskay 17 23\nFenholm 31 8", kind="text"), {"answered": 1.0})
        # With an empty place, running lines no longer tell which column a value is of.
        gap = questions_of("d", grid("Pier|May|June", "Oskay||23"))
        self.assertEqual(answer_all(gap, [Indexed("d", "text", "Pier May June\nOskay 23")]).answered[5], 0.0)


class TestRun(InFolder):
    def test_methods_and_candidates_over_papers_of_the_demo(self) -> None:
        papers = self.folder / "papers"
        papers.mkdir()
        for name in ("timetable", "tide-table", "yearly-accounts", "fares-circular", "berth-ledger"):
            for ending in ("pdf", "html"):
                shutil.copy(DEMO / f"{name}.{ending}", papers)
        results = wennak.benchmark(papers, ["ruled", "combined"], self.folder / "run", workers=2)
        self.assertEqual(results.names()[:2], ["ruled", "combined"])
        combined = results.method("combined")
        self.assertEqual(len(combined.tables), len(results.tables))
        self.assertTrue(all(d.cpu > 0 and d.memory > 10 and d.output > 0 for d in combined.documents))
        self.assertEqual(load_results(self.folder / "run"), results)
        # What a method read, given as files of another program, scores the same in every format but the
        # header of CSV, which is its first line.
        for ending in ("html", "md", "json", "csv", "xlsx"):
            folder = self.folder / ending
            folder.mkdir()
            for name in results.documents:
                document = wennak.load(self.folder / f"run/readings/combined/{name}.json")
                if ending in ("csv", "xlsx"):
                    for k, found in enumerate(document.tables, start=1):
                        found.save(str(folder / f"{name}-{k}.{ending}"))
                else:
                    document.save(str(folder / f"{name}.{ending}"))
        again = wennak.benchmark(
            papers,
            [],
            self.folder / "again",
            {e: self.folder / e for e in ("html", "md", "json", "csv", "xlsx")},
        )
        scores = {m.name: [t.scores["content"] for t in m.tables] for m in (*again.methods[:5], combined)}
        self.assertEqual(scores["html"], scores["combined"])
        self.assertEqual(scores["json"], scores["combined"])
        self.assertEqual(scores["xlsx"], scores["combined"])
        for ending in ("md", "csv"):
            # Neither format can hold spans.
            self.assertGreater(np.mean(scores[ending]), 0.93)

    def test_a_failing_document_scores_zero_and_is_named(self) -> None:
        shutil.copy(DEMO / "timetable.html", self.folder / "x.html")
        text = (self.folder / "x.html").read_text().replace("timetable.pdf", "x.pdf")
        (self.folder / "x.html").write_text(text)
        (self.folder / "x.pdf").write_bytes(b"%PDF-1.4 broken")
        results = benchmark(self.folder, ["combined"], self.folder / "run")
        (document,) = results.method("combined").documents
        self.assertIn("x.pdf", document.error)
        self.assertEqual(results.method("combined").tables[0].scores["content"], 0.0)
        self.assertEqual(summarise(results).methods[0].failed, 1)

    def test_command_gates_and_compares(self) -> None:
        folder = self.folder / "truth"
        folder.mkdir()
        for name in ("fares-circular", "timetable"):
            shutil.copy(DEMO / f"{name}.pdf", folder)
            shutil.copy(DEMO / f"{name}.html", folder)
        first = run(
            "bench",
            "run",
            folder,
            "--methods",
            "combined",
            "--out",
            self.folder / "a",
            "--fail-under",
            "exact=0.99",
        )
        self.assertEqual(first.returncode, 0, first.stderr)
        self.assertIn("combined has a score of", first.stdout)
        worse = run_here(
            "bench",
            "run",
            folder,
            "--methods",
            "ruled",
            "--out",
            self.folder / "b",
            "--fail-under",
            "content=0.9",
        )
        self.assertEqual(worse.returncode, 3)
        self.assertIn("content similarity is", worse.stderr)
        same = run_here("bench", "run", folder, "--methods", "combined", "--out", self.folder / "c",
                   "--no-worse-than", self.folder / "a")  # fmt: skip
        self.assertEqual(same.returncode, 0, same.stderr)
        shown = run_here("bench", "compare", self.folder / "a", self.folder / "c")
        self.assertEqual((shown.returncode, "0 worse" in shown.stdout), (0, True))
        progress = compare_runs(load_results(self.folder / "a"), load_results(self.folder / "c"))
        self.assertEqual({p.verdict for p in progress}, {"not separable"})
        for code, said, arguments in (
            (2, "share no method", ["compare", self.folder / "a", self.folder / "b"]),
            (2, "no method 'magic'", ["run", folder, "--methods", "magic"]),
            (2, "no metric 'magic'", ["run", folder, "--fail-under", "magic=1"]),
            (2, "NAME=FOLDER", ["run", folder, "--candidate", "x"]),
            (2, "is not a folder", ["run", folder, "--candidate", "x=nowhere"]),
            (1, "does not exist", ["run", self.folder / "nowhere"]),
            (1, "holds no results.json", ["report", folder]),
        ):
            result = run_here("bench", *arguments)
            self.assertEqual(result.returncode, code, (arguments, result.stderr))
            self.assertIn(said, result.stderr)
            self.assertNotIn("Traceback", result.stderr)

    def test_report_shows_every_table_and_runs_nothing_that_is_in_them(self) -> None:
        folder = self.folder / "truth"
        folder.mkdir()
        attack = "</script><script>window.hit=1</script><img src=x onerror=window.hit=1>"
        text = (DEMO / "timetable.html").read_text().replace("Departures", attack.replace("<", "&lt;"))
        (folder / "timetable.html").write_text(text)
        shutil.copy(DEMO / "timetable.pdf", folder)
        benchmark(folder, ["combined", "plain"], self.folder / "run")
        page = write_report(self.folder / "run")
        self.assertNotIn("http", page.read_text(encoding="utf-8").replace("http-equiv", ""))
        for name in ("report.md", "plots/scores.png", "plots/scores.svg"):
            self.assertGreater((self.folder / "run" / name).stat().st_size, 500)
        with (self.folder / "run/tables.csv").open(newline="") as file:
            self.assertEqual(len(list(csv.DictReader(file))), 2)
        with browser(self) as driver:
            driver.get(page.as_uri())
            self.assertIsNone(driver.execute_script("return window.hit"))
            cases = driver.find_elements("css selector", ".case")
            self.assertEqual(len(cases), 1)
            self.assertIn("Oskay", cases[0].text)
            self.assertTrue(driver.find_elements("css selector", ".crop img"))
            driver.execute_script(
                "const s = document.getElementById('method'); s.value = 'plain';"
                "s.dispatchEvent(new Event('change'))"
            )
            self.assertIn("Read by plain", driver.find_element("id", "cases").text)
            self.assertTrue(driver.find_elements("css selector", ".missing, .moved, .changed, .extra"))
