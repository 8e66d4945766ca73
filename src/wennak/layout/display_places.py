"""Where equations are displayed on a page.

A display is text without words of prose that holds a sign of relation, an operator or the rule of a fraction,
in fonts or with characters that only mathematics uses; it is set apart from the text above and below it, and
in from its edge unless it has a number. What has rules or columns as tables have is none.
"""

from __future__ import annotations

import functools
import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from ..equations import NAMES, OPERATORS, RELATIONS
from ..ink import Bools, Floats, Glyphs, Ints, PageInk, TextKind, connected, distinct, median
from ..model import Box
from .words import Words

# A gap this wide (em) ends a span of words; parts of one display stand at most so far apart (em).
SPAN_GAP, ASIDE = 0.8, 3.0
# What stands at most so far (em) above or below a part of a display belongs to it; lines of a system follow
# each other within this (em).
ABOVE, SYSTEM = 0.55, 1.4
# A display keeps this distance (em) from prose above and below it, and from the edge of its column.
CLEAR, INDENT = 0.3, 1.0
# One that fills its column has so much more room (em) above and below than lines of text have.
ROOM = 0.25
# Prose so near (em) above or below tells where the column begins.
AROUND = 12.0
# At least this share of its characters are in fonts of mathematics or such as only it uses.
SHARE = 0.2
# So many words of prose may stand in a display: "if", "otherwise", "for all".
WORDS = 4
# Rules as wide as this share of the whole above and below it, or one this much longer (em), are those of a
# table. They stand at most so far (em) above the first row and below the last.
WHOLE, LONGER, NEAR = 0.85, 1.0, 0.4
# A page with more spans of words is none of equations, and more rules are none of theirs: all pairs are
# looked at.
MOST = 1500
# No rule of an equation is longer than this (em).
LONGEST = 60.0
# So wide (em) are the gaps between columns of a table, which stand at most that far apart; its rows, at least
# so many, follow each other within this (em).
COLUMNS, FAR, MIN_ROWS, LINES = 1.2, 20.0, 3, 2.5

# Fonts for mathematics alone, by their names.
_FONTS = re.compile(
    r"^((cm|lm|mt|tx|px|rtx|rpx|nx|ntx|fp|mdb|mdp|mdu|stix)?-?(mi|mib|sy|bsy|ex|mia|sya|syb|exa|lmi)\d*"
    r"|lmmath|msam|msbm|eu[fsr][mb]|rsfs|stmary|esint|wasy|bbm|dsrom|zptmcm|cmm|cmsy|cmex"
    r"|symbol|standardsym|stix(nonuni|size|integ|varia))|math",
    re.I,
)
_STRONG = (OPERATORS | RELATIONS | frozenset("∂∇√∞∀∃∧∨∪∩⊕⊗∘ℝℂℕℤℚℏℓ⎛⎝⎞⎠⎡⎣⎤⎦⎧⎨⎩")) - frozenset("=<>|→←⇒⇔~∼")
# The number of an equation.
EQUATION = re.compile(r"^\(([A-Z]\.?)?\d{1,3}([.–-]\d{1,3})*[a-z]?[′']?\)$")
# The mark of an item.
_ITEM = re.compile(r"^(\(?([a-z]|[ivx]{1,4})\)|\d{1,2}[.)]|[•◦▪–—-])$")
_FUNCTIONS = re.compile("|".join(sorted(NAMES, key=len, reverse=True)))
_LETTERS = re.compile(r"[^\W\d_]+")
# Three variables, as no word has them: with a differential, or a capital behind another letter.
_PRODUCT = re.compile(r"\d*(?:[^\W\d_]d[r-vx-z]|[^\W\d_][A-Z][^\W\d_]|[^\W\d_][a-z][A-Z])")


@dataclass(frozen=True, slots=True)
class DisplayPlace:
    """The box of an equation, the size of its symbols, and the box of its number with what that says."""

    box: Box
    size: float
    label: Box | None = None
    number: str = ""


@dataclass(slots=True)
class _Spans:
    """Stretches of words without a wide gap: box, size, number of words of prose, letters and digits, all
    characters, and how many of them are mathematical; whether one relates, what it says where it may be
    the number of an equation, and whether it begins as an item of a list does.
    """

    x0: Floats
    x1: Floats
    y0: Floats
    y1: Floats
    size: Floats
    prose: Ints
    letters: Ints
    length: Ints
    signs: Ints
    relates: Bools
    numbers: list[str]
    items: list[bool]

    @property
    def middle(self) -> Floats:
        """The height of the middle of each."""
        return (self.y0 + self.y1) / 2

    @property
    def numbered(self) -> Bools:
        """Which may be the number of an equation."""
        return np.array([bool(text) for text in self.numbers])

    @property
    def free(self) -> Bools:
        """Which are neither that nor hold prose."""
        found: Bools = (self.prose == 0) & ~self.numbered
        return found

    def box(self, members: Sequence[int] | Ints) -> Box:
        """Return the box around some of them."""
        return Box(
            float(self.x0[members].min()), float(self.y0[members].min()),
            float(self.x1[members].max()), float(self.y1[members].max()),
        )  # fmt: skip


def mathematical(ink: PageInk) -> Bools:
    """Return which glyphs are in a font of mathematics, or characters that only it uses; none where all of
    these are bullets, dashes and the like.
    """
    g = ink.glyphs
    fonts = np.array([_is_for_mathematics(f.name) for f in ink.fonts] or [False])
    own = np.array([_is_mathematical(text) for text in ink.texts.strings] or [False])
    found: Bools = g.visible & (fonts[g.font] | own[g.text])
    telling = found & (own[g.text] | (ink.texts.kind[g.text] == TextKind.LETTER))
    return found if telling.any() else telling


@functools.lru_cache(1000)
def _is_for_mathematics(font: str) -> bool:
    return bool(_FONTS.search(font))


@functools.lru_cache(10_000)
def _is_mathematical(text: str) -> bool:
    return text in _STRONG or "\U0001d400" <= text[:1] <= "\U0001d7ff"


def find_display_places(ink: PageInk, words: Words, signs: Bools, rules: Floats) -> list[DisplayPlace]:
    """Return where equations are displayed; `signs` marks the mathematical glyphs, `rules` are the level
    lines of the page as rows of x0, x1 and y.
    """
    spans = _spans(ink, words, signs)
    if len(spans.x0) > MOST:
        return []
    upright = _upright_rules(ink)
    clusters = [c for c in _clusters(spans, rules, _pieces(ink)) if _is_clear(spans, c)]
    clusters = [c for c in clusters if not _is_column(spans, c)]
    mathematics = [c for c in clusters if spans.signs[c].sum() >= SHARE * spans.length[c].sum()]
    numbers = {}
    for k, cluster in enumerate(mathematics):
        if (number := _number_of(spans, spans.box(cluster), cluster)) is not None:
            numbers[k] = number
    shown = [
        (cluster, numbers.get(k))
        for k, cluster in enumerate(mathematics)
        if _says_something(spans, cluster, rules) or k in numbers
    ]
    systems = _systems(spans, shown, mathematics)
    out = []
    for members, number in (part for system in systems for part in _numbered_apart(spans, *system)):
        size = float(spans.size[members].max())
        box = _grown(spans.box(members), size)
        if not _is_indented(spans, box, members, number) or _has_columns(spans, members):
            continue
        if _is_ruled(box, rules, upright, size):
            continue
        label = None if number is None else spans.box([number])
        out.append(DisplayPlace(box, size, label, "" if number is None else spans.numbers[number]))
    return out


def _grown(box: Box, size: float) -> Box:
    """A box with room for rules over and under what stands in it."""
    room = 0.3 * size
    return Box(box.x0 - 0.5, box.y0 - room, box.x1 + 0.5, box.y1 + room)


def _spans(ink: PageInk, words: Words, signs: Bools) -> _Spans:
    w, g = words, ink.glyphs
    head = np.ones(len(w), dtype=np.bool_)
    head[1:] = (w.row[1:] != w.row[:-1]) | (w.x0[1:] - w.x1[:-1] > SPAN_GAP * w.size[1:]) | w.turned[1:]
    starts = np.flatnonzero(head)
    letter = ink.texts.kind[g.text] == TextKind.LETTER
    held = _count(w, g, signs)
    length = np.array([len(text) for text in w.texts])
    # One or two letters in italics, products of three, and what bears scripts or is set upright and in
    # italics are mathematics in any font.
    slanted = np.array([f.italic for f in ink.fonts] or [False])[g.font]
    italic = _count(w, g, slanted & g.visible & letter)
    letters = np.array([sum(map(str.isalpha, text)) for text in w.texts])
    mixed = (italic > 0) & (italic < letters)
    product = np.array([bool(_PRODUCT.fullmatch(text)) for text in w.texts]) & (italic == letters)
    variable = w.scripted | mixed | ((italic > 0) & (letters <= 2)) | product
    variable |= _count(w, g, signs & letter) > 0
    held = np.where(variable, length, held)
    # What is set in fixed pitch is code.
    fixed = np.array([f.fixed_pitch and not _is_for_mathematics(f.name) for f in ink.fonts] or [False])
    code = fixed[w.font] & (letters > 0)
    prose = np.array([_is_prose(text) for text in w.texts], dtype=np.bool_) & ~variable | code
    relates = np.array([not RELATIONS.isdisjoint(t) or not OPERATORS.isdisjoint(t) for t in w.texts])
    said = np.array([sum(map(str.isalnum, text)) for text in w.texts])
    ends = np.append(starts[1:], len(w))
    alone = [w.texts[a] if b - a == 1 else "" for a, b in zip(starts.tolist(), ends.tolist(), strict=True)]
    size = np.maximum.reduceat(w.size, starts)
    y0, y1 = np.minimum.reduceat(w.y0, starts), np.maximum.reduceat(w.y1, starts)
    return _Spans(
        np.minimum.reduceat(w.x0, starts), np.maximum.reduceat(w.x1, starts), y0, y1, size,
        np.add.reduceat(prose.astype(np.int64), starts) + w.turned[starts],
        np.add.reduceat(said, starts), np.add.reduceat(length, starts), np.add.reduceat(held, starts),
        np.logical_or.reduceat(relates, starts),
        [text if EQUATION.match(text) else "" for text in alone],
        [bool(_ITEM.match(w.texts[k])) for k in starts.tolist()],
    )  # fmt: skip


def _count(words: Words, glyphs: Glyphs, which: Bools) -> Ints:
    """How many of some glyphs stand in each word."""
    x, y = ((glyphs.x0 + glyphs.x1) / 2)[which], ((glyphs.y0 + glyphs.y1) / 2)[which]
    order = np.argsort(y, kind="stable")
    x, y = x[order], y[order]
    out = np.zeros(len(words), dtype=np.int64)
    first, last = np.searchsorted(y, words.y0), np.searchsorted(y, words.y1)
    for k in np.flatnonzero(first < last).tolist():
        beside = x[first[k] : last[k]]
        out[k] = np.count_nonzero((beside > words.x0[k]) & (beside < words.x1[k]))
    return out


def _is_prose(text: str) -> bool:
    """Whether a word is one of running text: three letters or more that are no name of a function, or any of
    a script that mathematics does not use.
    """
    letters = max(_LETTERS.findall(text), key=len, default="")
    if any("\u0400" <= c < "\u2000" or "\u2e80" <= c < "\U0001d400" for c in letters):
        return True
    return len(_FUNCTIONS.sub("", letters)) > 2 and not _is_mathematical(letters)


def _pieces(ink: PageInk) -> Floats:
    """Rows of x0, x1, y0, y1 of glyphs that say nothing by themselves, as pieces of tall brackets do."""
    g = ink.glyphs
    silent = g.take(g.visible & (ink.texts.length[g.text] == 0) & (g.mark >= 0))
    found: Floats = np.stack((silent.x0, silent.x1, silent.y0, silent.y1)).T
    return found


def _clusters(spans: _Spans, rules: Floats, pieces: Floats) -> list[Ints]:
    """Spans without prose that stand beside, above or below each other, or a rule or a piece of a bracket
    among them, with the few words between them.
    """
    free = np.flatnonzero(spans.free)
    if not len(free):
        return []
    x0, x1, y0, y1, size = (getattr(spans, name)[free] for name in ("x0", "x1", "y0", "y1", "size"))
    # A rule holds together what stands over, under and beside it.
    rules = rules[rules[:, 1] - rules[:, 0] < LONGEST * size.max()]
    rules, pieces = (things if len(things) <= MOST else things[:0] for things in (rules, pieces))
    usual = median(size)
    x0 = np.concatenate((x0, rules[:, 0], pieces[:, 0]))
    x1 = np.concatenate((x1, rules[:, 1], pieces[:, 1]))
    y0 = np.concatenate((y0, rules[:, 2] - usual / 2, pieces[:, 2]))
    y1 = np.concatenate((y1, rules[:, 2] + usual / 2, pieces[:, 3]))
    size = np.concatenate((size, np.full(len(rules) + len(pieces), usual)))
    em = np.maximum(size[:, None], size[None, :])
    across = np.maximum(x0[:, None], x0[None, :]) - np.minimum(x1[:, None], x1[None, :])
    down = np.maximum(y0[:, None], y0[None, :]) - np.minimum(y1[:, None], y1[None, :])
    near = ((across < ASIDE * em) & (down < -0.2 * em)) | ((across < 0) & (down < ABOVE * em))
    a, b = np.nonzero(np.triu(near, 1))
    number = connected(a, b, len(size))[: len(free)]
    out = []
    for k in distinct(number).tolist():
        members = free[number == k]
        if spans.signs[members].any():
            out.append(_with_words(spans, members))
    return out


def _with_words(spans: _Spans, members: Ints) -> Ints:
    """A cluster with what stands in its box or right behind it at the height of one of its lines: words of
    text in an equation.
    """
    for _ in range(2):
        box = spans.box(members)
        em = float(spans.size[members].max())
        level = (spans.middle > box.y0) & (spans.middle < box.y1) & ~spans.numbered
        inside = (
            level & (spans.x0 > box.x0 - 0.1 * em) & (spans.x0 < box.x1 + 1.6 * em) & (spans.prose <= WORDS)
        )
        grown = np.flatnonzero(inside | np.isin(np.arange(len(spans.x0)), members))
        if len(grown) == len(members):
            break
        members = grown
    return members


def _is_clear(spans: _Spans, members: Ints) -> bool:
    """Whether prose above and below a cluster keeps its distance, and none stands beside it."""
    box, em = spans.box(members), float(spans.size[members].max())
    others = spans.prose > 0
    others[members] = False
    near = (spans.y0 < box.y1 + CLEAR * em) & (spans.y1 > box.y0 - CLEAR * em)
    near &= (spans.x0 < box.x1 + 0.5 * em) & (spans.x1 > box.x0 - 0.5 * em)
    return not (others & near).any()


def _is_column(spans: _Spans, members: Ints) -> bool:
    """Whether something stands far beside several lines of a cluster, or of what is right above and below
    it, so that it is a column of a table.
    """
    box, em = spans.box(members), float(spans.size[members].max())
    middle, free = spans.middle, spans.free
    near = free & (spans.x0 < box.x1) & (spans.x1 > box.x0)
    near &= (spans.y0 < box.y1 + LINES * em) & (spans.y1 > box.y0 - LINES * em)
    apart = (spans.x0 > box.x1 + ASIDE * em) | (spans.x1 < box.x0 - ASIDE * em)
    apart &= free & (spans.x0 < box.x1 + FAR * em) & (spans.x1 > box.x0 - FAR * em)
    level = np.abs(middle[near][:, None] - middle[apart]) < 0.1 * em
    return len(distinct(np.round(middle[near][level.any(axis=1)] / (0.5 * em)))) >= MIN_ROWS


def _says_something(spans: _Spans, members: Ints, rules: Floats) -> bool:
    """Whether a cluster of several symbols, not all of them signs, relates, operates, or has the rule of a
    fraction.
    """
    if spans.length[members].sum() < 3 or not spans.letters[members].any():
        return False
    if spans.items[members[np.argmin(spans.x0[members])]]:
        return False
    box = spans.box(members)
    x0, x1, y = rules.T
    barred = (x0 > box.x0 - 1) & (x1 < box.x1 + 1) & (y > box.y0) & (y < box.y1)
    return bool(spans.relates[members].any() or barred.any())


def _number_of(spans: _Spans, box: Box, members: Ints) -> int | None:
    """The span that is the number of an equation: at the side, at the height of one of its lines."""
    best, least = None, np.inf
    for k, text in enumerate(spans.numbers):
        middle = (spans.y0[k] + spans.y1[k]) / 2
        if not text or not box.y0 < middle < box.y1:
            continue
        right = spans.x0[k] > box.x1
        gap = float(spans.x0[k] - box.x1 if right else box.x0 - spans.x1[k])
        low, high = (box.x1, spans.x0[k]) if right else (spans.x1[k], box.x0)
        between = (spans.x0 < high) & (spans.x1 > low) & (spans.y0 < middle) & (spans.y1 > middle)
        between[members] = between[k] = False
        if 0 < gap < least and not between.any():
            best, least = k, gap
    return best


def _systems(
    spans: _Spans, shown: Sequence[tuple[Ints, int | None]], mathematics: Sequence[Ints]
) -> list[tuple[Ints, int | None]]:
    """Displays right below each other as one, unless each has a number; lines between that only go on belong
    to them.
    """
    alone = {id(cluster) for cluster, _ in shown}
    lines = [*shown, *((c, None) for c in mathematics if id(c) not in alone)]
    lines.sort(key=lambda line: (spans.box(line[0]).y0, spans.box(line[0]).x0))
    out: list[tuple[Ints, int | None, bool]] = []
    for members, number in lines:
        sure = id(members) in alone
        if out and (sure or out[-1][2]):
            before, earlier, said = out[-1]
            if (number is None or earlier is None) and _goes_on(spans, before, members):
                joined = number if earlier is None else earlier
                out[-1] = np.concatenate((before, members)), joined, said or sure
                continue
        out.append((members, number, sure))
    return [(members, number) for members, number, sure in out if sure]


def _numbered_apart(spans: _Spans, members: Ints, number: int | None) -> Iterator[tuple[Ints, int | None]]:
    """A display with several numbers as one for each, parted where most room is between them."""
    box = spans.box(members)
    middle = spans.middle
    level = (middle > box.y0) & (middle < box.y1) & spans.numbered
    numbers = np.flatnonzero(level)
    if number is None or len(numbers) < 2:
        yield members, number
        return
    # Numbers that stand far from this one are those of another column.
    numbers = numbers[np.abs(spans.x1[numbers] - spans.x1[number]) < spans.size[number]]
    numbers = numbers[np.argsort(middle[numbers])]
    rest = members
    for a, b in pairwise(numbers.tolist()):
        between = rest[
            (middle[rest] > middle[a] - spans.size[a]) & (middle[rest] < middle[b] + spans.size[b])
        ]
        order = between[np.argsort(middle[between])]
        if len(order) < 2:
            break
        gaps = spans.y0[order][1:] - np.maximum.accumulate(spans.y1[order])[:-1]
        k = int(np.argmax(gaps))
        cut = (middle[order[k]] + middle[order[k + 1]]) / 2
        above = rest[middle[rest] < cut]
        if len(above):
            yield above, a
        rest = rest[middle[rest] >= cut]
    if len(rest):
        yield rest, int(numbers[-1])


def _goes_on(spans: _Spans, above: Ints, below: Ints) -> bool:
    a, b = spans.box(above), spans.box(below)
    em = float(max(spans.size[above].max(), spans.size[below].max()))
    if not (a.y1 - em < b.y0 < a.y1 + SYSTEM * em and a.x0 < b.x1 and b.x0 < a.x1):
        return False
    between = (spans.y0 < b.y0) & (spans.y1 > a.y1) & (spans.prose > 0)
    between &= (spans.x0 < max(a.x1, b.x1)) & (spans.x1 > min(a.x0, b.x0))
    return not between.any()


def _is_indented(spans: _Spans, box: Box, members: Ints, number: int | None) -> bool:
    """Whether an equation without a number begins in from the text above and below it."""
    if number is not None:
        return True
    em = float(spans.size[members].max())
    near = (spans.prose > 1) & (spans.y0 < box.y1 + AROUND * em) & (spans.y1 > box.y0 - AROUND * em)
    near &= (spans.x0 < box.x1) & (spans.x1 > box.x0)
    near[members] = False
    if not near.any() or box.x0 - float(spans.x0[near].min()) > INDENT * em:
        return True
    # One as wide as its column has more room above and below than the lines of the text have.
    tight = _room(spans, near)
    own = spans.box(members)
    above, below = near & (spans.y1 < own.y0 + 0.3 * em), near & (spans.y0 > own.y1 - 0.3 * em)
    gaps = [own.y0 - float(spans.y1[above].max())] if above.any() else []
    gaps += [float(spans.y0[below].min()) - own.y1] if below.any() else []
    return bool(gaps) and min(gaps) > tight + ROOM * em


def _room(spans: _Spans, near: Bools) -> float:
    """The usual room between lines of prose that follow each other; 0 where no two do."""
    order = np.flatnonzero(near)
    order = order[np.argsort(spans.y0[order], kind="stable")]
    gaps = spans.y0[order][1:] - spans.y1[order][:-1]
    gaps = gaps[(gaps > 0) & (gaps < 2 * spans.size[order][1:])]
    return median(gaps) if len(gaps) else 0.0


def _is_ruled(box: Box, rules: Floats, upright: Floats, em: float) -> bool:
    """Whether rules around or among something are those of a table or a frame."""
    x0, x1, y = rules.T
    near = NEAR * em
    beside = (y > box.y0 - near) & (y < box.y1 + near) & (x0 < box.x1) & (x1 > box.x0)
    length = x1 - x0
    if (beside & (length > box.x1 - box.x0 + LONGER * em)).any():
        return True
    wide = y[beside & (length > WHOLE * (box.x1 - box.x0))]
    if (wide < box.y0 + near).any() and (wide > box.y1 - near).any():
        return True
    x, top, bottom = upright.T
    return bool(((x > box.x0 - 3 * em) & (x < box.x1 + 3 * em) & (top < box.y1) & (bottom > box.y0)).any())


def _upright_rules(ink: PageInk) -> Floats:
    """Rows of x and both ends of the upright lines of a page."""
    s, f = ink.strokes, ink.fills
    upright = (np.abs(s.x1 - s.x0) < 0.5) & (np.abs(s.y1 - s.y0) > 4)
    tall = (f.x1 - f.x0 < 2) & (f.y1 - f.y0 > 4)
    x = np.concatenate((s.x0[upright], f.x0[tall]))
    top = np.concatenate((np.minimum(s.y0, s.y1)[upright], f.y0[tall]))
    bottom = np.concatenate((np.maximum(s.y0, s.y1)[upright], f.y1[tall]))
    found: Floats = np.stack((x, top, bottom)).T
    return found


def _has_columns(spans: _Spans, members: Ints) -> bool:
    """Whether three lines or more are parted at one place by wide gaps, as rows of a table are."""
    em = float(spans.size[members].max())
    if (spans.y1[members] - spans.y0[members] > 2 * em).any():
        # Tall brackets hold what stands in columns.
        return False
    lines = distinct(np.round((spans.y0[members] + spans.y1[members]) / 2 / em))
    if len(lines) < MIN_ROWS:
        return False
    order = members[np.argsort(spans.x0[members])]
    reach = np.maximum.accumulate(spans.x1[order])
    return any(
        spans.x0[b] - r > COLUMNS * em for r, (_, b) in zip(reach.tolist(), pairwise(order), strict=False)
    )
