"""Every reading of a page that is compared, beside its truth: what a judge learns from, and how far the best
of them could come.
"""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np
import numpy.typing as npt

from ..ink import PdfFile
from ..layout import PageLayout, lay_out
from ..model import Table
from ..tables import FEATURES, Judge, evidence, finish, finished, free_words, search
from ..truth import Truth
from .grid import Grid, grid_of, normal, words_of
from .metrics import content_similarity, rates
from .parts import page_text, part_of, row_pages

Floats = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]

# Readings that share fewer of their words with a true table than this (F1) are not compared with it, and with
# so many true parts at most.
LEAST, MOST = 0.25, 4
# Header rows that a part on a later page may repeat.
REPEATED = (0, 1, 2)
_SIGN = re.compile(r"[$€£¥₹¢%‰]")
_NUMBER = re.compile(r"\d|^[(–—-]")
# The blank between a sign and its number.
_BEFORE, _AFTER = re.compile(r"^([$€£¥₹¢]) (?=[-\d(.])"), re.compile(r"(?<=\d) ([%‰])$")


@dataclass(slots=True)
class Observed:
    """The readings of one page beside its truth, one entry a reading.

    `seen` (readings, features), `similar`: content similarity to the true part that is most similar, 0..1;
    `exact`: no error at all; `words`: their number; `table`: the number of that true table in its document,
    -1 for none. `parts` are the numbers of the tables that have a part on this page.
    """

    page: int
    seen: Floats
    similar: Floats
    exact: Floats
    words: Ints
    table: Ints
    parts: list[int]


def observe(pdf: Path, truth: Truth, judge: Judge) -> list[Observed]:
    """Read the pages of a document in every way that `judge` lets the search come to, and compare."""
    tables = [with_joined_signs(entry.table) for entry in truth.tables if entry.table.rows]
    with PdfFile(pdf, pdf.name) as file:
        layouts = [lay_out(ink) for ink in file.pages(list(range(1, file.page_count + 1)))]
    parts = true_parts(tables, layouts)
    return [
        _observed(layout, tables, parts.get(page, []), judge)
        for page, layout in enumerate(layouts)
        if len(layout.words)
    ]


def true_parts(
    tables: Sequence[Table], layouts: Sequence[PageLayout]
) -> dict[int, list[tuple[int, int, int]]]:
    """Return the parts of true tables by page: number of the table, first row, one past the last."""
    texts = []
    for layout in layouts:
        rows: dict[int, list[str]] = {}
        for row, text in zip(layout.words.row.tolist(), layout.words.texts, strict=True):
            rows.setdefault(row, []).append(text)
        texts.append(page_text(list(rows.values())))
    out: dict[int, list[tuple[int, int, int]]] = {}
    for k, table in enumerate(tables):
        at = row_pages(table, texts)
        for page in sorted(set(at)):
            rows_here = [r for r, p in enumerate(at) if p == page]
            out.setdefault(page, []).append((k, rows_here[0], rows_here[-1] + 1))
    return out


def _observed(
    layout: PageLayout, tables: Sequence[Table], parts: Sequence[tuple[int, int, int]], judge: Judge
) -> Observed:
    known: list[tuple[int, Grid, Counter[str]]] = []
    for k, first, last in parts:
        for head in sorted({*REPEATED, tables[k].header_rows}) if first else (0,):
            grid = grid_of(part_of(tables[k], first, last, head))
            known.append((k, grid, Counter(words_of(grid))))
    readings = search(layout, free_words(layout), judge)
    seen = (
        evidence(layout, [(r.place, r.draft) for r in readings]) if readings else np.empty((0, len(FEATURES)))
    )
    similar, exact, table = np.zeros(len(readings)), np.zeros(len(readings)), np.full(len(readings), -1)
    for k, reading in enumerate(readings):
        draft = finish(layout, reading.draft, reading.place.lines)
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
            exact[k] = max(exact[k], float(set(known[i][1].cells) == set(grid.cells)))
    return Observed(
        layout.number, seen, similar, exact, np.array([len(r.words) for r in readings], dtype=np.int64),
        table, sorted({k for k, *_ in parts}),
    )  # fmt: skip


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
