"""`Document` -> Markdown, HTML, JSON, passages, and pictures of what was read."""

from __future__ import annotations

import contextlib
import os
import tempfile
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from ..errors import UsageError
from ..model import Document
from .html import table_html, to_html
from .json import from_json, json_schema, load, to_json
from .look_page import look_page
from .markdown import to_markdown
from .overlay import overlay
from .passage import LIMIT, Passage, count_tokens, passages, to_passages


@dataclass(frozen=True, slots=True)
class EmitOptions:
    """What outputs may do on demand: mark pages (Markdown and HTML), write tables as one record a row
    (Markdown and passages), limit the size of passages, in tokens.
    """

    page_marks: bool = False
    records: bool = False
    limit: int = LIMIT


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
    return FORMATS[format][1](document, options or EmitOptions())


def save(document: Document, path: str | Path) -> None:
    """Write the document in the format that the ending of `path` names."""
    path = Path(path)
    ending = path.suffix.lstrip(".").lower()
    names = {end: name for name, (end, _) in FORMATS.items()}
    if ending not in names:
        known = ", ".join(f".{end}" for end in names)
        raise UsageError(f"{path.name} has no ending that names a format; use one of {known}.")
    write_whole(path, emit(document, names[ending]))


def write_whole(path: Path, text: str) -> None:
    """Write a file under a temporary name, then rename it: it is there whole or not at all."""
    path.parent.mkdir(parents=True, exist_ok=True)
    handle, temporary = tempfile.mkstemp(dir=path.parent, prefix=f".{path.name}.", suffix=".part")
    try:
        with os.fdopen(handle, "w", encoding="utf-8", newline="\n", errors="backslashreplace") as file:
            file.write(text)
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
    "FORMATS",
    "LIMIT",
    "EmitOptions",
    "Passage",
    "check_format",
    "count_tokens",
    "emit",
    "from_json",
    "json_schema",
    "load",
    "look_page",
    "overlay",
    "passages",
    "save",
    "table_html",
    "to_html",
    "to_json",
    "to_markdown",
    "to_passages",
    "write_whole",
]
