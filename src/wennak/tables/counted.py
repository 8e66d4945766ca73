"""Places that hold nothing but counted lists, whose numbers and texts stand in columns of their own."""

from __future__ import annotations

from itertools import pairwise

import numpy as np

from ..layout import PageLayout
from .grid import Cut
from .lookalikes import MARK


def lists_items(layout: PageLayout, cut: Cut) -> bool:
    """Return whether a cut place is nothing but lists: numbers with a point or bracket that count on from row
    to row, and texts beside them, in one or more pairs of columns, without level lines between. Right of a
    list that begins with 1, another text may stand beside up to half of the items. A line across both columns
    of a pair is a paragraph between lists.
    """
    counts = {} if cut.place.lines else _items(layout, cut, 0)
    if not counts:
        return False
    beside = cut.filled[list(counts), 2:].any(axis=1)
    few = 1 in counts.values() and 2 * beside.sum() <= len(counts)
    paired = cut.columns % 2 == 0 and all(_items(layout, cut, k) for k in range(2, cut.columns, 2))
    return bool(few) or paired


def _items(layout: PageLayout, cut: Cut, column: int) -> dict[int, int]:
    """The number of the item that each row begins in a column, where the next one holds its text; nothing
    where anything else stands there.
    """
    own = np.flatnonzero((cut.first == column) & (cut.last == column))
    words = [cut.place.index[cut.starts[k] : cut.starts[k + 1]].tolist() for k in own.tolist()]
    texts = [layout.words.texts[each[0]] if len(each) == 1 else "" for each in words]
    counts = [int(mark[1]) for text in texts if (mark := MARK.fullmatch(text)) and not text.isdigit()]
    if len(own) < 2 or len(counts) < len(own):
        return {}
    rows = cut.row[own]
    told = cut.filled[rows, column + 1].all() and 2 * cut.numbers[rows, column + 1].sum() < len(rows)
    on = all(b - a == 1 for a, b in pairwise(counts))
    return dict(zip(rows.tolist(), counts, strict=True)) if told and on else {}
