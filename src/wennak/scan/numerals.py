"""Marks -> the signs of a number: a second reading of what has digits, sign by sign and without context.

Each group of marks that stand over each other is cut where its signs seem to touch, and each part is told by
a small network with one hidden layer that was fitted on signs of many faces, drawn small, blurred and noisy
(tools/fit_numerals.py).
"""

from __future__ import annotations

import functools
import itertools
import json
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from importlib.resources import files

import numpy as np
from PIL import Image

from ..ink import Bools, Floats, Ints, median
from .marks import Marks
from .picture import Grey

# What a part of a number is told as: a sign, another letter, or a part of a digit or of two.
SIGNS = ".,:-()%/+€$£'°"
OTHER, CUT = "x", ""
CLASSES = (*"0123456789", *SIGNS, OTHER, CUT)
# A picture of a sign has so many rows and columns; digits stand on this row, and are so many rows high.
ROWS, COLUMNS, BASELINE, DIGIT_ROWS = 24, 20, 18, 14
# Darkness begins where a pixel is darker than this.
GROUND = 250.0
# Marks are those of one sign where they share this much of the narrower.
SHARED = 0.5
# What is at least this share of the highest mark may be a digit; digits of a word are as high within this.
HIGH, EQUAL = 0.7, 0.1
# Signs that are wider than this (heights of digits) may be several; each is then between these, and cut at no
# more places than this, where less than this share of the most ink stands in a column.
WIDE, SIGN_WIDTH, MOST_CUTS, THIN = 0.8, (0.18, 1.35), 14, 0.75
# A point reaches no higher over the feet of digits than this share of their height, and has at least so much
# ink (share of its square).
FOOT, POINT = 0.35, 0.02
# Nothing is less likely than this.
LEAST_LIKELY = 1e-6
# Smaller digits cannot be told.
LEAST_HEIGHT = 5.0


@dataclass(frozen=True, slots=True)
class Sign:
    """What a part of a number looks like: one of CLASSES, how sure that is (0..1), where it begins and ends
    in pixels, and how much more it is like a comma than like a point (logarithm of odds).
    """

    text: str
    sure: float
    x0: float
    x1: float
    comma: float


@dataclass(frozen=True, slots=True)
class Network:
    """Weights of a network of one hidden layer: (inputs, hidden) and (hidden, classes), with their biases."""

    weights: tuple[Floats, Floats]
    biases: tuple[Floats, Floats]

    def likely(self, pictures: Floats) -> Floats:
        """Return how likely each picture (a row) is each of CLASSES."""
        hidden = np.maximum(pictures @ self.weights[0] + self.biases[0], 0)
        odds = hidden @ self.weights[1] + self.biases[1]
        odds = np.exp(odds - odds.max(axis=1, keepdims=True))
        shares: Floats = odds / odds.sum(axis=1, keepdims=True)
        return shares


@functools.cache
def network() -> Network:
    """Return the network that comes with the package."""
    with files(__package__).joinpath("data/numerals.npz").open("rb") as file, np.load(file) as kept:
        about = json.loads(str(kept["about"]))
        assert about["classes"] == list(CLASSES), "numerals.npz is of another version"
        w0, w1, b0, b1 = (kept[name].astype(np.float64) for name in ("w0", "w1", "b0", "b1"))
    return Network((w0, w1), (b0, b1))


def sign_picture(darkness: Floats, x0: float, x1: float, baseline: float, height: float) -> Floats:
    """Return the picture of what stands between two columns of a page of darkness (0..1), as one row:
    `height` is that of its digits, in pixels.
    """
    scale = DIGIT_ROWS / height
    top, middle, half = baseline - BASELINE / scale, (x0 + x1) / 2, COLUMNS / scale / 2
    bottom = top + ROWS / scale
    y0, y1 = int(np.floor(top)), int(np.ceil(bottom))
    left, right = int(np.floor(middle - half)), int(np.ceil(middle + half))
    part = np.zeros((y1 - y0, right - left), dtype=np.float32)
    xa, xb = max(left, int(np.floor(x0)), 0), min(right, int(np.ceil(x1)), darkness.shape[1])
    ya, yb = max(y0, 0), min(y1, darkness.shape[0])
    if xb > xa and yb > ya:
        part[ya - y0 : yb - y0, xa - left : xb - left] = darkness[ya:yb, xa:xb]
    box = (middle - half - left, top - y0, middle + half - left, bottom - y0)
    small = Image.fromarray(part).resize((COLUMNS, ROWS), Image.Resampling.BILINEAR, box=box)
    picture: Floats = np.asarray(small, dtype=np.float64).ravel()
    most = float(picture.max())
    return picture / most if most > 0 else picture


def read_signs(grey: Grey, marks: Marks, own: Ints) -> list[Sign]:
    """Return the signs that some marks of a line look like, from left to right; none where these are small.

    `grey` is the page without its rules.
    """
    if not len(own):
        return []
    groups = _groups(marks, own)
    tops = np.array([marks.y0[group].min() for group in groups], dtype=np.float64)
    feet = np.array([marks.y1[group].max() for group in groups], dtype=np.float64)
    tall = feet - tops
    high = tall >= HIGH * tall.max()
    readings = []
    # Brackets are higher than digits, which may be the lowest of what is high.
    for height in {median(tall[high]), float(tall[high].min())}:
        if height >= LEAST_HEIGHT:
            like = high & (np.abs(tall - height) <= EQUAL * height)
            baseline = median(feet[like if like.any() else high])
            readings.append(_read_groups(grey, marks, groups, baseline, height))
    return max(readings, key=_certainty, default=[])


def _certainty(signs: Sequence[Sign]) -> float:
    width = sum(sign.x1 - sign.x0 for sign in signs)
    return float(sum((sign.x1 - sign.x0) * np.log(sign.sure) for sign in signs)) / max(width, 1.0)


def _groups(marks: Marks, own: Ints) -> list[Ints]:
    """The marks of a line in groups of those that stand over each other, from left to right."""
    groups: list[list[int]] = []
    low = high = 0
    for k in own[np.argsort(marks.x0[own], kind="stable")].tolist():
        x0, x1 = int(marks.x0[k]), int(marks.x1[k])
        if groups and min(high, x1) - max(low, x0) > SHARED * min(high - low, x1 - x0):
            groups[-1].append(k)
            high = max(high, x1)
        else:
            groups.append([k])
            low, high = x0, x1
    return [np.array(group, dtype=np.int64) for group in groups]


def _read_groups(grey: Grey, marks: Marks, groups: list[Ints], baseline: float, height: float) -> list[Sign]:
    scale = DIGIT_ROWS / height
    # What a picture of a sign shows of the page.
    y0 = max(0, int(baseline - BASELINE / scale) - 1)
    y1 = min(grey.shape[0], int(baseline + (ROWS - BASELINE) / scale) + 2)
    x0 = max(0, min(int(marks.x0[group].min()) for group in groups) - 2)
    x1 = min(grey.shape[1], max(int(marks.x1[group].max()) for group in groups) + 2)
    labels = marks.labels[y0:y1, x0:x1]
    darkness = np.clip((GROUND - grey[y0:y1, x0:x1]) / GROUND, 0, 1)
    places: list[tuple[int, float, float]] = []
    pictures = []
    shown = [
        (marks.number[group], int(marks.x0[group].min()) - x0, int(marks.x1[group].max()) - x0)
        for group in groups
    ]
    shown = [*shown[:1], *_with_points(labels, shown, baseline - y0, height)]
    for n, (numbers, left, right) in enumerate(shown):
        here = labels[:, left:right]
        own = here == numbers[0] if len(numbers) == 1 else np.isin(here, numbers)
        seen = np.where((here > 0) & ~own, 0.0, darkness[:, left:right])
        for a, b in _parts(seen, own, height):
            places.append((n, float(left + a), float(left + b)))
            pictures.append(sign_picture(seen, a, b, baseline - y0, height))
    likely = np.maximum(network().likely(np.array(pictures))[:, : CLASSES.index(CUT)], LEAST_LIKELY)
    best, sure = likely.argmax(axis=1), likely.max(axis=1)
    comma = np.log(likely[:, CLASSES.index(",")] / likely[:, CLASSES.index(".")])
    out: list[Sign] = []
    for n in range(len(shown)):
        signs = [
            Sign(CLASSES[best[k]], float(sure[k]), x0 + a, x0 + b, float(comma[k]))
            for k, (group_number, a, b) in enumerate(places)
            if group_number == n
        ]
        out += _best_chain(signs)
    return out


def _with_points(
    labels: Ints, groups: list[tuple[Ints, int, int]], baseline: float, height: float
) -> Iterator[tuple[Ints, int, int]]:
    """Yield the groups from the second on, with the ink between them at the foot of digits that is so small
    that it passed for dirt: the number of each piece of ink, and from where to where it reaches.
    """
    known = np.concatenate([numbers for numbers, _, _ in groups])
    for (_, _, begin), group in itertools.pairwise(groups):
        gap = labels[:, begin : group[1]]
        low = max(0, int(baseline - FOOT * height))
        found = np.setdiff1d(gap[low:], known)
        for number in found[found > 0].tolist():
            rows, columns = np.nonzero(labels == number)
            if rows.min() >= low and len(rows) >= POINT * height**2:
                yield np.array([number]), int(columns.min()), int(columns.max()) + 1
        yield group


def _parts(seen: Floats, own: Bools, height: float) -> list[tuple[int, int]]:
    """From where to where a group of marks may be one sign."""
    width = seen.shape[1]
    if width <= WIDE * height:
        return [(0, width)]
    column = (seen * own).sum(axis=0)
    inner = column[1:-1]
    low = (inner <= column[:-2]) & (inner <= column[2:]) & (inner < THIN * column.max())
    cuts = np.flatnonzero(low) + 1
    cuts = np.sort(cuts[np.argsort(column[cuts], kind="stable")[:MOST_CUTS]])
    at = [0, *cuts.tolist(), width]
    least, most = (share * height for share in SIGN_WIDTH)
    parts = [(a, b) for i, a in enumerate(at) for b in at[i + 1 :] if least <= b - a <= most]
    return parts or [(0, width)]


def _best_chain(parts: list[Sign]) -> list[Sign]:
    """The parts that follow each other from the first place to the last and are the surest signs; one that is
    nothing known where none do.
    """
    if len(parts) <= 1:
        return parts
    first, last = min(part.x0 for part in parts), max(part.x1 for part in parts)
    best: dict[float, tuple[float, list[Sign]]] = {first: (0.0, [])}
    for part in sorted(parts, key=lambda part: (part.x1, part.x0)):
        if part.x0 in best:
            before, chain = best[part.x0]
            total = before + (part.x1 - part.x0) * float(np.log(part.sure))
            if part.x1 not in best or total > best[part.x1][0]:
                best[part.x1] = (total, [*chain, part])
    return best.get(last, (0.0, [Sign(OTHER, LEAST_LIKELY, first, last, 0.0)]))[1]
