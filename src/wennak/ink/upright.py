"""Pages whose text runs sideways are turned, so that everything downstream reads from left to right."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from ..model import Box
from .arrays import Floats, PageInk


def quarter_turns(ink: PageInk) -> int:
    """Return how many clockwise quarter turns the bulk of the visible text is away from upright (0..3)."""
    angles = ink.glyphs.angle[ink.glyphs.visible]
    if not len(angles) or np.abs(angles).max() < 45:
        return 0
    quarters = np.round(angles / 90).astype(np.int64) % 4
    return int(np.bincount(quarters, minlength=4).argmax())


def turned(ink: PageInk, turns: int) -> PageInk:
    """Return the page turned anticlockwise by `turns` quarters, so that text at that angle is upright."""
    if turns == 0:
        return ink
    width, height = (ink.height, ink.width) if turns % 2 else (ink.width, ink.height)
    glyphs = ink.glyphs
    x0, y0, x1, y1 = _turn_boxes(ink, turns, glyphs.x0, glyphs.y0, glyphs.x1, glyphs.y1)
    x, y = _turn_points(ink, turns, glyphs.x, glyphs.y)
    angle = (glyphs.angle - 90 * turns + 180) % 360 - 180
    glyphs = replace(glyphs, x=x, y=y, x0=x0, y0=y0, x1=x1, y1=y1, angle=angle)
    strokes = ink.strokes
    sx0, sy0 = _turn_points(ink, turns, strokes.x0, strokes.y0)
    sx1, sy1 = _turn_points(ink, turns, strokes.x1, strokes.y1)
    boxed = {}
    for name in ("fills", "shapes", "pictures"):
        rows = getattr(ink, name)
        bx0, by0, bx1, by1 = _turn_boxes(ink, turns, rows.x0, rows.y0, rows.x1, rows.y1)
        boxed[name] = replace(rows, x0=bx0, y0=by0, x1=bx1, y1=by1)
    return replace(
        ink,
        width=width,
        height=height,
        glyphs=glyphs,
        strokes=replace(
            strokes,
            x0=np.minimum(sx0, sx1), x1=np.maximum(sx0, sx1),
            y0=np.minimum(sy0, sy1), y1=np.maximum(sy0, sy1),
        ),
        **boxed,
    )  # fmt: skip


def turned_back(box: Box, turns: int, width: float, height: float) -> Box:
    """Return where a box of the turned page stands on the page as seen, of the given width and height."""
    if turns == 1:
        return Box(width - box.y1, box.x0, width - box.y0, box.x1)
    if turns == 2:
        return Box(width - box.x1, height - box.y1, width - box.x0, height - box.y0)
    if turns == 3:
        return Box(box.y0, height - box.x1, box.y1, height - box.x0)
    return box


def turned_box(box: Box, turns: int, width: float, height: float) -> Box:
    """Return where a box of the page as seen, of the given width and height, stands on the turned page."""
    if turns == 1:
        return Box(box.y0, width - box.x1, box.y1, width - box.x0)
    if turns == 2:
        return Box(width - box.x1, height - box.y1, width - box.x0, height - box.y0)
    if turns == 3:
        return Box(height - box.y1, box.x0, height - box.y0, box.x1)
    return box


def _turn_points(ink: PageInk, turns: int, x: Floats, y: Floats) -> tuple[Floats, Floats]:
    if turns == 1:
        return y, ink.width - x
    if turns == 2:
        return ink.width - x, ink.height - y
    return ink.height - y, x


def _turn_boxes(
    ink: PageInk, turns: int, x0: Floats, y0: Floats, x1: Floats, y1: Floats
) -> tuple[Floats, Floats, Floats, Floats]:
    ax, ay = _turn_points(ink, turns, x0, y0)
    bx, by = _turn_points(ink, turns, x1, y1)
    return np.minimum(ax, bx), np.minimum(ay, by), np.maximum(ax, bx), np.maximum(ay, by)
