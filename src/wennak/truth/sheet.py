"""The check sheet: one HTML page on which a person checks a truth against its pages, offline."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from ..emit import page_of, write_whole
from ..errors import MissingSource
from ..ink.raster import grey_url, page_pictures
from .files import STYLE
from .model import Truth, TruthTable

# Pixels a point: small print stays readable, a page takes about 100 kB.
SCALE = 1.6


def write_sheet(truth: Truth, folder: str | Path) -> Path:
    """Write the check sheet of a truth as NAME-sheet.html into a folder; return its path.

    NAME is that of the truth, or of its folder where that tells more. Raises MissingSource if the PDF is not
    there, DamagedPdf if its pages cannot be drawn.
    """
    name = truth.path.resolve().parent.name if truth.path.stem == "truth" else truth.path.stem
    path = Path(folder) / f"{name}-sheet.html"
    write_whole(path, sheet_html(truth))
    return path


def sheet_html(truth: Truth) -> str:
    """Return the check sheet of a truth: pictures of its pages beside grids that can be edited."""
    pdf = truth.pdf
    if pdf is None or not pdf.exists():
        raise MissingSource(f"The PDF of {truth.path} is not there; the sheet shows its pages.")
    pages = sorted({p for t in truth.tables for p in t.pages})
    pictures: dict[int, dict[str, Any]] = {}
    for number, picture, scale in page_pictures(pdf, pages, pdf.name, scale=SCALE):
        pictures[number] = {
            "url": grey_url(picture),
            "width": picture.width / scale,
            "height": picture.height / scale,
        }
    content = {
        "name": truth.path.name, "source": truth.source, "sha256": truth.sha256, "style": STYLE,
        "pictures": pictures, "tables": [_table(entry) for entry in truth.tables],
    }  # fmt: skip
    return page_of("wennak.truth", "sheet", content, name=truth.path.name, source=Path(truth.source).name)


def _table(entry: TruthTable) -> dict[str, Any]:
    table = entry.table
    return {
        "state": entry.state, "by": entry.by, "when": entry.when, "remarks": entry.remarks,
        "pages": entry.pages, "caption": table.caption, "rows": table.rows, "columns": table.columns,
        "places": [[p.page, p.box.x0, p.box.y0, p.box.x1, p.box.y1] for p in table.places],
        "cells": [
            {
                "row": c.row, "column": c.column, "rowspan": c.rowspan, "colspan": c.colspan, "text": c.text,
                "header": c.header, "doubt": entry.doubts.get((c.row, c.column), ""),
                "places": [[p.page, p.box.x0, p.box.y0, p.box.x1, p.box.y1] for p in c.places],
            }
            for c in table.cells
        ],
    }  # fmt: skip
