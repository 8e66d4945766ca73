"""Document <-> JSON of the format `wennak-document`."""

from __future__ import annotations

import functools
import json
from pathlib import Path
from typing import Any

from ..errors import UsageError, existing
from ..model import Document

FORMAT = "wennak-document"
VERSION = 2


def to_json(document: Document) -> str:
    """Return the document as JSON; `from_json` gives an equal one back."""
    data = {"format": FORMAT, "version": VERSION, **_adapter().dump_python(document, mode="json")}
    return json.dumps(data, ensure_ascii=False, indent=1) + "\n"


def from_json(text: str) -> Document:
    """Return the document that `to_json` wrote. Raises ValueError for anything else."""
    data = json.loads(text)
    if (
        not isinstance(data, dict)
        or data.pop("format", None) != FORMAT
        or data.pop("version", None) != VERSION
    ):
        raise ValueError(f"This is not a {FORMAT} of version {VERSION}.")
    document: Document = _adapter().validate_python(data)
    return document


def load(path: str | Path) -> Document:
    """Return the document that was saved as JSON at `path`.

    Raises MissingSource if there is no such file, and UsageError if it holds anything else.
    """
    file = existing(path)
    try:
        return from_json(file.read_text(encoding="utf-8"))
    except (OSError, ValueError) as error:
        raise UsageError(
            f"{path} is not a {FORMAT} of version {VERSION}; save the document again."
        ) from error


def json_schema() -> dict[str, Any]:
    """Return the JSON Schema of the format."""
    schema: dict[str, Any] = _adapter().json_schema()
    schema["properties"] = {
        "format": {"const": FORMAT}, "version": {"const": VERSION}, **schema["properties"],
    }  # fmt: skip
    schema["required"] = ["format", "version", *schema.get("required", [])]
    return schema


@functools.cache
def _adapter() -> Any:
    from pydantic import TypeAdapter

    return TypeAdapter(Document)
