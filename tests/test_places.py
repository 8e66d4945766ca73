"""Texts that look like tables, headings and captions and are none, and what is read before what."""

from __future__ import annotations

import unittest
from unittest import mock

import numpy as np

import wennak
from tests.support import pdf_of
from tests.test_layout import FONTS, WORDS, line, prose
from tests.test_readings import demo_layouts
from wennak.ink import PdfFile
from wennak.layout import PageLayout, lay_out
from wennak.tables.closing import lacks_column, lacks_row
from wennak.tables.judge import judge_of
from wennak.tables.lookalikes import lookalikes
from wennak.tables.places import around, find_places, in_columns, place_of
from wennak.tables.rows import rows_of
from wennak.tables.search import _begun
from wennak.tables.strip import Strip


def read(content: str) -> wennak.Document:
    return wennak.read(pdf_of(content, FONTS))


def kinds(document: wennak.Document) -> list[str]:
    return [type(block).__name__ for block in document.blocks]


def rule(x0: float, y0: float, x1: float, y1: float) -> str:
    return f"0.8 w {x0} {y0} m {x1} {y1} l S "


def sentence(k: int) -> str:
    return " ".join([f"At{k}", *WORDS[k % 3 : k % 3 + 10]]) + "."


def rows(x: tuple[float, ...], y: float, texts: list[tuple[str, ...]], pitch: float = 16) -> str:
    """Rows of cells that begin at the same places."""
    return "".join(
        line(left, y - pitch * k, text)
        for k, row in enumerate(texts)
        for left, text in zip(x, row, strict=True)
        if text
    )


class TestPrograms(unittest.TestCase):
    ROWS = (
        ("Call", "In use"),
        ("next_tide(port)", "first_high, second_high = next_tide('Oskay')"),
        ("berths_of(vessel)", "for berth in berths_of('Skua'): moor(berth,\nlines=4)"),
        ("fares_to(port)", "fares_to('Brannsey', zone=2)[0].pence + fee"),
        ("swell_at(buoy)", "max(swell_at(b) for b in buoys if b.sends(),\ndefault=0.0)"),
        ("lamp_of(light)", "lamp_of('Gray Head').is_lit or warn(keeper)"),
    )

    def test_names_and_calls_that_begin_small_are_no_prose_that_goes_on(self) -> None:
        for font, apart in (("F1", 14), ("F1", 22), ("F3", 18)):
            with self.subTest(font=font, apart=apart):
                content, y = prose(60, 760, 3, "before") + prose(60, 480, 3, "after"), 690 + apart
                for k, row in enumerate(self.ROWS):
                    y -= apart
                    for left, text in zip((60, 190), row, strict=True):
                        for n, said in enumerate(text.split("\n")):
                            said = said.replace("(", r"\(").replace(")", r"\)")
                            own = font if k else "F1"
                            content += f"BT /{own} 9 Tf {left} {y - 11 * n} Td ({said}) Tj ET "
                    y -= 11 * row[1].count("\n")
                (table,) = read(content).tables
                said = tuple(tuple(cell.text if cell else "" for cell in row) for row in table.grid())
                self.assertEqual(said, tuple((a, b.replace("\n", " ")) for a, b in self.ROWS))


class TestStretches(unittest.TestCase):
    def test_rows_between_weak_seams_are_a_place_where_nothing_parts_them(self) -> None:
        """What strong seams run through is no better a place for having strong seams at its ends."""
        content = rows((60, 200), 760, [(f"berth {k}", f"{k * 7} metres") for k in range(24)])
        with PdfFile(pdf_of(content, FONTS), "drawn") as pdf:
            layout = lay_out(pdf.page(1))
        seams = {2: 4.0, 5: 3.9, 8: 3.8, 11: 3.7, 15: 2.5, 19: 2.5}

        def strengths(layout: PageLayout, strip: Strip, first: int, last: int) -> np.ndarray:
            return np.array([seams.get(k, 0.0) for k in range(first, last - 1)])

        with mock.patch("wennak.tables.places.seam_strengths", strengths):
            places = list(find_places(layout, np.ones(len(layout.words), dtype=np.bool_), []))
        self.assertIn((16, 20), {(place.first, place.last) for place in places})

    def test_what_is_sought_beside_a_place_are_whole_texts(self) -> None:
        """Lines of prose above and below a narrow table do not end at its sides."""
        cells = [(f"Tern {k}", "Quay", f"{8 + k}:35") for k in range(4)]
        narrow = rows((360, 430, 490), 640, cells) + "".join(
            rule(350, 652 - 16 * k, 530, 652 - 16 * k) for k in range(5)
        )
        beside = rows((60, 180), 640, [(f"Gannet {k}", f"{k}.5") for k in range(4)])
        content = prose(60, 740, 7, "left") + beside + prose(320, 740, 7, "above") + narrow
        content += prose(60, 560, 9, "low") + prose(320, 560, 9, "below")
        with PdfFile(pdf_of(content, FONTS), "quay.pdf") as pdf:
            layout = lay_out(pdf.page(1))
        w, free = layout.words, np.ones(len(layout.words), dtype=np.bool_)
        texts = [
            {i for i in row.words if low - 1 < w.x0[i] < high}
            for row in rows_of(layout, np.arange(len(w)))
            for low, high in row.spans
        ]
        sought = 0
        for place in find_places(layout, free, []):
            for other in around(layout, place, free):
                own = set(other.index.tolist())
                if other.strip is not place.strip and place.box.x0 > 340:
                    sought += 1
                    self.assertEqual([text for text in texts if own & text not in (set(), text)], [])
        self.assertGreater(sought, 0)

    def test_once_a_wide_table_is_chosen_what_stands_in_columns_below_it_is_sought_in_these(self) -> None:
        """Three lines and a few rows beside them do not part the zone of the table."""
        wide = rows((60, 180, 250, 320, 390, 460, 520), 620, [("Quay", *"ABCDEF")] * 6, 18)
        few = rows(
            (330, 400, 440, 480), 490, [(f"Tern {k}", f"{k}7", f"{k}.5", f"{k + 6}.2") for k in range(4)]
        )
        content = wide + few + line(60, 490, "Sources", size=13, font="F2") + prose(60, 470, 2, "left")
        with PdfFile(pdf_of(content, FONTS), "quay.pdf") as pdf:
            layout = lay_out(pdf.page(1))
        w, free = layout.words, np.ones(len(layout.words), dtype=np.bool_)
        above, right = np.flatnonzero(w.y1 < 300), np.flatnonzero((w.y0 > 290) & (w.x0 > 329))
        table = place_of(layout, above, free, layout.box(above))
        held = [set(place.index.tolist()) for place in find_places(layout, free, [])]
        self.assertNotIn(set(right.tolist()), held)
        held = [set(place.index.tolist()) for place in in_columns(layout, [table], free)]
        self.assertIn(set(right.tolist()), held)
        # Text that was not free is in no place.
        free[right[:4]] = False
        for place in in_columns(layout, [table], free):
            self.assertTrue(free[place.index].all())

    def test_a_place_that_lacks_row_a_column_or_a_row_between_upright_rules_is_known(self) -> None:
        names = ("Skua", "Tern", "Gannet", "Petrel", "Fulmar")
        cells = [(name, f"{k}7", f"{k}.5") for k, name in enumerate(names)]
        content = rows((60, 240, 300), 620, cells) + prose(60, 480, 9, "below")
        for upright in ("", rule(230, 632, 230, 550)):
            with PdfFile(pdf_of(content + upright, FONTS), "quay.pdf") as pdf:
                layout = lay_out(pdf.page(1))
            w, high, free = layout.words, layout.height, np.ones(len(layout.words), dtype=np.bool_)
            table = np.flatnonzero(w.y1 < high - 550)
            for rest, column, row in (
                (table, False, False),
                (table[w.x0[table] < 290], True, False),
                (table[w.y1[table] < high - 566], False, bool(upright)),
                (table[w.y1[table] > high - 610], False, bool(upright)),
            ):
                place = place_of(layout, rest, free, layout.box(rest))
                self.assertEqual(lacks_column(layout, place), column, len(rest))
                self.assertEqual(lacks_row(layout, place), row, len(rest))

    def test_a_place_is_opened_where_it_was_found_whatever_ends_elsewhere(self) -> None:
        """The same words among the rows of a larger part of the page have other rows above and below."""
        seen = 0
        for layout in demo_layouts():
            found = list(find_places(layout, np.ones(len(layout.words), dtype=np.bool_), []))
            opened = _begun(layout, found, judge_of(layout))
            known = {place.key: place for place in found}
            for key in opened.keys() & known.keys():
                self.assertIs(opened[key].place, known[key])
                seen += 1
        self.assertGreater(seen, 0)

    def test_the_rows_right_above_and_below_a_place_are_seen_beyond_the_end_of_its_zone(self) -> None:
        """A zone may end in the middle of a table, below columns of text."""
        names = ("Skua", "Tern", "Gannet", "Petrel", "Fulmar", "Puffin")
        cells = [(name, *(str(17 * k + 9 * c) for c in range(4))) for k, name in enumerate(names)]
        content = prose(60, 740, 9, "left") + prose(320, 740, 9, "right")
        content += rows((60, 190, 270, 330, 470), 612, cells)
        content += "".join(rule(60, 608 - 16 * k, 500, 608 - 16 * k) for k in range(5))
        content += prose(60, 500, 9, "low") + prose(320, 500, 9, "below")
        with PdfFile(pdf_of(content, FONTS), "quay.pdf") as pdf:
            layout = lay_out(pdf.page(1))
        w, em, ends = layout.words, layout.em, 0
        for place in find_places(layout, np.ones(len(w), dtype=np.bool_), []):
            box = place.box
            level = (w.x1 > box.x0) & (w.x0 < box.x1)
            above = level & (w.y1 < box.y0 + 0.3 * em) & (w.y0 > box.y0 - 2 * em)
            below = level & (w.y0 > box.y1 - 0.3 * em) & (w.y1 < box.y1 + 2 * em)
            for there, at in ((above, place.above), (below, place.below)):
                if there.any():
                    assert at is not None
                    strip, number = at
                    self.assertTrue(there[strip.rows[number].words].any())
                    ends += strip is not place.strip
        self.assertGreater(ends, 0)


class TestLists(unittest.TestCase):
    ITEMS = ("the counting of vessels", "the lamp of the light", "a boat for the sound", "rope")

    def listed(self, marks: tuple[str, ...], items: tuple[str, ...] = ITEMS) -> str:
        return rows((60, 90), 700, list(zip(marks, items, strict=False)))

    def test_counted_items_far_from_their_numbers_are_a_list(self) -> None:
        for marks in (("1.", "2.", "3.", "4."), ("1)", "2)", "3)", "4)"), ("1", "2", "3", "4")):
            with self.subTest(marks):
                text = prose(60, 760, 3, "before") + self.listed(marks) + prose(60, 600, 3, "after")
                document = read(text)
                self.assertNotIn("Table", kinds(document))
                (found,) = (b for b in document.blocks if isinstance(b, wennak.ListBlock))
                self.assertEqual([item.text for item in found.items], list(self.ITEMS))

    def test_a_list_in_a_cell_stays_in_it(self) -> None:
        x = (60, 110, 200, 390)
        for pitch, room, count in ((12, 8, 2), (12, 20, 3), (15.5, 8, 3), (15.5, 20, 2)):
            with self.subTest(pitch=pitch, room=room, count=count):
                content = prose(60, 760, 3, "before") + prose(60, 180, 3, "after")
                content += rows(x, 690, [("Vessel", "Tonnes", "Seen", "What is kept")])
                y = 668.0
                for k, vessel in enumerate(("Gannet", "Fulmar", "Petrel", "Dunlin", "Skua")):
                    content += rows(x[:3], y, [(vessel, f"{31 + k}.5", "no")])
                    for n, item in enumerate(self.ITEMS[:count], 1):
                        content += line(x[3], y, f"{n}. {item}" if k == 3 else f"- {item}")
                        y -= pitch
                    y -= room
                document = read(content)
                self.assertNotIn("ListBlock", kinds(document))
                (table,) = document.tables
                held = [c.text for c in table.cells if c.column == 3 and c.row]
                self.assertEqual([t.count(". ") for t in held], [0, 0, 0, count, 0])

    def test_a_column_of_marks_belongs_to_the_items_beside_it(self) -> None:
        x, items = (60, 200, 390, 420), ("the counting", "the lamp of the light", "a boat", "rope")
        for pitch, room, ruled in ((12, 8, False), (16, 0, False), (16, 0, True)):
            with self.subTest(pitch=pitch, ruled=ruled):
                content = prose(60, 760, 3, "before") + prose(60, 180, 3, "after")
                content += rows((60, 200, 390), 690, [("Vessel", "Tonnes", "What is kept")])
                y = 668.0
                for k, vessel in enumerate(("Gannet", "Fulmar", "Petrel", "Dunlin", "Skua")):
                    content += rule(56, y + 11, 540, y + 11) if ruled else ""
                    content += rows(x[:2], y, [(vessel, f"{31 + k}.5")])
                    for item in items[: 2 + k % 3]:
                        content += line(x[2], y, "\x95") + line(x[3], y, item)
                        y -= pitch
                    y -= room
                (table,) = read(content).tables
                self.assertEqual((table.rows, table.columns), (6, 3))
                held = [c.text for c in table.cells if c.column == 2 and c.row]
                self.assertEqual([t.count("•") for t in held], [2, 3, 4, 2, 3])
        # Marks under a label of their own say yes.
        content = rows((60, 200, 390, 450), 690, [("Vessel", "Tonnes", "Lit", "Keeper")])
        for k, vessel in enumerate(("Gannet", "Fulmar", "Petrel", "Dunlin", "Skua")):
            content += rows(
                (60, 200, 395, 450), 674 - 16 * k, [(vessel, f"{31 + k}.5", "\x95" * (k % 2), "Quill")]
            )
        (table,) = read(content).tables
        self.assertEqual(table.columns, 4)

    def test_items_of_two_lists_beside_each_other_stay_in_their_cells(self) -> None:
        """Their lines stand at heights of their own."""
        content, y = prose(60, 760, 3, "before") + prose(60, 160, 3, "after"), 660.0
        content += rows((60, 200, 390), 690, [("Vessel", "What is kept", "What is sold")])
        for k, vessel in enumerate(("Gannet", "Fulmar", "Petrel", "Dunlin", "Skua")):
            content += rule(56, y + 12, 540, y + 12) + line(60, y, vessel)
            for x, pitch, count in ((200, 19, 3), (390, 27, 2 + k % 2)):
                content += "".join(line(x, y - pitch * n, f"\x95 {self.ITEMS[n]}") for n in range(count))
            y -= 76
        (table,) = read(content + rule(56, y + 12, 540, y + 12)).tables
        held = [[c.text.count("•") for c in table.cells if c.column == column and c.row] for column in (1, 2)]
        self.assertEqual((table.rows, held), (6, [[3] * 5, [2, 3, 2, 3, 2]]))

    def test_items_may_run_over_several_lines(self) -> None:
        long = sentence(1)
        tops = [700 - 40 * k for k in range(3)]
        content = "".join(line(60, y, f"{k}.") for k, y in enumerate(tops, 1))
        content += "".join(line(90, y, long) + line(90, y - 12, "and so on.") for y in tops)
        self.assertNotIn("Table", kinds(read(content)))

    def test_a_head_or_rules_make_a_table_of_it(self) -> None:
        marks = ("1.", "2.", "3.", "4.")
        headed = rows((60, 90), 716, [("No.", "What is kept")]) + self.listed(marks)
        ruled = self.listed(marks)
        ruled += "".join(rule(56, 711 - 16 * k, 240, 711 - 16 * k) for k in range(5))
        ruled += "".join(rule(x, 711, x, 647) for x in (56, 84, 240))
        for content in (headed, ruled):
            self.assertIn("Table", kinds(read(content)))

    def test_numbers_beside_numbers_are_no_list(self) -> None:
        content = self.listed(("1", "2", "3", "4"), ("12.5", "13.75", "9.0", "101.2"))
        self.assertFalse([b for b in read(content).blocks if isinstance(b, wennak.ListBlock)])

    def test_a_list_in_a_cell_stays_there(self) -> None:
        texts = [
            ("Gate", "Kept by", "Tasks"), ("North", "A. Rask", "Opens at eight"),
            ("West", "B. Holm", "1. the lamp"), ("", "", "2. the boat"), ("", "", "3. the rope"),
            ("South", "C. Lund", "Closed"), ("East", "D. Vik", "Opens at nine"),
        ]  # fmt: skip
        content = rows((60, 160, 300), 700, texts)
        content += "".join(rule(56, y, 420, y) for y in (712, 695, 679, 631, 615, 598))
        content += "".join(rule(x, 712, x, 598) for x in (56, 156, 296, 420))
        (table,) = read(content).tables
        held = " ".join(cell.text for cell in table.cells)
        self.assertTrue(all(word in held for word in ("lamp", "boat", "rope")))


class TestAddresses(unittest.TestCase):
    LEFT = ("Office of Brannsey", "Quay Road 12", "40213 Oskay", "Phone 31 22 07")
    RIGHT = ("Ada Holm", "Light Lane 5", "40377 Tarnvoe", "Office 55 01 94")

    def content(self) -> str:
        return rows((60, 330), 700, list(zip(self.LEFT, self.RIGHT, strict=True)), 13)

    def test_two_addresses_side_by_side_are_two_texts(self) -> None:
        document = read(self.content() + prose(60, 600, 4, "after"))
        self.assertNotIn("Table", kinds(document))
        text = " ".join(document.texts())
        places = [text.index(word) for word in (*self.LEFT, *self.RIGHT)]
        self.assertEqual(places, sorted(places))

    def test_a_text_at_heights_of_its_own_is_read_as_a_whole(self) -> None:
        """As in the head of a letter; a label that its value runs beside stays before it."""
        for end in (False, True):
            x = [500 - 5 * len(said) if end else 420 for said in self.RIGHT[:3]]
            right = "".join(line(x[k], 741 - 13 * k, said) for k, said in enumerate(self.RIGHT[:3]))
            left = line(60, 732, "Invoice", 18) + line(60, 706, "No. 17") + line(60, 693, "Due in May")
            text = " ".join(" ".join(read(right + left + prose(60, 600, 6, "after")).texts()).split())
            self.assertIn(" ".join(self.RIGHT[:3]), text)
            self.assertIn("Invoice No. 17 Due in May", text)
        pairs = line(60, 700, "Address") + line(200, 700, "Light Lane 5") + line(200, 688, "40377 Tarnvoe")
        text = " ".join(read(pairs + prose(60, 600, 6, "after")).texts())
        self.assertIn("Address Light Lane 5 40377 Tarnvoe", text)

    def test_text_right_above_and_one_more_beside_them_are_no_part_of_a_table(self) -> None:
        """Many lines stand nearly as near as those of an address; one beside them goes on below."""
        near = "".join(line(60, 718 + 18 * k, f"{k + 2} Staffing of the pier") for k in range(5))
        near += line(60, 640, "The figure for the outer quay was 6.3 m, compared with 10.5 m at Holm.")
        labels = ("Owner", "Street of it", "Place of it", "Where to call")
        for more, held in (
            (("Deliver to:", "Mary Ann Arkle", "Sound Street 108", "17638 Sound", "Phone 7 44"), True),
            ((), True), (labels, False),
        ):  # fmt: skip
            beside = rows((440,), 700, [(said,) for said in more], 13)
            with PdfFile(pdf_of(self.content() + near + beside, FONTS), "quay.pdf") as pdf:
                layout = lay_out(pdf.page(1))
            found = {layout.words.texts[i] for i in np.flatnonzero(lookalikes(layout)).tolist()}
            said = {word for text in (*self.LEFT, *self.RIGHT) for word in text.split()}
            self.assertEqual(said <= found, held, more)
            self.assertFalse(found & {"Staffing", "figure", "labels"})

    def test_rules_around_them_make_cells(self) -> None:
        frame = "".join(rule(56, y, 540, y) for y in (714, 655)) + "".join(
            rule(x, 714, x, 655) for x in (56, 326, 540)
        )
        self.assertIn("Table", kinds(read(self.content() + frame)))


class TestContents(unittest.TestCase):
    TITLES = ("Vessels of the year", "Berths and charges", "The light", "Tides", "What is planned", "Names")

    def content(self, heading: str, pages: tuple[int, ...]) -> str:
        entries = [(title, str(page)) for title, page in zip(self.TITLES, pages, strict=True)]
        return line(60, 740, heading, 16) + rows((60, 500), 710, entries) + prose(60, 590, 4, "after")

    def test_pages_without_leaders_below_a_heading(self) -> None:
        for heading in ("Contents", "In this document"):
            # One page number stands out of order.
            for pages in ((3, 8, 12, 15, 21, 30), (3, 8, 12, 15, 14, 30)):
                with self.subTest(heading=heading, pages=pages):
                    document = read(self.content(heading, pages))
                    self.assertNotIn("Table", kinds(document))
                    (found,) = (b for b in document.blocks if isinstance(b, wennak.Contents))
                    self.assertEqual([e.text for e in found.entries], list(self.TITLES))
                    self.assertEqual([e.page for e in found.entries], [str(p) for p in pages])

    def test_numbers_behind_those_that_leaders_lead_to_make_rows_of_a_table(self) -> None:
        for more in ((), ("258", "25", "381", "406", "512", "17")):
            with self.subTest(more=more):
                entries = [
                    (title + " " + "." * (60 - len(title)), str(page), *more[k : k + 1], *more[k : k + 1])
                    for k, (title, page) in enumerate(zip(self.TITLES, (3, 8, 12, 15, 21, 30), strict=True))
                ]
                columns = (60, 300, 360, 420)[: len(entries[0])]
                found = kinds(read(rows(columns, 710, entries) + prose(60, 590, 4, "after")))
                self.assertEqual("Table" in found, bool(more))

    def test_numbers_that_leaders_lead_to_below_a_heading_are_pages_in_any_order(self) -> None:
        pages = (30, 8, 25, 3, 15, 5)
        led = tuple(f"{title} {'.' * (90 - len(title))}" for title in self.TITLES)
        entries = [(title, str(page)) for title, page in zip(led, pages, strict=True)]
        for heading in ("Table of contents", "Charges"):
            document = read(line(60, 740, heading, 16) + rows((60, 500), 710, entries))
            self.assertEqual("Table" in kinds(document), heading == "Charges")

    def test_few_numbers_after_leaders_among_other_values_are_no_pages(self) -> None:
        values = ("12.4 m", "8", "Hollinquay", "35", "9.5 kn", "1,402 t")
        entries = [
            (f"{title} {'.' * (60 - len(title))}", value)
            for title, value in zip(self.TITLES, values, strict=True)
        ]
        (table,) = read(rows((60, 300), 710, entries) + prose(60, 590, 4, "after")).tables
        self.assertEqual([c.text for c in table.cells if c.column == 1], list(values))

    def test_quantities_in_any_order_are_no_pages(self) -> None:
        document = read(self.content("Contents", (12, 2, 7, 1, 5, 2)))
        self.assertNotIn("Contents", kinds(document))


class TestHeadings(unittest.TestCase):
    def test_a_large_sentence_is_no_heading(self) -> None:
        small = "".join(line(60, 500 - 9 * k, sentence(k), 7) for k in range(20))
        document = read(line(60, 740, "A note on the sound", 18) + line(60, 600, sentence(2), 10) + small)
        headings = [b.text for b in document.blocks if isinstance(b, wennak.Heading)]
        self.assertEqual(headings, ["A note on the sound"])

    def test_labels_with_what_is_said_are_no_headings(self) -> None:
        said = ("Place: Oskay", "Subject: the old quay", "Valid until: 5 May 2031")
        lines = "".join(line(60, 700 - 20 * k, text, 10, "F2") for k, text in enumerate(said))
        document = read(line(60, 740, "A note", 18) + lines + prose(60, 600, 6, "after"))
        headings = [b.text for b in document.blocks if isinstance(b, wennak.Heading)]
        self.assertEqual(headings, ["A note"])
        self.assertTrue(all(text in " ".join(document.texts()) for text in said))

    def test_parts_with_numbers_stay_headings(self) -> None:
        lines = "".join(line(60, 700 - 20 * k, f"Part {k}: the quay", 10, "F2") for k in (1, 2))
        document = read(line(60, 740, "A note", 18) + lines + prose(60, 600, 6, "after"))
        self.assertEqual(kinds(document)[:3], ["Heading"] * 3)


class TestOrder(unittest.TestCase):
    def test_the_labels_of_a_drawing_come_as_they_are_drawn(self) -> None:
        up = [line(95, 500 + 30 * k, str(20 * k), 8) for k in range(5)]
        along = [line(130 + 50 * k, 485, name, 8) for k, name in enumerate(("Jan", "Feb", "Mar"))]
        axes = rule(120, 500, 120, 630) + rule(120, 500, 300, 500)
        bars = "".join(f"0.3 0.4 0.8 rg {130 + 50 * k} 500 24 {40 + 20 * k} re f 0 g " for k in range(3))
        mixed = [label for pair in zip(up, along, strict=False) for label in pair] + up[3:]
        for labels in ([*up, *along], mixed):
            parts = (prose(60, 760, 4, "before"), axes, bars, *labels, prose(60, 440, 4, "after"))
            (figure,) = (b for b in read("".join(parts)).blocks if isinstance(b, wennak.Figure))
            said = figure.text.replace(" Jan Feb Mar", "")
            self.assertEqual(said, "0 20 40 60 80")

    def test_text_goes_on_past_a_note_at_the_foot_of_its_column(self) -> None:
        left = "".join(line(60, 700 - 12 * k, " ".join(["run", *WORDS[1:9]])) for k in range(20))
        note = "".join(line(60, 448 - 9 * k, f"Note{k} " + " ".join(WORDS[:9]), 7) for k in range(3))
        right = "".join(line(330, 700 - 12 * k, " ".join(["on", *WORDS[1:9]])) for k in range(20))
        paragraphs = [b.text for b in read(left + note + right).blocks if isinstance(b, wennak.Paragraph)]
        (text,) = (p for p in paragraphs if p.startswith("run"))
        self.assertIn(" on keeper", text)
        self.assertNotIn("Note0", text)

    def test_what_begins_below_ended_columns_is_read_last(self) -> None:
        left, right = prose(60, 700, 10, "left"), prose(330, 700, 10, "right")
        cells = [("Item", "Tons")] + [(f"cargo{k}", f"{k}2.5") for k in range(9)]
        below = rows((60, 200), 540, cells)
        below += "".join(rule(56, y, 260, y) for y in (552, 536, 388))
        text = " ".join(read(left + right + below).texts())
        self.assertLess(text.index("right9"), text.index("Item"))

    def test_what_stands_right_of_later_text_is_read_first(self) -> None:
        cells = [(f"value{k}", f"{k}.5") for k in range(8)]
        right = rows((430, 500), 700, cells)
        later = "".join(line(60, 480 - 14 * k, sentence(k)[:60]) for k in range(8))
        across = line(60, 740, sentence(4), 14)
        text = " ".join(read(across + right + later).texts())
        self.assertLess(text.index("value7"), text.index("At0"))


class TestAroundTables(unittest.TestCase):
    """Once tables are known, the text around them is read in columns of its own."""

    def table(self, x: float, y: float, name: str, columns: int = 3, count: int = 6, wider: float = 0) -> str:
        cells = [(name, *("Tons", "Calls", "Rent")[: columns - 1])]
        cells += [(f"{name}{k}", *(f"{k}{c}.5" for c in range(columns - 1))) for k in range(count)]
        lefts = tuple(x + 70 * c for c in range(columns))
        ends = (12, -5, -16 * count - 6)
        return rows(lefts, y, cells) + "".join(
            rule(x - 4, y + dy, x + 70 * columns + wider, y + dy) for dy in ends
        )

    def assert_order(self, content: str, marks: list[str]) -> None:
        document = read(content)
        text = " ".join(document.texts())
        places = [text.index(mark) for mark in marks]
        self.assertEqual(places, sorted(places), marks)

    def test_short_columns_below_a_table_that_reaches_into_both(self) -> None:
        left = prose(60, 560, 8, "left")
        right = prose(330, 560, 5, "right") + line(330, 488, "What was found", 14, "F2")
        below = self.table(60, 430, "low", columns=4) + rule(270, 442, 560, 442)
        content = self.table(60, 720, "gate", columns=4) + left + right + below
        self.assert_order(content, ["gate5", "left0", "left7", "right0", "right4", "What was", "low0"])

    def test_tables_in_their_columns_do_not_part_these(self) -> None:
        left = (
            prose(60, 740, 4, "first") + self.table(60, 660, "gate", columns=2) + prose(60, 520, 4, "second")
        )
        right = prose(330, 740, 4, "third") + self.table(330, 660, "berth", columns=2)
        right += prose(330, 520, 4, "fourth")
        order = ["first0", "gate5", "second3", "third0", "berth5", "fourth3"]
        for parts in (left + right, right + left):
            self.assert_order(parts, order)

    def test_rows_of_tables_side_by_side_are_read_row_by_row(self) -> None:
        content, order = "", []
        for k, y in enumerate((700, 540, 380)):
            content += line(60, y + 30, f"Set {k}", 14, "F2")
            for x, name in ((60, f"left{k}x"), (330, f"right{k}x")):
                content += self.table(x, y, name, columns=2, count=5, wider=12 * k)
            order += [f"Set {k}", f"left{k}x0", f"left{k}x4", f"right{k}x0", f"right{k}x4"]
        self.assert_order(content, order)

    def test_level_parts_with_one_head_are_one_table_unless_their_labels_are_the_same(self) -> None:
        left, right = (self.table(x, 700, "gate", columns=2, count=8) for x in (60, 330))
        after = "".join(line(60, 500 - 12 * k, " ".join(WORDS + WORDS[:4])) for k in range(3))
        others = right
        for k in range(8):
            others = others.replace(f"(gate{k})", f"(pier{k})")
        for body, rows in ((others, [17]), (right, [9, 9]), (others.replace("gate", "quay"), [9, 9])):
            self.assertEqual([t.rows for t in read(left + body + after).tables], rows)

    def test_columns_beyond_the_sides_of_the_table_below_are_of_theirs(self) -> None:
        names = ("Gannet", "Fulmar", "Petrel", "Dunlin", "Skua", "Tern", "Eider")
        lefts = (60, 150, 200, 250, 300, 350, 400, 450)
        above = [("", *(f"{k}" for k in range(1, 8)))]
        above += [
            (f"{k} {n}", *(f"0.{(7 * k * c) % 90 + 10}" for c in range(1, 8))) for k, n in enumerate(names, 1)
        ]
        below = [
            ("Berth", "Jan", "Feb", "Mar"),
            *((n, *(f"{k}{c}.5" for c in range(3))) for k, n in enumerate(names)),
        ]
        shades = "".join(f"0.8 g 56 {520 - 16 * k} 224 12 re f " for k in range(8)) + "0 g "
        content = rows(lefts, 700, above) + shades + rows(lefts[:4], 523, below)
        tables = read(content).tables
        self.assertEqual([(t.rows, t.columns) for t in tables], [(8, 8), (8, 4)])

    def test_a_column_that_is_empty_in_a_tall_row_parts_no_texts(self) -> None:
        """Upright lines run along both sides of it, and on beyond the row."""
        content, y = rule(60, 720, 540, 720), 708.0
        wide = ("Gannet", "moored at the outer quay for the winter", "no boats")
        for cells in (("Place", "What was seen", "What is kept"), wide, wide, None, wide, wide):
            if cells:
                content += rows((66, 126, 400), y, [cells])
            else:
                content += rows(
                    (66,), y, [(word,) for word in ("Outer", "quay,", "north", "and", "south", "side")], 14
                )
                content += rows((400,), y - 5, [(" ".join(WORDS[k : k + 3]),) for k in range(7)], 11.5)
            y -= 14 if cells else 84
            content += rule(60, y + 10, 540, y + 10)
            y -= 4
        content += "".join(rule(x, y + 14, x, 720) for x in (120, 394))
        with PdfFile(pdf_of(prose(60, 770, 3, "before") + content, FONTS), "quay.pdf") as pdf:
            layout = lay_out(pdf.page(1))
        (zone,) = layout.zones
        self.assertEqual(len(zone.members), len(layout.words))

    def test_what_begins_below_both_tables_is_read_after_both(self) -> None:
        items = "".join(line(60, 440 - 14 * k, f"{k + 1}. item{k} of the day") for k in range(4))
        content = self.table(60, 700, "gate", count=3) + self.table(330, 700, "berth", count=14) + items
        content += line(305, 40, "7")
        self.assert_order(content, ["gate2", "berth13", "item0", "item3"])


class TestCaptions(unittest.TestCase):
    CELLS = (
        ("Gate", "Tons", "Calls"),
        ("North", "12.5", "31"),
        ("West", "9.25", "28"),
        ("South", "7.0", "4"),
    )

    def table(self, y: float) -> str:
        return rows((60, 200, 300), y, list(self.CELLS)) + "".join(
            rule(56, y + dy, 350, y + dy) for dy in (12, -5, -54)
        )

    def test_text_below_a_caption_is_not_of_it(self) -> None:
        content = prose(60, 760, 4, "before") + self.table(680)
        content += line(60, 612, "Table 1: Cargo by gate", 10, "F2") + line(60, 599, sentence(3))
        (table,) = read(content).tables
        self.assertEqual(table.caption, "Table 1: Cargo by gate")

    def test_schedules_and_lists_with_a_number_name_tables(self) -> None:
        for word in ("Schedule 2:", "List 4."):
            content = prose(60, 760, 4, "before") + line(60, 700, f"{word} Cargo by gate") + self.table(680)
            (table,) = read(content).tables
            self.assertEqual(table.caption, f"{word} Cargo by gate")

    def test_a_name_with_a_number_may_stand_far_above(self) -> None:
        for far, found in ((732, True), (760, False)):
            (table,) = read(line(60, far, "Table 4: Cargo by gate") + self.table(680)).tables
            self.assertEqual(table.caption, "Table 4: Cargo by gate" if found else "")

    def test_a_line_in_italics_right_below_is_a_title_but_no_sentence_and_one_upright_is_text(self) -> None:
        sentence = "See also what the office says of its cranes."
        for said, font, named in (
            ("Cargo by gate", "F4", True),
            ("Cargo by gate", "F1", False),
            (sentence, "F4", False),
        ):
            content = self.table(680) + line(60, 612, said, 9, font) + prose(60, 570, 4, "after")
            fonts = FONTS | {"F4": FONTS["F1"] | {"BaseFont": "/Helvetica-Oblique"}}
            document = wennak.read(pdf_of(content, fonts))
            self.assertEqual(document.tables[0].caption, said if named else "")
            kinds = [block.kind for block in document.blocks]
            self.assertEqual(kinds[0], "table")
            self.assertIn(said, " ".join(document.texts()))

    def test_small_lines_right_above_are_a_title_but_not_at_the_head_of_the_page(self) -> None:
        text = prose(60, 480, 6, "after")
        above = line(60, 628, " ".join(["Cargo", *WORDS[:11]]) + ".", 8) + line(60, 618, "In tons.", 8)
        (table,) = read(prose(60, 700, 4, "before") + above + self.table(590) + text).tables
        self.assertEqual(table.caption, " ".join(["Cargo", *WORDS[:11]]) + ". In tons.")
        head = line(60, 760, "Report of the sound", 8) + self.table(735) + text
        (table,) = read(head).tables
        self.assertEqual(table.caption, "")

    def test_marks_code_and_the_end_of_a_text_are_no_titles(self) -> None:
        for said, font in (("* by hand", "F1"), ("lamp = 4 + 3", "F3"), ("of the year before", "F1")):
            content = prose(60, 700, 4, "before") + line(60, 606, said, 8, font)
            (table,) = read(content + self.table(590) + prose(60, 480, 6, "after")).tables
            self.assertEqual(table.caption, "")

    def test_a_title_tight_above_its_table_is_none_of_its_rows(self) -> None:
        fonts = FONTS | {"F4": FONTS["F1"] | {"BaseFont": "/Helvetica-Oblique"}}
        rules = "".join(rule(56, 590 + dy, 350, 590 + dy) for dy in (-5, -54))
        for said, x, font, caption in (
            ("Table 7: Cargo by gate", 60, "F1", True),
            ("Cargo by gate", 60, "F4", True),
            ("Cargo by gate", 294, "F4", True),
            (sentence(2)[:60] + ".", 60, "F1", False),
        ):
            content = (
                prose(60, 700, 4, "before")
                + line(x, 603, said, 9 if caption else 10, font)
                + prose(60, 480, 6, "after")
            )
            document = wennak.read(
                pdf_of(content + rows((60, 200, 300), 590, list(self.CELLS)) + rules, fonts)
            )
            (table,) = document.tables
            self.assertEqual([c.text for c in table.grid()[0] if c], list(self.CELLS[0]))
            self.assertEqual(table.caption, said if caption else "")
            self.assertIn(said, " ".join(document.texts()))

    def test_a_title_in_italics_may_end_where_its_table_does(self) -> None:
        fonts = FONTS | {"F4": FONTS["F1"] | {"BaseFont": "/Helvetica-BoldOblique"}}
        cells = [["Gate", "Type", "State"], ["North quay", "works", "n.a."]]
        rules = "".join(rule(56, y, 350, y) for y in (602, 572)) + "".join(
            rule(x, 602, x, 572) for x in (190, 290)
        )
        title = line(286, 606, "Cargo by gate, t", 9, "F4")
        content = prose(60, 760, 4, "before") + title + rows((60, 200, 300), 590, cells) + rules
        (table,) = wennak.read(pdf_of(content + prose(60, 480, 6, "after"), fonts)).tables
        self.assertEqual([[c.text for c in row if c] for row in table.grid()], cells)
        self.assertEqual(table.caption, "Cargo by gate, t")

    def test_names_side_by_side_belong_to_their_own_tables(self) -> None:
        def half(x: float, y: float) -> str:
            ruled = "".join(rule(x - 4, y + dy, x + 190, y + dy) for dy in (12, -5, -54))
            return rows((x, x + 80, x + 140), y, list(self.CELLS)) + ruled

        names = [line(60, 700, "Table 1: Cargo by gate"), line(320, 700, "Table 2: Cargo by berth")]
        found = read("".join(names) + half(60, 680) + half(320, 676)).tables
        self.assertEqual([t.caption for t in found], ["Table 1: Cargo by gate", "Table 2: Cargo by berth"])


class TestLabelsOfSeveralRows(unittest.TestCase):
    def test_rules_that_leave_them_out_do_not_cut_them_off(self) -> None:
        texts = [
            ("Gate", "Berth", "Tons", "Calls"), ("North", "A1", "12.5", "31"), ("", "A2", "9.25", "28"),
            ("", "A3", "4.75", "17"), ("West", "B1", "7.0", "4"), ("", "B2", "8.5", "12"),
            ("South", "C1", "3.25", "9"), ("", "C2", "1.5", "6"),
        ]  # fmt: skip
        content = rows((60, 160, 300, 400), 700, texts)
        content += "".join(rule(56, y, 460, y) for y in (712, 695, 647, 615, 583))
        content += "".join(rule(156, y, 460, y) for y in (679, 663, 631, 599))
        (table,) = read(content).tables
        self.assertEqual(table.columns, 4)
        self.assertTrue({"North", "West", "South"} <= {cell.text for cell in table.cells})
