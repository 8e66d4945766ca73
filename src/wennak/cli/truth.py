"""`wennak truth`."""

from __future__ import annotations

import sys
from pathlib import Path

import click
from rich.console import Console
from rich.table import Table as Shown

from ..errors import SourceError, UsageError
from ..intake import FileSource, find_sources
from ..scan import Recognition
from ..truth import draft as make_draft
from ..truth import find_truth, load_truth, save_truth, take, validate, write_sheet
from .commands import Group
from .fail import failing
from .options import method_option
from .recognising import recognition_options
from .voice import tell


@click.group(cls=Group)
def truth() -> None:
    """Make ground truth: draft it, check it by hand, take it in, see what is checked."""


@truth.command(example="wennak truth draft papers/ --out truth/")
@click.argument("sources", metavar="SOURCE...", nargs=-1, required=True)
@click.option(
    "--out", default="truth", show_default=True, metavar="FOLDER", help="Folder for the truth files."
)
@method_option
@recognition_options
def draft(sources: tuple[str, ...], out: str, method: str, recognition: Recognition) -> None:
    """Draft the truth of PDFs: FOLDER/NAME.html each, doubtful cells marked.

    A truth file that is there already is left alone.
    """
    failed = False
    with failing(out):
        for source in sources:
            try:
                found = list(find_sources(source))
            except SourceError as error:
                click.echo(str(error), err=True)
                failed = True
                continue
            for item in found:
                if not isinstance(item, FileSource):
                    click.echo(f"{item.origin} is no file of its own; truth is made for files.", err=True)
                    failed = True
                    continue
                path = Path(out) / Path(item.name).with_suffix(".html")
                if path.exists():
                    click.echo(f"{path} is there already and was left alone.", err=True)
                    failed = True
                    continue
                try:
                    made = make_draft(item.path, path, method, recognition=recognition)
                except SourceError as error:
                    click.echo(str(error), err=True)
                    failed = True
                    continue
                save_truth(made)
                doubts = sum(len(t.doubts) for t in made.tables)
                click.echo(f"{path}: {len(made.tables)} tables, {doubts} doubtful cells")
    tell(f"Check them by hand: wennak truth sheet {out} --out sheets", err=False)
    sys.exit(1 if failed else 0)


@truth.command(example="wennak truth sheet truth/ --out sheets/")
@click.argument("truths", metavar="TRUTH...", nargs=-1, required=True)
@click.option("--out", default="sheets", show_default=True, metavar="FOLDER", help="Folder for the sheets.")
def sheet(truths: tuple[str, ...], out: str) -> None:
    """Write a check sheet for each truth: a page for the browser, picture beside editable grid."""
    with failing(out):
        for name in truths:
            for entry in find_truth(name):
                click.echo(f"{write_sheet(entry, out)}: {len(entry.tables)} tables")
    tell(
        "Open them in a browser; bring what you save back in: wennak truth take FILE --into FOLDER", err=False
    )


@truth.command("take", example="wennak truth take ~/Downloads/report.html --into truth/")
@click.argument("saved", metavar="FILE...", nargs=-1, required=True)
@click.option("--into", required=True, metavar="FOLDER", help="Folder of the truth files.")
@click.option("--pdf", metavar="PDF", help="The PDF that the truth is of, where the file does not say.")
def take_in(saved: tuple[str, ...], into: str, pdf: str | None) -> None:
    """Bring in truth files that were saved from a sheet, or CSV and XLSX files, and say what changed.

    The file that one replaces is kept with the ending .bak.
    """
    with failing(into):
        if pdf and len(saved) > 1:
            raise UsageError("--pdf names the PDF of one file; take the files in one by one.")
        for file in saved:
            entry, changes = take(file, into, pdf)
            click.echo(f"{entry.path}: {len(changes)} tables changed")
            for change in changes:
                states = (
                    f"{change.before}, now {change.after}" if change.before != change.after else change.after
                )
                click.echo(f"  table {change.table} ({states})")
                for line in change.lines:
                    click.echo(f"    {line}")


@truth.command(example="wennak truth status truth/")
@click.argument("folder", metavar="FOLDER")
def status(folder: str) -> None:
    """List truth files: what is checked, by whom, what is doubtful, what is wrong with them.

    Exits with 1 where something is wrong that keeps a table from being scored.
    """
    with failing(folder):
        shown = Shown(box=None, padding=(0, 2, 0, 0))
        for name in ("Truth", "Tables", "Checked", "Given", "Drafted", "Doubtful", "Checked by"):
            shown.add_column(
                name, justify="left" if name in ("Truth", "Checked by") else "right", no_wrap=name == "Truth"
            )
        problems = []
        root = Path(folder)
        for entry in find_truth(folder):
            count = {s: sum(t.state == s for t in entry.tables) for s in ("checked", "given", "drafted")}
            names = sorted({f"{t.by}, {t.when}" for t in entry.tables if t.state == "checked"})
            name = str(entry.path.relative_to(root)) if root.is_dir() else entry.path.name
            shown.add_row(
                name, str(len(entry.tables)), *(str(n) for n in count.values()),
                str(sum(len(t.doubts) for t in entry.tables)), "; ".join(names),
            )  # fmt: skip
            problems += [(name, p) for p in validate(load_truth(entry.path))]
        console = Console(highlight=False)
        console.print(shown)
        for name, problem in problems:
            where = f"{name}, table {problem.table}" if problem.table else name
            click.echo(f"{'Wrong' if problem.grave else 'Look'}: {where} {problem.message}")
        sys.exit(1 if any(p.grave for _, p in problems) else 0)
