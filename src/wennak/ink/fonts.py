"""A font dictionary -> a font."""

from __future__ import annotations

from typing import Any

import pikepdf

from .font import Font, TextTable
from .font_composite import load_composite
from .font_simple import load_simple


def load_font(obj: Any, texts: TextTable) -> Font:
    """Read a font dictionary. Never raises for a damaged one: what is missing falls back to defaults."""
    if not isinstance(obj, pikepdf.Dictionary):
        obj = pikepdf.Dictionary()
    subtype = str(obj.get("/Subtype", "/Type1"))
    if subtype == "/Type0":
        return load_composite(obj, texts)
    return load_simple(obj, subtype, texts)
