"""A YAML file -> a recipe, or a sentence with line and field for every mistake in it."""

from __future__ import annotations

import hashlib
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import yaml
from pydantic import BaseModel, ValidationError
from rapidfuzz import process

from ..errors import UsageError, existing
from .formula import Formula, read_formula
from .model import NUMERIC, Column, Recipe

MAX_BYTES = 1 << 20
_Path = tuple[str | int, ...]


class RecipeError(UsageError):
    """A recipe cannot be used; every mistake is told on a line of its own."""


def load_recipe(path: str | Path) -> Recipe:
    """Return the recipe in a YAML file.

    Raises RecipeError, which names file, line and field of every mistake, and MissingSource where there is
    no such file.
    """
    file = existing(path)
    if file.is_dir():
        raise UsageError(f"{path} is a folder; name one recipe, a .yaml file.")
    try:
        data = file.read_bytes()
        if len(data) > MAX_BYTES:
            raise RecipeError(f"{path} is too large for a recipe; name a .yaml file.")
        return read_recipe(data.decode("utf-8-sig"), file.name)
    except UnicodeDecodeError as error:
        raise RecipeError(f"{path} is no text in UTF-8; save the recipe as one.") from error
    except OSError as error:
        raise UsageError(f"{path} cannot be read ({error.strerror or error}).") from error


def load_recipes(path: str | Path) -> list[Recipe]:
    """Return the recipe in a file, or those of all .yaml files in a folder, in the order of their names.

    Raises RecipeError as `load_recipe` does, also where there are none or two have one name.
    """
    place = existing(path)
    if not place.is_dir():
        return [load_recipe(place)]
    files = sorted(p for p in place.iterdir() if p.suffix in (".yaml", ".yml"))
    if not files:
        raise UsageError(f"There is no recipe in {path}; recipes are .yaml files.")
    recipes = [load_recipe(file) for file in files]
    names = [recipe.name for recipe in recipes]
    for name in names:
        if names.count(name) > 1:
            raise UsageError(f"Two recipes in {path} have the name {name!r}; give each its own.")
    return recipes


def read_recipe(text: str, name: str = "The recipe") -> Recipe:
    """Return the recipe that YAML says; `name` is what errors call it. Raises RecipeError."""
    try:
        for token in yaml.scan(text, Loader=yaml.SafeLoader):
            if isinstance(token, (yaml.AliasToken, yaml.AnchorToken, yaml.TagToken)):
                line = token.start_mark.line + 1
                raise RecipeError(
                    f"{name}, line {line}: write & * and ! in quotes, they refer to nothing here."
                )
        node = yaml.compose(text, Loader=yaml.SafeLoader)
    except yaml.YAMLError as error:
        raise RecipeError(_syntax(name, error)) from error
    except RecursionError as error:
        raise RecipeError(f"{name} is nested too deeply for a recipe.") from error
    if not isinstance(node, yaml.MappingNode):
        raise RecipeError(f"{name} holds no recipe; it begins with the line: wennak-recipe: 1")
    lines: dict[_Path, int] = {}
    mistakes: list[tuple[int, str]] = []
    data = _plain(node, (), lines, mistakes)
    recipe: Recipe | None = None
    try:
        recipe = Recipe.model_validate(data)
    except ValidationError as error:
        found = error.errors()
        # A list whose entries are wrong counts as too short as well.
        deeper = {e["loc"][: len(e["loc"]) - 1 - k] for e in found for k in range(len(e["loc"]))}
        mistakes += [_said(e, lines) for e in found if not (e["type"] == "too_short" and e["loc"] in deeper)]
    if recipe is not None:
        mistakes += [(_line(place, lines), f"{_dotted(place)}: {said}") for place, said in _unsound(recipe)]
    if recipe is None or mistakes:
        said = [f"{name}, line {line}, {text}" for line, text in sorted(set(mistakes))]
        raise RecipeError("\n".join(f"{text.rstrip('.')}." for text in said))
    return recipe


def fingerprint(recipe: Recipe) -> str:
    """Return a short form of all that a recipe says."""
    return hashlib.sha256(recipe.model_dump_json().encode()).hexdigest()[:16]


def recipe_schema() -> dict[str, Any]:
    """Return the JSON Schema of recipes."""
    return Recipe.model_json_schema(by_alias=True)


def _syntax(name: str, error: yaml.YAMLError) -> str:
    if isinstance(error, yaml.MarkedYAMLError) and error.problem_mark is not None:
        said = " ".join(part for part in (error.context, error.problem) if part)
        return f"{name}, line {error.problem_mark.line + 1}: this is not YAML ({said})."
    return f"{name} is not YAML: it holds a character that a text cannot have."


def _plain(node: yaml.Node, at: _Path, lines: dict[_Path, int], mistakes: list[tuple[int, str]]) -> Any:
    """Plain lists, dictionaries and texts, and the line of each; what is left empty is not there."""
    lines[at] = node.start_mark.line + 1
    if isinstance(node, yaml.SequenceNode):
        return [_plain(entry, (*at, k), lines, mistakes) for k, entry in enumerate(node.value)]
    if not isinstance(node, yaml.MappingNode):
        return str(node.value)
    out: dict[str, Any] = {}
    for key, value in node.value:
        name = str(key.value) if isinstance(key, yaml.ScalarNode) else "?"
        place = (*at, name)
        if name in out:
            mistakes.append((key.start_mark.line + 1, f"{_dotted(place)}: is said twice; keep one"))
        elif not (isinstance(value, yaml.ScalarNode) and not value.value and value.style is None):
            out[name] = _plain(value, place, lines, mistakes)
            lines[place] = key.start_mark.line + 1
    return out


def _said(error: Any, lines: dict[_Path, int]) -> tuple[int, str]:
    """Line and sentence of one mistake."""
    place: _Path = tuple(p for p in error["loc"] if isinstance(p, int) or not p.startswith("function-"))
    kind, context = error["type"], error.get("ctx", {})
    match kind:
        case "missing":
            # What is missing is looked for where it should be.
            return _line(place[:-1], lines), f"{_dotted(place)}: is missing"
        case "extra_forbidden":
            known = _known(place[:-1])
            near = process.extractOne(str(place[-1]), known, score_cutoff=70)
            advice = f"did you mean {near[0]}?" if near else f"choose from {', '.join(known)}"
            return _line(place, lines), f"{_dotted(place)}: there is no such field; {advice}"
        case "literal_error":
            said = (
                f"{error['input']!r} is not allowed; choose from {context['expected'].replace(' or ', ', ')}"
            )
        case "value_error":
            said = str(context["error"])
        case "string_type":
            said = "this needs a text"
        case "tuple_type":
            said = "this needs a list: [one, two], or lines that begin with a dash"
        case "model_type" | "model_attributes_type" | "dict_type":
            said = f"this needs fields of its own: {', '.join(_known(place))}"
        case "int_parsing" | "int_type" | "decimal_parsing":
            said = f"{error['input']!r} is no number"
        case "bool_parsing" | "bool_type":
            said = f"{error['input']!r} is neither yes nor no"
        case "string_too_short" | "too_short":
            said = "this is empty; name something"
        case "greater_than_equal":
            said = f"{error['input']} is too small; the least is {context['ge']}"
        case "string_pattern_mismatch":
            said = f"{error['input']!r} has not the form {context['pattern']}"
        case _:
            said = error["msg"]
    return _line(place, lines), f"{_dotted(place)}: {said}" if place else said


def _line(place: _Path, lines: dict[_Path, int]) -> int:
    while place and place not in lines:
        place = place[:-1]
    return lines.get(place, 1)


def _dotted(place: _Path) -> str:
    """A place in a recipe as people write it; entries of lists count from 1."""
    return ".".join(str(p + 1) if isinstance(p, int) else p for p in place)


def _known(place: _Path) -> list[str]:
    """The fields that there are at a place."""
    section: Any = Recipe
    for part in place:
        if isinstance(part, int):
            continue
        fields = {f.alias or name: f for name, f in section.model_fields.items()}
        found = [a for a in _arguments(fields[part].annotation) if _is_section(a)] if part in fields else []
        if not found:
            return []
        section = found[0]
    return [f.alias or name for name, f in section.model_fields.items()]


def _arguments(annotation: Any) -> Iterator[Any]:
    yield annotation
    for inner in getattr(annotation, "__args__", ()):
        yield from _arguments(inner)


def _is_section(kind: Any) -> bool:
    return isinstance(kind, type) and issubclass(kind, BaseModel)


def _unsound(recipe: Recipe) -> Iterator[tuple[_Path, str]]:
    """Mistakes that show only where sections are seen together: names that nothing bears."""
    taken, columns = recipe.taken, {column.name: column for column in recipe.columns}
    names = [column.name for column in recipe.columns]
    for k, column in enumerate(recipe.columns):
        if names.index(column.name) < k:
            yield ("columns", k, "name"), f"there are two columns {column.name!r}"
        if column.formula is not None:
            formula = read_formula(column.formula)
            if formula.compares:
                yield ("columns", k, "formula"), "a column needs a value; comparisons belong to checks"
            yield from _unknown(formula, {*names[:k], *taken}, ("columns", k, "formula"), "above it ")
            if column.type not in NUMERIC:
                yield ("columns", k, "type"), f"a formula gives numbers; choose from {', '.join(NUMERIC)}"
    for k, check in enumerate(recipe.checks):
        (kind,) = check.model_fields_set
        place: _Path = ("checks", k, kind)
        if formula_ := check.formula():
            yield from _unknown(formula_, {*names, *taken}, place)
            outside = formula_.outside() & set(names)
            if kind == "whole" and outside:
                name = sorted(outside)[0]
                yield place, f"{name!r} is a column; say of which rows: sum({name}), first({name})"
        for name in _checked_columns(check):
            if name not in columns:
                yield place, _no_column(name, names)
        if check.adds_up is not None:
            for name in check.adds_up.columns:
                if name in columns and columns[name].type not in NUMERIC:
                    yield place, f"the column {name!r} holds no numbers; give it a type that does"
    for field in ("columns", "order"):
        for name in getattr(recipe.output, field):
            if name not in columns:
                yield ("output", field), _no_column(name, names)
    if recipe.read.cuts and recipe.table.region is None:
        yield ("read", "cuts"), "cuts need a region; say in table.region where the table stands"
    if recipe.read.header_rows is not None and recipe.table.region is None:
        yield (
            ("read", "header_rows"),
            "header_rows needs a region; say in table.region where the table stands",
        )


def _checked_columns(check: Any) -> list[str]:
    if check.adds_up is not None:
        return [*check.adds_up.columns, *([check.adds_up.per] if check.adds_up.per else [])]
    section = check.allowed or check.matching
    return [section.column] if section else list(check.unique or ())


def _unknown(formula: Formula, known: set[str], place: _Path, where: str = "") -> Iterator[tuple[_Path, str]]:
    for name in sorted(formula.names() - known):
        yield place, _no_column(name, sorted(known), where)


def _no_column(name: str, names: list[str], where: str = "") -> str:
    near = process.extractOne(name, names, score_cutoff=70)
    advice = f"did you mean {near[0]}?" if near else f"there are {', '.join(names) or 'none'}"
    return f"there is no column {name!r} {where}in columns; {advice}"


__all__ = ["Column", "Recipe", "RecipeError", "fingerprint", "load_recipe", "load_recipes", "read_recipe",
           "recipe_schema"]  # fmt: skip
