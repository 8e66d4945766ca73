"""How alike words, labels and phrases are: word forms and small misspellings allowed, digits never."""

from __future__ import annotations

import functools
import re
import unicodedata
from collections.abc import Sequence
from dataclasses import dataclass

# A phrase stands where its words are as alike as this on average.
ALIKE = 0.8
# Labels at least so alike name one thing.
SAME_LABEL = 0.75
# One slip in so many letters is forgiven, in running text and in labels.
SLIP, LABEL_SLIP = 4, 6
# A match is ambiguous where another is as good but for so much.
CLOSE = 0.08
# Endings that make forms of one word, in English and German; what is left has so many letters.
_ENDINGS = frozenset(["", "s", "es", "ed", "d", "ing", "ings", "er", "ers", "e", "en", "n", "ies", "y"])
_STEM = 3
_WORD = re.compile(r"\w+(?:[.,'’]\w+)*")


@dataclass(frozen=True, slots=True)
class Stand:
    """Where a phrase stands in a text: characters `start` to `end` (exclusive), and how alike, 0..1."""

    score: float
    start: int
    end: int


@dataclass(frozen=True, slots=True)
class Match:
    """What a wanted label was matched with: the place of the found label (None for none), how alike they
    are, and how alike the best of the others that were left over is.
    """

    found: int | None
    score: float
    runner_up: float = 0.0

    @property
    def ambiguous(self) -> bool:
        """Whether another label would have done nearly as well; the very label leaves no doubt."""
        return self.found is not None and self.score < 1 and self.runner_up > self.score - CLOSE


@functools.lru_cache(maxsize=65536)
def plain_word(text: str) -> str:
    """Return a word without capitals and accents."""
    parts = unicodedata.normalize("NFKD", text.casefold())
    return "".join(c for c in parts if not unicodedata.combining(c))


def word_likeness(a: str, b: str, slip: int = SLIP) -> float:
    """Return how alike two plain words are, 0..1; those with digits are equal or have nothing in common.

    In `slip` letters there may be one that is wrong, missing or too many, and no more than two in all.

    >>> word_likeness("charges", "charge"), word_likeness("1998", "1999")
    (0.95, 0.0)
    """
    if a == b:
        return 1.0
    if any(c.isdigit() for c in a + b):
        return 0.0
    shared = 0
    while shared < min(len(a), len(b)) and a[shared] == b[shared]:
        shared += 1
    if shared >= _STEM and a[shared:] in _ENDINGS and b[shared:] in _ENDINGS:
        return 0.95
    from rapidfuzz.distance import OSA

    room = min(len(a) // slip, len(b) // slip, 2)
    slips = OSA.distance(a, b, score_cutoff=room)
    return 1 - slips / max(len(a), len(b)) if slips <= room else 0.0


def has_words(phrase: str) -> bool:
    """Return whether a phrase holds a word, so that it can stand anywhere."""
    return _WORD.search(phrase) is not None


def stands(phrase: str, text: str, least: float = ALIKE) -> list[Stand]:
    """Return where a phrase stands in a text, from its start on; no two overlap.

    Every word of the phrase must be there, one behind the other; `least` is what their likeness must be on
    average, 0..1. A phrase without words stands nowhere.
    """
    wanted = [plain_word(word) for word in _WORD.findall(phrase)]
    found = [(plain_word(m[0]), m.start(), m.end()) for m in _WORD.finditer(text)]
    out: list[Stand] = []
    k = 0
    while wanted and k + len(wanted) <= len(found):
        scores = []
        for word, (other, _, _) in zip(wanted, found[k : k + len(wanted)], strict=True):
            scores.append(word_likeness(word, other))
            if not scores[-1]:
                break
        score = sum(scores) / len(wanted)
        if scores[-1] and score >= least:
            out.append(Stand(score, found[k][1], found[k + len(wanted) - 1][2]))
            k += len(wanted)
        else:
            k += 1
    return out


def label_likeness(a: str, b: str) -> float:
    """Return how alike two labels are, 0..1: the share of their letters that stand in words which both have,
    in whatever order; numbers in them must agree.

    >>> label_likeness("Amount due", "amount_due"), label_likeness("Year 2023", "Year 2024")
    (1.0, 0.0)
    """
    one, other = (_words_of(text) for text in (a, b))
    if [w for w in one if w.isdigit()] != [w for w in other if w.isdigit()]:
        return 0.0
    if not one or not other:
        return float(" ".join(a.split()) == " ".join(b.split()))
    left, shared = list(other), 0.0
    for word in one:
        # Short labels differ by a letter and mean something else: a slip needs a longer word than in text.
        alike, best = max(((word_likeness(word, w, LABEL_SLIP), w) for w in left), default=(0.0, ""))
        if alike:
            left.remove(best)
            shared += alike * (len(word) + len(best))
    return shared / sum(map(len, one + other))


def matched(
    wanted: Sequence[Sequence[str]],
    found: Sequence[str],
    least: float = SAME_LABEL,
    favour: Sequence[Sequence[float]] | None = None,
) -> list[Match]:
    """Match wanted things, each with all its names, with found labels: all at once, each label used once.

    The sum of likenesses is the largest there can be (Kuhn 1955); pairs less alike than `least` are none.
    `favour` takes something off the likeness of each pair (0..1 for each wanted and found) for other
    evidence, such as values of the wrong kind.
    """
    if not wanted or not found:
        return [Match(None, 0.0) for _ in wanted]
    import numpy as np
    from scipy.optimize import linear_sum_assignment

    scores = np.array(
        [[max((label_likeness(n, f) for n in names), default=0.0) for f in found] for names in wanted]
    )
    if favour is not None:
        scores = scores * np.asarray(favour)
    scores[scores < least] = 0.0
    rows, columns = linear_sum_assignment(scores, maximize=True)
    given = {int(r): int(c) for r, c in zip(rows, columns, strict=True) if scores[r, c] > 0}
    out = []
    for k in range(len(wanted)):
        c = given.get(k)
        if c is None:
            out.append(Match(None, float(scores[k].max())))
            continue
        others = [float(scores[k, j]) for j in range(len(found)) if j not in given.values()]
        out.append(Match(c, float(scores[k, c]), max(others, default=0.0)))
    return out


@functools.lru_cache(maxsize=65536)
def _words_of(text: str) -> tuple[str, ...]:
    return tuple(plain_word(word) for word in re.findall(r"[^\W_]+|%", text))
