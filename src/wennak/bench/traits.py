"""Traits of true tables, by which scores are broken down."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from ..errors import WennakError
from ..ink import PdfFile
from ..layout import lay_out
from ..model import Place
from .grid import Grid, is_number

# A cell with so many characters hardly fits on one line.
LONG = 40
# Tables with fewer places than these are small, or of middle size.
SMALL, MIDDLE = 30, 120


def traits_of(grid: Grid, pages: Sequence[int]) -> dict[str, str]:
    """Return what the truth itself tells of a table, by kind of trait."""
    body = [c for c in grid.cells if c[0] >= grid.header_rows]
    numbers = sum(is_number(c[4]) for c in body) / max(1, len(body))
    size = grid.texts.size
    return {
        "size": "small" if size < SMALL else "middle" if size < MIDDLE else "large",
        "header": ("none", "one row", "several rows")[min(2, grid.header_rows)],
        "spans": "spans" if any(c[2] > 1 or c[3] > 1 for c in grid.cells) else "no spans",
        "long cells": "long cells" if any(len(c[4]) >= LONG for c in body) else "short cells",
        "empty cells": "empty cells" if len(grid.cells) and (grid.texts == "").any() else "full",
        "numbers": "few numbers"
        if numbers < 1 / 3
        else "some numbers"
        if numbers < 2 / 3
        else "mostly numbers",
        "pages": "unknown" if not pages else "one page" if len(set(pages)) == 1 else "several pages",
    }


def rules_of(pdf: Path, tables: Sequence[Sequence[Place]]) -> list[str]:
    """Return how each table is ruled on its first page: "full", "level", "upright", "shading", "none"; or
    "unknown" where its place is not known or the page cannot be read.
    """
    out = ["unknown"] * len(tables)
    try:
        with PdfFile(pdf, pdf.name) as file:
            for number in sorted({places[0].page for places in tables if places}):
                layout = lay_out(file.page(number))
                for k, places in enumerate(tables):
                    if places and places[0].page == number:
                        box = layout.seen_box(places[0].box)
                        level, upright, shades = layout.rules.level, layout.rules.upright, layout.rules.shades
                        em = layout.em
                        across = (level.at > box.y0 - em) & (level.at < box.y1 + em)
                        across &= (level.low < box.x1) & (level.high > box.x0)
                        down = (upright.at > box.x0 - em) & (upright.at < box.x1 + em)
                        down &= (upright.low < box.y1) & (upright.high > box.y0)
                        shaded = (shades.y0 < box.y1) & (shades.y1 > box.y0)
                        shaded &= (shades.x0 < box.x1) & (shades.x1 > box.x0)
                        out[k] = (
                            "full" if across.sum() > 1 and down.sum() > 1
                            else "level" if across.any()
                            else "upright" if down.any()
                            else "shading" if shaded.any()
                            else "none"
                        )  # fmt: skip
    except WennakError:
        pass
    return out
