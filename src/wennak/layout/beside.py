"""Short texts side by side, such as two addresses: lines at the same heights, read column by column, texts
with lines at heights of their own beside others, and labels with values of several lines.
"""

from __future__ import annotations

import re
from collections.abc import Collection, Iterator, Sequence
from itertools import pairwise
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from .flow import Line

# Lines at one height have baselines within this (em), and lines of one text begin within this (em).
LEVEL = 0.3
SAME_EDGE = 0.5
# Lines of such texts follow each other this closely (em), and a text has at least so many.
PITCH = 1.6
MIN_LINES = 2
# A text with lines at heights of its own stands so far (em) right of all others there.
APART = 2.0
# Not that of a time.
_COLON = re.compile(r":(?!\d)")
# Labels with values follow each other as loosely as this (em).
ROW_PITCH = 2.2


def rows_of(lines: Sequence[Line]) -> list[list[Line]]:
    """Return the lines of a zone, given from top to bottom, that stand level, from left to right."""
    rows: list[list[Line]] = []
    for line in lines:
        if rows and abs(line.baseline - rows[-1][0].baseline) < LEVEL * line.size:
            rows[-1].append(line)
        else:
            rows.append([line])
    return [sorted(row, key=lambda line: line.box.x0) for row in rows]


def beside(rows: Sequence[list[Line]]) -> Iterator[list[list[Line]]]:
    """Yield the texts of each place where such stand side by side, from left to right, each as its lines.

    `rows` hold the lines of one zone that stand in no table. A text is at least two lines from one left edge,
    half of them with letters; lines with a colon, as in forms, are read across.
    """
    k = 0
    while k < len(rows):
        first = rows[k]
        columns = [[line] for line in first]
        end = k + 1
        while len(first) > 1 and end < len(rows) and _added(columns, rows[end], rows[end - 1][0]):
            end += 1
        if len(first) > 1 and all(map(_is_text, columns)):
            yield columns
        k = end


def with_values(rows: Sequence[list[Line]]) -> Iterator[list[list[Line]]]:
    """Yield the texts of each place where labels with values stand in columns side by side and a value goes
    on in the next row: each column of labels with its values is one. Elsewhere such rows are read across.

    `rows` hold the lines of one zone that stand in no table.
    """
    k = 0
    while k < len(rows):
        end, step = k + 1, ROW_PITCH * rows[k][0].size
        while end < len(rows) and rows[end][0].baseline - rows[end - 1][0].baseline < step:
            end += 1
        labels = {id(a) for row in rows[k:end] for a, b in pairwise(row) if _is_label(a, b)}
        texts = _parted(rows[k:end], labels) if labels else []
        # In a row where something else stands beside it, a text goes on without a label.
        if any(
            text[r] and any(text[:r]) and id(text[r][0]) not in labels and len(row) > len(text[r])
            for text in texts
            for r, row in enumerate(rows[k:end])
        ):
            yield [[line for row in text for line in row] for text in texts]
        k = end


def _is_label(line: Line, after: Line) -> bool:
    """Whether a line says what the next one, level with it, is: alone in bold, or with a colon."""
    return (line.bold and not after.bold) or line.text.endswith(":")


def _parted(rows: Sequence[list[Line]], labels: Collection[int]) -> list[list[list[Line]]]:
    """Part rows where columns of labels begin; of each part its lines row by row. None where there is one."""
    lines = sorted((line for row in rows for line in row), key=lambda line: line.box.x0)
    columns = [[lines[0]]]
    for line in lines[1:]:
        if line.box.x0 - columns[-1][0].box.x0 > SAME_EDGE * line.size:
            columns.append([])
        columns[-1].append(line)
    begins, reach = [float("-inf")], columns[0][0].box.x0
    for column in columns:
        x0 = column[0].box.x0
        named = len(column) >= MIN_LINES and all(id(line) in labels for line in column)
        if named and reach < x0 - column[0].size:
            begins.append(x0)
        reach = max(reach, *(line.box.x1 for line in column))
    edges = pairwise([*begins, float("inf")])
    parts = [[[line for line in row if low <= line.box.x0 < high] for row in rows] for low, high in edges]
    return parts if len(parts) > 1 else []


def set_apart(lines: Sequence[Line]) -> Iterator[tuple[list[Line], float]]:
    """Yield the texts that stand right of others at heights of their own, as in the head of a letter, each
    with the height at which it is read: where it begins, or behind the lines beside it that begin above.

    `lines` are those of one zone from top to bottom that stand in no table.
    """
    k = 0
    while k < len(lines):
        own = _column(lines, k)
        around = _around(lines, own) if len(own) >= MIN_LINES else []
        if around:
            first, last = around[0].baseline, around[-1].baseline
            yield own, own[0].baseline if own[0].baseline < first else last
        # Where nothing stands beside a column of lines, nothing does beside a part of it.
        k += len(own) if around or lines[k + len(own) - 1] is own[-1] else 1


def _column(lines: Sequence[Line], k: int) -> list[Line]:
    """The k-th line and those below it that follow each other closely."""
    own, x0, x1 = [lines[k]], lines[k].box.x0, lines[k].box.x1
    for line in lines[k + 1 :]:
        if line.baseline - own[-1].baseline > PITCH * own[-1].size:
            break
        if line.box.x0 < x1 and line.box.x1 > x0:
            own.append(line)
            x0, x1 = min(x0, line.box.x0), max(x1, line.box.x1)
    return own


def _around(lines: Sequence[Line], own: Sequence[Line]) -> list[Line]:
    """The lines left of a text, following each other closely, that stand at its heights; none where these say
    what they are of: where most lines of the text are level with some, or its first one alone is, or anything
    else stands there.
    """
    near, held = LEVEL * own[0].size, {id(line) for line in own}
    top, foot = own[0].baseline - near, own[-1].baseline + near
    beside = [line for line in lines if top < line.baseline < foot and id(line) not in held]
    if not beside:
        return []
    left = min(line.box.x0 for line in own) - APART * own[0].size
    if any(line.box.x1 > left for line in beside):
        return []
    level = [any(abs(o.baseline - line.baseline) < near for o in beside) for line in own]
    between = [o for o in beside if all(abs(o.baseline - line.baseline) >= near for line in own)]
    if (
        not _is_text(own)
        or 2 * sum(level) > len(own)
        or (not between and (level[0] or len(own) == MIN_LINES))
    ):
        return []
    chain = [line for line in lines if line.box.x1 < left]
    first, last = chain.index(beside[0]), chain.index(beside[-1])
    while first and _follows(chain[first - 1], chain[first]):
        first -= 1
    while last + 1 < len(chain) and _follows(chain[last], chain[last + 1]):
        last += 1
    return chain[first : last + 1]


def _follows(above: Line, line: Line) -> bool:
    return line.baseline - above.baseline < PITCH * line.size


def _added(columns: list[list[Line]], row: list[Line], above: Line) -> bool:
    """Add the lines of a row to the columns, where all of them go on with one."""
    if row[0].baseline - above.baseline > PITCH * max(row[0].size, above.size):
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
    labelled = sum(bool(_COLON.search(line.text[:-1])) for line in lines)
    return len(lines) >= MIN_LINES and 2 * speaking >= len(lines) and 2 * labelled < len(lines)
