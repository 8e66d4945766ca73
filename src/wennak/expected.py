"""Tables whose header is told by what is expected to stand in it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from .model import Table
from .phrases import matched

# A first row with so many of the expected labels is a header.
SHARE = 0.5


def header_alike(names: Sequence[Sequence[str]], table: Table) -> float:
    """Return how alike expected columns, each with all its names, and the headers of a table are: 0..1, on
    average over the expected ones, each matched with another.
    """
    labels = table.header_labels() if table.header_rows else []
    return sum(m.score for m in matched(names, labels) if m.found is not None) / max(len(names), 1)


def with_expected_header(table: Table, names: Sequence[Sequence[str]]) -> Table:
    """Return a table that was read without a header, with its first row as one where expected labels stand in
    it; any other table as it is.
    """
    if table.header_rows or table.rows < 2 or len(names) < 2:
        return table
    cells = [replace(c, header=True) if c.row == 0 and c.rowspan == 1 else c for c in table.cells]
    headed = replace(table, header_rows=1, cells=cells, checks=[], heads=[])
    return headed if header_alike(names, headed) >= SHARE else table
