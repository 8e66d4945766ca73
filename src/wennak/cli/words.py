"""Numbers and times as sentences say them."""

from __future__ import annotations


def count_of(n: int, word: str) -> str:
    """Return a number of things for people."""
    return f"{n:,} {word}{'' if n == 1 else 's'}"


def duration(seconds: float) -> str:
    """Return a time for people."""
    if seconds < 60:
        return f"{seconds:.0f} s"
    minutes, hours = seconds / 60, seconds / 3600
    return f"{minutes:.0f} min" if minutes < 60 else f"{int(hours)} h {int(minutes) % 60} min"
