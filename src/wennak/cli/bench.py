"""`wennak bench`."""

from __future__ import annotations

import sys

import click
from rich.console import Console
from rich.table import Table as Shown

from ..bench import (
    LABELS,
    Results,
    Summary,
    compare_runs,
    load_results,
    summarise,
    table_changes,
    verdict,
    write_report,
)
from ..collection import default_workers
from ..errors import UsageError
from ..methods import OWN_METHODS
from .commands import Group
from .fail import failing
from .options import workers_option
from .voice import tell

EXPLAINED = "Whole: without any error. Wrong: numbers changed or invented. ms: CPU time a page."
ASKED = " Asked: share of pages."


@click.group(cls=Group)
def bench() -> None:
    """Measure methods, and what other programs made, against checked truth."""


@bench.command(example="wennak bench run truth/ --out runs/today --methods combined,ruled")
@click.argument("truth", metavar="TRUTH")
@click.option(
    "--methods", default=",".join(OWN_METHODS), show_default=True, metavar="NAMES", help="Methods to run."
)
@click.option(
    "--candidate", "candidates", multiple=True, metavar="NAME=FOLDER",
    help="A folder of HTML, Markdown, CSV, XLSX or JSON files that another program made.",
)  # fmt: skip
@click.option("--out", default="wennak-run", show_default=True, metavar="RUN", help="Folder for the run.")
@workers_option
@click.option(
    "--service", default="", metavar="URL",
    help="A vision service, for the methods remote and hybrid (docs/vision.md).",
)  # fmt: skip
@click.option("--drafts", is_flag=True, help="Score tables too that nobody has checked.")
@click.option("--fail-under", "bars", multiple=True, metavar="METRIC=VALUE",
              help="Exit with 3 where the first method scores less.")  # fmt: skip
@click.option(
    "--no-worse-than", "earlier", metavar="RUN", help="Exit with 3 where the first method became worse."
)
def run(
    truth: str, methods: str, candidates: tuple[str, ...], out: str, workers: int | None, service: str,
    drafts: bool, bars: tuple[str, ...], earlier: str | None,
) -> None:  # fmt: skip
    """Run methods over the documents of a truth folder and keep scores and readings in RUN.

    Each document is read in a process of its own. Then write a report with: wennak bench report RUN
    """
    # All that reads documents: who compares runs needs none of it.
    from ..bench import benchmark
    from ..pipeline import service_at

    with failing(out):
        console = Console(highlight=False)
        names = [name.strip() for name in methods.split(",") if name.strip()]
        folders = dict(_pair(c, "--candidate", "NAME=FOLDER") for c in candidates)
        limits = [_limit(b) for b in bars]
        before = load_results(earlier) if earlier else None
        with console.status("Reading ...") as status:
            results = benchmark(
                truth, names, out, folders, workers or default_workers(), drafts, service_at(service)[0],
                lambda method, name: status.update(f"{method}: {name}"),
            )  # fmt: skip
        summary = summarise(results)
        print_run(console, results, summary)
        tell(f"\nThe run is in {out}; write its report with: wennak bench report {out}", err=False)
        missed = _missed(summary, results.names()[0], limits)
        if before is not None:
            missed += _worse(before, results)
        for said in missed:
            click.echo(said, err=True)
        sys.exit(3 if missed else 0)


@bench.command(example="wennak bench report runs/today")
@click.argument("folder", metavar="RUN")
def report(folder: str) -> None:
    """Write RUN/report.html, which needs nothing else, and report.md, tables.csv and plots."""
    with failing(folder):
        page = write_report(folder)
        summary = summarise(load_results(folder))
        click.echo("\n".join(verdict(summary)))
        tell(f"\nOpen {page} in a browser.", err=False)


@bench.command(example="wennak bench compare runs/yesterday runs/today")
@click.argument("old", metavar="RUN")
@click.argument("new", metavar="RUN")
def compare(old: str, new: str) -> None:
    """Say what got better or worse from one run to the next, and whether that is more than luck."""
    with failing(new):
        runs = load_results(old), load_results(new)
        progress = compare_runs(*runs)
        if not progress:
            raise UsageError(f"{old} and {new} share no method and document; there is nothing to compare.")
        shown = Shown(box=None, padding=(0, 1, 0, 0))
        for name in ("Method", "Metric", "Old", "New", "Change", "95 %", "p", "Verdict"):
            shown.add_column(
                name, justify="left" if name in ("Method", "Metric", "Verdict") else "right", no_wrap=True
            )
        changed = [p for p in progress if p.old != p.new]
        for p in changed:
            d = p.comparison.difference
            interval = "" if d.low is None else f"{d.low:+.3f} {d.high:+.3f}"
            shown.add_row(
                p.method, p.metric, f"{p.old:.3f}", f"{p.new:.3f}", f"{d.mean:+.3f}", interval,
                f"{p.comparison.p:.3f}", p.verdict,
            )  # fmt: skip
        console = Console(highlight=False)
        if changed:
            console.print(shown)
        console.print(f"{len(progress) - len(changed)} of {len(progress)} figures are the same in both runs.")
        for method in dict.fromkeys(p.method for p in progress):
            changes = table_changes(*runs, method)
            worse = sum(c[3] < c[2] for c in changes)
            console.print(f"{method}: {len(changes) - worse} tables better, {worse} worse", soft_wrap=True)
            for name, index, was, now in changes[:5]:
                if now < was:
                    console.print(f"  {name}, table {index + 1}: {was:.3f} to {now:.3f}", soft_wrap=True)


def _pair(text: str, option: str, form: str) -> tuple[str, str]:
    name, sign, value = text.partition("=")
    if not sign or not name or not value:
        raise UsageError(f"{option} {text} is not of the form {form}.")
    return name, value


def _limit(text: str) -> tuple[str, float]:
    metric, value = _pair(text, "--fail-under", "METRIC=VALUE")
    if metric not in LABELS:
        raise UsageError(f"There is no metric {metric!r}; choose from {', '.join(LABELS)}.")
    try:
        return metric, float(value)
    except ValueError as error:
        raise UsageError(f"--fail-under {text} needs a number between 0 and 1.") from error


def _missed(summary: Summary, first: str, limits: list[tuple[str, float]]) -> list[str]:
    method = next(m for m in summary.methods if m.name == first)
    return [
        f"{first}: {LABELS[metric]} is {method.means[metric].mean:.3f}, less than {least:g}."
        for metric, least in limits
        if metric in method.means and method.means[metric].mean < least
    ]


def _worse(before: Results, now: Results) -> list[str]:
    first = now.names()[0]
    return [
        f"{p.method}: {LABELS[p.metric]} fell from {p.old:.3f} to {p.new:.3f}, which is more than luck."
        for p in compare_runs(before, now)
        if p.method == first and p.verdict == "worse"
    ]


def print_run(console: Console, results: Results, summary: Summary) -> None:
    """Print the ranking of a run and what to make of it."""
    asked = any(m.cost.asked for m in summary.methods)
    shown = Shown(
        title="Tables read against the truth", title_justify="left", box=None, padding=(0, 1, 0, 0),
        caption=f"{EXPLAINED}{ASKED if asked else ''}",
        caption_justify="left",
    )  # fmt: skip
    columns = ["Rank", "Method", "Score", "95 %", "Found", "Whole", "Invented", "Wrong", "ms"]
    columns += ["Asked"] if asked else []
    for name in columns:
        shown.add_column(name, justify="left" if name == "Method" else "right", no_wrap=True)
    for m in summary.methods:
        mean = m.means["score"]
        interval = (
            "" if mean.low is None or mean.high is None else f"{max(0, mean.low):.2f}-{min(1, mean.high):.2f}"
        )
        shown.add_row(
            str(m.rank or ""), m.name, f"{mean.mean:.3f}", interval, f"{m.found}/{summary.tables}",
            str(m.exact), str(m.extra), str(m.wrong_numbers),
            "" if m.cost.cpu is None else f"{m.cost.cpu:.0f}",
            *([f"{m.cost.asked:.0%}" if m.cost.asked else ""] if asked else []),
        )  # fmt: skip
    console.print(shown)
    console.print()
    for said in verdict(summary):
        console.print(said, soft_wrap=True)
    failed = [(m.name, d) for m in results.methods for d in m.documents if d.error]
    for name, document in failed[:5]:
        console.print(f"{name}, {document.name}: {document.error}", soft_wrap=True)
    if len(failed) > 5:
        console.print(f"... and {len(failed) - 5} more; results.json names them all.")
    for said in results.skipped[:5]:
        console.print(f"Left out: {said}; check it with wennak truth sheet, or add --drafts.", soft_wrap=True)
    if len(results.skipped) > 5:
        console.print(f"... and {len(results.skipped) - 5} more left out.")
