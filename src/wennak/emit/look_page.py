"""One HTML page that shows pictures of pages beside what was read on them."""

from __future__ import annotations

from typing import Any

from ..model import Block, Document
from .html import STYLE, block_html
from .overlay import COLOURS, role_name
from .page import page_of


def look_page(document: Document, pictures: dict[int, str]) -> str:
    """Return the HTML page; `pictures` gives the file name of the picture of each page to show."""
    from markupsafe import Markup

    pages = [_page(document, number, picture) for number, picture in pictures.items()]
    return page_of(
        "wennak.emit", "look", source=document.source, colours=COLOURS, pages=pages, style=Markup(STYLE)
    )


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
        "furniture": [f.text for f in document.furniture if f.place.page == number],
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
