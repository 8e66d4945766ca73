"""Documents of a collection one after the other, for callers that want them and not files."""

from __future__ import annotations

import tempfile
from collections import deque
from collections.abc import Callable, Iterable, Iterator
from concurrent.futures import Executor, Future
from pathlib import Path
from typing import TypeVar

from ..errors import SourceError, StoppedSource, WennakError
from ..intake import LIMITS, Limits, Named, Source, all_sources
from ..methods import DEFAULT_METHOD
from ..model import Document
from ..scan import AS_NEEDED, Recognition
from .limits import WORKER_LIMITS, WorkerLimits
from .why import why_failed, why_lost
from .workers import chosen_workers

Answer = TypeVar("Answer")


def stream(
    sources: Named | Iterable[Named],
    workers: int | Executor = 1,
    method: str = DEFAULT_METHOD,
    password: str = "",
    recognition: Recognition = AS_NEEDED,
    limits: Limits = LIMITS,
) -> Iterator[Document | WennakError]:
    """Yield the document of each source, in their order; for one that cannot be read the error, whose
    `source` is its name.

    `sources` are those that `convert` takes; an iterator is asked for no more than a few sources ahead of the
    documents that were taken. With `workers` above 1 documents are read by processes (in a script, call it
    below `if __name__ == "__main__"`), or by an executor in the manner of `concurrent.futures`.
    """
    told = in_order(sources, _read, (method, password, recognition), workers, limits)
    return (answer for _, answer in told)


def in_order(
    sources: Named | Iterable[Named],
    work: Callable[..., Answer],
    arguments: tuple[object, ...],
    workers: int | Executor,
    limits: Limits = LIMITS,
    worker_limits: WorkerLimits = WORKER_LIMITS,
) -> Iterator[tuple[Source, Answer | WennakError]]:
    """Yield each source with what `work(name, path, *arguments)` makes of it, or the error, in order."""
    pool = chosen_workers(workers, worker_limits)
    waiting: deque[tuple[Source, Future[Answer | WennakError]]] = deque()
    found = all_sources(sources, limits)
    try:
        with tempfile.TemporaryDirectory(prefix="wennak-") as folder:
            more = True
            while more or waiting:
                while more and len(waiting) < 2 * pool.width - 1:
                    source = next(found, None)
                    if source is None:
                        more = False
                        break
                    waiting.append(
                        (source, _begun(source, Path(folder), limits, pool.submit, work, arguments))
                    )
                if waiting:
                    first, done = waiting.popleft()
                    yield first, _answer(first, done, worker_limits)
    finally:
        pool.stop()
        pool.close()


def _begun(
    source: Source,
    folder: Path,
    limits: Limits,
    submit: Callable[..., Future[Answer | WennakError]],
    work: Callable[..., Answer],
    arguments: tuple[object, ...],
) -> Future[Answer | WennakError]:
    """Fetch a source and have it worked on."""
    try:
        path = source.fetch(folder, limits)
    except SourceError as error:
        lost: Future[Answer | WennakError] = Future()
        lost.set_result(error)
        return lost
    return submit(_worked, source.name, path, path.parent == folder, work, arguments)


def _worked(
    name: str, path: Path, own: bool, work: Callable[..., Answer], arguments: tuple[object, ...]
) -> Answer | WennakError:
    """Work on a file, and delete it where it was made for this."""
    try:
        return work(name, path, *arguments)
    except WennakError as found:
        return found
    except Exception as error:
        return StoppedSource(why_failed(name, error))
    finally:
        if own:
            path.unlink(missing_ok=True)


def _read(name: str, path: Path, method: str, password: str, recognition: Recognition) -> Document:
    # Read where the workers are: who hands the sources out needs none of it.
    from ..pipeline import read

    return read(path, None, method, password, name, recognition)


def _answer(
    source: Source, future: Future[Answer | WennakError], limits: WorkerLimits
) -> Answer | WennakError:
    try:
        answer = future.result()
    except Exception as error:
        answer = StoppedSource(f"{source.name} {why_lost(error, limits)}")
    if isinstance(answer, WennakError):
        answer.source = source.name
    return answer
