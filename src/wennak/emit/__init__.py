"""`Document` -> Markdown, HTML, JSON."""

from __future__ import annotations

import contextlib
import os
import tempfile
from collections.abc import Callable
from pathlib import Path

from ..errors import UsageError
from ..model import Document
from .html import table_html, to_html
from .json import from_json, json_schema, load, to_json
from .look_page import look_page
from .markdown import to_markdown
from .overlay import overlay

FORMATS: dict[str, Callable[[Document], str]] = {"md": to_markdown, "html": to_html, "json": to_json}


def emit(document: Document, format: str) -> str:
    """Return the document in a format by its name. Raises UsageError if there is none such."""
    if format not in FORMATS:
        raise UsageError(f"There is no format {format!r}; choose from {', '.join(FORMATS)}.")
    return FORMATS[format](document)


def save(document: Document, path: str | Path) -> None:
    """Write the document in the format that the ending of `path` names."""
    path = Path(path)
    write_whole(path, emit(document, path.suffix.lstrip(".").lower()))


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
    "emit",
    "from_json",
    "json_schema",
    "load",
    "look_page",
    "overlay",
    "save",
    "table_html",
    "to_html",
    "to_json",
    "to_markdown",
    "write_whole",
]
