"""The protocol that a service over HTTP speaks, as OpenAPI 3.1 (docs/wennak-vision.openapi.json)."""

from __future__ import annotations

from typing import Any

from .question import SCHEMA

VERSION = "1"
_PROBLEM = {
    "description": "What is wrong, as problem details (RFC 9457).",
    "content": {
        "application/problem+json": {
            "schema": {
                "type": "object",
                "properties": {"title": {"type": "string"}, "status": {"type": "integer"}},
            }
        }
    },
}
_LATER = _PROBLEM | {
    "description": "Not now: it is asked again, after `Retry-After` seconds at least.",
    "headers": {"Retry-After": {"schema": {"type": "integer", "minimum": 0}}},
}
_ASKED = {
    "type": "object",
    "required": ["document", "page", "region", "task", "schema", "picture"],
    "properties": {
        "document": {"type": "string", "description": "Name of the document, for the service's own records."},
        "page": {"type": "integer", "minimum": 1},
        "region": {
            "description": "The part of the page that the picture shows: left, top, right, bottom in points "
            "from its top left corner; null for all of it.",
            "type": ["array", "null"],
            "items": {"type": "number"},
            "minItems": 4,
            "maxItems": 4,
        },
        "task": {"type": "string", "description": "What is asked, in words."},
        "schema": {"type": "object", "description": "JSON Schema of the answer."},
        "picture": {"type": "string", "contentEncoding": "base64", "contentMediaType": "image/png"},
    },
}
_ANSWERED = {
    "type": "object",
    "required": ["answer"],
    "properties": {
        "answer": {"type": "string", "description": "What the model wrote: JSON of the schema."},
        "simulated": {"type": "boolean", "description": "Whether no model wrote it."},
    },
}


def protocol() -> dict[str, Any]:
    """Return the description of the protocol."""
    return {
        "openapi": "3.1.0",
        "info": {
            "title": "A vision service for Wennak",
            "version": VERSION,
            "description": "What `wennak --service URL` asks of a server that stands before a vision model.",
        },
        "paths": {
            "/answer": {
                "post": {
                    "summary": "Answer about one picture of a page",
                    "security": [{}, {"key": []}],
                    "requestBody": {"required": True, "content": {"application/json": {"schema": _ASKED}}},
                    "responses": {
                        "200": {
                            "description": "An answer.",
                            "content": {"application/json": {"schema": _ANSWERED}},
                        },
                        "429": _LATER,
                        "503": _LATER,
                        "default": _PROBLEM,
                    },
                }
            },
            "/health": {
                "get": {
                    "summary": "Whether it answers",
                    "responses": {
                        "200": {
                            "description": "It does.",
                            "content": {
                                "application/json": {
                                    "schema": {
                                        "type": "object",
                                        "required": ["status"],
                                        "properties": {
                                            "status": {"const": "alive"},
                                            "simulated": {"type": "boolean"},
                                        },
                                    }
                                }
                            },
                        }
                    },
                }
            },
        },
        "components": {
            "securitySchemes": {"key": {"type": "http", "scheme": "bearer"}},
            "schemas": {"Tables": SCHEMA},
        },
    }
