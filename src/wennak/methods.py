"""Ways to read tables, by name: the own ones, those that packages add, and the one that asks a service."""

from __future__ import annotations

import functools
from typing import TYPE_CHECKING

from .errors import UsageError

if TYPE_CHECKING:
    from importlib.metadata import EntryPoint

DEFAULT_METHOD, REMOTE = "combined", "remote"
OWN_METHODS = ("plain", "ruled", "spaced", "tagged", DEFAULT_METHOD)
# Entry points of this group add more.
GROUP = "wennak.methods"


def method_names() -> list[str]:
    """Return the names of all methods that need no service: the own ones, and those that are added."""
    return sorted({*OWN_METHODS, *_added()})


def check_method(method: str, service: object = None) -> None:
    """Raise UsageError where there is no such method, or it needs a service and has none."""
    if method == REMOTE and not service:
        raise UsageError(f'The method "{REMOTE}" needs a service to ask.')
    if method not in (*OWN_METHODS, REMOTE):
        added_method(method)


def added_method(name: str) -> EntryPoint:
    """Return where a method lies that another package adds. Raises UsageError if there is none."""
    added = _added().get(name)
    if added is None:
        raise UsageError(f"There is no method {name!r}; choose one of {', '.join(method_names())}.")
    return added


@functools.cache
def _added() -> dict[str, EntryPoint]:
    # Looking through all that is installed takes longer than a small file.
    from importlib.metadata import entry_points

    return {entry.name: entry for entry in entry_points(group=GROUP)}
