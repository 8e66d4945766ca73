"""PDF bytes -> what is drawn on each page: glyphs, strokes, fills, pictures."""

from .arrays import (
    UNKNOWN,
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
    distinct,
    is_unknown,
    looked_up,
    median,
)
from .connected import connected
from .file import UNKNOWN_CHARACTERS, PdfFile, unknown_characters
from .font import TextTable
from .navigation import OutlineItem, StructureTree
from .raster import Grey, cropped, drawing, page_grey, page_pictures
from .upright import quarter_turns, turned, turned_back, turned_box

__all__ = [
    "UNKNOWN",
    "UNKNOWN_CHARACTERS",
    "Bools",
    "Fills",
    "Floats",
    "FontFacts",
    "Glyphs",
    "Grey",
    "Ints",
    "OutlineItem",
    "PageInk",
    "PdfFile",
    "Pictures",
    "Shapes",
    "Strokes",
    "StructureTree",
    "TextKind",
    "TextTable",
    "Texts",
    "columns_of",
    "connected",
    "cropped",
    "distinct",
    "drawing",
    "is_unknown",
    "looked_up",
    "median",
    "page_grey",
    "page_pictures",
    "quarter_turns",
    "turned",
    "turned_back",
    "turned_box",
    "unknown_characters",
]  # fmt: skip
