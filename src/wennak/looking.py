"""Pictures of pages with what was read drawn over them, and of the figures of a document."""

from __future__ import annotations

import io
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import TYPE_CHECKING

from .emit import write_whole
from .emit.look_page import look_page
from .emit.overlay import overlay
from .errors import UsageError
from .ink.raster import cropped, page_pictures
from .methods import DEFAULT_METHOD
from .model import Box, Document, Figure, Formula
from .pipeline import opened, read
from .scan import AS_NEEDED, Recognition

if TYPE_CHECKING:
    from PIL.Image import Image


def look(
    source: str | Path,
    out: str | Path,
    pages: str | None = None,
    method: str = DEFAULT_METHOD,
    password: str = "",
    recognition: Recognition = AS_NEEDED,
) -> list[Path]:
    """Draw pages of a PDF with what was read on them into the folder `out`; pictures that did not stand level
    are drawn turned so that they do.

    Writes one PNG a page and `index.html`, which shows all of them beside what was read; returns the paths,
    `index.html` first. Raises SourceError and UsageError as `read` does, and UsageError if `out` is a file.
    """
    folder = Path(out)
    if folder.exists() and not folder.is_dir():
        raise UsageError(f"{out} is a file; name a folder to write to.")
    document = read(source, pages, method, password, recognition=recognition)
    folder.mkdir(parents=True, exist_ok=True)
    numbers = [page.number for page in document.pages]
    names: dict[int, str] = {}
    for number, picture in _drawn(document, opened(source)[1], numbers, password):
        names[number] = f"page-{number}.png"
        picture.save(folder / names[number])
    index = folder / "index.html"
    write_whole(index, look_page(document, names, str(source)))
    return [index, *(folder / name for name in names.values())]


def page_overlay(document: Document, source: Path | bytes, page: int, password: str = "") -> bytes:
    """Return the picture of a page, as PNG, with what was read drawn over it; of the first page that was read
    where there is no such page. Raises DamagedPdf where it cannot be drawn.
    """
    numbers = [p.number for p in document.pages]
    chosen = page if page in numbers else numbers[0]
    png = io.BytesIO()
    for _, picture in _drawn(document, opened(source)[1], [chosen], password):
        picture.save(png, "PNG")
    return png.getvalue()


def _drawn(
    document: Document, data: Path | bytes, numbers: list[int], password: str
) -> Iterator[tuple[int, Image]]:
    """Number and picture of pages, with what was read drawn over it."""
    from PIL.Image import Resampling

    turned = {page.number: page.turned for page in document.pages}
    for number, picture, scale in page_pictures(data, numbers, document.source, password):
        level = picture.rotate(turned[number], Resampling.BICUBIC, fillcolor="white")
        yield number, overlay(level, document, number, scale)


def save_pictures(
    document: Document,
    source: Path | bytes,
    folder: str,
    write: Callable[[str, bytes], None],
    password: str = "",
) -> list[str]:
    """Save the figures and formulas of a document as PNG files in `folder` with `write`, which takes a name,
    with forward slashes, and the bytes; and name each in its block.

    Returns the names. Blocks name them relative to the parent of `folder`, where the outputs that show them
    stand. Raises DamagedPdf where a page cannot be drawn.
    """
    by_page: dict[int, list[tuple[str, Figure | Formula]]] = {}
    for kind in (Figure, Formula):
        shown = [b for b in document.blocks if isinstance(b, kind) and b.places]
        for number, block in enumerate(shown, start=1):
            by_page.setdefault(block.places[0].page, []).append((f"{block.kind}-{number}", block))
    names = []
    for page, picture, scale in page_pictures(opened(source)[1], sorted(by_page), document.source, password):
        for name, block in by_page[page]:
            box = block.places[0].box
            around = Box(box.x0 - 2, box.y0 - 2, box.x1 + 2, box.y1 + 2)
            png = io.BytesIO()
            cropped(picture, around, scale).save(png, "PNG")
            path = f"{folder}/{name}.png"
            write(path, png.getvalue())
            block.picture = "/".join(path.split("/")[-2:])
            names.append(path)
    return names
