"""Rows that head others: by indentation, and by labels that stand alone."""

from __future__ import annotations

import random
import unittest

from openpyxl import load_workbook

import wennak
from tests.support import InFolder, run, run_here
from tests.test_tables import drawn, table

PLACES = ["Hollinquay", "Oskay", "Brannsey", "Tarnvoe", "Fenholm", "Mill Voe", "Outer Head", "Little Skerra"]


def tree(rng: random.Random, depth: int = 0) -> list[tuple[int, str]]:
    """Labels with their depths, as a table prints them: each is set in one step more than what heads it."""
    out = []
    for _ in range(rng.randrange(2, 4)):
        out.append((depth, f"{rng.choice(PLACES)} {rng.randrange(1000)}"))
        if depth < 2 and rng.random() < 0.6:
            out += tree(rng, depth + 1)
    return out


def paths(labels: list[tuple[int, str]]) -> list[list[str]]:
    out, above = [], []
    for depth, label in labels:
        above = above[:depth]
        out.append(list(above))
        above.append(label)
    return out


def indented(labels: list[tuple[int, str]], look: str = "rules", **options: object) -> bytes:
    rng = random.Random(7)
    rows = [
        ["Place", "Boats", "Crew"],
        *([t, str(rng.randrange(99)), f"{rng.random():.2f}"] for _, t in labels),
    ]
    pads = [("LEFTPADDING", (0, k), (0, k), 6 + 11 * depth) for k, (depth, _) in enumerate(labels, start=1)]
    aligned = [("ALIGN", (1, 0), (-1, -1), "RIGHT")]
    return drawn(table(rows, look, *pads, *aligned, colWidths=(180, 60, 60), repeatRows=1, **options))


class TestHierarchy(InFolder):
    def test_indentation_gives_the_tree_back_over_pages_too(self) -> None:
        rng = random.Random(11)
        for look in ("rules", "bare", "grid"):
            for _ in range(4):
                labels = [entry for _ in range(6) for entry in tree(rng)]
                with self.subTest(look, labels=len(labels)):
                    document = wennak.read(indented(labels, look))
                    (found,) = document.tables
                    self.assertEqual(found.row_paths()[found.header_rows :], paths(labels))
                    (self.folder / "table.json").write_text(document.json(), encoding="utf-8")
                    again = wennak.load(self.folder / "table.json").tables[0]
                    self.assertEqual((again.heads, again.cells), (found.heads, found.cells))

    def test_labels_to_the_right_centred_or_level_head_nothing(self) -> None:
        rows = [["No", "Boats"], *([str(10**k), str(k)] for k in range(6))]
        names = [["Place", "Boats"], *([name, "4"] for name in PLACES)]
        for align, content in (("RIGHT", rows), ("CENTER", names), ("LEFT", names)):
            with self.subTest(align):
                style = ("ALIGN", (0, 0), (0, -1), align)
                (found,) = wennak.read(drawn(table(content, "grid", style, colWidths=(120, 60)))).tables
                self.assertEqual((found.heads, {c.indent for c in found.cells}), ([], {0}))

    def test_groups_end_with_their_totals(self) -> None:
        rows = [
            ["Berth", "Nights", "Crowns"],
            ["Gannet Rock", "", ""], ["April", "3", "30.00"], ["May", "4", "40.00"], ["Subtotal", "7", "70"],
            ["Selkie", "", ""], ["April", "1", "10.00"], ["May", "2", "20.00"], ["Subtotal", "3", "30"],
            ["Total", "10", "100.00"],
        ]  # fmt: skip
        (found,) = wennak.read(drawn(table(rows, "grid", colWidths=(120, 60, 60)))).tables
        self.assertEqual(found.heads, [-1, -1, 1, 1, 1, -1, 5, 5, 5, -1])
        self.assertEqual(found.row_paths()[6], ["Selkie"])

    def test_outputs_show_what_heads_a_row(self) -> None:
        labels = [(0, "Ferries"), (1, "Skerra"), (1, "Tern"), (0, "Launches"), (1, "Auk")]
        document = wennak.read(indented(labels))
        self.assertRegex(document.html(), r'<td style="padding-left: 1\.8em"[^>]*>Skerra</td>')
        (passage,) = (p for p in document.passages(records=True) if p.kind == "table")
        self.assertIn("Ferries; Place: Skerra; Boats:", passage.text)
        (self.folder / "boats.pdf").write_bytes(indented(labels))
        saved = run("tables", "boats.pdf", "--save", "out", "--as", "xlsx", cwd=self.folder)
        self.assertEqual(saved.returncode, 0, saved.stderr)
        (book,) = (self.folder / "out").glob("*.xlsx")
        sheet = load_workbook(book).worksheets[0]
        self.assertEqual([sheet.cell(r, 1).alignment.indent for r in range(2, 7)], [0, 1, 1, 0, 1])
        shown = run_here("tables", "boats.pdf", "--show", "1", cwd=self.folder).stdout
        self.assertRegex(shown, r"(?m)^ {2}Ferries .*\n {4}Skerra ")


if __name__ == "__main__":
    unittest.main()
