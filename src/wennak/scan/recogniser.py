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
# A character is said to be where others are if the middle of one beside it is there, too, and it is so many
# times as broad as most.
SPANS = 2.0
# The picture of more than a letter is so many times as wide as high.
SOME_LETTERS = 1.25


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
        """Put those characters between the others that are said to be where others are: recognisers give some
        of small print the place of the whole word, or of all that follows.
        """
        n = len(self.texts)
        usual = statistics.median(y - x for x, y in zip(self.x0, self.x1, strict=True)) if n else 0.0
        lost = [self.x1[k] - self.x0[k] > SPANS * usual and self._spans(k) for k in range(n)]
        for a, b in self.words():
            for is_lost, group in itertools.groupby(range(a, b), key=lambda k: lost[k]):
                own = list(group)
                if not is_lost or len(own) == n:
                    continue
                # Where no other letter of the word stands beside them they are as wide as usual.
                left = self.x1[own[0] - 1] if own[0] > a else None
                right = self.x0[own[-1] + 1] if own[-1] + 1 < b else None
                if left is None:
                    left = right - usual * len(own) if right is not None else self.x0[own[0]]
                if right is None:
                    right = left + usual * len(own)
                wide = max(right - left, 0.0) / len(own)
                for number, k in enumerate(own):
                    self.x0[k], self.x1[k] = left + number * wide, left + (number + 1) * wide

    def _spans(self, k: int) -> bool:
        """Whether a character is said to be where one beside it is, too."""
        beside = [n for n in (k - 1, k + 1) if 0 <= n < len(self.texts)]
        return any(self.x0[k] < (self.x0[n] + self.x1[n]) / 2 < self.x1[k] for n in beside)

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
    return sorted(path.stem for path in language_folder().glob("*.traineddata") if path.stem != "osd")


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
            f"pip install tessdata.{code}"
            if code in PACKAGES
            else f"put {code}.traineddata into {language_folder()}"
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


def language_folder() -> Path:
    """Where the data of the languages lie that were installed as packages."""
    return Path(sys.prefix) / "share" / "tessdata"


class _Tesseract:
    def __init__(self, languages: Sequence[str]) -> None:
        # Threads of its own would compete with those of other workers, and gain nothing on single lines.
        os.environ.setdefault("OMP_THREAD_LIMIT", "1")
        import tesserocr

        self._level = tesserocr.RIL.SYMBOL
        self._word = tesserocr.RIL.WORD
        self._as_line, self._as_it_is = tesserocr.PSM.SINGLE_LINE, tesserocr.PSM.RAW_LINE
        self._api = tesserocr.PyTessBaseAPI(
            f"{language_folder()}/", "+".join(languages), oem=tesserocr.OEM.LSTM_ONLY
        )

    def read(self, line: Grey, alphabet: str = "") -> Read:
        """See `Recogniser`."""
        read = self._read(line, alphabet, self._as_line)
        if read.texts or line.shape[1] < SOME_LETTERS * line.shape[0]:
            return read
        # Where it finds no line in the picture, as in much noise, the picture is taken as it is.
        return self._read(line, alphabet, self._as_it_is)

    def _read(self, line: Grey, alphabet: str, way: int) -> Read:
        height, width = line.shape
        api = self._api
        api.SetPageSegMode(way)
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
