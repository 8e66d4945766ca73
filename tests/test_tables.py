"""Tables drawn with known content, in many looks, come back as they were drawn."""

from __future__ import annotations

import io
import random
import unittest
from collections import Counter

import wennak
from tests.support import covered, pdf_of

try:
    from reportlab.lib import colors
    from reportlab.lib.pagesizes import A4, landscape
    from reportlab.lib.styles import ParagraphStyle
    from reportlab.platypus import PageBreak, Paragraph, SimpleDocTemplate, Spacer, Table, TableStyle
except ImportError:
    raise unittest.SkipTest("drawing needs the extra dev (reportlab)") from None

BODY = ParagraphStyle("body", fontName="Helvetica", fontSize=10, leading=13, spaceAfter=8)
PROSE = (
    "The keeper of the light counts every vessel that passes the sound and writes its name into the book. "
)
LOOKS = {
    "grid": [("GRID", (0, 0), (-1, -1), 0.5, colors.black)],
    "rules": [
        ("LINEABOVE", (0, 0), (-1, 0), 1, colors.black),
        ("LINEBELOW", (0, 0), (-1, 0), 0.5, colors.black),
        ("LINEBELOW", (0, -1), (-1, -1), 1, colors.black),
    ],
    "rows": [("LINEBELOW", (0, 0), (-1, -2), 0.5, colors.black)],
    "stripes": [("ROWBACKGROUNDS", (0, 0), (-1, -1), [colors.Color(0.85, 0.9, 0.95), colors.white])],
    "columns": [("LINEAFTER", (0, 0), (-2, -1), 0.5, colors.black)],
    "bare": [],
}


def drawn(*story: object, **options: object) -> bytes:
    out = io.BytesIO()
    SimpleDocTemplate(out, **{"pagesize": A4, **options}).build(list(story))
    return out.getvalue()


def table(rows: list[list[object]], look: str, *more: tuple[object, ...], **options: object) -> Table:
    style = [("FONT", (0, 0), (-1, -1), "Helvetica", 10), ("FONT", (0, 0), (-1, 0), "Helvetica-Bold", 10)]
    return Table(rows, style=TableStyle([*style, *LOOKS[look], *more]), **options)


def values(rng: random.Random, rows: int, columns: int) -> list[list[str]]:
    """A header, a stub of names, numbers of differing length; some cells empty."""
    places = [
        "Hollinquay",
        "Oskay",
        "Brannsey",
        "Tarnvoe",
        "Fenholm",
        "Little Skerra",
        "Outer Head",
        "Mill Voe",
    ]
    head = [
        "Pier",
        *rng.sample(["Boats", "Crews", "Crates", "Tonnes", "Fares", "Calls", "Days"], columns - 1),
    ]
    body = []
    for r in range(rows):
        numbers = [
            f"{rng.choice([rng.randrange(10), rng.randrange(1000), rng.randrange(10**5)]):,}"
            for _ in head[1:]
        ]
        if rng.random() < 0.3:
            numbers[rng.randrange(len(numbers))] = ""
        body.append([f"{places[r % len(places)]} {r + 1}", *numbers])
    return [head, *body]


def read_rows(found: wennak.Table) -> list[list[str]]:
    out = [[""] * found.columns for _ in range(found.rows)]
    for cell in found.cells:
        out[cell.row][cell.column] = cell.text
    return out


class TestLooks(unittest.TestCase):
    def test_every_look_gives_the_same_grid(self) -> None:
        rng = random.Random(5)
        for trial in range(5):
            rows = values(rng, rng.randrange(4, 14), rng.randrange(3, 7))
            for look in LOOKS:
                align = ("ALIGN", (1, 0), (-1, -1), rng.choice(["RIGHT", "RIGHT", "CENTER"]))
                data = drawn(
                    Paragraph(PROSE * 3, BODY),
                    table(rows, look, align),
                    Spacer(1, 12),
                    Paragraph(PROSE * 4, BODY),
                )
                with self.subTest(look=look, trial=trial):
                    (found,) = wennak.read(data).tables
                    self.assertEqual(read_rows(found), rows)

    def test_wrapped_cells_stay_one_row(self) -> None:
        rng = random.Random(8)
        for look in ("grid", "rules", "stripes", "bare"):
            for place in ("TOP", "MIDDLE") if look != "bare" else ("TOP",):
                words = PROSE.split()
                texts = [" ".join(rng.sample(words, rng.choice([3, 9, 14]))) for _ in range(7)]
                cells = [
                    Paragraph(t, ParagraphStyle("c", fontName="Helvetica", fontSize=10, leading=11.5))
                    for t in texts
                ]
                rows = [
                    ["Item", "Remark", "Weight"],
                    *([f"Crate {i}", c, str(100 + i)] for i, c in enumerate(cells)),
                ]
                padding = [("TOPPADDING", (0, 0), (-1, -1), 4), ("BOTTOMPADDING", (0, 0), (-1, -1), 5)]
                data = drawn(
                    table(rows, look, ("VALIGN", (0, 0), (-1, -1), place), *padding, colWidths=[80, 190, 60])
                )
                with self.subTest(look=look, place=place):
                    (found,) = wennak.read(data).tables
                    expected = [
                        ["Item", "Remark", "Weight"],
                        *([f"Crate {i}", t, str(100 + i)] for i, t in enumerate(texts)),
                    ]
                    self.assertEqual(read_rows(found), expected)

    def test_spans_of_a_ruled_table(self) -> None:
        rng = random.Random(21)
        for trial in range(12):
            rows, columns = rng.randrange(3, 8), rng.randrange(3, 6)
            grid = [[f"{chr(65 + c)}{r}" for c in range(columns)] for r in range(rows)]
            r, c = rng.randrange(rows - 1), rng.randrange(columns - 1)
            # A span over all rows would leave no line to tell its columns apart.
            height, width = rng.randrange(1, rows - r + (r > 0)), rng.randrange(1, columns - c + 1)
            for i in range(r, r + height):
                for j in range(c, c + width):
                    grid[i][j] = "whole" if (i, j) == (r, c) else ""
            span = ("SPAN", (c, r), (c + width - 1, r + height - 1))
            middle = [("VALIGN", (0, 0), (-1, -1), "MIDDLE"), ("ALIGN", (0, 0), (-1, -1), "CENTER")]
            with self.subTest(trial, span=(r, c, height, width)):
                (found,) = wennak.read(drawn(table(grid, "grid", span, *middle, colWidths=60))).tables
                cell = next(x for x in found.cells if x.text == "whole")
                whole_rows = height if width < columns or height == 1 else cell.rowspan
                self.assertEqual((cell.row, cell.column, cell.colspan), (r, c, width))
                self.assertEqual(cell.rowspan, whole_rows)

    def test_header_cells_span_what_they_are_centred_over(self) -> None:
        rows = [["", "Summer", "", "Winter", ""], ["Pier", "Boats", "Crews", "Boats", "Crews"]]
        rows += [[f"Pier {i}", "1,200", "35", "800", "21"] for i in range(6)]
        spans = [("SPAN", (1, 0), (2, 0)), ("SPAN", (3, 0), (4, 0)), ("ALIGN", (1, 0), (-1, -1), "CENTER"),
                 ("FONT", (0, 1), (-1, 1), "Helvetica-Bold", 10)]  # fmt: skip
        (found,) = wennak.read(drawn(table(rows, "bare", *spans, colWidths=80))).tables
        over = {c.text: (c.column, c.colspan) for c in found.cells if c.row == 0}
        self.assertEqual(over, {"Summer": (1, 2), "Winter": (3, 2)})
        self.assertEqual(found.header_rows, 2)
        self.assertEqual(found.frame().columns[1], "Summer / Boats")

    def test_a_grid_without_a_line_below_its_head(self) -> None:
        rows: list[list[object]] = [["Quay", "Berth", "Calls"]]
        rows += [
            [name, f"B{k}", str(40 + 7 * k)] for k, name in enumerate(("North", "West", "South", "East"))
        ]
        lines = [
            ("BOX", (0, 0), (-1, -1), 0.5, colors.black),
            ("LINEAFTER", (0, 0), (-2, -1), 0.5, colors.black),
            ("LINEBELOW", (0, 1), (-1, -2), 0.5, colors.black),
        ]
        plain = ("FONT", (0, 0), (-1, 0), "Helvetica", 10)
        small = ("FONT", (0, 0), (-1, 0), "Helvetica", 8)
        for what, look in (("bold", ()), ("small", (small,)), ("as all else", (plain,))):
            with self.subTest(what):
                (found,) = wennak.read(drawn(table(rows, "bare", *lines, *look))).tables
                grid = [[cell.text if cell else "" for cell in row] for row in found.grid()]
                self.assertEqual(grid, rows)
        # Labels over several rows begin beside the second line of the head's row.
        ended = [line for line in lines if line[0] != "LINEBELOW"]
        ended += [("LINEBELOW", (1, k), (-1, k), 0.5, colors.black) for k in (1, 3)]
        ended += [("LINEBELOW", (0, 2), (-1, 2), 0.5, colors.black)]
        labelled = [["Side", *row] for row in rows]
        for k, row in enumerate(labelled[1:]):
            row[0] = ("Sea", "", "Land", "")[k]
        (found,) = wennak.read(drawn(table(labelled, "bare", *ended))).tables
        spans = {c.text: (c.row, c.rowspan) for c in found.cells if c.column == 0 and c.text}
        self.assertEqual(spans, {"Side": (0, 1), "Sea": (1, 2), "Land": (3, 2)})

    def test_a_sign_in_a_column_of_notes_goes_to_its_number(self) -> None:
        for sign in "$€":
            rows: list[list[object]] = [["Charge", "Note", "2031", "2030"]]
            for k, name in enumerate(("Pilotage", "Towage", "Moorage", "Lighting", "Repairs", "Total")):
                rows.append([name, "7" if k == 2 else "", f"{310.5 - 17 * k:.2f}", f"{98.1 + 31 * k:.2f}"])
            for row in (rows[1], rows[-1]):
                row[1], row[3] = sign, f"{sign} {row[3]}"
            look = (("ALIGN", (1, 0), (-1, -1), "RIGHT"), ("ALIGN", (1, 3), (1, 3), "LEFT"))
            (found,) = wennak.read(drawn(table(rows, "bare", *look, colWidths=[90, 40, 60, 70]))).tables
            said = [[cell.text if cell else "" for cell in row] for row in found.grid()]
            with self.subTest(sign=sign):
                self.assertEqual([row[1] for row in said], ["Note", "", "", "7", "", "", ""])
                self.assertEqual(
                    [row[2].replace(" ", "") for row in said[1::5]], [f"{sign}310.50", f"{sign}225.50"]
                )

    def test_signs_of_every_row_are_a_column_of_their_own(self) -> None:
        rows: list[list[object]] = [["Charge", "Currency", "Sum"]]
        rows += [[f"Towage {k}", "$€£"[k % 3], f"{31.5 * k + 4:.2f}"] for k in range(8)]
        (found,) = wennak.read(drawn(table(rows, "bare", colWidths=[90, 80, 70]))).tables
        self.assertEqual([[c.text for c in row if c] for row in found.grid()], rows)

    def test_what_stands_below_a_table_is_no_row(self) -> None:
        heading = ParagraphStyle("heading", fontName="Helvetica-Bold", fontSize=13, leadingIndent=0)
        rows: list[list[object]] = [
            [name, f"{k}.5 m"] for k, name in enumerate(("Length", "Beam", "Draught", "Air"))
        ]
        for said, style in (("Table 2. The tug Gannet", BODY), ("3 Rules of the quay", heading)):
            with self.subTest(said):
                pdf = drawn(table(rows, "bare", colWidths=[120, 80]), Paragraph(said, style))
                document = wennak.read(pdf)
                (found,) = document.tables
                self.assertEqual([[c.text for c in row if c] for row in found.grid()], rows)
                self.assertIn(said, [found.caption, *document.texts()])

    def test_page_on_its_side(self) -> None:
        rows = values(random.Random(2), 9, 5)
        data = drawn(table(rows, "grid"), pagesize=landscape(A4))
        import pikepdf

        with pikepdf.open(io.BytesIO(data)) as pdf:
            pdf.pages[0].rotate(90, relative=False)
            out = io.BytesIO()
            pdf.save(out)
        document = wennak.read(out.getvalue())
        self.assertEqual(read_rows(document.tables[0]), rows)
        box, size = document.tables[0].places[0].box, document.pages[0]
        self.assertTrue(0 <= box.x0 < box.x1 <= size.width and 0 <= box.y0 < box.y1 <= size.height)


class TestProducers(unittest.TestCase):
    def test_lines_text_and_rectangles_however_they_are_drawn(self) -> None:
        """The same table by strokes and whole strings, and by thin fills and single glyphs."""
        rows = [["Pier", "Boats", "Fares"], ["Oskay", "12", "1,350"], ["Tarnvoe", "7", "980"]]
        strokes, fills, strings, glyphs = "0.5 w ", "", "", ""
        for k in range(4):
            x, y = 100 + 80 * k, 700 - 20 * k
            strokes += f"{x} 700 m {x} 640 l S 100 {y} m 340 {y} l S "
            fills += f"{x - 0.2} 640 0.4 60 re f 100 {y - 0.2} 240 0.4 re f "
        widths = {",": 2.78, **dict.fromkeys("0123456789", 5.56)}
        for r, row in enumerate(rows):
            for c, text in enumerate(row):
                x, y = 104 + 80 * c, 686 - 20 * r
                strings += f"BT /F1 10 Tf {x} {y} Td ({text}) Tj ET "
                if all(ch in widths for ch in text):
                    for ch in text:
                        glyphs += f"BT 1 0 0 1 {x:.2f} {y} Tm /F1 10 Tf ({ch}) Tj ET "
                        x += widths[ch]
                else:
                    glyphs += f"BT 10 0 0 10 {x} {y} Tm /F1 1 Tf [({text[:2]}) 0 ({text[2:]})] TJ ET "
        readings = [wennak.read(pdf_of(a + b)).tables for a, b in ((strokes, strings), (fills, glyphs))]
        self.assertEqual([read_rows(t[0]) for t in readings], [rows, rows])


class TestOverPages(unittest.TestCase):
    def test_a_long_table_is_one_table_without_repeated_headers(self) -> None:
        for look in ("grid", "rules", "bare", "stripes"):
            rows = values(random.Random(3), 90, 5)
            data = drawn(table(rows, look, ("ALIGN", (1, 0), (-1, -1), "RIGHT"), repeatRows=1))
            with self.subTest(look):
                document = wennak.read(data)
                self.assertGreater(len(document.pages), 1)
                self.assertEqual([read_rows(t) for t in document.tables], [rows])

    def test_different_tables_on_following_pages_stay_apart(self) -> None:
        first, second = values(random.Random(4), 6, 4), values(random.Random(9), 6, 5)
        document = wennak.read(drawn(table(first, "grid"), PageBreak(), table(second, "grid")))
        self.assertEqual([read_rows(t) for t in document.tables], [first, second])


class TestNotTables(unittest.TestCase):
    def test_prose_lists_and_code_are_no_tables(self) -> None:
        item = ParagraphStyle("item", parent=BODY, leftIndent=18, bulletIndent=4)
        code = ParagraphStyle("code", fontName="Courier", fontSize=9, leading=11)
        lines = ["for boat in boats:", "    if boat.late:", "        wait(boat)    # at the pier"] * 4
        story = [
            Paragraph(PROSE * 6, BODY),
            *(Paragraph(PROSE, item, bulletText=f"{i}.") for i in range(1, 6)),
            *(Paragraph(PROSE, item, bulletText="•") for _ in range(3)),
            *(Paragraph(line.replace(" ", "&nbsp;"), code) for line in lines),
            Paragraph(PROSE * 6, BODY),
        ]
        document = wennak.read(drawn(*story))
        self.assertEqual(document.tables, [])
        kinds = Counter(b.kind for b in document.blocks)
        self.assertGreaterEqual(kinds["list"], 1)
        self.assertEqual(sum(len(b.items) for b in document.blocks if b.kind == "list"), 8)

    def test_no_cell_overlaps_and_no_word_stands_twice(self) -> None:
        rng = random.Random(30)
        for trial in range(10):
            looks = [rng.choice(list(LOOKS)) for _ in range(3)]
            sheets = [values(rng, rng.randrange(2, 9), rng.randrange(2, 6)) for _ in looks]
            story: list[object] = []
            for rows, look in zip(sheets, looks, strict=True):
                story += [
                    table(rows, look),
                    Spacer(1, rng.choice([2, 8, 20])),
                    Paragraph(PROSE * rng.randrange(1, 4), BODY),
                ]
            document = wennak.read(drawn(*story))
            with self.subTest(trial, looks=looks):
                said = " ".join(x for rows in sheets for row in rows for x in row)
                prose = sum(s.text.count("keeper") for s in story if isinstance(s, Paragraph))
                words = Counter(" ".join(document.texts()).split())
                self.assertEqual(words["keeper"], prose)
                for word, count in Counter(said.split()).items():
                    self.assertEqual(words[word], count, word)
                for found in document.tables:
                    taken = covered(found)
                    self.assertEqual(len(taken), len(set(taken)))
                    self.assertTrue(all(r < found.rows and c < found.columns for r, c in taken))
