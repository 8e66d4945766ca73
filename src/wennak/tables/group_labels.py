"""Labels over groups of columns that stand apart from these: at the foot of the page before."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..layout import PageLayout
from .caption import NAMED, NAMED_REACH
from .draft import CellDraft, plain_text
from .fitting import Columns
from .numbers import is_value
from .rows import Row, rows_of

# A label stands so near (em) to the middle of its columns, or begins where they do.
CENTRED = 1.0
# A rule stands so near (em) below its label.
NEAR = 1.0
# A label has at most so many words.
WORDS = 6


def group_labels(layout: PageLayout, line: Row, columns: Columns, row: int) -> list[CellDraft]:
    """Return the texts of a line as labels that share out all columns but the first, each over the middle of
    its own or from where they begin; none where they do not. One alone has a rule below it over all its
    columns, or the name of a table above it.
    """
    w = layout.words
    spans = [span for span in columns.spans[1:] if span]
    if len(spans) < max(2, len(columns.spans) - 1) or len(line.spans) > len(spans):
        return []
    said = [[i for i in line.words if x0 <= w.x0[i] <= x1] for x0, x1 in line.spans]
    texts = [plain_text(layout, words) for words in said]
    if any(len(words) > WORDS for words in said) or any(map(is_value, texts)):
        return []
    if len(said) == 1 and not (_is_ruled(layout, line, spans) or _is_named(layout, line)):
        return []
    stub = columns.spans[0] or spans[0]
    groups = shared_out(spans, line.spans, CENTRED * layout.em)
    if len(said) == 1 and stub[1] + spans[-1][1] < line.x0 + line.x1 < spans[0][0] + spans[-1][1]:
        # Where a column of numbers set to the right begins is not seen: right of the labels of rows.
        groups = [(0, len(spans))]
    return [CellDraft(row, a + 1, 1, b - a, words) for words, (a, b) in zip(said, groups, strict=False)]


def shared_out(
    columns: Sequence[tuple[float, float]], labels: Sequence[tuple[float, float]], near: float
) -> list[tuple[int, int]]:
    """Return the columns of each label, as first and one past the last, where all are shared out from left
    to right and each label is at most so far off; nothing where that cannot be. The least of the largest is
    best.
    """
    known: dict[int, tuple[float, list[tuple[int, int]]]] = {0: (0.0, [])}
    for x0, x1 in labels:
        ways = (
            (b, max(worst, _off(columns[a][0], columns[b - 1][1], x0, x1)), [*groups, (a, b)])
            for a, (worst, groups) in known.items()
            for b in range(a + 1, len(columns) + 1)
        )
        known = {}
        for b, worst, groups in ways:
            if worst < near and (b not in known or worst < known[b][0]):
                known[b] = (worst, groups)
    return known[len(columns)][1] if len(columns) in known else []


def _off(low: float, high: float, x0: float, x1: float) -> float:
    """How far a text is off the middle of some columns, or from where they begin."""
    return min(abs(x0 + x1 - low - high) / 2, abs(x0 - low))


def _is_ruled(layout: PageLayout, line: Row, columns: Sequence[tuple[float, float]]) -> bool:
    """Whether a level rule runs right below a line over some columns, and it is no running head."""
    level, em = layout.rules.level, layout.em
    if not (layout.words.y1 < line.y0).any():
        return False
    near = (level.at > line.baseline) & (level.at < line.y1 + NEAR * em)
    return bool((near & (level.low < columns[0][0] + em) & (level.high > columns[-1][1] - em)).any())


def _is_named(layout: PageLayout, line: Row) -> bool:
    """Whether a line that names a table stands above a line."""
    w = layout.words
    above = (w.y1 < line.baseline) & (w.y0 > line.y0 - NAMED_REACH * layout.em) & ~w.turned
    rows = rows_of(layout, np.flatnonzero(above))
    return any(NAMED.match(plain_text(layout, row.words)) for row in rows)
