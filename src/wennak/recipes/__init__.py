"""Recipes: what was learnt on the first document of a layout, for all that follow."""

from __future__ import annotations

from .apply import Applied, Record, apply_fitting, apply_recipe
from .checking import Verdict
from .draft import draft_name, draft_recipe
from .drift import Drift, drift_of
from .file import RecipeError, fingerprint, load_recipe, load_recipes, read_recipe, recipe_schema
from .layout import layout_of
from .model import Recipe
from .rows import Done

__all__ = [
    "Applied", "Done", "Drift", "Recipe", "RecipeError", "Record", "Verdict", "apply_fitting", "apply_recipe",
    "draft_name", "draft_recipe", "drift_of", "fingerprint", "layout_of", "load_recipe", "load_recipes",
    "read_recipe", "recipe_schema",
]  # fmt: skip
