"""Many documents: each converted on its own, so that one bad file never stops the rest."""

from __future__ import annotations

import os
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path

from ..emit import FORMATS, EmitOptions, check_format, emit, write_whole
from ..errors import UsageError, WennakError
from ..intake import Found, find_sources
from ..looking import save_pictures
from ..pages import page_numbers
from ..pipeline import DEFAULT_METHOD, read
from ..scan import AS_NEEDED, Recognition
from ..tables import find_method

# A document may take this many seconds before its worker is stopped; a thousand pages take a tenth of it.
TIME_LIMIT = 600.0


@dataclass(frozen=True, slots=True)
class Task:
    """One document to convert and the files to write, by format."""

    found: Found
    outputs: tuple[tuple[str, Path], ...]
    method: str
    pages: str | None
    password: str
    options: EmitOptions
    pictures: bool
    recognition: Recognition


@dataclass(frozen=True, slots=True)
class Outcome:
    """What became of one document: counts, or the sentence that says why it failed."""

    name: str
    pages: int = 0
    tables: int = 0
    findings: int = 0
    error: str = ""
    outputs: tuple[Path, ...] = ()


def convert(
    sources: Sequence[str | Path] | str | Path,
    out: str | Path,
    formats: Sequence[str] = ("md",),
    method: str = DEFAULT_METHOD,
    pages: str | None = None,
    workers: int = 1,
    password: str = "",
    options: EmitOptions | None = None,
    pictures: bool = False,
    recognition: Recognition = AS_NEEDED,
) -> list[Outcome]:
    """Convert every PDF of the sources into `out`, a/b.pdf to a/b.md and so on.

    With `pictures` the figures of a/b.pdf are saved as PNG files in a/b-figures.

    Returns the outcomes: those of sources that cannot be found, then the others in their order.
    Raises UsageError for an unknown method or format, where `out` is no folder, or when two documents would
    be written to one file.
    A source that does not exist is an outcome with an error, not an exception.
    """
    tasks, missing = plan(sources, out, formats, method, pages, password, options, pictures, recognition)
    return [*missing, *run_tasks(tasks, workers)]


def plan(
    sources: Sequence[str | Path] | str | Path,
    out: str | Path,
    formats: Sequence[str],
    method: str = DEFAULT_METHOD,
    pages: str | None = None,
    password: str = "",
    options: EmitOptions | None = None,
    pictures: bool = False,
    recognition: Recognition = AS_NEEDED,
) -> tuple[list[Task], list[Outcome]]:
    """Find the documents and settle what to write where; also the outcomes of sources not found."""
    for name in formats:
        check_format(name)
    find_method(method)
    if out and Path(out).exists() and not Path(out).is_dir():
        raise UsageError(f"{out} is a file; name a folder to write to.")
    if pages is not None:
        page_numbers(pages, 10**9)
    tasks: list[Task] = []
    failed: list[Outcome] = []
    owner: dict[Path, Path] = {}
    for source in [sources] if isinstance(sources, (str, Path)) else sources:
        try:
            found = find_sources(source)
        except WennakError as error:
            failed.append(Outcome(str(source), error=str(error)))
            continue
        for item in found:
            stem = Path(out) / Path(item.name).with_suffix("")
            outputs = tuple(
                (f, stem.with_name(f"{stem.name}.{FORMATS[f][0]}")) for f in dict.fromkeys(formats)
            )
            first = owner.setdefault(stem, item.path)
            if first.resolve() != item.path.resolve():
                raise UsageError(
                    f"{first} and {item.path} would both be written to {stem}; "
                    "convert them to different folders."
                )
            chosen = options or EmitOptions()
            tasks.append(Task(item, outputs, method, pages, password, chosen, pictures, recognition))
    return tasks, failed


def run_tasks(tasks: Sequence[Task], workers: int) -> Iterator[Outcome]:
    """Run the tasks, in worker processes where more than one is asked for; yield outcomes in order.

    A worker that crashes or exceeds the time limit costs its own document only.
    """
    if workers <= 1 or len(tasks) <= 1:
        yield from map(run_task, tasks)
        return
    from pebble import ProcessExpired, ProcessPool

    with ProcessPool(max_workers=min(workers, len(tasks))) as pool:
        results = pool.map(run_task, tasks, timeout=TIME_LIMIT).result()
        for task in tasks:
            try:
                yield next(results)
            except TimeoutError:
                yield Outcome(
                    task.found.name,
                    error=f"{task.found.name} took longer than {TIME_LIMIT:.0f} s and was stopped.",
                )
            except ProcessExpired:
                yield Outcome(
                    task.found.name, error=f"{task.found.name} crashed its worker process and was left out."
                )


def run_task(task: Task) -> Outcome:
    """Convert one document. Never raises: what went wrong is in the outcome."""
    name = task.found.name
    try:
        document = read(task.found.path, task.pages, task.method, task.password, name, task.recognition)
        if task.pictures and task.outputs:
            first = task.outputs[0][1]
            folder = first.with_name(f"{first.stem}-figures")
            save_pictures(document, task.found.path, folder, task.password)
        texts = [(path, emit(document, format, task.options)) for format, path in task.outputs]
        for path, text in texts:
            write_whole(path, text)
    except WennakError as error:
        return Outcome(name, error=str(error))
    except OSError as error:
        return Outcome(
            name, error=f"{name}: {error.strerror or error}; check the file and the folder to write to."
        )
    except MemoryError:
        return Outcome(name, error=f"{name} needs more memory than there is; read fewer pages at a time.")
    except Exception as error:
        return Outcome(
            name, error=f"{name} could not be read ({type(error).__name__}: {error}); please report it."
        )
    return Outcome(
        name, len(document.pages), len(document.tables), len(document.findings), "",
        tuple(path for _, path in task.outputs),
    )  # fmt: skip


def default_workers() -> int:
    """Return the number of processors that this process may use."""
    return len(os.sched_getaffinity(0)) if hasattr(os, "sched_getaffinity") else os.cpu_count() or 1
