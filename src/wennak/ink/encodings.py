"""Codes -> glyph names -> Unicode (ISO 32000-2, 9.6.5 and annex D; the Adobe Glyph List)."""

from __future__ import annotations

import functools
import json
import re
from importlib import resources
from typing import Any

# Code points of which no standard says what they show.
PRIVATE_USE = range(0xE000, 0xF900)

# Names of TeX fonts and of common font tools that the Adobe Glyph List lacks.
_MORE_NAMES = {
    "ff": "ff", "ffi": "ffi", "ffl": "ffl", "fi": "fi", "fl": "fl",
    "angbracketleft": "⟨", "angbracketright": "⟩", "visiblespace": "␣", "dotlessj": "ȷ",
    "arrowhookright": "↪",
    "epsilon1": "ϵ", "phi1": "ϕ", "rho1": "ϱ", "pi1": "ϖ", "sigma1": "ς", "theta1": "ϑ",
    "follows": "≻", "precedes": "≺", "followsequal": "⪰", "precedesequal": "⪯", "lessmuch": "≪",
    "greatermuch": "≫", "similarequal": "≃", "owner": "∋", "element": "∈", "equivasymptotic": "≍",
    "latticetop": "⊤", "perpendicular": "⊥", "turnstileleft": "⊢", "turnstileright": "⊣", "bardbl": "‖",
    "backslash": "\\", "asteriskmath": "∗", "circlemultiply": "⊗", "circleplus": "⊕", "circleminus": "⊖",
    "circledot": "⊙", "circledivide": "⊘", "diamondmath": "⋄", "arrownortheast": "↗", "arrowsoutheast": "↘",
    "arrownorthwest": "↖", "arrowsouthwest": "↙", "arrowdblboth": "⇔", "arrowdblright": "⇒", "prime": "′",
    "square": "□", "trianglesolid": "▲", "star": "⋆", "lscript": "ℓ", "weierstrass": "℘", "mapsto": "↦",
    "floorleft": "⌊", "floorright": "⌋", "ceilingleft": "⌈", "ceilingright": "⌉", "braceleft": "{",
    "braceright": "}", "suppress": "", "cwm": "", "compwordmark": "", "perthousandzero": "", "Delta": "Δ",
    "Omega": "Ω", "mu": "µ", "nbspace": " ", "hyphenchar": "-", "sfthyphen": "\u00ad", "dotmath": "⋅",
    "negationslash": "\u0338", "mapstochar": "↦", "unionsq": "⊔", "intersectionsq": "⊓", "unionmulti": "⊎",
    "nabla": "∇", "vextendsingle": "|", "vextenddouble": "‖", "radicaltp": "√", "radicalvertex": "√",
    "radicalbt": "√", "hatwide": "ˆ", "hatwider": "ˆ", "hatwidest": "ˆ", "tildewide": "˜", "tildewider": "˜",
    "tildewidest": "˜",
}  # fmt: skip
_TEX_SIZES = re.compile(
    r"(parenleft|parenright|bracketleft|bracketright|braceleft|braceright|angbracketleft|angbracketright|"
    r"slash|backslash|floorleft|floorright|ceilingleft|ceilingright|radical)(big|Big|bigg|Bigg)$"
)
# The same for large operators, in the lines of text and on lines of their own.
_TEX_OPERATOR = re.compile(r"([a-z]+)(text|display)$")
_OPERATORS = {
    "summation": "∑", "product": "∏", "coproduct": "∐", "integral": "∫", "contintegral": "∮", "union": "⋃",
    "intersection": "⋂", "unionmulti": "⨄", "unionsq": "⨆", "circleplus": "⨁", "circlemultiply": "⨂",
    "circledot": "⨀", "logicaland": "⋀", "logicalor": "⋁",
}  # fmt: skip
_SUFFIXED = re.compile(
    r"^(?P<base>[A-Za-z]+\d?)\.(?:sc|smcp|oldstyle|taboldstyle|fitted|alt\d*|lf|tf|onum|tnum|\d+)$"
)


@functools.cache
def _standard14() -> dict[str, Any]:
    text = resources.files("wennak.ink").joinpath("data/standard14.json").read_text(encoding="utf-8")
    data: dict[str, Any] = json.loads(text)
    return data


def standard_metrics(font: str) -> dict[str, Any] | None:
    """Return ascent, descent and widths by glyph name (1/1000 em) of a standard font, or None."""
    found: dict[str, Any] | None = _standard14()["fonts"].get(font)
    return found


@functools.cache
def encoding(name: str) -> tuple[str | None, ...]:
    """Return the 256 glyph names of a named encoding; of StandardEncoding where the name is unknown."""
    known = _standard14()["encodings"]
    return tuple(known.get(name, known["StandardEncoding"]))


@functools.cache
def name_to_text(name: str, dingbats: bool = False) -> str | None:
    """Return the characters that a glyph name stands for, or None where the name tells nothing."""
    if (more := _MORE_NAMES.get(name)) is not None:
        return more
    if text := (not dingbats and _standard14()["characters"].get(name)) or _listed(name, dingbats):
        return text
    if dingbats:
        return name_to_text(name)
    if sized := _TEX_SIZES.match(name):
        return name_to_text(sized[1])
    if (operator := _TEX_OPERATOR.match(name)) and operator[1] in _OPERATORS:
        return _OPERATORS[operator[1]]
    if suffixed := _SUFFIXED.match(name):
        return name_to_text(suffixed["base"])
    if hexed := re.match(r"^[uU]\+?([0-9A-Fa-f]{4,6})$", name):
        return _scalar(int(hexed[1], 16))
    return None


def _listed(name: str, dingbats: bool) -> str:
    # The whole list is loaded for names beyond the named encodings only.
    from fontTools import agl

    text: str = agl.toUnicode(name, isZapfDingbats=dingbats)
    return text


def _scalar(value: int) -> str | None:
    return chr(value) if 0 < value < 0x110000 and not 0xD800 <= value < 0xE000 else None
