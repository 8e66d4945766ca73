"""The pages of a document, with what is only to be seen on them read."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from ..errors import DamagedPdf, UsageError
from ..ink import UNKNOWN_CHARACTERS, PageInk, PdfFile, TextKind, is_unknown, page_grey, unknown_characters
from .kinds import PageKind, nameless_fonts, page_kind
from .recogniser import COMMAND, Recogniser, open_recogniser

if TYPE_CHECKING:
    from .naming import Name

MODES = ("auto", "never", "always")
# Pictures of a page are read at their own resolution between these (dots an inch).
COARSE, FINE = 72.0, 400.0
# Pictures with more samples than this are not opened: unpacked they would fill the memory.
MAX_SAMPLES = 400e6
# Words whose least sure character is below this are in doubt.
DOUBTFUL = 0.6


@dataclass(frozen=True, slots=True)
class Recognition:
    """Which pages are read from their picture: those that show no text ("auto"), "never" any, "always" all;
    and in which languages (codes of three letters; all that are installed if empty).

    Raises UsageError for any other mode.
    """

    mode: str = "auto"
    languages: tuple[str, ...] = ()

    def __post_init__(self) -> None:
        if self.mode not in MODES:
            raise UsageError(f"There is no mode {self.mode!r} of recognition; use one of {', '.join(MODES)}.")


AS_NEEDED = Recognition()


def recognised(pdf: PdfFile, numbers: list[int], how: Recognition) -> Iterator[PageInk]:
    """Yield pages; of those whose text stands in their picture only, what can be read there, and of those
    whose fonts name no characters, what these show.

    Each page says in its notes what could not be read, or is in doubt. Raises UsageError for a language that
    is not installed, where there is a page to recognise.
    """
    recogniser: Recogniser | None = None
    names: dict[int, Name] = {}
    looked = False
    for ink in pdf.pages(numbers):
        if how.mode != "never" and nameless_fonts(ink, names):
            recogniser = recogniser or open_recogniser(how.languages)
            if recogniser is None:
                said = f"a font on page {ink.number} names no characters; to read them: {COMMAND}"
                ink.notes.append(("nameless-font", said))
            else:
                names |= _names(pdf, ink, recogniser, names, looked)
                looked = True
        if names:
            ink = _named(ink, names)
        kind = page_kind(ink)
        page = f"page {ink.number}"
        if kind is PageKind.LAYERED and how.mode == "auto":
            said = f"{page} is a picture; its text was taken from the invisible layer that comes with it"
            ink.notes.append(("text-layer", said))
        wanted = kind is PageKind.PICTURE if how.mode == "auto" else how.mode == "always"
        if not wanted:
            if kind is PageKind.PICTURE:
                ink.notes.append(("picture-only", f"{page} is a picture without text; it was not read"))
            yield ink
            continue
        recogniser = recogniser or open_recogniser(how.languages)
        if recogniser is None:
            said = f"{page} is a picture without text; to read its words: {COMMAND}"
            ink.notes.append(("picture-only", said))
            yield ink
            continue
        yield _read(ink, pdf, recogniser)


def _read(ink: PageInk, pdf: PdfFile, recogniser: Recogniser) -> PageInk:
    from .page import read_picture

    if int((ink.pictures.columns * ink.pictures.lines).max(initial=0)) > MAX_SAMPLES:
        said = f"the picture of page {ink.number} is too large to be read; scan it at a lower resolution"
        ink.notes.append(("huge-picture", said))
        return ink
    try:
        grey = page_grey(pdf.source, ink.number, pdf.name, pdf.password, resolution(ink) / 72)
    except DamagedPdf:
        said = f"the picture of page {ink.number} is damaged and was not read"
        ink.notes.append(("damaged-picture", said))
        return ink
    page = read_picture(ink, grey, recogniser)
    words, doubtful = _words(page)
    if words:
        said = f"page {ink.number} was read from its picture; {doubtful} of its {words} words are in doubt"
        page.notes.append(("recognised", said))
    else:
        page.notes.append(
            ("nothing-recognised", f"nothing was recognised in the picture of page {ink.number}")
        )
    return page


def _names(
    pdf: PdfFile, ink: PageInk, recogniser: Recogniser, known: dict[int, Name], looked: bool
) -> dict[int, Name]:
    """What the unknown texts of a document show: of its first pages, then of each that has others."""
    from .naming import find_names
    from .specimens import PAGES, drawn, find_specimens

    first = () if looked else range(1, min(pdf.page_count, PAGES) + 1)
    try:
        specimens = find_specimens([*pdf.pages([k for k in first if k != ink.number]), ink], known)
        return find_names(drawn(pdf, specimens), recogniser)
    except DamagedPdf:
        return {}


def _named(ink: PageInk, names: dict[int, Name]) -> PageInk:
    """The page with what is known of its texts, and notes on it."""
    from .naming import named

    unknown = is_unknown(ink)
    if not unknown.any():
        return ink
    page = named(ink, names)
    read = unknown & ~is_unknown(page)
    if read.any():
        page.notes[:] = [note for note in page.notes if note[0] != UNKNOWN_CHARACTERS]
        doubtful = int((page.glyphs.sure[read] < DOUBTFUL).sum())
        said = (
            f"{int(read.sum())} characters of page {ink.number} are in fonts that name none; "
            f"they were told by their shapes, {doubtful} of them in doubt"
        )
        page.notes += [("told-by-shape", said), *unknown_characters(page)]
    return page


def _words(page: PageInk) -> tuple[int, int]:
    """How many words were recognised, and how many of them are in doubt."""
    kind = page.texts.kind[page.glyphs.text]
    written = kind > TextKind.DOT
    blank = kind == TextKind.BLANK
    begins = blank | np.append(True, np.diff(page.glyphs.run) != 0)[: len(blank)]
    word = np.cumsum(begins)[written]
    sure = np.ones(int(begins.sum()) + 1)
    np.minimum.at(sure, word, page.glyphs.sure[written])
    return len(np.unique(word)), int((sure < DOUBTFUL).sum())


def resolution(ink: PageInk) -> float:
    """Return the dots an inch at which the pictures of a page are read: those of the largest."""
    p = ink.pictures
    if not len(p):
        return FINE / 2
    area = (p.x1 - p.x0) * (p.y1 - p.y0)
    k = int(area.argmax())
    # Pictures may stand on their side.
    across, down = sorted((float(p.x1[k] - p.x0[k]), float(p.y1[k] - p.y0[k])))
    small, large = sorted((int(p.columns[k]), int(p.lines[k])))
    dots = max(small / max(across, 1.0), large / max(down, 1.0)) * 72
    return min(max(dots, COARSE), FINE)
