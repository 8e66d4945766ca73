"""Short texts side by side, such as two addresses: lines at the same heights, read column by column, and
texts with lines at heights of their own beside others.
"""

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
# A text with lines at heights of its own stands so far (em) right of all others there.
APART = 2.0


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
