"""What simple and composite fonts have in common: names, styles, metrics, ToUnicode, embedded programs.

Every reading tolerates a damaged dictionary: what is missing or of the wrong kind gives a default.
"""

from __future__ import annotations

import contextlib
import re
import unicodedata
from collections.abc import Callable
from typing import Any, TypeVar

import pikepdf

from .cmap import CMap, parse_cmap
from .encodings import PRIVATE_USE, encoding, name_to_text, standard_metrics
from .programs import Program, read_cff, read_truetype, read_type1
from .streams import unpacked
from .tex_encodings import moved_texts

T = TypeVar("T")
_BOLD = re.compile(r"bold|black|heavy|demi|medi\b|medium$|cmbx|cmssbx|cmb\d|-bd|(?:^|[-,])bi?$", re.I)
_ITALIC = re.compile(r"ital|obli|slant|cmti|cmsl|cmmi|-it\b|[-,]bi$", re.I)
# Widths (em) that differ by less are rounded otherwise; letters in fixed pitch are narrower than the squares
# of ideographs and syllables.
SAME_WIDTH, SQUARE = 0.005, 0.75
_FIXED = re.compile(r"mono|courier|cmtt|typewriter|consol|fixed|cmsltt|code", re.I)
_STANDARD_NAMES = (
    (re.compile(r"^(courier|couriernew)", re.I), "Courier", "Oblique"),
    (re.compile(r"^(helvetica|arial)", re.I), "Helvetica", "Oblique"),
    (re.compile(r"^(times|timesnewroman)", re.I), "Times", "Italic"),
)
_PICTURES = re.compile(r"ding|symb|icon|awesome|marlett|emoji", re.I)
# Symbol fonts put their glyphs at U+F000 + code; these are the shapes that office files use (check boxes,
# bullets, arrows), for Wingdings.
_WINGDINGS = {
    0x6C: "●", 0x6E: "■", 0x6F: "□", 0x71: "❑", 0x72: "❒", 0x75: "◆", 0x76: "❖", 0x77: "◆", 0x9F: "•",
    0xA1: "○", 0xA7: "▪", 0xA8: "☐", 0xD8: "➢", 0xE0: "→", 0xDF: "←", 0xE8: "➔", 0xF0: "⇨", 0xFB: "✗",
    0xFC: "✓", 0xFD: "☒", 0xFE: "☑",
}  # fmt: skip

# What the fonts for science called STIX have in the private area of Unicode, by the code that each run begins
# at: double-struck italics, sans-serif Greek, upright and italic, and script capitals.
_STIX_RUNS = {
    0xE154: "𝔸𝔹", 0xE156: "𝔼𝔽𝔾", 0xE159: "𝕀𝕁𝕂𝕃𝕄", 0xE15E: "𝕆𝕊𝕋𝕌𝕍𝕎𝕏𝕐", 0xE166: "𝕒𝕓𝕔", 0xE169: "𝕗𝕘𝕙",
    0xE16C: "𝕜𝕝𝕞𝕟𝕠𝕡𝕢𝕣𝕤𝕥𝕦𝕧𝕨𝕩𝕪𝕫", 0xE17C: "∂ΑΒΓΔΕΖΗΘΙΚΛΜΝΞΟΠΡ", 0xE18F: "ΣΤΥΦΧΨΩ",
    0xE196: "αβγδεζηθικλμνξοπρςστυφχψω", 0xE1AF: "ϵϑϕϱϖ", 0xE1D8: "αβγδεζηθικλμνξοπρςστυφχψω",
    0xE1F1: "ϵϑϕϱϖ", 0xE22D: "𝒜ℬ𝒞𝒟ℰℱ𝒢ℋℐ𝒥𝒦ℒℳ𝒩𝒪𝒫𝒬ℛ𝒮𝒯𝒰𝒱𝒲𝒳𝒴𝒵",
}  # fmt: skip
_STIX = {first + k: text for first, run in _STIX_RUNS.items() for k, text in enumerate(run)}


def to_unicode(obj: Any, font: str) -> CMap | None:
    """Return the ToUnicode CMap of a font, or None; of fonts of TeX that only repeats their codes, what these
    show.
    """
    entry = obj.get("/ToUnicode")
    if isinstance(entry, pikepdf.Stream):
        with contextlib.suppress(Exception):
            found = parse_cmap(unpacked(entry))
            if moved := moved_texts(font, found.texts):
                found.texts = moved
            return found
    return None


def known_text(text: str | None, font: str) -> str | None:
    """What a ToUnicode entry is worth: None where it names no character (empty, control, private use)."""
    if not text:
        return None
    if len(text) == 1:
        value = ord(text)
        if 0xF000 <= value <= 0xF0FF:
            return symbol_text(value & 0xFF, font)
        if value in PRIVATE_USE and "stix" in font.lower():
            return _STIX.get(value)
        if (value < 32 and text not in "\t\n\r") or value == 0xFFFD or value in PRIVATE_USE:
            return None
        if unicodedata.category(text) == "Cn":
            return None
        return " " if text in "\t\n\r\u00a0" else text
    return text.replace("\0", "") or None


def symbol_text(code: int, font: str) -> str | None:
    """Return what a code of a symbol font shows, or None."""
    if "wingdings" in font.lower():
        return _WINGDINGS.get(code)
    name = encoding("Symbol")[code] if "symbol" in font.lower() else None
    if name is not None:
        return name_to_text(name)
    if code in (0xB7, 0xA7):
        return "•" if code == 0xB7 else "▪"
    # A font of letters put at these places keeps their codes; what a font of pictures shows is not known.
    return chr(code) if 32 < code < 127 and not _PICTURES.search(font) else None


def font_program(descriptor: Any) -> Program:
    """Read the embedded program of a font; an empty reading where there is none."""
    return first_read(descriptor, read_type1, read_truetype, read_cff) or Program()


def first_read(
    descriptor: Any,
    type1: Callable[[bytes], T],
    truetype: Callable[[bytes], T],
    cff: Callable[[bytes], T],
) -> T | None:
    """Return what is read of the embedded program of a font by what reads its format; None where there is
    none, or it is broken.
    """
    for key in ("/FontFile", "/FontFile2", "/FontFile3"):
        stream = descriptor.get(key)
        if not isinstance(stream, pikepdf.Stream):
            continue
        with contextlib.suppress(Exception):
            data = unpacked(stream)
            if data[:4] in (b"OTTO", b"\0\1\0\0", b"true", b"ttcf"):
                return truetype(data)
            return type1(data) if key == "/FontFile" else cff(data)
    return None


def base_name(obj: Any, descriptor: Any) -> str:
    """Return the name of a font without its subset tag."""
    raw = obj.get("/BaseFont", descriptor.get("/FontName", obj.get("/Name", "")))
    name = str(raw).lstrip("/")
    return re.sub(r"^[A-Z]{6}\+", "", name)


def is_bold(name: str, descriptor: Any) -> bool:
    """Tell from name, weight and flags."""
    if _BOLD.search(name) or number(descriptor.get("/FontWeight"), 400.0) >= 600:
        return True
    return bool(integer(descriptor.get("/Flags"), 0) & 1 << 18)


def is_italic(name: str, descriptor: Any) -> bool:
    """Tell from name and angle."""
    return bool(_ITALIC.search(name)) or abs(number(descriptor.get("/ItalicAngle"), 0.0)) > 2


def is_fixed(name: str, descriptor: Any, widths: list[float]) -> bool:
    """Tell from name, flags and the widths (em) of all but digits, which have one in most fonts."""
    if _FIXED.search(name) or integer(descriptor.get("/Flags"), 0) & 1:
        return True
    drawn = [width for width in widths if width > 0]
    return len(drawn) > 8 and max(drawn) < min(SQUARE, min(drawn) + SAME_WIDTH)


def vertical_extent(descriptor: Any, name: str) -> tuple[float, float]:
    """Ascent and descent in em; many producers write zeros or the extent of the tallest symbol."""
    ascent = number(descriptor.get("/Ascent"), 0.0) * 0.001
    descent = number(descriptor.get("/Descent"), 0.0) * 0.001
    if not ascent and (metrics := standard_metrics(standard_name(name))):
        ascent, descent = metrics["ascent"] * 0.001, metrics["descent"] * 0.001
    return (ascent if 0.5 <= ascent <= 1.0 else 0.75), (descent if -0.35 <= descent <= -0.1 else -0.22)


def dictionary(obj: Any) -> Any:
    """Return the object if it is a dictionary, else an empty one."""
    return obj if isinstance(obj, (pikepdf.Dictionary, pikepdf.Stream)) else pikepdf.Dictionary()


def number(obj: Any, default: float) -> float:
    """Return the object as a number, else the default."""
    try:
        return float(obj)
    except (TypeError, ValueError):
        return default


def integer(obj: Any, default: int) -> int:
    """Return the object as a whole number, else the default."""
    return int(number(obj, default))


def numbers(obj: Any) -> list[float]:
    """Return the numbers of an array; none for anything else."""
    return [number(item, 0.0) for item in obj] if isinstance(obj, pikepdf.Array) else []


def standard_name(name: str) -> str:
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
