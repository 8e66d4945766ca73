"""The page as layout and tables see it: upright, in words, with its rules."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np

from ..ink import Bools, Floats, Ints, PageInk, turned_back, turned_box
from ..model import Box, Place
from .displays import Display
from .rules import Rules
from .tags import Tags
from .words import Words

# A bullet drawn as a shape is of this size (em) and its middle stands this far before the text.
DOT_SIZE = (0.12, 0.7)
DOT_REACH = (0.25, 2.2)
# Rules of a table stand at most this far (em) above and below its text.
RULE_REACH = 0.8


@dataclass(slots=True)
class FieldArea:
    """A field: its box, all its words, those of its label and of its value; `checked` for a check box.

    `said` is the value that the form itself holds, where that is not what is drawn.
    """

    box: Box
    words: Ints
    label: Ints
    value: Ints
    checked: bool | None
    said: str | None = None


@dataclass(frozen=True, slots=True)
class Drawing:
    """A drawing with the labels at its sides: its box, and whether it is a chart, drawn to a scale."""

    box: Box
    scale: bool


@dataclass(slots=True)
class Zone:
    """A piece of the page that is read as one: its box and the words in it, in page order."""

    x0: float
    y0: float
    x1: float
    y1: float
    members: Ints


@dataclass(slots=True)
class PageLayout:
    """One page, turned so that its text is upright.

    `em` is the size of most of its text, `zones` are the pieces of the page in reading order, `tags` is what
    the file itself says of its words, where that can be trusted; `dots` are the middles (x, y) of small
    filled shapes that may be bullets, `fields` the fields of a form, `drawings` what is drawn,
    `displays` the equations, which are no longer in `ink` and `words`, `side_notes` which words are notes in
    the margin, `listings` the words of programs. Boxes are those of the turned page;
    `place()` gives them back on the page as it is seen.
    """

    number: int
    width: float
    height: float
    turns: int
    ink: PageInk
    words: Words
    rules: Rules
    em: float
    zones: list[Zone] = field(default_factory=list)
    tags: Tags | None = None
    findings: list[tuple[str, str]] = field(default_factory=list)
    fields: list[FieldArea] = field(default_factory=list)
    dots: Floats = field(default_factory=lambda: np.empty((0, 2)))
    drawings: list[Drawing] = field(default_factory=list)
    displays: list[Display] = field(default_factory=list)
    side_notes: Bools = field(default_factory=lambda: np.empty(0, dtype=np.bool_))
    listings: list[Ints] = field(default_factory=list)

    def place(self, box: Box) -> Place:
        """Return where a box of this layout stands in the document."""
        if not self.turns:
            return Place(
                self.number, Box(round(box.x0, 2), round(box.y0, 2), round(box.x1, 2), round(box.y1, 2))
            )
        seen = (self.height, self.width) if self.turns % 2 else (self.width, self.height)
        b = turned_back(box, self.turns, *seen)
        return Place(self.number, Box(round(b.x0, 2), round(b.y0, 2), round(b.x1, 2), round(b.y1, 2)))

    def places(self, boxes: Sequence[Box]) -> list[Place]:
        """Return where boxes of this layout, with sides rounded as those of places are, stand in the
        document.
        """
        return [self.place(box) if self.turns else Place(self.number, box) for box in boxes]

    def seen_box(self, box: Box) -> Box:
        """Return a box of the page as it is seen in the coordinates of this layout."""
        seen = (self.height, self.width) if self.turns % 2 else (self.width, self.height)
        return turned_box(box, self.turns, *seen)

    def box(self, members: Ints) -> Box:
        """Return the box around some of the words."""
        w = self.words
        return Box(
            float(w.x0[members].min()),
            float(w.y0[members].min()),
            float(w.x1[members].max()),
            float(w.y1[members].max()),
        )

    def zone_of(self) -> Ints:
        """Return the number of the zone of each word."""
        out = np.full(len(self.words), len(self.zones), dtype=np.int64)
        for k, zone in enumerate(self.zones):
            out[zone.members] = k
        return out

    def shares_zone(self, members: Ints) -> Bools:
        """Return which words share a zone with one of some words: others may stand level with these in
        another column of the page.
        """
        zone = self.zone_of()
        return np.isin(zone, zone[members])

    def ruled_box(self, box: Box) -> Box:
        """Return a box as wide as the level rules and the shading that run through it."""
        level, shades, reach = self.rules.level, self.rules.shades, RULE_REACH * self.em
        y0, y1 = np.concatenate((level.at, shades.y0)), np.concatenate((level.at, shades.y1))
        x0, x1 = np.concatenate((level.low, shades.x0)), np.concatenate((level.high, shades.x1))
        through = (y0 > box.y0 - reach) & (y1 < box.y1 + reach) & (x0 < box.x1) & (x1 > box.x0)
        left, right = x0[through].min(initial=box.x0), x1[through].max(initial=box.x1)
        return Box(float(left), box.y0, float(right), box.y1)

    def has_chart(self, box: Box) -> bool:
        """Return whether a chart reaches into a box."""
        return any(drawing.scale and drawing.box.shared(box) > 0 for drawing in self.drawings)

    def has_dot(self, box: Box, em: float) -> bool:
        """Return whether a bullet stands right before a line, within its height."""
        if not len(self.dots):
            return False
        near, far = (reach * em for reach in DOT_REACH)
        x, y = self.dots[:, 0], self.dots[:, 1]
        return bool(((x > box.x0 - far) & (x < box.x0 - near) & (y > box.y0) & (y < box.y1)).any())


def rounded_boxes(x0: Floats, y0: Floats, x1: Floats, y1: Floats) -> list[Box]:
    """Return boxes with the given sides, rounded as those of places are."""
    sides = (np.round(side, 2).tolist() for side in (x0, y0, x1, y1))
    return [Box(*box) for box in zip(*sides, strict=True)]


def find_dots(ink: PageInk, em: float) -> Floats:
    """Return the middles of the small filled shapes of a page that may be bullets: rows of x, y."""
    if not (len(ink.shapes) or len(ink.fills)):
        return np.empty((0, 2))
    x0, y0, x1, y1 = (
        np.concatenate((getattr(ink.shapes, side), getattr(ink.fills, side)))
        for side in ("x0", "y0", "x1", "y1")
    )
    w, h = x1 - x0, y1 - y0
    low, high = (share * em for share in DOT_SIZE)
    small = (w > low) & (w < high) & (h > low) & (h < high) & (np.abs(w - h) < 0.4 * np.maximum(w, h))
    middles: Floats = np.stack(((x0 + x1) / 2, (y0 + y1) / 2), axis=1)[small]
    return middles
