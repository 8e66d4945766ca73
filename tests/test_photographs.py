"""Photographs of pages taken at an angle: their corners are found, and they are read as seen straight on."""

from __future__ import annotations

import unittest
from collections.abc import Sequence

import numpy as np
from PIL import Image

import wennak
from tests.support import DEMO, InFolder
from tests.test_scan import page_of
from wennak.bench.grid import grid_of
from wennak.ink import Floats
from wennak.scan import installed_languages
from wennak.scan.corners import find_corners, perspective, straightened

Corners = Sequence[tuple[float, float]]
SIZE = (760, 1000)
ROOMS: Corners = [(110, 120), (650, 80), (720, 920), (40, 890)]


def view(page: Image.Image, corners: Corners, size: tuple[int, int], desk: int, seed: int = 1) -> Image.Image:
    """What a camera sees of a page on a desk (grey level), darker to the left, with noise."""
    random = np.random.default_rng(seed)
    own = [(0, 0), (page.width, 0), (page.width, page.height), (0, page.height)]
    seen = perspective(np.array(corners, dtype=np.float64), np.array(own, dtype=np.float64)).tolist()
    how = size, Image.Transform.PERSPECTIVE, seen, Image.Resampling.BICUBIC
    whole = Image.new("L", page.size, 255).transform(*how)
    ground = random.normal(desk, 12, size=size[::-1]).clip(0, 255).astype(np.uint8)
    picture = np.asarray(
        Image.composite(page.transform(*how), Image.fromarray(ground), whole), dtype=np.float64
    )
    picture = picture * np.linspace(0.75, 1, size[0]) + random.normal(0, 4, size=size[::-1])
    return Image.fromarray(picture.clip(0, 255).astype(np.uint8))


def written(width: int = 600, height: int = 850) -> Image.Image:
    """A page with lines of marks, a dark stripe and a frame."""
    page = np.full((height, width), 250, dtype=np.uint8)
    for top in range(60, height - 60, 18):
        for left in range(50, width - 70, 9):
            page[top : top + 7, left : left + 5] = 30
    page[200:240, 40 : width - 40] = 60
    return Image.fromarray(page)


class TestCorners(unittest.TestCase):
    def test_they_are_found_wherever_the_camera_stood(self) -> None:
        random = np.random.default_rng(3)
        for trial in range(12):
            scale = random.uniform(0.6, 3)
            corners: Floats = (np.array(ROOMS) + random.uniform(-32, 32, (4, 2))) * scale
            size = (round(SIZE[0] * scale), round(SIZE[1] * scale))
            seen = view(written(), corners.tolist(), size, desk=int(random.integers(20, 110)), seed=trial)
            with self.subTest(trial=trial):
                found = find_corners(np.asarray(seen))
                assert found is not None
                self.assertLess(float(np.abs(found - corners).max()), 0.006 * max(size))
                flat = straightened(seen)
                assert flat is not None
                # Its sides are white, as those of the page are.
                edge = np.asarray(flat)[flat.height // 50 :: 7, flat.width // 50]
                self.assertGreater(float((edge > 130).mean()), 0.95)

    def test_what_is_seen_straight_on_or_not_whole_stays_as_it_is(self) -> None:
        straight = [(100, 100), (660, 100), (660, 900), (100, 900)]
        turned = [(100, 140), (650, 100), (700, 890), (150, 930)]
        cut_off = [(-60, 120), (650, 80), (720, 920), (-140, 890)]
        bent = np.asarray(view(written(), straight, SIZE, 50)).copy()
        for x in range(SIZE[0]):
            bent[:, x] = np.roll(bent[:, x], round(60 * np.sin(x / 180)))
        random = np.random.default_rng(5)
        y, x = np.mgrid[0 : SIZE[1], 0 : SIZE[0]] / max(SIZE)
        page = np.full(SIZE[::-1], 250.0)
        ways = {a: x * np.cos(np.radians(a)) + y * np.sin(np.radians(a)) for a in (2, 88, 178, 182, 268, 358)}
        lights = {f"light at {a} degrees": page - 130 * (way - way.min()) for a, way in ways.items()}
        pictures = {
            **{name: Image.fromarray(dim.clip(0, 255).astype(np.uint8)) for name, dim in lights.items()},
            "straight": view(written(), straight, SIZE, 50),
            "a little turned": view(written(), turned, SIZE, 50),
            "cut off": view(written(), cut_off, SIZE, 50),
            "bent": Image.fromarray(bent),
            "no desk": written(),
            "a light desk": view(written(), ROOMS, SIZE, 250),
            "dark": Image.new("L", SIZE, 20),
            "white": Image.new("L", SIZE, 255),
            "noise": Image.fromarray(random.integers(0, 256, SIZE[::-1]).astype(np.uint8)),
            **{f"{w} by {h}": Image.new("L", (w, h), 200) for w, h in ((1, 1), (1, 40), (3, 2), (2000, 1))},
        }
        for name, picture in pictures.items():
            with self.subTest(name):
                self.assertIsNone(straightened(picture))


@unittest.skipUnless(installed_languages(), "needs the extra ocr")
class TestReading(InFolder):
    def test_a_ledger_on_a_desk_reads_as_the_ledger(self) -> None:
        page = page_of(DEMO / "berth-ledger.pdf", 150).convert("L")
        corners = [(190, 240), (1450, 150), (1590, 2080), (80, 1990)]
        path = self.folder / "ledger.jpg"
        view(page, corners, (1700, 2200), 60).save(path, quality=85)
        (found,), (true,) = (wennak.read(p).tables for p in (path, DEMO / "berth-ledger.pdf"))
        read, drawn = (set(grid_of(table).cells) for table in (found, true))
        self.assertGreater(len(read & drawn) / len(drawn), 0.95)


if __name__ == "__main__":
    unittest.main()
