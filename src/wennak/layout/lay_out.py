"""A page of ink -> its layout."""

from __future__ import annotations

import numpy as np

from ..ink import PageInk, quarter_turns, turned
from .around import zones_around
from .displays import take_displays
from .drawings import find_drawings
from .fields import find_fields
from .listings import find_listings
from .page import PageLayout, find_dots
from .rules import find_rules
from .side_notes import find_side_notes
from .tags import read_tags
from .words import find_words


def lay_out(ink: PageInk) -> PageLayout:
    """Find the words, rules and zones of a page."""
    turns = quarter_turns(ink)
    upright = turned(ink, turns)
    words = find_words(upright)
    displays, rest = take_displays(upright, words)
    if displays:
        upright, words = rest, find_words(rest)
    em = 10.0
    if len(words):
        # The most frequent size by amount of text, in steps of a quarter point.
        steps = np.round(words.size * 4).astype(np.int64)
        em = float(np.bincount(np.minimum(steps, 4000), weights=words.x1 - words.x0).argmax()) / 4
    layout = PageLayout(
        ink.number, upright.width, upright.height, turns, upright, words, find_rules(upright), max(em, 1.0)
    )
    layout.displays = displays
    layout.findings += [
        ("equation-as-text", f'the structure of an equation is not clear: "{shown.text}"')
        for shown in displays
        if shown.tree is None
    ]
    layout.dots = find_dots(upright, layout.em)
    layout.tags, doubt = read_tags(words, upright, layout.em)
    if doubt:
        layout.findings.append(("tags-not-used", f"the tags of page {ink.number} were not used: {doubt}"))
    layout.side_notes = find_side_notes(layout)
    layout.listings = find_listings(layout)
    layout.drawings = find_drawings(layout)
    # Numbers along the axes of a chart are no column beside anything.
    charts = [(d.box, np.flatnonzero(words.inside(d.box))) for d in layout.drawings if d.scale]
    layout.zones = zones_around(layout, charts, known=False)
    layout.fields = find_fields(layout)
    return layout
