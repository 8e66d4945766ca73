"""Invisible text layers of scanned pages: whether they say what the picture under them shows."""

from __future__ import annotations

import numpy as np
from rapidfuzz import fuzz

from ..ink import Grey, PageInk, TextKind
from .lines import text_picture
from .recogniser import Recogniser
from .specimens import stretches

# So many stretches of a layer, of so many characters at least, are compared with the picture.
SAMPLES, LEAST = 8, 5
# A layer agrees where the median of them is so like what the picture shows (0..100).
LIKE = 50.0


def agrees(ink: PageInk, grey: Grey, recogniser: Recogniser) -> bool:
    """Return whether the text layer of a page says what its picture shows, as far as a few stretches of it
    tell.
    """
    scale = grey.shape[1] / ink.width
    g = ink.glyphs
    alike = []
    written = np.flatnonzero(ink.texts.kind[g.text] > TextKind.DOT)
    parts = [part for part in stretches(g, written) if len(part) >= LEAST]
    for own in sorted(parts, key=len, reverse=True)[:SAMPLES]:
        said = "".join(ink.texts.strings[k] for k in g.text[own].tolist()).replace(" ", "")
        # Of other scripts the recogniser knows too little.
        if said.isascii():
            box = np.array((g.x0[own].min(), g.y0[own].min(), g.x1[own].max(), g.y1[own].max())) * scale
            picture, _, _ = text_picture(grey, box, float(g.size[own[0]]) * scale)
            alike.append(fuzz.ratio("".join(recogniser.read(picture).texts), said))
    return not alike or float(np.median(alike)) >= LIKE
