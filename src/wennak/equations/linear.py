"""The tree of an equation -> one line of text, with the characters of the page and none besides."""

from __future__ import annotations

from .tree import APART, Accent, Fraction, Grid, Node, Radical, Row, Scripts, Symbol


def linear(node: Node) -> str:
    """Return what stands in an equation in the order in which it is read."""
    return " ".join(_said(node).split())


def _said(node: Node) -> str:
    match node:
        case Symbol(text):
            return f" {text} " if text in APART or (len(text) > 1 and text.strip().isalpha()) else text
        case Row(items):
            return "".join(map(_said, items))
        case Fraction(over, under):
            return f"{_said(over)} {_said(under)}"
        case Radical(body, index):
            return f"{_said(index) if index is not None else ''}√{_said(body)}"
        case Scripts(base, sub, sup):
            return "".join(_said(part).strip() for part in (base, sub, sup) if part is not None)
        case Accent(base, mark, _):
            return _said(base) if mark in ("¯", "_", "→") else f"{_said(base)}{mark}"
        case Grid(rows, left, right):
            lines = "  ".join(" ".join(map(_said, cells)) for cells in rows)
            return f"{left}{lines}{right}"
