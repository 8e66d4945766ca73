"""Pages whose fonts name no characters -> specimens: stretches of text that show each of their codes a few
times, with the ink of every glyph.
"""

from __future__ import annotations

import itertools
from collections import Counter
from collections.abc import Collection, Iterable, Iterator
from dataclasses import dataclass

import numpy as np
from PIL import Image

from ..ink import Bools, Floats, Glyphs, Grey, Ints, PageInk, PdfFile, is_unknown, page_grey

# Each code is shown so many times, on the first pages of the document at most so many.
TIMES, PAGES = 6, 300
# Glyphs go on along a line where they are this near (em) and of one size.
APART, LEVEL, SAME = 1.2, 0.2, 0.1
# The em has so many pixels in the picture of a specimen, which reaches so far (em) above and below its
# baseline, and beside it.
EM, ABOVE, BELOW, BESIDE = 60.0, 1.0, 0.35, 0.3
# Pages are drawn at so many pixels a point.
SCALES = (2.0, 12.0)


@dataclass(slots=True, eq=False)
class Specimen:
    """A stretch of text: number of its page; font and text index of each glyph, and whether that is unknown;
    where glyphs begin and end and their baseline in points; and the em.
    """

    page: int
    font: Ints
    text: Ints
    unknown: Bools
    x0: Floats
    x1: Floats
    baseline: float
    size: float


def drawn(pdf: PdfFile, specimens: list[Specimen]) -> Iterator[tuple[Specimen, Grey, Floats, Floats]]:
    """Yield specimens with their pictures, `EM` pixels an em, and where glyphs begin and end in them.

    Raises DamagedPdf where a page cannot be drawn.
    """
    for page, members in itertools.groupby(specimens, key=lambda specimen: specimen.page):
        own = list(members)
        scale = float(np.clip(EM / np.median([specimen.size for specimen in own]), *SCALES))
        grey = page_grey(pdf.source, page, pdf.name, pdf.password, scale)
        scale = grey.shape[0] / pdf.page_size(page)[1]
        for specimen in own:
            em = specimen.size * scale
            base = specimen.baseline * scale
            left = specimen.x0.min() * scale - BESIDE * em
            sides = (left, base - ABOVE * em, specimen.x1.max() * scale + BESIDE * em, base + BELOW * em)
            x0, y0, x1, y1 = (round(max(side, 0.0)) for side in sides)
            part = Image.fromarray(np.ascontiguousarray(grey[y0:y1, x0:x1]))
            if min(part.size) < 2:
                continue
            size = (max(2, round(part.width * EM / em)), round((ABOVE + BELOW) * EM))
            picture = np.asarray(part.resize(size, Image.Resampling.BICUBIC))
            if np.median(picture) < 128:
                picture = 255 - picture
            places = ((edges * scale - x0) * EM / em for edges in (specimen.x0, specimen.x1))
            yield specimen, picture, *places


def find_specimens(pages: Iterable[PageInk], known: Collection[int]) -> list[Specimen]:
    """Return stretches that show every unknown text so often as they can, up to `TIMES`; but for those whose
    index is known by now.
    """
    shown: Counter[int] = Counter()
    out = []
    for ink in pages:
        for specimen in _stretches(ink):
            unknown = set(specimen.text[specimen.unknown].tolist()).difference(known)
            if any(shown[text] < TIMES for text in unknown):
                shown.update(specimen.text[specimen.unknown].tolist())
                out.append(specimen)
    return out


def _stretches(ink: PageInk) -> Iterator[Specimen]:
    g = ink.glyphs
    unknown = is_unknown(ink)
    if not unknown.any():
        return
    for own in stretches(g, np.flatnonzero(g.visible)):
        if unknown[own].any():
            sides = g.x0[own], g.x1[own], float(g.y[own[0]]), float(g.size[own[0]])
            yield Specimen(ink.number, g.font[own], g.text[own], unknown[own], *sides)


def stretches(g: Glyphs, at: Ints) -> list[Ints]:
    """Return the level ones of some glyphs as drawn, cut where they do not go on along a line."""
    at = at[(g.angle[at] == 0) & (g.advance[at] > 0)]
    if not len(at):
        return []
    x0, x1, y, size = g.x0[at], g.x1[at], g.y[at], g.size[at]
    em = np.minimum(size[1:], size[:-1])
    step = x0[1:] - x1[:-1]
    breaks = (np.abs(np.diff(y)) > LEVEL * em) | (step > APART * em) | (step < -APART * em)
    breaks |= np.abs(np.diff(size)) > SAME * em
    return np.split(at, np.flatnonzero(breaks) + 1)
