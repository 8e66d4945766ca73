"""The service as OpenAPI 3.1 describes it."""

from __future__ import annotations

from importlib.metadata import version
from typing import Any

from ..scan import MODES
from .orders import FORMATS
from .problems import STATUS
from .receive import FORM, RAW

_PARAMETERS = {
    "as": (
        "The format, where Accept does not say it.",
        {"type": "string", "enum": [n for n in FORMATS if n != "page"]},
    ),
    "pages": ('Pages to read: "1-3,7", "last", "found:PHRASE"; all by default.', {"type": "string"}),
    "method": ("How tables are read.", {"type": "string", "default": "combined"}),
    "password": ("Password of a locked file.", {"type": "string"}),
    "table": (
        "Which table, from 1 (CSV: the first, XLSX: all by default).",
        {"type": "integer", "minimum": 1},
    ),
    "limit": ("Largest size of a passage, in tokens.", {"type": "integer", "minimum": 1}),
    "records": ("Write each row of a table with its headers.", {"type": "boolean"}),
    "page-marks": ("Mark where pages begin.", {"type": "boolean"}),
    "recognise": ("Which pages are read from their picture.", {"type": "string", "enum": list(MODES)}),
    "languages": ('Languages to recognise, such as "eng,deu".', {"type": "string"}),
    "name": ("What the document is called.", {"type": "string"}),
}


def openapi() -> dict[str, Any]:
    """Return the description, as data."""
    binary = {"schema": {"type": "string", "format": "binary"}}
    upload = {
        "schema": {
            "type": "object",
            "required": ["file"],
            "properties": {"file": {"type": "string", "format": "binary"}},
        }
    }
    problems: dict[int, list[str]] = {}
    for kind, (status, _) in STATUS.items():
        problems.setdefault(status, []).append(kind)
    refused = {
        str(status): {
            "description": f"Refused: {', '.join(kinds)}",
            "content": {"application/problem+json": {"schema": {"$ref": "#/components/schemas/Problem"}}},
        }
        for status, kinds in sorted(problems.items())
        if status not in (404, 405)
    }
    answers = {media.split(";")[0]: binary for name, (media, _) in FORMATS.items() if name != "page"}
    text = {"text/plain": {"schema": {"type": "string"}}}
    return {
        "openapi": "3.1.0",
        "info": {
            "title": "Wennak", "version": version("wennak"),
            "summary": "Documents to Markdown, HTML, JSON, passages and tables.",
        },
        "paths": {
            "/convert": {
                "post": {
                    "operationId": "convert",
                    "summary": "Convert a PDF, or a PNG, JPEG or TIFF picture of pages.",
                    "parameters": [
                        {"name": name, "in": "query", "description": said, "schema": schema}
                        for name, (said, schema) in _PARAMETERS.items()
                    ],
                    "requestBody": {
                        "required": True,
                        "content": {**dict.fromkeys(RAW, binary), FORM: upload},
                    },
                    "responses": {
                        "200": {"description": "What was asked for", "content": answers}, **refused,
                    },
                }
            },
            "/health": {
                "get": {
                    "operationId": "health",
                    "responses": {"200": {"description": "It lives", "content": text}},
                }
            },
            "/ready": {
                "get": {
                    "operationId": "ready",
                    "responses": {
                        "200": {"description": "Another request would be taken", "content": text},
                        "503": refused["503"],
                    },
                }
            },
        },
        "components": {
            "schemas": {
                "Problem": {
                    "description": "Problem details (RFC 9457); `kind` is the stable name of the error.",
                    "type": "object",
                    "required": ["title", "status", "detail", "kind"],
                    "properties": {
                        "title": {"type": "string"}, "status": {"type": "integer"},
                        "detail": {"type": "string"}, "kind": {"type": "string"},
                    },
                }
            }
        },
    }  # fmt: skip
