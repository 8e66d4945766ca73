"""Outputs by the names of their formats: of documents, and of single tables."""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass
from pathlib import Path

from ..errors import UsageError
from ..model import Document, Table
from .whole import as_bytes, write_whole

# Passages are at most so many tokens, if nothing else is said.
LIMIT = 300


@dataclass(frozen=True, slots=True)
class EmitOptions:
    """What outputs may do on demand: mark pages (Markdown and HTML), write tables as one record a row
    (Markdown and passages), limit the size of passages, in tokens.
    """

    page_marks: bool = False
    records: bool = False
    limit: int = LIMIT


PLAIN = EmitOptions()


def _markdown(document: Document, options: EmitOptions) -> str:
    from .markdown import to_markdown

    return to_markdown(document, options.page_marks, options.records)


def _html(document: Document, options: EmitOptions) -> str:
    from .html import to_html

    return to_html(document, options.page_marks)


def _json(document: Document, options: EmitOptions) -> str:
    from .json import to_json

    return to_json(document)


def _passages(document: Document, options: EmitOptions) -> str:
    from .passage import to_passages

    return to_passages(document, options.limit, options.records)


# By name of the format: the ending of its files and what writes it, which is loaded when it is first used.
FORMATS: dict[str, tuple[str, Callable[[Document, EmitOptions], str]]] = {
    "md": ("md", _markdown),
    "html": ("html", _html),
    "json": ("json", _json),
    "passages": ("jsonl", _passages),
}


def check_format(format: str) -> None:
    """Raise UsageError if there is no format of that name."""
    if format not in FORMATS:
        raise UsageError(f"There is no format {format!r}; choose from {', '.join(FORMATS)}.")


def emit(document: Document, format: str, options: EmitOptions | None = None) -> str:
    """Return the document in a format by its name. Raises UsageError if there is none such."""
    check_format(format)
    return FORMATS[format][1](document, options or PLAIN)


def save(document: Document, path: str | Path) -> None:
    """Write the document in the format that the ending of `path` names."""
    path = Path(path)
    ending = path.suffix.lstrip(".").lower()
    names = {end: name for name, (end, _) in FORMATS.items()}
    if ending not in names:
        known = ", ".join(f".{end}" for end in names)
        raise UsageError(f"{path.name} has no ending that names a format; use one of {known}.")
    write_whole(path, emit(document, names[ending]))


# Formats of single tables, by the ending of their files.
TABLE_FORMATS = ("csv", "tsv", "xlsx", "html", "md", "json")


def table_bytes(
    tables: Sequence[Table], format: str, apart: Sequence[Collection[int]] = (), name: str = ""
) -> bytes:
    """Return tables as one file; CSV and TSV hold one table only. `name` is that of the document.

    `apart` names, for each table, the rows that an empty row sets off (CSV, TSV, XLSX). Raises UsageError for
    an unknown format.
    """
    if format not in TABLE_FORMATS:
        raise UsageError(f"There is no format {format!r} for tables; choose from {', '.join(TABLE_FORMATS)}.")
    if format == "xlsx":
        from .sheets import to_workbook

        return to_workbook(tables, apart)
    if format in ("csv", "tsv"):
        from .sheets import to_csv

        rows = apart[0] if apart else ()
        return as_bytes(to_csv(tables[0], "," if format == "csv" else "\t", rows))
    if format == "html" and len(tables) > 1:
        from .html import tables_html

        return as_bytes(tables_html(tables, name))
    document = Document(source=name or tables[0].caption or "table", blocks=list(tables))
    return as_bytes(emit(document, format))


def save_table(table: Table, path: str | Path) -> None:
    """Write one table in the format that the ending of `path` names."""
    path = Path(path)
    write_whole(path, table_bytes([table], path.suffix.lstrip(".").lower()))
