"""Tables as grids to compare: normal texts and spans at every place."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from ..model import Place, Table

Texts = npt.NDArray[np.object_]
Ints = npt.NDArray[np.int64]
# (row, column, rowspan, colspan, normal text) of a cell.
GridCell = tuple[int, int, int, int, str]

_ALIKE = str.maketrans(
    "\u2010\u2011\u2012\u2013\u2014\u2212\u2018\u2019\u201c\u201d\u00a0",
    "------''\"\" ",
    "\u00ad\u200b\ufeff",
)
_MARK = re.compile(r"(?m)^([•◦▪‣●○■□·-]|\d{1,3}[.)])\s+")


def normal(text: str) -> str:
    """Return a text without the differences that are none: compatibility forms, kinds of dashes, quotes and
    blanks, and marks of list items within a cell.

    >>> normal("“1 − 2” ")
    '"1 - 2"'
    """
    if "\n" in text:
        text = _MARK.sub("", text)
    if not text.isascii():
        text = unicodedata.normalize("NFKC", text).translate(_ALIKE)
    return " ".join(text.split())


@dataclass(frozen=True, slots=True, eq=False)
class Grid:
    """A table as it is compared.

    `texts` (rows, columns): the normal text of the cell that covers each place. `extents` (rows, columns, 4):
    first row and column, and one past the last, of that cell relative to the place. `cells`: those with text.
    `header_rows`: rows of column headers. `places`: where it stands. Rows and columns that are empty
    throughout are left out everywhere: they say nothing.
    """

    texts: Texts
    extents: Ints
    cells: tuple[GridCell, ...]
    header_rows: int
    places: tuple[Place, ...]
    boxes: tuple[tuple[GridCell, Place], ...] = ()
    caption: str = ""

    @property
    def shape(self) -> tuple[int, int]:
        """Number of rows and columns."""
        return int(self.texts.shape[0]), int(self.texts.shape[1])


def grid_of(table: Table) -> Grid:
    """Return a table as a grid."""
    texts = {id(c): normal(c.text) for c in table.cells}
    rows = sorted({r for c in table.cells if texts[id(c)] for r in range(c.row, c.row + c.rowspan)})
    columns = sorted({k for c in table.cells if texts[id(c)] for k in range(c.column, c.column + c.colspan)})
    row_at, column_at = {r: i for i, r in enumerate(rows)}, {k: i for i, k in enumerate(columns)}
    out = np.full((len(rows), len(columns)), "", dtype=object)
    extents = np.zeros((len(rows), len(columns), 4), dtype=np.int64)
    extents[:, :, 2:] = 1
    cells, boxes = [], []
    for c in sorted(table.cells, key=lambda c: (c.row, c.column)):
        rs = [row_at[r] for r in range(c.row, c.row + c.rowspan) if r in row_at]
        ks = [column_at[k] for k in range(c.column, c.column + c.colspan) if k in column_at]
        if not rs or not ks:
            continue
        r0, k0, r1, k1 = rs[0], ks[0], rs[-1] + 1, ks[-1] + 1
        text = texts[id(c)]
        for r in range(r0, r1):
            for k in range(k0, k1):
                out[r, k] = text
                extents[r, k] = (r0 - r, k0 - k, r1 - r, k1 - k)
        if text:
            cell = (r0, k0, r1 - r0, k1 - k0, text)
            cells.append(cell)
            if c.places:
                boxes.append((cell, c.places[0]))
    heads = sum(r < table.header_rows for r in rows)
    return Grid(
        out, extents, tuple(cells), min(heads, max(0, len(rows) - 1)), tuple(table.places), tuple(boxes),
        normal(table.caption),
    )  # fmt: skip


def first_rows(grid: Grid, rows: int) -> Grid:
    """Return the first rows of a grid, cells cut to them; the grid itself where it has no more."""
    if grid.shape[0] <= rows:
        return grid

    def cut(cell: GridCell) -> GridCell:
        r, c, h, w, text = cell
        return r, c, min(h, rows - r), w, text

    return replace(
        grid, texts=grid.texts[:rows], extents=grid.extents[:rows],
        cells=tuple(cut(cell) for cell in grid.cells if cell[0] < rows),
        boxes=tuple((cut(cell), place) for cell, place in grid.boxes if cell[0] < rows),
    )  # fmt: skip


def words_of(grid: Grid) -> list[str]:
    """Return the words of a grid; those of a span as often as it has places."""
    return [word for text in grid.texts.ravel().tolist() for word in text.split()]


def is_number(text: str) -> bool:
    """Whether a text is one number, with the signs that go with numbers in print."""
    digits = sum(ch.isdigit() for ch in text)
    return digits > 0 and bool(_NUMBER.fullmatch(text))


_NUMBER = re.compile(r"[-+(<>~]*\s?[$€£¥%]?\s?[-+(]?\s?\d[\d.,' ]*\s?[)%]?[-*†‡a-d]?\s?[$€£¥%]?\)?")


def number_of(text: str) -> str:
    """Return the digits, sign and decimal mark of a printed number: what makes it that value.

    >>> number_of("(1,204.50)") == number_of("-1 204.50")
    True
    """
    negative = "(" in text or text.strip("$€£¥% ").startswith("-") or text.endswith("-")
    bare = re.sub(r"[^\d.,]", "", text)
    # A last mark with other than three digits behind it is the decimal mark.
    match = re.fullmatch(r"(.*)[.,](\d*)", bare)
    if match and len(match[2]) != 3:
        whole = re.sub(r"[.,]", "", match[1]) or "0"
        bare = f"{whole}.{match[2].rstrip('0')}".rstrip(".")
    else:
        bare = re.sub(r"[.,]", "", bare)
    return f"-{bare}" if negative else bare


def header_paths(grid: Grid) -> Sequence[str]:
    """Return one label a column: the texts of its header rows from the top, each said once."""
    out = []
    for k in range(grid.shape[1]):
        parts = [t for t in grid.texts[: grid.header_rows, k].tolist() if t]
        out.append(" / ".join(dict.fromkeys(parts)))
    return out
