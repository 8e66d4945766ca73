"""Composite fonts: codes of one or more bytes, by way of CIDs (ISO 32000-2, 9.7)."""

from __future__ import annotations

import contextlib
import re
from collections.abc import Callable
from itertools import islice
from typing import Any

import numpy as np
import pikepdf
from pikepdf import Name

from .arrays import UNKNOWN, FontFacts, Ints
from .cids import collection
from .cmap import CMap, parse_cmap
from .extents import composite_extents
from .font import Font, Octets, Split, TextTable
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
    to_unicode,
    vertical_extent,
)
from .programs import Program
from .streams import unpacked

# The widths of so many characters tell whether all have one.
TELLING = 256


def load_composite(obj: Any, texts: TextTable) -> Font:
    """Read the dictionary of a composite font."""
    descendants = obj.get("/DescendantFonts")
    descendant: Any = pikepdf.Dictionary()
    if isinstance(descendants, pikepdf.Array) and len(descendants):
        descendant = dictionary(descendants[0])
    descriptor = dictionary(descendant.get("/FontDescriptor"))
    name = base_name(obj, descriptor)
    entry = obj.get("/Encoding")
    cmap = _encoding_cmap(entry)
    # An embedded CMap may build on a predefined one (usecmap).
    encoding_name = str(entry)[1:] if isinstance(entry, Name) else cmap.uses
    mapped = to_unicode(obj, name) or CMap()
    vertical = cmap.vertical or encoding_name.endswith("-V")
    if vertical:
        default, widths = _vertical_advances(descendant)
    else:
        default = number(descendant.get("/DW"), 1000.0) * 0.001
        widths = _cid_widths(descendant.get("/W"))
    decode_code = _code_decoder(encoding_name)
    glyph_of = _cid_to_glyph(descendant)
    characters = collection(_ordering(descendant))
    program: list[Program] = []

    def identifier(code: int) -> int:
        return cmap.cid(code) if cmap.cids or cmap.cid_ranges else code

    def lookup(code: int) -> tuple[float, str]:
        cid = identifier(code)
        text = known_text(mapped.texts.get(code), name)
        if text is None and decode_code is not None:
            text = decode_code(code)
        if text is None:
            text = characters.get(cid)
        if text is None:
            if not program:
                program.append(font_program(descriptor))
            text = program[0].glyph_texts.get(glyph_of(cid))
        return widths.get(cid, default), text if text is not None else UNKNOWN

    split = _split_pairs if not cmap.spaces or {s[0] for s in cmap.spaces} == {2} else _splitter(cmap)
    if decode_code is not None and not encoding_name.startswith("Uni"):
        split = _splitter(_legacy_spaces(encoding_name))
    told = islice(mapped.texts.items(), TELLING)
    used = [identifier(code) for code, text in told if not text.isdigit() and not vertical]
    facts = FontFacts(
        name=name,
        bold=is_bold(name, descriptor),
        italic=is_italic(name, descriptor),
        fixed_pitch=is_fixed(name, descriptor, [widths.get(cid, default) for cid in used]),
        space=0.0,
        unicode_source="to-unicode"
        if mapped.texts
        else "encoding"
        if decode_code or characters
        else "program",
    )
    ascent, descent = vertical_extent(descriptor, name)
    extent = composite_extents(descriptor, lambda code: glyph_of(identifier(code)))
    return Font(facts, ascent, descent, vertical, split, lookup, False, texts, extent)


def _split_pairs(data: Octets, length: Ints) -> tuple[Ints, Ints]:
    if (length % 2).any():
        # A broken string of odd length loses its last byte, not the strings that follow it.
        last = np.cumsum(length) - 1
        data = np.delete(data, last[length % 2 == 1])
        length = length - length % 2
    return data.view(">u2").astype(np.int64), length // 2


def _splitter(cmap: CMap) -> Split:
    def split(data: Octets, length: Ints) -> tuple[Ints, Ints]:
        raw, ends = data.tobytes(), np.cumsum(length).tolist()
        parts = [cmap.split(raw[a:b]) for a, b in zip([0, *ends], ends, strict=False)]
        codes = np.array([c for part in parts for c in part], dtype=np.int64)
        return codes, np.array([len(p) for p in parts], dtype=np.int64)

    return split


def _encoding_cmap(entry: Any) -> CMap:
    if isinstance(entry, pikepdf.Stream):
        with contextlib.suppress(Exception):
            cmap = parse_cmap(unpacked(entry))
            if integer(entry.get("/WMode"), 0) == 1:
                cmap.vertical = True
            return cmap
    return CMap()


# Predefined CMaps (9.7.5.2) by the character set that their codes are written in.
_CODECS = (
    (re.compile(r"UCS2|UTF16"), "utf-16-be"),
    (re.compile(r"^(GBK|GBKp|GBK2K|GB-EUC|GBpc)"), "gb18030"),
    (re.compile(r"^(HKscs)"), "big5hkscs"),
    (re.compile(r"^(B5pc|ETen|ETenms)"), "cp950"),
    (re.compile(r"RKSJ"), "cp932"),
    (re.compile(r"^EUC-"), "euc_jp"),
    (re.compile(r"^KSC(ms|pc)?"), "cp949"),
)
_LEGACY = {
    "gb18030": [(1, 0x00, 0x80), (2, 0x8140, 0xFEFE)],
    "big5hkscs": [(1, 0x00, 0x80), (2, 0x8140, 0xFEFE)],
    "cp950": [(1, 0x00, 0x80), (2, 0x8140, 0xFEFE)],
    "cp932": [(1, 0x00, 0x80), (1, 0xA0, 0xDF), (2, 0x8140, 0x9FFC), (2, 0xE040, 0xFCFC)],
    "euc_jp": [(1, 0x00, 0x80), (2, 0x8EA0, 0x8EDF), (2, 0xA1A1, 0xFEFE)],
    "cp949": [(1, 0x00, 0x80), (2, 0x8141, 0xFEFE)],
}


def _codec(name: str) -> str | None:
    if name.startswith("Identity") or not name.endswith(("-H", "-V")):
        return None
    return next((codec for pattern, codec in _CODECS if pattern.search(name)), None)


def _code_decoder(name: str) -> Callable[[int], str | None] | None:
    codec = _codec(name)
    if codec is None:
        return None

    def decode(code: int) -> str | None:
        data = code.to_bytes(2 if codec.startswith("utf") or code > 0xFF else 1, "big")
        return data.decode(codec, "ignore") or None

    return decode


def _legacy_spaces(name: str) -> CMap:
    return CMap(spaces=_LEGACY[_codec(name) or "cp932"])


def _ordering(descendant: Any) -> str:
    """Name of the character collection that CIDs are numbers in (9.7.3)."""
    info = descendant.get("/CIDSystemInfo")
    return str(info.get("/Ordering", "")) if isinstance(info, pikepdf.Dictionary) else ""


def _cid_widths(entry: Any) -> dict[int, float]:
    """Widths in em by CID from a W array (9.7.4.3)."""
    widths: dict[int, float] = {}
    if not isinstance(entry, pikepdf.Array):
        return widths
    items = list(entry)
    i = 0
    while i + 1 < len(items):
        first, second = integer(items[i], 0), items[i + 1]
        if isinstance(second, pikepdf.Array):
            for offset, width in enumerate(numbers(second)):
                widths[first + offset] = width * 0.001
            i += 2
        elif i + 2 < len(items):
            width = number(items[i + 2], 1000.0) * 0.001
            for cid in range(first, min(integer(second, first), first + 65535) + 1):
                widths[cid] = width
            i += 3
        else:
            break
    return widths


def _vertical_advances(descendant: Any) -> tuple[float, dict[int, float]]:
    """Advance in em, downwards negative, by default and by CID, from DW2 and W2 (9.7.4.3)."""
    standard = numbers(descendant.get("/DW2"))
    default = (standard[1] if len(standard) == 2 else -1000.0) * 0.001
    advances: dict[int, float] = {}
    entry = descendant.get("/W2")
    items = list(entry) if isinstance(entry, pikepdf.Array) else []
    i = 0
    while i + 1 < len(items):
        first, second = integer(items[i], 0), items[i + 1]
        if isinstance(second, pikepdf.Array):
            for offset, advance in enumerate(numbers(second)[::3]):
                advances[first + offset] = advance * 0.001
            i += 2
        else:
            if i + 2 < len(items):
                for cid in range(first, min(integer(second, first), first + 65535) + 1):
                    advances[cid] = number(items[i + 2], -1000.0) * 0.001
            i += 5
    return default, advances


def _cid_to_glyph(descendant: Any) -> Callable[[int], int]:
    entry = descendant.get("/CIDToGIDMap")
    if isinstance(entry, pikepdf.Stream):
        with contextlib.suppress(Exception):
            table = np.frombuffer(unpacked(entry)[: 2 * 65536], dtype=">u2")
            return lambda cid: int(table[cid]) if cid < len(table) else 0
    return lambda cid: cid
