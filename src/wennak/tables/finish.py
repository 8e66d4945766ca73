"""What is left to do once a reading is chosen: signs, labels, header rows, spans."""

from __future__ import annotations

from collections.abc import Sequence

from ..layout import PageLayout
from ..model import Box
from .draft import TableDraft
from .header import header_rows
from .signs import hand_over, join_heads, join_labels, join_marks, join_signs, keep_labels
from .spans import settle_labels_beside_rules, spread_cells
from .stub_rows import (
    with_items_joined,
    with_labels_apart,
    with_lines_joined,
    with_near_lines_joined,
    with_paragraphs_joined,
    with_rests_joined,
)
from .tiles import with_tiles_joined
from .unruled import with_groups_apart, with_known_lines_apart, with_rows_between_lines


def finish(
    layout: PageLayout, draft: TableDraft, lines: Sequence[float], heads: int | None = None
) -> TableDraft:
    """Join signs to their numbers, find the header rows unless `heads` gives them, and let cells span what
    the page shows to be theirs. `lines` are the y of level lines across the table.
    """
    if not draft.drawn:
        join_labels(layout, draft)
        join_signs(layout, draft)
        join_heads(layout, draft)
        keep_labels(layout, draft)
        settle_labels_beside_rules(layout, draft)
        draft = with_tiles_joined(layout, draft)
        draft = with_rows_between_lines(layout, with_groups_apart(layout, draft), lines)
        draft = with_labels_apart(layout, with_known_lines_apart(layout, draft))
        draft = with_lines_joined(layout, with_paragraphs_joined(layout, draft), lines)
        draft = with_rests_joined(layout, with_near_lines_joined(layout, draft, lines))
        join_marks(layout, draft)
        draft = with_items_joined(layout, draft, lines)
    else:
        # Shading behind a column may begin right of its signs.
        hand_over(layout, draft, led=True)
    inner = [y for y in lines if draft.box.y0 + 1 < y < draft.box.y1 - 1]
    draft.header_rows = header_rows(layout, draft, inner) if heads is None else min(heads, draft.rows)
    spread_cells(layout, draft)
    words = draft.word_indices()
    if len(words):
        # Labels set sideways reach above their row.
        draft.box = Box.around([draft.box, layout.box(words)])
    return draft
