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
    columns_of,
)
from .file import PdfFile

__all__ = [
    "Bools", "Fills", "Floats", "FontFacts", "Glyphs", "Ints", "PageInk", "PdfFile", "Pictures", "Shapes",
    "Strokes", "columns_of",
]  # fmt: skip
