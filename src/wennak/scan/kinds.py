"""What kind of file or page this is: a picture, text, a picture under text."""

from __future__ import annotations

import enum
from collections.abc import Collection
from pathlib import Path

import numpy as np

from ..ink import Bools, Floats, Ints, PageInk, TextKind, is_unknown

# Pictures over this share of a page, with next to no text seen, are a scan of it.
SCANNED = 0.4
# A page shows text where it has this many characters.
FEW = 12
# A font names no characters where a page shows so many of its glyphs without any.
MANY = 12
# A picture of text on a page of text covers at least this share of it, with so many samples an inch, and
# nothing is written over it.
LEAST, COARSE = 0.03, 90.0


class PageKind(enum.Enum):
    """Kinds of pages, by what their text can be read from; values are the words for them."""

    TEXT = "text"
    PICTURE = "scan"
    LAYERED = "scan with a text layer"
    MIXED = "text and scans"
    NAMELESS = "fonts without Unicode"


def is_picture(source: Path | bytes) -> bool:
    """Return whether a file is a PNG, JPEG or TIFF, by its first bytes."""
    if isinstance(source, Path):
        with source.open("rb") as file:
            head = file.read(8)
    else:
        head = source[:8]
    return head.startswith((b"\x89PNG\r\n\x1a\n", b"\xff\xd8\xff", b"II*\0", b"MM\0*"))


def page_kind(ink: PageInk) -> PageKind:
    """Return the kind of a page, as far as what is drawn on it tells: TEXT, PICTURE or LAYERED."""
    said = _said(ink)
    if int((said & ink.glyphs.visible).sum()) >= FEW or picture_share(ink) < SCANNED:
        return PageKind.TEXT
    return PageKind.LAYERED if said.sum() >= FEW else PageKind.PICTURE


def picture_share(ink: PageInk) -> float:
    """Return the share of the page that its pictures cover together; scans come in strips too."""
    p = ink.pictures
    area = ((p.x1 - p.x0) * (p.y1 - p.y0))[p.visible].sum()
    return min(1.0, float(area) / max(ink.width * ink.height, 1.0))


def _said(ink: PageInk) -> Bools:
    """Which glyphs say something."""
    if not len(ink.glyphs):
        return np.zeros(0, dtype=np.bool_)
    said: Bools = ink.texts.kind[ink.glyphs.text] > TextKind.BLANK
    return said


def nameless_fonts(ink: PageInk, names: Collection[int] = ()) -> bool:
    """Return whether a page shows a font that names no characters; `names` are the texts known by now."""
    unknown = is_unknown(ink)
    if unknown.sum() < MANY:
        return False
    unknown &= ~np.isin(ink.glyphs.text, list(names))
    return bool((np.bincount(ink.glyphs.font[unknown]) >= MANY).any())


def insets(ink: PageInk) -> Ints:
    """Return which pictures of a page may show text: large and fine enough, and with nothing written on."""
    p, g = ink.pictures, ink.glyphs
    area = (p.x1 - p.x0) * (p.y1 - p.y0)
    dpi = np.minimum(p.columns / np.maximum(p.x1 - p.x0, 1.0), p.lines / np.maximum(p.y1 - p.y0, 1.0)) * 72
    likely = p.visible & (area > LEAST * ink.width * ink.height) & (dpi > COARSE)
    x, y = (g.x0 + g.x1) / 2, (g.y0 + g.y1) / 2
    at = np.flatnonzero(likely).tolist()
    free = [k for k in at if not _inside(x, y, p.x0[k], p.y0[k], p.x1[k], p.y1[k])]
    return np.array(free, dtype=np.int64)


def _inside(x: Floats, y: Floats, x0: float, y0: float, x1: float, y1: float) -> bool:
    return bool(((x > x0) & (x < x1) & (y > y0) & (y < y1)).any())
