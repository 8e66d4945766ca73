"""Indexes: titles in the order of the alphabet, each with a leader to its pages; no tables."""

from __future__ import annotations

import re

import numpy as np

from ..ink import Ints
from ..layout import PageLayout, is_index
from .rows import SPAN_GAP

# Pages of an entry of an index, and how many of what leaders run up to are such.
_PAGES, INDEXED = re.compile(r"\d+(?:[-–]\d+)?,?$"), 0.75


def index_words(layout: PageLayout, after: Ints) -> Ints:
    """Return the words of an index, given those that leaders run up to: entries, letters over them and
    further lines of either; none where there is no index.
    """
    w = layout.words
    entries = []
    for i in after.tolist():
        first = last = i
        while last + 1 < len(w) and w.texts[last].endswith(",") and _PAGES.match(w.texts[last + 1]):
            last += 1
        # A title begins where room parts it from the column before.
        while first and w.row[first - 1] == w.row[i]:
            if first < i and w.x0[first] - w.x1[first - 1] > SPAN_GAP * w.size[first]:
                break
            first -= 1
        if first < i and _PAGES.match(w.texts[i]):
            entries.append((first, i, last))
    if len(entries) < INDEXED * len(after):
        return after[:0]
    begins, numbers, ends = (list(part) for part in zip(*entries, strict=True))
    titles = [" ".join(w.texts[a:i]) for a, i in zip(begins, numbers, strict=True)]
    pages = [" ".join(w.texts[i : b + 1]) for i, b in zip(numbers, ends, strict=True)]
    own = np.concatenate([np.arange(a, b + 1) for a, b in zip(begins, ends, strict=True)])
    near = (w.row >= w.row[own[0]] - 1) & (w.row <= w.row[own[-1]]) & layout.shares_zone(own)
    others = near.copy()
    others[own] = False
    letters = [i for i in np.flatnonzero(others).tolist() if len(w.texts[i]) == 1 and w.texts[i].isalpha()]
    # The pages end at one place in each column.
    edges = np.sort(w.x1[ends])
    edges = edges[np.append(np.diff(edges) > layout.em, True)]
    column = np.searchsorted(edges, np.concatenate((w.x1[ends], w.x1[letters])))
    order = np.lexsort(([*begins, *letters], column)).tolist()
    titles += [w.texts[i] for i in letters]
    pages += [""] * len(letters)
    if not is_index([titles[k] for k in order], [pages[k] for k in order]):
        return after[:0]
    near[: own[0]] = False
    near[letters] = True
    # Pages may go on on further lines.
    further = sum(bool(_PAGES.match(w.texts[i])) for i in np.flatnonzero(others).tolist())
    return np.flatnonzero(near) if 2 * (len(own) + further) > near.sum() else after[:0]
