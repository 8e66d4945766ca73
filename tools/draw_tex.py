"""Draw papers and manuals with known truth by TeX: python tools/draw_tex.py FOLDER [COUNT] [FIRST]

Writes FOLDER/tNNNN.pdf and tNNNN.html. Like draw_documents.py, but set by pdflatex, which must be on the PATH
(with the packages that a usual installation has): rows stand no wider apart than lines of text, rules touch
their text or stand apart by a little, cells are justified and hyphenated, columns have no rules between them,
heads stand in boxes of their own. Around them numbered sections, equations, listings, terms and what they
mean, contents, references, authors side by side. All texts are made up.
"""

from __future__ import annotations

import os
import random
import subprocess
import tempfile
from pathlib import Path

from draw_documents import (
    PLACES,
    WORDS,
    WRAPPED,
    Cell,
    Drawn,
    assignments,
    identifier,
    phrase,
    plan,
    sentence,
    write_drawn,
)

FONTS = (
    "", "", "", r"\usepackage{mathptmx}", r"\usepackage{mathpazo}", r"\usepackage{charter}",
    r"\usepackage[scaled=.92]{helvet}\renewcommand{\familydefault}{\sfdefault}", r"\usepackage{newcent}",
)  # fmt: skip
SPECIAL = {c: f"\\{c}" for c in "&%$#_{}"} | {
    "\\": r"\textbackslash{}", "<": r"\textless{}", ">": r"\textgreater{}", "~": r"\textasciitilde{}",
    "^": r"\textasciicircum{}", "€": r"\texteuro{}", "£": r"\pounds{}", "--": r"-{}-",
}  # fmt: skip
# What a table may be called.
NAMES = ("Schedule", "List", "Overview", "Exhibit", "Survey")
# The width of a character, in em, about.
CHARACTER = 0.52
GREEK = {"alpha": "α", "beta": "β", "lambda": "λ", "mu": "μ", "sigma": "σ", "omega": "ω"}
# Math that cells hold, and how it reads.
MATH = (
    (r"$\leq$ 5", "≤ 5"), (r"$n$", "n"), (r"$x + 1$", "x + 1"), (r"$\pm$3", "±3"), (r"$2n$", "2n"),
    *((f"$\\{name}$", text) for name, text in GREEK.items()),
)  # fmt: skip


def tex(text: str) -> str:
    """A text as TeX takes it."""
    return "".join(SPECIAL.get(c, c) for c in text).replace("--", "-{}-")


def equation(rng: random.Random) -> str:
    """A displayed equation, or a few below each other."""
    a, b, c = (rng.choice("xyzabknuv") for _ in range(3))
    parts = (
        rf"{a} = \frac{{{b}_{rng.randrange(9)} + {c}}}{{{rng.randrange(2, 9)}\,{c}^2}}",
        rf"\sum_{{i=1}}^{{{a}}} {b}_i = \int_0^{{{c}}} f({b})\,\mathrm{{d}}{b}",
        rf"{a}^2 + {b}^2 = \sqrt{{{c} - {rng.uniform(0, 9):.2f}}}",
        rf"{a}({b}) = \begin{{cases}} {c} & {b} > 0\\ {rng.randrange(9)} & \mathrm{{else}} \end{{cases}}",
        rf"{a} = \begin{{pmatrix}} 1 & {b}\\ {c} & {rng.randrange(9)} \end{{pmatrix}}",
    )
    if rng.random() < 0.3:
        lines = [rng.choice(parts[:3]).replace(" = ", " &= ", 1) for _ in range(rng.randrange(2, 4))]
        return rf"\begin{{align}}{(chr(92) * 2).join(lines)}\end{{align}}"
    star = rng.choice(["", "*"])
    return rf"\begin{{equation{star}}}{rng.choice(parts)}\end{{equation{star}}}"


def prose(rng: random.Random) -> str:
    """A paragraph, with names and formulas in it here and there."""
    parts = []
    for _ in range(rng.randrange(1, 6)):
        text = tex(sentence(rng))
        if rng.random() < 0.2:
            text = rf"{text[:-1]} and \texttt{{{tex(identifier(rng))}}}."
        if rng.random() < 0.1:
            text = rf"{text[:-1]} with ${rng.choice('xyn')}_{rng.randrange(9)} = {rng.randrange(99)}$."
        parts.append(text)
    return " ".join(parts) + "\n\n"


def listing(rng: random.Random) -> list[str]:
    """Lines of a program; definitions stand below each other as in a table."""
    count = rng.randrange(1, 12)
    if rng.random() < 0.5:
        return assignments(rng, count)
    begin, left, right = rng.choice(
        [
            ("#define ", "/* ", " */"),
            ("  int ", "// ", ""),
            ("", "# ", ""),
            ("  ", "", ""),
            ("    ", "; ", ""),
        ]
    )
    names = [f"{rng.choice(WORDS)}_{rng.choice(WORDS)}" for _ in range(count)]
    names = [name.upper() for name in names] if begin == "#define " else names
    wide, far, said_too = max(map(len, names)) + rng.randrange(1, 4), rng.randrange(4, 9), rng.random() < 0.7
    return [
        f"{begin}{name:<{wide}}{rng.choice([str(k + 1), hex(7 * k), rng.choice(WORDS)]):<{far}}"
        f"{f'{left}{phrase(rng, 4)}{right}' if said_too else ''}".rstrip()
        for k, name in enumerate(names)
    ]


def block(rng: random.Random) -> str:
    """Something that is no table."""
    kinds = "prose prose prose list terms code quote equation equation sides references"
    match rng.choice(kinds.split()):
        case "list":
            kind = rng.choice(["itemize", "enumerate"])
            items = "".join(rf"\item {tex(sentence(rng))}" for _ in range(rng.randrange(2, 6)))
            return rf"\begin{{{kind}}}{items}\end{{{kind}}}"
        case "terms":
            names = rng.random() < 0.6
            items = "".join(
                (
                    rf"\item[{{\texttt{{{tex(identifier(rng))}}}}}] "
                    if names
                    else rf"\item[{{{tex(phrase(rng, 2))}}}] "
                )
                + tex(" ".join(sentence(rng) for _ in range(rng.randrange(1, 3))))
                for _ in range(rng.randrange(2, 6))
            )
            return rf"\begin{{description}}{items}\end{{description}}"
        case "code":
            lines = listing(rng)
            return "\n\\begin{verbatim}\n" + "\n".join(lines) + "\n\\end{verbatim}\n"
        case "quote":
            return rf"\begin{{quote}}{tex(sentence(rng))}\end{{quote}}"
        case "equation":
            return equation(rng)
        case "sides":
            lines = [
                rf"\noindent {tex(phrase(rng, 3))}\hfill {tex(rng.choice(PLACES))}\\"
                for _ in range(rng.randrange(1, 3))
            ]
            return "\n\n" + "\n".join(lines) + "\n\n"
        case "references":
            items = "".join(
                rf"\bibitem{{k{k}}} {phrase(rng, 1)[0]}. {tex(rng.choice(PLACES))}. {tex(phrase(rng, 6, 3))}. "
                rf"{rng.randrange(1900, 1990)}."
                for k in range(rng.randrange(2, 6))
            )
            return rf"\begin{{thebibliography}}{{9}}{items}\end{{thebibliography}}"
    return prose(rng)


def widths_of(rng: random.Random, table: Drawn, line: float, apart: float) -> list[float] | None:
    """Widths of the columns, in em of the table's text; 0 for those that take what they need. None where the
    table is wider than the line.
    """
    need = [
        max(
            [
                max(map(len, row[c].text.split("\n"))) * CHARACTER  # type: ignore[union-attr]
                for row in table.rows
                if row[c] is not None and row[c].colspan == 1  # type: ignore[union-attr]
            ],
            default=2.0,
        )
        for c in range(len(table.kinds))
    ]
    long = [c for c, kind in enumerate(table.kinds) if kind in WRAPPED]
    # Some other texts wrap, too.
    long += [c for c, n in enumerate(need) if c not in long and n > 8 and rng.random() < 0.3]
    rest = line - sum(n for c, n in enumerate(need) if c not in long) - apart * len(need)
    if not long:
        return [0.0] * len(need) if rest > 0 else None
    share = rest / len(long)
    if share < 6:
        return None
    out = [0.0] * len(need)
    for c in long:
        out[c] = min(share * rng.uniform(0.75, 1.0), max(6.0, need[c] * rng.uniform(0.3, 1.1)))
    return out


def tabular(rng: random.Random, table: Drawn, line: float) -> tuple[str, bool] | None:
    """The table as TeX takes it, with a random look, and whether it may go over pages; None where it is too
    wide for a line of so many em.
    """
    m = len(table.kinds)
    size, scale = rng.choice(
        [("", 1.0), ("", 1.0), (r"\small", 0.9), (r"\footnotesize", 0.8), (r"\scriptsize", 0.7)]
    )
    gap = rng.choice([0.6, 0.6, rng.uniform(0.3, 1.0)])
    widths = widths_of(rng, table, line / scale, 2 * gap)
    if widths is None:
        return None
    look = rng.choice("none grid grid level heads booktabs booktabs frame upright titled parts".split())
    uprights = look in ("grid", "upright", "titled") or (look == "level" and rng.random() < 0.3)
    if look == "titled" and rng.random() < 0.4:
        uprights = False
    numbers = rng.choice("rrrcl")
    others = rng.choice("llllc")
    ragged = rng.random() < 0.5
    spec = []
    for kind, width in zip(table.kinds, widths, strict=True):
        if width:
            spec.append((r">{\raggedright\arraybackslash}" if ragged else "") + f"p{{{width * scale:.2f}em}}")
        elif kind in ("money", "count", "share", "time", "sign"):
            spec.append(numbers)
        else:
            spec.append(others)
    outer = "|" if (uprights and look != "upright") or look == "frame" else ""
    inner = "|" if uprights else ""
    trimmed = not outer and rng.random() < 0.3
    columns = inner.join(spec)
    columns = rf"@{{}}{columns}@{{}}" if trimmed else f"{outer}{columns}{outer}"
    rule = r"\hline"
    top, middle, bottom = (
        (r"\toprule", r"\midrule", r"\bottomrule") if look == "booktabs" else (rule, rule, rule)
    )
    strong = rng.random() < 0.6
    fixed = rng.random() < 0.8
    shaded = rng.random() < 0.15
    ends: list[str] = []
    body: list[str] = []
    if look not in ("none", "upright"):
        body.append(top)
    if look == "titled":
        title = phrase(rng, 4, 2)
        table.rows.insert(0, [Cell(title, colspan=m, head=True), *([None] * (m - 1))])
        table.heads += 1
        table.groups = {r + 1 for r in table.groups}
        table.totals = {r + 1 for r in table.totals}
    centred = uprights or rng.random() < 0.3
    for r in sorted(table.groups):
        row = table.rows[r]
        if centred:
            table.rows[r] = [Cell(row[0].text if row[0] else "", colspan=m), *([None] * (m - 1))]
    for r, row in enumerate(table.rows):
        cells = []
        partial = []
        for c, cell in enumerate(row):
            if cell is None:
                continue
            text = said(rng, table, cell, c, fixed, widths[c] > 0)
            if (cell.head and strong) or (r in table.totals and strong):
                text = rf"\textbf{{{text}}}" if text else text
            if r in table.groups:
                text = rf"\textit{{{text}}}" if not strong else rf"\textbf{{{text}}}"
            if cell.colspan > 1:
                side = "l" if r in table.groups and not uprights else "c"
                left, right = outer if c == 0 else "", (inner if c + cell.colspan < m else outer)
                text = rf"\multicolumn{{{cell.colspan}}}{{{left}{side}{right}}}{{{text}}}"
                partial.append((c + 1, c + cell.colspan))
            elif cell.head and not widths[c] and rng.random() < 0.15:
                left, right = outer if c == 0 else "", (inner if c + 1 < m else outer)
                text = rf"\multicolumn{{1}}{{{left}c{right}}}{{{text}}}"
            cells.append(text)
        shade = r"\rowcolor[gray]{0.9}" if shaded and (r % 2 or r < table.heads) else ""
        ends.append(shade + " & ".join(cells) + r" \\")
        body.append(ends[-1])
        last_head = r == table.heads - 1
        if r == len(table.rows) - 1:
            break
        if look == "titled" and r == 0:
            body.append(rng.choice([r"\hline\hline", r"\hline"]))
        elif last_head and look in ("heads", "booktabs", "frame", "titled", "parts", "upright"):
            body.append(middle if rng.random() < 0.9 else middle * 2)
        elif look in ("grid", "level"):
            body.append(rule if r >= table.heads or last_head or rng.random() < 0.6 else "")
        elif r < table.heads - 1 and partial and rng.random() < 0.7:
            cut = r"\cmidrule(lr)" if look == "booktabs" else r"\cline"
            body += [f"{cut}{{{a}-{b}}}" for a, b in partial if b > a]
        elif (look == "parts" and r % 3 == 0) or (r + 1 in table.totals and rng.random() < 0.6):
            body.append(middle)
        elif look == "booktabs" and rng.random() < 0.04:
            body.append(r"\addlinespace")
    if look not in ("none", "upright"):
        body.append(bottom)
    stretch = rng.choice([1.0, 1.0, 1.0, rng.uniform(0.85, 1.6)])
    extra = rng.choice([0, 0, 0, rng.uniform(0.5, 3)])
    opened = (
        rf"{size}\renewcommand{{\arraystretch}}{{{stretch:.2f}}}\setlength{{\tabcolsep}}{{{gap * scale:.2f}em}}"
        rf"\setlength{{\extrarowheight}}{{{extra:.1f}pt}}"
    )
    long = not shaded and rng.random() < 0.2
    kind = "longtable" if long else "tabular"
    return f"{opened}\\begin{{{kind}}}{{{columns}}}\n" + "\n".join(body) + f"\n\\end{{{kind}}}", long


def said(rng: random.Random, table: Drawn, cell: Cell, column: int, fixed: bool, wraps: bool) -> str:
    """What a cell shows, as TeX; what math reads as becomes its text."""
    kind = table.kinds[column]
    if not cell.head and kind in ("label", "word", "mark") and cell.text and rng.random() < 0.04:
        shown, cell.text = rng.choice(MATH)
        return shown
    lines = [tex(line) for line in cell.text.split("\n")]
    below = r"\newline " if wraps else r" \\ "
    text = below.join(lines)
    if len(lines) > 1 and not wraps:
        text = rf"\shortstack[l]{{{text}}}"
    if kind in ("name", "code") and not cell.head and fixed and text:
        return rf"\texttt{{{text}}}"
    return rf"\quad {text}" if cell.indent else text


def document(rng: random.Random) -> tuple[str, list[Drawn]]:
    """A random document as TeX takes it, and its tables."""
    tables: list[Drawn] = []
    points = rng.choice([10, 10, 11, 12])
    two = rng.random() < 0.15
    width = rng.uniform(340, 480)
    line = (width / 2 - 8 if two else width) / points
    starred = "*" if rng.random() < 0.3 else ""
    body = []
    if rng.random() < 0.3:
        authors = r" \and ".join(
            rf"{phrase(rng, 1)} {tex(rng.choice(PLACES))}\\ {tex(phrase(rng, 2))}"
            for _ in range(rng.randrange(1, 4))
        )
        body.append(rf"\title{{{tex(phrase(rng, 6, 2))}}}\author{{{authors}}}\maketitle")
    if rng.random() < 0.1:
        body.append(r"\tableofcontents")
    for _ in range(rng.randrange(2, 8)):
        if rng.random() < 0.35:
            depth = rng.choice(["section", "subsection"])
            body.append(rf"\{depth}{starred}{{{tex(phrase(rng, 4))}}}")
        body += [block(rng) for _ in range(rng.choice([0, 1, 1, 2]))]
        if rng.random() < 0.65:
            table = plan(rng)
            if rng.random() < 0.3:
                table.rows = table.rows[: max(table.heads + 2, rng.randrange(2, 8))]
                table.totals = {r for r in table.totals if r < len(table.rows)}
                table.groups = {r for r in table.groups if r < len(table.rows) - 1}
            caption, table.caption = table.caption.partition(": ")[2], ""
            made = tabular(rng, table, line)
            if made is None:
                continue
            set_, long = made
            if long and two:
                continue
            tables.append(table)
            if rng.random() < 0.3:
                body.append(tex(sentence(rng)[:-1]) + ":")
            side = rng.choice(["center", "center", "flushleft"])
            if long:
                body.append(f"{{{set_}}}")
            elif caption and rng.random() < 0.8:
                parts = [rf"\caption{{{tex(caption)}}}", set_]
                whole = "\n\n".join(parts if rng.random() < 0.6 else parts[::-1])
                body.append(
                    rf"\begin{{table}}[{rng.choice(['h!', 'h!', 't'])}]\centering {whole}\end{{table}}"
                )
            else:
                title = ""
                if rng.random() < 0.3:
                    look = rng.choice([r"\textbf", r"\textit", r"\textsc", r"\small", ""])
                    named = rng.choice(
                        ["", "", f"{rng.choice(NAMES)} {rng.randrange(1, 9)}{rng.choice('.:')} "]
                    )
                    title = rf"{look}{{{named}{tex(phrase(rng, 5, 2))}}}\\[{rng.choice([0, 2, 4, 8])}pt]"
                body.append(rf"\begin{{{side}}}{title}{set_}\end{{{side}}}")
    head = [
        rf"\documentclass[{points}pt,{rng.choice(['a4paper', 'letterpaper'])}{',twocolumn' if two else ''}]{{article}}",
        r"\usepackage[T1]{fontenc}\usepackage{textcomp,array,booktabs,longtable,amsmath}",
        r"\usepackage[table]{xcolor}",
        rf"\usepackage[textwidth={width:.0f}pt,textheight={rng.uniform(500, 680):.0f}pt]{{geometry}}",
    ]
    font = rng.choice(FONTS)
    # Without a family of T1 the usual one is set from bitmaps.
    head += [font] if font else [r"\renewcommand{\encodingdefault}{OT1}"] if rng.random() < 0.9 else []
    if rng.random() < 0.25:
        head.append(rf"\linespread{{{rng.uniform(1.05, 1.55):.2f}}}")
    if rng.random() < 0.5:
        head.append(rf"\setlength{{\parindent}}{{0pt}}\setlength{{\parskip}}{{{rng.uniform(3, 9):.0f}pt}}")
    if rng.random() < 0.3:
        head.append(rf"\usepackage{{fancyhdr}}\pagestyle{{fancy}}\lhead{{{tex(phrase(rng, 4))}}}")
    return "\n".join([*head, r"\begin{document}", *body, "~", r"\end{document}"]), tables


def printed(rng: random.Random) -> tuple[bytes, list[Drawn]]:
    """Return a document as a PDF, and its tables: the first in which all tables find room on their pages."""
    while True:
        source, tables = document(rng)
        data, told = typeset(source)
        if data and "Overfull \\vbox" not in told and "too large" not in told:
            return data, tables


def typeset(source: str) -> tuple[bytes, str]:
    """Return the PDF of a source, and what TeX says about it."""
    # Columns of long tables are as wide as the runs before have found them to be.
    runs = 3 if "longtable}{" in source or "tableofcontents" in source else 1
    environment = {**os.environ, "SOURCE_DATE_EPOCH": "0", "FORCE_SOURCE_DATE": "1"}
    with tempfile.TemporaryDirectory() as name:
        (Path(name) / "d.tex").write_text(source, encoding="utf-8")
        for _ in range(runs):
            command = ["pdflatex", "-interaction=batchmode", "-no-shell-escape", "d.tex"]
            subprocess.run(command, cwd=name, capture_output=True, env=environment, check=False)
        paths = Path(name) / "d.pdf", Path(name) / "d.log"
        pdf = paths[0].read_bytes() if paths[0].exists() else b""
        return pdf, paths[1].read_text(encoding="utf-8", errors="replace")


if __name__ == "__main__":
    write_drawn(__doc__, printed, "t")
