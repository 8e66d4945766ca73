"""Documents of a collection one after the other, for callers that want them and not files."""

from __future__ import annotations

import tempfile
from collections import deque
from collections.abc import Iterable, Iterator
from concurrent.futures import Executor, Future
from pathlib import Path

from ..errors import SourceError, StoppedSource, WennakError
from ..intake import LIMITS, Limits, Named, Source, all_sources
from ..model import Document
from ..pipeline import DEFAULT_METHOD, read
from ..scan import AS_NEEDED, Recognition
from .workers import WORKER_LIMITS, chosen_workers, why_lost


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
    pool = chosen_workers(workers, WORKER_LIMITS)
    waiting: deque[tuple[Source, Future[Document | WennakError]]] = deque()
    found = all_sources(sources, limits)
    try:
        with tempfile.TemporaryDirectory(prefix="wennak-") as folder:
            more = True
            while more or waiting:
                while more and len(waiting) < 2 * pool.width:
                    if more := (source := next(found, None)) is not None:
                        assert source is not None
                        task = (
                            source.name,
                            *_fetched(source, Path(folder), limits),
                            method,
                            password,
                            recognition,
                        )
                        waiting.append((source, pool.submit(_read, *task)))
                    if pool.width == 1:
                        break
                if waiting:
                    yield _answer(*waiting.popleft())
    finally:
        pool.stop()
        pool.close()


def _fetched(source: Source, folder: Path, limits: Limits) -> tuple[Path | None, WennakError | None, bool]:
    """Where the bytes of a source are, or why not, and whether that is a file made for it."""
    try:
        path = source.fetch(folder, limits)
    except SourceError as error:
        return None, error, False
    return path, None, path.parent == folder


def _read(
    name: str,
    path: Path | None,
    error: WennakError | None,
    own: bool,
    method: str,
    password: str,
    recognition: Recognition,
) -> Document | WennakError:
    if path is None:
        assert error is not None
        return error
    try:
        return read(path, None, method, password, name, recognition)
    except WennakError as found:
        return found
    finally:
        if own:
            path.unlink(missing_ok=True)


def _answer(source: Source, future: Future[Document | WennakError]) -> Document | WennakError:
    try:
        answer = future.result()
    except Exception as error:
        answer = StoppedSource(f"{source.name} {why_lost(error, WORKER_LIMITS)}")
    if isinstance(answer, WennakError):
        answer.source = source.name
    return answer
