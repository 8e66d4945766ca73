"""`wennak demo`."""

from __future__ import annotations

import sys
from pathlib import Path

import click
from rich.console import Console
from rich.table import Table

from ..bench import MethodResult, benchmark
from ..collection import convert
from ..demo import write_collection

METHODS = ("plain", "spaced", "combined")


@click.command()
@click.option("--out", default="wennak-demo", show_default=True, metavar="FOLDER", help="Folder to write to.")
def demo(out: str) -> None:
    """Write out a made-up collection, convert it and benchmark three methods.

    The collection is that of an island ferry operator: fares without lines, a ruled timetable with spans, a
    tide table over two pages, a research note in two columns, a manifest, a form, a notice in Greek; each
    with the tables that a perfect reading gives.
    """
    folder = Path(out)
    console = Console()
    try:
        papers = write_collection(folder / "papers")
        outcomes = convert([folder / "papers"], folder / "converted", ["md", "html", "json"])
        results = benchmark(folder / "papers", METHODS, folder / "benchmark")
    except OSError as error:
        click.echo(
            f"{out} cannot be written to ({error.strerror}); name another folder with --out.", err=True
        )
        sys.exit(1)
    pdfs = sum(p.suffix == ".pdf" for p in papers)
    pages, tables = sum(o.pages for o in outcomes), sum(o.tables for o in outcomes)
    console.print(f"{pdfs} made-up papers, {pages} pages, {tables} tables read.\n")
    console.print(_results(results))
    places = {
        folder / "papers": "the PDFs, and beside each its true tables as HTML",
        folder / "converted": "the same papers as Markdown, HTML and JSON",
        folder / "benchmark" / "results.json": "the score of every table",
    }
    wide = max(len(str(p)) for p in places)
    lines = [
        "",
        "A cell is right when its text, its place and its span are all right.",
        "",
        "Where to look next:",
        *(f"  {path!s:{wide}}  {what}" for path, what in places.items()),
        "",
        "Then try your own: wennak convert YOUR.pdf",
    ]
    console.print("\n".join(lines), highlight=False, soft_wrap=True, markup=False)
    sys.exit(1 if any(o.error for o in outcomes) else 0)


def _results(results: list[MethodResult]) -> Table:
    table = Table(title="Tables read against the truth", title_justify="left")
    table.add_column("Method")
    for name in ("Tables found", "Cell F1", "Not a table", "ms a page"):
        table.add_column(name, justify="right")
    for r in results:
        table.add_row(
            r.method,
            f"{r.found} of {len(r.tables)}",
            f"{r.mean_cell_f1:.3f}",
            str(r.extra),
            f"{r.ms_per_page:.0f}",
        )
    return table
