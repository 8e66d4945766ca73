"""`wennak look`."""

from __future__ import annotations

import click

from ..looking import look as draw
from ..scan import Recognition
from .commands import Command
from .fail import failing
from .options import method_option, pages_option, password_option
from .recognising import recognition_options
from .voice import tell


@click.command(cls=Command, example="wennak look report.pdf --out seen/ --pages 1-3")
@click.argument("source", metavar="SOURCE")
@click.option("--out", required=True, metavar="FOLDER", help="Folder to write to.")
@pages_option
@method_option
@password_option
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
    tell(f"{count} drawn; open {index} in a browser.", err=False)
