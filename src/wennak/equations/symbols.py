"""Glyphs and level rules of an equation -> symbols with their places."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np

from ..ink import Ints, PageInk
from .tree import NAMES, Node, Style, Symbol

# Letters and digits of one name or number stand at most this far apart (em).
CLOSE = 0.12
# Pieces of a bracket stand above each other within this (em).
STACKED = 0.25
# A sign is tall where it is higher than this (em); one that reaches so far below its baseline stands on none.
TALL, HANGS = 1.25, 0.4
# A bracket higher than this (em) is centred on its line, wherever its own baseline is.
HIGHER = 0.99
# A blank between words is at least so wide (em): room around signs is less.
BLANK = 0.24

# So many symbols above and below each other are looked back over for the letter before one.
BETWEEN = 40

# What is as large as its place asks for.
OPERATORS = frozenset("∑∏∐⋃⋂⨁⨂⨀⨄⨆⋁⋀∫∬∭∮")
FENCES = frozenset("()[]{}|‖⟨⟩⌊⌋⌈⌉/")
# What pieces of brackets are pieces of.
_PIECES = {piece: whole for whole, pieces in
    {"(": "⎛⎜⎝", ")": "⎞⎟⎠", "[": "⎡⎢⎣", "]": "⎤⎥⎦", "{": "⎧⎨⎩", "}": "⎫⎬⎭", "∫": "⌠⎮⌡"}.items()
    for piece in pieces}  # fmt: skip
# An extension of either brace.
_EXTENSION = "⎪"
# Fonts whose letters are those of an alphabet of their own.
_ALPHABETS: tuple[tuple[re.Pattern[str], Style], ...] = (
    (re.compile(r"msbm|bbm|double", re.I), "double-struck"),
    (re.compile(r"cmsy|cmbsy|lmsy|lmmathsymbols|eusm|rsfs|script|txsy|pxsy|zpzccm", re.I), "script"),
    (re.compile(r"eufm|eufb|fraktur", re.I), "fraktur"),
)  # fmt: skip
# A stroke through a sign: zero wide, before what it strikes out, or behind it.
STROKE = "\u0338"


@dataclass(frozen=True, slots=True)
class Placed:
    """A node with its box, the baseline and the size of its symbols; `axis` is the height that fractions and
    operators beside it are centred on, `plain` tells that its baseline says as much.
    """

    node: Node
    x0: float
    x1: float
    top: float
    bottom: float
    baseline: float
    size: float
    axis: float
    plain: bool = True

    @property
    def middle(self) -> float:
        """The middle of its width."""
        return (self.x0 + self.x1) / 2

    @property
    def text(self) -> str:
        """What a symbol shows; nothing for all else."""
        return self.node.text if isinstance(self.node, Symbol) else ""


@dataclass(frozen=True, slots=True)
class Bar:
    """A level rule."""

    x0: float
    x1: float
    y: float


# The height above the baseline that fractions are centred on, in em.
AXIS = 0.25


def placed_symbols(ink: PageInk, glyphs: Ints) -> list[Placed]:
    """Return the symbols that some glyphs of a page show, from left to right."""
    g = ink.glyphs
    order = glyphs[np.argsort(g.x0[glyphs], kind="stable")]
    rest: dict[int, list[int]] = {}
    for i in order[(ink.texts.length[g.text[order]] == 0) & (g.mark[order] >= 0)].tolist():
        rest.setdefault(int(g.mark[i]), []).append(i)
    single = [_symbol(ink, i, rest) for i in order.tolist() if ink.texts.strings[g.text[i]].strip()]
    return _with_blanks(_joined(_struck(_whole_brackets(single))))


def _symbol(ink: PageInk, i: int, rest: Mapping[int, Sequence[int]]) -> Placed:
    """The symbol that a glyph shows; `rest` are the glyphs that show no more of their marked content."""
    g = ink.glyphs
    font, text = ink.fonts[g.font[i]], ink.texts.strings[g.text[i]]
    x0, x1, y, size = float(g.x0[i]), float(g.x1[i]), float(g.y[i]), float(g.size[i])
    top, bottom = float(g.y0[i]), float(g.y1[i])
    letters, style = _style(text, font.name, font.italic, font.bold)
    for piece in rest.get(int(g.mark[i]), ()) if text in FENCES or text == "√" else ():
        if abs(g.x0[piece] + g.x1[piece] - x0 - x1) < size:
            top, bottom = min(top, float(g.y0[piece])), max(bottom, float(g.y1[piece]))
    tall = bottom - top > TALL * size
    node = Symbol(letters, style, tall)
    higher = text in FENCES and bottom - top > HIGHER * size
    if tall or higher or text in OPERATORS or text == "√" or bottom > y + HANGS * size:
        return Placed(node, x0, x1, top, bottom, y, size, (top + bottom) / 2, plain=False)
    return Placed(node, x0, x1, y - ASCENT * size, y + DESCENT * size, y, size, y - AXIS * size)


# Letters and signs are taken to reach this far above and below their baseline (em): descenders and accents
# are not needed to keep lines apart.
ASCENT, DESCENT = 0.62, 0.08


def _style(text: str, font: str, italic: bool, bold: bool) -> tuple[str, Style]:
    """The characters of a glyph without their alphabet, and that."""
    plain = unicodedata.normalize("NFKC", text)
    if plain != text and len(text) == 1 and text.isalnum():
        name = unicodedata.name(text, "")
        for word, style in _NAMED:
            if word in name:
                return plain, style
    # The increment, the ohm and the micro sign are Greek letters here.
    text = {"∆": "Δ", "Ω": "Ω", "µ": "μ"}.get(text, text)
    if text.isalpha():
        for pattern, alphabet in _ALPHABETS:
            if pattern.search(font):
                return text, alphabet
    if bold:
        return text, "bold-italic" if italic and text.isalpha() else "bold"
    return text, "italic" if italic and text.isalpha() else "upright"


_NAMED: tuple[tuple[str, Style], ...] = (
    ("DOUBLE-STRUCK", "double-struck"), ("FRAKTUR", "fraktur"), ("BLACK-LETTER", "fraktur"),
    ("BOLD ITALIC", "bold-italic"), ("BOLD SCRIPT", "script"), ("SCRIPT", "script"), ("BOLD", "bold"),
    ("ITALIC", "italic"), ("PLANCK CONSTANT", "italic"), ("MATHEMATICAL", "upright"),
)  # fmt: skip


def _whole_brackets(symbols: Sequence[Placed]) -> list[Placed]:
    """Put the pieces of tall brackets together."""
    out: list[Placed] = []
    for symbol in symbols:
        # Bars and radicals are made of pieces that each look like a small one.
        whole = symbol.text if symbol.text in ("|", "‖", "√") else _PIECES.get(symbol.text)
        if whole is None and symbol.text != _EXTENSION:
            out.append(symbol)
            continue
        other = next((k for k, part in enumerate(out) if _is_stacked(part, symbol, whole)), None)
        if other is not None:
            out[other] = _tall(whole or out[other].text, out[other], symbol)
        else:
            out.append(symbol if whole == symbol.text else _tall(whole or _EXTENSION, symbol))
    return out


def _is_stacked(part: Placed, piece: Placed, whole: str | None) -> bool:
    """Whether a piece of a bracket stands right above or below what may be another of the same."""
    if whole is None:
        fits = part.text in (_EXTENSION, "{", "}")
    else:
        fits = part.text == whole or (part.text == _EXTENSION and whole in ("{", "}"))
    gap = max(piece.top - part.bottom, part.top - piece.bottom)
    near = STACKED * piece.size
    return fits and abs(part.middle - piece.middle) < near and gap < near


def _tall(text: str, *parts: Placed) -> Placed:
    top, bottom = min(p.top for p in parts), max(p.bottom for p in parts)
    return Placed(
        Symbol(text, "upright", True), min(p.x0 for p in parts), max(p.x1 for p in parts), top, bottom,
        parts[0].baseline, parts[0].size, (top + bottom) / 2, plain=False,
    )  # fmt: skip


def _struck(symbols: Sequence[Placed]) -> list[Placed]:
    """Put signs and the stroke through them together: not equal, not in."""
    out: list[Placed] = []
    strokes = [s for s in symbols if s.text == STROKE]
    for symbol in symbols:
        if symbol.text == STROKE:
            continue
        for stroke in strokes:
            near = symbol.x0 - 0.3 * symbol.size < stroke.middle < symbol.x1 + 0.1 * symbol.size
            whole = unicodedata.normalize("NFC", symbol.text + STROKE)
            if near and len(whole) == 1 and abs(stroke.baseline - symbol.baseline) < CLOSE * symbol.size:
                symbol = replace(symbol, node=Symbol(whole, "upright"))
                strokes.remove(stroke)
                break
        out.append(symbol)
    return out


def _joined(symbols: Sequence[Placed]) -> list[Placed]:
    """Put the letters of names, and the digits of numbers, together."""
    out: list[Placed] = []
    for k, symbol in enumerate(symbols):
        following = symbols[k + 1 : k + BETWEEN]
        # What stands over and under a name comes between its letters.
        for n in range(len(out) - 1, max(-1, len(out) - BETWEEN), -1):
            if _goes_on(out[n], symbol, following):
                out[n] = _put_together(out[n], symbol)
                break
        else:
            out.append(symbol)
    return [part for symbol in out for part in _names(symbol)]


def _names(symbol: Placed) -> list[Placed]:
    """A run of letters that is two names of functions, as these; anything else as it is."""
    text = symbol.text
    if text in NAMES or not isinstance(symbol.node, Symbol):
        return [symbol]
    for k in range(2, len(text) - 1):
        if text[:k] in NAMES and text[k:] in NAMES:
            x = symbol.x0 + (symbol.x1 - symbol.x0) * k / len(text)
            left, right = (replace(symbol.node, text=part) for part in (text[:k], text[k:]))
            return [replace(symbol, node=left, x1=x), replace(symbol, node=right, x0=x)]
    return [symbol]


def _goes_on(last: Placed, symbol: Placed, following: Sequence[Placed]) -> bool:
    """Whether a symbol is the next letter of a name, or digit of a number; a mark, if a digit follows it."""
    if not isinstance(last.node, Symbol) or not isinstance(symbol.node, Symbol):
        return False
    if not _follows(last, symbol) or last.node.style != symbol.node.style:
        return False
    if symbol.text.isalpha():
        return last.text.isalpha() and symbol.node.style in _NAMES and _is_latin(last.text + symbol.text)
    if not last.text[:1].isdigit():
        return False
    return symbol.text.isdigit() or (
        symbol.text in (".", ",") and any(s.text.isdigit() and _follows(symbol, s) for s in following)
    )


# Alphabets in which names of several letters are set; in the others each letter is a name.
_NAMES = ("upright", "bold")


def _is_latin(text: str) -> bool:
    return not any("Ͱ" <= c <= "Ͽ" for c in text)


def _follows(last: Placed, symbol: Placed) -> bool:
    if not (last.plain and symbol.plain) or abs(last.size - symbol.size) > 0.05 * symbol.size:
        return False
    level = abs(last.baseline - symbol.baseline) < 0.05 * symbol.size
    return level and abs(symbol.x0 - last.x1) < CLOSE * symbol.size


def _put_together(last: Placed, symbol: Placed) -> Placed:
    assert isinstance(last.node, Symbol)
    node = replace(last.node, text=last.text + symbol.text)
    return replace(last, node=node, x1=max(last.x1, symbol.x1))


def _with_blanks(symbols: Sequence[Placed]) -> list[Placed]:
    """Note the blanks behind and before words that stand among letters: "if x", "x and y"."""
    out = list(symbols)
    for k, (a, b) in enumerate(pairwise(symbols)):
        apart = b.x0 - a.x1 > BLANK * a.size and abs(a.baseline - b.baseline) < CLOSE * a.size
        if not apart or not isinstance(a.node, Symbol) or not isinstance(b.node, Symbol):
            continue
        if _is_word(a) and b.text[:1].isalnum():
            out[k] = replace(out[k], node=replace(a.node, text=f"{out[k].text} "))
        elif _is_word(b) and a.text[-1:].isalnum():
            out[k + 1] = replace(b, node=replace(b.node, text=f" {b.text}"))
    return out


def _is_word(symbol: Placed) -> bool:
    return len(symbol.text) > 1 and symbol.text.isalpha() and symbol.text not in NAMES
