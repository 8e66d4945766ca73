"""How a worker converts a document, reads stretches of a long one, and joins them."""

from __future__ import annotations

import hashlib
import json
import pickle
import time
from collections import Counter
from collections.abc import Iterable, Iterator, Mapping
from pathlib import Path

from ..emit import FORMATS, as_bytes, emit
from ..filling import FilledSchema, filled_json
from ..filling import fields as fill
from ..ink import PageInk, PdfFile
from ..looking import page_overlay, save_pictures
from ..model import Document
from ..pipeline import ask_fields, chosen_pages, document_of, opened, reader_of
from ..scan import Recognition, recognised
from ..stretches import Placed, Stretch, joined_stretches, read_stretch
from ..tables import find_method
from .files import FIELDS, RECORDS, REVIEW, part_kinds, part_name
from .settings import Settings
from .store import PARTS, WORK
from .tasks import SLICE, Begun, Outcome, Output, Task
from .together import part

# A worker that begins a document hands it back when it has read so long in (s), so that others can read on,
# but no sooner than so many times what its slowest page took more than its quickest: where fonts that name no
# characters have to be told, every worker has to begin with that.
FIRST, LONGER = 2.0, 4.0


class _Slice:
    """Says when a worker has read for long enough: two pages, for so many seconds, and several times as long
    as it takes to begin.
    """

    def __init__(self, seconds: float) -> None:
        self._seconds = seconds
        self._started = self._page = time.monotonic()
        self._took: list[float] = []

    @property
    def passed(self) -> float:
        """Seconds since the beginning."""
        return time.monotonic() - self._started

    def over(self) -> bool:
        """To be asked after each page."""
        now = time.monotonic()
        self._took.append(now - self._page)
        self._page = now
        beginning = LONGER * (max(self._took) - min(self._took))
        return len(self._took) > 1 and self.passed > max(self._seconds, beginning)


def converted(task: Task, source: Path | bytes, split: bool) -> Outcome | Begun:
    """Convert a document; with `split`, keep what was read of one that takes long."""
    watch = _Slice(FIRST)
    settings = task.settings
    name, data = opened(source, task.name)
    with PdfFile(data, name, settings.password) as pdf:
        numbers = chosen_pages(pdf, settings.pages, settings.recognition)
        # A service is asked about several pages at once, so that nothing would be won.
        enough = watch.over if split and not settings.service else lambda: False
        with reader_of(pdf, settings.method, *settings.asked()) as reader:
            inks = recognised(pdf, numbers, settings.recognition)
            stretch = read_stretch(pdf, inks, reader, enough=enough)
        left = tuple(numbers[len(stretch.pages) :])
        if left:
            return _kept(task, stretch, left, watch)
        document = document_of(pdf, stretch)
    return _written(task, source, document, watch)


def read_piece(task: Task, source: Path | bytes, numbers: tuple[int, ...]) -> Begun:
    """Read pages of a document, and keep what was read."""
    settings = task.settings
    name, data = opened(source, task.name)
    with PdfFile(data, name, settings.password) as pdf:
        watch = _Slice(SLICE)
        kept: dict[int, PageInk] = {}
        inks = _keeping(recognised(pdf, list(numbers), settings.recognition), kept)
        stretch = read_stretch(pdf, inks, find_method(settings.method), enough=watch.over)
        stretch.inks = kept
    return _kept(task, stretch, numbers[len(stretch.pages) :], watch)


def _keeping(inks: Iterable[PageInk], kept: dict[int, PageInk]) -> Iterator[PageInk]:
    """The same pages; those on which anything was recognised, which takes long, are kept by number."""
    for ink in inks:
        if (ink.glyphs.sure < 1).any():
            kept[ink.number] = ink
        yield ink


def _again(pdf: PdfFile, stretch: Stretch, how: Recognition) -> Iterator[PageInk]:
    """The pages of a stretch, without recognising anything a second time."""
    numbers = [page.number for page in stretch.pages]
    others = recognised(pdf, [number for number in numbers if number not in stretch.inks], how)
    for number in numbers:
        yield stretch.inks[number] if number in stretch.inks else next(others)


def _kept(task: Task, stretch: Stretch, left: tuple[int, ...], watch: _Slice) -> Begun:
    first = stretch.pages[0].number
    piece = f"{WORK}/{task.hash}-{first}"
    task.store.write(piece, pickle.dumps(stretch, pickle.HIGHEST_PROTOCOL))
    return Begun(piece, first, len(stretch.pages), left, watch.passed)


def joined(task: Task, source: Path | bytes, pieces: tuple[str, ...]) -> Outcome:
    """Join what was kept of a document, and write its outputs."""
    watch = _Slice(0.0)
    settings = task.settings
    name, data = opened(source, task.name)
    with PdfFile(data, name, settings.password) as pdf:

        def read_again(again: Stretch, last: Mapping[int, Placed]) -> Stretch:
            inks = _again(pdf, again, settings.recognition)
            return read_stretch(pdf, inks, find_method(settings.method), last)

        found = (pickle.loads(task.store.read(piece)) for piece in pieces)
        stretch = joined_stretches(found, read_again)
        document = document_of(pdf, stretch)
    outcome = _written(task, source, document, watch)
    for piece in pieces:
        task.store.delete(piece)
    return outcome


def _written(task: Task, source: Path | bytes, document: Document, watch: _Slice) -> Outcome:
    """Write the outputs of a document, and say what they are."""
    settings, outputs = task.settings, []

    def write(name: str, data: bytes) -> None:
        task.store.write(name, data)
        outputs.append(Output(name, len(data), hashlib.sha256(data).hexdigest()))

    if settings.pictures:
        save_pictures(document, source, f"{task.stem}-figures", write, settings.password)
    for format in settings.formats:
        text = emit(document, format, settings.options)
        write(f"{task.stem}.{FORMATS[format][0]}", as_bytes(text))
    for kind in part_kinds(settings.together):
        write(f"{PARTS}/{part_name(kind, task.hash)}", part(kind, document, settings.options))
    if settings.fields:
        line = as_bytes(filled_json(_filled(settings, document, source)) + "\n")
        write(f"{task.stem}.fields.json", line)
        write(f"{PARTS}/{part_name(FIELDS, task.hash)}", line)
    notes = list(document.findings)
    if settings.recipes is not None:
        # Most runs know no recipes, and need not load what reads them.
        from .data import data_findings, put_to, review_note

        applied, data = put_to(settings.recipes, document, source, settings.password)
        write(f"{PARTS}/{part_name(RECORDS, task.hash)}", data)
        notes += data_findings(applied)
        if not applied.good:
            write(f"{REVIEW}/{task.stem}.json", review_note(applied))
            picture = page_overlay(document, source, applied.page, settings.password)
            write(f"{REVIEW}/{task.stem}.png", picture)
    kinds = Counter(page.source for page in document.pages)
    return Outcome(
        task.name, "done", len(document.pages), len(document.tables), outputs=tuple(outputs),
        notes=tuple(notes), kinds=tuple(sorted(kinds.items())),
        seconds=watch.passed,
    )  # fmt: skip


def _filled(settings: Settings, document: Document, source: Path | bytes) -> FilledSchema:
    """The schema filled from a document; a service is asked about what is missing."""
    schema = json.loads(settings.fields)
    filled = fill(document, schema)
    service, asking = settings.asked()
    if service is None or not filled.missing():
        return filled
    how = (settings.pages, settings.password, settings.recognition, asking)
    return filled.completed(ask_fields(source, schema, service, *how))
