"""The tree of an equation -> TeX."""

from __future__ import annotations

from .tree import NAMES, Accent, Fraction, Grid, Node, Radical, Row, Scripts, Symbol

_SIGNS = {
    "−": "-", "∗": "*", "·": r"\cdot", "×": r"\times", "÷": r"\div", "±": r"\pm", "∓": r"\mp",
    "∘": r"\circ", "∙": r"\bullet", "⊕": r"\oplus", "⊗": r"\otimes", "∪": r"\cup", "∩": r"\cap",
    "∧": r"\wedge", "∨": r"\vee", "∖": r"\setminus", "≤": r"\leq", "≥": r"\geq", "≠": r"\neq",
    "≈": r"\approx", "≡": r"\equiv", "∼": r"\sim", "≃": r"\simeq", "≅": r"\cong", "∝": r"\propto",
    "≪": r"\ll", "≫": r"\gg", "∈": r"\in", "∉": r"\notin", "∋": r"\ni", "⊂": r"\subset", "⊆": r"\subseteq",
    "⊃": r"\supset", "⊇": r"\supseteq", "→": r"\to", "←": r"\leftarrow", "↔": r"\leftrightarrow",
    "⇒": r"\Rightarrow", "⇐": r"\Leftarrow", "⇔": r"\Leftrightarrow", "↦": r"\mapsto", "∀": r"\forall",
    "∃": r"\exists", "¬": r"\neg", "∂": r"\partial", "∇": r"\nabla", "∞": r"\infty", "∅": r"\emptyset",
    "ℏ": r"\hbar", "ℓ": r"\ell", "′": r"\prime", "…": r"\ldots", "⋯": r"\cdots", "⋮": r"\vdots",
    "⋱": r"\ddots", "∑": r"\sum", "∏": r"\prod", "∐": r"\coprod", "∫": r"\int", "∮": r"\oint",
    "⋃": r"\bigcup", "⋂": r"\bigcap", "⨁": r"\bigoplus", "⨂": r"\bigotimes", "⨄": r"\biguplus",
    "⨆": r"\bigsqcup", "⨀": r"\bigodot", "⋁": r"\bigvee", "⋀": r"\bigwedge", "⟨": r"\langle",
    "⟩": r"\rangle", "⌊": r"\lfloor", "⌋": r"\rfloor", "⌈": r"\lceil", "⌉": r"\rceil", "‖": r"\|",
    "∥": r"\parallel", "∣": r"\mid", "⊥": r"\perp", "∠": r"\angle", "†": r"\dagger", "‡": r"\ddagger",
    "°": r"{}^{\circ}", "µ": r"\mu", "{": r"\{", "}": r"\}", "%": r"\%", "$": r"\$", "#": r"\#",
    "&": r"\&", "_": r"\_", "\\": r"\backslash", "^": r"\hat{}", "~": r"\sim", "⊢": r"\vdash",
    "⊨": r"\models", "≺": r"\prec", "≻": r"\succ",
}  # fmt: skip
_GREEK = dict(
    zip(
        "αβγδεζηθικλμνξπρςστυφχψωϵϑϕϖϱΓΔΘΛΞΠΣΥΦΨΩ",
        r"alpha beta gamma delta varepsilon zeta eta theta iota kappa lambda mu nu xi pi rho varsigma "
        r"sigma tau upsilon varphi chi psi omega epsilon vartheta phi varpi varrho Gamma Delta Theta "
        r"Lambda Xi Pi Sigma Upsilon Phi Psi Omega".split(),
        strict=True,
    )
)
_ACCENTS = {
    "^": "hat", "~": "tilde", "¯": "bar", "→": "vec", "˙": "dot", "¨": "ddot", "ˇ": "check", "˘": "breve",
    "´": "acute", "`": "grave", "˚": "mathring",
}  # fmt: skip
_STYLES = {
    "bold": "mathbf", "script": "mathcal", "fraktur": "mathfrak", "double-struck": "mathbb",
    "bold-italic": "boldsymbol",
}  # fmt: skip
_LEFT = {
    "(": "(",
    "[": "[",
    "{": r"\{",
    "⟨": r"\langle",
    "⌊": r"\lfloor",
    "⌈": r"\lceil",
    "|": "|",
    "‖": r"\|",
}
_RIGHT = {
    ")": ")",
    "]": "]",
    "}": r"\}",
    "⟩": r"\rangle",
    "⌋": r"\rfloor",
    "⌉": r"\rceil",
    "|": "|",
    "‖": r"\|",
}
_MATRICES = {"()": "pmatrix", "[]": "bmatrix", "{}": "Bmatrix", "||": "vmatrix", "‖‖": "Vmatrix"}


def tex(node: Node) -> str:
    """Return an equation as the mathematics of TeX with the signs and environments of amsmath."""
    match node:
        case Symbol():
            return _symbol(node)
        case Row(items):
            return _row(items)
        case Fraction(over, under):
            return rf"\frac{{{tex(over)}}}{{{tex(under)}}}"
        case Radical(body, index):
            return rf"\sqrt{f'[{tex(index)}]' if index is not None else ''}{{{tex(body)}}}"
        case Accent(base, mark, below):
            if below:
                return rf"\underline{{{tex(base)}}}"
            wide = mark == "¯" and not isinstance(base, Symbol)
            return rf"\{'overline' if wide else _ACCENTS[mark]}{{{tex(base)}}}"
        case Scripts():
            return _scripts(node)
        case Grid():
            return _grid(node)


def _symbol(symbol: Symbol) -> str:
    text = symbol.text
    if len(text) > 1 and text.strip().isalpha():
        if symbol.style == "bold":
            return rf"\mathbf{{{text}}}"
        word = text != text.strip()
        return rf"\text{{{text}}}" if word else rf"\{text}" if text in NAMES else rf"\mathrm{{{text}}}"
    said = _GREEK.get(text) or _SIGNS.get(text)
    if text in _GREEK:
        said = f"\\{said}"
    said = said or text
    if symbol.style in _STYLES:
        return rf"\{_STYLES[symbol.style]}{{{said}}}"
    if symbol.style == "upright" and text.isalpha() and text not in _GREEK and said == text:
        return rf"\mathrm{{{text}}}"
    return said


def _row(items: tuple[Node, ...]) -> str:
    """Nodes that follow each other; tall brackets in pairs."""
    said: list[str] = []
    open_: list[int] = []
    for item in items:
        bracket = item.base if isinstance(item, Scripts) and not item.limits else item
        if isinstance(bracket, Symbol) and bracket.tall:
            if (
                bracket.text in _RIGHT
                and open_
                and (bracket.text not in _LEFT or _same(said[open_[-1]], bracket))
            ):
                k = open_.pop()
                said[k] = rf"\left{said[k]}"
                closed = rf"\right{_RIGHT[bracket.text]}"
                said.append(closed if item is bracket else closed + _script_parts(item))  # type: ignore[arg-type]
                continue
            if bracket.text in _LEFT and item is bracket:
                open_.append(len(said))
                said.append(_LEFT[bracket.text])
                continue
        said.append(tex(item))
    return _spaced(said)


def _same(opened: str, bracket: Symbol) -> bool:
    return opened == _LEFT.get(bracket.text)


def _spaced(parts: list[str]) -> str:
    """Parts with a blank between them where a command would take in a letter."""
    out = ""
    for part in parts:
        name = out[out.rfind("\\") + 1 :] if "\\" in out else ""
        if part and out and name.isalpha() and part[0].isalpha():
            out += " "
        out += part
    return out


def _scripts(node: Scripts) -> str:
    base = tex(node.base)
    # What is more than one thing to TeX is put together before scripts are set on it.
    if not isinstance(node.base, (Symbol, Accent, Grid)) and not (isinstance(node.base, Row) and not base):
        base = f"{{{base}}}"
    return (base or "{}") + _script_parts(node)


def _script_parts(node: Scripts) -> str:
    # Of integrals, limits stand beside the sign by themselves.
    integral = isinstance(node.base, Symbol) and node.base.text in "∫∬∭∮"
    limits = r"\limits" if node.limits and integral else ""
    sub = f"_{{{tex(node.sub)}}}" if node.sub is not None else ""
    if isinstance(node.sup, Symbol) and node.sup.text in ("′", "″", "‴"):
        return f"{limits}{'′″‴'.index(node.sup.text) * chr(39)}'{sub}"
    sup = f"^{{{tex(node.sup)}}}" if node.sup is not None else ""
    return limits + sub + sup


def _grid(grid: Grid) -> str:
    rows = [[tex(cell) for cell in cells] for cells in grid.rows]
    if not grid.left and not grid.right:
        return _environment("aligned" if len(rows[0]) > 1 else "gathered", rows)
    if grid.left == "{" and not grid.right:
        return _environment("cases", rows)
    if (grid.left, grid.right, len(rows), len(rows[0])) == ("(", ")", 2, 1):
        return rf"\binom{{{rows[0][0]}}}{{{rows[1][0]}}}"
    name = _MATRICES.get(grid.left + grid.right)
    if name:
        return _environment(name, rows)
    inner = _environment("matrix", rows)
    return rf"\left{_LEFT.get(grid.left, '.')}{inner}\right{_RIGHT.get(grid.right, '.')}"


def _environment(name: str, rows: list[list[str]]) -> str:
    body = r" \\ ".join(" & ".join(cells) for cells in rows)
    return rf"\begin{{{name}}} {body} \end{{{name}}}"
