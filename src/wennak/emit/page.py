"""A template of a room -> an HTML page."""

from __future__ import annotations

import json
from importlib.resources import files
from typing import Any


def page_of(room: str, template: str, data: object = None, **values: Any) -> str:
    """Return a page made of a room's template ("wennak.emit", "look"), in which all text is escaped.

    `data` is what the page's script works on: it comes as JSON under that name, for a script element.
    """
    from jinja2 import Environment
    from markupsafe import Markup

    source = files(room).joinpath(f"templates/{template}.html").read_text(encoding="utf-8")
    # Within a script element only "</" and "<!--" could end or change it.
    text = json.dumps(data, ensure_ascii=False, separators=(",", ":")).replace("<", "\\u003c")
    return Environment(autoescape=True).from_string(source).render(data=Markup(text), **values)
