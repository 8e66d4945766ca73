"""The pages of a document with the characters of fonts that name none, told once for all pages."""

from __future__ import annotations

import itertools

from ..errors import DamagedPdf
from ..ink import UNKNOWN_CHARACTERS, PageInk, PdfFile, is_unknown, unknown_characters
from ..model import DOUBTFUL
from .naming import Name, find_names, named
from .recogniser import Recogniser
from .specimens import PAGES, drawn, find_specimens


class NamelessFonts:
    """What is known of the characters that nothing names in a document.

    `known` holds them by the index of their text, also those that could not be told.
    """

    def __init__(self, pdf: PdfFile) -> None:
        self.known: dict[int, Name] = {}
        self._pdf = pdf
        self._looked = False

    def look_at(self, ink: PageInk, recogniser: Recogniser) -> None:
        """Tell the unknown texts of the first pages of the document, and of a page."""
        pdf = self._pdf
        first = () if self._looked else range(1, min(pdf.page_count, PAGES) + 1)
        self._looked = True
        # One page after the other: all of them would fill the memory.
        pages = itertools.chain(pdf.pages([k for k in first if k != ink.number]), [ink])
        try:
            self.known |= find_names(drawn(pdf, find_specimens(pages, self.known)), recogniser)
        except DamagedPdf:
            return

    def told(self, ink: PageInk) -> PageInk:
        """Return a page with what is known of its texts, and a note that says so."""
        unknown = is_unknown(ink)
        if not self.known or not unknown.any():
            return ink
        page = named(ink, self.known)
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
