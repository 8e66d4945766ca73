"""Labels with their values, as documents print them: in forms, lines of text, tables of nothing else."""

from __future__ import annotations

import re
from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass

from .model import Document, Fields, Figure, Heading, ListBlock, Paragraph, Place, Table
from .values import bare_of, number_of

# A label of a line of text, before its colon, is at most so long, in words.
LABEL_WORDS = 7
# Labels and values stand in turn in tables of no more columns; so many labels may be numbers (a year).
MOST_COLUMNS = 6
STRAY = 0.1
_LABELLED = re.compile(r"^\s*([^:：]{2,80}?)\s*[:：]\s+(\S.*)$")


@dataclass(frozen=True, slots=True)
class Pair:
    """A label with its value as printed; `checked` is the state of a check box."""

    label: str
    text: str
    place: Place | None
    checked: bool | None = None
    confidence: float = 1.0


def _known_labels(names: Sequence[str]) -> re.Pattern[str]:
    """The pattern of the labels that are looked for, each before a colon."""
    parts = sorted((r"\s+".join(map(re.escape, name.split())) for name in names), key=len, reverse=True)
    return re.compile(rf"(?:^|(?<=\s))({'|'.join(parts) or '(?!)'})\s*[:：](?=\s)", re.I)


def pairs_in(document: Document, names: Sequence[str], without: Collection[int] = ()) -> Iterator[Pair]:
    """Yield labels with their values, in reading order.

    `names` are labels that are looked for: they part a line of text that holds several of them. Tables whose
    `id` is in `without` are left out.
    """
    known = _known_labels(names)
    for block in document.blocks:
        match block:
            case Fields():
                for entry in block.fields:
                    place = _first(entry.places or block.places)
                    yield Pair(entry.label.rstrip(" :"), entry.value, place, entry.checked)
            case Paragraph() | Heading() | Figure():
                for line in block.text.splitlines():
                    yield from _labelled(line, block.places, known)
            case ListBlock():
                for item in block.items:
                    if item.label and block.style == "terms":
                        yield Pair(item.label.rstrip(" :"), item.text, _first(item.places))
                    else:
                        yield from _labelled(item.text, item.places, known)
            case Table() if id(block) not in without:
                yield from _in_table(block, known)


def _first(places: Sequence[Place]) -> Place | None:
    return places[0] if places else None


def _labelled(line: str, places: Sequence[Place], known: re.Pattern[str]) -> Iterator[Pair]:
    """Labels and values of a line of text, several where lines of a form were joined to one."""
    labels = list(known.finditer(line))
    if not labels:
        found = _LABELLED.match(line)
        if found and len(found[1].split()) <= LABEL_WORDS:
            yield Pair(found[1], found[2].strip(), _first(places))
        return
    ends = [*(label.start() for label in labels[1:]), len(line)]
    for label, end in zip(labels, ends, strict=True):
        yield Pair(label[1], line[label.end() : end].strip(), _first(places))


def _in_table(table: Table, known: re.Pattern[str]) -> Iterator[Pair]:
    """Labels and values of a table that holds them in turn, and of cells that hold both."""
    grid = table.grid()
    if _labels_alternate(table):
        for row in grid:
            for k in range(0, table.columns, 2):
                label, value = row[k], row[k + 1]
                # A label that spans both columns heads what follows.
                if label is None or not label.text or label is value:
                    continue
                text = value.text if value is not None else ""
                places = (value or label).places or label.places
                sure = min(label.confidence, value.confidence if value is not None else 1.0)
                said = " ".join(text.split())
                yield Pair(label.text.rstrip(" :"), said, _first(places), None, sure)
    for cell in table.cells:
        for line in cell.text.splitlines():
            yield from _labelled(line, cell.places, known)


def _labels_alternate(table: Table) -> bool:
    """Whether every other column, from the first on, holds labels: hardly a number among them."""
    if table.columns % 2 or table.columns > MOST_COLUMNS:
        return False
    labels = [bare_of(c.text) for c in table.cells if c.text and c.column % 2 == 0]
    numbers = sum(text[-1:].isdigit() and number_of(text, ".") is not None for text in labels)
    return bool(labels) and numbers <= STRAY * len(labels)
