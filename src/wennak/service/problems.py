"""Errors as problem details (RFC 9457), in the sentences of the command line."""

from __future__ import annotations

from starlette.responses import JSONResponse

# By the name of an error: the status of the answer, and a title that does not change.
STATUS = {
    "UsageError": (400, "The request makes no sense"),
    "UnknownPlace": (404, "There is nothing here"),
    "WrongWay": (405, "The method is not allowed here"),
    "NotAcceptable": (406, "Nothing acceptable can be given"),
    "SlowSender": (408, "The document took too long to come"),
    "TooLarge": (413, "The document is too large"),
    "TooManyPages": (413, "The document has too many pages"),
    "NotPdf": (415, "This is no PDF and no picture"),
    "LockedPdf": (422, "The document is locked"),
    "MissingPage": (422, "There is no such page"),
    "DamagedPdf": (422, "The document is damaged"),
    "RefusedSource": (422, "The document cannot be read"),
    "StoppedSource": (422, "Reading took too much"),
    "MemoryError": (422, "Reading took too much"),
    "Busy": (503, "The service is busy"),
}
OTHER = (500, "Something went wrong here")


def status_of(kind: str) -> tuple[int, str]:
    """Return status and title of an error, by its name."""
    return STATUS.get(kind, OTHER)


def problem(kind: str, said: str, headers: dict[str, str] | None = None) -> JSONResponse:
    """Return an error as an answer; `kind` stays the same from version to version, `said` is for people."""
    status, title = status_of(kind)
    body = {"title": title, "status": status, "detail": said, "kind": kind}
    return JSONResponse(body, status, headers, media_type="application/problem+json")
