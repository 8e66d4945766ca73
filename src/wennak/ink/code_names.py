"""Fonts whose glyph names are nothing but codes (a65, c65, G41): what they show, where widths bear it out.

Some programs name glyphs by the code that they had, in decimal or hexadecimal digits: most often those that
TeX makes of its own typefaces, as pictures of dots. Which typeface it is, and in which encoding, its widths
tell; of other typefaces those of letters differ alike, unless they are of one pitch.
"""

from __future__ import annotations

import functools
import itertools
import re
from collections.abc import Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from importlib import resources
from string import digits

import numpy as np
import numpy.typing as npt

from .encodings import encoding, name_to_text, standard_metrics
from .tex_encodings import tex_encoding

_STEM = re.compile(r"[A-Za-z]{0,4}")
_DIGITS = re.compile(r"[0-9A-Fa-f]{1,4}")
# Widths of a typeface of TeX differ at most by this, in em; those of one that was scaled, of which so many
# have to be there, by this much of the width (root mean square).
EXACT = 0.001
FEW, SCALED = 4, 0.012
# Of other typefaces so many glyphs have to be compared, whose widths differ (standard deviation over mean).
MANY, DIFFERENT = 10, 0.08
# A reading is borne out where widths correlate so far, and by so much more than in any other reading.
ALIKE, APART = 0.8, 0.15
_STANDARD = ("Times-Roman", "Helvetica", "Times-Bold", "Helvetica-Bold", "Times-Italic")
_BOLD = re.compile(r"^(ec|la|tc)(bx|bi|sx)|^cm(b|ssbx|ssdc|mib)")
_SLANTED = re.compile(r"^(ec|la|tc)(ti|bi|sl)|^cm(ti|sl|ssi|bxsl|bxti|u\d|itt|mi)")
_FIXED = re.compile(r"^(ec|la|tc)tt|^cm(tt|sltt|itt)")


@dataclass(slots=True, eq=False)
class Coded:
    """What the codes of a font show, and how its typeface looks."""

    texts: dict[int, str] = field(default_factory=dict)
    bold: bool = False
    italic: bool = False
    fixed_pitch: bool = False


def coded_font(names: Sequence[str | None], widths: Sequence[float]) -> Coded:
    """Return what the codes of a font show, given the name and width (em) of each; nothing where names are no
    codes, or no reading of them is borne out.
    """
    coded = {
        code: name
        for code, name in enumerate(names)
        if name and widths[code] > 0 and name_to_text(name) is None
    }
    if not coded:
        return Coded()
    stem = _stem(coded.values())
    written = {code: name[len(stem) :] for code, name in coded.items()}
    if not _STEM.fullmatch(stem) or not all(map(_DIGITS.fullmatch, written.values())):
        return Coded()
    readings = list(_numbers(written))
    for numbers in readings:
        if numbers and (found := _by_face(numbers, widths)):
            return found
    return Coded(_by_letters(readings, widths) if len(coded) >= MANY else {})


def _by_face(numbers: Mapping[int, int], widths: Sequence[float]) -> Coded | None:
    """Read a font as one of TeX's own typefaces: a code shows what all faces of such widths show there."""
    codes = list(numbers)
    if max(numbers.values()) > 255:
        return None
    names, encodings, known = _faces()
    own, faces = np.array([widths[code] for code in codes]), known[:, list(numbers.values())]
    there = (faces > 0).all(axis=1)
    same = there & (np.abs(faces - own) < EXACT).all(axis=1)
    if not same.any():
        if len(codes) < FEW or own.std() < DIFFERENT * own.mean():
            return None
        scale = (faces * own).sum(axis=1) / np.maximum((faces**2).sum(axis=1), 1e-9)
        off = own / np.maximum(scale[:, None] * faces, 1e-9) - 1
        same = there & (np.sqrt((off**2).mean(axis=1)) < SCALED)
        if not same.any():
            return None
    fits = [tex_encoding(name) for name in sorted({encodings[k] for k in np.flatnonzero(same).tolist()})]
    texts = {}
    for code, number in numbers.items():
        said = {text for texts_of in fits if (text := texts_of.get(number)) is not None}
        if len(said) == 1:
            texts[code] = said.pop()
    own_names = [names[k] for k in np.flatnonzero(same).tolist()]
    bold, italic, fixed = (all(map(look.match, own_names)) for look in (_BOLD, _SLANTED, _FIXED))
    return Coded(texts, bold, italic, fixed)


@functools.cache
def _faces() -> tuple[list[str], list[str], npt.NDArray[np.float64]]:
    """Names of the typefaces of TeX, their encodings, and widths (em) of 256 codes each."""
    with (
        resources.files("wennak.ink").joinpath("data/tex_fonts.npz").open("rb") as file,
        np.load(file, allow_pickle=False) as kept,
    ):
        return kept["names"].tolist(), kept["encodings"].tolist(), kept["widths"] / 1e4


def _by_letters(readings: Sequence[Mapping[int, int]], widths: Sequence[float]) -> dict[int, str]:
    """Read a font by how the widths of letters differ in all typefaces."""
    judged: list[tuple[float, dict[int, str]]] = []
    for numbers in readings:
        for texts in (_windows(), tex_encoding("OT1"), tex_encoding("T1")):
            read = {code: texts[n] for code, n in numbers.items() if n in texts}
            if len(read) == len(numbers) and all(read != other for _, other in judged):
                judged.append((_alike(read, widths), read))
    judged.sort(key=lambda reading: -reading[0])
    if not judged or judged[0][0] < ALIKE:
        return {}
    # The encodings share most letters; what differs then is told by the few others.
    rest = [score for score, read in judged[1:] if _differs(read, judged[0][1])]
    return judged[0][1] if not rest or judged[0][0] - rest[0] >= APART else {}


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


def _windows() -> dict[int, str]:
    texts = {code: name_to_text(name) for code, name in enumerate(encoding("WinAnsiEncoding")) if name}
    return {code: text for code, text in texts.items() if text}


def _differs(a: Mapping[int, str], b: Mapping[int, str]) -> bool:
    """Whether two readings say other letters in most places."""
    return 2 * sum(a[code] != b[code] for code in a) > len(a)


def _alike(read: Mapping[int, str], widths: Sequence[float]) -> float:
    """How widths correlate with those of standard typefaces for the texts that were read, at best."""
    best = -1.0
    for face in _STANDARD:
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
