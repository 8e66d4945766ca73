"""Many documents: each converted on its own, so that one bad file never stops the rest.

`cluster`, `data` and `drift` are entered by themselves: they need more than the rest.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from ..later import loaded

if TYPE_CHECKING:
    from .beginning import Outcomes, begin, convert, outcomes
    from .files import FILES
    from .found import stream_hits
    from .journal import JOURNAL, Journal, Summary
    from .limits import Plan, WorkerLimits, default_workers
    from .run import Event, Reading, Run
    from .settings import Settings
    from .streaming import stream
    from .surveying import Survey, survey
    from .tasks import Outcome, Output
    from .why import why_failed, why_lost
    from .workers import Processes, Workers

# Loaded on first use: one document needs neither a journal nor processes.
_LATER = {
    "Outcomes": "beginning", "begin": "beginning", "convert": "beginning", "outcomes": "beginning",
    "stream_hits": "found",
    "JOURNAL": "journal", "Journal": "journal", "Summary": "journal", "WorkerLimits": "limits",
    "default_workers": "limits", "Event": "run", "Plan": "limits", "Reading": "run", "Run": "run",
    "Settings": "settings", "stream": "streaming", "Survey": "surveying", "survey": "surveying",
    "Outcome": "tasks", "Output": "tasks", "FILES": "files", "Processes": "workers",
    "Workers": "workers", "why_failed": "why", "why_lost": "why",
}  # fmt: skip


def __getattr__(name: str) -> Any:
    return loaded(__name__, _LATER, name)


__all__ = [
    "FILES", "JOURNAL", "Event", "Journal", "Outcome", "Outcomes", "Output", "Plan", "Processes", "Reading",
    "Run", "Settings", "Summary", "Survey", "WorkerLimits", "Workers", "begin", "convert",
    "default_workers", "outcomes", "stream", "stream_hits", "survey", "why_failed", "why_lost",
]  # fmt: skip
