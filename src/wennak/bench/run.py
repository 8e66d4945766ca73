"""Running methods over documents with known truth, each document in a process of its own."""

from __future__ import annotations

import resource
import sys
import time
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from importlib import import_module, resources
from pathlib import Path
from typing import TypeVar

from pebble import ProcessExpired, ProcessPool

from ..emit import to_json, write_whole
from ..errors import MissingSource, SourceError, UsageError
from ..methods import DEFAULT_METHOD, OWN_METHODS, REMOTE, check_method
from ..model import Place
from ..pipeline import read
from ..remote import Service
from ..truth import Truth, find_truth, truth_name
from .candidates import candidate_document, check_candidate
from .grid import Grid, grid_of
from .results import (
    DocumentResult,
    MethodResult,
    Results,
    TableResult,
    TrueTable,
    save_results,
)
from .retrieval import Indexed, answer_all, document_passages, plain_csv, plain_text, questions_of
from .scores import failed_document, score_document
from .traits import rules_of, traits_of

T = TypeVar("T")
R = TypeVar("R")

# `combined`, its doubtful tables answered by a service.
HYBRID = "hybrid"
# A document may take a method this many seconds.
TIME_LIMIT = 600.0
# The reading of a table tells its place where its content is this similar.
PLACED = 0.7
BASELINES = ("plain text", "bare CSV")
_USED = ("fontTools.cffLib", "fontTools.ttLib", "lxml.html", "scipy.optimize")


@dataclass(frozen=True, slots=True)
class _Task:
    """One document to read by a method, or to take from the folder of a candidate, and where to keep it."""

    name: str
    method: str
    truth: Truth
    candidate: Path | None
    keep: Path
    service: Service | None = None


@dataclass(slots=True)
class _Done:
    document: DocumentResult
    tables: list[TableResult]
    places: list[list[Place]]
    passages: list[Indexed]


def benchmark(
    truth: str | Path,
    methods: Sequence[str] = OWN_METHODS,
    out: str | Path = "wennak-run",
    candidates: Mapping[str, str | Path] | None = None,
    workers: int = 1,
    drafts: bool = False,
    service: Service | None = None,
    on_done: Callable[[str, str], None] | None = None,
) -> Results:
    """Run methods over every document of a truth folder, score them, and keep all in the folder `out`.

    `candidates` names folders of files that other programs made. Tables that are drafted and not checked are
    left out and named, unless `drafts` asks for them. With a `service`, which must be able to travel to other
    processes, the methods may also be "remote" and "hybrid"; one that says it is `simulated` is marked so in
    all results. `on_done` is called with method and document after
    each. Raises UsageError for an unknown method or candidate, MissingSource where there is no truth.
    """
    folders = {name: check_candidate(folder) for name, folder in (candidates or {}).items()}
    for method in methods:
        check_method(DEFAULT_METHOD if method == HYBRID else method, service)
    if HYBRID in methods and service is None:
        raise UsageError(f'The method "{HYBRID}" needs a service to ask.')
    mark = " (simulated)" if getattr(service, "simulated", False) else ""
    labels = {m: f"{m}{mark}" if m in (REMOTE, HYBRID) else m for m in methods}
    if not methods and not folders:
        raise UsageError("There is nothing to run; name methods or candidates.")
    names = [*labels.values(), *folders]
    if len({*names, *BASELINES}) < len(names) + len(BASELINES):
        raise UsageError("Two methods, candidates or baselines have one name; give each its own.")
    folder = Path(out)
    if folder.exists() and not folder.is_dir():
        raise UsageError(f"{out} is a file; name a folder for the run.")
    truths, skipped = _chosen(truth, drafts)
    _get_ready()
    grids = {name: [grid_of(t.table) for t in entry.tables] for name, entry in truths.items()}
    for name, entry in truths.items():
        write_whole(folder / "truth" / f"{name}.json", to_json(entry.document))
    results = Results(
        [],
        [],
        {name: str(entry.pdf.resolve()) if entry.pdf else "" for name, entry in truths.items()},
        skipped,
    )
    questions = [q for name, found in grids.items() for grid in found for q in questions_of(name, grid)]
    places: dict[tuple[str, int], tuple[float, list[Place]]] = {}
    asked: dict[str, list[Indexed]] = {}
    for name, method in [*((label, m) for m, label in labels.items()), *((n, n) for n in folders)]:
        asks = service if method in (REMOTE, HYBRID) else None
        readings = folder / "readings" / name
        tasks = [
            _Task(document, method, entry, folders.get(name), readings / f"{document}.json", asks)
            for document, entry in truths.items()
        ]
        result = MethodResult(
            name, "candidate" if name in folders else "simulated" if asks and mark else "method"
        )
        asked[name] = []
        for task, done in zip(tasks, _each(_do, tasks, workers, _failed), strict=True):
            result.documents.append(done.document)
            result.tables += done.tables
            asked[name] += done.passages
            for table, at in zip(done.tables, done.places, strict=True):
                similar = table.scores["content"] or 0.0
                key = (table.document, table.index)
                if at and similar >= PLACED and similar > places.get(key, (0.0, []))[0]:
                    places[key] = (similar, at)
            if on_done:
                on_done(name, task.name)
        results.methods.append(result)
    results.tables = list(_true_tables(truths, grids, places))
    results.methods += [MethodResult(name, "baseline") for name in BASELINES]
    asked |= dict(zip(BASELINES, _baselines(truths, workers), strict=True))
    # Questions of one index after the other; several indexes at a time.
    with ProcessPool(max_workers=max(1, workers)) as pool:
        futures = [pool.schedule(answer_all, args=[questions, asked[m.name]]) for m in results.methods]
        answers = [future.result() for future in futures]
    for result, answer in zip(results.methods, answers, strict=True):
        result.retrieval = answer
    save_results(results, folder)
    return results


def _chosen(truth: str | Path, drafts: bool) -> tuple[dict[str, Truth], list[str]]:
    """The truths to score against by name, without what nobody has checked, and what was left out."""
    root = Path(truth)
    out: dict[str, Truth] = {}
    skipped = []
    for entry in find_truth(root):
        name = truth_name(entry, root)
        unchecked = [k for k, t in enumerate(entry.tables, start=1) if not t.counts and not drafts]
        if unchecked:
            numbers = ", ".join(str(k) for k in unchecked)
            skipped.append(f"{name}: table {numbers} is drafted and not checked")
            continue
        out[name] = entry
    if not out:
        raise MissingSource(f"{truth} holds no truth that was checked; check it, or ask for drafts too.")
    return out, skipped


def _get_ready() -> None:
    """Load what is loaded where it is first used, and read a paper of the demo: else each process that is
    forked for a document would do so, and its method would seem slower than it is.
    """
    for name in _USED:
        import_module(name)
    document = read(resources.files("wennak.demo").joinpath("files/berth-ledger.pdf").read_bytes())
    to_json(document)
    document.markdown()


def _each(
    work: Callable[[T], R], items: Sequence[T], workers: int, failed: Callable[[T, str], R]
) -> Iterator[R]:
    """Do work on each item in a new process, within a limit of time: a hang or crash costs its item only."""
    with ProcessPool(max_workers=max(1, workers), max_tasks=1) as pool:
        futures = [pool.schedule(work, args=[item], timeout=TIME_LIMIT) for item in items]
        for item, future in zip(items, futures, strict=True):
            try:
                yield future.result()
            except TimeoutError:
                yield failed(item, f"took longer than {TIME_LIMIT:.0f} s and was stopped")
            except ProcessExpired:
                yield failed(item, "crashed its process")
            except Exception as error:
                yield failed(item, f"failed with {type(error).__name__}: {error}")


def _failed(task: _Task, said: str) -> _Done:
    document, tables = failed_document(task.name, task.truth, said)
    return _Done(document, tables, [[] for _ in tables], [])


def _do(task: _Task) -> _Done:
    """Read a document, measure what that takes, then score it and cut it into passages."""
    wall, cpu = time.perf_counter(), time.process_time()
    try:
        if task.candidate is not None:
            document, size = candidate_document(task.candidate, task.name)
        else:
            assert task.truth.pdf is not None
            method = DEFAULT_METHOD if task.method == HYBRID else task.method
            document = read(task.truth.pdf, method=method, service=task.service)
            size = 0
    except SourceError as error:
        return _failed(task, str(error))
    wall, cpu = time.perf_counter() - wall, time.process_time() - cpu
    memory = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / (
        2**20 if sys.platform == "darwin" else 1024
    )
    result, tables = score_document(task.name, task.truth, document)
    if task.candidate is None:
        result.wall, result.cpu, result.memory = round(wall, 4), round(cpu, 4), round(memory, 1)
        result.asked = len({f.page for f in document.findings if f.code == "asked"})
        size = len(document.markdown().encode("utf-8", "backslashreplace"))
    result.output = size
    places = [document.tables[t.reading].places if t.reading >= 0 else [] for t in tables]
    write_whole(task.keep, to_json(document))
    return _Done(result, tables, places, document_passages(task.name, document))


def _true_tables(
    truths: Mapping[str, Truth],
    grids: Mapping[str, Sequence[Grid]],
    places: Mapping[tuple[str, int], tuple[float, list[Place]]],
) -> Iterator[TrueTable]:
    """The true tables with their traits; where the truth does not say where one stands, its readings do."""
    for name, entry in truths.items():
        at = [t.table.places or places.get((name, k), (0, []))[1] for k, t in enumerate(entry.tables)]
        rules = rules_of(entry.pdf, at) if entry.pdf else ["unknown"] * len(at)
        for k, (table, grid) in enumerate(zip(entry.tables, grids[name], strict=True)):
            pages = table.pages or sorted({p.page for p in at[k]})
            traits = {"rules": rules[k], **traits_of(grid, pages)}
            yield TrueTable(name, k, *grid.shape, table.table.caption, pages, traits)


def _baselines(truths: Mapping[str, Truth], workers: int) -> tuple[list[Indexed], list[Indexed]]:
    """The passages of the two baselines of retrieval: plain text of the pages, and bare tables as CSV."""
    pdfs = [(name, entry.pdf) for name, entry in truths.items() if entry.pdf is not None]
    both = list(_each(_bare, pdfs, workers, lambda _, said: ([], [])))
    return [p for text, _ in both for p in text], [p for _, table in both for p in table]


def _bare(named: tuple[str, Path]) -> tuple[list[Indexed], list[Indexed]]:
    name, pdf = named
    text = plain_text(name, pdf)
    return text, plain_csv(name, read(pdf, method="plain"))
