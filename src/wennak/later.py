"""Names of a package that are loaded when they are first asked for."""

from __future__ import annotations

from collections.abc import Mapping
from importlib import import_module
from typing import Any


def loaded(package: str, later: Mapping[str, str], name: str) -> Any:
    """Return a name of a package from the module of it that `later` says it lies in.

    Raises AttributeError where it lies in none.
    """
    if name not in later:
        raise AttributeError(f"module {package!r} has no attribute {name!r}")
    return getattr(import_module(f".{later[name]}", package), name)
