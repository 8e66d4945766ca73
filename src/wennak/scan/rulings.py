"""Light -> ruling lines, and the ink without them."""

from __future__ import annotations

import dataclasses
from dataclasses import dataclass

import numpy as np
from scipy import ndimage

from ..ink import Bools, Floats, Ints
from .marks import Marks
from .picture import Grey, Mask

# A line is at least so many times as long as letters are high.
LENGTH = 4.0
# Light is averaged over this length (mm) along a line, so that faint lines stand out of
# noise, in steps of so much.
ALONG, STEP = 2.0, 0.4
# A line is darker than what lies so far (mm) on both its sides, by the least share of the light that is given
# with it: what is thick and not solid is writing.
ASIDE = ((0.45, 0.06), (1.0, 0.3))
# Its sides are as light as this: writing is not.
BLANK = 0.82
# Of its length so much is ink; less of it where it is dashed or dotted.
SOLID = 0.8
# A line of dots is uneven: its light deviates by this share of its darkness, where that is more than this.
UNEVEN, SOME = 0.25, 0.2
# Dots and dashes are at least so many; their distances deviate by less than this share.
BEADS, EVEN = 6, 0.3
# Dashes are thinner than this (heights of letters).
DASHED = 0.6
# A broken line that touches nothing is thinner than this (heights of letters).
THIN = 0.35
# Posts, and fringes, are thinner than this (heights of letters), this near to a rule (pixels), and so many
# times as long as thick: points stand near rules, too. Small letters are thicker.
POST, EDGE, BESIDE, LONG = 0.3, 0.5, 3, 2.0
# The pieces of a broken rule follow each other within this (heights of letters); those of an upright one are
# shorter than letters of one stroke, and nearer to each other than lines of text.
REACH, REACH_UP, MOST_DASH = 3.0, 0.7, 1.2
# What is this near to a line (mm) is its fringe.
FRINGE = 0.15
# A line ends where it is less than this share as dark as mostly.
END = 0.5
# Breaks up to this (mm) are bridged within a line, up to this many letter heights between its pieces.
BREAK, PIECE_GAP = 2.0, 1.5
# A line that goes on under letters has no gaps wider than this (heights of letters).
UNDER = 0.12
# Where letters stand over more than this share of a leader, at least the second of their width is feet.
OVER, FEET = 0.015, 0.15
# Of the length of a line, at most this share touches other ink: letters cross a line here and there.
TOUCHED = 0.3


@dataclass(slots=True)
class Rulings:
    """Ruling lines in pixels: rows of at (middle across), low and high (along), thickness; likewise the
    leaders, lines of dots from letters to letters; and the ink of them all.
    """

    level: Floats
    upright: Floats
    leaders: Floats
    ink: Mask


def find_rulings(grey: Grey, ink: Mask, height: float, dpi: float) -> Rulings:
    """Return the level and upright lines of a page whose letters are `height` pixels high."""
    level, leaders, level_ink = _lines(grey, grey, ink, height, dpi, FEET)
    # What crosses a line would hide that its sides are blank.
    clear = np.ascontiguousarray(np.where(level_ink, np.uint8(255), grey).T)
    left = np.ascontiguousarray((ink & ~level_ink).T)
    upright, _, upright_ink = _lines(clear, grey.T, left, height, dpi, 0.0)
    return Rulings(level, upright, leaders, level_ink | upright_ink.T)


def with_posts(rulings: Rulings, marks: Marks) -> tuple[Rulings, Bools]:
    """Return the rules with the posts between level ones, too short to stand out by themselves, and which
    marks belong to rules: posts, pieces of broken rules, and fringes that were left beside a rule.
    """
    slim = np.minimum(marks.w, marks.h) / marks.height
    thin = (slim < np.where(marks.w > marks.h, EDGE, POST)) & (marks.h < 8 * marks.height)
    posts, fringes = np.zeros(len(marks), dtype=np.bool_), np.zeros(len(marks), dtype=np.bool_)
    ruled = rulings.ink
    for k in np.flatnonzero(thin).tolist():
        x0, y0, x1, y1 = (int(side[k]) for side in (marks.x0, marks.y0, marks.x1, marks.y1))
        left, right = slice(max(0, x0 - BESIDE), x0), slice(x1, x1 + BESIDE)
        over, under = slice(max(0, y0 - BESIDE), y0), slice(y1, y1 + BESIDE)
        if marks.h[k] > marks.w[k]:
            ends = ruled[over, x0:x1].any() and ruled[under, x0:x1].any()
            posts[k] = ends and marks.h[k] > marks.height
            sides = ruled[y0:y1, left], ruled[y0:y1, right]
            along = marks.h[k] >= LONG * marks.w[k]
            fringes[k] = along and any(side.any(axis=1).mean() > 0.5 for side in sides if side.size)
        else:
            sides = ruled[over, x0:x1], ruled[under, x0:x1]
            along = marks.w[k] >= LONG * marks.h[k]
            fringes[k] = along and any(side.any(axis=0).mean() > 0.5 for side in sides if side.size)
    along = marks.x0, marks.x1, marks.y0, marks.y1, marks.height
    level, dashes = _broken(*along, REACH)
    thick, strokes = _broken(*along, REACH, ~dashes, DASHED)
    level, dashes = np.concatenate((level, thick)), dashes | strokes
    short = marks.h < MOST_DASH * marks.height
    dashed, bars = _broken(marks.y0, marks.y1, marks.x0, marks.x1, marks.height, REACH_UP, short)
    at = np.flatnonzero(posts)
    columns = ((marks.x0 + marks.x1) / 2, marks.y0 - BESIDE, marks.y1 + BESIDE, marks.w)
    added = np.stack([column[at].astype(np.float64) for column in columns], axis=1)
    upright = np.concatenate((rulings.upright, added, dashed))
    level = np.concatenate((rulings.level, level))
    return dataclasses.replace(rulings, level=level, upright=upright), posts | fringes | dashes | bars


def _broken(
    low: Ints,
    high: Ints,
    side: Ints,
    other: Ints,
    height: float,
    reach: float,
    may: Bools | bool = True,
    most: float = POST,
) -> tuple[Floats, Bools]:
    """Rules of which only pieces are left, many thin marks that follow each other on one line, and which
    marks these are, of those that may be: each reaches from low to high along it, and from one side to the
    other across. Those that are thicker than pieces are dashes of a rule where they are alike and as near to
    each other as they are long.
    """
    long, thick = high - low, other - side
    broken = np.zeros(len(low), dtype=np.bool_)
    at = np.flatnonzero((thick < most * height) & (long >= 1.5 * thick) & (long >= 3) & may)
    rows: list[tuple[float, ...]] = []
    if len(at) >= BEADS:
        middle = (side + other)[at] / 2
        by_height = at[np.argsort(middle, kind="stable")]
        track = np.cumsum(np.append(0, np.diff(np.sort(middle)) > 0.15 * height))
        order = by_height[np.lexsort((low[by_height], track))]
        track = np.sort(track)
        apart = np.diff(track) > 0
        apart |= low[order][1:] - high[order][:-1] > reach * height
        for chain in np.split(order, np.flatnonzero(apart) + 1):
            begin, end = int(low[chain].min()), int(high[chain].max())
            if len(chain) < BEADS or end - begin < LENGTH * height:
                continue
            if most == POST or _are_dashes(low[chain], high[chain]):
                broken[chain] = True
                line = float(np.average((side + other)[chain] / 2, weights=long[chain]))
                rows.append((line, float(begin), float(end), float(np.median(thick[chain]))))
    return _table(rows), broken


def _are_dashes(low: Ints, high: Ints) -> bool:
    """Whether the pieces of a line are about as long as each other, and mostly no further apart than that."""
    long = high - low
    usual = float(np.median(long))
    return bool(np.std(long) < EVEN * usual and np.median(low[1:] - high[:-1]) <= usual)


def _lines(
    grey: Grey, seen: Grey, ink: Mask, height: float, dpi: float, feet: float
) -> tuple[Floats, Floats, Mask]:
    """Level lines and leaders: rows of at, low, high, thickness; and their pixels, less what crosses them.

    `grey` lacks what was erased, `seen` does not: it tells how dark lines are along their way. Of letters
    that stand at an end of a leader at least the share `feet` are feet.
    """
    mm, length = dpi / 25.4, LENGTH * height
    step, fringe = max(1, round(STEP * mm)), max(1, round(FRINGE * mm))
    depth = _depth(grey, step, mm)
    labels, _ = ndimage.label(_long_runs(depth > 0, length / step, round(BREAK * mm / step)), np.ones((3, 3)))
    lines: list[tuple[float, ...]] = []
    leaders: list[tuple[float, ...]] = []
    pixels = np.zeros_like(ink)
    for k, (r, c) in enumerate(ndimage.find_objects(labels), start=1):
        deep = np.where(labels[r, c] == k, depth[r, c], 0.0)
        peak = deep.max(axis=0)
        usual = float(np.median(peak))
        steps = np.flatnonzero(peak > END * usual)
        if not len(steps) or (steps[-1] - steps[0] + 1) * step < 0.8 * length:
            continue
        low, high = (c.start + int(steps[0])) * step, (c.start + int(steps[-1]) + 1) * step
        own = np.repeat(deep[:, steps[0] : steps[-1] + 1] > 0.6 * END * usual, step, axis=1)
        x = np.arange(low, high)
        there: Bools = np.any(own, axis=0)
        # What stands near a line hides it; it goes on as it was before.
        own = own[:, np.maximum.accumulate(np.where(there, np.arange(len(x)), 0))]
        top, bottom = own.argmax(axis=0) + r.start, r.start + own.shape[0] - own[::-1].argmax(axis=0)
        above: Bools = ink[np.maximum(top - 2, 0), x]
        below: Bools = ink[np.minimum(bottom + 1, len(ink) - 1), x]
        touched = max((above & there).mean(), (below & there).mean())
        if touched > TOUCHED:
            continue
        light = seen[r, low:high].min(axis=0) / 255
        solid = (ndimage.uniform_filter1d(light, 3) < 1 - END * usual).mean() >= SOLID
        uneven = float(np.std(light)) > UNEVEN * (1 - float(np.mean(light)))
        # Noise makes faint lines uneven.
        even = solid and (usual < SOME or not uneven)
        thick = float(np.median(own.sum(axis=0)[there]))
        broken = thick < THIN * height and touched < TOUCHED / 6
        if not (even or broken or _is_beaded(light)):
            continue
        letters = _over(ink, r.stop, low, high, height)
        # Letters stand on a rule of dots, and at the ends of a leader, where their feet are as low as dots.
        leads = not even and _leads(ink, r.stop, low, high, height)
        leads = leads and not (broken and letters.mean() > OVER and above[letters].mean() < feet)
        if leads:
            begin, end = _clear(letters)
            if end - begin < length:
                continue
            own, there = own[:, begin:end], there[begin:end]
            above, below = above[begin:end], below[begin:end]
            low, high = low + begin, low + end
        weight = own.sum(axis=1)
        at = float((weight * np.arange(r.start, r.stop)).sum() / max(weight.sum(), 1)) + 0.5
        (leaders if leads else lines).append((at, float(low), float(high), thick))
        # Strokes of letters that pass through stay whole.
        own[:, np.logical_and(above, below)] = False
        wide = slice(max(0, r.start - fringe), min(len(ink), r.stop + fringe))
        own = np.pad(own, ((r.start - wide.start, wide.stop - r.stop), (0, 0)))
        pixels[wide, low:high] |= ndimage.binary_dilation(own, np.ones((2 * fringe + 1, 1), dtype=np.bool_))
        if not leads:
            # Its ends reach a little beyond where it is as dark as mostly.
            pixels[wide, max(0, low - 2 * step) : low] = pixels[wide, high : high + 2 * step] = True
        if even and usual >= SOME:
            band = slice(max(0, round(at - thick / 2)), round(at + thick / 2) + 1)
            ends = _on_under_letters(seen[band] / 255 < 1 - END * usual, low, high, round(UNDER * height))
            lines[-1] = (at, float(ends[0]), float(ends[1]), thick)
            for x in (np.arange(ends[0], low), np.arange(high, ends[1])):
                through = ink[max(0, band.start - 2), x] & ink[min(band.stop + 1, len(ink) - 1), x]
                pixels[band.start : band.stop + fringe, x[~through]] = True
    return _joined(_table(lines), PIECE_GAP * height), _table(leaders), pixels


def _on_under_letters(dark: Mask, low: int, high: int, gap: int) -> tuple[int, int]:
    """From where to where a line reaches that goes on under letters which stand right on it, where its sides
    are not blank: as far as its rows are dark without a gap as wide as those between letters.
    """
    at = np.flatnonzero(dark.any(axis=0))
    breaks = np.flatnonzero(np.diff(at) > gap) + 1
    runs = np.split(at, breaks) if len(at) else []
    inside = [run for run in runs if run[-1] >= low and run[0] < high]
    if not inside:
        return low, high
    return min(low, int(inside[0][0])), max(high, int(inside[-1][-1]) + 1)


def _table(rows: list[tuple[float, ...]]) -> Floats:
    return np.array(rows, dtype=np.float64).reshape(-1, 4)


def _is_beaded(light: Floats) -> bool:
    """Whether a line is of dots or dashes: dark stretches that begin at even distances."""
    dark = light < light.mean()
    begins = np.flatnonzero(dark[1:] & ~dark[:-1])
    if len(begins) < BEADS:
        return False
    apart = np.diff(begins)
    return bool(np.std(apart) < EVEN * np.mean(apart))


def _leads(ink: Mask, base: int, low: int, high: int, height: float) -> bool:
    """Whether letters stand at or over an end of a line of dots, so that it leads from or to them."""
    reach = round(2 * height)
    over = _over(ink, base, max(0, low - reach), high + reach, height)
    return bool(over[: 2 * reach].any() or over[-2 * reach :].any())


def _over(ink: Mask, base: int, low: int, high: int, height: float) -> Bools:
    """Where along a line letters stand on it."""
    rows = slice(max(0, round(base - height)), max(1, round(base - 0.4 * height)))
    return np.asarray(ink[rows, low:high].any(axis=0), dtype=np.bool_)


def _clear(over: Bools) -> tuple[int, int]:
    """Begin and end of the longest stretch without letters."""
    at = np.concatenate(([-1], np.flatnonzero(over), [len(over)]))
    k = int(np.diff(at).argmax())
    return int(at[k]) + 1, int(at[k + 1])


def _depth(grey: Grey, step: int, mm: float) -> Floats:
    """By how much pixels are darker than both their blank sides, averaged along in steps of so many pixels; 0
    where there is no line.
    """
    h, w = grey.shape
    coarse = grey[:, : w // step * step].reshape(h, w // step, step).mean(axis=2, dtype=np.float32) / 255
    smooth = ndimage.uniform_filter1d(coarse, max(3, round(ALONG * mm / step)), axis=1)
    depth = np.zeros_like(smooth)
    for aside, least in ASIDE:
        d = max(2, round(aside * mm))
        sides = np.minimum(smooth[2 * d :], smooth[: -2 * d])
        darker = sides - smooth[d:-d]
        darker[(sides < BLANK) | (darker < least)] = 0
        np.maximum(depth[d:-d], darker, out=depth[d:-d])
    return depth


def _long_runs(mask: Mask, length: float, gap: int) -> Mask:
    """The pixels of level runs of at least `length`, with breaks of up to `gap` bridged, in rows that may
    follow each other.
    """
    # A line that is bent or not quite level goes on in the row beside it.
    wide = mask.copy()
    wide[1:] |= mask[:-1]
    wide[:-1] |= mask[1:]
    h, w = mask.shape
    flat = np.zeros((h, w + 2 + gap), dtype=np.int8)
    flat[:, 1 : w + 1] = wide
    steps = np.diff(flat.ravel())
    starts, ends = np.flatnonzero(steps == 1), np.flatnonzero(steps == -1)
    if not len(starts):
        return np.zeros_like(mask)
    # Rows are apart by more than a gap, so that runs never join over their ends.
    first = np.flatnonzero(np.append(True, starts[1:] - ends[:-1] > gap))
    starts, ends = starts[first], ends[np.append(first[1:], len(ends)) - 1]
    keep = ends - starts >= length
    out = np.zeros(h * (w + 2 + gap), dtype=np.int8)
    out[starts[keep] + 1] += 1
    out[ends[keep] + 1] -= 1
    runs: Mask = (np.cumsum(out).reshape(h, -1)[:, 1 : w + 1] > 0) & mask
    return runs


def _joined(lines: Floats, gap: float) -> Floats:
    """Lines whose pieces follow each other at one height, as one."""
    out: list[list[float]] = []
    for at, low, high, thickness in lines[np.argsort(lines[:, 1], kind="stable")].tolist():
        for line in out:
            near = abs(line[0] - at) <= max(1.5, (line[3] + thickness) / 2)
            if near and low - line[2] <= gap:
                old, new = line[2] - line[1], high - low
                line[0] = (line[0] * old + at * new) / (old + new)
                line[2], line[3] = max(line[2], high), max(line[3], thickness)
                break
        else:
            out.append([at, low, high, thickness])
    return np.array(out, dtype=np.float64).reshape(-1, 4)
