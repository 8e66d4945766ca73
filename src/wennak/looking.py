"""Pictures of pages with what was read drawn over them."""

from __future__ import annotations

from pathlib import Path

from .emit import look_page, overlay, write_whole
from .errors import UsageError
from .ink.raster import page_pictures
from .pipeline import DEFAULT_METHOD, read


def look(
    source: str | Path,
    out: str | Path,
    pages: str | None = None,
    method: str = DEFAULT_METHOD,
    password: str = "",
) -> list[Path]:
    """Draw pages of a PDF with what was read on them into the folder `out`.

    Writes one PNG a page and `index.html`, which shows all of them beside what was read; returns the paths,
    `index.html` first. Raises SourceError and UsageError as `read` does, and UsageError if `out` is a file.
    """
    folder = Path(out)
    if folder.exists() and not folder.is_dir():
        raise UsageError(f"{out} is a file; name a folder to write to.")
    document = read(source, pages, method, password)
    folder.mkdir(parents=True, exist_ok=True)
    numbers = [page.number for page in document.pages]
    names: dict[int, str] = {}
    for number, picture, scale in page_pictures(Path(source), numbers, document.source, password):
        names[number] = f"page-{number}.png"
        overlay(picture, document, number, scale).save(folder / names[number])
    index = folder / "index.html"
    write_whole(index, look_page(document, names))
    return [index, *(folder / name for name in names.values())]
