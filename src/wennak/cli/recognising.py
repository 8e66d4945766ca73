"""The options that say which pages are read from their picture; several commands have them."""

from __future__ import annotations

import functools
from collections.abc import Callable
from typing import Any

import click

from ..errors import UsageError
from ..scan import MODES, Recognition
from .fail import fail


def recognition_options(command: Callable[..., Any]) -> Callable[..., Any]:
    """Give a command --recognise and --languages, which reach it as one argument `recognition`."""

    @click.option(
        "--recognise", type=click.Choice(MODES), default="auto", show_default=True,
        help="Which pages are read from their picture: those without text, none, or all.",
    )  # fmt: skip
    @click.option(
        "--languages", default="", metavar="CODES",
        help='Languages to recognise, such as "eng,deu"; all that are installed by default.',
    )  # fmt: skip
    @functools.wraps(command)
    def with_recognition(*args: Any, recognise: str, languages: str, **options: Any) -> Any:
        codes = tuple(code.strip() for code in languages.split(",") if code.strip())
        try:
            recognition = Recognition(recognise, codes)
        except UsageError as error:
            fail(str(error), 2)
        return command(*args, recognition=recognition, **options)

    return with_recognition
