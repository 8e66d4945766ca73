"""The method `ruled`: tables whose cells are drawn with lines."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..ink import Bools, Ints
from ..layout import PageLayout
from ..model import Box
from .draft import CellDraft, TableDraft
from .grid import build_grid
from .header import header_rows
from .lattice import Lattice, find_lattices
from .strips import Row, gutters, rows_of


def read_ruled(layout: PageLayout) -> list[TableDraft]:
    """Return the tables that crossing ruling lines draw."""
    drafts = []
    for lattice in find_lattices(layout.rules):
        draft = _read_lattice(layout, lattice)
        if draft is not None:
            drafts.append(draft)
    return drafts


def words_inside(layout: PageLayout, box: Box) -> Ints:
    """Return the indices of the words whose middle lies in the box."""
    w = layout.words
    x, y = (w.x0 + w.x1) / 2, (w.y0 + w.y1) / 2
    return np.flatnonzero((x >= box.x0) & (x <= box.x1) & (y >= box.y0) & (y <= box.y1))


def _read_lattice(layout: PageLayout, lattice: Lattice) -> TableDraft | None:
    box = Box(*(float(v) for v in (lattice.xs[0], lattice.ys[0], lattice.xs[-1], lattice.ys[-1])))
    members = words_inside(layout, box)
    if len(members) < 2:
        return None
    rows = rows_of(layout, members)
    inner = [float(y) for y in lattice.ys[1:-1]]
    if lattice.columns == 1:
        cuts = gutters(layout, rows, box.x0, box.x1, layout.em)
        if not cuts:
            return None
    else:
        cuts = [float(x) for x in lattice.xs[1:-1]]
    if lattice.columns > 1 and trusts(layout, rows, cuts, inner):
        draft = _face_grid(layout, lattice, members, box)
    else:
        trusted = trusts(layout, rows, cuts, inner)
        draft = build_grid(layout, rows, cuts, box, "ruled", inner, trusted)
    if draft.rows * draft.columns < 2 or sum(bool(c.words) for c in draft.cells) < 2:
        return None
    if draft.columns == 1 and draft.rows < 3:
        return None
    draft.header_rows = header_rows(layout, draft, inner)
    draft.score = 0.9
    return draft


def trusts(layout: PageLayout, rows: Sequence[Row], cuts: Sequence[float], lines: Sequence[float]) -> bool:
    """Whether the level lines part every row from the next.

    They do not where bands between them hold several lines that are each as full as a row.
    """
    if not lines:
        return False
    ordered = np.sort(np.asarray(lines))
    band = np.searchsorted(ordered, [(r.y0 + r.y1) / 2 for r in rows])
    several = single = 0
    for value in np.unique(band).tolist():
        members = [rows[i] for i in np.flatnonzero(band == value).tolist()]
        if len(members) == 1:
            single += 1
            continue
        counts = [_filled(layout, r, cuts) for r in members]
        full = max(counts)
        # The first lines of wrapped cells all begin in one row; later lines thin out.
        if full >= 2 and sum(c >= max(2, 0.7 * full) for c in counts) >= max(2, 0.75 * len(counts)):
            several += len(members)
        else:
            single += 1
    return single > 0 and several <= 2 * single


def _filled(layout: PageLayout, row: Row, cuts: Sequence[float]) -> int:
    w = layout.words
    middle = (w.x0[row.words] + w.x1[row.words]) / 2
    return len(np.unique(np.searchsorted(np.asarray(cuts), middle)))


def _face_grid(layout: PageLayout, lattice: Lattice, members: Ints, box: Box) -> TableDraft:
    """One cell a face of the lattice: elementary cells without a wall between them are one."""
    label = _faces(lattice.upright, lattice.level, lattice.rows, lattice.columns)
    w = layout.words
    column = np.clip(np.searchsorted(lattice.xs, (w.x0 + w.x1)[members] / 2) - 1, 0, lattice.columns - 1)
    row = np.clip(np.searchsorted(lattice.ys, (w.y0 + w.y1)[members] / 2) - 1, 0, lattice.rows - 1)
    held: dict[int, list[int]] = {}
    for i, face in zip(members.tolist(), label[row, column].tolist(), strict=True):
        held.setdefault(face, []).append(i)
    cells = []
    for face in np.unique(label).tolist():
        r, c = np.nonzero(label == face)
        cells.append(
            CellDraft(
                int(r.min()), int(c.min()), int(r.max() - r.min()) + 1, int(c.max() - c.min()) + 1,
                held.get(face, []),
            )
        )  # fmt: skip
    return _without_empty_rims(
        TableDraft(box, lattice.rows, lattice.columns, cells, "ruled", column_edges=lattice.xs.tolist())
    )


def _faces(upright: Bools, level: Bools, rows: int, columns: int) -> Ints:
    """Label the faces; a face that is not a rectangle falls back to its elementary cells."""
    label = np.arange(rows * columns).reshape(rows, columns)
    changed = True
    while changed:
        changed = False
        for r in range(rows):
            for c in range(columns):
                for dr, dc, wall in (
                    (0, 1, c + 1 < columns and upright[r, c + 1]),
                    (1, 0, r + 1 < rows and level[r + 1, c]),
                ):
                    if r + dr >= rows or c + dc >= columns or wall:
                        continue
                    a, b = label[r, c], label[r + dr, c + dc]
                    if a != b:
                        label[label == max(a, b)] = min(a, b)
                        changed = True
    for face in np.unique(label).tolist():
        rs, cs = np.nonzero(label == face)
        if len(rs) != (rs.max() - rs.min() + 1) * (cs.max() - cs.min() + 1):
            label[rs, cs] = rs * columns + cs + rows * columns
    return label


def _without_empty_rims(draft: TableDraft) -> TableDraft:
    """Drop rows and columns in which no cell begins and nothing stands: gaps of double lines, margins."""
    rows = sorted({c.row for c in draft.cells if c.words})
    columns = sorted({c.column for c in draft.cells if c.words})
    if len(rows) == draft.rows and len(columns) == draft.columns:
        return draft
    cells = []
    for cell in draft.cells:
        r = [i for i, k in enumerate(rows) if cell.row <= k < cell.row + cell.rowspan]
        c = [i for i, k in enumerate(columns) if cell.column <= k < cell.column + cell.colspan]
        if r and c:
            cells.append(CellDraft(r[0], c[0], len(r), len(c), cell.words))
    edges = [draft.column_edges[k] for k in columns] + draft.column_edges[-1:]
    return TableDraft(draft.box, len(rows), len(columns), cells, draft.method, column_edges=edges)
