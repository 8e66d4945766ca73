"""Fonts that name no characters -> what each of their codes shows, by its shape and by the words it forms."""

from __future__ import annotations

import dataclasses
import unicodedata
from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np
from scipy.optimize import linear_sum_assignment

from ..ink import UNKNOWN, Floats, Grey, PageInk, TextTable, distinct
from .codes import Code, Votes, shown_codes
from .recogniser import Recogniser
from .shapes import LIKE_LATIN, SCRIPTS, Faces, Likeness, Shape, known_faces
from .specimens import Specimen

# What the words say weighs so much beside the shape, and for the same letter with an accent; what is read as
# a Latin letter that looks alike counts so much.
WORDS, UNACCENTED, ALIKE = 0.8, 0.6, 0.4
# A font shows letters where its glyphs are so like known ones in the mean, and more so where they are few (by
# this over the root of their number); then those are known that are so like, and are as sure as their lead
# over the next one, up to this.
FIT, FEW, KNOWN, LEAD = 0.55, 0.4, 0.2, 0.3
# A text costs so much that stands under two codes of a font.
SHARED = 0.15
# Small letters are so high (em): from, to, step.
SMALL = (0.36, 0.60, 0.02)


@dataclass(frozen=True, slots=True)
class Name:
    """What a code shows, and how sure that is (0..1)."""

    text: str
    sure: float


def named(ink: PageInk, names: dict[int, Name]) -> PageInk:
    """Return a page with the characters of codes that are known by now; `names` are those of text indexes."""
    texts = TextTable.starting_with(ink.texts)
    text, sure = ink.glyphs.text.copy(), ink.glyphs.sure.copy()
    for index in distinct(text[np.isin(text, list(names))]).tolist():
        own = ink.glyphs.text == index
        text[own], sure[own] = texts.put(names[index].text), names[index].sure
    return dataclasses.replace(
        ink, glyphs=dataclasses.replace(ink.glyphs, text=text, sure=sure), texts=texts.columns()
    )


def find_names(
    specimens: Iterable[tuple[Specimen, Grey, Floats, Floats]], recogniser: Recogniser
) -> dict[int, Name]:
    """Return what the unknown texts of specimens show; what cannot be known stays unknown."""
    names: dict[int, Name] = {}
    for codes in shown_codes(specimens, recogniser).values():
        shaped = {text: shape for text, code in codes.items() if (shape := code.shape()) is not None}
        names |= {text: Name(UNKNOWN if text in shaped else " ", 1.0) for text in codes}
        if shaped:
            names |= _decided(list(shaped.values()), list(shaped), [codes[text] for text in shaped])
    return names


def _decided(shapes: list[Shape], texts: list[int], codes: list[Code]) -> dict[int, Name]:
    """What each code of a font shows: in the script, and with small letters of the height, that fit all of
    them best.
    """
    faces = known_faces()
    weight = np.log1p([code.times for code in codes])
    likeness = Likeness(shapes, faces)
    best: tuple[float, int, float, Floats] = (-np.inf, 0, SMALL[0], np.empty(0))
    stretch = 0.0
    for _ in range(2):
        for small in np.arange(*SMALL).tolist():
            like = likeness.at(small, stretch)
            for script in range(len(SCRIPTS)):
                fit = float(np.average(like[:, faces.of(script)].max(axis=1), weights=weight))
                if fit > best[0]:
                    best = fit, script, small, like
        # Narrow faces are narrow in all letters.
        _, script, small, like = best
        own = faces.of(script)
        wider = likeness.wider_at(small)[np.arange(len(like)), own[like[:, own].argmax(axis=1)]]
        stretch = float(np.median(wider))
    fit, script, _, like = best
    if fit < FIT + FEW / len(codes) ** 0.5:
        return {}
    known, scores = _scores(like, faces, script, codes)
    # Each text has one code, or a second one at a price.
    choices = np.concatenate((scores, scores - SHARED), axis=1)
    chosen = linear_sum_assignment(choices, maximize=True)[1]
    out = {}
    for k, (choice, text) in enumerate(zip(chosen.tolist(), texts, strict=True)):
        score = float(choices[k, choice])
        said = known[choice % len(known)]
        lead = score - float(np.delete(scores[k], choice % len(known)).max())
        if score >= KNOWN:
            out[text] = Name(said, float(np.clip(0.5 + 0.5 * lead / LEAD, 0.1, 1.0)))
    return out


def _scores(like: Floats, faces: Faces, script: int, codes: list[Code]) -> tuple[list[str], Floats]:
    """Texts of a script, and how well shape and words bear each of them out, for each code."""
    own = faces.of(script)
    said = [_sum(code.signs, _as_letters(code.letters, list(SCRIPTS)[script])) for code in codes]
    known = sorted({faces.texts[k] for k in own.tolist()}.union(*said))
    index = {text: k for k, text in enumerate(known)}
    column = np.array([index[faces.texts[k]] for k in own.tolist()])
    scores = np.full((len(known), len(codes)), -1.0)
    np.maximum.at(scores, column, like[:, own].T)
    bare = [_bare(text) for text in known]
    for k, code in enumerate(codes):
        for text, votes in said[k].items():
            # Accents are often not read.
            accented = [(j, UNACCENTED) for j, other in enumerate(bare) if other == text != known[j]]
            for j, weight in [(index[text], WORDS), *accented]:
                scores[j, k] = max(scores[j, k], 0.0) + weight * votes / code.times
    return known, scores.T


def _as_letters(votes: Votes, script: str) -> Votes:
    """What was read as Latin letters, as letters of a script: those that look alike, large or small."""
    if script == "Latin":
        return votes
    out: Votes = {}
    for text, count in votes.items():
        for letter in LIKE_LATIN[script].get(text.upper(), ""):
            out[letter] = out.get(letter, 0.0) + ALIKE * count
    return out


def _bare(text: str) -> str:
    """A letter without its accents."""
    return unicodedata.normalize("NFD", text)[0]


def _sum(a: Votes, b: Votes) -> Votes:
    return {text: a.get(text, 0.0) + b.get(text, 0.0) for text in {**a, **b}}
