"""Scores of a document's text against its truth: words, order, headings."""

from __future__ import annotations

import math
from bisect import bisect, insort
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

from rapidfuzz.distance import Indel

from ..model import Document, Heading
from .grid import normal
from .metrics import rates


@dataclass(frozen=True, slots=True)
class TextScores:
    """Scores of a document in 0..1; None where there is nothing to judge by."""

    words: float
    similarity: float
    order: float | None
    headings: float | None
    levels: float | None


def text_scores(truth: Document, read: Document) -> TextScores:
    """Return the scores of all text of a document, tables included."""
    sides = [[normal(t) for t in document.texts()] for document in (truth, read)]
    words = [[w for text in side for w in text.split()] for side in sides]
    return TextScores(
        words=word_f1(*words),
        similarity=float(Indel.normalized_similarity(*words)),
        order=reading_order(*sides),
        headings=heading_f1(*(_headings(d) for d in (truth, read))),
        levels=level_agreement(*(_headings(d) for d in (truth, read))),
    )


def word_f1(truth: Sequence[str], read: Sequence[str]) -> float:
    """F1 of the bags of words.

    >>> word_f1(["a", "b"], ["b", "c"])
    0.5
    """
    a, b = Counter(truth), Counter(read)
    return rates((a & b).total(), a.total(), b.total()).f1


def reading_order(truth: Sequence[str], read: Sequence[str]) -> float | None:
    """Kendall's tau of the order of pieces of text that both sides hold exactly once, brought to 0..1 as
    (tau + 1) / 2; None with fewer than two of them.

    >>> reading_order(["a", "b", "c"], ["c", "b", "a"])
    0.0
    """
    counts = [Counter(side) for side in (truth, read)]
    both = [t for t in truth if t and counts[0][t] == 1 == counts[1][t]]
    if len(both) < 2:
        return None
    at = {text: k for k, text in enumerate(read)}
    before: list[int] = []
    discordant = 0
    for place in (at[text] for text in both):
        discordant += len(before) - bisect(before, place)
        insort(before, place)
    # No two have one place, so all pairs that are not discordant are concordant.
    return 1 - discordant / math.comb(len(both), 2)


def _headings(document: Document) -> list[tuple[int, str]]:
    return [(b.level, normal(b.text)) for b in document.blocks if isinstance(b, Heading)]


def heading_f1(truth: Sequence[tuple[int, str]], read: Sequence[tuple[int, str]]) -> float | None:
    """F1 of the texts of headings; None where neither side has any."""
    if not truth and not read:
        return None
    a, b = Counter(t for _, t in truth), Counter(t for _, t in read)
    return rates((a & b).total(), a.total(), b.total()).f1


def level_agreement(truth: Sequence[tuple[int, str]], read: Sequence[tuple[int, str]]) -> float | None:
    """Share of headings found whose rank among the levels in use is that of the truth; None without any."""
    ranks = []
    for side in (truth, read):
        levels = sorted({level for level, _ in side})
        ranks.append({text: levels.index(level) for level, text in side})
    both = ranks[0].keys() & ranks[1].keys()
    return sum(ranks[0][t] == ranks[1][t] for t in both) / len(both) if both else None
