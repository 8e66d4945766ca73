"""Wennak turns PDFs into Markdown, HTML and JSON that keep their structure, tables above all.

>>> import wennak
>>> document = wennak.read("timetable.pdf")            # doctest: +SKIP
>>> document.tables[0].frame()                         # doctest: +SKIP
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from .errors import (
    DamagedArchive,
    DamagedPdf,
    LockedPdf,
    MissingPage,
    MissingSource,
    NoRoom,
    NotPdf,
    RefusedSource,
    SourceError,
    StoppedSource,
    UnreachableSource,
    UsageError,
    WennakError,
)
from .later import loaded
from .model import (
    Block,
    Box,
    Cell,
    Check,
    Code,
    Contents,
    ContentsEntry,
    Document,
    Field,
    Fields,
    Figure,
    Finding,
    Footnote,
    Formula,
    Heading,
    ListBlock,
    ListItem,
    Mark,
    PageSize,
    Paragraph,
    Place,
    Running,
    Table,
)

if TYPE_CHECKING:
    from .bench import benchmark
    from .collection import convert, stream, survey
    from .collection.data import apply_recipes
    from .emit import load
    from .filling import fields
    from .finding import find
    from .looking import look
    from .pipeline import ask_fields, read, read_table
    from .recipes import apply_recipe, load_recipe
    from .scan import Recognition

__version__ = "0.1.0"

# Loaded on first use: reading needs NumPy and the PDF library, and not every import of this package reads.
_LATER = {
    "read": "pipeline", "read_table": "pipeline", "ask_fields": "pipeline", "convert": "collection",
    "stream": "collection", "survey": "collection", "benchmark": "bench", "look": "looking", "load": "emit",
    "Recognition": "scan", "fields": "filling", "find": "finding", "load_recipe": "recipes",
    "apply_recipe": "recipes", "apply_recipes": "collection.data",
}  # fmt: skip


def __getattr__(name: str) -> Any:
    return loaded(__name__, _LATER, name)


__all__ = [
    "Block", "Box", "Cell", "Check", "Code", "Contents", "ContentsEntry", "DamagedArchive", "DamagedPdf",
    "Document", "Field", "Fields", "Figure", "Finding", "Footnote", "Formula", "Heading", "ListBlock",
    "ListItem", "LockedPdf", "Mark", "MissingPage", "MissingSource", "NoRoom", "NotPdf", "PageSize",
    "Paragraph", "Place", "Recognition", "RefusedSource", "Running", "SourceError", "StoppedSource",
    "Table", "UnreachableSource", "UsageError", "WennakError", "apply_recipe", "apply_recipes",
    "ask_fields", "benchmark", "convert", "fields", "find", "load", "load_recipe", "look", "read",
    "read_table", "stream", "survey",
]  # fmt: skip
