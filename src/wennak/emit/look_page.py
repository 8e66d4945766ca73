"""One HTML page that shows pictures of pages beside what was read on them."""

from __future__ import annotations

from typing import Any

from ..model import Block, Document, Table, block_texts
from .html import STYLE, block_html
from .overlay import COLOURS, role_name
from .page import page_of

# So many words of a text name the place above or below a region.
WORDS = 6


def look_page(document: Document, pictures: dict[int, str], source: str) -> str:
    """Return the HTML page; `pictures` gives the file name of the picture of each page to show, `source` is
    what commands call the document.
    """
    from markupsafe import Markup

    pages = [_page(document, number, picture) for number, picture in pictures.items()]
    return page_of(
        "wennak.emit", "look", {"source": source, "pages": _places(document, list(pictures))},
        source=document.source, colours=COLOURS, pages=pages, style=Markup(STYLE),
    )  # fmt: skip


def _places(document: Document, numbers: list[int]) -> dict[int, dict[str, Any]]:
    """What pointing needs of each page: its size, and texts with their boxes that can name a place."""
    sizes = {page.number: page for page in document.pages}
    out: dict[int, dict[str, Any]] = {
        n: {"width": sizes[n].width, "height": sizes[n].height, "texts": []} for n in numbers
    }
    for block in document.blocks:
        if isinstance(block, Table) or not (texts := block_texts(block)):
            continue
        words = " ".join(texts[0].split()[:WORDS])
        for place in block.places:
            if place.page in out:
                box = place.box
                out[place.page]["texts"].append([box.x0, box.y0, box.x1, box.y1, words])
    return out


def _page(document: Document, number: int, picture: str) -> dict[str, Any]:
    blocks = [
        _entry(k, block)
        for k, block in enumerate(document.blocks, start=1)
        if any(place.page == number for place in block.places)
    ]
    return {
        "number": number,
        "picture": picture,
        "blocks": blocks,
        "running": [f.text for f in document.running if f.place.page == number],
        "findings": [f.message for f in document.findings if f.page in (0, number)],
    }


def _entry(number: int, block: Block) -> dict[str, Any]:
    from markupsafe import Markup

    return {
        "number": number,
        "role": role_name(block),
        "colour": COLOURS[block.kind],
        "html": Markup(block_html(block)),
    }
