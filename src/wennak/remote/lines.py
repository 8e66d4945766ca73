"""Where texts stand among the words of a page."""

from __future__ import annotations

import unicodedata
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass

from ..ink import Bools
from ..layout import PageLayout

# Words that stand at one height are a line; in heights of a word.
SAME_LINE = 0.5
# Lines of a text follow each other within this many heights.
NEXT_LINE = 2.2
_PLAIN = str.maketrans("‐‑–—−’‘“”", "-----''\"\"")


@dataclass(frozen=True, slots=True)
class Stand:
    """Words that say a text: where they are, and at which height their first line stands."""

    words: tuple[int, ...]
    x0: float
    x1: float
    top: float
    bottom: float

    @property
    def middle(self) -> float:
        """Its middle, from left to right."""
        return (self.x0 + self.x1) / 2


def plain(text: str) -> str:
    """Return a text without blanks, and with one kind of dashes and quotes: what is compared."""
    return "".join(unicodedata.normalize("NFKC", text).translate(_PLAIN).split())


class Lines:
    """The words of a page, or those `within` a region of it, in lines, and where texts stand among them."""

    def __init__(self, layout: PageLayout, within: Bools | None = None) -> None:
        w = layout.words
        # Single values are asked for over and over: lists give them many times faster than arrays.
        self._x0: list[float] = w.x0.tolist()
        self._x1: list[float] = w.x1.tolist()
        self._baseline: list[float] = w.baseline.tolist()
        self._height: list[float] = (w.y1 - w.y0).tolist()
        usable = [i for i in range(len(w)) if not w.turned[i] and (within is None or within[i])]
        usable.sort(key=lambda i: (self._baseline[i], self._x0[i]))
        self.lines: list[list[int]] = []
        for i in usable:
            near = SAME_LINE * self._height[i]
            if self.lines and self._baseline[i] - self._baseline[self.lines[-1][0]] < near:
                self.lines[-1].append(i)
            else:
                self.lines.append([i])
        self._texts = [plain(text) for text in w.texts]
        # Where words of one text stand: line and position.
        self._at: dict[str, list[tuple[int, int]]] = defaultdict(list)
        for number, line in enumerate(self.lines):
            line.sort(key=self._x0.__getitem__)
            for k, i in enumerate(line):
                self._at[self._texts[i]].append((number, k))

    def stands(self, text: str) -> list[Stand]:
        """Return where a text stands: on one line, or on lines below each other."""
        wanted = plain(text)
        begun = [at for end in range(1, len(wanted) + 1) for at in self._at.get(wanted[:end], ())]
        # From top to bottom, and from left to right.
        found = [words for number, k in sorted(begun) if (words := self._continued(wanted, number, k))]
        whole = [words for words in found if self._is_line(words)]
        return [self._stand(words) for words in whole or found]

    def _is_line(self, words: Sequence[int]) -> bool:
        return self._baseline[words[-1]] - self._baseline[words[0]] < SAME_LINE * self._height[words[-1]]

    def _continued(self, wanted: str, number: int, start: int) -> list[int]:
        """The words that say a text from one on, over lines below each other; none where they do not."""
        words: list[int] = []
        line, k, done = self.lines[number], start, 0
        while True:
            taken = 0
            while k < len(line) and (said := self._texts[line[k]]) and wanted.startswith(said, done):
                done += len(said)
                words.append(line[k])
                k, taken = k + 1, taken + 1
            if done == len(wanted):
                return words
            if not taken:
                return []
            # On with the line below that has words under these.
            x0 = min(self._x0[i] for i in words)
            x1 = max(self._x1[i] for i in words)
            reach = self._baseline[words[-1]] + NEXT_LINE * self._height[words[-1]]
            number, found = number + 1, -1
            while number < len(self.lines) and self._baseline[self.lines[number][0]] <= reach:
                line = self.lines[number]
                found = next((j for j, i in enumerate(line) if self._x1[i] > x0 and self._x0[i] < x1), -1)
                if found >= 0:
                    break
                number += 1
            if found < 0:
                return []
            k = found

    def _stand(self, words: Sequence[int]) -> Stand:
        return Stand(
            tuple(words), min(self._x0[i] for i in words), max(self._x1[i] for i in words),
            self._baseline[words[0]], self._baseline[words[-1]],
        )  # fmt: skip
