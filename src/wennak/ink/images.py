"""Whether the data of images are all there (ISO 32000-2, 8.9.5)."""

from __future__ import annotations

from itertools import accumulate
from typing import Any

import pikepdf

from .streams import filters_of, inflated

# JPEG and JPEG 2000 data end with this mark, but for a few bytes that may be added.
_END, _ADDED = b"\xff\xd9", 2048
_COLOURS = {
    "/DeviceGray": 1, "/G": 1, "/CalGray": 1, "/Indexed": 1, "/I": 1, "/Separation": 1,
    "/DeviceRGB": 3, "/RGB": 3, "/CalRGB": 3, "/Lab": 3, "/DeviceCMYK": 4, "/CMYK": 4,
}  # fmt: skip
_PIECE = 1 << 18


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
    lengths = accumulate(map(len, inflated(data, _PIECE))) if filters else (len(data),)
    return wanted > 0 and all(length < wanted for length in lengths)


def _colours(space: Any) -> int:
    """How many numbers make a colour; 0 where that is not known."""
    name = str(space[0] if isinstance(space, pikepdf.Array) else space)
    if name == "/ICCBased":
        return int(space[1].get("/N", 0))
    return len(space[1]) if name == "/DeviceN" else _COLOURS.get(name, 0)
