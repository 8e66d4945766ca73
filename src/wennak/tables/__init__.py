"""Ink and layout -> tables. A method is a callable from a page layout to table drafts."""

from __future__ import annotations

from collections.abc import Callable
from importlib.metadata import entry_points

from ..errors import UsageError
from ..layout import PageLayout
from .caption import attach_captions
from .continued import Part, joined, text_columns
from .draft import CellDraft, TableDraft, finished

Method = Callable[[PageLayout], list[TableDraft]]

GROUP = "wennak.methods"


def method_names() -> list[str]:
    """Return the names of all installed methods."""
    return sorted({entry.name for entry in entry_points(group=GROUP)})


def find_method(name: str) -> Method:
    """Return the method of that name. Raises UsageError if there is none."""
    for entry in entry_points(group=GROUP):
        if entry.name == name:
            method: Method = entry.load()
            return method
    raise UsageError(f"There is no method {name!r}; choose one of {', '.join(method_names())}.")


__all__ = [
    "CellDraft", "Method", "Part", "TableDraft", "attach_captions", "find_method", "finished", "joined",
    "method_names", "text_columns",
]  # fmt: skip
