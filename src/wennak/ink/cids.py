"""CIDs of the Japanese and Korean character collections -> characters, from the order of their standards.

Adobe-Japan1 numbers the characters of JIS X 0208 in the order of that standard, and Adobe-Korea1 those of
KS X 1001; Python's codecs know both orders. CIDs beyond them (variants, other widths) stay unknown.
"""

from __future__ import annotations

import functools


@functools.cache
def collection(ordering: str) -> dict[int, str]:
    """Return the characters of a collection by CID; empty for collections that are not known here."""
    if ordering == "Japan1":
        # Proportional ASCII from 1 with a yen sign for the backslash; half-width ASCII from 231, half-width
        # katakana from 327; JIS rows 1 to 7 from 633 and its ideographs, levels 1 and 2, from 1125.
        out = {cid: chr(cid + 31) for cid in range(1, 95)} | {61: "¥"}
        out |= {231 + i: chr(32 + i) for i in range(95)} | {291: "¥"}
        out |= {327 + i: chr(0xFF61 + i) for i in range(63)}
        out |= _rows("euc_jp", (*range(1, 8),), 633) | _rows("euc_jp", (*range(16, 85),), 1125)
        return out
    if ordering == "Korea1":
        out = {cid: chr(cid + 31) for cid in range(1, 95)} | {61: "₩"}
        # Its symbols, CIDs 101 to 1085, follow an older edition than the codec and are left unknown.
        out |= _rows("euc_kr", (*range(16, 41),), 1086) | _rows("euc_kr", (*range(42, 94),), 3436)
        return out
    return {}


def _rows(codec: str, rows: tuple[int, ...], first: int) -> dict[int, str]:
    """Number the assigned characters of some rows of a 94 by 94 set in their order."""
    chars = []
    for row in rows:
        for cell in range(1, 95):
            text = bytes((0xA0 + row, 0xA0 + cell)).decode(codec, "ignore")
            if text:
                chars.append(text)
    return {first + i: char for i, char in enumerate(chars)}
