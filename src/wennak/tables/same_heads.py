"""Places that the judge is not sure of, below the same labels as a table of the page."""

from __future__ import annotations

from collections.abc import Sequence

from ..layout import PageLayout
from .choose import LEAST, choose
from .draft import cells_by_row, plain_text
from .reading import Reading

# Readings that gain so much are tables where they begin with the labels of another; these are among so many
# rows, and so many or more.
HEADED, ROWS, LABELS = 0.1, 2, 2


def with_same_heads(
    layout: PageLayout, chosen: Sequence[Reading], readings: Sequence[Reading]
) -> list[Reading]:
    """Return chosen readings of a page and those of other words that begin with the labels of one of them, as
    lists of a manual do: what one table has above its columns is no text elsewhere.
    """
    taken = sum(r.bits for r in chosen)
    doubtful = [r for r in readings if HEADED < r.gain <= LEAST and not r.bits & taken]
    if not chosen or not doubtful:
        return list(chosen)
    known = {head for r in chosen for head in _heads(layout, r)}
    alike = [r for r in doubtful if not known.isdisjoint(_heads(layout, r))]
    return sorted([*chosen, *choose(alike, HEADED)], key=lambda r: (r.place.box.y0, r.place.box.x0))


def _heads(layout: PageLayout, reading: Reading) -> list[tuple[str, ...]]:
    """The first rows of a reading that have words in all columns."""
    draft = reading.draft()
    rows = [cells for row, cells in cells_by_row(draft).items() if row < ROWS]
    texts = [tuple(plain_text(layout, cell.words) for cell in cells) for cells in rows]
    return [
        row
        for row in texts
        if len(row) == draft.columns >= LABELS and all(text[:1].isalpha() for text in row)
    ]
