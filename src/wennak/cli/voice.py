"""How much commands say beside their results: hints and counts, unless they are to be quiet."""

from __future__ import annotations

import click

QUIET, USUAL, VERBOSE = range(3)
_KEY = "wennak.voice"


def set_voice(ctx: click.Context, quiet: bool) -> None:
    """Note that a command is to say less, or more, than usual."""
    ctx.meta[_KEY] = QUIET if quiet else VERBOSE


def voice() -> int:
    """Return how much the command that runs is to say."""
    ctx = click.get_current_context(silent=True)
    said: int = ctx.meta.get(_KEY, USUAL) if ctx else USUAL
    return said


def tell(said: str, least: int = USUAL, err: bool = True) -> None:
    """Say something that is no result, where that much is to be said; on standard error, if nothing else is
    asked for.
    """
    if voice() >= least:
        click.echo(said, err=err)
