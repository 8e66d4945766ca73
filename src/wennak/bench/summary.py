"""Results -> what a reader wants to know: means with intervals, ranks, differences, traits, costs."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..emit import shown_rows
from ..methods import DEFAULT_METHOD
from .results import MethodResult, Results
from .scores import LABELS, NUMBERS, TABLE_METRICS
from .statistics import (
    Comparison,
    Interval,
    compare_all,
    compare_with,
    comparison_of,
    holm,
    mean_interval,
    paired_p,
    ranks,
)

MAIN = "score"
# Metrics that the first table of a report shows.
SHOWN = (MAIN, "detection", "exact", "cells", NUMBERS, "headers")


@dataclass(frozen=True, slots=True)
class Cost:
    """What a method takes: median CPU and wall milliseconds a page, peak MiB, KiB of output a page, the share
    of pages that a service was asked about, 0..1.
    """

    cpu: float | None
    wall: float | None
    memory: float | None
    output: float
    asked: float = 0.0


@dataclass(frozen=True, slots=True)
class MethodSummary:
    """One method in figures: rank by the main metric (0 for a simulated one, which has none), mean and
    interval of every metric, counts, cost.
    """

    name: str
    kind: str
    rank: int
    means: dict[str, Interval]
    found: int
    exact: int
    extra: int
    split: int
    merged: int
    numbers: dict[str, int]
    failed: int
    cost: Cost
    text: dict[str, float]

    @property
    def wrong_numbers(self) -> int:
        """How many numbers were changed or invented."""
        return self.numbers.get("changed", 0) + self.numbers.get("invented", 0)


@dataclass(frozen=True, slots=True)
class Summary:
    """A run in figures; `methods` are sorted by mean. `comparisons` are those of every two methods,
    `against_best` those of the best with each other one, corrected among themselves. `traits` gives by kind
    and value the number of tables and each method's mean content similarity.
    """

    tables: int
    documents: int
    methods: list[MethodSummary]
    comparisons: list[Comparison]
    against_best: list[Comparison]
    traits: dict[str, dict[str, tuple[int, dict[str, float]]]]


def ranked(results: Results) -> list[MethodResult]:
    """Return the results of what read tables: methods and candidates."""
    return [m for m in results.methods if m.kind != "baseline"]


def document_scores(results: Results, metric: str) -> tuple[list[str], dict[str, list[float]]]:
    """Return the documents that a metric can judge, and each method's mean score on each of them.

    "score" is the content similarity summed over the tables of the truth, over true and invented tables;
    "detection" the F1 of tables found by content; a document without tables, in which none was read, has 1.
    """
    names = list(results.documents)
    values: dict[str, dict[str, float]] = {}
    for method in ranked(results):
        own: dict[str, float] = {}
        tables: dict[str, list[float]] = {}
        for t in method.tables:
            value = t.scores.get("content" if metric == MAIN else metric)
            if value is not None:
                tables.setdefault(t.document, []).append(value)
        for d in method.documents:
            if metric == "detection":
                own[d.name] = 2 * d.found / (d.tables + d.read) if d.tables + d.read else 1.0
            elif metric == MAIN:
                total = d.tables + d.extra
                own[d.name] = sum(tables.get(d.name, [])) / total if total else 1.0
            elif d.name in tables:
                own[d.name] = float(np.mean(tables[d.name]))
        values[method.name] = own
    judged = [n for n in names if any(n in own for own in values.values())]
    return judged, {name: [own.get(n, 1.0) for n in judged] for name, own in values.items()}


def shown_results(results: Results) -> str:
    """Return a run as a notebook shows it: the figures of each method, the best first."""
    summary = summarise(results)
    rows = [
        (
            str(m.rank or ""), m.name, f"{m.means[MAIN].mean:.3f}", f"{m.found} of {summary.tables}",
            str(m.exact), str(m.extra), str(m.wrong_numbers),
        )
        for m in summary.methods
    ]  # fmt: skip
    names = ("Rank", "Method", "Score", "Found", "Without any error", "Invented", "Numbers wrong")
    return shown_rows(repr(results), names, rows)


def summarise(results: Results) -> Summary:
    """Return a run in figures."""
    methods = ranked(results)
    names = [m.name for m in methods if m.kind != "simulated"]
    means: dict[str, dict[str, Interval]] = {m.name: {} for m in methods}
    for metric in LABELS:
        judged, scores = document_scores(results, metric)
        for name in means:
            if judged:
                means[name][metric] = mean_interval(scores[name])
    _, scores = document_scores(results, MAIN)
    rank = ranks(names, scores) | {m.name: 0 for m in methods if m.kind == "simulated"}
    # Of equal ones the method that is used where none is named.
    best = max(names, key=lambda n: (means[n][MAIN].mean, n == DEFAULT_METHOD))
    against_best = compare_with(best, [n for n in names if n != best], scores)
    pages = sum(max(m.documents[k].pages for m in methods) for k in range(len(results.documents)))
    summaries = [_summary(m, rank[m.name], means[m.name], pages) for m in methods]
    summaries.sort(key=lambda s: (s.rank == 0, s.rank, -s.means[MAIN].mean, s.name != best))
    return Summary(
        len(results.tables), len(results.documents), summaries, compare_all(names, scores), against_best,
        _traits(results, methods),
    )  # fmt: skip


def _summary(method: MethodResult, rank: int, means: dict[str, Interval], pages: int) -> MethodSummary:
    numbers: dict[str, int] = {}
    for t in method.tables:
        for key, count in t.numbers.items():
            numbers[key] = numbers.get(key, 0) + count
    judged = [d for d in method.documents if d.text]
    text = {
        key: float(np.mean(values))
        for key in (judged[0].text if judged else {})
        if (values := [v for d in judged if (v := d.text[key]) is not None])
    }
    return MethodSummary(
        name=method.name,
        kind=method.kind,
        rank=rank,
        means=means,
        found=sum(d.found for d in method.documents),
        exact=sum(t.scores["exact"] == 1 for t in method.tables),
        extra=sum(d.extra for d in method.documents),
        split=sum(t.split for t in method.tables),
        merged=sum(t.merged for t in method.tables),
        numbers=numbers,
        failed=sum(bool(d.error) for d in method.documents),
        cost=_cost(method, pages),
        text=text,
    )


def _cost(method: MethodResult, pages: int) -> Cost:
    """What a method takes; a candidate tells of its output only, over all pages of the documents."""
    done = [d for d in method.documents if d.pages and not d.error]
    output = sum(d.output for d in method.documents) / 1024 / max(1, pages)
    if method.kind not in ("method", "simulated") or not done:
        return Cost(None, None, None, output)
    return Cost(
        1000 * float(np.median([d.cpu / d.pages for d in done])),
        1000 * float(np.median([d.wall / d.pages for d in done])),
        max(d.memory for d in done),
        output,
        sum(d.asked for d in done) / sum(d.pages for d in done),
    )


def _traits(
    results: Results, methods: Sequence[MethodResult]
) -> dict[str, dict[str, tuple[int, dict[str, float]]]]:
    out: dict[str, dict[str, tuple[int, dict[str, float]]]] = {}
    scores = {m.name: {(t.document, t.index): t.scores["content"] or 0.0 for t in m.tables} for m in methods}
    kinds = list(dict.fromkeys(kind for t in results.tables for kind in t.traits))
    for kind in kinds:
        groups: dict[str, list[tuple[str, int]]] = {}
        for t in results.tables:
            groups.setdefault(t.traits[kind], []).append((t.document, t.index))
        out[kind] = {
            value: (len(keys), {m.name: float(np.mean([scores[m.name][k] for k in keys])) for m in methods})
            for value, keys in sorted(groups.items())
        }
    return out


@dataclass(frozen=True, slots=True)
class Progress:
    """A metric of one method in two runs over the same documents: difference new - old."""

    method: str
    metric: str
    old: float
    new: float
    comparison: Comparison

    @property
    def verdict(self) -> str:
        """Tell whether the new run is "better" or "worse", or that the two are "not separable"."""
        if not self.comparison.separable:
            return "not separable"
        return "better" if self.comparison.difference.mean > 0 else "worse"


def compare_runs(old: Results, new: Results) -> list[Progress]:
    """Compare the methods that two runs share on the documents that they share.

    Holm's correction is over the methods compared, for each metric by itself.
    """
    both = [n for n in old.names() if n in {m.name for m in ranked(new)} & {m.name for m in ranked(old)}]
    entries = []
    out = []
    for metric in (*SHOWN, *(m for m in TABLE_METRICS if m not in SHOWN)):
        sides = [document_scores(r, metric) for r in (old, new)]
        shared = [d for d in sides[0][0] if d in set(sides[1][0])]
        for name in both:
            before, after = (dict(zip(docs, scores[name], strict=True)) for docs, scores in sides)
            if shared:
                entries.append((name, metric, [before[d] for d in shared], [after[d] for d in shared]))
    for metric in dict.fromkeys(metric for _, metric, *_ in entries):
        own = [entry for entry in entries if entry[1] == metric]
        chances = holm([paired_p(np.subtract(b, a).tolist()) for *_, a, b in own])
        for (name, _, a, b), p in zip(own, chances, strict=True):
            comparison = comparison_of("new", "old", np.subtract(b, a), p)
            out.append(Progress(name, metric, float(np.mean(a)), float(np.mean(b)), comparison))
    return out


def table_changes(old: Results, new: Results, method: str) -> list[tuple[str, int, float, float]]:
    """Return document, index, old and new content similarity of the tables that changed, worst loss first."""
    before = {(t.document, t.index): t.scores["content"] or 0.0 for t in old.method(method).tables}
    out = [
        (t.document, t.index, before[t.document, t.index], t.scores["content"] or 0.0)
        for t in new.method(method).tables
        if (t.document, t.index) in before
    ]
    return sorted((c for c in out if abs(c[3] - c[2]) > 0.0005), key=lambda c: c[3] - c[2])
