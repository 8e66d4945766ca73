"""Simple fonts: one byte a character (ISO 32000-2, 9.6)."""

from __future__ import annotations

import functools
import re
from collections.abc import Callable
from typing import Any

import numpy as np
import pikepdf
from pikepdf import Name

from .arrays import UNKNOWN, FontFacts, Ints
from .code_names import coded_font
from .encodings import encoding, name_to_text, standard_metrics
from .extents import simple_extents
from .font import Font, Octets, TextTable
from .font_facts import (
    base_name,
    dictionary,
    font_program,
    integer,
    is_bold,
    is_fixed,
    is_italic,
    known_text,
    number,
    numbers,
    standard_name,
    to_unicode,
    vertical_extent,
)
from .programs import Program

# What the names mu, Omega and Delta stand for by the list of names, and what they are among Greek letters.
_GREEK = {0xB5: "μ", 0x2126: "Ω", 0x2206: "Δ"}


def load_simple(obj: Any, subtype: str, texts: TextTable) -> Font:
    """Read the dictionary of a simple font."""
    descriptor = dictionary(obj.get("/FontDescriptor"))
    name = base_name(obj, descriptor)
    mapped = to_unicode(obj, name)
    program = functools.cache(lambda: font_program(descriptor))
    names, source = _glyph_names(obj, subtype, descriptor, name, program)
    dingbats = "dingbats" in name.lower()
    symbols: dict[int, str] = {}
    named: dict[int, str] = {}
    for code in range(256):
        text = known_text(mapped.texts.get(code), name) if mapped else None
        if text is not None:
            symbols[code] = text
        elif names[code] is not None and (text := name_to_text(str(names[code]), dingbats)) is not None:
            named[code] = text
    widths = _simple_widths(obj, subtype, descriptor, name, names)
    used = _code_range(obj)
    if any(code not in symbols and code not in named and not _idle(code, names, widths) for code in used):
        for code in range(256):
            known = code in symbols or code in named
            if not known and (text := _program_text(program(), code, names[code])) is not None:
                named[code] = text
    if any("α" <= text <= "ω" for text in named.values()):
        named = {code: text.translate(_GREEK) for code, text in named.items()}
    symbols |= named
    unread = [None if code in symbols or code not in used else names[code] for code in range(256)]
    coded = coded_font(unread, widths)
    symbols |= coded.texts
    fixed = is_fixed(name, descriptor, [widths[c] for c in used if not symbols.get(c, "").isdigit()])
    space = widths[32] if symbols.get(32) == " " else 0.0
    facts = FontFacts(
        name=name,
        bold=is_bold(name, descriptor) or coded.bold,
        italic=is_italic(name, descriptor) or coded.italic,
        fixed_pitch=fixed or coded.fixed_pitch,
        space=space,
        unicode_source="to-unicode" if mapped and mapped.texts else source,
    )
    ascent, descent = vertical_extent(descriptor, name)

    def lookup(code: int) -> tuple[float, str]:
        text = symbols.get(code) or _program_text(program(), code, names[code])
        return widths[code], text or UNKNOWN

    return Font(
        facts, ascent, descent, False, _split_bytes, lookup, True, texts,
        simple_extents(obj, descriptor, names),
    )  # fmt: skip


def _idle(code: int, names: list[str | None], widths: list[float]) -> bool:
    """Whether a code is most likely not shown: subsets give widths to all codes from the first that they use,
    and whole fonts to the control codes. Its text is looked up in the program when it is.
    """
    return names[code] in (None, ".notdef") and (code < 32 or widths[code] == 0)


def _split_bytes(data: Octets, length: Ints) -> tuple[Ints, Ints]:
    return data.astype(np.int64), length


def _code_range(obj: Any) -> range:
    first = integer(obj.get("/FirstChar"), 32)
    last = integer(obj.get("/LastChar"), 126)
    return range(max(0, min(first, 255)), max(0, min(last, 255)) + 1)


def _glyph_names(
    obj: Any, subtype: str, descriptor: Any, name: str, program: Callable[[], Program]
) -> tuple[list[str | None], str]:
    """Glyph names by code, and where they come from: the font's Encoding entry, its program, or a default."""
    entry = obj.get("/Encoding")
    base: list[str | None] | None = None
    source = "encoding"
    differences: Any = None
    if isinstance(entry, Name):
        base = list(encoding(str(entry)[1:]))
    elif isinstance(entry, pikepdf.Dictionary):
        differences = entry.get("/Differences")
        if isinstance(named := entry.get("/BaseEncoding"), Name):
            base = list(encoding(str(named)[1:]))
    if name in ("Symbol", "ZapfDingbats") and standard_metrics(name):
        base = list(encoding(name))
    if base is None:
        base, source = _built_in(subtype, descriptor, differences is not None, program)
    if isinstance(differences, pikepdf.Array):
        code = 0
        for item in differences:
            if isinstance(item, Name):
                if 0 <= code < 256:
                    base[code] = str(item)[1:]
                code += 1
            else:
                code = integer(item, code)
    return base, source


def _built_in(
    subtype: str, descriptor: Any, has_differences: bool, program: Callable[[], Program]
) -> tuple[list[str | None], str]:
    """The encoding where the font dictionary names none: the program's own, else the standard one."""
    symbolic = integer(descriptor.get("/Flags"), 0) & 4
    if subtype == "/TrueType":
        if symbolic and not has_differences:
            return [None] * 256, "program"
        return list(encoding("StandardEncoding")), "standard"
    if names := program().names:
        return [names.get(code) for code in range(256)], "program"
    if subtype == "/Type3":
        return [None] * 256, "none"
    return list(encoding("StandardEncoding")), "standard"


def _program_text(program: Program, code: int, name: str | None) -> str | None:
    if code in program.code_texts:
        return program.code_texts[code]
    if name and (numbered := re.fullmatch(r"(?:g|glyph|gid|index|cid)0*(\d+)", name, re.I)):
        return program.glyph_texts.get(int(numbered[1]))
    if name is None and code in program.names:
        return name_to_text(program.names[code])
    return None


def _simple_widths(
    obj: Any, subtype: str, descriptor: Any, name: str, names: list[str | None]
) -> list[float]:
    scale = 0.001
    if subtype == "/Type3":
        matrix = numbers(obj.get("/FontMatrix"))
        scale = abs(matrix[0]) if len(matrix) == 6 and matrix[0] else 0.001
    missing = number(descriptor.get("/MissingWidth"), 0.0) * scale
    widths = [missing] * 256
    given = numbers(obj.get("/Widths"))
    if given:
        first = integer(obj.get("/FirstChar"), 0)
        for i, width in enumerate(given):
            if 0 <= first + i < 256:
                widths[first + i] = width * scale
        return widths
    metrics = standard_metrics(standard_name(name))
    if metrics:
        for code, glyph in enumerate(names):
            if glyph is not None:
                widths[code] = metrics["widths"].get(glyph, 0.0 if missing else 250.0) * 0.001
    return widths
