"""Underscores drawn as short rules, as TeX draws those of its older fonts -> glyphs."""

from __future__ import annotations

import numpy as np

from .arrays import Bools, Fills, Floats, Glyphs, Ints, Strokes
from .font import TextTable

# Length and thickness of the rule (em), the reach of its middle above and below the baseline, and the room
# between it and the character that it follows or precedes.
LENGTH = (0.2, 0.75)
THIN = 0.09
ABOVE, BELOW = 0.12, 0.25
NEAR = 0.16
# Baselines of what stands above or below it, as with the bar of a fraction, are within this (em) of it.
FREE = 1.05
# So many underscores in a row are found.
_LONGEST = 4


def draw_underscores(glyphs: Glyphs, strokes: Strokes, fills: Fills, texts: TextTable) -> Glyphs:
    """Return the glyphs of a page with one more for each short rule on the baseline that stands beside a
    character like one itself, with nothing above or below it.
    """
    if not len(glyphs) or not (len(strokes) or len(fills)):
        return glyphs
    level, half = strokes.y0 == strokes.y1, strokes.width / 2
    boxes = np.concatenate(
        (
            np.stack((fills.x0, fills.y0, fills.x1, fills.y1, fills.grey)),
            np.stack((np.minimum(strokes.x0, strokes.x1), strokes.y0 - half,
                      np.maximum(strokes.x0, strokes.x1), strokes.y0 + half, strokes.grey))[:, level],
        ),
        axis=1,
    )  # fmt: skip
    width, height, em = boxes[2] - boxes[0], boxes[3] - boxes[1], float(glyphs.size.max())
    boxes = boxes[
        :, (height < THIN * em) & (width < LENGTH[1] * em) & (width > 3 * height) & (boxes[4] < 0.9)
    ]
    for _ in range(_LONGEST):
        if not boxes.size:
            return glyphs
        rule, glyph, before = _beside(glyphs, boxes)
        if not len(rule):
            return glyphs
        glyphs = _with_rules(glyphs, boxes[:, rule], glyph, before, texts)
        boxes = np.delete(boxes, rule, axis=1)
    return glyphs


def _beside(glyphs: Glyphs, boxes: Floats) -> tuple[Ints, Ints, Bools]:
    """The boxes that are underscores, the glyph beside each, and whether the box stands before it."""
    upright = np.flatnonzero((np.abs(glyphs.angle) < 10) & glyphs.visible)
    order = upright[np.argsort(glyphs.y[upright], kind="stable")]
    y = glyphs.y[order]
    reach = float(glyphs.size.max())
    found: list[tuple[int, int, bool]] = []
    for k, (left, top, right, bottom, _) in enumerate(boxes.T.tolist()):
        middle = (top + bottom) / 2
        low, high = np.searchsorted(y, (middle - FREE * reach, middle + FREE * reach))
        near = order[low:high]
        em = glyphs.size[near]
        level = (glyphs.y[near] - middle < ABOVE * em) & (middle - glyphs.y[near] < BELOW * em)
        fits = (right - left > LENGTH[0] * em) & (right - left < LENGTH[1] * em)
        fits &= bottom - top < THIN * em
        after = level & fits & (np.abs(left - glyphs.x1[near]) < NEAR * em)
        ahead = level & fits & (np.abs(glyphs.x0[near] - right) < NEAR * em)
        over = np.minimum(glyphs.x1[near], right) - np.maximum(glyphs.x0[near], left)
        stacked = (over > 0.3 * (right - left)) & (np.abs(glyphs.y[near] - middle) < FREE * em)
        if not (after.any() or ahead.any()) or stacked.any():
            continue
        chosen = after if after.any() else ahead
        found.append((k, int(near[int(np.flatnonzero(chosen)[-1])]), not after.any()))
    table = np.array(found, dtype=np.int64).reshape(-1, 3)
    return table[:, 0], table[:, 1], table[:, 2] > 0


def _with_rules(glyphs: Glyphs, boxes: Floats, glyph: Ints, before: Bools, texts: TextTable) -> Glyphs:
    """Insert glyphs for rules into the stream, each beside its glyph."""
    made = glyphs.take(glyph)
    made.text[:] = texts.put("_")
    made.x, made.x0, made.x1 = boxes[0].copy(), boxes[0].copy(), boxes[2].copy()
    made.advance = made.x1 - made.x0
    place: Floats = np.concatenate((np.arange(len(glyphs)), glyph + np.where(before, -0.5, 0.5)))
    order = np.argsort(place, kind="stable")
    both = Glyphs(*(np.concatenate((getattr(glyphs, n), getattr(made, n))) for n in Glyphs.types()))
    return both.take(order)
