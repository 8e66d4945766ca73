"""Pages that are pictures: what is to be seen on them is read, and what is in doubt is said."""

from __future__ import annotations

import io
import subprocess
import sys
import unittest
import zlib
from collections import Counter
from pathlib import Path

import numpy as np
import pikepdf
import pypdfium2
from lxml import html
from pikepdf import Dictionary, Name
from PIL import Image, ImageDraw

import wennak
from tests.support import DEMO, InFolder, files_below, pdf_of, run, words
from wennak.bench.grid import grid_of
from wennak.demo.scans import draw_scan
from wennak.errors import DamagedPdf, UsageError
from wennak.ink import Grey, PdfFile
from wennak.ink.images import is_cut_off
from wennak.model import DOUBTFUL
from wennak.scan import PageKind, Recognition, installed_languages, page_kind
from wennak.scan.files import as_pdf
from wennak.scan.light import even_light
from wennak.scan.marks import find_marks, squares
from wennak.scan.pieces import find_pieces
from wennak.scan.rulings import Rulings, find_rulings, with_posts
from wennak.scan.sizes import baseline_and_size
from wennak.scan.straighten import find_skew, turned_by
from wennak.scan.threshold import inked

NEVER, ALWAYS = Recognition("never"), Recognition("always")


def page_of(pdf: Path | bytes, dpi: float = 200) -> Image.Image:
    """The first page of a PDF as a grey picture."""
    document = pypdfium2.PdfDocument(pdf)
    picture = document[0].render(scale=dpi / 72, grayscale=True).to_pil().convert("L")
    document.close()
    return picture


def upper_half(page: Image.Image) -> Image.Image:
    """What a test reads where half a page says as much as all of it."""
    return page.crop((0, 0, page.width, page.height // 2))


def picture_pdf(data: bytes, width: int, height: int, **entries: object) -> bytes:
    """A page that shows one image over its whole area, with the given entries of its dictionary."""
    pdf = pikepdf.new()
    image = pikepdf.Stream(pdf, data, Type=Name.XObject, Subtype=Name.Image, Width=width, Height=height)
    image.ColorSpace, image.BitsPerComponent = Name.DeviceGray, 8
    for key, value in entries.items():
        image[f"/{key}"] = value
    page = pdf.add_blank_page(page_size=(400, 500))
    page.Resources = Dictionary(XObject=Dictionary(P=pdf.make_indirect(image)))
    page.Contents = pdf.make_stream(b"q 400 0 0 500 0 0 cm /P Do Q")
    out = io.BytesIO()
    pdf.save(out)
    return out.getvalue()


def with_picture(picture: Image.Image, place: tuple[float, float, float, float], text: str) -> bytes:
    """An A4 page that draws text over a picture at a place (left, lower edge, width, height)."""
    pdf = pikepdf.new()
    data = io.BytesIO()
    picture.convert("L").save(data, "JPEG", quality=75)
    image = pikepdf.Stream(
        pdf, data.getvalue(), Type=Name.XObject, Subtype=Name.Image, Filter=Name.DCTDecode,
        ColorSpace=Name.DeviceGray, BitsPerComponent=8, Width=picture.width, Height=picture.height,
    )  # fmt: skip
    font = Dictionary(
        Type=Name.Font, Subtype=Name.Type1, BaseFont=Name.Helvetica, Encoding=Name.WinAnsiEncoding
    )
    page = pdf.add_blank_page(page_size=(595, 842))
    page.Resources = Dictionary(
        XObject=Dictionary(P=pdf.make_indirect(image)), Font=Dictionary(F1=pdf.make_indirect(font))
    )
    x, y, width, height = place
    page.Contents = pdf.make_stream(f"q {width} 0 0 {height} {x} {y} cm /P Do Q {text}".encode())
    out = io.BytesIO()
    pdf.save(out)
    return out.getvalue()


def shared(found: Counter[str], wanted: Counter[str]) -> float:
    """F1 of two bags of words."""
    return 2 * (found & wanted).total() / max(1, found.total() + wanted.total())


def with_lines(*lines: tuple[int, int, int, int], width: int = 2, dots: int = 0) -> Rulings:
    """The rules found among some text on a page with lines (x0, y0, x1, y1); of dots so far apart, if any."""
    picture = page_of(DEMO / "crew-notice.pdf")
    draw = ImageDraw.Draw(picture)
    draw.rectangle((0, 900, 1700, 2400), fill=255)
    for x0, y0, x1, y1 in lines:
        if not dots:
            draw.line((x0, y0, x1, y1), fill=40, width=width)
        for x in range(x0, x1, dots or x1):
            if dots:
                draw.ellipse((x, y0 - 1, x + 3, y0 + 2), fill=20)
    grey = np.asarray(picture)
    ink = inked(grey)
    return find_rulings(grey, ink, find_marks(ink, 200).height, 200)


class TestStraightening(unittest.TestCase):
    def test_the_angle_is_found_to_a_tenth_of_a_degree(self) -> None:
        papers = {"berth-ledger": (-4.0, 0.35), "crew-notice": (-0.7, 0.0), "tide-table": (2.6,)}
        for paper, angles in papers.items():
            page = page_of(DEMO / f"{paper}.pdf", 150)
            for angle in angles:
                skewed = np.asarray(page.rotate(-angle, Image.Resampling.BICUBIC, fillcolor=255))
                with self.subTest(paper=paper, angle=angle):
                    found = find_skew(skewed)
                    self.assertAlmostEqual(found, angle, delta=0.1)
                    self.assertAlmostEqual(find_skew(turned_by(skewed, found)), 0.0, delta=0.1)

    def test_angles_of_any_size_are_missed_by_as_little_either_way(self) -> None:
        page = page_of(DEMO / "berth-ledger.pdf", 120)
        angles = np.linspace(-0.55, 0.55, 23)
        pages = (np.asarray(page.rotate(-angle, Image.Resampling.BICUBIC, fillcolor=255)) for angle in angles)
        missed = np.array([find_skew(skewed) for skewed in pages]) - angles
        self.assertLess(np.abs(missed).mean(), 0.03)
        self.assertLess(abs(missed.mean()), 0.01)

    def test_a_blank_page_has_no_angle(self) -> None:
        self.assertEqual(find_skew(np.full((900, 700), 230, dtype=np.uint8)), 0.0)


class TestLight(unittest.TestCase):
    def test_uneven_light_changes_next_to_no_ink(self) -> None:
        page = np.asarray(page_of(DEMO / "berth-ledger.pdf"), dtype=np.float64)
        plain = inked(even_light(page.astype(np.uint8), 200).grey)
        shadow = np.linspace(1.0, 0.55, page.shape[1])
        dimmed = inked(even_light((page * shadow).astype(np.uint8), 200).grey)
        self.assertGreater((plain & dimmed).sum() / (plain | dimmed).sum(), 0.97)

    def test_light_writing_on_dark_ground_becomes_dark(self) -> None:
        page = page_of(DEMO / "crew-notice.pdf")
        dark = Image.new("L", page.size, 255)
        dark.paste(Image.eval(page, lambda v: 255 - v).crop((0, 100, 1600, 800)), (0, 100))
        lit = even_light(np.asarray(dark), 200)
        ink, wanted = inked(lit.grey)[150:750, 100:1500], inked(np.asarray(page))[150:750, 100:1500]
        self.assertGreater((ink & wanted).sum() / (ink | wanted).sum(), 0.75)

    def test_shades_are_found_where_they_are(self) -> None:
        page = page_of(DEMO / "crew-notice.pdf")
        draw = ImageDraw.Draw(page)
        # Two headings are so heavy that they darken their ground.
        draw.rectangle((0, 400, 1700, 620), fill=255)
        draw.rectangle((200, 1400, 1200, 1500), fill=215)
        (shade,) = even_light(np.asarray(page), 200).shades.tolist()
        for found, wanted in zip(shade, (200, 1400, 1200, 1500), strict=False):
            self.assertAlmostEqual(found, wanted, delta=8)
        self.assertAlmostEqual(shade[4], 215 / 255, delta=0.02)


class TestRulings(unittest.TestCase):
    def test_text_alone_has_no_rules(self) -> None:
        found = with_lines()
        self.assertEqual((len(found.level), len(found.upright), len(found.leaders)), (0, 0, 0))

    def test_a_grid_is_found_to_the_pixel(self) -> None:
        across = [(200, y, 1400, y) for y in (1000, 1100, 1300)]
        down = [(x, 1000, x, 1300) for x in (200, 700, 1400)]
        found = with_lines(*across, *down)
        for lines, wanted in ((found.level, (1000, 1100, 1300)), (found.upright, (200, 700, 1400))):
            self.assertEqual(len(lines), 3)
            for at, want in zip(sorted(lines[:, 0]), wanted, strict=True):
                self.assertAlmostEqual(at, want, delta=1.5)
        self.assertTrue((np.abs(found.level[:, 1:3] - (200, 1400)) < 6).all())

    def test_breaks_are_bridged_and_double_lines_stay_two(self) -> None:
        broken = with_lines((200, 1000, 700, 1000), (710, 1001, 1400, 1001))
        self.assertEqual(len(broken.level), 1)
        double = with_lines((200, 1000, 1400, 1000), (200, 1009, 1400, 1009))
        self.assertEqual(len(double.level), 2)

    def test_dots_between_words_are_a_leader_and_elsewhere_a_rule(self) -> None:
        rule = with_lines((200, 1000, 1400, 1000), dots=9)
        self.assertEqual((len(rule.level), len(rule.leaders)), (1, 0))
        picture = np.asarray(page_of(DEMO / "crew-notice.pdf"))
        self.assertEqual(len(find_rulings(picture, inked(picture), 14.0, 200).leaders), 0)

    def test_what_is_left_of_a_dark_ground_beside_its_rule_is_no_dash(self) -> None:
        words = "BT /F1 12 Tf 72 {} Td (Berths and moorings of the outer quay) Tj ET"
        said = " ".join(words.format(y) for y in (700, 630, 600))
        bars = [
            "72 650 400 1 re f",
            *(f"{x} 651.3 24 2.4 re f" for x in (100, 200, 300)),
            "430 604 12 2.4 re f",
        ]
        grey = np.asarray(page_of(pdf_of(" ".join([said, *bars])), 200))
        dark = inked(grey)
        rulings = find_rulings(grey, dark, find_marks(dark, 200).height, 200)
        marks = find_marks(dark & ~rulings.ink, 200)
        _, parts = with_posts(rulings, marks)
        self.assertEqual(len(rulings.level), 1)
        self.assertEqual(
            (sorted(marks.x0[parts] * 0.36) - np.array([100, 200, 300])).round(-1).tolist(), [0] * 3
        )


class TestMarks(unittest.TestCase):
    def test_check_boxes_are_told_from_letters(self) -> None:
        grey = np.asarray(page_of(DEMO / "engine-inspection.pdf"))
        marks = find_marks(inked(grey), 200)
        frames, filled = squares(marks)
        self.assertEqual((frames.sum(), filled.sum()), (5, 3))
        pieces = find_pieces(marks, np.zeros(grey.shape, dtype=np.bool_))
        # A box stands by itself, and every piece has marks.
        for k in np.flatnonzero(frames).tolist():
            self.assertEqual((pieces.of == pieces.of[k]).sum(), 1)
        self.assertEqual(set(np.unique(pieces.of)) - {-1}, set(range(len(pieces.boxes))))


@unittest.skipUnless(installed_languages(), "needs the extra ocr")
class TestReading(InFolder):
    def scan(self, paper: str) -> Path:
        path = self.folder / f"{paper}.pdf"
        draw_scan(DEMO / f"{paper}.pdf", path)
        return path

    def test_scans_of_papers_say_what_the_papers_say(self) -> None:
        right, cells = 0, 0
        for paper in ("berth-ledger", "fares-circular", "yearly-accounts", "timetable"):
            wanted = wennak.read(DEMO / f"{paper}.pdf")
            found = wennak.read(self.scan(paper))
            with self.subTest(paper):
                said = [words(" ".join(d.texts())) for d in (found, wanted)]
                self.assertGreater(shared(*said), 0.93)
                self.assertEqual(len(found.tables), len(wanted.tables))
            for a, b in zip(found.tables, wanted.tables, strict=False):
                cells += len(grid_of(b).cells)
                right += len(set(grid_of(a).cells) & set(grid_of(b).cells))
            for page in found.pages:
                self.assertEqual(page.source, "picture")
                self.assertAlmostEqual(page.turned, -1.3, delta=0.1)
            # Everything recognised stands on its page and is doubted.
            for cell in (cell for table in found.tables for cell in table.cells):
                self.assertLess(cell.confidence, 1.0)
                for place in cell.places:
                    box, page = place.box, found.pages[place.page - 1]
                    self.assertTrue(0 <= box.x0 <= box.x1 <= page.width, box)
                    self.assertTrue(0 <= box.y0 <= box.y1 <= page.height, box)
        self.assertGreater(right / cells, 0.9)

    def test_a_script_that_is_not_known_is_told_and_nothing_of_it_trusted(self) -> None:
        for name, strange in (("crew-notice", True), ("fares-circular", False)):
            data = io.BytesIO()
            upper_half(page_of(DEMO / f"{name}.pdf")).save(data, "PNG", dpi=(200, 200))
            document = wennak.read(data.getvalue())
            said = [f for f in document.findings if f.code == "unknown-language"]
            self.assertEqual(len(said), int(strange), name)
            sure = [c.confidence for t in document.tables for c in t.cells if c.text]
            if strange:
                self.assertTrue(all(c < DOUBTFUL for c in sure))
                self.assertIn("is not to be trusted", said[0].message)
            else:
                self.assertGreater(min(sure), DOUBTFUL)

    def test_workers_change_nothing_and_nothing_is_left_behind(self) -> None:
        # Two pictures of a quarter of a page.
        for name in ("fares-circular", "berth-ledger"):
            picture = upper_half(upper_half(page_of(DEMO / f"{name}.pdf", 170)))
            picture.save(self.folder / f"{name}.png", dpi=(170, 170))
        own = self.folder / "own"
        own.mkdir()
        for workers in (1, 2):
            out = self.folder / f"out{workers}"
            arguments = ("convert", self.folder, "--out", out, "--workers", workers)
            result = run(*arguments, env={"TMPDIR": str(own)})
            self.assertEqual(result.returncode, 0, result.stderr)
            self.assertEqual(list(own.iterdir()), [])
        self.assertEqual(files_below(self.folder / "out1"), files_below(self.folder / "out2"))

    def test_the_scanned_form_is_the_form(self) -> None:
        drawn, scanned = (wennak.read(DEMO / f"engine-inspection{n}.pdf").markdown() for n in ("", "-scan"))
        self.assertEqual(words(scanned), words(drawn))

    def test_a_sum_reveals_the_misprint_on_the_photograph(self) -> None:
        (table,) = wennak.read(DEMO / "berth-ledger-photo.jpg").tables
        (failed,) = [check for check in table.checks if not check.passed]
        self.assertEqual((failed.printed, failed.expected), (5163.75, 5113.75))
        self.assertGreaterEqual(sum(check.passed for check in table.checks), 3)

    def test_plus_and_plus_minus_are_told_apart(self) -> None:
        said = ("4.2 \\261 0.3 mm", "12.5 + 7.1 mm", "0.86 \\261 0.04 kg", "3 + 4 kg")
        content = " ".join(f"BT /F1 11 Tf 72 {700 - 20 * k} Td ({text}) Tj ET" for k, text in enumerate(said))
        text = " ".join(wennak.read(self.photo(page_of(pdf_of(content), 170))).texts())
        self.assertEqual((text.count("±"), text.count("+")), (2, 2), text)

    def test_pages_at_quarter_turns_are_read_in_uneven_light(self) -> None:
        picture = upper_half(page_of(self.scan("berth-ledger"), 170))
        # The head of the ledger and its first rows.
        picture = picture.crop((0, 0, picture.width, 2 * picture.height // 3))
        upright = grid_of(wennak.read(self.photo(picture)).tables[0]).cells
        for turn in (Image.Transpose.ROTATE_90, Image.Transpose.ROTATE_180):
            with self.subTest(turn=turn.name):
                side = np.asarray(picture.transpose(turn), dtype=np.float64)
                dim = Image.fromarray(
                    (side - np.linspace(0, 100, side.shape[1])).clip(0, 255).astype(np.uint8)
                )
                document = wennak.read(self.photo(dim))
                (table,) = document.tables
                found = grid_of(table).cells
                self.assertGreater(len(set(found) & set(upright)) / len(upright), 0.95)
                for cell in table.cells:
                    for place in cell.places:
                        self.assertLessEqual(place.box.x1, document.pages[0].width)
                        self.assertLessEqual(place.box.y1, document.pages[0].height)

    def photo(self, picture: Image.Image) -> Path:
        path = self.folder / "photo.png"
        picture.save(path, dpi=(170, 170))
        return path

    def test_labels_on_their_side_are_read(self) -> None:
        picture = Image.new("L", (1000, 700), 255)
        words_of = page_of(pdf_of("BT /F1 11 Tf 72 700 Td (Harbour dues) Tj ET"), 200)
        label = words_of.crop(words_of.point(lambda v: 255 - v).getbbox())
        for k, turn in enumerate((90, -90)):
            picture.paste(label.rotate(turn, expand=True), (200 + 200 * k, 100))
        picture.paste(label, (500, 500))
        for leader in (False, True):
            if leader:
                # A line of dots puts the characters of the page into the order of its rows.
                for k in range(12):
                    picture.paste(0, (700 + 10 * k, 520, 703 + 10 * k, 523))
            data = io.BytesIO()
            picture.save(data, "PNG", dpi=(200, 200))
            said = " ".join(wennak.read(data.getvalue(), name="label.png").texts())
            self.assertEqual(said.count("Harbour dues"), 3, said)

    def test_look_shows_the_page_turned_level(self) -> None:
        paths = wennak.look(self.scan("yearly-accounts"), self.folder / "seen")
        grey: Grey = np.asarray(Image.open(paths[1]).convert("L"))
        self.assertAlmostEqual(find_skew(grey), 0.0, delta=0.15)
        page = html.parse(str(paths[0])).getroot()
        self.assertIn("Total", " ".join(page.itertext()))

    def test_languages_that_are_not_installed_are_named(self) -> None:
        result = run("convert", DEMO / "engine-inspection-scan.pdf", "--languages", "eng,xyz")
        self.assertEqual(result.returncode, 2)
        self.assertIn("'xyz' cannot be recognised", result.stderr)
        self.assertNotIn("Traceback", result.stderr)


class TestKindsOfPages(InFolder):
    def kind(self, data: bytes) -> PageKind:
        with PdfFile(data, "page.pdf") as pdf:
            return page_kind(pdf.page(1))

    def test_pages_are_told_apart(self) -> None:
        page = page_of(DEMO / "crew-notice.pdf", 100)
        picture = picture_pdf(page.tobytes(), *page.size)
        self.assertIs(self.kind(picture), PageKind.PICTURE)
        self.assertIs(self.kind((DEMO / "crew-notice.pdf").read_bytes()), PageKind.TEXT)
        with pikepdf.open(io.BytesIO(picture)) as pdf:
            font = Dictionary(Type=Name.Font, Subtype=Name.Type1, BaseFont=Name.Helvetica)
            pdf.pages[0].Resources.Font = Dictionary(F1=font)
            layer = pdf.make_stream(b"BT 3 Tr /F1 12 Tf 50 400 Td (The text of the layer) Tj ET")
            pdf.pages[0].contents_add(layer)
            pdf.save(self.folder / "layered.pdf")
        self.assertIs(self.kind((self.folder / "layered.pdf").read_bytes()), PageKind.LAYERED)

    def test_a_picture_of_a_table_in_a_letter_is_read_in_its_place(self) -> None:
        ledger = page_of(DEMO / "berth-ledger.pdf").crop((150, 400, 1550, 1400))
        letter = "".join(
            f"BT /F1 11 Tf 72 {780 - 15 * k} Td (Line {k} of the letter.) Tj ET " for k in range(6)
        )
        document = wennak.read(with_picture(ledger, (72, 358, 450, 322), letter))
        self.assertEqual([f.code for f in document.findings], ["recognised-part"])
        self.assertEqual(" ".join(document.texts()).count("of the letter."), 6)
        (table,) = document.tables
        wanted = wennak.read(DEMO / "berth-ledger.pdf").tables[0]
        said, printed = (words(" ".join(c.text for c in t.cells)) for t in (table, wanted))
        self.assertGreater(shared(said, printed), 0.95)
        box = next(c for c in table.cells if c.text.startswith("Gannet")).places[0].box
        self.assertTrue(72 < box.x0 < 200 and 842 - 680 < box.y0 < 842 - 600, box)
        self.assertTrue(all(c.confidence < 1 for c in table.cells))

    def test_photographs_and_plots_on_a_page_of_text_stay_pictures(self) -> None:
        rng = np.random.default_rng(5)
        photo = Image.fromarray(rng.integers(0, 255, (60, 80)).astype(np.uint8)).resize((800, 600))
        plot = Image.new("L", (900, 600), 255)
        pen = ImageDraw.Draw(plot)
        pen.line([(k, 300 - int(200 * np.sin(k / 90))) for k in range(0, 900, 5)], fill=0, width=4)
        for k in range(8):
            pen.rectangle((100 * k + 20, 500 - 30 * k, 100 * k + 90, 600), fill=40)
        text = "BT /F1 11 Tf 72 780 Td (The picture below shows the quay.) Tj ET "
        for picture in (photo, plot):
            document = wennak.read(with_picture(picture, (72, 300, 450, 300), text))
            self.assertEqual([f.code for f in document.findings], [])

    def test_a_text_layer_counts_where_it_says_what_the_picture_shows(self) -> None:
        page = page_of(DEMO / "berth-ledger.pdf", 150)
        line = "Charges at Hollinquay, in crowns. Credits stand in parentheses."
        for said, code in ((line, "text-layer"), ("qx jzv kkw wyq zzj vxq jkz qqw xzv", "wrong-text-layer")):
            with self.subTest(code):
                place = self.place_of("Charges at Hollinquay")
                layer = f"BT 3 Tr /F1 {place[2]:.2f} Tf {place[0]:.1f} {842 - place[1]:.1f} Td ({said}) Tj ET"
                document = wennak.read(with_picture(page, (0, 0, 595, 842), layer))
                self.assertEqual(document.findings[0].code, code)
                self.assertEqual(bool(document.tables), code == "wrong-text-layer")

    def place_of(self, beginning: str) -> tuple[float, float, float]:
        """Where a line of the ledger begins on an A4 page, and its size."""
        with PdfFile(DEMO / "berth-ledger.pdf", "ledger") as pdf:
            ink = pdf.page(1)
        said = "".join(ink.texts.strings[k] for k in ink.glyphs.text.tolist())
        k = said.index(beginning)
        return float(ink.glyphs.x[k]), float(ink.glyphs.y[k]), float(ink.glyphs.size[k])

    def test_what_is_not_recognised_is_said(self) -> None:
        never = run("convert", DEMO / "engine-inspection-scan.pdf", "--recognise", "never")
        self.assertEqual((never.returncode, never.stdout.strip()), (0, ""))
        self.assertIn("page 1 is a picture without text", never.stderr)
        with self.assertRaises(UsageError):
            Recognition("sometimes")

    def test_without_the_extra_the_rest_is_converted(self) -> None:
        code = (
            "import sys; sys.modules['tesserocr'] = None; import wennak; "
            f"d = wennak.read({str(DEMO / 'engine-inspection-scan.pdf')!r}); print(d.findings[0].message); "
            f"print(len(wennak.read({str(DEMO / 'fares-circular.pdf')!r}).tables))"
        )
        result = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, timeout=120)
        self.assertIn("pip install 'wennak[ocr]'", result.stdout, result.stderr)
        self.assertTrue(result.stdout.strip().endswith("2"), result.stdout)

    @unittest.skipUnless(installed_languages(), "needs the extra ocr")
    def test_a_page_of_text_is_recognised_where_that_is_asked_for(self) -> None:
        wanted, found = (
            words(" ".join(wennak.read(DEMO / "fares-circular.pdf", recognition=how).texts()))
            for how in (NEVER, ALWAYS)
        )
        self.assertGreater(shared(found, wanted), 0.95)


class TestPictureFiles(InFolder):
    @unittest.skipUnless(installed_languages(), "needs the extra ocr")
    def test_files_of_every_type_are_read(self) -> None:
        said = [f"{word} is moored at berth {k}" for k, word in enumerate("Gannet Tern Skua Petrel".split())]
        content = " ".join(f"BT /F1 11 Tf 72 {700 - 20 * k} Td ({text}) Tj ET" for k, text in enumerate(said))
        page = upper_half(page_of(pdf_of(content), 200))
        clear = page.convert("RGBA")
        clear.putalpha(Image.eval(page, lambda v: 255 - v))
        page.save(self.folder / "a.png", dpi=(200, 200))
        clear.save(self.folder / "b.png")
        page.save(self.folder / "c.jpg", quality=80, dpi=(200, 200))
        page.save(self.folder / "d.tif", compression="tiff_lzw", save_all=True, append_images=[page])
        wanted = words(" ".join(said))
        for name, pages in (("a.png", 1), ("b.png", 1), ("c.jpg", 1), ("d.tif", 2)):
            document = wennak.read(self.folder / name)
            with self.subTest(name):
                self.assertEqual(len(document.pages), pages)
                found = words(" ".join(document.texts()))
                self.assertGreater(shared(found, Counter({w: n * pages for w, n in wanted.items()})), 0.9)
                # The size of a page that names no resolution follows from its letters.
                self.assertAlmostEqual(
                    document.pages[0].width, 612, delta=6 if name in "a.png c.jpg" else 150
                )

    def test_the_same_picture_gives_the_same_bytes(self) -> None:
        path = DEMO / "berth-ledger-photo.jpg"
        self.assertEqual(as_pdf(path, path.name), as_pdf(path.read_bytes(), path.name))

    def test_what_is_no_picture_gets_one_sentence(self) -> None:
        (self.folder / "cut.jpg").write_bytes((DEMO / "berth-ledger-photo.jpg").read_bytes()[:900])
        (self.folder / "empty.png").write_bytes(b"")
        (self.folder / "text.png").write_text("no picture")
        for name, said in (
            ("cut.jpg", "cannot be opened"), ("empty.png", "is empty"), ("text.png", "is not a PDF"),
        ):  # fmt: skip
            result = run("convert", self.folder / name)
            with self.subTest(name):
                self.assertEqual(result.returncode, 1)
                self.assertIn(said, result.stderr)
                self.assertEqual(len(result.stderr.strip().splitlines()), 1, result.stderr)
        with self.assertRaises(DamagedPdf):
            as_pdf(b"\x89PNG\r\n\x1a\n" + b"\0" * 50, "bad.png")


class TestDamagedPictures(unittest.TestCase):
    def test_each_ends_in_a_finding_and_none_in_an_error(self) -> None:
        jpeg = (DEMO / "berth-ledger-photo.jpg").read_bytes()
        for name, data, size, entries in (
            ("cut JPEG", jpeg[:2000], (1400, 1900), {"Filter": Name.DCTDecode}),
            ("huge", b"\0" * 100, (40_000, 40_000), {"BitsPerComponent": 1}),
            ("no size", b"\0" * 100, (0, 0), {}),
            ("unknown space", b"\0" * 10_000, (100, 100), {"ColorSpace": Name.Nonsense}),
            ("JBIG2", b"\0" * 100, (100, 100), {"Filter": Name.JBIG2Decode, "BitsPerComponent": 1}),
            ("JPX", b"\0" * 100, (100, 100), {"Filter": Name.JPXDecode}),
            ("CCITT", b"\0" * 100, (100, 100), {"Filter": Name.CCITTFaxDecode, "BitsPerComponent": 1}),
        ):
            with self.subTest(name):
                document = wennak.read(picture_pdf(data, *size, **entries))
                self.assertEqual(len(document.pages), 1)
                self.assertEqual(list(document.texts()), [])
                self.assertEqual(len(document.findings), 1, document.findings)

    def test_what_is_cut_off_is_said(self) -> None:
        """Half of a picture reads as a page whose lower half is blank."""
        page = Image.new("L", (900, 700), 255)
        for k, said in enumerate(
            ("Berths of the north quay", "are swept in the spring", "before the boats come")
        ):
            ImageDraw.Draw(page).text((60, 60 + 240 * k), said, fill=0, font_size=44)
        out = io.BytesIO()
        page.save(out, "JPEG")
        deflated = zlib.compress(page.tobytes())
        for data, filter_ in (
            (out.getvalue(), Name.DCTDecode),
            (deflated, Name.FlateDecode),
            (page.tobytes(), None),
        ):
            for share, codes in ((1.0, []), (0.5, ["damaged-picture"])):
                with self.subTest(filter_, share=share):
                    entries = {"Filter": filter_} if filter_ else {}
                    part = data[: int(share * len(data))]
                    document = wennak.read(picture_pdf(part, page.width, page.height, **entries))
                    self.assertEqual([f.code for f in document.findings], [*codes, "recognised"])

    def test_whether_an_image_is_whole_is_told_by_its_size(self) -> None:
        pdf = pikepdf.new()
        profile = pdf.make_stream(b"", N=3)
        for space, bits, length in (
            (Name.DeviceGray, 8, 200), (Name.DeviceCMYK, 8, 800), (Name.DeviceGray, 1, 30),
            (pikepdf.Array([Name.ICCBased, profile]), 8, 600),
            (pikepdf.Array([Name.DeviceN, [Name.Black, Name.Gold], Name.DeviceCMYK]), 8, 400),
            (pikepdf.Array([Name.Indexed, Name.DeviceRGB, 1, b"abcdef"]), 4, 100),
        ):  # fmt: skip
            entries = {"Width": 20, "Height": 10, "ColorSpace": space, "BitsPerComponent": bits}
            for missing in (0, 1):
                with self.subTest(space=space, bits=bits, missing=missing):
                    image = pdf.make_stream(b"\0" * (length - missing), Subtype=Name.Image, **entries)
                    self.assertIs(is_cut_off(image), bool(missing))
        mask = pdf.make_stream(b"\0" * 29, Width=20, Height=10, ImageMask=True)
        self.assertTrue(is_cut_off(mask))
        unknown = pdf.make_stream(b"", Width=20, Height=10, ColorSpace=Name.Nonsense, BitsPerComponent=8)
        self.assertFalse(is_cut_off(unknown))

    def test_of_the_images_of_a_file_those_that_a_page_shows_count(self) -> None:
        """Pages may share the images of the whole file; forms have their own."""
        pdf = pikepdf.new()
        entries = {"Subtype": Name.Image, "Width": 20, "Height": 10, "BitsPerComponent": 8}
        whole, cut = (
            pdf.make_stream(b"\0" * length, ColorSpace=Name.DeviceGray, **entries) for length in (200, 100)
        )
        inner = Dictionary(XObject=Dictionary(I=cut))
        form = pdf.make_stream(b"/I Do", Subtype=Name.Form, BBox=[0, 0, 1, 1], Resources=inner)
        shared = pdf.make_indirect(Dictionary(XObject=Dictionary(A=whole, B=cut, F=form)))
        for name in "ABF":
            page = pdf.add_blank_page(page_size=(400, 500))
            page.Resources, page.Contents = shared, pdf.make_stream(f"/{name} Do".encode())
        out = io.BytesIO()
        pdf.save(out)
        with PdfFile(out.getvalue(), "shared.pdf") as file:
            told = [file.lacks_image_data(file.page(number)) for number in (1, 2, 3)]
        self.assertEqual(told, [False, True, True])


class TestSizes(unittest.TestCase):
    def test_the_size_of_a_piece_is_never_nothing(self) -> None:
        """Marks of two lines may come as one piece: those of the lower one begin where the upper one ends."""
        ink = np.zeros((60, 120), dtype=np.bool_)
        for k, top in enumerate((5, 5, 5, 25, 25)):
            ink[top : top + 20, 20 * k + 3 : 20 * k + 15] = True
        marks = find_marks(ink, 200.0)
        own = np.argsort(marks.x0)
        x0 = np.arange(5) * 20.0
        for texts in ("---Re", "--XRe", "-----", "XXXRe"):
            baseline, size = baseline_and_size(list(texts), x0, x0 + 18, marks, own)
            self.assertEqual(baseline, 25.0)
            self.assertAlmostEqual(size, 20 / 0.69)


if __name__ == "__main__":
    unittest.main()
