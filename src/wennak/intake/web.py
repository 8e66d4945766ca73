"""Sources on the web: http and https only, within limits of size, redirects and time."""

from __future__ import annotations

import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

import httpx

from ..errors import RefusedSource, UnreachableSource
from .names import WEB, url_name
from .source import LIMITS, Limits, copied

# A server may send on so often, is asked so often, and waited for so long between (s, doubled each time);
# a connection that says nothing for so long (s) is given up.
REDIRECTS, TRIES, PAUSE, SILENCE = 8, 4, 0.25, 30.0
# What a server says when it may answer later.
LATER = frozenset({408, 425, 429, 500, 502, 503, 504})


@dataclass(frozen=True, slots=True)
class WebSource:
    """What lies at a URL."""

    url: str

    @property
    def name(self) -> str:
        """Its host and path."""
        return url_name(self.url)

    @property
    def origin(self) -> str:
        """The URL."""
        return self.url

    def mark(self) -> str:
        """Return what the server says of its version, if it does."""
        with _answer(self.url, LIMITS, "HEAD") as answer:
            if not answer.is_success:
                return ""
            tag = answer.headers.get("etag") or answer.headers.get("last-modified", "")
            return f"{tag} {answer.headers.get('content-length', '')}" if tag else ""

    def fetch(self, folder: Path, limits: Limits = LIMITS) -> Path:
        """Fetch it into a file in `folder`."""
        end = time.monotonic() + limits.seconds
        for last in (*[False] * (TRIES - 1), True):
            try:
                return self._fetched(folder, limits, end)
            except httpx.TransportError as error:
                if last or time.monotonic() > end:
                    raise UnreachableSource(
                        f"{self.url} broke off while it was fetched ({error})."
                    ) from error
        raise AssertionError

    def _fetched(self, folder: Path, limits: Limits, end: float) -> Path:
        with _answer(self.url, limits, "GET") as answer:
            return copied(self._blocks(answer, limits, end), self.url, folder, limits)

    def _blocks(self, answer: httpx.Response, limits: Limits, end: float) -> Iterator[bytes]:
        for k, block in enumerate(answer.iter_bytes()):
            if not k:
                self._check(answer, block)
            if time.monotonic() > end:
                raise UnreachableSource(_slow(self.url, limits))
            yield block

    def _check(self, answer: httpx.Response, head: bytes) -> None:
        kind = answer.headers.get("content-type", "").partition(";")[0].strip().lower()
        page = head.lstrip()[:15].lower()
        if b"%PDF-" not in head[:1024] and (
            kind == "text/html" or page.startswith((b"<!doctype html", b"<html"))
        ):
            raise UnreachableSource(
                f"{self.url} is a web page, not a PDF; give the address of the PDF itself."
            )


@contextmanager
def _answer(url: str, limits: Limits, method: str) -> Iterator[httpx.Response]:
    """The answer of a server, asked again where it may do better later."""
    with httpx.Client(follow_redirects=True, max_redirects=REDIRECTS, timeout=SILENCE) as client:
        # Whatever a server sends on to is held to the same rule.
        client.event_hooks["request"] = [_only_web]
        answer = _asked(client, url, limits, method)
        try:
            yield answer
        finally:
            answer.close()


def _asked(client: httpx.Client, url: str, limits: Limits, method: str) -> httpx.Response:
    end = time.monotonic() + limits.seconds
    said = ""
    for attempt in range(TRIES):
        if attempt:
            time.sleep(min(PAUSE * 2**attempt, max(0.0, end - time.monotonic())))
        try:
            answer = client.send(client.build_request(method, url), stream=True)
        except httpx.TooManyRedirects as error:
            raise UnreachableSource(
                f"{url} sends on more than {REDIRECTS} times and never answers; check the address."
            ) from error
        except (httpx.InvalidURL, httpx.UnsupportedProtocol, UnicodeError) as error:
            raise UnreachableSource(f"{url} is no address that can be asked; check it.") from error
        except httpx.TimeoutException:
            said = _slow(url, limits)
        except httpx.TransportError as error:
            said = f"{url} cannot be reached ({error}); check the address and the network."
        else:
            # Not every server answers when it is asked for no more than the head.
            if answer.is_success or method == "HEAD":
                return answer
            said = f"{url} was refused with {answer.status_code} {answer.reason_phrase}; check the address."
            answer.close()
            if answer.status_code not in LATER:
                break
        if time.monotonic() > end:
            break
    raise UnreachableSource(said)


def _slow(url: str, limits: Limits) -> str:
    return f"{url} takes longer than {min(limits.seconds, SILENCE):.0f} s to come; try again later."


def _only_web(request: httpx.Request) -> None:
    if request.url.scheme not in WEB:
        raise RefusedSource(f"{request.url} is not fetched; only http and https are.")
