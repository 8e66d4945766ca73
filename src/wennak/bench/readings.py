"""Every reading of a page that is compared, beside its truth: what a judge learns from, and how far the best
of them could come.
"""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

import numpy as np
import numpy.typing as npt

from ..ink import PdfFile
from ..layout import PageLayout, lay_out
from ..model import Table
from ..scan import AS_NEEDED, recognised
from ..tables import (
    FEATURES,
    Judge,
    Reading,
    TableDraft,
    evidence,
    find_method,
    finish,
    finished,
    free_words,
    search,
)
from ..truth import Truth
from .grid import Grid, grid_of, normal, words_of
from .metrics import content_similarity, rates
from .parts import PageText, page_text, part_of, row_found, row_pages

Floats = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]

# Readings that share fewer of their words with a true table than this (F1) are not compared with it, and with
# so many true parts at most.
LEAST, MOST = 0.25, 4
# A zone of this share of the page's height may be a column of text; rows stand in columns that have this
# share of their words.
TALL, ALL = 0.15, 0.9
# Header rows that a part on a later page may repeat.
REPEATED = (0, 1, 2)
_SIGN = re.compile(r"[$€£¥₹¢%‰]")
_NUMBER = re.compile(r"\d|^[(–—-]")
# The blank between a sign and its number.
_BEFORE, _AFTER = re.compile(r"^([$€£¥₹¢]) (?=[-\d(.])"), re.compile(r"(?<=\d) ([%‰])$")


@dataclass(slots=True)
class Compared:
    """Tables beside the true parts of their page, one entry a table.

    `similar`: content similarity to the part that is most similar, 0..1; `exact`: no error at all, but for
    letters on a page that is a picture; `table`: the number of that part on the page, -1 for none.
    """

    similar: Floats
    exact: Floats
    table: Ints


@dataclass(slots=True)
class Observed(Compared):
    """The readings of one page beside its truth, one entry a reading.

    `seen` (readings, features), `gains`: what the judge says; `words`: their number. `parts` has the
    number of the true table of each true part of the page, and `combined` is what is read there in the end: a
    reading, one parted into tables side by side, or one with rows put back.
    """

    page: int
    picture: bool
    seen: Floats
    gains: Floats
    words: Ints
    parts: Ints
    combined: Compared


def observe(
    pdf: Path, truth: Truth, judge_of: Callable[[PageLayout], Judge], most: int | None = None
) -> list[Observed]:
    """Read the pages of a document in every way that their judge lets the search come to, and compare; at
    most so many readings of a page, half of them those that it likes best, the others by chance.
    """
    tables = [with_joined_signs(entry.table) for entry in truth.tables if entry.table.rows]
    with PdfFile(pdf, pdf.name) as file:
        layouts = layouts_of(file)
    parts = true_parts(tables, layouts)
    return [
        _observed(layout, tables, parts.get(page, []), judge_of(layout), most)
        for page, layout in enumerate(layouts)
        if len(layout.words)
    ]


def layouts_of(file: PdfFile) -> list[PageLayout]:
    """Return the layouts of all pages, of scanned ones as they are read."""
    numbers = list(range(1, file.page_count + 1))
    return [lay_out(ink) for ink in recognised(file, numbers, AS_NEEDED)]


def true_parts(
    tables: Sequence[Table], layouts: Sequence[PageLayout]
) -> dict[int, list[tuple[int, int, int]]]:
    """Return the parts of true tables by page, or column of a page: number of the table, first row, one past
    the last.
    """
    texts = [_text(layout, np.arange(len(layout.words))) for layout in layouts]
    columns = [[_text(layout, members) for members in _page_columns(layout)] for layout in layouts]
    out: dict[int, list[tuple[int, int, int]]] = {}
    for k, table in enumerate(tables):
        at = row_pages(table, texts)
        for page in sorted(set(at)):
            rows_here = [r for r, p in enumerate(at) if p == page]
            first, last = rows_here[0], rows_here[-1] + 1
            out.setdefault(page, []).extend(
                (k, first + a, first + b) for a, b in _by_column(part_of(table, first, last), columns[page])
            )
    return out


def _text(layout: PageLayout, members: Ints) -> PageText:
    rows: dict[int, list[str]] = {}
    for i in members.tolist():
        rows.setdefault(int(layout.words.row[i]), []).append(layout.words.texts[i])
    return page_text(list(rows.values()))


def _page_columns(layout: PageLayout) -> list[Ints]:
    """The words of each column of text, where tall zones stand beside each other."""
    boxes = [(layout.box(z.members), z.members) for z in layout.zones if len(z.members)]
    tall = [(b, m) for b, m in boxes if b.y1 - b.y0 > TALL * layout.height]
    columns: list[list[int]] = []
    edge = -np.inf
    for box, members in sorted(tall, key=lambda t: t[0].x0):
        if box.x0 > edge:
            columns.append([])
        columns[-1] += members.tolist()
        edge = max(edge, box.x1)
    return [np.array(sorted(c)) for c in columns]


def _by_column(table: Table, columns: Sequence[PageText]) -> list[tuple[int, int]]:
    """First row and one past the last of the parts that a table has in columns of text: one part where not
    nearly all words of each row stand in its column.
    """
    if len(columns) > 1:
        at = row_pages(table, columns)
        found = [row_found(table, r, columns[c]) for r, c in enumerate(at)]
        if len(set(at)) > 1 and float(np.mean(found)) > ALL:
            ends = [r for r in range(1, len(at)) if at[r] != at[r - 1]]
            return list(zip([0, *ends], [*ends, len(at)], strict=True))
    return [(0, table.rows)]


def _observed(
    layout: PageLayout,
    tables: Sequence[Table],
    parts: Sequence[tuple[int, int, int]],
    judge: Judge,
    most: int | None,
) -> Observed:
    known: list[tuple[int, Grid, Counter[str]]] = []
    for number, (k, first, last) in enumerate(parts):
        for head in sorted({*REPEATED, tables[k].header_rows}) if first else (0,):
            grid = grid_of(part_of(tables[k], first, last, head))
            known.append((number, grid, Counter(words_of(grid))))
    picture = layout.ink.source == "picture"
    readings = _some(search(layout, free_words(layout), judge), most)
    seen = evidence(layout, readings) if readings else np.empty((0, len(FEATURES)))
    drafts = [finish(layout, reading.draft(), reading.place.lines) for reading in readings]
    own = _compared(layout, drafts, known)
    return Observed(
        own.similar, own.exact, own.table,
        layout.number, picture, seen,
        np.array([r.gain for r in readings]),
        np.array([r.words for r in readings], dtype=np.int64),
        np.array([k for k, _, _ in parts], dtype=np.int64),
        _compared(layout, find_method("combined")(layout), known),
    )  # fmt: skip


def _compared(
    layout: PageLayout, drafts: Sequence[TableDraft], known: Sequence[tuple[int, Grid, Counter[str]]]
) -> Compared:
    """Compare tables with the parts that are known: number, grid and words of each."""
    picture = layout.ink.source == "picture"
    similar, exact, table = np.zeros(len(drafts)), np.zeros(len(drafts)), np.full(len(drafts), -1)
    for k, draft in enumerate(drafts):
        grid = grid_of(with_joined_signs(finished(draft, layout)))
        said = Counter(words_of(grid))
        shares = [
            (rates((said & w).total(), w.total(), said.total()).f1, i) for i, (_, _, w) in enumerate(known)
        ]
        for share, i in sorted(shares, reverse=True)[:MOST]:
            if share < LEAST:
                break
            score = content_similarity(known[i][1], grid)
            if score > similar[k]:
                similar[k], table[k] = score, known[i][0]
            exact[k] = max(exact[k], float(_cells(known[i][1], picture) == _cells(grid, picture)))
    return Compared(similar, exact, table)


def _cells(grid: Grid, picture: bool) -> set[tuple[Any, ...]]:
    """The cells of a grid; of a picture, whose letters are read as well as may be, only where they are."""
    return {cell[:4] if picture else cell for cell in grid.cells}


def _some(readings: list[Reading], most: int | None) -> list[Reading]:
    """At most so many readings, half of them the best, in their order."""
    if most is None or len(readings) <= most:
        return readings
    by_gain = np.argsort([-r.gain for r in readings], kind="stable")
    kept = by_gain[: most // 2]
    rest = np.random.default_rng(0).permutation(by_gain[most // 2 :])[: most - len(kept)]
    return [readings[k] for k in sorted([*kept.tolist(), *rest.tolist()])]


def with_joined_signs(table: Table) -> Table:
    """Return a table whose columns of nothing but currency or percent signs are joined to the numbers beside
    them, as both ways of printing say the same.
    """
    for column in range(table.columns - 1, -1, -1):
        own = [c for c in table.cells if c.column == column and c.colspan == 1 and c.text]
        if not own or not all(_SIGN.fullmatch(normal(c.text)) for c in own):
            continue
        after = all(normal(c.text) in "%‰" for c in own)
        target = column - 1 if after else column + 1
        beside = {c.row: c for c in table.cells if c.column == target and c.colspan == 1}
        if not all(c.row in beside and _NUMBER.search(normal(beside[c.row].text)) for c in own):
            continue
        table = _joined(table, column, {c.row: c.text for c in own}, target, after)
    cells = [replace(c, text=_AFTER.sub(r"\1", _BEFORE.sub(r"\1", normal(c.text)))) for c in table.cells]
    return replace(table, cells=cells)


def _joined(table: Table, column: int, signs: dict[int, str], target: int, after: bool) -> Table:
    cells = []
    for c in table.cells:
        if c.column == column and c.colspan == 1:
            continue
        if c.column == target and c.colspan == 1 and c.row in signs:
            c = replace(c, text=c.text + signs[c.row] if after else signs[c.row] + c.text)
        if c.column <= column < c.column + c.colspan:
            c = replace(c, colspan=c.colspan - 1)
        cells.append(replace(c, column=c.column - (c.column > column)))
    return replace(table, columns=table.columns - 1, cells=cells)
