"""The options for asking a service; several commands have them."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import click

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
