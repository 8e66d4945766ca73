"""Text as it stands on the line, from left to right -> text in the order of reading.

The Unicode Bidirectional Algorithm turns reading order into display order. Runs of one direction are turned
around as a whole, so applying it to displayed text gives reading order back. Which direction the line itself
has is told by its letters, and by where its commas stand.
"""

from __future__ import annotations

import re

_RIGHT_TO_LEFT = re.compile(r"[\u0590-\u08ff\ufb1d-\ufdff\ufe70-\ufefc]")
_LEFT_TO_RIGHT = re.compile(r"[A-Za-z\u00c0-\u024f\u0370-\u052f]")

_LOOSE_MARK = re.compile(r"\s[,.;:!?؟،؛](?:\s|[^\W\d_])")


def logical(text: str) -> str:
    """Return displayed text in reading order; text without right-to-left letters comes back as it is."""
    if text.isascii():
        return text
    rtl = len(_RIGHT_TO_LEFT.findall(text))
    if not rtl:
        return text
    from bidi import get_display

    sides = ("R", "L") if rtl >= len(_LEFT_TO_RIGHT.findall(text)) else ("L", "R")
    ways = [get_display(text, base_dir=side) for side in sides]
    turned = [way if isinstance(way, str) else way.decode("utf-8") for way in ways]
    # Marks follow their words without a blank.
    return next((way for way in turned if not _LOOSE_MARK.search(way)), turned[0])
