"""The files for a whole collection, by name, and what each document gives to them."""

from __future__ import annotations

from collections.abc import Iterable

from ..errors import UsageError

# By name: the file for the whole collection, and what each document gives to it.
FILES = {"passages": "passages.jsonl", "csv": "tables.csv", "parquet": "tables.parquet"}
PART_OF = {"passages": "passages", "csv": "cells", "parquet": "cells"}
# What filled schemas of all documents are written to.
FIELDS, FIELDS_FILE = "fields", "fields.jsonl"
# The kind of what documents give that were put to recipes; the folder, and the code of findings, of those
# that a person has to look at.
RECORDS, REVIEW = "records", "review"


def check_together(name: str) -> None:
    """Raise UsageError if nothing of that name can be written for a whole collection."""
    if name not in FILES:
        raise UsageError(f"There is no {name!r} for a whole collection; choose from {', '.join(FILES)}.")
    if name == "parquet":
        from ..emit import check_parquet

        check_parquet()


def part_kinds(together: Iterable[str]) -> list[str]:
    """Return what a document gives to the files for the whole collection, each once."""
    return sorted({PART_OF[name] for name in together})


def part_name(kind: str, content: str) -> str:
    """Return the name of what the document with some content gives."""
    return f"{content}.{kind}.jsonl"
