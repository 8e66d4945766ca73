"""Taking in what is sent: in time, no larger than allowed, into a file that goes with the request."""

from __future__ import annotations

import asyncio
import time
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path

from starlette.datastructures import UploadFile
from starlette.formparsers import MultiPartException
from starlette.requests import ClientDisconnect, Request
from starlette.types import Message, Receive

from .limits import ServiceLimits

# A body of any type is a document, whose bytes say what it is; but for a form, which holds one.
RAW = ("application/pdf", "image/png", "image/jpeg", "image/tiff")
FORM = "multipart/form-data"
# What a form has beside its file is small.
_FIELDS, _FIELD_SIZE = 20, 10_000
_BLOCK = 1 << 20
# What is not taken is read on for so many seconds: many send all before they look at the answer, and would
# lose it if the connection were closed meanwhile.
_READ_ON = 3.0


class Refused(Exception):
    """What is sent is not taken; `kind` says why, by the names of problems."""

    def __init__(self, kind: str, said: str) -> None:
        super().__init__(said)
        self.kind = kind


@dataclass(frozen=True, slots=True)
class Received:
    """What was sent: how large it is, the name of the file, and the other fields of a form."""

    size: int
    name: str
    fields: dict[str, str]


async def receive(request: Request, path: Path, limits: ServiceLimits) -> Received:
    """Write what a request sends to a file: its body, or the file of a form.

    Raises Refused where it is too large, too slow, or a broken form.
    """
    kind = request.headers.get("content-type", "").split(";")[0].strip().lower()
    limited = _Limited(request, limits)
    request = Request(request.scope, limited.receive)
    try:
        if kind == FORM:
            return await _form(request, path)
        size = 0
        with path.open("wb") as file:
            async for chunk in request.stream():
                size += len(chunk)
                file.write(chunk)
        if not size:
            raise Refused("UsageError", "Nothing was sent; send a PDF or a picture as the body.")
        return Received(size, "", {})
    except MultiPartException as error:
        raise Refused(
            "UsageError", f"The form cannot be read ({error.message}); send it once more."
        ) from error
    except ClientDisconnect as error:
        raise Refused("UsageError", "The document did not come to its end.") from error


async def read_on(receive: Receive) -> None:
    """Read what is still sent, for a while, and throw it away."""

    async def to_the_end() -> None:
        while (await receive()).get("more_body", False):
            pass

    with suppress(TimeoutError):
        await asyncio.wait_for(to_the_end(), _READ_ON)


async def _form(request: Request, path: Path) -> Received:
    async with request.form(max_files=1, max_fields=_FIELDS, max_part_size=_FIELD_SIZE) as form:
        files = [value for value in form.values() if isinstance(value, UploadFile)]
        if len(files) != 1 or not files[0].size:
            raise Refused("UsageError", "No file was sent; choose one.")
        with path.open("wb") as out:
            while block := await files[0].read(_BLOCK):
                out.write(block)
        fields = {name: value for name, value in form.items() if isinstance(value, str)}
        return Received(files[0].size, files[0].filename or "", fields)


class _Limited:
    """Hands on what comes, up to limits of size and time."""

    def __init__(self, request: Request, limits: ServiceLimits) -> None:
        self._receive, self._limits = request.receive, limits
        self._left = limits.size
        self._until = time.monotonic() + limits.upload
        length = request.headers.get("content-length", "")
        # What says that it is too large need not come.
        self._announced = int(length) if length.isdigit() and len(length) < 19 else 0

    async def receive(self) -> Message:
        """Return the next piece of what is sent. Raises Refused."""
        limits = self._limits
        if self._announced > limits.size:
            raise self._too_large()
        left = min(limits.idle, self._until - time.monotonic())
        try:
            message = await asyncio.wait_for(self._receive(), max(left, 0.0))
        except TimeoutError as error:
            raise Refused("SlowSender", "The document came too slowly; send it once more.") from error
        self._left -= len(message.get("body", b""))
        if self._left < 0:
            raise self._too_large()
        return message

    def _too_large(self) -> Refused:
        return Refused(
            "TooLarge", f"The document is larger than {self._limits.size >> 20} MiB, the most that is read."
        )
