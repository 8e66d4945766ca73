"""How sure a cell is: a fitted model over what can be seen of its place in the grid, and what the judge said
of the reading.

The model lies in data/confidence.npz (boosted regression trees) and is fitted by tools/fit_judge.py on
documents with known truth: the share of right cells among those of confidence p is about p.
"""

from __future__ import annotations

import functools

import numpy as np

from ..ink import Floats
from ..layout import PageLayout
from .draft import TableDraft, plain_text
from .evidence import FEATURES as JUDGED
from .numbers import is_numeric
from .odd import odd_numbers
from .trees import Trees, load_trees

FEATURES = (
    "drawn",  # crossing lines draw the grid
    "tagged",  # the method went by trusted tags
    "gutter",  # room between the text of the column and its neighbours, em, 0..2
    "room",  # room to the rows above and below beyond that between lines of one row, em, -0.5..1
    "kind",  # share of the cells of the column that are numbers as this one is, or are not as it is not
    "row_fill",  # share of the columns that its row fills
    "column_fill",  # share of the rows that its column fills
    "lines",  # lines of its text beyond the first, 0..4
    "span",  # whether it spans rows or columns
    "crossed",  # share of the words of the table that stand across a column's edge, 0..0.2
    "gain",  # what the judge said that the reading gains, 0..1
    "rival",  # how much less the best other reading of its words gains, 0..1
    "rows", "columns", "header",  # rows and columns of the table; whether the cell is in its header
    "stub",  # whether it is in the first column
    "words",  # its number of words, 0..12
    # How far other readings put its words where this one does, in close view and in wide, 0..1; the mean of
    # all cells of the table, and the least.
    "agreed", "agreed_wide", "agreed_mean", "agreed_wide_mean", "agreed_least", "agreed_wide_least",
    # What the judge went by, of the whole reading: whether something more belongs to it, or something less.
    "above_room", "above_parts", "above_fits", "above_named", "above_size", "above_bold", "below_room",
    "below_parts", "below_fits", "below_sentence", "seam_above", "seam_below", "seam_inside", "named_first",
    "called_first", "section_first", "section_last", "first_lone", "last_lone", "first_fill", "second_fill",
    "last_fill", "lone_rows", "row_fill_least", "column_fill_least", "unlevel_most", "unlevel_first",
    "many_lines", "goes_on", "small_below", "align_worst", "kinds_least", "gutter_least", "room_least",
    "room_over_within", "top_line", "bottom_line", "lines_inside", "uprights_missed", "spans", "body_spans",
    "bold_first", "beside", "cut_choice", "row_choice", "run", "code", "one_sided", "repeated",
)  # fmt: skip
# What was recognised, and is written otherwise than the numbers of its column, is no surer than this.
ODD = 0.5
_OWN = FEATURES.index("agreed_wide_least") + 1
_JUDGED = np.array([JUDGED.index(name) for name in FEATURES[_OWN:]])
_AT = {name: k for k, name in enumerate(FEATURES)}
_WIDE = 2.0


def features(layout: PageLayout, draft: TableDraft) -> Floats:
    """Return one row of FEATURES for each cell of a draft, in the order of `draft.cells`."""
    w, em = layout.words, layout.em
    n = len(draft.cells)
    out = np.zeros((n, len(FEATURES)))
    out[:, _AT["drawn"]] = draft.drawn
    out[:, _AT["tagged"]] = draft.method == "tagged"
    shape = np.array([(c.row, c.column, c.rowspan, c.colspan) for c in draft.cells], dtype=np.int64).reshape(
        -1, 4
    )
    row, column, rowspan, colspan = shape.T
    counts = np.array([len(c.words) for c in draft.cells], dtype=np.int64)
    full = np.flatnonzero(counts)
    words = np.array([i for c in draft.cells for i in c.words], dtype=np.int64)
    starts = np.cumsum(counts[full]) - counts[full]
    x0, y0 = (np.minimum.reduceat(side[words], starts) for side in (w.x0, w.y0))
    x1, y1 = (np.maximum.reduceat(side[words], starts) for side in (w.x1, w.y1))
    new_line = np.concatenate(([False], np.diff(w.row[words]) != 0))
    new_line[starts] = False
    lines = np.add.reduceat(new_line.astype(np.int64), starts)
    numeric = np.zeros(n, dtype=np.bool_)
    numeric[full] = [is_numeric(plain_text(layout, draft.cells[k].words)) for k in full.tolist()]
    filled = np.zeros((draft.rows, draft.columns), dtype=np.bool_)
    filled[row[full], column[full]] = True
    for k in full[(rowspan[full] > 1) | (colspan[full] > 1)].tolist():
        filled[row[k] : row[k] + rowspan[k], column[k] : column[k] + colspan[k]] = True
    out[full, _AT["lines"]] = np.minimum(4, lines)
    out[:, _AT["span"]] = (rowspan > 1) | (colspan > 1)
    left, right = np.full(draft.columns, np.inf), np.full(draft.columns, -np.inf)
    top, bottom = np.full(draft.rows, np.inf), np.full(draft.rows, -np.inf)
    narrow, low = colspan[full] == 1, rowspan[full] == 1
    np.minimum.at(left, column[full][narrow], x0[narrow])
    np.maximum.at(right, column[full][narrow], x1[narrow])
    np.minimum.at(top, row[full][low], y0[low])
    np.maximum.at(bottom, row[full][low], y1[low])
    within = np.zeros(draft.rows)
    for k in full[(lines > 0) & low].tolist():
        members = np.array(draft.cells[k].words)
        _, at = np.unique(w.row[members], return_index=True)
        tops, ends = (f.reduceat(side[members], at) for f, side in ((np.minimum, w.y0), (np.maximum, w.y1)))
        within[row[k]] = max(within[row[k]], float((np.sort(tops)[1:] - np.sort(ends)[:-1]).max()) / em)
    gaps = np.nan_to_num((left[1:] - right[:-1]) / em, nan=_WIDE, posinf=_WIDE, neginf=0.0).clip(0, _WIDE)
    gutter = np.minimum(np.append(gaps, _WIDE), np.insert(gaps, 0, _WIDE))
    rooms = np.nan_to_num((top[1:] - bottom[:-1]) / em, nan=1.0, posinf=1.0, neginf=0.0)
    room = np.minimum(np.append(rooms, 1.5), np.insert(rooms, 0, 1.5)) - within
    row_fill, column_fill = filled.mean(axis=1), filled.mean(axis=0)
    edges = np.array(draft.column_edges[1:-1])
    across = (w.x0[words, None] < edges - 0.1 * em) & (w.x1[words, None] > edges + 0.1 * em)
    out[:, _AT["crossed"]] = min(0.2, float(across.any(axis=1).mean())) if len(edges) and len(words) else 0.0
    body = (row >= draft.header_rows) & (counts > 0)
    numbers = np.bincount(column[body], weights=numeric[body], minlength=draft.columns)
    share = numbers / np.maximum(1, np.bincount(column[body], minlength=draft.columns))
    # The narrowest gutter of the columns that a cell spans; nearly all span one.
    out[:, _AT["gutter"]] = gutter[column]
    for k in np.flatnonzero(colspan > 1).tolist():
        out[k, _AT["gutter"]] = gutter[column[k] : column[k] + colspan[k]].min()
    out[:, _AT["room"]] = np.clip(room[row], -0.5, 1.0)
    out[:, _AT["kind"]] = np.where(body, np.where(numeric, share[column], 1 - share[column]), 1.0)
    out[:, _AT["row_fill"]] = row_fill[row]
    out[:, _AT["column_fill"]] = column_fill[column]
    out[:, _AT["gain"]], out[:, _AT["rival"]] = draft.gain, draft.rival
    out[:, _AT["rows"]], out[:, _AT["columns"]] = draft.rows, draft.columns
    out[:, _AT["header"]], out[:, _AT["stub"]] = row < draft.header_rows, column == 0
    out[:, _AT["words"]] = np.minimum(12, counts)
    out[:, _AT["agreed"] : _OWN] = 1.0
    if draft.agreed.shape[1] and len(full):
        agreed = np.minimum.reduceat(draft.agreed[:, words], starts, axis=1).T
        out[full, _AT["agreed"] : _AT["agreed"] + 2] = agreed
        out[:, _AT["agreed"] + 2 : _OWN] = np.concatenate((agreed.mean(axis=0), agreed.min(axis=0)))
    if len(draft.seen):
        out[:, _OWN:] = draft.seen[_JUDGED]
    return out


def confidences(layout: PageLayout, draft: TableDraft) -> Floats:
    """Return the probability in 0..1 that each cell of a draft is right: its text, place and span; 0 where it
    says what no word of the page does.
    """
    found = structure_confidences(layout, draft)
    if layout.words.sure.min(initial=1.0) < 1.0:
        # A cell is right where both its place and all its words are.
        sure = layout.words.sure
        found *= np.array([min((float(sure[i]) for i in c.words), default=1.0) for c in draft.cells])
        columns: dict[int, list[int]] = {}
        for k, c in enumerate(draft.cells):
            if c.colspan == 1 and c.row >= draft.header_rows and c.words:
                columns.setdefault(c.column, []).append(k)
        for body in columns.values():
            odd = odd_numbers([plain_text(layout, draft.cells[k].words) for k in body])
            doubtful = [k for k, is_odd in zip(body, odd, strict=True) if is_odd]
            found[doubtful] = np.minimum(found[doubtful], ODD)
    found[[bool(c.said) for c in draft.cells]] = 0.0
    return found


def structure_confidences(layout: PageLayout, draft: TableDraft) -> Floats:
    """Return the same for the places and spans of cells alone, whatever the doubt about their words."""
    if not any(c.words for c in draft.cells):
        return np.zeros(len(draft.cells))
    if draft.method == "directed":
        return np.ones(len(draft.cells))
    cases = features(layout, draft)
    # Most cells look as others of their column do: each look is asked once.
    looks: dict[bytes, int] = {}
    look = [looks.setdefault(case.tobytes(), len(looks)) for case in cases]
    asked = np.frombuffer(b"".join(looks)).reshape(len(looks), -1)
    found: Floats = 1 / (1 + np.exp(-_trees().sums(asked)))
    return found[look]


@functools.cache
def _trees() -> Trees:
    (trees,) = load_trees("confidence.npz", FEATURES)
    return trees
