"""What a run and its workers may take, and how many workers there are."""

from __future__ import annotations

import os
from dataclasses import dataclass

from ..intake import LIMITS, Limits

# A worker that hands nothing back for so long (s) is stopped; it may take so much memory (MiB).
SECONDS, MEMORY = 600.0, 4096


@dataclass(frozen=True, slots=True)
class WorkerLimits:
    """What a worker may take: seconds until it hands something back, and MiB of memory."""

    seconds: float = SECONDS
    memory: int = MEMORY


WORKER_LIMITS = WorkerLimits()


@dataclass(frozen=True, slots=True)
class Plan:
    """How a run goes about it: limits, whether documents that failed are tried again, and whether outputs of
    sources that are gone are deleted.
    """

    limits: Limits = LIMITS
    worker_limits: WorkerLimits = WORKER_LIMITS
    retry: bool = False
    prune: bool = False


def default_workers() -> int:
    """Return the number of processors that this process may use."""
    return len(os.sched_getaffinity(0)) if hasattr(os, "sched_getaffinity") else os.cpu_count() or 1
