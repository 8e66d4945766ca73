"""Following a run over a collection to its end; two commands do."""

from __future__ import annotations

import os
import threading
from contextlib import closing, suppress

import click

from ..collection import Run
from ..errors import WennakError
from ..intake import count_sources
from .progress import Count, shown
from .sources import named_sources

Named = tuple[tuple[str, ...], str | None]


def follow(run: Run, named: Named, log_json: bool) -> Count:
    """Follow a run of the named sources (those given, and a list of more) to its end, and tell about it.

    Ctrl-C ends the program with code 130; the same command goes on.
    """
    count = Count()
    threading.Thread(target=_count_all, args=(count, named), daemon=True).start()
    try:
        with shown(count, log_json) as tell, closing(run.events()) as events:
            for event in events:
                tell(event)
    except KeyboardInterrupt:
        said = f"Stopped; {count.documents} documents are done. The same command goes on from there."
        click.echo(said, err=True)
        # Threads that still wait for a server would be waited for.
        os._exit(130)
    return count


def _count_all(count: Count, named: Named) -> None:
    with suppress(WennakError, OSError):
        count.total = count_sources(named_sources(*named))
