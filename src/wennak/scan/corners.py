"""A photograph of a page taken at an angle, straightened by the four corners of the page."""

from __future__ import annotations

import numpy as np
from PIL import Image
from scipy import ndimage

from ..ink import Floats
from .picture import Grey, Mask
from .threshold import otsu

# The page is sought in a picture that is so large (pixels of its longer side).
SMALL = 600
# Writing on the page is bridged, and light specks beside it left out, up to this share of the longer side.
BRIDGE, SPECK = 0.03, 0.01
# A page covers at least this share of a photograph, and its quadrilateral all but this of what is light.
LEAST, OFF = 0.25, 0.03
# Sides are straight lines where their points lie this near to one (share of the longer side).
STRAIGHT = 0.004
# The ground is darker than the page by this share of its light, so near to both sides of an edge (share of
# the longer side): where only the light is uneven there is no such step.
STEP, BESIDE = 0.15, 0.005
# Seen straight on, opposite sides are parallel but for this (degrees), and the page is turned by this at
# most: such pictures stay as they are.
PARALLEL, TURNED = 0.6, 8.0


def straightened(picture: Image.Image) -> Image.Image | None:
    """Return what a photograph shows of a page as it would be seen straight on; None where there are no four
    corners of a page on darker ground, or it is seen so.
    """
    corners = find_corners(np.asarray(picture.convert("L")))
    if corners is None or not _at_an_angle(corners):
        return None
    sides = np.linalg.norm(np.roll(corners, -1, axis=0) - corners, axis=1)
    width, height = round((sides[0] + sides[2]) / 2), round((sides[1] + sides[3]) / 2)
    target = np.array([(0, 0), (width, 0), (width, height), (0, height)], dtype=np.float64)
    view = perspective(target, corners)
    return picture.transform(
        (width, height), Image.Transform.PERSPECTIVE, view.tolist(), Image.Resampling.BICUBIC
    )


def find_corners(grey: Grey) -> Floats | None:
    """Return the corners of a page on darker ground, (4, 2) in pixels (x, y) clockwise from the upper left;
    None where none is seen whole.
    """
    scale = max(1.0, max(grey.shape) / SMALL)
    size = max(1, round(grey.shape[1] / scale)), max(1, round(grey.shape[0] / scale))
    small = np.asarray(Image.fromarray(grey).resize(size, Image.Resampling.BOX))
    bridged = ndimage.grey_closing(small, size=round(BRIDGE * max(small.shape)) | 1)
    light = _page(bridged)
    if not LEAST <= light.mean() < 1 - OFF:
        return None
    y, x = np.nonzero(light & ~ndimage.binary_erosion(light))
    edge: Floats = np.stack((x, y), axis=1).astype(np.float64) + 0.5
    long = max(small.shape)
    # The points that reach farthest to each corner of the picture, and then lines along the sides between.
    ways = np.array([(-1, -1), (1, -1), (1, 1), (-1, 1)])
    rough: Floats = edge[(edge @ ways.T).argmax(axis=0)]
    lines = [_line(edge, a, b, long) for a, b in zip(rough, np.roll(rough, -1, axis=0), strict=True)]
    sound = [line for line in lines if line is not None]
    if len(sound) < 4:
        return None
    corners: Floats = np.array([_crossing(sound[k - 1], sound[k]) for k in range(4)])
    if abs(_area(corners) - light.sum()) > OFF * light.sum() or not _stands_out(bridged, corners):
        return None
    corners *= scale
    return corners


def perspective(square: Floats, seen: Floats) -> Floats:
    """Return the eight factors by which Pillow finds the points `seen` (4, 2) from those of a picture,
    `square`: x' = (ax + by + c) / (gx + hy + 1), and likewise y'.
    """
    rows, values = [], []
    for (x, y), (u, v) in zip(square.tolist(), seen.tolist(), strict=True):
        rows += [(x, y, 1, 0, 0, 0, -u * x, -u * y), (0, 0, 0, x, y, 1, -v * x, -v * y)]
        values += [u, v]
    out: Floats = np.linalg.solve(np.array(rows, dtype=np.float64), np.array(values, dtype=np.float64))
    return out


def _page(bridged: Grey) -> Mask:
    """The largest light area, with what is written in it."""
    long = max(bridged.shape)
    counts = np.bincount(bridged.ravel(), minlength=256).astype(np.float64)
    light = ndimage.binary_opening(bridged >= otsu(counts), iterations=max(1, round(SPECK * long)))
    labels, count = ndimage.label(light)
    if not count:
        return np.zeros(bridged.shape, dtype=np.bool_)
    largest = labels == 1 + int(np.bincount(labels.ravel())[1:].argmax())
    filled: Mask = ndimage.binary_fill_holes(largest)
    return filled


def _stands_out(bridged: Grey, corners: Floats) -> bool:
    """Whether a page lies wholly in the picture and the ground right beside each of its sides is darker."""
    d = max(2.0, BESIDE * max(bridged.shape))
    size = np.array(bridged.shape[::-1])
    if (corners < d + 1).any() or (corners > size - d - 1).any():
        return False
    for a, b in zip(corners, np.roll(corners, -1, axis=0), strict=True):
        along = (b - a) / max(float(np.linalg.norm(b - a)), 1.0)
        points = a + np.linspace(0.1, 0.9, 64)[:, None] * (b - a)
        outward = d * np.array([along[1], -along[0]])
        within, beyond = ((points + way).astype(np.int64) for way in (-outward, outward))
        light, dark = (float(np.median(bridged[p[:, 1], p[:, 0]])) for p in (within, beyond))
        if light - dark < STEP * light:
            return False
    return True


def _line(edge: Floats, a: Floats, b: Floats, long: int) -> tuple[Floats, Floats] | None:
    """The line (a point, a direction) along the edge between two rough corners, if it is straight."""
    far = float(np.linalg.norm(b - a))
    along = (b - a) / max(far, 1.0)
    across = np.array([-along[1], along[0]])
    place, off = (edge - a) @ along, np.abs((edge - a) @ across)
    own = edge[(place > 0.1 * far) & (place < 0.9 * far) & (off < 4 * STRAIGHT * long + 2)]
    if len(own) < 0.5 * far:
        return None
    middle = own.mean(axis=0)
    direction = np.linalg.svd(own - middle, full_matrices=False)[2][0]
    rest = (own - middle) @ np.array([-direction[1], direction[0]])
    return (middle, direction) if float(np.sqrt(np.mean(rest**2))) <= STRAIGHT * long else None


def _crossing(one: tuple[Floats, Floats], other: tuple[Floats, Floats]) -> Floats:
    (p, u), (q, v) = one, other
    along = np.linalg.lstsq(np.stack((u, -v), axis=1), q - p, rcond=None)[0]
    out: Floats = p + along[0] * u
    return out


def _area(corners: Floats) -> float:
    x, y = corners.T
    return abs(float(x @ np.roll(y, -1) - y @ np.roll(x, -1))) / 2


def _at_an_angle(corners: Floats) -> bool:
    """Whether opposite sides are not parallel, or the page is turned."""
    ways = np.roll(corners, -1, axis=0) - corners
    angles = np.degrees(np.arctan2(ways[:, 1], ways[:, 0])) - np.array([0.0, 90.0, 180.0, 270.0])
    angles = (angles + 180) % 360 - 180
    apart = max(abs(a - b) for a, b in (angles[[0, 2]], angles[[1, 3]]))
    return bool(apart > PARALLEL or np.abs(angles).max() > TURNED)
