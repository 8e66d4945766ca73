"""The sources that a command is given, as arguments and in a list."""

from __future__ import annotations

import itertools
from collections.abc import Iterator

from ..errors import UsageError
from ..intake import listed


def named_sources(sources: tuple[str, ...], from_list: str | None) -> Iterator[str]:
    """Yield the sources one by one. Raises UsageError at once where none is named."""
    if not sources and from_list is None:
        raise UsageError("Name at least one source, or a list of them with --from.")
    return itertools.chain(sources, listed(from_list) if from_list is not None else ())
