"""Asking a service about pictures: several at once, again where it fails, within a budget."""

from __future__ import annotations

import io
import random
import time
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass
from threading import Lock
from typing import TYPE_CHECKING, Any, Generic, TypeVar

from ..errors import UsageError, WennakError
from ..ink import cropped
from ..model import Box
from .answer import BadAnswer
from .question import Question

if TYPE_CHECKING:
    from PIL.Image import Image

# What answers: a picture as PNG, and what is asked of it, give the answer as text.
Service = Callable[[bytes, Question], str]
# Draws a page, numbered from 1, at so many pixels a point; gives the picture and its scale.
Draw = Callable[[int, float], "tuple[Image, float]"]
# What the text of an answer says, and whether something stood around its JSON; raises BadAnswer.
Parse = Callable[[str], "tuple[T, bool]"]
T = TypeVar("T")

# Pictures are on their way for a moment only: they are packed fast, not small (zlib's level).
PACKED = 1


class ServiceError(WennakError):
    """A service cannot be reached, or does not answer; `again` tells that it may later, after so many seconds
    at least.
    """

    def __init__(self, said: str, again: float | None = None) -> None:
        super().__init__(said)
        self.again = again


@dataclass(frozen=True, slots=True)
class Asking:
    """How a service is asked: how many pictures at once, how often about one, seconds for the whole document
    (None for as long as it takes), pixels a point of pictures, the first pause before asking again (s).

    With `crops` each table that the page's ink shows is asked about by itself, with a margin, and not the
    whole page. With `keep_ungrounded` texts that do not stand on the page come out too, marked as such.
    """

    at_once: int = 4
    attempts: int = 3
    budget: float | None = None
    scale: float = 2.0
    pause: float = 0.5
    crops: bool = False
    keep_ungrounded: bool = False

    def __post_init__(self) -> None:
        if self.at_once < 1 or self.attempts < 1 or (self.budget is not None and self.budget < 0):
            raise UsageError(
                "A service is asked about at least one picture at once, once, in no negative time."
            )


@dataclass(slots=True)
class Answer(Generic[T]):
    """What came of asking about a picture: `content`, or why there is none; seconds and attempts that it
    took, and whether there was text around the answer.
    """

    content: T | None = None
    why: str = ""
    seconds: float = 0.0
    attempts: int = 0
    peeled: bool = False


class Asker:
    """Asks a service about pages of a document, or regions of them, side by side.

    What fails spoils nothing else; when the budget is used up, the rest is not asked about, and says so.
    """

    def __init__(self, service: Service, document: str, draw: Draw, asking: Asking = Asking()) -> None:
        self.asking = asking
        self._service, self._document, self._draw = service, document, draw
        self._until = None if asking.budget is None else time.monotonic() + asking.budget
        self._threads = ThreadPoolExecutor(asking.at_once)
        # Pages are drawn one at a time.
        self._drawing = Lock()

    def close(self) -> None:
        """Ask nothing more."""
        self._threads.shutdown(cancel_futures=True)

    def ask(self, page: int, region: Box | None, parse: Parse[T], **question: Any) -> Future[Answer[T]]:
        """Ask about a page, or a region of it (points); `question` are further fields of the Question."""
        asked = Question(self._document, page, region, **question)
        return self._threads.submit(self._answer, asked, parse)

    def _answer(self, question: Question, parse: Parse[T]) -> Answer[T]:
        answer = Answer[T]()
        if self._over():
            answer.why = "the time for asking was over"
            return answer
        begun, wait = time.monotonic(), self.asking.pause
        png = self._picture(question)
        # Pauses differ from page to page, so that not all ask again at the same moment.
        jitter = random.Random(f"{question.document} {question.page} {question.region}")
        while answer.attempts < self.asking.attempts:
            answer.attempts += 1
            again: float | None = 0.0
            try:
                answer.content, answer.peeled = parse(self._service(png, question))
                answer.why = ""
                break
            except BadAnswer as error:
                answer.why = f"the answer cannot be used: {error}"
            except ServiceError as error:
                answer.why, again = str(error), error.again
            except Exception as error:
                answer.why = f"the service failed ({type(error).__name__}: {error})"
            if again is None or answer.attempts == self.asking.attempts:
                break
            pause = max(again, wait * (0.5 + jitter.random()))
            if self._over(pause):
                answer.why += "; the time for asking was over"
                break
            time.sleep(pause)
            wait *= 2
        answer.seconds = time.monotonic() - begun
        return answer

    def _over(self, pause: float = 0.0) -> bool:
        """Whether the time for asking is over, or will be after a pause."""
        return self._until is not None and time.monotonic() + pause > self._until

    def _picture(self, question: Question) -> bytes:
        with self._drawing:
            picture, scale = self._draw(question.page, self.asking.scale)
        if question.region is not None:
            picture = cropped(picture, question.region, scale)
        png = io.BytesIO()
        _plain(picture).save(png, "PNG", compress_level=PACKED)
        return png.getvalue()


def _plain(picture: Image) -> Image:
    """A picture without colours with a palette of greys, which is packed in a sixth of the time."""
    from PIL import ImageChops

    red, green, blue = picture.split()
    if ImageChops.difference(red, green).getbbox() or ImageChops.difference(red, blue).getbbox():
        return picture
    red.putpalette([shade for shade in range(256) for _ in "RGB"])
    return red
