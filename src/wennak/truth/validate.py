"""What is wrong with a truth, and what a person still has to do."""

from __future__ import annotations

import re
import unicodedata
from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass

from ..errors import SourceError
from ..ink import PdfFile
from .files import file_hash
from .model import Truth, TruthTable

_SLIGHT = re.compile(r"[\s\u00ad\u2010-]+")


@dataclass(frozen=True, slots=True)
class Problem:
    """One thing to look at: table number (from 1; 0 for the whole file) and a sentence. `grave` problems keep
    the table from being scored soundly; the others are for the eye.
    """

    table: int
    message: str
    grave: bool = True


def validate(truth: Truth, page_texts: Callable[[Truth], dict[int, str]] | None = None) -> list[Problem]:
    """Return what is wrong with a truth: holes and overlaps of its grids, pages that do not exist, a PDF that
    has changed, cell texts that are not on their pages, tables nobody has checked.

    `page_texts` gives the characters of each page of the PDF; by default they are read from its ink.
    """
    out: list[Problem] = []
    pdf = truth.pdf
    texts: dict[int, str] = {}
    if pdf is None or not pdf.exists():
        out.append(Problem(0, f"its PDF {truth.source or '(none is named)'} is not there"))
    else:
        if truth.sha256 and file_hash(pdf) != truth.sha256:
            out.append(Problem(0, f"{pdf.name} is not the file that the truth was made from"))
        try:
            texts = (page_texts or ink_texts)(truth)
        except SourceError as error:
            out.append(Problem(0, str(error)))
    for number, entry in enumerate(truth.tables, start=1):
        out += [Problem(number, said) for said in _grid_problems(entry)]
        if entry.state == "drafted":
            out.append(Problem(number, "is drafted and not checked by a person", grave=False))
        elif entry.doubts:
            out.append(Problem(number, f"has {_count(len(entry.doubts), 'doubtful cell')} left", grave=False))
        if texts:
            out += _page_problems(number, entry, texts)
    return out


def _grid_problems(entry: TruthTable) -> list[str]:
    table = entry.table
    count: Counter[tuple[int, int]] = Counter(
        (r, c)
        for cell in table.cells
        for r in range(cell.row, cell.row + cell.rowspan)
        for c in range(cell.column, cell.column + cell.colspan)
    )
    out = []
    overlaps = sorted(at for at, n in count.items() if n > 1)
    if overlaps:
        r, c = overlaps[0]
        out.append(
            f"has {_count(len(overlaps), 'place')} that two cells cover, first row {r + 1}, column {c + 1}"
        )
    outside = [at for at in count if at[0] >= table.rows or at[1] >= table.columns]
    if outside:
        out.append("has a cell that reaches beyond its grid")
    holes = table.rows * table.columns - len(count)
    if holes > 0 and not outside:
        r, c = next((r, c) for r in range(table.rows) for c in range(table.columns) if (r, c) not in count)
        out.append(f"has {_count(holes, 'place')} without a cell, first row {r + 1}, column {c + 1}")
    if not any(cell.text for cell in table.cells):
        out.append("holds no text")
    return out


def _count(count: int, what: str) -> str:
    return f"{count} {what}{'' if count == 1 else 's'}"


def _page_problems(number: int, entry: TruthTable, texts: dict[int, str]) -> list[Problem]:
    missing = [p for p in entry.pages if p not in texts]
    if missing:
        return [Problem(number, f"stands on page {missing[0]}, which the PDF does not have")]
    pages = entry.pages or sorted(texts)
    held = "".join(texts[p] for p in pages)
    absent = [c for c in entry.table.cells if c.text and not _is_on(c.text, held)]
    if not absent:
        return []
    first = absent[0]
    said = f"has {_count(len(absent), 'cell')} whose text is not on the page, first row {first.row + 1}, "
    return [Problem(number, f"{said}column {first.column + 1}: {first.text[:40]!r}", grave=False)]


def _is_on(text: str, page: str) -> bool:
    """Whether all words of a text are on a page, wherever lines break; marks of list items aside."""
    plain = squeezed(text)
    return plain in page or all(
        squeezed(word) in page for word in re.sub(r"(?m)^(•|\d+\.) ", "", text).split()
    )


def squeezed(text: str) -> str:
    """Return a text in compatibility form without blanks and hyphens, which lines may end with."""
    return _SLIGHT.sub("", unicodedata.normalize("NFKC", text))


def ink_texts(truth: Truth) -> dict[int, str]:
    """Return the characters drawn on each page of a truth's PDF, squeezed."""
    pdf = truth.pdf
    assert pdf is not None
    out = {}
    with PdfFile(pdf, pdf.name) as file:
        for number in range(1, file.page_count + 1):
            ink = file.page(number)
            out[number] = squeezed("".join(ink.texts.strings[i] for i in ink.glyphs.text.tolist()))
    return out
