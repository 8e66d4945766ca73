"""Equations set in the standard fonts, by the plainest rules for what stands over, under and beside each
other (Knuth 1986, appendix G): for drawings that need neither TeX nor a browser.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import reduce
from typing import Any

from reportlab.pdfbase.pdfmetrics import stringWidth

from wennak.equations import (
    NAMES,
    OPERATORS,
    RELATIONS,
    Accent,
    Fraction,
    Grid,
    Node,
    Radical,
    Row,
    Scripts,
    Symbol,
)

AXIS, SMALLER, THICK = 0.25, 0.7, 0.5
FONTS = {"italic": "Times-Italic", "upright": "Times-Roman", "bold": "Times-Bold"}
BINARY = frozenset("+−±×·")


@dataclass
class Box:
    """Something set from x = 0 on a baseline: its width, how far it reaches up and down, and what is drawn:
    texts as x, y, font, size, text and rules as x0, x1, y; y grows upwards.
    """

    width: float
    up: float
    down: float
    texts: list[tuple[float, float, str, float, str]] = field(default_factory=list)
    rules: list[tuple[float, float, float]] = field(default_factory=list)

    def at(self, x: float, y: float) -> Box:
        """Return the same moved, with a width that ends where it ends now."""
        texts = [(a + x, b + y, font, size, text) for a, b, font, size, text in self.texts]
        rules = [(a + x, b + x, c + y) for a, b, c in self.rules]
        return Box(self.width + x, self.up + y, self.down - y, texts, rules)

    def over(self, other: Box) -> Box:
        """Return both as one."""
        return Box(
            max(self.width, other.width), max(self.up, other.up), max(self.down, other.down),
            [*self.texts, *other.texts], [*self.rules, *other.rules],
        )  # fmt: skip


def drawn(canvas: Any, box: Box, x: float, y: float) -> None:
    """Draw a box on a canvas of ReportLab."""
    canvas.setLineWidth(THICK)
    for a, b, font, size, text in box.texts:
        canvas.setFont(font, size)
        canvas.drawString(x + a, y + b, text)
    for a, b, c in box.rules:
        canvas.line(x + a, y + c, x + b, y + c)


def boxed(node: Node, size: float) -> Box:
    """Set an equation in a size."""
    match node:
        case Symbol():
            return _symbol(node, size)
        case Row(items):
            return _row(items, size)
        case Fraction(over, under):
            top, bottom = boxed(over, size), boxed(under, size)
            width = max(top.width, bottom.width) + 0.1 * size
            axis = AXIS * size
            top = top.at((width - top.width) / 2, axis + 0.15 * size + top.down)
            bottom = bottom.at((width - bottom.width) / 2, axis - 0.15 * size - bottom.up)
            return top.over(bottom).over(Box(width, 0, 0, [], [(0, width, axis)]))
        case Scripts():
            return _scripts(node, size)
        case Radical(body, index):
            inner = boxed(body, size)
            sign = _text("√", "Symbol", size)
            whole = sign.over(inner.at(sign.width, 0))
            y = max(inner.up + 0.1 * size, 0.9 * size)
            whole = whole.over(Box(whole.width, y, 0, [], [(sign.width, whole.width, y)]))
            return (
                whole if index is None else whole.over(boxed(index, 0.5 * size).at(0.05 * size, 0.55 * size))
            )
        case Accent(base, mark):
            inner = boxed(base, size)
            accent = _text(mark, "Times-Roman", size)
            return inner.over(accent.at((inner.width - accent.width) / 2, 0.05 * size))
        case Grid(rows):
            return _grid(rows, size)
    raise TypeError(node)


def _text(text: str, font: str, size: float) -> Box:
    return Box(stringWidth(text, font, size), 0.7 * size, 0.2 * size, [(0, 0, font, size, text)])


def _symbol(symbol: Symbol, size: float) -> Box:
    text, font = symbol.text, FONTS.get(symbol.style, "Times-Roman")
    if not text.isascii() and text not in "±×·":
        font = "Symbol"
    return _text(text, font, 1.4 * size if text in OPERATORS else size)


def _row(items: tuple[Node, ...], size: float) -> Box:
    out = Box(0, 0, 0)
    for k, item in enumerate(items):
        text = item.text if isinstance(item, Symbol) else ""
        room = 0.25 * size if k and (text in RELATIONS or text in BINARY) else 0.0
        if text in NAMES and k:
            room = 0.17 * size
        placed = boxed(item, size).at(out.width + room, 0)
        out = out.over(placed)
        out.width = placed.width + (room if room else 0.17 * size if text in NAMES else 0.02 * size)
    return out


def _scripts(node: Scripts, size: float) -> Box:
    base = boxed(node.base, size)
    small = [boxed(part, SMALLER * size) if part is not None else None for part in (node.sub, node.sup)]
    if node.limits:
        width = max([base.width, *(part.width for part in small if part)])
        out = base.at((width - base.width) / 2, 0)
        for part, sign in zip(small, (-1, 1), strict=True):
            if part:
                y = base.up + 0.15 * size + part.down if sign > 0 else -base.down - 0.15 * size - part.up
                out = out.over(part.at((width - part.width) / 2, y))
        out.width = width
        return out
    out = base
    for part, y in zip(small, (-0.2 * size, 0.38 * size), strict=True):
        if part:
            # What is high itself is set higher or lower.
            far = max(0.0, part.down - 0.2 * size) if y > 0 else -max(0.0, part.up - 0.55 * size)
            out = out.over(part.at(base.width + 0.03 * size, y + far))
    return out


def _grid(rows: tuple[tuple[Node, ...], ...], size: float) -> Box:
    """Lines below each other, the second of two cells beginning at one place."""
    lines = [[boxed(cell, size) for cell in cells] for cells in rows]
    left = max(cells[0].width for cells in lines)
    out: list[Box] = []
    y = 0.0
    for cells in lines:
        up, down = (max(getattr(cell, side) for cell in cells) for side in ("up", "down"))
        y -= up
        first = cells[0].at(left - cells[0].width, y)
        out.append(reduce(Box.over, [cell.at(left + 0.25 * size, y) for cell in cells[1:]], first))
        y -= down + 0.5 * size
    return reduce(Box.over, out)
