"""Displayed equations: what is set is what is read, and what is none stays what it is."""

from __future__ import annotations

import io
import random
import re
import sys
import unicodedata
import unittest
from pathlib import Path
from types import ModuleType
from typing import Any, ClassVar

import matplotlib
import pikepdf
from fontTools.misc import eexec
from fontTools.misc.psCharStrings import T1CharString
from fontTools.pens.boundsPen import ControlBoundsPen
from lxml import etree
from matplotlib.figure import Figure
from reportlab.pdfgen.canvas import Canvas

import wennak
from tests.support import InFolder, browser, pdf_of, run, script
from wennak.emit.json import from_json
from wennak.equations import (
    Accent,
    Fraction,
    Grid,
    Node,
    Radical,
    Row,
    Scripts,
    Symbol,
    linear,
    mathml,
    symbols_of,
    tex,
)
from wennak.ink.type1 import decrypted, procedures

DOCUMENTS = 30
X, Y, Z = (Symbol(c, "italic") for c in "xyz")
N, TWO, IS = Symbol("n", "italic"), Symbol("2"), Symbol("=")
PROSE = "The keeper of the lamp writes down the height of the water at every turn of the tide"


def tool(path: str) -> ModuleType:
    """A script of tools/, which may use others beside it."""
    folder = str(Path(__file__).parent.parent / "tools")
    sys.path.insert(0, folder)
    try:
        return script(path)
    finally:
        sys.path.remove(folder)


def formulas(data: bytes) -> list[wennak.Formula]:
    return [b for b in wennak.read(data).blocks if isinstance(b, wennak.Formula)]


class Page:
    """A page on which texts and equations are set; `y` is the baseline of the next line."""

    def __init__(self) -> None:
        self.boxes = tool("tools/equation_boxes.py")
        self.out = io.BytesIO()
        self.canvas = Canvas(self.out, pagesize=(595, 842), invariant=True)
        self.y = 770.0

    def prose(self, lines: int = 3, left: float = 70) -> Page:
        self.canvas.setFont("Times-Roman", 10)
        for _ in range(lines):
            self.canvas.drawString(left, self.y, PROSE)
            self.y -= 12
        return self

    def equation(self, node: Node, number: str = "", left: float = 220) -> Page:
        box = self.boxes.boxed(node, 10)
        self.y -= box.up + 6
        self.boxes.drawn(self.canvas, box, left, self.y)
        self.canvas.setFont("Times-Roman", 10)
        self.canvas.drawRightString(525, self.y + (box.up - box.down) / 2 - 3, number)
        self.y -= box.down + 18
        return self

    def data(self) -> bytes:
        self.canvas.save()
        return self.out.getvalue()


class TestRandomEquations(unittest.TestCase):
    """Texts with random equations, set by rules that the reader does not know."""

    measured: ClassVar[list[Any]]
    texts: ClassVar[list[tuple[str, list[Node]]]]

    @classmethod
    def setUpClass(cls) -> None:
        draw = tool("tools/draw_equations.py")
        cls.bench = script("benchmarks/equations.py")
        cls.texts = []
        for seed in range(DOCUMENTS):
            data, truth = draw.by_boxes(random.Random(f"test {seed}"))
            cls.texts.append((data, truth))

    def test_nearly_all_are_found_and_read_as_they_were_set(self) -> None:
        true = found = exact = others = 0
        for data, truth in self.texts:
            expected = [self.bench.tree_of(mathml(node)) for _, node in truth]
            got = [self.bench.tree_of(b.mathml) if b.mathml else None for b in formulas(data)]
            true, others = true + len(expected), others + max(0, len(got) - len(expected))
            found += min(len(got), len(expected))
            exact += sum(tree in expected for tree in got)
        self.assertGreater(true, 150)
        self.assertGreaterEqual(found, 0.98 * true)
        self.assertGreaterEqual(exact, 0.92 * true)
        self.assertLessEqual(others, 0.01 * true)

    def test_no_symbol_is_lost_or_added(self) -> None:
        for data, truth in self.texts[:10]:
            document = wennak.read(data)
            said = "".join(
                block.text if isinstance(block, wennak.Formula) else "" for block in document.blocks
            )
            said = unicodedata.normalize("NFD", said)
            set_ = "".join(s.text for _, node in truth for s in symbols_of(node))
            for c in set(set_) - set(" |"):
                self.assertEqual(said.count(c), set_.count(c), c)

    def test_what_is_written_is_well_formed(self) -> None:
        for data, _ in self.texts[:10]:
            document = wennak.read(data)
            html, markdown = document.html(), document.markdown()
            found = [b for b in document.blocks if isinstance(b, wennak.Formula) and b.mathml]
            self.assertEqual(html.count("<math "), len(found))
            self.assertEqual(markdown.count("$$\n"), 2 * len(found))
            for block in found:
                self.assertEqual(etree.fromstring(block.mathml).tag.split("}")[1], "math")
                bare = re.sub(r"\\[{}]", "", block.tex)
                self.assertEqual(bare.count("{"), bare.count("}"))
            self.assertEqual(from_json(document.json()), document)


class TestStructure(unittest.TestCase):
    """Each part by itself."""

    def read(self, node: Node, number: str = "") -> wennak.Formula:
        (formula,) = formulas(Page().prose().equation(node, number).prose().data())
        return formula

    def test_each_is_read_as_it_is_set(self) -> None:
        sum_ = Scripts(Symbol("∑"), Row((Symbol("i", "italic"), IS, Symbol("1"))), N, limits=True)
        nodes = {
            r"\frac{x}{y^{2}}": Fraction(X, Scripts(Y, None, TWO)),
            r"\frac{\frac{x}{y}}{z}": Fraction(Fraction(X, Y), Z),
            r"\sum_{i=1}^{n}x": Row((sum_, X)),
            r"\sqrt{x}": Radical(X),
            r"x_{n}^{2}": Scripts(X, N, TWO),
            r"x^{y^{2}}": Scripts(X, None, Scripts(Y, None, TWO)),
            r"x_{y_{2}}": Scripts(X, Scripts(Y, TWO)),
            r"\hat{x}": Accent(X, "^"),
            r"12.5\sin x": Row((Symbol("12.5"), Symbol("sin"), X)),
            r"\int_{n}^{2}\lambda": Row((Scripts(Symbol("∫"), N, TWO), Symbol("λ", "italic"))),
        }
        for written, node in nodes.items():
            with self.subTest(written):
                found = self.read(Row((Symbol("π", "italic"), Symbol("≤"), node)))
                self.assertEqual(
                    found.tex, rf"\pi\leq {written}" if written[0].isalpha() else rf"\pi\leq{written}"
                )

    def test_lines_of_a_system_are_one_formula_and_its_number_is_its_label(self) -> None:
        rows = ((X, Row((Symbol("≤"), Y))), (Row(), Row((Symbol("≤"), Z))))
        found = self.read(Grid(rows), "(7)")
        self.assertEqual(found.tex, r"\begin{aligned} x & \leq y \\  & \leq z \end{aligned}")
        self.assertEqual(found.label, "(7)")
        self.assertIn(r"\tag{7}", wennak.Document("d.pdf", blocks=[found]).markdown())

    def test_numbered_lines_below_each_other_are_one_formula_each(self) -> None:
        page = Page().prose()
        for k in (1, 2, 3):
            page.equation(Row((X, Symbol("≤"), Symbol(str(k)))), f"({k})")
            page.y += 6
        self.assertEqual([f.label for f in formulas(page.prose().data())], ["(1)", "(2)", "(3)"])

    def test_the_text_around_keeps_its_order(self) -> None:
        page = Page().prose().equation(Row((X, Symbol("≤"), Fraction(Y, Z)))).prose()
        kinds = [b.kind for b in wennak.read(page.data()).blocks]
        self.assertEqual(kinds, ["paragraph", "formula", "paragraph"])


class TestNone(unittest.TestCase):
    """What is no displayed equation."""

    def test_mathematics_in_a_line_of_text(self) -> None:
        page = Page()
        for _ in range(4):
            page.prose(2)
            x = 70.0
            for font, text in (
                ("Times-Roman", "where "),
                ("Times-Italic", "x"),
                ("Symbol", " ≤ "),
                ("Times-Italic", "y"),
                ("Times-Roman", " holds for every boat of the harbour."),
            ):
                page.canvas.setFont(font, 10)
                page.canvas.drawString(x, page.y, text)
                x += page.canvas.stringWidth(text, font, 10)
            page.y -= 12
        self.assertEqual(formulas(page.data()), [])

    def test_a_line_of_text_that_ends_with_it(self) -> None:
        page = Page().prose(3)
        for font, text, x in (("Times-Italic", "x", 70), ("Symbol", "≤", 78), ("Times-Italic", "y.", 88)):
            page.canvas.setFont(font, 10)
            page.canvas.drawString(x, page.y, text)
        page.y -= 12
        self.assertEqual(formulas(page.prose(3).data()), [])

    def test_columns_that_they_break_off_are_read_one_after_the_other(self) -> None:
        page = Page()
        page.canvas.setFont("Times-Roman", 10)
        right = 70 + page.canvas.stringWidth(f"left40 {PROSE[:42]}", "Times-Roman", 10) + 12
        for k in range(40):
            page.canvas.drawString(70, 770 - 12 * k, f"left{k} {PROSE[:42]}")
            if k % 6 < 3:
                page.canvas.drawString(right, 770 - 12 * k, f"right{k} {PROSE[:42]}")
        for k in range(6):
            page.y = 770 - 72 * k - 34
            page.equation(Row((X, Symbol("≤"), Fraction(Y, Z))), left=right + 60)
        data = page.data()
        self.assertEqual(len(formulas(data)), 6)
        text = " ".join(wennak.read(data).texts())
        places = [
            text.index(f"{side}{k} ") for side, count in (("left", 40), ("right", 39)) for k in (0, count - 1)
        ]
        self.assertEqual(places, sorted(places))

    def test_a_table_of_symbols(self) -> None:
        for rules in (True, False):
            with self.subTest(rules=rules):
                page = Page().prose()
                canvas, top = page.canvas, page.y - 10
                for r in range(5):
                    for c, (font, text) in enumerate(
                        (("Symbol", "αβγδε"[r]), ("Symbol", "≤" if r % 2 else "≥"), ("Times-Roman", f"{r}.5"))
                    ):
                        canvas.setFont(font, 10)
                        canvas.drawString(150 + 90 * c, top - 10 - 14 * r, text)
                if rules:
                    for y in (top + 2, top - 13, top - 72):
                        canvas.line(145, y, 380, y)
                page.y = top - 100
                document = wennak.read(page.prose().data())
                self.assertEqual([b.kind for b in document.blocks].count("formula"), 0)
                (table,) = document.tables
                self.assertEqual((table.rows, table.columns), (5, 3))


class TestHostile(unittest.TestCase):
    def test_what_is_nested_without_end_is_text(self) -> None:
        page = Page().prose()
        canvas, y = page.canvas, page.y - 20
        canvas.setFont("Symbol", 10)
        canvas.drawString(200, y, "≤")
        for k in range(700):
            canvas.line(215 + 0.1 * k, y + 2 - 0.6 * k, 460 - 0.1 * k, y + 2 - 0.6 * k)
            canvas.drawString(300 + 0.1 * k, y - 0.6 * k, "λ")
        self.assertIn("≤", " ".join(wennak.read(page.data()).texts()))

    def test_thousands_of_strokes_and_words_are_read_all_the_same(self) -> None:
        page = Page()
        canvas = page.canvas
        canvas.setFont("Symbol", 4)
        for k in range(6000):
            canvas.line(60 + k % 60 * 8, 780 - k // 60 * 7, 64 + k % 60 * 8, 780 - k // 60 * 7)
        for k in range(3000):
            canvas.drawString(60 + k % 50 * 9, 780 - k // 50 * 12, "≤")
        self.assertEqual(sum(text.count("≤") for text in wennak.read(page.data()).texts()), 3000)


class TestFonts(unittest.TestCase):
    def test_ciphers_are_undone_as_another_reader_undoes_them(self) -> None:
        for key in (55665, 4330):
            data = random.Random(key).randbytes(5000)
            self.assertEqual(decrypted(eexec.encrypt(b"wxyz" + data, key)[0], key), data)
            self.assertEqual(decrypted(b"", key), b"")

    def test_the_procedures_of_a_program_are_read_by_name(self) -> None:
        def stored(code: list[object]) -> bytes:
            procedure = T1CharString(program=code)
            procedure.compile()
            return eexec.encrypt(b"abcd" + procedure.bytecode, 4330)[0]

        routine = stored([0, -700, "rlineto", "return"])
        begun = [0, 500, "hsbw", 50, 40, "rmoveto"]
        glyph = stored([*begun, 0, "callsubr", 300, "hlineto", "closepath", "endchar"])
        private = (
            b"dup /Private 8 dict dup begin /Subrs 1 array dup 0 %d RD " % len(routine) + routine
            + b" NP ND /CharStrings 1 dict dup begin /parenleft %d RD " % len(glyph) + glyph + b" ND end"
        )  # fmt: skip
        for hexed in (False, True):
            with self.subTest(hexed=hexed):
                secret = eexec.encrypt(b"efgh" + private, 55665)[0]
                secret = secret.hex().encode() if hexed else secret
                found = procedures(b"%!PS-AdobeFont-1.0: Made currentfile eexec\n" + secret)
                pen = ControlBoundsPen(None)
                found["parenleft"].draw(pen)
                self.assertEqual(pen.bounds, (50, -660, 350, 40))

    def test_a_bracket_that_hangs_below_its_baseline_reaches_as_far_as_it_is_drawn(self) -> None:
        pdf = pikepdf.new()
        procedure = pdf.make_stream(b"500 0 50 -1800 450 40 d1 50 -1800 400 1840 re f")
        font = pdf.make_indirect({
            "/Type": pikepdf.Name("/Font"), "/Subtype": pikepdf.Name("/Type3"), "/FontBBox": [0, 0, 0, 0],
            "/FontMatrix": [0.001, 0, 0, 0.001, 0, 0], "/FirstChar": 40, "/LastChar": 40, "/Widths": [500],
            "/CharProcs": {"/parenleft": procedure},
            "/Encoding": {"/Differences": [40, pikepdf.Name("/parenleft")]},
        })  # fmt: skip
        page = pdf.add_blank_page(page_size=(300, 300))
        page.Resources = pikepdf.Dictionary(Font=pikepdf.Dictionary(F1=font))
        page.Contents = pdf.make_stream(b"BT /F1 10 Tf 100 200 Td (\\() Tj ET")
        out = io.BytesIO()
        pdf.save(out)
        from wennak.ink import PdfFile

        with PdfFile(out.getvalue(), "d.pdf") as file:
            (ink,) = file.pages([1])
        (top,), (bottom,) = ink.glyphs.y0, ink.glyphs.y1
        self.assertAlmostEqual(top, 300 - 200.4, 2)
        self.assertAlmostEqual(bottom, 300 - 182, 2)

    def test_radicals_for_ticks_stand_in_the_rows_that_they_are_centred_in(self) -> None:
        """Set high above the baseline of their row, from where they hang; in tables upright and sideways."""
        rows = ["Step 1 2 3", "Ropes x - -", "Anchors x x -", "Lights - x x", "Radio - - x", "Charts x x x"]
        content = ""
        for k, row in enumerate(rows):
            for x, cell in zip((100, 200, 250, 300), row.split(), strict=True):
                tick, y = cell == "x", 600 - 12 * k
                font, shown, shift = ("F9", r"\160", 7.1) if tick else ("F1", cell, 0)
                content += f"BT /{font} 10 Tf {x} {y + shift} Td ({shown}) Tj ET "
        for turn in ("1 0 0 1 0 0", "0 1 -1 0 700 0", "0 -1 1 0 0 500"):
            with self.subTest(turn):
                pdf = pikepdf.open(io.BytesIO(pdf_of(f"{turn} cm {content}")))
                tick = pdf.make_stream(b"833 0 50 -960 800 40 d1 50 -960 750 1000 re f")
                pdf.pages[0].Resources.Font.F9 = pdf.make_indirect({
                    "/Type": pikepdf.Name("/Font"), "/Subtype": pikepdf.Name("/Type3"),
                    "/FontBBox": [0, 0, 0, 0], "/FontMatrix": [0.001, 0, 0, 0.001, 0, 0],
                    "/FirstChar": 112, "/LastChar": 112, "/Widths": [833], "/CharProcs": {"/radical": tick},
                    "/Encoding": {"/Differences": [112, pikepdf.Name("/radical")]},
                })  # fmt: skip
                out = io.BytesIO()
                pdf.save(out)
                (table,) = wennak.read(out.getvalue()).tables
                said = [" ".join(cell.text for cell in row if cell) for row in table.grid()]
                self.assertEqual(said, [row.replace("x", "√") for row in rows])

    def test_a_broken_description_of_a_glyph_costs_nothing_else(self) -> None:
        for said in (b"", b"d1", b"500 0 x y z w d1", b"500 0 1e999 0 0 nan d1"):
            with self.subTest(said):
                pdf = pikepdf.open(io.BytesIO(pdf_of("BT /F1 10 Tf 100 200 Td (\\(a\\)) Tj ET")))
                stream = pdf.make_stream(said)
                pdf.pages[0].Resources.Font.F1 = pdf.make_indirect({
                    "/Type": pikepdf.Name("/Font"), "/Subtype": pikepdf.Name("/Type3"),
                    "/FontBBox": [0, 0, 0, 0], "/FontMatrix": [0.001, 0, 0, 0.001, 0, 0], "/FirstChar": 40,
                    "/LastChar": 97, "/Widths": [500] * 58,
                    "/CharProcs": {"/parenleft": stream, "/a": stream},
                    "/Encoding": {"/Differences": [40, pikepdf.Name("/parenleft"), 97, pikepdf.Name("/a")]},
                })  # fmt: skip
                out = io.BytesIO()
                pdf.save(out)
                self.assertIn("a", " ".join(wennak.read(out.getvalue()).texts()))


class TestPlots(unittest.TestCase):
    """Equations that a program for plots sets, in its fonts and both ways to embed them."""

    SET = r"$\alpha_{k} \leq \frac{K(x)}{2} + \int_{0}^{n} \mathcal{V} u d x$"

    def read(self, fonts: str, kind: int) -> wennak.Document:
        out = io.BytesIO()
        with matplotlib.rc_context({"mathtext.fontset": fonts, "pdf.fonttype": kind}):
            figure = Figure(figsize=(8.3, 11.7))
            for height in (0.9, 0.88, 0.7, 0.68):
                figure.text(0.1, height, PROSE, size=10)
            figure.text(0.3, 0.79, self.SET, size=13)
            figure.savefig(out, format="pdf")
        return wennak.read(io.BytesIO(out.getvalue()))

    def test_all_symbols_come_out_as_one_formula(self) -> None:
        for fonts in ("cm", "stix", "stixsans", "dejavusans", "dejavuserif"):
            for kind in (3, 42):
                with self.subTest(fonts=fonts, kind=kind):
                    found = [b for b in self.read(fonts, kind).blocks if isinstance(b, wennak.Formula)]
                    self.assertEqual(len(found), 1)
                    said = unicodedata.normalize(
                        "NFKC", "".join(etree.fromstring(found[0].mathml).itertext())
                    )
                    self.assertEqual(sorted("".join(said.split())), sorted("αk≤K(x)2+∫0nVudx"))


class TestWritten(InFolder):
    def test_random_trees_are_written_alike_each_time_and_hold_all_symbols(self) -> None:
        draw = tool("tools/draw_equations.py")
        for seed in range(200):
            node = draw.equation(random.Random(seed))
            shown = "".join(etree.fromstring(mathml(node)).itertext())
            for symbol in symbols_of(node):
                self.assertIn(symbol.text.strip()[:1].upper() and symbol.text.strip(), _plain(shown))
            self.assertEqual(tex(node), tex(draw.equation(random.Random(seed))))
            self.assertEqual(linear(node).split(), linear(node).strip().split())

    def test_a_document_from_elsewhere_cannot_bring_a_script(self) -> None:
        for bad in (
            "<math><script>alert(1)</script></math>",
            '<math onclick="x()"><mi>x</mi></math>',
            '<math><mi style="background: url(http://a.b/c)">x</mi></math>',
        ):
            html = wennak.Document("d.pdf", blocks=[wennak.Formula("x = 1", mathml=bad)]).html()
            self.assertNotIn("<math", html)
            self.assertIn("x = 1", html)

    def test_a_browser_sets_a_fraction_one_part_above_the_other(self) -> None:
        page = (
            Page().prose().equation(Row((X, Symbol("≤"), Fraction(Y, Scripts(Z, None, TWO)))), "(1)").prose()
        )
        (self.folder / "d.pdf").write_bytes(page.data())
        self.assertEqual(
            run("convert", "d.pdf", "--out", "out", "--as", "html,md", cwd=self.folder).returncode, 0
        )
        self.assertIn(r"x\leq\frac{y}{z^{2}} \tag{1}", (self.folder / "out/d.md").read_text(encoding="utf-8"))
        with browser(self) as driver:
            driver.get((self.folder / "out/d.html").as_uri())
            above, below = driver.execute_script(
                "return [...document.querySelector('mfrac').children].map(e => e.getBoundingClientRect().top)"
            )
            label, formula = driver.execute_script(
                "return ['.formula .label', 'math']"
                ".map(q => document.querySelector(q).getBoundingClientRect().x)"
            )
        self.assertLess(above, below)
        self.assertGreater(label, formula)


def _plain(text: str) -> str:
    return unicodedata.normalize("NFKC", text) + text


if __name__ == "__main__":
    unittest.main()
