"""Shapes of glyphs, and how like they are to those of letters of known faces."""

from __future__ import annotations

import functools
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from PIL import Image, ImageDraw, ImageFont
from scipy import ndimage

from ..ink import Floats, Ints
from .picture import Mask

# Shapes are compared as pictures of this side, blurred by so much.
SIDE, BLUR = 20, 0.9
# Faces that every installation has: those of its library for plots.
FACES = (
    "DejaVuSans", "DejaVuSans-Bold", "DejaVuSans-Oblique", "DejaVuSansMono", "DejaVuSerif",
    "DejaVuSerif-Bold", "DejaVuSerif-Italic", "STIXGeneral", "STIXGeneralBol", "STIXGeneralItalic",
)  # fmt: skip
# Pixels an em when these are drawn.
DRAWN = 64
COMMON = "0123456789.,;:!?()[]{}/%&+-–—=<>*#@$£€§°×±_|~'\"‘’“”„«»•·…"
LATIN = (
    "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz"
    "ÀÁÂÃÄÅÆÇÈÉÊËÌÍÎÏÑÒÓÔÕÖØÙÚÛÜÝßàáâãäåæçèéêëìíîïñòóôõöøùúûüýÿŒœŠšŽžčćěřůńśźżłŁąęđ"
)
LIGATURES = {"ﬁ": "fi", "ﬂ": "fl", "ﬀ": "ff", "ﬃ": "ffi", "ﬄ": "ffl"}
GREEK = "ΑΒΓΔΕΖΗΘΙΚΛΜΝΞΟΠΡΣΤΥΦΧΨΩαβγδεζηθικλμνξοπρςστυφχψωΆΈΉΊΌΎΏάέήίόύώϊϋΐΰ"
CYRILLIC = "АБВГДЕЖЗИЙКЛМНОПРСТУФХЦЧШЩЪЫЬЭЮЯабвгдежзийклмнопрстуфхцчшщъыьэюяЁёІіЇїЄєҐґ№"
# Letters that many faces draw like those of another script.
DRAWN_LIKE = {"ν": "v"}
SCRIPTS = {"Latin": LATIN + "".join(LIGATURES), "Greek": GREEK, "Cyrillic": CYRILLIC}
# Letters that look like a Latin one, large or small.
LIKE_LATIN = {
    "Greek": {"K": "Κκ", "O": "ΟοΘθσ", "T": "Ττ", "V": "ν", "W": "ω", "X": "Χχ"},
    "Cyrillic": {
        "A": "Аа", "B": "ВвБЬь", "C": "Сс", "E": "Ее", "H": "Нн", "K": "Кк", "M": "Мм", "O": "Оо", "P": "Рр",
        "T": "Тт", "X": "Хх", "Y": "Уу",
    },
}  # fmt: skip
# Letters that most texts do without, beside others that look like them, count so much less.
RARE, RARELY = frozenset("ÀÁÂÃÈÊËÌÍÎÏÐÑÒÓÔÕØÙÚÛÝàáâãåèêëìíîïñòóôõøùúûýÿŒœŠšŽžčćěřůńśźżłŁąęđϊϋΐΰІіЇїЄєҐґ"), 0.1
# What differences of place (heights of small letters) and of proportion (logarithm) cost.
PLACE, PROPORTION = 0.6, 0.35


@dataclass(slots=True, eq=False)
class Shape:
    """A glyph: its picture stretched to a square; how far it reaches above and below its baseline (negative),
    and how wide it is, in em.
    """

    picture: Floats
    top: float
    bottom: float
    width: float


def shape_of(ink: Mask, baseline: float, em: float) -> Shape | None:
    """Return the shape of the ink of a glyph; None where there is none."""
    return shapes_of([ink], baseline, em)[0]


def shapes_of(inks: Sequence[Mask], baseline: float, em: float) -> list[Shape | None]:
    """Return the shape of each glyph of one font, None where there is no ink."""
    squares, reaches = [], []
    for ink in inks:
        rows, columns = np.flatnonzero(ink.any(axis=1)), np.flatnonzero(ink.any(axis=0))
        reach = (rows[0], rows[-1] + 1, columns[0], columns[-1] + 1) if len(rows) else (0, 1, 0, 1)
        top, bottom, left, right = map(int, reach)
        part = Image.fromarray(ink[top:bottom, left:right].astype(np.uint8) * 255)
        squares.append(np.asarray(part.resize((SIDE, SIDE), Image.Resampling.BOX)))
        reaches.append(((baseline - top) / em, (baseline - bottom) / em, (right - left) / em))
    blurred = ndimage.gaussian_filter(np.array(squares) / 255, (0, BLUR, BLUR), mode="constant")
    pictures = blurred.reshape(len(squares), -1)
    pictures -= pictures.mean(axis=1, keepdims=True)
    lengths = np.linalg.norm(pictures, axis=1, keepdims=True)
    pictures /= lengths + 1e-9
    return [
        Shape(picture, *reach) if ink.any() else None
        for ink, picture, reach in zip(inks, pictures, reaches, strict=True)
    ]


@dataclass(slots=True, eq=False)
class Faces:
    """Letters of known faces: what they say, the number of their script (-1 for signs), the height of the
    small letters of their face (em), and columns of their shapes.
    """

    texts: list[str]
    script: Ints
    small: Floats
    pictures: Floats
    top: Floats
    bottom: Floats
    width: Floats

    def of(self, script: int) -> Ints:
        """Return which of them are letters of a script, or signs."""
        found: Ints = np.flatnonzero((self.script == script) | (self.script < 0))
        return found


@functools.cache
def known_faces() -> Faces:
    """Return the letters of all known faces."""
    import matplotlib

    folder = Path(matplotlib.get_data_path()) / "fonts" / "ttf"
    letters = [(text, text, -1) for text in COMMON]
    letters += [(text, text, k) for k, script in enumerate(SCRIPTS.values()) for text in script]
    letters += [(text, like, list(SCRIPTS).index("Greek")) for text, like in DRAWN_LIKE.items()]
    texts: list[str] = []
    shapes: list[Shape] = []
    rows: list[tuple[int, float]] = []
    for name in FACES:
        font = ImageFont.truetype(str(folder / f"{name}.ttf"), DRAWN)
        inks = _drawn(font, ["\uffff", "x", *(like for _, like, _ in letters)])
        unknown, small, *drawn = shapes_of(inks, 2 * DRAWN, DRAWN)
        assert small is not None
        for (text, _, script), shape in zip(letters, drawn, strict=True):
            if shape is None or (unknown is not None and np.array_equal(shape.picture, unknown.picture)):
                continue
            texts.append(LIGATURES.get(text, text))
            shapes.append(shape)
            rows.append((script, small.top))
    script, small_top = np.array(rows).T
    return Faces(
        texts,
        script.astype(np.int64),
        small_top,
        np.array([shape.picture for shape in shapes]),
        *(np.array([getattr(shape, side) for shape in shapes]) for side in ("top", "bottom", "width")),
    )


def _drawn(font: ImageFont.FreeTypeFont, texts: Sequence[str]) -> list[Mask]:
    """The ink of texts, each in a square of three em with its baseline at two."""
    side = 3 * DRAWN
    strip = Image.new("L", (side * len(texts), side))
    pen = ImageDraw.Draw(strip)
    for k, text in enumerate(texts):
        pen.text((k * side + DRAWN, 2 * DRAWN), text, fill=255, font=font, anchor="ls")
    return np.hsplit(np.asarray(strip) > 127, len(texts))


def likest(ink: Mask, faces: Faces) -> tuple[str, float]:
    """Return the letter or sign of known faces that ink is most like, whatever its size, and how like (1 at
    most); nothing where there is no ink.
    """
    shape = shape_of(ink, len(ink), len(ink))
    if shape is None:
        return "", 0.0
    slender = np.log(shape.width / (shape.top - shape.bottom)) - np.log(
        faces.width / (faces.top - faces.bottom)
    )
    like = faces.pictures @ shape.picture - PROPORTION * np.abs(slender)
    best = int(like.argmax())
    return faces.texts[best], float(like[best])


class Likeness:
    """How like shapes (rows) are to known letters (columns), as a function of the height of the small letters
    of the font that the shapes are of.
    """

    def __init__(self, shapes: list[Shape], faces: Faces) -> None:
        self._sides = [
            np.array([getattr(shape, side) for shape in shapes])[:, None]
            for side in ("top", "bottom", "width")
        ]
        self._pictures = np.array([shape.picture for shape in shapes]) @ faces.pictures.T
        self._rare = np.array([RARELY * (text in RARE) for text in faces.texts])
        self._known = [side / faces.small for side in (faces.top, faces.bottom, faces.width)]

    def at(self, small: float, stretch: float = 0.0) -> Floats:
        """Return it, at most 1, for a height in em and for letters that are wider than usual (logarithm)."""
        top, bottom = (side / small for side in self._sides[:2])
        known_top, known_bottom, _ = self._known
        far = np.minimum(np.abs(top - known_top) + np.abs(bottom - known_bottom), 2.0)
        stretched = np.minimum(np.abs(self.wider_at(small) - stretch), 2.0)
        out: Floats = self._pictures - PLACE * far - PROPORTION * stretched - self._rare
        return out

    def wider_at(self, small: float) -> Floats:
        """Return how much wider for their height shapes are than known letters (logarithm)."""
        (top, bottom, width), (known_top, known_bottom, known_width) = (
            [side / small for side in self._sides],
            self._known,
        )
        tall, known_tall = np.maximum(top - bottom, 0.05), np.maximum(known_top - known_bottom, 0.05)
        # What is small, such as signs, differs by its size more than by its proportion.
        out: Floats = np.log((width + 0.1) / (tall + 0.1)) - np.log((known_width + 0.1) / (known_tall + 0.1))
        return out
