"""The pages of a document with the characters of fonts that name none, told once for all pages."""

from __future__ import annotations

from collections.abc import Iterable

from ..errors import DamagedPdf
from ..ink import UNKNOWN_CHARACTERS, PageInk, PdfFile, is_unknown, unknown_characters
from ..model import DOUBTFUL
from .kinds import nameless_fonts
from .naming import Name, find_names, named
from .recogniser import Recogniser
from .specimens import PAGES, drawn, find_specimens


class NamelessFonts:
    """What is known of the characters that nothing names in a document, from its first pages.

    What is told of a later page comes from these and from that page, so that it does not depend on which
    others were read before it.
    """

    def __init__(self, pdf: PdfFile, recogniser: Recogniser) -> None:
        self._pdf, self._recogniser = pdf, recogniser
        self._first = self._names(pdf.pages(list(range(1, min(pdf.page_count, PAGES) + 1))), {})

    def _names(self, pages: Iterable[PageInk], known: dict[int, Name]) -> dict[int, Name]:
        # One page after the other: all of them would fill the memory.
        try:
            return find_names(drawn(self._pdf, find_specimens(pages, known)), self._recogniser)
        except DamagedPdf:
            return {}

    def told(self, ink: PageInk) -> PageInk:
        """Return a page with what is known of its texts, and a note that says so."""
        known = self._first
        if nameless_fonts(ink, known):
            known = known | self._names([ink], known)
        unknown = is_unknown(ink)
        if not known or not unknown.any():
            return ink
        page = named(ink, known)
        read = unknown & ~is_unknown(page)
        if read.any():
            doubtful = int((page.glyphs.sure[read] < DOUBTFUL).sum())
            said = (
                f"{int(read.sum())} characters of page {ink.number} are in fonts that name none; "
                f"they were told by their shapes, {doubtful} of them in doubt"
            )
            page.notes[:] = [note for note in page.notes if note[0] != UNKNOWN_CHARACTERS]
            page.notes += [("told-by-shape", said), *unknown_characters(page)]
        return page
