"""PDF bytes -> what is drawn on each page: glyphs, strokes, fills, pictures."""

from .arrays import (
    ONE_BLANK,
    PARTING,
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
from .navigation import OutlineItem, StructureTree

__all__ = [
    "ONE_BLANK", "PARTING", "Bools", "Fills", "Floats", "FontFacts", "Glyphs", "Ints", "OutlineItem",
    "PageInk", "PdfFile", "Pictures", "Shapes", "Strokes", "StructureTree", "TextKind", "columns_of",
]  # fmt: skip
