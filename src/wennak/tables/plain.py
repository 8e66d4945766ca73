"""The method `plain`: rows of text cut at wide gaps, column by number. The baseline that others must beat."""

from __future__ import annotations

from itertools import groupby

import numpy as np

from ..layout import PageLayout
from .draft import CellDraft, TableDraft
from .rows import Row, rows_of

# Rows farther apart than this (em) are no neighbours.
MAX_ROOM = 2.0


def read_plain(layout: PageLayout) -> list[TableDraft]:
    """Return every stretch of two or more rows that fall into several pieces."""
    drafts = []
    for zone in layout.zones:
        members = zone.members[~layout.words.turned[zone.members]]
        run: list[Row] = []
        for row in [*rows_of(layout, members), None]:
            near = row is not None and (not run or row.y0 - run[-1].y1 < MAX_ROOM * layout.em)
            if row is not None and len(row.spans) > 1 and near:
                run.append(row)
                continue
            if len(run) > 1:
                drafts.append(_draft(layout, run))
            run = [row] if row is not None and len(row.spans) > 1 else []
    return drafts


def _draft(layout: PageLayout, rows: list[Row]) -> TableDraft:
    cells = []
    for r, row in enumerate(rows):
        starts = [x0 for x0, _ in row.spans]
        number = np.searchsorted(starts, layout.words.x0[row.words] + 0.01) - 1
        for column, group in groupby(zip(number.tolist(), row.words, strict=True), key=lambda pair: pair[0]):
            cells.append(CellDraft(r, max(0, column), 1, 1, [word for _, word in group]))
    box = layout.box(np.array([i for row in rows for i in row.words], dtype=np.int64))
    columns = max(len(row.spans) for row in rows)
    width = (box.x1 - box.x0) / columns
    edges = [box.x0 + k * width for k in range(columns + 1)]
    return TableDraft(box, len(rows), columns, cells, "plain", column_edges=edges)
