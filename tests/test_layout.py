"""Reading order and roles: what a reader would say the page holds, in the order they would read it."""

from __future__ import annotations

import unittest

import wennak
from tests.support import pdf_of

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


def read(content: str) -> wennak.Document:
    return wennak.read(pdf_of(content, FONTS))


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

    def test_sideways_words_are_kept(self) -> None:
        content = prose(100, 650, 6, "body") + "BT /F1 10 Tf 0 1 -1 0 40 400 Tm (margin note) Tj ET"
        self.assertIn("margin note", list(read(content).texts()))


class TestRoles(unittest.TestCase):
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

    def test_running_heads_and_page_numbers_stay_out_of_the_text(self) -> None:
        import io

        import pikepdf

        pdf = pikepdf.new()
        for n in range(1, 5):
            content = (
                line(60, 770, "Harbour book of the sound")
                + line(300, 30, f"- {n} -")
                + prose(60, 700, 8, f"page{n}x")
            )
            with pikepdf.open(io.BytesIO(pdf_of(content, FONTS))) as one:
                pdf.pages.extend(one.pages)
        out = io.BytesIO()
        pdf.save(out)
        document = wennak.read(out.getvalue())
        self.assertNotIn("Harbour book", document.markdown())
        self.assertEqual([f.place.page for f in document.furniture if "Harbour" in f.text], [1, 2, 3, 4])
        self.assertEqual(
            [f.text for f in document.furniture if f.text.startswith("-")], [f"- {n} -" for n in range(1, 5)]
        )
