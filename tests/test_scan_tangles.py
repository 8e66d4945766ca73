"""Noise and scribble in the picture of a page are not read as writing, and a finding says so."""

from __future__ import annotations

import io
import unittest

import numpy as np
from PIL import Image

import wennak
from tests.support import pdf_of
from tests.test_scan import page_of
from wennak.ink import Floats
from wennak.scan import installed_languages
from wennak.scan.tangles import MANY, find_tangles

DPI = 120
LINES = ("Running hours 12,408", "Next inspection due", "Inspected by the second engineer")


def paragraphs(rows: int, columns: int, em: float, leading: float) -> Floats:
    """Boxes of lines set so tight that their letters reach into the lines beside them."""
    y, x = (np.repeat(np.arange(rows), columns) * leading, np.tile(np.arange(columns), rows) * 30 * em)
    return np.stack((x, y, x + 25 * em, y + em), axis=1)


def heap(count: int, x: float, y: float, side: float) -> Floats:
    """Boxes of a heap: each begins in the middle of the one before."""
    at = np.arange(count) * side / 2
    return np.stack((x + at, y + at % side, x + at + side, y + at % side + side), axis=1)


class TestTangles(unittest.TestCase):
    def test_lines_of_text_are_no_tangle(self) -> None:
        self.assertEqual(len(find_tangles(np.empty((0, 4)))), 0)
        for leading in (10, 10.2, 12, 20):
            self.assertEqual(len(find_tangles(paragraphs(60, 4, 10, leading))), 0, leading)

    def test_a_heap_of_pieces_is_a_tangle_and_a_few_are_none(self) -> None:
        text = paragraphs(20, 2, 10, 12)
        self.assertEqual(len(find_tangles(np.concatenate((text, heap(MANY - 1, 0, 400, 10))))), 0)
        boxes = np.concatenate((text, heap(MANY + 8, 0, 400, 10)))
        (found,) = find_tangles(boxes).tolist()
        self.assertEqual(found[:2], [0, 400])
        self.assertGreaterEqual(found[2], 100)
        # The order of pieces tells nothing.
        shuffled = np.random.default_rng(2).permutation(boxes)
        np.testing.assert_array_equal(find_tangles(shuffled), [found])

    def test_what_lies_in_a_tangle_is_part_of_it_and_may_make_it_larger(self) -> None:
        at = np.arange(MANY) * 20.0
        slope = np.stack((at, at, at + 40, at + 40), axis=1)
        for top, wanted in ((-10.0, -10.0), (-30.0, 0.0)):
            beside = np.array([[150.0, top, 190.0, top + 30]])
            (found,) = find_tangles(np.concatenate((slope, beside))).tolist()
            self.assertEqual(found, [0, wanted, 260, 260])

    @unittest.skipUnless(installed_languages(), "needs the extra ocr")
    def test_a_page_whose_lower_half_is_noise_says_what_its_upper_half_does(self) -> None:
        shown = [f"BT /F1 14 Tf 72 {700 - 30 * k} Td ({line}) Tj ET" for k, line in enumerate(LINES)]
        page = np.array(page_of(pdf_of("\n".join(shown)), DPI))
        low = len(page) // 2
        rows, columns = (page.shape[0] - low) // 8, page.shape[1] // 4
        specks = np.kron(np.random.default_rng(5).random((rows, columns)) < 0.25, np.ones((8, 3)))
        page[low : low + specks.shape[0], : specks.shape[1]][specks > 0] = 40
        out = io.BytesIO()
        Image.fromarray(page).save(out, "PNG", dpi=(DPI, DPI))
        document = wennak.read(out.getvalue(), name="engine.png")
        self.assertEqual(" ".join(document.texts()), " ".join(LINES))
        self.assertEqual([f.code for f in document.findings], ["not-written", "recognised"])


if __name__ == "__main__":
    unittest.main()
