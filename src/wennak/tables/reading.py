"""Rows and columns -> a whole reading: the grid, its header rows and what they span."""

from __future__ import annotations

from collections.abc import Sequence

from ..layout import PageLayout
from ..model import Box
from .draft import TableDraft
from .grid import build_grid
from .header import header_rows
from .ruled import trusts
from .spans import spread_headers
from .strips import Row

# Fewer lines than this between rows are never trusted to part all of them.
MIN_LINES = 3


def inner_lines(rows: Sequence[Row], lines: Sequence[float]) -> list[float]:
    """Return the level lines that stand between the first and the last of some rows."""
    return [y for y in lines if rows[0].y1 - 1 < y < rows[-1].y0 + 1]


def read_grid(
    layout: PageLayout,
    rows: Sequence[Row],
    cuts: Sequence[float],
    box: Box,
    method: str,
    inner: Sequence[float],
) -> TableDraft:
    """Build the grid of rows whose columns are known; level lines part the rows where they part them all."""
    trusted = len(inner) >= MIN_LINES and trusts(layout, rows, cuts, inner)
    return build_grid(layout, rows, cuts, box, method, inner, trusted)


def set_header(
    layout: PageLayout, draft: TableDraft, inner: Sequence[float], rows: int | None = None
) -> None:
    """Find the header rows of a draft, unless they are given, and spread their cells."""
    draft.header_rows = header_rows(layout, draft, inner) if rows is None else min(rows, draft.rows)
    spread_headers(layout, draft)
