"""A page picture -> the same ink as that of a drawn page: characters, rules, shades."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from ..later import loaded

if TYPE_CHECKING:
    from .kinds import PageKind, is_picture, page_kind
    from .pages import recognised, seen_kind
    from .recogniser import installed_languages
    from .recognition import AS_NEEDED, MODES, Recognition

# Loaded on first use: who only says what is to be recognised needs none of what does it.
_LATER = {
    "PageKind": "kinds", "is_picture": "kinds", "page_kind": "kinds",
    "recognised": "pages", "seen_kind": "pages",
    "installed_languages": "recogniser",
    "AS_NEEDED": "recognition", "MODES": "recognition", "Recognition": "recognition",
}  # fmt: skip


def __getattr__(name: str) -> Any:
    return loaded(__name__, _LATER, name)


__all__ = [
    "AS_NEEDED",
    "MODES",
    "PageKind",
    "Recognition",
    "installed_languages",
    "is_picture",
    "page_kind",
    "recognised",
    "seen_kind",
]
