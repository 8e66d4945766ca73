"""What looks like a number in print."""

from __future__ import annotations

import functools
import re

from ..values import is_missing

NUMERIC = re.compile(
    r"^[-+−–(]?\s*[$€£¥%]?\s*\d[\d.,'’\u00a0\u202f ]*\s*[%)$€£¥*†‡]*$|^[$€£¥]$|^[-–—−…]+$|^n/?a\.?$", re.I
)
CURRENCIES = frozenset(("$", "€", "£", "¥"))
YEAR = re.compile(r"(1[89]|20)\d\d[a-z]?")
_VERSION = re.compile(r"\d\.\d{1,2}\.\d")


@functools.lru_cache(8192)
def is_numeric(text: str) -> bool:
    """Whether a text is a number as tables print it: signs, currency, parentheses, dashes for nothing.

    "3.23.41" is none: it names a version.
    """
    return bool(NUMERIC.match(text)) and not _VERSION.search(text)


def is_given(text: str) -> bool:
    """Whether a text stands in the place of a number: one, or a sign that it is missing."""
    return is_numeric(text) or is_missing(text)


def is_value(text: str) -> bool:
    """Whether a text is a number and no year: years may be labels."""
    return is_numeric(text) and not YEAR.fullmatch(text)
