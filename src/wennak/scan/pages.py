"""The pages of a document, with what is only to be seen on them read."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from pathlib import Path

from ..errors import DamagedPdf, UsageError
from ..ink import PageInk, page_grey
from .kinds import PageKind, page_kind
from .recogniser import COMMAND, Recogniser, open_recogniser

MODES = ("auto", "never", "always")
# Resolutions that are worth reading (dots an inch): what is finer is drawn at the last of them.
FINE, COARSE = 400.0, 72.0


@dataclass(frozen=True, slots=True)
class Recognition:
    """Which pages are recognised: those that need it ("auto"), "never" any, "always" all; and in which
    languages (codes of three letters; all that are installed if empty).

    Raises UsageError for any other mode.
    """

    mode: str = "auto"
    languages: tuple[str, ...] = ()

    def __post_init__(self) -> None:
        if self.mode not in MODES:
            raise UsageError(f"There is no mode {self.mode!r} of recognition; use one of {', '.join(MODES)}.")


def recognised(
    pages: Iterable[PageInk], source: Path | bytes, name: str, password: str, how: Recognition
) -> Iterator[PageInk]:
    """Yield the pages; of those whose text stands in their picture only, what can be read there.

    Raises UsageError where a language is not installed, if a page needs it.
    """
    recogniser: Recogniser | None = None
    for ink in pages:
        if how.mode == "never" or (how.mode == "auto" and page_kind(ink) is not PageKind.PICTURE):
            yield ink
            continue
        recogniser = recogniser or open_recogniser(how.languages)
        if recogniser is None:
            sentence = f"page {ink.number} is a picture without text; to read its words: {COMMAND}"
            ink.notes.append(("picture-only", sentence))
            yield ink
            continue
        yield _read(ink, source, name, password, recogniser)


def _read(ink: PageInk, source: Path | bytes, name: str, password: str, recogniser: Recogniser) -> PageInk:
    from .page import read_picture

    try:
        grey = page_grey(source, ink.number, name, password, resolution(ink) / 72)
    except DamagedPdf:
        ink.notes.append(("damaged-picture", f"the picture of page {ink.number} cannot be shown; it was not read"))
        return ink
    return read_picture(ink, grey, recogniser)


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
