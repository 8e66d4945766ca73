"""Draw pages of documentation with known truth: python tools/draw_pages.py FOLDER [COUNT] [FIRST]

Writes FOLDER/pNNNN.pdf and pNNNN.html. Like draw_documents.py, but set by a page setter for style sheets: cells
wrap wherever their column is narrow, stand at the top, middle or foot of their row, hold names in fixed
pitch and lists with marks; around them headings, prose with names in it, lists, definitions, listings, notes
and quotations. Many tables are small, without heads or rules. All texts are made up.
"""

from __future__ import annotations

import random
from html import escape

from draw_documents import WRAPPED, Cell, Drawn, assignments, identifier, phrase, plan, sentence, write_drawn
from weasyprint import HTML

SERIF = ["Times", "DejaVu Serif", "Liberation Serif", "serif"]
SANS = ["Helvetica", "DejaVu Sans", "Liberation Sans", "sans-serif"]
FIXED = ["Courier", "DejaVu Sans Mono", "Liberation Mono", "monospace"]


def prose(rng: random.Random) -> str:
    """A paragraph, with names in fixed pitch here and there."""
    parts = []
    for _ in range(rng.randrange(1, 5)):
        text = escape(sentence(rng))
        if rng.random() < 0.3:
            text = f"{text[:-1]} and <code>{escape(identifier(rng))}</code>."
        parts.append(f"<b>{text}</b>" if rng.random() < 0.04 else text)
    return f"<p>{' '.join(parts)}</p>"


def block(rng: random.Random) -> str:
    """Something that is no table."""
    match rng.choice("prose prose prose list terms code note quote lines".split()):
        case "list":
            kind = rng.choice(["ul", "ol"])
            items = "".join(f"<li>{escape(sentence(rng))}</li>" for _ in range(rng.randrange(2, 6)))
            return f"<{kind}>{items}</{kind}>"
        case "terms":
            pairs = "".join(
                f"<dt>{escape(identifier(rng))}</dt><dd>{escape(sentence(rng))}</dd>"
                for _ in range(rng.randrange(1, 5))
            )
            return f"<dl>{pairs}</dl>"
        case "code":
            lines = assignments(rng, rng.randrange(1, 7))
            return f"<pre>{escape(chr(10).join(lines))}</pre>"
        case "note":
            return f"<p class='note'><b>Note</b> {escape(sentence(rng))}</p>"
        case "quote":
            return f"<blockquote>{escape(sentence(rng))}</blockquote>"
        case "lines":
            broken = "<br>".join(escape(phrase(rng, 4)) for _ in range(rng.randrange(2, 5)))
            return f"<p>{broken}</p>"
    return prose(rng)


def said(rng: random.Random, table: Drawn, cell: Cell, column: int, marks: str) -> str:
    """What a cell shows, as HTML."""
    text = escape(cell.text)
    if "\n" in text:
        lines = text.split("\n")
        if marks:
            return f"<{marks}>" + "".join(f"<li>{line}</li>" for line in lines) + f"</{marks}>"
        return "<br>".join(lines)
    fixed = table.kinds[column] in ("name", "code") and not cell.head
    return f"<code>{text}</code>" if fixed else text


def drawn(rng: random.Random, table: Drawn, number: int) -> tuple[str, str]:
    """A table as the page setter takes it, and the rules of its style."""
    marks = rng.choice(["", "ul", "ol"]) if "lines" in table.kinds else ""
    rows = []
    for r, row in enumerate(table.rows):
        cells = ""
        for c, cell in enumerate(row):
            if cell is not None:
                tag = "th" if cell.head else "td"
                span = f' colspan="{cell.colspan}"' if cell.colspan > 1 else ""
                indent = f' style="padding-left:{1 + cell.indent}em"' if cell.indent else ""
                cells += f'<{tag} class="c{c}"{span}{indent}>{said(rng, table, cell, c, marks)}</{tag}>'
        kind = "g" if r in table.groups else "t" if r in table.totals else "o" if r % 2 else "e"
        rows.append(f'<tr class="{kind}">{cells}</tr>')
    k = f"#t{number}"
    pad, side = rng.uniform(0, 6), rng.uniform(2, 9)
    style = [
        f"{k} {{border-collapse:collapse; font-size:{rng.uniform(0.8, 1.0):.2f}em; margin:{rng.uniform(4, 14):.0f}pt "
        f"{rng.choice(['0', '0', 'auto', '2em'])}; {rng.choice(['', '', 'width:100%'])}}}",
        f"{k} td, {k} th {{padding:{pad:.1f}pt {side:.1f}pt; vertical-align:"
        f"{rng.choice(['top', 'middle', 'baseline', 'bottom'])}; text-align:left}}",
        f"{k} th {{font-weight:{rng.choice(['bold', 'bold', 'normal'])}; text-align:{rng.choice(['left', 'left', 'center'])}}}",
        f"{k} tr.g td, {k} tr.t td {{font-weight:{rng.choice(['bold', 'normal'])}}}",
    ]
    numbers = rng.choice(["right", "right", "center", "left"])
    for c, kind in enumerate(table.kinds):
        if kind in ("money", "count", "share", "time"):
            style.append(f"{k} .c{c} {{text-align:{numbers}}}")
        elif kind in WRAPPED and rng.random() < 0.6:
            style.append(f"{k} td.c{c} {{width:{rng.uniform(25, 65):.0f}%}}")
        elif rng.random() < 0.1:
            style.append(f"{k} .c{c} {{width:{rng.uniform(3, 7):.1f}em; overflow-wrap:anywhere}}")
    line = f"{rng.uniform(0.4, 1):.1f}pt {rng.choice(['solid', 'solid', 'dotted', 'dashed'])} #{rng.choice(['000', '888', 'ccc'])}"
    match rng.choice("none none none grid rows heads frame columns".split()):
        case "grid":
            style.append(f"{k} td, {k} th {{border:{line}}}")
        case "rows":
            style.append(f"{k} tr {{border-bottom:{line}}}")
        case "heads":
            style.append(f"{k} {{border-top:{line}; border-bottom:{line}}} {k} th {{border-bottom:{line}}}")
        case "frame":
            style.append(f"{k} {{border:{line}}}")
        case "columns":
            style.append(f"{k} td + td, {k} th + th {{border-left:{line}}}")
    if rng.random() < 0.2:
        style.append(f"{k} tr.{rng.choice('oe')} {{background:#eee}}")
    if rng.random() < 0.25:
        style.append(f"{k} th {{background:#ddd}}")
    above = rng.random() < 0.7
    caption = f"<caption>{escape(table.caption)}</caption>" if table.caption else ""
    style.append(
        f"{k} caption {{caption-side:{'top' if above else 'bottom'}; text-align:{rng.choice(['left', 'center'])}}}"
    )
    return f'<table id="t{number}">{caption}{"".join(rows)}</table>', "\n".join(style)


def document(rng: random.Random) -> tuple[str, list[Drawn]]:
    """A random document as HTML with a style sheet, and its tables."""
    tables: list[Drawn] = []
    body, style = [f"<h1>{escape(phrase(rng, 5, 2))}</h1>"], []
    # Some pages are cut out around a table.
    alone = rng.random() < 0.25
    if alone and rng.random() < 0.6:
        body = []
    for _ in range(rng.randrange(1, 3) if alone else rng.randrange(3, 9)):
        if rng.random() < 0.35 and not alone:
            body.append(f"<h2>{rng.choice(['', '1.2 ', '4 '])}{escape(phrase(rng, 4))}</h2>")
        body += [block(rng) for _ in range(rng.choice([0, 0, 0, 1] if alone else [0, 1, 1, 2]))]
        if rng.random() < (0.95 if alone else 0.55):
            table = plan(rng)
            if len(table.kinds) > 7 or (rng.random() < 0.5 and len(table.kinds) > 4):
                continue
            if rng.random() < 0.4:
                table.rows = table.rows[: max(table.heads + 2, rng.randrange(2, 7))]
                table.totals = {r for r in table.totals if r < len(table.rows)}
                table.groups = {r for r in table.groups if r < len(table.rows) - 1}
            if rng.random() < 0.3:
                body.append(f"<p>{escape(sentence(rng)[:-1])}:</p>")
            html, rules = drawn(rng, table, len(tables))
            body.append(html)
            style.append(rules)
            tables.append(table)
    text, fixed = rng.choice(SERIF + SANS), rng.choice(FIXED)
    size = rng.uniform(8.5, 12)
    page = f"{rng.choice(['A4', 'A4', 'Letter', 'A5'])}; margin:{rng.uniform(35, 75):.0f}pt"
    if alone:
        page = (
            f"{rng.uniform(260, 560):.0f}pt {rng.uniform(160, 700):.0f}pt; margin:{rng.uniform(4, 30):.0f}pt"
        )
    style.insert(0, (
        f"@page {{size:{page}; "
        f"@bottom-center {{content:{rng.choice(['counter(page)', 'none']) if not alone else 'none'}; font-size:8pt}}}}\n"
        f"body {{font:{size:.1f}pt/{rng.uniform(1.15, 1.5):.2f} '{text}'; text-align:{rng.choice(['left', 'justify'])}; "
        f"{rng.choice(['', '', '', 'columns:2'])}}}\ncode, pre {{font-family:'{fixed}'; font-size:{rng.uniform(0.85, 1):.2f}em}}\n"
        f"h1 {{font-size:1.6em}} h2 {{font-size:{rng.uniform(1.0, 1.35):.2f}em; margin:{rng.uniform(4, 14):.0f}pt 0 "
        f"{rng.uniform(0, 6):.0f}pt}} p {{margin:{rng.uniform(2, 8):.0f}pt 0}} td p {{margin:0}}\n"
        "pre {white-space:pre-wrap} td ul, td ol {margin:0; padding-left:1.2em}\n"
        f".note {{{rng.choice(['border:0.5pt solid #999; padding:4pt', 'background:#eee; padding:4pt', ''])}}}"
    ))  # fmt: skip
    return (
        f"<html><head><style>{chr(10).join(style)}</style></head><body>{''.join(body)}</body></html>",
        tables,
    )


def printed(rng: random.Random) -> tuple[bytes, list[Drawn]]:
    """Return a document as a PDF, and its tables."""
    html, tables = document(rng)
    data: bytes = HTML(string=html).write_pdf()
    return data, tables


if __name__ == "__main__":
    write_drawn(__doc__, printed, "p")
