"""Pictures of pages as arrays: rows from top to bottom."""

from __future__ import annotations

from typing import Any

import numpy as np
import numpy.typing as npt

from ..ink import Grey

__all__ = ["Grey", "Labels", "Mask"]

Mask = npt.NDArray[np.bool_]
Labels = npt.NDArray[Any]
