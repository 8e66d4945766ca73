"""A table read as a person directs: where it is, and if need be where its columns part."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..layout import PageLayout
from ..model import Box
from .areas import words_inside
from .draft import TableDraft
from .finish import finish
from .judge import judge_of
from .places import place_of
from .search import best_draft


def read_directed(
    layout: PageLayout, box: Box, cuts: Sequence[float] = (), headers: int | None = None
) -> TableDraft | None:
    """Read what stands in a box of the layout as one table; None if nothing does.

    `cuts` are the x between columns; without them, rules and white space tell. `headers` is the number of
    header rows, found as in any table if None.
    """
    members = words_inside(layout, box)
    if not len(members):
        return None
    inner = layout.box(members)
    place = place_of(layout, members, np.ones(len(layout.words), dtype=np.bool_), inner)
    inside = sorted(x for x in cuts if inner.x0 < x < inner.x1)
    draft = best_draft(layout, place, judge_of(layout), inside or None, "directed")
    return finish(layout, draft, place.lines, headers)
