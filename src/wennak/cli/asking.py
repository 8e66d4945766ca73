"""The options for asking a service; several commands have them."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import click

from ..errors import UsageError
from ..methods import REMOTE

# Findings that say what was asked, and what was wrong with answers.
TOLD = ("asked", "no-answer", "ungrounded", "lost-lines", "answer-peeled")
_OPTIONS = (
    click.option(
        "--service", default="", metavar="URL",
        help="Vision service: with --method remote it is asked about each page, otherwise about tables that "
        "are read with doubt (docs/vision.md).",
    ),
    click.option(
        "--budget", type=click.FloatRange(0.1), metavar="SECONDS", help="How long it may be asked, in all."
    ),
    click.option(
        "--crops", is_flag=True,
        help="With --method remote, ask about each table that is found, and not about whole pages.",
    ),
    click.option(
        "--keep-ungrounded", is_flag=True,
        help="Keep what it answered and does not stand on the page, marked as such.",
    ),
)  # fmt: skip


def service_options(command: Callable[..., Any]) -> Callable[..., Any]:
    """Give a command the options of a service."""
    for option in reversed(_OPTIONS):
        command = option(command)
    return command


def check_asking(service: str, method: str, **only: object) -> None:
    """Raise UsageError for options that say something about a service where none is asked so."""
    for name, value in only.items():
        option = "--" + name.replace("_", "-")
        if value and not service:
            raise UsageError(f"{option} is about a service; name one with --service.")
        if value and name != "budget" and method != REMOTE:
            raise UsageError(f"{option} goes with --method remote.")
