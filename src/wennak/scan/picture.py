"""Pictures of pages as arrays: rows from top to bottom."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import numpy as np
import numpy.typing as npt

from ..ink import Grey

__all__ = ["Grey", "Labels", "Mask", "strips"]

Mask = npt.NDArray[np.bool_]
Labels = npt.NDArray[Any]
# What takes four or eight bytes for each pixel is done in so many strips of rows.
STRIPS = 16


def strips(height: int) -> Iterator[slice]:
    """Yield the rows of a page of so many rows, strip by strip, so that little memory is needed at once."""
    each = -(-height // STRIPS)
    for begin in range(0, height, max(1, each)):
        yield slice(begin, min(height, begin + each))
