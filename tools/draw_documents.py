"""Draw documents with known truth to fit on: python tools/draw_documents.py FOLDER [COUNT] [FIRST]

Writes FOLDER/NNNN.pdf and NNNN.html. Looks are drawn from continuous ranges, independently: rules, shading,
padding, alignment, sizes; kinds of tables: numbers, statements with signs in columns of their own, registers
with wrapped text, names and what they mean, options, lists in cells, keys and values, timetables, half-empty
squares; headers of up to two levels, spans, groups,
totals, notes; around them prose in one or two columns, captions, lists, contents with leaders, addresses side
by side, listings, tables side by side, and documents without any table. All texts are made up.
"""

from __future__ import annotations

import argparse
import io
import random
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from html import escape
from pathlib import Path
from typing import Any

from reportlab.lib import colors
from reportlab.lib.pagesizes import A4, A5, landscape
from reportlab.lib.styles import ParagraphStyle
from reportlab.platypus import (
    BaseDocTemplate,
    Flowable,
    Frame,
    KeepTogether,
    PageTemplate,
    Paragraph,
    Preformatted,
    Spacer,
    Table,
    TableStyle,
)

WORDS = (
    "harbour pier ferry tide rope lamp keeper swell cargo crew berth sound isle mast hull anchor winch deck "
    "channel buoy signal chart quay engine boiler valve pump tender skiff slipway mooring fender ballast"
).split()
PLACES = "Hollinquay Oskay Brannsey Tarnvoe Fenholm Skerra Mill-Voe Tordal Gray-Head Eilis".split()
# Kinds of text that wrap.
WRAPPED = ("text", "says", "lines")
FAMILIES = {
    "Helvetica": ("Helvetica", "Helvetica-Bold", "Helvetica-Oblique"),
    "Times": ("Times-Roman", "Times-Bold", "Times-Italic"),
}


@dataclass(slots=True)
class Cell:
    """A cell: its text and extent, whether it heads columns, how far it is set in (em)."""

    text: str = ""
    rowspan: int = 1
    colspan: int = 1
    head: bool = False
    indent: int = 0


@dataclass(slots=True)
class Drawn:
    """A table: rows of cells (None where another one reaches), which rows are groups and totals, kinds of the
    columns, header rows, and the columns that hold nothing but signs.
    """

    rows: list[list[Cell | None]]
    kinds: list[str]
    heads: int
    groups: set[int] = field(default_factory=set)
    totals: set[int] = field(default_factory=set)
    signs: set[int] = field(default_factory=set)
    caption: str = ""

    def html(self) -> str:
        """The table as HTML."""
        out = [f"<caption>{escape(self.caption)}</caption>"] if self.caption else []
        for row in self.rows:
            cells = ""
            for c in row:
                if c is not None:
                    tag = "th" if c.head else "td"
                    spans = "".join(
                        f' {n}="{v}"' for n, v in (("rowspan", c.rowspan), ("colspan", c.colspan)) if v > 1
                    )
                    cells += f"<{tag}{spans}>{escape(c.text.replace(chr(10), ' '))}</{tag}>"
            out.append(f"<tr>{cells}</tr>")
        return "<table>" + "\n".join(out) + "</table>"


def phrase(rng: random.Random, most: int, least: int = 1) -> str:
    """Some words with a capital."""
    return " ".join(rng.choice(WORDS) for _ in range(rng.randrange(least, most + 1))).capitalize()


def sentence(rng: random.Random) -> str:
    """A sentence of made-up prose."""
    return f"{phrase(rng, 14, 6)} at {rng.choice(PLACES)} {phrase(rng, 6, 2).lower()}."


def identifier(rng: random.Random) -> str:
    """A made-up name as programs have them."""
    a, b = rng.choice(WORDS), rng.choice(WORDS)
    return rng.choice([
        f"{a}_{b}", f"{a}.{b}()", f"--{a}-{b}", f"{a.capitalize()}{b.capitalize()}", f"-{a[0]}, --{a}", a, f"{a}({b})",
        f"{a}.{b}_{rng.choice(WORDS)}({a[0]}, {b[0]})", f"%{a[0]}", f"<{a}>", f"\\{a}", f"\\{a}{{{b}}}", f"/{a}/{b}",
        f"{a}(\"{b}\")", f"{a}({b[0]},{b[1]},...)", f"{a}({b[0]})", f"{a}[{b[0]}]", f"{a}={b}", f"{b[0]}.{a}",
    ])  # fmt: skip


def assignments(rng: random.Random, count: int) -> list[str]:
    """Lines of a program."""
    return [
        f"{' ' * rng.choice([0, 0, 4])}{identifier(rng)}{' ' * rng.choice([1, 1, 6])}= {identifier(rng)}"
        f"{rng.choice(['', '', f'    # {phrase(rng, 3)}'])}"
        for _ in range(count)
    ]


def value(rng: random.Random, kind: str) -> str:
    """The text of a body cell."""
    match kind:
        case "money":
            number = f"{rng.uniform(0, 9000):,.2f}"
            return rng.choice([number, number, f"({number})", "-"])
        case "count":
            return str(int(rng.paretovariate(0.4)) % 90000)
        case "share":
            return f"{rng.uniform(0, 99):.1f}%"
        case "time":
            return f"{rng.randrange(4, 23)}:{rng.randrange(60):02d}"
        case "date":
            return f"{rng.randrange(1, 29):02d}.{rng.randrange(1, 13):02d}.{rng.randrange(1900, 1990)}"
        case "code":
            return f"{rng.choice('ABKR')}-{rng.randrange(100, 999)}"
        case "text":
            return " ".join(sentence(rng) for _ in range(rng.randrange(1, 3)))
        case "name":
            return identifier(rng)
        case "says":
            return f"{phrase(rng, rng.choice([3, 6, 12, 22]), 2)}{rng.choice(['', '.'])}"
        case "lines":
            return "\n".join(phrase(rng, 2) for _ in range(rng.randrange(1, 6)))
        case "unit":
            return f"{rng.uniform(0, 9):.2f} {rng.choice(['kn', 'm/s', 'lb', 'fm', 'cd'])}"
        case "mark":
            return rng.choice(["yes", "no", "x", "-", "n/a", "partly"])
        case "word":
            return rng.choice([phrase(rng, 2), rng.choice(PLACES), "yes", "no", "n/a"])
    return f"{phrase(rng, 2)}{rng.choice(['', '', f', {rng.choice(PLACES)}'])}"


def plan(rng: random.Random) -> Drawn:
    """A random table, before it has a look."""
    shape = rng.choice(
        "numbers numbers statement register pairs times sparse terms terms terms options marks listed prose".split()
    )
    columns = {"pairs": 2, "terms": 2, "statement": rng.randrange(2, 5), "prose": rng.randrange(2, 4)}.get(
        shape, rng.randrange(2, 9 if shape not in ("options", "listed") else 6)
    )
    kinds = {
        "numbers": [rng.choice(["money", "count", "share", "unit"]) for _ in range(columns - 1)],
        "statement": ["money"] * (columns - 1),
        "register": [rng.choice(["word", "text", "code", "date", "count"]) for _ in range(columns - 1)],
        "pairs": ["word"],
        "times": ["time"] * (columns - 1),
        "sparse": ["count"] * (columns - 1),
        "terms": ["says"],
        "options": [*(rng.choice(["word", "code", "mark", "count"]) for _ in range(columns - 2)), "says"],
        "marks": ["mark"] * (columns - 1),
        "listed": [rng.choice(["lines", "word", "count", "money"]) for _ in range(columns - 1)],
        "prose": ["text"] * (columns - 1),
    }[shape]
    named = shape in ("terms", "options") and rng.random() < 0.7
    kinds = ["name" if named else "label", *kinds]
    if shape in ("register", "options", "listed") and rng.random() < 0.25:
        kinds[0] = "number"
    empty = {"sparse": 0.5}.get(shape, rng.choice([0.0, 0.0, 0.05, 0.2]))
    rows = rng.randrange(2, 22 if not {"text", "lines"} & set(kinds) else 7)
    headless = 0.5 if shape in ("terms", "pairs", "listed") else 0.12
    table = Drawn([], kinds, 0)
    if rng.random() > headless:
        first: Cell | None = Cell(rng.choice(["", "", phrase(rng, 1)]), head=True)
        heads: list[Cell | None] = [first]
        years = shape == "statement" or rng.random() < 0.2
        start = rng.randrange(1900, 1980)
        heads += [
            Cell(str(start - k) if years else phrase(rng, 3 if rng.random() < 0.2 else 1), head=True)
            for k in range(len(kinds) - 1)
        ]
        if len(heads) > 3 and rng.random() < 0.3:
            table.rows.append(_spanners(rng, len(heads)))
        table.rows.append(heads)
        table.heads = len(table.rows)
    grouped, indent = shape not in ("pairs", "prose") and rng.random() < 0.3, int(rng.random() < 0.6)
    while len(table.rows) - table.heads < rows:
        if grouped and (len(table.rows) == table.heads or rng.random() < 0.15):
            table.groups.add(len(table.rows))
            table.rows.append([Cell(phrase(rng, 2)), *(Cell() for _ in kinds[1:])])
        number = f"{len(table.rows) - table.heads + 1}{rng.choice(['', '.'])}"
        label = number if kinds[0] == "number" else value(rng, kinds[0])
        cells: list[Cell | None] = [Cell(label, indent=indent if grouped else 0)]
        cells += [Cell(value(rng, k) if rng.random() >= empty else "") for k in kinds[1:]]
        table.rows.append(cells)
    if rng.random() < 0.25:
        _in_small_letters(rng, table)
    if shape in ("numbers", "statement") and rng.random() < 0.5:
        table.totals.add(len(table.rows))
        table.rows.append(
            [Cell(rng.choice(["Total", "All", "Net result"])), *(Cell(value(rng, k)) for k in kinds[1:])]
        )
    if shape == "statement" and rng.random() < 0.6:
        _set_signs_apart(rng, table)
    if rng.random() < 0.5:
        table.caption = f"Table {rng.randrange(1, 30)}: {phrase(rng, 6, 2)}"
    return table


def _in_small_letters(rng: random.Random, table: Drawn) -> None:
    """Let texts begin without a capital, as manuals have them, here and there the headers too."""
    first = 0 if rng.random() < 0.2 else table.heads
    for row in table.rows[first:]:
        for kind, cell in zip(table.kinds, row, strict=True):
            if cell is not None and (cell.head or kind in ("label", "word", "says", "lines")):
                cell.text = cell.text.lower()


def _spanners(rng: random.Random, columns: int) -> list[Cell | None]:
    row: list[Cell | None] = [Cell("", head=True)]
    while len(row) < columns:
        width = rng.randrange(1, min(4, columns - len(row)) + 1)
        row += [Cell(phrase(rng, 2) if width > 1 else "", colspan=width, head=True), *([None] * (width - 1))]
    return row


def _set_signs_apart(rng: random.Random, table: Drawn) -> None:
    """Put a column for the currency sign before each column of money; it stands in first rows and totals."""
    sign = rng.choice("$€£")
    full = [r for r in range(table.heads, len(table.rows)) if r not in table.groups]
    signed = {full[0], *table.totals} if full else set()
    kinds: list[str] = ["label"]
    for r, row in enumerate(table.rows):
        cells: list[Cell | None] = [row[0]]
        for c in row[1:]:
            if r < table.heads and c is not None:
                cells += [Cell(c.text, c.rowspan, 2 * c.colspan, head=True), None]
            elif c is None:
                cells += [None, None]
            else:
                cells += [Cell(sign if r in signed and c.text else ""), c]
        table.rows[r] = cells
    for kind in table.kinds[1:]:
        table.signs.add(len(kinds))
        kinds += ["sign", kind]
    table.kinds = kinds


def _merge(rng: random.Random, table: Drawn) -> list[tuple[Any, ...]]:
    """Merge some cells of the body, as lines around them will show; returns how they are set."""
    out: list[tuple[Any, ...]] = []
    for _ in range(rng.randrange(1, 4)):
        r, c = rng.randrange(table.heads, len(table.rows)), rng.randrange(len(table.kinds))
        height = rng.randrange(1, min(4, len(table.rows) - r) + 1)
        width = rng.randrange(1, min(3, len(table.kinds) - c) + 1)
        area = [(i, j) for i in range(r, r + height) for j in range(c, c + width)]
        cells = [table.rows[i][j] for i, j in area]
        plain = all(x is not None and x.rowspan == x.colspan == 1 for x in cells)
        if len(area) > 1 and plain and width * height < 0.5 * len(table.kinds) * len(table.rows):
            first = cells[0]
            text = first.text if first and first.text and table.kinds[c] not in WRAPPED else phrase(rng, 1)
            for i, j in area:
                table.rows[i][j] = None
            table.rows[r][c] = Cell(text, height, width)
            out.append(("VALIGN", (c, r), (c, r), rng.choice(["TOP", "MIDDLE", "MIDDLE"])))
    return out


def flowable(rng: random.Random, table: Drawn, width: float, fonts: Sequence[str], repeat: bool) -> Flowable:
    """The table with a random look."""
    regular, bold, italic = fonts
    size = rng.uniform(6.5, 11)
    grey = colors.Color(*[rng.uniform(0.8, 0.96)] * 3)
    ink = colors.Color(*[rng.choice([0, 0, 0.3, 0.6])] * 3)
    m = len(table.kinds)
    pad, gap = rng.uniform(0.3, 6), rng.uniform(1.5, 7)
    thin = rng.uniform(0.25, 1.0)
    dash = rng.choice([None, None, None, (1, 2), (3, 2)])
    style: list[tuple[Any, ...]] = [
        ("FONT", (0, 0), (-1, -1), regular, size, size * 1.2),
        ("TOPPADDING", (0, 0), (-1, -1), pad), ("BOTTOMPADDING", (0, 0), (-1, -1), pad),
        ("LEFTPADDING", (0, 0), (-1, -1), gap), ("RIGHTPADDING", (0, 0), (-1, -1), gap),
        ("VALIGN", (0, 0), (-1, -1), rng.choice(["TOP", "TOP", "MIDDLE", "BOTTOM"])),
    ]  # fmt: skip
    lines = rng.choice(["none", "grid", "level", "heads", "frame", "upright", "inner", "stub"])
    line = (thin, ink, None, dash)
    after = (0, max(0, table.heads - 1)), (-1, max(0, table.heads - 1))
    looks: dict[str, list[tuple[Any, ...]]] = {
        "grid": [("GRID", (0, 0), (-1, -1), *line)],
        "level": [("LINEBELOW", (0, 0), (-1, -1), *line)],
        "heads": [("LINEABOVE", (0, 0), (-1, 0), 2 * thin, ink), ("LINEBELOW", *after, *line), ("LINEBELOW", (0, -1), (-1, -1), 2 * thin, ink)],
        "frame": [("BOX", (0, 0), (-1, -1), *line), ("LINEBELOW", *after, *line)],
        "upright": [("LINEAFTER", (0, 0), (-2, -1), *line)],
        "inner": [("INNERGRID", (0, 0), (-1, -1), *line)],
        "stub": [("LINEAFTER", (0, 0), (0, -1), *line), ("LINEBELOW", *after, *line)],
    }  # fmt: skip
    if table.signs and lines in ("grid", "inner", "upright"):
        lines = "heads"
    style += looks.get(lines, [])
    if rng.random() < 0.25:
        style.append(("ROWBACKGROUNDS", (0, table.heads), (-1, -1), [colors.white, grey]))
    if table.heads:
        if rng.random() < 0.35:
            style.append(("BACKGROUND", (0, 0), (-1, table.heads - 1), grey))
        if rng.random() < 0.7:
            style.append(("FONT", (0, 0), (-1, table.heads - 1), bold, size, size * 1.2))
    weight = rng.choice([regular, bold, italic])
    centred = rng.random() < 0.3 and lines not in ("grid", "inner", "upright")
    style += [("FONT", (0, r), (-1, r), weight, size) for r in sorted(table.groups)]
    for r in sorted(table.groups):
        style.append(("SPAN", (0, r), (-1, r)))
        style.append(("ALIGN", (0, r), (0, r), "CENTER" if centred else "LEFT"))
        if centred or lines in ("grid", "inner", "upright"):
            row = table.rows[r]
            table.rows[r] = [Cell(row[0].text if row[0] else "", colspan=m), *([None] * (m - 1))]
    for r in sorted(table.totals):
        style.append(("FONT", (0, r), (-1, r), bold, size, size * 1.2))
        if rng.random() < 0.5:
            style.append(("LINEABOVE", (1, r), (-1, r), thin, ink))
    if lines in ("grid", "inner") and rng.random() < 0.4:
        style += _merge(rng, table)
    numbers = rng.choice(["RIGHT", "RIGHT", "CENTER", "LEFT"])
    heads = rng.choice(["same", "same", "CENTER"])
    for c, kind in enumerate(table.kinds):
        side = {"sign": "RIGHT"}.get(kind, numbers if kind in ("money", "count", "share", "time") else "LEFT")
        style.append(("ALIGN", (c, table.heads), (c, -1), side))
        style.append(("ALIGN", (c, 0), (c, max(0, table.heads - 1)), side if heads == "same" else heads))
        if kind == "sign":
            style.append(("RIGHTPADDING", (c, 0), (c, -1), 1))
            style.append(("LEFTPADDING", (c + 1, 0), (c + 1, -1), 1))
    shown: list[list[Any]] = []
    for r, row in enumerate(table.rows):
        texts: list[Any] = []
        for c, cell in enumerate(row):
            if cell is None:
                texts.append("")
                continue
            if cell.colspan > 1 or cell.rowspan > 1:
                style.append(("SPAN", (c, r), (c + cell.colspan - 1, r + cell.rowspan - 1)))
                if r < table.heads:
                    style.append(("ALIGN", (c, r), (c, r), "CENTER"))
                    if rng.random() < 0.4 and cell.text and lines in ("none", "heads", "level"):
                        style.append(("LINEBELOW", (c, r), (c + cell.colspan - 1, r), thin, ink))
            if cell.indent:
                style.append(("LEFTPADDING", (c, r), (c, r), gap + 0.9 * size * cell.indent))
            wraps = table.kinds[c] in WRAPPED and r >= table.heads and cell.text
            face = ParagraphStyle("c", fontName=regular, fontSize=size, leading=size * 1.18)
            said = escape(cell.text).replace("\n", "<br/>")
            texts.append(Paragraph(said, face) if wraps else cell.text)
        shown.append(texts)
    texts_wide = [k for k, kind in enumerate(table.kinds) if kind in WRAPPED]
    widths: list[float | None] = [None] * m
    for k in texts_wide:
        widths[k] = max(60.0, rng.uniform(0.35, 0.75) * width / len(texts_wide))
    if not texts_wide and rng.random() < 0.4:
        need = width / (m + 1)
        if need > 6.5 * size:
            widths = [2 * need, *[need] * (m - 1)]
    return Table(
        shown,
        widths,
        style=TableStyle(style),
        repeatRows=table.heads if repeat else 0,
        hAlign=rng.choice(["LEFT", "CENTER"]),
    )


def document(rng: random.Random) -> tuple[bytes, list[Drawn]]:
    """A random document as a PDF, with its tables from first to last."""
    fonts = FAMILIES[rng.choice(list(FAMILIES))]
    size = rng.uniform(8.5, 11.5)
    page = rng.choice([A4, A4, A4, A5, landscape(A4)])
    margin = rng.uniform(36, 70)
    two = page is A4 and rng.random() < 0.2
    width = page[0] - 2 * margin
    if two:
        width = (width - 18) / 2
    face = ParagraphStyle(
        "p",
        fontName=fonts[0],
        fontSize=size,
        leading=size * rng.uniform(1.15, 1.4),
        spaceAfter=size * 0.5,
        alignment=rng.choice([0, 4]),
    )
    title = ParagraphStyle("h", parent=face, fontName=fonts[1], fontSize=size * 1.3, leading=size * 1.6)
    small_title = ParagraphStyle("s", parent=face, fontName=fonts[1])
    caption = ParagraphStyle(
        "t",
        parent=face,
        fontName=rng.choice(fonts),
        fontSize=size * rng.choice([0.9, 1.0]),
        spaceAfter=3,
        alignment=rng.choice([0, 0, 1]),
    )
    mono = ParagraphStyle("m", parent=face, fontName="Courier", fontSize=size * 0.9, leading=size * 1.1)
    note = ParagraphStyle("n", parent=face, fontSize=size * 0.85, leading=size)
    tables: list[Drawn] = []
    story: list[Flowable] = [Paragraph(phrase(rng, 4, 2), title)]
    bare = rng.random() < 0.12
    room = rng.uniform(0.1, 1.6) * size
    ordinary = "prose prose heading list table table table table beside blocks terms code intro".split()
    for _ in range(rng.randrange(3, 10)):
        kind = rng.choice("prose prose list contents blocks code terms heading".split() if bare else ordinary)
        if kind == "heading":
            story.append(
                Paragraph(
                    f"{rng.choice(['', '2 ', '3.1 '])}{phrase(rng, 4)}", rng.choice([title, small_title])
                )
            )
            kind = rng.choice(["prose", "table"] if not bare else ["prose"])
        if kind == "intro":
            story += [Paragraph(f"{sentence(rng)[:-1]}:", face)]
            kind = "table"
        if kind == "table" or (kind == "beside" and width < 380):
            table = plan(rng)
            drawn = flowable(rng, table, width, fonts, rng.random() < 0.7)
            if drawn.wrap(width, 1e6)[0] > width:
                continue
            tables.append(table)
            parts = [Paragraph(table.caption, caption)] if table.caption else []
            below = rng.random() < 0.25
            whole = [drawn, Spacer(1, 3), *parts] if below else [*parts, drawn]
            story += [KeepTogether(whole) if drawn.wrap(width, 1e6)[1] < 0.4 * page[1] else Spacer(1, 1)]
            if not isinstance(story[-1], KeepTogether):
                story += whole
            if rng.random() < 0.2:
                story += [Spacer(1, 2), Paragraph(f"Note: {sentence(rng)}", note)]
            story.append(Spacer(1, room))
        elif kind == "beside":
            pair = []
            for _ in range(2):
                table = plan(rng)
                table.caption = ""
                drawn = flowable(rng, table, width / 2 - 20, fonts, False)
                if (
                    drawn.wrap(width / 2 - 20, 1e6)[0] < width / 2 - 20
                    and drawn.wrap(width, 1e6)[1] < 0.4 * page[1]
                ):
                    pair.append((table, drawn))
            if pair:
                tables += [t for t, _ in pair]
                row = [d for _, d in pair]
                story += [
                    Table([row], [width / 2] * len(row), style=[("VALIGN", (0, 0), (-1, -1), "TOP")]),
                    Spacer(1, size),
                ]
        elif kind == "prose":
            story += [
                Paragraph(" ".join(sentence(rng) for _ in range(rng.randrange(2, 7))), face)
                for _ in range(rng.randrange(1, 4))
            ]
        elif kind == "terms":
            hang = ParagraphStyle("d", parent=face, leftIndent=rng.uniform(18, 60))
            for _ in range(rng.randrange(2, 5)):
                story += [
                    Paragraph(f"<b>{escape(identifier(rng))}</b>", face),
                    Paragraph(sentence(rng), hang),
                ]
        elif kind == "list":
            story += [Paragraph(f"{k + 1}. {sentence(rng)}", face) for k in range(rng.randrange(2, 6))]
        elif kind == "contents":
            story += (
                [
                    Preformatted(f"{phrase(rng, 4, 2) + ' ':.<60} {7 * k + 3}", mono)
                    for k in range(rng.randrange(3, 9))
                ]
                if width > 380
                else []
            )
        elif kind == "blocks":
            lines = [[f"{phrase(rng, 2)}", f"{phrase(rng, 2)}"] for _ in range(3)]
            story += [
                Table([["\n".join(a for a, _ in lines), "\n".join(b for _, b in lines)]], [width / 2] * 2),
                Spacer(1, size),
            ]
        else:
            story += [
                Preformatted(
                    f"for {rng.choice(WORDS)} in {rng.choice(WORDS)}s:\n    {rng.choice(WORDS)} = {rng.randrange(99)}\n    print({rng.choice(WORDS)})",
                    mono,
                )
            ]
    out = io.BytesIO()
    template = BaseDocTemplate(out, pagesize=page, invariant=1)
    height = page[1] - 2 * margin
    frames = [
        Frame(margin + k * (width + 18), margin, width, height, 0, 0, 0, 0) for k in range(2 if two else 1)
    ]
    head, foot = phrase(rng, 4), rng.random() < 0.5

    def running_heads(canvas: Any, doc: Any) -> None:
        canvas.setFont(fonts[0], 8)
        if foot:
            canvas.drawCentredString(page[0] / 2, margin / 2, f"{head}, page {doc.page}")

    template.addPageTemplates(PageTemplate(frames=frames, onPage=running_heads))
    template.build(story)
    return out.getvalue(), tables


def write_drawn(
    about: str | None, draw: Callable[[random.Random], tuple[bytes, list[Drawn]]], prefix: str = ""
) -> None:
    """Draw as many documents as the command line says, and write them and their truth."""
    parser = argparse.ArgumentParser(description=about, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("folder", type=Path)
    parser.add_argument("count", type=int, nargs="?", default=300)
    parser.add_argument("first", type=int, nargs="?", default=0)
    options = parser.parse_args()
    folder, count, first = options.folder, options.count, options.first
    folder.mkdir(parents=True, exist_ok=True)
    for number in range(first, first + count):
        data, tables = draw(random.Random(number))
        name = f"{prefix}{number:04d}"
        (folder / f"{name}.pdf").write_bytes(data)
        body = "\n".join(t.html() for t in tables)
        html = f'<!DOCTYPE html>\n<html><head><meta charset="utf-8"><title>{name}</title></head><body>{body}</body></html>\n'
        (folder / f"{name}.html").write_text(html, encoding="utf-8")


if __name__ == "__main__":
    write_drawn(__doc__, document)
