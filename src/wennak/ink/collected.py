"""What the walk over a page collects, and the graphics state that it keeps (ISO 32000-2, 8.4)."""

from __future__ import annotations

import functools
from dataclasses import dataclass, field
from typing import Any

from .tokens import number

Matrix = tuple[float, float, float, float, float, float]
IDENTITY: Matrix = (1.0, 0.0, 0.0, 1.0, 0.0, 0.0)
# Kinds of path points.
MOVE, LINE, CURVE, CLOSE = 0, 1, 2, 3
# How many numbers are kept of each show and of each state.
SHOW, STATE = 4, 14


def multiply(m: Matrix, n: Matrix) -> Matrix:
    """Return the matrix that applies `m`, then `n` (8.3.4)."""
    a, b, c, d, e, f = m
    g, h, i, j, k, l = n
    return (a * g + b * i, a * h + b * j, c * g + d * i, c * h + d * j, e * g + f * i + k, e * h + f * j + l)


@dataclass(slots=True)
class State:
    """The part of the graphics state that matters for reading (8.4)."""

    ctm: Matrix
    clip: int = 0
    line_width: float = 1.0
    dashed: bool = False
    stroke_grey: float = 0.0
    fill_grey: float = 0.0
    stroke_space: str = "/DeviceGray"
    fill_space: str = "/DeviceGray"
    opaque: bool = True
    font: int = -1
    size: float = 0.0
    char_space: float = 0.0
    word_space: float = 0.0
    scale: float = 1.0
    leading: float = 0.0
    rise: float = 0.0
    mode: int = 0

    def copy(self) -> State:
        """Return an independent copy."""
        return State(
            self.ctm, self.clip, self.line_width, self.dashed, self.stroke_grey, self.fill_grey,
            self.stroke_space, self.fill_space, self.opaque, self.font, self.size, self.char_space,
            self.word_space, self.scale, self.leading, self.rise, self.mode,
        )  # fmt: skip


@dataclass(slots=True)
class Mark:
    """An open piece of marked content (14.6)."""

    index: int
    hidden: bool


@dataclass(slots=True)
class Collected:
    """What the walk found, in the order of drawing.

    What there are hundreds of on a page is kept as numbers one after the other, which become arrays at once:
    SHOW of them for each string shown (state, segment, mark, order), STATE for each state (ctm, size, char
    space, word space, scale, rise, mode, font, clip) and six for the matrix of each segment, which is a
    stretch of text whose matrix was set once, so that its strings follow each other by their widths.
    tokens: the raw string or array token of each show.
    points: (x, y) of paths and `kinds` of points; paths: (first point, end point, ctm, fill, stroke, line
    width, stroke grey, fill grey, dashed, opaque, clip, order).
    pictures: (ctm, columns, lines, number, clip, order). clips: upright boxes in page coordinates.
    marks: (tag, MCID or -1); actual: replacement text by mark.
    """

    tokens: list[bytes] = field(default_factory=list)
    shows: list[int] = field(default_factory=list)
    states: list[float] = field(default_factory=list)
    segments: list[float] = field(default_factory=list)
    points: list[tuple[float, float]] = field(default_factory=list)
    kinds: list[int] = field(default_factory=list)
    paths: list[tuple[Any, ...]] = field(default_factory=list)
    pictures: list[tuple[Any, ...]] = field(default_factory=list)
    clips: list[tuple[float, float, float, float]] = field(default_factory=list)
    marks: list[tuple[str, int]] = field(default_factory=list)
    actual: dict[int, str] = field(default_factory=dict)
    notes: list[tuple[str, str]] = field(default_factory=list)


@functools.lru_cache(1024)
def grey_level(space: str, *operands: bytes) -> float:
    """Lightness of a colour, 0 black to 1 white; mid grey where it cannot be told (patterns, indexes).

    The same few colours come again and again.
    """
    if not operands or operands[-1][:1] == b"/" or space in ("/Pattern", "/Indexed"):
        return 0.5
    values = [min(1.0, max(0.0, number(o))) for o in operands]
    if space == "/Lab":
        return min(1.0, max(0.0, number(operands[0]) / 100))
    if space in ("/Separation", "/DeviceN"):
        return 1.0 - max(values)
    if len(values) == 4:
        c, m, y, k = values
        return (1 - k) * (1 - (0.3 * c + 0.59 * m + 0.11 * y))
    if len(values) == 3:
        return 0.3 * values[0] + 0.59 * values[1] + 0.11 * values[2]
    return values[0]
