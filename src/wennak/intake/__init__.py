"""What a user names -> the documents that it stands for, one after the other."""

from __future__ import annotations

import functools
import glob
import os
from collections.abc import Iterable, Iterator
from pathlib import Path
from typing import IO, Any, cast
from urllib.parse import urlsplit

from ..errors import MissingSource, NotPdf, SourceError, UsageError, existing, shortened
from .archives import ENDINGS, is_archive, members
from .names import WEB, pdfs_or_pictures, scheme_of, url_name
from .source import (
    LIMITS,
    FileSource,
    Limits,
    RefusedOne,
    Source,
    StreamSource,
    bytes_source,
    content_hash,
    spooled,
    standard_input,
    stream_source,
)

# What a caller may name: a path, pattern, URL or "-", the bytes of a file, or an open one.
Named = str | Path | bytes | IO[bytes]


def find_sources(named: Named, limits: Limits = LIMITS) -> Iterator[Source]:
    """Yield the documents that something stands for, by name, none before it is asked for.

    A folder stands for the PDFs in it and below, and those in its ZIP and TAR archives; a folder in a bucket,
    and an archive, for its PDFs; a folder without any for its PNG, JPEG and TIFF pictures; a pattern (with *,
    ? or **) for the files that it fits; "-" for standard input.

    Raises MissingSource, NotPdf, DamagedArchive or UnreachableSource where there is nothing.
    """
    if isinstance(named, bytes):
        yield bytes_source(named)
        return
    if not isinstance(named, (str, Path)):
        yield stream_source(named)
        return
    text = str(named)
    scheme = scheme_of(text) if isinstance(named, str) else ""
    if text == "-":
        yield standard_input()
    elif scheme in WEB:
        yield from _web(text, limits)
    elif scheme == "file":
        # It brings all of HTTP with it.
        from urllib.request import url2pathname

        yield from _local(Path(url2pathname(urlsplit(text).path)), text, limits)
    elif scheme:
        from .stores import stored

        yield from stored(text)
    elif not os.path.lexists(text) and glob.has_magic(text):
        yield from _pattern(text, limits)
    else:
        yield from _local(existing(named), text, limits)


def _local(path: Path, named: str, limits: Limits) -> Iterator[Source]:
    if not existing(path).is_dir():
        if is_archive(path.name):
            yield from members(path, str(path.absolute()), "", limits)
        else:
            yield FileSource(path, path.name)
        return
    found = False
    for file in _files(path):
        name = file.relative_to(path).as_posix()
        if is_archive(name):
            yield from members(file, str(file.absolute()), f"{name}/", limits)
        else:
            yield FileSource(file, name)
        found = True
    if not found:
        raise NotPdf(f"{named} holds no PDF, and no PNG, JPEG or TIFF picture; name a folder with some.")


def _files(folder: Path) -> Iterator[Path]:
    """PDFs and archives below a folder; where there are none, pictures."""
    return pdfs_or_pictures(functools.partial(_walked, folder), (".pdf", *ENDINGS))


def _walked(folder: Path, endings: tuple[str, ...]) -> Iterator[Path]:
    """Files below a folder by name, holding the names of one folder a level only."""
    with os.scandir(folder) as entries:
        names = sorted(e.name + "/" * e.is_dir(follow_symlinks=False) for e in entries)
    for name in names:
        path = folder / name
        if name.endswith("/"):
            yield from _walked(path, endings)
        elif name.lower().endswith(endings) and path.is_file():
            yield path


def _pattern(pattern: str, limits: Limits) -> Iterator[Source]:
    # Names are those below the part of the pattern that is no pattern.
    parts = Path(pattern).parts
    plain = next(k for k, part in enumerate(parts) if glob.has_magic(part))
    root = Path(*parts[:plain])
    found = [Path(p) for p in sorted(glob.iglob(pattern, recursive=True))]  # noqa: PTH207
    files = [p for p in found if p.is_file()]
    if not files:
        raise MissingSource(f"Nothing fits the pattern {pattern}; check it.")
    for file in files:
        name = file.relative_to(root).as_posix()
        if is_archive(name):
            yield from members(file, str(file.absolute()), f"{name}/", limits)
        else:
            yield FileSource(file, name)


def _web(url: str, limits: Limits) -> Iterator[Source]:
    from .web import WebSource

    source = WebSource(url)
    if is_archive(urlsplit(url).path):
        import tempfile

        with tempfile.TemporaryDirectory(prefix="wennak-") as folder:
            path = source.fetch(Path(folder), limits)
            with path.open("rb") as file:
                archive = spooled(lambda: file, url, limits)
        yield from members(archive, url, f"{url_name(url)}/", limits)
    else:
        yield source


def listed(path: str | Path) -> Iterator[str]:
    """Yield the sources that a text file names, one a line; lines that are empty or begin with # are none.

    Raises MissingSource where there is no such file, UsageError where it is no text.
    """
    try:
        with existing(path).open(encoding="utf-8-sig") as lines:
            for line in lines:
                if (text := line.strip()) and not text.startswith("#"):
                    yield text
    except (UnicodeDecodeError, IsADirectoryError) as error:
        raise UsageError(f"{path} is no text file; give one with a source on each line.") from error


def all_sources(named: Named | Iterable[Named], limits: Limits = LIMITS) -> Iterator[Source]:
    """Yield the documents of several sources; one that stands for nothing comes as a source that refuses."""
    alone = isinstance(named, (str, Path, bytes)) or hasattr(named, "read")
    several = cast("Iterable[Named]", [named] if alone else named)
    for one in several:
        try:
            yield from find_sources(one, limits)
        except SourceError as error:
            shown = shortened(str(one)) if isinstance(one, (str, Path)) else "document.pdf"
            yield RefusedOne(shown, f"source:{shown}", error)


def count_sources(named: Iterable[str]) -> int | None:
    """Return how many documents sources stand for; None where only reading them would tell."""
    count = 0
    for one in named:
        path, found = Path(one), 1
        if (scheme_of(one) and scheme_of(one) not in WEB) or is_archive(one):
            return None
        if path.is_dir():
            names = [file.name for file in _files(path)]
            if any(is_archive(name) for name in names):
                return None
            found = len(names)
        elif glob.has_magic(one) and not path.exists():
            found = sum(1 for _ in glob.iglob(one, recursive=True))  # noqa: PTH207
        # What stands for nothing is one that fails.
        count += max(found, 1)
    return count


def reached(url: str) -> tuple[Any, str]:
    """Return the store of a URL, as fsspec knows it, and the path in it.

    Raises UsageError where there is no way to reach such a store.
    """
    from .stores import reached

    return reached(url)


__all__ = [
    "LIMITS", "FileSource", "Limits", "Named", "RefusedOne", "Source", "StreamSource", "all_sources",
    "content_hash", "count_sources", "find_sources", "listed", "reached", "scheme_of",
]  # fmt: skip
