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
from .font import TextTable
from .navigation import OutlineItem, StructureTree
from .raster import Grey, page_grey

__all__ = [
    "Bools", "Fills", "Floats", "FontFacts", "Glyphs", "Grey", "Ints", "OutlineItem", "PageInk", "PdfFile",
    "Pictures", "Shapes", "Strokes", "StructureTree", "TextKind", "TextTable", "Texts", "columns_of",
    "page_grey",
]  # fmt: skip
