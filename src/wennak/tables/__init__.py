"""Ink and layout -> tables. A method is a callable from a page layout to table drafts."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from ..layout import PageLayout
from ..methods import added_method
from .caption import attach_captions
from .combined import read_combined, read_ruled, read_spaced
from .confidence import confidences, structure_confidences
from .continued import Near, Part, continues, follows, is_right_below, joined
from .directed import read_directed
from .draft import CellDraft, TableDraft, finished, fonts_of, text_columns
from .evidence import FEATURES, Judge, evidence
from .finish import finish
from .leftover import begun, label_below, left_over, rows_above
from .margins import free_words
from .plain import read_plain
from .reading import Reading
from .recut import with_same_columns
from .repeated import repeats_head
from .search import search
from .strip import is_sentence
from .tagged import read_tagged
from .titles import without_text_below, without_title

Method = Callable[[PageLayout], list[TableDraft]]


@dataclass(frozen=True, slots=True)
class LookAhead:
    """A method that has to wait for others: `begin` sets it going for a page, and gives what waits for the
    tables of that page. Up to `pages` are begun before the tables of the first are needed.
    """

    begin: Callable[[PageLayout], Callable[[], list[TableDraft]]]
    pages: int


OWN: dict[str, Method] = {
    "combined": read_combined,
    "plain": read_plain,
    "ruled": read_ruled,
    "spaced": read_spaced,
    "tagged": read_tagged,
}


def find_method(name: str) -> Method:
    """Return the method of that name. Raises UsageError if there is none."""
    if name in OWN:
        return OWN[name]
    loaded: Method = added_method(name).load()
    return loaded


__all__ = [
    "FEATURES", "CellDraft", "Judge", "LookAhead", "Method", "Near", "Part", "Reading", "TableDraft",
    "attach_captions", "begun", "confidences", "continues", "evidence", "find_method", "finish", "finished",
    "follows", "fonts_of", "free_words", "is_right_below", "is_sentence", "joined", "label_below",
    "left_over", "read_directed", "repeats_head", "rows_above", "search", "structure_confidences",
    "text_columns", "with_same_columns", "without_text_below", "without_title",
]  # fmt: skip
