"""How a run over a collection begins, and what it gives where it is followed to its end."""

from __future__ import annotations

import uuid
from collections import Counter
from collections.abc import Iterable, Sequence
from concurrent.futures import Executor
from pathlib import Path

from ..emit import PLAIN, EmitOptions, shown_rows
from ..errors import UsageError
from ..intake import Named, all_sources
from ..methods import DEFAULT_METHOD
from ..scan import AS_NEEDED, Recognition
from .journal import JOURNAL, Journal
from .limits import Plan
from .run import Run
from .settings import Settings
from .store import FolderStore, store_at
from .tasks import Outcome
from .workers import Workers, chosen_workers

# So many outcomes a notebook shows.
LISTED = 50


class Outcomes(list[Outcome]):
    """What became of documents, one after the other; a notebook shows them as a table."""

    def __repr__(self) -> str:
        counts = Counter(outcome.state for outcome in self)
        said = ", ".join(f"{n} {state}" for state, n in counts.items())
        return f"<{len(self)} outcomes{f': {said}' if said else ''}>"

    def _repr_html_(self) -> str:
        failed_first = sorted(self, key=lambda outcome: outcome.state != "failed")
        rows = [
            (o.name, o.state, str(o.pages), str(o.tables), str(o.findings), o.error)
            for o in failed_first[:LISTED]
        ]
        title = repr(self) + (f", the first {LISTED} below" if len(self) > LISTED else "")
        return shown_rows(title, ("Document", "State", "Pages", "Tables", "Findings", "Why"), rows)


def convert(
    sources: Named | Iterable[Named],
    out: str | Path,
    formats: Sequence[str] = ("md",),
    method: str = DEFAULT_METHOD,
    pages: str | None = None,
    workers: int | Executor = 1,
    password: str = "",
    options: EmitOptions | None = None,
    pictures: bool = False,
    recognition: Recognition = AS_NEEDED,
    together: Sequence[str] = (),
    fresh: bool = False,
    plan: Plan | None = None,
) -> Outcomes:
    """Convert every PDF of the sources into `out`, a/b.pdf to a/b.md and so on.

    `sources` are paths of files, folders and archives, patterns, URLs, bytes, open files, or several of them,
    taken one by one. `out` is a folder, or a place in a bucket. With `pictures` the figures of a/b.pdf are
    saved as PNG files in a/b-figures; `together` names what is written for the whole collection ("passages",
    "csv", "parquet").

    The journal in `out` says what became of each document; what was done in an earlier call, and has not
    changed since, is not done again, unless `fresh`. With `workers` above 1 documents are read by processes,
    which limits of time and memory hold for (in a script, call it below `if __name__ == "__main__"`); or an
    executor in the manner of `concurrent.futures` does the work.

    Returns the outcomes in the order in which they came. A source that cannot be read is an outcome with an
    error, not an exception. Raises UsageError for an unknown method or format, where `out` is no folder, or
    another run is writing to it; NoRoom where a disk is full.
    """
    settings = Settings(
        tuple(dict.fromkeys(formats)), tuple(dict.fromkeys(together)), method, pages, password,
        options or PLAIN, pictures, recognition,
    )  # fmt: skip
    plan = plan or Plan()
    chosen = chosen_workers(workers, plan.worker_limits)
    return outcomes(begin(sources, out, settings, chosen, plan, fresh=fresh), chosen)


def outcomes(run: Run, workers: Workers) -> Outcomes:
    """Follow a run to its end and return what became of each source; its workers are let go."""
    try:
        return Outcomes(event for event in run.events() if isinstance(event, Outcome))
    finally:
        workers.close()


def begin(
    sources: Named | Iterable[Named],
    out: str | Path,
    settings: Settings,
    workers: Workers,
    plan: Plan,
    journal: str | Path | None = None,
    fresh: bool = False,
) -> Run:
    """Return a run that is ready to begin; its journal is held from now on until its events have ended.

    Raises UsageError as `convert` does.
    """
    store = store_at(out, uuid.uuid4().hex[:12])
    if journal is None and not isinstance(store, FolderStore):
        raise UsageError("Outputs in a bucket need a journal on this machine; name a file with --journal.")
    path = Path(journal) if journal is not None else Path(out) / JOURNAL
    kept = Journal(path, settings.said(), fresh)
    return Run(all_sources(sources, plan.limits), store, kept, settings.begun(), workers, plan)
