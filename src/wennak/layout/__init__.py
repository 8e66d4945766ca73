"""Ink -> words, lines, blocks, roles and reading order."""

from .flow import Item, Line, TableMark, flow
from .lay_out import lay_out
from .page import PageLayout, Zone
from .structure import PageItems, structure

__all__ = ["Item", "Line", "PageItems", "PageLayout", "TableMark", "Zone", "flow", "lay_out", "structure"]
