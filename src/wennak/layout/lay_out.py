"""A page of ink -> its layout."""

from __future__ import annotations

import numpy as np

from ..ink import PageInk
from .page import PageLayout
from .rules import find_rules
from .upright import quarter_turns, turned
from .words import find_words
from .zones import find_zones


def lay_out(ink: PageInk) -> PageLayout:
    """Find the words, rules and zones of a page."""
    turns = quarter_turns(ink)
    upright = turned(ink, turns)
    words = find_words(upright)
    em = 10.0
    if len(words):
        # The most frequent size by amount of text, in steps of a quarter point.
        steps = np.round(words.size * 4).astype(np.int64)
        em = float(np.bincount(np.clip(steps, 1, 4000), weights=words.x1 - words.x0).argmax()) / 4
    layout = PageLayout(
        ink.number, upright.width, upright.height, turns, upright, words, find_rules(upright), max(em, 1.0)
    )
    layout.zones = find_zones(layout, np.arange(len(words)))
    return layout
