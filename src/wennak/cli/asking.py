"""The options for asking a service; several commands have them."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Any

import click

if TYPE_CHECKING:
    from ..remote import Asking, Service

# Findings that say what was wrong with answers.
TOLD = ("no-answer", "ungrounded", "lost-lines", "answer-peeled")


def service_options(command: Callable[..., Any]) -> Callable[..., Any]:
    """Give a command --service and --budget."""
    service = click.option(
        "--service", default="", metavar="URL",
        help="Vision service that is asked about each page, with --method remote (docs/vision.md).",
    )  # fmt: skip
    budget = click.option(
        "--budget", type=click.FloatRange(0.1), metavar="SECONDS",
        help="How long it may be asked for a document.",
    )  # fmt: skip
    return service(budget(command))


def asked(service: str, budget: float | None) -> tuple[Service | None, Asking | None]:
    """Return the service at an address, and how it is asked. Raises UsageError where that is no address."""
    if not service:
        return None, None
    from ..remote import Asking, HttpService

    return HttpService(service), Asking(budget=budget)
