"""Rows of a table as lines of text: of a pipe table, or as "header: value"."""

from __future__ import annotations

from ..model import Table
from .inline import as_shown


def row_lines(table: Table) -> tuple[list[str], list[tuple[int, str]]]:
    """Return the head and the numbered rows of a pipe table; the text of a span stands in all its places.

    A passage is read by machines and in parts, so a value that holds for several rows is said in each.
    """
    table = as_shown(table)
    labels = table.header_labels() if table.header_rows else [""] * table.columns
    head = [_line(labels), _line(["---"] * table.columns)] if table.header_rows else []
    grid = table.grid()
    body = range(table.header_rows, table.rows)
    return head, [(r, _line([cell.text if cell else "" for cell in grid[r]])) for r in body]


def record_lines(table: Table) -> tuple[list[str], list[tuple[int, str]]]:
    """Return no head, and for each row its number and its "header: value" pairs; empty cells are left out.

    A row that others head begins with their labels.
    """
    table = as_shown(table)
    paths = table.row_paths()
    labels = table.header_labels() if table.header_rows else [""] * table.columns
    grid = table.grid()
    lines = []
    for r in range(table.header_rows, table.rows):
        said: list[str] = []
        for c, cell in enumerate(grid[r]):
            first = cell is not None and cell.text and (c == cell.column or c == 0)
            if cell is not None and first:
                text = " ".join(cell.text.split())
                said.append(f"{labels[c]}: {text}" if labels[c] else text)
        if said:
            if paths[r]:
                said.insert(0, " / ".join(" ".join(label.split()) for label in paths[r]))
            lines.append((r, "; ".join(said)))
    return [], lines


def _line(texts: list[str]) -> str:
    return f"| {' | '.join(' '.join(text.replace('|', chr(92) + '|').split()) for text in texts)} |"
