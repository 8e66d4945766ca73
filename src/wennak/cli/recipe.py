"""`wennak recipe`."""

from __future__ import annotations

import sys
from collections.abc import Iterator, Sequence
from pathlib import Path

import click
from rich import box
from rich.console import Console
from rich.table import Table as Shown
from rich.text import Text

from ..collection import Plan, Processes, Settings, WorkerLimits, begin, default_workers
from ..collection.data import Recipes, earlier_rows
from ..collection.drift import stream_drift
from ..emit import SqlTable, write_whole
from ..errors import UsageError, WennakError
from ..intake import Limits
from ..pipeline import read
from ..recipes import (
    Applied,
    Drift,
    Recipe,
    apply_recipe,
    draft_name,
    draft_recipe,
    load_recipe,
    load_recipes,
)
from ..scan import Recognition
from .commands import Group
from .fail import failing
from .options import from_option, method_option, password_option, workers_option
from .recognising import recognition_options
from .runs import follow
from .sources import named_sources
from .voice import tell
from .words import count_of

# So many rows of the data are shown, and documents named.
ROWS = 8
NAMED = 10


@click.group(cls=Group)
def recipe() -> None:
    """What was learnt on one document, for all of its layout: draft, try, apply, see what drifted."""


@recipe.command(example="wennak recipe draft ledger.pdf --name berth-charges")
@click.argument("source", metavar="SOURCE")
@click.option("--table", "number", type=click.IntRange(1), default=1, show_default=True, metavar="N",
              help="Which table, as wennak tables numbers them.")  # fmt: skip
@click.option("--name", metavar="NAME", help="What to call it; named after the document by default.")
@click.option("--out", metavar="FILE", help="Where to write it; NAME.yaml by default.")
@method_option
@password_option
@recognition_options
def draft(
    source: str, number: int, name: str | None, out: str | None, method: str, password: str,
    recognition: Recognition,
) -> None:  # fmt: skip
    """Write a commented recipe from what was recognised of one table.

    Checks are written down only where they hold of this document.
    """
    with failing(out or "The recipe"):
        document = read(source, None, method, password, recognition=recognition)
        if not document.tables:
            raise UsageError(f"No table was found in {source}, of which a recipe could be made.")
        if number > len(document.tables):
            raise UsageError(f"There is no table {number}; {len(document.tables)} were found in {source}.")
        chosen = name or draft_name(document)
        path = Path(out or f"{chosen}.yaml")
        if path.exists():
            raise UsageError(f"{path} is there already; name another file with --out.")
        text = draft_recipe(document, document.tables[number - 1], chosen)
        write_whole(path, text)
        tell(f"{path} written; read it through, then: wennak recipe try {path} {source}", err=False)


@recipe.command(name="try", example="wennak recipe try berth-charges.yaml ledger.pdf")
@click.argument("recipe_file", metavar="RECIPE")
@click.argument("source", metavar="SOURCE")
@click.option("--earlier", metavar="FILE", help="CSV of an earlier period, for checks that compare with it.")
@password_option
@recognition_options
def try_(recipe_file: str, source: str, earlier: str | None, password: str, recognition: Recognition) -> None:
    """Show step by step what each line of a recipe did with a document, with counts and samples.

    The exit code is 3 where the document would go to the review folder.
    """
    with failing(recipe_file):
        tried = load_recipe(recipe_file)
        document = read(source, None, tried.read.method, password, recognition=recognition)
        before = earlier_rows(earlier, [tried]) if earlier else None
        applied = apply_recipe(tried, document, source, before, password)
    console = Console(highlight=False)
    for line in _told(tried, applied):
        console.print(line, soft_wrap=True, markup=False)
    if applied.records:
        console.print(_shown(applied))
    for said in applied.doubtful[:NAMED]:
        console.print(f"In doubt: {said}", markup=False)
    if len(applied.doubtful) > NAMED:
        console.print(f"and {len(applied.doubtful) - NAMED} more values")
    if applied.good:
        console.print(f"It fits: {count_of(len(applied.records), 'row')}, {_totals(applied)}.", markup=False)
        return
    console.print("It would go to the review folder:", style="bold")
    for said in (*(f"the recipe is not for it: {why}" for why in applied.unfit), *applied.problems):
        console.print(f"  {said}.", soft_wrap=True, markup=False)
    sys.exit(3)


def _told(tried: Recipe, applied: Applied) -> Iterator[str]:
    yield f"Recipe {tried.name} on {applied.document}"
    yield f"  documents  {'it is for this one' if not applied.unfit else 'it is not for this one'}"
    if applied.unfit:
        return
    yield f"  table      {applied.found}"
    if applied.taken:
        yield f"  take       {', '.join(f'{name} = {text!r}' for name, text in applied.taken.items())}"
    for number, done in enumerate(applied.steps, start=1):
        yield f"  clean {number:<4} {done.step}: {done.said}; {done.before} rows before, {done.after} after"
        if done.samples:
            yield f"             such as {'; '.join(done.samples)}"
    for column in tried.columns:
        if column.name in applied.columns:
            label, score = applied.columns[column.name]
            yield f"  column     {column.name} from {label!r}, {score:.2f} alike, as {column.type}"
        elif column.formula and (applied.records or applied.totals):
            yield f"  column     {column.name} = {column.formula}, as {column.type}"
    for verdict in applied.verdicts:
        yield f"  check      {verdict.check}: {'right' if verdict.passed else 'WRONG'}, {verdict.said}"


def _shown(applied: Applied) -> Shown:
    shown = Shown(box=box.SIMPLE_HEAD)
    frame = applied.frame()
    numeric = [any(isinstance(r.values.get(n), (int, float)) or _is_number(r.values.get(n))
                   for r in applied.records) for n in applied.names]  # fmt: skip
    for name, right in zip(frame.columns, [*numeric, True, True], strict=True):
        shown.add_column(Text(str(name)), justify="right" if right else "left")
    for row in frame.head(ROWS).itertuples(index=False):
        shown.add_row(*(Text("" if value is None else str(value)) for value in row))
    if len(frame) > ROWS:
        shown.caption, shown.caption_justify = f"and {len(frame) - ROWS} more rows", "left"
    return shown


def _is_number(value: object) -> bool:
    from decimal import Decimal

    return isinstance(value, Decimal)


def _totals(applied: Applied) -> str:
    return f"{count_of(len(applied.totals), 'total')} apart"


@recipe.command(example="wennak recipe apply berth-charges.yaml ledgers/ --out data/")
@click.argument("recipe_file", metavar="RECIPE")
@click.argument("sources", nargs=-1, metavar="SOURCE...")
@from_option
@click.option("--out", required=True, metavar="FOLDER", help="Folder for the data and the review folder.")
@click.option("--earlier", metavar="FILE", help="CSV of an earlier period, for checks that compare with it.")
@click.option("--into", metavar="URL#TABLE", help="Table of a database, such as sqlite:///file.db#charges.")
@password_option
@recognition_options
@workers_option
@click.option("--fresh", is_flag=True, help="Read everything again.")
@click.option("--retry", type=click.Choice(["failed"]), help="Try again what failed in an earlier run.")
@click.option("--log-json", is_flag=True, help="Tell what happens as lines of JSON, on standard error.")
def apply(
    recipe_file: str, sources: tuple[str, ...], from_list: str | None, out: str, earlier: str | None,
    into: str | None, password: str, recognition: Recognition, workers: int | None, fresh: bool,
    retry: str | None, log_json: bool,
) -> None:  # fmt: skip
    """Put documents to a recipe, or to the one that fits of a folder of recipes.

    FOLDER gets NAME.csv (or what the recipe's output says) with the rows of all documents, their totals
    apart, and review/ with what fits no recipe or breaks a check: the reason, and a picture. The same command
    goes on where it stopped. The exit code is 3 where something is in the review folder.
    """
    with failing(out):
        recipes = load_recipes(recipe_file)
        before = earlier_rows(earlier, recipes) if earlier else None
        chosen = Recipes(tuple(recipes), before, SqlTable.of(into) if into else None)
        settings = Settings(
            formats=(), method=chosen.method, password=password, recognition=recognition, recipes=chosen
        )
        plan = Plan(Limits(), WorkerLimits(), retry == "failed", prune=True)
        pool = Processes(workers or default_workers(), plan.worker_limits)
        try:
            run = begin(named_sources(sources, from_list), out, settings, pool, plan, None, fresh)
            follow(run, (sources, from_list), log_json)
        finally:
            pool.close()
    summary, failures = run.ended
    review = {code: documents for code, _, documents in summary.findings}.get("review", 0)
    tell(
        f"{count_of(summary.done - review, 'document')} in the data, {review} for review, "
        f"{summary.failed} failed; see {out}."
    )
    why: dict[str, list[str]] = {}
    for name, said in [*run.reviewed, *failures]:
        why.setdefault(name, []).append(said)
    if why:
        click.echo("For a person:", err=True)
    for name, reasons in sorted(why.items())[:NAMED]:
        click.echo("\n".join([f"  {name}", *(f"    {said.rstrip('.')}" for said in reasons)]), err=True)
    if len(why) > NAMED:
        click.echo(f"  and {len(why) - NAMED} more; all are in {out}/review.csv and the journal", err=True)
    doubtful = {code: (n, of) for code, n, of in summary.findings}.get("doubtful-value")
    if doubtful:
        said = f"{count_of(doubtful[0], 'value')} in the data, in {count_of(doubtful[1], 'document')}"
        click.echo(
            f"{said}, may have been read wrongly; they are findings (doubtful-value) in the journal.",
            err=True,
        )
    sys.exit(3 if review else 1 if summary.failed else 0)


@recipe.command(example="wennak recipe drift berth-charges.yaml ledgers/")
@click.argument("recipe_file", metavar="RECIPE")
@click.argument("sources", nargs=-1, metavar="SOURCE...")
@from_option
@password_option
@recognition_options
@workers_option
def drift(
    recipe_file: str, sources: tuple[str, ...], from_list: str | None, password: str,
    recognition: Recognition, workers: int | None,
) -> None:  # fmt: skip
    """Compare documents with the layout that a recipe was made on: what moved, by how much, what broke.

    The exit code is 3 where a document has drifted.
    """
    with failing("The answer"):
        tried = load_recipe(recipe_file)
        if tried.layout is None:
            raise UsageError(
                f"{recipe_file} holds no layout to compare with; wennak recipe draft writes one."
            )
        named, count = named_sources(sources, from_list), workers or default_workers()
        found = list(stream_drift(tried, named, count, password, recognition))
    for name, answer in found:
        for line in _drifted(name, answer):
            click.echo(line)
    errors = sum(isinstance(answer, WennakError) for _, answer in found)
    same = sum(isinstance(answer, Drift) and answer.none for _, answer in found)
    click.echo(
        f"{count_of(same, 'document')} as before, {len(found) - same - errors} drifted, {errors} failed."
    )
    sys.exit(3 if same + errors < len(found) else 1 if errors else 0)


def _drifted(name: str, answer: Drift | WennakError) -> Sequence[str]:
    if isinstance(answer, WennakError):
        return [str(answer)]
    if answer.none:
        return [f"{name}: as before"]
    parts = [("not for it", answer.unfit), ("moved", answer.moved), ("no longer works", answer.broken)]
    return [f"{name}:", *(f"  {what}: {said}" for what, texts in parts for said in texts)]
