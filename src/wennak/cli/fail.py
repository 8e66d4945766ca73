"""How commands fail: one sentence on standard error and a documented exit code."""

from __future__ import annotations

import sys
from collections.abc import Iterator
from contextlib import contextmanager
from typing import NoReturn

import click

from ..errors import NoRoom, SourceError, UsageError


def fail(said: str, code: int) -> NoReturn:
    """Print a sentence and leave with a code."""
    click.echo(said, err=True)
    sys.exit(code)


@contextmanager
def failing(out: str) -> Iterator[None]:
    """Turn errors into a sentence: 2 for a wrong call, 1 for a source or an output that cannot be used."""
    try:
        yield
    except UsageError as error:
        fail(str(error), 2)
    except (SourceError, NoRoom) as error:
        fail(str(error), 1)
    except BrokenPipeError:
        # Whoever read what is printed has read enough.
        raise
    except OSError as error:
        fail(f"{out} cannot be written to ({error.strerror or error}); name another folder.", 1)
