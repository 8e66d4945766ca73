"""Names that may be given to files below a folder."""

from __future__ import annotations

import hashlib
import itertools
import re
from collections.abc import Callable, Iterator
from typing import TypeVar
from urllib.parse import unquote, urlsplit

# Names of files may have so many bytes on all common file systems, endings and a prefix included.
LONGEST = 200
WEB = ("http", "https")
# What pictures of pages are called.
PICTURES = (".png", ".jpg", ".jpeg", ".tif", ".tiff")
T = TypeVar("T")
_UNFIT = re.compile(r'[\x00-\x1f\x7f<>:"|?*\\]')


def pdfs_or_pictures(walked: Callable[[tuple[str, ...]], Iterator[T]], pdfs: tuple[str, ...]) -> Iterator[T]:
    """Yield the files below a folder, as `walked` finds them by their endings: PDFs; where there are none,
    pictures. Beside PDFs these are mostly drawings that belong to them, or what was made of them.
    """
    found = walked(pdfs)
    first = next(found, None)
    yield from walked(PICTURES) if first is None else itertools.chain([first], found)


def safe_name(name: str) -> str:
    """Return a name, with forward slashes, whose parts can all be names of files, and lead down only."""
    parts = [_UNFIT.sub("_", part) for part in name.split("/") if part not in ("", ".")]
    return "/".join(_short("_" if part == ".." else part) for part in parts) or "document.pdf"


def leads_out(name: str) -> bool:
    """Return whether a name of a member of an archive leads out of the archive's own folder."""
    slashed = name.replace("\\", "/")
    return slashed.startswith("/") or ".." in slashed.split("/") or bool(re.match(r"[A-Za-z]:", slashed))


def url_name(url: str) -> str:
    """Return the name of what lies at a URL: its host, its path, and what tells queries apart."""
    parts = urlsplit(url)
    name = f"{parts.hostname or parts.netloc}/{unquote(parts.path).strip('/')}"
    if parts.query:
        stem, dot, ending = name.rpartition(".")
        told = hashlib.sha256(parts.query.encode()).hexdigest()[:8]
        name = f"{stem}-{told}.{ending}" if dot and "/" not in ending else f"{name}-{told}"
    return safe_name(name)


def _short(part: str) -> str:
    data = part.encode("utf-8", "surrogateescape")
    if len(data) <= LONGEST:
        return part
    told = hashlib.sha256(data).hexdigest()[:8]
    _, dot, ending = part.rpartition(".")
    tail = f"-{told}.{ending}" if dot and len(ending) <= 8 else f"-{told}"
    return data[: LONGEST - len(tail)].decode("utf-8", "ignore") + tail


def scheme_of(source: str) -> str:
    """Return the scheme of a URL, or nothing for what is none (one letter is a drive)."""
    scheme, colon, rest = source.partition("://")
    return scheme.lower() if colon and rest and len(scheme) > 1 and urlsplit(source).scheme else ""
