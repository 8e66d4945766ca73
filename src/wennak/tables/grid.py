"""Rows of words cut at columns, and the grid that follows once it is known which rows make one."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..ink import Bools, Floats, Ints, distinct, median
from ..layout import PageLayout
from .draft import CellDraft, TableDraft, goes_on, plain_text
from .gutters import are_markers
from .header import MAX_HEADER
from .numbers import is_numeric
from .places import Place
from .rows import blank_limits, column_of
from .strip import SENTENCE

# Text begins at the edge of its column when it is this near (em).
ALIGNED = 0.12
# So many labels of a line, and this share of them, show how they are set.
LABELS, MOST = 3, 0.75
# Cuts give way to words that stand across them where these are less than this share.
FEW = 0.1
# Words stand across an edge when they reach this far (em) beyond it on both sides.
_ACROSS = 0.1
# Numbers below each other in so many columns tell two rows.
SEVERAL = 2
# So many lines with text in so many columns each are rows, where such a share of the rows of several lines is
# like that.
STACK, MOST_STACKED = 3, 0.5
# A head that begins another table stands so much farther (em) from the row above than rows usually do.
ANEW = 0.5


@dataclass(slots=True, eq=False)
class Cut:
    """The rows of a place cut at columns into pieces, from top to bottom and from left to right.

    One entry a piece: `row` (counted in the place), `first` and `last` column; `starts`: where its words
    begin in the index of the place (one entry more). (rows,
    columns): `filled` by text; `numbers`: by a number.
    `crossed` is the share of words that stand across a cut as it was given.
    """

    place: Place
    cuts: list[float]
    row: Ints
    first: Ints
    last: Ints
    starts: Ints
    filled: Bools
    numbers: Bools
    crossed: float

    @property
    def columns(self) -> int:
        """Number of columns."""
        return len(self.cuts) + 1


def cut_place(layout: PageLayout, place: Place, cuts: Sequence[float]) -> Cut:
    """Cut the rows of a place at the x between columns.

    Each word goes to the column that holds it; words without a wide gap between them stay in one piece, which
    spans the columns that its text reaches into.
    """
    w, em, strip = layout.words, layout.em, place.strip
    index, edges = place.index, np.asarray(cuts, dtype=np.float64)
    row_starts = strip.starts[place.first : place.last + 1] - strip.starts[place.first]
    row = np.repeat(np.arange(place.last - place.first), np.diff(row_starts))
    numeric = strip.numeric[strip.starts[place.first] : strip.starts[place.last]]
    x0, x1 = w.x0[index], w.x1[index]
    crossed = share_across(layout, index, cuts)
    if crossed:
        parted = w.apart[index] | (np.append(0.0, x0[1:] - x1[:-1]) > blank_limits(layout, index))
        edges = _beside_labels(edges, x0, x1, row, parted, em)
        cuts = edges.tolist()
        crossed = share_across(layout, index, cuts)
    if 0 < crossed < FEW:
        edges = _off_words(edges, x0, x1, row_starts[:-1], em)
        cuts = edges.tolist()
    first, last = column_of(x0, x1, cuts)
    joined = np.zeros(len(index), dtype=np.bool_)
    before, here = last[:-1], first[1:]
    level = row[1:] == row[:-1]
    joined[1:] = level & (here <= before)
    # A blank across a cut: the text runs on, unless none is drawn where others are, numbers stand on both
    # sides, or the column's text begins right here and what is before the cut is set as the text of its own
    # column, or a number ends where those of the column do.
    blank = level & (here == before + 1) & (x0[1:] - x1[:-1] < blank_limits(layout, index[1:]))
    blank &= ~w.apart[index[1:]]
    doubtful = np.flatnonzero(blank & ~(numeric[1:] & numeric[:-1]))
    if len(doubtful):
        left, right = _edges(x0, x1, row_starts[:-1], edges, em)
        cut, near = before[doubtful], ALIGNED * em
        parted = np.abs(x0[1:][doubtful] - left[cut]) < near
        parted &= ~_off_own(x0, x1, row, first, left, right, near)[doubtful]
        parted |= numeric[1:][doubtful] & (np.abs(x1[1:][doubtful] - right[cut]) < near)
        parted |= _set_to_the_right(x1, first, row, right, near, doubtful)
        joined[1:][doubtful] = ~parted
    starts = np.flatnonzero(~joined)
    first, last = first[starts], np.maximum.reduceat(last, starts)
    row, ends = row[starts], np.append(starts, len(index))
    n, m = place.last - place.first, len(cuts) + 1
    reached = np.zeros((n, m + 1), dtype=np.int64)
    np.add.at(reached, (row, first), 1)
    np.add.at(reached, (row, last + 1), -1)
    numbers = np.zeros((n, m), dtype=np.bool_)
    lone, narrow = np.diff(ends) == 1, first == last
    single = lone & narrow & strip.digits[strip.starts[place.first] : strip.starts[place.last]][starts]
    numbers[row[single], first[single]] = True
    for k in np.flatnonzero(~lone & narrow & (np.add.reduceat(numeric, starts) > 0)).tolist():
        text = plain_text(layout, index[ends[k] : ends[k + 1]].tolist())
        if any(c.isdigit() for c in text) and is_numeric(text):
            numbers[row[k], first[k]] = True
    return Cut(
        place, list(cuts), row, first, last, ends, np.cumsum(reached, axis=1)[:, :m] > 0, numbers, crossed,
    )  # fmt: skip


def share_across(layout: PageLayout, index: Ints, cuts: Sequence[float]) -> float:
    """Return the share of words that stand across the x between columns, 0..1."""
    w, reach, edges = layout.words, _ACROSS * layout.em, np.asarray(cuts, dtype=np.float64)
    across = np.searchsorted(edges, w.x1[index] - reach) > np.searchsorted(edges, w.x0[index] + reach)
    return float(across.mean())


def without_idle_columns(layout: PageLayout, cut: Cut) -> Cut:
    """Drop cuts beside columns that hold no text of their own: the room between a label and its values, or
    what labels alone in their rows, in the middle of the table, make one.
    """
    place = cut.place
    beside = np.append(place.strip.facts.beside[place.first : place.last], False)
    # Beside other lines a text alone in its own is at mid height of these.
    level = (np.bincount(cut.row, minlength=len(beside) - 1) > 1) | beside[:-1] | beside[1:]
    narrow = (cut.first == cut.last) & (level[cut.row] | (cut.first == 0))
    own = np.bincount(cut.first[narrow], minlength=cut.columns)
    idle = set()
    for k in np.flatnonzero(own == 0).tolist():
        over = (cut.first <= k) & (cut.last >= k)
        rightwards = (over & (cut.last > k)).sum() >= (over & (cut.first < k)).sum()
        idle.add(k if (rightwards and k < len(cut.cuts)) or k == 0 else k - 1)
    if not idle or len(idle) >= len(cut.cuts):
        return cut
    return cut_place(layout, cut.place, [x for k, x in enumerate(cut.cuts) if k not in idle])


def merged(row: Ints, first: Ints, last: Ints, columns: int) -> tuple[Ints, Bools]:
    """Return the order of pieces by their table row and first column, and which of them in that order begins
    a cell: pieces of one row that share a column are one.
    """
    order = np.lexsort((first, row))
    base = row[order] * (columns + 1)
    reach = np.maximum.accumulate(base + last[order])
    begins = np.ones(len(order), dtype=np.bool_)
    begins[1:] = base[1:] + first[order][1:] > reach[:-1]
    return order, begins


def joins_neighbours(cut: Cut, table_row: Ints) -> bool:
    """Return whether any cell of a reading holds pieces that stand beside each other in one line, as labels
    of two columns below one over both do.
    """
    order, begins = merged(table_row[cut.row], cut.first, cut.last, cut.columns)
    # The piece before, in the same line, and no cell begins between.
    line, cell = cut.row[order], np.cumsum(begins)
    by_line = np.lexsort((line, cell))
    same = (np.diff(line[by_line]) == 0) & (np.diff(cell[by_line]) == 0)
    return bool(same.any())


def stacks_numbers(cut: Cut, table_row: Ints) -> bool:
    """Return whether any row of a reading holds two lines that begin with a label and have numbers in several
    columns in common: as two rows do.
    """
    together = (np.diff(table_row) == 0) & cut.filled[1:, 0] & cut.filled[:-1, 0]
    return bool((together & ((cut.numbers[1:] & cut.numbers[:-1]).sum(axis=1) >= SEVERAL)).any())


def stacks_lines(filled: Bools, table_row: Ints) -> bool:
    """Return whether most rows of a reading that hold several lines, and two at least, hold three or more
    with text in three columns or more in each: as the rows of a group do between the rules around it, and
    cells that wrap do not. `filled` tells it of lines and columns, `table_row` the row of each line.
    """
    # A label at mid height of them is no line of theirs.
    lines = filled.sum(axis=1) >= SEVERAL
    filled, table_row = filled[lines], table_row[lines]
    if len(table_row) < SEVERAL * STACK:
        return False
    starts = np.flatnonzero(np.diff(table_row, prepend=-1))
    count = np.diff(np.append(starts, len(table_row)))
    stacked = (count >= STACK) & (np.logical_and.reduceat(filled, starts).sum(axis=1) >= STACK)
    return bool(stacked.sum() >= max(SEVERAL, MOST_STACKED * (count > 1).sum()))


def drawn_lines(layout: PageLayout, draft: TableDraft) -> tuple[Bools, Ints]:
    """Return of the lines in the rows of a grid which columns they have text in, and the row of each."""
    cells = [c for c in draft.cells if c.words and c.rowspan == 1]
    held = np.array([(c.row, c.column, i) for c in cells for i in c.words], dtype=np.int64)
    row, column, words = held.reshape(-1, 3).T
    key = row * (len(layout.words) + 1) + layout.words.row[words]
    lines = distinct(key)
    filled = np.zeros((len(lines), draft.columns), dtype=np.bool_)
    filled[np.searchsorted(lines, key), column] = True
    return filled, lines // (len(layout.words) + 1)


def runs_on(layout: PageLayout, cut: Cut, table_row: Ints) -> bool:
    """Return whether lines of several words in a column mostly go on in the next row of a reading with what
    begins small: a column of prose stands beside a table.
    """
    texts, index = layout.words.texts, cut.place.index
    row, count = table_row[cut.row], np.diff(cut.starts)
    for column in range(cut.columns):
        own = np.flatnonzero((cut.first == column) & (count >= SENTENCE))
        ends = np.flatnonzero(np.diff(row[own]) > 0)
        last, first = index[cut.starts[own[ends] + 1] - 1].tolist(), index[cut.starts[own[ends + 1]]].tolist()
        on = sum(goes_on(texts[a], texts[b]) for a, b in zip(last, first, strict=True))
        if on >= max(STACK, MOST_STACKED * len(ends)):
            return True
    return False


def parts_marks(layout: PageLayout, cut: Cut) -> bool:
    """Return whether any column but the first of a cut place holds the marks of list items."""
    index, texts = cut.place.index[cut.starts[:-1]], layout.words.texts
    columns: list[list[str]] = [[] for _ in range(cut.columns)]
    for column, word in zip(cut.first.tolist(), index.tolist(), strict=True):
        columns[column].append(texts[word])
    return any(are_markers(column) for column in columns[1:] if column)


def parts_label(cut: Cut, table_row: Ints) -> bool:
    """Return whether any line of a place is nothing but a label that ends with a comma, and is a row of its
    own though the next line goes on with a label: the values of a row may stand beside the end of its label.
    """
    lone = cut.filled[:-1, 0] & (cut.filled[:-1].sum(axis=1) == 1) & cut.filled[1:, 0]
    texts, first = cut.place.strip.facts.texts, cut.place.first
    rows = np.flatnonzero(lone & (np.diff(table_row, prepend=-1)[:-1] > 0) & (np.diff(table_row) > 0))
    return any(texts[first + row].endswith(",") for row in rows.tolist())


def repeats_head(cut: Cut) -> int:
    """Return how often one of the first rows of a place, labels without numbers in several columns, stands in
    it once more, apart from the rows above: as where the next table begins.
    """
    facts, a, b = cut.place.strip.facts, cut.place.first, cut.place.last
    texts, first = facts.texts[a:b], int(facts.parts[a:b].argmax())
    head = slice(first, first + MAX_HEADER)
    labels = (cut.filled[head].sum(axis=1) >= SEVERAL) & ~cut.numbers[head].any(axis=1)
    rows = (np.flatnonzero(labels) + first).tolist()
    again = [k for r in rows for k in range(r + 1, b - a) if texts[k] == texts[r]]
    if not again:
        return 0
    rooms = facts.y0[a + 1 : b] - np.maximum.accumulate(facts.y1[a:b])[:-1]
    apart = rooms > median(rooms) + ANEW * cut.place.strip.layout.em
    return int(apart[np.array(again) - 1].sum())


def assembled(cut: Cut, table_row: Ints, method: str) -> TableDraft:
    """Build the grid of a cut place; `table_row` tells which row of the table each of its rows belongs to."""
    index, box = cut.place.index.tolist(), cut.place.box
    rows = table_row[cut.row]
    order, begins = merged(rows, cut.first, cut.last, cut.columns)
    cells: list[CellDraft] = []
    ends = cut.starts.tolist()
    pieces = zip(
        order.tolist(), begins.tolist(), rows[order].tolist(), cut.first[order].tolist(),
        cut.last[order].tolist(), strict=True,
    )  # fmt: skip
    for k, new, row, first, last in pieces:
        words = index[ends[k] : ends[k + 1]]
        if new:
            cells.append(CellDraft(row, first, 1, last - first + 1, words))
        else:
            cell = cells[-1]
            cell.colspan = max(cell.colspan, last - cell.column + 1)
            cell.words = sorted([*cell.words, *words])
    return TableDraft(
        box=box,
        rows=int(table_row[-1]) + 1,
        columns=cut.columns,
        cells=cells,
        method=method,
        column_edges=[box.x0, *cut.cuts, box.x1],
    )


def _edges(x0: Floats, x1: Floats, starts: Ints, cuts: Floats, em: float) -> tuple[Floats, Floats]:
    """Where the text right of each cut begins, and where that of its column ends, in at least half of the
    rows; not a number where it does not agree.
    """
    ends = np.append(cuts[1:], np.inf)
    beyond = x0 >= cuts[:, None] - 0.2 * em
    first = np.minimum.reduceat(np.where(beyond, x0, np.inf), starts, axis=1)
    own = beyond & (x1 <= ends[:, None] + 0.2 * em)
    last = np.maximum.reduceat(np.where(own, x1, -np.inf), starts, axis=1)
    left, right = (np.array([_agreed(values, em) for values in side]) for side in (first, last))
    return left, right


def _off_own(
    x0: Floats, x1: Floats, row: Ints, first: Ints, left: Floats, right: Floats, near: float
) -> Bools:
    """Of each word, whether what stands in its row and column up to it neither begins nor ends where the
    texts of that column do, as far as these agree.
    """
    number = np.arange(len(x0))
    new = np.append(True, (np.diff(row) != 0) | (np.diff(first) != 0))
    begin = x0[np.maximum.accumulate(np.where(new, number, 0))]
    begins, ends = (np.append(np.nan, side)[first] for side in (left, right))
    off: Bools = np.fmin(np.abs(begin - begins), np.abs(x1 - ends)) > near
    return off


def _set_to_the_right(x1: Floats, first: Ints, row: Ints, right: Floats, near: float, which: Ints) -> Bools:
    """Of some words, whether they and the next, of another column, are of labels that end where the numbers
    of their columns do, or as far behind these as most labels of the line.
    """
    ends = np.append((np.diff(row) != 0) | (np.diff(first) != 0), True)
    off = np.where(ends, x1 - np.append(np.nan, right)[first], np.nan)
    set_so = np.zeros(len(x1), dtype=np.bool_)
    for line in distinct(row[which]).tolist():
        here = np.flatnonzero((row == line) & np.isfinite(off))
        if len(here) >= LABELS:
            same = (np.abs(off[here]) < 4 * near) & (np.abs(off[here] - median(off[here])) < near)
            set_so[here] = same & (same.sum() >= max(LABELS, MOST * len(here)))
    # How a label is set shows at its last word; a word before another column is one.
    last = np.flatnonzero(ends)
    out: Bools = set_so[which] & set_so[last[np.searchsorted(last, which + 1)]]
    return out


def _beside_labels(cuts: Floats, x0: Floats, x1: Floats, row: Ints, parted: Bools, em: float) -> Floats:
    """Cuts moved to where no words stand across, if those that do have others behind them in their lines,
    as labels wider than the rest of their column: to between these and what is behind. `parted` words are
    not of one text with the word before.
    """
    reach = _ACROSS * em
    out = cuts.copy()
    stand = (x0[:, None] < cuts - reach) & (x1[:, None] > cuts + reach)
    for k in np.flatnonzero(stand.any(axis=0)).tolist():
        across = stand[:, k]
        end = float(x1[across].max())
        behind = ~across & (x0 > cuts[k] - reach) & (x0 < (cuts[k + 1] if k + 1 < len(cuts) else np.inf))
        begin = float(x0[behind].min(initial=np.inf))
        after = np.minimum(np.flatnonzero(across) + 1, len(x0) - 1)
        if end < begin < np.inf and (behind & parted)[after].all() and (row[after] == row[across]).all():
            out[k] = (end + begin) / 2
    return out


def _off_words(cuts: Floats, x0: Floats, x1: Floats, starts: Ints, em: float) -> Floats:
    """Cuts moved to where fewer words stand across them: right, to where the text behind them begins, since
    the longest line of a column may end a blank before the next one (where that is set to the right, its
    texts begin at one place by chance); or left, before long labels of a column that is set to the right.
    """
    left, right = _edges(x0, x1, starts, cuts, em)
    reach = _ACROSS * em
    begin = left - 2 * reach
    across = (x0[:, None] < cuts - reach) & (x1[:, None] > cuts + reach)
    sooner = np.where(across, x0[:, None], np.inf).min(axis=0) - reach
    # What ends before a cut stays there.
    stays = ~((x1[:, None] > sooner) & (x1[:, None] <= cuts + reach)).any(axis=0)
    moved = np.where(~np.isnan(left) & np.isnan(right) & (begin > cuts), begin, cuts)
    moved = np.where(~np.isnan(right) & stays & np.isfinite(sooner), sooner, moved)
    after = ((x0[:, None] < moved - reach) & (x1[:, None] > moved + reach)).sum(axis=0)
    out: Floats = np.where(after < across.sum(axis=0), moved, cuts)
    return out


def _agreed(values: Floats, em: float) -> float:
    """The value that at least half of the finite ones, and three, share."""
    values = np.sort(values[np.isfinite(values)])
    if len(values) < 3:
        return np.nan
    near = ALIGNED * em
    agreed = np.searchsorted(values, values + near) - np.searchsorted(values, values - near)
    best = int(agreed.argmax())
    return float(values[best]) if agreed[best] >= max(3, 0.5 * len(values)) else np.nan
