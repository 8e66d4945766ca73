"""The best set of readings that share no words."""

from __future__ import annotations

from collections.abc import Sequence

from .agreement import agreement
from .draft import TableDraft
from .reading import Reading

# What words gain as text: a reading that gains less is left as text.
LEAST = 0.3
# What crossing lines draw counts so much more.
DRAWN = 0.05
# So many sets are kept in view while readings are added.
BEAM = 24
# Other readings of a place are kept beside the best where they are expected to be at most this much worse.
NEAR, MOST = 0.15, 2


def worth(reading: Reading) -> float:
    """Return what taking a reading gains over leaving its words as text: so much for each of its pieces. By
    words, a line of prose that is swallowed would count more than the table above it.
    """
    return (reading.gain + DRAWN * (reading.cut is None) - LEAST) * reading.pieces


def choose(readings: Sequence[Reading]) -> list[Reading]:
    """Return the readings without common words that gain most together, from top to bottom."""
    best: dict[int, Reading] = {}
    for reading in readings:
        bits = reading.bits
        if reading.gain > LEAST and (bits not in best or worth(best[bits]) < worth(reading)):
            best[bits] = reading
    ranked = sorted(best.values(), key=lambda r: (-worth(r), r.place.key))
    # Sets as (gain, words taken as bits, readings).
    sets: list[tuple[float, int, tuple[Reading, ...]]] = [(0.0, 0, ())]
    for reading in ranked:
        gained = worth(reading)
        sets += [
            (g + gained, taken | reading.bits, (*chosen, reading))
            for g, taken, chosen in sets
            if not taken & reading.bits
        ]
        sets = sorted(sets, key=lambda s: -s[0])[:BEAM]
    return sorted(sets[0][2], key=lambda r: (r.place.box.y0, r.place.box.x0))


def alternatives(reading: Reading, readings: Sequence[Reading]) -> list[Reading]:
    """Return the best readings of the same words with other rows or columns that are nearly as good."""
    out: list[Reading] = []
    shapes = {reading.shape}
    near = [r for r in readings if r.bits == reading.bits and r.gain > reading.gain - NEAR]
    for other in sorted(near, key=lambda r: -r.gain):
        if other.shape not in shapes and len(out) < MOST:
            shapes.add(other.shape)
            out.append(other)
    return out


def judged_draft(
    reading: Reading, readings: Sequence[Reading], words: int, method: str = "spaced"
) -> TableDraft:
    """Return a reading as a draft that knows what the judge said of it, and of the others; `words` is the
    number of words of its page.
    """
    draft = reading.draft(method)
    draft.gain, draft.rival, draft.seen = reading.gain, _rival(reading, readings), reading.seen.copy()
    draft.agreed = agreement(reading, readings, words)
    return draft


def _rival(reading: Reading, readings: Sequence[Reading]) -> float:
    """Return how much less than a reading the best other one of some of its words gains, 0..1."""
    best = max((r.gain for r in readings if r is not reading and r.bits & reading.bits), default=0.0)
    return min(1.0, max(0.0, reading.gain - best))
