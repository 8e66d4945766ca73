"""PDF bytes -> pages of ink, one at a time."""

from __future__ import annotations

import contextlib
import functools
import io
import logging
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path
from types import TracebackType
from typing import Any, Self

import numpy as np
import pikepdf

from ..errors import DamagedPdf, LockedPdf, NotPdf
from .arrays import Fills, Glyphs, PageInk, Pictures, Shapes, Strokes, columns_of, distinct, is_unknown
from .collected import Matrix
from .content import Walk
from .font import Font, TextTable, without_controls
from .fonts import load_font
from .forms import page_fields
from .graphics import decode_graphics, decode_pictures
from .images import is_cut_off
from .navigation import OutlineItem, StructureTree, page_links, read_outline, read_structure
from .streams import MAX_BYTES, TooLarge, unpacked
from .text import decode_glyphs
from .underscores import draw_underscores

# What the object library says of damage it mended is no message to the user of this one.
logging.getLogger("pikepdf").addHandler(logging.NullHandler())

# The kind of a note on fonts that do not say what their characters are.
UNKNOWN_CHARACTERS = "unknown-characters"
_MAX_SIDE = 14_400 * 75  # user space units; beyond it a page is not meant to be seen (annex C.2)


class PdfFile:
    """An open PDF: its facts, and its pages as ink. Use it as a context manager.

    Nothing of a page outlives the `PageInk` that `page()` returns, except fonts, which pages share.
    """

    def __init__(self, source: Path | bytes, name: str, password: str = "") -> None:
        self.source, self.name, self.password = source, name, password
        self._pdf = _open(source, name, password)
        self._texts = TextTable()
        self._fonts: list[Font] = []
        self._font_numbers: dict[tuple[int, int], int] = {}
        self._bold_numbers: dict[int, int] = {}
        self._ahead: dict[int, PageInk] = {}
        try:
            self.page_count = len(self._pdf.pages)
        except Exception as error:
            raise DamagedPdf(f"{name} is damaged: its list of pages cannot be read.") from error
        if not self.page_count:
            raise DamagedPdf(f"{name} has no pages that can be read; it is damaged or empty.")
        self._hidden_groups = _hidden_groups(self._pdf)

    def __enter__(self) -> Self:
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        self._pdf.close()

    @property
    def title(self) -> str:
        """The title in the document information, or nothing."""
        return self._information("/Title")

    @property
    def producer(self) -> str:
        """The program that the document information names as what made the PDF, or nothing."""
        return self._information("/Producer")

    def _information(self, key: str) -> str:
        with contextlib.suppress(Exception):
            return " ".join(without_controls(str(self._pdf.docinfo.get(key, ""))).split())
        return ""

    @property
    def language(self) -> str:
        """The natural language that the catalog names (14.9.2), or nothing."""
        with contextlib.suppress(Exception):
            return without_controls(str(self._pdf.Root.get("/Lang", "")))
        return ""

    @functools.cached_property
    def _page_numbers(self) -> dict[tuple[int, int], int]:
        return {page.obj.objgen: i for i, page in enumerate(self._pdf.pages, start=1)}

    @functools.cached_property
    def outline(self) -> list[OutlineItem]:
        """The entries of the outline, from first to last; none where there is no outline."""
        return read_outline(self._pdf, self._page_numbers)

    @functools.cached_property
    def structure(self) -> StructureTree | None:
        """The structure tree of a tagged PDF."""
        return read_structure(self._pdf, self._page_numbers)

    def page(self, number: int) -> PageInk:
        """Read page `number` (from 1). One that cannot be read comes back empty, with a note."""
        if number in self._ahead:
            return self._ahead.pop(number)
        try:
            return self._page(number)
        except (MemoryError, KeyboardInterrupt):
            raise
        except Exception as error:
            note = f"page {number} is damaged and cannot be read ({type(error).__name__}); it was left out"
            return PageInk(
                number, 612.0, 792.0, columns_of(Glyphs, []), columns_of(Strokes, []), columns_of(Fills, []),
                columns_of(Shapes, []), columns_of(Pictures, []), [],
                self._texts.columns(),
                notes=[("broken-page", note)],
            )  # fmt: skip

    def page_ahead(self, number: int) -> PageInk:
        """Read a page whose turn has not come; it is kept until `page` is asked for it."""
        self._ahead[number] = self.page(number)
        return self._ahead[number]

    def _page(self, number: int) -> PageInk:
        page = self._pdf.pages[number - 1]
        base, width, height = _page_frame(page)
        box = (0.0, 0.0, width, height)
        walk = Walk(base, box, self._font_number, self._bold_number, self._hidden_groups)
        notes: list[tuple[str, str]] = []
        try:
            resources = page.resources
        except Exception:
            resources = pikepdf.Dictionary()
        walk.run(_contents(page, notes), resources)
        for appearance, matrix in _appearances(page):
            with contextlib.suppress(Exception):
                walk.form(appearance, matrix)
        collected = walk.finish()
        # Matrices of damaged files can hold anything; what overflows is dropped by the finite checks.
        tree = self.structure
        owners = [tree.owners.get((number, mcid), -1) for _, mcid in collected.marks] if tree else []
        with np.errstate(all="ignore"):
            glyphs = decode_glyphs(collected, self._fonts, self._texts)
            strokes, fills, shapes = decode_graphics(collected)
            pictures = decode_pictures(collected)
            glyphs = draw_underscores(glyphs, strokes, fills, self._texts)
        ink = PageInk(
            number=number,
            width=width,
            height=height,
            glyphs=glyphs,
            strokes=strokes,
            fills=fills,
            shapes=shapes,
            pictures=pictures,
            fonts=[font.facts for font in self._fonts],
            texts=self._texts.columns(),
            marks=collected.marks,
            tree=tree,
            owners=np.array(owners, dtype=np.int64),
            links=[
                (_moved(rectangle, base), without_controls(target)) for rectangle, target in page_links(page)
            ],
            form=[
                replace(entry, rectangle=_moved(entry.rectangle, base), value=without_controls(entry.value))
                for entry in page_fields(page)
            ],
            notes=notes + collected.notes,
        )
        _mark_covered(ink)
        ink.notes += unknown_characters(ink)
        return ink

    def page_size(self, number: int) -> tuple[float, float]:
        """Width and height of page `number` as it is seen, in points."""
        _, width, height = _page_frame(self._pdf.pages[number - 1])
        return width, height

    def lacks_image_data(self, ink: PageInk) -> bool:
        """Whether the data of an image that a page shows end before its last line."""
        numbers = distinct(ink.pictures.number[ink.pictures.number > 0]).tolist()
        with contextlib.suppress(Exception):
            return any(is_cut_off(self._pdf.get_object(number, 0)) for number in numbers)
        return False

    def page_label(self, number: int) -> str:
        """The label of page `number` (12.4.2), such as "iv"; nothing where it is the number itself."""
        if not self._labelled:
            return ""
        with contextlib.suppress(Exception):
            label = str(self._pdf.pages[number - 1].label)
            return "" if label == str(number) else label
        return ""

    @functools.cached_property
    def _labelled(self) -> bool:
        """Whether pages are labelled otherwise than by their numbers."""
        with contextlib.suppress(Exception):
            entries = list(self._pdf.Root.PageLabels.get("/Nums", []))
            only = len(entries) == 2 and int(entries[0]) == 0 and entries[1].get("/S") == "/D"
            return not (only and "/P" not in entries[1] and int(entries[1].get("/St", 1)) == 1)
        return False

    def pages(self, numbers: list[int]) -> Iterator[PageInk]:
        """Read the pages with the given numbers, one at a time."""
        for number in numbers:
            yield self.page(number)

    def _font_number(self, obj: Any) -> int:
        key = obj.objgen if isinstance(obj, pikepdf.Object) else (0, 0)
        found = self._font_numbers.get(key) if key != (0, 0) else None
        if found is None:
            found = len(self._fonts)
            self._fonts.append(load_font(obj, self._texts))
            if key != (0, 0):
                self._font_numbers[key] = found
        return found

    def _bold_number(self, number: int) -> int:
        """The number of a font that is set bold by strokes around its letters."""
        if number not in self._bold_numbers:
            self._bold_numbers[number] = len(self._fonts)
            font = self._fonts[number]
            self._fonts.append(replace(font, facts=replace(font.facts, bold=True)))
        return self._bold_numbers[number]


def unknown_characters(ink: PageInk) -> list[tuple[str, str]]:
    """Return a note for each font of a page whose characters are not known, with the number of glyphs
    concerned.
    """
    fonts, counts = np.unique(ink.glyphs.font[is_unknown(ink)], return_counts=True)
    names = [ink.fonts[font].name or "without a name" for font in fonts.tolist()]
    # By name: the numbers of fonts depend on which pages were read before.
    return [
        (UNKNOWN_CHARACTERS, f"{count} characters of the font {name} have no Unicode")
        for name, count in sorted(zip(names, counts.tolist(), strict=True))
    ]


def _open(source: Path | bytes, name: str, password: str) -> pikepdf.Pdf:
    head = source[:1024] if isinstance(source, bytes) else _head(source)
    if not head:
        raise NotPdf(f"{name} is empty; there is nothing to read.")
    try:
        return pikepdf.open(io.BytesIO(source) if isinstance(source, bytes) else source, password=password)
    except pikepdf.PasswordError as error:
        said = "the password given does not open it" if password else "it needs a password"
        raise LockedPdf(
            f"{name} is locked: {said}; give the right one (--password, or password= in Python)."
        ) from error
    except Exception as error:
        if b"%PDF-" not in head:
            raise NotPdf(
                f"{name} is not a PDF, nor a PNG, JPEG or TIFF picture; give one of these."
            ) from error
        raise DamagedPdf(
            f"{name} is damaged beyond repair; get it again from where it was published."
        ) from error


def _head(path: Path) -> bytes:
    with path.open("rb") as file:
        return file.read(1024)


def _moved(rectangle: tuple[float, float, float, float], m: Matrix) -> tuple[float, float, float, float]:
    """A rectangle of user space on the page as seen."""
    x0, y0, x1, y1 = rectangle
    xs = [m[0] * x + m[2] * y + m[4] for x in (x0, x1) for y in (y0, y1)]
    ys = [m[1] * x + m[3] * y + m[5] for x in (x0, x1) for y in (y0, y1)]
    return min(xs), min(ys), max(xs), max(ys)


def _page_frame(page: Any) -> tuple[Matrix, float, float]:
    """Matrix from user space to the page as seen, and the seen width and height (14.11.2, 7.7.3.3)."""
    x0, y0, x1, y1 = 0.0, 0.0, 612.0, 792.0
    for key in ("cropbox", "mediabox"):
        with contextlib.suppress(Exception):
            values = [float(v) for v in getattr(page, key)]
            left, right = sorted((values[0], values[2]))
            top, bottom = sorted((values[1], values[3]))
            if 0 < right - left <= _MAX_SIDE and 0 < bottom - top <= _MAX_SIDE:
                x0, y0, x1, y1 = left, top, right, bottom
                break
    unit, rotation = 1.0, 0
    with contextlib.suppress(Exception):
        unit = float(page.obj.get("/UserUnit", 1.0))
        unit = unit if 0.01 < unit < 1000 else 1.0
    with contextlib.suppress(Exception):
        rotation = int(_inherited(page.obj, "/Rotate", 0)) % 360
    w, h = (x1 - x0) * unit, (y1 - y0) * unit
    u = unit
    if rotation == 90:
        return (0.0, u, u, 0.0, -y0 * u, -x0 * u), h, w
    if rotation == 180:
        return (-u, 0.0, 0.0, u, x1 * u, -y0 * u), w, h
    if rotation == 270:
        return (0.0, -u, -u, 0.0, y1 * u, x1 * u), h, w
    return (u, 0.0, 0.0, -u, -x0 * u, y1 * u), w, h


def _inherited(node: Any, key: str, default: Any) -> Any:
    """An attribute of a page, or of the nearest page tree node above that has it (7.7.3.4)."""
    for _ in range(64):
        if key in node:
            return node[key]
        if "/Parent" not in node:
            break
        node = node.Parent
    return default


def _contents(page: Any, notes: list[tuple[str, str]]) -> bytes:
    """The page's content streams as one (7.8.2); a broken stream is left out with a note."""
    contents = page.obj.get("/Contents")
    streams = list(contents) if isinstance(contents, pikepdf.Array) else [contents]
    parts = []
    for stream in streams:
        if isinstance(stream, pikepdf.Stream):
            try:
                parts.append(unpacked(stream))
            except TooLarge as error:
                notes.append(("too-much-content", str(error)))
            except Exception:
                notes.append(
                    ("broken-stream", "a content stream cannot be unpacked; what it draws is missing")
                )
    content = b"\n".join(parts)
    if len(content) > MAX_BYTES:
        notes.append(("too-much-content", "the page draws more than can be read; the rest is left out"))
    return content[:MAX_BYTES]


def _appearances(page: Any) -> Iterator[tuple[Any, Matrix]]:
    """Normal appearance streams of the annotations that show, with the matrix that places them (12.5.5)."""
    try:
        annotations = list(page.obj.get("/Annots", []))
    except Exception:
        return
    for annotation in annotations:
        with contextlib.suppress(Exception):
            if annotation.get("/Subtype") in ("/Popup", "/Link") or int(annotation.get("/F", 0)) & (2 | 32):
                continue
            normal = annotation.get("/AP", {}).get("/N")
            if isinstance(normal, pikepdf.Dictionary) and not isinstance(normal, pikepdf.Stream):
                normal = normal.get(str(annotation.get("/AS", "/Off")))
            if not isinstance(normal, pikepdf.Stream):
                continue
            yield normal, _appearance_matrix(annotation, normal)


def _appearance_matrix(annotation: Any, form: Any) -> Matrix:
    a, b, c, d, e, f = (float(v) for v in form.get("/Matrix", [1, 0, 0, 1, 0, 0]))
    bx0, by0, bx1, by1 = (float(v) for v in form.BBox)
    xs = [a * x + c * y + e for x in (bx0, bx1) for y in (by0, by1)]
    ys = [b * x + d * y + f for x in (bx0, bx1) for y in (by0, by1)]
    r = [float(v) for v in annotation.Rect]
    rx0, rx1 = sorted((r[0], r[2]))
    ry0, ry1 = sorted((r[1], r[3]))
    sx = (rx1 - rx0) / (max(xs) - min(xs)) if max(xs) > min(xs) else 1.0
    sy = (ry1 - ry0) / (max(ys) - min(ys)) if max(ys) > min(ys) else 1.0
    return (sx, 0.0, 0.0, sy, rx0 - sx * min(xs), ry0 - sy * min(ys))


def _hidden_groups(pdf: pikepdf.Pdf) -> frozenset[tuple[int, int]]:
    """Optional content groups that the default configuration switches off (8.11.4)."""
    with contextlib.suppress(Exception):
        properties = pdf.Root.get("/OCProperties")
        if properties is None:
            return frozenset()
        config = properties.get("/D", pikepdf.Dictionary())
        off = {g.objgen for g in config.get("/OFF", [])}
        if config.get("/BaseState") == "/OFF":
            on = {g.objgen for g in config.get("/ON", [])}
            off |= {g.objgen for g in properties.get("/OCGs", [])} - on
        return frozenset(off)
    return frozenset()


def _mark_covered(ink: PageInk) -> None:
    """Mark glyphs as not visible that an opaque fill or a picture painted later hides wholly."""
    glyphs: Glyphs = ink.glyphs
    if not len(glyphs):
        return
    earliest = glyphs.order.min()
    fills, pictures = ink.fills, ink.pictures
    for kind, solid in ((fills, fills.opaque), (pictures, pictures.visible)):
        if not len(kind):
            continue
        later = np.flatnonzero(
            solid & (kind.order > earliest) & (kind.y1 - kind.y0 > 2) & (kind.x1 - kind.x0 > 2)
        )
        for i in later.tolist():
            glyphs.visible &= ~(
                (glyphs.order < kind.order[i])
                & (glyphs.x0 >= kind.x0[i] - 0.5)
                & (glyphs.x1 <= kind.x1[i] + 0.5)
                & (glyphs.y0 >= kind.y0[i] - 0.5)
                & (glyphs.y1 <= kind.y1[i] + 0.5)
            )
