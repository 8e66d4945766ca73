"""The picture of a line -> its characters, each with its place and how sure it is."""

from __future__ import annotations

import functools
import importlib.util
import itertools
import os
import statistics
import sys
import threading
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Protocol

from ..errors import UsageError
from .picture import Grey

# How to add what is needed, in words for the user; languages that come as packages.
COMMAND = "pip install 'wennak[ocr]'"
PACKAGES = ("eng", "deu")
# A character is said to be where the whole word is if it spans those beside it and is so many times as broad
# as most.
SPANS = 2.0


@dataclass(slots=True)
class Read:
    """What was read in a picture of a line: characters from left to right, where each begins and ends in
    pixels, how sure it is (0..1), and whether a blank stands before it.
    """

    texts: list[str] = field(default_factory=list)
    x0: list[float] = field(default_factory=list)
    x1: list[float] = field(default_factory=list)
    sure: list[float] = field(default_factory=list)
    blank: list[bool] = field(default_factory=list)

    def placed(self, left: float, scale: float) -> Read:
        """Return the same on the page, of which the picture shows what lies right of `left` at a scale."""
        self._set_in_order()
        self.x0 = [left + x / scale for x in self.x0]
        self.x1 = [left + x / scale for x in self.x1]
        return self

    def _set_in_order(self) -> None:
        """Put those characters between the others that are said to be where a whole word is, as recognisers
        say of some of small print.
        """
        for a, b in self.words():
            broad = SPANS * statistics.median(y - x for x, y in zip(self.x0[a:b], self.x1[a:b], strict=True))
            low, high = min(self.x0[a:b]), max(self.x1[a:b])
            lost = [b - a > 1 and self._spans(k, range(a, b), broad) for k in range(a, b)]
            for is_lost, group in itertools.groupby(range(a, b), key=lambda k: lost[k - a]):
                own = list(group)
                if is_lost:
                    left = self.x1[own[0] - 1] if own[0] > a else low
                    right = self.x0[own[-1] + 1] if own[-1] + 1 < b else high
                    wide = max(right - left, 0.0) / len(own)
                    for n, k in enumerate(own):
                        self.x0[k], self.x1[k] = left + n * wide, left + (n + 1) * wide

    def _spans(self, k: int, word: range, broad: float) -> bool:
        """Whether a character of a word is said to be where those beside it are, too."""
        beside = [n for n in (k - 1, k + 1) if n in word]
        over = all(self.x0[k] <= self.x0[n] and self.x1[k] >= self.x1[n] for n in beside)
        return over and self.x1[k] - self.x0[k] > broad

    def words(self) -> Iterator[tuple[int, int]]:
        """Yield the first character of each word and the one after its last."""
        if self.texts:
            begins = (k for k in range(1, len(self.texts)) if self.blank[k])
            yield from itertools.pairwise([0, *begins, len(self.texts)])

    def has_digits(self) -> bool:
        """Return whether there are any digits."""
        return any(char.isdigit() for text in self.texts for char in text)

    def put(self, text: str, x0: float, x1: float, sure: float, blank: bool) -> None:
        """Add a character."""
        self.insert(len(self.texts), text, x0, x1, sure, blank)

    def insert(self, at: int, text: str, x0: float, x1: float, sure: float, blank: bool) -> None:
        """Put a character before one of the others."""
        for column, value in zip(
            (self.texts, self.x0, self.x1, self.sure, self.blank),
            (text, x0, x1, sure, blank),
            strict=True,
        ):
            column.insert(at, value)  # type: ignore[attr-defined]


class Recogniser(Protocol):
    """Reads pictures of single lines of text: grey, dark on white, letters some twenty pixels high."""

    def read(self, line: Grey, alphabet: str = "") -> Read:
        """Return what stands in the line, in characters of the alphabet (any if empty) only."""


def installed_languages() -> list[str]:
    """Return the codes (three letters) of the languages that can be recognised; none without the extra."""
    if importlib.util.find_spec("tesserocr") is None:
        return []
    return sorted(path.stem for path in _folder().glob("*.traineddata") if path.stem != "osd")


def open_recogniser(languages: Sequence[str]) -> Recogniser | None:
    """Return a recogniser of some languages (all that are installed if none is named), or None where the
    extra is not installed.

    Raises UsageError for a language that is not installed.
    """
    there = installed_languages()
    if not there:
        return None
    missing = [language for language in languages if language not in there]
    if missing:
        code = missing[0]
        adding = (
            f"pip install tessdata.{code}" if code in PACKAGES else f"put {code}.traineddata into {_folder()}"
        )
        raise UsageError(
            f"The language {code!r} cannot be recognised, only {', '.join(there)}; to add it: {adding}"
        )
    # English letters are what numbers and signs were learnt with best.
    chosen = languages or sorted(there, key=lambda code: (code != "eng", code))
    return _opened(tuple(chosen), threading.get_ident())


@functools.lru_cache(maxsize=1)
def _opened(languages: tuple[str, ...], thread: int) -> Recogniser:
    """A recogniser, kept for the next document: opening takes as long as reading twenty lines. What it reads
    does not depend on what it read before; threads have their own.
    """
    return _Tesseract(languages)


def _folder() -> Path:
    """Where the data of the languages lie that were installed as packages."""
    return Path(sys.prefix) / "share" / "tessdata"


class _Tesseract:
    def __init__(self, languages: Sequence[str]) -> None:
        # Threads of its own would compete with those of other workers, and gain nothing on single lines.
        os.environ.setdefault("OMP_THREAD_LIMIT", "1")
        import tesserocr

        self._level = tesserocr.RIL.SYMBOL
        self._word = tesserocr.RIL.WORD
        self._api = tesserocr.PyTessBaseAPI(
            f"{_folder()}/", "+".join(languages), psm=tesserocr.PSM.SINGLE_LINE, oem=tesserocr.OEM.LSTM_ONLY
        )

    def read(self, line: Grey, alphabet: str = "") -> Read:
        """See `Recogniser`."""
        height, width = line.shape
        api = self._api
        api.SetVariable("tessedit_char_whitelist", alphabet)
        api.SetImageBytes(line.tobytes(), width, height, 1, width)
        out = Read()
        if not api.Recognize(0):
            return out
        at = api.GetIterator()
        if at is None or at.Empty(self._level):
            return out
        while True:
            text, box = at.GetUTF8Text(self._level), at.BoundingBox(self._level)
            if text and text.strip() and box:
                sure, begins = at.Confidence(self._level) / 100, at.IsAtBeginningOf(self._word)
                out.put(text, float(box[0]), float(box[2]), sure, bool(begins))
            if not at.Next(self._level):
                return out
