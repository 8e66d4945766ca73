"""Run several methods over documents with known tables, score them and tell whether they differ."""

from __future__ import annotations

from .report import verdict, write_report
from .results import Results, load_results
from .run import HYBRID, METHODS, benchmark
from .scores import LABELS
from .seen import as_seen
from .summary import Summary, compare_runs, summarise, table_changes

__all__ = [
    "HYBRID",
    "LABELS",
    "METHODS",
    "Results",
    "Summary",
    "as_seen",
    "benchmark",
    "compare_runs",
    "load_results",
    "summarise",
    "table_changes",
    "verdict",
    "write_report",
]
