"""Files that are there whole or not at all."""

from __future__ import annotations

import contextlib
import os
import tempfile
from pathlib import Path


def as_bytes(text: str) -> bytes:
    """Return a text as files hold it: UTF-8, with what that cannot say escaped."""
    return text.encode("utf-8", "backslashreplace")


def write_whole(path: Path, content: str | bytes, through: Path | None = None) -> None:
    """Write a file under a temporary name, then rename it: it is there whole or not at all.

    The temporary file stands beside it, or in the folder `through` of the same file system, which must exist.
    """
    data = content if isinstance(content, bytes) else as_bytes(content)
    path.parent.mkdir(parents=True, exist_ok=True)
    handle, temporary = tempfile.mkstemp(dir=through or path.parent, prefix=".", suffix=".part")
    try:
        with os.fdopen(handle, "wb") as file:
            file.write(data)
        Path(temporary).chmod(0o666 & ~_umask())
        Path(temporary).replace(path)
    except BaseException:
        with contextlib.suppress(OSError):
            Path(temporary).unlink()
        raise


def _umask() -> int:
    mask = os.umask(0)
    os.umask(mask)
    return mask
