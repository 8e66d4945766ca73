"""Where a phrase stands in the documents of a collection."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from concurrent.futures import Executor
from pathlib import Path

from ..errors import UsageError, WennakError
from ..finding import Hit, find
from ..intake import Named
from ..methods import DEFAULT_METHOD
from ..phrases import has_words
from ..scan import AS_NEEDED, Recognition
from .streaming import in_order


def stream_hits(
    phrase: str,
    sources: Named | Iterable[Named],
    workers: int | Executor = 1,
    method: str = DEFAULT_METHOD,
    password: str = "",
    recognition: Recognition = AS_NEEDED,
) -> Iterator[tuple[str, list[Hit] | WennakError]]:
    """Yield the name of each source, in order, with where a phrase stands in it, the best first; with the
    error where it cannot be read. Sources and workers are those of `stream`.

    Raises UsageError for a phrase without words.
    """
    if not has_words(phrase):
        raise UsageError(f"{phrase!r} holds no words to be found.")
    for source, answer in in_order(sources, _hits, (phrase, method, password, recognition), workers):
        yield source.name, answer


def _hits(
    name: str, path: Path, phrase: str, method: str, password: str, recognition: Recognition
) -> list[Hit]:
    from ..pipeline import read

    return find(read(path, None, method, password, name, recognition), phrase)
