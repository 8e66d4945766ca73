"""Sources in buckets and other stores that fsspec reaches (the extra `buckets`)."""

from __future__ import annotations

import functools
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from ..errors import MissingSource, NotPdf, UnreachableSource, UsageError
from .names import pdfs_or_pictures, safe_name
from .source import LIMITS, Limits, blocks_of, copied

COMMAND = "pip install 'wennak[buckets]'"


@dataclass(frozen=True, slots=True)
class StoreSource:
    """A file in a store, by its URL."""

    url: str
    name: str

    @property
    def origin(self) -> str:
        """The URL."""
        return self.url

    def mark(self) -> str:
        """Return what the store says of its version."""
        store, path = reached(self.url)
        try:
            return str(store.ukey(path))
        except Exception as error:
            raise _failed(self.url, error) from error

    def fetch(self, folder: Path, limits: Limits = LIMITS) -> Path:
        """Copy it into a file in `folder`."""
        store, path = reached(self.url)
        try:
            with store.open(path, "rb") as stream:
                return copied(blocks_of(stream), self.name, folder, limits)
        except (OSError, ValueError) as error:
            raise _failed(self.url, error) from error


def reached(url: str) -> tuple[Any, str]:
    """Return the store of a URL and the path in it.

    Raises UsageError where there is no way to reach such a store.
    """
    try:
        import fsspec
    except ImportError as error:
        raise UsageError(f"{url} lies in a store; to reach it: {COMMAND}") from error
    if "::" in url:
        raise UsageError(f"{url} is no plain address; give the file or folder itself.")
    try:
        store, path = fsspec.core.url_to_fs(url, use_listings_cache=False)
    except ImportError as error:
        raise UsageError(f"{url} needs a package that is not installed ({error}).") from error
    except ValueError as error:
        raise UsageError(f"{url} names no kind of store that is known; check the part before ://.") from error
    return store, path


def stored(url: str) -> Iterator[StoreSource]:
    """Yield the file at a URL, or every PDF below it, by name; where there is none, every picture.

    Raises MissingSource, NotPdf and UnreachableSource.
    """
    store, path = reached(url)
    scheme = url.partition("://")[0]
    try:
        if store.isfile(path):
            yield StoreSource(url, safe_name(path.rsplit("/", 1)[-1]))
            return
        if not store.exists(path):
            raise MissingSource(f"{url} does not exist; check the address.")
        found = False
        for below in pdfs_or_pictures(functools.partial(_walked, store, path), (".pdf",)):
            found = True
            name = below[len(path) :].lstrip("/")
            yield StoreSource(f"{scheme}://{below.lstrip('/')}", safe_name(name))
    except OSError as error:
        raise _failed(url, error) from error
    if not found:
        raise NotPdf(f"{url} holds no PDF, and no PNG, JPEG or TIFF picture; name a folder with some.")


def _walked(store: Any, path: str, endings: tuple[str, ...]) -> Iterator[str]:
    """The files below a path, one folder at a time, in the order of their names."""
    entries = [(e["name"] + "/" * (e["type"] == "directory"), e["type"]) for e in store.ls(path, detail=True)]
    for name, kind in sorted(entries):
        if kind == "directory":
            yield from _walked(store, name.rstrip("/"), endings)
        elif name.lower().endswith(endings):
            yield name


def _failed(url: str, error: Exception) -> Exception:
    if isinstance(error, FileNotFoundError):
        return MissingSource(f"{url} does not exist; check the address.")
    return UnreachableSource(f"{url} cannot be read ({error}); check the address and your rights there.")
