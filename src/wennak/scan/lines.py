"""Part of a page -> the picture of a line as recognisers like it."""

from __future__ import annotations

import numpy as np
from PIL import Image

from ..ink import Floats
from .picture import Grey

# The margin of white around a line, and the greatest width of its picture.
MARGIN, MOST_WIDE = 10, 8000
# Around a line so many pixels of the page are shown with it.
AROUND = 4
# Capitals of level text are so high (em), and brought to this height in pixels.
CAPITAL, HEIGHT = 0.7, 30.0


def line_picture(grey: Grey, box: Floats, tallest: float, height: float) -> tuple[Grey, float, float]:
    """Return the picture of a line in a box (pixels) whose capitals, `tallest` pixels high, are brought to a
    height; the x of its left edge on the page; and its scale.
    """
    x0, y0, x1, y1 = box.astype(np.int64).tolist()
    # Of a line that lies beside the page there is a pixel left.
    top, left = (min(max(0, low - AROUND), side - 1) for low, side in zip((y0, x0), grey.shape, strict=True))
    rows, columns = slice(top, max(top + 1, y1 + AROUND)), slice(left, max(left + 1, x1 + AROUND))
    part = Image.fromarray(np.ascontiguousarray(grey[rows, columns]))
    scale = min(height / max(tallest, 1.0), MOST_WIDE / part.width)
    size = (max(8, round(part.width * scale)), max(8, round(part.height * scale)))
    sheet = Image.new("L", (size[0] + 2 * MARGIN, size[1] + 2 * MARGIN), 255)
    sheet.paste(part.resize(size, Image.Resampling.BICUBIC), (MARGIN, MARGIN))
    return np.asarray(sheet), left - MARGIN / scale, scale


def text_picture(grey: Grey, box: Floats, em: float) -> tuple[Grey, float, float]:
    """Return the same of text of a known size (pixels an em)."""
    return line_picture(grey, np.maximum(box, 0), CAPITAL * em, HEIGHT)
