"""Unpacking streams within bounds: a small file must not be able to fill the memory (ISO 32000-2, 7.4)."""

from __future__ import annotations

import contextlib
import zlib
from collections.abc import Iterator
from typing import Any

import pikepdf

# No page's content, and no font program, needs more than this once unpacked.
MAX_BYTES = 16 * 2**20


class TooLarge(ValueError):
    """A stream inflates beyond the limit."""


def unpacked(stream: Any, limit: int = MAX_BYTES) -> bytes:
    """Return the bytes of a stream with its filters undone.

    Raises TooLarge beyond `limit` bytes. Of a damaged deflated stream, what comes before the damage is
    returned.
    """
    if _only_deflated(stream):
        data = bytes(stream.read_raw_bytes())
        for _ in range(_filter_count(stream)):
            data = _inflated(data, limit)
        return data
    # Other filters unpack at most some sixty-fold (run lengths) or a few hundredfold (LZW).
    if len(stream.read_raw_bytes()) > limit:
        raise TooLarge(f"a stream of more than {limit >> 20} MiB was left out")
    data = bytes(stream.read_bytes())
    if len(data) > limit:
        raise TooLarge(f"a stream of more than {limit >> 20} MiB was left out")
    return data


def filters_of(stream: Any) -> list[str]:
    """Return the names of the filters of a stream, in the order in which they are undone."""
    entry = stream.get("/Filter")
    if entry is None:
        return []
    return [str(f) for f in entry] if isinstance(entry, pikepdf.Array) else [str(entry)]


def _filter_count(stream: Any) -> int:
    return len(filters_of(stream))


def _only_deflated(stream: Any) -> bool:
    return (
        all(name in ("/FlateDecode", "/Fl") for name in filters_of(stream))
        and _filter_count(stream) <= 4
        and stream.get("/DecodeParms") is None
        and stream.get("/F") is None
    )


def inflated(data: bytes, most: int) -> Iterator[bytes]:
    """Yield what deflated data hold in pieces of at most so many bytes, up to their end or their damage."""
    inflater = zlib.decompressobj()
    step = 1 << 16
    with contextlib.suppress(zlib.error):
        for start in range(0, len(data), step):
            piece = data[start : start + step]
            while piece:
                yield inflater.decompress(piece, most)
                piece = inflater.unconsumed_tail
        yield inflater.flush()


def _inflated(data: bytes, limit: int) -> bytes:
    out = bytearray()
    for piece in inflated(data, limit + 1):
        out += piece
        if len(out) > limit:
            raise TooLarge(f"a stream of more than {limit >> 20} MiB was left out")
    return bytes(out)
