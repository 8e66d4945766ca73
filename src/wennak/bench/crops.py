"""Pictures of the places where tables stand, to be shown beside truth and reading."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from pathlib import Path

from ..errors import WennakError
from ..ink.raster import cropped, grey_url, page_pictures
from ..model import Box, Place

# Pixels a point; enough to read eight-point print.
SCALE = 1.35
MARGIN = 6.0
# Taller crops are cut: two thirds of a page are enough to see what is there.
TALLEST = 560.0


def crop_data(pdf: Path, places: Mapping[int, Sequence[Place]]) -> dict[int, str]:
    """Return, by key, a data URL with a grey PNG of the first place of each, as far as it can be drawn."""
    by_page: dict[int, list[tuple[int, Place]]] = {}
    for key, found in places.items():
        if found:
            by_page.setdefault(found[0].page, []).append((key, found[0]))
    out: dict[int, str] = {}
    try:
        for number, picture, scale in page_pictures(pdf, sorted(by_page), pdf.name, scale=SCALE):
            for key, place in by_page[number]:
                b = place.box
                lower = min(b.y1, b.y0 + TALLEST)
                around = Box(b.x0 - MARGIN, b.y0 - MARGIN, b.x1 + MARGIN, lower + MARGIN)
                out[key] = grey_url(cropped(picture, around, scale))
    except (WennakError, OSError, ValueError):
        pass
    return out
