"""Picture files -> PDFs that show each of their pictures on a page of its own."""

from __future__ import annotations

import io
import zlib
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pikepdf
from PIL import Image, ImageOps, ImageSequence

from ..errors import DamagedPdf
from .corners import straightened
from .marks import letter_heights
from .threshold import inked

# Resolutions that a file may name and be believed (dots an inch).
BELIEVED = (50.0, 1300.0)
# Where a file names none, its letters are taken to be this high (points): most of those of text of 10 points.
LETTER = 5.5
USUAL = 200.0
# The level at which pictures are packed.
QUICKLY = 1


def as_pdf(source: Path | bytes, name: str) -> bytes:
    """Return a PDF with a page for each picture of a file, at the resolution that it names; a photograph of a
    page that was taken at an angle shows it straight on.

    Where a file names no resolution that can be believed, the height of its letters tells. Raises DamagedPdf
    where a picture cannot be opened.
    """
    pdf = pikepdf.new()
    try:
        with Image.open(source if isinstance(source, Path) else io.BytesIO(source)) as file:
            for picture, dpi in _pictures(file):
                _add_page(pdf, picture, dpi)
    except (OSError, ValueError, SyntaxError, Image.DecompressionBombError) as error:
        raise DamagedPdf(f"{name} is a picture that cannot be opened; it is damaged or too large.") from error
    out = io.BytesIO()
    # The same file gives the same bytes.
    pdf.save(out, deterministic_id=True)
    return out.getvalue()


def _pictures(file: Image.Image) -> Iterator[tuple[Image.Image, float]]:
    for frame in ImageSequence.Iterator(file):
        named = frame.info.get("dpi", (0, 0))
        picture = ImageOps.exif_transpose(frame)
        if "A" in picture.getbands() or "transparency" in picture.info:
            clear = picture.convert("RGBA")
            picture = Image.new("RGB", clear.size, "white")
            picture.paste(clear, mask=clear.getchannel("A"))
        picture = picture.convert("L" if picture.mode in ("1", "L", "I;16", "I", "F") else "RGB")
        if (flat := straightened(picture)) is not None:
            # What a camera says of its resolution is not that of a page.
            yield flat, _resolution(flat)
            continue
        dpi = float(named[0])
        yield picture, dpi if BELIEVED[0] <= dpi <= BELIEVED[1] else _resolution(picture)


def _resolution(picture: Image.Image) -> float:
    """The resolution that the height of letters speaks for."""
    height = letter_heights(inked(np.asarray(picture.convert("L"))))
    return min(max(height / LETTER * 72, BELIEVED[0]), BELIEVED[1]) if height else USUAL


def _add_page(pdf: pikepdf.Pdf, picture: Image.Image, dpi: float) -> None:
    # At the usual level packing takes most of the time that opening a picture takes.
    stream: Any = pikepdf.Stream(pdf, zlib.compress(picture.tobytes(), QUICKLY))
    stream.Filter = pikepdf.Name.FlateDecode
    stream.Type, stream.Subtype = pikepdf.Name.XObject, pikepdf.Name.Image
    stream.Width, stream.Height, stream.BitsPerComponent = picture.width, picture.height, 8
    grey = picture.mode == "L"
    stream.ColorSpace = pikepdf.Name.DeviceGray if grey else pikepdf.Name.DeviceRGB
    width, height = (side / dpi * 72 for side in picture.size)
    page = pdf.add_blank_page(page_size=(width, height))
    page.Resources = pikepdf.Dictionary(XObject=pikepdf.Dictionary(P=pdf.make_indirect(stream)))
    page.Contents = pdf.make_stream(b"q %f 0 0 %f 0 0 cm /P Do Q" % (width, height))
