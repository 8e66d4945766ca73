"""Every error that Wennak raises on purpose.

Each message is one sentence that says what is wrong and what to do.
"""

from __future__ import annotations

from pathlib import Path

# The code of a finding of a part of a document that an error of this program cost.
OWN_ERROR = "own-error"


class WennakError(Exception):
    """Base of all errors a caller can act on; `source` names what it is about, where several are read."""

    source = ""


class UsageError(WennakError):
    """The call itself is wrong: an unknown method or format, a choice of pages that makes no sense."""


class NoRoom(WennakError):
    """A disk is full; what was done until then is kept, and the same call goes on from there."""


class SourceError(WennakError):
    """One source cannot be read; other sources are not affected."""


class MissingSource(SourceError):
    """Nothing lies at the path that was named."""


class NotPdf(SourceError):
    """The bytes are not those of a PDF (or there are none)."""


class LockedPdf(SourceError):
    """The PDF needs a password that was not given, or the given one is wrong."""


class MissingPage(SourceError):
    """The document has no page of a number that was asked for."""


class DamagedPdf(SourceError):
    """The PDF is too damaged to reach its pages."""


class RefusedSource(SourceError):
    """The source is not read: too large, leading out of its archive, or damaged within it."""


class DamagedArchive(SourceError):
    """An archive cannot be opened, or read to its end."""


class UnreachableSource(SourceError):
    """A source on a network cannot be had."""


class StoppedSource(SourceError):
    """Reading took more time or memory than allowed, or brought its process down."""


def own_error(error: Exception, lost: str) -> tuple[str, str]:
    """Return code and sentence of a finding for an error of this program, where it costs no more than what is
    `lost` of a document; errors that a caller can act on, and want of memory, are raised again.
    """
    if isinstance(error, (WennakError, MemoryError)):
        raise error
    # Only what went wrong needs it.
    import traceback

    frame = traceback.extract_tb(error.__traceback__)[-1]
    where = f"{type(error).__name__}, {Path(frame.filename).name} {frame.lineno}"
    return OWN_ERROR, f"{lost}, by an error in Wennak ({where}); please report it"


def shortened(text: str) -> str:
    """Return a text as a sentence can hold it."""
    return text if len(text) < 200 else f"{text[:100]}..."


def existing(source: str | Path) -> Path:
    """Return the path of what `source` names.

    Raises MissingSource if nothing can be reached there, also if no file could have such a name.
    """
    path = Path(source)
    try:
        path.stat()
    except (OSError, ValueError) as error:
        raise MissingSource(f"{shortened(str(source))} does not exist; check the path.") from error
    return path
