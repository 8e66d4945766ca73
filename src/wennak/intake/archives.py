"""ZIP and TAR archives, read in place: nothing of them is unpacked under its own name."""

from __future__ import annotations

import contextlib
import io
import tarfile
import zipfile
from collections.abc import Callable, Iterator
from functools import partial
from pathlib import Path
from typing import IO, Any

from ..errors import DamagedArchive, RefusedSource, SourceError
from .names import leads_out, safe_name
from .source import LIMITS, UNPACKING, Limits, RefusedOne, Source, StreamSource, spooled, too_large

ENDINGS = (".zip", ".tar", ".tar.gz", ".tgz", ".tar.bz2", ".tbz2", ".tar.xz", ".txz")
# Archives in archives are opened so deep; a member that unpacks to so many times its size, and to more than
# that (bytes), is a bomb.
DEPTH, RATIO, HARMLESS = 4, 200, 1 << 26


def is_archive(name: str) -> bool:
    """Return whether a file is an archive, by the ending of its name."""
    return name.lower().endswith(ENDINGS)


def is_wanted(name: str) -> bool:
    """Return whether a member is read: a PDF, or an archive."""
    return name.lower().endswith(".pdf") or is_archive(name)


def members(
    archive: Path | IO[bytes], name: str, below: str, limits: Limits = LIMITS, depth: int = 1
) -> Iterator[Source]:
    """Yield the PDFs of an archive, and of archives in it, in the order of the archive.

    `name` is where the archive lies, `below` what names of members are put under. Members that must not be
    read come as sources that refuse to be fetched. Raises DamagedArchive where it cannot be opened.
    """
    read = _zip_members if name.lower().endswith(".zip") else _tar_members
    try:
        for member, said, stream, refused in read(archive, name, limits):
            if not is_wanted(member):
                continue
            origin, packed = f"{name}!{member}", is_archive(member)
            shown = safe_name(f"{below}{member}")
            if leads_out(member):
                refused = f"{origin} would lie outside the archive; it was left out."
            elif packed and depth >= DEPTH:
                refused = f"{origin} is an archive more than {DEPTH} deep in others; it was left out."
            if refused:
                yield RefusedOne(shown, origin, RefusedSource(refused))
            elif packed:
                yield from _nested(stream, origin, shown, limits, depth)
            else:
                yield StreamSource(stream, shown, origin, said)
    except UNPACKING as error:
        if isinstance(error, OSError) and error.errno is not None:
            raise
        raise DamagedArchive(f"{name} is damaged and cannot be read to its end; get it again.") from error


def _nested(
    stream: Callable[[], IO[bytes]], origin: str, shown: str, limits: Limits, depth: int
) -> Iterator[Source]:
    """The members of an archive in an archive; one that is damaged costs its own members only."""
    try:
        yield from members(spooled(stream, origin, limits), origin, f"{shown}/", limits, depth + 1)
    except SourceError as error:
        yield RefusedOne(shown, origin, error)


# Name, mark, opener, and why it is refused.
_Member = tuple[str, str, Callable[[], IO[bytes]], str]


def _zip_members(archive: Path | IO[bytes], name: str, limits: Limits) -> Iterator[_Member]:
    """Name, mark, opener, and why it is refused, of each member of a ZIP."""
    file = zipfile.ZipFile(archive)
    for info in file.infolist():
        if info.is_dir():
            continue
        refused = ""
        if info.file_size > HARMLESS and info.file_size > RATIO * max(info.compress_size, 1):
            refused = (
                f"{name}!{info.filename} unpacks to {info.file_size // max(info.compress_size, 1)} times its "
                "size, as no document does; it was left out."
            )
        elif info.file_size > limits.size:
            refused = too_large(f"{name}!{info.filename}", limits)
        elif info.flag_bits & 1:
            refused = f"{name}!{info.filename} is locked with a password; unpack the archive first."
        yield info.filename, f"{info.file_size}:{info.CRC:08x}", partial(file.open, info), refused


def _tar_members(archive: Path | IO[bytes], name: str, limits: Limits) -> Iterator[_Member]:
    """The same of a TAR, which is read from front to back."""
    with contextlib.ExitStack() as stack:
        file = stack.enter_context(archive.open("rb")) if isinstance(archive, Path) else archive
        packed = file.seek(0, io.SEEK_END)
        file.seek(0)
        opened: Any = stack.enter_context(tarfile.open(fileobj=file))
        while (info := opened.next()) is not None:
            # The list of members is not needed, and would grow.
            opened.members.clear()
            origin, end = f"{name}!{info.name}", info.offset_data + info.size
            if end > HARMLESS and end > RATIO * packed:
                raise DamagedArchive(
                    f"{name} unpacks to over {RATIO} times its size, as no documents do; it was read up to "
                    f"{info.name}."
                )
            refused = ""
            if not info.isreg():
                refused = f"{origin} is {'a link' if info.issym() or info.islnk() else 'no regular file'}; "
                refused += "it was left out."
            elif info.size > limits.size:
                refused = too_large(origin, limits)
            if info.isdir() or not is_wanted(info.name):
                continue
            if refused or leads_out(info.name):
                yield info.name, "", io.BytesIO, refused
                continue
            stream = opened.extractfile(info)
            assert stream is not None
            # What is packed as a whole cannot be gone back in: each member is set aside as it comes by.
            spool = spooled(partial(_same, stream), origin, limits)
            yield info.name, f"{info.size}:{info.mtime}", partial(_rewound, spool), ""


def _same(stream: IO[bytes]) -> IO[bytes]:
    return stream


def _rewound(file: IO[bytes]) -> IO[bytes]:
    file.seek(0)
    return file
