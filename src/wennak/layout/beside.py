"""Short texts side by side, such as two addresses: lines at the same heights, read column by column."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from .flow import Line

# Lines at one height have baselines within this (em), and lines of one text begin within this (em).
LEVEL = 0.3
SAME_EDGE = 0.5
# Lines of such texts follow each other this closely (em), and a text has at least so many.
PITCH = 1.6
MIN_LINES = 2


def beside(lines: Sequence[Line]) -> Iterator[list[list[Line]]]:
    """Yield the texts of each place where such stand side by side, from left to right, each as its lines.

    `lines` are those of one zone from top to bottom that stand in no table. A text is at least two lines from
    one left edge, mostly with letters; lines with a colon, as in forms, are read across.
    """
    rows: list[list[Line]] = []
    for line in lines:
        if rows and abs(line.baseline - rows[-1][0].baseline) < LEVEL * line.size:
            rows[-1].append(line)
        else:
            rows.append([line])
    k = 0
    while k < len(rows):
        first = sorted(rows[k], key=lambda line: line.box.x0)
        columns = [[line] for line in first]
        end = k + 1
        while len(first) > 1 and end < len(rows) and _added(columns, rows[end], rows[end - 1][0]):
            end += 1
        if len(first) > 1 and all(map(_is_text, columns)):
            yield columns
        k = end


def _added(columns: list[list[Line]], row: list[Line], above: Line) -> bool:
    """Add the lines of a row to the columns, where all of them go on with one."""
    if row[0].baseline - above.baseline > PITCH * above.size:
        return False
    places = []
    for line in row:
        near = [abs(c[0].box.x0 - line.box.x0) < SAME_EDGE * line.size for c in columns]
        if not any(near):
            return False
        k = near.index(True)
        if k + 1 < len(columns) and line.box.x1 > columns[k + 1][0].box.x0 - line.size:
            return False
        places.append(k)
    for k, line in zip(places, row, strict=True):
        columns[k].append(line)
    return True


def _is_text(lines: Sequence[Line]) -> bool:
    speaking = sum(sum(map(str.isalpha, line.text)) > 1 for line in lines)
    labelled = sum(":" in line.text[:-1] for line in lines)
    return len(lines) >= MIN_LINES and 2 * speaking > len(lines) and 2 * labelled < len(lines)
