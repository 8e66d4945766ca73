"""A page as pixels, for people to look at; no text is read from them."""

from __future__ import annotations

import base64
import io
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np
import numpy.typing as npt

from ..errors import DamagedPdf
from ..model import Box

if TYPE_CHECKING:
    from PIL.Image import Image

# Shades of grey of a picture that goes into a page as data.
_SHADES = 16
# No side of a picture is longer than this many pixels, whatever the size of the page.
MAX_PIXELS = 4000
# A page to be read has at most so many pixels in all.
MAX_GREY = 40e6
Grey = npt.NDArray[np.uint8]


@contextmanager
def drawing(
    source: Path | bytes, name: str, password: str = ""
) -> Iterator[Callable[[int, float], tuple[Image, float]]]:
    """Open a file to be drawn: gives what draws a page, numbered from 1, at so many pixels a point, and
    returns the picture and its scale.

    Pages larger than `MAX_PIXELS` at that scale are drawn smaller. Raises DamagedPdf where the file, or then
    the page, cannot be drawn. One page is drawn at a time.
    """
    with _opened(source, name, password) as pages:

        def draw(number: int, scale: float) -> tuple[Image, float]:
            page = pages(number)
            size = min(scale, MAX_PIXELS / max(*page.get_size(), 1.0))
            # In this order of bytes nothing has to be copied.
            picture = page.render(scale=size, rev_byteorder=True).to_pil()
            return picture if picture.mode == "RGB" else picture.convert("RGB"), size

        yield draw


def page_pictures(
    source: Path | bytes, numbers: Sequence[int], name: str, password: str = "", scale: float = 2.0
) -> Iterator[tuple[int, Image, float]]:
    """Yield number, picture and scale (pixels a point) of pages, as `drawing` draws them."""
    with drawing(source, name, password) as draw:
        for number in numbers:
            yield number, *draw(number, scale)


def page_grey(source: Path | bytes, number: int, name: str, password: str, scale: float) -> Grey:
    """Return a page as seen in grey, lines from top to bottom, at `scale` pixels a point.

    It is drawn smaller where it would have more than `MAX_GREY` pixels. Raises DamagedPdf where the page
    cannot be drawn.
    """
    with _opened(source, name, password) as pages:
        page = pages(number)
        width, height = page.get_size()
        size = min(scale, (MAX_GREY / max(width * height, 1.0)) ** 0.5)
        return np.atleast_2d(np.array(page.render(scale=size, grayscale=True).to_numpy()).squeeze())


@contextmanager
def _opened(source: Path | bytes, name: str, password: str) -> Iterator[Callable[[int], Any]]:
    """Gives what opens a page to be drawn. Raises DamagedPdf where that cannot be."""
    import pypdfium2

    # Of a file only what a page needs is read.
    data = io.BytesIO(source) if isinstance(source, bytes) else source
    try:
        pdf = pypdfium2.PdfDocument(data, password=password or None)
    except pypdfium2.PdfiumError as error:
        raise DamagedPdf(f"{name} cannot be drawn; its pages can only be converted.") from error

    def page(number: int) -> Any:
        try:
            return pdf[number - 1]
        except (pypdfium2.PdfiumError, IndexError) as error:
            said = f"Page {number} of {name} cannot be drawn; leave it out with --pages."
            raise DamagedPdf(said) from error

    try:
        yield page
    finally:
        pdf.close()


def cropped(picture: Image, box: Box, scale: float) -> Image:
    """Return the part of a page's picture in a box (points), as far as it lies on the page."""
    limits = (picture.width, picture.height) * 2
    sides = (box.x0, box.y0, box.x1, box.y1)
    x0, y0, x1, y1 = (
        min(max(0, round(side * scale)), limit) for side, limit in zip(sides, limits, strict=True)
    )
    return picture.crop((x0, y0, max(x1, x0 + 1), max(y1, y0 + 1)))


def grey_url(picture: Image) -> str:
    """Return a picture as a data URL with a small grey PNG, for pages that need nothing else."""
    data = io.BytesIO()
    picture.convert("L").quantize(_SHADES).save(data, "PNG", optimize=True)
    return "data:image/png;base64," + base64.b64encode(data.getvalue()).decode("ascii")
