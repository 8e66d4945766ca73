"""What recipes make of a collection: data files, and a review folder for what must not get into them.

Each worker writes what its document gives as a line of JSON; at the end these are put together in the order
of the sources, one document after the other.
"""

from __future__ import annotations

import csv
import datetime
import json
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from concurrent.futures import Executor
from dataclasses import dataclass, field
from decimal import Decimal
from pathlib import Path
from typing import Any

from ..emit import (
    DataColumn,
    DataRow,
    SqlTable,
    check_parquet,
    guarded,
    write_sheets,
    write_sql,
)
from ..errors import UsageError, existing
from ..intake import Named
from ..model import Document, Finding
from ..recipes import Applied, Recipe, Record, apply_fitting, fingerprint
from ..recipes.formula import Value
from ..recipes.model import NUMERIC
from ..scan import AS_NEEDED, Recognition
from .files import REVIEW
from .tasks import Outcome

# The codes of findings that say what has moved, and which values in the data are in doubt.
MOVED, DOUBT = "moved", "doubtful-value"
REVIEW_FILE = "review.csv"
# The columns that say where a row comes from, behind those of the data.
ORIGIN = (DataColumn("document"), DataColumn("page", "integer"), DataColumn("row", "integer"))


@dataclass(frozen=True, slots=True)
class Recipes:
    """The recipes that documents are put to, each to the one that is for it; the rows of an earlier period's
    data; and the table of a database that the rows go into. Raises UsageError for what does not go together.
    """

    recipes: tuple[Recipe, ...]
    earlier: tuple[Mapping[str, Value], ...] | None = field(default=None, repr=False)
    into: SqlTable | None = None

    def __post_init__(self) -> None:
        methods = sorted({recipe.read.method for recipe in self.recipes})
        if len(methods) > 1:
            raise UsageError(
                f"The recipes read tables by different methods ({', '.join(methods)}); apply them one by one."
            )
        if any("parquet" in recipe.output.formats for recipe in self.recipes):
            check_parquet()
        if self.into is not None and len(self.recipes) > 1:
            raise UsageError("One table of a database takes the rows of one recipe; apply them one by one.")
        if self.earlier is None:
            for recipe in self.recipes:
                if recipe.asks_earlier:
                    said = f"The recipe {recipe.name} compares with an earlier period"
                    raise UsageError(f"{said}; name its data with --earlier.")

    @property
    def method(self) -> str:
        """The method by which tables are read."""
        return self.recipes[0].read.method

    def said(self) -> list[str]:
        """Return all that outputs depend on."""
        return [*map(fingerprint, self.recipes), repr(self.earlier)]


def columns_of(recipe: Recipe) -> list[DataColumn]:
    """Return the columns of a recipe's data, those that say where rows come from last."""
    by_name = {column.name: column for column in recipe.columns}
    chosen = [by_name[n] for n in recipe.output.columns] or list(recipe.columns)
    own = [DataColumn(c.name, "text" if c.type == "identifier" else c.type) for c in chosen]
    return [*own, *(origin for origin in ORIGIN if origin.name not in by_name)]


def earlier_rows(path: str | Path, recipes: Sequence[Recipe]) -> tuple[Mapping[str, Value], ...]:
    """Return the rows of a CSV file that an earlier run wrote, with the values that the recipes say.

    Raises MissingSource where there is none, and UsageError where it is another file.
    """
    file = existing(path)
    kinds = {c.name: c.kind for recipe in recipes for c in columns_of(recipe)}
    try:
        with file.open(encoding="utf-8", newline="") as text:
            reader = csv.DictReader(text)
            rows = list(reader)
        if not set(kinds) & set(reader.fieldnames or ()):
            raise ValueError("no column of the recipe")
        return tuple(
            {name: _value(kinds.get(name, "text"), v or None) for name, v in r.items()} for r in rows
        )
    except (OSError, ValueError, ArithmeticError, AttributeError) as error:
        raise UsageError(f"{path} is no CSV file of an earlier run of the recipe.") from error


def put_to(
    recipes: Recipes, document: Document, source: Path | bytes, password: str
) -> tuple[Applied, bytes]:
    """Put a document to the recipe that is for it; return what came of it, and its part of the data."""
    applied = apply_fitting(recipes.recipes, document, source, recipes.earlier, password)
    told = {
        "recipe": applied.recipe, "document": document.source, "why": _why(applied),
        "lines": [_told(applied, r) for r in applied.records],
        "totals": [_told(applied, r) for r in applied.totals],
    }  # fmt: skip
    if not applied.good:
        told["lines"] = told["totals"] = []
    return applied, json.dumps(told, ensure_ascii=False).encode("utf-8", "backslashreplace") + b"\n"


def data_findings(applied: Applied) -> list[Finding]:
    """Return as findings why a document goes to the review folder; of one that does not, what has moved and
    which values are in doubt.
    """
    if applied.good:
        moved = [Finding(MOVED, f"{said}, since the recipe was made", applied.page) for said in applied.moved]
        doubt = [
            Finding(DOUBT, f"{said} may have been read wrongly", applied.page) for said in applied.doubtful
        ]
        return moved + doubt
    return [Finding(REVIEW, said, applied.page) for said in _why(applied)]


def review_note(applied: Applied) -> bytes:
    """Return what the review folder says of a document, as JSON: why it is there and what each step did."""
    told = {
        "document": applied.document, "recipe": applied.recipe, "why": _why(applied),
        "table": applied.found, "page": applied.page,
        "columns": {name: {"header": h, "alike": round(s, 3)} for name, (h, s) in applied.columns.items()},
        "steps": [{"step": d.step, "did": d.said, "rows": d.after} for d in applied.steps],
        "checks": [{"check": v.check, "passed": v.passed, "said": v.said} for v in applied.verdicts],
    }  # fmt: skip
    return (json.dumps(told, ensure_ascii=False, indent=1) + "\n").encode("utf-8", "backslashreplace")


def _why(applied: Applied) -> list[str]:
    moved = [f"moved: {said}" for said in applied.moved]
    return [f"no recipe is for it: {said}" for said in applied.unfit] or (
        applied.problems and [*applied.problems, *moved]
    )


def _told(applied: Applied, record: Record) -> list[Any]:
    values = [record.values.get(name) for name in applied.names]
    plain = [v if v is None or isinstance(v, str) else str(v) for v in values]
    return [*plain, record.page, record.row, record.label]


def apply_recipes(
    recipes: Sequence[Recipe],
    sources: Named | Iterable[Named],
    out: str | Path,
    workers: int | Executor = 1,
    earlier: str | Path | None = None,
    into: str | None = None,
    password: str = "",
    recognition: Recognition = AS_NEEDED,
    fresh: bool = False,
) -> list[Outcome]:
    """Put every document to the recipe that is for it, and write the data and a review folder into `out`.

    `sources`, `workers`, `fresh` and the answer are those of `convert`; documents for review have findings of
    the code "review". `earlier` is the CSV of an earlier period, `into` a table of a database
    ("sqlite:///file.db#table"). Raises UsageError as `convert` does, and for recipes that do not go together.
    """
    from . import Plan, Settings, begin, outcomes
    from .workers import chosen_workers

    before = earlier_rows(earlier, recipes) if earlier is not None else None
    chosen = Recipes(tuple(recipes), before, SqlTable.of(into) if into else None)
    settings = Settings((), method=chosen.method, password=password, recognition=recognition, recipes=chosen)
    plan = Plan(prune=True)
    pool = chosen_workers(workers, plan.worker_limits)
    return outcomes(begin(sources, out, settings, pool, plan, fresh=fresh), pool)


Parts = Callable[[], Iterator[bytes]]


def write_data(recipes: Recipes, parts: Parts, folder: Path) -> list[str]:
    """Write the data files of all recipes, and what went to review, into a folder; return their names."""
    names = [REVIEW_FILE]
    with (folder / REVIEW_FILE).open("w", encoding="utf-8", newline="") as file:
        out = csv.writer(file, lineterminator="\n")
        out.writerow(["document", "recipe", "why"])
        for told in map(json.loads, parts()):
            out.writerows([guarded(told["document"]), told["recipe"], guarded(said)] for said in told["why"])
    for recipe in recipes.recipes:
        sheets = {"lines": _rows(recipe, parts, "lines")}
        if recipe.output.totals == "apart":
            sheets["totals"] = _rows(recipe, parts, "totals")
        output = recipe.output
        names += write_sheets(folder, recipe.name, sheets, output.formats, output.red_negatives)
    return names


def write_into(recipes: Recipes, parts: Parts) -> None:
    """Write the lines into the table of a database, in the place of what these documents gave before."""
    if recipes.into is not None:
        (recipe,) = recipes.recipes
        columns, rows = _rows(recipe, parts, "lines")
        documents = (json.loads(part)["document"] for part in parts())
        write_sql(recipes.into, columns, rows, "document", documents)


def _rows(
    recipe: Recipe, parts: Parts, kind: str
) -> tuple[list[DataColumn], Callable[[], Iterator[DataRow]]]:
    """Columns and rows of the lines, or of the totals, whose labels stand in the first column."""
    columns = columns_of(recipe)
    own = len(recipe.output.columns or recipe.columns)
    origins = {origin.name for origin in columns[own:]}

    def rows() -> Iterator[DataRow]:
        for told in map(json.loads, parts()):
            if told["recipe"] != recipe.name:
                continue
            for row in told[kind]:
                values = [_value(c.kind, v) for c, v in zip(columns[:own], row[:own], strict=True)]
                page, number, label = row[own:]
                origin = {"document": told["document"], "page": page, "row": number}
                head = [label] if kind == "totals" else []
                yield [*head, *values, *(v for name, v in origin.items() if name in origins)]

    return ([DataColumn("label")] if kind == "totals" else []) + columns, rows


def _value(kind: str, text: Any) -> Any:
    if text is None or kind == "text":
        return text
    return datetime.date.fromisoformat(text) if kind == "date" else Decimal(text) if kind in NUMERIC else text
