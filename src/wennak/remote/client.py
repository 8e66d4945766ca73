"""A service over HTTP: one POST with the picture and the schema, one answer (docs/vision.md)."""

from __future__ import annotations

import base64
import functools
import os
from collections.abc import Callable

import httpx

from ..errors import UsageError
from .ask import ServiceError
from .question import Question

# A key, where a service needs one, is in the environment, and goes nowhere else.
KEY = "WENNAK_SERVICE_KEY"
# An answer takes no longer than this (s).
SECONDS = 120.0


@functools.cache
def http_service(address: str) -> HttpService:
    """Return the service at an address; one for all documents, so that connections are kept."""
    return HttpService(address)


class HttpService:
    """A callable that asks the service at an address. Raises UsageError for what is none."""

    def __init__(self, address: str, seconds: float = SECONDS) -> None:
        if not address.startswith(("http://", "https://")):
            raise UsageError(f"{address!r} is no address of a service; write it like http://127.0.0.1:8330.")
        key = os.environ.get(KEY)
        headers = {"Authorization": f"Bearer {key}"} if key else {}
        self._address = address.rstrip("/")
        self._client = httpx.Client(timeout=seconds, headers=headers)

    def __reduce__(self) -> tuple[Callable[[str], HttpService], tuple[str]]:
        """Travel to other processes as an address."""
        return http_service, (self._address,)

    @property
    def simulated(self) -> bool:
        """Whether it says that no model answers."""
        try:
            told = self._client.get(f"{self._address}/health").json()
        except (httpx.HTTPError, ValueError):
            return False
        return isinstance(told, dict) and told.get("simulated") is True

    def __call__(self, png: bytes, question: Question) -> str:
        """Return the text of the answer. Raises ServiceError where there is none."""
        b = question.region
        region = None if b is None else [b.x0, b.y0, b.x1, b.y1]
        asked = {
            "document": question.document, "page": question.page, "region": region, "task": question.task,
            "schema": question.schema, "picture": base64.b64encode(png).decode("ascii"),
        }  # fmt: skip
        try:
            answer = self._client.post(f"{self._address}/answer", json=asked)
        except httpx.TimeoutException as error:
            raise ServiceError("the service took too long to answer", 0.0) from error
        except httpx.TransportError as error:
            raise ServiceError(f"the service cannot be reached ({error})", 0.0) from error
        if answer.status_code in (408, 429, 500, 502, 503, 504):
            after = answer.headers.get("retry-after", "")
            seconds = float(after) if after.isdigit() else 0.0
            raise ServiceError(f"the service answered {answer.status_code}", seconds)
        if answer.status_code != 200:
            raise ServiceError(f"the service answered {answer.status_code}: {answer.text[:120]!r}")
        try:
            said = answer.json()["answer"]
        except (ValueError, KeyError, TypeError) as error:
            raise ServiceError("the service answered something else than its protocol says", 0.0) from error
        if not isinstance(said, str):
            raise ServiceError("the service answered something else than its protocol says", 0.0)
        return said
