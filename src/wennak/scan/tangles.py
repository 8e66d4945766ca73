"""Pieces that lie across each other: noise, a screen of dots, scribble. Lines of text do not."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from ..ink import Floats, Ints, connected

# Pieces lie across each other where they share more than this of the smaller one's box.
SHARED = 0.02
# So many that hang together by that are a tangle. Of written pages none had more than two; brackets and roots
# across a few others are no tangle yet.
MANY = 12


def find_tangles(boxes: Floats) -> Floats:
    """Return the boxes of tangles (rows of x0, y0, x1, y1) among those of pieces.

    What has its middle in the box of a tangle is part of it, which may make the box larger.
    """
    pairs = np.concatenate([np.empty((2, 0), dtype=np.int64), *_across(boxes)], axis=1)
    of = connected(pairs[0], pairs[1], len(boxes))
    middle = (boxes[:, :2] + boxes[:, 2:]) / 2
    found: list[Floats] = []
    for tangle in np.flatnonzero(np.bincount(of, minlength=1) >= MANY).tolist():
        own = of == tangle
        while True:
            box = np.concatenate((boxes[own, :2].min(axis=0), boxes[own, 2:].max(axis=0)))
            more = own | ((middle >= box[:2]) & (middle <= box[2:])).all(axis=1)
            if (more == own).all():
                break
            own = more
        found.append(box)
    return np.unique(np.array(found).reshape(-1, 4), axis=0)


def _across(boxes: Floats) -> Iterator[Ints]:
    """The pairs of pieces that lie across each other."""
    order = np.argsort(boxes[:, 1], kind="stable")
    x0, y0, x1, y1 = boxes[order].T
    area = (x1 - x0) * (y1 - y0)
    end = np.searchsorted(y0, y1)
    for k in range(len(boxes)):
        others = np.arange(k + 1, end[k])
        wide = np.minimum(x1[k], x1[others]) - np.maximum(x0[k], x0[others])
        high = np.minimum(y1[k], y1[others]) - y0[others]
        shared = np.maximum(wide, 0) * high
        at = others[shared > SHARED * np.minimum(area[k], area[others])]
        if len(at):
            yield order[np.stack((np.full(len(at), k), at))]
