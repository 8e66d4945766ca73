"""What is handed to a worker, and what comes back: a document to convert, or stretches of a long one.

Nothing here raises: what went wrong is in the answer. `work` says how it is done; who only hands tasks out
needs none of it.
"""

from __future__ import annotations

import errno
import tempfile
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Literal

from ..intake import Source
from ..model import Finding
from .settings import Settings
from .store import Store
from .why import why_failed

# A worker that reads on hands back what it has read in so long (s).
SLICE = 8.0
NO_ROOM = frozenset({errno.ENOSPC, errno.EDQUOT})


@dataclass(frozen=True, slots=True)
class Output:
    """A file that was written: its name in the store, its size in bytes and its SHA-256."""

    name: str
    size: int
    hash: str


@dataclass(frozen=True, slots=True)
class Task:
    """A document to convert. `content` are its bytes, or where they are; `hash` is their identity; outputs go
    to `store`, named after `stem`.
    """

    name: str
    content: Path | bytes | Source
    hash: str
    stem: str
    settings: Settings
    store: Store


State = Literal["done", "failed", "same", "unchanged"]


@dataclass(frozen=True, slots=True)
class Outcome:
    """What became of one document: counts, or the sentence that says why it failed.

    `state` is "done", "failed", "same" where another document has the same content (`same_as`), and
    "unchanged" where an earlier run has converted it. `kinds` counts its pages by where their text comes
    from. `seconds` is how long workers were at it. `no_room` tells that a disk is full.
    """

    name: str
    state: State = "done"
    pages: int = 0
    tables: int = 0
    error: str = ""
    error_kind: str = ""
    outputs: tuple[Output, ...] = ()
    notes: tuple[Finding, ...] = ()
    kinds: tuple[tuple[str, int], ...] = ()
    seconds: float = 0.0
    same_as: str = ""
    no_room: bool = False

    @property
    def findings(self) -> int:
        """How many things there are that a person should look at."""
        return len(self.notes)


@dataclass(frozen=True, slots=True)
class Begun:
    """Pages of a document that were read, kept in the store as `piece`; those that are `left` to be read."""

    piece: str
    first: int
    pages: int
    left: tuple[int, ...]
    seconds: float


def convert_document(task: Task, split: bool) -> Outcome | Begun:
    """Convert a document; with `split`, hand one back that takes long."""
    from .work import converted

    return _answered(task, lambda source: converted(task, source, split))


def read_on(task: Task, numbers: tuple[int, ...]) -> Outcome | Begun:
    """Read pages of a document that others have begun."""
    from .work import read_piece

    return _answered(task, lambda source: read_piece(task, source, numbers))


def join_pieces(task: Task, pieces: tuple[str, ...]) -> Outcome | Begun:
    """Join what was read of a document, and write its outputs."""
    from .work import joined

    return _answered(task, lambda source: joined(task, source, pieces))


def _answered(task: Task, work: Callable[[Path | bytes], Outcome | Begun]) -> Outcome | Begun:
    name = task.name
    try:
        if isinstance(task.content, (Path, bytes)):
            return work(task.content)
        with tempfile.TemporaryDirectory(prefix="wennak-") as folder:
            return work(task.content.fetch(Path(folder)))
    except Exception as error:
        full = isinstance(error, OSError) and error.errno in NO_ROOM
        return failed(name, why_failed(name, error), type(error).__name__, full)


def failed(name: str, said: str, kind: str, no_room: bool = False) -> Outcome:
    """Return the outcome of a document that failed."""
    return Outcome(name, "failed", error=said, error_kind=kind, no_room=no_room)
