"""Accents drawn as glyphs of their own over a letter -> the accented letter."""

from __future__ import annotations

import unicodedata

import numpy as np

from .arrays import Glyphs
from .font import TextTable

# Spacing accents as fonts of TeX and others draw them, by the combining mark that they stand for.
_COMBINING = {
    "`": "\u0300", "´": "\u0301", "ˆ": "\u0302", "^": "\u0302", "˜": "\u0303", "¯": "\u0304", "˘": "\u0306",
    "˙": "\u0307", "¨": "\u0308", "˚": "\u030a", "˝": "\u030b", "ˇ": "\u030c", "¸": "\u0327", "˛": "\u0328",
    "ˊ": "\u0301", "ˋ": "\u0300", "ˉ": "\u0304",
}  # fmt: skip
_DOTLESS = {"ı": "i", "ȷ": "j"}


def compose_accents(glyphs: Glyphs, texts: TextTable) -> None:
    """Give an accented letter its accent, where an accent stands over the letter beside it in the stream.

    The accent's own glyph then says nothing. Only letters that exist with the accent are composed, so a
    circumflex in a formula or code stays what it is.
    """
    marks = {texts.index[a]: c for a, c in _COMBINING.items() if a in texts.index}
    if not marks or len(glyphs) < 2:
        return
    middle = (glyphs.x0 + glyphs.x1) / 2
    for i in np.flatnonzero(np.isin(glyphs.text, list(marks))).tolist():
        for j in (i + 1, i - 1):
            if not 0 <= j < len(glyphs):
                continue
            base = texts.strings[int(glyphs.text[j])]
            if len(base) != 1 or not base.isalpha():
                continue
            over = glyphs.x0[j] - 0.1 * glyphs.size[j] <= middle[i] <= glyphs.x1[j] + 0.1 * glyphs.size[j]
            near = abs(glyphs.y[i] - glyphs.y[j]) < 0.5 * glyphs.size[j]
            whole = unicodedata.normalize("NFC", _DOTLESS.get(base, base) + marks[int(glyphs.text[i])])
            if over and near and len(whole) == 1:
                glyphs.text[j] = texts.put(whole)
                glyphs.text[i] = texts.put("")
                glyphs.y[i] = glyphs.y[j]
                break
