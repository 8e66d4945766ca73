"""Pictures of text on a page of text, such as a scanned table that was pasted in: told from photographs and
plots, and read in their place.
"""

from __future__ import annotations

import dataclasses
from collections.abc import Iterator
from typing import TypeVar

import numpy as np

from ..ink import Bools, Fills, Glyphs, Grey, Ints, PageInk, Shapes, Strokes, columns_of
from .marks import find_marks
from .page import read_picture
from .recogniser import Recogniser
from .threshold import inked

# Of its pixels so many are as light as the ground, give or take so much.
GROUND, EVEN = 0.6, 20
# It shows at least so many marks as high as letters, of so much of all ink; long rules are none of it.
LETTERS, INK = 40, 0.6
# What was read is as sure as this, and of so many characters, or so many rules part it: labels of a device
# or a map are fewer.
SURE, MANY, RULES = 0.85, 250, 3


def shows_writing(grey: Grey) -> bool:
    """Return whether a picture is of writing: an even ground, and ink that is mostly letters."""
    counts = np.bincount(grey.ravel(), minlength=256)
    ground = int(counts.argmax())
    if counts[max(0, ground - EVEN) : ground + EVEN + 1].sum() < GROUND * grey.size or ground < 128:
        return False
    marks = find_marks(inked(grey), 150.0)
    letters = (marks.h > 0.4 * marks.height) & (marks.h < 2.5 * marks.height) & (marks.w < 6 * marks.height)
    thin = np.minimum(marks.w, marks.h) < 0.4 * marks.height
    long = np.maximum(marks.w, marks.h) > 6 * marks.height
    counted = marks.area * ~(thin & long) * ~_frame(marks.w, marks.h, marks.area)
    return bool(letters.sum() >= LETTERS and marks.area[letters].sum() > INK * counted.sum())


def _frame(w: Ints, h: Ints, area: Ints) -> Bools:
    """Marks that are lattices of rules: large, and next to nothing of their box is ink."""
    frame: Bools = area < 0.1 * w * h
    return frame


def shows_text(ink: PageInk, grey: Grey, which: Ints) -> bool:
    """Return whether one of some pictures of a page, which is given in grey, looks like writing."""
    parts = _parts(ink, grey, which, grey.shape[1] / ink.width)
    return any(shows_writing(part) for _, part, _ in parts)


def with_insets(
    ink: PageInk, grey: Grey, which: Ints, recogniser: Recogniser
) -> tuple[PageInk, list[PageInk]]:
    """Return a page with what its pictures of text say, and what was read in each of them; `grey` is the
    whole page, `which` the pictures that may be such.
    """
    scale = grey.shape[1] / ink.width
    out, read = ink, []
    gone = []
    for k, part, box in _parts(ink, grey, which, scale):
        if not shows_writing(part):
            continue
        page = read_picture(_blank(out, part.shape[1] / scale, part.shape[0] / scale), part, recogniser)
        if not _says_enough(page):
            continue
        out = _joined(out, page, box[0], box[1])
        read.append(page)
        gone.append(k)
    keep = np.setdiff1d(np.arange(len(ink.pictures)), gone)
    return dataclasses.replace(out, pictures=ink.pictures.take(keep)), read


def _says_enough(page: PageInk) -> bool:
    """Whether what was read in a picture is a text or a ruled table, not labels in a drawing."""
    count = len(page.glyphs)
    level = (page.strokes.y0 == page.strokes.y1) & (page.strokes.x1 - page.strokes.x0 > page.width / 2)
    ruled = int(level.sum()) >= RULES
    return count >= (LETTERS if ruled else MANY) and float(page.glyphs.sure.mean()) >= SURE


def _parts(
    ink: PageInk, grey: Grey, which: Ints, scale: float
) -> Iterator[tuple[int, Grey, tuple[float, float]]]:
    """Pictures, as they look on the page, and where their top left corner is in points."""
    p = ink.pictures
    for k in which.tolist():
        x0, y0 = (max(0, round(float(side[k]) * scale)) for side in (p.x0, p.y0))
        x1, y1 = (round(float(side[k]) * scale) for side in (p.x1, p.y1))
        part = np.ascontiguousarray(grey[y0:y1, x0:x1])
        if min(part.shape) > 20:
            yield k, part, (x0 / scale, y0 / scale)


def _blank(ink: PageInk, width: float, height: float) -> PageInk:
    """A page of some size with nothing on it, whose fonts and texts go on from those of another."""
    return dataclasses.replace(
        ink,
        width=width,
        height=height,
        glyphs=columns_of(Glyphs, []),
        strokes=columns_of(Strokes, []),
        fills=columns_of(Fills, []),
        shapes=columns_of(Shapes, []),
        pictures=ink.pictures.take(np.empty(0, dtype=np.int64)),
        notes=[],
    )


Boxed = TypeVar("Boxed", Glyphs, Strokes, Fills, Shapes)


def _moved(rows: Boxed, x: float, y: float) -> Boxed:
    return dataclasses.replace(rows, x0=rows.x0 + x, x1=rows.x1 + x, y0=rows.y0 + y, y1=rows.y1 + y)


def _joined(ink: PageInk, part: PageInk, x: float, y: float) -> PageInk:
    """A page and what was read in a part of it, whose top left corner is at (x, y)."""
    glyphs = _moved(part.glyphs, x, y)
    glyphs = dataclasses.replace(
        glyphs, x=glyphs.x + x, y=glyphs.y + y, run=glyphs.run + int(ink.glyphs.run.max(initial=-1)) + 1
    )
    return dataclasses.replace(
        ink,
        glyphs=ink.glyphs.followed_by(glyphs),
        strokes=ink.strokes.followed_by(_moved(part.strokes, x, y)),
        fills=ink.fills.followed_by(_moved(part.fills, x, y)),
        shapes=ink.shapes.followed_by(_moved(part.shapes, x, y)),
        fonts=part.fonts,
        texts=part.texts,
    )
