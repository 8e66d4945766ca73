"""What a benchmark run found, as plain data that goes into results.json and comes back from it."""

from __future__ import annotations

from dataclasses import dataclass, field
from pathlib import Path
from typing import Literal

from pydantic import TypeAdapter, ValidationError

from ..emit import write_whole
from ..errors import MissingSource, SourceError

RESULTS = "results.json"


@dataclass(slots=True)
class TableResult:
    """Scores of one true table, by metric (None: cannot be judged). `reading` is the number of the table read
    for it, from 0, -1 for none; `split` and `merged` tell that it was read in parts or together with others;
    `numbers` counts what became of its numbers (see metrics.Numbers).
    """

    document: str
    index: int
    reading: int
    scores: dict[str, float | None]
    numbers: dict[str, int]
    split: bool = False
    merged: bool = False


@dataclass(slots=True)
class DocumentResult:
    """What a method made of one document: tables of the truth, tables read, those found by content;
    precision, recall and F1 by region where the truth has regions; scores of the text; cost; the error, if it
    failed.

    Times are in seconds, memory in MiB (peak of the process that read it), output in bytes of Markdown;
    `asked` is the number of pages that a service was asked about.
    """

    name: str
    tables: int
    read: int = 0
    found: int = 0
    extra: int = 0
    region: tuple[float, float, float] | None = None
    text: dict[str, float | None] = field(default_factory=dict)
    pages: int = 0
    wall: float = 0.0
    cpu: float = 0.0
    memory: float = 0.0
    output: int = 0
    asked: int = 0
    error: str = ""


@dataclass(slots=True)
class RetrievalResult:
    """Share of questions answered by the first 1, 3 and 5 passages, and why the others were not."""

    questions: int
    answered: dict[int, float]
    lost: dict[str, int]


@dataclass(slots=True)
class MethodResult:
    """All results of one method or candidate, tables in the order of the truth; "simulated" is one that asks
    no real service.
    """

    name: str
    kind: Literal["method", "simulated", "candidate", "baseline"]
    documents: list[DocumentResult] = field(default_factory=list)
    tables: list[TableResult] = field(default_factory=list)
    retrieval: RetrievalResult | None = None


@dataclass(slots=True)
class TrueTable:
    """A table of the truth: its document, number there from 0, size, caption, pages and traits by kind."""

    document: str
    index: int
    rows: int
    columns: int
    caption: str
    pages: list[int]
    traits: dict[str, str]


@dataclass(slots=True)
class Results:
    """A whole run. `documents` gives the PDF of each document by name, `skipped` what was left out."""

    tables: list[TrueTable]
    methods: list[MethodResult]
    documents: dict[str, str]
    skipped: list[str] = field(default_factory=list)
    format: Literal["wennak-bench"] = "wennak-bench"
    version: Literal[2] = 2

    def __repr__(self) -> str:
        counted = f"{len(self.tables)} tables in {len(self.documents)} documents"
        return f"<Results of {', '.join(self.names())} on {counted}>"

    def _repr_html_(self) -> str:
        # What sums results up is built on them.
        from .summary import shown_results

        return shown_results(self)

    def method(self, name: str) -> MethodResult:
        """Return the results of a method. Raises KeyError if it was not run."""
        found = {m.name: m for m in self.methods}
        return found[name]

    def names(self) -> list[str]:
        """Names of methods and candidates, in the order they were run."""
        return [m.name for m in self.methods]


_ADAPTER = TypeAdapter(Results)


def save_results(results: Results, folder: Path) -> None:
    """Write results.json into the folder of a run."""
    write_whole(folder / RESULTS, _ADAPTER.dump_json(results, indent=1) + b"\n")


def load_results(folder: str | Path) -> Results:
    """Return the results of a run. Raises MissingSource or SourceError where the folder holds none."""
    path = Path(folder) / RESULTS
    if not path.exists():
        raise MissingSource(f"{folder} holds no {RESULTS}; name a folder that wennak bench run wrote.")
    try:
        return _ADAPTER.validate_json(path.read_bytes())
    except ValidationError as error:
        raise SourceError(f"{path} is not the result of this version's runs; run it again.") from error
