"""What a worker does for a request: read a document, and say it in the format that was asked for."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from ..collection import why_failed
from ..emit import as_bytes, body_html, emit, table_bytes
from ..errors import SourceError, UsageError
from ..ink import PdfFile
from ..model import Document
from ..pipeline import chosen_pages, opened, read
from .orders import Order


@dataclass(frozen=True, slots=True)
class Answer:
    """What was asked for, with what there is to look at and how many pages and tables there are."""

    data: bytes
    findings: tuple[str, ...] = ()
    pages: int = 0
    tables: int = 0


@dataclass(frozen=True, slots=True)
class Refusal:
    """Why there is no answer: the name of the error, and a sentence."""

    kind: str
    said: str


def work(path: Path, order: Order, most_pages: int) -> Answer | Refusal:
    """Answer an order; nothing is raised."""
    try:
        return _answer(path, order, most_pages)
    except Exception as error:
        return Refusal(type(error).__name__, why_failed(order.name, error))


class TooManyPages(SourceError):
    """More pages are asked for than are read at once."""


def _answer(path: Path, order: Order, most_pages: int) -> Answer:
    name, data = opened(path, order.name)
    with PdfFile(data, name, order.password) as pdf:
        # A phrase is looked for on every page, which takes as long as reading them.
        pages = order.pages if pdf.page_count <= most_pages else _plain(order, pdf)
        numbers = chosen_pages(pdf, pages, order.recognition)
        if len(numbers) > most_pages:
            said = f"{name}: {len(numbers)} pages are asked for, and {most_pages} are read at once"
            raise TooManyPages(f"{said}; name some with pages=1-{most_pages}.")
    # Pages that were searched for are not searched for once more.
    chosen = ",".join(map(str, numbers))
    document = read(path, chosen, order.method, order.password, order.name, order.recognition)
    data_out = _written(document, order)
    findings = tuple(finding.message for finding in document.findings)
    return Answer(data_out, findings, len(document.pages), len(document.tables))


def _plain(order: Order, pdf: PdfFile) -> str | None:
    """The pages asked for, of a document that is too long to be searched."""
    if order.pages is not None and order.pages.startswith("found:"):
        said = f"{pdf.name} has {pdf.page_count} pages, too many to be searched"
        raise TooManyPages(f"{said}; name pages by number.")
    return order.pages


def _written(document: Document, order: Order) -> bytes:
    if order.format == "page":
        return as_bytes(body_html(document))
    if order.format not in ("csv", "xlsx"):
        return as_bytes(emit(document, order.format, order.options))
    tables = document.tables
    if not tables:
        raise UsageError(f"No table was found in {order.name}.")
    if order.table > len(tables):
        raise UsageError(f"There is no table {order.table}; {len(tables)} were found.")
    if order.format == "csv" or order.table:
        tables = [tables[max(order.table, 1) - 1]]
    return table_bytes(tables, order.format)
