"""CMaps: how strings split into codes and what the codes stand for (ISO 32000-2, 9.7.5, 9.10.3)."""

from __future__ import annotations

import re
from dataclasses import dataclass, field

_SECTION = re.compile(rb"begin(codespacerange|cidrange|cidchar|bfrange|bfchar|notdefrange)(.*?)end\1", re.S)
_PART = re.compile(rb"<([0-9A-Fa-f\s]*)>|(\[)|(\])|([+-]?\d+)|/([^\s<>\[\]()/]+)", re.S)
# A range may name the whole plane; more than this is a bomb.
MAX_ENTRIES = 200_000


@dataclass(slots=True)
class CMap:
    """One parsed CMap. `texts` maps code -> characters (bf entries), `cids` maps code -> CID."""

    spaces: list[tuple[int, int, int]] = field(default_factory=list)  # (bytes, low, high)
    texts: dict[int, str] = field(default_factory=dict)
    cids: dict[int, int] = field(default_factory=dict)
    cid_ranges: list[tuple[int, int, int]] = field(default_factory=list)
    vertical: bool = False
    uses: str = ""

    def cid(self, code: int) -> int:
        """Return the CID of a code, 0 (notdef) where there is none."""
        found = self.cids.get(code)
        if found is not None:
            return found
        for low, high, first in self.cid_ranges:
            if low <= code <= high:
                return first + code - low
        return 0

    def split(self, data: bytes) -> list[int]:
        """Cut a string into codes by the codespace ranges (9.7.6.3)."""
        out = []
        i, n = 0, len(data)
        lengths = sorted({length for length, _, _ in self.spaces}) or [2]
        while i < n:
            for length in lengths:
                code = int.from_bytes(data[i : i + length], "big")
                if i + length <= n and any(
                    size == length and _inside(code, low, high, length) for size, low, high in self.spaces
                ):
                    break
            else:
                length = min(lengths[0], n - i)
                code = int.from_bytes(data[i : i + length], "big")
            out.append(code)
            i += length
        return out


def _inside(code: int, low: int, high: int, length: int) -> bool:
    """Codespace ranges are boxes: every byte must lie between the bytes of both ends."""
    return all((low >> s & 255) <= (code >> s & 255) <= (high >> s & 255) for s in range(0, 8 * length, 8))


def parse_cmap(data: bytes) -> CMap:
    """Read an embedded CMap stream; what cannot be understood is left out."""
    cmap = CMap()
    if match := re.search(rb"/([^\s/]+)\s+usecmap", data):
        cmap.uses = match[1].decode("latin-1")
    if match := re.search(rb"/WMode\s+(\d)", data):
        cmap.vertical = match[1] == b"1"
    for section in _SECTION.finditer(data):
        kind, parts = section[1], list(_parts(section[2]))
        if kind == b"codespacerange":
            for low, high in zip(parts[::2], parts[1::2], strict=False):
                if isinstance(low, bytes) and isinstance(high, bytes) and low:
                    cmap.spaces.append((len(low), int.from_bytes(low, "big"), int.from_bytes(high, "big")))
        elif kind == b"bfchar":
            for source, target in zip(parts[::2], parts[1::2], strict=False):
                if isinstance(source, bytes) and isinstance(target, bytes):
                    _put(cmap, int.from_bytes(source, "big"), _utf16(target))
        elif kind == b"bfrange":
            for low, high, target in zip(parts[::3], parts[1::3], parts[2::3], strict=False):
                if isinstance(low, bytes) and isinstance(high, bytes):
                    _put_range(cmap, int.from_bytes(low, "big"), int.from_bytes(high, "big"), target)
        elif kind == b"cidchar":
            for source, cid in zip(parts[::2], parts[1::2], strict=False):
                if isinstance(source, bytes) and isinstance(cid, int):
                    cmap.cids[int.from_bytes(source, "big")] = cid
        elif kind == b"cidrange":
            for low, high, cid in zip(parts[::3], parts[1::3], parts[2::3], strict=False):
                if isinstance(low, bytes) and isinstance(high, bytes) and isinstance(cid, int):
                    cmap.cid_ranges.append((int.from_bytes(low, "big"), int.from_bytes(high, "big"), cid))
    return cmap


Part = bytes | int | list[bytes]


def _parts(data: bytes) -> list[Part]:
    """Return hex strings as bytes, numbers as int, arrays as lists of bytes."""
    out: list[Part] = []
    array: list[bytes] | None = None
    for match in _PART.finditer(data):
        kind = match.lastindex
        if kind == 1:
            (out if array is None else array).append(_octets(match[1].decode("ascii")))
        elif kind == 2:
            array = []
        elif kind == 3:
            out.append(array or [])
            array = None
        elif kind == 4:
            out.append(int(match[4]))
    return out


def _octets(digits: str) -> bytes:
    try:
        return bytes.fromhex(digits)
    except ValueError:  # an odd digit, or blanks within one
        digits = "".join(digits.split())
        return bytes.fromhex(digits + "0" * (len(digits) % 2))


def _put(cmap: CMap, code: int, text: str) -> None:
    if len(cmap.texts) < MAX_ENTRIES:
        cmap.texts[code] = text


def _put_range(cmap: CMap, low: int, high: int, target: Part) -> None:
    count = min(high - low + 1, MAX_ENTRIES - len(cmap.texts))
    if isinstance(target, list):
        for i, value in enumerate(target[: max(0, count)]):
            cmap.texts[low + i] = _utf16(value)
    elif isinstance(target, bytes) and target:
        head, last = target[:-2], int.from_bytes(target[-2:], "big")
        for i in range(max(0, count)):
            cmap.texts[low + i] = _utf16(head + (last + i & 0xFFFF).to_bytes(2, "big"))


def _utf16(data: bytes) -> str:
    if len(data) == 1:
        data = b"\0" + data
    return data.decode("utf-16-be", "ignore")
