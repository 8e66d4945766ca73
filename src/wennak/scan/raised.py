"""Small signs that stand raised behind a letter or a number: figures of powers, letters of notes."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from ..ink import Floats, Ints
from .marks import Marks
from .numerals import Sign
from .recogniser import Read
from .sizes import SMALL, TOPS

# A raised sign stands this far above the baseline, and is at least and at most so high (heights of capitals);
# no more than so many stand together, this near to what is before them.
LIFT, HIGH, MOST, NEAR = 0.28, (0.36, 0.8), 2, 0.3
# What is at least this share of the height of capitals stands on the baseline.
TALL = 0.6
# A figure is told by its looks where it is this sure, and is then as sure as this; what is read of a letter
# is as sure as this at most, and nothing where it is less sure than the last of these.
TOLD, SURE, MAYBE, LEAST = 0.8, 0.9, 0.84, 0.4
# Letters that may stand raised, as notes have them. Degrees, quotation marks and apostrophes stand as high,
# and are left as they are read; a raised letter looks like 0 as often as not.
LETTERS = frozenset("abcdefghijklmnpqrstuvwxyz*")
# This one stands high in its line by itself.
STAR = "*"
_FIGURES, _OTHERS = "123456789", "°'"
# What recognisers may choose from; without figures, they say nothing of some letters.
ALPHABET = "0123456789abcdefghijklmnopqrstuvwxyz*"
# What is narrower than this (share of its height), and lower than this (heights of capitals) or followed
# closely, is a quotation mark or an apostrophe within a word.
NARROW, QUOTE = 0.55, 0.5


@dataclass(frozen=True, slots=True)
class Raised:
    """Marks of one raised sign, and what they say; nothing where that is not known."""

    own: Ints
    text: str
    sure: float


def raised_marks(marks: Marks, own: Ints, capital: float) -> list[Ints]:
    """Return the marks of each raised sign of a piece, whose marks come from left to right; `capital` is the
    height of its capitals in pixels.
    """
    tall = own[marks.h[own] >= TALL * capital]
    if not len(tall):
        return []
    baseline = float(np.quantile(marks.y1[tall], 0.5, method="higher"))
    lifted = marks.y1[own] < baseline - LIFT * capital
    out: list[Ints] = []
    k = 0
    while k < len(own):
        end = k
        while end < len(own) and lifted[end]:
            end += 1
        if 0 < end - k <= MOST and k > 0 and _stands_alone(marks, own, k, end, capital):
            out += [own[n : n + 1] for n in range(k, end)]
        k = max(end, k + 1)
    return out


def _stands_alone(marks: Marks, own: Ints, begin: int, end: int, capital: float) -> bool:
    """Whether marks are as high as raised signs, follow another closely, and stand over none."""
    group = own[begin:end]
    low, high = (share * capital for share in HIGH)
    if (marks.h[group] < low).any() or (marks.h[group] > high).any():
        return False
    x0, x1 = int(marks.x0[group].min()), int(marks.x1[group].max())
    others = np.concatenate((own[:begin], own[end:]))
    before = int(marks.x1[own[:begin]].max())
    goes_on = end < len(own) and marks.x0[own[end]] - x1 <= NEAR * capital
    narrow = marks.w[group] < NARROW * marks.h[group]
    quote = (narrow & ((marks.h[group] < QUOTE * capital) | goes_on)).any()
    over = (marks.x0[others] < x1 - 1) & (marks.x1[others] > x0 + 1)
    return bool(not quote and not over.any() and x0 - before <= NEAR * capital)


def told(
    groups: Sequence[Ints], looks: Callable[[Ints], list[Sign]], read: Callable[[Ints], Read]
) -> list[Raised]:
    """Return what raised signs say: figures by their looks, letters as they are read by themselves."""
    out = []
    for own in groups:
        signs = looks(own)
        seen = signs[0].text if len(signs) == 1 else ""
        if seen and seen in _FIGURES and signs[0].sure >= TOLD:
            out.append(Raised(own, seen, SURE))
            continue
        said = Read() if seen and seen in _OTHERS else read(own)
        known = len(said.texts) == 1 and said.texts[0] in LETTERS and said.sure[0] >= LEAST
        out.append(Raised(own, said.texts[0] if known else "", min(MAYBE, *said.sure) if known else 0.0))
    return [sign for sign in out if sign.text]


def without_raised(read: Read, marks: Marks, raised: Sequence[Raised]) -> Read:
    """Return what was read without what lies on raised signs."""
    out = Read()
    for text, x0, x1, sure, blank in zip(read.texts, read.x0, read.x1, read.sure, read.blank, strict=True):
        if _on(raised, marks, (x0 + x1) / 2) is None:
            out.put(text, x0, x1, sure, blank)
    return out


def with_raised(read: Read, marks: Marks, raised: Sequence[Raised]) -> Read:
    """Return what was read with raised signs where they stand."""
    rows = list(zip(read.texts, read.x0, read.x1, read.sure, read.blank, strict=True))
    for sign in raised:
        x0, x1 = float(marks.x0[sign.own].min()), float(marks.x1[sign.own].max())
        at = sum((row[1] + row[2]) / 2 < x0 for row in rows)
        rows.insert(at, (sign.text, x0, x1, sign.sure, False))
    out = Read()
    for row in rows:
        out.put(*row)
    return out


def set_raised(
    texts: Sequence[str],
    x: Floats,
    baseline: Floats,
    size: Floats,
    marks: Marks,
    raised: Sequence[Raised],
) -> None:
    """Set baseline and size (em) of characters that are raised signs, given the middle of each."""
    for k, text in enumerate(texts):
        sign = _on(raised, marks, float(x[k]))
        if sign is not None and sign.text == text != STAR:
            top = TOPS["x"] if text in SMALL else TOPS["X"]
            baseline[k] = float(marks.y1[sign.own].max())
            size[k] = float(marks.h[sign.own].max()) / top


def _on(raised: Sequence[Raised], marks: Marks, middle: float) -> Raised | None:
    return next((s for s in raised if marks.x0[s.own].min() - 1 <= middle <= marks.x1[s.own].max() + 1), None)
