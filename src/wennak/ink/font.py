"""A font as the decoder uses it: how strings split, how wide codes are, what characters they show."""

from __future__ import annotations

import functools
import re
import unicodedata
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

import numpy as np
import numpy.typing as npt

from .arrays import UNKNOWN, Floats, FontFacts, Ints, TextKind, Texts, distinct, looked_up
from .encodings import PRIVATE_USE
from .extents import Extent, ExtentOf, comes_tall

Octets = npt.NDArray[np.uint8]
# Joined bytes of strings and the length of each -> joined codes and the number of codes of each.
Split = Callable[[Octets, Ints], tuple[Ints, Ints]]
# Latin ligatures, Arabic presentation forms, and the no-break blank.
# What reaches farther than letters do by more than this (em), more where nothing names it, has the box of its
# outline; no glyph reaches farther than that.
FARTHER, UNNAMED_FARTHER, FARTHEST = 0.1, 0.4, 20.0
_FORMS = re.compile(r"[\ufb00-\ufb06\ufb50-\ufdcf\ufdf0-\ufdfc\ufe70-\ufefc\u00a0]")
_CONTROL = re.compile(r"[\x00-\x08\x0b\x0c\x0e-\x1f\x7f-\x9f\ufdd0-\ufdef\ufffe\uffff]")
# What the Adobe Glyph List gives for pieces of brackets, from U+F8EB on, lies in the private area of Unicode.
_PIECES = "⎛⎜⎝⎡⎢⎣⎧⎨⎩⎪⎮⎞⎟⎠⎤⎥⎦⎫⎬⎭"


@dataclass(slots=True)
class TextTable:
    """The distinct character strings of a document as they are met; glyphs point into it by index."""

    strings: list[str] = field(default_factory=list)
    index: dict[str, int] = field(default_factory=dict)
    _columns: Texts | None = None

    @classmethod
    def starting_with(cls, texts: Texts) -> TextTable:
        """Return a table in which the texts of another have the same index, and which may grow."""
        strings = list(texts.strings)
        return cls(strings, {text: k for k, text in enumerate(strings)})

    def put(self, text: str) -> int:
        """Return the index of `text`, adding it if it is new; see `without_controls`."""
        text = without_controls(text)
        found = self.index.get(text)
        if found is None:
            found = self.index[text] = len(self.strings)
            self.strings.append(text)
            self._columns = None
        return found

    def put_unknown(self) -> int:
        """Return a new index for what is not known: the same for all glyphs of one code of one font only, so
        that they can be told apart later.
        """
        self.strings.append(UNKNOWN)
        self._columns = None
        return len(self.strings) - 1

    def columns(self) -> Texts:
        """Return the texts met so far as columns."""
        if self._columns is None:
            length = np.array([len(text) for text in self.strings], dtype=np.int64)
            self._columns = Texts(
                strings=self.strings,
                kind=np.array([_kind(text) for text in self.strings], dtype=np.int64),
                codes=np.frombuffer("".join(self.strings).encode("utf-32-le", "surrogatepass"), dtype="<u4"),
                start=np.cumsum(length) - length,
                length=length,
            )
        return self._columns


def without_controls(text: str) -> str:
    """Leave out what is no character: controls other than white space, and code points that never will be."""
    return text if text.isprintable() else _CONTROL.sub("", text)


@functools.lru_cache(10_000)
def _kind(text: str) -> TextKind:
    if not text.strip():
        return TextKind.BLANK if text else TextKind.NOTHING
    if not text.strip("·․‥…."):
        return TextKind.DOT
    return TextKind.LETTER if text.isalpha() else TextKind.OTHER


def standard_text(text: str) -> str:
    """Return ligatures and positional letter forms as the plain letters that they stand for, and pieces of
    brackets as such.
    """
    if len(text) == 1 and "\uf8eb" <= text <= "\uf8fe":
        return _PIECES[ord(text) - 0xF8EB]
    return unicodedata.normalize("NFKC", text) if _FORMS.search(text) else text


@dataclass(slots=True)
class Font:
    """A font as the decoder uses it. Widths, ascent and descent are in em.

    The width of a vertical font's glyph is its advance down the page, which is negative. `extent` tells how
    far a code reaches below and above the baseline, in fonts whose glyphs may reach farther than letters do;
    `tall_codes` are those decoded so far that do.
    """

    facts: FontFacts
    ascent: float
    descent: float
    vertical: bool
    split: Split
    lookup: Callable[[int], tuple[float, str]]
    one_byte: bool
    texts: TextTable
    extent: ExtentOf | None = None
    tall_codes: dict[int, Extent] = field(default_factory=dict)
    _widths: Floats = field(default_factory=lambda: np.zeros(256))
    _ids: Ints = field(default_factory=lambda: np.full(256, -1))

    def decode(self, codes: Ints) -> tuple[Floats, Ints]:
        """Return the width in em and the text index of each code."""
        top = int(codes.max(initial=0))
        if top >= len(self._widths):
            grown = max(256, 1 << top.bit_length())
            self._widths = np.resize(self._widths, grown)
            self._ids = np.append(self._ids, np.full(grown - len(self._ids), -1))
        ids = self._ids[codes]
        if (ids < 0).any():
            self._learn(distinct(codes[ids < 0]))
            ids = self._ids[codes]
        return self._widths[codes], ids

    def _learn(self, codes: Ints) -> None:
        for code in codes.tolist():
            self._widths[code], text = self.lookup(code)
            text = standard_text(text)
            unknown = text == UNKNOWN or (len(text) == 1 and ord(text) in PRIVATE_USE)
            self._ids[code] = self.texts.put_unknown() if unknown else self.texts.put(text)
            extent = self.extent(code) if self.extent and comes_tall(text) else None
            # What a font says of its glyphs may be anything.
            if extent and -FARTHEST < extent[0] < extent[1] < FARTHEST:
                # What nothing names may be a letter with a long tail.
                least = UNNAMED_FARTHER if unknown else FARTHER
                if extent[0] < self.descent - least or extent[1] > self.ascent + least:
                    self.tall_codes[code] = extent

    def tall(self, codes: Ints) -> tuple[Ints, Floats, Floats]:
        """Return which of some codes that were decoded reach farther than letters do, and their lowest and
        highest points in em above the baseline.
        """
        which = np.flatnonzero(np.isin(codes, list(self.tall_codes)))
        extents = np.array([self.tall_codes[code] for code in codes[which].tolist()]).reshape(-1, 2)
        return which, extents[:, 0], extents[:, 1]


def decode_bytes(fonts: Sequence[Font], which: Ints, codes: Ints) -> tuple[Floats, Ints]:
    """Return the width in em and the text index of codes of several simple fonts at once; `which` gives the
    font of each code.
    """
    at = which * 256 + codes
    ids = looked_up(np.concatenate([font._ids for font in fonts]), at)
    if (ids < 0).any():
        unknown = distinct(at[ids < 0])
        for k, font in enumerate(fonts):
            font._learn(unknown[unknown >> 8 == k] & 255)
        ids = looked_up(np.concatenate([font._ids for font in fonts]), at)
    return looked_up(np.concatenate([font._widths for font in fonts]), at), ids
