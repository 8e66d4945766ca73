"""The picture of a page -> the same ink as that of a page that is drawn."""

from __future__ import annotations

import dataclasses

import numpy as np

from ..ink import (
    Fills,
    Floats,
    FontFacts,
    Glyphs,
    Ints,
    PageInk,
    Shapes,
    Strokes,
    TextTable,
    columns_of,
    turned,
)
from .leaders import with_leaders
from .light import even_light, smoothed
from .marks import Marks, find_marks, specks, without
from .orientation import runs_sideways, stands_on_head
from .picture import Grey, Mask
from .pieces import Pieces, find_pieces
from .recogniser import Recogniser
from .rows import in_rows
from .rulings import Rulings, find_rulings, with_posts
from .sizes import are_bold
from .straighten import find_skew, turned_by
from .tangles import find_tangles
from .threshold import inked, is_noisy
from .writing import Writing, read_pieces

# Box of a character above and below the baseline, in em.
ASCENT, DESCENT = 0.74, 0.22
# A blank in em, where fewer than so many of the page are there to tell it.
SPACE, BLANKS = 0.25, 20
# No page of writing has more marks than this.
MOST_MARKS = 40_000
# A mark this many times as high or wide as letters is drawn, not written.
DRAWN = 6.0
# Letters of a picture this sharp (dots an inch) can still be told from each other at half of it.
SHARP = 190.0
# A noisy page is smoothed by this (mm, deviation of a Gaussian) before ink is told from ground.
SMOOTH = 0.115


def read_picture(ink: PageInk, grey: Grey, recogniser: Recogniser) -> PageInk:
    """Return the page with what its picture shows: characters, rules and shades.

    `grey` is the whole page as seen, its writing level or at quarter turns. Coordinates are those of the page
    with the picture turned level about its middle.
    """
    dpi = grey.shape[1] / ink.width * 72
    # Half of the resolution tells lines from columns as well.
    small, half = (grey[::2, ::2], dpi / 2) if dpi > SHARP else (grey, dpi)
    turns = int(runs_sideways(find_marks(_inked(small, half)[1], half)))
    while True:
        upright = np.ascontiguousarray(np.rot90(grey, turns))
        page = _read_upright(turned(ink, turns), upright, recogniser)
        if turns > 1 or not stands_on_head(page, upright, recogniser):
            return turned(page, (4 - turns) % 4)
        turns += 2


def _read_upright(ink: PageInk, grey: Grey, recogniser: Recogniser) -> PageInk:
    """The same of a page whose writing runs from left to right."""
    dpi = grey.shape[1] / ink.width * 72
    skew = find_skew(grey)
    seen, dark, shades = _inked(turned_by(grey, skew), dpi)
    rulings, marks, pieces = _pieces(seen, dark, dpi)
    tangles = find_tangles(pieces.boxes)
    if len(tangles):
        for x0, y0, x1, y1 in tangles.astype(np.int64).tolist():
            dark[y0:y1, x0:x1] = False
        rulings, marks, pieces = _pieces(seen, dark, dpi)
        said = f"a part of the picture of page {ink.number} is noise or scribble, and was not read"
        ink.notes.append(("not-written", said))
    floors = _walls(rulings.level, dark.shape[::-1]).T
    writing = read_pieces(seen, rulings.ink, floors, marks, pieces, recogniser)
    writing = in_rows(with_leaders(writing, marks, pieces.dots, rulings.leaders), marks, pieces.of)
    page = _page(ink, shades, rulings, marks, pieces, writing, 72 / dpi)
    return dataclasses.replace(page, source="picture", turned=skew)


def _pieces(seen: Grey, dark: Mask, dpi: float) -> tuple[Rulings, Marks, Pieces]:
    """The rules of a page, its marks without them, and what stands on lines among these."""
    rulings = find_rulings(seen, dark, find_marks(dark, dpi).height, dpi)
    marks = find_marks(dark & ~rulings.ink, dpi)
    marks = without(marks, specks(marks))
    if len(marks) > MOST_MARKS:
        # A screen of dots, or noise: nothing that is written.
        marks = without(marks, np.ones(len(marks), dtype=np.bool_))
    rulings, parts = with_posts(rulings, marks)
    marks = without(marks, parts)
    return rulings, marks, find_pieces(marks, _walls(rulings.upright, dark.shape))


def _inked(grey: Grey, dpi: float) -> tuple[Grey, Mask, Floats]:
    """A page in even light, sharp; its ink, such that noise hides nothing; and its shades."""
    lit = even_light(grey, dpi)
    dark = inked(lit.grey)
    if not is_noisy(lit.grey):
        return lit.grey, dark, lit.shades
    # Noise would break letters and hide rules. The recogniser sees through it, and reads what is sharp.
    smooth = even_light(smoothed(grey, SMOOTH / 25.4 * dpi), dpi)
    # Points are too small to stay dark where a page is smoothed.
    return lit.grey, dark | inked(smooth.grey), smooth.shades


def _walls(upright: Floats, shape: tuple[int, ...]) -> Mask:
    """The pixels of upright lines (rows of at, low, high, thickness)."""
    walls = np.zeros(shape, dtype=np.bool_)
    for at, low, high, _ in upright.tolist():
        walls[int(low) : int(high), int(min(at, shape[1] - 1))] = True
    return walls


def _page(
    ink: PageInk,
    shades: Floats,
    rulings: Rulings,
    marks: Marks,
    pieces: Pieces,
    writing: Writing,
    scale: float,
) -> PageInk:
    """What was read, in points."""
    level, upright = rulings.level * scale, rulings.upright * scale
    strokes = np.concatenate(
        (
            np.stack((level[:, 1], level[:, 0], level[:, 2], level[:, 0], level[:, 3]), axis=1),
            np.stack((upright[:, 0], upright[:, 1], upright[:, 0], upright[:, 2], upright[:, 3]), axis=1),
        )
    )
    fills = [(*(side * scale for side in box[:4]), box[4], 1.0, 0.0) for box in shades.tolist()]
    loose = (pieces.of < 0) & ~pieces.dots & (np.maximum(marks.w, marks.h) > DRAWN * marks.height)
    shapes = [
        tuple(side * scale for side in box)
        for box in np.stack((marks.x0, marks.y0, marks.x1, marks.y1), axis=1)[loose].tolist()
    ]
    texts = TextTable.starting_with(ink.texts)
    return dataclasses.replace(
        ink,
        glyphs=_glyphs(writing, texts, len(ink.fonts), scale),
        strokes=columns_of(Strokes, [(*row, 0.0, 0.0) for row in strokes.tolist()]),
        fills=columns_of(Fills, fills),
        shapes=columns_of(Shapes, shapes),
        pictures=ink.pictures.take(np.empty(0, dtype=np.int64)),
        fonts=[*ink.fonts, *_fonts(usual_blank(writing))],
        texts=texts.columns(),
        marks=(),
        tree=None,
        owners=np.empty(0, dtype=np.int64),
    )


def usual_blank(writing: Writing) -> float:
    """Return the width of a blank of the page's text in em: of most that part words of level lines which are
    not in fixed pitch. Typefaces differ in it by a half.
    """
    begins = np.flatnonzero(writing.blank & (writing.angle == 0) & ~writing.fixed)
    if len(begins) < BLANKS:
        return SPACE
    return float(np.median((writing.x0[begins] - writing.x1[begins - 1]) / writing.size[begins]))


def _fonts(space: float) -> list[FontFacts]:
    """The fonts of what was recognised: by pitch and weight."""
    return [
        FontFacts(f"recognised{' fixed' * fixed}{' bold' * bold}", bold, False, fixed, space, "picture")
        for fixed in (False, True)
        for bold in (False, True)
    ]


def _glyphs(writing: Writing, texts: TextTable, font: int, scale: float) -> Glyphs:
    """Characters as glyphs, with the blanks between words as glyphs of their own."""
    n = len(writing)
    # A blank stands before the character that begins a word, from the end of the word before it.
    at = np.sort(np.concatenate((np.arange(n), np.flatnonzero(writing.blank))), kind="stable")
    blank = np.append(at[1:] == at[:-1], False) if len(at) else np.zeros(0, dtype=np.bool_)
    index: Ints = np.array([texts.put(text) for text in writing.texts], dtype=np.int64)
    space = texts.put(" ")
    begin = np.where(blank, writing.x1[at - 1], writing.x0[at]) * scale
    end = np.where(blank, writing.x0[at], writing.x1[at]) * scale
    size, base, angle = writing.size[at] * scale, writing.baseline[at] * scale, writing.angle[at]
    low, high = np.minimum(begin, end), np.maximum(begin, end)
    # Lines that run up the page have their letters' tops on the left, those that run down on the right.
    over, under = base - ASCENT * size, base + DESCENT * size
    over, under = np.where(angle > 0, 2 * base - under, over), np.where(angle > 0, 2 * base - over, under)
    level = angle == 0
    bold = are_bold(writing.stroke, writing.size, np.abs(writing.x1 - writing.x0))
    return Glyphs(
        text=np.where(blank, space, index[at]) if n else index,
        x=np.where(level, low, base),
        y=np.where(level, base, begin),
        x0=np.where(level, low, over),
        y0=np.where(level, over, low),
        x1=np.where(level, high, under),
        y1=np.where(level, under, high),
        advance=high - low,
        size=size,
        angle=angle,
        font=font + bold[at].astype(np.int64) + 2 * writing.fixed[at],
        run=writing.piece[at],
        order=np.zeros(len(at), dtype=np.int64),
        mark=np.full(len(at), -1, dtype=np.int64),
        visible=np.ones(len(at), dtype=np.bool_),
        sure=np.where(blank, 1.0, writing.sure[at]),
    )
