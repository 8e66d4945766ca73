"""Tables whose cells are drawn with lines: the faces of a lattice."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..ink import Bools, Floats, Ints, connected, distinct
from ..layout import PageLayout
from ..model import Box
from .areas import words_inside
from .draft import CellDraft, TableDraft
from .lattice import Lattice, shaded_lattices
from .places import place_of
from .reading import SHADED, Reading
from .rows import SPAN_GAP
from .unruled import with_head_apart, with_numbers_apart

# Lines that reach over this share of the page's height may frame it.
FRAME_HEIGHT = 0.7


def shaded_readings(
    layout: PageLayout, free: Bools, lattices: Sequence[Lattice], known: Sequence[Reading]
) -> list[Reading]:
    """Return the grids that the lines of lattices and the edges of shading draw together, but those that are
    `known` from the lines alone: several columns, where no cell over some of these holds what stands apart. A
    note in a box may have a shaded title.
    """
    cells = [r.drawn.cells for r in known if r.drawn]
    found = lattice_readings(layout, free, shaded_lattices(layout, lattices), SHADED)
    return [
        r
        for r in found
        if r.drawn
        and r.drawn.columns > 1
        and r.drawn.cells not in cells
        and not any(_joins_columns(layout, c) for c in r.drawn.cells)
    ]


def _joins_columns(layout: PageLayout, cell: CellDraft) -> bool:
    """Whether a cell over several columns holds words with room between them, in whichever lines they are."""
    if cell.colspan == 1 or len(cell.words) < 2:
        return False
    w = layout.words
    index = np.array(cell.words)[np.argsort(w.x0[cell.words], kind="stable")]
    room = w.x0[index][1:] - np.maximum.accumulate(w.x1[index])[:-1]
    return bool((room > SPAN_GAP * w.size[index][1:]).any())


def lattice_readings(
    layout: PageLayout, free: Bools, lattices: Sequence[Lattice], way: int = 0
) -> list[Reading]:
    """Return the grids that the lattices of a page draw around `free` words, a cell a face."""
    out = []
    for lattice in lattices:
        box = Box(*(float(v) for v in (lattice.xs[0], lattice.ys[0], lattice.xs[-1], lattice.ys[-1])))
        members = words_inside(layout, box)
        members = members[free[members]]
        if len(members) < 2 or _is_frame(layout, lattice, members):
            continue
        head_apart = with_head_apart(layout, _face_grid(layout, lattice, members, box))
        draft = with_numbers_apart(layout, head_apart)
        if draft.rows * draft.columns > 1 and sum(bool(c.words) for c in draft.cells) > 1:
            draft.drawn = True
            out.append(Reading(place_of(layout, members, free, box), draft, way=way))
    return out


def _is_frame(layout: PageLayout, lattice: Lattice, members: Ints) -> bool:
    """Whether the lines frame the page: one face of a lattice as tall as the page holds most of its rows."""
    if lattice.ys[-1] - lattice.ys[0] < FRAME_HEIGHT * layout.height:
        return False
    label = _faces(lattice.upright, lattice.level, lattice.rows, lattice.columns)
    w = layout.words
    row, column = _positions(lattice, (w.x0 + w.x1)[members] / 2, (w.y0 + w.y1)[members] / 2)
    face = label[row, column]
    most = np.bincount(face - face.min()).argmax() + face.min()
    inside = members[face == most]
    return len(distinct(w.row[inside])) > 0.5 * len(distinct(w.row[members])) and len(inside) > 20


def _positions(lattice: Lattice, x: Floats, y: Floats) -> tuple[Ints, Ints]:
    """Row and column of the lattice that each point lies in."""
    column = np.clip(np.searchsorted(lattice.xs, x) - 1, 0, lattice.columns - 1)
    return np.clip(np.searchsorted(lattice.ys, y) - 1, 0, lattice.rows - 1), column


def _face_grid(layout: PageLayout, lattice: Lattice, members: Ints, box: Box) -> TableDraft:
    """One cell a face of the lattice: elementary cells without a wall between them are one."""
    label = _faces(lattice.upright, lattice.level, lattice.rows, lattice.columns)
    w = layout.words
    row, column = _positions(lattice, (w.x0 + w.x1)[members] / 2, (w.y0 + w.y1)[members] / 2)
    held: dict[int, list[int]] = {}
    for i, face in zip(members.tolist(), label[row, column].tolist(), strict=True):
        held.setdefault(face, []).append(i)
    faces, first_row, last_row, first_column, last_column, _ = _extents(label)
    extents = (first_row, first_column, last_row - first_row + 1, last_column - first_column + 1)
    cells = [
        CellDraft(r, c, height, width, held.get(face, []))
        for face, r, c, height, width in zip(faces.tolist(), *(e.tolist() for e in extents), strict=True)
    ]
    return _without_empty_rims(
        TableDraft(box, lattice.rows, lattice.columns, cells, "ruled", column_edges=lattice.xs.tolist())
    )


def _faces(upright: Bools, level: Bools, rows: int, columns: int) -> Ints:
    """Label the faces; a face that is not a rectangle falls back to its elementary cells."""
    cell = np.arange(rows * columns).reshape(rows, columns)
    beside = ~upright[:, 1:columns]
    below = ~level[1:rows, :]
    a = np.concatenate((cell[:, :-1][beside], cell[:-1][below]))
    b = np.concatenate((cell[:, 1:][beside], cell[1:][below]))
    label = connected(a, b, cell.size).reshape(rows, columns)
    _, r0, r1, c0, c1, count = _extents(label)
    broken = count != (r1 - r0 + 1) * (c1 - c0 + 1)
    return np.where(broken[label], cell + cell.size, label)


def _extents(label: Ints) -> tuple[Ints, Ints, Ints, Ints, Ints, Ints]:
    """The labels in a grid; and of each its first and last row, first and last column, and its size."""
    flat = label.ravel()
    order = np.argsort(flat, kind="stable")
    labels, starts, counts = np.unique(flat[order], return_index=True, return_counts=True)
    row, column = np.divmod(order, label.shape[1])
    return (
        labels,
        np.minimum.reduceat(row, starts), np.maximum.reduceat(row, starts),
        np.minimum.reduceat(column, starts), np.maximum.reduceat(column, starts),
        counts,
    )  # fmt: skip


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
