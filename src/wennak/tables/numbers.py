"""What looks like a number in print."""

from __future__ import annotations

import re

NUMERIC = re.compile(
    r"^[-+−–(]?\s*[$€£¥%]?\s*\d[\d.,'’\u00a0\u202f ]*\s*[%)$€£¥*†‡]*$|^[$€£¥]$|^[-–—−…]+$|^n/?a\.?$", re.I
)


def is_numeric(text: str) -> bool:
    """Whether a text is a number as tables print it: signs, currency, parentheses, dashes for nothing."""
    return bool(NUMERIC.match(text))
