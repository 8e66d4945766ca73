"""Symbols of an equation -> its tree -> TeX, MathML and one line of text."""

from .linear import linear
from .mathml import mathml
from .read import RELATIONS, Unclear, read_tree
from .symbols import OPERATORS, Bar, placed_symbols
from .tex import tex
from .tree import NAMES, Accent, Fraction, Grid, Node, Radical, Row, Scripts, Symbol, symbols_of

__all__ = [
    "NAMES", "OPERATORS", "RELATIONS", "Accent", "Bar", "Fraction", "Grid", "Node", "Radical", "Row",
    "Scripts", "Symbol", "Unclear", "linear", "mathml", "placed_symbols", "read_tree", "symbols_of", "tex",
]  # fmt: skip
