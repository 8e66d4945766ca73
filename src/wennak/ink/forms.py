"""The fields of an interactive form (ISO 32000-2, 12.7): what they are called and what was filled in."""

from __future__ import annotations

import contextlib
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import pikepdf

Rectangle = tuple[float, float, float, float]
# Hidden, and not viewed (12.5.3); and of fields: password, radio button, push button (12.7.5).
_UNSEEN = 2 | 32
_PASSWORD, _RADIO, _PUSH = 1 << 13, 1 << 15, 1 << 16
# No sound form is nested deeper.
_MAX_DEPTH = 32


@dataclass(frozen=True, slots=True)
class FormField:
    """A field that shows on a page: its name for people (or for programs, where there is none), where it is,
    and its value as text; `checked` is the state of a check box, None for any other field.
    """

    name: str
    rectangle: Rectangle
    value: str
    checked: bool | None = None


def page_fields(page: Any) -> Iterator[FormField]:
    """Yield the fields for text, choices and check boxes of a page, with rectangles in user space."""
    with contextlib.suppress(Exception):
        for annotation in page.obj.get("/Annots", []):
            with contextlib.suppress(Exception):
                found = _field(annotation)
                if found is not None:
                    yield found


def _field(widget: Any) -> FormField | None:
    if widget.get("/Subtype") != "/Widget" or int(widget.get("/F", 0)) & _UNSEEN:
        return None
    kind, flags = str(_inherited(widget, "/FT") or ""), int(_inherited(widget, "/Ff") or 0)
    x0, y0, x1, y1 = (float(v) for v in widget.Rect)
    name = " ".join(str(_inherited(widget, "/TU") or ".".join(_names(widget))).split())
    if kind == "/Btn" and not flags & (_RADIO | _PUSH):
        state = str(widget.get("/AS", _inherited(widget, "/V") or "/Off"))
        return FormField(name, (x0, y0, x1, y1), "", state not in ("/Off", "None"))
    if kind not in ("/Tx", "/Ch") or (kind == "/Tx" and flags & _PASSWORD):
        return None
    value = _inherited(widget, "/V")
    values = list(value) if isinstance(value, pikepdf.Array) else [] if value is None else [value]
    said = [
        _shown(widget, str(v)) if kind == "/Ch" else str(v)
        for v in values
        if not isinstance(v, pikepdf.Stream)
    ]
    return FormField(name, (x0, y0, x1, y1), " ".join(", ".join(said).split()))


def _above(widget: Any) -> Iterator[Any]:
    """A field and those that it belongs to."""
    node = widget
    for _ in range(_MAX_DEPTH):
        if node is None:
            return
        yield node
        node = node.get("/Parent")


def _inherited(widget: Any, key: str) -> Any:
    return next((node[key] for node in _above(widget) if key in node), None)


def _names(widget: Any) -> list[str]:
    return [str(node["/T"]) for node in _above(widget) if "/T" in node][::-1]


def _shown(widget: Any, value: str) -> str:
    """What a choice shows: it may be kept under another value."""
    for option in _inherited(widget, "/Opt") or []:
        if isinstance(option, pikepdf.Array) and len(option) == 2 and str(option[0]) == value:
            return str(option[1])
    return value
