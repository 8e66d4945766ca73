"""Draw what each kind of error does to the scores of a table; tools/write_reference.py writes the picture."""

from __future__ import annotations

from collections.abc import Sequence
from html import escape
from pathlib import Path

from wennak.bench.grid import grid_of
from wennak.bench.metrics import judged_cells
from wennak.bench.scores import score_document
from wennak.model import Cell, Document, Table
from wennak.truth import Truth, TruthTable

Rows = Sequence[Sequence[str]]

TRUE: Rows = (
    ("Pier", "Single", "Return"), ("Oskay", "5.90", "10.60"), ("Tarnvoe", "8.00", "14.40"), ("Fenholm", "13.00", "23.40"),
)  # fmt: skip
# What was read, by the name of what went wrong.
READ: dict[str, Rows] = {
    "as it is": TRUE,
    "a digit changed": (*TRUE[:2], ("Tarnvoe", "8.00", "14.90"), TRUE[3]),
    "a column shifted from the second row on": (TRUE[0], ("Oskay", "", "5.90", "10.60"), ("Tarnvoe", "", "8.00", "14.40"),
                                                ("Fenholm", "", "13.00", "23.40")),
    "a row lost": (*TRUE[:2], TRUE[3]),
    "two columns merged": [(a, f"{b} {c}") for a, b, c in TRUE],
    "header lost": TRUE[1:],
    "two rows merged": (*TRUE[:2], ("Tarnvoe Fenholm", "8.00 13.00", "14.40 23.40")),
    "a row invented": (*TRUE, ("Brannsey", "9.60", "17.30")),
}  # fmt: skip
SHOWN = {"content": "content", "cells": "exact cells", "numbers": "numbers", "headers": "headers"}
COLOURS = {"same": "#ffffff", "moved": "#fff1c2", "changed": "#f6d0c8", "extra": "#f6d0c8", "span": "#dfe8f5"}
# Sizes (points).
WIDE, HIGH, ROW, COLUMN, ACROSS = 430, 132, 18, 70, 2


def errors() -> str:
    """Return the picture as SVG."""
    down = -(-len(READ) // ACROSS)
    out = [
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {ACROSS * WIDE} {down * HIGH}" '
        'font-family="sans-serif" font-size="12">',
        f'<rect width="{ACROSS * WIDE}" height="{down * HIGH}" fill="#ffffff"/>',
    ]
    for k, (name, rows) in enumerate(READ.items()):
        out += panel(name, rows, 14 + k % ACROSS * WIDE, 22 + k // ACROSS * HIGH)
    return "\n".join([*out, "</svg>\n"])


def panel(name: str, rows: Rows, left: int, top: int) -> list[str]:
    """Return the drawing of one reading: its cells, coloured by what became of them, and its scores."""
    read = table_of(rows)
    _, own = judged_cells(grid_of(table_of(TRUE)), grid_of(read))
    verdicts = {(cell.row, cell.column): cell.verdict for cell in own}
    out = [f'<text x="{left}" y="{top}" font-weight="bold" fill="#1c2430">{escape(name)}</text>']
    for r, row in enumerate(rows):
        for c, text in enumerate(row):
            x, y = left + c * COLUMN, top + 10 + r * ROW
            fill = COLOURS[verdicts.get((r, c), "same")]
            out.append(
                f'<rect x="{x}" y="{y}" width="{COLUMN}" height="{ROW}" fill="{fill}" stroke="#c9ced6"/>'
            )
            size = f' font-size="{9 if len(text) > 12 else 10}"' if len(text) > 10 else ""
            out.append(f'<text x="{x + 4}" y="{y + 13}"{size}>{escape(text)}</text>')
    for k, (label, value) in enumerate(scores(read).items()):
        out.append(
            f'<text x="{left + 4.25 * COLUMN:g}" y="{top + 24 + k * ROW}" fill="#1c2430">{value:.2f} {label}</text>'
        )
    return out


def scores(read: Table) -> dict[str, float]:
    """Return the scores of a reading against the true table, by what they are called."""
    truth = Truth(Path("true.html"), tables=[TruthTable(table_of(TRUE))])
    _, (result,) = score_document("true", truth, Document("true.pdf", blocks=[read]))
    return {label: result.scores[name] or 0.0 for name, label in SHOWN.items()}


def table_of(rows: Rows) -> Table:
    """Return rows of text as a table, of which the first row heads the others if it is that of the true one."""
    headed = int(rows[0][0] == TRUE[0][0])
    cells = [Cell(r, c, text, header=r < headed) for r, row in enumerate(rows) for c, text in enumerate(row)]
    return Table(len(rows), max(map(len, rows)), cells, header_rows=headed)
