"""Marks -> pieces of text lines: what stands on one line without a wide gap."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from scipy import ndimage

from ..ink import Bools, Floats, Ints
from .fillers import find_fillers
from .marks import Marks, squares
from .picture import Mask
from .raised import HIGH, LIFT, MOST, NEAR

# Marks of letters are at least and at most so many times as high as most letters.
LETTER = (0.5, 5.0)
# A mark lower than this (heights of letters) may be a comma, and so may one that is lower than this (heights
# of the letters of its line) and stands above or below the middle of the one beside it.
LOW, LOWER = 0.75, 0.5
# A dash or underscore is so wide and at most so high (heights of letters); it stands in or under the middle
# of letters that reach so far above its lower edge.
DASH, DASH_HEIGHT, DASH_REACH = (0.4, 6.0), 0.4, 0.8
# Marks nearer than this, in their own heights, stand on one piece of a line.
REACH = 0.9
# Capitals are so many times as high as most letters.
CAPITAL = 1.35
# The middle part of a mark, which those beside it on its line share.
CORE = (0.25, 0.75)
# Dots, accents and commas stand this far above, below and beside the letters of their line (heights).
ABOVE, BELOW, BESIDE = 0.6, 0.45, 1.0
# So many dots at even distances are a leader, and so many alone an ellipsis.
LEADER, ELLIPSIS, EVEN = 5, 3, 0.35


@dataclass(slots=True)
class Pieces:
    """Pieces of lines: the number of the piece of each mark (-1 for none), and boxes of pieces (x0, y0, x1,
    y1 in pixels); `dots` are the marks that are dots of leaders, `ellipsis` those of two or three dots that
    stand alone, `dash` those that are dashes, `frame` those that are frames of check boxes, and `checked`
    those of these that hold a cross or a tick.
    """

    of: Ints
    boxes: Floats
    dots: Bools
    ellipsis: Bools
    dash: Bools
    frame: Bools
    checked: Bools


def find_pieces(marks: Marks, walls: Mask) -> Pieces:
    """Return the pieces of text lines; `walls` are pixels over which no line goes on.

    A check box is a piece by itself.
    """
    frames, checked = squares(marks)
    w, h, height = marks.w, marks.h, marks.height
    letter = ~frames & (h >= LETTER[0] * height) & (h <= LETTER[1] * height) & (w <= 12 * h)
    wide = (w >= DASH[0] * height) & (w <= DASH[1] * height) & (w >= 1.5 * h)
    dash = ~letter & wide & (h < DASH_HEIGHT * height)
    chains = list(_chains(marks, ~letter & ~dash & (np.maximum(w, h) < 0.45 * height)))
    dots = np.zeros(len(marks), dtype=np.bool_)
    for chain in chains:
        dots[chain] |= len(chain) >= LEADER
    of = _with_raised(marks, smeared(marks, letter, dash, walls), letter)
    # A low mark alone is a large comma or quotation mark of a line beside it.
    single = letter & (np.bincount(of[of >= 0], minlength=1)[of] == 1)
    alone = single & (h < LOW * height)
    small = ~letter & ~dash & ~dots & ~frames & (h < LETTER[1] * height) & (w < 3 * height)
    of = np.where(alone, -1, of)
    large = single & ~alone & (w <= h)
    of = _attached(marks, of, small | alone | large, letter & ~alone, large)
    left = alone & (of < 0)
    of[left] = of.max(initial=-1) + 1 + np.arange(left.sum())
    ellipsis = np.zeros(len(marks), dtype=np.bool_)
    for chain in chains:
        if len(chain) == ELLIPSIS and (of[chain] < 0).all():
            ellipsis[chain] = True
            of[chain] = of.max(initial=-1) + 1
    within = _within(marks, frames)
    of[within] = -1
    for group in find_fillers(marks, (of < 0) & ~dots & ~frames & ~within, letter):
        of[group] = of.max(initial=-1) + 1
        dash[group], ellipsis[group] = len(group) == 1, len(group) > 1
    of[frames] = of.max(initial=-1) + 1 + np.arange(frames.sum())
    of = np.where(of < 0, -1, np.unique(of, return_inverse=True)[1] - int((of < 0).any()))
    return Pieces(of, _boxes(marks, of), dots, ellipsis & (of >= 0), dash, frames, checked)


def _within(marks: Marks, frames: Bools) -> Bools:
    """Which marks lie inside a frame."""
    within = np.zeros(len(marks), dtype=np.bool_)
    for k in np.flatnonzero(frames).tolist():
        within |= (
            (marks.x0 > marks.x0[k])
            & (marks.x1 < marks.x1[k])
            & (marks.y0 > marks.y0[k])
            & (marks.y1 < marks.y1[k])
        )
    return within


def smeared(marks: Marks, letter: Bools, dash: Bools, walls: Mask) -> Ints:
    """Number the letters and dashes by piece: each is smeared to the right, and what then hangs together is
    one.
    """
    scale = max(1, int(marks.height // 8))
    rows, columns = (side // scale + 2 for side in walls.shape)
    board = np.zeros((rows, columns), dtype=np.bool_)
    at = np.flatnonzero(letter | dash)
    h = np.where(dash, DASH_REACH * marks.height, marks.h)[at]
    lower = marks.y1[at]
    top, bottom = (np.maximum(lower - (1 - share) * h, 0) / scale for share in CORE)
    right = marks.x1[at] + REACH * np.clip(h, 0.8 * marks.height, 2.5 * marks.height)
    sides = np.stack((top, bottom, marks.x0[at] / scale, right / scale)).astype(np.int64).T
    for y0, y1, x0, x1 in sides.tolist():
        board[y0 : y1 + 1, x0 : x1 + 1] = True
    y, x = np.nonzero(walls)
    wall = np.zeros_like(board)
    wall[y // scale, x // scale] = True
    labels, _ = ndimage.label(board & ~wall)
    of = np.full(len(marks), -1, dtype=np.int64)
    middle = ((sides[:, 0] + sides[:, 1]) // 2, (marks.x0[at] + marks.x1[at]) // 2 // scale)
    found = labels[middle].astype(np.int64)
    # A letter on a wall keeps to itself.
    found[found == 0] = labels.max() + 1 + np.arange((found == 0).sum())
    of[at] = np.unique(found, return_inverse=True)[1]
    return of


def _with_raised(marks: Marks, of: Ints, letter: Bools) -> Ints:
    """Give one or two small letters that stand raised right behind a letter to its piece."""
    of = of.copy()
    count = np.bincount(of[of >= 0], minlength=1)
    small = letter & (marks.h <= HIGH[1] * CAPITAL * marks.height) & (count[of] <= MOST)
    near, lift = (share * CAPITAL * marks.height for share in (NEAR, LIFT))
    for k in np.flatnonzero(small)[np.argsort(marks.x0[small], kind="stable")].tolist():
        gap = marks.x0[k] - marks.x1
        over = marks.y1 - marks.y1[k]
        fits = letter & (np.abs(gap) <= near) & (over >= lift) & (marks.y0 - near <= marks.y1[k])
        # What stands behind another raised one goes with that.
        beside = small & (np.abs(gap) <= near) & (np.abs(over) < lift) & (count[of] > MOST)
        found = np.flatnonzero((fits | beside) & (of != of[k]))
        if len(found):
            of[k] = of[found[np.abs(gap[found]).argmin()]]
    return of


def _attached(marks: Marks, of: Ints, small: Bools, letter: Bools, large: Bools) -> Ints:
    """Give the small marks to the piece whose letters they stand by; those that are `large` only where these
    are much larger.
    """
    of = of.copy()
    at = np.flatnonzero(letter & (of >= 0))
    if not len(at):
        return of
    tallest_of = np.zeros(of.max() + 1)
    np.maximum.at(tallest_of, of[at], marks.h[at])
    order = at[np.argsort(marks.y0[at], kind="stable")]
    tops = marks.y0[order]
    tallest = int(marks.h[order].max())
    for k in np.flatnonzero(small).tolist():
        low = np.searchsorted(tops, marks.y0[k] - 3 * tallest)
        high = np.searchsorted(tops, marks.y1[k] + tallest)
        near = order[low:high]
        h = np.maximum(marks.h[near], 0.8 * marks.height)
        beside = np.maximum(marks.x0[near] - marks.x1[k], marks.x0[k] - marks.x1[near])
        over = marks.y0[near] - marks.y1[k]
        under = marks.y0[k] - marks.y1[near]
        fits = (beside <= BESIDE * h) & (over <= ABOVE * h) & (under <= BELOW * h)
        if large[k]:
            middle = (marks.y0[near] + marks.y1[near]) / 2
            fits &= (marks.y0[k] >= middle) | (marks.y1[k] <= middle)
            fits &= (marks.h[k] < LOWER * tallest_of[of[near]]) & (beside <= LOWER * marks.h[k])
        if fits.any():
            near = near[fits]
            off = np.maximum(beside[fits], 0) + 2 * np.maximum(np.maximum(over[fits], under[fits]), 0)
            of[k] = of[near[off.argmin()]]
    return of


def _chains(marks: Marks, small: Bools) -> Iterator[Ints]:
    """Yield small marks of one size that follow each other at even distances on one line, in their order."""
    at = np.flatnonzero(small)
    if len(at) < ELLIPSIS:
        return
    line = np.round((marks.y0[at] + marks.y1[at]) / 2 / (0.3 * marks.height)).astype(np.int64)
    order = at[np.lexsort((marks.x0[at], line))]
    line = np.sort(line, kind="stable")
    middle = (marks.x0[order] + marks.x1[order]) / 2
    step = np.diff(middle)
    linked = (line[1:] == line[:-1]) & (step < 1.6 * marks.height)
    even = linked[1:] & linked[:-1] & (np.abs(np.diff(step)) < EVEN * np.minimum(step[1:], step[:-1]))
    start = 0
    for k in range(len(even) + 1):
        if k == len(even) or not even[k]:
            # Marks start .. k + 1 stand at even distances.
            if k + 2 - start >= ELLIPSIS:
                yield order[start : k + 2]
            start = k + 1


def _boxes(marks: Marks, of: Ints) -> Floats:
    at = np.flatnonzero(of >= 0)
    count = int(of.max(initial=-1)) + 1
    low, high = np.full((count, 2), np.inf), np.full((count, 2), -np.inf)
    np.minimum.at(low, of[at], np.stack((marks.x0[at], marks.y0[at]), axis=1))
    np.maximum.at(high, of[at], np.stack((marks.x1[at], marks.y1[at]), axis=1))
    return np.concatenate((low, high), axis=1)
