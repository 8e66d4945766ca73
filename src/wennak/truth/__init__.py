"""Ground truth: draft it, check it by hand, take it in, validate it."""

from __future__ import annotations

from .draft import draft
from .files import find_truth, load_truth, save_truth, truth_html, truth_name
from .html_in import html_document, parse_html
from .model import Truth, TruthTable
from .sheet import sheet_html, write_sheet
from .take import Change, differences, take
from .validate import Problem, validate

__all__ = [
    "Change",
    "Problem",
    "Truth",
    "TruthTable",
    "differences",
    "draft",
    "find_truth",
    "html_document",
    "load_truth",
    "parse_html",
    "save_truth",
    "sheet_html",
    "take",
    "truth_html",
    "truth_name",
    "validate",
    "write_sheet",
]
