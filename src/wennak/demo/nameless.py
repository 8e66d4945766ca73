"""Documents whose fonts name no characters, as some old programs write them: codes in any order, glyphs with
meaningless names, no ToUnicode.

Run by `draw.py`; needs nothing but what Wennak itself needs.
"""

from __future__ import annotations

import io
import random
from collections.abc import Iterable, Mapping
from pathlib import Path

import numpy as np
import pikepdf
from fontTools.misc.transform import Transform
from fontTools.pens.basePen import BasePen
from fontTools.pens.transformPen import TransformPen
from fontTools.subset import Options, Subsetter
from fontTools.ttLib import TTFont
from fontTools.ttLib.tables._c_m_a_p import CmapSubtable
from PIL import Image, ImageDraw, ImageFont

from .scenario import Line, Rule

SEED = 1911
# How glyphs are kept: as procedures that fill their outlines, as procedures that paint bitmaps, or in a
# program from which the names were taken.
KINDS = ("outlines", "bitmaps", "program")
# Pixels an em of bitmaps: those of a printer of 600 dots an inch at 10 points.
BITMAP = 83


def draw_nameless(
    path: Path,
    pages: Iterable[tuple[list[Line], list[Rule]]],
    face: Path,
    kind: str = "outlines",
    page_size: tuple[float, float] = (595, 842),
    codes: Mapping[str, int] | None = None,
) -> None:
    """Write pages of lines of text and of rules (x0, y0, x1, y1) in one font without Unicode; `codes` gives
    the code of each letter, which the name of its glyph repeats.
    """
    pages = list(pages)
    font = TTFont(face, fontNumber=0)
    cmap = font.getBestCmap()
    letters = sorted({c for lines, _ in pages for line in lines for c in line.text})
    missing = [c for c in letters if ord(c) not in cmap]
    if missing:
        raise ValueError(f"{face.name} has no glyph for {missing}")
    any_order = random.Random(SEED).sample(range(1, 256), len(letters))
    code_of = {text: codes[text] for text in letters} if codes else dict(zip(letters, any_order, strict=True))
    pdf = pikepdf.new()
    if kind == "program":
        made = _program_font(pdf, font, face, code_of)
    else:
        made = _procedure_font(pdf, font, face, code_of, kind)
    resources = pikepdf.Dictionary(Font=pikepdf.Dictionary(F=pdf.make_indirect(made)))
    height = page_size[1]
    for lines, rules in pages:
        parts = [f"0.7 w {x0} {height - y0} m {x1} {height - y1} l S" for x0, y0, x1, y1 in rules]
        for line in lines:
            data = bytes(code_of[c] for c in line.text).hex()
            parts.append(f"BT /F {line.size} Tf {line.x} {height - line.y} Td <{data}> Tj ET")
        page = pdf.add_blank_page(page_size=page_size)
        page.Resources = resources
        page.Contents = pdf.make_stream("\n".join(parts).encode())
    pdf.save(path, deterministic_id=True)


def _widths(font: TTFont, code_of: dict[str, int], scale: float) -> list[float]:
    widths = [0.0] * 256
    cmap, advances = font.getBestCmap(), font["hmtx"]
    for text, code in code_of.items():
        widths[code] = round(advances[cmap[ord(text)]][0] * scale, 3)
    return widths


def _procedure_font(
    pdf: pikepdf.Pdf, font: TTFont, face: Path, code_of: dict[str, int], kind: str
) -> pikepdf.Dictionary:
    """A Type 3 font (ISO 32000-2, 9.6.4) in thousandths of an em."""
    scale = 1000 / font["head"].unitsPerEm
    widths = _widths(font, code_of, scale)
    procedures, differences = pikepdf.Dictionary(), pikepdf.Array()
    for text, code in sorted(code_of.items(), key=lambda pair: pair[1]):
        draw = _bitmap(face, text) if kind == "bitmaps" else _outline(font, text, scale)
        metrics = b"%g 0 -500 -500 1500 1500 d1\n" % widths[code]
        procedures[f"/x{code}"] = pdf.make_stream(metrics + draw)
        differences.append(code)
        differences.append(pikepdf.Name(f"/x{code}"))
    return pikepdf.Dictionary(
        Type=pikepdf.Name.Font,
        Subtype=pikepdf.Name.Type3,
        FontBBox=[0, 0, 0, 0],
        FontMatrix=[0.001, 0, 0, 0.001, 0, 0],
        CharProcs=procedures,
        Encoding=pikepdf.Dictionary(Type=pikepdf.Name.Encoding, Differences=differences),
        FirstChar=0,
        LastChar=255,
        Widths=widths,
        Resources=pikepdf.Dictionary(),
    )


class _PathPen(BasePen):  # type: ignore[misc]
    """Writes outlines as operators of paths."""

    def __init__(self, glyphs: object) -> None:
        super().__init__(glyphs)
        self.out: list[str] = []

    def _moveTo(self, p: tuple[float, float]) -> None:  # noqa: N802
        self.out.append(f"{p[0]:.0f} {p[1]:.0f} m")

    def _lineTo(self, p: tuple[float, float]) -> None:  # noqa: N802
        self.out.append(f"{p[0]:.0f} {p[1]:.0f} l")

    def _curveToOne(self, *points: tuple[float, float]) -> None:  # noqa: N802
        self.out.append(" ".join(f"{x:.0f} {y:.0f}" for x, y in points) + " c")

    def _closePath(self) -> None:  # noqa: N802
        self.out.append("h")


def _outline(font: TTFont, text: str, scale: float) -> bytes:
    glyphs = font.getGlyphSet()
    pen = _PathPen(glyphs)
    glyphs[font.getBestCmap()[ord(text)]].draw(TransformPen(pen, Transform(scale, 0, 0, scale, 0, 0)))
    return " ".join([*pen.out, "f"]).encode()


def _bitmap(face: Path, text: str) -> bytes:
    """An image mask of the glyph on a square of two em, its origin in the middle."""
    side = 2 * BITMAP
    picture = Image.new("1", (side, side))
    drawn = ImageFont.truetype(str(face), BITMAP)
    ImageDraw.Draw(picture).text((BITMAP, BITMAP), text, fill=1, font=drawn, anchor="ls")
    ink = np.asarray(picture)
    if not ink.any():
        return b""
    data = np.packbits(~ink, axis=1).tobytes().hex()
    return (
        f"q 2000 0 0 2000 -1000 -1000 cm BI /W {side} /H {side} /IM true /BPC 1 /F /AHx ID {data}> EI Q"
    ).encode()


def _program_font(pdf: pikepdf.Pdf, font: TTFont, face: Path, code_of: dict[str, int]) -> pikepdf.Dictionary:
    """A TrueType font whose program knows codes only (ISO 32000-2, 9.6.5.4)."""
    scale = 1000 / font["head"].unitsPerEm
    widths = _widths(font, code_of, scale)
    program = TTFont(face, fontNumber=0)
    options = Options(glyph_names=False, notdef_outline=True, hinting=False, layout_features=[])
    subsetter = Subsetter(options)
    subsetter.populate(unicodes=[ord(text) for text in code_of])
    subsetter.subset(program)
    cmap = program.getBestCmap()
    table = CmapSubtable.newSubtable(4)
    table.platformID, table.platEncID, table.language = 3, 0, 0
    table.cmap = {0xF000 + code: cmap[ord(text)] for text, code in code_of.items()}
    program["cmap"].tables = [table]
    program["post"].formatType = 3.0
    data = io.BytesIO()
    program.save(data)
    stream = pikepdf.Stream(pdf, data.getvalue(), Length1=len(data.getvalue()))
    descriptor = pikepdf.Dictionary(
        Type=pikepdf.Name.FontDescriptor,
        FontName=pikepdf.Name("/ABCDEF+Nameless"),
        Flags=4,
        FontBBox=[-500, -500, 1500, 1500],
        ItalicAngle=0,
        Ascent=800,
        Descent=-200,
        CapHeight=700,
        StemV=80,
        FontFile2=pdf.make_indirect(stream),
    )
    return pikepdf.Dictionary(
        Type=pikepdf.Name.Font,
        Subtype=pikepdf.Name.TrueType,
        BaseFont=pikepdf.Name("/ABCDEF+Nameless"),
        FirstChar=0,
        LastChar=255,
        Widths=widths,
        FontDescriptor=pdf.make_indirect(descriptor),
    )
