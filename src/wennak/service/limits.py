"""How much a request may ask for."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class ServiceLimits:
    """Limits of a request: `size` of what is sent (bytes), `pages` that are read at once, `seconds` and
    `memory` (MiB) of its worker, `idle` seconds that a sender may be silent, and `upload` seconds until all
    has come. `waiting` requests may wait for a worker, beside those that are worked on.
    """

    size: int = 64 << 20
    pages: int = 500
    seconds: float = 60.0
    memory: int = 2048
    idle: float = 15.0
    upload: float = 120.0
    waiting: int = 32
