"""The readings of a page that are compared: what must hold of each, whichever is chosen in the end."""

from __future__ import annotations

import random
import unittest
from collections.abc import Iterator, Sequence
from dataclasses import replace
from itertools import combinations
from pathlib import Path

import numpy as np

from tests.support import DEMO, pdf_of
from wennak.errors import UsageError
from wennak.ink import Bools, PdfFile
from wennak.layout import PageLayout, lay_out
from wennak.methods import OWN_METHODS, check_method, method_names
from wennak.tables import evidence, find_method, free_words, search
from wennak.tables.agreement import FAR, SCALES, agreement
from wennak.tables.areas import find_strips
from wennak.tables.choose import choose, with_columns_beside, worth
from wennak.tables.columns import column_choices
from wennak.tables.draft import TableDraft
from wennak.tables.grid import cut_place, stacks_numbers
from wennak.tables.gutters import gutters, profile_of
from wennak.tables.judge import judge, judge_of
from wennak.tables.lattice import find_lattices
from wennak.tables.places import Key, around, find_places, place_of
from wennak.tables.reading import Reading
from wennak.tables.recut import with_same_columns
from wennak.tables.rowcuts import row_choices
from wennak.tables.ruled import lattice_readings, shaded_readings
from wennak.tables.same_heads import with_same_heads
from wennak.tables.search import JOINED, PROMISING, SAMPLED, STACKED, best_draft
from wennak.tables.torn import add_torn
from wennak.tables.trees import load_trees, read_sums


def layouts(*sources: Path | bytes) -> Iterator[PageLayout]:
    for source in sources:
        with PdfFile(source, "page") as file:
            for ink in file.pages(list(range(1, file.page_count + 1))):
                yield lay_out(ink)


def demo_layouts() -> Iterator[PageLayout]:
    return layouts(*sorted(DEMO.rglob("*.pdf")))


def text_width(said: str) -> float:
    """How wide a text in Helvetica of 10 points comes out."""
    (layout,) = layouts(pdf_of(f"BT /F1 10 Tf 0 700 Td ({said}) Tj ET"))
    return float(layout.words.x1.max())


def drawing(*lines: tuple[float, float, str], more: str = "") -> PageLayout:
    text = " ".join(f"BT /F1 10 Tf {x:.2f} {y:.2f} Td ({said}) Tj ET" for x, y, said in lines)
    (layout,) = layouts(pdf_of(f"{text} {more}"))
    return layout


class TestMethods(unittest.TestCase):
    def test_every_name_that_passes_is_that_of_a_method(self) -> None:
        self.assertLessEqual(set(OWN_METHODS), set(method_names()))
        (layout,) = layouts(pdf_of("BT /F1 10 Tf 72 700 Td (The quay was sound.) Tj ET"))
        for name in method_names():
            with self.subTest(name):
                check_method(name)
                self.assertEqual(find_method(name)(layout), [])
        for name, service in (("magic", None), ("", object()), ("remote", None)):
            with self.subTest(name), self.assertRaises(UsageError) as raised:
                check_method(name, service)
            self.assertIn(name, str(raised.exception))
        check_method("remote", object())
        with self.assertRaisesRegex(UsageError, ", ".join(method_names())):
            find_method("remote")


class TestJudges(unittest.TestCase):
    def test_pages_that_are_pictures_have_a_judge_of_their_own_besides(self) -> None:
        layout = next(demo_layouts())
        picture = replace(layout, ink=replace(layout.ink, source="picture"))
        readings = search(layout, free_words(layout), judge)
        seen = evidence(layout, readings)
        drawn, scanned = judge_of(layout)(seen), judge_of(picture)(seen)
        np.testing.assert_array_equal(drawn, judge(seen))
        self.assertTrue(((scanned >= 0) & (scanned <= 1)).all())
        self.assertGreater(np.abs(scanned - drawn).max(), 0)
        # Both are of one mind about most: what one likes the other does.
        self.assertGreater(float(np.corrcoef(scanned, drawn)[0, 1]), 0.8)


class TestEveryReading(unittest.TestCase):
    def test_of_the_demo_holds_each_word_of_its_place_in_one_cell_and_no_cells_overlap(self) -> None:
        count = 0
        for layout in demo_layouts():
            free = free_words(layout)
            readings = search(layout, free, judge)
            count += len(readings)
            for reading in readings:
                draft = reading.draft()
                held = [i for cell in draft.cells for i in cell.words]
                self.assertEqual(sorted(held), sorted(reading.place.index.tolist()))
                self.assertTrue(free[held].all())
                self.assertEqual((draft.rows, draft.columns), reading.shape)
                taken = np.zeros(reading.shape, dtype=np.int64)
                for c in draft.cells:
                    taken[c.row : c.row + c.rowspan, c.column : c.column + c.colspan] += 1
                    self.assertLessEqual(c.row + c.rowspan, draft.rows)
                    self.assertLessEqual(c.column + c.colspan, draft.columns)
                self.assertLessEqual(taken.max(), 1)
        self.assertGreater(count, 300)

    def test_is_seen_alike_alone_and_among_others(self) -> None:
        for layout in demo_layouts():
            readings = search(layout, free_words(layout), judge)[:40]
            if not readings:
                continue
            together = evidence(layout, readings)
            self.assertTrue(np.isfinite(together).all())
            for k in range(0, len(readings), 7):
                np.testing.assert_array_equal(evidence(layout, [readings[k]])[0], together[k])


class TestOpening(unittest.TestCase):
    def test_where_a_sample_of_the_places_promises_nothing_the_others_stay_closed(self) -> None:
        few = most = 0
        for layout in demo_layouts():
            free = free_words(layout)
            places = list(find_places(layout, free, find_lattices(layout.rules)))
            others = [place.key for place in places if not place.run]
            sample = {place.key for place in places if place.run} | set(others[::SAMPLED])

            def opened(gain: float, layout: PageLayout = layout, free: Bools = free) -> list[Key]:
                found = search(layout, free, lambda seen: np.full(len(seen), gain))
                return list(dict.fromkeys(r.place.key for r in found if r.cut is not None))

            # Neither judge takes anything for a table; to the second one all places are near it.
            nothing, something = opened(0.0), opened(PROMISING)
            self.assertEqual(nothing, [key for key in something if key in sample])
            self.assertEqual(something, [place.key for place in places if place.key in something])
            few, most = few + len(nothing), most + len(something)
        self.assertGreater(few, 30)
        self.assertLess(few, most / 2)


class TestGenerators(unittest.TestCase):
    def test_columns_and_rows_come_once_each_and_in_order(self) -> None:
        for layout in demo_layouts():
            places = find_places(layout, free_words(layout), find_lattices(layout.rules))
            for place in list(places)[:12]:
                choices = list(column_choices(layout, place))
                self.assertEqual(len(choices), len({tuple(c) for c in choices}))
                for cuts in choices:
                    self.assertEqual(cuts, sorted(cuts))
                    self.assertTrue(all(place.box.x0 <= x <= place.box.x1 for x in cuts))
                    cut = cut_place(layout, place, cuts)
                    ways = [tuple(rows.tolist()) for _, rows in row_choices(layout, cut)]
                    self.assertEqual(len(ways), len(set(ways)))
                    for way in ways:
                        self.assertEqual(way[0], 0)
                        self.assertEqual(set(way), set(range(max(way) + 1)))

    def test_places_around_one_have_none_of_its_words_and_only_free_ones(self) -> None:
        count = 0
        for layout in demo_layouts():
            free = free_words(layout)
            for place in list(find_places(layout, free, find_lattices(layout.rules)))[:6]:
                own = set(place.index.tolist())
                for other in around(layout, place, free):
                    count += 1
                    self.assertTrue(own.isdisjoint(other.index.tolist()))
                    self.assertTrue(free[other.index].all())
        self.assertGreater(count, 20)

    def test_what_is_left_above_and_below_a_place_is_cut_at_its_own_seams(self) -> None:
        # Twelve headings with much room around them hide the seam below the first table of the page.
        lines = [(72 + 70 * c, 770 - 11 * r, f"{31 * r + 7 * c + 5}") for r in range(6) for c in range(4)]
        lines += [(72, 700 - 11 * r, "The keeper counts what is landed on the quay") for r in range(3)]
        lines += [(72, 640 - 40 * k, f"Berth of the ferry, {k}") for k in range(12)]
        lines += [(72 + 70 * c, 150 - 11 * r, f"{17 * r + 3 * c + 2}") for r in range(6) for c in range(4)]
        layout = drawing(*lines)
        free = free_words(layout)
        last = next(r.place for r in search(layout, free, judge) if r.shape == (6, 4) and r.place.first > 6)
        self.assertIn((0, 6), {(p.first, p.last) for p in around(layout, last, free)})

    def test_gutters_of_a_stretch_are_those_of_its_rows_alone(self) -> None:
        rng, compared = random.Random(8), 0
        for layout in demo_layouts():
            for strip in find_strips(layout, free_words(layout), find_lattices(layout.rules)):
                whole = strip.profile(-np.inf, np.inf)
                assert whole is not None
                em = whole.unit / 0.1
                for _ in range(6):
                    a, b = sorted(rng.sample(range(len(strip.rows) + 1), 2))
                    rows = strip.rows[a:b]
                    if min(r.x0 for r in rows) > whole.x0:
                        continue
                    alone = profile_of(layout, rows, np.arange(b - a), em)
                    compared += 1
                    self.assertEqual(gutters(whole, a, b, em), gutters(alone, 0, b - a, em))
        self.assertGreater(compared, 40)

    def test_a_line_that_ends_a_blank_before_the_next_column_stays_in_its_own(self) -> None:
        long = "moored off the northern quay at noon"
        ends = 150 + text_width(long)
        rows = [
            ("Gannet", "at sea", "due"),
            ("Tern", long, "late"),
            ("Skua", "in dock", "sold"),
            ("Eider", "off", "-"),
        ]
        for blank in (3.0, 4.5, 8.0):
            lines = [
                (x, 700 - 14 * k, said)
                for k, row in enumerate(rows)
                for x, said in zip((72, 150, ends + blank), row, strict=True)
            ]
            layout = drawing(*lines)
            (found,) = choose(search(layout, free_words(layout), judge))
            said = [[layout.words.texts[i] for i in c.words] for c in found.draft().cells]
            with self.subTest(blank=blank):
                self.assertIn(long.split(), said)
                self.assertIn(["late"], said)

    def test_rows_set_so_tight_that_their_boxes_overlap_stay_apart(self) -> None:
        lines = [
            (72 + 80 * c, 700 - 9.6 * r, text)
            for r in range(8)
            for c, text in enumerate((f"Pier {r}", str(31 * r + 7), str(997 - 41 * r)))
        ]
        layout = drawing(*lines)
        shapes = {r.shape for r in search(layout, free_words(layout), judge)}
        self.assertIn((8, 3), shapes)

    def test_a_label_of_two_lines_at_mid_height_makes_one_row(self) -> None:
        lines = [(72.0, 700.0, "Section"), (160.0, 700.0, "What is to be done")]
        y = 684.0
        for label in ("Oskay|light", "Tarnvoe", "Mill|Voe"):
            text = ["The keeper counts every", "vessel that passes the", "sound and writes it down"]
            lines += [(160.0, y - 12 * k, t) for k, t in enumerate(text)]
            parts = label.split("|")
            lines += [(72.0, y - 12 + 6 * (len(parts) - 1) - 12 * k, t) for k, t in enumerate(parts)]
            y -= 3 * 12 + 5
        layout = drawing(*lines)
        readings = search(layout, free_words(layout), judge)
        self.assertIn((4, 2), {r.shape for r in readings})

    def test_labels_and_first_row_in_one_row_of_a_grid_are_two(self) -> None:
        levels = (650, *(596 - 20 * r for r in range(6)))
        rules = [f"0.6 w 66 {y} m 366 {y} l S" for y in levels] + ["0.6 w 166 632 m 366 632 l S"]
        rules += [f"0.6 w {x} 496 m {x} {y} l S" for x, y in ((66, 650), (166, 650), (266, 632), (366, 650))]
        head = [(240.0, 638.0, "In spring")] + [(72 + 100.0 * c, 620.0, "VCD"[c] + "abel") for c in range(3)]
        for digits, rows in ((True, 8), (False, 7)):
            said = [
                (72 + 100.0 * c, 602 - 20.0 * r, f"{7 * r + c}.5" if digits and c else "as before")
                for r in range(6)
                for c in range(3)
            ]
            layout = drawing(*head, *said, more=" ".join(rules))
            (reading,) = lattice_readings(layout, free_words(layout), find_lattices(layout.rules))
            self.assertEqual(reading.shape, (rows, 3))

    def test_no_reading_holds_some_rows_of_a_grid_and_leaves_out_others(self) -> None:
        # The last row says little.
        lines = [
            (70.0 + 100 * c, 700 - 19.0 * r, f"{31 * r + 7 * c}.{r % 7}")
            for r in range(12)
            for c in range(3)
            if r < 11 or c != 1
        ]
        across = [f"0.6 w 66 {713 - 19 * k} m 366 {713 - 19 * k} l S" for k in range(13)]
        for levels, sides in ((across, (66, 366)), (across[:2], (160, 260))):
            rules = [*levels, *(f"0.6 w {x} {713 - 19 * 12} m {x} 713 l S" for x in sides)]
            layout = drawing(*lines, more=" ".join(rules))
            readings = search(layout, free_words(layout), judge)
            with self.subTest(sides=sides):
                self.assertEqual({r.words for r in readings}, {35})

    def test_edges_of_shading_part_what_no_line_does(self) -> None:
        rows = [
            ("Pier", ["What was seen there"]),
            ("North", ["The scale was set anew"]),
            ("South", []),
            ("West", ["Nets were dried on the quay while", "the warden weighed the catch"]),
            ("Outer", ["Two lamps are out"]),
            ("Inner", ["Nothing was seen by any of the", "wardens who were on duty then"]),
        ]
        pieces, shades, lines = (
            [],
            ["0.2 0.4 0.3 rg 60 686 120 24 re 180 686 300 24 re f 0.9 g"],
            ["60 710 m 480 710 l S"],
        )
        top = 710
        for k, (name, said) in enumerate(rows):
            foot = top - 12 - 12 * max(1, len(said))
            pieces += [(66, top - 15, name), *((186, top - 15 - 12 * n, text) for n, text in enumerate(said))]
            if k:
                shades.append(f"180 {foot} 300 {top - foot} re f")
                lines.append(f"60 {foot} m 480 {foot} l S")
            top = foot
        # Neither below the labels nor between these is a line.
        lines += [f"{x} 710 m {x} {top} l S" for x in (60, 480)] + [f"180 686 m 180 {top} l S"]
        body = " ".join(f"BT /F1 10 Tf {x} {y} Td ({text}) Tj ET" for x, y, text in pieces)
        (layout,) = layouts(pdf_of(f"{' '.join(shades)} 0 g 0.5 w {' '.join(lines)} {body}"))
        free, lattices = free_words(layout), find_lattices(layout.rules)
        known = lattice_readings(layout, free, lattices)
        self.assertNotIn((6, 2), [r.shape for r in known])
        (reading,) = shaded_readings(layout, free, lattices, known)
        # What is known already does not come up again.
        self.assertEqual(shaded_readings(layout, free, lattices, [reading]), [])
        self.assertEqual(reading.shape, (6, 2))
        texts = layout.words.texts
        cells = {(c.row, c.column): " ".join(texts[i] for i in c.words) for c in reading.draft().cells}
        expected = {
            (k, c): said for k, row in enumerate(rows) for c, said in enumerate((row[0], " ".join(row[1])))
        }
        self.assertEqual(cells, expected)

    def test_what_a_zone_cut_off_a_row_is_put_where_its_column_is_empty(self) -> None:
        xs = (60, 190, 240, 290, 360, 440)
        rows = [["Pier", "May", "June", "July", "August", "Sept"]]
        rows += [[f"Quay {k}", *(f"{k + c}.{c}5" for c in range(5))] for k in range(6)]
        for beside in (0, 12):
            pieces = [
                (x, 700 - 15 * k, t) for k, row in enumerate(rows) for x, t in zip(xs, row, strict=True)
            ]
            # The last value stands alone, or beside another that was left out with it.
            layout = drawing(*pieces, *([(440 - beside - 12, 610, "9.9")] if beside else []))
            w = layout.words
            free = free_words(layout)
            (reading,) = choose(search(layout, free & ~((w.row == w.row.max()) & (w.x0 > 400)), judge))
            draft = reading.draft()
            before = draft.copy().cells
            free[draft.word_indices()] = False
            add_torn(layout, draft, free)
            cell = next(c for c in draft.cells if (c.row, c.column) == (6, 5))
            with self.subTest(beside=beside):
                self.assertEqual([w.texts[i] for i in cell.words], ["9.9", "9.45"] if beside else ["9.45"])
                self.assertEqual(
                    {(c.row, c.column): c.words for c in draft.cells if c is not cell},
                    {(c.row, c.column): c.words for c in before if (c.row, c.column) != (6, 5)},
                )
            # A place that is taken stays as it is, and so does all of the table then.
            taken = draft.copy().cells
            free[:] = True
            add_torn(layout, draft, free)
            self.assertEqual(draft.cells, taken)

    def test_dashed_and_dotted_lines_are_rules(self) -> None:
        for length, gap in ((3.0, 2.0), (1.0, 1.0), (2.25, 2.0), (0.8, 1.6)):
            at = [k * (length + gap) for k in range(40)]
            across = [f"{72 + x:.2f} 600 {length} 0.8 re f" for x in at]
            down = [f"200 {500 + x:.2f} 0.8 {length} re f" for x in at]
            pieces = " ".join([*across, *down])
            rules = drawing((72, 700, "Tide"), more=pieces).rules
            with self.subTest(length=length):
                reach = 40 * (length + gap)
                self.assertEqual((len(rules.level), len(rules.upright)), (1, 1))
                self.assertAlmostEqual(float(rules.level.high[0] - rules.level.low[0]), reach - gap, places=1)
                self.assertAlmostEqual(
                    float(rules.upright.high[0] - rules.upright.low[0]), reach - gap, places=1
                )

    def test_marks_far_apart_are_no_rules(self) -> None:
        ticks = " ".join(f"72 {500 + 20 * k} 4 0.6 re f {100 + 15 * k} 400 2 2 re f" for k in range(12))
        rules = drawing((72, 700, "Tide"), more=ticks).rules
        self.assertEqual(len(rules.upright), 0)
        self.assertTrue((rules.level.high - rules.level.low < 5).all())


class TestChoice(unittest.TestCase):
    def test_is_the_best_of_all_sets_without_common_words(self) -> None:
        layout = next(iter(demo_layouts()))
        pool = search(layout, free_words(layout), judge)
        rng = random.Random(3)
        for _ in range(20):
            some = rng.sample(pool, min(9, len(pool)))
            for r in some:
                r.gain = rng.random()
            best = 0.0
            for n in range(1, 5):
                for group in combinations(some, n):
                    if all(not a.bits & b.bits for a, b in combinations(group, 2)):
                        best = max(best, sum(worth(r) for r in group))
            self.assertAlmostEqual(sum(worth(r) for r in choose(some)), best)

    def test_lines_that_begin_in_the_first_column_count_nothing_at_the_ends(self) -> None:
        """Or taking in the text above a table would pay by its length."""
        lines = [(72, 720 - 14 * k, "What the office knows of the tides of the sound") for k in range(3)]
        lines += [
            (x, 664 - 14 * k, f"{said} {k}") for k in range(7) for x, said in ((72, "Tide"), (200, "Pier"))
        ]
        layout = drawing(*lines)
        found = search(layout, free_words(layout), judge)
        pieces: dict[int, set[int]] = {}
        for r in found:
            cells = r.draft().cells
            rows = [[c for c in cells if c.row == k and c.words] for k in range(r.shape[0])]
            if r.shape == (r.place.last - r.place.first, 2) and r.place.last == 10:
                self.assertEqual(r.pieces, sum(len(row) for row in rows if len(row) > 1))
                pieces.setdefault(r.pieces, set()).add(len(rows))
        self.assertIn({7, 10}, [{min(p), max(p)} for p in pieces.values()])

    def test_what_joins_words_side_by_side_gains_less(self) -> None:
        lines = [(220, 700, "Spring-and-neap"), (72, 686, "Vessel"), (210, 686, "Out"), (280, 686, "Back")]
        for k in range(8):
            lines += [
                (72, 670 - 14 * k, f"Tern{k}"),
                (210, 670 - 14 * k, str(k)),
                (280, 670 - 14 * k, str(9 * k)),
            ]
        layout = drawing(*lines)
        w = layout.words
        found = {False: 0, True: 0}
        for reading in search(layout, free_words(layout), lambda seen: np.full(len(seen), 0.6)):
            # Here words of two columns are never one piece.
            column = np.searchsorted(reading.cut.cuts, (w.x0 + w.x1) / 2)
            pairs = [p for c in reading.draft().cells for p in combinations(c.words, 2)]
            joins = any(w.row[i] == w.row[j] and column[i] != column[j] for i, j in pairs)
            found[joins] += 1
            stacked = stacks_numbers(reading.cut, reading.table_row)
            self.assertAlmostEqual(reading.gain, 0.6 - JOINED * joins - STACKED * stacked)
        self.assertTrue(found[False] and found[True], found)

    def test_rows_of_numbers_in_one_row_gain_less(self) -> None:
        """Rows set wide, and right below the last of each group its total."""
        ys = [700 - 30 * k - 12 * total for k in range(4) for total in (0, 1)]
        lines = [(x, y, said) for k, y in enumerate(ys)
                 for x, said in ((72, f"Tern{k}"), (160, f"{k + 3}.4"), (240, f"{7 * k}"))]  # fmt: skip
        layout = drawing(*lines)
        w = layout.words
        found = {False: 0, True: 0}
        for reading in search(layout, free_words(layout), lambda seen: np.full(len(seen), 0.6)):
            rows = [{int(w.row[i]) for c in reading.draft().cells if c.row == r for i in c.words}
                    for r in range(reading.shape[0])]  # fmt: skip
            held = reading.draft().cells
            beside = reading.cut.columns == 3 and all(len(c.words) <= 2 for c in held)
            if beside:
                found[stacked := any(len(row) > 1 for row in rows)] += 1
                self.assertAlmostEqual(reading.gain, 0.6 - STACKED * stacked)
        self.assertTrue(found[False] and found[True], found)

    def test_labels_beside_a_reading_belong_to_it_where_it_is_hardly_better_without(self) -> None:
        for every, better, kept in ((2, 0.05, False), (2, 0.2, True), (7, 0.05, True)):
            lines = [(60, 700 - 14 * k, f"Pier{k}") for k in range(0, 14, every)]
            lines += [(200 + 60 * c, 700 - 14 * k, f"{k + 3 * c}.{k}5") for c in range(4) for k in range(14)]
            layout = drawing(*lines)
            free = free_words(layout)
            (wide,) = choose(search(layout, free, judge))
            (narrow,) = choose(search(layout, free & (layout.words.x0 > 150), judge))
            self.assertEqual((wide.shape, narrow.shape), ((14, 5), (14, 4)))
            narrow.gain = wide.gain + better
            with self.subTest(every=every, better=better):
                self.assertIs(with_columns_beside([narrow], [narrow, wide])[0], narrow if kept else wide)

    def test_what_begins_with_the_labels_of_a_table_is_one_where_it_is_doubtful(self) -> None:
        """Two lists of a page, the lower one doubtful, with and without a title in a row of its own."""
        for labels, title, gain, found in (
            (("Vessel", "Out", "Back"), False, 0.2, 2),
            (("Vessel", "Out", "Back"), True, 0.2, 2),
            (("Vessel", "Out", "Back"), False, 0.05, 1),
            (("Vessel", "Away", "Back"), False, 0.2, 1),
        ):
            lines = [
                (72 + 90 * c, 700 - 14 * r - 200 * k, said)
                for k, head in enumerate((("Vessel", "Out", "Back"), labels))
                for r, row in enumerate((head, *((f"Tern{r}", str(r), str(9 * r)) for r in range(8))))
                for c, said in enumerate(row)
            ]
            layout = drawing(*lines, *([(72, 514, "Winter and spring")] if title else []))
            readings = search(layout, free_words(layout), judge)
            for reading in readings:
                if reading.place.box.y1 > 250:
                    reading.gain = gain if reading.place.box.y0 > 250 else 0.0
            chosen = choose(readings)
            self.assertEqual(len(chosen), 1)
            with self.subTest(labels=labels, title=title, gain=gain):
                both = with_same_heads(layout, chosen, readings)
                self.assertEqual([r.place.box.y0 > 250 for r in both], [False, True][:found])


class TestSameColumns(unittest.TestCase):
    def test_columns_that_join_no_texts_come_first(self) -> None:
        def draft(rows: Sequence[Sequence[str]], *cuts: float) -> tuple[TableDraft, PageLayout]:
            layout = drawing(*(
                (x, 700 - 16 * k, said)
                for k, row in enumerate(rows)
                for x, said in zip((72, 150, 240), row, strict=True)
                if said
            ))  # fmt: skip
            every = np.ones(len(layout.words), dtype=np.bool_)
            place = place_of(layout, np.flatnonzero(every), every, layout.box(np.flatnonzero(every)))
            return best_draft(layout, place, judge, cuts, "spaced"), layout

        named = [({0: "North", 4: "Outer"}.get(k, ""), f"Scale{k}", f"{3 * k + 7}.5") for k in range(9)]
        signed = [("$" if k < 6 else "", f"{3 * k + 2}.25", f"{3 * k + 7}.5") for k in range(9)]
        # A sign belongs to its number, in whichever column it stands.
        for rows, columns in ((named, 3), (signed, 2)):
            above, first = draft(rows[:6], 140, 230)
            below, second = draft(rows[6:], 230)
            # By what the judge says, the first part is to be read anew.
            above.gain = 0.0
            _, (one, other), *_, (_, last) = with_same_columns(above, below, first, second, True)
            self.assertEqual((one.columns, other.columns, last.columns), (columns, columns, 5 - columns))


class TestAgreement(unittest.TestCase):
    def test_is_what_drafts_of_the_readings_say_of_each_word(self) -> None:
        rng, compared = random.Random(5), 0
        for layout in demo_layouts():
            readings = search(layout, free_words(layout), judge)
            places = [placed(reading) for reading in readings]
            for k in rng.sample(range(len(readings)), min(3, len(readings))):
                near = [n for n, r in enumerate(readings) if r.gain > readings[k].gain - FAR]
                ways: dict[frozenset[int], float] = {}
                for n in near:
                    same = frozenset(i for i, at in places[k].items() if places[n].get(i) == at)
                    if readings[n].bits & readings[k].bits:
                        ways[same] = max(ways.get(same, 0.0), readings[n].gain)
                found = agreement(readings[k], readings, len(layout.words))
                for scale, shares in zip(SCALES.ravel().tolist(), found, strict=True):
                    weight = {w: min(1, np.exp((g - readings[k].gain) / scale)) for w, g in ways.items()}
                    for i in range(0, len(layout.words), 5):
                        agreed = sum(v for same, v in weight.items() if i in same)
                        self.assertAlmostEqual(shares[i], agreed / sum(weight.values()))
                        compared += 1
        self.assertGreater(compared, 300)

    def test_a_reading_agrees_with_itself_and_says_nothing_of_other_words(self) -> None:
        for layout in demo_layouts():
            for reading in search(layout, free_words(layout), judge)[:5]:
                own = np.zeros(len(layout.words))
                own[reading.place.index] = 1
                for shares in agreement(reading, [reading], len(layout.words)):
                    np.testing.assert_allclose(shares, own)


def placed(reading: Reading) -> dict[int, tuple[int, int, int, int, int]]:
    """Row, first column and extent of the cell that holds each word, its first word and how many it has."""
    return {
        i: (c.row, c.column, c.colspan, min(c.words), len(c.words))
        for c in reading.draft().cells
        for i in c.words
    }


class TestTrees(unittest.TestCase):
    def test_sums_are_those_of_walking_down_each_tree(self) -> None:
        with (Path(__file__).parent.parent / "src/wennak/tables/data/judge.npz").open("rb") as file:
            about, sums = read_sums(file)
        cases = np.random.default_rng(1).normal(1, 2, (20, len(about["features"])))
        for part, trees in zip(sums, load_trees("judge.npz", about["features"]), strict=True):
            expected = []
            for case in cases:
                total = part["base"]
                for node in part["roots"]:
                    while part["left"][node] >= 0:
                        low = case[part["feature"][node]] <= part["threshold"][node]
                        node = part["left" if low else "right"][node]
                    total += part["value"][node]
                expected.append(total)
            np.testing.assert_allclose(trees.sums(cases), expected)
        with self.assertRaisesRegex(ValueError, "other features"):
            load_trees("judge.npz", ["rows"])
