"""A font dictionary -> how its strings split into codes, how wide they are, and what characters they show."""

from __future__ import annotations

import contextlib
import re
import unicodedata
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

import numpy as np
import numpy.typing as npt
import pikepdf
from pikepdf import Name

from .arrays import Floats, FontFacts, Ints, TextKind
from .cids import collection
from .cmap import CMap, parse_cmap
from .encodings import encoding, name_to_text, standard_metrics
from .programs import Program, read_cff, read_truetype, read_type1
from .streams import unpacked

UNKNOWN = "\ufffd"
Octets = npt.NDArray[np.uint8]
# Joined bytes of strings and the length of each -> joined codes and the number of codes of each.
Split = Callable[[Octets, Ints], tuple[Ints, Ints]]

_BOLD = re.compile(r"bold|black|heavy|demi|medi\b|medium$|cmbx|cmssbx|cmb\d|-bd|(?:^|[-,])b(?:i|$)", re.I)
_ITALIC = re.compile(r"ital|obli|slant|cmti|cmsl|cmmi|-it\b|[-,]bi?$", re.I)
# Latin ligatures, Arabic presentation forms, and the no-break blank.
_FORMS = re.compile(r"[\ufb00-\ufb06\ufb50-\ufdcf\ufdf0-\ufdfc\ufe70-\ufefc\u00a0]")
_FIXED = re.compile(r"mono|courier|cmtt|typewriter|consol|fixed|cmsltt|code", re.I)
_STANDARD_NAMES = (
    (re.compile(r"^(courier|couriernew)", re.I), "Courier", "Oblique"),
    (re.compile(r"^(helvetica|arial)", re.I), "Helvetica", "Oblique"),
    (re.compile(r"^(times|timesnewroman)", re.I), "Times", "Italic"),
)
# Symbol fonts put their glyphs at U+F000 + code; these are the shapes that office files use (check boxes,
# bullets, arrows), for Wingdings.
_WINGDINGS = {
    0x6C: "●", 0x6E: "■", 0x6F: "□", 0x71: "❑", 0x72: "❒", 0x75: "◆", 0x76: "❖", 0x77: "◆", 0x9F: "•",
    0xA1: "○", 0xA7: "▪", 0xA8: "☐", 0xD8: "➢", 0xE0: "→", 0xDF: "←", 0xE8: "➔", 0xF0: "⇨", 0xFB: "✗",
    0xFC: "✓", 0xFD: "☒", 0xFE: "☑",
}  # fmt: skip


@dataclass(slots=True)
class TextTable:
    """The distinct character strings of a document; glyphs point into it by index."""

    strings: list[str] = field(default_factory=list)
    kinds: list[int] = field(default_factory=list)
    index: dict[str, int] = field(default_factory=dict)

    def put(self, text: str) -> int:
        """Return the index of `text`, adding it if it is new."""
        found = self.index.get(text)
        if found is None:
            found = self.index[text] = len(self.strings)
            self.strings.append(text)
            self.kinds.append(_kind(text))
        return found


def _kind(text: str) -> TextKind:
    if not text.strip():
        return TextKind.BLANK if text else TextKind.NOTHING
    if text in "·․‥….":
        return TextKind.DOT
    return TextKind.LETTER if text.isalpha() else TextKind.OTHER


def standard_text(text: str) -> str:
    """Return ligatures and positional letter forms as the plain letters that they stand for."""
    return unicodedata.normalize("NFKC", text) if _FORMS.search(text) else text


@dataclass(slots=True)
class Font:
    """A font as the decoder uses it. Widths, ascent and descent are in em.

    The width of a vertical font's glyph is its advance down the page, which is negative.
    """

    facts: FontFacts
    ascent: float
    descent: float
    vertical: bool
    split: Split
    lookup: Callable[[int], tuple[float, str]]
    one_byte: bool
    texts: TextTable
    _widths: Floats = field(default_factory=lambda: np.zeros(256))
    _ids: Ints = field(default_factory=lambda: np.full(256, -1))

    def decode(self, codes: Ints) -> tuple[Floats, Ints]:
        """Return the width in em and the text index of each code."""
        for code in np.flatnonzero(np.bincount(codes, minlength=1)).tolist() if len(codes) else []:
            if code >= len(self._widths):
                grown = max(256, 1 << code.bit_length())
                self._widths = np.resize(self._widths, grown)
                self._ids = np.append(self._ids, np.full(grown - len(self._ids), -1))
            if self._ids[code] < 0:
                width, text = self.lookup(code)
                self._widths[code], self._ids[code] = width, self.texts.put(standard_text(text))
        return self._widths[codes], self._ids[codes]


def load_font(obj: Any, texts: TextTable) -> Font:
    """Read a font dictionary. Never raises for a damaged one: what is missing falls back to defaults."""
    if not isinstance(obj, pikepdf.Dictionary):
        obj = pikepdf.Dictionary()
    subtype = str(obj.get("/Subtype", "/Type1"))
    if subtype == "/Type0":
        return _composite(obj, texts)
    return _simple(obj, subtype, texts)


# -- simple fonts (9.6) ----------------------------------------------------------------------------------


def _simple(obj: Any, subtype: str, texts: TextTable) -> Font:
    descriptor = _dictionary(obj.get("/FontDescriptor"))
    name = _base_name(obj, descriptor)
    to_unicode = _to_unicode(obj)
    names, source = _glyph_names(obj, subtype, descriptor, name)
    program = Program()
    dingbats = "dingbats" in name.lower()
    symbols: dict[int, str] = {}
    for code in range(256):
        text = _clean(to_unicode.texts.get(code), name) if to_unicode else None
        if text is None and names[code] is not None:
            text = name_to_text(str(names[code]), dingbats)
        if text is not None:
            symbols[code] = text
    used = _code_range(obj)
    if any(code not in symbols for code in used):
        program = _program(descriptor)
        for code in range(256):
            if code not in symbols and (text := _program_text(program, code, names[code])) is not None:
                symbols[code] = text
    widths = _simple_widths(obj, subtype, descriptor, name, names)
    space = widths[32] if symbols.get(32) == " " else 0.0
    facts = FontFacts(
        name=name,
        bold=_is_bold(name, descriptor),
        italic=_is_italic(name, descriptor),
        fixed_pitch=_is_fixed(name, descriptor, [widths[c] for c in used if widths[c] > 0]),
        space=space,
        unicode_source="to-unicode" if to_unicode and to_unicode.texts else source,
    )
    ascent, descent = _vertical_extent(descriptor, name)
    return Font(
        facts, ascent, descent, False, _split_bytes,
        lambda code: (widths[code], symbols.get(code, UNKNOWN)), True, texts,
    )  # fmt: skip


def _split_bytes(data: Octets, length: Ints) -> tuple[Ints, Ints]:
    return data.astype(np.int64), length


def _code_range(obj: Any) -> range:
    first = _integer(obj.get("/FirstChar"), 32)
    last = _integer(obj.get("/LastChar"), 126)
    return range(max(0, min(first, 255)), max(0, min(last, 255)) + 1)


def _glyph_names(obj: Any, subtype: str, descriptor: Any, name: str) -> tuple[list[str | None], str]:
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
        base, source = _built_in(subtype, descriptor, differences is not None)
    if isinstance(differences, pikepdf.Array):
        code = 0
        for item in differences:
            if isinstance(item, Name):
                if 0 <= code < 256:
                    base[code] = str(item)[1:]
                code += 1
            else:
                code = _integer(item, code)
    return base, source


def _built_in(subtype: str, descriptor: Any, has_differences: bool) -> tuple[list[str | None], str]:
    """The encoding where the font dictionary names none: the program's own, else the standard one."""
    symbolic = _integer(descriptor.get("/Flags"), 0) & 4
    if subtype == "/TrueType":
        if symbolic and not has_differences:
            return [None] * 256, "program"
        return list(encoding("StandardEncoding")), "standard"
    program = _program(descriptor)
    if program.names:
        return [program.names.get(code) for code in range(256)], "program"
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
        matrix = _numbers(obj.get("/FontMatrix"))
        scale = abs(matrix[0]) if len(matrix) == 6 and matrix[0] else 0.001
    missing = _number(descriptor.get("/MissingWidth"), 0.0) * scale
    widths = [missing] * 256
    given = _numbers(obj.get("/Widths"))
    if given:
        first = _integer(obj.get("/FirstChar"), 0)
        for i, width in enumerate(given):
            if 0 <= first + i < 256:
                widths[first + i] = width * scale
        return widths
    metrics = standard_metrics(_standard_name(name))
    if metrics:
        for code, glyph in enumerate(names):
            if glyph is not None:
                widths[code] = metrics["widths"].get(glyph, 0.0 if missing else 250.0) * 0.001
    return widths


def _standard_name(name: str) -> str:
    """The standard font whose metrics stand in for a font without widths (9.6.2.2 and common aliases)."""
    if standard_metrics(name):
        return name
    bold, italic = bool(_BOLD.search(name)), bool(_ITALIC.search(name))
    plain = name.replace(" ", "")
    family, slanted = next(
        ((f, s) for pattern, f, s in _STANDARD_NAMES if pattern.match(plain)), ("Helvetica", "Oblique")
    )
    style = ("Bold" if bold else "") + (slanted if italic else "")
    if family == "Times" and not style:
        style = "Roman"
    return f"{family}-{style}" if style else family


# -- composite fonts (9.7) -------------------------------------------------------------------------------


def _composite(obj: Any, texts: TextTable) -> Font:
    descendants = obj.get("/DescendantFonts")
    descendant: Any = pikepdf.Dictionary()
    if isinstance(descendants, pikepdf.Array) and len(descendants):
        descendant = _dictionary(descendants[0])
    descriptor = _dictionary(descendant.get("/FontDescriptor"))
    name = _base_name(obj, descriptor)
    entry = obj.get("/Encoding")
    cmap = _encoding_cmap(entry)
    # An embedded CMap may build on a predefined one (usecmap).
    encoding_name = str(entry)[1:] if isinstance(entry, Name) else cmap.uses
    to_unicode = _to_unicode(obj) or CMap()
    vertical = cmap.vertical or encoding_name.endswith("-V")
    if vertical:
        default, widths = _vertical_advances(descendant)
    else:
        default = _number(descendant.get("/DW"), 1000.0) * 0.001
        widths = _cid_widths(descendant.get("/W"))
    decode_code = _code_decoder(encoding_name)
    glyph_of = _cid_to_glyph(descendant)
    characters = collection(_ordering(descendant))
    program: list[Program] = []

    def lookup(code: int) -> tuple[float, str]:
        cid = cmap.cid(code) if cmap.cids or cmap.cid_ranges else code
        text = _clean(to_unicode.texts.get(code), name)
        if text is None and decode_code is not None:
            text = decode_code(code)
        if text is None:
            text = characters.get(cid)
        if text is None:
            if not program:
                program.append(_program(descriptor))
            text = program[0].glyph_texts.get(glyph_of(cid))
        return widths.get(cid, default), text if text is not None else UNKNOWN

    split = _split_pairs if not cmap.spaces or {s[0] for s in cmap.spaces} == {2} else _splitter(cmap)
    if decode_code is not None and not encoding_name.startswith("Uni"):
        split = _splitter(_legacy_spaces(encoding_name))
    facts = FontFacts(
        name=name,
        bold=_is_bold(name, descriptor),
        italic=_is_italic(name, descriptor),
        fixed_pitch=_is_fixed(name, descriptor, []),
        space=0.0,
        unicode_source="to-unicode"
        if to_unicode.texts
        else "encoding"
        if decode_code or characters
        else "program",
    )
    ascent, descent = _vertical_extent(descriptor, name)
    return Font(facts, ascent, descent, vertical, split, lookup, False, texts)


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
            if _integer(entry.get("/WMode"), 0) == 1:
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
        first, second = _integer(items[i], 0), items[i + 1]
        if isinstance(second, pikepdf.Array):
            for offset, width in enumerate(_numbers(second)):
                widths[first + offset] = width * 0.001
            i += 2
        elif i + 2 < len(items):
            width = _number(items[i + 2], 1000.0) * 0.001
            for cid in range(first, min(_integer(second, first), first + 65535) + 1):
                widths[cid] = width
            i += 3
        else:
            break
    return widths


def _vertical_advances(descendant: Any) -> tuple[float, dict[int, float]]:
    """Advance in em, downwards negative, by default and by CID, from DW2 and W2 (9.7.4.3)."""
    standard = _numbers(descendant.get("/DW2"))
    default = (standard[1] if len(standard) == 2 else -1000.0) * 0.001
    advances: dict[int, float] = {}
    entry = descendant.get("/W2")
    items = list(entry) if isinstance(entry, pikepdf.Array) else []
    i = 0
    while i + 1 < len(items):
        first, second = _integer(items[i], 0), items[i + 1]
        if isinstance(second, pikepdf.Array):
            for offset, advance in enumerate(_numbers(second)[::3]):
                advances[first + offset] = advance * 0.001
            i += 2
        else:
            if i + 2 < len(items):
                for cid in range(first, min(_integer(second, first), first + 65535) + 1):
                    advances[cid] = _number(items[i + 2], -1000.0) * 0.001
            i += 5
    return default, advances


def _cid_to_glyph(descendant: Any) -> Callable[[int], int]:
    entry = descendant.get("/CIDToGIDMap")
    if isinstance(entry, pikepdf.Stream):
        with contextlib.suppress(Exception):
            table = np.frombuffer(unpacked(entry)[: 2 * 65536], dtype=">u2")
            return lambda cid: int(table[cid]) if cid < len(table) else 0
    return lambda cid: cid


# -- shared ----------------------------------------------------------------------------------------------


def _to_unicode(obj: Any) -> CMap | None:
    entry = obj.get("/ToUnicode")
    if isinstance(entry, pikepdf.Stream):
        with contextlib.suppress(Exception):
            return parse_cmap(unpacked(entry))
    return None


def _clean(text: str | None, font: str) -> str | None:
    """What a ToUnicode entry is worth: None where it names no character (empty, control, private use)."""
    if not text:
        return None
    if len(text) == 1:
        value = ord(text)
        if 0xF000 <= value <= 0xF0FF:
            return _symbol_text(value & 0xFF, font)
        if (value < 32 and text not in "\t\n\r") or value == 0xFFFD or 0xE000 <= value < 0xF900:
            return None
        if unicodedata.category(text) == "Cn":
            return None
        return " " if text in "\t\n\r\u00a0" else text
    return text.replace("\0", "") or None


def _symbol_text(code: int, font: str) -> str | None:
    if "wingdings" in font.lower():
        return _WINGDINGS.get(code)
    name = encoding("Symbol")[code] if "symbol" in font.lower() else None
    if name is not None:
        return name_to_text(name)
    return {0xB7: "•", 0xA7: "▪", 0x6F: "○"}.get(code, chr(code) if 32 < code < 127 else None)


def _program(descriptor: Any) -> Program:
    for key in ("/FontFile", "/FontFile2", "/FontFile3"):
        stream = descriptor.get(key)
        if not isinstance(stream, pikepdf.Stream):
            continue
        with contextlib.suppress(Exception):
            data = unpacked(stream)
            if data[:4] in (b"OTTO", b"\0\1\0\0", b"true", b"ttcf"):
                return read_truetype(data)
            return read_type1(data) if key == "/FontFile" else read_cff(data)
    return Program()


def _base_name(obj: Any, descriptor: Any) -> str:
    raw = obj.get("/BaseFont", descriptor.get("/FontName", obj.get("/Name", "")))
    name = str(raw).lstrip("/")
    return re.sub(r"^[A-Z]{6}\+", "", name)


def _is_bold(name: str, descriptor: Any) -> bool:
    if _BOLD.search(name) or _number(descriptor.get("/FontWeight"), 400.0) >= 600:
        return True
    return bool(_integer(descriptor.get("/Flags"), 0) & 1 << 18)


def _is_italic(name: str, descriptor: Any) -> bool:
    return bool(_ITALIC.search(name)) or abs(_number(descriptor.get("/ItalicAngle"), 0.0)) > 2


def _is_fixed(name: str, descriptor: Any, widths: list[float]) -> bool:
    if _FIXED.search(name) or _integer(descriptor.get("/Flags"), 0) & 1:
        return True
    return len(widths) > 8 and max(widths) - min(widths) < 0.002


def _vertical_extent(descriptor: Any, name: str) -> tuple[float, float]:
    """Ascent and descent in em; many producers write zeros or the extent of the tallest symbol."""
    ascent = _number(descriptor.get("/Ascent"), 0.0) * 0.001
    descent = _number(descriptor.get("/Descent"), 0.0) * 0.001
    if not ascent and (metrics := standard_metrics(_standard_name(name))):
        ascent, descent = metrics["ascent"] * 0.001, metrics["descent"] * 0.001
    return (ascent if 0.5 <= ascent <= 1.0 else 0.75), (descent if -0.35 <= descent <= -0.1 else -0.22)


def _dictionary(obj: Any) -> Any:
    return obj if isinstance(obj, (pikepdf.Dictionary, pikepdf.Stream)) else pikepdf.Dictionary()


def _number(obj: Any, default: float) -> float:
    try:
        return float(obj)
    except (TypeError, ValueError):
        return default


def _integer(obj: Any, default: int) -> int:
    return int(_number(obj, default))


def _numbers(obj: Any) -> list[float]:
    return [_number(item, 0.0) for item in obj] if isinstance(obj, pikepdf.Array) else []
