"""A run as a report: one HTML page that needs nothing else, the same as Markdown, CSV and plots."""

from __future__ import annotations

import base64
import csv
import io
from dataclasses import asdict
from pathlib import Path
from typing import Any

from ..emit import load, page_of, write_whole
from ..errors import WennakError
from ..model import Document, Place
from .crops import crop_data
from .grid import Grid, grid_of
from .metrics import Judged, judged_cells
from .plots import COMMAND, plots
from .results import Results, load_results
from .scores import LABELS, NUMBERS
from .statistics import Interval
from .summary import MAIN, MethodSummary, Summary, ranked, summarise

# Crops are shown of at most so many tables, those that were read worst.
CROPS = 240
SIMULATED = (
    "What is marked as simulated asks no model: it is answered with the true tables, mistakes made at set "
    "rates. It shows what looking answers up on the page does, not how well any model reads; it has no rank."
)


def write_report(run: str | Path) -> Path:
    """Write report.html, report.md, tables.csv and plots/ into the folder of a run; return the HTML page.

    Raises MissingSource or SourceError where the folder holds no run.
    """
    folder = Path(run)
    results = load_results(folder)
    summary = summarise(results)
    drawn = plots(results, summary)
    for name, (png, svg) in drawn.items():
        write_whole(folder / "plots" / f"{name}.png", png)
        write_whole(folder / "plots" / f"{name}.svg", svg)
    write_whole(folder / "report.md", report_markdown(results, summary))
    write_whole(folder / "tables.csv", tables_csv(results))
    page = folder / "report.html"
    write_whole(page, _page(folder, results, summary, {name: png for name, (png, _) in drawn.items()}))
    return page


def verdict(summary: Summary) -> list[str]:
    """Return in sentences which method to use and why."""
    simulated = [m.name for m in summary.methods if m.rank == 0]
    if len(simulated) == len(summary.methods):
        return [SIMULATED]
    first = summary.methods[0]
    peers = [m for m in summary.methods if m.rank == 1 and m is not first]
    mean = first.means[MAIN]
    score = f"{mean.mean:.3f}{_range(mean)}"
    whole = f"read {first.exact} of {summary.tables} tables without any error."
    said = [
        f"Use {first.name}: it has the highest score, {score}, and {whole}"
        if len(summary.methods) - len(simulated) > 1
        else f"{first.name} has a score of {score} and {whole}"
    ]
    if peers:
        names = ", ".join(f"{m.name} ({m.means[MAIN].mean:.3f})" for m in peers)
        said.append(f"On {summary.documents} documents it cannot be told apart from {names}.")
    others = [m for m in summary.methods if m.rank > 1]
    if others:
        nearest = others[0]
        comparison = next(c for c in summary.against_best if c.second == nearest.name)
        gap = abs(comparison.difference.mean)
        said.append(f"It is ahead of {nearest.name} by {gap:.3f} (p {_chance(comparison.p)}).")
    n = first.numbers
    if n.get("truth"):
        said.append(
            f"Of {n['truth']} numbers it put {n['right']} in the right place; {n['moved']} moved, "
            f"{first.wrong_numbers} were changed or invented, {n['lost']} were lost."
        )
    return [*said, SIMULATED] if simulated else said


def _range(interval: Interval) -> str:
    bounds = _bounds(interval)
    return f" (95 % interval {bounds})" if bounds and interval.low != interval.high else ""


def _bounds(interval: Interval) -> str:
    """The interval, as far as a score can be in it."""
    if interval.low is None or interval.high is None:
        return ""
    return f"{max(0.0, interval.low):.3f} to {min(1.0, interval.high):.3f}"


def _chance(p: float) -> str:
    return "< 0.001" if p < 0.001 else f"= {p:.3f}"


def _headline(summary: Summary) -> tuple[list[str], list[list[str]]]:
    """The first table of the report: a row a method."""
    head = [
        "Rank", "Method", "Score", "95 % interval", "Found", "No error", "Invented", "Exact cells", "Numbers",
        "Wrong numbers", "Headers", "CPU ms/page", "Peak MiB", "Failed",
    ]  # fmt: skip
    asked = any(m.cost.asked for m in summary.methods)
    head += ["Wall ms/page", "Pages asked about"] if asked else []
    rows = []
    for m in summary.methods:
        mean = m.means[MAIN]
        wrong = m.numbers.get("changed", 0) + m.numbers.get("invented", 0)
        cpu = "" if m.cost.cpu is None else f"{m.cost.cpu:.1f}"
        memory = "" if m.cost.memory is None else f"{m.cost.memory:.0f}"
        found = f"{m.found} of {summary.tables}"
        rows.append(
            [
                _rank(m), m.name, f"{mean.mean:.3f}", _bounds(mean), found, str(m.exact), str(m.extra),
                _mean(m, "cells"), _mean(m, NUMBERS), str(wrong), _mean(m, "headers"), cpu, memory,
                str(m.failed), *(_asked(m) if asked else []),
            ]
        )  # fmt: skip
    return head, rows


def _rank(method: MethodSummary) -> str:
    return str(method.rank) if method.rank else ""


def _asked(method: MethodSummary) -> list[str]:
    """Time with all waiting, and the share of pages that a service was asked about."""
    wall = "" if method.cost.wall is None else f"{method.cost.wall:.1f}"
    return [wall, f"{method.cost.asked:.0%}" if method.cost.asked else ""]


def _mean(method: MethodSummary, metric: str) -> str:
    return f"{method.means[metric].mean:.3f}" if metric in method.means else ""


def _metric_rows(summary: Summary) -> tuple[list[str], list[list[str]]]:
    head = ["Metric", *(m.name for m in summary.methods)]
    rows = []
    for metric, label in LABELS.items():
        cells = []
        for m in summary.methods:
            mean = m.means.get(metric)
            cells.append("" if mean is None else f"{mean.mean:.3f}")
        if any(cells):
            rows.append([label, *cells])
    texts = dict.fromkeys(key for m in summary.methods for key in m.text)
    rows += [
        [f"text: {key}", *(f"{m.text[key]:.3f}" if key in m.text else "" for m in summary.methods)]
        for key in texts
    ]
    rows.append(["tables split / merged", *(f"{m.split} / {m.merged}" for m in summary.methods)])
    walls = ["" if m.cost.wall is None else f"{m.cost.wall:.1f}" for m in summary.methods]
    rows.append(["wall time, ms a page", *walls])
    rows.append(["output, KiB a page", *(f"{m.cost.output:.1f}" for m in summary.methods)])
    return head, rows


def _comparison_rows(summary: Summary) -> tuple[list[str], list[list[str]]]:
    head = ["Methods", "Difference", "95 % interval", "p (Holm)", "Effect size", "Verdict"]
    rows = []
    for c in summary.comparisons:
        d = c.difference
        interval = "" if d.low is None else f"{d.low:+.3f} to {d.high:+.3f}"
        ahead = c.first if d.mean > 0 else c.second
        rows.append(
            [
                f"{c.first} - {c.second}", f"{d.mean:+.3f}", interval, _chance(c.p).removeprefix("= "),
                "" if c.effect is None else f"{c.effect:+.2f}",
                f"{ahead} is ahead" if c.separable else "not separable",
            ]
        )  # fmt: skip
    return head, rows


def _retrieval_rows(results: Results, summary: Summary) -> tuple[list[str], list[list[str]]]:
    order = {m.name: k for k, m in enumerate(summary.methods)}
    asked = sorted((m for m in results.methods if m.retrieval), key=lambda m: order.get(m.name, len(order)))
    reasons = list(asked[0].retrieval.lost) if asked and asked[0].retrieval else []
    head = ["Method", "Questions", "Answered @1", "@3", "@5", *(r.capitalize() for r in reasons)]
    rows = []
    for m in asked:
        r = m.retrieval
        assert r is not None
        shares = [f"{r.answered[k]:.3f}" for k in (1, 3, 5)]
        rows.append([m.name, str(r.questions), *shares, *(str(r.lost[k]) for k in reasons)])
    return head, rows


def report_markdown(results: Results, summary: Summary) -> str:
    """Return the report's figures as Markdown."""
    parts = ["# Benchmark", "", *verdict(summary), ""]
    if results.skipped:
        parts += ["Left out:", "", *(f"- {said}" for said in results.skipped), ""]
    for title, (head, rows) in (
        ("Methods", _headline(summary)),
        ("Every metric, mean over documents", _metric_rows(summary)),
        ("Differences in score", _comparison_rows(summary)),
        ("Retrieval", _retrieval_rows(results, summary)),
    ):
        parts += [f"## {title}", "", *_pipes(head, rows), ""]
    for kind, values in summary.traits.items():
        head = [kind.capitalize(), "Tables", *(m.name for m in summary.methods)]
        rows = [
            [value, str(count), *(f"{by[m.name]:.3f}" for m in summary.methods)]
            for value, (count, by) in values.items()
        ]
        parts += [f"## Content similarity by {kind}", "", *_pipes(head, rows), ""]
    return "\n".join(parts)


def _pipes(head: list[str], rows: list[list[str]]) -> list[str]:
    lines = [head, ["---"] * len(head), *rows]
    return [f"| {' | '.join(cell.replace('|', chr(92) + '|') for cell in line)} |" for line in lines]


def tables_csv(results: Results) -> str:
    """Return one line for each method and true table, with every score."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    known = {(t.document, t.index): t for t in results.tables}
    metrics = [m for m in LABELS if m not in (MAIN, "detection")]
    kinds = list(results.tables[0].traits) if results.tables else []
    counts = ("truth", "right", "moved", "changed", "lost", "invented")
    writer.writerow(
        [
            "method",
            "document",
            "table",
            "rows",
            "columns",
            *kinds,
            *metrics,
            *(f"numbers {c}" for c in counts),
        ]
    )
    for method in ranked(results):
        for t in method.tables:
            true = known[t.document, t.index]
            scores = ["" if t.scores.get(m) is None else f"{t.scores[m]:.4f}" for m in metrics]
            traits = [true.traits[k] for k in kinds]
            writer.writerow(
                [method.name, t.document, t.index + 1, true.rows, true.columns, *traits, *scores,
                 *(t.numbers[c] for c in counts)]
            )  # fmt: skip
    return out.getvalue()


def _page(folder: Path, results: Results, summary: Summary, drawn: dict[str, bytes]) -> str:
    pictures = {
        name: f"data:image/png;base64,{base64.b64encode(png).decode('ascii')}" for name, png in drawn.items()
    }
    return page_of(
        "wennak.bench", "report", _details(folder, results, summary),
        verdict=verdict(summary), summary=summary, skipped=results.skipped, plots=pictures,
        plotting=COMMAND,
        headline=_headline(summary), metrics=_metric_rows(summary), comparisons=_comparison_rows(summary),
        retrieval=_retrieval_rows(results, summary),
    )  # fmt: skip


def _details(folder: Path, results: Results, summary: Summary) -> dict[str, Any]:
    """All tables with what each method made of them, worst first, for the script of the page."""
    methods = ranked(results)
    entries: dict[tuple[str, int], dict[str, Any]] = {}
    places: dict[str, dict[int, list[Place]]] = {}
    for name in results.documents:
        truth = _saved(folder / "truth" / f"{name}.json")
        readings = {m.name: _saved(folder / "readings" / m.name / f"{name}.json") for m in methods}
        if truth is None:
            continue
        for index, table in enumerate(truth.tables):
            true = grid_of(table)
            entry: dict[str, Any] = {
                "document": name, "table": index + 1, "caption": table.caption, "truth": _grid_data(true),
                "readings": {},
            }  # fmt: skip
            at = list(table.places)
            for m in methods:
                scores = next(t for t in m.tables if (t.document, t.index) == (name, index))
                reading = readings[m.name]
                read = reading.tables[scores.reading] if reading and scores.reading >= 0 else None
                if read is not None and not at and (scores.scores["content"] or 0) >= 0.5:
                    at = read.places
                entry["readings"][m.name] = _reading_data(true, grid_of(read) if read else None) | {
                    "content": round(scores.scores["content"] or 0.0, 4), "split": scores.split,
                    "merged": scores.merged,
                }  # fmt: skip
            entries[name, index] = entry
            if at:
                places.setdefault(name, {})[index] = at
    traits = {(t.document, t.index): t.traits for t in results.tables}
    for key, entry in entries.items():
        entry["traits"] = traits.get(key, {})
    worst = sorted(entries, key=lambda key: min(r["content"] for r in entries[key]["readings"].values()))
    shown = set(worst[:CROPS])
    for name, found in places.items():
        wanted = {k: at for k, at in found.items() if (name, k) in shown}
        pdf = Path(results.documents[name])
        if wanted and pdf.is_file():
            for index, url in crop_data(pdf, wanted).items():
                entries[name, index]["crop"] = url
    return {
        "methods": [m.name for m in summary.methods],
        "tables": [entries[key] for key in worst],
    }


def _saved(path: Path) -> Document | None:
    try:
        return load(path)
    except WennakError:
        return None


def _grid_data(grid: Grid) -> dict[str, Any]:
    return {"rows": grid.shape[0], "columns": grid.shape[1], "head": grid.header_rows, "cells": grid.cells}


def _reading_data(true: Grid, read: Grid | None) -> dict[str, Any]:
    """Truth and reading cell by cell: what became of each, and how often each verdict was given."""
    if read is None:
        missing = [asdict(Judged(*c[:2], c[4], "missing")) for c in true.cells]
        return {"found": False, "truth": _verdicts(missing), "kinds": {"missing": len(missing)}}
    first, second = judged_cells(true, read)
    kinds: dict[str, int] = {}
    for judged in (*first, *(j for j in second if j.verdict == "extra")):
        if judged.verdict != "same":
            kinds[judged.verdict] = kinds.get(judged.verdict, 0) + 1
    return {
        "found": True, "grid": _grid_data(read), "truth": _verdicts([asdict(j) for j in first]),
        "read": _verdicts([asdict(j) for j in second]), "kinds": kinds,
    }  # fmt: skip


def _verdicts(judged: list[dict[str, Any]]) -> dict[str, list[str]]:
    """By "row,column" the verdict on each cell that is not the same, with what stands there instead."""
    return {f"{j['row']},{j['column']}": [j["verdict"], j["other"]] for j in judged if j["verdict"] != "same"}
