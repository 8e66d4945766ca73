"""Numbers that are written otherwise than those of their column: what reads pictures loses points, and takes
them for commas.
"""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Sequence

# A column is of a kind where so many of its texts, and this share of them, are.
LEAST, MOSTLY = 4, 0.75
# Digits between which separators of thousands stand.
THOUSANDS = 3

_NUMBER = re.compile(r"[-+−–—(]?\s?[$€£¥]?\s?\d[\d.,:]*")
_SEPARATOR = re.compile(r"[.,:]")


def odd_numbers(texts: Sequence[str]) -> list[bool]:
    """Return which texts of a column are numbers, or have digits, and are not written as most numbers there:
    with another separator before their last digits, or more or fewer of these. Numbers without one are odd
    where those of the others part thousands only if they are as large.
    """
    tails = [_tail(text) for text in texts]
    counted = [tail for tail in tails if tail is not None]
    digits = sum(any(char.isdigit() for char in text) for text in texts)
    usual, count = Counter(counted).most_common(1)[0] if counted else (("", 0), 0)
    parted = {tail for tail in counted if tail[0]}
    if len(parted) == 1 and max(parted)[1] == THOUSANDS:
        # Thousands are parted only where there are some.
        usual, count = max(parted), len(counted)
    if count < LEAST or count < MOSTLY * max(digits, 1):
        return [False] * len(texts)
    return [
        any(char.isdigit() for char in text) and tail != usual and not _is_small(text, tail, usual)
        for text, tail in zip(texts, tails, strict=True)
    ]


def _tail(text: str) -> tuple[str, int] | None:
    """The last separator of the number with which a text begins, and how many digits follow it; ("", 0) where
    it has none; None where the text begins with no number.
    """
    found = _NUMBER.match(text)
    if found is None:
        return None
    number = found[0].rstrip(".,:")
    parts = _SEPARATOR.split(number)
    return (number[-len(parts[-1]) - 1], len(parts[-1])) if len(parts) > 1 else ("", 0)


def _is_small(text: str, tail: tuple[str, int] | None, usual: tuple[str, int]) -> bool:
    """Whether a number has no thousands to be parted, as others of its column have."""
    return tail == ("", 0) and usual[1] == THOUSANDS and sum(char.isdigit() for char in text) <= THOUSANDS
