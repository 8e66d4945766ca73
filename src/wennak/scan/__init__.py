"""A page picture -> the same ink as that of a drawn page: characters, rules, shades."""

from .files import SUFFIXES, as_pdf, is_picture
from .kinds import PageKind, page_kind
from .pages import AS_NEEDED, MODES, Recognition, recognised
from .recogniser import installed_languages

__all__ = [
    "AS_NEEDED",
    "MODES",
    "SUFFIXES",
    "PageKind",
    "Recognition",
    "as_pdf",
    "installed_languages",
    "is_picture",
    "page_kind",
    "recognised",
]
