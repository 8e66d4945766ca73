"""The displayed equations of a page: taken from its ink before columns and tables are sought, so that their
parts, which stand above and beside each other, are taken for neither.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from ..equations import Bar, Node, Unclear, linear, placed_symbols, read_tree
from ..ink import Bools, Floats, Ints, PageInk
from ..model import Box
from .display_places import DisplayPlace, find_display_places, mathematical
from .words import Words

# A rule of an equation is at most so thick, and at least so long (points).
THICK, SHORT = 1.6, 1.5
# Rules reach out over the symbols by at most so much (em).
SLACK = 0.4


@dataclass(frozen=True, slots=True)
class Display:
    """An equation: its box, its number in print, its structure where that is clear, and its text."""

    box: Box
    label: str
    tree: Node | None
    text: str


def take_displays(ink: PageInk, words: Words) -> tuple[list[Display], PageInk]:
    """Return the displayed equations of an upright page, from top to bottom, and what else is drawn on it."""
    if ink.source != "text" or not len(words):
        return [], ink
    signs = mathematical(ink)
    if not signs.any():
        return [], ink
    rules = _level_rules(ink)
    glyphs = np.ones(len(ink.glyphs), dtype=np.bool_)
    used = np.zeros(len(rules), dtype=np.bool_)
    found = []
    for place in find_display_places(ink, words, signs, rules):
        own = _inside(ink, place.box) & glyphs
        bars = _within(rules, place) & ~used
        if not own.any():
            continue
        display = _read(ink, words, place, np.flatnonzero(own), rules[bars])
        used |= bars
        glyphs &= ~own
        if place.label:
            glyphs &= ~_inside(ink, place.label)
        found.append(display)
    if not found:
        return [], ink
    strokes = len(ink.strokes)
    rest = replace(
        ink, glyphs=ink.glyphs.take(glyphs), strokes=ink.strokes.take(~used[:strokes]),
        fills=ink.fills.take(~used[strokes:]),
    )  # fmt: skip
    return sorted(found, key=lambda d: (d.box.y0, d.box.x0)), rest


def _read(ink: PageInk, words: Words, place: DisplayPlace, glyphs: Ints, rules: Floats) -> Display:
    symbols = placed_symbols(ink, glyphs)
    box = Box.around([place.box, place.label]) if place.label else place.box
    try:
        tree = read_tree(symbols, [Bar(*rule) for rule in rules.tolist()])
    except (Unclear, RecursionError):
        text = " ".join(s.text.strip() for s in sorted(symbols, key=lambda s: (round(s.baseline), s.x0)))
        return Display(box, place.number, None, text)
    held = np.flatnonzero(words.inside(place.box))
    level = len(held) and (words.row[held] == words.row[held[0]]).all()
    # On one line the blanks are those in print.
    text = " ".join(words.texts[i] for i in held.tolist()) if level else linear(tree)
    return Display(box, place.number, tree, text)


def _level_rules(ink: PageInk) -> Floats:
    """Rows of x0, x1 and y: one a stroke, then one a fill; what is no thin level line has no numbers."""
    s, f = ink.strokes, ink.fills
    x0 = np.concatenate((np.minimum(s.x0, s.x1), f.x0))
    x1 = np.concatenate((np.maximum(s.x0, s.x1), f.x1))
    y0, y1 = np.concatenate((s.y0, f.y0)), np.concatenate((s.y1, f.y1))
    thick = np.concatenate((s.width, f.y1 - f.y0))
    level = (np.abs(y1 - y0) < THICK) & (thick < THICK) & (x1 - x0 > SHORT)
    rules: Floats = np.where(level, np.stack((x0, x1, (y0 + y1) / 2)), np.nan).T
    return rules


def _inside(ink: PageInk, box: Box) -> Bools:
    g = ink.glyphs
    x, y = (g.x0 + g.x1) / 2, (g.y0 + g.y1) / 2
    found: Bools = g.visible & (x > box.x0) & (x < box.x1) & (y > box.y0) & (y < box.y1)
    return found


def _within(rules: Floats, place: DisplayPlace) -> Bools:
    x0, x1, y = rules.T
    box, slack = place.box, SLACK * place.size
    found: Bools = (x0 > box.x0 - slack) & (x1 < box.x1 + slack) & (y > box.y0) & (y < box.y1)
    return found
