"""Which way up the writing of a page picture stands."""

from __future__ import annotations

import numpy as np
from scipy.spatial import cKDTree

from ..ink import Floats, Grey, PageInk
from .lines import text_picture
from .marks import Marks
from .recogniser import Recogniser
from .straighten import turned_by

# Letters stand nearest to those of their own line; so many of a page tell, and so great a share of them.
ENOUGH, SHARE = 40, 0.6
# Letters are at least and at most so high (heights of most letters), and of such proportion.
HIGH, SLIM = (0.6, 2.5), 3.0
# Writing whose characters are this sure in the mean stands upright; else so many of its longest lines are
# read both ways up, since recognisers are rather sure of letters on their heads, too.
UPRIGHT, LINES = 0.985, 6


def runs_sideways(marks: Marks) -> bool:
    """Return whether lines of writing run down or up the page: the letter nearest to most letters stands over
    or under them instead of beside them.
    """
    size = np.maximum(marks.w, marks.h)
    likely = (size > HIGH[0] * marks.height) & (size < HIGH[1] * marks.height)
    at = np.flatnonzero(likely & (marks.w < SLIM * marks.h) & (marks.h < SLIM * marks.w))
    if len(at) < ENOUGH:
        return False
    middle = np.stack((marks.x0 + marks.x1, marks.y0 + marks.y1), axis=1)[at] / 2
    nearest = np.asarray(cKDTree(middle).query(middle, k=2)[1])[:, 1]
    off: Floats = np.abs(middle[nearest] - middle)
    return float((off[:, 1] > off[:, 0]).mean()) > SHARE


def stands_on_head(page: PageInk, grey: Grey, recogniser: Recogniser) -> bool:
    """Return whether the writing of a page, as it was read in its picture, is surer the other way up."""
    g = page.glyphs
    if not len(g) or float(g.sure.mean()) >= UPRIGHT:
        return False
    scale = grey.shape[1] / page.width
    # Places of characters are those of the level page.
    grey = turned_by(grey, page.turned)
    over = np.ascontiguousarray(np.rot90(grey, 2))
    end = np.array((*grey.shape[::-1], *grey.shape[::-1]), dtype=np.float64)
    sure = []
    for run in np.argsort(-np.bincount(g.run), kind="stable")[:LINES].tolist():
        own = g.run == run
        if own.any():
            low, high = (g.x0[own].min(), g.y0[own].min()), (g.x1[own].max(), g.y1[own].max())
            box = np.array((*low, *high)) * scale
            em = float(np.median(g.size[own])) * scale
            looks = (grey, box), (over, end - box[[2, 3, 0, 1]])
            reads = [recogniser.read(text_picture(picture, at, em)[0]) for picture, at in looks]
            if all(read.texts for read in reads):
                sure.append([float(np.mean(read.sure)) for read in reads])
    if not sure:
        return False
    feet, head = np.mean(sure, axis=0).tolist()
    return bool(head > feet)
