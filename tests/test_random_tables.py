"""Tables drawn at random (spans, rules, wrapping, alignment): what must hold of any of them; and texts that
look like tables and are none.
"""

from __future__ import annotations

import random
import unittest

import wennak
from tests.support import InFolder, pdf_of, script
from tests.tagged import tagged_pdf
from wennak.bench.grid import grid_of, normal
from wennak.bench.matching import match
from wennak.truth import load_truth

try:
    import reportlab  # noqa: F401
except ImportError:
    raise unittest.SkipTest("drawing needs the extra dev (reportlab)") from None


def text_pdf(*lines: tuple[float, float, str], size: float = 10, more: str = "") -> bytes:
    """Pieces of text at x, y; one that begins with "F2 " or "F3 " is set in italics or in symbols."""
    fonts = {
        "F1": {"Subtype": "/Type1", "BaseFont": "/Helvetica", "Encoding": "/WinAnsiEncoding"},
        "F2": {"Subtype": "/Type1", "BaseFont": "/Times-Italic", "Encoding": "/WinAnsiEncoding"},
        "F3": {"Subtype": "/Type1", "BaseFont": "/Symbol"},
    }
    parts = []
    for x, y, text in lines:
        font, said = (text[:2], text[3:]) if text[:3] in ("F2 ", "F3 ") else ("F1", text)
        parts.append(f"BT /{font} {size} Tf {x:.2f} {y} Td ({said}) Tj ET")
    return pdf_of(" ".join([*parts, more]), fonts)


def rows_of(table: wennak.Table) -> list[list[str]]:
    return [[cell.text if cell else "" for cell in row] for row in table.grid()]


class TestProperties(InFolder):
    def test_nothing_is_lost_added_or_overlaps_and_what_is_sure_is_right(self) -> None:
        draw, invariants = script("tools/draw_documents.py"), script("benchmarks/invariants.py")
        true = found = exact = invented = sure = sound = cells = 0
        # Documents that the judge was not fitted on.
        for number in range(5000, 5024):
            data, tables = draw.document(random.Random(number))
            path = self.folder / f"{number}.pdf"
            path.write_bytes(data)
            document, wrong = invariants.looked_through(path)
            self.assertEqual(wrong, [], number)
            truth = self.folder / f"{number}.html"
            truth.write_text(f"<p>{number}</p>{''.join(t.html() for t in tables)}", encoding="utf-8")
            known = [grid_of(entry.table) for entry in load_truth(truth).tables]
            read = document.tables
            grids = [grid_of(table) for table in read]
            pairs = match(known, grids).pairs
            true, found, invented = true + len(known), found + len(pairs), invented + len(read) - len(pairs)
            for i, j in pairs.items():
                exact += set(known[i].cells) == set(grids[j].cells)
                filled = sorted((c for c in read[j].cells if normal(c.text)), key=lambda c: (c.row, c.column))
                good = [place in known[i].cells for place in grids[j].cells]
                certain = [ok for ok, c in zip(good, filled, strict=True) if c.confidence >= 0.95]
                cells, sure, sound = cells + len(filled), sure + len(certain), sound + sum(certain)
        self.assertGreaterEqual(found / true, 0.93)
        self.assertLessEqual(invented, 0.1 * true)
        self.assertGreaterEqual(exact / true, 0.65)
        self.assertGreater(sure, 0.4 * cells)
        self.assertGreaterEqual(sound / sure, 0.94)


class TestColumns(unittest.TestCase):
    def test_signs_in_columns_of_their_own_join_their_numbers(self) -> None:
        lines: list[tuple[float, float, str]] = [(230, 716, "1931"), (330, 716, "1930")]
        body = (("Fares", "1,204", "998"), ("Mail", "77", "61"), ("Total", "1,281", "1,059"))
        for k, (label, *numbers) in enumerate(body):
            y = 700 - 16 * k
            lines.append((72, y, label))
            for x, number in zip((260, 360), numbers, strict=True):
                lines.append((x - 5.56 * len(number), y, number))
                if label != "Mail":
                    lines.append((x - 60, y, "$"))
        (table,) = wennak.read(text_pdf(*lines)).tables
        head, first, second, third = rows_of(table)
        self.assertEqual((head, second), (["", "1931", "1930"], ["Mail", "77", "61"]))
        self.assertEqual((first, third), (["Fares", "$ 1,204", "$ 998"], ["Total", "$ 1,281", "$ 1,059"]))

    def test_a_group_head_right_over_a_gutter_does_not_hide_it(self) -> None:
        lines: list[tuple[float, float, str]] = [(157.4, 716, "sun"), (257.4, 716, "sun")]
        heads = ((72, "Pier"), (135, "High"), (173.5, "Low"), (235, "High"), (273.5, "Low"))
        lines += [(x, 702, t) for x, t in heads]
        for k in range(8):
            lines.append((72, 688 - 14 * k, f"Pier {k}"))
            lines += [(x, 688 - 14 * k, f"3.{k}") for x in (137, 175, 237, 275)]
        (table,) = wennak.read(text_pdf(*lines)).tables
        self.assertEqual(table.columns, 5)
        self.assertEqual(rows_of(table)[2], ["Pier 0", "3.0", "3.0", "3.0", "3.0"])

    def test_a_header_in_another_font_is_a_header(self) -> None:
        body = [("F2 Lamp", "F2 Colour"), ("Outer Head", "white"), ("Mill Voe", "red"), ("Tarnvoe", "green")]
        lines = [(x, 700 - 15 * k, row[c]) for k, row in enumerate(body) for c, x in ((0, 72), (1, 200))]
        (table,) = wennak.read(text_pdf(*lines)).tables
        self.assertEqual((table.header_rows, table.header_labels()), (1, ["Lamp", "Colour"]))

    def test_upright_rules_hold_a_column_of_prose_in_its_table(self) -> None:
        said = "The keeper of the light counts every vessel that passes the"
        lines: list[tuple[float, float, str]] = [
            (72, 700, "Field"),
            (132, 700, "Value"),
            (192, 700, "Meaning"),
        ]
        for k in range(6):
            y = 680 - 32 * k
            lines += [(72, y, f"{k}"), (132, y, f"v{k}")]
            lines += [(192, y, f"{said} sound"), (192, y - 12, f"{said} pier")]
        rules = "0.5 w 122 712 m 122 496 l S 182 712 m 182 496 l S"
        (table,) = wennak.read(text_pdf(*lines, more=rules)).tables
        self.assertEqual((table.rows, table.columns), (7, 3))

    def test_rows_level_with_contents_or_with_a_matrix_in_another_column_stay_in_their_table(self) -> None:
        values = [
            (x, 700 - 15 * r, f"{'Pier' if x == 330 else r + 2}{'' if x == 330 else '.'}{r}{x % 7}")
            for r in range(10) for x in (330, 400, 460, 520)
        ]  # fmt: skip
        dots = ". " * 25
        contents = [
            piece
            for k in range(9)
            for piece in (
                (50, 706 - 17 * k, f"{k + 1} Landings {dots}"),
                (270, 706 - 17 * k, f"{11 + 4 * k}"),
            )
        ]
        prose = [
            (50, 520 - 12 * k, "What is landed at night is weighed in the morning by the") for k in range(9)
        ]
        brackets = [(60, 700 - 12 * k, f"F3 \\{code}") for k, code in enumerate(("346", "347", "347", "350"))]
        matrix = [(90 + 50 * c, 700 - 12 * r, f"{r}.{c}5") for r in range(4) for c in range(3)]
        for beside in (contents, brackets + matrix):
            text = wennak.read(text_pdf(*beside, *prose, *values))
            (table,) = text.tables
            self.assertEqual(
                [" ".join(row) for row in rows_of(table)],
                [" ".join(said for _, y, said in values if y == 700 - 15 * r) for r in range(10)],
            )

    def test_two_tables_with_one_head_and_other_columns_stay_two(self) -> None:
        pieces, rules, y = [], [], 700.0
        expected = []
        for first, step in ((60.0, 100.0), (180.0, 52.0)):
            rows = [
                ["Pier", "Least", "Usual", "Most"],
                *([f"Quay {k}", *(str(k + 3 * c) for c in range(3))] for k in range(5)),
            ]
            for k, row in enumerate(rows):
                pieces += [(first + c * step, y, said) for c, said in enumerate(row)]
                rules += [f"{first - 6} {y + 14} m {first + 4 * step} {y + 14} l S"] if k < 2 else []
                y -= 20
            rules.append(f"{first - 6} {y + 14} m {first + 4 * step} {y + 14} l S")
            expected.append(rows)
            y -= 12
        found = wennak.read(text_pdf(*pieces, more=" ".join(rules))).tables
        self.assertEqual([rows_of(table) for table in found], expected)

    def test_subtotals_with_leaders_that_rise_are_no_pages(self) -> None:
        rows = [
            ["Scales set", "", "25"], ["Total of May", "", "186"], ["June", "", ""], ["Nets", "", "269"],
            ["Lamps of the quay", "28", "435"], ["Ropes", "", "415"], ["Total of June", "", "1,119"],
        ]  # fmt: skip
        pieces = [(200.0, 720.0, "Note"), (300.0, 720.0, "Crowns")]
        for k, (name, note, value) in enumerate(rows):
            y = 700.0 - 20 * k
            dots = " " + "." * (40 - len(name)) if value else ""
            pieces += [(60, y, name + dots), *([(205, y, note)] if note else [])]
            pieces += [(320, y, value)] if value else []
        (table,) = wennak.read(
            text_pdf(*pieces, more="0.5 w 56 716 m 350 716 l S 56 572 m 350 572 l S")
        ).tables
        self.assertEqual(rows_of(table), [["", "Note", "Crowns"], *rows])

    def test_pieces_that_stand_level_but_for_rounding_are_read_from_left_to_right(self) -> None:
        for off in (0.02, 0.06, 0.1, 0.15):
            for y in (500.0, 500.03, 500.07):
                pieces = [(60, y, "Landings of May"), (300, y + off, "were late"), (420, y, "and few")]
                text = wennak.read(text_pdf((60, 540, "The quay was sound."), *pieces)).markdown()
                with self.subTest(y=y, off=off):
                    found = [text.index(said) for _, _, said in pieces]
                    self.assertEqual(found, sorted(found))


class TestNone(unittest.TestCase):
    def test_a_matrix_in_tall_brackets(self) -> None:
        brackets = [
            (100.0, 700.0 - 12 * k, f"F3 \\{code}") for k, code in enumerate(("346", "347", "347", "350"))
        ]
        values = [(130.0 + 50 * c, 700.0 - 12 * r, f"{r}.{c}5") for r in range(4) for c in range(3)]
        document = wennak.read(text_pdf(*brackets, *values))
        self.assertEqual(document.tables, [])
        self.assertIn("\u239b", document.markdown())

    def test_tags_that_leave_out_heads_of_columns_are_not_trusted(self) -> None:
        body = [(x, 700 - 16 * r, f"{r}{c}") for r in range(1, 5) for c, x in enumerate((72, 160, 250))]
        heads = [(72, 700, "Pier"), (160, 700, "May"), (250, 700, "June")]
        rows = [("TR", *(("TD", 3 + 3 * r + c) for c in range(3))) for r in range(4)]
        # The tree gives the first head alone to the table, the others to a paragraph.
        tree = [("Table", ("TR", ("TH", 0), ("TH",), ("TH",)), *rows), ("P", 1, 2)]
        document = wennak.read(tagged_pdf([*heads, *body], tree))
        (table,) = document.tables
        self.assertEqual(rows_of(table)[0], ["Pier", "May", "June"])
        self.assertIn("tags-not-used", [f.code for f in document.findings])


if __name__ == "__main__":
    unittest.main()
