"""Tables that run over pages become one table."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from math import nan

from ..layout import RunningKey
from ..layout.joining import join_lines, joined_lines, shifted_marks
from ..model import Box, Cell, Table
from .caption import NAMED
from .draft import columns_off, goes_on
from .numbers import YEAR, is_given, is_numeric, is_value
from .repeated import repeated_rows, repeats_head

_CONTINUED = re.compile(r"\b(continued|cont['’.]?d?|fortsetzung|suite|continuación|продолжение)\b", re.I)
# Of the columns of two parts, at least this share stands at the same place, by overlap of their text.
SAME_COLUMNS = 0.8
# Or all edges of their columns agree within this share of the table's width, wherever the table stands.
SAME_EDGES = 0.02
# A column holds numbers where at least this share of its texts are some.
NUMBERS = 0.8
# Two tables below each other are parted by less than so many rows where they are one; a table goes on on the
# next page where its own has room for fewer rows than this below it.
ROOM, LEFT = 1.5, 8.0
# Labels of rows are set otherwise where the shares of their words in italics differ by more.
OTHERWISE = 0.9
# Of texts that begin with capitals no more than this share begins with a small letter.
FEW_SMALL = 0.2
# Columns of one page stand at the same place within so many rows.
ALIGNED = 0.25


@dataclass(frozen=True, slots=True)
class Near:
    """What stands above or below a table: its box, and what it would be as a running head or foot, if it may
    be one.
    """

    box: Box
    key: RunningKey | None = None


@dataclass(slots=True)
class Part:
    """A table on one page: its box with the text upright, left and right of the text in each of its columns
    (None for an empty one), the edges of the columns as shares of its width, what stands `above` and `below`
    it in its width, but for what is a running head or foot by its place, nearest first, how much `room` is
    below it above the foot of its page (points), and whether its caption is below. `ends` are the lines at
    the ends of its page that may repeat.
    Its text is recognised where it is a `picture`. `italic` is the share of the words of its labels of rows
    that is in italics (not a number where there are no two labels). `heads` and `rows` are the fonts, by name
    and half points, of its header and of the rows below.
    `origin`, `row_elements` and `cell_elements` (by row and column) are what the structure tree names them.
    """

    table: Table
    page: int
    box: Box
    columns: list[tuple[float, float] | None]
    edges: list[float]
    above: list[Near] = field(default_factory=list)
    below: list[Near] = field(default_factory=list)
    room: float = 0.0
    ends: frozenset[RunningKey] = frozenset()
    caption_below: bool = False
    picture: bool = False
    italic: float = nan
    heads: frozenset[tuple[str, int]] = frozenset()
    rows: frozenset[tuple[str, int]] = frozenset()
    origin: int = -1
    row_elements: list[int] = field(default_factory=list)
    cell_elements: dict[tuple[int, int], int] = field(default_factory=dict)


def joined(parts: Sequence[Part]) -> list[tuple[Table, int]]:
    """Join parts that continue each other; returns each table with the index of its first part."""
    out: list[tuple[Table, int]] = []
    # The last part of each table that may still go on, with the table's number: by place, the latest last,
    # and by what the tags call it, wherever that goes on.
    near: list[tuple[Part, int]] = []
    named: dict[int, tuple[Part, int]] = {}
    for index, part in enumerate(parts):
        near = [(p, k) for p, k in near if part.page - p.page < 2]
        before = (each for each in reversed(near) if continues(each[0], part, out[each[1]][0]))
        if part.origin in named:
            previous, number = named[part.origin]
            part = _one_table(previous, part)
            out[number] = (part.table, out[number][1])
        elif found := next(before, None):
            previous, number = found
            named.pop(previous.origin, None)
            picture = previous.picture and part.picture
            out[number] = (_joined(out[number][0], part.table, picture), out[number][1])
            if part.heads <= previous.rows:
                part = replace(part, heads=previous.heads)
        else:
            number = len(out)
            out.append((part.table, index))
        near = [*((p, k) for p, k in near if k != number), (part, number)]
        if part.origin >= 0:
            named[part.origin] = (part, number)
    return out


def _one_table(above: Part, below: Part) -> Part:
    """Join two parts of what the tags call one table: rows and cells that both have are the same ones."""
    rows = [*above.row_elements, *(r for r in below.row_elements if r not in above.row_elements)]
    place = {element: r for r, element in enumerate(rows)}
    last = above.row_elements[-1]
    known = {element: c for c in above.table.cells if (element := above.cell_elements[c.row, c.column]) >= 0}
    elements = dict(above.cell_elements)
    cells = list(above.table.cells)
    taken = {p for c in cells for p in _positions(c.row, c.column, c.rowspan, c.colspan)}
    repeated = _repeats_last(above, below)
    for c in below.table.cells:
        element = below.cell_elements[c.row, c.column]
        row = place[below.row_elements[c.row]]
        end = place[below.row_elements[c.row + c.rowspan - 1]] + 1
        if element in known:
            cell = known[element]
            if not any(
                p in taken
                for p in _positions(
                    cell.row + cell.rowspan, cell.column, end - cell.row - cell.rowspan, cell.colspan
                )
            ):
                cell.rowspan = max(cell.rowspan, end - cell.row)
                taken.update(_positions(cell.row, cell.column, cell.rowspan, cell.colspan))
            # A head that is repeated says nothing new; a row broken over the page goes on.
            if below.row_elements[c.row] == last and c.text and not repeated:
                cell.text = join_lines([cell.text, c.text])
            cell.places += c.places
        else:
            area = _positions(row, c.column, end - row, c.colspan)
            rowspan = 1 if any(p in taken for p in area) else end - row
            elements[row, c.column] = element
            cells.append(replace(c, row=row, rowspan=rowspan))
            taken.update(area)
    table = replace(
        above.table, rows=len(rows), cells=cells, places=above.table.places + below.table.places,
        caption=above.table.caption or below.table.caption,
        alternatives=above.table.alternatives + below.table.alternatives,
    )  # fmt: skip
    return replace(below, table=table, row_elements=rows, cell_elements=elements)


def _repeats_last(above: Part, below: Part) -> bool:
    """Whether a part says again what all cells of the last row of the part above say: its head alone."""
    said: list[dict[int, str]] = []
    for part in (above, below):
        own = {k for k, row in enumerate(part.row_elements) if row == above.row_elements[-1]}
        cells = [c for c in part.table.cells if c.row in own and c.text]
        said.append({part.cell_elements[c.row, c.column]: c.text for c in cells})
    return said[0] == said[1]


def _positions(row: int, column: int, rowspan: int, colspan: int) -> list[tuple[int, int]]:
    return [(row + i, column + j) for i in range(rowspan) for j in range(colspan)]


def follows(above: Part, below: Part, goes_on: bool = False) -> bool:
    """Whether a part stands where a table would go on: at the top of the next page or column, or right below
    with nothing between; `goes_on`: the first one goes on with a table itself.
    """
    if below.page == above.page + 1:
        return not (_but(above.below, below.ends) or _but(below.above, above.ends))
    return below.page == above.page and (
        _in_next_column(above, below, goes_on) or is_right_below(above, below)
    )


def _but(near: Sequence[Near], ends: frozenset[RunningKey]) -> list[Near]:
    """What is not repeated on the other page."""
    return [one for one in near if one.key not in ends]


def _in_next_column(above: Part, below: Part, goes_on: bool) -> bool:
    a, b = above.box, below.box
    # Two tables begin level, unless what stands there is the rest of one.
    rest = goes_on and not (below.table.header_rows or below.table.caption)
    level = abs(b.y0 - a.y0) <= ROOM * _pitch(above) and (rest or _says_more(above, below))
    # What stands over the columns or under them is as wide as both.
    return (
        b.x0 > a.x1 - 1
        and (b.y0 < a.y0 - _pitch(above) or level)
        and (not above.below or (above.below[0].box.x1 > b.x0 and above.below[0].box.y0 > b.y1))
        and (not below.above or _is_over(below.above[0].box, a, b))
    )


def _is_over(box: Box, left: Box, right: Box) -> bool:
    """Whether something stands above both of two tables in columns beside each other: it begins over the left
    one, or has its middle left of the right one.
    """
    return box.y1 < left.y0 and (box.x0 < left.x1 or box.x0 + box.x1 < 2 * right.x0)


def _says_more(above: Part, below: Part) -> bool:
    """Whether a table beside another has its head, and other labels: two that are compared have the same
    ones, or a name each.
    """
    a, b = above.table, below.table
    if not repeats_head(a, b, above.picture) or (a.caption and b.caption):
        return False
    known, labels = body_texts(a, 0), body_texts(b, 0)
    return sum(text in known for text in labels) < 0.5 * len(labels)


def is_right_below(above: Part, below: Part) -> bool:
    """Whether no more than the room of a row parts two tables of one page, and nothing stands there."""
    return (
        above.page == below.page
        and [near.box for near in above.below[:1]] == [below.box]
        and [near.box for near in below.above[:1]] == [above.box]
        and below.box.y0 - above.box.y1 < ROOM * max(_pitch(above), _pitch(below))
    )


def _pitch(part: Part) -> float:
    return (part.box.y1 - part.box.y0) / part.table.rows


def continues(above: Part, below: Part, whole: Table | None = None) -> bool:
    """Whether a part goes on with the table of another, which is `whole` with the parts before."""
    if not follows(above, below, whole is not None and whole.rows > above.table.rows):
        return False
    if above.origin >= 0 and below.origin >= 0:
        return False
    a, b = whole or above.table, below.table
    said = bool(_CONTINUED.search(b.caption))
    # Where the first has a title without a number, so has the next one.
    titled = bool(a.caption and not NAMED.match(a.caption))
    own_name = (titled or bool(NAMED.match(b.caption))) and b.caption not in ("", a.caption)
    # A name below a table ends it.
    if above.caption_below and NAMED.match(above.table.caption) and not said:
        return False
    if own_name and not said and not (below.caption_below and not NAMED.match(a.caption)):
        return False
    if a.columns != b.columns:
        return False
    near = is_right_below(above, below)
    # Labels of groups right below the header may pass for header rows; what is repeated tells. Two tables of
    # one kind below each other have the same head, too.
    repeated = a.header_rows and repeats_head(a, b, above.picture and below.picture)
    if repeated and not near:
        return True
    # What passes for a head may be the rest of the last row, or a row.
    headed = b.header_rows and a.header_rows and not said and not _is_set_as_rows(above, below)
    if headed and not (_heads_groups(a) or _heads_values(a, b) or _goes_on(a, b) or _rest(a, b, 0)):
        return False
    if above.page < below.page and above.room > LEFT * max(_pitch(above), _pitch(below)):
        # It would have gone on there.
        return False
    if abs(above.italic - below.italic) > OTHERWISE:
        return False
    if near and (
        _fits(a, [c for c in b.cells if c.row == 0 and c.column and c.text]) < 0
        or (b.header_rows and not _goes_on(a, b))
        or not _aligned(above, below)
    ):
        return False
    if _same_columns(above.columns, below.columns, 0.0) and _aligned(above, below):
        return True
    if near:
        return False
    alike = all(abs(x - y) < SAME_EDGES for x, y in zip(above.edges, below.edges, strict=True))
    shifts = [below.box.x0 - above.box.x0, below.box.x1 - above.box.x1]
    # Rules may not reach as far on both.
    shifts += [b[0] - a[0] for a, b in zip(above.columns[:1], below.columns[:1], strict=True) if a and b]
    return alike or any(
        _same_columns(above.columns, below.columns, shift) and _aligned(above, below, SAME_COLUMNS, shift)
        for shift in shifts
    )


def _is_set_as_rows(above: Part, below: Part) -> bool:
    """Whether what passes for a header is set as the rows of the table above, whose own header is not."""
    return below.heads <= above.rows and not above.heads <= above.rows


def _aligned(above: Part, below: Part, share: float = 0.5, shift: float = 0.0) -> bool:
    """Whether a share of the columns of two parts begin, end or have their middle at one place, the second
    so far right of the first.
    """
    near = ALIGNED * min(_pitch(above), _pitch(below))
    off = columns_off(above.columns, below.columns, shift)
    return sum(each < near for each in off) >= share * len(off)


def _heads_groups(table: Table) -> bool:
    """Whether a table is nothing but labels of groups of columns: those of the columns are below them."""
    return table.rows == table.header_rows and not any(c.column == 0 and c.text for c in table.cells)


def _heads_values(a: Table, b: Table) -> bool:
    """Whether what passes for a header of b is its first row, most of it values: a, which has none, is the
    head, with or without a label of rows.
    """
    if any(c.column and c.text and c.row >= a.header_rows for c in a.cells):
        return False
    heads = [c.text for c in b.cells if c.row < b.header_rows and c.column and c.text]
    return 2 * sum(map(is_value, heads)) > len(heads)


def _goes_on(a: Table, b: Table) -> bool:
    """Whether what passes for a header of b rather looks like rows of a: labels of groups, numbers where
    these are, or texts that stand in the same column there.
    """
    heads = [c for c in b.cells if c.row < b.header_rows and c.text]
    return all(c.column == 0 for c in heads) or _fits(a, heads) > 0


def _fits(a: Table, cells: Sequence[Cell]) -> int:
    """How many more cells look like those of their columns of a than do not: numbers where these are, texts
    that stand there.
    """
    fits = 0
    for column in range(a.columns):
        body = body_texts(a, column)
        numeric = are_numbers(body)
        years = any(YEAR.fullmatch(text) for text in body)
        alike = {_digits_alike(text) for text in body} - {""}
        for text in (c.text for c in cells if c.column == column):
            if numeric:
                fits += 1 if is_given(text) and (years or not YEAR.fullmatch(text)) else -1
            else:
                fits += text in body or _digits_alike(text) in alike
    return fits


def _digits_alike(text: str) -> str:
    """What is the same in texts that differ in their digits alone, as times do; nothing of plain numbers."""
    plain = is_numeric(text) or not any(c.isdigit() for c in text)
    return "" if plain else re.sub(r"\d+", "0", text)


def body_texts(table: Table, column: int) -> list[str]:
    """The texts of a column below the header."""
    return [c.text for c in table.cells if c.column == column and c.row >= table.header_rows and c.text]


def begins_large(table: Table, column: int) -> bool:
    """Return whether hardly any text of a column begins with a small letter."""
    texts = body_texts(table, column)
    return sum(text[0].islower() for text in texts) <= FEW_SMALL * len(texts)


def are_numbers(texts: Sequence[str]) -> bool:
    """Whether the texts of a column are numbers, by and large, or stand for missing ones."""
    return any(map(is_numeric, texts)) and sum(map(is_given, texts)) >= NUMBERS * len(texts)


def _same_columns(
    above: Sequence[tuple[float, float] | None], below: Sequence[tuple[float, float] | None], shift: float
) -> bool:
    pairs = [(a, b) for a, b in zip(above, below, strict=True) if a and b]
    same = sum(min(a[1] + shift, b[1]) > max(a[0] + shift, b[0]) for a, b in pairs)
    return bool(pairs) and same >= SAME_COLUMNS * len(pairs)


def _rest(a: Table, b: Table, row: int) -> dict[int, Cell]:
    """The cells of a row of b by their columns, where they are the rest of those of the last row of a: texts
    that go on in small letters, or where the last line ends with a comma, a dash or a bracket. They have no
    stub, or go on with one, where the texts of their columns begin with capitals.
    """
    above = {c.column: c for c in a.cells if c.row == a.rows - 1 and c.text and c.colspan == 1}
    rest = {c.column: c for c in b.cells if c.row == row and c.text}
    if not rest or not rest.keys() <= above.keys() or 0 not in above:
        return {}
    if 0 in rest and (len(rest) == 1 or not all(begins_large(a, column) for column in rest)):
        return {}
    further = [
        c.rowspan == c.colspan == 1 and not is_numeric(c.text) and goes_on(above[k].text, c.text)
        for k, c in rest.items()
    ]
    return rest if all(further) else {}


def _with_rest(cell: Cell, rest: Cell) -> Cell:
    """A cell with the rest of it that stands on the next page."""
    text, starts = joined_lines([cell.text, rest.text])
    marks = [*cell.marks, *shifted_marks(rest.marks, starts[1], len(text))]
    return replace(
        cell, text=text, places=cell.places + rest.places, marks=marks,
        confidence=min(cell.confidence, rest.confidence),
    )  # fmt: skip


def _joined(a: Table, b: Table, picture: bool) -> Table:
    """The rows of b under those of a, without the header that b repeats."""
    end, repeated = repeated_rows(a, b, picture) or (a.header_rows, 0)
    heads = min(a.header_rows, end)
    if _heads_groups(a) and not repeated and not _heads_values(a, b):
        heads += b.header_rows
    rest = _rest(a, b, repeated)
    cells = [
        _with_rest(c, rest[c.column]) if c.row == a.rows - 1 and c.column in rest else c for c in a.cells
    ]
    # The rest of the last row is no row of its own.
    begin = repeated + bool(rest)
    for c in b.cells:
        if c.row >= begin:
            row = c.row - begin + a.rows
            cells.append(replace(c, row=row, header=row < heads))
    table = Table(
        rows=a.rows + b.rows - begin,
        columns=a.columns,
        cells=cells,
        caption=b.caption
        if NAMED.match(b.caption) and not NAMED.match(a.caption)
        else a.caption or b.caption,
        header_rows=heads,
        method=a.method,
        confidence=min(a.confidence, b.confidence),
        places=a.places + b.places,
        alternatives=a.alternatives + b.alternatives,
    )
    return _with_spans_over(table, a.rows)


def _with_spans_over(table: Table, seam: int) -> Table:
    """The same, where labels of the row above a seam span the empty places below it: every other place of
    their column below the header has a label, some of them over several rows.
    """
    spanned = {k for c in table.cells if c.rowspan > 1 for k in range(c.column, c.column + c.colspan)}
    # Most tables have no such labels, and may have as many parts as a book has pages.
    grid = table.grid() if spanned else []
    for column in sorted(spanned):
        cell = grid[seam - 1][column]
        end = next((r for r in range(seam, table.rows) if (c := grid[r][column]) and c.text), table.rows)
        over = range(seam, end)
        if not over or cell is None or not cell.text or cell.colspan > 1 or seam == table.header_rows:
            continue
        others = [grid[r][column] for r in range(table.header_rows, table.rows) if r not in over]
        labelled = all(c and c.text and not is_numeric(c.text) for c in others)
        if labelled and any(c and c.rowspan > 1 for c in others):
            whole = replace(cell, rowspan=end - cell.row)
            kept = [c for c in table.cells if not (c.column == column and c.row in over)]
            table = replace(table, cells=[whole if c is cell else c for c in kept])
    return table
