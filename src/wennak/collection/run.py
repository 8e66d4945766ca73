"""A run over a collection: sources in their order -> identity -> workers -> journal, with bounded memory."""

from __future__ import annotations

import itertools
import tempfile
from collections import deque
from collections.abc import Callable, Generator, Iterator
from concurrent.futures import FIRST_COMPLETED, Future, ThreadPoolExecutor, wait
from dataclasses import dataclass, field, replace
from functools import partial
from pathlib import Path, PurePosixPath
from typing import Any

from ..errors import NoRoom, SourceError
from ..intake import FileSource, Limits, Source, content_hash
from .files import FIELDS, FIELDS_FILE, FILES, PART_OF, RECORDS, REVIEW, part_name
from .journal import Entry, Journal, Summary
from .limits import Plan
from .settings import Settings
from .store import PARTS, WORK, Store
from .tasks import NO_ROOM, SLICE, Begun, Outcome, Task, convert_document, failed, join_pieces, read_on
from .together import write_together
from .why import why_lost
from .workers import ThisProcess, Workers

# So many sources are looked at ahead of the work, beside two for each worker.
AHEAD = 4
# So many failed sources are named at the end; the journal holds all.
FAILURES = 100


@dataclass(frozen=True, slots=True)
class Reading:
    """So many more pages of a long document were read."""

    name: str
    pages: int


Event = Outcome | Reading


@dataclass(frozen=True, slots=True)
class Identity:
    """What tells a source: its mark, and where that was not known before the hash of its bytes, which are at
    `path`, if this process has them.
    """

    mark: str
    content: str = ""
    path: Path | None = None
    error: SourceError | None = None
    no_room: bool = False


def identify(source: Source, known: str, folder: Path | None, limits: Limits) -> Identity:
    """Tell a source; `known` is the mark at which it need not be looked at; its bytes are kept in `folder`,
    if there is one.
    """
    try:
        mark = source.mark()
        if known and mark == known:
            return Identity(mark)
        if folder is not None:
            path = source.fetch(folder, limits)
            return Identity(mark, content_hash(path), path)
        with tempfile.TemporaryDirectory(prefix="wennak-") as own:
            return Identity(mark, content_hash(source.fetch(Path(own), limits)))
    except SourceError as error:
        return Identity("", error=error)
    except OSError as error:
        said = f"{source.name} cannot be read ({error.strerror or error}); check the file and your rights."
        return Identity("", error=SourceError(said), no_room=error.errno in NO_ROOM)


@dataclass(slots=True)
class _Waiting:
    """A source that is being told."""

    source: Source
    place: int
    known: Entry | None
    identity: Future[Identity]


@dataclass(slots=True, eq=False)
class _Active:
    """A document that is being converted; `pieces` are its stretches by first page, `out` is how many tasks
    are not done yet.
    """

    origin: str
    task: Task
    path: Path | None
    pieces: dict[int, str] = field(default_factory=dict)
    out: int = 0
    seconds: float = 0.0
    lost: Outcome | None = None


class Run:
    """One run. `events` does it; what it says is in the journal by then."""

    def __init__(
        self,
        sources: Iterator[Source],
        store: Store,
        journal: Journal,
        settings: Settings,
        workers: Workers,
        plan: Plan,
    ) -> None:
        self._sources = zip(itertools.count(1), sources)
        self._store, self._journal, self._workers = store, journal, workers
        self._settings, self._fingerprint, self._plan = settings, settings.fingerprint(), plan
        self._waiting: deque[_Waiting] = deque()
        self._queue: deque[tuple[_Active, Callable[..., Any], tuple[Any, ...]]] = deque()
        self._futures: dict[Future[Any], _Active] = {}
        self._room = 2 * workers.width
        self._threads = ThreadPoolExecutor()
        self._split = not isinstance(workers, ThisProcess)
        # How the run ended: its counts, and the name and error of the first sources that failed.
        self.ended: tuple[Summary, list[tuple[str, str]]] = Summary(), []
        # Name and reason of what went to review.
        self.reviewed: list[tuple[str, str]] = []

    def events(self) -> Generator[Event, None, None]:
        """Convert all sources; yield what becomes of each as it comes, and how far long ones have come.

        Raises NoRoom where a disk is full. Whatever stops it, what is in the journal is done and whole.
        """
        note = "stopped"
        try:
            self._store.begin()
            with tempfile.TemporaryDirectory(prefix="wennak-", ignore_cleanup_errors=True) as folder:
                self._folder = Path(folder)
                while self._look_ahead() or self._futures or self._queue:
                    yield from self._decided()
                    self._submit()
                    # A source that is told, but has to wait for room, is not waited for.
                    told = [w.identity for w in itertools.islice(self._waiting, 1) if not w.identity.done()]
                    if self._futures or told:
                        wait([*self._futures, *told], return_when=FIRST_COMPLETED)
                    for future in [future for future in self._futures if future.done()]:
                        yield from self._answered(future)
                self._finish(Path(folder))
            self.ended = self._journal.summary(), list(itertools.islice(self._journal.failures(), FAILURES))
            self.reviewed = list(itertools.islice(self._journal.found(REVIEW), FAILURES))
            note = "done"
        except OSError as error:
            if error.errno not in NO_ROOM:
                raise
            raise NoRoom(_no_room(self._store.place)) from error
        finally:
            if note != "done":
                self._workers.stop()
            # What is still being fetched is not waited for.
            self._threads.shutdown(wait=False, cancel_futures=True)
            self._store.clear(WORK)
            self._journal.close(note)

    def _look_ahead(self) -> bool:
        """Begin to tell the next sources; returns whether any is being told."""
        while len(self._waiting) < self._room + AHEAD:
            place, source = next(self._sources, (0, None))
            if source is None:
                break
            known = self._journal.entry(source.origin)
            known = known if known and self._holds(known) else None
            mark, limits = known.mark if known else "", self._plan.limits
            far = not self._workers.near and _travels(source)
            told: Future[Identity] = (
                self._workers.submit(identify, source, mark, None, limits)
                if far
                else self._threads.submit(identify, source, mark, self._folder, limits)
            )
            self._waiting.append(_Waiting(source, place, known, told))
        return bool(self._waiting)

    def _holds(self, entry: Entry) -> bool:
        """Whether what the journal says of a source holds, if that has not changed."""
        if entry.settings != self._fingerprint:
            return False
        if entry.state == "failed":
            locked = entry.error_kind == "LockedPdf" and self._settings.password
            return not (self._plan.retry or locked)
        outputs = self._journal.outputs(entry.origin)
        return entry.state == "done" and all(self._store.size(o.name) == o.size for o in outputs)

    def _decided(self) -> Iterator[Outcome]:
        """Settle what to do with the sources that are told, in their order, while there is room for work."""
        while self._waiting and self._waiting[0].identity.done() and len(self._queue) < self._room:
            yield from self._decide(self._waiting.popleft())

    def _decide(self, one: _Waiting) -> Iterator[Outcome]:
        source, identity, known = one.source, one.identity.result(), one.known
        if self._journal.seen(source.origin):
            # It was named twice.
            self._release(identity.path)
            return
        if identity.no_room:
            raise NoRoom(_no_room(tempfile.gettempdir()))
        name = source.name
        stem = PurePosixPath(name).with_suffix("").as_posix()
        begin = partial(self._journal.begin, source.origin, name, stem, identity.mark)
        if identity.error is not None:
            begin(identity.content, self._fingerprint, one.place)
            yield self._noted(source.origin, failed(name, str(identity.error), type(identity.error).__name__))
            return
        content = identity.content or (known.content if known else "")
        twin = self._journal.twin(content, source.origin)
        owner = self._journal.owner(stem, source.origin)
        if twin is None and owner is None:
            if known is None or (identity.content and known.content != identity.content):
                like = self._journal.like(content, stem, self._fingerprint)
                known = like if like and self._holds(like) else None
            if known is not None:
                self._release(identity.path)
                self._journal.keep(known, source.origin, name, identity.mark, one.place)
                yield (
                    failed(name, known.error, known.error_kind)
                    if known.state == "failed"
                    else Outcome(name, "unchanged", known.pages, known.tables)
                )
                return
        begin(content, self._fingerprint, one.place)
        if twin is not None:
            self._release(identity.path)
            yield self._noted(source.origin, Outcome(name, "same", same_as=twin.name))
        elif owner is not None:
            self._release(identity.path)
            said = (
                f"{name} ({source.origin}) would be written over what {owner.origin} gives; convert them to "
                "different folders."
            )
            yield self._noted(source.origin, failed(name, said, "SameName"))
        else:
            task = Task(name, self._content(source, identity), content, stem, self._settings, self._store)
            self._add(_Active(source.origin, task, identity.path), convert_document, self._split)

    def _content(self, source: Source, identity: Identity) -> Path | bytes | Source:
        """What a worker is given of a source."""
        if self._workers.near:
            assert identity.path is not None
            return identity.path
        if isinstance(source, FileSource):
            return source.path.absolute()
        if _travels(source):
            return source
        assert identity.path is not None
        return identity.path.read_bytes()

    def _release(self, path: Path | None) -> None:
        """Delete the bytes of a source that were fetched for this run."""
        if path is not None and path.parent == self._folder:
            path.unlink(missing_ok=True)

    def _noted(self, origin: str, outcome: Outcome) -> Outcome:
        self._journal.finish(origin, outcome)
        return outcome

    def _add(self, active: _Active, work: Callable[..., Any], *arguments: Any) -> None:
        active.out += 1
        self._queue.append((active, work, (active.task, *arguments)))

    def _submit(self) -> None:
        """Give workers what they have room for: what goes on with a document before new ones."""
        while self._queue and len(self._futures) < self._room:
            begun = next((k for k, (active, *_) in enumerate(self._queue) if active.pieces), 0)
            active, work, arguments = self._queue[begun]
            del self._queue[begun]
            self._futures[self._workers.submit(work, *arguments)] = active

    def _answered(self, future: Future[Any]) -> Iterator[Event]:
        active = self._futures.pop(future)
        active.out -= 1
        name = active.task.name
        try:
            answer = future.result()
        except Exception as error:
            said = f"{name} {why_lost(error, self._plan.worker_limits)}"
            answer = failed(name, said, "StoppedSource")
        if isinstance(answer, Outcome) and answer.no_room:
            raise NoRoom(_no_room(self._store.place))
        active.seconds += answer.seconds
        if isinstance(answer, Begun):
            yield Reading(name, answer.pages)
            if active.lost is None:
                self._go_on(active, answer)
        elif answer.state == "failed":
            # What others still do for it is of no use.
            active.lost = active.lost or answer
            dropped = [entry for entry in self._queue if entry[0] is active]
            active.out -= len(dropped)
            self._queue = deque(entry for entry in self._queue if entry[0] is not active)
        if active.out:
            return
        if active.lost is not None:
            for piece in active.pieces.values():
                self._store.delete(piece)
        if active.lost is not None or isinstance(answer, Outcome):
            self._release(active.path)
            outcome = replace(active.lost or answer, seconds=round(active.seconds, 3))
            yield self._noted(active.origin, outcome)
        else:
            pieces = tuple(active.pieces[first] for first in sorted(active.pieces))
            self._add(active, join_pieces, pieces)

    def _go_on(self, active: _Active, answer: Begun) -> None:
        """Share out what is left of a document: in parts where it was just begun."""
        begun = bool(active.pieces)
        active.pieces[answer.first] = answer.piece
        pace = max(1, round(answer.pages / max(answer.seconds, 1e-3) * SLICE))
        step = len(answer.left) if begun else pace
        for start in range(0, len(answer.left), max(step, 1)):
            self._add(active, read_on, answer.left[start : start + step])

    def _finish(self, folder: Path) -> None:
        """Write what is for the whole collection."""
        for name in self._settings.together:
            path = folder / FILES[name]
            write_together(name, self._parts(PART_OF[name]), path)
            self._store.put(FILES[name], path)
        if self._settings.fields:
            write_together(FIELDS, self._parts(FIELDS), folder / FIELDS_FILE)
            self._store.put(FIELDS_FILE, folder / FIELDS_FILE)
        recipes = self._settings.recipes
        if recipes is not None:
            from .data import write_data, write_into

            parts = partial(self._parts, RECORDS)
            for name in write_data(recipes, parts, folder):
                self._store.put(name, folder / name)
            write_into(recipes, parts)
        if self._plan.prune:
            self._journal.prune(self._store)

    def _parts(self, kind: str) -> Iterator[bytes]:
        """What each document gives to what is for the whole collection, in the order of the sources."""
        for content in self._journal.contents():
            yield self._store.read(f"{PARTS}/{part_name(kind, content)}")


def _travels(source: Source) -> bool:
    """Whether workers on other machines can fetch a source themselves: one with an address."""
    return "://" in source.origin and "!" not in source.origin


def _no_room(place: str) -> str:
    return f"There is no room left in {place}; make some, and run the same command to go on where it stopped."
