"""The pages of a document, with what is only to be seen on them read."""

from __future__ import annotations

import contextlib
from collections.abc import Iterator
from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np

from ..errors import DamagedPdf, own_error
from ..ink import Floats, Grey, Ints, PageInk, PdfFile, TextKind, is_unknown, page_grey
from ..model import DOUBTFUL
from .kinds import PageKind, insets, nameless_fonts, page_kind
from .recogniser import COMMAND, Recogniser, open_recogniser
from .recognition import Recognition

if TYPE_CHECKING:
    from .nameless import NamelessFonts

# Pictures of a page are read at their own resolution between these (dots an inch).
COARSE, FINE = 72.0, 400.0
# A few unknown characters on a page are told where one of so many first pages shows a nameless font.
FIRST = 8
# Words of so many letters and more tell whether a page is in a known language, where there are so many of
# them: it is not, where more than this share is less sure than this. Of 47 scanned pages of known languages
# the worst had a share of 0.16; pages in Greek and in Cyrillic, read as if they were Latin, 0.87 to 0.89.
LETTERS, MANY, MOST, PLAIN = 3, 20, 0.5, 0.97
# What was read of such a page is doubtful, however sure the recogniser is.
STRANGE_SURE = 0.5
MORE = "name its languages with --languages where they are installed"
# Pictures with more samples than this are not opened: unpacked they would fill the memory.
MAX_SAMPLES = 400e6


# The finding of pictures whose data are not whole.
DAMAGED = "damaged-picture"


def recognised(pdf: PdfFile, numbers: list[int], how: Recognition) -> Iterator[PageInk]:
    """Yield pages; of those whose text stands in their picture only, what can be read there, and of those
    whose fonts name no characters, what these show.

    Each page says in its notes what could not be read, or is in doubt. Raises UsageError for a language that
    is not installed, where there is a page to recognise.
    """
    desk = _Desk(pdf, how)
    for ink in pdf.pages(numbers):
        page = ink
        if how.mode != "never" or page_kind(ink) is PageKind.PICTURE:
            try:
                page = desk.read(ink)
            except Exception as error:
                lost = f"what page {ink.number} shows in pictures was not read"
                ink.notes.append(own_error(error, lost))
        yield page


def seen_kind(pdf: PdfFile, ink: PageInk) -> PageKind:
    """Return the kind of a page; where pictures stand in its text, these are looked at."""
    kind = page_kind(ink)
    if kind is not PageKind.TEXT:
        return kind
    if nameless_fonts(ink):
        return PageKind.NAMELESS
    which = insets(ink)
    if len(which) and int((ink.pictures.columns * ink.pictures.lines).max()) <= MAX_SAMPLES:
        from .insets import shows_text

        with contextlib.suppress(DamagedPdf):
            grey = page_grey(pdf.source, ink.number, pdf.name, pdf.password, resolution(ink) / 72)
            return PageKind.MIXED if shows_text(ink, grey, which) else kind
    return kind


class _Desk:
    """Where the pages of one document are read; the recogniser is opened where the first page needs it."""

    def __init__(self, pdf: PdfFile, how: Recognition) -> None:
        self._pdf, self._how = pdf, how
        self._recogniser: Recogniser | None = None
        self._fonts: NamelessFonts | None = None
        # Whether each of the first pages that was read shows a font that names no characters.
        self._nameless: dict[int, bool] = {}

    def read(self, ink: PageInk) -> PageInk:
        """Read what needs to be read on a page, as far as that can be."""
        kind, page = page_kind(ink), f"page {ink.number}"
        if self._how.mode == "never":
            ink.notes.append(("picture-only", f"{page} is a picture without text; it was not read"))
            return ink
        if self._how.mode == "always" or kind is PageKind.PICTURE:
            return self._whole(ink)
        if kind is PageKind.LAYERED:
            return self._layered(ink)
        return self._insets(self._named(ink))

    def _open(self) -> Recogniser | None:
        self._recogniser = self._recogniser or open_recogniser(self._how.languages)
        return self._recogniser

    def _whole(self, ink: PageInk) -> PageInk:
        """A page that is a picture."""
        recogniser = self._open()
        if recogniser is None:
            said = f"page {ink.number} is a picture without text; to read its words: {COMMAND}"
            ink.notes.append(("picture-only", said))
            return ink
        grey = self._grey(ink)
        return ink if grey is None else _read(ink, grey, recogniser)

    def _layered(self, ink: PageInk) -> PageInk:
        """A page whose picture lies over or under text that is not seen."""
        page = f"page {ink.number}"
        recogniser = self._open()
        if recogniser is not None and (grey := self._grey(ink)) is not None:
            from .layers import agrees

            if not agrees(ink, grey, recogniser):
                said = f"{page} has a text layer that does not say what its picture shows; it was left out"
                ink.notes.append(("wrong-text-layer", said))
                return _read(ink, grey, recogniser)
        said = f"{page} is a picture; its text was taken from the invisible layer that comes with it"
        ink.notes.append(("text-layer", said))
        return ink

    def _named(self, ink: PageInk) -> PageInk:
        """A page of text, with the characters of fonts that name none."""
        own = nameless_fonts(ink)
        if ink.number <= FIRST:
            self._nameless[ink.number] = own
        if not (own or (is_unknown(ink).any() and self._begins_nameless())):
            return ink
        recogniser = self._open()
        if recogniser is None:
            said = f"a font on page {ink.number} names no characters; to read them: {COMMAND}"
            ink.notes.append(("nameless-font", said))
            return ink
        from .nameless import NamelessFonts

        self._fonts = self._fonts or NamelessFonts(self._pdf, recogniser)
        return self._fonts.told(ink)

    def _begins_nameless(self) -> bool:
        """Whether a font of the first pages names no characters."""
        for number in range(1, min(self._pdf.page_count, FIRST) + 1):
            if number not in self._nameless:
                self._nameless[number] = nameless_fonts(self._pdf.page_ahead(number))
            if self._nameless[number]:
                return True
        return False

    def _insets(self, ink: PageInk) -> PageInk:
        """A page of text, with what its pictures of text say."""
        which = insets(ink)
        if not len(which) or (recogniser := self._open()) is None or (grey := self._grey(ink)) is None:
            return ink
        from .insets import with_insets

        page, read = with_insets(ink, grey, which, recogniser)
        for part in read:
            words, doubtful = _words(part)
            said = (
                f"a picture on page {ink.number} shows text; {words} words were read there, "
                f"{doubtful} of them in doubt"
            )
            page.notes.append(("recognised-part", said))
        return page

    def _grey(self, ink: PageInk) -> Grey | None:
        """The page in grey; None, and a note, where it cannot be drawn."""
        pdf, page = self._pdf, f"page {ink.number}"
        if int((ink.pictures.columns * ink.pictures.lines).max(initial=0)) > MAX_SAMPLES:
            said = f"the picture of {page} is too large to be read; scan it at a lower resolution"
            ink.notes.append(("huge-picture", said))
            return None
        try:
            grey = page_grey(pdf.source, ink.number, pdf.name, pdf.password, resolution(ink) / 72)
        except DamagedPdf:
            ink.notes.append((DAMAGED, f"the picture of {page} is damaged and was not read"))
            return None
        if pdf.lacks_image_data(ink):
            ink.notes.append((DAMAGED, f"a picture of {page} is cut off; what it lacks is missing here too"))
        return grey


def _read(ink: PageInk, grey: Grey, recogniser: Recogniser) -> PageInk:
    """What a page shows in its picture, with a note of how much that is."""
    from .page import read_picture

    page = f"page {ink.number}"
    read = read_picture(ink, grey, recogniser)
    if _is_strange(read):
        # A recogniser names what it sees by the letters that it knows, and is rather sure of them.
        read = replace(read, glyphs=replace(read.glyphs, sure=read.glyphs.sure * STRANGE_SURE))
        said = f"{page} seems to be in a script or language that is not installed, or too poor to be read"
        read.notes.append(("unknown-language", f"{said}; what was read there is not to be trusted ({MORE})"))
    words, doubtful = _words(read)
    said = f"{page} was read from its picture; {doubtful} of its {words} words are in doubt"
    if words:
        read.notes.append(("recognised", said))
    elif not any(code == DAMAGED for code, _ in read.notes):
        read.notes.append(("nothing-recognised", f"nothing was recognised in the picture of {page}"))
    return read


def _words(page: PageInk) -> tuple[int, int]:
    """How many words were recognised, and how many of them are in doubt."""
    sure, signs, _ = _sure_words(page)
    return int((signs > 0).sum()), int((sure < DOUBTFUL).sum())


def _is_strange(page: PageInk) -> bool:
    """Whether most words of a page are less sure than nearly all words of a known language are."""
    sure, _, letters = _sure_words(page)
    words = letters >= LETTERS
    return int(words.sum()) >= MANY and float((sure[words] < PLAIN).mean()) > MOST


def _sure_words(page: PageInk) -> tuple[Floats, Ints, Ints]:
    """How sure the least sure sign of each word is, how many signs it has, and how many letters."""
    kind = page.texts.kind[page.glyphs.text]
    written = kind > TextKind.DOT
    blank = kind == TextKind.BLANK
    begins = blank | np.append(True, np.diff(page.glyphs.run) != 0)[: len(blank)]
    word, count = np.cumsum(begins), int(begins.sum()) + 1
    sure = np.ones(count)
    np.minimum.at(sure, word[written], page.glyphs.sure[written])
    signs = np.bincount(word[written], minlength=count)
    return sure, signs, np.bincount(word[kind == TextKind.LETTER], minlength=count)


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
