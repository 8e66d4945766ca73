"""What can be seen of a place, whatever its columns and rows are: its words, and what stands around it."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..ink import median
from ..layout import PageLayout
from .places import Place
from .seams import seam_strengths
from .strip import At

# Rooms and distances beyond this (em) say nothing more.
FAR = 4.0
# The strength of the seam at the end of a strip.
END = 3.0

_BESIDE = ("room", "parts", "size", "bold", "named", "inside", "sentence", "numbers", "font", "left", "right")
PLACE_FEATURES = (
    "words", "beside", "sizes", "size", "fixed", "maths", "led", "named_first", "width", "line_count",
    "fields", "first_font", "last_font",
    *(f"above_{name}" for name in _BESIDE), *(f"below_{name}" for name in _BESIDE),
    "seam_above", "seam_below", "seam_inside", "seams_inside", "named_last", "called_first", "called_last",
    "section_first", "section_last", "code",
)  # fmt: skip


def place_features(layout: PageLayout, places: Sequence[Place]) -> list[list[float]]:
    """Return the PLACE_FEATURES of each place. Lengths are in em of the page's text, shares in 0..1."""
    fixed = np.array([f.fixed_pitch for f in layout.ink.fonts] or [False], dtype=np.bool_)
    page_fixed = float(fixed[layout.words.font].mean())
    return [_of_place(layout, place, page_fixed) for place in places]


def _of_place(layout: PageLayout, place: Place, page_fixed: float) -> list[float]:
    w, em, box, strip = layout.words, layout.em, place.box, place.strip
    index, starts, facts = place.index, strip.starts, strip.facts
    near = (w.y0 < box.y1) & (w.y1 > box.y0) & ~w.turned
    near &= (w.x1 > box.x0 - 3 * em) & (w.x0 < box.x1 + 3 * em)
    near &= (w.x1 < box.x0 - 0.2 * em) | (w.x0 > box.x1 + 0.2 * em)
    size = w.size[index]
    _, maths, pitch, led, fields, code = (
        (strip.sums[starts[place.last]] - strip.sums[starts[place.first]]) / len(index)
    ).tolist()
    font, last = int(np.bincount(w.font[index]).argmax()), place.last - 1
    of_first, of_last = (
        w.font[strip.index[starts[k] : starts[k + 1]]] == font for k in (place.first, place.last - 1)
    )
    return [
        float(np.log1p(len(index))), float(np.log1p(near.sum())), float(size.std() / em),
        float(median(size) / em), pitch - page_fixed, maths, led, float(facts.named[place.first]),
        (box.x1 - box.x0) / em / 50, min(30.0, float(len(place.lines))), fields,
        float(of_first.mean()), float(of_last.mean()),
        *_beyond(layout, place, place.above, font, True), *_beyond(layout, place, place.below, font, False),
        *_seams(layout, place), float(facts.named[last]), float(facts.called[place.first]),
        float(facts.called[last]), float(facts.section[place.first]), float(facts.section[last]), code,
    ]  # fmt: skip


def _beyond(layout: PageLayout, place: Place, at: At | None, font: int, above: bool) -> list[float]:
    """What stands right above or below a place."""
    if at is None:
        return [FAR, 0.0, 1.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0]
    strip, k = at
    row, facts, em, box = strip.rows[k], strip.facts, layout.em, place.box
    own = place.strip.facts
    room = float(own.y0[place.first] - facts.y1[k] if above else facts.y0[k] - own.y1[place.last - 1])
    return [
        min(FAR, max(-1.0, room / em)), float(min(6, len(row.spans))), float(facts.size[k]) / em,
        float(facts.bold_share[k]), float(facts.named[k]),
        float(row.x0 > box.x0 - em and row.x1 < box.x1 + em), float(facts.sentence[k]),
        float(facts.numbers[k]),
        float((layout.words.font[row.words] == font).mean()),
        min(FAR, max(-FAR, (row.x0 - box.x0) / em)), min(FAR, max(-FAR, (row.x1 - box.x1) / em)),
    ]  # fmt: skip


def _seams(layout: PageLayout, place: Place) -> list[float]:
    """How strong the seams above, below and within a place are (the strongest one, and the mean)."""
    if place.whole:
        return [END, END, 0.0, 0.0]
    strip = place.strip
    strength, a, b = seam_strengths(layout, strip, 0, len(strip.rows)), place.first, place.last
    inner = strength[a : b - 1]
    above = float(strength[a - 1]) if a else END
    below = float(strength[b - 1]) if b <= len(strength) else END
    return [above, below, float(inner.max(initial=0.0)), float(inner.mean()) if len(inner) else 0.0]
