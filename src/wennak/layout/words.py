"""Glyphs -> words and the rows of words that share a baseline.

All distances are in em of the text at hand.
"""

from __future__ import annotations

import unicodedata
from dataclasses import dataclass, field

import numpy as np

from ..ink import Bools, Floats, Glyphs, Ints, PageInk, TextKind, Texts, looked_up, median
from ..model import Box
from .joining import MARKER

# A gap wider than this is a blank. Kerning stays below 0.1 em; the tightest blank of justified text is
# about 0.18 em (a third of an em, shrunk by a half).
WORD_GAP = 0.15
# So does a narrower gap that is so many times as wide as those beside it: in table cells with hardly any room
# between them. Kerning and italic corrections are smaller, but for one in a thousand pages.
TIGHT_GAP, STANDS_OUT = 0.11, 3.0
# Blanks between words are seldom wider than this (em). Where this share of those of a page is drawn as such,
# what has none before it stands by itself.
USUAL_GAP, DRAWN = 0.36, 0.6
# Of a font's own blank, this share already separates words.
SPACE_SHARE = 0.5
# Letters set apart evenly, at least so many and by at most this (em), are one word spaced out.
TRACKED_LETTERS = 5
MAX_TRACKING = 0.6
# So many dots in a row are a leader; so many where they end this near (em) to where two leaders end.
LEADER_DOTS, SHORT_LEADER, SAME_END = 5, 3, 0.5
# A gap between dots that is wider than the next one by more than this (em) parts them.
UNEVEN = 0.8
# Glyphs this far off the baseline of the glyph before them begin a new piece.
BASELINE_SHIFT = 0.12
# Rows of words closer than this share a baseline: rounding, and fonts set on a slightly shifted line.
ROW_SHIFT = 0.25
# Superscripts and subscripts are at most of this size (em of their word), and in reach of it; what is larger
# than the first of these touches it, within so much (em).
SCRIPT_SIZE, LARGE_SCRIPT, TOUCHES = 0.87, 0.96, 0.15
# Subscripts are lowered by less than this (em of their word).
SCRIPT_DROP = 0.55
# What reaches so far below where it is set (em) hangs from there; the middle of a line is so far above its
# baseline (em).
HANGS, AXIS = 0.6, 0.25


# Where a superscript or subscript begins and ends in its word, and whether it is raised.
Script = tuple[int, int, bool]


@dataclass(slots=True)
class Words:
    """Words in rows from top to bottom, in a row from left to right; one entry of each array a word.

    x0..y1: box; baseline: y of the row's baseline; size: em of the largest part; font: index of the font
    of the first glyph, -1 for what stands in place of something else; row: number of its row; turned: its
    text does not run from left to right; mark: index of the marked content of the first glyph; drawn:
    when that glyph is drawn, counted in glyphs; lead, trail: how many of its first and last characters
    are raised above the line as a superscript; scripted: a part of it is smaller, raised or lowered; led:
    a dotted leader runs up to it; letter: it begins with a letter; spaced: a blank is drawn between it and
    the word before; apart: none is, nor the mark of an item before it, though the page draws its blanks;
    sure: how sure its least sure character is; texts: the characters. `scripts` gives, for words that have
    some, where their superscripts and subscripts begin and end, and whether each is raised.
    """

    x0: Floats
    y0: Floats
    x1: Floats
    y1: Floats
    baseline: Floats
    size: Floats
    font: Ints
    row: Ints
    turned: Bools
    mark: Ints
    drawn: Ints
    lead: Ints
    trail: Ints
    scripted: Bools
    led: Bools
    letter: Bools
    spaced: Bools
    apart: Bools
    sure: Floats
    texts: list[str]
    scripts: dict[int, list[Script]] = field(default_factory=dict)

    def __len__(self) -> int:
        return len(self.texts)

    def inside(self, box: Box) -> Bools:
        """Return whether the middle of each word lies in a box."""
        x, y = (self.x0 + self.x1) / 2, (self.y0 + self.y1) / 2
        found: Bools = (x > box.x0) & (x < box.x1) & (y > box.y0) & (y < box.y1)
        return found


def find_words(ink: PageInk) -> Words:
    """Group the visible glyphs of a page into words (of an invisible text layer if nothing else is there)."""
    glyphs = ink.glyphs
    seen = glyphs.visible if glyphs.visible.any() else np.ones(len(glyphs), dtype=np.bool_)
    # Glyphs that say nothing (accents that went to their letter) are neither drawn text nor blanks.
    if not len(glyphs):
        return _no_words()
    kind = looked_up(ink.texts.kind, glyphs.text)
    leader = _leaders(glyphs, kind, looked_up(ink.texts.length, glyphs.text))
    blank = (kind == TextKind.BLANK) | leader
    use = np.flatnonzero(seen & (kind > TextKind.BLANK) & ~blank)
    if not len(use):
        return _no_words()
    g = glyphs if len(use) == len(glyphs) else glyphs.take(use)
    blank_before = np.zeros(len(g), dtype=np.bool_)
    # A blank drawn between two glyphs parts them even where the gap is narrow.
    blanks = np.concatenate(([0], np.cumsum(blank & seen)))
    blank_before[1:] = blanks[use[1:]] > blanks[use[:-1] + 1]
    led = np.zeros(len(g), dtype=np.bool_)
    if leader.any():
        leaders = np.concatenate(([0], np.cumsum(leader & seen)))
        led[1:] = leaders[use[1:]] > leaders[use[:-1] + 1]
    upright = np.abs(g.angle) < 10
    space = looked_up(np.array([f.space for f in ink.fonts] or [0.0]), g.font)
    limit = np.maximum(WORD_GAP, np.minimum(SPACE_SHARE * space, 0.3)) * g.size

    letter = kind[use] == TextKind.LETTER
    limit = _tracked_limits(g, limit, letter & upright, blank_before)
    near = np.where(upright, np.minimum(limit, TIGHT_GAP * g.size), limit)
    piece = _pieces(g.x, g.y, g.x1, g.size, g.angle, near, blank_before, upright)
    starts = np.flatnonzero(np.concatenate(([True], piece[1:] != piece[:-1])))
    size = np.maximum.reduceat(g.size, starts)
    x0, x1 = np.minimum.reduceat(g.x0, starts), np.maximum.reduceat(g.x1, starts)
    y0, y1 = np.minimum.reduceat(g.y0, starts), np.maximum.reduceat(g.y1, starts)
    turned = ~upright[starts]
    own_baseline = np.where(turned, y1, _baselines(ink, g, starts, (x0, y0, x1, y1), size))
    baseline = _script_baselines(x0, x1, own_baseline, size, turned)
    shifted = baseline != own_baseline
    raised = baseline - own_baseline > BASELINE_SHIFT * size
    order, row = _rows(x0, baseline, size)

    # A piece set sideways holds its blanks, except the one before it.
    held = ~upright & blank_before
    held[1:] &= piece[1:] == piece[:-1]
    glyphs_of = np.diff(np.append(starts, len(g)))
    # Join neighbours in a row that no blank parts.
    x0, x1, y0, y1 = x0[order], x1[order], y0[order], y1[order]
    size, baseline, turned = size[order], baseline[order], turned[order]
    gap = np.full(len(order), np.inf)
    reach = _running_right(x1, row)
    gap[1:] = x0[1:] - reach[:-1]
    parted = blank_before[starts][order]
    head = (gap > limit[starts][order]) | (gap < -0.6 * size) | parted | turned
    head |= np.concatenate(([True], (row[1:] != row[:-1]) | turned[:-1]))
    tight = np.flatnonzero(~head & (gap > TIGHT_GAP * size))
    if len(tight):
        before, after = starts[order][tight - 1] + glyphs_of[order][tight - 1] - 1, starts[order][tight]
        solid = kind[use] != TextKind.DOT
        head[tight] = _stands_out(g, before, after, gap[tight], limit) & solid[before] & solid[after]
    at = np.flatnonzero(head)
    ends = np.append(at[1:], len(order))
    lengths = glyphs_of[order]
    # The blank at the end of a line stands before the next one, wherever that is.
    after = starts[order] == np.append(0, starts[order][:-1] + lengths[:-1])
    length = np.where(raised[order], lengths, 0)
    texts = _cut(ink.texts, g.text, held, starts[order], lengths, at)
    # Sizes and baselines of what was recognised in a picture are not exact.
    scripts = shifted[order] & (ink.source == "text")
    characters = np.add.reduceat(looked_up(ink.texts.length, g.text), starts)[order]
    spaced = (parted & after)[at]
    room = np.where(np.isinf(gap[at]), 0.0, gap[at]) / size[at]
    return Words(
        x0=np.minimum.reduceat(x0, at),
        y0=np.minimum.reduceat(y0, at),
        x1=np.maximum.reduceat(x1, at),
        y1=np.maximum.reduceat(y1, at),
        baseline=baseline[at],
        size=np.maximum.reduceat(size, at),
        font=g.font[starts][order][at],
        row=row[at],
        turned=turned[at],
        mark=g.mark[starts][order][at],
        drawn=starts[order][at],
        lead=length[at],
        trail=length[ends - 1],
        scripted=np.logical_or.reduceat(shifted[order], at)
        | (np.minimum.reduceat(size, at) < SCRIPT_SIZE * np.maximum.reduceat(size, at)),
        led=led[starts][order][at],
        letter=letter[starts][order][at],
        spaced=spaced,
        apart=_apart(texts, row[at], room, spaced, letter[starts][order][at]),
        sure=np.minimum.reduceat(np.minimum.reduceat(g.sure, starts)[order], at),
        texts=texts,
        scripts=_scripts(texts, characters, scripts, raised[order], at),
    )


def _apart(texts: list[str], row: Ints, room: Floats, spaced: Bools, letter: Bools) -> Bools:
    """Whether each word has no blank before it, on a page that draws its blanks: most of those between words
    that begin with letters, as numbers may all be in columns. `room` before each word is in em.
    """
    out = np.zeros(len(texts), dtype=np.bool_)
    inner = np.concatenate(([False], row[1:] == row[:-1])) & (room > 0)
    drawn = spaced[1:][(inner & (room < USUAL_GAP))[1:] & letter[1:] & letter[:-1]]
    if len(drawn) and drawn.mean() >= DRAWN:
        for k in np.flatnonzero(inner & ~spaced).tolist():
            out[k] = MARKER.match(texts[k - 1]) is None
    return out


def _scripts(
    texts: list[str], length: Ints, shifted: Bools, raised: Bools, at: Ints
) -> dict[int, list[Script]]:
    """The superscripts and subscripts of words that begin with the pieces `at`; of each piece its number of
    characters, and whether it leaves the baseline, and is raised, are given.
    """
    out: dict[int, list[Script]] = {}
    which = np.flatnonzero(shifted)
    if not len(which):
        return out
    before = np.cumsum(length) - length
    word = np.searchsorted(at, which, side="right") - 1
    first = before[which] - before[at[word]]
    rows = (word.tolist(), first.tolist(), (first + length[which]).tolist(), raised[which].tolist())
    for k, start, end, up in zip(*rows, strict=True):
        own = out.setdefault(k, [])
        if own and own[-1][1:] == (start, up):
            own[-1] = (own[-1][0], end, up)
        elif end <= len(texts[k]):
            own.append((start, end, up))
    return out


def raised_ends(words: Words) -> frozenset[str]:
    """Return the raised ends of the words of a page, which may be marks of notes: each of them, and of
    "1,2" both.
    """
    ends = [words.texts[i][-int(words.trail[i]) :] for i in np.flatnonzero(words.trail).tolist()]
    return frozenset(ends) | {part for end in ends for part in end.split(",")}


def _cut(texts: Texts, text: Ints, blank: Bools, first: Ints, count: Ints, at: Ints) -> list[str]:
    """The characters of words that begin with the pieces `at`, of pieces given by first glyph and count.

    `text` is the index into `texts` of each glyph, `blank` tells of a blank before it. Letters with combining
    marks become single characters where there are such.
    """
    bounds = np.concatenate(([0], np.cumsum(count)))
    glyph = np.repeat(first - bounds[:-1], count) + np.arange(len(text))
    edges = bounds[np.append(at, len(count))]
    # The page as one string of code points, in which a NUL stands before each word.
    index, blank = text[glyph], blank[glyph]
    own, start = texts.length[index], texts.start[index]
    length = own + blank
    length[edges[:-1]] += 1
    end = np.cumsum(length)
    place = end - own
    codes = np.zeros(end[-1], dtype="<u4")
    # Nearly all texts are one character.
    which, nth = np.arange(len(index)), 0
    while len(which):
        codes[place[which] + nth] = texts.codes[start[which] + nth]
        nth += 1
        which = which[own[which] > nth]
    codes[place[blank] - 1] = ord(" ")
    whole = codes.tobytes().decode("utf-32-le", "surrogatepass")
    if not unicodedata.is_normalized("NFC", whole):
        return [unicodedata.normalize("NFC", word) for word in whole.split("\0")[1:]]
    return whole.split("\0")[1:]


def _no_words() -> Words:
    f, i, b = np.empty(0), np.empty(0, dtype=np.int64), np.empty(0, dtype=np.bool_)
    return Words(f, f, f, f, f, f, i, i, b, i, i, i, i, b, b, b, b, b, f, [])


def _leaders(g: Glyphs, kind: Ints, length: Ints) -> Bools:
    """Dots in a row that lead the eye from a label to its value: they part like a blank and say nothing.

    `length` is the number of characters of each glyph: an ellipsis is three dots.
    """
    dot = kind == TextKind.DOT
    out = np.zeros(len(g), dtype=np.bool_)
    at = np.flatnonzero(dot)
    dots = length[at]
    if dots.sum() < LEADER_DOTS:
        return out
    step = g.x[at[1:]] - g.x[at[:-1]]
    em = g.size[at[1:]]
    linked = (np.abs(g.y[at[1:]] - g.y[at[:-1]]) < BASELINE_SHIFT * em) & (step > 0) & (step < 2.5 * em)
    run = linked
    for k in range(1, LEADER_DOTS - 1):
        run = run[:-1] & linked[k:]
    if not run.any() and dots.max() == 1:
        return out
    # Blanks may stand between the dots, other characters may not.
    others = np.cumsum(~dot & (kind > TextKind.BLANK))
    linked &= others[at[1:]] == others[at[:-1]]
    # Leaders are even: pairs of dots farther apart stand for what is missing, each in a column of its own.
    gap = np.where(linked, g.x[at[1:]] - g.x1[at[:-1]], np.inf)
    beside = np.minimum(np.append(np.inf, gap[:-1]), np.append(gap[1:], np.inf))
    linked &= ~(gap - np.where(linked, beside, 0.0) > UNEVEN * em)
    stretch = np.concatenate(([0], np.cumsum(~linked)))
    count = np.bincount(stretch, weights=dots)
    long = count >= LEADER_DOTS
    if long.sum() > 1:
        # The last dot of each row of dots.
        ends = at[np.append(np.flatnonzero(~linked), len(at) - 1)]
        x = g.x1[ends]
        near = np.abs(x[:, None] - x[long]) < SAME_END * g.size[ends, None]
        long |= (count >= SHORT_LEADER) & (near.sum(axis=1) > 1)
    out[at[long[stretch]]] = True
    return out


def _tracked_limits(g: Glyphs, limit: Floats, letter: Bools, blank: Bools) -> Floats:
    """Raise the limit where letters are spaced out evenly: there the blank is wider than that spacing.

    Only letters count: digits at even distances are columns, not a number.
    """
    if len(g) < TRACKED_LETTERS:
        return limit
    gap = g.x[1:] - g.x1[:-1]
    wide = (gap > limit[1:]) & (gap < MAX_TRACKING * g.size[1:])
    # Nearly no page has as many wide gaps in a row between letters.
    apart = wide & letter[1:] & letter[:-1]
    for _ in range(TRACKED_LETTERS - 2):
        apart = apart[1:] & apart[:-1]
    if not apart.any():
        return limit
    level = np.abs(g.y[1:] - g.y[:-1]) <= BASELINE_SHIFT * g.size[1:]
    linked = (
        level & (gap > -0.5 * g.size[1:]) & (gap < 2.5 * g.size[1:]) & letter[1:] & letter[:-1] & ~blank[1:]
    )
    stretch = np.concatenate(([0], np.cumsum(~linked)))
    # Stretches of letters in which every gap is wide.
    count = np.bincount(stretch[1:][linked], minlength=stretch[-1] + 1)
    wides = np.bincount(stretch[1:][linked & wide], minlength=stretch[-1] + 1)
    out = limit.copy()
    for k in np.flatnonzero((count >= TRACKED_LETTERS - 1) & (wides == count)).tolist():
        members = np.flatnonzero(stretch == k)
        gaps = gap[members[1:] - 1]
        usual = median(gaps)
        if np.mean(np.abs(gaps - usual) < 0.3 * usual) > 0.7:
            out[members] = 1.6 * usual
    return out


def _stands_out(g: Glyphs, before: Ints, after: Ints, gap: Floats, limit: Floats) -> Bools:
    """Whether gaps (points) between glyphs of one line are much wider than those next to them within words,
    of which there are some.
    """
    room = np.append(np.nan, g.x[1:] - g.x1[:-1])
    level = np.append(False, np.abs(g.y[1:] - g.y[:-1]) <= BASELINE_SHIFT * g.size[1:])
    inner = np.append(np.where(level & (np.abs(room) <= limit), np.abs(room), np.nan), np.nan)
    beside = np.fmax(inner[before], inner[after + 1])
    same = np.abs(g.y[after] - g.y[before]) <= BASELINE_SHIFT * g.size[after]
    same &= g.font[after] == g.font[before]
    wide: Bools = same & (gap > TIGHT_GAP * g.size[after]) & (gap > STANDS_OUT * beside)
    return wide


def _pieces(
    x: Floats,
    y: Floats,
    right: Floats,
    size: Floats,
    angle: Floats,
    limit: Floats,
    blank: Bools,
    upright: Bools,
) -> Ints:
    """Number the stretches of glyphs that follow each other in the stream without a gap."""
    em = np.minimum(size[1:], size[:-1])
    gap = x[1:] - right[:-1]
    follows = (np.abs(y[1:] - y[:-1]) <= BASELINE_SHIFT * em) & (gap <= limit[1:]) & (gap > -0.5 * em)
    follows &= ~blank[1:]
    if not upright.all():
        # Glyphs at other angles are held together by direction and distance alone.
        turned = ~upright[1:] & ~upright[:-1] & (np.hypot(x[1:] - x[:-1], y[1:] - y[:-1]) < 1.3 * em)
        follows = np.where(upright[1:], follows & upright[:-1], turned)
    same = follows & (np.abs(angle[1:] - angle[:-1]) < 1) & (em > 0.7 * np.maximum(size[1:], size[:-1]))
    return np.concatenate(([0], np.cumsum(~same)))


def _baselines(
    ink: PageInk, g: Glyphs, starts: Ints, box: tuple[Floats, Floats, Floats, Floats], size: Floats
) -> Floats:
    """The baseline of each piece: where its glyphs are set; of a radical with nothing to its right, which is
    a tick and hangs from there, where letters centred beside it would be set.
    """
    x0, y0, x1, y1 = box
    y = g.y[starts]
    hangs = (y1 - y > HANGS * size) & (y - y0 < BASELINE_SHIFT * size)
    for k in np.flatnonzero(hangs).tolist():
        level = k + 1 < len(y) and y0[k + 1] < y1[k] and y1[k + 1] > y0[k]
        alone = not level or abs(x0[k + 1] - x1[k]) > WORD_GAP * size[k]
        if alone and ink.texts.strings[g.text[starts[k]]] == "√":
            y[k] = (y0[k] + y1[k]) / 2 + AXIS * size[k]
    return y


def _script_baselines(x0: Floats, x1: Floats, baseline: Floats, size: Floats, turned: Bools) -> Floats:
    """Set raised and lowered small pieces on the baseline of the piece beside them in the stream, and scripts
    of scripts on that of the piece which these belong to.
    """
    base = np.arange(len(baseline))
    for step, here in (
        (1, np.flatnonzero(size[1:] < LARGE_SCRIPT * size[:-1]) + 1),
        (-1, np.flatnonzero(size[:-1] < LARGE_SCRIPT * size[1:])),
    ):
        there = here - step
        em = size[there]
        gap = x0[here] - x1[there] if step == 1 else x0[there] - x1[here]
        shift = baseline[here] - baseline[there]
        reach = np.where(size[here] < SCRIPT_SIZE * em, 0.4, TOUCHES) * em
        near = (gap > -0.3 * em) & (gap < reach) & ~turned[here] & ~turned[there]
        near &= (shift > -0.75 * em) & (shift < SCRIPT_DROP * em) & (base[here] == here)
        base[here[near]] = there[near]
    # What belongs to a piece is smaller than it: this ends.
    while not np.array_equal(base, base[base]):
        base = base[base]
    shifted = np.abs(baseline - baseline[base]) > BASELINE_SHIFT * size[base]
    return np.where(shifted, baseline[base], baseline)


def _rows(x0: Floats, baseline: Floats, size: Floats) -> tuple[Ints, Ints]:
    """Order of the pieces by row, then x; and the row of each piece in that order."""
    by_line = np.argsort(baseline, kind="stable")
    step = np.diff(baseline[by_line])
    em = np.minimum(size[by_line][1:], size[by_line][:-1])
    row_sorted = np.concatenate(([0], np.cumsum(step > ROW_SHIFT * em)))
    row = np.empty_like(row_sorted)
    row[by_line] = row_sorted
    order = np.lexsort((x0, row))
    return order, row[order]


def _running_right(x1: Floats, row: Ints) -> Floats:
    """The farthest right edge so far within each row."""
    span = float(x1.max() - x1.min()) + 1.0
    lifted = x1 + row * span * 2
    reach: Floats = np.maximum.accumulate(lifted) - row * span * 2
    return reach
