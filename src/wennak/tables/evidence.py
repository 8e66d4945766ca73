"""What can be seen of readings: the numbers that the judge goes by.

Lengths are in em of the page's text, shares in 0..1. Nothing is decided here. All readings of a page are seen
at once: their cells, rows and columns lie in arrays, numbered through.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np

from ..ink import Floats, Ints, distinct
from ..layout import PageLayout
from . import cells as at
from . import grouped
from .cells import cells_of
from .grid import share_across
from .places import Place
from .reading import Reading
from .strip import SENTENCE
from .surroundings import FAR, PLACE_FEATURES, place_features

# Text of so many words is prose.
PROSE = 8
# Ends of text this near (em) to an edge or rule touch it.
TOUCH = 0.25
# Keeps readings apart on one axis, in points.
_APART = 1e5

# What a judge says of readings, given their features: what each gains.
Judge = Callable[[Floats], Floats]

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
    "several_numbers", "inner_gap", "inner_gap_most", "run", "cut_choice", "row_choice", "small", "hyphens",
    "small_below", "goes_on", "stub_distinct", "bold_last", "unlevel", "unlevel_most", "unlevel_first",
    "gutter_most", "one_sided",
)  # fmt: skip
FEATURES = (*PLACE_FEATURES, *_READING)


def evidence(layout: PageLayout, readings: Sequence[Reading]) -> Floats:
    """Return the FEATURES of readings of places, a row each: the same whatever others are seen with them."""
    places: dict[int, Place] = {id(r.place): r.place for r in readings}
    seen = dict(zip(places, place_features(layout, list(places.values())), strict=True))
    return np.concatenate(
        (np.array([seen[id(r.place)] for r in readings]), _of_readings(layout, readings)), axis=1
    )


def _of_readings(layout: PageLayout, readings: Sequence[Reading]) -> Floats:
    em, n = layout.em, len(readings)
    cells = cells_of(layout, readings)
    of, row, column, rowspan, colspan = cells.of, cells.row, cells.column, cells.rowspan, cells.colspan
    facts = cells.facts.T
    rows, columns = np.array([r.shape for r in readings], dtype=np.int64).T
    row_start, column_start = np.cumsum(rows) - rows, np.cumsum(columns) - columns
    of_row, of_column = np.repeat(np.arange(n), rows), np.repeat(np.arange(n), columns)
    gr, gc = row_start[of] + row, column_start[of] + column
    nr, nc = int(rows.sum()), int(columns.sum())
    x0, x1, y0, y1, words, numeric = facts[[at.X0, at.X1, at.Y0, at.Y1, at.WORDS, at.NUMERIC]]
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

    edges, edge_of = _laid([_edges(r) for r in readings])
    edge_keys = edges + edge_of * _APART

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
    gap_most = grouped.most(gaps, gap_of, n, 0.0)
    # Rows on one side only of the widest gutter, with columns on both sides: of tables side by side the one is
    # longer.
    widest = np.full(n, 0)
    at_most = np.flatnonzero(gaps == gap_most[gap_of])
    widest[gap_of[at_most]] = (np.arange(1, nc) - column_start[of_column[1:]])[pairs][at_most]
    on_left = grouped.count(gr[column < widest[of]], nr) > 0
    on_right = grouped.count(gr[column + colspan > widest[of]], nr) > 0
    one_sided = grouped.mean((on_left != on_right).astype(np.float64), of_row, n)
    one_sided *= (widest > 1) & (widest < columns - 1)

    # Rooms between rows.
    # Heights of rows are those of cells in one row, where there are such.
    low_cells = rowspan == 1
    tall_top, tall_bottom = grouped.least(y0, gr, nr, 0.0), grouped.most(y1, gr, nr, 0.0)
    top = grouped.least(y0[low_cells], gr[low_cells], nr)
    bottom = grouped.most(y1[low_cells], gr[low_cells], nr)
    top, bottom = (
        np.where(np.isfinite(top), top, tall_top),
        np.where(np.isfinite(bottom), bottom, tall_bottom),
    )
    reach = bottom[_so_far(bottom + of_row * _APART)]
    steps = of_row[1:] == of_row[:-1]
    low, high, room_of = reach[:-1][steps], top[1:][steps], of_row[1:][steps]
    rooms = ((high - low) / em).clip(-1, FAR)
    room = grouped.median(rooms, room_of, n)
    room_least = grouped.least(rooms, room_of, n, 0.0)
    all_rooms = np.zeros(nr)
    all_rooms[1:][steps] = rooms
    within = grouped.most(facts[at.WITHIN], of, n, 0.0)
    lines = facts[at.LINES]
    row_lines = grouped.most(lines, gr, nr, 0.0)

    # Cells of one row agree in their tops, their feet or their middles.
    uneven = np.full(nr, np.inf)
    for side in (y0, y1, (y0 + y1) / 2):
        highest, lowest = (
            how(side[low_cells], gr[low_cells], nr, 0.0) for how in (grouped.least, grouped.most)
        )
        uneven = np.minimum(uneven, (lowest - highest) / em)
    uneven = uneven.clip(0, FAR)

    # Rules.
    lines_at, line_of = _laid([r.place.lines for r in readings])
    line_keys = lines_at + line_of * _APART
    feet = reach[final]
    touch = TOUCH * em
    tops = top[row_start]
    inside = ((lines_at > tops[line_of]) & (lines_at < feet[line_of])).astype(np.float64)
    lined = _between(line_keys, low - touch + room_of * _APART, high + touch + room_of * _APART)
    met = grouped.total(lined, room_of, n)
    # Where lines part all rows, room says nothing.
    lined_share = grouped.mean((lined > 0).astype(np.float64), room_of, n)
    held = grouped.total(inside, line_of, n)
    row_lined = np.zeros(nr)
    row_lined[1:][steps] = lined > 0
    cuts, cut_of = _laid([r.place.cuts for r in readings])
    near = 0.6 * em
    by_cut = _between(cuts + cut_of * _APART, edge_keys - near, edge_keys + near)
    by_edge = _between(edge_keys, cuts - near + cut_of * _APART, cuts + near + cut_of * _APART)

    # Looks.
    bold = facts[at.BOLD]
    said = grouped.total(facts[at.SAID] * (column + 1), gr, nr)
    head = np.where(row_cells[row_start] > 1, row_start, second)
    again = (np.abs(said - said[head][of_row]) < 1e-9) & (np.arange(nr) > head[of_row]) & (row_cells > 1)
    x_low, x_high = grouped.least(x0, gr, nr, 0.0), grouped.most(x1, gr, nr, 0.0)
    box0 = np.array([r.place.box.x0 for r in readings])
    box1 = np.array([r.place.box.x1 for r in readings])
    middle = np.abs((x_low + x_high) / 2 - ((box0 + box1) / 2)[of_row]) / em
    size = grouped.most(facts[at.SIZE], gr, nr, 0.0)
    usual_size = grouped.median(facts[at.SIZE], of, n, 1.0)
    width = (x_high - x_low) / np.maximum(box1 - box0, 1.0)[of_row]
    stub = column == 0
    sentence = ((facts[at.STOP] > 0) & (words >= SENTENCE)).astype(np.float64)
    # Groups of rows with numbers may have the same labels: the labels of the groups tell these apart.
    number_columns = grouped.total(((share > 0.7) & known).astype(np.float64), of_column, n)
    heads = lone & (np.bincount(gr[stub], minlength=nr) > 0) & (number_columns > 0)[of_row]
    group = np.maximum.accumulate(np.where(heads, np.arange(nr), row_start[of_row]))
    labels = distinct(group[gr[stub]] + 1j * facts[at.SAID][stub]).real.astype(np.int64)
    different = grouped.count(of_row[labels], n)

    # Cells below each other whose text may run on.
    order = np.lexsort((gr, gc))
    order = order[(colspan[order] == 1) & (rowspan[order] == 1)]
    next_to = (gc[order][1:] == gc[order][:-1]) & (gr[order][1:] == gr[order][:-1] + 1)
    upper, lower = order[:-1][next_to], order[1:][next_to]
    small_below = facts[at.SMALL][lower] * (1 - facts[at.STOP][upper])
    reaching = x1[upper] > right[gc[upper]] - 0.15 * (right - left)[gc[upper]]
    column_words = grouped.total(words, gc, nc)
    centred = lone & (middle < 0.7) & (x_low > box0[of_row] + em)
    out: Floats = np.stack(
        (
            rows, columns, grouped.mean(words, of, n), grouped.most(words, of, n),
            grouped.mean(row_fill, of_row, n), grouped.least(row_fill, of_row, n),
            grouped.least(column_fill, of_column, n), grouped.mean(lone.astype(np.float64), of_row, n),
            grouped.mean((filled_columns <= 1).astype(np.float64), of_column, n), column_fill[column_start],
            row_fill[row_start], row_fill[second], row_fill[final],
            np.array([_crossed(layout, r) for r in readings]), grouped.mean(wide, of, n),
            grouped.mean(wide[body], of[body], n), grouped.mean(wide[first], of[first], n),
            grouped.mean(numeric, of, n), number_columns,
            grouped.total(pure * count, of_column, n) / np.maximum(weight, 1),
            grouped.least(pure[known], of_column[known], n, 1.0), grouped.mean(numeric[first], of[first], n),
            grouped.total(best * count, of_column, n) / np.maximum(weight, 1),
            grouped.most(best[known], of_column[known], n, 0.0), off[0][column_start],
            grouped.mean((words >= PROSE).astype(np.float64), of, n),
            grouped.median(gaps, gap_of, n), gap_least, gap_second, room, room_least,
            grouped.spread(rooms, room_of, n), within,
            np.where((within > 0) & (lined_share < 1), room_least - within, FAR),
            grouped.mean((lines > 1).astype(np.float64), of, n), grouped.mean(row_lines, of_row, n),
            grouped.most(row_lines, of_row, n), grouped.mean(lines[stub], of[stub], n),
            lined_share,
            np.clip(1 - met / np.maximum(held, 1), 0, 1) * (held > 0),
            _between(line_keys, tops - em + np.arange(n) * _APART, tops + touch + np.arange(n) * _APART) > 0,
            _between(line_keys, feet - touch + np.arange(n) * _APART, feet + em + np.arange(n) * _APART) > 0,
            row_lined[second], row_lined[final],
            grouped.mean((by_cut > 0).astype(np.float64), edge_of, n),
            grouped.mean((by_edge == 0).astype(np.float64), cut_of, n),
            *_fits(layout, readings),
            grouped.total(bold[first], of[first], n) / np.maximum(grouped.total(words[first], of[first], n), 1),
            grouped.total(bold[~first], of[~first], n) / np.maximum(grouped.total(words[~first], of[~first], n), 1),
            grouped.mean(facts[at.MARK][stub], of[stub], n), grouped.mean(again.astype(np.float64), of_row, n),
            all_rooms[second] - room, all_rooms[np.minimum(row_start + 2, final)] - room, all_rooms[final] - room,
            grouped.most(column_words, of_column, n) / grouped.total(words, of, n),
            grouped.mean((width > 0.7).astype(np.float64), of_row, n),
            np.array([float(r.cut is None) for r in readings]), lone[row_start], lone[final],
            np.minimum(middle[row_start], 2 * FAR), size[row_start] / usual_size, size[final] / usual_size,
            grouped.most(sentence[last], of[last], n, 0.0), width[final],
            grouped.spread(x0[stub], of[stub], n) / em, grouped.mean(centred.astype(np.float64), of_row, n),
            grouped.mean(((facts[at.DIGITS] == words) & (words > 1)).astype(np.float64), of, n), grouped.mean(facts[at.GAP], of, n),
            grouped.most(facts[at.GAP], of, n, 0.0),
            np.array([float(r.place.run) for r in readings]),
            *np.array([r.usual for r in readings], dtype=np.float64).T,
            grouped.mean(facts[at.SMALL][~first], of[~first], n), grouped.mean(facts[at.HYPHEN], of, n),
            grouped.mean(small_below, of[lower], n), grouped.mean(small_below * reaching, of[lower], n),
            different / np.maximum(grouped.count(of[stub], n), 1),
            grouped.total(bold[last], of[last], n) / np.maximum(grouped.total(words[last], of[last], n), 1),
            grouped.mean(uneven, of_row, n), grouped.most(uneven, of_row, n), uneven[row_start],
            gap_most, one_sided,
        ),
        axis=1,
    ).astype(np.float64)  # fmt: skip
    return out


def _so_far(keys: Floats) -> Ints:
    """Where the greatest of the keys up to each is: what is taken from there has all its digits."""
    greatest = keys >= np.maximum.accumulate(keys)
    out: Ints = np.maximum.accumulate(np.where(greatest, np.arange(len(keys)), 0))
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


def _edges(reading: Reading) -> Sequence[float]:
    """The x between the columns of a reading."""
    if reading.cut is not None:
        return reading.cut.cuts
    return reading.drawn.column_edges[1:-1] if reading.drawn is not None else ()


def _crossed(layout: PageLayout, reading: Reading) -> float:
    """The share of words that stand across edges."""
    if reading.cut is not None:
        return reading.cut.crossed
    return share_across(layout, reading.place.index, _edges(reading))


def _fits(layout: PageLayout, readings: Sequence[Reading]) -> Floats:
    """The share of the parts of the row above each reading that stand within its columns, and below it:
    (2, readings).
    """
    reach = 0.2 * layout.em
    known: dict[int, tuple[float, float]] = {}
    out = []
    for reading in readings:
        key = id(reading.cut or reading)
        if key not in known:
            edges = np.asarray(_edges(reading))
            shares = [0.0, 0.0]
            for side, beyond in enumerate((reading.place.above, reading.place.below)):
                if beyond is not None and len(edges):
                    x0, x1 = np.array(beyond[0].rows[beyond[1]].spans).T
                    whole = edges.searchsorted(x0 + reach, "right") >= edges.searchsorted(x1 - reach)
                    shares[side] = float(whole.mean())
            known[key] = (shares[0], shares[1])
        out.append(known[key])
    return np.array(out).T
