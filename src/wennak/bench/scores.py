"""Scores of one document: every metric on every true table."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import asdict

from ..model import Document
from ..truth import Truth
from .grid import Grid, first_rows, grid_of
from .matching import detection_by_content, detection_by_region, match
from .metrics import (
    Numbers,
    adjacency_f1,
    cell_rates,
    content_similarity,
    header_fidelity,
    location_similarity,
    numeric_fidelity,
    text_similarity,
    topology_similarity,
)
from .results import DocumentResult, TableResult
from .texts import text_scores
from .trees import tree_similarity

# Metrics of tables by name: what the report calls them, and the function.
TABLE_METRICS: dict[str, tuple[str, Callable[[Grid, Grid], float | None]]] = {
    "content": ("content similarity", content_similarity),
    "topology": ("topology similarity", topology_similarity),
    "location": ("location similarity", location_similarity),
    "cells": ("exact cells F1", lambda t, r: cell_rates(t, r).f1),
    "cell-precision": ("exact cells precision", lambda t, r: cell_rates(t, r).precision),
    "cell-recall": ("exact cells recall", lambda t, r: cell_rates(t, r).recall),
    "exact": ("tables without any error", lambda t, r: float(t.cells == r.cells)),
    "adjacency": ("adjacency F1", adjacency_f1),
    "tree": ("tree edit similarity", tree_similarity),
    "tree-structure": ("tree edit similarity, structure", lambda t, r: tree_similarity(t, r, texts=False)),
    "headers": ("header fidelity", header_fidelity),
    "text": ("text similarity", text_similarity),
}
NUMBERS = "numbers"
# Larger tables are scored by their first rows: every place is compared with every other.
MOST_PLACES = 2500
# Every metric that a run reports, with the words for it.
LABELS = {
    "score": "content similarity, invented tables counting 0",
    "detection": "tables found (F1 by content)",
    **{name: label for name, (label, _) in TABLE_METRICS.items()},
    NUMBERS: "numeric fidelity",
}


def score_document(name: str, truth: Truth, read: Document) -> tuple[DocumentResult, list[TableResult]]:
    """Score everything read of one document against its truth."""
    true = [grid_of(entry.table) for entry in truth.tables]
    found = [grid_of(table) for table in read.tables]
    matching = match(true, found)
    merged = {i for parts in matching.merged.values() for i in parts}
    tables = [
        _score_table(name, i, grid, found, matching.pairs.get(i, -1), i in matching.split, i in merged)
        for i, grid in enumerate(true)
    ]
    similar = [t.scores["content"] or 0.0 for t in tables if t.reading >= 0]
    region = detection_by_region(true, found)
    result = DocumentResult(
        name=name,
        tables=len(true),
        read=len(found),
        found=round(detection_by_content(similar, len(true), len(found)).recall * len(true)),
        extra=len(found) - len(matching.pairs),
        region=(region.precision, region.recall, region.f1) if region else None,
        text=asdict(text_scores(truth.document, read)) if truth.has_text else {},
        pages=len(read.pages),
    )
    return result, tables


def _score_table(
    name: str, index: int, true: Grid, found: Sequence[Grid], reading: int, split: bool, merged: bool
) -> TableResult:
    if reading < 0:
        count = numeric_fidelity(true, grid_of_nothing())
        lost = Numbers(count.truth, 0, 0, 0, count.truth, 0)
        scores: dict[str, float | None] = dict.fromkeys(TABLE_METRICS, 0.0)
        scores["location"] = 0.0 if true.boxes else None
        return TableResult(name, index, -1, {**scores, NUMBERS: _fidelity(lost)}, asdict(lost), split, merged)
    read = found[reading]
    rows = MOST_PLACES // max(true.shape[1], read.shape[1], 1)
    true, read = first_rows(true, rows), first_rows(read, rows)
    scores = {metric: function(true, read) for metric, (_, function) in TABLE_METRICS.items()}
    numbers = numeric_fidelity(true, read)
    return TableResult(
        name, index, reading, {**scores, NUMBERS: _fidelity(numbers)}, asdict(numbers), split, merged
    )


def _fidelity(numbers: Numbers) -> float | None:
    """A table without numbers on either side says nothing of them."""
    return numbers.fidelity if numbers.truth + numbers.invented else None


def grid_of_nothing() -> Grid:
    """Return the grid of a table without cells."""
    from ..model import Table

    return grid_of(Table(0, 0, []))


def failed_document(name: str, truth: Truth, error: str) -> tuple[DocumentResult, list[TableResult]]:
    """Return the scores of a document that could not be read: 0 throughout."""
    result, tables = score_document(name, truth, Document(source=name))
    result.error = error
    return result, tables
