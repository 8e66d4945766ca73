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
    Texts,
    columns_of,
)
from .file import PdfFile
from .navigation import OutlineItem, StructureTree

__all__ = [
    "Bools", "Fills", "Floats", "FontFacts", "Glyphs", "Ints", "OutlineItem",
    "PageInk", "PdfFile", "Pictures", "Shapes", "Strokes", "StructureTree", "TextKind", "Texts", "columns_of",
]  # fmt: skip
