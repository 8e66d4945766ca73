"""Ink and layout -> tables. A method is a callable from a page layout to table drafts."""

from __future__ import annotations

import functools
from collections.abc import Callable
from dataclasses import dataclass
from importlib.metadata import EntryPoint, entry_points

from ..errors import UsageError
from ..layout import PageLayout
from .caption import attach_captions
from .confidence import confidences, structure_confidences
from .continued import Near, Part, continues, follows, joined
from .directed import read_directed
from .draft import CellDraft, TableDraft, finished, text_columns
from .evidence import FEATURES, Judge, evidence
from .finish import finish
from .leftover import left_over
from .margins import free_words
from .reading import Reading
from .recut import with_same_columns
from .search import search

Method = Callable[[PageLayout], list[TableDraft]]


@dataclass(frozen=True, slots=True)
class LookAhead:
    """A method that has to wait for others: `begin` sets it going for a page, and gives what waits for the
    tables of that page. Up to `pages` are begun before the tables of the first are needed.
    """

    begin: Callable[[PageLayout], Callable[[], list[TableDraft]]]
    pages: int


GROUP = "wennak.methods"


def method_names() -> list[str]:
    """Return the names of all installed methods."""
    return sorted(_installed())


def find_method(name: str) -> Method:
    """Return the method of that name. Raises UsageError if there is none."""
    method = _installed().get(name)
    if method is None:
        raise UsageError(f"There is no method {name!r}; choose one of {', '.join(method_names())}.")
    loaded: Method = method.load()
    return loaded


@functools.cache
def _installed() -> dict[str, EntryPoint]:
    return {entry.name: entry for entry in entry_points(group=GROUP)}


__all__ = [
    "FEATURES", "CellDraft", "Judge", "LookAhead", "Method", "Near", "Part", "Reading", "TableDraft",
    "attach_captions", "confidences", "continues", "evidence", "find_method", "finish", "finished", "follows",
    "free_words", "joined", "left_over", "method_names", "read_directed", "search",
    "structure_confidences", "text_columns", "with_same_columns",
]  # fmt: skip
