"""The service: requests -> limits -> workers -> answers."""

from __future__ import annotations

import asyncio
import tempfile
from collections.abc import AsyncIterator, Callable
from contextlib import asynccontextmanager
from importlib.resources import files
from pathlib import Path, PurePosixPath
from urllib.parse import quote

from starlette.applications import Starlette
from starlette.exceptions import HTTPException
from starlette.middleware import Middleware
from starlette.requests import Request
from starlette.responses import HTMLResponse, JSONResponse, PlainTextResponse, Response
from starlette.routing import Route
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from ..collection import Processes, WorkerLimits, why_lost
from ..emit import page_of
from ..errors import UsageError
from .limits import ServiceLimits
from .openapi import openapi
from .orders import FORMATS, Order, order_of
from .problems import problem, status_of
from .receive import Received, Refused, read_on, receive
from .work import Answer, Refusal, work

# A busy service asks to be asked again after so many seconds.
AGAIN = 2
# Nothing that a document says can load or run anything.
HEADERS = {
    "Content-Security-Policy": (
        "default-src 'none'; style-src 'self'; script-src 'self'; img-src 'self'; form-action 'self'; "
        "base-uri 'none'; frame-ancestors 'none'"
    ),
    "X-Content-Type-Options": "nosniff",
    "Referrer-Policy": "no-referrer",
    "Cross-Origin-Opener-Policy": "same-origin",
    "Cross-Origin-Resource-Policy": "same-origin",
    "Cache-Control": "no-store",
}
# A converted document is a page with its own styles; it can do nothing else.
_DOCUMENT = "sandbox; default-src 'none'; style-src 'unsafe-inline'"
_NAMES = {
    "page": "shown here", "md": "Markdown", "html": "HTML", "json": "JSON",
    "passages": "passages (JSON Lines)", "csv": "CSV of one table", "xlsx": "workbook of the tables",
}  # fmt: skip


def application(workers: int, limits: ServiceLimits) -> Starlette:
    """Return the service as an ASGI application; its workers begin and end with it."""
    service = _Service(workers, limits)
    routes = [
        Route("/", service.page, methods=["GET", "POST"]),
        Route("/convert", service.convert, methods=["POST"]),
        Route("/health", service.health),
        Route("/ready", service.ready),
        Route("/openapi.json", lambda _: JSONResponse(openapi())),
        Route("/page.css", lambda _: _static("page.css", "text/css")),
        Route("/page.js", lambda _: _static("page.js", "text/javascript")),
    ]
    return Starlette(
        routes=routes, lifespan=service.lifespan, middleware=[Middleware(_Secured)],
        exception_handlers={HTTPException: _http_problem, Exception: _broken},
    )  # fmt: skip


def _static(name: str, media: str) -> Response:
    return Response(files("wennak.service").joinpath(f"templates/{name}").read_bytes(), media_type=media)


async def _http_problem(request: Request, error: Exception) -> Response:
    assert isinstance(error, HTTPException)
    if error.status_code == 405:
        said = f"{request.method} is not allowed here; /openapi.json says what is."
        return problem("WrongWay", said, dict(error.headers or {}))
    if error.status_code == 404:
        said = "There is nothing here; documents go to /convert, and /openapi.json says how."
        return problem("UnknownPlace", said)
    return problem("UsageError", f"The request cannot be read ({error.detail}).")


async def _broken(_: Request, error: Exception) -> Response:
    return problem(type(error).__name__, "Something went wrong in the service; please report what was sent.")


class _Secured:
    """Puts the headers that keep a browser safe on every answer."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        async def secured(message: Message) -> None:
            if message["type"] == "http.response.start":
                have = {name.lower() for name, _ in message["headers"]}
                more = [(n.lower().encode(), v.encode()) for n, v in HEADERS.items()]
                message["headers"] = [*message["headers"], *(h for h in more if h[0] not in have)]
            await send(message)

        await self._app(scope, receive, secured)


class _NotTaken:
    """Answers what is not taken to its end, and closes when that has been read on."""

    def __init__(self, answer: Response) -> None:
        self._answer = answer

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        async def open_ended(message: Message) -> None:
            more = {"more_body": True} if message["type"] == "http.response.body" else {}
            await send({**message, **more})

        await self._answer(scope, receive, open_ended)
        await read_on(receive)
        await send({"type": "http.response.body"})


class _Service:
    def __init__(self, workers: int, limits: ServiceLimits) -> None:
        self._count, self._limits = workers, limits
        self._worker_limits = WorkerLimits(limits.seconds, limits.memory)
        self._pool: Processes | None = None
        self._at_work = 0

    @asynccontextmanager
    async def lifespan(self, _: Starlette) -> AsyncIterator[None]:
        """Begin with workers that are ready; at the end, what runs is finished."""
        self._pool = Processes(self._count, self._worker_limits)
        ready = await asyncio.to_thread(self._pool.submit, int)
        await asyncio.wrap_future(ready)
        try:
            yield
        finally:
            await asyncio.to_thread(self._pool.close)

    async def health(self, _: Request) -> Response:
        """Say that the service lives."""
        return PlainTextResponse("alive\n")

    async def ready(self, _: Request) -> Response:
        """Say whether another request would be taken."""
        if self._full():
            return problem("Busy", "All workers are busy, and others wait.", {"Retry-After": str(AGAIN)})
        return PlainTextResponse("ready\n")

    async def convert(self, request: Request) -> ASGIApp:
        """Convert what is sent into what is asked for."""
        try:
            order = order_of(dict(request.query_params), request.headers.get("accept", ""))
        except UsageError as error:
            return problem(type(error).__name__, str(error))
        return await self._served(request, lambda _: order, _answered)

    async def page(self, request: Request) -> ASGIApp:
        """Show the page, and what came of a document that was chosen on it."""
        if request.method == "GET":
            return HTMLResponse(_page())

        def ordered(received: Received) -> Order:
            return order_of({n: v for n, v in received.fields.items() if v}, "text/html", received.name)

        return await self._served(request, ordered, _shown, _not_shown)

    def _full(self) -> bool:
        return self._at_work >= self._count + self._limits.waiting

    async def _served(
        self,
        request: Request,
        ordered: Callable[[Received], Order],
        answered: Callable[[Order, Answer], Response],
        refused: Callable[..., Response] = problem,
    ) -> ASGIApp:
        """Receive a document, have it worked on, and answer; its file goes with the request."""
        with tempfile.TemporaryDirectory(prefix="wennak-") as folder:
            path = Path(folder) / "sent"
            try:
                # A slow sender holds up nobody: it gets a place when all has come.
                received = await receive(request, path, self._limits)
                order = ordered(received)
            except Refused as error:
                return _NotTaken(refused(error.kind, str(error), {"Connection": "close"}))
            except UsageError as error:
                return refused(type(error).__name__, str(error))
            if self._full():
                said = "All workers are busy, and others wait; ask again."
                return refused("Busy", said, {"Retry-After": str(AGAIN)})
            self._at_work += 1
            try:
                answer = await self._worked(path, order)
            finally:
                self._at_work -= 1
        if isinstance(answer, Refusal):
            return refused(answer.kind, answer.said)
        return answered(order, answer)

    async def _worked(self, path: Path, order: Order) -> Answer | Refusal:
        assert self._pool is not None
        future = self._pool.submit(work, path, order, self._limits.pages)
        try:
            done: Answer | Refusal = await asyncio.wrap_future(future)
        except asyncio.CancelledError:
            # Whoever asked has gone.
            future.cancel()
            raise
        except Exception as error:
            return Refusal("StoppedSource", f"{order.name} {why_lost(error, self._worker_limits)}")
        return done


def _answered(order: Order, answer: Answer) -> Response:
    media, ending = FORMATS[order.format]
    stem = PurePosixPath(order.name.replace("\\", "/")).stem or "document"
    headers = {
        "Content-Disposition": f"inline; filename*=UTF-8''{quote(f'{stem}.{ending}')}",
        "Wennak-Pages": str(answer.pages),
        "Wennak-Tables": str(answer.tables),
        "Wennak-Findings": str(len(answer.findings)),
    }
    if order.format == "html":
        headers["Content-Security-Policy"] = _DOCUMENT
    return Response(answer.data, headers=headers, media_type=media)


def _shown(order: Order, answer: Answer) -> Response:
    if order.format == "page":
        return HTMLResponse(_page(order.name, answer))
    response = _answered(order, answer)
    response.headers["Content-Disposition"] = response.headers["Content-Disposition"].replace(
        "inline", "attachment"
    )
    return response


def _not_shown(kind: str, said: str, headers: dict[str, str] | None = None) -> Response:
    return HTMLResponse(_page(said=said), status_of(kind)[0], headers)


def _page(name: str = "", answer: Answer | None = None, said: str = "") -> str:
    from markupsafe import Markup

    body = Markup(answer.data.decode("utf-8")) if answer else ""
    return page_of("wennak.service", "page", formats=_NAMES, name=name, answer=answer, body=body, said=said)
