"""Draws the demo collection and writes its truth: python -m wennak.demo.draw FOLDER.

Needs reportlab (the extra `dev`). The same version of it draws the same bytes every time.
"""

from __future__ import annotations

import functools
import hashlib
import random
import re
import sys
import tempfile
from collections.abc import Callable
from dataclasses import replace
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

from .nameless import draw_nameless
from .scans import draw_photo, draw_scan
from .scenario import BOARD, PAPERS, SEED, Entry, Paper, Sheet, misprinted_ledger, quay_rules
from .series import FORMS, ledgers

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
# Widths, in points, of the columns of ledgers: they are the same every month.
LEDGER_WIDTHS = {4: (76, 140, 60, 84), 5: (76, 132, 60, 70, 70)}
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
    "berth-ledger": (
        9.5,
        2.2,
        [
            ("FONT", (0, 0), (-1, 0), "Helvetica-Bold"),
            ("LINEBELOW", (0, 0), (-1, 0), 0.8, colors.black),
            ("LINEBELOW", (0, -1), (-1, -1), 0.8, colors.black),
            ("ALIGN", (2, 0), (-1, -1), "RIGHT"),
        ],
    ),
    "yearly-accounts": (
        10,
        2.5,
        [
            ("FONT", (0, 0), (-1, 0), "Helvetica-Bold"),
            ("LINEBELOW", (0, 0), (-1, 0), 0.5, colors.black),
            ("ALIGN", (1, 0), (-1, -1), "RIGHT"),
            ("RIGHTPADDING", (1, 0), (1, -1), 2),
            ("RIGHTPADDING", (3, 0), (3, -1), 2),
        ],
    ),
    "inspection-card": (
        10,
        4,
        [
            ("GRID", (0, 0), (-1, -1), 0.5, colors.black),
            ("FONT", (0, 0), (0, -1), "Helvetica-Bold"),
            ("FONT", (2, 0), (2, -1), "Helvetica-Bold"),
        ],
    ),
    "inspection-letter": (
        9.5,
        3,
        [
            ("FONT", (0, 0), (-1, 0), "Helvetica-Bold"),
            ("LINEBELOW", (0, 0), (-1, 0), 0.6, colors.black),
            ("ALIGN", (1, 0), (-1, -1), "RIGHT"),
        ],
    ),
}  # fmt: skip
LOOKS["berth-charges"] = LOOKS["berth-ledger"]
# Papers whose currency signs stand in columns of their own, left of the numbers.
SIGNS_APART = {"yearly-accounts"}
# Papers that are drawn by the plotting library, with text and nothing else.
BY_PLOTTER = {"fares-poster"}
# The name and day of the person who, in the story, has checked the truth.
CHECKED_BY, CHECKED_ON = "Ragna Tveit", "2026-11-20"


def draw(paper: Paper, path: Path) -> None:
    """Draw one paper as a PDF."""
    if paper.name in BY_PLOTTER:
        _draw_plotted(paper, path)
        return
    size = landscape(A4) if paper.name in WIDTHS else A4
    document = BaseDocTemplate(
        str(path), pagesize=size, title=paper.title, author=BOARD,
        leftMargin=25 * mm, rightMargin=25 * mm, topMargin=28 * mm, bottomMargin=25 * mm,
    )  # fmt: skip
    decorate = functools.partial(_running_heads, paper=paper)
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


def _draw_plotted(paper: Paper, path: Path) -> None:
    """Draw a paper line by line with the plotting library, which knows no tables."""
    from matplotlib.figure import Figure

    figure = Figure(figsize=(8.27, 11.69))
    height = 780.0

    def say(x: float, text: str, size: float, right: bool = False, bold: bool = False) -> None:
        figure.text(
            x / 595.3, height / 841.7, text, fontsize=size, ha="right" if right else "left",
            fontweight="bold" if bold else "normal", parse_math=False,
        )  # fmt: skip

    for part in paper.parts:
        if not isinstance(part, Sheet):
            say(70, part[1], 20, bold=True)
            height -= 50
            continue
        rows = [*part.head, *part.body]
        # About six tenths of the size a character, and a gap of two characters between columns.
        lengths = [max(len(row[c].text) for row in rows) for c in range(len(rows[0]))]
        edges = [70.0]
        for length in lengths:
            edges.append(edges[-1] + 6.4 * (length + 2))
        for r, row in enumerate(rows):
            for c, entry in enumerate(row):
                right = c > 1
                say(edges[c + 1] - 12 if right else edges[c], entry.text, 10, right, bold=r < len(part.head))
            height -= 19
        height -= 40
    with matplotlib.rc_context({"pdf.fonttype": 42, "font.family": "DejaVu Sans"}):
        figure.savefig(path, format="pdf", metadata={"CreationDate": None, "Producer": None})


def _story(paper: Paper, width: float) -> list[Flowable]:
    story: list[Flowable] = []
    for part in paper.parts:
        if isinstance(part, Sheet):
            caption = [_paragraph(part.caption, "caption", paper)] if part.caption else []
            table = _table(part, paper.look or paper.name)
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


def _running_heads(canvas: Any, document: Any, paper: Paper) -> None:
    width, height = document.pagesize
    canvas.saveState()
    canvas.setFont(_other_font(False) if paper.name in OTHER_SCRIPT else "Helvetica", 8)
    canvas.drawString(25 * mm, height - 15 * mm, f"{BOARD} · {paper.title}")
    canvas.drawRightString(width - 25 * mm, 12 * mm, f"Page {document.page}")
    canvas.restoreState()


def _table(sheet: Sheet, name: str) -> Any:
    size, padding, look = LOOKS[name]
    texts, spans = _grid([*sheet.head, *sheet.body])
    if name in SIGNS_APART:
        texts = [[part for k, t in enumerate(row) for part in _sign_apart(t, k)] for row in texts]
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
    widths = LEDGER_WIDTHS[len(texts[0])] if name == "berth-charges" else WIDTHS.get(name)
    return Table(rows, widths, style=TableStyle(style), repeatRows=len(sheet.head), hAlign="LEFT")


def _sign_apart(text: str, column: int) -> list[str]:
    """A text in two columns, of which the first holds its currency sign; labels stay in one."""
    if column == 0:
        return [text]
    return text.split(" ", 1) if text.startswith("€ ") else ["", text]


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


def truth(paper: Paper, pdf: bytes) -> str:
    """Return the paper's tables as checked truth of the PDF: what a perfect reading gives."""
    digest = hashlib.sha256(pdf).hexdigest()
    head = f'<head><meta charset="utf-8"><title>{escape(paper.title)}</title></head>'
    root = (
        f'data-format="wennak-truth" data-version="1" data-source="{paper.name}.pdf" data-sha256="{digest}"'
    )
    parts = [f'<!DOCTYPE html>\n<html lang="en" {root}>\n{head}\n<body>\n']
    state = f'data-state="checked" data-by="{CHECKED_BY}" data-when="{CHECKED_ON}"'
    parts += [_sheet(part, f" {state}") for part in paper.parts if isinstance(part, Sheet)]
    return "".join([*parts, "</body>\n</html>\n"])


def _sheet(sheet: Sheet, attributes: str = "") -> str:
    caption = f"<caption>{escape(sheet.caption)}</caption>\n" if sheet.caption else ""
    heads = "".join(_row(row, "th") for row in sheet.head)
    body = "".join(_row(row, "td") for row in sheet.body)
    return f"<table{attributes}>\n{caption}<thead>\n{heads}</thead>\n<tbody>\n{body}</tbody>\n</table>\n"


def typed(paper: Paper) -> str:
    """Return the tables as a clerk typed them from paper: digits changed places, lines and columns slipped,
    a caption was left out. Only what a person does: nothing is missing on purpose.
    """
    rng = random.Random(f"{SEED} {paper.name}")
    parts = []
    for sheet in paper.parts:
        if isinstance(sheet, Sheet):
            body = [[replace(e, text=_slipped(e.text, rng)) for e in row] for row in sheet.body]
            if len(body) > 8:
                del body[rng.randrange(2, len(body) - 2)]
            spans = any(e.rowspan > 1 or e.colspan > 1 for row in body for e in row)
            if not spans and rng.random() < 0.4:
                # A column set one line too low.
                column = rng.randrange(1, len(body[0]))
                texts = [row[column].text for row in body]
                for row, text in zip(body, ["", *texts[:-1]], strict=True):
                    row[column] = Entry(text)
            parts.append(_sheet(Sheet("", sheet.head, body)))
    head = '<!DOCTYPE html>\n<html lang="en"><head><meta charset="utf-8"></head><body>\n'
    return f"{head}{''.join(parts)}</body></html>\n"


def _slipped(text: str, rng: random.Random) -> str:
    """Now and then two neighbouring digits in the wrong order."""
    at = [k for k in range(len(text) - 1) if text[k : k + 2].isdigit() and text[k] != text[k + 1]]
    if not at or rng.random() > 0.03:
        return text
    k = rng.choice(at)
    return f"{text[:k]}{text[k + 1]}{text[k]}{text[k + 2 :]}"


def _row(row: list[Entry], tag: str) -> str:
    cells = []
    for entry in row:
        spans = f' rowspan="{entry.rowspan}"' if entry.rowspan > 1 else ""
        spans += f' colspan="{entry.colspan}"' if entry.colspan > 1 else ""
        cells.append(f"<{tag}{spans}>{escape(entry.text, quote=False)}</{tag}>")
    return f"<tr>{''.join(cells)}</tr>\n"


def draw_all(folder: Path) -> None:
    """Draw every paper into the folder, with its truth and what the clerk typed beside it."""
    folder.mkdir(parents=True, exist_ok=True)
    makers: tuple[Callable[[], Paper], ...] = PAPERS
    for make in makers:
        paper = make()
        draw(paper, folder / f"{paper.name}.pdf")
        pdf = (folder / f"{paper.name}.pdf").read_bytes()
        (folder / f"{paper.name}.html").write_text(truth(paper, pdf), encoding="utf-8", newline="\n")
        (folder / f"{paper.name}.typed").write_text(typed(paper), encoding="utf-8", newline="\n")
    for paper in [*ledgers(), *(make() for make in FORMS)]:
        draw(paper, folder / f"{paper.name}.pdf")
    draw_scan(folder / "engine-inspection.pdf", folder / "engine-inspection-scan.pdf")
    typeset = Path(matplotlib.get_data_path()) / "fonts" / "ttf" / "cmr10.ttf"
    draw_nameless(folder / "quay-rules-nameless.pdf", [quay_rules()], typeset, "bitmaps")
    with tempfile.TemporaryDirectory() as scratch:
        # The copy that went on the wall bears a wrong digit.
        copy = Path(scratch) / "berth-ledger.pdf"
        draw(misprinted_ledger(), copy)
        draw_photo(copy, folder / "berth-ledger-photo.jpg")


if __name__ == "__main__":
    draw_all(Path(sys.argv[1]))
