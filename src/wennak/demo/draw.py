"""Draws the demo collection and writes its truth: python -m wennak.demo.draw FOLDER.

Needs reportlab (the extra `dev`). The same version of it draws the same bytes every time.
"""

from __future__ import annotations

import functools
import random
import re
import sys
from collections.abc import Callable
from html import escape
from itertools import pairwise
from pathlib import Path
from typing import Any

import matplotlib
from reportlab.lib import colors
from reportlab.lib.enums import TA_RIGHT
from reportlab.lib.pagesizes import A4, landscape
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.pdfgen.canvas import Canvas
from reportlab.platypus import (
    BaseDocTemplate,
    Flowable,
    Frame,
    HRFlowable,
    KeepTogether,
    PageTemplate,
    Paragraph,
    Preformatted,
    Spacer,
    Table,
    TableStyle,
)

from .scenario import BOARD, PAPERS, SEED, Entry, Paper, Sheet

BODY = {"fontName": "Helvetica", "fontSize": 10, "leading": 13.5}
STYLES = {
    "h1": ParagraphStyle("h1", fontName="Helvetica-Bold", fontSize=18, leading=22, spaceAfter=8),
    "h2": ParagraphStyle(
        "h2", fontName="Helvetica-Bold", fontSize=13, leading=16, spaceBefore=10, spaceAfter=4
    ),
    "p": ParagraphStyle("p", **BODY, spaceAfter=8),
    "li": ParagraphStyle("li", **BODY, leftIndent=14, bulletIndent=4, spaceAfter=3),
    "quote": ParagraphStyle("quote", **BODY, leftIndent=18, rightIndent=18, spaceAfter=8),
    "code": ParagraphStyle("code", fontName="Courier", fontSize=8.5, leading=11, leftIndent=4, spaceAfter=8),
    "caption": ParagraphStyle("caption", fontName="Helvetica-Oblique", fontSize=9, leading=12, spaceAfter=4),
    "note": ParagraphStyle("note", fontName="Helvetica", fontSize=8, leading=10.5, spaceAfter=2),
    "cell": ParagraphStyle("cell", fontName="Helvetica", fontSize=9, leading=11),
    "head": ParagraphStyle("head", fontName="Helvetica-Bold", fontSize=9, leading=11),
    "number": ParagraphStyle("number", fontName="Helvetica", fontSize=9, leading=11, alignment=TA_RIGHT),
}
# Scripts that the standard fonts lack are set in a font that comes with the plotting library.
OTHER_SCRIPT = {"crew-notice"}
# Widths of columns, in points, of tables whose cells run over several lines.
WIDTHS = {"cargo-manifest": (30, 70, 190, 150, 48, 180)}
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
    "swell-note": (
        8.5,
        2.5,
        [
            ("LEFTPADDING", (0, 0), (-1, -1), 3),
            ("RIGHTPADDING", (0, 0), (-1, -1), 3),
            ("LINEABOVE", (0, 0), (-1, 0), 0.8, colors.black),
            ("LINEBELOW", (0, 0), (-1, 0), 0.4, colors.black),
            ("LINEBELOW", (0, -1), (-1, -1), 0.8, colors.black),
            ("ALIGN", (1, 0), (-1, -1), "RIGHT"),
        ],
    ),
    "cargo-manifest": (
        9,
        3,
        [
            ("LINEBELOW", (0, 0), (-1, 0), 0.8, colors.black),
            ("LINEBELOW", (0, 1), (-1, -2), 0.3, colors.grey),
            ("LINEABOVE", (0, -1), (-1, -1), 0.8, colors.black),
            ("VALIGN", (0, 0), (-1, -1), "TOP"),
        ],
    ),
    "crew-notice": (
        10,
        3,
        [
            ("BACKGROUND", (0, 0), (-1, 0), colors.Color(0.85, 0.9, 0.94)),
            ("BACKGROUND", (0, 2), (-1, 2), colors.Color(0.95, 0.96, 0.97)),
            ("ALIGN", (1, 0), (-1, -1), "RIGHT"),
        ],
    ),
}  # fmt: skip


def draw(paper: Paper, path: Path) -> None:
    """Draw one paper as a PDF."""
    size = landscape(A4) if paper.name in WIDTHS else A4
    document = BaseDocTemplate(
        str(path), pagesize=size, title=paper.title, author=BOARD,
        leftMargin=25 * mm, rightMargin=25 * mm, topMargin=28 * mm, bottomMargin=25 * mm,
    )  # fmt: skip
    decorate = functools.partial(_furniture, paper=paper)
    columns = 2 if paper.name == "swell-note" else 1
    gutter = 8 * mm
    width = (document.width - gutter * (columns - 1)) / columns
    frames = [
        Frame(
            document.leftMargin + k * (width + gutter), document.bottomMargin, width, document.height,
            leftPadding=0, rightPadding=0, topPadding=0, bottomPadding=0,
        )
        for k in range(columns)
    ]  # fmt: skip
    document.addPageTemplates([PageTemplate("page", frames, onPage=decorate)])
    document.build(_story(paper, width), canvasmaker=_plain_canvas)


def _story(paper: Paper, width: float) -> list[Flowable]:
    story: list[Flowable] = []
    for part in paper.parts:
        if isinstance(part, Sheet):
            caption = [_paragraph(part.caption, "caption", paper)] if part.caption else []
            table = _table(part, paper.name)
            # A caption stays with a table that fits the page; a longer one follows it at once.
            story += [KeepTogether([*caption, table])] if len(part.body) < 30 else [*caption, table]
            story.append(Spacer(1, 8))
            continue
        style, text = part
        if style == "code":
            story.append(Preformatted(text, STYLES["code"]))
        elif style == "formula":
            formula, number = text.split("|")
            story.append(Formula(formula, number, width))
        elif style == "figure":
            story += [KeepTogether([Plot(width), _paragraph(text, "caption", paper)]), Spacer(1, 6)]
        elif style in ("field", "check"):
            label, value = text.split("|")
            story.append(FormLine(label, value, style == "check"))
        elif style == "note":
            mark, said = text.split("|")
            if not any(isinstance(f, HRFlowable) for f in story):
                story.append(
                    HRFlowable(width="35%", hAlign="LEFT", thickness=0.5, spaceBefore=10, spaceAfter=4)
                )
            story.append(Paragraph(f"<super>{mark}</super> {_markup(said)}", STYLES["note"]))
        else:
            story.append(_paragraph(text, style, paper))
    return story


def _paragraph(text: str, style: str, paper: Paper) -> Any:
    chosen = STYLES[style]
    if paper.name in OTHER_SCRIPT:
        name = _other_font("Bold" in chosen.fontName)
        chosen = ParagraphStyle(f"{style}-other", parent=chosen, fontName=name, bulletFontName=name)
    return Paragraph(_markup(text), chosen, bulletText="\u2022" if style == "li" else None)


def _markup(text: str) -> str:
    text = re.sub(r"\^(\d+)\^", r"<super>\1</super>", escape(text, quote=False))
    return re.sub(r"\*([^*]+)\*", r"<i>\1</i>", text)


@functools.cache
def _other_font(bold: bool) -> str:
    name = "DejaVuSans-Bold" if bold else "DejaVuSans"
    folder = Path(matplotlib.get_data_path()) / "fonts/ttf"
    pdfmetrics.registerFont(TTFont(name, str(folder / f"{name}.ttf")))
    return name


class Formula(Flowable):  # type: ignore[misc]
    """A formula in the middle of its column, with its number at the right."""

    def __init__(self, text: str, number: str, width: float) -> None:
        super().__init__()
        self.text, self.number, self.width, self.height = text, number, width, 24

    def draw(self) -> None:
        """Draw it with the root sign as text of the font for symbols."""
        canvas = self.canv
        x = self.width / 2 - 40
        for piece in re.split("(\u221a)", self.text):
            font = "Symbol" if piece == "\u221a" else "Times-Italic"
            canvas.setFont(font, 11)
            canvas.drawString(x, 10, piece)
            x += canvas.stringWidth(piece, font, 11)
        canvas.setFont("Times-Roman", 11)
        canvas.drawRightString(self.width, 10, self.number)


class Plot(Flowable):  # type: ignore[misc]
    """Points and a curve in axes, drawn as lines and circles."""

    def __init__(self, width: float) -> None:
        super().__init__()
        self.width, self.height = width, 120

    def draw(self) -> None:
        """Draw axes, their labels, the rule as a curve and the measurements as circles."""
        canvas = self.canv
        left, bottom, right, top = 28, 24, self.width - 8, 112
        rng = random.Random(SEED + 4)
        canvas.setLineWidth(0.8)
        canvas.lines([(left, bottom, right, bottom), (left, bottom, left, top)])
        canvas.setFont("Helvetica", 7)
        for k in range(5):
            x, y = left + k * (right - left) / 4, bottom + k * (top - bottom) / 4
            canvas.drawCentredString(x, bottom - 9, str(6 * k))
            canvas.drawRightString(left - 4, y - 2, f"{0.5 * k:.1f}")
        canvas.drawCentredString((left + right) / 2, 4, "wind, m/s")
        points = [
            (left + u / 24 * (right - left), bottom + 0.078 * u / 2 * (top - bottom)) for u in range(25)
        ]
        for (x0, y0), (x1, y1) in pairwise(points):
            canvas.line(x0, y0, x1, y1)
        for x, y in points[3::2]:
            canvas.circle(x, y + rng.uniform(-5, 5), 1.6, fill=1)


class FormLine(Flowable):  # type: ignore[misc]
    """A label with its value over a line, or a check box with its label."""

    def __init__(self, label: str, value: str, box: bool) -> None:
        super().__init__()
        self.label, self.value, self.box, self.height = label, value, box, 22

    def wrap(self, width: float, height: float) -> tuple[float, float]:
        """Take the whole width."""
        self.width = width
        return width, self.height

    def draw(self) -> None:
        """Draw the label in plain and the value in bold type."""
        canvas = self.canv
        canvas.setFont("Helvetica", 10)
        canvas.setLineWidth(0.6)
        if self.box:
            canvas.rect(4, 5, 9, 9)
            if self.value:
                canvas.lines([(5.5, 6.5, 11.5, 12.5), (5.5, 12.5, 11.5, 6.5)])
            canvas.drawString(20, 6, self.label)
            return
        canvas.drawString(0, 6, self.label)
        canvas.line(120, 3, 330, 3)
        canvas.setFont("Helvetica-Bold", 10)
        canvas.drawString(124, 6, self.value)


def _plain_canvas(*args: Any, **options: Any) -> Any:
    """Uncompressed and without a date, so that the bytes depend on nothing but the content."""
    return Canvas(*args, **{**options, "invariant": 1, "pageCompression": 0})


def _furniture(canvas: Any, document: Any, paper: Paper) -> None:
    width, height = document.pagesize
    canvas.saveState()
    canvas.setFont(_other_font(False) if paper.name in OTHER_SCRIPT else "Helvetica", 8)
    canvas.drawString(25 * mm, height - 15 * mm, f"{BOARD} · {paper.title}")
    canvas.drawRightString(width - 25 * mm, 12 * mm, f"Page {document.page}")
    canvas.restoreState()


def _table(sheet: Sheet, name: str) -> Any:
    size, padding, look = LOOKS[name]
    texts, spans = _grid([*sheet.head, *sheet.body])
    rows: list[list[Any]] = [list(row) for row in texts]
    font = _other_font(False) if name in OTHER_SCRIPT else "Helvetica"
    if name in WIDTHS:
        kinds = ["head"] * len(sheet.head) + ["cell"] * len(sheet.body)
        rows = [
            [
                Paragraph(escape(t), STYLES["number" if k == "cell" and c == 4 else k])
                for c, t in enumerate(row)
            ]
            for k, row in zip(kinds, texts, strict=True)
        ]
    style = [
        ("FONT", (0, 0), (-1, -1), font, size),
        ("TOPPADDING", (0, 0), (-1, -1), padding),
        ("BOTTOMPADDING", (0, 0), (-1, -1), padding),
        *((*command, size) if command[0] == "FONT" else command for command in look),
        *spans,
    ]
    widths = WIDTHS.get(name)
    return Table(rows, widths, style=TableStyle(style), repeatRows=len(sheet.head), hAlign="LEFT")


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
