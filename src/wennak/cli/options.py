"""Options that several commands have, and that mean the same in all of them."""

from __future__ import annotations

import click

from ..methods import DEFAULT_METHOD

method_option = click.option(
    "--method", default=DEFAULT_METHOD, show_default=True, metavar="NAME", help="How tables are read."
)
pages_option = click.option(
    "--pages", metavar="SPEC", help='Pages to read: "1-3,7", "last", "found:PHRASE"; all by default.'
)
password_option = click.option("--password", default="", help="Password of locked files.")
from_option = click.option(
    "--from", "from_list", metavar="LIST", help="Text file with more sources, one a line."
)
workers_option = click.option(
    "--workers",
    type=click.IntRange(1, 256),
    metavar="N",
    help="Worker processes; one a processor by default.",
)
