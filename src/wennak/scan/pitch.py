"""Lines in fixed pitch, told by their marks: the middles of their letters stand at even distances."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from ..ink import Bools, Floats, Ints
from .marks import Marks
from .sizes import TOPS, piece_baselines

# Letters of fixed pitch are so wide (em of a font whose small letters are half an em high), looked for in
# such steps; lines of a page in fixed pitch have one pitch, but for the last share.
WIDTHS, STEP, SAME = (0.42, 0.75), 0.0015, 0.03
# What is further apart (em) is looked at by itself.
APART = 4.0
# So even are the distances in lines that have a pitch by themselves (mean resultant length R), with so many
# letters that chance gives that hardly once in a million lines (by Rayleigh's test); so even in others that
# are in step with these, but for the last share of a letter.
EVEN, SURE, ALSO, IN_STEP = 0.8, 14.0, 0.85, 0.15
# Lines with fewer letters are in fixed pitch where one that is no further off (em) is.
FEW, NEAR = 4, 2.5
# Letters are one word where their middles are less far apart (pitches).
ONE_WORD = 1.5


@dataclass(frozen=True, slots=True, eq=False)
class _Stretch:
    """Part of a line: its characters in their order, where its letters begin and end from left to right (as
    one where they touch), and its baseline.
    """

    members: Ints
    left: Floats
    right: Floats
    baseline: float

    @property
    def middles(self) -> Floats:
        return (self.left + self.right) / 2

    def parted(self, pitch: float) -> Floats:
        """The middles with those of letters that touch, which are as wide as so many letters are."""
        wide = self.right - self.left
        letters = np.maximum(np.rint(wide / pitch), 1).astype(np.int64)
        number = np.arange(letters.sum()) - np.repeat(np.cumsum(letters) - letters, letters)
        middles: Floats = np.repeat(self.left, letters) + (number + 0.5) * np.repeat(wide / letters, letters)
        return middles


def fixed_pitch(
    x0: Floats, x1: Floats, piece: Ints, baseline: Floats, blank: Bools, marks: Marks, of: Ints
) -> tuple[Bools, Floats, Floats, Bools]:
    """Return which characters of level lines stand in fixed pitch, and where all begin and end and which have
    a blank before them, put right in fixed pitch: recognisers see blanks beside points and brackets there.

    `of` is the piece of each mark; lines have one baseline.
    """
    x0, x1, blank = x0.copy(), x1.copy(), blank.copy()
    em = marks.height / TOPS["x"]
    stretches = list(_stretches(x0, piece, baseline, marks, of, APART * em))
    fixed = np.zeros(len(x0), dtype=np.bool_)
    pitches = np.array([_own_pitch(s.middles, em) for s in stretches])
    if not pitches.any():
        return fixed, x0, x1, blank
    # The middle one of those that there are, of two the wider: no line has the mean of two.
    usual = float(np.sort(pitches[pitches > 0])[np.count_nonzero(pitches) // 2])
    own = np.abs(pitches - usual) <= SAME * usual
    steps = np.array([_phase(s.middles, usual) for s, is_own in zip(stretches, own, strict=True) if is_own])
    also = own | np.array([_in_step(s.middles, usual, steps) for s in stretches])
    long = also & np.array([len(s.middles) >= FEW for s in stretches])
    lines = np.array([s.baseline for s in stretches])
    for k in np.flatnonzero(also).tolist():
        if long[k] or (np.abs(lines[long] - lines[k]) <= NEAR * em).any():
            fixed[stretches[k].members] = True
            _set(stretches[k], x0, x1, blank, usual)
    return fixed, x0, x1, blank


def _stretches(
    x0: Floats, piece: Ints, baseline: Floats, marks: Marks, of: Ints, apart: float
) -> Iterator[_Stretch]:
    """The parts of lines between wide gaps."""
    # What stands raised in a piece is in the line of the piece.
    lines = piece_baselines(piece, baseline)
    for line in np.unique(lines).tolist():
        members = np.flatnonzero(lines == line)
        members = members[np.argsort(x0[members], kind="stable")]
        own = np.flatnonzero(np.isin(of, piece[members]))
        own = own[np.argsort(marks.x0[own], kind="stable")]
        if not len(own):
            continue
        # Marks over each other are one letter.
        reach = np.maximum.accumulate(marks.x1[own])
        first = np.flatnonzero(np.append(True, marks.x0[own][1:] >= reach[:-1]))
        left = marks.x0[own][first].astype(np.float64)
        right = np.append(reach[first[1:] - 1], reach[-1]).astype(np.float64)
        wide = np.flatnonzero(left[1:] - right[:-1] > apart) + 1
        bounds = np.concatenate(([-np.inf], (left[wide] + right[wide - 1]) / 2, [np.inf]))
        letters = zip(np.split(left, wide), np.split(right, wide), strict=True)
        for k, (begins, ends) in enumerate(letters):
            inside = (x0[members] >= bounds[k]) & (x0[members] < bounds[k + 1])
            yield _Stretch(members[inside], begins, ends, line)


def _resultant(middles: Floats, pitches: Floats) -> Floats:
    """How even middles stand at each pitch (0..1): the mean resultant length of their phases."""
    turns = np.exp(2j * np.pi * middles[None, :] / pitches[:, None])
    length: Floats = np.abs(turns.mean(axis=1))
    return length


def _own_pitch(middles: Floats, em: float) -> float:
    """The pitch that the letters of a line have beyond doubt; 0 where they have none."""
    if len(middles) < SURE:
        return 0.0
    pitches = np.arange(WIDTHS[0], WIDTHS[1], STEP) * em
    even = _resultant(middles, pitches)
    best = int(even.argmax())
    return float(pitches[best]) if even[best] >= EVEN and len(middles) * even[best] ** 2 >= SURE else 0.0


def _phase(middles: Floats, pitch: float) -> float:
    """Where letters stand within a pitch (0..1)."""
    return float(np.angle(np.exp(2j * np.pi * middles / pitch).mean()) / (2 * np.pi)) % 1.0


def _in_step(middles: Floats, pitch: float, steps: Floats) -> bool:
    """Whether letters stand at a pitch, and in step with other lines."""
    if float(_resultant(middles, np.array([pitch]))[0]) < ALSO:
        return False
    off = np.abs(steps - _phase(middles, pitch))
    return bool(np.minimum(off, 1 - off).min() <= IN_STEP)


def _set(stretch: _Stretch, x0: Floats, x1: Floats, blank: Bools, pitch: float) -> None:
    """Put the blanks of a stretch where letters are two pitches apart, and together what a recogniser parts
    elsewhere; what ends there, and the stretch, ends where the room of its letters does.
    """
    middles = stretch.parted(pitch)
    if not len(stretch.members):
        return
    x0[stretch.members[0]] = min(x0[stretch.members[0]], middles[0] - pitch / 2)
    x1[stretch.members[-1]] = max(x1[stretch.members[-1]], middles[-1] + pitch / 2)
    for a, b in zip(stretch.members[:-1].tolist(), stretch.members[1:].tolist(), strict=True):
        if x0[b] <= x1[a] and not blank[b]:
            continue
        before, after = (
            middles[np.abs(middles - x).argmin()] for x in (x1[a] - pitch / 4, x0[b] + pitch / 4)
        )
        blank[b] = after - before > ONE_WORD * pitch
        x1[a], x0[b] = before + pitch / 2, after - pitch / 2
