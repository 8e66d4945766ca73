"""What was read piece by piece, in rows: one baseline each, and one pitch where that is fixed."""

from __future__ import annotations

import dataclasses
from collections.abc import Iterator

import numpy as np

from ..ink import Floats, Ints, connected
from .marks import Marks
from .pitch import fixed_pitch
from .sizes import piece_baselines
from .writing import Writing

# Pieces whose baselines are nearer than this (em) stand on one line: those that follow each other within so
# much (em), and others, which may be of another column.
SAME_LINE, BESIDE = (0.12, 0.03), 3.0
# Pieces with fewer letters tell their size badly.
SHORT = 8


def in_rows(writing: Writing, marks: Marks, of: Ints) -> Writing:
    """Return the characters of a page with one baseline for each line, and those of lines in fixed pitch
    where that puts them; `of` is the piece of each mark.
    """
    level = np.flatnonzero(writing.angle == 0)
    if not len(level):
        return writing
    x0, x1, baseline = writing.x0.copy(), writing.x1.copy(), writing.baseline.copy()
    blank, fixed, size = writing.blank.copy(), writing.fixed.copy(), writing.size.copy()
    # Dots of leaders, which have no marks, are pieces by themselves.
    last = int(of.max(initial=-1))
    piece = np.where(writing.piece > last, last + 1 + np.arange(len(writing)), writing.piece)
    em = float(np.median(writing.size))
    baseline[level] = levelled(baseline[level], piece[level], x0[level], x1[level], em)
    size[level] = in_line(size[level], piece[level], baseline[level])
    read = level[piece[level] <= last]
    fixed[read], x0[read], x1[read], blank[read] = fixed_pitch(
        x0[read], x1[read], piece[read], baseline[read], blank[read], marks, of
    )
    return dataclasses.replace(writing, x0=x0, x1=x1, baseline=baseline, size=size, blank=blank, fixed=fixed)


def levelled(baseline: Floats, piece: Ints, x0: Floats, x1: Floats, em: float) -> Floats:
    """Return baselines with those of pieces that stand on one line made one: of a page that is level but for
    a hair, each piece has its own. Raised characters stay as far above their piece.
    """
    there, of = np.unique(piece, return_inverse=True)
    own, left, right = np.zeros(len(there)), np.full(len(there), np.inf), np.full(len(there), -np.inf)
    own[of] = piece_baselines(piece, baseline)
    np.minimum.at(left, of, x0)
    np.maximum.at(right, of, x1)
    pairs = np.concatenate([np.empty((2, 0), dtype=np.int64), *_together(own, left, right, em)], axis=1)
    line = connected(pairs[0], pairs[1], len(there))
    order = np.lexsort((own, line))
    shift = np.zeros(len(there))
    for members in np.split(order, np.flatnonzero(np.diff(line[order])) + 1):
        shift[members] = np.median(own[members]) - own[members] if len(members) else 0.0
    one: Floats = baseline + shift[of]
    return one


def in_line(size: Floats, piece: Ints, baseline: Floats) -> Floats:
    """Return sizes with those of short pieces as most others of their line have it, which few letters tell
    badly. Raised characters keep their own.
    """
    there, of = np.unique(piece, return_inverse=True)
    lines = piece_baselines(piece, baseline)
    main = baseline == lines
    own = np.zeros(len(there))
    own[of] = lines
    count = np.bincount(of[main], minlength=len(there))
    first = np.zeros(len(there))
    first[of[main]] = size[main]
    sizes, kind = np.unique(first, return_inverse=True)
    out = first.copy()
    for line in np.unique(own).tolist():
        members = np.flatnonzero(own == line)
        beside = np.bincount(kind[members], weights=count[members], minlength=len(sizes))
        for k in members[count[members] < SHORT].tolist():
            others = beside.copy()
            others[kind[k]] -= count[k]
            if others.max() >= max(count[k], 1):
                out[k] = sizes[others.argmax()]
    one: Floats = np.where(main, out[of], size)
    return one


def _together(own: Floats, left: Floats, right: Floats, em: float) -> Iterator[Ints]:
    """The pairs of pieces that stand on one line."""
    order = np.argsort(own, kind="stable")
    for step in range(1, len(own)):
        a, b = order[:-step], order[step:]
        off = own[b] - own[a]
        if (off > SAME_LINE[0] * em).all():
            return
        beside = np.maximum(left[b] - right[a], left[a] - right[b]) <= BESIDE * em
        same = off <= np.where(beside, *SAME_LINE) * em
        yield np.stack((a[same], b[same]))
