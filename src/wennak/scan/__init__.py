"""A page picture -> the same ink as that of a drawn page: characters, rules, shades."""

from .kinds import PageKind, page_kind
from .pages import MODES, Recognition, recognised
from .recogniser import installed_languages

__all__ = ["MODES", "PageKind", "Recognition", "installed_languages", "page_kind", "recognised"]
