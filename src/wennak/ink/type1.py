"""The glyph procedures of a Type 1 program, without running it (Adobe Type 1 Font Format, chapter 7).

A general reader interprets all of its PostScript, which takes a tenth of a second a font; only the outlines
of a few glyphs are wanted.
"""

from __future__ import annotations

import re
from typing import Any

import numpy as np

# The cipher of both the private part and the procedures: its multiplier, that one's inverse, and its addend.
_C1, _INVERSE, _C2 = 52845, pow(52845, -1, 1 << 16), 22719
_PRIVATE_KEY, _PROCEDURE_KEY = 55665, 4330
_SKIPPED = 4
_ENTRY = re.compile(rb"(?:dup\s+(\d+)|/([^\s/{}\[\]()]+))\s+(\d+)\s+(?:RD|-\|)[ ]")
_LENGTH = re.compile(rb"/lenIV\s+(\d+)")


def decrypted(data: bytes, key: int, skipped: int = _SKIPPED) -> bytes:
    """Return what data enciphered with a key holds, without its first bytes, which are random.

    Each key follows from the one before it and a byte of the cipher by a linear rule, so that all of them are
    a cumulative sum (modulo 65536).
    """
    cipher = np.frombuffer(data, dtype=np.uint8).astype(np.uint64)
    steps = np.full(len(cipher), _C1, dtype=np.uint64)
    powers = np.cumprod(steps) & 0xFFFF
    inverses = np.cumprod(np.full(len(cipher), _INVERSE, dtype=np.uint64)) & 0xFFFF
    sums = (np.cumsum((cipher * _C1 + _C2) * inverses) + key) & 0xFFFF
    keys = np.concatenate(([key], (powers * sums & 0xFFFF)[:-1].astype(np.int64))).astype(np.uint64)
    plain = (cipher ^ (keys >> np.uint64(8))).astype(np.uint8)
    return plain[skipped:].tobytes()


def procedures(data: bytes) -> dict[str, Any]:
    """Return the glyph procedures of a program by name, as fontTools draws them."""
    from fontTools.misc.psCharStrings import T1CharString

    start = data.index(b"eexec") + 5
    while data[start : start + 1] in b" \t\r\n":
        start += 1
    secret = data[start:]
    if re.fullmatch(rb"[0-9A-Fa-f\s]{8}", secret[:8]):
        hexed = re.match(rb"[0-9A-Fa-f\s]+", secret)
        digits = re.sub(rb"\s", b"", hexed[0] if hexed else b"")
        secret = bytes.fromhex(digits[: len(digits) // 2 * 2].decode())
    private = decrypted(secret, _PRIVATE_KEY)
    length = _LENGTH.search(private)
    skipped = int(length[1]) if length else _SKIPPED
    routines: dict[int, Any] = {}
    glyphs: dict[str, Any] = {}
    subrs: list[Any] = []
    at = 0
    while entry := _ENTRY.search(private, at):
        at = entry.end() + int(entry[3])
        procedure = T1CharString(decrypted(private[entry.end() : at], _PROCEDURE_KEY, skipped), subrs=subrs)
        if entry[1] is not None:
            routines[int(entry[1])] = procedure
        else:
            glyphs[entry[2].decode("latin-1")] = procedure
    if routines:
        empty = T1CharString(b"\x0b")
        subrs += [routines.get(k, empty) for k in range(max(routines) + 1)]
    return glyphs
