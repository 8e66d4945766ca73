"""A page picture -> the same ink as that of a drawn page: characters, rules, shades."""

from .kinds import PageKind, is_picture, page_kind
from .pages import AS_NEEDED, MODES, Recognition, recognised, seen_kind
from .recogniser import installed_languages

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
