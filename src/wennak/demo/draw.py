"""Draws the demo collection and writes its truth: python -m wennak.demo.draw FOLDER.

Needs reportlab (the extra `dev`). The same version of it draws the same bytes every time.
"""

from __future__ import annotations

import functools
import sys
from collections.abc import Callable
from html import escape
from pathlib import Path
from typing import Any

from reportlab.lib import colors
from reportlab.lib.pagesizes import A4
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas
from reportlab.platypus import Flowable, KeepTogether, Paragraph, SimpleDocTemplate, Spacer, Table, TableStyle

from .scenario import BOARD, PAPERS, Entry, Paper, Sheet

STYLES = {
    "h1": ParagraphStyle("h1", fontName="Helvetica-Bold", fontSize=18, leading=22, spaceAfter=8),
    "h2": ParagraphStyle(
        "h2", fontName="Helvetica-Bold", fontSize=13, leading=16, spaceBefore=10, spaceAfter=4
    ),
    "p": ParagraphStyle("p", fontName="Helvetica", fontSize=10, leading=13.5, spaceAfter=8),
    "li": ParagraphStyle(
        "li", fontName="Helvetica", fontSize=10, leading=13.5, leftIndent=14, bulletIndent=4, spaceAfter=3
    ),
    "caption": ParagraphStyle("caption", fontName="Helvetica-Oblique", fontSize=9, leading=12, spaceAfter=4),
}
# How each paper sets its tables: font size, padding, and the commands of the table style.
LOOKS: dict[str, tuple[float, float, list[tuple[Any, ...]]]] = {
    "fares-circular": (
        10, 3, [("ALIGN", (2, 0), (-1, -1), "RIGHT"), ("FONT", (0, 0), (-1, 0), "Helvetica-Bold")]
    ),
    "timetable": (
        9.5,
        4,
        [
            ("GRID", (0, 0), (-1, -1), 0.5, colors.black),
            ("FONT", (0, 0), (-1, 1), "Helvetica-Bold"),
            ("BACKGROUND", (0, 0), (-1, 1), colors.Color(0.88, 0.92, 0.95)),
            ("ALIGN", (2, 0), (-1, -1), "CENTER"),
            ("VALIGN", (0, 0), (-1, -1), "MIDDLE"),
        ],
    ),
    "tide-table": (
        8.5,
        1.6,
        [
            ("LINEABOVE", (0, 0), (-1, 0), 1, colors.black),
            ("LINEBELOW", (0, 0), (-1, 0), 0.5, colors.black),
            ("LINEBELOW", (0, -1), (-1, -1), 1, colors.black),
            ("FONT", (0, 0), (-1, 0), "Helvetica-Bold"),
            ("ALIGN", (1, 0), (-1, -1), "RIGHT"),
        ],
    ),
}  # fmt: skip


def draw(paper: Paper, path: Path) -> None:
    """Draw one paper as a PDF."""
    document = SimpleDocTemplate(
        str(path), pagesize=A4, title=paper.title, author=BOARD,
        leftMargin=25 * mm, rightMargin=25 * mm, topMargin=28 * mm, bottomMargin=25 * mm,
    )  # fmt: skip
    story: list[Flowable] = []
    for part in paper.parts:
        if isinstance(part, Sheet):
            caption = [Paragraph(escape(part.caption), STYLES["caption"])] if part.caption else []
            table = _table(part, paper.name)
            # A caption stays with a table that fits the page; a longer one follows it at once.
            story += [KeepTogether([*caption, table])] if len(part.body) < 30 else [*caption, table]
            story.append(Spacer(1, 8))
        else:
            style, text = part
            bullet = "\u2022" if style == "li" else None
            story.append(Paragraph(escape(text), STYLES[style], bulletText=bullet))
    decorate = functools.partial(_furniture, title=paper.title)
    document.build(story, onFirstPage=decorate, onLaterPages=decorate, canvasmaker=_plain_canvas)


def _plain_canvas(*args: Any, **options: Any) -> Any:
    """Uncompressed and without a date, so that the bytes depend on nothing but the content."""
    return Canvas(*args, **{**options, "invariant": 1, "pageCompression": 0})


def _furniture(canvas: Any, document: Any, title: str) -> None:
    canvas.saveState()
    canvas.setFont("Helvetica", 8)
    canvas.drawString(25 * mm, A4[1] - 15 * mm, f"{BOARD} · {title}")
    canvas.drawRightString(A4[0] - 25 * mm, 12 * mm, f"Page {document.page}")
    canvas.restoreState()


def _table(sheet: Sheet, name: str) -> Any:
    size, padding, look = LOOKS[name]
    rows, spans = _grid([*sheet.head, *sheet.body])
    style = [
        ("FONT", (0, 0), (-1, -1), "Helvetica", size),
        ("TOPPADDING", (0, 0), (-1, -1), padding),
        ("BOTTOMPADDING", (0, 0), (-1, -1), padding),
        *((*command, size) if command[0] == "FONT" else command for command in look),
        *spans,
    ]
    return Table(rows, style=TableStyle(style), repeatRows=len(sheet.head), hAlign="LEFT")


def _grid(rows: list[list[Entry]]) -> tuple[list[list[str]], list[tuple[Any, ...]]]:
    """Fill in the positions that spans cover; also the span commands."""
    width = sum(e.colspan for e in rows[0])
    texts = [[""] * width for _ in rows]
    taken: set[tuple[int, int]] = set()
    spans: list[tuple[Any, ...]] = []
    for r, row in enumerate(rows):
        c = 0
        for entry in row:
            while (r, c) in taken:
                c += 1
            texts[r][c] = entry.text
            taken |= {(r + i, c + j) for i in range(entry.rowspan) for j in range(entry.colspan)}
            if entry.rowspan > 1 or entry.colspan > 1:
                spans.append(("SPAN", (c, r), (c + entry.colspan - 1, r + entry.rowspan - 1)))
            c += entry.colspan
    return texts, spans


def truth(paper: Paper) -> str:
    """Return the paper's tables as the HTML that a perfect reading gives."""
    head = f'<head><meta charset="utf-8"><title>{escape(paper.title)}</title></head>'
    parts = [f'<!DOCTYPE html>\n<html lang="en">\n{head}\n<body>\n']
    for sheet in paper.parts:
        if isinstance(sheet, Sheet):
            caption = f"<caption>{escape(sheet.caption)}</caption>\n" if sheet.caption else ""
            heads = "".join(_row(row, "th") for row in sheet.head)
            body = "".join(_row(row, "td") for row in sheet.body)
            parts.append(f"<table>\n{caption}<thead>\n{heads}</thead>\n<tbody>\n{body}</tbody>\n</table>\n")
    return "".join([*parts, "</body>\n</html>\n"])


def _row(row: list[Entry], tag: str) -> str:
    cells = []
    for entry in row:
        spans = f' rowspan="{entry.rowspan}"' if entry.rowspan > 1 else ""
        spans += f' colspan="{entry.colspan}"' if entry.colspan > 1 else ""
        cells.append(f"<{tag}{spans}>{escape(entry.text, quote=False)}</{tag}>")
    return f"<tr>{''.join(cells)}</tr>\n"


def draw_all(folder: Path) -> None:
    """Draw every paper into the folder, with its truth beside it."""
    folder.mkdir(parents=True, exist_ok=True)
    makers: tuple[Callable[[], Paper], ...] = PAPERS
    for make in makers:
        paper = make()
        draw(paper, folder / f"{paper.name}.pdf")
        (folder / f"{paper.name}.html").write_text(truth(paper), encoding="utf-8", newline="\n")


if __name__ == "__main__":
    draw_all(Path(sys.argv[1]))
