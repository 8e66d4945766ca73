"""How much memory pages that are pictures need: a few times their pixels, whatever the file."""

from __future__ import annotations

import os
import tracemalloc
import unittest
from collections.abc import Callable

import numpy as np
import pikepdf
from PIL import Image, ImageDraw

from tests.support import DEMO, InFolder
from wennak.ink.raster import page_grey
from wennak.scan.light import even_light, smoothed
from wennak.scan.marks import find_marks, specks, without
from wennak.scan.picture import strips
from wennak.scan.sizes import stroke_widths
from wennak.scan.straighten import find_skew
from wennak.scan.threshold import inked

DPI = 300.0


def peak(work: Callable[[], object]) -> int:
    """Return how many bytes are taken at most, beyond those taken before."""
    tracemalloc.start()
    try:
        work()
        return tracemalloc.get_traced_memory()[1]
    finally:
        tracemalloc.stop()


def page() -> np.ndarray:
    """A page of 2,000 letters on grey paper."""
    picture = Image.new("L", (1240, 1754), 225)
    pen = ImageDraw.Draw(picture)
    for k in range(2000):
        pen.text((60 + k % 50 * 22, 60 + k // 50 * 40), "ABEHKRSX"[k % 8], fill=30, font_size=22)
    return np.asarray(picture)


class TestMemory(InFolder):
    def test_of_a_large_file_only_the_page_is_read(self) -> None:
        path = self.folder / "large.pdf"
        with pikepdf.open(DEMO / "engine-inspection-scan.pdf") as pdf:
            pdf.Root.Ballast = pdf.make_indirect(pikepdf.Stream(pdf, os.urandom(60_000_000)))
            pdf.save(path, compress_streams=False)
        small = page_grey(DEMO / "engine-inspection-scan.pdf", 1, "small.pdf", "", 1.0)
        found: list[np.ndarray] = []
        self.assertLess(peak(lambda: found.append(page_grey(path, 1, "large.pdf", "", 1.0))), 10_000_000)
        self.assertTrue(np.array_equal(found[0], small))

    def test_steps_need_a_few_bytes_for_each_pixel(self) -> None:
        grey = page()
        lit = even_light(grey, DPI).grey
        ink = inked(lit)
        marks = find_marks(ink, DPI)
        marks = without(marks, specks(marks))
        self.assertEqual(len(marks), 2000)
        for name, work, most in (
            ("skew", lambda: find_skew(grey), 20),
            ("light", lambda: even_light(grey, DPI), 5),
            ("smoothed", lambda: smoothed(grey, 1.0), 7),
            ("marks", lambda: find_marks(ink, DPI), 4),
            ("strokes", lambda: stroke_widths(marks, lit), 2),
        ):
            with self.subTest(name):
                self.assertLess(peak(work) / grey.size, most)

    def test_any_number_of_marks_is_told_apart(self) -> None:
        ink = np.zeros((600, 600), dtype=np.bool_)
        ink[::2, ::2] = True
        for rows, count in ((10, 1500), (600, 90_000)):
            marks = find_marks(ink[:rows], DPI)
            self.assertEqual(len(marks), count)
            self.assertEqual(len(np.unique(marks.labels)), count + 1)
            self.assertTrue((marks.labels[marks.y0, marks.x0] == marks.number).all())

    def test_strips_cover_every_row_once(self) -> None:
        for height in (0, 1, 5, 16, 17, 1000, 3508):
            rows = [row for band in strips(height) for row in range(band.start, band.stop)]
            self.assertEqual(rows, list(range(height)))

    def test_strips_change_no_stroke(self) -> None:
        """A letter that many strips cut is as wide as one within a single strip."""
        ink = np.zeros((64, 300), dtype=np.bool_)
        ink[6:58, 10:14] = ink[6:58, 40:48] = True
        low = find_marks(ink, DPI)
        high = find_marks(np.pad(ink, ((0, 2000), (0, 0))), DPI)
        light = np.where(ink, 0, 255).astype(np.uint8)
        tall = np.pad(light, ((0, 2000), (0, 0)), constant_values=255)
        np.testing.assert_array_equal(stroke_widths(low, light), stroke_widths(high, tall))
        self.assertLess(*stroke_widths(low, light))


if __name__ == "__main__":
    unittest.main()
