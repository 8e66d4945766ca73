"""The tree of an equation -> MathML Core (presentation elements)."""

from __future__ import annotations

from html import escape

from .tree import APART, NAMES, Accent, Fraction, Grid, Node, Radical, Row, Scripts, Style, Symbol

_FENCES = frozenset("()[]{}⟨⟩⌊⌋⌈⌉|‖")
_MARKS = {"→": "⃗", "¯": "‾"}
# Where the letters of an alphabet begin among the mathematical ones; some stand elsewhere.
_STARTS: dict[Style, tuple[int, int]] = {
    "bold": (0x1D400, 0x1D41A), "bold-italic": (0x1D468, 0x1D482), "script": (0x1D49C, 0x1D4B6),
    "fraktur": (0x1D504, 0x1D51E), "double-struck": (0x1D538, 0x1D552),
}  # fmt: skip
_ELSEWHERE = {
    "script": dict(zip("BEFHILMRego", "ℬℰℱℋℐℒℳℛℯℊℴ", strict=True)),
    "fraktur": dict(zip("CHIRZ", "ℭℌℑℜℨ", strict=True)),
    "double-struck": dict(zip("CHNPQRZ", "ℂℍℕℙℚℝℤ", strict=True)),
}


def mathml(node: Node) -> str:
    """Return an equation as the element `math`, set on a line of its own."""
    return f'<math xmlns="http://www.w3.org/1998/Math/MathML" display="block">{_one(node)}</math>'


def letters(text: str, style: Style) -> str:
    """Return letters in the characters that Unicode has for an alphabet."""
    if style not in _STARTS:
        return text
    capital, small = _STARTS[style]
    out = ""
    for c in text:
        if c in _ELSEWHERE.get(style, {}):
            out += _ELSEWHERE[style][c]
        elif "A" <= c <= "Z" or "a" <= c <= "z":
            out += chr(capital + ord(c) - 65 if c < "a" else small + ord(c) - 97)
        else:
            out += c
    return out


def _one(node: Node) -> str:
    match node:
        case Symbol():
            return _symbol(node)
        case Row(items):
            return f"<mrow>{_items(items)}</mrow>"
        case Fraction(over, under):
            return f"<mfrac>{_one(over)}{_one(under)}</mfrac>"
        case Radical(body, None):
            return f"<msqrt>{_one(body)}</msqrt>"
        case Radical(body, index) if index is not None:
            return f"<mroot>{_one(body)}{_one(index)}</mroot>"
        case Accent(base, mark, below):
            sign = escape(_MARKS.get(mark, mark), quote=False)
            if below:
                return f'<munder accentunder="true">{_one(base)}<mo>{sign}</mo></munder>'
            stretchy = "" if not isinstance(base, Symbol) else ' stretchy="false"'
            return f'<mover accent="true">{_one(base)}<mo{stretchy}>{sign}</mo></mover>'
        case Scripts():
            return _scripts(node)
        case Grid():
            return _grid(node)
    raise TypeError(node)


def _items(items: tuple[Node, ...]) -> str:
    out = ""
    for item in items:
        said = _one(item)
        # Blanks between elements draw nothing; they part the words of who reads the text alone.
        if isinstance(item, Symbol) and item.text in APART:
            said = f" {said} "
        out += said
    return out.strip()


def _symbol(symbol: Symbol) -> str:
    text = letters(symbol.text, symbol.style)
    shown = escape(text, quote=False)
    bare = symbol.text.strip()
    if bare != symbol.text:
        return f"<mtext>{shown.replace(' ', chr(0xA0))}</mtext>"
    if bare[:1].isdigit():
        return f"<mn>{shown}</mn>"
    if bare in NAMES and bare.startswith(("lim", "max", "min", "sup", "inf", "det", "gcd")):
        return f'<mo movablelimits="false">{shown}</mo>'
    if bare.isalpha() or bare in ("∞", "∅", "∂", "∇"):
        upright = symbol.style == "upright" and len(bare) == 1 and bare.isalpha()
        return f'<mi mathvariant="normal">{shown}</mi>' if upright else f"<mi>{shown}</mi>"
    if bare in _FENCES:
        return f'<mo stretchy="{"true" if symbol.tall else "false"}">{shown}</mo>'
    return f"<mo>{shown}</mo>"


def _scripts(node: Scripts) -> str:
    base = _one(node.base)
    if node.limits and isinstance(node.base, Symbol) and not node.base.text.isalpha():
        base = f'<mo movablelimits="false">{escape(node.base.text, quote=False)}</mo>'
    kind = ("munder", "mover", "munderover") if node.limits else ("msub", "msup", "msubsup")
    parts = [part for part in (node.sub, node.sup) if part is not None]
    name = kind[2] if len(parts) == 2 else kind[0] if node.sub is not None else kind[1]
    return f"<{name}>{base}{''.join(map(_one, parts))}</{name}>"


def _grid(grid: Grid) -> str:
    system = not grid.left and not grid.right
    cases = grid.left == "{" and not grid.right
    aligned = system and len(grid.rows[0]) > 1
    # Browsers set what stands in cells by their own words for it.
    ways = {0: "-webkit-right", 1: "-webkit-left"} if aligned else {}
    rows = []
    for cells in grid.rows:
        said = ""
        for k, cell in enumerate(cells):
            way = ways.get(k) or ("-webkit-left" if cases else "")
            style = f"text-align: {way}{'; padding: 0.25em 0' if aligned else ''}"
            said += f'<mtd style="{style}">{_one(cell)}</mtd>' if way else f"<mtd>{_one(cell)}</mtd>"
        rows.append(f"<mtr>{said}</mtr>")
    style = ' displaystyle="true"' if system else ""
    table = f"<mtable{style}>{''.join(rows)}</mtable>"
    if system:
        return table
    left, right = (f"<mo>{escape(c, quote=False)}</mo>" if c else "" for c in (grid.left, grid.right))
    if (grid.left, grid.right, len(grid.rows), len(grid.rows[0])) == ("(", ")", 2, 1):
        over, under = (_one(cells[0]) for cells in grid.rows)
        return f'<mrow>{left}<mfrac linethickness="0">{over}{under}</mfrac>{right}</mrow>'
    return f"<mrow>{left}{table}{right}</mrow>"
