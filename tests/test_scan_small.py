"""Small print in pictures of few dots, where the letters of a word hang together."""

from __future__ import annotations

import io
import unittest
from unittest import mock

import numpy as np
from PIL import Image, ImageFilter
from rapidfuzz import fuzz

import wennak
from tests.support import pdf_of
from tests.test_scan import page_of
from tests.test_scan_looks import line
from wennak.ink import UNKNOWN
from wennak.scan import installed_languages
from wennak.scan.marks import find_marks
from wennak.scan.orientation import stands_on_head
from wennak.scan.picture import Grey
from wennak.scan.points import unread
from wennak.scan.recogniser import Read, open_recogniser

LABELS = ("Berths", "Moorings", "Pilotage")
DPI = 120


def said_at(text: str, *places: tuple[float, float]) -> Read:
    read = Read()
    for k, (letter, (x0, x1)) in enumerate(zip(text, places, strict=True)):
        read.put(letter, x0, x1, 0.9, k == 0)
    return read


class TestSmallPrint(unittest.TestCase):
    def ledger(self, size: float) -> bytes:
        """Numbers in columns, with labels on their side over them, in soft print."""
        lines = [
            f"BT /F1 {size} Tf {72 + 40 * j} {600 - 12 * k} Td ({value:,}) Tj ET"
            for k, row in enumerate(self.rows())
            for j, value in enumerate(row)
        ]
        lines += [
            f"BT /F1 {size} Tf 0 1 -1 0 {82 + 40 * j} 612 Tm ({label}) Tj ET"
            for j, label in enumerate(LABELS)
        ]
        page = page_of(pdf_of("\n".join(lines)), DPI).filter(ImageFilter.GaussianBlur(0.9))
        out = io.BytesIO()
        page.save(out, "PNG", dpi=(DPI, DPI))
        return out.getvalue()

    def rows(self) -> list[tuple[int, int, int]]:
        return [(3300 + 17 * k, 1840 - 31 * k, 546 + 7 * k) for k in range(9)]

    @unittest.skipUnless(installed_languages(), "needs the extra ocr")
    def test_stacked_numbers_are_no_labels_on_their_side_and_such_labels_are_read(self) -> None:
        (table,) = wennak.read(self.ledger(7), name="ledger.png").tables
        grid = [[cell.text if cell else "" for cell in row] for row in table.grid()]
        for label, text in zip(LABELS, grid[0], strict=True):
            self.assertGreater(fuzz.ratio(label, text), 70)
        self.assertEqual(len(grid), 1 + len(self.rows()))
        # Every value is there, if only as a sign for what could not be read.
        self.assertTrue(all(text for row in grid for text in row), grid)
        digits = [["".join(filter(str.isdigit, text)) for text in row] for row in grid[1:]]
        right = [
            a == str(b)
            for said, row in zip(digits, self.rows(), strict=True)
            for a, b in zip(said, row, strict=True)
        ]
        self.assertGreater(sum(right), 0.8 * len(right), grid)

    def test_a_letter_said_to_be_the_whole_word_stands_between_the_others(self) -> None:
        for places, wanted in (
            (((0, 7), (7, 13), (0, 30), (18, 24), (23, 30)), (13, 18)),
            (((0, 30), (6, 12), (12, 18), (18, 24), (24, 30)), (0, 6)),
            (((0, 6), (6, 12), (12, 18), (18, 24), (0, 30)), (24, 30)),
        ):
            read = said_at("Berth", *places).placed(0, 1)
            spread = [k for k, place in enumerate(places) if place == (0, 30)]
            self.assertEqual([(read.x0[k], read.x1[k]) for k in spread], [wanted])
            self.assertEqual(
                [(read.x0[k], read.x1[k]) for k in range(5) if k not in spread],
                [place for k, place in enumerate(places) if k not in spread],
            )
        # The last of a word may be said to be where the next words are.
        read = said_at("quay", (0, 6), (6, 12), (12, 18), (20, 90))
        for k, letter in enumerate("of the board"):
            if letter != " ":
                read.put(letter, 30 + 6 * k, 36 + 6 * k, 0.9, k in (0, 3, 7))
        read.placed(0, 1)
        self.assertEqual((read.x0[3], read.x1[3], read.x0[4]), (18, 24, 30))
        # A point may stand under the arm of a figure.
        narrow = said_at("7.", (0, 9), (6, 8)).placed(0, 1)
        self.assertEqual((narrow.x0, narrow.x1), ([0, 6], [9, 8]))

    @unittest.skipUnless(installed_languages(), "needs the extra ocr")
    @unittest.skipUnless(installed_languages(), "needs the extra ocr")
    def test_whether_a_page_stands_on_its_head_is_asked_of_the_level_page(self) -> None:
        lines = [
            f"BT /F1 10 Tf 72 {600 - 30 * k} Td (At {k} the keeper counts all vessels) Tj ET"
            for k in range(6)
        ]
        page, out = page_of(pdf_of("\n".join(lines)), DPI), io.BytesIO()
        page.rotate(7, Image.Resampling.BICUBIC, fillcolor=255).save(out, "PNG", dpi=(DPI, DPI))
        with mock.patch("wennak.scan.page.stands_on_head", return_value=False) as asked:
            wennak.read(out.getvalue(), name="notes.png")
        shown: list[Grey] = []

        def read(picture: Grey, alphabet: str = "") -> Read:
            shown.append(picture)
            return said_at("a", (0, 9))

        with mock.patch("wennak.scan.orientation.UPRIGHT", 2.0):
            stands_on_head(*asked.call_args.args[:2], mock.Mock(read=read))
        # Letters stand along all of each line.
        self.assertEqual(len(shown), 2 * len(lines))
        for picture in shown:
            self.assertGreater(float((picture < 128).any(axis=0).mean()), 0.5)

    def test_lines_in_much_noise_are_read(self) -> None:
        said = "Vessels that leave the outer quay are entered in a ledger"
        clean = line("Times-Roman", said, 140, 0.6)
        inked = np.flatnonzero((clean < 200).any(axis=1))
        clean = clean[inked[0] - 6 : inked[-1] + 7]
        recogniser = open_recogniser(["eng"])
        for seed in range(8):
            noise = np.random.default_rng(seed).normal(0, 20, clean.shape)
            faint = Image.fromarray((255 - (255.0 - clean) * 0.4 + noise).clip(0, 255).astype(np.uint8))
            wide = faint.resize((faint.width * 5 // 2, faint.height * 5 // 2), Image.Resampling.BICUBIC)
            read = recogniser.read(np.asarray(wide))
            with self.subTest(seed=seed):
                self.assertGreater(fuzz.ratio("".join(read.texts), said.replace(" ", "")), 65)

    def test_what_is_written_and_not_read_has_a_sign_for_it_and_dirt_has_none(self) -> None:
        page = page_of(pdf_of("BT /F1 12 Tf 72 700 Td (Berths and moorings) Tj ET"), 200)
        grey = np.asarray(page)
        marks = find_marks(grey < 128, 200)
        word = np.argsort(marks.x0, kind="stable")[:6]
        read = unread(marks, word)
        self.assertEqual((read.texts, read.sure), ([UNKNOWN], [0.0]))
        self.assertEqual((read.x0[0], read.x1[0]), (marks.x0[word].min(), marks.x1[word].max()))
        frame = np.full((300, 600), 255, dtype=np.uint8)
        frame[50:52, 40:400], frame[150:152, 40:400] = 0, 0
        frame[50:152, 40:42], frame[50:152, 398:400] = 0, 0
        letters = Image.fromarray(frame)
        letters.paste(page.crop(page.point(lambda v: 255 - v).getbbox()), (60, 220))
        marks = find_marks(np.asarray(letters) < 128, 200)
        drawn = np.flatnonzero(marks.w > 300)
        self.assertEqual(len(drawn), 1)
        self.assertEqual(unread(marks, drawn).texts, [])


if __name__ == "__main__":
    unittest.main()
