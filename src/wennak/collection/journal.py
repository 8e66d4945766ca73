"""The journal of a run: one SQLite file that says what became of each source, so that a run can go on."""

from __future__ import annotations

import json
import sqlite3
import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

from ..errors import NoRoom, UsageError
from .store import Store
from .tasks import Outcome, Output

JOURNAL = "wennak-journal.sqlite"
FORMAT = 1
_TABLES = """
create table runs (
    id integer primary key, started real, ended real, settings text, documents integer, note text
);
create table documents (
    origin text primary key, name text, stem text, mark text, content text, settings text, state text,
    same_as text, attempts integer default 0, seconds real default 0, pages integer default 0,
    tables integer default 0, kinds text default '{}', error text default '', error_kind text default '',
    run integer, place integer
);
create index by_stem on documents (stem);
create index by_content on documents (content);
create index by_place on documents (run, place);
create table findings (origin text, code text, page integer, message text);
create index findings_by_origin on findings (origin);
create table outputs (name text primary key, origin text, size integer, hash text);
create index outputs_by_origin on outputs (origin);
"""


@dataclass(frozen=True, slots=True)
class Entry:
    """What the journal says of a source."""

    origin: str
    name: str
    stem: str
    mark: str
    content: str
    settings: str
    state: str
    error: str
    error_kind: str
    pages: int
    tables: int


class Journal:
    """Every source with its identity, state, timings, findings and outputs. Only one process writes it, and
    only in one thread. Raises UsageError where another run holds it, or the file is no journal.
    """

    def __init__(self, path: Path, settings: str, fresh: bool = False) -> None:
        self.path = path
        path.parent.mkdir(parents=True, exist_ok=True)
        self._lock = _locked(path)
        try:
            self._db = sqlite3.connect(path, isolation_level=None)
            self._db.execute("pragma journal_mode = wal")
            # What a power cut takes back is done again; the file stays sound.
            self._db.execute("pragma synchronous = normal")
            found = int(self._db.execute("pragma user_version").fetchone()[0])
            if not found:
                with self._whole():
                    for statement in _TABLES.split(";"):
                        self._db.execute(statement)
                    self._db.execute(f"pragma user_version = {FORMAT}")
            elif found != FORMAT:
                raise UsageError(
                    f"{path} is of another version of Wennak; name another folder, or delete it."
                )
        except sqlite3.DatabaseError as error:
            self._lock.close()
            if _is_full(error):
                raise NoRoom(f"There is no room for {path}; make some, and run the same command.") from error
            raise UsageError(
                f"{path} is no journal of a run ({error}); move it away, or delete it."
            ) from error
        with self._whole():
            if fresh:
                for table in ("documents", "findings", "outputs"):
                    self._db.execute(f"delete from {table}")
            self._db.execute("insert into runs (started, settings) values (?, ?)", (time.time(), settings))
            self.run = int(self._db.execute("select max(id) from runs").fetchone()[0])

    @contextmanager
    def _whole(self) -> Iterator[None]:
        """All changes or none. Raises NoRoom where the disk is full."""
        try:
            self._db.execute("begin immediate")
            yield
            self._db.execute("commit")
        except sqlite3.OperationalError as error:
            if self._db.in_transaction:
                self._db.execute("rollback")
            if _is_full(error):
                raise NoRoom(
                    f"There is no room left for {self.path}; make some, and run the same command to go on."
                ) from error
            raise

    def entry(self, origin: str) -> Entry | None:
        """Return what is known of a source."""
        return self._entry("where origin = ?", plain(origin))

    def seen(self, origin: str) -> bool:
        """Return whether a source was met in this run before."""
        return self._entry("where origin = ? and +run = ?", plain(origin), self.run) is not None

    def like(self, content: str, stem: str, settings: str) -> Entry | None:
        """Return a document that was converted with these settings from this content under this name."""
        where = "indexed by by_content where content = ? and stem = ? and settings = ? and state = 'done'"
        return self._entry(f"{where} order by run desc", content, plain(stem), settings)

    def twin(self, content: str, origin: str) -> Entry | None:
        """Return another source of this run with the same content, which is or will be converted."""
        where = "indexed by by_content where content = ? and run = ? and state != 'same' and origin != ?"
        return self._entry(where, content, self.run, plain(origin))

    def owner(self, stem: str, origin: str) -> Entry | None:
        """Return another source of this run whose outputs have this name."""
        where = "indexed by by_stem where stem = ? and run = ? and state != 'same' and origin != ?"
        return self._entry(where, plain(stem), self.run, plain(origin))

    def _entry(self, where: str, *values: object) -> Entry | None:
        names = ", ".join(Entry.__dataclass_fields__)
        row = self._db.execute(f"select {names} from documents {where} limit 1", values).fetchone()
        return Entry(*row) if row else None

    def outputs(self, origin: str) -> list[Output]:
        """Return the outputs of a source."""
        rows = self._db.execute("select name, size, hash from outputs where origin = ?", (plain(origin),))
        return [Output(*row) for row in rows]

    def begin(
        self, origin: str, name: str, stem: str, mark: str, content: str, settings: str, place: int
    ) -> None:
        """Note that a source is being converted."""
        with self._whole():
            self._db.execute(
                "insert into documents"
                " (origin, name, stem, mark, content, settings, state, run, place, attempts)"
                " values (?, ?, ?, ?, ?, ?, 'running', ?, ?, 1) on conflict (origin) do update set"
                " name = excluded.name, stem = excluded.stem, mark = excluded.mark,"
                " content = excluded.content, settings = excluded.settings, state = 'running',"
                " same_as = null, run = excluded.run, place = excluded.place, attempts = attempts + 1",
                (*map(plain, (origin, name, stem, mark)), content, settings, self.run, place),
            )

    def finish(self, origin: str, outcome: Outcome) -> None:
        """Note what became of a source."""
        with self._whole():
            self._db.execute(
                "update documents set state = ?, same_as = ?, seconds = ?, pages = ?, tables = ?, kinds = ?,"
                " error = ?, error_kind = ? where origin = ?",
                (
                    outcome.state, plain(outcome.same_as) or None, outcome.seconds, outcome.pages,
                    outcome.tables, json.dumps(dict(outcome.kinds)), plain(outcome.error),
                    outcome.error_kind, plain(origin),
                ),
            )  # fmt: skip
            self._db.execute("delete from findings where origin = ?", (plain(origin),))
            self._db.executemany(
                "insert into findings values (?, ?, ?, ?)",
                [(plain(origin), note.code, note.page, plain(note.message)) for note in outcome.notes],
            )
            if outcome.state == "done":
                # What earlier settings left and these did not write anew belongs to no source any more.
                self._db.execute("update outputs set origin = '' where origin = ?", (plain(origin),))
                self._db.executemany(
                    "insert or replace into outputs values (?, ?, ?, ?)",
                    [(plain(o.name), plain(origin), o.size, o.hash) for o in outcome.outputs],
                )

    def keep(self, entry: Entry, origin: str, name: str, mark: str, place: int) -> None:
        """Note that an entry holds for a source in this run too; it may have lain elsewhere before."""
        with self._whole():
            if entry.origin != plain(origin):
                self._db.execute("delete from documents where origin = ?", (plain(origin),))
                for table in ("documents", "findings", "outputs"):
                    self._db.execute(
                        f"update {table} set origin = ? where origin = ?", (plain(origin), entry.origin)
                    )
            self._db.execute(
                "update documents set run = ?, place = ?, mark = ?, name = ? where origin = ?",
                (self.run, place, plain(mark), plain(name), plain(origin)),
            )

    def contents(self) -> Iterator[str]:
        """Yield the content of each document of this run that was converted, in the order of the sources."""
        # A connection of its own: others may be read while this one is.
        rows = self._db.cursor().execute(
            "select content from documents where run = ? and state = 'done' order by place", (self.run,)
        )
        return (content for (content,) in rows)

    def summary(self) -> Summary:
        """Return the counts of this run."""
        one = self._db.execute(
            "select count(*), coalesce(sum(state = 'done'), 0), coalesce(sum(state = 'same'), 0),"
            " coalesce(sum(state = 'failed'), 0), coalesce(sum(iif(state = 'done', pages, 0)), 0),"
            " coalesce(sum(iif(state = 'done', tables, 0)), 0) from documents where run = ?",
            (self.run,),
        ).fetchone()
        found = self._db.execute(
            "select code, count(*), count(distinct origin) from findings join documents using (origin)"
            " where run = ? and state = 'done' group by code order by count(*) desc, code",
            (self.run,),
        ).fetchall()
        documents, done, same, lost, pages, tables = one
        findings = tuple((code, n, of) for code, n, of in found)
        return Summary(documents, done, same, lost, pages, tables, findings)

    def failures(self) -> Iterator[tuple[str, str]]:
        """Yield name and error of the sources of this run that failed, in their order."""
        yield from self._db.execute(
            "select name, error from documents where run = ? and state = 'failed' order by place", (self.run,)
        )

    def found(self, code: str) -> Iterator[tuple[str, str]]:
        """Yield name and message of the findings of a kind in this run, in the order of the sources."""
        yield from self._db.execute(
            "select name, message from findings join documents using (origin)"
            " where run = ? and state = 'done' and code = ? order by place, findings.rowid",
            (self.run, code),
        )

    def prune(self, store: Store) -> int:
        """Delete the outputs of sources that were not in this run, and of those that failed; returns how many
        files.
        """
        where = "origin not in (select origin from documents where run = ? and state = 'done')"
        names = [n for (n,) in self._db.execute(f"select name from outputs where {where}", (self.run,))]
        for name in names:
            store.delete(name)
        with self._whole():
            self._db.execute(f"delete from outputs where {where}", (self.run,))
            self._db.execute(
                "delete from findings where origin in (select origin from documents where run != ?)",
                (self.run,),
            )
            self._db.execute("delete from documents where run != ?", (self.run,))
        return len(names)

    def close(self, note: str) -> None:
        """Note how the run ended, and let go of the file."""
        try:
            with self._whole():
                self._db.execute(
                    "update runs set ended = ?, note = ?,"
                    " documents = (select count(*) from documents where run = ?) where id = ?",
                    (time.time(), note, self.run, self.run),
                )
        except NoRoom:
            pass
        finally:
            self._db.close()
            self._lock.close()
            _lock_path(self.path).unlink(missing_ok=True)


@dataclass(frozen=True, slots=True)
class Summary:
    """Counts of a run: sources, converted ones, those with the content of another, failed ones, pages and
    tables of the converted ones, and for each kind of finding how many there are, in how many documents.
    """

    documents: int = 0
    done: int = 0
    same: int = 0
    failed: int = 0
    pages: int = 0
    tables: int = 0
    findings: tuple[tuple[str, int, int], ...] = ()


def plain(text: str) -> str:
    """Return a text as the journal holds it: names of files need not be valid Unicode."""
    return text.encode("utf-8", "surrogateescape").decode("utf-8", "backslashreplace")


def _is_full(error: sqlite3.Error) -> bool:
    """Return whether a disk is full: where SQLite maps a file, all it learns is that it failed."""
    return "full" in str(error) or "disk I/O" in str(error)


def _lock_path(path: Path) -> Path:
    return path.with_name(f".{path.name}.lock")


def _locked(path: Path) -> sqlite3.Connection:
    """Hold the journal alone; the system lets go of it when this process ends, however it ends."""
    lock = sqlite3.connect(_lock_path(path), isolation_level=None, timeout=0)
    try:
        lock.execute("pragma journal_mode = memory")
        lock.execute("begin exclusive")
    except sqlite3.OperationalError as error:
        lock.close()
        if "locked" in str(error):
            raise UsageError(
                f"Another run is writing to {path.parent}; wait for it to end, or name another folder."
            ) from error
        raise
    return lock
