"""A vision model as a method: asked page by page, its answers validated and looked up on the page."""

from __future__ import annotations

from .ask import Asking, Page, Service, ask_pages
from .client import HttpService
from .ground import Grounded, ground
from .method import remote_method
from .question import Question

__all__ = [
    "Asking",
    "Grounded",
    "HttpService",
    "Page",
    "Question",
    "Service",
    "ask_pages",
    "ground",
    "remote_method",
]
