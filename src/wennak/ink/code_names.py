"""Fonts whose glyph names are nothing but codes (a65, c65, G41): what they show, where widths bear it out.

Some programs name glyphs by the code that they had, in decimal or hexadecimal digits, in ASCII or in TeX's
encoding of text (Knuth 1986, appendix F). Which of these it was, and whether it was any, the widths of the
glyphs tell: those of letters differ alike in all typefaces that are not of one pitch.
"""

from __future__ import annotations

import itertools
import re
from collections.abc import Collection, Iterator, Mapping, Sequence
from string import digits

import numpy as np

from .encodings import encoding, name_to_text, standard_metrics

_STEM = re.compile(r"[A-Za-z]{0,4}")
_DIGITS = re.compile(r"[0-9A-Fa-f]{1,4}")
# So many glyphs of different texts have to be compared, whose widths differ (standard deviation over mean).
MANY, DIFFERENT = 10, 0.08
# A reading is borne out where widths correlate so far, and by so much more than in any other reading.
ALIKE, APART = 0.8, 0.15
_FACES = ("Times-Roman", "Helvetica", "Times-Bold", "Helvetica-Bold", "Times-Italic")
_TEX = {
    11: "ff", 12: "fi", 13: "fl", 14: "ffi", 15: "ffl", 16: "ı", 25: "ß", 26: "æ", 27: "œ", 28: "ø", 29: "Æ",
    30: "Œ", 31: "Ø", 34: "”", 39: "’", 60: "¡", 62: "¿", 92: "“", 96: "‘", 123: "–", 124: "—",
}  # fmt: skip


def coded_texts(names: Sequence[str | None], widths: Sequence[float]) -> dict[int, str]:
    """Return what the codes of a font show, given the name and width (any unit) of each; nothing where names
    are no codes, or no reading of them is borne out.
    """
    coded = {
        code: name
        for code, name in enumerate(names)
        if name and widths[code] > 0 and name_to_text(name) is None
    }
    if len(coded) < MANY:
        return {}
    stem = _stem(coded.values())
    written = {code: name[len(stem) :] for code, name in coded.items()}
    if not _STEM.fullmatch(stem) or not all(map(_DIGITS.fullmatch, written.values())):
        return {}
    readings: list[tuple[float, dict[int, str]]] = []
    for numbers in _numbers(written):
        for texts in (_ascii(), _tex()):
            read = {code: texts[n] for code, n in numbers.items() if n in texts}
            if len(read) == len(numbers) and all(read != other for _, other in readings):
                readings.append((_alike(read, widths), read))
    readings.sort(key=lambda reading: -reading[0])
    if not readings or readings[0][0] < ALIKE:
        return {}
    # The two encodings share most letters; what differs then is told by the few others.
    rest = [score for score, read in readings[1:] if _differs(read, readings[0][1])]
    return readings[0][1] if not rest or readings[0][0] - rest[0] >= APART else {}


def _stem(names: Collection[str]) -> str:
    """The letters that all names begin with."""
    # What the first and the last by the alphabet begin with, all do.
    ends = zip(min(names), max(names), strict=False)
    return "".join(a for a, _ in itertools.takewhile(lambda pair: pair[0] == pair[1], ends)).rstrip(digits)


def _numbers(written: Mapping[int, str]) -> Iterator[dict[int, int]]:
    """The codes that names may mean: decimal, hexadecimal."""
    for base in (10, 16):
        try:
            yield {code: int(text, base) for code, text in written.items()}
        except ValueError:
            continue


def _ascii() -> dict[int, str]:
    texts = {code: name_to_text(name) for code, name in enumerate(encoding("WinAnsiEncoding")) if name}
    return {code: text for code, text in texts.items() if text}


def _tex() -> dict[int, str]:
    return {code: text for code, text in _ascii().items() if code < 127} | _TEX


def _differs(a: Mapping[int, str], b: Mapping[int, str]) -> bool:
    """Whether two readings say other letters in most places."""
    return 2 * sum(a[code] != b[code] for code in a) > len(a)


def _alike(read: Mapping[int, str], widths: Sequence[float]) -> float:
    """How widths correlate with those of standard typefaces for the texts that were read, at best."""
    best = -1.0
    for face in _FACES:
        metrics = standard_metrics(face)
        known = _width_of_text(face, metrics["widths"]) if metrics else {}
        pairs = [(widths[code], known[text]) for code, text in read.items() if text in known]
        if len(pairs) < MANY:
            continue
        own, other = np.array(pairs).T
        if own.std() > DIFFERENT * own.mean() and other.std() > 0:
            best = max(best, float(np.corrcoef(own, other)[0, 1]))
    return best


def _width_of_text(face: str, widths: Mapping[str, float]) -> dict[str, float]:
    texts = {name_to_text(name): width for name, width in widths.items()}
    return {text: width for text, width in texts.items() if text}
