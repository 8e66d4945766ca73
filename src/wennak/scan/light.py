"""Uneven light, dark and shaded grounds -> dark writing on an even white ground."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from PIL import Image
from scipy import ndimage

from ..ink import Floats, distinct
from .picture import Grey, Mask, strips

# The ground is judged in blocks of this size (mm); strokes of letters are narrower.
BLOCK = 0.7
# So many pixels along and across a block tell its light.
SAMPLES = 4
# Writing of this height (mm) is bridged where the ground is sought behind it.
BRIDGE = 4.2
# A ground darker than this share of the paper, over more than this (mm) both ways, holds light writing.
DARK, DARK_SIZE, MOSTLY = 0.6, 3.2, 0.62
# A ground is a shade where it is darker than the paper by this share, over more than this (mm).
SHADE, SHADE_SIZE = 0.03, 2.8
# A shade fills at least this share of its box.
FILLED = 0.8


@dataclass(slots=True)
class Lit:
    """A page in even light: `grey` is 0 for black to 255 for the ground that each pixel stands on; and its
    shaded boxes in pixels with their grey level (rows of x0, y0, x1, y1, grey of 0..1).
    """

    grey: Grey
    shades: Floats


def even_light(grey: Grey, dpi: float) -> Lit:
    """Return a page as it would be on even white ground."""
    block = max(2, round(BLOCK * dpi / 25.4))
    h, w = grey.shape
    rows, columns = -(-h // block), -(-w // block)
    padded = np.pad(grey, ((0, rows * block - h), (0, columns * block - w)), mode="edge")
    # The median of some pixels of each block.
    skip = max(1, block // SAMPLES)
    blocks = padded.reshape(rows, block, columns, block)[:, ::skip, :, ::skip].swapaxes(1, 2)
    middle = np.median(blocks.reshape(rows, columns, -1), axis=2)
    paper = _paper(middle)
    dark = _dark(middle, paper, block, dpi)
    if dark.any():
        # Writing on a dark ground is turned into its negative.
        spread = np.repeat(np.repeat(dark, block, axis=0), block, axis=1)[:h, :w]
        grey = np.where(spread, 255 - grey, grey)
        middle = np.where(dark, 255 - middle, middle)
    size = max(3, round(BRIDGE * dpi / 25.4 / block) | 1)
    ground = ndimage.grey_closing(middle, size=(3, 3))
    ground = ndimage.grey_opening(ndimage.grey_closing(ground, size=(size, size)), size=(3, 3))
    shades = _shades(np.where(dark, 255 - ground, ground), paper, block, dpi)
    smooth = Image.fromarray(np.rint(ndimage.uniform_filter(ground, 3)).astype(np.uint8))
    wide = smooth.resize((columns * block, rows * block), Image.Resampling.BILINEAR)
    full, even = np.asarray(wide), np.empty((h, w), dtype=np.uint8)
    for band in strips(h):
        brighter = np.float32(255) / np.maximum(full[band, :w], 1)
        even[band] = np.minimum(grey[band] * brighter, 255)
    return Lit(even, shades)


def smoothed(grey: Grey, pixels: float) -> Grey:
    """Return a page blurred by a Gaussian of a deviation in pixels."""
    blurred = ndimage.gaussian_filter(grey, pixels, output=np.float32)
    out: Grey = np.rint(blurred, out=blurred).astype(np.uint8)
    return out


def _paper(middle: Floats) -> Floats:
    """The light of the bare paper at each block: a plane bent both ways, through the lightest parts."""
    rows, columns = middle.shape
    y, x = np.mgrid[0:rows, 0:columns]
    y, x = (y / max(rows, 1) - 0.5).ravel(), (x / max(columns, 1) - 0.5).ravel()
    terms = np.stack((np.ones_like(x), x, y, x * x, y * y, x * y), axis=1)
    values = middle.ravel().astype(np.float64)
    keep = values >= np.percentile(values, 50)
    fit = values.mean() + np.zeros_like(values)
    for _ in range(4):
        factors, *_ = np.linalg.lstsq(terms[keep], values[keep], rcond=None)
        fit = terms @ factors
        keep = values > fit - 0.02 * max(float(fit.max()), 1.0)
        if keep.sum() < 20:
            break
    paper: Floats = np.clip(fit, 1.0, 255.0).reshape(rows, columns)
    return paper


def _dark(middle: Floats, paper: Floats, block: int, dpi: float) -> Mask:
    """Which blocks lie on a dark ground: most of what is around them is dark, letters or not."""
    size = max(3, round(DARK_SIZE * dpi / 25.4 / block) | 1)
    dark = middle < DARK * paper
    mostly = ndimage.binary_opening(ndimage.uniform_filter(dark.astype(np.float32), size) > MOSTLY)
    grown: Mask = mostly | (ndimage.binary_dilation(mostly, np.ones((3, 3), dtype=np.bool_)) & dark)
    return grown


def _shades(ground: Floats, paper: Floats, block: int, dpi: float) -> Floats:
    """Boxes in pixels of the areas that are shaded, with their grey level."""
    level = ground / paper
    size = max(2, round(SHADE_SIZE * dpi / 25.4 / block))
    mask = ndimage.binary_opening(level < 1 - SHADE, np.ones((size, size), dtype=np.bool_))
    # Writing and noise break a stripe along its way.
    mask = ndimage.binary_closing(mask, np.ones((1, 3 * size), dtype=np.bool_))
    # Shades of different levels that touch are told apart.
    steps = np.where(mask, np.round(level * 12) + 1, 0).astype(np.int64)
    boxes = []
    for step in distinct(steps[steps > 0]).tolist():
        labels, _ = ndimage.label(steps == step)
        for k, (r, c) in enumerate(ndimage.find_objects(labels), start=1):
            inside = labels[r, c] == k
            if inside.mean() >= FILLED and min(inside.shape) >= size:
                sides = (side * block for side in (c.start, r.start, c.stop, r.stop))
                boxes.append((*sides, float(np.median(level[r, c][inside]))))
    return np.array(boxes, dtype=np.float64).reshape(-1, 5)
