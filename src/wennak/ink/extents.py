"""How far the glyphs of some fonts really reach above and below their baseline.

Large operators, tall brackets and radicals of mathematical fonts hang far below their baseline, where no
letter reaches, and one font holds a bracket in several heights. Only the outlines tell. They are read where a
font's own box says that it holds such glyphs, and only of the signs that come in several heights.
"""

from __future__ import annotations

import contextlib
import io
import re
import unicodedata
from collections.abc import Callable
from typing import Any

import pikepdf

from .font_facts import first_read, numbers
from .streams import unpacked
from .type1 import procedures

_TALL = frozenset("|‖√∑∏∐∫∬∭∮⋃⋂⋁⋀⨀⨁⨂⨄⨆⌠⌡⎮⎪\ufffd") | frozenset(map(chr, range(0x239B, 0x23B2)))
# Fonts whose box ends lower than this (em) hold such glyphs; those of text end at about -0.5.
DEEP = -0.9
# The box of a glyph begins and ends within this (em) of where the glyph does.
LOOSE = 0.4
# The lowest and highest point of a glyph, in em above the baseline.
Extent = tuple[float, float]
ExtentOf = Callable[[int], Extent | None]
_Bounds = Callable[[str | None, int], Extent | None]


def comes_tall(text: str) -> bool:
    """Whether a character is one that mathematical fonts hold in several heights, or draw lower than letters;
    or may be one, since nothing names it.
    """
    return text in _TALL or unicodedata.category(text[:1] or " ") in ("Ps", "Pe")


def simple_extents(obj: Any, descriptor: Any, names: list[str | None]) -> ExtentOf | None:
    """Return what tells the extent of each code of a simple font; None for fonts of text."""
    if isinstance(drawn := obj.get("/CharProcs"), pikepdf.Dictionary):
        matrix = numbers(obj.get("/FontMatrix"))
        # Some programs draw glyphs upside down in a space that is upside down.
        scale = matrix[3] if len(matrix) == 6 else 0.001
        return lambda code: _type3_extent(drawn.get(f"/{names[code]}"), scale)
    return _embedded(descriptor, lambda code: (names[code], code))


def composite_extents(descriptor: Any, glyph_of: Callable[[int], int]) -> ExtentOf | None:
    """The same for the character identifiers of a composite font."""
    return _embedded(descriptor, lambda cid: (None, glyph_of(cid)))


def _embedded(descriptor: Any, glyph: Callable[[int], tuple[str | None, int]]) -> ExtentOf | None:
    box = numbers(descriptor.get("/FontBBox"))
    if len(box) < 4 or min(box[1], box[3]) > DEEP * 1000:
        return None
    read: list[_Bounds] = []

    def extent(code: int) -> Extent | None:
        if not read:
            bounds = first_read(descriptor, _type1_bounds, _truetype_bounds, _cff_bounds)
            read.append(bounds or (lambda name, number: None))
        # Programs are broken in many ways; one that is costs the extent and nothing else.
        with contextlib.suppress(Exception):
            return read[0](*glyph(code))
        return None

    return extent


def _truetype_bounds(data: bytes) -> _Bounds:
    from fontTools.ttLib import TTFont

    font = TTFont(io.BytesIO(data), lazy=True, fontNumber=0)
    glyphs, order = font.getGlyphSet(), font.getGlyphOrder()
    em = float(font["head"].unitsPerEm)
    named = {
        code: glyph
        for table in (font["cmap"].tables if "cmap" in font else ())
        for code, glyph in table.cmap.items()
    }

    def bounds(name: str | None, number: int) -> Extent | None:
        # A simple font is asked by name; its codes are those of the program's own table otherwise.
        glyph = name if name in glyphs else named.get(number) if name is None and named else None
        return _drawn(glyphs, glyph or order[number], 1 / em)

    return bounds


def _type1_bounds(data: bytes) -> _Bounds:
    glyphs = procedures(data)
    matrix = re.search(rb"/FontMatrix\s*\[\s*(\S+)", data)
    scale = float(matrix[1]) if matrix else 0.001
    return lambda name, number: _drawn(glyphs, name, scale)


def _cff_bounds(data: bytes) -> _Bounds:
    from fontTools.cffLib import CFFFontSet

    fonts = CFFFontSet()
    fonts.decompile(io.BytesIO(data), None)
    top = fonts[0]
    glyphs, order = top.CharStrings, top.charset
    scale = float(top.FontMatrix[0]) if hasattr(top, "FontMatrix") else 0.001
    if hasattr(top, "ROS"):
        return lambda name, number: _drawn(glyphs, f"cid{number:05d}", scale)
    return lambda name, number: _drawn(glyphs, name if name is not None else order[number], scale)


def _drawn(glyphs: Any, name: str | None, scale: float) -> Extent | None:
    from fontTools.pens.boundsPen import ControlBoundsPen

    if name is None or name not in glyphs:
        return None
    pen = ControlBoundsPen(glyphs)
    glyphs[name].draw(pen)
    return (pen.bounds[1] * scale, pen.bounds[3] * scale) if pen.bounds else None


def _type3_extent(procedure: Any, scale: float) -> Extent | None:
    """What the operator d1 at the start of a glyph's procedure says (ISO 32000-2, 9.6.4); nothing where its
    box is much wider than the glyph, and so no outline but a box in which any glyph finds room.
    """
    if not isinstance(procedure, pikepdf.Stream):
        return None
    with contextlib.suppress(Exception):
        words = unpacked(procedure)[:200].split()
        wide, _, left, low, right, high = (float(word) * scale for word in words[: words.index(b"d1")][-6:])
        if abs(left) < LOOSE and abs(right) < abs(wide) + LOOSE:
            return min(low, high), max(low, high)
    return None
