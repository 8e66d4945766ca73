"""Pieces of lines -> characters: each piece is read as a picture of its own, and sized by what it says."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from PIL import Image

from ..ink import Bools, Floats, Ints
from .light import Shares
from .marks import Marks
from .picture import Grey, Mask
from .pieces import Pieces
from .recogniser import Read, Recogniser

# Letters are brought to this height in pixels for the recogniser, on a margin of white.
HEIGHT, MARGIN = 22.0, 10
# Around a piece so many pixels of the page are shown with it.
AROUND = 4
# How far characters reach above the baseline, in em, of Latin fonts in the mean.
TOPS = {"x": 0.5, "t": 0.63, "X": 0.69}
SMALL = frozenset("acegmnopqrsuvwxyzαγεηικμνοπρστυχωвгджзийклмнптхцчшщъыьэюя")
# Sizes nearer than this (share) are one size.
SAME_SIZE = 0.09
# Strokes this much wider than usual, for their size, are bold.
BOLD = 1.28


@dataclass(slots=True, eq=False)
class Writing:
    """Characters in pixels: place along the line, piece, baseline and size (em); how sure each is, whether a
    blank stands before it, and whether it is bold.
    """

    texts: list[str]
    x0: Floats
    x1: Floats
    piece: Ints
    baseline: Floats
    size: Floats
    sure: Floats
    blank: Bools
    bold: Bools

    def __len__(self) -> int:
        return len(self.texts)


def read_pieces(shares: Shares, ruled: Mask, marks: Marks, pieces: Pieces, recogniser: Recogniser) -> Writing:
    """Read every piece of a page, without its rules."""
    light = shares.copy()
    light[ruled] = 1.0
    grey = (light * 255).astype(np.uint8)
    order = np.argsort(pieces.of, kind="stable")
    bounds = np.searchsorted(pieces.of[order], np.arange(len(pieces.boxes) + 1))
    strokes = _strokes(marks)
    texts: list[str] = []
    rows: list[Floats] = []
    for k in _in_reading_order(pieces.boxes):
        own = order[bounds[k] : bounds[k + 1]]
        picture, left, scale = _picture(grey, pieces.boxes[k], marks.height)
        read = recogniser.read(picture)
        if not read.texts:
            continue
        texts += read.texts
        rows.append(_characters(read, left, scale, marks, own, strokes[own], k))
    table = np.concatenate(rows, axis=1) if rows else np.empty((8, 0))
    x0, x1, piece, baseline, size, sure, blank, stroke = table
    size = _settled(size, x1 - x0)
    return Writing(
        texts, x0, x1, piece.astype(np.int64), baseline, size, sure, blank > 0, _bold(stroke / size, x1 - x0)
    )


def _in_reading_order(boxes: Floats) -> list[int]:
    order: list[int] = np.lexsort((boxes[:, 0], boxes[:, 1])).tolist()
    return order


def _picture(grey: Grey, box: Floats, height: float) -> tuple[Grey, float, float]:
    """The picture of a piece for the recogniser, the x of its left edge on the page, and its scale."""
    x0, y0, x1, y1 = box.astype(np.int64).tolist()
    top, left = max(0, y0 - AROUND), max(0, x0 - AROUND)
    part = Image.fromarray(grey[top : y1 + AROUND, left : x1 + AROUND])
    scale = HEIGHT / height
    size = (max(8, round(part.width * scale)), max(8, round(part.height * scale)))
    sheet = Image.new("L", (size[0] + 2 * MARGIN, size[1] + 2 * MARGIN), 255)
    sheet.paste(part.resize(size, Image.Resampling.BICUBIC), (MARGIN, MARGIN))
    return np.asarray(sheet), left - MARGIN / scale, scale


def _strokes(marks: Marks) -> Floats:
    """The mean width of the strokes of each mark: its area by the number of its level runs."""
    labels = marks.labels
    begins = labels[:, 1:][(labels[:, 1:] != labels[:, :-1]) & (labels[:, 1:] > 0)]
    runs = np.bincount(begins, minlength=int(labels.max()) + 1)[marks.number]
    widths: Floats = marks.area / np.maximum(runs, 1)
    return widths


def _characters(
    read: Read, left: float, scale: float, marks: Marks, own: Ints, strokes: Floats, piece: int
) -> Floats:
    """Rows of x0, x1, piece, baseline, size, sure, blank and stroke of the characters of a piece."""
    n = len(read.texts)
    x0, x1 = np.array(read.x0) / scale + left, np.array(read.x1) / scale + left
    blank = np.array(read.blank)
    blank[0] = False
    word = np.cumsum(blank)
    x0, x1 = _snapped(x0, x1, word, marks, own)
    baseline, size = _set(read.texts, x0, x1, marks, own)
    stroke = float(np.average(strokes, weights=marks.area[own]))
    return np.stack(
        (
            x0, x1, np.full(n, piece), np.full(n, baseline), np.full(n, size), np.array(read.sure), blank,
            np.full(n, stroke),
        )
    )  # fmt: skip


def _snapped(x0: Floats, x1: Floats, word: Ints, marks: Marks, own: Ints) -> tuple[Floats, Floats]:
    """Places of characters with the ends of words where the ink of their marks ends.

    A mark belongs to the word nearest to its middle.
    """
    starts = np.flatnonzero(np.append(True, word[1:] != word[:-1]))
    ends = np.append(starts[1:], len(word))
    low, high = x0[starts], np.maximum.reduceat(x1, starts)
    middle = (marks.x0[own] + marks.x1[own]) / 2
    away = np.maximum(np.maximum(low[None, :] - middle[:, None], middle[:, None] - high[None, :]), 0)
    nearest = away.argmin(axis=1)
    x0, x1 = np.maximum.accumulate(x0), np.maximum.accumulate(x1)
    for k, (start, end) in enumerate(zip(starts.tolist(), ends.tolist(), strict=True)):
        members = own[nearest == k]
        if not len(members):
            continue
        left, right = float(marks.x0[members].min()), float(marks.x1[members].max())
        edges = np.clip(np.append(x0[start:end], x1[end - 1]), left, right)
        edges[0], edges[-1] = left, right
        x0[start:end], x1[start:end] = edges[:-1], edges[1:]
    return x0, x1


def _set(texts: list[str], x0: Floats, x1: Floats, marks: Marks, own: Ints) -> tuple[float, float]:
    """Baseline and size of a piece: characters whose tops are known, on the marks that they are."""
    tall = own[marks.h[own] >= 0.45 * marks.h[own].max()]
    baseline = float(np.median(marks.y1[tall]))
    reach = np.array([_top(text) for text in texts])
    middle = (marks.x0[tall] + marks.x1[tall]) / 2
    which = np.clip(np.searchsorted(x0, middle, side="right") - 1, 0, len(texts) - 1)
    known = reach[which] > 0
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


def _settled(size: Floats, weight: Floats) -> Floats:
    """Sizes with those that are nearly alike made one, the most frequent first."""
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


def _bold(stroke: Floats, weight: Floats) -> Bools:
    if not len(stroke):
        return np.zeros(0, dtype=np.bool_)
    order = np.argsort(stroke)
    total = np.cumsum(weight[order])
    usual = float(stroke[order][np.searchsorted(total, total[-1] / 2)])
    bold: Bools = stroke > BOLD * usual
    return bold
