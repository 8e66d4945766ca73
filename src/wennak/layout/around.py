"""The zones of a page around its equations, and its tables and figures once these are known."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import fields, replace
from itertools import pairwise
from typing import Any

import numpy as np

from ..ink import Ints
from ..model import Box
from .page import PageLayout, Zone
from .parted import PROSE_WORDS
from .side_notes import with_notes
from .words import Words
from .zones import find_zones

# What is no text stands in the way like lines of prose this far apart (em), but no more than so many.
PITCH = 1.2
MOST_LINES = 80


def zones_around(layout: PageLayout, blocks: Sequence[tuple[Box, Ints]], known: bool) -> list[Zone]:
    """Return the zones of a page on which its equations, its programs and blocks, given by their boxes and
    words, are read as wholes: each as if lines of prose filled it. Its words are in the zone that it stands
    in. Where its tables are `known`, what is left is text.
    """
    w, none = layout.words, np.empty(0, dtype=np.int64)
    blocks = [*blocks, *((shown.box, none) for shown in layout.displays)]
    blocks += [(layout.box(listing), listing) for listing in layout.listings]
    notes = layout.side_notes.copy()
    if not blocks or not len(w):
        return with_notes(layout, find_zones(layout, np.flatnonzero(~notes), known), notes)
    rest = ~notes
    for _, members in blocks:
        rest[members] = notes[members] = False
    boxes = [layout.ruled_box(box) for box, _ in blocks]
    lines = [round((box.y1 - box.y0) / (PITCH * layout.em)) for box in boxes]
    counts = np.clip(lines, 1, MOST_LINES).tolist()
    solid = replace(layout, words=_with_lines(w, boxes, counts, layout.em))
    ends = len(w) + PROSE_WORDS * np.cumsum(counts)
    members = np.concatenate((np.flatnonzero(rest), np.arange(len(w), len(solid.words))))
    zones = find_zones(solid, members, known)
    home = np.full(len(solid.words), -1)
    for k, zone in enumerate(zones):
        home[zone.members] = k
    for (_, inside), end in zip(blocks, ends.tolist(), strict=True):
        home[inside] = home[end - 1]
    found = [Zone(z.x0, z.y0, z.x1, z.y1, np.flatnonzero(home[: len(w)] == k)) for k, z in enumerate(zones)]
    return with_notes(layout, found, notes)


def _with_lines(words: Words, boxes: Sequence[Box], counts: Sequence[int], em: float) -> Words:
    """The words of a page, and so many lines in each box, of words without gaps and without a font."""
    bounds = [
        np.array([(box.x0, y, box.x1, below) for y, below in pairwise(np.linspace(box.y0, box.y1, n + 1))])
        for box, n in zip(boxes, counts, strict=True)
    ]
    lines = np.repeat(np.concatenate(bounds), PROSE_WORDS, axis=0)
    width = (lines[:, 2] - lines[:, 0]) / PROSE_WORDS
    at = np.arange(len(lines))
    x0 = lines[:, 0] + at % PROSE_WORDS * width
    more = {
        "x0": x0, "y0": lines[:, 1], "x1": x0 + width, "y1": lines[:, 3], "baseline": lines[:, 3],
        "size": np.full(len(at), em), "font": np.full(len(at), -1),
        "row": words.row.max() + 1 + at // PROSE_WORDS, "letter": np.ones(len(at), dtype=np.bool_),
    }  # fmt: skip
    columns = {f.name: getattr(words, f.name) for f in fields(words) if f.name not in ("texts", "scripts")}
    longer: dict[str, Any] = {
        name: np.concatenate((known, more.get(name, np.zeros(len(at), dtype=known.dtype))))
        for name, known in columns.items()
    }
    return replace(words, texts=words.texts + [""] * len(at), **longer)
