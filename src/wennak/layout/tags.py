"""The structure tree of a tagged PDF, where it agrees with what is drawn (ISO 32000-2, 14.8).

Tags say what a program meant; ink says what a reader sees. A page's tags are used where nearly all of its
text is tagged and the tagged order runs as one would read.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from ..ink import Ints, PageInk, StructureTree, distinct
from .words import Words

# Elements whose text is part of the block around them (14.8.4.7), and what groups without meaning (14.8.4.3).
_INLINE = frozenset(
    "Span Quote Em Strong Link Annot Reference BibEntry Code Ruby RB RT RP Warichu WT WP Sub NonStruct "
    "Private Lbl LBody".split()
)
# Elements that only hold blocks: text right in them may be several blocks.
CONTAINERS = frozenset(
    "Document DocumentFragment Part Art Sect Div Aside Index L TR THead TBody TFoot Table".split()
)
# At least this share of the words must be tagged, and at most this share of steps may lead backwards.
COVERAGE = 0.9
# Running heads and feet stand in this share of the page's height at either end.
MARGIN = 0.1
BACKWARDS = 0.1


@dataclass(slots=True)
class Tags:
    """The tree, and for each word of a page its element and its block's element (-1 for none)."""

    tree: StructureTree
    element: Ints
    block: Ints

    def role(self, element: int) -> str:
        """Return the structure type of an element, or nothing for -1."""
        return self.tree.roles[element] if element >= 0 else ""

    def is_container(self, element: int) -> bool:
        """Whether text right in an element may be several blocks."""
        return element < 0 or self.tree.roles[element] in CONTAINERS

    def ancestors(self, element: int) -> Iterator[int]:
        """Yield the elements that hold an element, from the inside."""
        while (element := self.tree.parents[element]) >= 0:
            yield element

    def depth(self, element: int) -> int:
        """Return in how many lists an element stands."""
        if element < 0:
            return 0
        return sum(self.tree.roles[e] == "L" for e in (element, *self.ancestors(element)))


def read_tags(words: Words, ink: PageInk, em: float) -> tuple[Tags | None, str]:
    """Return the tags of a page if they can be trusted, else None and the reason ("" if there are none)."""
    tree, owners = ink.tree, ink.owners
    if tree is None or not len(words) or not len(owners):
        return None, ""
    element = np.where(words.mark >= 0, owners[words.mark], -1)
    tagged = element >= 0
    if not tagged.any():
        return None, ""
    # Running heads and feet need no tags.
    inner = (words.y0 > MARGIN * ink.height) & (words.y1 < (1 - MARGIN) * ink.height)
    share = float(tagged[inner].mean()) if inner.any() else 1.0
    if share < COVERAGE:
        return None, f"{round(100 * (1 - share))} % of the words are not tagged"
    if not inner.any() and tagged.mean() < 0.5:
        return None, "most words are not tagged"
    blocks = _blocks(tree, distinct(element[tagged]))
    block = np.full(len(element), -1, dtype=np.int64)
    block[tagged] = [blocks[e] for e in element[tagged].tolist()]
    if _backwards(words, block, em) > BACKWARDS:
        return None, "the tagged order is not the order in print"
    return Tags(tree, element, block), ""


def _blocks(tree: StructureTree, elements: Ints) -> dict[int, int]:
    """The block of each element: its list item, if it is in one, else what it is an inline part of."""
    out = {}
    for element in elements.tolist():
        block = element
        while tree.roles[block] in _INLINE and tree.parents[block] >= 0:
            block = tree.parents[block]
        above = block
        while above >= 0 and tree.roles[above] not in ("LI", "TD", "TH", "Table"):
            above = tree.parents[above]
        out[element] = above if above >= 0 and tree.roles[above] == "LI" else block
    return out


def _backwards(words: Words, block: Ints, em: float) -> float:
    """The share of steps from block to block that lead up the page without leading to another column."""
    tagged = np.flatnonzero(block >= 0)
    order = tagged[np.argsort(block[tagged], kind="stable")]
    starts = np.flatnonzero(np.concatenate(([True], np.diff(block[order]) != 0)))
    if len(starts) < 2:
        return 0.0
    top = np.minimum.reduceat(words.y0[order], starts)
    left, right = np.minimum.reduceat(words.x0[order], starts), np.maximum.reduceat(words.x1[order], starts)
    up = top[1:] < top[:-1] - em
    beside = (left[1:] > right[:-1] - em) | (right[1:] < left[:-1] + em)
    return float((up & ~beside).mean())
