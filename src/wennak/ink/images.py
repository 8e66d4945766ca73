"""Whether the data of images are all there (ISO 32000-2, 8.9.5)."""

from __future__ import annotations

import contextlib
import zlib
from collections.abc import Iterator
from typing import Any

import pikepdf

from .streams import filters_of

# JPEG and JPEG 2000 data end with this mark, but for a few bytes that may be added.
_END, _ADDED = b"\xff\xd9", 2048
_COLOURS = {
    "/DeviceGray": 1, "/G": 1, "/CalGray": 1, "/Indexed": 1, "/I": 1, "/Separation": 1,
    "/DeviceRGB": 3, "/RGB": 3, "/CalRGB": 3, "/Lab": 3, "/DeviceCMYK": 4, "/CMYK": 4,
}  # fmt: skip
# Forms that draw forms are followed so far.
_DEPTH = 4
_PIECE = 1 << 18


def images_of(resources: Any, depth: int = _DEPTH) -> Iterator[Any]:
    """Yield the images of a page's resources, and of the forms among them."""
    for entry in resources.get("/XObject", {}).values():
        kind = entry.get("/Subtype")
        if kind == "/Image":
            yield entry
        elif kind == "/Form" and depth and "/Resources" in entry:
            yield from images_of(entry.Resources, depth - 1)


def is_cut_off(image: Any) -> bool:
    """Return whether the data of an image end before its last line; False where that cannot be told."""
    filters = filters_of(image)
    if filters in (["/DCTDecode"], ["/DCT"], ["/JPXDecode"]):
        return _END not in bytes(image.read_raw_bytes())[-_ADDED:]
    if filters not in ([], ["/FlateDecode"], ["/Fl"]):
        return False
    masks = bool(image.get("/ImageMask", False))
    colours = 1 if masks else _colours(image.get("/ColorSpace"))
    bits = 1 if masks else int(image.get("/BitsPerComponent", 8))
    wanted = int(image.get("/Height", 0)) * -(-int(image.get("/Width", 0)) * colours * bits // 8)
    data = bytes(image.read_raw_bytes())
    return (_inflated_length(data, wanted) if filters else len(data)) < wanted


def _colours(space: Any) -> int:
    """How many numbers make a colour; 0 where that is not known."""
    name = str(space[0] if isinstance(space, pikepdf.Array) else space)
    if name == "/ICCBased":
        return int(space[1].get("/N", 0))
    return len(space[1]) if name == "/DeviceN" else _COLOURS.get(name, 0)


def _inflated_length(data: bytes, wanted: int) -> int:
    """The number of bytes that deflated data become, up to what is wanted or where they are damaged."""
    inflater, length = zlib.decompressobj(), 0
    with contextlib.suppress(zlib.error):
        while data and length < wanted:
            length += len(inflater.decompress(data, _PIECE))
            data = inflater.unconsumed_tail
        length += len(inflater.flush())
    return length
