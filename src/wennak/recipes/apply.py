"""A recipe and a document -> data, what each line of the recipe did, and what is wrong."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import TYPE_CHECKING, Any

from ..model import Document, Table
from ..phrases import matched
from .checking import Verdict, verdicts
from .formula import FormulaError, Scope, Value, read_formula
from .layout import moved
from .model import Recipe
from .rows import Done, Row, Rowset, StepError, do_step, rows_of
from .typed import plain_value, typed
from .where import find_table, taken, why_unfit

if TYPE_CHECKING:
    import pandas as pd


@dataclass(frozen=True, slots=True)
class Record:
    """A row of the data: values by column, the page it stands on, its row in the table (from 1), and what a
    total is called in print.
    """

    values: dict[str, Value]
    page: int
    row: int
    kind: str = "line"
    label: str = ""


@dataclass(slots=True)
class Applied:
    """What a recipe made of a document.

    `problems` are sentences; with any of them the document belongs into the review folder. `unfit` says why
    the recipe is not for the document; then nothing else was done. `records` are the lines, `totals` the
    total rows. `found` says where the table was, `moved` what of it is not where or what it was when the
    recipe was made, `steps` what each line of the recipe did, `columns` what each column was matched with,
    `matched` whether table and columns were found, `verdicts` what became of the checks.
    `doubtful` are the values that may have been read wrongly.
    """

    recipe: str
    document: str
    unfit: list[str] = field(default_factory=list)
    problems: list[str] = field(default_factory=list)
    records: list[Record] = field(default_factory=list)
    totals: list[Record] = field(default_factory=list)
    found: str = ""
    moved: list[str] = field(default_factory=list)
    taken: dict[str, str] = field(default_factory=dict)
    steps: list[Done] = field(default_factory=list)
    columns: dict[str, tuple[str, float]] = field(default_factory=dict)
    verdicts: list[Verdict] = field(default_factory=list)
    page: int = 0
    table: Table | None = None
    names: tuple[str, ...] = ()
    matched: bool = False
    doubtful: list[str] = field(default_factory=list)

    @property
    def good(self) -> bool:
        """Whether the data can be taken."""
        return not self.unfit and not self.problems

    def frame(self, totals: bool = False) -> pd.DataFrame:
        """Return the lines (with `totals` the total rows instead) as a pandas DataFrame: the columns of the
        recipe's output, then `page` and `row`. Numbers are exact (`decimal.Decimal`).
        """
        import pandas as pd

        names = [*self.names, "page", "row"]
        rows = [
            [*(r.values.get(name) for name in self.names), r.page, r.row]
            for r in (self.totals if totals else self.records)
        ]
        return pd.DataFrame(rows, columns=pd.Index(names), dtype=object)


def apply_recipe(
    recipe: Recipe,
    document: Document,
    source: str | Path | bytes | None = None,
    earlier: Sequence[Mapping[str, Value]] | None = None,
    password: str = "",
) -> Applied:
    """Do what a recipe says with a document that was read.

    `source` is its file, needed where the recipe reads a region, `password` opens it; `earlier` are the rows
    of an earlier period's data, by column, for checks that compare with them. What is wrong is in the answer;
    raises UsageError only for a region without a source.
    """
    out = Applied(recipe.name, document.source, names=_names(recipe))
    out.unfit = why_unfit(recipe.documents, document)
    if out.unfit:
        return out
    out.taken, lost = taken(recipe.take, document)
    out.problems += lost
    found = find_table(recipe, document, source, password)
    out.found = found.said
    if found.table is None:
        out.problems.append(found.said)
        return out
    out.table = found.table
    out.page = found.table.places[0].page if found.table.places else 0
    if recipe.layout is not None:
        out.moved = moved(recipe.layout, found.table, document)
    rowset = rows_of(found.table, out.taken, recipe.read.totals)
    for number, step in enumerate(recipe.clean, start=1):
        try:
            rowset, done = do_step(step, rowset)
        except StepError as error:
            out.problems.append(f"step {number}: {error}")
            return out
        out.steps.append(done)
        if done.problem:
            out.problems.append(f"step {number}, {done.step}: {done.problem}")
    records = _values(recipe, rowset, out)
    if records is None:
        return out
    out.matched = True
    out.totals = [r for r in records if r.kind == "total"]
    out.records = [r for r in records if r.kind != "total"]
    outside = {name: plain_value(text) for name, text in out.taken.items()}
    _work_out(recipe, out, outside)
    scope = Scope(
        [r.values for r in out.records], None, outside,
        Scope(earlier, None) if earlier is not None else None,
    )  # fmt: skip
    lines = [(r, rowset_row) for r, rowset_row in zip(records, rowset.rows, strict=True)]
    out.verdicts = verdicts(recipe.checks, scope, lines)
    out.problems += [f"check {k}, {v.check}: {v.said}" for k, v in enumerate(out.verdicts, 1) if not v.passed]
    out.records = _in_order(out.records, recipe.output.order)
    return out


def apply_fitting(
    recipes: Sequence[Recipe],
    document: Document,
    source: str | Path | bytes | None = None,
    earlier: Sequence[Mapping[str, Value]] | None = None,
    password: str = "",
) -> Applied:
    """Apply the recipe that is for a document; where several are, the first that finds its table and columns.

    Whether its checks hold does not matter: what one recipe refuses must not slip in by another. Where none
    is for the document, the answer's `unfit` says for each of them why not.
    """
    tried = []
    for recipe in recipes:
        applied = apply_recipe(recipe, document, source, earlier, password)
        if applied.matched:
            return applied
        tried.append(applied)
    meant = [applied for applied in tried if not applied.unfit]
    if meant:
        return min(meant, key=lambda applied: len(applied.problems))
    why = [f"{a.recipe}: {'; '.join(a.unfit)}" for a in tried]
    return Applied("", document.source, unfit=why)


def _names(recipe: Recipe) -> tuple[str, ...]:
    return recipe.output.columns or tuple(column.name for column in recipe.columns)


def _values(recipe: Recipe, rowset: Rowset, out: Applied) -> list[Record] | None:
    """The rows with the columns of the recipe and their values; None where a needed column is not there."""
    read = [column for column in recipe.columns if column.formula is None]
    matches = matched([[c.name, *c.aliases] for c in read], rowset.columns)
    texts: dict[str, list[str]] = {}
    for column, match in zip(read, matches, strict=True):
        if match.found is not None and match.ambiguous:
            out.problems.append(
                f"{column.name} may be {rowset.columns[match.found]!r} or another column nearly as alike"
            )
        if match.found is not None:
            label = rowset.columns[match.found]
            out.columns[column.name] = label, match.score
            texts[column.name] = [row.texts.get(label, "") for row in rowset.rows]
        elif column.name in rowset.taken:
            out.columns[column.name] = "the document", 1.0
            texts[column.name] = [rowset.taken[column.name]] * len(rowset.rows)
        elif column.needed:
            found = ", ".join(map(repr, rowset.columns))
            out.problems.append(f"there is no column like {column.name!r}; the table has {found}")
        else:
            texts[column.name] = [""] * len(rowset.rows)
    if any(column.name not in texts for column in read):
        return None
    values: dict[str, list[Value]] = {}
    for column in read:
        values[column.name], wrong = typed(column, texts[column.name])
        # A total has its label where lines have a number, a day, or something that must be filled.
        own = [(rowset.rows[k], said) for k, said in wrong if rowset.rows[k].kind == "line"]
        out.problems += [f"row {row.number}, {said}" for row, said in own]
        label = out.columns.get(column.name, ("", 0.0))[0]
        out.doubtful += [
            f"row {row.number}, {column.name}: {row.texts[label]!r}"
            for row in rowset.rows
            if label in row.doubtful and row.kind == "line"
        ]
    return [
        Record(
            {name: column[k] for name, column in values.items()}, row.page, row.number, row.kind, _label(row)
        )
        for k, row in enumerate(rowset.rows)
    ]


def _label(row: Row) -> str:
    return next((row.texts[name] for name in row.places if row.texts.get(name)), "")


def _work_out(recipe: Recipe, out: Applied, outside: dict[str, Any]) -> None:
    """Add the columns that have a formula, in lines and totals."""
    for column in recipe.columns:
        if column.formula is None:
            continue
        formula = read_formula(column.formula)
        for records in (out.records, out.totals):
            rows = [r.values for r in records]
            for record in records:
                try:
                    record.values[column.name] = formula.value(Scope(rows, record.values, outside))
                except FormulaError as error:
                    record.values[column.name] = None
                    said = f"{column.name}: {error}".rstrip(".")
                    if said not in out.problems:
                        out.problems.append(said)


def _in_order(records: list[Record], names: Sequence[str]) -> list[Record]:
    def key(record: Record) -> list[Any]:
        # What is missing comes last.
        return [(v is None, "" if v is None else v) for v in (record.values[name] for name in names)]

    return sorted(records, key=key) if names else records
