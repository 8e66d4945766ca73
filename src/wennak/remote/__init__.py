"""A vision model as a method: asked page by page, its answers validated and looked up on the page."""

from __future__ import annotations

from .ask import Answer, Asker, Asking, Service
from .client import HttpService, http_service
from .fields import TASK as FIELDS_TASK
from .fields import Said, asked_schema, fields_said, said_by
from .ground import Grounded, ground
from .method import hybrid_method, remote_method
from .question import Question

__all__ = [
    "FIELDS_TASK",
    "Answer",
    "Asker",
    "Asking",
    "Grounded",
    "HttpService",
    "Question",
    "Said",
    "Service",
    "asked_schema",
    "fields_said",
    "ground",
    "http_service",
    "hybrid_method",
    "remote_method",
    "said_by",
]
