"""A part of a page with its rows of text, and what is asked of these again and again."""

from __future__ import annotations

import re
from dataclasses import dataclass, field
from itertools import pairwise

import numpy as np

from ..ink import Bools, Floats, Ints, distinct, median
from ..layout import PageLayout
from .caption import NAMED, SECTION, names_table
from .gutters import Profile, profile_of
from .numbers import is_numeric
from .rows import SPAN_GAP, UNDER, Row, is_prose_line, rows_of, tight_pairs

# Gaps stand above each other when they share this much (em), or of the narrower one, in one of the next so
# many rows with gaps.
SHARED, MOST_OF, NEAR = 0.3, 0.7, 2
# Rows that overlap by more than this (em) stand level in part.
LEVEL = 0.1
# Where text ends, and where other text begins.
Gap = tuple[float, float]
# A sentence has at least so many words, and a stop.
SENTENCE = 4
_DIGIT = re.compile(r"\d")
_CODE = frozenset("{}[];=<>#*\\|_")
_MATHS = frozenset("=+−×÷±∑∏∫√≤≥≈≠∂∇∞∈⎛⎝⎜⎞⎠⎟⎡⎣⎢⎤⎦⎥")


@dataclass(slots=True)
class RowFacts:
    """One entry a row: top, bottom, size of its text, whether it falls into parts, whether it does so where
    one of the next rows in parts does, overlaps the row above and stands beside it, is bold, reads as prose,
    names a table, may name one by any word, is one part with the number of a section, is a sentence; the
    share of numbers and of bold words; its text.
    """

    y0: Floats
    y1: Floats
    size: Floats
    parts: Bools
    aligned: Bools
    beside: Bools
    bold: Bools
    prose: Bools
    named: Bools
    called: Bools
    section: Bools
    sentence: Bools
    numbers: Floats
    bold_share: Floats
    texts: list[str]


@dataclass(slots=True, eq=False)
class Strip:
    """A part of the page with its rows, from left to right x0 to x1.

    `index` holds their words row by row, `starts` where each row begins in it (rows + 1); `numeric` which
    words are numbers, `digits` which of these have digits; `sums` (words + 1, 6) how many words before each
    are numbers, mathematics, of fixed pitch, led up to by leaders, in fields of forms, parts of programs;
    `tight` the positions of words right before others, without a blank between; `seams` how strong the seams
    of stretches of rows are that were asked for (`seam_strengths`), `outside` the rows right above and
    below it.
    """

    layout: PageLayout
    x0: float
    x1: float
    rows: list[Row]
    index: Ints
    starts: Ints
    numeric: Bools
    digits: Bools
    sums: Floats
    tight: Ints
    facts: RowFacts
    seams: dict[tuple[int, int], Floats] = field(default_factory=dict)
    outside: tuple[At | None, At | None] | None = None
    _profiles: dict[tuple[float, float], Profile | None] = field(default_factory=dict)

    def profile(self, x0: float, x1: float) -> Profile | None:
        """Return where the text between x0 and x1 stands, row by row; None where there is none."""
        key = (x0, x1)
        if key not in self._profiles:
            rows, at = self.rows, np.arange(len(self.rows))
            if key != (-np.inf, np.inf):
                w = self.layout.words
                middle = (w.x0[self.index] + w.x1[self.index]) / 2
                inside = (middle >= x0) & (middle <= x1)
                rows = rows_of(self.layout, self.index[inside])
                at = distinct(np.repeat(at, np.diff(self.starts))[inside])
            em = median(self.layout.words.size[self.index])
            self._profiles[key] = profile_of(self.layout, rows, at, em) if rows else None
        return self._profiles[key]


# A row of a strip, by its number.
At = tuple[Strip, int]


def strip_of(layout: PageLayout, part: Ints) -> Strip:
    """Return the strip that some words make, given in page order; at least one."""
    w = layout.words
    rows = rows_of(layout, part)
    index = np.array([i for r in rows for i in r.words], dtype=np.int64)
    starts = np.append(0, np.cumsum([len(r.words) for r in rows]))
    words = [w.texts[i] for i in index.tolist()]
    numeric = np.array([is_numeric(t) for t in words], dtype=np.bool_)
    digits = np.zeros(len(words), dtype=np.bool_)
    digits[numeric] = [_DIGIT.search(words[i]) is not None for i in np.flatnonzero(numeric).tolist()]
    fixed = np.array([f.fixed_pitch for f in layout.ink.fonts] or [False], dtype=np.bool_)[w.font[index]]
    maths = np.array([not _MATHS.isdisjoint(t) for t in words], dtype=np.bool_)
    held = np.zeros(len(w), dtype=np.bool_)
    for area in layout.fields:
        held[area.words] = True
    code = np.array([not _CODE.isdisjoint(t) for t in words], dtype=np.bool_)
    sums = np.zeros((len(index) + 1, 6))
    seen = (numeric, maths, fixed, w.led[index], held[index], code)
    np.cumsum(np.stack(seen, axis=1), axis=0, out=sums[1:])
    x0, x1 = float(w.x0[part].min()), float(w.x1[part].max())
    facts = _facts(layout, rows, index, starts, sums[:, 0], x1 - x0)
    tight = tight_pairs(layout, index)
    return Strip(layout, x0, x1, rows, index, starts, numeric, digits, sums, tight, facts)


def is_sentence(text: str) -> bool:
    """Return whether a text has the words and the stop of a sentence."""
    return text[-1:] in ".:;" and text.count(" ") >= SENTENCE - 1


def _facts(
    layout: PageLayout, rows: list[Row], index: Ints, starts: Ints, numbers: Floats, width: float
) -> RowFacts:
    w = layout.words
    bold = np.array([f.bold for f in layout.ink.fonts] or [False], dtype=np.float64)[w.font[index]]
    counts = np.diff(starts)
    share = np.add.reduceat(bold, starts[:-1]) / counts
    texts = [" ".join([w.texts[i] for i in r.words]) for r in rows]
    parts = np.array([len(r.spans) > 1 for r in rows], dtype=np.bool_)
    upright = layout.rules.upright
    for k in np.flatnonzero(~parts).tolist() if len(upright) else ():
        r = rows[k]
        middle = (r.y0 + r.y1) / 2
        cuts = upright.at[(upright.low < middle) & (upright.high > middle)]
        cuts = cuts[(cuts > r.x0) & (cuts < r.x1)]
        if len(cuts):
            x0, x1 = w.x0[r.words], w.x1[r.words]
            parts[k] = bool(((x0[:, None] < cuts) & (x1[:, None] > cuts)).any(axis=0).sum() < len(cuts))
    x0, x1, y0, y1 = (np.array(side) for side in zip(*((r.x0, r.x1, r.y0, r.y1) for r in rows), strict=True))
    gaps = beside_gaps(x0, x1, y0, y1, layout.em)
    beside = np.zeros(len(rows), dtype=np.bool_)
    beside[[*gaps]] = True
    parts |= beside
    aligned = _aligned(rows, gaps, parts, SHARED * layout.em)
    # What stands beside labels at mid height is no running text.
    edge = min((high for _, high in gaps.values()), default=np.inf) - UNDER * layout.em
    return RowFacts(
        y0, y1,
        np.maximum.reduceat(w.size[index], starts[:-1]), parts, aligned, beside, share == 1.0,
        np.array([r.x0 < edge and is_prose_line(r, width) for r in rows], dtype=np.bool_),
        np.array([bool(NAMED.match(t)) for t in texts], dtype=np.bool_),
        np.array([names_table(t) for t in texts], dtype=np.bool_),
        ~parts & np.array([bool(SECTION.match(t)) for t in texts], dtype=np.bool_),
        np.array([is_sentence(t) for t in texts], dtype=np.bool_),
        np.diff(numbers[starts]) / counts, share, texts,
    )  # fmt: skip


def beside_gaps(x0: Floats, x1: Floats, y0: Floats, y1: Floats, em: float) -> dict[int, Gap]:
    """Return which of some rows, given by their sides from top to bottom, overlap the row before them and
    stand beside it, as labels at mid height of several lines do, each with the gap between the two.
    """
    low, high = np.minimum(x1[1:], x1[:-1]), np.maximum(x0[1:], x0[:-1])
    level = np.minimum(y1[1:], y1[:-1]) - np.maximum(y0[1:], y0[:-1]) > LEVEL * em
    at = np.flatnonzero(level & (high - low > SPAN_GAP * em))
    return dict(zip((at + 1).tolist(), zip(low[at].tolist(), high[at].tolist(), strict=True), strict=True))


def _aligned(rows: list[Row], beside: dict[int, Gap], parts: Bools, shared: float) -> Bools:
    """Which rows in parts have a gap that stands above or below one of the nearest such rows, by so much."""
    out = parts & np.array([len(r.spans) == 1 for r in rows], dtype=np.bool_)
    out[[*beside]] = False
    spoken = [k for k in np.flatnonzero(parts).tolist() if len(rows[k].spans) > 1 or k in beside]
    gaps = [
        [*((a[1], b[0]) for a, b in pairwise(rows[k].spans)), *([beside[k]] if k in beside else [])]
        for k in spoken
    ]
    for i, k in enumerate(spoken):
        for j in range(i + 1, min(i + 1 + NEAR, len(spoken))):
            if not (out[k] and out[spoken[j]]) and _meet(gaps[i], gaps[j], shared):
                out[k] = out[spoken[j]] = True
    return out


def _meet(a: list[Gap], b: list[Gap], shared: float) -> bool:
    return any(
        min(p[1], q[1]) - max(p[0], q[0]) > min(shared, MOST_OF * min(p[1] - p[0], q[1] - q[0]))
        for p in a
        for q in b
    )
