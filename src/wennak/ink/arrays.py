"""What is drawn on one page, as columns: one NumPy array a property, one entry a thing drawn."""

from __future__ import annotations

import enum
import functools
from collections.abc import Sequence
from dataclasses import dataclass, field, fields
from typing import Any, Literal, Self, TypeVar

import numpy as np
import numpy.typing as npt

from .forms import FormField
from .navigation import StructureTree

Floats = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]
Bools = npt.NDArray[np.bool_]


_Number = TypeVar("_Number", bound=np.generic)


def distinct(values: npt.NDArray[_Number]) -> npt.NDArray[_Number]:
    """Return the different values of an array, in order.

    What NumPy has for it loads masked arrays, which nothing else here needs and which take a tenth of the
    time that a small file does.
    """
    ordered = np.sort(values, axis=None)
    new = np.ones(len(ordered), dtype=np.bool_)
    new[1:] = ordered[1:] != ordered[:-1]
    return ordered[new]


def looked_up(table: npt.NDArray[_Number], at: Ints) -> npt.NDArray[_Number]:
    """Return the values of a table at places that are known to be in it: to clip is quicker than to look
    whether one is.
    """
    return table.take(at, mode="clip")


def median(values: npt.ArrayLike) -> float:
    """Return the middle of some numbers, of which there is at least one; for the reason of `distinct`."""
    ordered = np.sort(values, axis=None)
    n = len(ordered)
    return float(ordered[(n - 1) // 2] + ordered[n // 2]) / 2


@dataclass(slots=True, eq=False)
class _Columns:
    """Arrays of one length n; row i of every array describes the same thing."""

    @classmethod
    @functools.cache
    def types(cls) -> dict[str, type[np.generic]]:
        """Return the names of the columns, and the type that the annotation of each names."""
        types = {"Floats": np.float64, "Ints": np.int64, "Bools": np.bool_}
        return {f.name: types[str(f.type)] for f in fields(cls)}

    def __len__(self) -> int:
        return len(getattr(self, next(iter(self.types()))))

    def take(self, index: npt.NDArray[Any]) -> Self:
        """Return the rows that `index` (positions or a mask) selects."""
        at = np.flatnonzero(index) if index.dtype == np.bool_ else index
        return type(self)(*[looked_up(getattr(self, name), at) for name in self.types()])

    def followed_by(self, other: Self) -> Self:
        """Return these rows and those of another after them."""
        return type(self)(
            *[np.concatenate((getattr(self, name), getattr(other, name))) for name in self.types()]
        )


# What stands for a character that nothing names.
UNKNOWN = "\ufffd"
C = TypeVar("C", bound=_Columns)


@dataclass(slots=True, eq=False)
class Glyphs(_Columns):
    """Characters as drawn, in the order of the content stream.

    text: index into `PageInk.texts`; x, y: origin on the baseline; x0..y1: upright box, from the origin to
    the advance and from descent to ascent; advance: along the writing direction; size: of the em;
    angle: of the writing direction in degrees, clockwise as seen, -180..180; font: index into
    `PageInk.fonts`; run: number of the show operator; order: paint order, comparable with fills and
    pictures; mark: index of the marked-content piece, -1 for none; visible: False for text that is not
    seen (render mode 3, outside the page or clip, painted over); sure: how sure the character is, 1 for what
    is drawn as text, less for what was recognised in a picture.
    """

    text: Ints
    x: Floats
    y: Floats
    x0: Floats
    y0: Floats
    x1: Floats
    y1: Floats
    advance: Floats
    size: Floats
    angle: Floats
    font: Ints
    run: Ints
    order: Ints
    mark: Ints
    visible: Bools
    sure: Floats


@dataclass(slots=True, eq=False)
class Strokes(_Columns):
    """Straight pieces of stroked paths: end points, line width, grey level (0 black..1 white), dashed."""

    x0: Floats
    y0: Floats
    x1: Floats
    y1: Floats
    width: Floats
    grey: Floats
    dashed: Bools


@dataclass(slots=True, eq=False)
class Fills(_Columns):
    """Filled axis-parallel rectangles: box, grey level (0 black..1 white), opaque, paint order."""

    x0: Floats
    y0: Floats
    x1: Floats
    y1: Floats
    grey: Floats
    opaque: Bools
    order: Ints


@dataclass(slots=True, eq=False)
class Shapes(_Columns):
    """Boxes of everything else that is painted: curves, slanted lines, odd polygons."""

    x0: Floats
    y0: Floats
    x1: Floats
    y1: Floats


@dataclass(slots=True, eq=False)
class Pictures(_Columns):
    """Boxes of images; `columns` and `lines` give their size in samples, `number` their objects (0 for inline
    images).
    """

    x0: Floats
    y0: Floats
    x1: Floats
    y1: Floats
    columns: Ints
    lines: Ints
    number: Ints
    order: Ints
    visible: Bools


@dataclass(frozen=True, slots=True)
class FontFacts:
    """What layout needs to know of a font.

    `space` is the width of its blank in em (0 where it has none). `unicode_source` says how codes became
    characters: "to-unicode", "encoding", "program", "standard", "picture" or "none".
    """

    name: str
    bold: bool
    italic: bool
    fixed_pitch: bool
    space: float
    unicode_source: str


class TextKind(enum.IntEnum):
    """What a glyph's characters are: nothing at all, a blank, a dot, letters, anything else."""

    NOTHING = 0
    BLANK = 1
    DOT = 2
    LETTER = 3
    OTHER = 4


@dataclass(frozen=True, slots=True, eq=False)
class Texts:
    """The distinct texts that glyphs of a document show: each as a string, its TextKind, and its characters
    as code points, of which it has `length` from `start` on in `codes`.
    """

    strings: Sequence[str]
    kind: Ints
    codes: npt.NDArray[np.uint32]
    start: Ints
    length: Ints


@dataclass(slots=True)
class PageInk:
    """Everything drawn on a page that was read.

    `width` and `height` are those of the page as seen, `texts` is what glyphs point into. `marks` gives tag
    and MCID (-1 for none) of each piece of marked content, `owners` the element of the structure `tree` that
    holds it (-1 for none; empty where there is no tree), `links` the box and target of each link to somewhere
    else, `form` the fields of a form, with rectangles as boxes of the page, `notes` a code and a sentence for
    each thing that could not be read. `source` says where its text comes from: "text" that is drawn, or the
    "picture" of the page, which was turned by `turned` degrees (counterclockwise about its middle) to stand
    level.
    """

    number: int
    width: float
    height: float
    glyphs: Glyphs
    strokes: Strokes
    fills: Fills
    shapes: Shapes
    pictures: Pictures
    fonts: Sequence[FontFacts]
    texts: Texts
    marks: Sequence[tuple[str, int]] = ()
    tree: StructureTree | None = None
    owners: Ints = field(default_factory=lambda: np.empty(0, dtype=np.int64))
    links: Sequence[tuple[tuple[float, float, float, float], str]] = ()
    form: Sequence[FormField] = ()
    notes: list[tuple[str, str]] = field(default_factory=list)
    source: Literal["text", "picture"] = "text"
    turned: float = 0.0


def is_unknown(ink: PageInk) -> Bools:
    """Return which glyphs of a page are characters that nothing names."""
    texts = ink.texts
    one = np.flatnonzero(texts.length == 1)
    unknown = np.zeros(len(texts.length), dtype=np.bool_)
    unknown[one] = texts.codes[texts.start[one]] == ord(UNKNOWN)
    found: Bools = unknown[ink.glyphs.text]
    return found


def columns_of(kind: type[C], rows: Sequence[tuple[float, ...]]) -> C:
    """Build a columns object from rows of numbers, each column in the type that its annotation names."""
    types = kind.types()
    if not rows:
        return kind(*(np.empty(0, dtype) for dtype in types.values()))
    table = np.array(rows, dtype=np.float64).reshape(len(rows), len(types))
    return kind(*(table[:, i].astype(dtype) for i, dtype in enumerate(types.values())))
