"""The best set of readings that share no words."""

from __future__ import annotations

from collections.abc import Sequence

from .reading import Reading

# A reading that is expected to be less similar to a true table than this is left as text.
LEAST = 0.2
# What rows that follow each other like rows of a table count beside the judge: on documents unlike those it
# was fitted on, such runs are right more often than it knows.
RUN = 0.1
# What crossing lines draw counts so much more.
DRAWN = 0.3
# Readings of many words count more, by this power of their number: in proportion, whatever swallows the next
# paragraph would win.
SIZE = 0.3
# So many sets are kept in view while readings are added.
BEAM = 24
# Other readings of a place are kept beside the best where they are expected to be at most this much worse.
NEAR, MOST = 0.15, 2


def worth(reading: Reading) -> float:
    """Return what a reading counts when it is compared with others."""
    return reading.gain + RUN * reading.place.run + DRAWN * reading.draft.drawn


def choose(readings: Sequence[Reading]) -> list[Reading]:
    """Return the readings without common words whose words gain most together, from top to bottom."""
    best: dict[frozenset[int], Reading] = {}
    for reading in readings:
        words = reading.words
        if reading.gain > LEAST and (words not in best or worth(best[words]) < worth(reading)):
            best[words] = reading
    ranked = sorted(best.values(), key=lambda r: (-worth(r) * len(r.words) ** SIZE, min(r.words)))
    # Sets as (gain, words taken as bits, readings).
    sets: list[tuple[float, int, tuple[Reading, ...]]] = [(0.0, 0, ())]
    for reading in ranked:
        bits = sum(1 << i for i in reading.words)
        gained = (worth(reading) - LEAST) * len(reading.words) ** SIZE
        sets += [
            (g + gained, taken | bits, (*chosen, reading)) for g, taken, chosen in sets if not taken & bits
        ]
        sets = sorted(sets, key=lambda s: -s[0])[:BEAM]
    return sorted(sets[0][2], key=lambda r: (r.draft.box.y0, r.draft.box.x0))


def alternatives(reading: Reading, readings: Sequence[Reading]) -> list[Reading]:
    """Return the best readings of the same words with other rows or columns that are nearly as good."""
    out: list[Reading] = []
    shapes = {(reading.draft.rows, reading.draft.columns)}
    for other in sorted(readings, key=lambda r: -r.gain):
        shape = (other.draft.rows, other.draft.columns)
        near = other.gain > reading.gain - NEAR and other.words == reading.words
        if near and shape not in shapes and len(out) < MOST:
            shapes.add(shape)
            out.append(other)
    return out


def rival(reading: Reading, readings: Sequence[Reading]) -> float:
    """Return how much less than a reading the best other one of some of its words gains, 0..1."""
    best = max(
        (r.gain for r in readings if r is not reading and not r.words.isdisjoint(reading.words)), default=0.0
    )
    return min(1.0, max(0.0, reading.gain - best))
