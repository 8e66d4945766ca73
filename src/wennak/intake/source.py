"""What a source is: a name, where it lies, and how its bytes are reached."""

from __future__ import annotations

import hashlib
import io
import lzma
import sys
import tarfile
import tempfile
import zipfile
import zlib
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, field
from pathlib import Path
from typing import IO, Protocol

from ..errors import RefusedSource, SourceError, existing

# Sources larger than this are refused (bytes), and those that take longer than this to come (s).
SIZE, SECONDS = 2**31, 300.0
BLOCK = 1 << 20
# Archives fail in many ways: wrong checksums, members cut short, unknown compressions.
UNPACKING = (
    OSError, EOFError, RuntimeError, ValueError, NotImplementedError, zipfile.BadZipFile,
    zipfile.LargeZipFile, tarfile.TarError, zlib.error, lzma.LZMAError,
)  # fmt: skip


@dataclass(frozen=True, slots=True)
class Limits:
    """What a source may take at most: `size` in bytes, `seconds` for one that comes over a network."""

    size: int = SIZE
    seconds: float = SECONDS


LIMITS = Limits()


class Source(Protocol):
    """One document. `name` is what outputs are named after, with forward slashes and nothing that leads out
    of a folder; `origin` is where it lies, and tells it from every other one.
    """

    @property
    def name(self) -> str:
        """What outputs are named after."""
        ...

    @property
    def origin(self) -> str:
        """Where the source lies."""
        ...

    def mark(self) -> str:
        """Return what tells at no cost whether the source has changed; nothing where only its bytes do.

        Raises SourceError where it cannot be reached.
        """
        ...

    def fetch(self, folder: Path, limits: Limits = LIMITS) -> Path:
        """Return the path of a file with the bytes, made in `folder` unless there is one.

        Raises SourceError where they cannot be had.
        """
        ...


@dataclass(frozen=True, slots=True)
class FileSource:
    """A file on this machine."""

    path: Path
    name: str

    @property
    def origin(self) -> str:
        """Its absolute path."""
        return str(self.path.absolute())

    def mark(self) -> str:
        """Return its size and when it was written."""
        stat = existing(self.path).stat()
        return f"{stat.st_size}:{stat.st_mtime_ns}"

    def fetch(self, folder: Path, limits: Limits = LIMITS) -> Path:
        """Return its path."""
        return existing(self.path)


@dataclass(frozen=True, slots=True)
class StreamSource:
    """Bytes that `open` gives: those of a member of an archive, or in memory; `said` is the mark."""

    open: Callable[[], IO[bytes]] = field(repr=False)
    name: str
    origin: str
    said: str = ""

    def mark(self) -> str:
        """Return what the archive says of the member."""
        return self.said

    def fetch(self, folder: Path, limits: Limits = LIMITS) -> Path:
        """Write the bytes to a file in `folder`."""
        try:
            with self.open() as stream:
                return copied(blocks_of(stream), self.name, folder, limits)
        except UNPACKING as error:
            raise damaged(self.name, error) from error


@dataclass(frozen=True, slots=True)
class RefusedOne:
    """A source that cannot be read; `why` is the error that says so."""

    name: str
    origin: str
    why: SourceError

    def mark(self) -> str:
        """Raise the error."""
        raise self.why

    def fetch(self, folder: Path, limits: Limits = LIMITS) -> Path:
        """Raise the error."""
        raise self.why


def blocks_of(stream: IO[bytes]) -> Iterator[bytes]:
    """Yield what is left of a stream, block by block."""
    return iter(lambda: stream.read(BLOCK), b"")


def copied(blocks: Iterable[bytes], name: str, folder: Path, limits: Limits = LIMITS) -> Path:
    """Write blocks of bytes to a new file in `folder` and return its path.

    Raises RefusedSource, and leaves no file, where they are larger than the limit.
    """
    with tempfile.NamedTemporaryFile(dir=folder, delete=False) as file:
        try:
            _copy(blocks, file, name, limits)
        except BaseException:
            Path(file.name).unlink()
            raise
    return Path(file.name)


def spooled(open: Callable[[], IO[bytes]], name: str, limits: Limits = LIMITS) -> IO[bytes]:
    """Return a copy of a stream that can be read again: in memory, or where it is large in a file without a
    name. Raises RefusedSource where it is larger than the limit, or damaged.
    """
    spool: IO[bytes] = tempfile.SpooledTemporaryFile(max_size=16 * BLOCK)  # noqa: SIM115
    try:
        with open() as stream:
            _copy(blocks_of(stream), spool, name, limits)
    except UNPACKING as error:
        raise damaged(name, error) from error
    spool.seek(0)
    return spool


def _copy(blocks: Iterable[bytes], file: IO[bytes], name: str, limits: Limits) -> None:
    left = limits.size
    for block in blocks:
        left -= len(block)
        if left < 0:
            raise RefusedSource(too_large(name, limits))
        file.write(block)


def damaged(name: str, error: Exception) -> Exception:
    """Return what to raise where unpacking failed: the error itself where it is one of the file system."""
    if isinstance(error, OSError) and error.errno is not None:
        return error
    return RefusedSource(
        f"{name} cannot be unpacked; its archive is damaged, or packed in a way that is not known."
    )


def too_large(name: str, limits: Limits) -> str:
    """Return the sentence for a source that is too large."""
    return f"{name} is larger than {limits.size >> 20} MiB and was not read; allow more with the size limit."


def content_hash(path: Path) -> str:
    """Return the SHA-256 of a file, in hexadecimal digits: its identity."""
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def bytes_source(data: bytes, name: str = "document.pdf") -> StreamSource:
    """Return a source for bytes in memory."""
    origin = f"bytes:{name}:{hashlib.sha256(data).hexdigest()}"
    return StreamSource(lambda: io.BytesIO(data), name, origin, origin)


def standard_input() -> StreamSource:
    """Return a source for what comes in on standard input; it can be fetched once."""
    return StreamSource(lambda: sys.stdin.buffer, "standard-input.pdf", "-")


def stream_source(stream: IO[bytes]) -> StreamSource:
    """Return a source for an open binary file, of what is left to be read in it."""
    given = getattr(stream, "name", "")
    name = Path(given).name if isinstance(given, str) and given else "document.pdf"
    return bytes_source(stream.read(), name)
