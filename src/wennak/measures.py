"""Lengths as people write them: points, millimetres, inches, or a share of the page; places that are one."""

from __future__ import annotations

import re
from collections.abc import Iterable

from .errors import UsageError
from .model import Box

_POINTS = {"": 1.0, "pt": 1.0, "mm": 72 / 25.4, "in": 72.0}
_LENGTH = re.compile(r"^\s*(-?\d+(?:\.\d+)?)\s*(pt|mm|in|%|)\s*$")


def points(text: str, whole: float) -> float:
    """Return a length in points; "%" is a share of `whole`. Raises UsageError for anything else.

    >>> points("10mm", 600.0)
    28.346456692913385
    """
    match = _LENGTH.match(text)
    if match is None:
        raise UsageError(f"{text!r} is no length; write it as 120, 120pt, 42mm, 1.5in or 20%.")
    value = float(match[1])
    return value * whole / 100 if match[2] == "%" else value * _POINTS[match[2]]


def page_and_box(text: str, sizes: dict[int, tuple[float, float]]) -> tuple[int, Box]:
    """Return page and box of a region written as "page,left,top,right,bottom".

    `sizes` gives width and height of the pages, in points. Raises UsageError for anything else.
    """
    parts = [part.strip() for part in text.split(",")]
    if len(parts) != 5 or not parts[0].isdigit():
        raise UsageError(f'{text!r} is no region; write it as "page,left,top,right,bottom".')
    page = int(parts[0])
    if page not in sizes:
        raise UsageError(f"There is no page {page}; the region must lie on one of {len(sizes)} pages.")
    width, height = sizes[page]
    x0, y0, x1, y1 = (points(p, side) for p, side in zip(parts[1:], (width, height) * 2, strict=True))
    if x0 >= x1 or y0 >= y1:
        raise UsageError(f"The region {text!r} is empty: left must be less than right, top less than bottom.")
    return page, Box(x0, y0, x1, y1)


def distinct(places: Iterable[float], apart: float) -> list[float]:
    """Return the different places among some, from the least on: each farther than that from the one before.

    >>> distinct([30.0, 10.0, 10.2, 20.0], 0.5)
    [10.0, 20.0, 30.0]
    """
    out: list[float] = []
    for place in sorted(places):
        if not out or place > out[-1] + apart:
            out.append(place)
    return out
