"""How far the documents of a collection are from the layout of a recipe."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from concurrent.futures import Executor
from pathlib import Path

from ..errors import WennakError
from ..intake import Named
from ..recipes import Drift, Recipe, drift_of
from ..scan import AS_NEEDED, Recognition
from .streaming import in_order


def stream_drift(
    recipe: Recipe,
    sources: Named | Iterable[Named],
    workers: int | Executor = 1,
    password: str = "",
    recognition: Recognition = AS_NEEDED,
) -> Iterator[tuple[str, Drift | WennakError]]:
    """Yield the name of each source, in order, with how far it is from the layout of a recipe; with the error
    where it cannot be read. Sources and workers are those of `stream`.
    """
    for source, answer in in_order(sources, _drift, (recipe, password, recognition), workers):
        yield source.name, answer


def _drift(name: str, path: Path, recipe: Recipe, password: str, recognition: Recognition) -> Drift:
    from ..pipeline import read

    document = read(path, None, recipe.read.method, password, name, recognition)
    return drift_of(recipe, document, path, password)
