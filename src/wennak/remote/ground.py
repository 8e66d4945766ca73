"""A table that a service answered, looked up on the page: structure from there, characters from here.

Each text is sought among the words of the page. Where most texts of a row and of a column stand says where
row and column are; a text that does not stand where its row and column cross is not taken. So a changed
digit, an invented row, a value of another row and a shifted column are told, and lines within the table
that nothing claims are lost rows.
"""

from __future__ import annotations

import unicodedata
from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from itertools import pairwise
from statistics import median

import numpy as np

from ..layout import PageLayout
from ..model import Box
from ..tables import CellDraft, TableDraft
from .answer import TextCell, TextTable

METHOD = "remote"
# A text of one line has at most so many words; longer ones are sought line by line.
MOST_WORDS = 16
# Words that stand at one height are a line; in heights of a word.
SAME_LINE = 0.5
# Lines of a text follow each other within this many heights.
NEXT_LINE = 2.2
# A text stands in its row up to this share of the way to the row below.
NEARER = 0.6
# Above the first and below the last row, a line so near (in distances of rows) may be a lost row.
BEYOND = 1.6
_PLAIN = str.maketrans("‐‑–—−’‘“”", "-----''\"\"")


@dataclass(slots=True)
class Grounded:
    """A table whose cells hold words of the page; None where hardly any text of it stands there.

    `ungrounded` are the texts, with row and column from 1, that do not stand where they should; `lost` are
    lines of the page, within the table, that no cell claims.
    """

    draft: TableDraft | None
    ungrounded: list[tuple[int, int, str]] = field(default_factory=list)
    lost: list[str] = field(default_factory=list)


@dataclass(frozen=True, slots=True)
class _Stand:
    """Words that say a text: where they are, and at which height their first line stands."""

    words: tuple[int, ...]
    x0: float
    x1: float
    top: float
    bottom: float

    @property
    def middle(self) -> float:
        return (self.x0 + self.x1) / 2


def plain(text: str) -> str:
    """Return a text without blanks, and with one kind of dashes and quotes: what is compared."""
    return "".join(unicodedata.normalize("NFKC", text).translate(_PLAIN).split())


def ground(layout: PageLayout, tables: Sequence[TextTable]) -> list[Grounded]:
    """Look up the tables of a page, in their order; no word belongs to two of them."""
    page = _Lines(layout)
    used: set[int] = set()
    out: list[Grounded] = []
    frames: list[tuple[Grounded, _Frame]] = []
    for table in tables:
        found = {id(cell): page.stands(cell.text) for cell in table.cells}
        rows = _row_heights(table, found)
        spans = _column_spans(table, found, rows)
        chosen: dict[int, _Stand] = {}
        taken = set(used)
        # Those that can stand in one place only come first.
        for cell in sorted(table.cells, key=lambda c: (len(found[id(c)]), c.row, c.column)):
            fitting = [
                s for s in found[id(cell)] if _fits(s, cell, rows, spans) and not taken.intersection(s.words)
            ]
            if fitting:
                best = min(fitting, key=lambda s: (abs(s.top - rows.get(cell.row, s.top)), s.x0))
                chosen[id(cell)] = best
                taken.update(best.words)
        ungrounded = [(c.row + 1, c.column + 1, c.text) for c in table.cells if id(c) not in chosen]
        grounded = [(cell, chosen[id(cell)]) for cell in table.cells if id(cell) in chosen]
        if 2 * len(grounded) < len(table.cells) or len(grounded) < 2:
            out.append(Grounded(None, ungrounded))
            continue
        used = taken
        out.append(Grounded(_draft(layout, table, grounded), ungrounded))
        frames.append((out[-1], _Frame([stand for _, stand in grounded], rows, spans)))
    for one, frame in frames:
        one.lost = page.unclaimed(frame, used)
    return out


@dataclass(frozen=True, slots=True)
class _Frame:
    """Where a table stands: the words of its texts, the heights of its rows, the reach of its columns."""

    stands: Sequence[_Stand]
    rows: dict[int, float]
    spans: dict[int, tuple[float, float]]


class _Lines:
    """The words of a page in lines, and where texts stand among them."""

    def __init__(self, layout: PageLayout) -> None:
        w = self._words = layout.words
        usable = [i for i in range(len(w)) if not w.turned[i]]
        usable.sort(key=lambda i: (float(w.baseline[i]), float(w.x0[i])))
        self.lines: list[list[int]] = []
        for i in usable:
            height = float(w.y1[i] - w.y0[i])
            if self.lines and w.baseline[i] - w.baseline[self.lines[-1][0]] < SAME_LINE * height:
                self.lines[-1].append(i)
            else:
                self.lines.append([i])
        for line in self.lines:
            line.sort(key=lambda i: float(w.x0[i]))
        self._texts = [plain(text) for text in w.texts]
        self._runs: dict[str, list[tuple[int, int, int]]] = defaultdict(list)
        for number, line in enumerate(self.lines):
            for start in range(len(line)):
                text = ""
                for end in range(start, min(len(line), start + MOST_WORDS)):
                    text += self._texts[line[end]]
                    self._runs[text].append((number, start, end + 1))

    def stands(self, text: str) -> list[_Stand]:
        """Return where a text stands: on one line, or on lines below each other."""
        wanted = plain(text)
        if not wanted:
            return []
        whole = [self._stand(self.lines[n][a:b]) for n, a, b in self._runs.get(wanted, ())]
        return whole or list(self._wrapped(wanted))

    def _wrapped(self, wanted: str) -> Iterable[_Stand]:
        for number, line in enumerate(self.lines):
            for start in range(len(line)):
                if wanted.startswith(self._texts[line[start]]):
                    words = self._continued(wanted, number, start)
                    if words:
                        yield self._stand(words)

    def _continued(self, wanted: str, number: int, start: int) -> list[int]:
        """The words that say a text from one on, over lines below each other; none where they do not."""
        w, words = self._words, []
        line, k, left = self.lines[number], start, wanted
        while left:
            taken = 0
            while k < len(line) and left.startswith(self._texts[line[k]]) and self._texts[line[k]]:
                left = left[len(self._texts[line[k]]) :]
                words.append(line[k])
                k, taken = k + 1, taken + 1
            if not left:
                return words
            if not taken:
                return []
            # On with the line below that has words under these.
            x0 = min(float(w.x0[i]) for i in words)
            x1 = max(float(w.x1[i]) for i in words)
            last = words[-1]
            reach = float(w.baseline[last]) + NEXT_LINE * float(w.y1[last] - w.y0[last])
            number, found = number + 1, -1
            while number < len(self.lines) and float(w.baseline[self.lines[number][0]]) <= reach:
                line = self.lines[number]
                found = next((j for j, i in enumerate(line) if w.x1[i] > x0 and w.x0[i] < x1), -1)
                if found >= 0:
                    break
                number += 1
            if found < 0:
                return []
            k = found
        return words

    def _stand(self, words: Sequence[int]) -> _Stand:
        w = self._words
        return _Stand(
            tuple(words), min(float(w.x0[i]) for i in words), max(float(w.x1[i]) for i in words),
            float(w.baseline[words[0]]), float(w.baseline[words[-1]]),
        )  # fmt: skip

    def unclaimed(self, frame: _Frame, used: set[int]) -> list[str]:
        """Return the lines within a table, or right above or below it, of which no cell claims a word."""
        w = self._words
        x0, x1 = min(s.x0 for s in frame.stands), max(s.x1 for s in frame.stands)
        top, bottom = min(s.top for s in frame.stands), max(s.bottom for s in frame.stands)
        free = []
        for line in self.lines:
            inside = [i for i in line if w.x1[i] > x0 - 1 and w.x0[i] < x1 + 1]
            if inside and not used.intersection(inside):
                free.append((float(w.baseline[line[0]]), inside))
        found = [(at, inside) for at, inside in free if top < at < bottom]
        above = [(top - at, inside) for at, inside in reversed(free) if at <= top]
        below = [(at - bottom, inside) for at, inside in free if at >= bottom]
        found += [(top - d, inside) for d, inside in self._beside(frame, above)]
        found += [(bottom + d, inside) for d, inside in self._beside(frame, below)]
        return [" ".join(w.texts[i] for i in inside) for _, inside in sorted(found)]

    def _beside(
        self, frame: _Frame, lines: Sequence[tuple[float, list[int]]]
    ) -> list[tuple[float, list[int]]]:
        """Those of the lines on one side of a table, the nearest first, that go on with its rows.

        They follow it at the distance of rows and keep to its columns: no word of theirs stands across two,
        and half of the columns have one, in the last of them at least.
        """
        w = self._words
        heights = sorted(frame.rows.values())
        steps = [b - a for a, b in pairwise(heights)]
        room = BEYOND * median(steps) if steps else 0.0
        borders = [right for _, right in frame.spans.values() if np.isfinite(right)]
        out: list[tuple[float, list[int]]] = []
        rows, last = 0, 0.0
        for distance, inside in lines:
            across = any(w.x0[i] < border < w.x1[i] for i in inside for border in borders)
            if distance - last > room or across:
                break
            last = distance
            out.append((distance, inside))
            columns = {
                c
                for c, (left, right) in frame.spans.items()
                if any(left < (w.x0[i] + w.x1[i]) / 2 < right for i in inside)
            }
            if len(columns) > 1 and 2 * len(columns) >= len(frame.spans):
                rows = len(out)
        return out[:rows]


def _row_heights(table: TextTable, found: dict[int, list[_Stand]]) -> dict[int, float]:
    """The height of each row: the chain from top to bottom that most texts agree with."""
    votes: list[dict[float, int]] = [defaultdict(int) for _ in range(table.rows)]
    for cell in table.cells:
        if cell.rowspan == 1:
            for height in {round(s.top, 1) for s in found[id(cell)]}:
                votes[cell.row][height] += 1
    # Row by row, the best chain that ends at each height or above it (dynamic programming).
    heights = sorted({height for row in votes for height in row})
    place = {height: k for k, height in enumerate(heights, start=1)}
    chains: list[tuple[int, dict[int, float]]] = [(0, {})] * (len(heights) + 1)
    for number, row in enumerate(votes):
        fresh = list(chains)
        for height, count in row.items():
            score, chain = chains[place[height] - 1]
            if score + count > fresh[place[height]][0]:
                fresh[place[height]] = score + count, {**chain, number: height}
        for k in range(1, len(fresh)):
            if fresh[k - 1][0] > fresh[k][0]:
                fresh[k] = fresh[k - 1]
        chains = fresh
    return chains[-1][1]


def _column_spans(
    table: TextTable, found: dict[int, list[_Stand]], rows: dict[int, float]
) -> dict[int, tuple[float, float]]:
    """From where to where each column reaches: halfway to the middles of its neighbours."""
    edges: dict[int, list[_Stand]] = defaultdict(list)
    for cell in table.cells:
        if cell.colspan == 1 and cell.row in rows:
            above = max((h for r, h in rows.items() if r < cell.row), default=-np.inf)
            below = min((h for r, h in rows.items() if r > cell.row), default=np.inf)
            level = [s for s in found[id(cell)] if above < s.top < below]
            if len(level) == 1:
                edges[cell.column].append(level[0])
    spans = {c: (median(s.x0 for s in found_), median(s.x1 for s in found_)) for c, found_ in edges.items()}
    out: dict[int, tuple[float, float]] = {}
    known = sorted(spans)
    for k, c in enumerate(known):
        left, right = -np.inf, np.inf
        if k:
            left = (spans[known[k - 1]][1] + spans[c][0]) / 2
        if k + 1 < len(known):
            right = (spans[c][1] + spans[known[k + 1]][0]) / 2
        out[c] = (float(left), float(right))
    return out


def _fits(
    stand: _Stand, cell: TextCell, rows: dict[int, float], spans: dict[int, tuple[float, float]]
) -> bool:
    """Whether words stand where the row and the column of a cell cross."""
    above = max((h for r, h in rows.items() if r < cell.row), default=-np.inf)
    below = min((h for r, h in rows.items() if r >= cell.row + cell.rowspan), default=np.inf)
    own = [rows[r] for r in range(cell.row, cell.row + cell.rowspan) if r in rows]
    if not above < stand.top < below:
        return False
    # Nearer to the row below it is a text of that.
    if cell.rowspan == 1 and own and stand.top - own[0] > (below - own[0]) * NEARER:
        return False
    columns = [spans[c] for c in range(cell.column, cell.column + cell.colspan) if c in spans]
    if not columns:
        return False
    return columns[0][0] <= stand.middle <= columns[-1][1]


def _draft(layout: PageLayout, table: TextTable, grounded: Sequence[tuple[TextCell, _Stand]]) -> TableDraft:
    """The table without rows and columns of which nothing stands on the page."""
    kept_rows = sorted({cell.row for cell, _ in grounded})
    kept_columns = sorted({cell.column for cell, _ in grounded})
    down = {r: k for k, r in enumerate(kept_rows)}
    across = {c: k for k, c in enumerate(kept_columns)}
    cells = []
    for cell, stand in grounded:
        rowspan = sum(cell.row <= r < cell.row + cell.rowspan for r in kept_rows)
        colspan = sum(cell.column <= c < cell.column + cell.colspan for c in kept_columns)
        cells.append(CellDraft(down[cell.row], across[cell.column], rowspan, colspan, list(stand.words)))
    members = np.array(sorted(w for cell in cells for w in cell.words), dtype=np.int64)
    box: Box = layout.box(members)
    header = sum(r < table.header_rows for r in kept_rows)
    return TableDraft(box, len(kept_rows), len(kept_columns), cells, METHOD, header)
