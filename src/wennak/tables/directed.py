"""A table read as a person directs: where it is, and if need be where its columns part."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..layout import PageLayout
from ..model import Box
from .draft import TableDraft
from .reading import inner_lines, read_grid, set_header
from .regions import lines_in, words_inside
from .strips import gutters, rows_of


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
    rows = rows_of(layout, members)
    em = float(np.median(layout.words.size[members]))
    inner = layout.box(members)
    if not cuts:
        upright = layout.rules.upright
        crossing = (
            (upright.low < inner.y1)
            & (upright.high > inner.y0)
            & (upright.at > inner.x0)
            & (upright.at < inner.x1)
        )
        ruled = sorted(
            set(
                np.round(
                    upright.at[crossing & (upright.high - upright.low > 0.5 * (inner.y1 - inner.y0))]
                ).tolist()
            )
        )
        cuts = ruled or gutters(layout, rows, inner.x0, inner.x1, em, stub=True)
    cuts = sorted(x for x in cuts if inner.x0 < x < inner.x1)
    lines = inner_lines(rows, lines_in(layout, box))
    draft = read_grid(layout, rows, cuts, inner, "directed", lines)
    set_header(layout, draft, lines, headers)
    return draft
