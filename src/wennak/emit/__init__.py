"""`Document` -> Markdown, HTML, JSON, passages, and pictures of what was read."""

from __future__ import annotations

import contextlib
import os
import tempfile
from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass
from pathlib import Path

from ..errors import UsageError
from ..model import Document, Table
from .cells import CellRow, cell_rows
from .data import (
    DATA_FORMATS,
    DataColumn,
    DataRow,
    SqlTable,
    check_parquet,
    write_sheets,
    write_sql,
)
from .html import body_html, place_text, table_html, tables_html, to_html
from .json import from_json, json_schema, load, to_json
from .look_page import look_page
from .markdown import to_markdown
from .notebook import shown_document, shown_rows, shown_table
from .overlay import overlay
from .page import page_of
from .passage import LIMIT, Passage, count_tokens, passages, to_passages
from .sheets import guarded, to_csv, to_workbook
from .survey import COLUMNS, SurveyRow, SurveyTotals, said, survey_csv, survey_html, survey_json
from .typed import table_data


@dataclass(frozen=True, slots=True)
class EmitOptions:
    """What outputs may do on demand: mark pages (Markdown and HTML), write tables as one record a row
    (Markdown and passages), limit the size of passages, in tokens.
    """

    page_marks: bool = False
    records: bool = False
    limit: int = LIMIT


PLAIN = EmitOptions()
# By name of the format: the ending of its files and what writes it.
FORMATS: dict[str, tuple[str, Callable[[Document, EmitOptions], str]]] = {
    "md": ("md", lambda d, o: to_markdown(d, o.page_marks, o.records)),
    "html": ("html", lambda d, o: to_html(d, o.page_marks)),
    "json": ("json", lambda d, o: to_json(d)),
    "passages": ("jsonl", lambda d, o: to_passages(d, o.limit, o.records)),
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
        return to_workbook(tables, apart)
    if format in ("csv", "tsv"):
        rows = apart[0] if apart else ()
        return as_bytes(to_csv(tables[0], "," if format == "csv" else "\t", rows))
    if format == "html" and len(tables) > 1:
        return as_bytes(tables_html(tables, name))
    document = Document(source=name or tables[0].caption or "table", blocks=list(tables))
    return as_bytes(emit(document, format))


def save_table(table: Table, path: str | Path) -> None:
    """Write one table in the format that the ending of `path` names."""
    path = Path(path)
    write_whole(path, table_bytes([table], path.suffix.lstrip(".").lower()))


def as_bytes(text: str) -> bytes:
    """Return a text as files hold it: UTF-8, with what that cannot say escaped."""
    return text.encode("utf-8", "backslashreplace")


def write_whole(path: Path, content: str | bytes, through: Path | None = None) -> None:
    """Write a file under a temporary name, then rename it: it is there whole or not at all.

    The temporary file stands beside it, or in the folder `through` of the same file system, which must exist.
    """
    data = content if isinstance(content, bytes) else as_bytes(content)
    path.parent.mkdir(parents=True, exist_ok=True)
    handle, temporary = tempfile.mkstemp(dir=through or path.parent, prefix=".", suffix=".part")
    try:
        with os.fdopen(handle, "wb") as file:
            file.write(data)
        Path(temporary).chmod(0o666 & ~_umask())
        Path(temporary).replace(path)
    except BaseException:
        with contextlib.suppress(OSError):
            Path(temporary).unlink()
        raise


def _umask() -> int:
    mask = os.umask(0)
    os.umask(mask)
    return mask


__all__ = [
    "COLUMNS",
    "DATA_FORMATS",
    "FORMATS",
    "LIMIT",
    "PLAIN",
    "TABLE_FORMATS",
    "CellRow",
    "DataColumn",
    "DataRow",
    "EmitOptions",
    "Passage",
    "SqlTable",
    "SurveyRow",
    "SurveyTotals",
    "as_bytes",
    "body_html",
    "cell_rows",
    "check_format",
    "check_parquet",
    "count_tokens",
    "emit",
    "from_json",
    "guarded",
    "json_schema",
    "load",
    "look_page",
    "overlay",
    "page_of",
    "passages",
    "place_text",
    "said",
    "save",
    "save_table",
    "shown_document",
    "shown_rows",
    "shown_table",
    "survey_csv",
    "survey_html",
    "survey_json",
    "table_bytes",
    "table_data",
    "table_html",
    "to_html",
    "to_json",
    "to_markdown",
    "to_passages",
    "write_sheets",
    "write_sql",
    "write_whole",
]
