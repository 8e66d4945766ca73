"""How large, how heavy and how high characters are, by the marks that they are."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import compress

import numpy as np
from scipy import ndimage

from ..ink import Bools, Floats, Ints, median
from .marks import Marks
from .picture import Grey, strips

# How far characters reach above the baseline, in em, of Latin fonts in the mean.
TOPS = {"x": 0.5, "t": 0.63, "X": 0.69, "(": 0.73}
# Letters of one mark, or whose dots are marks of their own, and brackets.
SMALL = frozenset("acegijmnopqrsuvwxyzαγεηικμνοπρστυχωвгджзийклмнптхцчшщъыьэюя")
BRACKETS = frozenset("()[]{}|")
# How far letters and brackets hang below the baseline, in em.
HANGING, HANGS = frozenset("gjpqyβγημρφχψруцщфд"), {"p": 0.2, "(": 0.18}
# Bullets, dashes and signs that stand alone have their middle so far above the baseline (em), however large.
MIDDLE = dict.fromkeys("•●◦", 0.34) | dict.fromkeys("-–—−", 0.27) | dict.fromkeys("=+<>", 0.25) | {"*": 0.55}
DISCS, DASHES, DOTS = frozenset("•●◦"), frozenset("-–—−"), frozenset(".…")
# Signs are no higher than this (heights of letters).
LOW = 1.1
# Letters that look alike small and as capitals.
BOTH = frozenset("cosuvwxz")
# Sizes nearer than this (share) are one size, and those that a pixel tells apart.
SAME_SIZE = 0.09
# Strokes this much wider than usual, for their size, are bold: of 2,000 pieces on scans hardly any lies near.
BOLD = 1.16


def piece_baselines(piece: Ints, baseline: Floats) -> Floats:
    """Return for each character the baseline of its piece, above which raised ones stand."""
    lowest = np.full(int(piece.max(initial=-1)) + 1, -np.inf)
    np.maximum.at(lowest, piece, baseline)
    found: Floats = lowest[piece]
    return found


def stroke_widths(marks: Marks, light: Grey) -> Floats:
    """Return the mean width of the strokes of each mark: its ink, as dark as it is, by half the length of its
    outline. What is blurred has as much ink.
    """
    count = int(marks.labels.max(initial=0)) + 1
    outline, ink = np.zeros(count), np.zeros(count)
    for rows in strips(len(light)):
        # With a row more above and below.
        first = max(0, rows.start - 1)
        labels = marks.labels[first : rows.stop + 1]
        own = slice(rows.start - first, rows.stop - first)
        beside = (labels[own, :-1], labels[own, 1:]), (labels[: own.stop - 1], labels[1 : own.stop])
        for a, b in beside:
            outline += np.bincount(b[(a != b) & (b > 0)], minlength=count)
        # The blur beside a mark is its own.
        near = ndimage.maximum_filter(labels, size=3)[own]
        there = near > 0
        ink += np.bincount(near[there], weights=255 - light[rows][there], minlength=count)
    widths: Floats = (ink / 255 / np.maximum(outline, 1))[marks.number]
    return widths


def baseline_and_size(
    texts: list[str], x0: Floats, x1: Floats, marks: Marks, own: Ints
) -> tuple[float, float]:
    """Return baseline and size of a piece: of characters whose tops are known, on the marks that they are."""
    usual = marks.height / TOPS["x"]
    signs, h, w = set(texts), marks.h[own], marks.w[own]
    seen = signs <= DISCS or (h < w).all() or (not signs & DASHES and (h <= LOW * marks.height).all())
    if seen and signs <= MIDDLE.keys():
        return float((marks.y0[own].min() + marks.y1[own].max()) / 2 + MIDDLE[texts[0]] * usual), usual
    if set(texts) <= DOTS:
        return median(marks.y1[own]), usual
    tall = own[marks.h[own] >= 0.45 * marks.h[own].max()]
    middle = (marks.x0[tall] + marks.x1[tall]) / 2
    which = np.clip(np.searchsorted(x0, middle, side="right") - 1, 0, len(texts) - 1)
    top, below = (np.array([side(text) for text in texts])[which] for side in (_top, _below))
    standing = below == 0
    # How high a mark is in em; what is not known of has no size.
    em = np.where(top > 0, top + below, np.inf)
    # Where all that is known hangs below the baseline, this is told by how far such letters do.
    feet = marks.y1[tall] - (0.0 if standing.any() else below * (marks.h[tall] / em))
    baseline = median(feet[standing] if standing.any() else feet)
    # A mark that hangs below the others, as a piece of the next line may, says nothing of their height.
    known = (top > 0) & (marks.y0[tall] < baseline)
    if known.any():
        reach = np.where(standing, baseline - marks.y0[tall], marks.h[tall])
        return baseline, median((reach / em)[known])
    return baseline, float((baseline - marks.y0[tall].min()) / TOPS["X"])


def _top(text: str) -> float:
    """How far a character reaches above the baseline in em; 0 if that is not known."""
    if text in SMALL:
        return TOPS["x"]
    if text == "t":
        return TOPS["t"]
    if text in BRACKETS:
        return TOPS["("]
    return TOPS["X"] if text.isalnum() else 0.0


def _below(text: str) -> float:
    """How far a character reaches below the baseline in em."""
    return HANGS["p"] if text in HANGING else HANGS["("] if text in BRACKETS else 0.0


def cased(texts: Sequence[list[str]], sizes: Sequence[Floats]) -> None:
    """Tell small from capital letters in pieces of letters that look alike in both, by their size: each piece
    has the case in which it is more like most others of its page. `sizes` are those of the characters of each
    piece; both are changed.
    """
    alike = [
        all(text.lower() in BOTH for text in part) and len({t.isupper() for t in part}) == 1 for part in texts
    ]
    other = [size for size, same in zip(sizes, alike, strict=True) if not same]
    if not other:
        return
    usual = median(np.concatenate(other))
    for part, size in compress(zip(texts, sizes, strict=True), alike):
        upper = part[0].isupper()
        turned = size[0] * (TOPS["X"] / TOPS["x"] if upper else TOPS["x"] / TOPS["X"])
        if abs(np.log(turned / usual)) < abs(np.log(size[0] / usual)):
            part[:] = [text.lower() if upper else text.upper() for text in part]
            size[:] = turned


def settled(size: Floats, weight: Floats, height: float) -> Floats:
    """Return sizes with those that are nearly alike made one, the most frequent first; `height` is that of
    letters in pixels.
    """
    same = max(SAME_SIZE, 1 / max(height - 1, 1.0))
    out = size.copy()
    left = np.ones(len(size), dtype=np.bool_)
    while left.any():
        at = np.flatnonzero(left)
        order = at[np.argsort(size[at], kind="stable")]
        total = np.concatenate(([0.0], np.cumsum(weight[order])))
        low = np.searchsorted(size[order], size[order] * (1 - same))
        high = np.searchsorted(size[order], size[order] * (1 + same), side="right")
        best = int((total[high] - total[low]).argmax())
        members = order[low[best] : high[best]]
        out[members] = np.median(size[members])
        left[members] = False
    return out


def are_bold(stroke: Floats, size: Floats, weight: Floats) -> Bools:
    """Return which strokes, for the size of their characters, are much wider than most that are known."""
    wide = stroke / size
    weight = np.where(stroke > 0, weight, 0.0)
    if not weight.any():
        return np.zeros(len(stroke), dtype=np.bool_)
    order = np.argsort(wide)
    total = np.cumsum(weight[order])
    usual = float(wide[order][np.searchsorted(total, total[-1] / 2)])
    bold: Bools = wide > BOLD * usual
    return bold
