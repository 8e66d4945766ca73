"""Draw texts with equations whose structure is known: python tools/draw_equations.py FOLDER [COUNT] [FIRST]
[--engine boxes|tex|browser|plots]

Writes FOLDER/qNNNN.pdf and qNNNN.json, which holds each displayed equation in reading order: its number in
print ("" for none) and its structure as MathML. The engines are boxes of standard fonts (without brackets around
rows), which need nothing that is not a part of `dev`; pdflatex; Chromium, which sets MathML in the mathematical
fonts that the machine has; and Matplotlib, whose texts have little prose around them. All that is said is made
up.
"""

from __future__ import annotations

import argparse
import html
import io
import json
import random
import subprocess
import tempfile
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from draw_documents import sentence
from draw_tex import FONTS, typeset
from draw_tex import tex as said
from equation_boxes import boxed, drawn

from wennak.equations import Accent, Fraction, Grid, Node, Radical, Row, Scripts, Symbol, mathml, tex

LETTERS = "abcdefghkmnpqrstuvwxyzABCDEFGHKLMNPQRSTUVWXYZ"
GREEK = "αβγδηθκλμνξπρστφχψω"
FACES = ("Latin Modern Math", "DejaVu Math TeX Gyre")
OPENING = {"(": ")", "[": "]", "|": "|"}
# How deep fractions, scripts and radicals are nested.
DEPTH = 3


def letter(rng: random.Random) -> Symbol:
    """A letter in one of the alphabets of mathematics."""
    kind = rng.random()
    if kind < 0.62:
        return Symbol(rng.choice(LETTERS), "italic")
    if kind < 0.82:
        return Symbol(rng.choice(GREEK), "italic")
    if kind < 0.9:
        return Symbol(rng.choice("ΓΔΘΛΞΠΣΦΨΩ"), "upright")
    if kind < 0.95:
        return Symbol(rng.choice("ABCEFGHKMNRSTuvwxy"), "bold")
    return Symbol(rng.choice("ABCDFGHLMNOPSTUV"), "script") if kind < 0.975 else Symbol("R", "double-struck")


def number(rng: random.Random) -> Symbol:
    """A number, sometimes with a fraction."""
    return Symbol(
        rng.choice([str(rng.randrange(1, 10)), str(rng.randrange(10, 300)), f"{rng.uniform(0, 9):.2f}"])
    )


def sign(text: str) -> Symbol:
    """A sign as it is."""
    return Symbol(text)


def script(rng: random.Random, depth: int) -> Node:
    """What stands in a script: mostly one sign."""
    kind = rng.random()
    if kind < 0.6:
        return rng.choice([letter(rng), Symbol(str(rng.randrange(0, 10)))])
    if kind < 0.7 and depth > 1:
        return Scripts(letter(rng), Symbol(str(rng.randrange(0, 10)))) if rng.random() < 0.5 else (
            Scripts(letter(rng), None, Symbol(str(rng.randrange(2, 10))))
        )  # fmt: skip
    if kind < 0.75 and depth > 1:
        return Fraction(number(rng), letter(rng))
    if kind < 0.8:
        return Symbol(rng.choice(["max", "min", "eff", "tot", "ref", "out"]))
    return Row((letter(rng), sign(rng.choice("+−")), Symbol(str(rng.randrange(1, 10)))))


def atom(rng: random.Random, depth: int) -> list[Node]:
    """One factor."""
    kind = rng.random()
    if kind < 0.25:
        return [letter(rng)]
    if kind < 0.4:
        return [Scripts(letter(rng), script(rng, depth))]
    if kind < 0.52:
        return [Scripts(letter(rng), None, script(rng, depth))]
    if kind < 0.58:
        return [Scripts(letter(rng), script(rng, depth), script(rng, depth))]
    if kind < 0.64:
        return [
            Accent(
                Symbol(rng.choice("abhnpqrsuvwxyzABFHMTXY"), "italic"), rng.choice(["^", "~", "¯", "→", "˙"])
            )
        ]
    if depth < 1:
        return [letter(rng)]
    if kind < 0.76:
        return [Fraction(expression(rng, depth - 1), expression(rng, depth - 1))]
    if kind < 0.82:
        index = Symbol(str(rng.randrange(3, 6))) if rng.random() < 0.25 else None
        return [Radical(expression(rng, depth - 1), index)]
    if kind < 0.9:
        return bracketed(rng, depth)
    if kind < 0.95:
        name = Symbol(rng.choice(["sin", "cos", "tan", "log", "ln", "exp"]))
        return [name, letter(rng)]
    return [Symbol(rng.choice(LETTERS), "italic"), sign("("), letter(rng), sign(")")]


def bracketed(rng: random.Random, depth: int) -> list[Node]:
    """Something in brackets as high as it is, perhaps with an exponent."""
    inner = expression(rng, depth - 1)
    left = rng.choice("(([|")
    tall = is_high(inner)
    closing: Node = Symbol(OPENING[left], tall=tall)
    if rng.random() < 0.3:
        closing = Scripts(closing, None, rng.choice([Symbol("2"), Symbol("n", "italic")]))
    items = inner.items if isinstance(inner, Row) else (inner,)
    return [Symbol(left, tall=tall), *items, closing]


def is_high(node: Node) -> bool:
    """Whether something is higher than a line of letters."""
    match node:
        case Row(items):
            return any(map(is_high, items))
        case Scripts(base):
            return is_high(base) or (isinstance(base, Symbol) and base.text in "∑∏∫⋃")
        case Symbol(text, _, tall):
            return tall or text in "∑∏∫⋃"
        case Accent(base):
            return is_high(base)
        case Radical(body):
            return is_high(body)
    return True


def term(rng: random.Random, depth: int) -> list[Node]:
    """A product of a few factors."""
    out: list[Node] = [number(rng)] if rng.random() < 0.25 else []
    for k in range(rng.choice([1, 1, 1, 2, 2, 3]) - bool(out) or 1):
        if k and rng.random() < 0.15:
            out.append(sign(rng.choice("·×")))
        out += atom(rng, depth)
    return out


def expression(rng: random.Random, depth: int) -> Node:
    """A sum of terms."""
    out: list[Node] = [sign("−")] if rng.random() < 0.06 else []
    for k in range(rng.choice([1, 1, 2, 2, 3]) if depth > 0 else rng.choice([1, 1, 2])):
        if k:
            out.append(sign(rng.choice("++−−±")))
        out += term(rng, depth)
    return out[0] if len(out) == 1 else Row(tuple(out))


def large(rng: random.Random, depth: int) -> list[Node]:
    """A sum, a product, an integral, a union or a limit of something."""
    kind = rng.choice(["∑", "∑", "∏", "∫", "∫", "⋃", "lim", "max"])
    if kind in ("lim", "max"):
        to = Row(
            (letter(rng), sign("→" if kind == "lim" else "∈"), Symbol("∞") if kind == "lim" else letter(rng))
        )
        return [Scripts(Symbol(kind), to, limits=True), *atom(rng, depth)]
    low = Row((Symbol(rng.choice("ijkmn"), "italic"), sign("="), Symbol(rng.choice("01"))))
    high = rng.choice([Symbol(rng.choice("nNmK"), "italic"), Symbol("∞")])
    if kind == "∫":
        inner = [*atom(rng, depth), Symbol("d", "italic"), Symbol(rng.choice("xytu"), "italic")]
        return [Scripts(sign(kind), rng.choice([Symbol("0"), letter(rng)]), high), *inner]
    return [Scripts(sign(kind), low, high if rng.random() < 0.8 else None, limits=True), *atom(rng, depth)]


def side(rng: random.Random) -> list[Node]:
    """One side of a relation."""
    kind = rng.random()
    if kind < 0.25:
        return large(rng, 2)
    if kind < 0.33:
        return [matrix(rng)]
    if kind < 0.37:
        return [Grid(((letter(rng),), (letter(rng),)), "(", ")")]
    whole = expression(rng, rng.choice([0, 0, 1, 1, 2, DEPTH]))
    return list(whole.items) if isinstance(whole, Row) else [whole]


def matrix(rng: random.Random) -> Grid:
    """Small things in rows and columns."""
    left = rng.choice("([|")
    size = rng.choice([(2, 2), (2, 2), (3, 3), (2, 3), (3, 1)])
    cells = tuple(tuple(small(rng) for _ in range(size[1])) for _ in range(size[0]))
    return Grid(cells, left, OPENING[left])


def small(rng: random.Random) -> Node:
    """What stands in a cell."""
    kind = rng.random()
    if kind < 0.4:
        return letter(rng)
    if kind < 0.6:
        return Symbol(str(rng.randrange(0, 20)))
    if kind < 0.75:
        return Row((sign("−"), letter(rng)))
    return Scripts(letter(rng), Symbol(str(rng.randrange(1, 10))))


def cases(rng: random.Random) -> Grid:
    """What holds when."""
    rows = []
    for _ in range(rng.choice([1, 1, 2])):
        condition = (Symbol("if "), letter(rng), sign(rng.choice("<>≤≥")), Symbol(str(rng.randrange(0, 9))))
        rows.append((expression(rng, 0), Row(condition)))
    return Grid((*rows, (expression(rng, 0), Symbol("otherwise"))), "{", "")


def relation(rng: random.Random) -> Symbol:
    """A sign of relation."""
    return sign(rng.choice("=====≤≥≈<∈≠→"))


def equation(rng: random.Random) -> Node:
    """A relation, or a few of them below each other."""
    kind = rng.random()
    if kind < 0.15:
        rows = []
        for k in range(rng.choice([2, 2, 3, 4])):
            left = Row(tuple(side(rng))) if not k or rng.random() < 0.5 else Row()
            rows.append((left.items[0] if len(left.items) == 1 else left, Row((sign("="), *side(rng)))))
        return Grid(tuple(rows))
    if kind < 0.23:
        return Row(
            (Symbol(rng.choice("fgh"), "italic"), sign("("), letter(rng), sign(")"), sign("="), cases(rng))
        )
    return Row((*side(rng), relation(rng), *side(rng)))


def inline(rng: random.Random) -> Node:
    """What stands in a line of text."""
    return Row((Scripts(letter(rng), Symbol(str(rng.randrange(9)))), sign(rng.choice("=<>")), number(rng)))


def by_tex(rng: random.Random) -> tuple[bytes, list[tuple[str, Node]]]:
    """A text set by TeX, and the number and the structure of each of its equations."""
    while True:
        two = rng.random() < 0.25
        points = rng.choice([10, 11, 12])
        options = [f"{points}pt", rng.choice(["a4paper", "letterpaper"])]
        options += ["twocolumn"] if two else []
        options += rng.choice([[], [], [], ["fleqn"], ["leqno"]])
        truth: list[tuple[str, Node]] = []
        body = []
        for _ in range(rng.randrange(3, 9)):
            body.append(tex_prose(rng))
            if rng.random() < 0.15:
                continue
            found = equation(rng)
            numbered = rng.random() < 0.5
            count = 1 + sum(bool(n) for n, _ in truth)
            truth.append((f"({count})" if numbered else "", found))
            body[-1] = body[-1].rstrip()
            star = "" if numbered else "*"
            body.append(rf"\begin{{equation{star}}}{tex(found)}\end{{equation{star}}}")
            body.append(tex_prose(rng) if rng.random() < 0.7 else "")
        head = [
            rf"\documentclass[{','.join(options)}]{{article}}",
            r"\usepackage[T1]{fontenc}\usepackage{textcomp,amsmath,amssymb}",
            rng.choice(FONTS) or r"\renewcommand{\encodingdefault}{OT1}",
            rf"\usepackage[textwidth={rng.uniform(330, 470) if not two else 480:.0f}pt]{{geometry}}",
        ]
        data, told = typeset("\n".join([*head, r"\begin{document}", *body, r"\end{document}"]))
        if data and "Overfull" not in told and "\n!" not in told:
            return data, truth


def tex_prose(rng: random.Random) -> str:
    """A paragraph for TeX."""
    parts = [said(sentence(rng)) for _ in range(rng.randrange(1, 5))]
    if rng.random() < 0.5:
        parts.append(rf"{said(sentence(rng))[:-1]} where ${tex(inline(rng))}$ holds.")
    return " ".join(parts) + "\n\n"


def by_browser(rng: random.Random) -> tuple[bytes, list[tuple[str, Node]]]:
    """The same by Chromium, as a page of HTML with MathML."""
    truth: list[tuple[str, Node]] = []
    body = []
    for _ in range(rng.randrange(3, 9)):
        body.append(f"<p>{html_prose(rng)}</p>")
        found = equation(rng)
        number = f"({1 + sum(bool(n) for n, _ in truth)})" if rng.random() < 0.5 else ""
        truth.append((number, found))
        label = f'<span class="n">{number}</span>' if number else ""
        body.append(f'<div class="e"><span></span>{mathml(found)}{label or "<span></span>"}</div>')
    face, size = rng.choice(FACES), rng.uniform(9.5, 12.5)
    style = (
        f"@page {{ size: A4; margin: {rng.uniform(40, 90):.0f}pt }} body {{ font: {size:.1f}pt/"
        f"{rng.uniform(1.2, 1.6):.2f} {rng.choice(['Liberation Serif', 'Lato', 'DejaVu Serif', 'Carlito'])} }}"
        f" math {{ font-family: '{face}' }} p {{ text-align: {rng.choice(['left', 'justify'])} }}"
        f" .e {{ display: grid; grid-template-columns: 1fr auto 1fr; align-items: center;"
        f" margin: {rng.uniform(0.6, 1.4):.1f}em 0 }} .n {{ justify-self: end }}"
    )
    page = f"<!DOCTYPE html><meta charset=utf-8><style>{style}</style>{''.join(body)}"
    with tempfile.TemporaryDirectory() as name:
        source, out = Path(name) / "q.html", Path(name) / "q.pdf"
        source.write_text(page, encoding="utf-8")
        command = [
            "chromium", "--headless", "--no-sandbox", "--disable-gpu", "--no-first-run", "--disable-sync",
            "--disable-background-networking", "--disable-component-update", "--no-pdf-header-footer",
            f"--user-data-dir={name}/p", f"--print-to-pdf={out}", str(source),
        ]  # fmt: skip
        subprocess.run(command, capture_output=True, check=False, timeout=120)
        return out.read_bytes(), truth


def html_prose(rng: random.Random) -> str:
    """A paragraph for a browser."""
    parts = [html.escape(sentence(rng)) for _ in range(rng.randrange(1, 5))]
    if rng.random() < 0.5:
        shown = mathml(inline(rng)).replace(' display="block"', "")
        parts.append(f"{html.escape(sentence(rng))[:-1]} where {shown} holds.")
    return " ".join(parts)


def by_plots(rng: random.Random) -> tuple[bytes, list[tuple[str, Node]]]:
    """Equations below each other in a drawing by Matplotlib, between lines of text."""
    import matplotlib
    from matplotlib.backends.backend_pdf import FigureCanvasPdf
    from matplotlib.figure import Figure

    settings: Any = {
        "mathtext.fontset": rng.choice(["cm", "dejavusans", "dejavuserif", "stix", "stixsans"]),
        "pdf.fonttype": rng.choice([3, 42]),
    }
    truth: list[tuple[str, Node]] = []
    with matplotlib.rc_context(settings):
        figure = Figure(figsize=(8.3, 11.7))
        FigureCanvasPdf(figure)
        y = 0.93
        while y > 0.15:
            figure.text(0.1, y, sentence(rng)[:95], fontsize=11)
            found = Row((*side_for_plots(rng), relation(rng), *side_for_plots(rng)))
            truth.append(("", found))
            figure.text(0.3, y - 0.07, f"${tex(found)}$", fontsize=11)
            y -= 0.13
        out = io.BytesIO()
        figure.savefig(out, format="pdf", metadata={"CreationDate": None})
    return out.getvalue(), truth


def side_for_plots(rng: random.Random) -> list[Node]:
    """A side without what Matplotlib does not set: brackets around rows, and marks of some kinds."""
    while True:
        found = side(rng)
        written = tex(Row(tuple(found)))
        if not any(word in written for word in (r"\begin", r"\binom", r"\left|", r"\boldsymbol", r"\exp")):
            return found


def by_boxes(rng: random.Random) -> tuple[bytes, list[tuple[str, Node]]]:
    """Lines of text and equations, with numbers at the margin, in the standard fonts."""
    from reportlab.pdfgen.canvas import Canvas

    out = io.BytesIO()
    canvas = Canvas(out, pagesize=(595, 842), invariant=True)
    size, left, right, y = rng.uniform(9, 12), 70.0, 525.0, 770.0
    truth: list[tuple[str, Node]] = []
    while y > 250:
        canvas.setFont("Times-Roman", size)
        for _ in range(rng.randrange(2, 4)):
            canvas.drawString(left, y, sentence(rng)[: int((right - left) / (0.5 * size))])
            y -= 1.2 * size
        found = equation_of_boxes(rng)
        box = boxed(found, size)
        if box.width > right - left - 60:
            continue
        number = f"({1 + sum(bool(n) for n, _ in truth)})" if rng.random() < 0.5 else ""
        y -= box.up + 0.2 * size
        drawn(canvas, box, (left + right - box.width) / 2, y)
        canvas.setFont("Times-Roman", size)
        canvas.drawRightString(right, y - (box.down - box.up) / 2 * (box.down > 2 * box.up), number)
        y -= box.down + 1.2 * size + rng.uniform(0.2, 0.8) * size
        truth.append((number, found))
    canvas.save()
    return out.getvalue(), truth


def equation_of_boxes(rng: random.Random) -> Node:
    """An equation without what the standard fonts do not hold: brackets in several heights, other alphabets,
    some signs.
    """
    while True:
        found = equation(rng)
        written = mathml(found)
        if any(isinstance(node, Grid) and node.left for node in grids(found)) or 'stretchy="true"' in written:
            continue
        if not any(c in "⋃→˙ϵϕ≠ℝ⃗ℬℰℱℋℐℒℳℛ" or "𝐀" <= c <= "𝟿" for c in written):
            return found


def grids(node: Node) -> Iterator[Node]:
    """The nodes of an equation that are in no other but rows and grids."""
    yield node
    if isinstance(node, Row):
        for item in node.items:
            yield from grids(item)
    elif isinstance(node, Grid):
        for cells in node.rows:
            for cell in cells:
                yield from grids(cell)


ENGINES = {"boxes": by_boxes, "tex": by_tex, "browser": by_browser, "plots": by_plots}


def main() -> None:
    """Draw what is asked for."""
    parser = argparse.ArgumentParser(
        description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter
    )
    parser.add_argument("folder", type=Path)
    parser.add_argument("count", type=int, nargs="?", default=30)
    parser.add_argument("first", type=int, nargs="?", default=0)
    parser.add_argument("--engine", choices=ENGINES, default="boxes")
    asked = parser.parse_args()
    asked.folder.mkdir(parents=True, exist_ok=True)
    for k in range(asked.first, asked.first + asked.count):
        data, truth = ENGINES[asked.engine](random.Random(f"{asked.engine} {k}"))
        (asked.folder / f"q{k:04}.pdf").write_bytes(data)
        found = [{"number": n, "mathml": mathml(node)} for n, node in truth]
        text = json.dumps(found, ensure_ascii=False, indent=1)
        (asked.folder / f"q{k:04}.json").write_text(text + "\n", encoding="utf-8")


if __name__ == "__main__":
    main()
