"""How far a document is from the layout that a recipe was made on."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from ..model import Document
from .apply import apply_recipe
from .model import Recipe


@dataclass(frozen=True, slots=True)
class Drift:
    """How far a document is from the layout of a recipe.

    `moved` says what is not where or what it was, by how much; `broken` what no longer works: steps, columns,
    checks; `unfit` why the recipe is not for the document.
    """

    recipe: str
    document: str
    moved: list[str]
    broken: list[str]
    unfit: list[str]

    @property
    def none(self) -> bool:
        """Whether nothing has changed."""
        return not (self.moved or self.broken or self.unfit)


def drift_of(
    recipe: Recipe, document: Document, source: str | Path | bytes | None = None, password: str = ""
) -> Drift:
    """Compare a document with the layout that a recipe was made on, and see what of the recipe still works.

    Checks that compare with an earlier period's data are left out.
    """
    alone = tuple(c for c in recipe.checks if not ((f := c.formula()) and f.asks_earlier()))
    applied = apply_recipe(recipe.model_copy(update={"checks": alone}), document, source, None, password)
    return Drift(recipe.name, document.source, applied.moved, applied.problems, applied.unfit)
