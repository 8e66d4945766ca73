"""Features of PDF that decide what a page says: composite fonts, forms, layers, annotations, navigation."""

from __future__ import annotations

import io
import itertools
import random
import unittest
from collections.abc import Callable
from pathlib import Path

import matplotlib
import numpy as np
import pikepdf
from fontTools.ttLib import TTFont
from fontTools.ttLib.tables._c_m_a_p import CmapSubtable
from pikepdf import Array, Dictionary, Name

import wennak
from tests.support import pdf_of
from tests.test_ink import ink_of, text_of
from wennak.ink import PdfFile


def changed(data: bytes, change: Callable[[pikepdf.Pdf], None], **options: object) -> bytes:
    with pikepdf.open(io.BytesIO(data)) as pdf:
        change(pdf)
        out = io.BytesIO()
        pdf.save(out, **options)
    return out.getvalue()


def with_font(content: bytes, make: Callable[[pikepdf.Pdf], Dictionary]) -> bytes:
    def change(pdf: pikepdf.Pdf) -> None:
        pdf.pages[0].Resources.Font.F1 = pdf.make_indirect(make(pdf))

    return changed(pdf_of(content), change)


def composite(
    encoding: Name, ordering: str = "Identity", **more: object
) -> Callable[[pikepdf.Pdf], Dictionary]:
    def make(pdf: pikepdf.Pdf) -> Dictionary:
        info = Dictionary(Registry="Adobe", Ordering=ordering, Supplement=0)
        descendant = Dictionary(
            Type=Name.Font, Subtype=Name.CIDFontType2, BaseFont=Name.Odd, CIDSystemInfo=info, DW=500,
            W=Array([1, Array([250, 750]), 10, 12, 1000]), W2=Array([2, Array([-500, 0, 0])]),
        )  # fmt: skip
        font = Dictionary(
            Type=Name.Font, Subtype=Name.Type0, BaseFont=Name.Odd, Encoding=encoding,
            DescendantFonts=Array([descendant]),
        )  # fmt: skip
        if "widths" in more:
            descendant.W = Array([1, Array(more["widths"])])
        if "cmap" in more:
            font.ToUnicode = pdf.make_stream(str(more["cmap"]).encode())
        return font

    return make


class TestWeight(unittest.TestCase):
    def test_letters_with_strokes_around_them_are_bold(self) -> None:
        said = (
            "BT /F1 11 Tf 72 700 Td (plain) Tj ET 2 Tr 0.4 w BT /F1 11 Tf 72 680 Td (strong) Tj ET "
            "0.01 w BT /F1 11 Tf 72 660 Td (hair) Tj ET 0.4 w BT /F1 1 Tf 11 0 0 11 72 640 Tm (scaled) Tj ET "
            "0 Tr BT /F1 11 Tf 72 620 Td (again) Tj ET"
        )
        ink = ink_of(pdf_of(said))
        bold = [ink.fonts[k].bold for k in ink.glyphs.font.tolist()]
        wanted = {"plain": False, "strong": True, "hair": False, "scaled": True, "again": False}
        self.assertEqual(bold, [weight for word, weight in wanted.items() for _ in word])
        self.assertEqual({font.name for font in ink.fonts}, {"Helvetica"})

    def test_faces_are_told_by_the_ends_of_names(self) -> None:
        faces = {
            "Sound-Biolith": (False, False), "Sound-Bold": (True, False), "Sound,Bold": (True, False),
            "Sound-B": (True, False), "Sound-BI": (True, True), "Sound-BoldItalic": (True, True),
            "Sound-It": (False, True), "Sound-Demi": (True, False), "Sound-Birch-BI": (True, True),
        }  # fmt: skip
        for name, wanted in faces.items():
            font = {
                "F1": {"Subtype": "/Type1", "BaseFont": f"/ABCDEF+{name}", "Encoding": "/WinAnsiEncoding"}
            }
            (own,) = ink_of(pdf_of("BT /F1 11 Tf 72 700 Td (quay) Tj ET", font)).fonts
            self.assertEqual((own.bold, own.italic), wanted, name)

    def test_strokes_before_any_font_are_none(self) -> None:
        self.assertEqual(len(ink_of(pdf_of("BT 2 Tr 1 w 72 700 Td (odd) Tj ET")).texts.strings), 0)


class TestCompositeFonts(unittest.TestCase):
    def test_letters_of_one_width_are_in_fixed_pitch(self) -> None:
        def fixed(first: int, width: int, odd: int = 0) -> bool:
            cmap = (
                "1 begincodespacerange <0000> <ffff> endcodespacerange 1 beginbfrange "
                f"<0001> <000a> <{first:04x}> endbfrange"
            )
            font = composite(Name("/Identity-H"), cmap=cmap, widths=[width + odd] + [width] * 9)
            data = with_font("BT /F1 11 Tf 72 700 Td <00010002> Tj ET", font)
            return ink_of(data).fonts[0].fixed_pitch

        self.assertTrue(fixed(ord("a"), 600))
        self.assertTrue(fixed(ord("a"), 600, 2))
        self.assertFalse(fixed(ord("a"), 600, 50))
        self.assertFalse(fixed(ord("0"), 556))
        self.assertFalse(fixed(0x6C34, 1000))

    def test_identity_with_a_unicode_map_and_widths(self) -> None:
        cmap = (
            "1 begincodespacerange <0000> <ffff> endcodespacerange 2 beginbfrange <0001> <0002> <0041> "
            "<000a> <000b> [<00660066> <d83dde00>] endbfrange 1 beginbfchar <000c> <f0b7> endbfchar"
        )
        data = with_font(
            b"BT /F1 10 Tf 0 700 Td <00010002000a000b000c> Tj ET", composite(Name("/Identity-H"), cmap=cmap)
        )
        ink = ink_of(data)
        self.assertEqual(text_of(ink), "ABff😀•")
        np.testing.assert_allclose(ink.glyphs.x, [0, 2.5, 10, 20, 30])

    def test_japanese_by_collection_and_by_legacy_code(self) -> None:
        by_cid = with_font(
            b"BT /F1 10 Tf 9 700 Td <034a0465> Tj ET", composite(Name("/Identity-H"), "Japan1")
        )
        self.assertEqual(text_of(ink_of(by_cid)), "ぁ亜")
        drawn = "港の灯A".encode("cp932").hex()
        by_code = with_font(
            f"BT /F1 10 Tf 9 700 Td <{drawn}> Tj ET".encode(), composite(Name("/90ms-RKSJ-H"))
        )
        self.assertEqual(text_of(ink_of(by_code)), "港の灯A")

    def test_unknown_glyphs_are_kept_and_counted(self) -> None:
        data = with_font(b"BT /F1 10 Tf 9 700 Td <00070008> Tj ET", composite(Name("/Identity-H")))
        document = wennak.read(data)
        self.assertEqual(document.markdown().strip(), "\ufffd\ufffd")
        (finding,) = document.findings
        self.assertIn("2 characters of the font Odd", finding.message)

    def test_vertical_writing_runs_down(self) -> None:
        cmap = "1 beginbfrange <0001> <0003> <0061> endbfrange"
        data = with_font(
            b"BT /F1 10 Tf 100 700 Td <000100020003> Tj ET", composite(Name("/Identity-V"), cmap=cmap)
        )
        g = ink_of(data).glyphs
        # The second glyph advances by half an em, the others by a whole one.
        np.testing.assert_allclose(np.diff(g.y), [10, 5])
        np.testing.assert_allclose(np.diff(g.x), 0)


class TestContent(unittest.TestCase):
    def test_forms_nest_with_their_matrices_and_resources(self) -> None:
        def change(pdf: pikepdf.Pdf) -> None:
            font = pdf.pages[0].Resources.Font
            inner = pdf.make_stream(b"BT /F1 10 Tf 1 2 Td (in) Tj ET")
            outer = pdf.make_stream(b"q 1 0 0 1 5 5 cm /X Do Q BT /F1 10 Tf 50 50 Td (out) Tj ET")
            for form, matrix in ((inner, [2, 0, 0, 2, 0, 0]), (outer, [1, 0, 0, 1, 100, 100])):
                form.Type, form.Subtype = Name.XObject, Name.Form
                form.BBox, form.Matrix = Array([0, 0, 500, 500]), Array(matrix)
                form.Resources = Dictionary(Font=font)
            outer.Resources.XObject = Dictionary(X=inner)
            pdf.pages[0].Resources.XObject = Dictionary(Y=outer)

        ink = ink_of(changed(pdf_of("/Y Do BT /F1 10 Tf 9 9 Td (page) Tj ET"), change))
        self.assertEqual(text_of(ink), "inoutpage")
        g = ink.glyphs
        self.assertEqual((g.x[0], g.y[0], g.size[0]), (107, 792 - 109, 20))
        self.assertEqual((g.x[2], g.y[2]), (150, 792 - 150))

    def test_inline_images_do_not_disturb_what_follows(self) -> None:
        image = b"BI /W 4 /H 2 /BPC 8 /CS /G ID \x00\xff EI(Tj\xfe EI"
        content = b"q 20 0 0 30 5 6 cm " + image + b" Q BT /F1 9 Tf 50 50 Td (after) Tj ET"
        ink = ink_of(pdf_of(content))
        self.assertEqual(text_of(ink), "after")
        p = ink.pictures
        self.assertEqual((p.x0[0], p.y0[0], p.x1[0], p.y1[0], p.columns[0]), (5, 756, 25, 786, 4))

    def test_layers_that_are_off_are_not_read(self) -> None:
        def change(pdf: pikepdf.Pdf) -> None:
            on, off = (pdf.make_indirect(Dictionary(Type=Name.OCG, Name=n)) for n in ("on", "off"))
            pdf.Root.OCProperties = Dictionary(OCGs=Array([on, off]), D=Dictionary(OFF=Array([off])))
            pdf.pages[0].Resources.Properties = Dictionary(A=on, B=off)

        content = (
            "/OC /A BDC BT /F1 9 Tf 9 9 Td (on) Tj ET EMC /OC /B BDC BT /F1 9 Tf 9 30 Td (off) Tj ET EMC"
        )
        self.assertEqual(text_of(ink_of(changed(pdf_of(content), change)), seen_only=False), "on")

    def test_replacement_text_stands_for_what_is_drawn(self) -> None:
        content = "/Span <</ActualText (ship)>> BDC BT /F1 9 Tf 9 9 Td (xyzzy) Tj ET EMC "
        content += "BT /F1 9 Tf 60 9 Td (shape) Tj ET"
        self.assertEqual(wennak.read(pdf_of(content)).markdown().strip(), "ship shape")

    def test_annotations_show_their_appearance_unless_hidden(self) -> None:
        def change(pdf: pikepdf.Pdf) -> None:
            notes = []
            for text, flags in (("field", 4), ("secret", 2)):
                look = pdf.make_stream(f"BT /F1 10 Tf 2 2 Td ({text}) Tj ET".encode())
                look.Subtype, look.BBox = Name.Form, Array([0, 0, 50, 20])
                look.Resources = Dictionary(Font=pdf.pages[0].Resources.Font)
                notes.append(
                    Dictionary(
                        Type=Name.Annot, Subtype=Name.Widget, Rect=Array([100, 100, 200, 140]), F=flags,
                        AP=Dictionary(N=look),
                    )
                )  # fmt: skip
            link = Dictionary(
                Type=Name.Annot, Subtype=Name.Link, Rect=Array([10, 20, 30, 40]),
                A=Dictionary(S=Name.URI, URI="https://skerra.example/"),
            )  # fmt: skip
            pdf.pages[0].Annots = Array([pdf.make_indirect(n) for n in [*notes, link]])

        ink = ink_of(changed(pdf_of(""), change))
        self.assertEqual(text_of(ink), "field")
        self.assertAlmostEqual(float(ink.glyphs.size[0]), 20)
        self.assertEqual(list(ink.links), [((10.0, 752.0, 30.0, 772.0), "https://skerra.example/")])


class TestNavigation(unittest.TestCase):
    def test_outline_labels_language_and_structure(self) -> None:
        def change(pdf: pikepdf.Pdf) -> None:
            with pdf.open_outline() as outline:
                chapter = pikepdf.OutlineItem("Boats", 0)
                chapter.children.append(pikepdf.OutlineItem("Crews", 0))
                outline.root.append(chapter)
            pdf.Root.PageLabels = Dictionary(Nums=Array([0, Dictionary(S=Name.r, St=4)]))
            pdf.Root.Lang = pikepdf.String("en-GB")
            pdf.docinfo["/Title"] = "\x00Harbour  \x07book"
            cell = Dictionary(S=Name.Zelle, K=Array([0, 1]), A=Dictionary(O=Name.Table, ColSpan=2))
            row = Dictionary(S=Name.TR, Pg=pdf.pages[0].obj, K=Array([pdf.make_indirect(cell)]))
            pdf.Root.StructTreeRoot = pdf.make_indirect(
                Dictionary(
                    Type=Name.StructTreeRoot, RoleMap=Dictionary(Zelle=Name.TD), K=pdf.make_indirect(row)
                )
            )
            cell.K.append(pdf.Root.StructTreeRoot)  # a loop, which must end

        data = changed(pdf_of("BT /F1 9 Tf 9 9 Td (x) Tj ET"), change)
        with PdfFile(data, "x") as pdf:
            self.assertEqual(
                [(i.title, i.level, i.page) for i in pdf.outline], [("Boats", 1, 1), ("Crews", 2, 1)]
            )
            tree = pdf.structure
            self.assertEqual(
                (tree.roles[:2], tree.parents[:2], tree.colspans[:2]), (["TR", "TD"], [-1, 0], [1, 2])
            )
            self.assertEqual({k: v for k, v in tree.owners.items() if v == 1}, {(1, 0): 1, (1, 1): 1})
        document = wennak.read(data)
        self.assertEqual(
            (document.title, document.language, document.pages[0].label), ("Harbour book", "en-GB", "iv")
        )

    def test_files_of_every_make_read_alike(self) -> None:
        plain = pdf_of("BT /F1 9 Tf 9 9 Td (sound) Tj ET")
        for options in (
            {"linearize": True},
            {"object_stream_mode": pikepdf.ObjectStreamMode.generate},
            {"force_version": "1.2", "object_stream_mode": pikepdf.ObjectStreamMode.disable},
            {"encryption": pikepdf.Encryption(owner="o", user="", R=6)},
            {
                "encryption": pikepdf.Encryption(owner="o", user="", R=3, aes=False, metadata=False),
                "force_version": "1.4",
            },
        ):
            with self.subTest(str(options)):
                self.assertEqual(text_of(ink_of(changed(plain, lambda _: None, **options))), "sound")
        # Cut off before the cross-reference table, with something else in front.
        self.assertEqual(text_of(ink_of(b"junk\n" + plain[: plain.rindex(b"xref")])), "sound")


class TestFontsOfTex(unittest.TestCase):
    """Fonts of TeX in the TrueType format, whose ToUnicode only repeats their codes."""

    SHOWN = (
        ("Cmsy10", "a1a3a731", "−×±∞"), ("Cmmi10", "aeaf703a", "αβp."), ("Cmr10", "a1415b", "ΓA["),
        ("Cmex10", "505a28", "∑∫{"), ("Garamond", "a1a3a731", "¡£§1"),
    )  # fmt: skip

    def read(self, name: str, codes: str, shown: dict[int, str]) -> str:
        def make(pdf: pikepdf.Pdf) -> Dictionary:
            entries = "".join(f"<{code:02x}> <{ord(c):04x}> " for code, c in shown.items())
            cmap = f"1 begincodespacerange <00> <ff> endcodespacerange 9 beginbfchar {entries}endbfchar"
            return Dictionary(
                Type=Name.Font, Subtype=Name.TrueType, BaseFont=Name(f"/ABCDEF+{name}"), FirstChar=0,
                LastChar=255, Widths=Array([500] * 256), ToUnicode=pdf.make_stream(cmap.encode()),
            )  # fmt: skip

        return text_of(ink_of(with_font(f"BT /F1 10 Tf 9 700 Td <{codes}> Tj ET".encode(), make)))

    def test_codes_show_what_the_encoding_of_the_family_says(self) -> None:
        for name, codes, expected in self.SHOWN:
            with self.subTest(name):
                same = {code: chr(code) for code in bytes.fromhex(codes)}
                self.assertEqual(self.read(name, codes, same), expected)

    def test_numbers_repeated_under_other_codes_show_the_same(self) -> None:
        self.assertEqual(self.read("Cmsy10", "0001", {0: "\u2219", 1: "\u00a1"}), "≤−")
        self.assertEqual(self.read("Cmmi10", "00", {0: "\u2219"}), "κ")

    def test_private_letters_of_fonts_for_science_are_known(self) -> None:
        private = {0: "\ue1db", 1: "\ue187", 2: "\ue242", 3: "\ue15f", 4: "\ue1b1"}
        self.assertEqual(self.read("STIXNonUnicode-Italic", "0001020304", private), "δΛ𝒱𝕊ϕ")
        self.assertEqual(self.read("Garamond", "0001", private), "\ufffd\ufffd")

    def test_a_file_that_says_what_they_show_is_believed(self) -> None:
        self.assertEqual(self.read("CMSY10", "06a1", {0x06: "±", 0xA1: "¡"}), "±¡")


class TestPrograms(unittest.TestCase):
    def test_codes_that_nothing_else_names_are_looked_up_when_they_are_shown(self) -> None:
        program = TTFont(Path(matplotlib.get_data_path()) / "fonts/ttf/DejaVuSans.ttf")
        glyphs = program.getBestCmap()
        table = CmapSubtable.newSubtable(0)
        table.platformID, table.platEncID, table.language = 1, 0, 0
        table.cmap = {5: glyphs[ord("Q")], 66: glyphs[ord("u")], 90: glyphs[ord("y")]}
        kept = [t for t in program["cmap"].tables if t.platformID != 1]
        program["cmap"].tables = [*kept, table]
        data = io.BytesIO()
        program.save(data)

        def make(pdf: pikepdf.Pdf) -> Dictionary:
            descriptor = Dictionary(
                Type=Name.FontDescriptor, FontName=Name("/Quay"), Flags=4,
                FontFile2=pdf.make_stream(data.getvalue()),
            )  # fmt: skip
            # The file tells the text of one code, and gives no width to another.
            said = b"1 beginbfchar <42> <0075> endbfchar"
            return Dictionary(
                Type=Name.Font, Subtype=Name.TrueType, BaseFont=Name("/Quay"), FontDescriptor=descriptor,
                FirstChar=0, LastChar=90, Widths=Array([*[600] * 67, *[0] * 24]),
                ToUnicode=pdf.make_stream(said),
            )  # fmt: skip

        for shown, text in ((b"BB", "uu"), (b"\\005BBZ", "Quuy")):
            data_of_page = with_font(b"BT /F1 11 Tf 72 700 Td (%s) Tj ET" % shown, make)
            with self.subTest(text):
                self.assertEqual(text_of(ink_of(data_of_page)), text)


class TestCodeNames(unittest.TestCase):
    """Fonts whose glyph names are codes: a65, G41."""

    TEXT = "The ferry leaves the quay at 8.15 and calls at Oskay, Brannsey and Tarnvoe before noon"
    FACES = (
        "DejaVuSans", "DejaVuSans-Bold", "DejaVuSerif", "DejaVuSerif-Italic", "STIXGeneral",
        "STIXGeneralItalic", "STIXGeneralBol", "cmr10", "cmb10", "cmss10",
    )  # fmt: skip

    def pdf(self, face: str, style: str, shift: int = 0) -> bytes:
        """A page in a font of the widths of a typeface, whose codes are drawn at random, each glyph named by
        its character's code plus a shift.
        """
        font = TTFont(Path(matplotlib.get_data_path()) / f"fonts/ttf/{face}.ttf")
        cmap, em = font.getBestCmap(), font["head"].unitsPerEm
        chars = sorted(set(self.TEXT))
        codes = dict(zip(chars, random.Random(face).sample(range(33, 250), len(chars)), strict=True))
        widths = [0.0] * 256
        for char, code in codes.items():
            widths[code] = 1000 * font["hmtx"][cmap[ord(char)]][0] / em
        differences = [x for c, code in codes.items() for x in (code, Name("/" + style % (ord(c) + shift)))]
        entries: dict[str, object] = {
            "Subtype": "/Type1", "BaseFont": "/Odd", "FirstChar": 0, "LastChar": 255, "Widths": Array(widths),
            "Encoding": Dictionary(Type=Name.Encoding, Differences=Array(differences)),
        }  # fmt: skip
        shown = "".join(f"{codes[c]:02x}" for c in self.TEXT)
        return pdf_of(f"BT /F1 10 Tf 50 700 Td <{shown}> Tj ET", {"F1": entries})

    def test_names_that_are_codes_are_read_where_widths_bear_it_out(self) -> None:
        styles = itertools.cycle(("a%d", "c%d", "G%X", "C%04d", "%d"))
        for face, style in zip(self.FACES, styles, strict=False):
            with self.subTest(face=face, style=style):
                self.assertEqual(list(wennak.read(self.pdf(face, style)).texts()), [self.TEXT])

    def test_mu_omega_and_delta_are_letters_among_greek_ones(self) -> None:
        for names, wanted in (("alpha mu omega Omega Delta", "αμωΩΔ"), ("five space mu m", "5 µm")):
            with self.subTest(wanted):
                differences = [x for k, n in enumerate(names.split()) for x in (65 + k, Name("/" + n))]
                entries: dict[str, object] = {
                    "Subtype": "/Type1",
                    "BaseFont": "/Odd",
                    "FirstChar": 65,
                    "LastChar": 69,
                    "Widths": Array([500] * 5),
                    "Encoding": Dictionary(Type=Name.Encoding, Differences=Array(differences)),
                }
                shown = "ABCDE"[: len(names.split())]
                page = pdf_of(f"BT /F1 10 Tf 50 700 Td ({shown}) Tj ET", {"F1": entries})
                self.assertEqual(" ".join(wennak.read(page).texts()), wanted)

    def test_typefaces_of_tex_are_known_by_their_widths(self) -> None:
        # What is printed, and the codes of it where they are not those of ASCII.
        european = {"ff": 27, "fi": 28, "ffi": 30, "–": 21, "é": 233, "ß": 255, "’": 39}
        old = {"ff": 11, "fi": 12, "ffi": 14, "–": 123, "ß": 25, "’": 39}
        cyrillic = {chr(0x410 + k): 192 + k for k in range(64)}
        cases = (
            ("ecrm1000", european, "Skiff offices fit for café’s Maß 10–12", (False, False, False)),
            ("ecbx1440", european, "Skiff 12", (True, False, False)),
            ("ecti0800", european, "offices–first", (False, True, False)),
            ("ectt1000", {}, "--tide_rope=12 $x{y}", (False, False, True)),
            ("cmr10", old, "Skiff offices fit for the Maß 10–12", (False, False, False)),
            ("cmti10", old | {"£": 36}, "offices first £120", (False, True, False)),
            ("tcrm1000", {"€": 191, "°": 176}, "€°", (False, False, False)),
            ("cmsy10", {"•": 15, "≤": 20, "−": 0}, "•≤−", (False, False, False)),
            ("larm1000", cyrillic, "Причал открыт", (False, False, False)),
        )
        with np.load(Path(wennak.__file__).parent / "ink/data/tex_fonts.npz") as kept:
            faces = dict(zip(kept["names"].tolist(), kept["widths"] / 10, strict=True))
        for face, encoding, text, looks in cases:
            with self.subTest(face=face):
                shown = self.coded(faces[face].tolist(), encoding, text)
                self.assertEqual(" ".join(wennak.read(shown).texts()), text)
                font = ink_of(shown).fonts[0]
                self.assertEqual((font.bold, font.italic, font.fixed_pitch), looks)
                # In a typeface of other widths the same names say nothing.
                odd = [width * (0.3 + 0.15 * (code * 37 % 11)) for code, width in enumerate(faces[face])]
                document = wennak.read(
                    self.coded(odd, encoding, text), recognition=wennak.Recognition("never")
                )
                self.assertLessEqual(set("".join(document.texts())), {"\ufffd", " "})

    def coded(self, widths: list[float], encoding: dict[str, int], text: str) -> bytes:
        """A page with words in a font whose names are its codes."""
        written = sorted(encoding, key=len, reverse=True)
        words = []
        for word in text.split():
            codes = []
            while word:
                part = next((w for w in written if word.startswith(w)), word[0])
                codes.append(encoding[part] if part in encoding else ord(part))
                word = word[len(part) :]
            words.append(codes)
        used = sorted({code for codes in words for code in codes})
        entries: dict[str, object] = {
            "Subtype": "/Type1", "BaseFont": "/Odd", "FirstChar": 0, "LastChar": 255,
            "Widths": Array([float(w) if code in used else 0.0 for code, w in enumerate(widths)]),
            "Encoding": Dictionary(
                Type=Name.Encoding, Differences=Array([x for c in used for x in (c, Name(f"/a{c}"))])
            ),
        }  # fmt: skip
        shown = "-400 ".join(f"<{bytes(codes).hex()}>" for codes in words)
        return pdf_of(f"BT /F1 10 Tf 50 700 Td [{shown}] TJ ET", {"F1": entries})

    def test_nothing_is_guessed_where_they_do_not(self) -> None:
        never = wennak.Recognition("never")
        wrong = (("DejaVuSansMono", "a%d", 0), ("cmr10", "a%d", 9), ("STIXGeneral", "G%X", 5))
        for face, style, shift in wrong:
            with self.subTest(face=face, shift=shift):
                document = wennak.read(self.pdf(face, style, shift), recognition=never)
                self.assertEqual(set("".join(document.texts()).replace(" ", "")), {"\ufffd"})
                self.assertTrue(document.findings)
