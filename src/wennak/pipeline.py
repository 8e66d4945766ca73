"""From a source to a document: the whole path, top to bottom."""

from __future__ import annotations

import itertools
import tempfile
from collections.abc import Iterator, Mapping, Sequence
from contextlib import closing, contextmanager
from pathlib import Path
from typing import TYPE_CHECKING, Any

from .checks import find_checks, numbers_of
from .corrections import correct
from .errors import NotPdf, UsageError, existing
from .ink import PdfFile, drawing
from .intake import Named, find_sources, scheme_of
from .layout import PageLayout, lay_out, structure
from .measures import page_and_box, points
from .methods import DEFAULT_METHOD, REMOTE, check_method
from .model import Block, Box, Document, Finding, Table
from .pages import page_numbers
from .relations import find_relations
from .scan import AS_NEEDED, Recognition, is_picture, recognised
from .stretches import Stretch, read_stretch, table_of
from .stubs import set_hierarchy
from .tables import LookAhead, Method, find_method, joined, read_directed

if TYPE_CHECKING:
    from .filling import FilledSchema
    from .remote import Asking, Service


def read(
    source: Named,
    pages: str | None = None,
    method: str = DEFAULT_METHOD,
    password: str = "",
    name: str | None = None,
    recognition: Recognition = AS_NEEDED,
    service: Service | None = None,
    asking: Asking | None = None,
) -> Document:
    """Read a PDF, or a picture of pages (PNG, JPEG, TIFF).

    `source` is a path, a URL (http, https, or of a bucket), the bytes of the file, an open one, or "-" for
    standard input; `pages`
    chooses pages ("1-3,7", from 1; "last"; "found:balance sheet" where a phrase stands; all if None);
    `method` names the way tables are read; `password` opens a locked file; `name` is what the document calls
    itself (the file's name if None); `recognition` says which pages are read from their picture (those
    without text).

    A `service` is a callable that gives its answer, as text, for a picture (PNG) and a
    `wennak.remote.Question`: by the method "remote" it is asked about the tables of each page, by any other
    one about those that this reads with doubt. What it answers is looked up on the page, findings say what
    does not stand there; `asking` says how many pictures at once, how often, and for how long.

    Raises SourceError (its kinds say why) if the file cannot be read or has no such page, and UsageError
    for a method that does not exist.
    """
    check_method(method, service)
    name, data = opened(source, name)
    with PdfFile(data, name, password) as pdf:
        numbers = chosen_pages(pdf, pages, recognition)
        with reader_of(pdf, method, service, asking) as reader:
            return document_of(pdf, read_stretch(pdf, recognised(pdf, numbers, recognition), reader))


def ask_fields(
    source: Named,
    schema: Mapping[str, Any],
    service: Service,
    pages: str | None = None,
    password: str = "",
    recognition: Recognition = AS_NEEDED,
    asking: Asking | None = None,
) -> FilledSchema:
    """Ask a service to fill a JSON Schema from each page; return what it answered as far as it stands there.

    The result is that of `wennak.fields`, by the method "remote"; `why` tells what was answered and is not on
    the page, or not where its label, row and column put it, and which pages gave no answer. Check boxes are
    not asked about. Raises as `read` does, and UsageError for a schema that is none of an object.
    """
    from .filling import check_schema
    from .remote import FIELDS_TASK, Answer, Asker, Asking, Said, asked_schema, fields_said, said_by

    check_schema(schema)
    name, data = opened(source)
    with PdfFile(data, name, password) as pdf, drawing(data, name, password) as draw:
        numbers = chosen_pages(pdf, pages, recognition)
        wanted, read_answer = asked_schema(schema), said_by(schema)
        with closing(Asker(service, name, draw, asking or Asking())) as asker:
            asked = [
                asker.ask(number, None, read_answer, task=FIELDS_TASK, schema=wanted) for number in numbers
            ]
            seen: list[tuple[PageLayout, Answer[Said]]] = [
                (lay_out(ink), answer.result())
                for ink, answer in zip(recognised(pdf, numbers, recognition), asked, strict=True)
            ]
    return fields_said(name, schema, seen)


def service_at(
    address: str, budget: float | None = None, crops: bool = False, keep_ungrounded: bool = False
) -> tuple[Service | None, Asking | None]:
    """Return the service at an address, and how it is asked; None where there is no address.

    Raises UsageError where that is the address of none.
    """
    if not address:
        return None, None
    from .remote import Asking, http_service

    asking = Asking(budget=budget, crops=crops, keep_ungrounded=keep_ungrounded)
    return http_service(address), asking


@contextmanager
def reader_of(
    pdf: PdfFile, method: str, service: Service | None = None, asking: Asking | None = None
) -> Iterator[Method | LookAhead]:
    """Gives what reads the tables of pages by a method; a service is asked as long as it is used."""
    if service is None:
        yield find_method(method)
        return
    # Most documents are read without one, and need not load what asks.
    from .remote import Asker, Asking, hybrid_method, remote_method

    asking = asking or Asking()
    with (
        drawing(pdf.source, pdf.name, pdf.password) as draw,
        closing(Asker(service, pdf.name, draw, asking)) as asker,
    ):
        if method == REMOTE:
            yield remote_method(asker, find_method(DEFAULT_METHOD) if asking.crops else None)
        else:
            yield hybrid_method(asker, find_method(method))


def chosen_pages(pdf: PdfFile, pages: str | None, recognition: Recognition = AS_NEEDED) -> list[int]:
    """Return the numbers of the pages that `pages` chooses of a file; for a phrase it looks through them all.

    Raises UsageError and MissingPage as `page_numbers` does.
    """

    def text(number: int) -> str:
        (ink,) = recognised(pdf, [number], recognition)
        return " ".join(lay_out(ink).words.texts)

    return page_numbers(pages, pdf.page_count, pdf.name, text)


def document_of(pdf: PdfFile, stretch: Stretch) -> Document:
    """Return the document that the stretch of all its pages gives; the stretch is used up."""
    document = Document(
        pdf.name, pdf.title, pdf.language, pages=stretch.pages, findings=stretch.findings,
        producer=pdf.producer,
    )  # fmt: skip
    whole = {stretch.marks[index]: table for table, index in joined(stretch.parts)}
    recognised = {page.number for page in document.pages if page.source == "picture"}
    for table in whole.values():
        document.findings += _corrected(table, recognised)
        _judge(table)

    def table_at(page: int, index: int) -> Block | None:
        return whole.get((page, index))

    document.blocks, document.running = structure(stretch.items, table_at, pdf.outline)
    return document


def read_table(
    source: Named,
    region: str,
    cuts: Sequence[str] = (),
    header_rows: int | None = None,
    password: str = "",
    recognition: Recognition = AS_NEEDED,
) -> Table:
    """Read one table as directed, where the automatic reading is off.

    `region` is "page,left,top,right,bottom" and `cuts` are the x between columns; lengths are in points, or
    end in mm, in or % (of the page). `header_rows` is found as in any table if None.
    Raises SourceError if the file cannot be read, and UsageError for a region that is none or holds no text.
    """
    name, data = opened(source)
    with PdfFile(data, name, password) as pdf:
        sizes = {n: pdf.page_size(n) for n in range(1, pdf.page_count + 1)}
        page, box = page_and_box(region, sizes)
        (ink,) = recognised(pdf, [page], recognition)
        layout = lay_out(ink)
        width = sizes[page][0]
        # On a page that is read sideways, columns part along its height.
        marks = [Box(x, x, x, x) for x in (points(cut, width) for cut in cuts)]
        at = [layout.seen_box(mark).x0 for mark in marks]
        draft = read_directed(layout, layout.seen_box(box), at, header_rows)
    if draft is None:
        raise UsageError(f"There is no text in the region {region!r}; look at the page with wennak look.")
    table = table_of(draft, layout)
    _judge(table)
    return table


def opened(source: Named, name: str | None = None) -> tuple[str, Path | bytes]:
    """Return the name of a source and the PDF that it is, or that shows the pictures that it is.

    Raises SourceError where there is none.
    """
    if (
        not isinstance(source, (str, Path, bytes))
        or source == "-"
        or (isinstance(source, str) and scheme_of(source))
    ):
        return _fetched(source, name)
    if isinstance(source, bytes):
        name = name or "document.pdf"
        return name, _as_pdf(source, name) if is_picture(source) else source
    path = existing(source)
    if path.is_dir():
        raise NotPdf(f"{source} is a folder; name one PDF, or convert the folder.")
    name = name or path.name
    return name, _as_pdf(path, name) if is_picture(path) else path


def _fetched(source: Named, name: str | None) -> tuple[str, Path | bytes]:
    """The same for what is no file of this machine: an open file, or what lies at a URL."""
    found = list(itertools.islice(find_sources(source), 2))
    if len(found) != 1:
        raise NotPdf(f"{source!s} stands for several documents; name one, or convert them.")
    with tempfile.TemporaryDirectory(prefix="wennak-") as folder:
        return opened(found[0].fetch(Path(folder)).read_bytes(), name or found[0].name)


def _as_pdf(source: Path | bytes, name: str) -> bytes:
    # What opens pictures is loaded only where there is one.
    from .scan.files import as_pdf

    return as_pdf(source, name)


def _corrected(table: Table, recognised: set[int]) -> list[Finding]:
    """Correct what was misread in a table of pages that are pictures, as far as its sums prove it."""
    if not any(place.page in recognised for cell in table.cells for place in cell.places):
        return []
    return [
        Finding(
            "corrected",
            f'"{found.read}" was read in row {found.cell.row + 1} of a table, and changed into '
            f'"{found.cell.text}": only so its sum comes out',
            found.cell.places[0].page if found.cell.places else 0,
        )
        for found in correct(table)
    ]


def _judge(table: Table) -> None:
    """Note what a whole table, over all its pages, says of itself: its sums, and which rows head others."""
    numbers = numbers_of(table)
    checks = [*find_checks(table, numbers), *find_relations(table, numbers)]
    table.checks = sorted(checks, key=lambda check: (check.row, check.column))
    set_hierarchy(table)
