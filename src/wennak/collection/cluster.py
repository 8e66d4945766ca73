"""The same work on a Dask cluster (the extra `cluster`): one that runs, or one made on this machine."""

from __future__ import annotations

import logging
import re
from collections.abc import Callable
from concurrent.futures import Future
from typing import Any

from ..errors import UsageError
from .limits import WorkerLimits

COMMAND = "pip install 'wennak[cluster]'"
_LOCAL = re.compile(r"^local:(\d+)$")
# A scheduler answers within so many seconds, or is not there.
ANSWER = 6
# What speaks on standard error of connections that break.
SPEAKERS = ("distributed", "tornado", "asyncio")


class Cluster:
    """Workers of a Dask cluster; documents of a worker that is lost are done again by others."""

    near = False

    def __init__(self, client: Any, local: Any | None) -> None:
        self._client, self._local = client, local
        threads = [worker["nthreads"] for worker in client.scheduler_info(n_workers=-1)["workers"].values()]
        if any(count > 1 for count in threads):
            self.close()
            raise UsageError(
                "Workers of the cluster must have one thread each; start them with --nthreads 1."
            )
        self.width = max(1, len(threads))
        self._executor = client.get_executor(pure=False)

    def submit(self, work: Callable[..., Any], *arguments: Any) -> Future[Any]:
        """Have something done."""
        future: Future[Any] = self._executor.submit(work, *arguments)
        return future

    def stop(self) -> None:
        """Take back what was asked for."""
        self._executor.shutdown(wait=False)

    def close(self) -> None:
        """Let go of the cluster, and stop one that was made here."""
        self._client.close()
        if self._local is not None:
            self._local.close()


def connected(address: str, limits: WorkerLimits) -> Cluster:
    """Return the workers of the scheduler at an address, such as "tcp://host:8786", or of "local:N", which
    are N processes of this machine.

    Raises UsageError where there is none, or no worker.
    """
    try:
        from distributed import Client, LocalCluster
    except ImportError as error:
        raise UsageError(f"To work on a cluster: {COMMAND}") from error
    # What it says of workers that come and go, or what it stands on says of connections that break, is no
    # message to the user of this program, who is told. Some of its parts have handlers of their own.
    for name in (
        *SPEAKERS,
        *(n for n in logging.root.manager.loggerDict if n.startswith(tuple(f"{s}." for s in SPEAKERS))),
    ):
        log = logging.getLogger(name)
        log.handlers[:] = [logging.NullHandler()]
        log.propagate = False
    local: Any = None
    make: Any = LocalCluster
    connect: Any = Client
    if match := _LOCAL.match(address):
        local = make(
            n_workers=max(1, int(match[1])), threads_per_worker=1, memory_limit=limits.memory << 20,
            dashboard_address=None, silence_logs=50,
        )  # fmt: skip
    try:
        client = connect(local or address, timeout=ANSWER)
        client.wait_for_workers(1, timeout=ANSWER)
    except (OSError, ValueError, TimeoutError) as error:
        raise UsageError(f"There is no cluster with workers at {address}; check the address.") from error
    return Cluster(client, local)
