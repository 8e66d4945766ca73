"""The page as layout and tables see it: upright, in words, with its rules."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..ink import Ints, PageInk
from ..model import Box, Place
from .rules import Rules, find_rules
from .upright import quarter_turns, turned, turned_back
from .words import Words, find_words


@dataclass(slots=True)
class PageLayout:
    """One page, turned so that its text is upright.

    `em` is the size of most of its text. Boxes are those of the turned page; `place()` gives them back on
    the page as it is seen.
    """

    number: int
    width: float
    height: float
    turns: int
    ink: PageInk
    words: Words
    rules: Rules
    em: float

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


def lay_out(ink: PageInk) -> PageLayout:
    """Find the words and rules of a page."""
    turns = quarter_turns(ink)
    upright = turned(ink, turns)
    words = find_words(upright)
    em = 10.0
    if len(words):
        # The most frequent size by amount of text, in steps of a quarter point.
        steps = np.round(words.size * 4).astype(np.int64)
        em = float(np.bincount(np.clip(steps, 1, 4000), weights=words.x1 - words.x0).argmax()) / 4
    return PageLayout(
        ink.number, upright.width, upright.height, turns, upright, words, find_rules(upright), max(em, 1.0)
    )
