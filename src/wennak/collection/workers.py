"""Who does the work: processes of this machine, this process itself, or an executor that is passed."""

from __future__ import annotations

import contextlib
import multiprocessing
import os
import signal
import threading
from collections.abc import Callable, Iterator
from concurrent.futures import Executor, Future
from typing import Any, Protocol

from ..errors import UsageError
from .limits import WorkerLimits, default_workers

# How many threads linear algebra may use.
_THREADS = ("OPENBLAS_NUM_THREADS", "OMP_NUM_THREADS", "MKL_NUM_THREADS")
# Processes begin by importing the caller's script.
GUARD = (
    'Worker processes cannot begin; in a script, call this below: if __name__ == "__main__", '
    "or with one worker."
)


class Workers(Protocol):
    """Takes work and gives futures; `width` is how much is done at once, `near` whether workers see the
    files of this process.
    """

    width: int
    near: bool

    def submit(self, work: Callable[..., Any], *arguments: Any) -> Future[Any]:
        """Have something done."""
        ...

    def stop(self) -> None:
        """Stop at once; what is being done is lost."""
        ...

    def close(self) -> None:
        """Let go of the workers, when all is done."""
        ...


class Processes:
    """Processes of this machine: what crashes, hangs or grows too large costs its own document only."""

    near = True

    def __init__(self, count: int, limits: WorkerLimits) -> None:
        # What processes are forked from loads its modules while this one goes on.
        context = _context()
        from pebble import ProcessPool

        self.width, self._limits = count, limits
        self._pool: Any = ProcessPool(
            max_workers=count, context=context, initializer=_begin, initargs=[limits.memory]
        )

        self._ready: Future[Any] | None = None

    def submit(self, work: Callable[..., Any], *arguments: Any) -> Future[Any]:
        """Have something done within the limit of time. Raises UsageError where no process can begin."""
        if self._ready is None:
            self._ready = self._pool.schedule(os.getpid)
            try:
                self._ready.result()
            except Exception as error:
                raise UsageError(GUARD) from error
        future: Future[Any] = self._pool.schedule(work, args=arguments, timeout=self._limits.seconds)
        return future

    def stop(self) -> None:
        """Stop the processes."""
        self._pool.stop()
        self._pool.join()

    def close(self) -> None:
        """Let the processes end."""
        self._pool.close()
        self._pool.join()


class ThisProcess:
    """Does each thing at once, in this process: nothing is limited, and a crash is a crash."""

    width, near = 1, True

    def submit(self, work: Callable[..., Any], *arguments: Any) -> Future[Any]:
        """Do something."""
        future: Future[Any] = Future()
        try:
            future.set_result(work(*arguments))
        except Exception as error:
            future.set_exception(error)
        return future

    def stop(self) -> None:
        """Nothing is being done."""

    def close(self) -> None:
        """Nothing is held."""


class Passed:
    """An executor in the manner of `concurrent.futures`, which stays the caller's."""

    def __init__(self, executor: Executor, width: int, near: bool) -> None:
        self._executor, self.width, self.near = executor, width, near
        self._futures: set[Future[Any]] = set()

    def submit(self, work: Callable[..., Any], *arguments: Any) -> Future[Any]:
        """Have something done."""
        future = self._executor.submit(work, *arguments)
        self._futures.add(future)
        future.add_done_callback(self._futures.discard)
        return future

    def stop(self) -> None:
        """Take back what has not begun."""
        for future in list(self._futures):
            future.cancel()

    def close(self) -> None:
        """Nothing is held."""


def chosen_workers(workers: int | Executor, limits: WorkerLimits) -> Workers:
    """Return what works: so many processes, this process for 1, or an executor."""
    if not isinstance(workers, int):
        return Passed(workers, default_workers(), near=True)
    return Processes(workers, limits) if workers > 1 else ThisProcess()


def _context() -> Any:
    from multiprocessing import forkserver

    # A process that has threads must not be forked; a server that has none, and all modules, can be.
    if "forkserver" not in multiprocessing.get_all_start_methods():
        return multiprocessing.get_context("spawn")
    context = multiprocessing.get_context("forkserver")
    context.set_forkserver_preload(["wennak.collection.work", "fontTools.cffLib", "fontTools.ttLib"])
    # Workers share the processors; the threads of each one's linear algebra would only get in their way.
    before = {name: os.environ.get(name) for name in _THREADS}
    os.environ.update(dict.fromkeys(_THREADS, "1"))
    try:
        # What it needs is loaded while this process gets ready.
        with _without_errors():
            forkserver.ensure_running()
    except RuntimeError as error:
        raise UsageError(GUARD) from error
    finally:
        for name, value in before.items():
            os.environ.pop(name) if value is None else os.environ.update({name: value})
    return context


@contextlib.contextmanager
def _without_errors() -> Iterator[None]:
    """Let what begins meanwhile write its errors nowhere.

    A worker that is still beginning when all is done finds its pipe closed, and says so at length below the
    last line of the run. What goes wrong in a worker that has begun comes back as the error of its document.
    """
    try:
        kept = os.dup(2)
    except OSError:
        # There is nowhere to write errors to.
        yield
        return
    nowhere = os.open(os.devnull, os.O_WRONLY)
    try:
        os.dup2(nowhere, 2)
        yield
    finally:
        os.dup2(kept, 2)
        os.close(kept)
        os.close(nowhere)


def _end_with_parent() -> None:
    """End this process where the one that runs it was killed, whatever it is at."""
    parent = multiprocessing.parent_process()
    if parent is not None:
        parent.join()
        os._exit(1)


def _begin(memory: int) -> None:
    """Set up a worker: Ctrl-C is for the process that runs it, and memory has a limit."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    threading.Thread(target=_end_with_parent, daemon=True).start()
    try:
        import resource
    except ImportError:
        return
    _, hard = resource.getrlimit(resource.RLIMIT_DATA)
    wanted = memory << 20
    resource.setrlimit(resource.RLIMIT_DATA, (wanted if hard < 0 else min(wanted, hard), hard))
