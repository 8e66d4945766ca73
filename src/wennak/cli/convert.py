"""`wennak convert`."""

from __future__ import annotations

import sys
from itertools import chain

import click
from rich.console import Console
from rich.progress import BarColumn, MofNCompleteColumn, Progress, TextColumn, TimeElapsedColumn

from ..collection import Outcome, Task, default_workers, plan, run_tasks
from ..emit import LIMIT, EmitOptions, emit
from ..errors import SourceError, UsageError
from ..pipeline import DEFAULT_METHOD, read
from ..scan import Recognition
from .recognising import recognition_options

# Findings that are said where nothing but the text is printed.
TOLD = (
    "picture-only", "damaged-picture", "wrong-text-layer", "recognised-part", "nameless-font",
    "told-by-shape", "corrected",
)  # fmt: skip


@click.command()
@click.argument("sources", nargs=-1, required=True, metavar="SOURCE...")
@click.option(
    "--out", metavar="FOLDER", help="Folder to write to; needed for more than one document or format."
)
@click.option(
    "--as",
    "formats",
    default="md",
    show_default=True,
    metavar="FORMATS",
    help="md, html, json, passages; several with commas.",
)
@click.option(
    "--method", default=DEFAULT_METHOD, show_default=True, metavar="NAME", help="How tables are read."
)
@click.option("--pages", metavar="SPEC", help='Pages to read, such as "1-3,7" or "last"; all by default.')
@click.option("--password", default="", help="Password of locked files.")
@click.option("--page-marks", is_flag=True, help="Mark where pages begin (md, html).")
@click.option("--records", is_flag=True, help="Write each row of a table with its headers (md, passages).")
@click.option(
    "--limit",
    type=click.IntRange(1),
    default=LIMIT,
    show_default=True,
    metavar="TOKENS",
    help="Largest size of a passage.",
)
@click.option("--pictures", is_flag=True, help="Save figures as PNG files beside the output.")
@click.option(
    "--workers",
    type=click.IntRange(1, 256),
    default=None,
    help="Worker processes; one a processor by default.",
)
@recognition_options
def convert(
    sources: tuple[str, ...],
    out: str | None,
    formats: str,
    method: str,
    pages: str | None,
    password: str,
    page_marks: bool,
    records: bool,
    limit: int,
    pictures: bool,
    workers: int | None,
    recognition: Recognition,
) -> None:
    """Turn PDFs, and pictures of pages, into Markdown, HTML, JSON, or passages for retrieval (JSON Lines).

    SOURCE is a PDF, a picture (PNG, JPEG, TIFF), or a folder, which is searched for PDFs: FOLDER/a/b.pdf
    becomes OUT/a/b.md. One document in one format goes to standard output where no --out is given.
    """
    names = [f.strip() for f in formats.split(",") if f.strip()]
    options = EmitOptions(page_marks, records, limit)
    try:
        if out is None:
            if pictures:
                raise UsageError("Pictures need a folder to be written to; name it with --out.")
            tasks, missing = plan(
                sources, "", names, method, pages, password, options, recognition=recognition
            )
            _to_standard_output(tasks, missing)
            return
        tasks, missing = plan(sources, out, names, method, pages, password, options, pictures, recognition)
        outcomes = _with_progress(tasks, missing, workers or default_workers())
    except UsageError as error:
        _say(str(error))
        sys.exit(2)
    failed = [o for o in outcomes if o.error]
    done = [o for o in outcomes if not o.error]
    _say(_summary(done, failed, out))
    sys.exit(1 if failed else 0)


def _to_standard_output(tasks: list[Task], missing: list[Outcome]) -> None:
    for outcome in missing:
        _say(outcome.error)
    if missing:
        sys.exit(1)
    if len(tasks) != 1 or len(tasks[0].outputs) != 1:
        raise UsageError("Several documents or formats need a folder to be written to; name it with --out.")
    task = tasks[0]
    try:
        document = read(task.found.path, task.pages, task.method, task.password, recognition=task.recognition)
    except SourceError as error:
        _say(str(error))
        sys.exit(1)
    for finding in document.findings:
        if finding.code in TOLD:
            _say(f"{finding.message}.")
    text = emit(document, task.outputs[0][0], task.options)
    click.echo(text.encode("utf-8", "backslashreplace"), nl=False)


def _with_progress(tasks: list[Task], missing: list[Outcome], workers: int) -> list[Outcome]:
    console = Console(stderr=True)
    outcomes: list[Outcome] = []
    columns = (TextColumn("{task.description}"), BarColumn(), MofNCompleteColumn(), TimeElapsedColumn())
    with Progress(*columns, console=console, transient=True, disable=not console.is_terminal) as progress:
        bar = progress.add_task("Converting", total=len(tasks) + len(missing))
        for outcome in chain(missing, run_tasks(tasks, workers)):
            outcomes.append(outcome)
            progress.update(bar, completed=len(outcomes))
            if outcome.error:
                progress.console.print(outcome.error, markup=False, highlight=False, soft_wrap=True)
    return outcomes


def _summary(done: list[Outcome], failed: list[Outcome], out: str) -> str:
    pages, tables, findings = (sum(getattr(o, k) for o in done) for k in ("pages", "tables", "findings"))
    text = f"{_count(len(done), 'document')} converted to {out}: "
    text += f"{_count(pages, 'page')}, {_count(tables, 'table')}"
    if findings:
        text += f", {_count(findings, 'finding')} to look at (in the JSON)"
    if failed:
        text += f"; {_count(len(failed), 'document')} failed"
    return text + "."


def _count(n: int, word: str) -> str:
    return f"{n} {word}{'' if n == 1 else 's'}"


def _say(text: str) -> None:
    click.echo(text, err=True)
