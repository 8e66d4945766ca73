"""Where texts stand among the words of a page."""

from __future__ import annotations

import unicodedata
from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from ..ink import Bools
from ..layout import PageLayout

# A text of one line has at most so many words; longer ones are sought line by line.
MOST_WORDS = 16
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
        w = self._words = layout.words
        usable = [i for i in range(len(w)) if not w.turned[i] and (within is None or within[i])]
        usable.sort(key=lambda i: (float(w.baseline[i]), float(w.x0[i])))
        self.lines: list[list[int]] = []
        for i in usable:
            height = float(w.y1[i] - w.y0[i])
            if self.lines and w.baseline[i] - w.baseline[self.lines[-1][0]] < SAME_LINE * height:
                self.lines[-1].append(i)
            else:
                self.lines.append([i])
        for line in self.lines:
            line.sort(key=lambda i: float(w.x0[i]))
        self._texts = [plain(text) for text in w.texts]
        self._runs: dict[str, list[tuple[int, int, int]]] = defaultdict(list)
        for number, line in enumerate(self.lines):
            for start in range(len(line)):
                text = ""
                for end in range(start, min(len(line), start + MOST_WORDS)):
                    text += self._texts[line[end]]
                    self._runs[text].append((number, start, end + 1))

    def stands(self, text: str) -> list[Stand]:
        """Return where a text stands: on one line, or on lines below each other."""
        wanted = plain(text)
        if not wanted:
            return []
        whole = [self._stand(self.lines[n][a:b]) for n, a, b in self._runs.get(wanted, ())]
        return whole or list(self._wrapped(wanted))

    def _wrapped(self, wanted: str) -> Iterable[Stand]:
        for number, line in enumerate(self.lines):
            for start in range(len(line)):
                if wanted.startswith(self._texts[line[start]]):
                    words = self._continued(wanted, number, start)
                    if words:
                        yield self._stand(words)

    def _continued(self, wanted: str, number: int, start: int) -> list[int]:
        """The words that say a text from one on, over lines below each other; none where they do not."""
        w, words = self._words, []
        line, k, left = self.lines[number], start, wanted
        while left:
            taken = 0
            while k < len(line) and left.startswith(self._texts[line[k]]) and self._texts[line[k]]:
                left = left[len(self._texts[line[k]]) :]
                words.append(line[k])
                k, taken = k + 1, taken + 1
            if not left:
                return words
            if not taken:
                return []
            # On with the line below that has words under these.
            x0 = min(float(w.x0[i]) for i in words)
            x1 = max(float(w.x1[i]) for i in words)
            last = words[-1]
            reach = float(w.baseline[last]) + NEXT_LINE * float(w.y1[last] - w.y0[last])
            number, found = number + 1, -1
            while number < len(self.lines) and float(w.baseline[self.lines[number][0]]) <= reach:
                line = self.lines[number]
                found = next((j for j, i in enumerate(line) if w.x1[i] > x0 and w.x0[i] < x1), -1)
                if found >= 0:
                    break
                number += 1
            if found < 0:
                return []
            k = found
        return words

    def _stand(self, words: Sequence[int]) -> Stand:
        w = self._words
        return Stand(
            tuple(words), min(float(w.x0[i]) for i in words), max(float(w.x1[i]) for i in words),
            float(w.baseline[words[0]]), float(w.baseline[words[-1]]),
        )  # fmt: skip
