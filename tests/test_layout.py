"""Reading order and roles: what a reader would say the page holds, in the order they would read it."""

from __future__ import annotations

import io
import unittest

import numpy as np
import pikepdf
from reportlab.pdfbase.pdfmetrics import stringWidth
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components

import wennak
from tests.support import DEMO, joined, pdf_of
from tests.tagged import tagged_pages, tagged_pdf
from wennak.ink import connected
from wennak.layout.joining import join_lines

SAID = "the keeper of the light counts every vessel that passes the sound and writes its name into a book"
WORDS = SAID.split()


def line(x: float, y: float, text: str, size: float = 10, font: str = "F1") -> str:
    shown = text.replace("\\", r"\\").replace("(", r"\(").replace(")", r"\)")
    return f"BT /{font} {size} Tf {x:.2f} {y:.2f} Td ({shown}) Tj ET "


def prose(x: float, y: float, lines: int, first: str, size: float = 10) -> str:
    """A paragraph of some full lines and a short one, each line beginning with a word of its own."""
    out = ""
    for i in range(lines):
        words = WORDS[i % 5 : i % 5 + 8] if i < lines - 1 else ["at", "last."]
        out += line(x, y - 12 * i, " ".join([f"{first}{i}", *words]), size)
    return out


FONTS = {
    "F1": {"Subtype": "/Type1", "BaseFont": "/Helvetica", "Encoding": "/WinAnsiEncoding"},
    "F2": {"Subtype": "/Type1", "BaseFont": "/Helvetica-Bold", "Encoding": "/WinAnsiEncoding"},
    "F3": {"Subtype": "/Type1", "BaseFont": "/Courier", "Encoding": "/WinAnsiEncoding"},
}


def read(*pages: str) -> wennak.Document:
    return wennak.read(joined(pdf_of(content, FONTS) for content in pages))


class TestOrder(unittest.TestCase):
    def test_columns_are_read_one_after_the_other_whatever_the_stream_says(self) -> None:
        left, right = prose(60, 650, 20, "left"), prose(330, 644, 20, "right")
        title = line(60, 720, "A note on the sound", 18)
        foot = "".join(line(60, 380 - 12 * i, f"below{i} " + " ".join(WORDS)) for i in range(3))
        for parts in ((title, left, right, foot), (right, foot, left, title)):
            text = " ".join(read("".join(parts)).texts())
            marks = ["A note", "left0", "left10", "left19", "right0", "right10", "right19", "below0"]
            places = [text.index(m) for m in marks]
            self.assertEqual(places, sorted(places))

    def test_a_paragraph_goes_on_in_the_next_column(self) -> None:
        left = "".join(line(60, 650 - 12 * i, " ".join(["run", *WORDS[1:9]])) for i in range(20))
        right = line(330, 650, "on without a break " + " ".join(WORDS[1:5]) + ".") + prose(
            330, 620, 18, "then"
        )
        paragraphs = [b for b in read(left + right).blocks if b.kind == "paragraph"]
        self.assertIn("on without a break", paragraphs[0].text)
        self.assertEqual(
            len(paragraphs[0].places), 1 if len({p.page for p in paragraphs[0].places}) > 1 else 2
        )

    def test_a_table_beside_a_column_of_prose_is_read_after_it(self) -> None:
        # Below a line across both the page is empty but for its number; the table may have upright rules.
        foot = line(60, 470, "below " + " ".join([*WORDS, *WORDS[:6]]), 9) + line(60, 40, "1")
        cells = "".join(
            line(x, 648 - 14 * r, said, 8)
            for r in range(11)
            for x, said in ((335, f"Berth {r}"), (420, f"{41 + 17 * r}"), (480, f"{r}.5"))
        )
        frame = "".join(f"{x} 500 m {x} 660 l S " for x in (330, 410, 540))
        for rules in ("", frame):
            for left in (True, False):
                with self.subTest(ruled=bool(rules), prose_left=left):
                    shift = 0.0 if left else 270.0
                    moved = f"q 1 0 0 1 {-270.0 if not left else 0.0} 0 cm {cells}{rules} Q "
                    text = read(prose(60 + shift, 650, 14, "word", 9) + moved + foot)
                    (table,) = text.tables
                    self.assertEqual((table.rows, table.columns), (11, 3))
                    kinds = [block.kind for block in text.blocks]
                    wanted = ["paragraph", "table"] if left else ["table", "paragraph"]
                    self.assertEqual(kinds[:2], wanted)

    def test_sideways_words_are_kept(self) -> None:
        content = prose(100, 650, 6, "body") + "BT /F1 10 Tf 0 1 -1 0 40 400 Tm (margin note) Tj ET"
        self.assertIn("margin note", list(read(content).texts()))


class TestRoles(unittest.TestCase):
    def test_scripts_of_scripts_stay_in_their_line(self) -> None:
        first, after = "The swell grows as e", "of the wind in the sound and falls"
        x = 60 + stringWidth(first, "Helvetica", 10)
        for up in (1, -1):
            with self.subTest(up=up):
                said = (
                    line(60, 700, first)
                    + line(x, 700 + 3.6 * up, "ab", 7)
                    + line(x + 8, 700 + 6.5 * up, "c", 5)
                )
                document = read(said + line(x + 14, 700, after) + prose(60, 688, 4, "below"))
                self.assertEqual([b.kind for b in document.blocks], ["paragraph"])
                self.assertTrue(document.blocks[0].text.startswith(f"{first}abc {after} below0"))

    def test_a_sign_lowered_and_hardly_smaller_stays_with_its_letter(self) -> None:
        """Unless it touches nothing: smaller text that stands lower is in a line of its own."""
        for gap, size, said in ((0, 9, "CO2 in it"), (0, 9.5, "CO2 in it"), (4, 9, "CO in it")):
            width = stringWidth("CO", "Helvetica", 10)
            content = line(60, 700, "CO") + line(60 + width + gap, 695.5, "2", size)
            content += line(60 + width + gap + 8, 700, "in it") + prose(60, 640, 4, "below")
            self.assertTrue(read(content).blocks[0].text.startswith(said), gap)

    def test_headings_by_size_and_weight(self) -> None:
        content = line(60, 740, "Harbour book", 20) + prose(60, 700, 3, "a")
        content += line(60, 640, "Boats", 14) + prose(60, 615, 3, "b")
        content += line(60, 560, "Crews", 10, "F2") + prose(60, 540, 3, "c")
        content += line(60, 480, "Fares", 14) + prose(60, 455, 3, "d")
        heads = [(b.level, b.text) for b in read(content).blocks if b.kind == "heading"]
        self.assertEqual(heads, [(1, "Harbour book"), (2, "Boats"), (3, "Crews"), (2, "Fares")])

    def test_lists_by_mark_by_number_and_by_drawn_bullet(self) -> None:
        content = prose(60, 740, 2, "intro")
        for i, text in enumerate(("ropes of hemp", "oil for the lamp", "flour")):
            content += line(66, 700 - 14 * i, "\x95") + line(78, 700 - 14 * i, text)
            content += line(66, 600 - 14 * i, f"{i + 1}.") + line(80, 600 - 14 * i, f"{text} again")
            # A bullet drawn as a small square before the text.
            content += f"68 {502 - 14 * i} 3 3 re f " + line(78, 500 - 14 * i, f"{text} drawn")
        content += prose(60, 640, 2, "middle") + prose(60, 540, 2, "late") + prose(60, 440, 2, "end")
        lists = [b for b in read(content).blocks if b.kind == "list"]
        self.assertEqual([len(b.items) for b in lists], [3, 3, 3])
        self.assertEqual([i.label for i in lists[1].items], ["1.", "2.", "3."])
        self.assertEqual(lists[2].items[1].text, "oil for the lamp drawn")

    def test_items_that_are_larger_than_most_of_the_text_are_items(self) -> None:
        small = prose(60, 700, 6, "small", 7)
        for marks in (("•",) * 3, ("1.", "2.", "3.")):
            with self.subTest(marks[0]):
                items = [line(60, 600 - 13 * k, f"{m} Item {k}", 10) for k, m in enumerate(marks)]
                document = read(small + "".join(items).replace("•", "\x95"))
                (found,) = (block for block in document.blocks if block.kind == "list")
                self.assertEqual([item.text for item in found.items], ["Item 0", "Item 1", "Item 2"])
        # Numbered headings have text between them.
        heads = [
            line(60, 600 - 60 * k, f"{k + 1}. Part {k}", 10) + prose(60, 585 - 60 * k, 3, f"w{k}", 7)
            for k in (0, 1)
        ]
        document = read(small + "".join(heads))
        self.assertEqual([b.text for b in document.blocks if b.kind == "heading"], ["1. Part 0", "2. Part 1"])

    def test_code_keeps_lines_and_indentation(self) -> None:
        content = prose(60, 700, 3, "text") + line(60, 640, "if late:", 9, "F3")
        content += line(60 + 4 * 5.4, 629, "wait(pier)   # ring", 9, "F3") + prose(60, 590, 3, "more")
        (code,) = (b for b in read(content).blocks if b.kind == "code")
        self.assertEqual(code.text, "if late:\n    wait(pier)   # ring")

    def test_words_broken_at_line_ends_are_whole(self) -> None:
        content = (
            line(60, 700, "the harbour mas-")
            + line(60, 688, "ter keeps the 1990-")
            + line(60, 676, "1999 book of X-")
        )
        content += line(60, 664, "Ray plates")
        self.assertEqual(
            read(content).markdown().strip(), "the harbour master keeps the 1990-1999 book of X-Ray plates"
        )

    def test_lines_all_bold_within_a_paragraph_are_no_heading(self) -> None:
        bold = "this must be looked at before the light is lit".split()
        content = line(60, 700, "The keeper of the light knows that") + line(
            225, 700, " ".join(bold[:5]), 10, "F2"
        )
        content += line(60, 688, " ".join(bold[:9]) + " " + " ".join(bold[:3]), 10, "F2")
        content += line(60, 676, "every night", 10, "F2") + line(
            125, 676, "and again in the morning of each day."
        )
        (block,) = read(content).blocks
        self.assertEqual(block.kind, "paragraph")
        below = line(60, 700, "The keeper of the light knows of this.") + line(
            60, 688, " ".join(bold), 10, "F2"
        )
        self.assertGreater(len(read(below).blocks), 1)

    def test_no_blank_comes_into_ranges_and_addresses(self) -> None:
        for lines, said in (
            (("the tides of 1990\u2013", "1999"), "the tides of 1990\u20131999"),
            (("the tides \u2013", "all of them"), "the tides \u2013 all of them"),
            (("at https://skerra.example/", "tides/old.html"), "at https://skerra.example/tides/old.html"),
            (("at https://skerra.example/", "for all"), "at https://skerra.example/ for all"),
            (("north/", "tides.html"), "north/ tides.html"),
        ):
            with self.subTest(lines):
                self.assertEqual(join_lines(lines), said)

    def test_capitals_head_what_follows_and_authors_head_nothing(self) -> None:
        def page(below: str) -> wennak.Document:
            content = line(200, 740, "A note on the sound", 18) + line(190, 715, below, 12)
            for k, (text, x) in enumerate((("THE LIGHT AND ITS KEEPER", 230), ("WHAT HE SAW", 250))):
                content += line(x, 680 - 100 * k, text) + prose(60, 668 - 100 * k, 6, f"part{k}x")
            return read(content)

        for below, names in (
            ("Ragna Tveit1, Odd M. Lind2, and Kari Moe", True),
            ("On lights and keepers", False),
        ):
            with self.subTest(below):
                document = page(below)
                heads = [(b.text, b.level) for b in document.blocks if b.kind == "heading"]
                capitals = ["THE LIGHT AND ITS KEEPER", "WHAT HE SAW"]
                level = 2 if names else 3
                self.assertEqual([h for h in heads if h[0] in capitals], [(text, level) for text in capitals])
                self.assertEqual(below in [text for text, _ in heads], not names)
                self.assertIn(below.split()[0], document.markdown())

    def test_running_heads_and_page_numbers_stay_out_of_the_text(self) -> None:
        document = read(*(
            line(60, 770, "Harbour book of the sound")
            + line(300, 30, f"- {n} -")
            + prose(60, 700, 8, f"page{n}x")
            for n in range(1, 5)
        ))  # fmt: skip
        self.assertNotIn("Harbour book", document.markdown())
        self.assertEqual([f.place.page for f in document.running if "Harbour" in f.text], [1, 2, 3, 4])
        self.assertEqual(
            [f.text for f in document.running if f.text.startswith("-")], [f"- {n} -" for n in range(1, 5)]
        )

    def test_a_line_apart_is_text_where_that_of_other_pages_reaches(self) -> None:
        """What ends a paragraph at the top of a page, or stands at its foot; beyond the text it is a head."""
        for y, said, running in (
            (740, "and so it ended.", False),
            (770, "Notes of the keeper", True),
            (44, "* Counted from the pier.", False),
            (12, "Printed in Tornay", True),
        ):
            with self.subTest(y=y):
                full = [prose(60, 740, 59, first) for first in ("one", "two")]
                document = read(full[0], line(60, y, said) + prose(60, 690, 30, "three"), full[1])
                self.assertEqual([r.text for r in document.running], [said] * running)
                self.assertEqual(said in document.markdown().replace("\\", ""), not running)

    def test_a_sentence_at_the_end_of_the_only_page_is_text(self) -> None:
        for said, running in (("* Counted from the pier.", False), ("Harbour book", True)):
            document = read(prose(60, 700, 30, "body") + line(60, 60, said))
            self.assertEqual([r.text for r in document.running], [said] * running)

    def test_the_number_of_an_equation_at_the_head_of_a_page_is_none_of_the_page(self) -> None:
        shown = line(120, 740, "a = b + 4 c,") + line(520, 740, "(3)") + prose(60, 690, 20, "body")
        document = read(shown)
        self.assertEqual(document.running, [])
        self.assertIn("(3)", " ".join(document.texts()))

    def test_a_number_alone_below_all_else_is_that_of_the_page_wherever_that_ends(self) -> None:
        for said, y, running in (
            ("11", 250, True),
            ("xii", 250, True),
            ("11", 388, False),
            ("1.5", 250, False),
        ):
            content = "".join(prose(60, 700 - 60 * k, 4, f"part{k}") for k in range(6)) + line(301, y, said)
            document = read(content)
            self.assertEqual(said in [r.text for r in document.running], running, (said, y))
            self.assertEqual(said in " ".join(document.texts()).split(), not running)

    def test_the_number_of_a_page_whose_text_is_set_sideways(self) -> None:
        turned = "".join(
            f"BT /F1 10 Tf 0 1 -1 0 {150 + 14 * k} 120 Tm (set sideways {k} {SAID[:70]}) Tj ET "
            for k in range(20)
        )
        document = read(turned + line(303, 60, "5"))
        self.assertEqual([r.text for r in document.running], ["5"])
        self.assertIn("set sideways 19", " ".join(document.texts()))

    def test_a_heading_in_fixed_pitch_that_the_outline_names(self) -> None:
        content = (
            prose(60, 740, 3, "a") + line(60, 660, "wait(pier) and ring", 10, "F3") + prose(60, 620, 3, "b")
        )
        with pikepdf.open(io.BytesIO(pdf_of(content, FONTS))) as pdf:
            with pdf.open_outline() as outline:
                outline.root.append(pikepdf.OutlineItem("wait(pier) and ring", 0))
            out = io.BytesIO()
            pdf.save(out)
        heads = [b.text for b in wennak.read(out.getvalue()).blocks if b.kind == "heading"]
        self.assertEqual(heads, ["wait(pier) and ring"])

    def test_nested_lists_and_terms_of_depth(self) -> None:
        content = prose(60, 740, 2, "intro")
        for i, (x, label, text) in enumerate(
            [(60, "1.", "boats"), (80, "a)", "of the sound"), (80, "b)", "of the isles"), (60, "2.", "crews")]
        ):
            content += line(x, 700 - 14 * i, label) + line(x + 16, 700 - 14 * i, text)
        (found,) = (b for b in read(content).blocks if b.kind == "list")
        self.assertEqual([i.depth for i in found.items], [0, 1, 1, 0])
        page = wennak.Document("x", blocks=[found]).html()
        self.assertEqual(page.count("<ol"), 2)

    def test_contents_pages_are_no_tables(self) -> None:
        titles = [
            ("Boats", 3),
            ("Boats of the isles", 5),
            ("Crews", 9),
            ("Fares and freight", 12),
            ("Index", 40),
        ]
        content = line(60, 740, "Contents", 16)
        for i, (title, number) in enumerate(titles):
            y = 700 - 14 * i
            dots = "." * int((420 - 6 * len(title)) / 3)
            content += line(60, y, title) + line(68 + 6 * len(title), y, dots) + line(500, y, str(number))
        document = read(content)
        (found,) = (b for b in document.blocks if b.kind == "contents")
        self.assertEqual([(e.text, e.page) for e in found.entries], [(t, str(n)) for t, n in titles])
        self.assertEqual(document.tables, [])

    def test_contents_fill_their_pages_and_lists_of_figures_follow_them(self) -> None:
        """The first and the last entry of a page stand where its number might; each list begins anew."""

        def entries(kind: str, count: int, top: float) -> str:
            out = ""
            for k in range(count):
                title, y = f"{kind} of pier {k}", top - 14 * k
                dots = "." * int((420 - 6 * len(title)) / 3)
                out += line(60, y, title) + line(68 + 6 * len(title), y, dots) + line(500, y, str(7 + 5 * k))
            return out

        first = line(60, 740, "Contents", 16) + entries("Repair", 50, 712)
        second = entries("Survey", 6, 766) + line(60, 650, "List of figures", 16) + entries("View", 40, 572)
        document = read(first, second)
        found = [(e.text, e.page) for b in document.blocks if b.kind == "contents" for e in b.entries]
        wanted = (("Repair", 50), ("Survey", 6), ("View", 40))
        self.assertEqual(
            found, [(f"{kind} of pier {k}", str(7 + 5 * k)) for kind, n in wanted for k in range(n)]
        )
        self.assertEqual((document.tables, document.running), ([], []))

    def test_a_title_that_fills_its_line_of_the_contents_is_an_entry(self) -> None:
        long = "What the keepers of the light wrote down in the years of the herring"
        titles = [("Boats", 3), ("Crews", 9), (long, 12), ("Fares", 31), ("Freight", 40), (long, 41)]
        content = line(60, 740, "Contents", 16)
        edge = 60 + stringWidth(long, "Helvetica", 10)
        for i, (title, number) in enumerate([*titles, ("Index", 64)]):
            y, width = 700 - 14 * i, stringWidth(title, "Helvetica", 10)
            dots = "." * int((edge - 66 - width) / 2.78)
            content += line(60, y, title) + line(64 + width, y, dots)
            content += line(edge + 15 - stringWidth(str(number), "Helvetica", 10), y, str(number))
        document = read(content)
        (found,) = (b for b in document.blocks if b.kind == "contents")
        wanted = [(t, str(n)) for t, n in [*titles, ("Index", 64)]]
        self.assertEqual([(e.text, e.page) for e in found.entries], wanted)
        self.assertEqual(document.tables, [])

    def test_an_index_in_two_columns_is_no_table(self) -> None:
        columns = [
            [("B", ""), ("Boats", "3, 4, 17"), ("Bread", "9"), ("C", ""), ("Crews", "9"), ("Cutters", "2-5")],
            [("F", ""), ("Fares", "12"), ("Freight", "3,/41,/45"), ("L", ""), ("Lights", "1, 2")],
        ]
        content = line(60, 740, "Index of words", 16)
        for x, entries in zip((60, 320), columns, strict=True):
            y = 714
            for title, pages in entries:
                y -= 14
                content += line(x, y, title, 10 if pages else 13, "F1" if pages else "F2")
                if pages:
                    width = 5.3 * len(title)
                    first, *further = pages.split("/")
                    dots = "." * int((200 - width - 5 * len(first)) / 2.78)
                    content += line(x + width + 3, y, dots) + line(x + 215 - 5 * len(first), y, first)
                    for more in further:
                        y -= 14
                        content += line(x + 215 - 5 * len(more), y, more)
        document = read(content)
        (found,) = (b for b in document.blocks if b.kind == "contents")
        wanted = [(title, pages.replace("/", " ")) for c in columns for title, pages in c]
        self.assertEqual([(e.text, e.page) for e in found.entries], wanted)
        self.assertEqual([e.depth for e in found.entries], [0, 1, 1, 0, 1, 1, 0, 1, 1, 0, 1])
        self.assertEqual(document.tables, [])
        self.assertIn("- B\n  - Boats 3, 4, 17\n", document.markdown())
        self.assertIn('<p style="margin-left: 0rem">B</p>', document.html())

    def test_what_a_leader_runs_up_to_stays_with_its_label(self) -> None:
        content = line(60, 740, "Stores in the shed", 16)
        goods = [("Bolts", "120"), ("Canvas", "45"), ("Chain", "900"), ("Oil", "310"), ("Rope", "75")]
        for i, (name, weight) in enumerate(goods):
            y = 700 - 14 * i
            dots = "." * int((420 - 6 * len(name)) / 2.78)
            content += line(60, y, name) + line(66 + 6 * len(name), y, dots) + line(500, y, weight)
        text = read(content).markdown()
        for name, weight in goods:
            self.assertRegex(text, rf"(?m)^(\| )?{name}( \|)? {weight}( \|)?$")

    def test_a_hyphen_stays_where_the_document_has_the_compound(self) -> None:
        content = line(60, 700, "a well-kept book and the har-") + line(60, 688, "bour, a well-")
        content += line(60, 676, "kept pier")
        self.assertEqual(
            read(content).markdown().strip(), "a well-kept book and the harbour, a well-kept pier"
        )


class TestResearchNote(unittest.TestCase):
    """The research note of the demo has nearly every kind of block."""

    def setUp(self) -> None:
        self.document = wennak.read(DEMO / "swell-note.pdf")

    def test_blocks_come_in_order_with_their_roles(self) -> None:
        kinds = [b.kind for b in self.document.blocks]
        self.assertEqual(
            kinds,
            ["heading", "heading", "paragraph", "heading", "paragraph", "paragraph", "paragraph", "table",
             "heading", "paragraph", "formula", "paragraph", "code", "paragraph", "figure", "heading", "list",
             "footnote", "footnote"],
        )  # fmt: skip
        self.assertEqual([b.level for b in self.document.blocks if b.kind == "heading"], [1, 2, 2, 2, 2])
        self.assertEqual([b.quoted for b in self.document.blocks if b.kind == "paragraph"].index(True), 2)
        formula = next(b for b in self.document.blocks if b.kind == "formula")
        self.assertEqual((formula.text, formula.label), ("H = 0.0163 u √F", "(1)"))
        self.assertEqual(formula.tex, r"H=0.0163u\sqrt{F}")

    def test_figures_have_captions_and_notes_their_marks(self) -> None:
        (figure,) = (b for b in self.document.blocks if b.kind == "figure")
        self.assertTrue(figure.caption.startswith("Figure 1: Measured"))
        self.assertIn("wind, m/s", figure.text)
        notes = {b.id: b.label for b in self.document.blocks if b.kind == "footnote"}
        marks = [(b.text[m.start : m.end], m.target) for b in self.document.blocks if b.kind == "paragraph"
                 for m in b.marks if m.kind == "note"]  # fmt: skip
        self.assertEqual(marks, [(label, note) for note, label in notes.items()])
        for note in notes:
            self.assertIn(f'href="#{note}"', self.document.html())
            self.assertIn(f'id="{note}"', self.document.html())

    def test_fields_of_a_form(self) -> None:
        blocks = [b for b in wennak.read(DEMO / "engine-inspection.pdf").blocks if b.kind == "fields"]
        values = {f.label: f.value for f in blocks[0].fields}
        self.assertEqual((values["Running hours:"], values["Next inspection due:"]), ("12,408", ""))
        self.assertEqual([f.checked for f in blocks[1].fields], [True, True, False, True, False])

    def test_fields_over_lines_right_behind_their_labels(self) -> None:
        """Lines begin where their labels end, several may stand in a row; rows over lines without any label
        are those of a table.
        """
        said = (("Name:", "Ada Holm", 60, 200), ("Vessel:", "Tern", 60, 160), ("Signature:", "", 60, 200))
        content, wanted = "", {}
        for k, (label, value, x, length) in enumerate(said):
            y, low = 700 - 30 * k, x + stringWidth(label, "Helvetica", 10) + 3
            content += line(x, y, label) + (line(low + 1, y, value) if value else "")
            content += f"{low} {y - 3} m {low + length} {y - 3} l S "
            wanted[label] = value
        low = 330 + stringWidth("Date:", "Helvetica", 10) + 3
        content += (
            line(330, 640, "Date:") + line(low + 1, 640, "2 April") + f"{low} 637 m {low + 90} 637 l S "
        )
        # A line without a label, for a stamp.
        content += "500 637 m 560 637 l S "
        document = read(content + prose(60, 560, 5, "below"))
        found = [f for b in document.blocks if b.kind == "fields" for f in b.fields]
        self.assertEqual({f.label: f.value for f in found}, wanted | {"Date:": "2 April"})
        self.assertEqual(document.tables, [])

    def test_signs_for_boxes_in_one_line_have_a_label_each(self) -> None:
        names = pikepdf.Array([65, pikepdf.Name("/uni2610"), pikepdf.Name("/uni2612")])
        boxes = {
            "Subtype": "/Type1",
            "BaseFont": "/Helvetica",
            "Encoding": pikepdf.Dictionary(Differences=names),
        }
        content, x = "", 60.0
        for sign, label in zip("BAB", ("electricity", "water", "waste"), strict=True):
            content += line(x, 700, sign, 10, "F9") + line(x + 12, 700, label)
            x += 20 + stringWidth(label, "Helvetica", 10)
        document = wennak.read(pdf_of(content + prose(60, 640, 5, "below"), FONTS | {"F9": boxes}))
        (form,) = (b for b in document.blocks if b.kind == "fields")
        self.assertEqual(
            [(f.label, f.checked) for f in form.fields],
            [("electricity", True), ("water", False), ("waste", True)],
        )

    def test_letters_in_frames_are_no_check_boxes_and_nothing_is_said_twice(self) -> None:
        words = "press the key k and then the key m to raise the flag of the harbour".split()
        content, x = "", 60.0
        for word in words:
            width = 5.2 * len(word) + (4 if len(word) > 1 else 2)
            content += line(x, 700, word)
            if len(word) == 1:
                content += f"{x - 2:.1f} 697.5 10 10 re S "
                width += 4
            x += width
        document = read(content + prose(60, 660, 5, "below"))
        self.assertNotIn("fields", [b.kind for b in document.blocks])
        self.assertEqual(sorted(" ".join(document.texts()).split()[: len(words)]), sorted(words))

    def test_square_cells_of_a_narrow_column_are_no_check_boxes(self) -> None:
        """Between two lists side by side in one grid stands a column as wide as its rows are high."""
        rows = ("Berth", "Boats"), ("Oskay", "14"), ("Tornay", "9"), ("Hild", "21"), ("Vark", "3")
        lefts = (60, 130, 180, 192, 262, 312)
        content = ""
        for r, (name, count) in enumerate(rows):
            y = 700 - 12 * r
            content += "".join(
                line(x + 3, y + 3, t) for x, t in zip(lefts[:-1], (name, count, "", name, count), strict=True)
            )
            content += "".join(f"{x} {y} m {x} {y + 12} l S " for x in lefts)
            content += f"{lefts[0]} {y} m {lefts[-1]} {y} l S "
        document = read(content + f"{lefts[0]} 712 m {lefts[-1]} 712 l S " + prose(60, 600, 5, "below"))
        self.assertEqual([b.kind for b in document.blocks], ["table", "paragraph"])
        (table,) = document.tables
        self.assertEqual(
            [[c.text for c in row if c and c.text] for row in table.grid()], [[*row, *row] for row in rows]
        )


class TestTags(unittest.TestCase):
    PIECES = (
        (300, 600, "second column"), (60, 700, "Harbour book"), (60, 600, "first column"),
        (60, 560, "ropes"), (60, 540, "oil"), (60, 500, "Pier"), (120, 500, "Boats"), (60, 480, "Oskay"),
        (120, 480, "4"),
    )  # fmt: skip
    TREE = (
        ("Document",
         ("H1", 1), ("P", 2), ("P", 0), ("L", ("LI", ("LBody", 3)), ("LI", ("LBody", 4))),
         ("Table", ("TR", ("TH", 5), ("TH", 6)), ("TR", ("TD", 7), ("TD", 8)))),
    )  # fmt: skip

    def test_roles_order_and_tables_come_from_trusted_tags(self) -> None:
        document = wennak.read(tagged_pdf(self.PIECES, self.TREE))
        self.assertEqual(
            [b.kind for b in document.blocks], ["heading", "paragraph", "paragraph", "list", "table"]
        )
        self.assertEqual(document.blocks[1].text, "first column")
        self.assertEqual([i.text for i in document.blocks[3].items], ["ropes", "oil"])
        self.assertEqual(document.tables[0].method, "tagged")
        self.assertEqual(document.tables[0].frame().to_dict("list"), {"Pier": ["Oskay"], "Boats": ["4"]})

    def test_tags_in_the_wrong_order_or_with_holes_are_not_used(self) -> None:
        flow = [(60, 700 - 20 * i, f"line {i} of the book") for i in range(8)]
        backwards = (("Document", *[("H1", k) for k in range(7, -1, -1)]),)
        holes = (("Document", *[("P", k) for k in range(0, 8, 2)]),)
        for tree in (backwards, holes):
            document = wennak.read(tagged_pdf(flow, tree))
            self.assertEqual([f.code for f in document.findings], ["tags-not-used"])
            words = " ".join(document.texts()).split()
            self.assertEqual([w for w in words if w.isdigit()], [str(i) for i in range(8)])

    def test_a_row_over_two_pages_is_one_and_a_head_that_stands_alone_is_no_such_row(self) -> None:
        """One cell on two pages says its text once where it is the head again, else in two parts."""
        head = ("Pier", "Summer", "Winter")
        first, rows = (
            [(60 + 80 * k, 60, said) for k, said in enumerate(head)],
            (("Oskay", "4", "2"), ("Nor", "8", "1")),
        )
        for again in (head, ("of the north", "days", "days")):
            second = [
                (60 + 80 * k, 720 - 20 * r, said)
                for r, row in enumerate((again, *rows))
                for k, said in enumerate(row)
            ]
            body = [("TR", *(("TD", 6 + 3 * r + k) for k in range(3))) for r in range(2)]
            tree = (("Table", ("TR", *(("TH", k, 3 + k) for k in range(3))), *body),)
            (table,) = wennak.read(tagged_pages([first, second], tree)).tables
            heads = [c.text for c in table.cells if c.row == 0]
            with self.subTest(again):
                self.assertEqual(table.rows, 3)
                joined_texts = [f"{a} {b}" for a, b in zip(head, again, strict=True)]
                self.assertEqual(heads, list(head) if again is head else joined_texts)

    def test_where_each_row_lacks_a_cell_the_ink_tells_the_columns(self) -> None:
        lefts = {"": 60, "Pier": 60, "Place": 140, "Light": 220, "Crane": 300}
        rows = (
            {"Place": "Place", "Light": "Light", "Crane": "Crane"},
            {"Pier": "Oskay", "Place": "Holm", "Crane": "in repair"},
            {"Pier": "Fenholm", "Place": "Nor"},
            {"Pier": "Tarnvoe", "Place": "Sund", "Light": "by night"},
            {"Pier": "Quilby", "Place": "Aust", "Crane": "in repair"},
        )
        pieces, tree = [], []
        for r, row in enumerate(rows):
            numbers = range(len(pieces), len(pieces) + len(row))
            pieces += [(lefts[column], 700 - 16 * r, said) for column, said in row.items()]
            tree.append(("TR", *(("TD" if r else "TH", k) for k in numbers)))
        (table,) = wennak.read(tagged_pdf(pieces, [("Table", *tree)])).tables
        found = [[cell.text if cell else "" for cell in row] for row in table.grid()]
        self.assertEqual(found, [[row.get(name, "") for name in list(lefts)[1:]] for row in rows])

    def test_an_empty_cell_that_is_not_tagged_shifts_no_value(self) -> None:
        pieces = [(60 + 80 * k, 700, head) for k, head in enumerate(("Pier", "Summer", "Winter"))]
        pieces += [
            (60, 680, "Oskay"),
            (140, 680, "4"),
            (220, 680, "2"),
            (60, 660, "Tarnvoe"),
            (220, 660, "1"),
        ]
        cells = lambda role, first, last: ("TR", *((role, k) for k in range(first, last)))  # noqa: E731
        tree = (("Table", cells("TH", 0, 3), cells("TD", 3, 6), cells("TD", 6, 8)),)
        (table,) = wennak.read(tagged_pdf(pieces, tree)).tables
        self.assertEqual(table.method, "tagged")
        self.assertEqual(table.frame().iloc[1].tolist(), ["Tarnvoe", "", "1"])

    def test_a_cell_over_two_rows_after_one_that_is_not_tagged_shifts_no_value(self) -> None:
        rows = [
            ("Pier", "Tide", "Low", "High", "Unit"),
            ("Oskay", "spring", "", "13.7", "m"),
            ("", "neap", "12.1", "35.3", ""),
            ("Tarnvoe", "spring", "4.0", "9.5", "m"),
        ]
        pieces = [
            (60 + 80 * c, 700 - 20 * r, text)
            for r, row in enumerate(rows)
            for c, text in enumerate(row)
            if text
        ]
        # Of the second row the empty cell is not tagged; its first and last one reach over the third.
        tree = (
            ("Table",
             ("TR", *(("TH", k) for k in range(5))),
             ("TR", ("TD 2", 5), ("TD", 6), ("TD", 7), ("TD 2", 8)),
             ("TR", ("TD", 9), ("TD", 10), ("TD", 11)),
             ("TR", *(("TD", k) for k in range(12, 17)))),
        )  # fmt: skip
        (table,) = wennak.read(tagged_pdf(pieces, tree)).tables
        self.assertEqual(table.method, "tagged")
        texts = [[cell.text if cell else "" for cell in row] for row in table.grid()]
        self.assertEqual(texts[2], ["Oskay", "neap", "12.1", "35.3", "m"])
        self.assertEqual(len({id(cell) for row in table.grid() for cell in row if cell}), 17)

    def test_a_label_beside_an_empty_cell_that_is_not_tagged_stands_over_its_own_columns(self) -> None:
        # Where it is set over the middle of its columns, or from their left; numbers are set to the right.
        for x in (300, 130):
            head = [(x, 700, "Both tides")]
            body = [
                (end - 5.56 * len(said), 680 - 16 * r, said)
                for r in range(5)
                for end, said in zip((115, 260, 360, 460), (f"Pier {r}", "8", str(7 * r), "12"), strict=True)
            ]
            tree = [("TR", ("TH 1 3", 0))]
            tree += [("TR", *(("TD", 1 + 4 * r + c) for c in range(4))) for r in range(5)]
            (found,) = wennak.read(tagged_pdf([*head, *body], [("Table", *tree)])).tables
            label = next(c for c in found.cells if c.text == "Both tides")
            with self.subTest(x=x):
                self.assertEqual((found.method, found.columns), ("tagged", 4))
                self.assertEqual((label.row, label.column, label.colspan), (0, 1, 3))

    def test_a_rule_below_a_label_tells_its_columns_where_empty_cells_are_not_tagged(self) -> None:
        ends = (115, 260, 360, 460, 540)
        body = [
            (end - 5.56 * len(said), 680 - 16 * r, said)
            for r in range(5)
            for end, said in zip(ends, (f"Pier {r}", "8", str(7 * r), "12", "9"), strict=True)
        ]
        tree = [("TR", ("TH 1 3", 0))]
        tree += [("TR", *(("TD", 1 + 5 * r + c) for c in range(5))) for r in range(5)]
        for low, high, column in ((212, 465, 1), (312, 545, 2)):
            with self.subTest(column=column):
                pieces = [(low + 3, 700, "Both tides"), *body]
                rule = f"0.6 w {low} 696 m {high} 696 l S"
                (found,) = wennak.read(tagged_pdf(pieces, [("Table", *tree)], lines=rule)).tables
                label = next(c for c in found.cells if c.text == "Both tides")
                self.assertEqual((found.method, found.columns), ("tagged", 5))
                self.assertEqual((label.row, label.column, label.colspan), (0, column, 3))

    def test_where_ink_reads_a_tagged_table_otherwise_that_is_kept(self) -> None:
        rows = [
            ["Boat", "Crew", "Berth"],
            ["Selkie", "4", "north"],
            ["Tern", "3", "south"],
            ["Auk", "2", "mole"],
        ]
        pieces = [
            (60 + 120 * c, 700 - 16 * r, text) for r, row in enumerate(rows) for c, text in enumerate(row)
        ]
        apart = [("TR", *(("TD", 3 * r + c) for c in range(3))) for r in range(4)]
        # The tree makes one row of the last two.
        joined = [*apart[:2], ("TR", *(("TD", 6 + c, 9 + c) for c in range(3)))]
        for tree, others in ((apart, []), (joined, [("spaced", 4)])):
            (found,) = wennak.read(tagged_pdf(pieces, [("Table", *tree)])).tables
            self.assertEqual((found.method, found.rows), ("tagged", len(tree)))
            self.assertEqual([(t.method, t.rows) for t in found.alternatives], others)

    def test_a_tagged_table_that_is_not_laid_out_so_is_read_from_the_ink(self) -> None:
        swapped = (
            *self.TREE[0][:5],
            ("Table", ("TR", ("TH", 6), ("TH", 5)), ("TR", ("TD", 8), ("TD", 7))),
        )
        document = wennak.read(tagged_pdf(self.PIECES, (swapped,)))
        self.assertEqual([f.code for f in document.findings], ["tags-not-used"])
        self.assertNotIn("tagged", [t.method for t in document.tables])


class TestConnected(unittest.TestCase):
    def test_components_are_those_of_scipy(self) -> None:
        rng = np.random.default_rng(3)
        for k in range(300):
            count = int(rng.integers(1, 60))
            a, b = rng.integers(0, count, (2, int(rng.integers(0, 2 * count))))
            if k % 3 == 0:
                # A single chain through all of them.
                order = rng.permutation(count)
                a, b = order[:-1], order[1:]
            graph = coo_matrix((np.ones(len(a)), (a, b)), shape=(count, count))
            wanted = connected_components(graph, directed=False)[1]
            self.assertEqual(connected(a, b, count).tolist(), wanted.tolist())


if __name__ == "__main__":
    unittest.main()
