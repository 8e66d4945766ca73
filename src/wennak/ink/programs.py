"""What an embedded font program says of its own codes and glyphs, read with fontTools (whose readers are
loaded where one is met: many documents embed none, and every worker would wait for them).

Every function takes the bytes of the program and gives empty answers for programs it cannot read: a broken
font costs characters at worst, never the page.
"""

from __future__ import annotations

import io
import logging
import re
from dataclasses import dataclass, field

from .encodings import PRIVATE_USE, encoding, name_to_text

# Its complaints about broken fonts are not for the user of this library.
logging.getLogger("fontTools").addHandler(logging.NullHandler())

_TYPE1_ENTRY = re.compile(rb"dup\s+(\d+|8#[0-7]+|16#[0-9A-Fa-f]+)\s*/([^\s/]+)\s+put")


@dataclass(slots=True)
class Program:
    """Readings of one program: glyph names by code, characters by code, characters by glyph index."""

    names: dict[int, str] = field(default_factory=dict)
    code_texts: dict[int, str] = field(default_factory=dict)
    glyph_texts: dict[int, str] = field(default_factory=dict)


def read_type1(data: bytes) -> Program:
    """Read the built-in encoding of a Type 1 program from its clear text part."""
    clear = data[: data.find(b"eexec")] if b"eexec" in data else data
    if re.search(rb"/Encoding\s+StandardEncoding\s+def", clear):
        return Program(names={i: n for i, n in enumerate(encoding("StandardEncoding")) if n})
    names = {}
    for code, name in _TYPE1_ENTRY.findall(clear):
        base, _, digits = code.rpartition(b"#")
        names[int(digits, int(base) if base else 10)] = name.decode("latin-1")
    return Program(names=names)


def read_cff(data: bytes) -> Program:
    """Read encoding and glyph names of a bare CFF program."""
    from fontTools.cffLib import CFFFontSet

    program = Program()
    try:
        fonts = CFFFontSet()
        fonts.decompile(io.BytesIO(data), None)
        top = fonts[0]
        order = top.charset
        if not hasattr(top, "ROS"):
            names = top.Encoding
            if names == "StandardEncoding":
                names = encoding(names)
            if not isinstance(names, str):
                program.names = {i: n for i, n in enumerate(names) if n and n != ".notdef"}
            program.glyph_texts = {i: t for i, n in enumerate(order) if (t := name_to_text(n))}
    except Exception:
        return Program()
    return program


def read_truetype(data: bytes) -> Program:
    """Read the cmaps and glyph names of a TrueType or OpenType program (9.6.5.4)."""
    from fontTools.ttLib import TTFont

    program = Program()
    try:
        font = TTFont(io.BytesIO(data), lazy=True, fontNumber=0)
    except Exception:
        return program
    try:
        # Asking for the order also reads names from CFF or post; damaged ones raise.
        order = font.getGlyphOrder()
    except Exception:
        order = []
    index = {name: i for i, name in enumerate(order)}
    tables = {}
    try:
        tables = {(t.platformID, t.platEncID): t.cmap for t in font["cmap"].tables}
    except Exception:
        tables = {}
    for i, name in enumerate(order):
        if not re.fullmatch(r"glyph\d+|cid\d+|g\d+|\.notdef", name) and (text := name_to_text(name)):
            program.glyph_texts[i] = text
    for key in ((0, 3), (0, 4), (3, 1), (3, 10)):
        for value, name in sorted(tables.get(key, {}).items(), reverse=True):
            if name in index and value not in PRIVATE_USE:
                program.glyph_texts[index[name]] = chr(value)
    for value, name in tables.get((3, 0), {}).items():
        _code_text(program, value & 0xFF, index.get(name))
    for value, name in tables.get((1, 0), {}).items():
        _code_text(program, value, index.get(name))
    return program


def _code_text(program: Program, code: int, glyph: int | None) -> None:
    if glyph is not None and glyph in program.glyph_texts:
        program.code_texts.setdefault(code, program.glyph_texts[glyph])
