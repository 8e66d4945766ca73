"""How large, how heavy and how high characters are, by the marks that they are."""

from __future__ import annotations

import numpy as np

from ..ink import Bools, Floats, Ints
from .marks import Marks

# How far characters reach above the baseline, in em, of Latin fonts in the mean.
TOPS = {"x": 0.5, "t": 0.63, "X": 0.69}
SMALL = frozenset("acegmnopqrsuvwxyzαγεηικμνοπρστυχωвгджзийклмнптхцчшщъыьэюя")
# Sizes nearer than this (share) are one size.
SAME_SIZE = 0.09
# Strokes this much wider than usual, for their size, are bold.
BOLD = 1.28


def stroke_widths(marks: Marks) -> Floats:
    """Return the mean width of the strokes of each mark: its area by the number of its level runs."""
    labels = marks.labels
    begins = labels[:, 1:][(labels[:, 1:] != labels[:, :-1]) & (labels[:, 1:] > 0)]
    runs = np.bincount(begins, minlength=int(labels.max()) + 1)[marks.number]
    widths: Floats = marks.area / np.maximum(runs, 1)
    return widths


def baseline_and_size(
    texts: list[str], x0: Floats, x1: Floats, marks: Marks, own: Ints
) -> tuple[float, float]:
    """Return baseline and size of a piece: of characters whose tops are known, on the marks that they are."""
    tall = own[marks.h[own] >= 0.45 * marks.h[own].max()]
    baseline = float(np.median(marks.y1[tall]))
    reach = np.array([_top(text) for text in texts])
    middle = (marks.x0[tall] + marks.x1[tall]) / 2
    which = np.clip(np.searchsorted(x0, middle, side="right") - 1, 0, len(texts) - 1)
    # A mark that hangs below the others, as a piece of the next line may, says nothing of their height.
    known = (reach[which] > 0) & (marks.y0[tall] < baseline)
    if known.any():
        return baseline, float(np.median((baseline - marks.y0[tall])[known] / reach[which][known]))
    return baseline, float((baseline - marks.y0[tall].min()) / TOPS["X"])


def _top(text: str) -> float:
    """How far a character reaches above the baseline in em; 0 if that is not known."""
    if text in SMALL:
        return TOPS["x"]
    if text == "t":
        return TOPS["t"]
    return TOPS["X"] if text.isalnum() else 0.0


def settled(size: Floats, weight: Floats) -> Floats:
    """Return sizes with those that are nearly alike made one, the most frequent first."""
    out = size.copy()
    left = np.ones(len(size), dtype=np.bool_)
    while left.any():
        at = np.flatnonzero(left)
        order = at[np.argsort(size[at], kind="stable")]
        total = np.concatenate(([0.0], np.cumsum(weight[order])))
        low = np.searchsorted(size[order], size[order] * (1 - SAME_SIZE))
        high = np.searchsorted(size[order], size[order] * (1 + SAME_SIZE), side="right")
        best = int((total[high] - total[low]).argmax())
        members = order[low[best] : high[best]]
        out[members] = np.median(size[members])
        left[members] = False
    return out


def are_bold(stroke: Floats, weight: Floats) -> Bools:
    """Return which strokes, for their size, are much wider than most."""
    if not len(stroke):
        return np.zeros(0, dtype=np.bool_)
    order = np.argsort(stroke)
    total = np.cumsum(weight[order])
    usual = float(stroke[order][np.searchsorted(total, total[-1] / 2)])
    bold: Bools = stroke > BOLD * usual
    return bold
