"""A reading of a place, and what the judge says of it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np

from ..layout import PageLayout
from .draft import TableDraft
from .evidence import Judge, evidence
from .places import Place

# The gain of a reading that was not judged yet.
UNKNOWN = -np.inf


@dataclass(slots=True, eq=False)
class Reading:
    """A reading of a place, and what the judge says that taking it gains over leaving its words as text."""

    place: Place
    draft: TableDraft
    gain: float = UNKNOWN
    words: frozenset[int] = field(init=False)

    def __post_init__(self) -> None:
        self.words = frozenset(i for cell in self.draft.cells for i in cell.words)


def judged(layout: PageLayout, readings: Sequence[Reading], judge: Judge) -> None:
    """Ask the judge what each reading gains, where it has not been asked."""
    new = [r for r in readings if r.gain == UNKNOWN]
    if new:
        gains = judge(evidence(layout, [(r.place, r.draft) for r in new]))
        for reading, gain in zip(new, gains.tolist(), strict=True):
            reading.gain = gain
