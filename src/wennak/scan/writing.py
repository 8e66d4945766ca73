"""Pieces of lines -> characters: each piece is read as a picture of its own, and sized by what it says."""

from __future__ import annotations

import functools
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from ..ink import UNKNOWN, Bools, Floats, Ints
from .blanks import with_blanks
from .bullets import rings, with_bullets
from .lines import line_picture
from .marks import Marks
from .numerals import Sign, read_signs
from .picture import Grey, Mask
from .pieces import CAPITAL, Pieces
from .points import (
    box_character,
    dashes,
    ellipsis,
    lone_letters,
    unread,
    with_lost_points,
    with_touching_points,
    without_echo,
)
from .raised import ALPHABET, Raised, raised_marks, set_raised, told, with_raised, without_raised
from .recogniser import Read, Recogniser
from .sizes import DISCS, TOPS, baseline_and_size, cased, settled, stroke_widths
from .symbols import lone_symbol, with_signs, with_underscores
from .turned import LETTERS, find_turned
from .witness import Opinion, dispute, judged, with_commas

# Capitals are brought to this height in pixels for the recogniser, to the next ones where the characters are
# less sure than this.
HEIGHTS, SURE = (30.0, 24.0, 38.0), 0.85
# A piece that is higher or lower than capitals mostly are by less than this is taken for one of their size.
NEAR = (0.6, 1.3)
# So many pixels beside a rule are blurred by it.
HALO = 3
# What stands on its side is as sure as this.
ON_SIDE = 0.75
# Signs without letters and digits count where they are as sure as this, or are of more marks than dirt is.
CONVICTION, DIRT = 0.7, 2
# What marks tell of a reading, one after the other.
TOLD_BY_MARKS = (
    with_bullets, with_signs, with_underscores, with_touching_points, with_lost_points, with_blanks,
)  # fmt: skip


@dataclass(slots=True, eq=False)
class Writing:
    """Characters in pixels: place along the line, piece, baseline and size (em); how sure each is, whether a
    blank stands before it, the width of its strokes (0 where that is not known), whether it is in fixed
    pitch, and the angle of its line: 0, or 90 and -90 where it runs down and up, so that places along it are
    heights on the page.
    """

    texts: list[str]
    x0: Floats
    x1: Floats
    piece: Ints
    baseline: Floats
    size: Floats
    sure: Floats
    blank: Bools
    stroke: Floats
    fixed: Bools
    angle: Floats

    def __len__(self) -> int:
        return len(self.texts)


def read_pieces(
    grey: Grey,
    ruled: Mask,
    walls: Mask,
    marks: Marks,
    pieces: Pieces,
    recogniser: Recogniser,
) -> Writing:
    """Read every piece of a page, without its rules; `walls` are the pixels of the level ones."""
    light = _without_rules(grey, ruled, marks)
    order = np.argsort(pieces.of, kind="stable")
    bounds = np.searchsorted(pieces.of[order], np.arange(len(pieces.boxes) + 1))
    strokes = stroke_widths(marks, light)
    looks = _looks(light, marks)
    count = np.bincount(pieces.of[pieces.of >= 0], minlength=1)[pieces.of]
    ringed = rings(marks, np.flatnonzero((pieces.of >= 0) & (count == 1)))
    readings: list[tuple[Read, Ints, int, list[Raised]]] = []
    opinions: list[Opinion] = []
    for k in _in_reading_order(pieces.boxes):
        own = order[bounds[k] : bounds[k + 1]]
        own = own[np.argsort(marks.x0[own], kind="stable")]
        raised: list[Raised] = []
        if pieces.frame[own].any():
            read = box_character(marks, int(own[0]), bool(pieces.checked[own[0]]))
        elif pieces.ellipsis[own].any():
            read = ellipsis(marks, own)
        elif pieces.dash[own].all():
            read = dashes(marks, own, marks.height)
        else:
            tallest = _tallest(marks, own)
            by_itself = functools.partial(_read_alone, recogniser, light, marks)
            raised = told(raised_marks(marks, own, tallest), looks, by_itself)
            seen = functools.partial(_seen, looks=looks, marks=marks, own=own, raised=raised)
            opinions.append(_looked_at(recogniser, light, pieces.boxes[k], tallest, seen))
            read = without_echo(opinions[-1].read, marks, own)
            symbol = lone_symbol(marks, own, ringed)
            if not read.texts or symbol.texts:
                read = symbol if symbol.texts else lone_letters(marks, own)
            if not read.texts:
                read = unread(marks, own)
        if read.texts and (UNKNOWN in read.texts or not _nothing(read, own)):
            readings.append((read, own, k, raised))
    with_commas(opinions)
    # Characters are counted by the opinions above; only now may others come between.
    readings = [(with_raised(read, marks, raised), own, k, raised) for read, own, k, raised in readings]
    texts = [read.texts for read, *_ in readings]
    rows = [_characters(read, marks, own, strokes[own], k, raised) for read, own, k, raised in readings]
    level = np.concatenate(rows, axis=1) if rows else np.empty((9, 0))
    for read, own, row in _turned(light, walls, marks, pieces, level, recogniser):
        gone = set(pieces.of[own].tolist())
        left = [k for k, other in enumerate(rows) if int(other[2, 0]) not in gone]
        texts, rows = [texts[k] for k in left] + [read.texts], [rows[k] for k in left] + [row]
    cased(texts, [row[4] for row in rows])
    table = np.concatenate(rows, axis=1) if rows else np.empty((9, 0))
    x0, x1, piece, baseline, size, sure, blank, stroke, angle = table
    size = settled(size, np.abs(x1 - x0), marks.height)
    blank, fixed = blank > 0, np.zeros(len(x0), dtype=np.bool_)
    said = [text for part in texts for text in part]
    return Writing(said, x0, x1, piece.astype(np.int64), baseline, size, sure, blank, stroke, fixed, angle)


def _without_rules(grey: Grey, ruled: Mask, marks: Marks) -> Grey:
    """The page without its rules, and without the blur beside them that is none of the marks'."""
    kept = np.zeros(int(marks.labels.max()) + 1, dtype=np.bool_)
    kept[marks.number] = True
    beside = _grown(ruled, HALO) & ~_grown(kept[marks.labels], 1)
    out: Grey = np.where(ruled | beside, np.uint8(255), grey)
    return out


def _grown(mask: Mask, reach: int) -> Mask:
    """The pixels of a mask and those so near to it, along rows and columns."""
    out = mask.copy()
    for away in range(1, reach + 1):
        out[away:] |= mask[:-away]
        out[:-away] |= mask[away:]
    across = out.copy()
    for away in range(1, reach + 1):
        out[:, away:] |= across[:, :-away]
        out[:, :-away] |= across[:, away:]
    return out


def _turned(
    light: Grey, walls: Mask, marks: Marks, pieces: Pieces, level: Floats, recogniser: Recogniser
) -> Iterator[tuple[Read, Ints, Floats]]:
    """What stands on its side: what it says, its marks, and the rows of its characters; `level` are those of
    what was read level.
    """
    count = len(pieces.boxes)
    if not count:
        return
    few = np.bincount(pieces.of[pieces.of >= 0], minlength=count) < LETTERS
    odd = (pieces.of >= 0) & few[pieces.of]
    # How much each piece says: the sum of how sure its characters are.
    said = np.bincount(level[2].astype(np.int64), level[5], count)
    found = find_turned(marks, odd, walls)
    for own, box in zip(found.members, found.boxes, strict=True):
        x0, y0, x1, y1 = box.tolist()
        h, w = light.shape
        looks = []
        # A page turned clockwise, and counterclockwise, and where the piece is on it.
        for angle, page, place in (
            (-90.0, np.rot90(light, -1), (h - y1, x0, h - y0, x1)),
            (90.0, np.rot90(light, 1), (y0, w - x1, y1, w - x0)),
        ):
            read = _looked_at(recogniser, page, np.array(place), x1 - x0).read
            looks.append((float(np.mean(read.sure)) if read.texts else 0.0, angle, read))
        sure, angle, read = max(looks, key=lambda look: look[0])
        if sure < ON_SIDE or _nothing(read, own):
            continue
        if sure * len(read.texts) <= said[np.unique(pieces.of[own])].sum():
            # Stacked words and numbers read level say more.
            continue
        along = np.array((read.x0, read.x1))
        along = h - along if angle < 0 else along
        n = len(read.texts)
        blank = np.array(read.blank)
        blank[0] = False
        base = x1 if angle < 0 else x0
        rest = (int(pieces.of[own[0]]), base, (x1 - x0) / TOPS["X"])
        columns = (np.full(n, value) for value in rest)
        usual = np.full(n, 0.0)
        yield read, own, np.stack((*along, *columns, np.array(read.sure), blank, usual, np.full(n, angle)))


def _in_reading_order(boxes: Floats) -> list[int]:
    order: list[int] = np.lexsort((boxes[:, 0], boxes[:, 1])).tolist()
    return order


def _nothing(read: Read, own: Ints) -> bool:
    """Whether a piece says nothing: dirt and ends of rules, taken for signs without much conviction."""
    signs = not any(text.isalnum() for text in read.texts)
    return len(own) <= DIRT and signs and float(np.mean(read.sure)) < CONVICTION


def _looks(light: Grey, marks: Marks) -> Callable[[Ints], list[Sign]]:
    """What tells the signs that marks of a page look like: each word once, however often it is read."""
    told: dict[bytes, list[Sign]] = {}

    def looks(own: Ints) -> list[Sign]:
        key = own.tobytes()
        if key not in told:
            told[key] = read_signs(light, marks, own)
        return told[key]

    return looks


def _read_alone(recogniser: Recogniser, light: Grey, marks: Marks, own: Ints) -> Read:
    """What one raised sign says by itself, without what stands beside it."""
    left, top = int(marks.x0[own].min()), int(marks.y0[own].min())
    seen = (slice(top, int(marks.y1[own].max())), slice(left, int(marks.x1[own].max())))
    labels = marks.labels[seen]
    alone: Grey = np.where((labels > 0) & ~np.isin(labels, marks.number[own]), np.uint8(255), light[seen])
    height, width = alone.shape
    picture, _, _ = line_picture(alone, np.array((0, 0, width, height)), height, HEIGHTS[0])
    return recogniser.read(picture, ALPHABET)


def _seen(
    read: Read, looks: Callable[[Ints], list[Sign]], marks: Marks, own: Ints, raised: Sequence[Raised]
) -> Opinion:
    """A reading of a piece, but for its raised signs, with what its marks say of it."""
    if raised:
        read = without_raised(read, marks, raised)
        own = own[~np.isin(own, np.concatenate([sign.own for sign in raised]))]
    for told_by_marks in TOLD_BY_MARKS:
        read = told_by_marks(read, marks, own)
    return judged(read, looks, marks, own)


def _unseen(read: Read) -> Opinion:
    """A reading of which no marks tell: numbers are to be looked at again."""
    return Opinion(read, 0.0, not read.has_digits())


def _looked_at(
    recogniser: Recogniser,
    light: Grey,
    box: Floats,
    tallest: float,
    seen: Callable[[Read], Opinion] = _unseen,
) -> Opinion:
    """What stands in the box of a piece.

    Where that is doubtful, the best of several looks: the surest of those whose numbers look most like what
    is said. Numbers are looked at twice in any case; what no look settles, and numbers, are in doubt where
    looks differ.
    """
    looks: list[Read] = []
    best = Opinion(Read(), -1.0, False)
    for height in HEIGHTS:
        picture, left, scale = line_picture(light, box, tallest, height)
        read = recogniser.read(picture).placed(left, scale)
        if not read.texts:
            continue
        found = seen(read)
        looks.append(found.read)
        if (found.alike, min(found.read.sure, default=0.0)) > (best.alike, min(best.read.sure, default=0.0)):
            best = found
        digits = read.has_digits()
        if best.settled and min(best.read.sure, default=0.0) >= SURE and (len(looks) > 1 or not digits):
            break
        if not digits and len(looks) > 1 and looks[-1].texts == looks[-2].texts:
            # A third look at words would hardly tell more.
            break
    dispute(best.read, looks)
    return best


def _tallest(marks: Marks, own: Ints) -> float:
    """The height of capitals of a piece; that of the page where it is about as high."""
    usual = CAPITAL * marks.height
    tallest = float(np.percentile(marks.h[own], 90))
    return usual if NEAR[0] * usual < tallest < NEAR[1] * usual else tallest


def _characters(
    read: Read, marks: Marks, own: Ints, strokes: Floats, piece: int, raised: Sequence[Raised]
) -> Floats:
    """Rows of x0, x1, piece, baseline, size, sure, blank, stroke and angle of the characters of a piece."""
    n = len(read.texts)
    x0, x1 = np.array(read.x0), np.array(read.x1)
    blank = np.array(read.blank)
    blank[0] = False
    word = np.cumsum(blank)
    x0, x1 = _snapped(x0, x1, word, marks, own)
    base, em = baseline_and_size(read.texts, x0, x1, marks, own)
    baseline, size = np.full(n, base), np.full(n, em)
    set_raised(read.texts, (x0 + x1) / 2, baseline, size, marks, raised)
    # A disc is no bold letter.
    written = np.ones(len(own), dtype=np.bool_)
    if read.texts[0] in DISCS:
        written = marks.x0[own] >= x1[0]
    stroke = float(np.average(strokes[written], weights=marks.area[own][written])) if written.any() else 0.0
    return np.stack(
        (
            x0, x1, np.full(n, piece), baseline, size, np.array(read.sure), blank, np.full(n, stroke),
            np.zeros(n),
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
