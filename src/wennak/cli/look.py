"""`wennak look`."""

from __future__ import annotations

import click

from ..looking import look as draw
from ..pipeline import DEFAULT_METHOD
from ..scan import Recognition
from .fail import failing
from .recognising import recognition_options


@click.command()
@click.argument("source", metavar="SOURCE")
@click.option("--out", required=True, metavar="FOLDER", help="Folder to write to.")
@click.option(
    "--pages", metavar="SPEC", help='Pages to draw: "1-3,7", "last", "found:PHRASE"; all by default.'
)
@click.option(
    "--method", default=DEFAULT_METHOD, show_default=True, metavar="NAME", help="How tables are read."
)
@click.option("--password", default="", help="Password of a locked file.")
@recognition_options
def look(
    source: str, out: str, pages: str | None, method: str, password: str, recognition: Recognition
) -> None:
    """Draw pages with what was read on them, beside the result.

    Writes a PNG a page and index.html, which shows them all. Blocks are numbered in reading order; tables
    show their cells, headers and spans.
    """
    with failing(out):
        index, *pictures = draw(source, out, pages, method, password, recognition)
    count = f"{len(pictures)} page{'' if len(pictures) == 1 else 's'}"
    click.echo(f"{count} drawn; open {index} in a browser.")
