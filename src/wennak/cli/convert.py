"""`wennak convert`."""

from __future__ import annotations

import itertools
import json
import sys
import tempfile
from collections.abc import Iterator
from pathlib import Path

import click

from ..collection import FILES, Plan, Settings, WorkerLimits, why_failed
from ..emit import LIMIT, EmitOptions, as_bytes, emit
from ..errors import OWN_ERROR, UsageError
from ..intake import Limits, find_sources
from ..scan import Recognition
from .asking import TOLD as ANSWERED
from .asking import check_asking, service_options
from .commands import Command
from .fail import fail, failing
from .options import from_option, method_option, pages_option, password_option, workers_option
from .recognising import recognition_options
from .sources import named_sources
from .voice import tell

# Findings that are said where nothing but the text is printed.
TOLD = (
    "picture-only", "damaged-picture", "wrong-text-layer", "recognised-part", "not-written",
    "nameless-font", "told-by-shape", "corrected", "form-value", "unknown-language",
    OWN_ERROR, *ANSWERED,
)  # fmt: skip


@click.command(cls=Command, example="wennak convert papers/ --out text/ --as md,json")
@click.argument("sources", nargs=-1, metavar="SOURCE...")
@from_option
@click.option(
    "--out", metavar="FOLDER", help="Folder or bucket to write to; needed for more than one output."
)
@click.option(
    "--as",
    "formats",
    metavar="FORMATS",
    help="md, html, json, passages; several with commas; md if nothing is said.",
)
@click.option(
    "--fields", "schema", metavar="FILE", help="JSON Schema to fill from each document (NAME.fields.json)."
)
@click.option(
    "--together", default="", metavar="NAMES", help=f"For the whole collection: {', '.join(FILES)}."
)
@method_option
@pages_option
@password_option
@click.option("--page-marks", is_flag=True, help="Mark where pages begin (md, html).")
@click.option("--records", is_flag=True, help="Write each row of a table with its headers (md, passages).")
@click.option(
    "--limit",
    type=click.IntRange(1),
    default=LIMIT,
    show_default=True,
    metavar="TOKENS",
    help="Largest size of a passage.",
)
@click.option("--pictures", is_flag=True, help="Save figures and formulas as PNG files beside the output.")
@service_options
@recognition_options
@workers_option
@click.option("--cluster", metavar="ADDRESS", help="Dask scheduler to work on, or local:N.")
@click.option(
    "--time-limit",
    type=click.FloatRange(0.1),
    default=WorkerLimits().seconds,
    show_default=True,
    metavar="SECONDS",
    help="How long a worker may take without handing anything back.",
)
@click.option(
    "--memory-limit",
    type=click.IntRange(256),
    default=WorkerLimits().memory,
    show_default=True,
    metavar="MIB",
    help="Memory of a worker.",
)
@click.option(
    "--size-limit",
    type=click.IntRange(1),
    default=Limits().size >> 20,
    show_default=True,
    metavar="MIB",
    help="Largest source that is fetched or unpacked.",
)
@click.option("--journal", metavar="FILE", help="Where the journal is, if not in FOLDER.")
@click.option("--fresh", is_flag=True, help="Convert everything again.")
@click.option("--retry", type=click.Choice(["failed"]), help="Try again what failed in an earlier run.")
@click.option("--prune", is_flag=True, help="Delete outputs of sources that are gone.")
@click.option("--log-json", is_flag=True, help="Tell what happens as lines of JSON, on standard error.")
def convert(
    sources: tuple[str, ...],
    from_list: str | None,
    out: str | None,
    formats: str | None,
    schema: str | None,
    together: str,
    method: str,
    pages: str | None,
    password: str,
    page_marks: bool,
    records: bool,
    limit: int,
    pictures: bool,
    service: str,
    budget: float | None,
    crops: bool,
    keep_ungrounded: bool,
    recognition: Recognition,
    workers: int | None,
    cluster: str | None,
    time_limit: float,
    memory_limit: int,
    size_limit: int,
    journal: str | None,
    fresh: bool,
    retry: str | None,
    prune: bool,
    log_json: bool,
) -> None:
    """Turn PDFs, and pictures of pages, into Markdown, HTML, JSON, or passages for retrieval (JSON Lines).

    SOURCE is a PDF, a picture (PNG, JPEG, TIFF), a folder, which is searched for PDFs, and for pictures where
    it has none: FOLDER/a/b.pdf becomes OUT/a/b.md; a ZIP or TAR archive, a pattern, a URL, a bucket, or - for
    standard input. One document in one format goes to standard output where no --out is given.

    A run that was stopped goes on with the same command: OUT/wennak-journal.sqlite says what is done.
    """
    said = formats if formats is not None else "" if schema else "md"
    names = [f.strip() for f in said.split(",") if f.strip()]
    whole = [f.strip() for f in together.split(",") if f.strip()]
    limits = Limits(size_limit << 20)
    with failing(str(out)):
        check_asking(service, method, budget=budget, crops=crops, keep_ungrounded=keep_ungrounded)
        settings = Settings(
            tuple(dict.fromkeys(names)), tuple(dict.fromkeys(whole)), method, pages, password,
            EmitOptions(page_marks, records, limit), pictures, recognition,
            fields=_schema(schema), service=service, budget=budget,
            crops=crops, keep_ungrounded=keep_ungrounded,
        )  # fmt: skip
        if out is None:
            _to_standard_output(named_sources(sources, from_list), settings, limits)
            return
        # One document to standard output needs none of what follows many.
        from .converting import convert_all

        plan = Plan(limits, WorkerLimits(time_limit, memory_limit), retry == "failed", prune)
        many = (sources, from_list)
        sys.exit(convert_all(many, out, settings, plan, workers, cluster, journal, fresh, log_json))


def _schema(path: str | None) -> str:
    """The schema that is to be filled, as JSON; nothing where none is."""
    if not path:
        return ""
    from ..filling import load_schema

    return json.dumps(load_schema(path))


def _to_standard_output(named: Iterator[str], settings: Settings, limits: Limits) -> None:
    if settings.pictures:
        raise UsageError("Pictures need a folder to be written to; name it with --out.")
    found = list(itertools.islice((s for one in named for s in find_sources(one, limits)), 2))
    outputs = len(settings.formats) + bool(settings.fields)
    if len(found) != 1 or outputs != 1 or settings.together:
        raise UsageError("Several documents or formats need a folder to be written to; name it with --out.")
    # Many documents are read by workers, and need none of it here.
    from ..pipeline import read

    with tempfile.TemporaryDirectory(prefix="wennak-") as folder:
        path = found[0].fetch(Path(folder), limits)
        name, how = found[0].name, (settings.pages, settings.method, settings.password)
        try:
            document = read(path, *how, name, settings.recognition, *settings.asked())
        except UsageError:
            raise
        except Exception as error:
            fail(why_failed(name, error), 1)
    for finding in document.findings:
        if finding.code in TOLD:
            tell(f"{finding.message}.")
    if settings.fields:
        from ..filling import fields, filled_json

        click.echo(filled_json(fields(document, json.loads(settings.fields))))
    else:
        click.echo(as_bytes(emit(document, settings.formats[0], settings.options)), nl=False)
