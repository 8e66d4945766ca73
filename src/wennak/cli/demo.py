"""`wennak demo`."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from pathlib import Path

import click
from rich.console import Console

from ..bench import HYBRID, Results, benchmark, summarise, write_report
from ..checks import said_of
from ..collection import convert, default_workers, survey
from ..collection.data import apply_recipes
from ..demo import write_collection
from ..emit import load
from ..errors import UsageError
from ..methods import OWN_METHODS, REMOTE
from ..model import DOUBTFUL, Document
from ..recipes import load_recipe
from ..remote.simulated import Rates, answering
from .bench import print_run
from .commands import Command
from .fail import failing
from .survey import sentences

# How often the simulated vision model of the demo errs.
MISTAKES = Rates(lost_rows=0.05, invented_rows=0.02, changed_digits=0.02, shifted_columns=0.05, prose=0.05)

# Whose passages are told of.
ANSWERING = ("combined", "plain", "plain text", "bare CSV")


@click.command(cls=Command, example="wennak demo --out wennak-demo")
@click.option("--out", default="wennak-demo", show_default=True, metavar="FOLDER", help="Folder to write to.")
def demo(out: str) -> None:
    """Write out a made-up collection and do with it what is done with any, in the order of the job.

    The collection is that of an island ferry operator: fares without lines, a ruled timetable with spans, a
    tide table over two pages, a ledger, accounts, a research note in two columns, a manifest, a form, a
    notice in Greek; each with the tables that a perfect reading gives, and as a clerk typed them; a scan, a
    photograph, and a notice in a font without Unicode; a year of ledgers, and forms.
    """
    folder = Path(out)
    console = Console(highlight=False)
    with failing(out):
        if folder.exists() and not folder.is_dir():
            raise UsageError(f"{out} is a file; name a folder to write to with --out.")
        write_collection(folder)
        for title, lines in _chapters(folder, console):
            console.print(f"\n{title}", style="bold")
            for line in lines:
                console.print(f"  {line}" if line else "", soft_wrap=True, markup=False)


def _chapters(folder: Path, console: Console) -> Iterator[tuple[str, Sequence[str]]]:
    """Do one thing after the other, and yield what there is to say of each."""
    workers = default_workers()
    sources = [folder / "papers", *sorted((folder / "scans").iterdir())]
    yield "Look over (wennak survey)", sentences(survey(sources, workers).totals, workers)

    converted = folder / "converted"
    outcomes = convert(sources, converted, ["md", "html", "json"], workers=workers)
    done = [outcome for outcome in outcomes if not outcome.error]
    pages, tables = sum(o.pages for o in done), sum(o.tables for o in done)
    yield (
        "Convert (wennak convert)",
        [f"{len(done)} of {len(outcomes)} papers to {converted}: {pages} pages, {tables} tables."],
    )

    documents = [load(path) for path in sorted(converted.glob("*.json"))]
    yield "Look at what is in doubt (wennak tables FILE --show 1)", list(_doubts(documents))
    yield "Check the sums that tables carry (wennak tables FILE --checks)", list(_checks(documents))

    recipe = load_recipe(folder / "recipes/berth-charges.yaml")
    months = apply_recipes([recipe], folder / "ledgers", folder / "data", workers=workers)
    refused: dict[str, str] = {}
    for name, said in ((o.name, note.message) for o in months for note in o.notes if note.code == "review"):
        refused.setdefault(name, said)
    lines = [
        f"{len(months) - len(refused)} of {len(months)} months are in {folder / 'data/berth-charges.csv'}."
    ]
    lines += [f"For a person: {name}: {said}" for name, said in sorted(refused.items())]
    yield "A year of ledgers by one recipe (wennak recipe apply)", lines

    run = folder / "benchmark"
    results = benchmark(
        folder / "papers", (*OWN_METHODS, REMOTE, HYBRID), run, {"typed": folder / "typed"}, workers,
        service=answering(folder / "papers", MISTAKES),
    )  # fmt: skip
    report = write_report(run)
    yield "Which method is best (wennak bench)", []
    print_run(console, results, summarise(results))
    yield "Can a retrieval answer from it (wennak convert --as passages)", list(_answers(results))
    yield "What to open next", list(_next(folder, report))


def _doubts(documents: Sequence[Document]) -> Iterator[str]:
    cells = [(d.source, c) for d in documents for t in d.tables for c in t.cells if c.text]
    doubtful = sorted((x for x in cells if x[1].confidence < DOUBTFUL), key=lambda x: x[1].confidence)
    yield f"{len(doubtful)} of {len(cells)} cells. The least sure:"
    for source, cell in doubtful[:3]:
        place = f"page {cell.places[0].page}, row {cell.row + 1}, column {cell.column + 1}"
        yield f"{source}, {place}: {cell.text!r}, {cell.confidence:.2f}"


def _checks(documents: Sequence[Document]) -> Iterator[str]:
    checks = [(d.source, check) for d in documents for table in d.tables for check in table.checks]
    yield f"{sum(check.passed for _, check in checks)} of {len(checks)} come out."
    for source, check in checks:
        if not check.passed:
            yield f"{source}, row {check.row + 1}, column {check.column + 1}: {said_of(check)}"


def _answers(results: Results) -> Iterator[str]:
    told = {m.name: m.retrieval for m in results.methods if m.retrieval and m.name in ANSWERING}
    for name, r in sorted(told.items(), key=lambda item: -item[1].answered[1]):
        yield f"{name}: of {r.questions} questions about cells {r.answered[1]:.0%} are answered at once."


def _next(folder: Path, report: Path) -> Iterator[str]:
    places = {
        report: "which method reads best and why, every table beside its truth",
        folder / "converted": "the papers as Markdown, HTML and JSON",
        folder / "papers": "the PDFs, and beside each its true tables as HTML",
        folder / "scans": "a scan, a photograph, and a notice whose font names no characters",
        folder / "typed": "the tables as a clerk typed them, measured beside the methods",
        folder
        / "data": "rows of a year of ledgers, and in review/ what two layouts and a sum have against them",
        folder / "forms": "inspections on three other forms",
    }
    wide = max(len(str(path)) for path in places)
    yield from (f"{path!s:{wide}}  {what}" for path, what in places.items())
    yield ""
    yield "Then try"
    yield f"  wennak look {folder / 'papers/timetable.pdf'} --out seen"
    yield f"  wennak convert {folder / 'forms'} --fields {folder / 'recipes/inspection.json'} --out filled"
    yield "and your own"
    yield "  wennak convert YOUR.pdf"
