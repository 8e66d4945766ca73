"""Converting many documents: the run, and what is said at its end."""

from __future__ import annotations

from collections.abc import Iterator

from ..collection import (
    Plan,
    Processes,
    Run,
    Settings,
    Summary,
    WorkerLimits,
    Workers,
    begin,
    default_workers,
)
from .progress import Count, log
from .runs import Named, follow
from .sources import named_sources
from .voice import tell
from .words import count_of, duration

# At most so many files that need a person, and kinds of findings, are named at the end.
NAMED = 10


def convert_all(
    named: Named, out: str, settings: Settings, plan: Plan, workers: int | None, cluster: str | None,
    journal: str | None, fresh: bool, log_json: bool,
) -> int:  # fmt: skip
    """Convert the named sources into a folder, tell about it, and return the exit code."""
    chosen = _workers(workers, cluster, plan.worker_limits)
    try:
        run = begin(named_sources(*named), out, settings, chosen, plan, journal, fresh)
        return _told(run, out, named, log_json)
    finally:
        chosen.close()


def _workers(count: int | None, cluster: str | None, limits: WorkerLimits) -> Workers:
    if cluster is None:
        return Processes(count or default_workers(), limits)
    from ..collection.cluster import connected

    return connected(cluster, limits)


def _told(run: Run, out: str, named: Named, log_json: bool) -> int:
    """Follow a run to its end, tell about it, and return the exit code."""
    count = follow(run, named, log_json)
    summary, failures = run.ended
    if log_json:
        log(
            event="end", documents=summary.documents, converted=summary.done, same=summary.same,
            failed=summary.failed, pages=summary.pages, tables=summary.tables,
            seconds=round(count.seconds, 3), out=out,
        )  # fmt: skip
    else:
        for line in _summary(summary, count, failures, out):
            tell(line)
    return 1 if summary.failed else 0


def _summary(summary: Summary, count: Count, failures: list[tuple[str, str]], out: str) -> Iterator[str]:
    text = f"{count_of(summary.done, 'document')} converted to {out}: "
    text += f"{count_of(summary.pages, 'page')}, {count_of(summary.tables, 'table')}"
    text += f", in {duration(count.seconds)}"
    if count.unchanged - summary.same > 0:
        text += f"; {count.unchanged - summary.same} of them unchanged since an earlier run"
    if summary.same:
        text += f"; {summary.same:,} more with the content of another"
    if summary.failed:
        text += f"; {count_of(summary.failed, 'document')} failed"
    yield text + "."
    if summary.findings:
        yield "Findings to look at (they are in the JSON and in the journal):"
        for code, n, documents in summary.findings[:NAMED]:
            yield f"  {n:>7,}  {code}, in {count_of(documents, 'document')}"
    if failures:
        yield "Files that need a person:"
        yield from (f"  {name}" for name, _ in failures[:NAMED])
        if len(failures) > NAMED:
            yield f"  and {summary.failed - NAMED} more, in the journal"
