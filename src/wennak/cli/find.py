"""`wennak find`."""

from __future__ import annotations

import json
import sys
from collections.abc import Sequence
from dataclasses import asdict

import click

from ..collection import default_workers, stream_hits
from ..errors import WennakError
from ..finding import Hit
from ..scan import Recognition
from .commands import Command
from .fail import failing
from .options import from_option, method_option, password_option, workers_option
from .recognising import recognition_options
from .sources import named_sources
from .voice import tell
from .words import count_of

# So many places of a document are named; --jsonl tells all.
NAMED = 10


@click.command(cls=Command, example="wennak find 'berth charges' papers/")
@click.argument("phrase", metavar="PHRASE")
@click.argument("sources", nargs=-1, metavar="SOURCE...")
@from_option
@click.option("--jsonl", is_flag=True, help="Tell every place as a line of JSON.")
@method_option
@password_option
@recognition_options
@workers_option
def find(
    phrase: str, sources: tuple[str, ...], from_list: str | None, jsonl: bool, method: str, password: str,
    recognition: Recognition, workers: int | None,
) -> None:  # fmt: skip
    """Say where a phrase stands: headings, captions, cells, text, with page and score.

    Forms of a word and small misspellings count, with a lower score; numbers have to be the same. To go on
    with the pages that are found: wennak convert SOURCE --pages "found:PHRASE".
    """
    places, documents, failed = 0, 0, 0
    with failing("The answer"):
        found = stream_hits(
            phrase, named_sources(sources, from_list), workers or default_workers(), method, password,
            recognition,
        )  # fmt: skip
        for name, answer in found:
            if isinstance(answer, WennakError):
                failed += 1
                click.echo(str(answer), err=True)
                continue
            places, documents = places + len(answer), documents + bool(answer)
            for line in _json(answer) if jsonl else _told(name, answer):
                click.echo(line)
    said = f"{count_of(places, 'place')} in {count_of(documents, 'document')}"
    tell(f"{said}{f'; {failed} failed' if failed else ''}.")
    sys.exit(1 if failed else 0)


def _json(hits: Sequence[Hit]) -> list[str]:
    return [json.dumps(asdict(hit), ensure_ascii=False) for hit in hits]


def _told(name: str, hits: Sequence[Hit]) -> list[str]:
    if not hits:
        return []
    lines = [f"  page {h.page:<4} {h.score:.2f}  {_where(h):<28}  {h.context}" for h in hits[:NAMED]]
    more = [f"  and {len(hits) - NAMED} more places"] if len(hits) > NAMED else []
    return [name, *lines, *more]


def _where(hit: Hit) -> str:
    if not hit.table:
        return hit.kind
    at = f", row {hit.row}, column {hit.column}" if hit.row else ""
    return f"table {hit.table}, caption" if hit.kind == "caption" else f"table {hit.table}{at}"
