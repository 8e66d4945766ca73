"""`wennak serve`."""

from __future__ import annotations

import signal
import socket
import sys

import click

from ..errors import UsageError
from .commands import Command
from .fail import fail, failing
from .options import workers_option
from .voice import tell

COMMAND = "pip install 'wennak[serve]'"
# Requests that run may take so long to end (s) when the service is stopped.
GRACE = 90


@click.command(cls=Command, example="wennak serve --port 8320")
@click.option("--host", default="127.0.0.1", show_default=True, help="Address to listen at.")
@click.option(
    "--port", type=click.IntRange(0, 65535), default=8320, show_default=True, help="Port; 0 for a free one."
)
@workers_option
@click.option("--waiting", type=click.IntRange(0), default=32, show_default=True, metavar="N",
              help="Requests that may wait for a worker.")  # fmt: skip
@click.option("--size-limit", type=click.IntRange(1), default=64, show_default=True, metavar="MIB",
              help="Largest document.")  # fmt: skip
@click.option("--page-limit", type=click.IntRange(1), default=500, show_default=True, metavar="N",
              help="Most pages that are read at once.")  # fmt: skip
@click.option("--time-limit", type=click.FloatRange(0.1), default=60, show_default=True, metavar="SECONDS",
              help="How long reading may take.")  # fmt: skip
@click.option("--memory-limit", type=click.IntRange(256), default=2048, show_default=True, metavar="MIB",
              help="Memory of a worker.")  # fmt: skip
def serve(
    host: str, port: int, workers: int | None, waiting: int, size_limit: int, page_limit: int,
    time_limit: float, memory_limit: int,
) -> None:  # fmt: skip
    """Answer over HTTP: POST a PDF or a picture to /convert; a page for the browser is at /.

    Nothing that is sent is kept. Ctrl-C, or SIGTERM, finishes what runs and stops.
    """
    try:
        import uvicorn

        from ..service import ServiceLimits, application
    except ImportError:
        fail(f"To serve over HTTP: {COMMAND}", 2)
    from ..collection import default_workers

    limits = ServiceLimits(
        size=size_limit << 20, pages=page_limit, seconds=time_limit, memory=memory_limit, waiting=waiting
    )
    with failing(f"{host}:{port}"):
        try:
            listening = socket.create_server((host, port), family=_family(host), backlog=512)
        except OSError as error:
            raise UsageError(f"{host}:{port} cannot be listened at ({error.strerror or error}).") from error
    at = f"[{host}]" if ":" in host else host
    tell(f"Listening at http://{at}:{listening.getsockname()[1]}/; Ctrl-C stops.")
    config = uvicorn.Config(
        application(workers or default_workers(), limits), log_level="warning", access_log=False,
        server_header=False, timeout_graceful_shutdown=GRACE, h11_max_incomplete_event_size=1 << 16,
    )  # fmt: skip
    server = uvicorn.Server(config)
    # The server stops by these signals, and raises them once more when it has.
    for number in (signal.SIGINT, signal.SIGTERM):
        signal.signal(number, lambda *_: None)
    server.run(sockets=[listening])
    sys.exit(0 if server.started else 1)


def _family(host: str) -> socket.AddressFamily:
    return socket.AF_INET6 if ":" in host else socket.AF_INET
