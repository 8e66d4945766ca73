"""The command line: parse, call, print. No computing here."""

from __future__ import annotations

from .main import main

__all__ = ["main"]
