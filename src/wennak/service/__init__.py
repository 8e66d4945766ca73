"""Wennak over HTTP: documents in, text and tables out, nothing kept."""

from __future__ import annotations

from .app import application
from .limits import ServiceLimits
from .openapi import openapi

__all__ = ["ServiceLimits", "application", "openapi"]
