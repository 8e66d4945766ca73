"""`wennak survey`."""

from __future__ import annotations

import sys
from collections.abc import Mapping
from pathlib import Path

import click
from rich.console import Console
from rich.table import Table

from ..collection import Survey, default_workers
from ..collection import survey as make_survey
from ..emit import SurveyTotals, said, survey_csv, survey_html, survey_json, write_whole
from ..errors import UsageError
from .commands import Command
from .fail import fail
from .options import from_option, password_option, workers_option
from .sources import named_sources
from .voice import tell
from .words import count_of, duration

# Columns that a terminal has room for, and how many documents it shows.
SHOWN = ("document", "pages", "kinds of pages", "tables", "what to do")
ROWS = 40
# The name of a document has so many characters in a line, where the other columns have so many.
NAME, OTHERS = 24, 64
ENDINGS = {".csv": "csv", ".json": "json", ".html": "html"}


@click.command(cls=Command, example="wennak survey papers/ --out survey.html")
@click.argument("sources", nargs=-1, metavar="SOURCE...")
@from_option
@click.option("--out", metavar="FILE", help="File to write to: .csv, .json or .html.")
@password_option
@workers_option
def survey(
    sources: tuple[str, ...], from_list: str | None, out: str | None, password: str, workers: int | None
) -> None:
    """Look over a collection without converting it.

    For each document: its pages and what their text can be read from, its tables by their lines, how sure
    they are read where that was measured, what is locked, damaged, or there twice, and what to do about it.
    Then the totals, and how long converting will take on this machine. Of long documents a few pages are
    looked at. SOURCE is what `wennak convert` takes.
    """
    count = workers or default_workers()
    try:
        named = named_sources(sources, from_list)
        kind = ENDINGS.get(Path(out).suffix.lower()) if out else None
        if out and kind is None:
            raise UsageError(f"{out} has no ending that names a format; use one of {', '.join(ENDINGS)}.")
        found = make_survey(named, count, password)
        told = sentences(found.totals, count)
        if out:
            write_whole(Path(out), _file(found, told, kind))
        else:
            _print(found)
        for sentence in told:
            click.echo(sentence)
        if out:
            tell(f"Written to {out}.", err=False)
    except UsageError as error:
        fail(str(error), 2)
    except OSError as error:
        fail(f"{out} cannot be written to ({error.strerror or error}); name another file.", 1)
    sys.exit(1 if found.totals.states else 0)


def _file(found: Survey, told: list[str], kind: str | None) -> str:
    if kind == "csv":
        return survey_csv(found.rows)
    return (
        survey_json(found.rows, found.totals)
        if kind == "json"
        else survey_html(found.rows, found.totals, told)
    )


def sentences(totals: SurveyTotals, workers: int) -> list[str]:
    """Return what a survey comes to, for people."""
    documents, pages = count_of(totals.documents, "document"), count_of(totals.pages, "page")
    told = [f"{documents}, {pages}: {_list(totals.kinds)}."]
    if totals.states:
        told.append(f"Cannot be read as they are: {_list(totals.states)}.")
    if totals.same:
        are, have = ("is", "has") if totals.same == 1 else ("are", "have")
        told.append(f"{totals.same:,} {have} the content of another document, and {are} converted once.")
    tables = sum(totals.tables.values())
    if tables:
        line = f"About {tables:,} tables: {_list(totals.tables)}"
        if totals.confidence is not None:
            read = count_of(totals.measured, "page")
            line += f"; read on {read}, with a confidence of {totals.confidence:.2f}"
        told.append(f"{line}.")
    hands = count_of(workers, "worker")
    told.append(f"Converting takes about {duration(totals.seconds)} on this machine with {hands}.")
    return told


def _list(counts: Mapping[str, int]) -> str:
    return ", ".join(f"{n:,} {name}" for name, n in counts.items()) or "none"


def _print(found: Survey) -> None:
    console = Console(highlight=False)
    table = Table(box=None, pad_edge=False, header_style="bold")
    named = min(NAME, max(len(row.name) for row in found.rows), max(console.width - OTHERS, 0))
    for column in SHOWN:
        number = column == "pages"
        wide = named if column == "document" else 0
        table.add_column(column, justify="right" if number else "left", overflow="fold", min_width=wide)
    for row in found.rows[:ROWS]:
        style = "red" if row.state != "ok" else "dim" if row.same_as else ""
        told = {column: said(row, column) for column in SHOWN}
        if row.state != "ok":
            told["kinds of pages"] = row.state
        table.add_row(*told.values(), style=style)
    console.print(table)
    if len(found.rows) > ROWS:
        console.print(f"and {len(found.rows) - ROWS:,} more; --out FILE.html shows all of them.")
    console.print()
