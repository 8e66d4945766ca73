"""Specimens of fonts that name no characters -> what they show of each code: shapes, and what is read."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field

import numpy as np

from ..ink import Bools, Floats, Grey, Ints, distinct
from .lines import text_picture
from .marks import find_marks
from .recogniser import Read, Recogniser
from .shapes import COMMON, Shape, shape_of
from .specimens import ABOVE, EM, Specimen
from .threshold import inked

# The middle of the marks of a line lies so far above and below its baseline (em).
HIGHEST, LOWEST = 0.97, 0.25
# Glyphs reach so far (em) beyond their advance; one that is drawn together with a neighbour has ink over
# this share of it.
OVERHANG, COVERED = 0.12, 0.6


Votes = dict[str, float]


@dataclass(slots=True)
class Code:
    """What specimens show of a code: how often; its shapes, each with whether it touches others and its area;
    what was read in its place, in words and in what is all signs and digits, by how sure that was.
    """

    times: int = 0
    shapes: list[tuple[bool, int, Shape]] = field(default_factory=list)
    letters: Votes = field(default_factory=dict)
    signs: Votes = field(default_factory=dict)

    def shape(self) -> Shape | None:
        """The shape whose area is the median one, of those that touch no neighbour where there are any; None
        for a blank, beside which a neighbour may reach at times.
        """
        if 2 * len(self.shapes) <= self.times:
            return None
        torn = min(shape[0] for shape in self.shapes)
        order = sorted((shape for shape in self.shapes if shape[0] == torn), key=lambda shape: shape[1])
        return order[len(order) // 2][2]


def shown_codes(
    specimens: Iterable[tuple[Specimen, Grey, Floats, Floats]], recogniser: Recogniser
) -> dict[int, dict[int, Code]]:
    """Return the codes that specimens show, by font and by the index of their unknown text."""
    fonts: dict[int, dict[int, Code]] = {}
    for specimen, grey, x0, x1 in specimens:
        at = np.flatnonzero(specimen.unknown).tolist()
        codes = {
            k: fonts.setdefault(int(specimen.font[k]), {}).setdefault(int(specimen.text[k]), Code())
            for k in at
        }
        for code in codes.values():
            code.times += 1
        inky = _shapes(grey, x0, x1, codes)
        sides = np.array((0, 0, grey.shape[1], grey.shape[0]), dtype=np.float64)
        picture, left, scale = text_picture(grey, sides, EM)
        read = recogniser.read(picture).placed(left, scale)
        _vote((x0 + x1) / 2, inky, read, codes)
    return fonts


def _shapes(grey: Grey, x0: Floats, x1: Floats, codes: dict[int, Code]) -> Ints:
    """Add the shapes of the glyphs of a specimen, whose `codes` are by their place; return which glyphs have
    ink.
    """
    marks = find_marks(inked(grey), EM)
    middle = (marks.x0 + marks.x1) / 2
    height = ABOVE * EM - (marks.y0 + marks.y1) / 2
    own = np.flatnonzero((height < HIGHEST * EM) & (height > -LOWEST * EM))
    if not len(own):
        return np.empty(0, dtype=np.int64)
    # A mark belongs to the glyph nearest to its middle.
    away = np.abs(middle[own][:, None] - ((x0 + x1) / 2)[None, :]) - ((x1 - x0) / 2)[None, :]
    glyph = away.argmin(axis=1)
    ink = np.isin(marks.labels, marks.number[own])
    columns: Bools = np.asarray(ink.any(axis=0))
    inky = []
    for k in range(len(x0)):
        members = own[glyph == k]
        left, right = max(0, int(x0[k])), int(x1[k]) + 1
        whole = len(members) > 0
        if whole:
            a, b = int(marks.x0[members].min()), int(marks.x1[members].max())
            whole = a >= x0[k] - OVERHANG * EM and b <= x1[k] + OVERHANG * EM
        elif columns[left:right].sum() < COVERED * (right - left):
            continue
        inky.append(k)
        if k in codes:
            # Where neighbours touch it, the glyph is what lies on its own advance.
            part = np.isin(marks.labels[:, a:b], marks.number[members]) if whole else ink[:, left:right]
            if (shape := shape_of(part, ABOVE * EM, EM)) is not None:
                codes[k].shapes.append((not whole, int(part.sum()), shape))
    return np.array(inky, dtype=np.int64)


def _vote(middle: Floats, at: Ints, read: Read, codes: dict[int, Code]) -> None:
    """Count what was read in the place of each glyph that has ink: word by word, one by one where they are as
    many.
    """
    for a, b in read.words():
        inside = at[(middle[at] > read.x0[a] - 2) & (middle[at] < max(read.x1[a:b]) + 2)]
        if not len(inside):
            continue
        # Letters of other scripts are read as Latin ones that look alike, or as digits among these.
        sign = all(text in COMMON for text in read.texts[a:b])
        owner = np.arange(len(inside))
        if len(inside) != b - a:
            places = (np.array(read.x0[a:b]) + np.array(read.x1[a:b])) / 2
            owner = np.abs(middle[inside][None, :] - places[:, None]).argmin(axis=1)
        for k in distinct(owner).tolist():
            members = a + np.flatnonzero(owner == k)
            if (code := codes.get(int(inside[k]))) is not None:
                text = "".join(read.texts[j] for j in members)
                votes = code.signs if sign else code.letters
                votes[text] = votes.get(text, 0.0) + min(read.sure[j] for j in members)
