"""`wennak demo`."""

from __future__ import annotations

import sys
from pathlib import Path

import click
from rich.console import Console

from ..bench import HYBRID, METHODS, benchmark, summarise, write_report
from ..collection import convert, default_workers
from ..demo import write_collection
from ..pipeline import REMOTE
from ..remote.simulated import Rates, answering
from .bench import print_run
from .commands import Command

# How often the simulated vision model of the demo errs.
MISTAKES = Rates(lost_rows=0.05, invented_rows=0.02, changed_digits=0.02, shifted_columns=0.05, prose=0.05)


@click.command(cls=Command, example="wennak demo --out wennak-demo")
@click.option("--out", default="wennak-demo", show_default=True, metavar="FOLDER", help="Folder to write to.")
def demo(out: str) -> None:
    """Write out a made-up collection, convert it and benchmark methods on it.

    The collection is that of an island ferry operator: fares without lines, a ruled timetable with spans, a
    tide table over two pages, a ledger, accounts, a research note in two columns, a manifest, a form, a
    notice in Greek; each with the tables that a perfect reading gives, and as a clerk typed them; and two of
    them as a scan and a photograph, beside a notice in a font without Unicode.
    """
    folder = Path(out)
    console = Console(highlight=False)
    try:
        write_collection(folder)
        sources = [folder / "papers", *sorted((folder / "scans").iterdir())]
        outcomes = convert(sources, folder / "converted", ["md", "html", "json"])
        run = folder / "benchmark"
        methods = (*METHODS, REMOTE, HYBRID)
        results = benchmark(
            folder / "papers", methods, run, {"typed": folder / "typed"}, default_workers(),
            service=answering(folder / "papers", MISTAKES),
        )  # fmt: skip
        report = write_report(run)
    except OSError as error:
        click.echo(
            f"{out} cannot be written to ({error.strerror}); name another folder with --out.", err=True
        )
        sys.exit(1)
    pages, tables = sum(o.pages for o in outcomes), sum(o.tables for o in outcomes)
    console.print(f"{len(outcomes)} made-up papers, {pages} pages, {tables} tables read.\n")
    print_run(console, results, summarise(results))
    ledgers, forms, recipes = (folder / name for name in ("ledgers", "forms", "recipes"))
    places = {
        report: "which method reads best and why, every table beside its truth",
        folder / "converted": "the papers as Markdown, HTML and JSON",
        folder / "papers": "the PDFs, and beside each its true tables as HTML",
        folder / "scans": "a scan, a photograph, and a notice whose font names no characters",
        folder / "typed": "the tables as a clerk typed them, measured beside the methods",
        ledgers: "the ledgers of a year, of which two have drifted and one has a wrong total",
        forms: "inspections on three other forms",
        recipes: "what turns ledgers and forms into data",
    }
    wide = max(len(str(p)) for p in places)
    lines = [
        "",
        "Where to look next:",
        *(f"  {path!s:{wide}}  {what}" for path, what in places.items()),
        "",
        "Then try",
        f"  wennak recipe apply {recipes}/berth-charges.yaml {ledgers} --out data",
        f"  wennak convert {forms} --fields {recipes}/inspection.json --out filled",
        "and your own",
        "  wennak convert YOUR.pdf",
    ]
    console.print("\n".join(lines), soft_wrap=True, markup=False)
    sys.exit(1 if any(o.error for o in outcomes) else 0)
