"""What a survey found -> CSV, JSON, one HTML page."""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass, field

from .page import page_of
from .sheets import guarded


@dataclass(frozen=True, slots=True)
class SurveyRow:
    """What is known of one document.

    `state` is "ok", "locked", "damaged", "not a PDF" or "cannot be read". From `looked` pages all are
    estimated: `kinds` counts them by what their text can be read from, `tables` the tables that they seem to
    show, by their lines. `confidence` (0..1) is how sure those of one page are read, where that was measured.
    `script` is that of most letters. `looking` and `reading` are seconds a page.
    """

    name: str
    state: str = "ok"
    pages: int = 0
    looked: int = 0
    kinds: Mapping[str, int] = field(default_factory=dict)
    tagged: bool = False
    producer: str = ""
    language: str = ""
    script: str = ""
    tables: Mapping[str, int] = field(default_factory=dict)
    confidence: float | None = None
    pictures: int = 0
    same_as: str = ""
    advice: str = ""
    looking: float = 0.0
    reading: float = 0.0


@dataclass(frozen=True, slots=True)
class SurveyTotals:
    """Sums over a collection: documents, pages of those that are there once, by kind, tables by kind, mean
    confidence and on how many documents it was measured, documents that are there twice, those that cannot
    be read by why, and an estimate of the time that converting takes (s).
    """

    documents: int = 0
    pages: int = 0
    kinds: Mapping[str, int] = field(default_factory=dict)
    tables: Mapping[str, int] = field(default_factory=dict)
    confidence: float | None = None
    measured: int = 0
    same: int = 0
    states: Mapping[str, int] = field(default_factory=dict)
    seconds: float = 0.0


# What is told of each document, by heading.
COLUMNS = {
    "document": "name", "state": "state", "what to do": "advice", "pages": "pages", "looked at": "looked",
    "kinds of pages": "kinds", "tables": "tables", "confidence": "confidence", "pictures": "pictures",
    "tagged": "tagged", "script": "script", "language": "language", "producer": "producer",
}  # fmt: skip


def said(row: SurveyRow, column: str) -> str:
    """Return what stands in a column of `COLUMNS`, for people."""
    value = getattr(row, COLUMNS[column])
    if isinstance(value, Mapping):
        return ", ".join(f"{n} {name}" for name, n in value.items())
    if isinstance(value, bool):
        return "yes" if value else ""
    if not value and not row.pages:
        # Of what cannot be read nothing is known.
        return ""
    return "" if value is None else str(value)


def survey_csv(rows: Sequence[SurveyRow]) -> str:
    """Return a survey as CSV, a row for each document."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(COLUMNS)
    writer.writerows([guarded(said(row, column)) for column in COLUMNS] for row in rows)
    return out.getvalue()


def survey_json(rows: Sequence[SurveyRow], totals: SurveyTotals) -> str:
    """Return a survey as JSON."""
    data = {"totals": asdict(totals), "documents": [asdict(row) for row in rows]}
    return json.dumps(data, ensure_ascii=False, indent=1) + "\n"


def survey_html(rows: Sequence[SurveyRow], totals: SurveyTotals, told: Sequence[str]) -> str:
    """Return a survey as one HTML page; `told` are the sentences above the table."""
    numbers = {"pages", "looked at", "confidence", "pictures"}
    cells = [[(said(row, column).split(", "), column in numbers) for column in COLUMNS] for row in rows]
    states = [row.state if row.state != "ok" else "same" if row.same_as else "ok" for row in rows]
    return page_of(
        "wennak.emit", "survey", columns=list(COLUMNS), rows=list(zip(states, cells, strict=True)), told=told,
        kinds=_shares(totals.kinds), tables=_shares(totals.tables), numbers=numbers,
    )  # fmt: skip


def _shares(counts: Mapping[str, int]) -> list[tuple[str, int, float]]:
    whole = sum(counts.values()) or 1
    return [(name, n, 100 * n / whole) for name, n in counts.items() if n]
