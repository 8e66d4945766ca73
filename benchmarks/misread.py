"""How far numbers read in pictures can be trusted: python benchmarks/misread.py TRUTH... [--list]

Reads the PDFs that have a truth (NAME.html beside NAME.pdf, as `wennak truth` makes it), sets the numbers of
each table beside those of its true table, in their order, and tells how many are wrong (other digits,
points or signs), how many of these are in doubt, and how many of the sure ones are right. What a table leaves
out, or has more, is counted apart. With --list each wrong number is named.
"""

from __future__ import annotations

import re
import sys
from collections.abc import Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from difflib import SequenceMatcher
from pathlib import Path

from wennak.bench.grid import grid_of
from wennak.bench.matching import match
from wennak.errors import SourceError
from wennak.model import DOUBTFUL, Table
from wennak.pipeline import read
from wennak.truth import find_truth, load_truth

# What is at least this sure is meant to be right.
SURE = 0.95
_NUMBER = re.compile(r"[^\s±]*\d[^\s±]*")
_DASHES = str.maketrans("−–—", "---")


@dataclass(frozen=True, slots=True)
class Compared:
    """A number that was read, with what is true in its place (empty if nothing is) and how sure it is."""

    document: str
    true: str
    said: str
    sure: float

    @property
    def right(self) -> bool:
        """Whether digits, points and signs are the same."""
        return plain(self.true) == plain(self.said)


def main(arguments: list[str]) -> int:
    """Print the figures."""
    folders = [Path(a) for a in arguments if a != "--list"]
    try:
        paths = [truth.path for folder in folders for truth in find_truth(folder)]
    except SourceError as error:
        print(error)
        return 1
    with ProcessPoolExecutor(2) as pool:
        found = [item for items in pool.map(compared, paths) for item in items]
    pairs = [item for item in found if item.true and item.said]
    if not pairs:
        print("No numbers of tables with a truth were found in the folders named.")
        return 1
    wrong = [item for item in pairs if not item.right]
    sure = [item for item in pairs if item.sure >= SURE]
    doubted = sum(item.sure < DOUBTFUL for item in pairs)
    print(f"{len(pairs)} numbers, {len(wrong)} wrong; {doubted / len(pairs):.3f} in doubt")
    print(f"wrong and in doubt: {sum(item.sure < DOUBTFUL for item in wrong) / max(1, len(wrong)):.3f}")
    print(
        f"wrong and less than {SURE} sure: {sum(item.sure < SURE for item in wrong) / max(1, len(wrong)):.3f}"
    )
    if sure:
        right = sum(item.right for item in sure) / len(sure)
        print(f"at least {SURE} sure: {len(sure) / len(pairs):.3f} of the numbers, {right:.4f} of them right")
    print(f"without a partner: {len(found) - len(pairs)}")
    if "--list" in arguments:
        for item in wrong:
            print(f"{item.document}: {item.true!r} was read as {item.said!r}, {item.sure:.2f}")
    return 0


def compared(path: Path) -> list[Compared]:
    """Return the numbers of the tables of a document beside the true ones, given the path of its truth."""
    truth = load_truth(path)
    assert truth.pdf is not None
    try:
        tables = read(truth.pdf).tables
    except SourceError:
        return []
    known = [entry.table for entry in truth.tables]
    pairs = match([grid_of(table) for table in known], [grid_of(table) for table in tables]).pairs
    return [item for i, j in pairs.items() for item in _beside(path.parent.name, known[i], tables[j])]


def _beside(name: str, known: Table, found: Table) -> Iterator[Compared]:
    true, said = _numbers(known), _numbers(found)
    steps = SequenceMatcher(None, [plain(t) for t, _ in true], [plain(s) for s, _ in said], autojunk=False)
    for _, i1, i2, j1, j2 in steps.get_opcodes():
        for k in range(max(i2 - i1, j2 - j1)):
            text = true[i1 + k][0] if i1 + k < i2 else ""
            number, sure = said[j1 + k] if j1 + k < j2 else ("", 0.0)
            yield Compared(name, text, number, sure)


def _numbers(table: Table) -> Sequence[tuple[str, float]]:
    """Texts with digits of the cells of a table row by row, and how sure each cell is."""
    cells = sorted(table.cells, key=lambda c: (c.row, c.column))
    return [(text, cell.confidence) for cell in cells for text in _NUMBER.findall(cell.text)]


def plain(number: str) -> str:
    """Return the digits of a number with the points and signs between them."""
    return re.sub(r"[^0-9.,:\-]", "", number.translate(_DASHES)).strip(".,:")


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
