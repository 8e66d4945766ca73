"""The command group and what all commands share."""

from __future__ import annotations

import gc
import os
from importlib import import_module

import click

from .commands import Group

# Threads of linear algebra, of which nothing here has any use, take a while to begin.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

COMMANDS = {
    "survey": "Look over a collection: what lies there, how hard it is, what to do about it.",
    "convert": "Turn PDFs into Markdown, HTML, JSON or passages for retrieval.",
    "tables": "List the tables of a document, print one, compare methods, or save them.",
    "find": "Say where a phrase stands: headings, captions, cells, text.",
    "look": "Draw pages with what was read on them, beside the result.",
    "recipe": "Save what was learnt on a document: draft a recipe, try, apply, see what drifted.",
    "truth": "Make ground truth: draft it, check it by hand, take it in, see what is checked.",
    "bench": "Measure methods, and what other programs made, against checked truth.",
    "serve": "Answer over HTTP: documents in, text and tables out.",
    "settings": "Say which settings are in force, and where they come from.",
    "demo": "Write out a made-up collection, convert it and benchmark five methods.",
}


class _Commands(Group):
    """Loads a command's module only when it is used, so that --help stays quick."""

    def list_commands(self, ctx: click.Context) -> list[str]:
        return list(COMMANDS)

    def get_command(self, ctx: click.Context, name: str) -> click.Command | None:
        if name not in COMMANDS:
            return None
        # Loading makes many objects and hardly any garbage: none is sought among them, now or later.
        gc.disable()
        command: click.Command = getattr(import_module(f".{name}", __package__), name)
        gc.freeze()
        gc.enable()
        return command

    def format_commands(self, ctx: click.Context, formatter: click.HelpFormatter) -> None:
        with formatter.section("Commands"):
            formatter.write_dl(list(COMMANDS.items()))


@click.group(
    cls=_Commands,
    context_settings={"help_option_names": ["-h", "--help"], "auto_envvar_prefix": "WENNAK"},
)
@click.version_option(package_name="wennak", message="wennak %(version)s")
def main() -> None:
    """Turn collections of PDFs into Markdown, HTML and JSON that keep their tables, and measure how well.

    Exit codes: 0 all is well, 1 a document failed (the others are done), 2 the command was called wrongly,
    3 a benchmark fell short of what was asked for, or a check failed, 130 stopped by Ctrl-C.
    """
