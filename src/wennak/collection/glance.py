"""A page at a glance: where tables are likely, and of which kind, from its words and rules alone."""

from __future__ import annotations

import numpy as np

from ..layout import PageLayout

# Words farther apart than this (em) stand in different columns; a row of a table has so many words a column
# at most, and a table so many rows at least, with at most so many others between two of them.
APART, WORDS, ROWS, BETWEEN = 1.1, 4.0, 3, 1
# Rules along so much of a table's width or height part its rows and columns.
ALONG = 0.5


def table_kinds(layout: PageLayout) -> list[str]:
    """Return the kinds of the tables that a page seems to show, from top to bottom: "ruled" with upright
    rules, "lined" with level ones only, "open" without.

    It takes a fraction of the time of reading them, and is right about pages more often than about tables.
    """
    w = layout.words
    if not len(w):
        return []
    row = np.unique(w.row, return_inverse=True)[1]
    begins = np.append(True, (np.diff(row) != 0) | (w.x0[1:] - w.x1[:-1] > APART * layout.em))
    pieces = np.bincount(row, weights=begins)
    words = np.bincount(row)
    digits = np.array([any(c.isdigit() for c in text) for text in w.texts])
    numbers = np.bincount(row, weights=digits)
    tabular = ((pieces >= 3) | ((pieces == 2) & (numbers > 0))) & (words <= WORDS * pieces)
    at = np.flatnonzero(tabular)
    runs = np.split(at, np.flatnonzero(np.diff(at) > BETWEEN + 1) + 1)
    return [_kind(layout, np.isin(row, run)) for run in runs if len(run) >= ROWS]


def _kind(layout: PageLayout, members: np.ndarray[tuple[int], np.dtype[np.bool_]]) -> str:
    box = layout.box(np.flatnonzero(members))
    em = layout.em
    for name, rules, (low, high), (first, last) in (
        ("ruled", layout.rules.upright, (box.y0, box.y1), (box.x0, box.x1)),
        ("lined", layout.rules.level, (box.x0, box.x1), (box.y0, box.y1)),
    ):
        shared = np.minimum(rules.high, high) - np.maximum(rules.low, low)
        inside = (rules.at > first - em) & (rules.at < last + em) & (shared > 0)
        if shared[inside].sum() > ALONG * (high - low):
            return name
    return "open"
