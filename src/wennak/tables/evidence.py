"""What can be seen of readings: the numbers that the judge goes by.

Lengths are in em of the page's text, shares in 0..1. Nothing is decided here. All readings of a page are seen
at once: their cells, rows and columns lie in arrays, numbered through.
"""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from ..ink import Floats, Ints
from ..layout import PageLayout
from ..layout.joining import MARKER
from . import grouped
from .caption import NAMED
from .draft import TableDraft, plain_text
from .numbers import is_numeric
from .places import Place
from .strips import Row

# Rooms and distances beyond this (em) say nothing more.
FAR = 4.0
# Text of so many words is prose; a sentence has at least so many, and a stop.
PROSE, SENTENCE = 8, 4
# Ends of text this near (em) to an edge or rule touch it.
TOUCH = 0.25
_MATHS = frozenset("=+−×÷±∑∏∫√≤≥≈≠∂∇∞∈⎛⎝⎜⎞⎠⎟⎡⎣⎢⎤⎦⎥")
# Keeps readings apart on one axis, in points.
_APART = 1e5

# What a judge says of readings, given their features: what each gains.
Judge = Callable[[Floats], Floats]

_PLACE = (
    "words", "beside", "sizes", "size", "fixed", "maths", "led", "named_first", "width", "line_count", "fields",
    "above_room", "above_parts", "above_size", "above_bold", "above_named", "above_inside", "above_sentence", "above_numbers",
    "below_room", "below_parts", "below_size", "below_bold", "below_named", "below_inside", "below_sentence", "below_numbers",
    "seam_above", "seam_below", "seam_inside", "seams_inside",
)  # fmt: skip
_READING = (
    "rows", "columns", "cell_words", "cell_words_most", "fill", "row_fill_least", "column_fill_least",
    "lone_rows", "bare_columns", "stub_fill", "first_fill", "second_fill", "last_fill", "crossed", "spans",
    "body_spans", "first_spans", "numbers", "number_columns", "kinds", "kinds_least", "first_numbers", "align",
    "align_worst", "left", "prose", "gutter", "gutter_least", "gutter_second", "room", "room_least",
    "room_spread", "within", "room_over_within", "many_lines", "row_lines", "row_lines_most", "stub_lines",
    "lined", "lines_inside", "top_line", "bottom_line", "first_line", "last_line", "uprights",
    "uprights_missed", "above_fits", "below_fits", "bold_first", "bold_rest", "marks", "repeated",
    "heads_apart", "second_apart", "last_apart", "column_most", "wide_rows", "drawn", "first_lone", "last_lone",
    "first_off_centre", "first_size", "last_size", "last_sentence", "last_wide", "stub_indents", "labels_centred",
    "several_numbers", "inner_gap", "inner_gap_most", "run", "first_cuts", "row_choice",
)  # fmt: skip
FEATURES = (*_PLACE, *_READING)


@dataclass(slots=True)
class _Facts:
    """What the distinct cells of some readings are, one entry a cell."""

    x0: Floats
    x1: Floats
    y0: Floats
    y1: Floats
    words: Floats
    lines: Floats
    within: Floats
    numeric: Floats
    bold: Floats
    size: Floats
    mark: Floats
    sentence: Floats
    said: Floats
    several: Floats
    gap: Floats


def evidence(layout: PageLayout, readings: Sequence[tuple[Place, TableDraft]]) -> Floats:
    """Return the FEATURES of readings of places, a row each."""
    seen: dict[int, list[float]] = {}
    for place, _ in readings:
        if id(place) not in seen:
            seen[id(place)] = _of_place(layout, place)
    places = np.array([seen[id(place)] for place, _ in readings])
    return np.concatenate((places, _of_readings(layout, readings)), axis=1)


# --- What does not depend on columns and rows


def _of_place(layout: PageLayout, place: Place) -> list[float]:
    w, em, box, words = layout.words, layout.em, place.box, place.words
    level = (w.y0 < box.y1) & (w.y1 > box.y0) & ~w.turned
    near = level & (w.x1 > box.x0 - 3 * em) & (w.x0 < box.x1 + 3 * em)
    near &= (w.x1 < box.x0 - 0.2 * em) | (w.x0 > box.x1 + 0.2 * em)
    fixed = np.array([f.fixed_pitch for f in layout.ink.fonts] or [False], dtype=np.float64)[w.font]
    size = w.size[words]
    texts = [w.texts[i] for i in words.tolist()]
    maths = sum(not _MATHS.isdisjoint(t) for t in texts) / len(texts)
    first = place.rows[0]
    return [
        float(np.log1p(len(words))), float(np.log1p(near.sum())), float(size.std() / em),
        float(np.median(size) / em), float(fixed[words].mean() - fixed.mean()), maths, float(w.led[words].mean()),
        float(bool(NAMED.match(_said(layout, first)))), (box.x1 - box.x0) / em / 50,
        min(30.0, float(len(place.lines))), _share_in_fields(layout, words),
        *_beyond(layout, place, place.above, place.rows[0].y0 - place.above.y1 if place.above else 0.0),
        *_beyond(layout, place, place.below, place.below.y0 - box.y1 if place.below else 0.0),
        *_seams(layout, place),
    ]  # fmt: skip


def _seams(layout: PageLayout, place: Place) -> list[float]:
    """How strong the seams above, below and within a place are (the strongest one, and the mean)."""
    if place.strip is None:
        return [3.0, 3.0, 0.0, 0.0]
    strength = place.strip.strengths(layout)
    a, b = place.first, place.first + len(place.rows)
    inner = strength[a : b - 1]
    above = float(strength[a - 1]) if a else 3.0
    below = float(strength[b - 1]) if b <= len(strength) else 3.0
    return [
        above,
        below,
        float(inner.max()) if len(inner) else 0.0,
        float(inner.mean()) if len(inner) else 0.0,
    ]


def _share_in_fields(layout: PageLayout, words: Ints) -> float:
    held = np.zeros(len(layout.words))
    for area in layout.fields:
        held[area.words] = 1.0
    return float(held[words].mean())


def _beyond(layout: PageLayout, place: Place, row: Row | None, room: float) -> list[float]:
    """What stands right above or below a place."""
    if row is None:
        return [FAR, 0.0, 1.0, 0.0, 0.0, 0.0, 0.0, 0.0]
    w, em, box = layout.words, layout.em, place.box
    bold = [layout.ink.fonts[int(w.font[i])].bold for i in row.words]
    said = _said(layout, row)
    return [
        min(FAR, max(-1.0, room / em)), float(min(6, len(row.spans))), float(w.size[row.words].max()) / em,
        sum(bold) / len(bold), float(bool(NAMED.match(said))),
        float(row.x0 > box.x0 - em and row.x1 < box.x1 + em), float(_is_sentence(said)),
        sum(is_numeric(w.texts[i]) for i in row.words) / len(row.words),
    ]  # fmt: skip


def _said(layout: PageLayout, row: Row) -> str:
    return plain_text(layout, row.words)


def _is_sentence(text: str) -> bool:
    return text[-1:] in ".:;" and text.count(" ") >= SENTENCE - 1


# --- What depends on them


def _facts(layout: PageLayout, cells: Sequence[tuple[int, ...]]) -> _Facts:
    w, em = layout.words, layout.em
    counts = np.array([len(c) for c in cells], dtype=np.int64)
    index = np.array([i for c in cells for i in c], dtype=np.int64)
    starts = np.cumsum(counts) - counts
    new_line = np.concatenate(([True], np.diff(w.row[index]) != 0))
    new_line[starts] = True
    bold = np.array([f.bold for f in layout.ink.fonts] or [False], dtype=np.float64)[w.font[index]]
    lines = np.add.reduceat(new_line.astype(np.float64), starts)
    within = np.zeros(len(cells))
    for k in np.flatnonzero(lines > 1).tolist():
        at = starts[k] + np.flatnonzero(new_line[starts[k] : starts[k] + counts[k]])
        ends = np.append(at[1:], starts[k] + counts[k])
        tops = [float(w.y0[index[a:b]].min()) for a, b in zip(at, ends, strict=True)]
        feet = [float(w.y1[index[a:b]].max()) for a, b in zip(at, ends, strict=True)]
        within[k] = max(b - a for a, b in zip(sorted(feet), sorted(tops)[1:], strict=False)) / em
    gap = np.zeros(len(index))
    gap[1:] = (w.x0[index][1:] - w.x1[index][:-1]) / em
    gap[new_line] = 0.0
    texts = [plain_text(layout, c) for c in cells]
    several = [len(c) > 1 and all(is_numeric(w.texts[i]) for i in c) for c in cells]
    known: dict[str, int] = {}
    said = np.array([known.setdefault(t, len(known)) for t in texts], dtype=np.int64)
    return _Facts(
        np.minimum.reduceat(w.x0[index], starts), np.maximum.reduceat(w.x1[index], starts),
        np.minimum.reduceat(w.y0[index], starts), np.maximum.reduceat(w.y1[index], starts),
        counts.astype(np.float64), lines, within,
        np.array([is_numeric(t) for t in texts], dtype=np.float64), np.add.reduceat(bold, starts),
        np.maximum.reduceat(w.size[index], starts),
        np.array([bool(MARKER.match(t)) for t in texts], dtype=np.float64),
        np.array([_is_sentence(t) for t in texts], dtype=np.float64), np.random.default_rng(0).random(len(known))[said],
        np.array(several, dtype=np.float64), np.maximum.reduceat(gap, starts).clip(0, FAR),
    )  # fmt: skip


def _of_readings(layout: PageLayout, readings: Sequence[tuple[Place, TableDraft]]) -> Floats:
    em, n = layout.em, len(readings)
    distinct: dict[tuple[int, ...], int] = {}
    shape: list[tuple[int, int, int, int, int]] = []
    which: list[int] = []
    for k, (_, draft) in enumerate(readings):
        for c in draft.cells:
            if c.words:
                shape.append((k, c.row, c.column, c.rowspan, c.colspan))
                which.append(distinct.setdefault(tuple(c.words), len(distinct)))
    facts = _facts(layout, list(distinct))
    of, row, column, rowspan, colspan = np.array(shape, dtype=np.int64).T
    at = np.array(which, dtype=np.int64)
    rows = np.array([d.rows for _, d in readings], dtype=np.int64)
    columns = np.array([d.columns for _, d in readings], dtype=np.int64)
    row_start, column_start = np.cumsum(rows) - rows, np.cumsum(columns) - columns
    of_row, of_column = np.repeat(np.arange(n), rows), np.repeat(np.arange(n), columns)
    gr, gc = row_start[of] + row, column_start[of] + column
    nr, nc = int(rows.sum()), int(columns.sum())
    x0, x1 = facts.x0[at], facts.x1[at]
    words, numeric = facts.words[at], facts.numeric[at]
    narrow = colspan == 1
    first, last = row == 0, row == rows[of] - 1

    # Fill.
    # A cell counts in every row and column that it covers.
    reached = np.repeat(gr, rowspan) + _ranges(rowspan)
    row_cells = grouped.count(reached, nr)
    row_fill = grouped.total(np.repeat(colspan, rowspan).astype(np.float64), reached, nr) / columns[of_row]
    filled_columns = grouped.total(rowspan[narrow].astype(np.float64), gc[narrow], nc)
    starts = np.zeros(nc + 1)
    np.add.at(starts, gc, rowspan.astype(np.float64))
    np.add.at(starts, gc + colspan, -rowspan.astype(np.float64))
    column_fill = np.cumsum(starts[:nc]) / rows[of_column]
    lone = row_cells == 1
    body = row >= np.minimum(2, rows[of] - 1)
    wide = (colspan > 1).astype(np.float64)
    second = np.minimum(row_start + 1, row_start + rows - 1)
    final = row_start + rows - 1

    # Words across edges.
    edges, edge_of = _laid([d.column_edges[1:-1] for _, d in readings])
    edge_keys = edges + edge_of * _APART
    index = np.array([i for c in distinct for i in c], dtype=np.int64)
    word_count = facts.words.astype(np.int64)
    word_start = np.cumsum(word_count) - word_count
    picks = np.repeat(word_start[at], word_count[at]) + _ranges(word_count[at])
    word_of = np.repeat(of, word_count[at])
    wx0, wx1 = layout.words.x0[index[picks]], layout.words.x1[index[picks]]
    across = _between(edge_keys, wx0 + 0.1 * em + word_of * _APART, wx1 - 0.1 * em + word_of * _APART) > 0

    # Kinds and alignment of columns, below the first row.
    inner = ~first & narrow
    ic, count = gc[inner], grouped.count(gc[inner], nc)
    share = grouped.mean(numeric[inner], ic, nc)
    pure = np.maximum(share, 1 - share)
    weight = grouped.total(count, of_column, n)
    known = count > 1
    off = []
    for side in (x0, x1, (x0 + x1) / 2):
        usual = grouped.median(side[inner], ic, nc)
        off.append(grouped.mean(np.minimum(np.abs(side[inner] - usual[ic]) / em, 2.0), ic, nc))
    best = np.min(off, axis=0)

    # Gutters, between the texts of neighbouring columns.
    left, right = grouped.least(x0[narrow], gc[narrow], nc), grouped.most(x1[narrow], gc[narrow], nc)
    gaps = np.nan_to_num((left[1:] - right[:-1]) / em, nan=FAR, posinf=FAR, neginf=FAR).clip(-1, FAR)
    pairs = of_column[1:] == of_column[:-1]
    gaps, gap_of = gaps[pairs], of_column[1:][pairs]
    gap_least = grouped.least(gaps, gap_of, n, 0.0)
    above_least = gaps > gap_least[gap_of]
    gap_second = grouped.least(gaps[above_least], gap_of[above_least], n, 0.0)

    # Rooms between rows.
    # Heights of rows are those of cells in one row, where there are such.
    low_cells = rowspan == 1
    tall_top, tall_bottom = grouped.least(facts.y0[at], gr, nr, 0.0), grouped.most(facts.y1[at], gr, nr, 0.0)
    top = grouped.least(facts.y0[at][low_cells], gr[low_cells], nr)
    bottom = grouped.most(facts.y1[at][low_cells], gr[low_cells], nr)
    top, bottom = (
        np.where(np.isfinite(top), top, tall_top),
        np.where(np.isfinite(bottom), bottom, tall_bottom),
    )
    reach = np.maximum.accumulate(bottom + of_row * _APART) - of_row * _APART
    steps = of_row[1:] == of_row[:-1]
    low, high, room_of = reach[:-1][steps], top[1:][steps], of_row[1:][steps]
    rooms = ((high - low) / em).clip(-1, FAR)
    room = grouped.median(rooms, room_of, n)
    room_least = grouped.least(rooms, room_of, n, 0.0)
    all_rooms = np.zeros(nr)
    all_rooms[1:][steps] = rooms
    within = grouped.most(facts.within[at], of, n, 0.0)
    lines = facts.lines[at]
    row_lines = grouped.most(lines, gr, nr, 0.0)

    # Rules.
    lines_at, line_of = _laid([p.lines for p, _ in readings])
    line_keys = lines_at + line_of * _APART
    feet = reach[final]
    touch = TOUCH * em
    tops = top[row_start]
    inside = ((lines_at > tops[line_of]) & (lines_at < feet[line_of])).astype(np.float64)
    lined = _between(line_keys, low - touch + room_of * _APART, high + touch + room_of * _APART)
    met = grouped.total(lined, room_of, n)
    held = grouped.total(inside, line_of, n)
    row_lined = np.zeros(nr)
    row_lined[1:][steps] = lined > 0
    cuts, cut_of = _laid([p.cuts for p, _ in readings])
    near = 0.6 * em
    by_cut = _between(cuts + cut_of * _APART, edge_keys - near, edge_keys + near)
    by_edge = _between(edge_keys, cuts - near + cut_of * _APART, cuts + near + cut_of * _APART)

    # Looks.
    bold = facts.bold[at]
    said = grouped.total(facts.said[at] * (column + 1), gr, nr)
    head = np.where(row_cells[row_start] > 1, row_start, second)
    again = (np.abs(said - said[head][of_row]) < 1e-9) & (np.arange(nr) > head[of_row]) & (row_cells > 1)
    x_low, x_high = grouped.least(x0, gr, nr, 0.0), grouped.most(x1, gr, nr, 0.0)
    box0 = np.array([p.box.x0 for p, _ in readings])
    box1 = np.array([p.box.x1 for p, _ in readings])
    middle = np.abs((x_low + x_high) / 2 - ((box0 + box1) / 2)[of_row]) / em
    size = grouped.most(facts.size[at], gr, nr, 0.0)
    usual_size = grouped.median(facts.size[at], of, n, 1.0)
    width = (x_high - x_low) / np.maximum(box1 - box0, 1.0)[of_row]
    stub = column == 0
    column_words = grouped.total(words, gc, nc)
    centred = lone & (middle < 0.7) & (x_low > box0[of_row] + em)
    out: Floats = np.stack(
        (
            rows, columns, grouped.mean(words, of, n), grouped.most(words, of, n),
            grouped.mean(row_fill, of_row, n), grouped.least(row_fill, of_row, n),
            grouped.least(column_fill, of_column, n), grouped.mean(lone.astype(np.float64), of_row, n),
            grouped.mean((filled_columns <= 1).astype(np.float64), of_column, n), column_fill[column_start],
            row_fill[row_start], row_fill[second], row_fill[final],
            grouped.mean(across.astype(np.float64), word_of, n), grouped.mean(wide, of, n),
            grouped.mean(wide[body], of[body], n), grouped.mean(wide[first], of[first], n),
            grouped.mean(numeric, of, n), grouped.total(((share > 0.7) & known).astype(np.float64), of_column, n),
            grouped.total(pure * count, of_column, n) / np.maximum(weight, 1),
            grouped.least(pure[known], of_column[known], n, 1.0), grouped.mean(numeric[first], of[first], n),
            grouped.total(best * count, of_column, n) / np.maximum(weight, 1),
            grouped.most(best[known], of_column[known], n, 0.0), off[0][column_start],
            grouped.mean((words >= PROSE).astype(np.float64), of, n),
            grouped.median(gaps, gap_of, n), gap_least, gap_second, room, room_least,
            grouped.spread(rooms, room_of, n), within, np.where(within > 0, room_least - within, FAR),
            grouped.mean((lines > 1).astype(np.float64), of, n), grouped.mean(row_lines, of_row, n),
            grouped.most(row_lines, of_row, n), grouped.mean(lines[stub], of[stub], n),
            grouped.mean((lined > 0).astype(np.float64), room_of, n),
            np.clip(1 - met / np.maximum(held, 1), 0, 1) * (held > 0),
            _between(line_keys, tops - em + np.arange(n) * _APART, tops + touch + np.arange(n) * _APART) > 0,
            _between(line_keys, feet - touch + np.arange(n) * _APART, feet + em + np.arange(n) * _APART) > 0,
            row_lined[second], row_lined[final],
            grouped.mean((by_cut > 0).astype(np.float64), edge_of, n),
            grouped.mean((by_edge == 0).astype(np.float64), cut_of, n),
            *_fits(layout, readings),
            grouped.total(bold[first], of[first], n) / np.maximum(grouped.total(words[first], of[first], n), 1),
            grouped.total(bold[~first], of[~first], n) / np.maximum(grouped.total(words[~first], of[~first], n), 1),
            grouped.mean(facts.mark[at][stub], of[stub], n), grouped.mean(again.astype(np.float64), of_row, n),
            all_rooms[second] - room, all_rooms[np.minimum(row_start + 2, final)] - room, all_rooms[final] - room,
            grouped.most(column_words, of_column, n) / grouped.total(words, of, n),
            grouped.mean((width > 0.7).astype(np.float64), of_row, n),
            np.array([float(d.drawn) for _, d in readings]), lone[row_start], lone[final],
            np.minimum(middle[row_start], 2 * FAR), size[row_start] / usual_size, size[final] / usual_size,
            grouped.most(facts.sentence[at][last], of[last], n, 0.0), width[final],
            grouped.spread(x0[stub], of[stub], n) / em, grouped.mean(centred.astype(np.float64), of_row, n),
            grouped.mean(facts.several[at], of, n), grouped.mean(facts.gap[at], of, n),
            grouped.most(facts.gap[at], of, n, 0.0),
            np.array([float(p.run) for p, _ in readings]),
            np.array([float(d.usual[0]) for _, d in readings]), np.array([float(d.usual[1]) for _, d in readings]),
        ),
        axis=1,
    ).astype(np.float64)  # fmt: skip
    return out


def _laid(lists: Sequence[Sequence[float]]) -> tuple[Floats, Ints]:
    """Sorted values of several lists in one array, and the number of the list of each."""
    values = np.array([v for values in lists for v in sorted(values)], dtype=np.float64)
    return values, np.repeat(np.arange(len(lists)), [len(values) for values in lists])


def _between(keys: Floats, low: Floats, high: Floats) -> Floats:
    """How many of the sorted keys lie between each low and high."""
    found: Floats = np.maximum(np.searchsorted(keys, high) - np.searchsorted(keys, low), 0).astype(np.float64)
    return found


def _ranges(counts: Ints) -> Ints:
    """0, 1, ... below each count, one after the other."""
    return np.arange(int(counts.sum())) - np.repeat(np.cumsum(counts) - counts, counts)


def _fits(layout: PageLayout, readings: Sequence[tuple[Place, TableDraft]]) -> tuple[Floats, Floats]:
    """The share of the parts of the row above each reading that stand within its columns, and below it."""
    reach = 0.2 * layout.em
    out = np.zeros((2, len(readings)))
    for k, (place, draft) in enumerate(readings):
        edges = sorted(draft.column_edges[1:-1])
        for side, row in enumerate((place.above, place.below)):
            if row is not None and edges:
                whole = [
                    bisect_right(edges, x0 + reach) >= bisect_left(edges, x1 - reach) for x0, x1 in row.spans
                ]
                out[side, k] = sum(whole) / len(whole)
    return out[0], out[1]
