"""PDF bytes -> what is drawn on each page: glyphs, strokes, fills, pictures."""

from .arrays import (
    Bools,
    Fills,
    Floats,
    FontFacts,
    Glyphs,
    Ints,
    PageInk,
    Pictures,
    Shapes,
    Strokes,
    TextKind,
    columns_of,
)
from .file import PdfFile
from .navigation import Element, OutlineItem

__all__ = [
    "Bools", "Element", "Fills", "Floats", "FontFacts", "Glyphs", "Ints", "OutlineItem", "PageInk", "PdfFile",
    "Pictures", "Shapes", "Strokes", "TextKind", "columns_of",
]  # fmt: skip
