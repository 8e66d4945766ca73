"""A page as pixels, for people to look at; no text is read from them."""

from __future__ import annotations

import io
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from ..errors import DamagedPdf

if TYPE_CHECKING:
    from PIL.Image import Image

# No side of a picture is longer than this many pixels, whatever the size of the page.
MAX_PIXELS = 4000


def page_pictures(
    source: Path | bytes, numbers: Sequence[int], name: str, password: str = "", scale: float = 2.0
) -> Iterator[tuple[int, Image, float]]:
    """Yield number, picture and scale (pixels a point) of pages, numbered from 1.

    Pages larger than `MAX_PIXELS` at `scale` are drawn smaller. Raises DamagedPdf where the pages cannot be
    drawn.
    """
    import pypdfium2

    data = source if isinstance(source, bytes) else source.read_bytes()
    try:
        pdf = pypdfium2.PdfDocument(io.BytesIO(data), password=password or None)
    except pypdfium2.PdfiumError as error:
        raise DamagedPdf(f"{name} cannot be drawn; its pages can only be converted.") from error
    try:
        for number in numbers:
            page = pdf[number - 1]
            size = min(scale, MAX_PIXELS / max(*page.get_size(), 1.0))
            yield number, page.render(scale=size).to_pil().convert("RGB"), size
    except (pypdfium2.PdfiumError, IndexError) as error:
        raise DamagedPdf(f"Page {number} of {name} cannot be drawn; leave it out with --pages.") from error
    finally:
        pdf.close()
