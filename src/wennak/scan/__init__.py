"""A page picture -> the same ink as that of a drawn page: characters, rules, shades."""

from .files import SUFFIXES, as_pdf, is_picture
from .kinds import PageKind, page_kind
from .pages import AS_NEEDED, MODES, Recognition, recognised
from .recogniser import installed_languages

__all__ = [
    "AS_NEEDED",
    "MODES",
    "SUFFIXES",
    "as_pdf",
    "is_picture",
    "PageKind",
    "Recognition",
    "installed_languages",
    "page_kind",
    "recognised",
]
