"""What the codes of TeX's fonts show: the encodings of text, of text companions and of mathematics
(Knuth 1986, appendix F; the documentation of LaTeX's font encodings).
"""

from __future__ import annotations

import functools
import re
from collections.abc import Mapping

_ACCENTS = "`´ˆ˜¨˝˚ˇ˘¯˙¸˛"
_LIGATURES = ("ff", "fi", "fl", "ffi", "ffl")
_GREEK = "ΓΔΘΛΞΠΣΥΦΨΩ"
_ASCII = {code: chr(code) for code in range(33, 127)} | {39: "’", 96: "‘"}
_T1 = (
    "ĂĄĆČĎĚĘĞĹĽŁŃŇŊŐŔŘŚŠŞŤŢŰŮŸŹŽŻĲİđ§ăąćčďěęğĺľłńňŋőŕřśšşťţűůÿźžżĳ¡¿£"
    "ÀÁÂÃÄÅÆÇÈÉÊËÌÍÎÏÐÑÒÓÔÕÖŒØÙÚÛÜÝÞẞàáâãäåæçèéêëìíîïðñòóôõöœøùúûüýþß"
)
_COMPANION = {
    36: "$", 39: "'", 42: "∗", 44: ",", 45: "=", 46: ".", 47: "⁄", 87: "Ω", 132: "†", 133: "‡", 134: "‖",
    135: "‰", 136: "•", 137: "℃", 138: "$", 139: "¢", 140: "ƒ", 151: "™", 152: "‱", 153: "¶", 155: "№",
    157: "℮", 158: "◦", 159: "℠", 162: "¢", 163: "£", 164: "¤", 165: "¥", 166: "¦", 167: "§", 168: "¨",
    169: "©", 170: "ª", 172: "¬", 174: "®", 175: "¯", 176: "°", 177: "±", 178: "²", 179: "³", 180: "´",
    181: "µ", 182: "¶", 183: "·", 184: "※", 185: "¹", 186: "º", 187: "√", 188: "¼", 189: "½", 190: "¾",
    191: "€", 214: "×", 246: "÷",
}  # fmt: skip
_LETTERS = "αβγδϵζηθικλμνξπρστυϕχψωεϑϖϱςφ"
_RELATIONS = (
    "−·×∗÷⋄±∓⊕⊖⊗⊘⊙◯∘•≍≡⊆⊇≤≥≼≽∼≈⊂⊃≪≫≺≻←→↑↓↔↗↘≃⇐⇒⇑⇓⇔↖↙∝′∞∈∋△▽\u0338↦∀∃¬∅ℜℑ⊤⊥ℵ"
    "ABCDEFGHIJKLMNOPQRSTUVWXYZ∪∩⊎∧∨⊢⊣⌊⌋⌈⌉{}⟨⟩|‖↕⇕\\≀√⨿∇∫⊔⊓⊑⊒§†‡¶♣♢♡♠"
)
_EXTENSIONS = (
    "()[]⌊⌋⌈⌉{}⟨⟩|‖/\\()()[]⌊⌋⌈⌉{}⟨⟩/\\()[]⌊⌋⌈⌉{}⟨⟩/\\/\\⎛⎞⎡⎤⎣⎦⎢⎥⎧⎫⎩⎭⎨⎬⎪⏐⎝⎠⎜⎟⟨⟩⨆⨆∮∮⨀⨀⨁⨁⨂⨂"
    "∑∏∫⋃⋂⨄⋀⋁∑∏∫⋃⋂⨄⋀⋁∐∐ˆˆˆ˜˜˜[]⌊⌋⌈⌉{}√√√√√√√"
)
# What fonts of TeX in the TrueType format put at codes that are no controls: those below 33, and 127.
_MOVED = {
    **{0xA1 + code: code for code in range(10)}, **{0xAD - 10 + code: code for code in range(10, 33)},
    0xC4: 127, 0x2219: 20,
}  # fmt: skip
_FAMILIES = (
    (re.compile(r"^cmmi", re.I), "OML"), (re.compile(r"^cmb?sy\d", re.I), "OMS"),
    (re.compile(r"^cmex", re.I), "OMX"),
    (re.compile(r"^cmtt\d", re.I), "OT1tt"), (re.compile(r"^cm(r|bx?|ss|sl|bxsl|ssbx|csc)\d", re.I), "OT1"),
)  # fmt: skip


def moved_texts(font: str, texts: Mapping[int, str]) -> dict[int, str] | None:
    """Return the characters of the codes of a font of TeX in the TrueType format, of which a file says that
    each shows the character of the number that the font has it at; None for all other fonts.
    """
    family = next((encoding for pattern, encoding in _FAMILIES if pattern.search(font)), None)
    if family is None:
        return None
    shown = tex_encoding(family)
    at = {code: _MOVED.get(ord(text), ord(text)) for code, text in texts.items() if len(text) == 1}
    # What names the characters of the encoding themselves says what it shows.
    told = any(text == shown.get(code) for code, text in texts.items() if text != chr(code))
    if told or len(at) < len(texts) or not all(number in shown for number in at.values()):
        return None
    return {code: shown[number] for code, number in at.items()}


@functools.cache
def tex_encoding(name: str) -> dict[int, str]:
    """Return the characters of the codes of an encoding: OT1, and OT1tt and OT1it for its typewriter and
    italic faces, T1, T2A, TS1, OML, OMS, OMX.
    """
    alphabet = {code: chr(code) for code in [*range(48, 58), *range(65, 91), *range(97, 123)]}
    cork = {
        **dict(enumerate(_ACCENTS)), **dict(enumerate("‚‹›“”„«»–—", 13)), **dict(enumerate("ıȷ", 25)),
        **dict(enumerate(_LIGATURES, 27)), 32: "␣", **_ASCII, 127: "-",
    }  # fmt: skip
    old = {
        **dict(enumerate(_GREEK)), **dict(enumerate(_LIGATURES, 11)),
        **dict(enumerate("ıȷ`´ˇ˘¯˚¸ßæœøÆŒØ", 16)), **_ASCII, 32: "", 34: "”", 60: "¡", 62: "¿", 92: "“",
        94: "ˆ", 95: "˙", **dict(enumerate("–—˝˜¨", 123)),
    }  # fmt: skip
    match name:
        case "OT1":
            return old
        case "OT1it":
            return old | {36: "£"}
        case "OT1tt":
            return old | _ASCII | {11: "↑", 12: "↓", 13: "'", 14: "¡", 15: "¿", 32: "␣", 127: "¨"}
        case "T1":
            return cork | dict(enumerate(_T1, 128))
        case "T2A":
            letters = "".join(map(chr, range(0x410, 0x450)))
            marks = {156: "Ё", 157: "№", 159: "§", 188: "ё", 189: "„", 190: "«", 191: "»"}
            return cork | dict(enumerate(letters, 192)) | marks
        case "TS1":
            return _COMPANION | {code: chr(code) for code in range(48, 58)}
        case "OML":
            return {
                **dict(enumerate(_GREEK)), **dict(enumerate(_LETTERS, 11)), **alphabet,
                **dict(enumerate(".,</>⋆∂", 58)), **dict(enumerate("♭♮♯⌣⌢ℓ", 91)),
                **dict(enumerate("ıȷ℘\u20d7", 123)),
            }  # fmt: skip
        case "OMS":
            return dict(enumerate(_RELATIONS))
        case "OMX":
            return dict(enumerate(_EXTENSIONS))
    raise ValueError(f"There is no encoding {name!r}.")
