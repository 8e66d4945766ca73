"""The scores of one table, against cases worked by hand and against the plainest way to compute each."""

from __future__ import annotations

import functools
import itertools
import random
import unittest
from collections import Counter
from collections.abc import Callable

import numpy as np
from rapidfuzz.distance import Indel
from scipy.stats import bootstrap

from tests.test_bench import grid, random_spans, table
from wennak.bench.grid import Grid, first_rows, grid_of, header_paths, words_of
from wennak.bench.matching import (
    detection_by_content,
    detection_by_region,
    match,
)
from wennak.bench.metrics import (
    Judged,
    Numbers,
    Rates,
    adjacency_f1,
    alignment,
    cell_rates,
    content_similarity,
    header_fidelity,
    judged_cells,
    location_similarity,
    numeric_fidelity,
    places,
    rates,
    text_similarity,
    topology_similarity,
)
from wennak.bench.statistics import (
    EXACT,
    compare_all,
    compare_with,
    comparison_of,
    holm,
    mean_interval,
    paired_p,
    ranks,
)
from wennak.model import Box, Cell, Place, Table

NOTHING = grid_of(Table(0, 0, []))


def plain_alignment(scores: np.ndarray) -> tuple[float, tuple[tuple[int, int], ...]]:
    """What the best pairs in order come to, and these, by looking at all ways."""

    @functools.cache
    def best(m: int, n: int) -> tuple[float, tuple[tuple[int, int], ...]]:
        if not m or not n:
            return 0.0, ()
        total, pairs = best(m - 1, n - 1)
        together = (total + scores[m - 1, n - 1], (*pairs, (m - 1, n - 1)))
        return max((best(m - 1, n), best(m, n - 1), together), key=lambda way: way[0])

    return best(*scores.shape)


def plain_similarity(similar: np.ndarray, truth: Grid, read: Grid) -> float:
    """Grid similarity by its definition, given the similarity of places."""
    m, n, p, q = similar.shape
    rows = np.array([[plain_alignment(similar[i, :, k, :])[0] for k in range(p)] for i in range(m)])
    columns = np.array([[plain_alignment(similar[:, j, :, l])[0] for l in range(q)] for j in range(n)])
    row_pairs, column_pairs = plain_alignment(rows)[1], plain_alignment(columns)[1]
    total = sum(similar[i, j, k, l] for i, k in row_pairs for j, l in column_pairs)
    return 2 * total / (truth.texts.size + read.texts.size)


def text_of(a: str, b: str) -> float:
    return 1.0 if a == b == "" else 0.0 if not a or not b else Indel.normalized_similarity(a, b)


def overlap(x: np.ndarray, y: np.ndarray) -> float:
    high = min(x[2], y[2]) - max(x[0], y[0])
    wide = min(x[3], y[3]) - max(x[1], y[1])
    inner = max(high, 0) * max(wide, 0)
    areas = [(z[2] - z[0]) * (z[3] - z[1]) for z in (x, y)]
    return inner / (sum(areas) - inner)


def by_places(ours: np.ndarray, theirs: np.ndarray, like: Callable[..., float]) -> np.ndarray:
    """The likeness of each place of one grid with each of another."""
    (m, n), (p, q) = ours.shape[:2], theirs.shape[:2]
    at = itertools.product(range(m), range(n), range(p), range(q))
    return np.array([like(ours[i, j], theirs[k, l]) for i, j, k, l in at], dtype=float).reshape(m, n, p, q)


def random_grids(seed: int, count: int = 25) -> list[tuple[Grid, Grid]]:
    rng = random.Random(seed)
    out = []
    for _ in range(count):
        a, b = (
            grid(*random_spans(rng, rng.randrange(1, 5), rng.randrange(1, 5)), head=rng.randrange(2))
            for _ in range(2)
        )
        out.append((a, b))
    return out


class TestAgainstThePlainWay(unittest.TestCase):
    def test_content_and_topology(self) -> None:
        for truth, read in random_grids(3):
            if not truth.texts.size or not read.texts.size:
                continue
            similar = by_places(truth.texts, read.texts, text_of)
            self.assertAlmostEqual(content_similarity(truth, read), plain_similarity(similar, truth, read))
            similar = by_places(truth.extents, read.extents, overlap)
            self.assertAlmostEqual(topology_similarity(truth, read), plain_similarity(similar, truth, read))

    def test_alignments_are_in_order_and_as_good_as_any(self) -> None:
        rng = np.random.default_rng(4)
        for m, n, p, q in itertools.product((1, 2, 4), repeat=4):
            similar = rng.random((m, n, p, q))
            rows, columns = alignment(similar)
            for pairs, scores in (
                (
                    rows,
                    np.array([[plain_alignment(similar[i, :, k, :])[0] for k in range(p)] for i in range(m)]),
                ),
                (
                    columns,
                    np.array([[plain_alignment(similar[:, j, :, l])[0] for l in range(q)] for j in range(n)]),
                ),
            ):
                self.assertEqual(pairs, sorted(set(pairs)))
                for side in zip(*pairs, strict=True):
                    self.assertEqual(len(set(side)), len(side))
                self.assertAlmostEqual(sum(scores[pair] for pair in pairs), plain_alignment(scores)[0])

    def test_adjacency(self) -> None:
        for truth, read in random_grids(5):
            sides = [Counter(self.neighbours(g)) for g in (truth, read)]
            common, total = (sides[0] & sides[1]).total(), sides[0].total() + sides[1].total()
            self.assertAlmostEqual(adjacency_f1(truth, read), 2 * common / total if total else 1.0)

    def neighbours(self, one: Grid) -> list[tuple[str, str, str]]:
        """Texts of neighbours: each two cells once for each way, however many places they share."""
        found: set[tuple[int, int, str]] = set()
        holds = {}
        for number, (r, c, h, w, _) in enumerate(one.cells):
            holds |= {(r + y, c + x): number for y in range(h) for x in range(w)}
        rows, columns = one.shape
        for r in range(rows):
            line = [holds[r, c] for c in range(columns) if (r, c) in holds]
            found |= {(a, b, "right") for a, b in itertools.pairwise(line) if a != b}
        for c in range(columns):
            line = [holds[r, c] for r in range(rows) if (r, c) in holds]
            found |= {(a, b, "down") for a, b in itertools.pairwise(line) if a != b}
        return [(one.cells[a][4], one.cells[b][4], way) for a, b, way in found]


class TestByHand(unittest.TestCase):
    def test_rates(self) -> None:
        self.assertEqual(rates(0, 0, 0), Rates(1.0, 1.0, 1.0))
        self.assertEqual(rates(0, 3, 0), Rates(0.0, 0.0, 0.0))
        self.assertEqual(rates(0, 0, 3), Rates(0.0, 0.0, 0.0))
        self.assertEqual(rates(2, 4, 2), Rates(1.0, 0.5, 2 / 3))
        found = cell_rates(grid("a|b", "c|d"), grid("a|b", "c|x", "y|z"))
        self.assertEqual((found.precision, found.recall, found.f1), (3 / 6, 3 / 4, 6 / 10))

    def test_tables_without_anything(self) -> None:
        some = grid("a|b", "c|d")
        for metric in (content_similarity, topology_similarity):
            self.assertEqual(
                [metric(NOTHING, NOTHING), metric(some, NOTHING), metric(NOTHING, some)], [1, 0, 0]
            )
        self.assertEqual(places(NOTHING, some), {})
        self.assertEqual(places(some, NOTHING), {})
        self.assertEqual(adjacency_f1(NOTHING, NOTHING), 1.0)
        self.assertEqual(text_similarity(NOTHING, NOTHING), 1.0)
        self.assertEqual(text_similarity(some, NOTHING), 0.0)
        self.assertAlmostEqual(text_similarity(grid("ab|c"), grid("ab|d")), 6 / 8)

    def test_grids_leave_out_what_is_empty_throughout(self) -> None:
        found = grid("a||b", "||", "c||d")
        self.assertEqual(found.texts.tolist(), [["a", "b"], ["c", "d"]])
        self.assertEqual(
            found.cells, ((0, 0, 1, 1, "a"), (0, 1, 1, 1, "b"), (1, 0, 1, 1, "c"), (1, 1, 1, 1, "d"))
        )
        spanned = grid("a|<|b", "c|d|e", head=2)
        self.assertEqual(spanned.texts.tolist(), [["a", "a", "b"], ["c", "d", "e"]])
        self.assertEqual(spanned.extents[0, 1].tolist(), [0, -1, 1, 1])
        self.assertEqual(spanned.extents[0, 0].tolist(), [0, 0, 1, 2])
        # A table is never all header.
        self.assertEqual(spanned.header_rows, 1)
        self.assertEqual(grid("a|b", "|", "c|d", "e|f", head=3).header_rows, 2)
        self.assertEqual(words_of(grid("a b|<", "c|d")), ["a", "b", "a", "b", "c", "d"])
        self.assertEqual(list(header_paths(grid("a|<|b", "c|d|^", "1|2|3", head=2))), ["a / c", "a / d", "b"])
        cut = first_rows(grid("a|b", "^|c", "d|e"), 1)
        self.assertEqual(
            (cut.texts.tolist(), cut.cells), ([["a", "b"]], ((0, 0, 1, 1, "a"), (0, 1, 1, 1, "b")))
        )
        whole = grid("a|b")
        self.assertIs(first_rows(whole, 1), whole)

    def test_headers_count_with_the_text_below_them(self) -> None:
        truth = grid("Pier|May|June", "Oskay|7|12", "Fenholm|3|5")
        self.assertEqual(header_fidelity(truth, truth), 1.0)
        self.assertAlmostEqual(
            header_fidelity(truth, grid("Pier|June|May", "Oskay|7|12", "Fenholm|3|5")), 1 / 3
        )
        self.assertAlmostEqual(header_fidelity(truth, grid("Pier|May", "Oskay|7", "Fenholm|3")), 4 / 5)
        self.assertEqual(header_fidelity(truth, grid("Pier|May|June", "Oskay|7|12", head=0)), 0.0)
        self.assertEqual(header_fidelity(grid("a|b", head=0), grid("c|d", head=0)), 1.0)
        self.assertEqual(header_fidelity(grid("a|b", "c|d", head=0), grid("a|b", "c|d")), 0.0)

    def test_numbers_are_followed(self) -> None:
        truth = grid("Pier|May|June", "Oskay|10|20", "Fenholm|30|40")
        for rows, numbers in (
            (("Pier|May|June", "Oskay|10|20", "Fenholm|30|40"), Numbers(4, 4, 0, 0, 0, 0)),
            (("Pier|May|June", "Oskay|10|99", "Fenholm|30|40"), Numbers(4, 3, 0, 1, 0, 0)),
            (("Pier|May|June", "Oskay|10|", "Fenholm|30|40"), Numbers(4, 3, 0, 0, 1, 0)),
            (("Pier|May|June", "Oskay|20|10", "Fenholm|30|40"), Numbers(4, 2, 2, 0, 0, 0)),
            (("Pier|May|June", "Oskay|10|20", "Fenholm|30|40", "Tarn|50|60"), Numbers(4, 4, 0, 0, 0, 2)),
            (("Pier|May|June", "Oskay|ten|20", "Fenholm|30|40"), Numbers(4, 3, 0, 0, 1, 0)),
            (("Pier|May|June", "Oskay|10|20"), Numbers(4, 2, 0, 0, 2, 0)),
            (("Pier|May|June", "Fenholm|30|40", "Oskay|10|20"), Numbers(4, 2, 2, 0, 0, 0)),
        ):
            with self.subTest(rows):
                found = numeric_fidelity(truth, grid(*rows))
                self.assertEqual(found, numbers)
                self.assertEqual(found.fidelity, found.right / (found.truth + found.invented))
        self.assertEqual(Numbers(0, 0, 0, 0, 0, 0).fidelity, 1.0)
        self.assertEqual(numeric_fidelity(truth, NOTHING), Numbers(4, 0, 0, 0, 4, 0))
        words = grid("Pier|Says", "Oskay|open from 7")
        self.assertEqual(numeric_fidelity(words, grid("Pier|Says", "Oskay|7")), Numbers(0, 0, 0, 0, 0, 0))
        self.assertEqual(numeric_fidelity(words, grid("Pier|Says", "Oskay|8")), Numbers(0, 0, 0, 0, 0, 1))
        self.assertEqual(numeric_fidelity(words, NOTHING), Numbers(0, 0, 0, 0, 0, 0))

    def test_places_of_what_is_unlike_lie_between_the_same_neighbours(self) -> None:
        truth, read = grid("a|b", "x|y", "c|d"), grid("a|b", "1|2", "c|d")
        self.assertEqual(places(truth, read), {(r, c): (r, c) for r in range(3) for c in range(2)})
        shifted = places(grid("aa|bb", "cc|dd"), grid("zz|aa|bb", "yy|cc|dd"))
        self.assertEqual(shifted, {(r, c): (r, c + 1) for r in range(2) for c in range(2)})

    def test_verdicts(self) -> None:
        truth = grid("Pier|Boats|Fee", "Oskay|7|2.40", "Fenholm|9|3.10", "Tarnvoe|4|1.90")
        read = grid("Pier|Boats|Fee", "Oskay|2.40|7", "Fenholm|8|3.10", "Tarnvoe|4|", "Brannsey|5|6.60")
        ours, theirs = judged_cells(truth, read)
        said = {(j.row, j.column): j.verdict for j in ours}
        self.assertEqual({at for at, verdict in said.items() if verdict == "moved"}, {(1, 1), (1, 2)})
        self.assertEqual({at for at, verdict in said.items() if verdict == "changed"}, {(2, 1)})
        self.assertEqual({at for at, verdict in said.items() if verdict == "missing"}, {(3, 2)})
        self.assertEqual(sum(verdict == "same" for verdict in said.values()), 8)
        self.assertIn(Judged(2, 1, "9", "changed", "8"), ours)
        self.assertIn(Judged(2, 1, "8", "changed", "9"), theirs)
        self.assertEqual([j.text for j in theirs if j.verdict == "extra"], ["Brannsey", "5", "6.60"])
        self.assertEqual(len(theirs), 14)
        spans = judged_cells(grid("a|<", "b|c"), grid("a|", "b|c"))
        self.assertEqual(
            [(j.text, j.verdict) for side in spans for j in side if j.verdict == "span"], [("a", "span")] * 2
        )

    def test_location(self) -> None:
        def placed(*boxes: tuple[int, float, float, float, float]) -> Grid:
            cells = [
                Cell(0, k, f"c{k}", places=[Place(page, Box(*box))]) for k, (page, *box) in enumerate(boxes)
            ]
            return grid_of(Table(1, len(cells), cells))

        one = placed((1, 0, 0, 10, 10), (1, 20, 0, 30, 10))
        self.assertEqual(location_similarity(one, one), 1.0)
        # The half of one box, and another page.
        half = placed((1, 0, 0, 10, 5), (1, 20, 0, 30, 10))
        self.assertAlmostEqual(location_similarity(one, half), (0.5 + 1) / 2)
        other = placed((2, 0, 0, 10, 10), (1, 20, 0, 30, 10))
        self.assertAlmostEqual(location_similarity(one, other), 0.5)
        self.assertIsNone(location_similarity(one, grid("a|b")))
        self.assertIsNone(location_similarity(grid("a|b"), one))


class TestMatching(unittest.TestCase):
    def test_one_to_one_by_words(self) -> None:
        first, second = grid("a|b", "c|d"), grid("e|f", "g|h")
        found = match([first, second], [second, first])
        self.assertEqual((found.pairs, found.split, found.merged), ({0: 1, 1: 0}, {}, {}))
        self.assertEqual(match([first], [second]).pairs, {})
        self.assertEqual(match([], [first]).pairs, {})
        self.assertEqual(match([first], []).pairs, {})
        self.assertEqual(match([], []).pairs, {})

    def test_the_greatest_total_wins_over_the_greatest_single_likeness(self) -> None:
        a, b = grid("a|b|c|d"), grid("a|b|x|y")
        read = [grid("a|b|c|e"), grid("c|d|z|w")]
        self.assertEqual(match([a, b], read).pairs, {0: 1, 1: 0})

    def test_parts_are_named(self) -> None:
        whole = grid("a|b", "c|d", "e|f", "g|h")
        halves = [grid("a|b", "c|d", head=0), grid("e|f", "g|h", head=0)]
        self.assertEqual(match([whole], halves).split, {0: [0, 1]})
        self.assertEqual(match(halves, [whole]).merged, {0: [0, 1]})
        # A small table whose words all stand in a large one is no part of it, if that was read.
        small = grid("a|b")
        self.assertEqual(match([whole, small], [whole, small]).merged, {})
        self.assertEqual(match([whole, small], [whole, small]).split, {})

    def test_how_much_two_tables_have_to_share(self) -> None:
        words = [f"w{k}" for k in range(40)]
        for shared, matched in ((1, False), (2, False), (3, True)):
            # Of 20 words each: 2 of 20 is no more than a tenth.
            other = words[:shared] + words[20 : 40 - shared]
            found = match([grid("|".join(words[:20]))], [grid("|".join(other))])
            self.assertEqual(found.pairs, {0: 0} if matched else {}, shared)

    def test_how_much_of_a_part_has_to_belong_to_the_whole(self) -> None:
        words = [f"w{k}" for k in range(30)]
        truth = grid("|".join(words[:10]))
        for own, is_split in ((3, False), (4, True), (5, True)):
            parts = [
                grid("|".join([*words[:own], *words[10 : 15 - own]])),
                grid("|".join([*words[5 : 5 + own], *words[20 : 25 - own]])),
            ]
            self.assertEqual(match([truth], parts).split, {0: [0, 1]} if is_split else {}, own)
            self.assertEqual(match(parts, [truth]).merged, {0: [0, 1]} if is_split else {}, own)
        # Two small parts do not make up a large table.
        large = grid("|".join(words))
        small = [grid("|".join(words[k : k + 5])) for k in (0, 10)]
        self.assertEqual(match([large], small).split, {})
        self.assertEqual(match(small, [large]).merged, {})
        # One part alone is no split.
        self.assertEqual(match([truth], [grid("|".join(words[:6]))]).split, {})

    def test_detection(self) -> None:
        self.assertEqual(detection_by_content([1.0, 0.5, 0.49], 4, 3), rates(2, 4, 3))
        self.assertEqual(detection_by_content([], 0, 0), Rates(1.0, 1.0, 1.0))

        def at(*boxes: tuple[int, float, float, float, float]) -> Grid:
            out = table("a|b", "c|d")
            out.places = [Place(page, Box(*box)) for page, *box in boxes]
            return grid_of(out)

        truth = [at((1, 0, 0, 10, 10)), at((2, 0, 0, 10, 10))]
        self.assertEqual(detection_by_region(truth, truth), rates(2, 2, 2))
        self.assertEqual(
            detection_by_region(truth, [at((1, 0, 0, 10, 5)), at((3, 0, 0, 10, 10))]), rates(1, 2, 2)
        )
        self.assertEqual(detection_by_region(truth, [at((1, 0, 0, 10, 4.9))]), rates(0, 2, 1))
        over = at((1, 0, 0, 10, 10), (2, 0, 0, 10, 10))
        self.assertEqual(detection_by_region([over], [over]), rates(1, 1, 1))
        self.assertEqual(detection_by_region([over], [at((1, 0, 0, 10, 10))]), rates(1, 1, 1))
        self.assertEqual(detection_by_region(truth, []), rates(0, 2, 0))
        self.assertIsNone(detection_by_region([], truth))
        self.assertIsNone(detection_by_region([grid("a|b")], truth))


class TestStatistics(unittest.TestCase):
    def test_the_exact_test_looks_at_every_toss(self) -> None:
        rng = random.Random(2)
        for n in range(1, 9):
            d = [round(rng.uniform(-1, 1), 1) for _ in range(n)]
            kept = [x for x in d if x]
            tosses = [
                abs(sum(s * x for s, x in zip(t, kept, strict=True)))
                for t in itertools.product((1, -1), repeat=len(kept))
            ]
            expected = sum(t >= abs(sum(kept)) - 1e-12 for t in tosses) / len(tosses)
            self.assertAlmostEqual(paired_p(d), expected)
            self.assertEqual(paired_p(d), paired_p([-x for x in d]))

    def test_many_documents_are_tossed_at_random_and_nearly_as_exactly(self) -> None:
        rng = np.random.default_rng(6)
        d = rng.normal(0.25, 0.5, EXACT).tolist()
        exact = paired_p(d)
        # Documents that are equal say nothing: a tiny one only makes the test a random one.
        self.assertAlmostEqual(paired_p([*d, 1e-15]), exact, delta=0.02)
        self.assertEqual(paired_p([*d, 0.0, 0.0]), exact)
        self.assertEqual(paired_p([0.5] * 40), 1 / 5001)
        self.assertEqual(paired_p([]), 1.0)

    def test_holm(self) -> None:
        self.assertEqual(holm([]), [])
        self.assertEqual(holm([0.2]), [0.2])
        self.assertEqual(holm([0.6, 0.7]), [1.0, 1.0])
        self.assertEqual(holm([0.04, 0.01]), [0.04, 0.02])
        self.assertEqual(holm([0.01, 0.01, 0.5]), [0.03, 0.03, 0.5])

    def test_intervals(self) -> None:
        self.assertTrue(np.isnan(mean_interval([]).mean))
        self.assertEqual((mean_interval([0.7]).mean, mean_interval([0.7]).high), (0.7, None))
        same = mean_interval([0.5, 0.5, 0.5])
        self.assertEqual((same.mean, same.low, same.high), (0.5, 0.5, 0.5))
        rng = np.random.default_rng(1)
        for n in (2, 5, 30):
            x = rng.random(n).tolist()
            found = mean_interval(x)
            self.assertAlmostEqual(found.mean, sum(x) / n)
            self.assertTrue(found.low < found.mean < found.high)
            moved = mean_interval([v + 3 for v in x])
            self.assertAlmostEqual(moved.low, found.low + 3)
            self.assertAlmostEqual(moved.high, found.high + 3)
        # Of skewed scores the longer tail has the longer arm.
        skewed = mean_interval([1.0] * 18 + [0.2, 0.0])
        self.assertGreater(skewed.mean - skewed.low, skewed.high - skewed.mean)
        wide, narrow = mean_interval([0.2, 0.8] * 5), mean_interval([0.2, 0.8] * 50)
        self.assertAlmostEqual((wide.high - wide.low) / (narrow.high - narrow.low), 3.8, delta=0.3)

    def test_normal_scores_have_the_interval_of_student(self) -> None:
        x = np.random.default_rng(9).normal(0, 1, 40)
        found = mean_interval(x.tolist())
        reach = 2.0227 * x.std(ddof=1) / 40**0.5
        self.assertAlmostEqual(found.high - found.low, 2 * reach, delta=0.05)

    def test_skewed_scores_have_the_interval_of_another_bootstrap(self) -> None:
        """That of SciPy, bias-corrected and accelerated too: with many documents the two are one."""
        rng = np.random.default_rng(12)
        for x in (
            rng.exponential(1, 300),
            1 - rng.exponential(1, 300),
            np.r_[np.zeros(270), np.full(30, 9.0)],
        ):
            other = bootstrap((x,), np.mean, method="BCa", n_resamples=5000, rng=np.random.default_rng(1))
            low, high = other.confidence_interval
            found = mean_interval(x.tolist())
            self.assertAlmostEqual(found.low, low, delta=0.06 * (high - low))
            self.assertAlmostEqual(found.high, high, delta=0.06 * (high - low))

    def test_as_many_tosses_as_there_are(self) -> None:
        """Up to twelve documents the chance is a whole number of tosses; with all of one sign, two."""
        for n in range(1, EXACT + 1):
            self.assertEqual(paired_p([0.5] * n), 2 / 2**n)
        self.assertEqual(EXACT, 12)

    def test_comparisons(self) -> None:
        scores = {"a": [0.9, 0.8, 0.7], "b": [0.5, 0.6, 0.7], "c": [0.9, 0.8, 0.7]}
        found = compare_all("abc", scores)
        self.assertEqual([(c.first, c.second) for c in found], [("a", "b"), ("a", "c"), ("b", "c")])
        self.assertAlmostEqual(found[0].difference.mean, 0.2)
        self.assertAlmostEqual(found[0].effect, 0.2 / 0.2)
        self.assertIsNone(found[1].effect)
        self.assertEqual(found[1].p, 1.0)
        self.assertEqual(
            [(c.first, c.second) for c in compare_with("b", "ac", scores)], [("b", "a"), ("b", "c")]
        )
        self.assertIsNone(comparison_of("a", "b", np.array([0.3]), 1.0).effect)
        self.assertTrue(comparison_of("a", "b", np.array([0.3, 0.2]), 0.049).separable)
        self.assertFalse(comparison_of("a", "b", np.array([0.3, 0.2]), 0.05).separable)

    def test_ranks(self) -> None:
        high, low = [0.9, 0.91, 0.92, 0.93, 0.9, 0.91, 0.9, 0.92], [0.5, 0.4, 0.6, 0.5, 0.4, 0.5, 0.6, 0.5]
        least = [0.1] * 8
        self.assertEqual(ranks(["x", "y", "z"], {"x": low, "y": high, "z": least}), {"y": 1, "x": 2, "z": 3})
        self.assertEqual(ranks(["b", "a"], {"a": high, "b": high}), {"a": 1, "b": 1})
        self.assertEqual(ranks(["a"], {"a": high}), {"a": 1})
        self.assertEqual(ranks([], {}), {})
        near = [h - 0.01 * (-1) ** k for k, h in enumerate(high)]
        self.assertEqual(ranks(["a", "b", "c"], {"a": high, "b": near, "c": low}), {"a": 1, "b": 1, "c": 3})
