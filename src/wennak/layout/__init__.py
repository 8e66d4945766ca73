"""Ink -> words, lines, blocks, roles and reading order."""

from .around import zones_around
from .captions import CAPTION
from .contents import are_pages, is_index, names_contents
from .figures import figure_boxes, find_figures
from .flow import Item, Line, PageItems, TableMark, flow
from .lay_out import lay_out
from .page import PageLayout, Zone
from .running import RunningKey, repeatable, running_key
from .structure import structure
from .tags import Tags
from .words import raised_ends

__all__ = [
    "CAPTION", "Item", "Line", "PageItems", "PageLayout", "RunningKey", "TableMark", "Tags", "Zone",
    "are_pages", "figure_boxes", "find_figures", "flow", "is_index", "lay_out", "names_contents",
    "raised_ends", "repeatable", "running_key", "structure", "zones_around",
]  # fmt: skip
