"""A reading of a place: its columns and rows, and what the judge says of it."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from ..ink import Floats, Ints, distinct
from .draft import TableDraft
from .grid import Cut, assembled
from .places import Place

# The gain of a reading that was not judged yet.
UNKNOWN = -np.inf
# The way of readings that edges of shading draw as well.
SHADED = -1


@dataclass(slots=True, eq=False)
class Reading:
    """A reading of a place, and what the judge says that taking it gains over leaving its words as text.

    It is either `drawn`, by crossing lines, or a `cut` of the place with the number of the table row that
    each of its rows belongs to. `usual` tells the number of the cuts and of the way to make rows, in the
    order in which these came up, `way` how its rows were made. `seen` are the FEATURES that it was judged by,
    `ends` the row of its place at which a table ends there, 0 where it is one, `bits` its words, as bits of a
    number.
    """

    place: Place
    drawn: TableDraft | None = None
    cut: Cut | None = None
    table_row: Ints = field(default_factory=lambda: np.empty(0, dtype=np.int64))
    usual: tuple[int, int] = (0, 0)
    way: int = 0
    gain: float = UNKNOWN
    seen: Floats = field(default_factory=lambda: np.empty(0))
    ends: int = 0
    bits: int = field(init=False)

    def __post_init__(self) -> None:
        self.bits = bits_of(self.place.index)

    @property
    def words(self) -> int:
        """Number of words."""
        return self.bits.bit_count()

    @property
    def pieces(self) -> int:
        """Number of its pieces of text: cells, line by line."""
        if self.drawn:
            return _pieces(self.place, self.drawn)
        return _counted(self.cut, self.table_row) if self.cut else 0

    @property
    def shape(self) -> tuple[int, int]:
        """Number of rows and of columns."""
        if self.cut is None:
            assert self.drawn is not None
            return self.drawn.rows, self.drawn.columns
        return int(self.table_row[-1]) + 1, self.cut.columns

    def draft(self, method: str = "spaced") -> TableDraft:
        """Return the reading as a table draft of its own."""
        if self.cut is None:
            assert self.drawn is not None
            return self.drawn.copy()
        return assembled(self.cut, self.table_row, method)


def bits_of(words: Ints) -> int:
    """Return words of a page as bits of a number."""
    held = np.zeros(int(words.max(initial=0)) + 1, dtype=np.uint8)
    held[words] = 1
    return int.from_bytes(np.packbits(held, bitorder="little").tobytes(), "little")


def _counted(cut: Cut, table_row: Ints) -> int:
    """How many pieces a cut place has, but for those of table rows at its ends where all text begins in the
    first column: nothing tells these from the text around, which would be worth taking in for its length.
    """
    if cut.first[-1] and len(cut.row) > 1 and cut.row[0] == cut.row[1]:
        return len(cut.row)
    own = table_row[cut.row]
    inside = own[cut.first > 0]
    return int(((own >= inside.min()) & (own <= inside.max())).sum()) if len(inside) else len(own)


def _pieces(place: Place, drawn: TableDraft) -> int:
    """How many lines the cells of a drawn table have, all together."""
    counts = [len(cell.words) for cell in drawn.cells]
    words = np.array([i for cell in drawn.cells for i in cell.words], dtype=np.int64)
    row = place.strip.layout.words.row
    return len(distinct(np.repeat(np.arange(len(counts)), counts) * (len(row) + 1) + row[words]))
