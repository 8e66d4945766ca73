"""Why there is nothing of a document, in a sentence."""

from __future__ import annotations

from ..errors import WennakError
from .limits import WorkerLimits


def why_failed(name: str, error: Exception) -> str:
    """Return the sentence for what went wrong with a document."""
    if isinstance(error, WennakError):
        return str(error)
    if isinstance(error, OSError):
        return f"{name}: {error.strerror or error}; check the file and the folder to write to."
    if isinstance(error, MemoryError):
        return f"{name} needs more memory than it may have; allow more, or read fewer pages at a time."
    return f"{name} could not be read ({type(error).__name__}: {error}); please report it."


def why_lost(error: BaseException, limits: WorkerLimits) -> str:
    """Return what became of work whose worker answered nothing: the end of a sentence about the document."""
    if isinstance(error, TimeoutError):
        return f"took longer than {limits.seconds:.0f} s and was stopped; allow more time, or leave it out."
    return f"brought down the process that read it and was left out ({type(error).__name__})."
