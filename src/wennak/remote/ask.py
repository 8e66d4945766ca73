"""Asking a service about pages: several at once, again where it fails, within a budget."""

from __future__ import annotations

import io
import random
import time
from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field
from pathlib import Path
from threading import Lock

from ..errors import UsageError, WennakError
from ..ink import page_pictures
from .answer import BadAnswer, TextTable, tables_of
from .question import Question

# What answers: the picture of a page as PNG, and what is asked of it, give the answer as text.
Service = Callable[[bytes, Question], str]


class ServiceError(WennakError):
    """A service cannot be reached, or does not answer; `again` tells that it may later, after so many seconds
    at least.
    """

    def __init__(self, said: str, again: float | None = None) -> None:
        super().__init__(said)
        self.again = again


@dataclass(frozen=True, slots=True)
class Asking:
    """How a service is asked: how many pages at once, how often a page, seconds for the whole document (None
    for as long as it takes), pixels a point of pictures, the first pause before asking again (s).
    """

    at_once: int = 4
    attempts: int = 3
    budget: float | None = None
    scale: float = 2.0
    pause: float = 0.5

    def __post_init__(self) -> None:
        if self.at_once < 1 or self.attempts < 1 or (self.budget is not None and self.budget <= 0):
            raise UsageError("A service is asked for at least one page at once, once, for more than no time.")


@dataclass(slots=True)
class Page:
    """What came of asking about a page: its tables, or why there are none; seconds and attempts that it took,
    and whether there was text around the answer.
    """

    number: int
    tables: list[TextTable] = field(default_factory=list)
    why: str = ""
    seconds: float = 0.0
    attempts: int = 0
    peeled: bool = False


def ask_pages(
    service: Service,
    source: Path | bytes,
    numbers: Sequence[int],
    name: str,
    password: str = "",
    asking: Asking = Asking(),
) -> dict[int, Page]:
    """Ask a service about pages, numbered from 1, and return what came of each.

    A page that fails spoils no other one; when the budget is used up, the rest is not asked, and says so.
    """
    until = None if asking.budget is None else time.monotonic() + asking.budget
    # Pages are drawn one at a time, and no more of them wait than can be asked.
    pictures, lock = iter(page_pictures(source, numbers, name, password, asking.scale)), Lock()

    def one(number: int) -> Page:
        if until is not None and time.monotonic() > until:
            return Page(number, why="the time for asking was over")
        with lock:
            drawn, picture, _ = next(pictures)
        png = io.BytesIO()
        picture.save(png, "PNG")
        return _asked(service, png.getvalue(), Question(name, drawn), asking, until)

    with ThreadPoolExecutor(min(asking.at_once, max(len(numbers), 1))) as threads:
        pages = list(threads.map(one, numbers))
    return {page.number: page for page in pages}


def _asked(service: Service, png: bytes, question: Question, asking: Asking, until: float | None) -> Page:
    """Ask about one page, again where that may help."""
    page = Page(question.page)
    begun = time.monotonic()
    wait = asking.pause
    # Pauses differ from page to page, so that not all ask again at the same moment; always alike for a page.
    jitter = random.Random(f"{question.document} {question.page}")
    while page.attempts < asking.attempts:
        page.attempts += 1
        again: float | None = 0.0
        try:
            page.tables, page.peeled = tables_of(service(png, question))
            page.why = ""
            break
        except BadAnswer as error:
            page.why = f"the answer cannot be used: {error}"
        except ServiceError as error:
            page.why, again = str(error), error.again
        except Exception as error:
            page.why = f"the service failed ({type(error).__name__}: {error})"
        if again is None or page.attempts == asking.attempts:
            break
        pause = max(again, wait * (0.5 + jitter.random()))
        if until is not None and time.monotonic() + pause > until:
            page.why += "; the time for asking was over"
            break
        time.sleep(pause)
        wait *= 2
    page.seconds = round(time.monotonic() - begun, 3)
    return page
