"""Run several methods over documents with known tables and score them."""

from __future__ import annotations

import json
import time
from collections.abc import Callable, Sequence
from dataclasses import asdict, dataclass, field
from pathlib import Path

from ..emit import write_whole
from ..errors import SourceError
from ..model import Document
from ..pipeline import read
from ..tables import find_method
from .metrics import cell_f1, match_tables
from .truth import GridCell, TruthDocument, find_truth


@dataclass(slots=True)
class TableScore:
    """One true table: its document, number (from 0), and the cell F1 of the table read for it."""

    document: str
    index: int
    cell_f1: float
    found: bool


@dataclass(slots=True)
class MethodResult:
    """What one method did: its scores by true table, tables it read that are none, time, failures."""

    method: str
    tables: list[TableScore] = field(default_factory=list)
    extra: int = 0
    pages: int = 0
    seconds: float = 0.0
    failures: list[str] = field(default_factory=list)

    @property
    def mean_cell_f1(self) -> float:
        """Mean cell F1 over all true tables; one not found counts 0."""
        return sum(t.cell_f1 for t in self.tables) / len(self.tables) if self.tables else 0.0

    @property
    def found(self) -> int:
        """Number of true tables for which one was read."""
        return sum(t.found for t in self.tables)

    @property
    def ms_per_page(self) -> float:
        """Wall time of reading, in milliseconds a page."""
        return 1000 * self.seconds / self.pages if self.pages else 0.0


def benchmark(
    truth: str | Path,
    methods: Sequence[str] = ("ruled", "spaced", "combined"),
    out: str | Path | None = None,
    on_read: Callable[[str, str], None] | None = None,
) -> list[MethodResult]:
    """Read every document of a truth folder with each method and score the tables.

    Writes `results.json` into the folder `out` if one is named. `on_read` is called with method and
    document before each reading. Results come in the order of the methods.
    Raises UsageError for an unknown method, MissingSource where there is no truth.
    """
    for method in methods:
        find_method(method)
    documents = find_truth(truth)
    results = [_run(method, documents, on_read) for method in methods]
    if out is not None:
        summary = [
            {**asdict(r), "mean_cell_f1": r.mean_cell_f1, "ms_per_page": r.ms_per_page} for r in results
        ]
        text = json.dumps({"format": "wennak-bench", "version": 1, "results": summary}, indent=1)
        write_whole(Path(out) / "results.json", text + "\n")
    return results


def _run(
    method: str, documents: Sequence[TruthDocument], on_read: Callable[[str, str], None] | None
) -> MethodResult:
    result = MethodResult(method)
    for document in documents:
        if on_read:
            on_read(method, document.name)
        start = time.perf_counter()
        try:
            reading = read(document.pdf, method=method)
        except SourceError as error:
            result.failures.append(str(error))
            result.tables += [TableScore(document.name, i, 0.0, False) for i in range(len(document.tables))]
            continue
        result.seconds += time.perf_counter() - start
        result.pages += len(reading.pages)
        _score(result, document, reading)
    return result


def _score(result: MethodResult, document: TruthDocument, reading: Document) -> None:
    read_tables = [grid_cells(reading, i) for i in range(len(reading.tables))]
    partner = dict(match_tables(document.tables, read_tables))
    result.extra += len(read_tables) - len(partner)
    for i, table in enumerate(document.tables):
        found = i in partner
        score = cell_f1(table, read_tables[partner[i]]) if found else 0.0
        result.tables.append(TableScore(document.name, i, score, found))


def grid_cells(document: Document, index: int) -> frozenset[GridCell]:
    """Return the cells of a table that was read, in the form of the truth's."""
    cells = document.tables[index].cells
    return frozenset((c.row, c.column, c.rowspan, c.colspan, " ".join(c.text.split())) for c in cells)


__all__ = ["MethodResult", "TableScore", "benchmark", "find_truth"]
