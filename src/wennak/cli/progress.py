"""How far a run has come: a bar in a terminal, lines in a pipe, JSON for machines."""

from __future__ import annotations

import json
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field

import click
from rich.console import Console
from rich.progress import BarColumn, Progress, ProgressColumn
from rich.text import Text

from ..collection import Event, Outcome, Reading
from .voice import QUIET, VERBOSE, tell, voice
from .words import count_of, duration

# Lines in a pipe come so often (s).
EVERY = 10.0


@dataclass(slots=True)
class Count:
    """What has been done so far; `ahead` are pages of documents that are not done yet."""

    total: int | None = None
    documents: int = 0
    unchanged: int = 0
    failed: int = 0
    pages: int = 0
    ahead: dict[str, int] = field(default_factory=dict)
    started: float = field(default_factory=time.monotonic)

    def add(self, event: Event) -> None:
        """Count an event."""
        if isinstance(event, Reading):
            self.ahead[event.name] = self.ahead.get(event.name, 0) + event.pages
            return
        self.ahead.pop(event.name, None)
        self.documents += 1
        self.failed += event.state == "failed"
        self.unchanged += event.state in ("unchanged", "same")
        self.pages += event.pages if event.state == "done" else 0

    @property
    def seconds(self) -> float:
        """Time since the beginning."""
        return time.monotonic() - self.started

    def said(self) -> str:
        """What there is to say in one line."""
        pages = self.pages + sum(self.ahead.values())
        of = f" of {self.total:,}" if self.total is not None else ""
        parts = [
            f"{self.documents:,}{of} documents",
            count_of(pages, "page"),
            f"{pages / max(self.seconds, 1e-3):.1f} pages/s",
        ]
        if self.failed:
            parts.append(f"{self.failed:,} failed")
        worked = self.documents - self.unchanged
        if self.total and worked and self.total > self.documents:
            left = (self.total - self.documents) * self.seconds / worked
            parts.append(f"{duration(left)} left")
        return ", ".join(parts)


@contextmanager
def shown(count: Count, log_json: bool) -> Iterator[Callable[[Event], None]]:
    """Give what is to be called with each event of a run, and show the count meanwhile."""
    console = Console(stderr=True)
    if log_json:
        yield lambda event: _json(count, event)
    elif console.is_terminal and voice() != QUIET:
        with _bar(count, console) as tell:
            yield tell
    else:
        yield _Lines(count).tell


@contextmanager
def _bar(count: Count, console: Console) -> Iterator[Callable[[Event], None]]:
    with Progress(BarColumn(8), _Said(count), console=console, transient=True) as progress:
        bar = progress.add_task("", total=None)

        def tell(event: Event) -> None:
            count.add(event)
            progress.update(bar, total=count.total, completed=count.documents)
            if said := _of_document(event):
                progress.console.print(said, markup=False, highlight=False, soft_wrap=True)

        yield tell


class _Said(ProgressColumn):
    def __init__(self, count: Count) -> None:
        super().__init__()
        self._count = count

    def render(self, task: object) -> Text:
        """Return the line beside the bar."""
        return Text(self._count.said(), no_wrap=True, overflow="ellipsis")


class _Lines:
    def __init__(self, count: Count) -> None:
        self._count, self._last = count, count.started

    def tell(self, event: Event) -> None:
        """Say what there is to say of a document at once, and how far things are now and then."""
        self._count.add(event)
        if said := _of_document(event):
            click.echo(said, err=True)
        if time.monotonic() - self._last > EVERY:
            self._last = time.monotonic()
            tell(f"{self._count.said()}.")


def _of_document(event: Event) -> str:
    """What there is to say of a document: why it failed, and what became of it if that is asked for."""
    if not isinstance(event, Outcome) or event.error or voice() < VERBOSE:
        return event.error if isinstance(event, Outcome) else ""
    counts = f"{count_of(event.pages, 'page')}, {count_of(event.tables, 'table')}, {event.seconds:.1f} s"
    return f"{event.name}: {counts if event.state == 'done' else event.state}"


def _json(count: Count, event: Event) -> None:
    count.add(event)
    if isinstance(event, Reading):
        said: dict[str, object] = {"event": "reading", "document": event.name, "pages": event.pages}
    else:
        said = {
            "event": "document", "document": event.name, "state": event.state, "pages": event.pages,
            "tables": event.tables, "findings": event.findings, "seconds": event.seconds,
        }  # fmt: skip
        said |= {"error": event.error} if event.error else {}
        said |= {"same_as": event.same_as} if event.same_as else {}
    log(**said)


def log(**said: object) -> None:
    """Write one line of JSON to standard error, with the time (UTC)."""
    now = time.strftime("%Y-%m-%dT%H:%M:%SZ", time.gmtime())
    click.echo(json.dumps({"time": now, **said}, ensure_ascii=False), err=True)
