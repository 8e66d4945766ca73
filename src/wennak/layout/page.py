"""The page as layout and tables see it: upright, in words, with its rules."""

from __future__ import annotations

from dataclasses import dataclass, field

from ..ink import Ints, PageInk
from ..model import Box, Place
from .rules import Rules
from .upright import turned_back
from .words import Words


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

    `em` is the size of most of its text, `zones` are the pieces of the page in reading order. Boxes are those
    of the turned page; `place()` gives them back on the page as it is seen.
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

    def place(self, box: Box) -> Place:
        """Return where a box of this layout stands in the document."""
        if not self.turns:
            return Place(
                self.number, Box(round(box.x0, 2), round(box.y0, 2), round(box.x1, 2), round(box.y1, 2))
            )
        seen = (self.height, self.width) if self.turns % 2 else (self.width, self.height)
        b = turned_back(box, self.turns, *seen)
        return Place(self.number, Box(round(b.x0, 2), round(b.y0, 2), round(b.x1, 2), round(b.y1, 2)))

    def box(self, members: Ints) -> Box:
        """Return the box around some of the words."""
        w = self.words
        return Box(
            float(w.x0[members].min()),
            float(w.y0[members].min()),
            float(w.x1[members].max()),
            float(w.y1[members].max()),
        )
