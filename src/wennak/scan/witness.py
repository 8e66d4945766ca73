"""Two readings of numbers: what the recogniser says, and what their signs look like one by one."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from ..ink import Ints
from .marks import Marks
from .numerals import Sign
from .recogniser import Read

# A number whose digits do not look like what is said, or on which looks differ where nothing else tells, is
# at most this sure; one with a digit that looks like it, but hardly, at most so sure.
DISPUTED, UNCONFIRMED = 0.55, 0.94
# A sign is told from its looks alone where it is this sure, against what is said where so sure; a digit
# is seen clearly from here on.
TOLD, AGAINST, CLEAR = 0.9, 0.97, 0.8
# How sure a sign is that only its looks tell of, and one that is not to be seen.
SEEN, UNSEEN = 0.9, 0.5
# Signs between digits are told by their looks; recognisers judge them by what they would expect.
BETWEEN = ".,:'()-"
_DASHES = "-–—−"
POINTS = ".,"
DIGITS = "0123456789"
NUMBER = DIGITS + ".,-"
# A figure in brackets may be read as one sign, as of a right or a mark.
BRACKETS = "()"
# Short words that recognisers know are at least this sure; what is less, and looks like a number, is one.
WORDS = 0.97
# A letter may look like so many signs that are no digits, and like so many of any kind.
MOST_SIGNS, MOST_ANY = 3, 2
# What has no more characters than this may be a number, whatever was read.
SHORT = 4
# Points of a page are commas where at least so many are read as such, and where they look more like one than
# the least likely of these (per cent), if these are this share of all. Where most look more like a comma than
# the next (logarithm of odds), in thousands than the last, a point that looks more like one than the last is
# one: poor commas look like points, but points look even more so. Commas of one page differ by less than the
# one after that.
FEW, MANY, LIKE = 2, 0.25, 5.0
LEAN, LEAST, UNLIKE = -2.0, -4.0, 3.0
# Thousands are parted by so many digits.
THOUSANDS = 3
# Characters of another look belong to a word where their middle lies on it, or this share of it beside.
SLACK = 0.05


@dataclass(frozen=True, slots=True)
class Opinion:
    """A reading of a line, its numbers as they look; which share of these look like what is said (1 where
    there are none), and whether another look could tell more. `points` are the characters that are the only
    point or comma of a number, each with how much more it looks like a comma (logarithm of odds).
    """

    read: Read
    alike: float
    settled: bool
    points: Sequence[tuple[int, float]] = ()


def judged(read: Read, looks: Callable[[Ints], list[Sign]], marks: Marks, own: Ints) -> Opinion:
    """Return what looks say of a reading of a line with some marks; `looks` tells the signs that marks look
    like.
    """
    out = Read()
    alike: list[bool] = []
    points: list[tuple[int, float]] = []
    settled = True
    for a, b in read.words():
        word = read.texts[a:b]
        digits = any(text in DIGITS for text in word)
        if not digits and len(word) > SHORT:
            _copy(read, a, b, out)
            continue
        signs = looks(_of_word(read, a, b, marks, own))
        if not digits:
            # What looks like a number throughout may be one, and a sign alone may be another.
            number = bool(signs) and all(s.text in NUMBER + BRACKETS and s.sure > TOLD for s in signs)
            if number and min(read.sure[a:b]) < WORDS and any(s.text in DIGITS for s in signs):
                alike.append(False)
                settled = False
                for n, sign in enumerate(signs):
                    out.put(sign.text, sign.x0, sign.x1, DISPUTED, read.blank[a] and not n)
                continue
            settled &= not number and "".join(word).isalpha()
            _copy(read, a, b, out)
            continue
        found = spans(word, signs)
        alike.append(found is not None)
        if found is None:
            _copy(read, a, b, out, DISPUTED)
            settled = False
        else:
            # What is hardly seen may be another sign after all.
            settled &= all(sign.sure >= CLEAR for sign in signs if sign.text in DIGITS)
            begin = len(out.texts)
            _put(read, a, b, signs, found, out)
            put = [k for k in range(begin, len(out.texts)) if out.texts[k] in POINTS]
            seen = [sign.comma for sign in signs if sign.text in POINTS]
            if len(put) == len(seen) == 1:
                points.append((put[0], seen[0]))
    return Opinion(out, sum(alike) / len(alike) if alike else 1.0, settled, points)


def _copy(read: Read, a: int, b: int, out: Read, most: float = 1.0) -> None:
    for k in range(a, b):
        out.put(read.texts[k], read.x0[k], read.x1[k], min(read.sure[k], most), read.blank[k])


def _of_word(read: Read, a: int, b: int, marks: Marks, own: Ints) -> Ints:
    """The marks that stand nearer to a word than to those beside it."""
    low = (read.x1[a - 1] + read.x0[a]) / 2 if a else float("-inf")
    high = (read.x1[b - 1] + read.x0[b]) / 2 if b < len(read.texts) else float("inf")
    middle = (marks.x0[own] + marks.x1[own]) / 2
    found: Ints = own[(middle > low) & (middle < high)]
    return found


def spans(word: Sequence[str], signs: Sequence[Sign]) -> list[tuple[int, int]] | None:
    """Return from which sign to which each character of a word reaches, except those that stand between
    digits; None where its digits are others than those that are seen.
    """
    at = [k for k, sign in enumerate(signs) if sign.text not in BETWEEN]
    seen = [signs[k].text for k in at]
    # Where what was said so far may end, with where its last character began then.
    ends: list[dict[int, int]] = [{0: -1}]
    for text in word:
        if not _is_between(text):
            following: dict[int, int] = {}
            for begin in ends[-1]:
                for end in _ends(text, seen, begin):
                    following.setdefault(end, begin)
            ends.append(following)
    end = len(seen)
    if end not in ends[-1]:
        return None
    found = []
    for before in reversed(ends[1:]):
        begin = before[end]
        found.append((at[begin] if begin < len(at) else len(signs), at[end - 1] + 1 if end > begin else -1))
        end = begin
    return [(first, max(first, last)) for first, last in reversed(found)]


def _ends(text: str, seen: Sequence[str], begin: int) -> Iterator[int]:
    """Where a character may end that begins at a sign: a digit looks like itself, another character like some
    signs that are no digits, or like one or two of any kind.
    """
    if text in DIGITS:
        if seen[begin : begin + 1] == [text]:
            yield begin + 1
        return
    yield from range(begin + 1, min(begin + MOST_ANY, len(seen)) + 1)
    for end in range(begin, min(begin + MOST_SIGNS, len(seen)) + 1):
        if not any(sign in DIGITS for sign in seen[begin:end]):
            yield end


def _is_between(text: str) -> bool:
    return text in BETWEEN or text in _DASHES


def _put(
    read: Read, a: int, b: int, signs: Sequence[Sign], places: Sequence[tuple[int, int]], out: Read
) -> None:
    """Put a word whose digits are borne out, with the signs between them that are seen."""
    begins = read.blank[a]
    said: list[int] = []
    after, before = 0, ""
    spot = iter([*places, (len(signs), len(signs))])
    for k in [*range(a, b), b]:
        if k < b and _is_between(read.texts[k]):
            said.append(k)
            continue
        first, last = next(spot)
        char = read.texts[k] if k < b else ""
        # Where one of two letters ends is not known; signs are told beside digits and ends of words only.
        told = all(side in DIGITS for side in (before, char))
        for text, x0, x1, sure in _between(read, said, signs[after:first] if told else None):
            out.put(text, x0, x1, sure, begins)
            begins = False
        if char:
            own = signs[first:last]
            x0, x1 = (own[0].x0, own[-1].x1) if own else (read.x0[k], read.x1[k])
            out.put(char, x0, x1, min(read.sure[k], _most(char, own)), begins)
            begins = False
        said, after, before = [], last, char


def _most(text: str, signs: Sequence[Sign]) -> float:
    """How sure a character can be that looks like some signs."""
    if text in DIGITS:
        return UNCONFIRMED if signs[0].sure < CLEAR else 1.0
    # Letters look like digits often enough; a stroke between digits may be one.
    digit = not text.isalpha() and any(sign.text in DIGITS for sign in signs)
    return DISPUTED if digit else 1.0


def _between(
    read: Read, said: Sequence[int], seen: Sequence[Sign] | None
) -> Iterator[tuple[str, float, float, float]]:
    """The signs between two characters, with their places and how sure they are: those that are said, as they
    are seen if that is known.
    """
    if seen is None:
        for k in said:
            yield read.texts[k], read.x0[k], read.x1[k], read.sure[k]
        return
    # A comma is not always seen to be one; recognisers take points for commas nearly never.
    same = dict.fromkeys(_DASHES, "-") | dict.fromkeys(POINTS, ".")
    words = [same.get(read.texts[k], read.texts[k]) for k in said]
    if words == [same.get(sign.text, sign.text) for sign in seen]:
        for k, sign in zip(said, seen, strict=True):
            comma = sign.text == "," and sign.sure > TOLD
            yield "," if comma else read.texts[k], sign.x0, sign.x1, read.sure[k]
    elif seen and min(sign.sure for sign in seen) > (AGAINST if said else TOLD):
        for sign in seen:
            yield sign.text, sign.x0, sign.x1, SEEN
    elif said or not all(sign.text in POINTS for sign in seen):
        for k in said:
            yield read.texts[k], read.x0[k], read.x1[k], min(read.sure[k], UNSEEN)
    else:
        for sign in seen:
            yield sign.text, sign.x0, sign.x1, DISPUTED


def with_commas(opinions: Sequence[Opinion]) -> None:
    """Make points of the numbers of a page commas, where some are read as commas and they look like these, or
    most look more like commas than points do.

    Poor commas are taken for points as often as not, points hardly ever for commas. Numbers with three digits
    at the end have points and commas of their own: where these are commas, those of other numbers are points
    unless they look as these do.
    """
    parted = -np.inf
    for thousands in (True, False):
        odds: dict[str, list[float]] = {point: [] for point in POINTS}
        where = []
        for opinion in opinions:
            for k, comma in opinion.points:
                if (_digits_after(opinion.read, k) == THOUSANDS) == thousands:
                    odds[opinion.read.texts[k]].append(comma)
                    where.append((opinion.read, k, comma))
        if len(odds[","]) < FEW:
            continue
        lean = np.median([comma for *_, comma in where]) > (
            LEAST if thousands else max(LEAN, parted - UNLIKE)
        )
        if thousands and len(odds[","]) > len(odds["."]):
            parted = float(np.median(odds[","]))
        if not lean and len(odds[","]) < MANY * len(where):
            continue
        like = float(np.percentile(odds[","], LIKE))
        for read, k, comma in where:
            if read.texts[k] == "." and comma >= (min(like, LEAST) if lean else like):
                read.texts[k] = ","
                if comma < like:
                    # Commas of this page do not look like any; nor does this.
                    read.sure[k] = min(read.sure[k], DISPUTED)


def _digits_after(read: Read, k: int) -> int:
    after = itertools.takewhile(
        lambda n: not read.blank[n] and read.texts[n].isdigit(), range(k + 1, len(read.texts))
    )
    return sum(1 for _ in after)


def dispute(read: Read, others: Sequence[Read]) -> None:
    """Doubt the words of a line on which looks at it differ, where there are digits in any of these."""
    for a, b in read.words():
        low, high = read.x0[a], max(read.x1[a:b])
        said = {_said(look, low, high) for look in (read, *others)}
        if len(said) > 1 and any(char.isdigit() for word in said for char in word):
            read.sure[a:b] = [min(sure, DISPUTED) for sure in read.sure[a:b]]


def _said(read: Read, low: float, high: float) -> str:
    slack = SLACK * (high - low)
    return "".join(
        text
        for text, x0, x1 in zip(read.texts, read.x0, read.x1, strict=True)
        if low - slack < (x0 + x1) / 2 < high + slack
    )
