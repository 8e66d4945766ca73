"""What a service is asked, and the form that its answer has to have."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

from ..model import Box

TASK = (
    "The picture shows one page of a document. Write down every table on it as JSON of the given schema: "
    "each row from top to bottom with its cells from left to right, texts exactly as printed, an empty "
    "text for an empty cell; what spans several rows or columns as an object, once, with its extent. "
    "Write nothing but the JSON."
)
_CELL = {
    "anyOf": [
        {"type": "string"},
        {
            "type": "object",
            "required": ["text"],
            "additionalProperties": False,
            "properties": {
                "text": {"type": "string"},
                "rowspan": {"type": "integer", "minimum": 1, "maximum": 1000},
                "colspan": {"type": "integer", "minimum": 1, "maximum": 100},
            },
        },
    ]
}
SCHEMA: dict[str, Any] = {
    "type": "object",
    "required": ["tables"],
    "additionalProperties": False,
    "properties": {
        "tables": {
            "type": "array",
            "maxItems": 100,
            "items": {
                "type": "object",
                "required": ["rows"],
                "additionalProperties": False,
                "properties": {
                    "caption": {"type": "string"},
                    "header_rows": {"type": "integer", "minimum": 0},
                    "rows": {
                        "type": "array",
                        "maxItems": 2000,
                        "items": {"type": "array", "maxItems": 200, "items": _CELL},
                    },
                },
            },
        }
    },
}


@dataclass(frozen=True, slots=True)
class Question:
    """What is asked of a picture: in words, and the JSON Schema of the answer; the name of the document, the
    number of the page, and the region of it that the picture shows (points; None for all of it) are for a
    service's own records.
    """

    document: str
    page: int
    region: Box | None = None
    task: str = TASK
    schema: dict[str, Any] = field(default_factory=lambda: SCHEMA)
