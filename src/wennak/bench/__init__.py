"""Run several methods over documents with known tables, score them and tell whether they differ."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from ..later import loaded

if TYPE_CHECKING:
    from .report import verdict, write_report
    from .results import Results, load_results
    from .run import HYBRID, benchmark
    from .scores import LABELS
    from .seen import as_seen
    from .summary import Summary, compare_runs, summarise, table_changes

# Loaded on first use: who compares runs needs nothing of what reads documents.
_LATER = {
    "verdict": "report", "write_report": "report",
    "Results": "results", "load_results": "results",
    "HYBRID": "run", "benchmark": "run",
    "LABELS": "scores", "as_seen": "seen",
    "Summary": "summary", "compare_runs": "summary", "summarise": "summary", "table_changes": "summary",
}  # fmt: skip


def __getattr__(name: str) -> Any:
    return loaded(__name__, _LATER, name)


__all__ = [
    "HYBRID",
    "LABELS",
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
