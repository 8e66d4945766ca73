"""Ink -> words, lines, blocks, roles and reading order."""

from .flow import Item, Line, TableMark, flow
from .page import PageLayout, lay_out
from .structure import PageItems, structure

__all__ = ["Item", "Line", "PageItems", "PageLayout", "TableMark", "flow", "lay_out", "structure"]
