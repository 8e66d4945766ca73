"""How sure a cell is: a logistic model over what can be seen of its place in the grid.

The weights lie in data/confidence.json and are fitted by tools/fit_confidence.py on drawn tables with known
truth: the share of right cells among those of confidence p is about p.
"""

from __future__ import annotations

import functools
import json
from importlib.resources import files

import numpy as np

from ..ink import Floats
from ..layout import PageLayout
from .draft import TableDraft
from .numbers import is_numeric

FEATURES = (
    "one",  # always 1
    "ruled",  # the method went by crossing lines
    "tagged",  # the method went by trusted tags
    "gutter",  # room between the text of the column and its neighbours, em, 0..2
    "room",  # room to the rows above and below beyond that between lines of one row, em, -0.5..1
    "kind",  # share of the cells of the column that are numbers as this one is, or are not as it is not
    "row_fill",  # share of the columns that its row fills
    "column_fill",  # share of the rows that its column fills
    "lines",  # lines of its text beyond the first, 0..4
    "span",  # whether it spans rows or columns
    "crossed",  # share of the words of the table that stand across a column's edge, 0..0.2
)
_WIDE = 2.0


def features(layout: PageLayout, draft: TableDraft) -> Floats:
    """Return one row of FEATURES for each cell of a draft, in the order of `draft.cells`."""
    w, em = layout.words, layout.em
    n = len(draft.cells)
    out = np.zeros((n, len(FEATURES)))
    out[:, 0] = 1.0
    out[:, 1] = draft.method == "ruled"
    out[:, 2] = draft.method == "tagged"
    left, right = np.full(draft.columns, np.inf), np.full(draft.columns, -np.inf)
    top, bottom = np.full(draft.rows, np.inf), np.full(draft.rows, -np.inf)
    numeric = np.zeros(n, dtype=np.bool_)
    filled = np.zeros((draft.rows, draft.columns), dtype=np.bool_)
    within = np.zeros(draft.rows)
    for k, c in enumerate(draft.cells):
        if not c.words:
            continue
        filled[c.row : c.row + c.rowspan, c.column : c.column + c.colspan] = True
        numeric[k] = is_numeric(" ".join(w.texts[i] for i in c.words))
        lines = np.unique(w.row[c.words])
        out[k, 8] = min(4, len(lines) - 1)
        out[k, 9] = c.rowspan > 1 or c.colspan > 1
        if c.colspan == 1:
            left[c.column] = min(left[c.column], w.x0[c.words].min())
            right[c.column] = max(right[c.column], w.x1[c.words].max())
        if c.rowspan == 1:
            top[c.row] = min(top[c.row], w.y0[c.words].min())
            bottom[c.row] = max(bottom[c.row], w.y1[c.words].max())
            if len(lines) > 1:
                tops = np.sort(np.array([w.y0[[i for i in c.words if w.row[i] == r]].min() for r in lines]))
                ends = np.sort(np.array([w.y1[[i for i in c.words if w.row[i] == r]].max() for r in lines]))
                within[c.row] = max(within[c.row], float((tops[1:] - ends[:-1]).max()) / em)
    gaps = np.nan_to_num((left[1:] - right[:-1]) / em, nan=_WIDE, posinf=_WIDE, neginf=0.0).clip(0, _WIDE)
    gutter = np.minimum(np.append(gaps, _WIDE), np.insert(gaps, 0, _WIDE))
    rooms = np.nan_to_num((top[1:] - bottom[:-1]) / em, nan=1.0, posinf=1.0, neginf=0.0)
    room = np.minimum(np.append(rooms, 1.5), np.insert(rooms, 0, 1.5)) - within
    row_fill, column_fill = filled.mean(axis=1), filled.mean(axis=0)
    edges = np.array(draft.column_edges[1:-1])
    words = np.array([i for c in draft.cells for i in c.words], dtype=np.int64)
    across = (w.x0[words, None] < edges - 0.1 * em) & (w.x1[words, None] > edges + 0.1 * em)
    out[:, 10] = min(0.2, float(across.any(axis=1).mean())) if len(edges) and len(words) else 0.0
    body = np.array([c.row >= draft.header_rows and bool(c.words) for c in draft.cells], dtype=np.bool_)
    column = np.array([c.column for c in draft.cells], dtype=np.int64)
    numbers = np.bincount(column[body], weights=numeric[body], minlength=draft.columns)
    share = numbers / np.maximum(1, np.bincount(column[body], minlength=draft.columns))
    for k, c in enumerate(draft.cells):
        out[k, 3] = gutter[c.column : c.column + c.colspan].min()
        out[k, 4] = np.clip(room[c.row], -0.5, 1.0)
        out[k, 5] = (share[c.column] if numeric[k] else 1 - share[c.column]) if body[k] else 1.0
        out[k, 6] = row_fill[c.row]
        out[k, 7] = column_fill[c.column]
    return out


def confidences(layout: PageLayout, draft: TableDraft) -> Floats:
    """Return the probability in 0..1 that each cell of a draft is right: its text, place and span."""
    if not draft.cells:
        return np.empty(0)
    if draft.method == "directed":
        return np.ones(len(draft.cells))
    found: Floats = 1 / (1 + np.exp(-(features(layout, draft) @ _weights())))
    return found


@functools.cache
def _weights() -> Floats:
    text = files("wennak.tables").joinpath("data/confidence.json").read_text(encoding="utf-8")
    weights = json.loads(text)["weights"]
    return np.array([weights[name] for name in FEATURES])
