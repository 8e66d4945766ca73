"""Which pages are read from their picture, and in which languages."""

from __future__ import annotations

from dataclasses import dataclass

from ..errors import UsageError

MODES = ("auto", "never", "always")


@dataclass(frozen=True, slots=True)
class Recognition:
    """Which pages are read from their picture: those that show no text ("auto"), "never" any, "always" all;
    and in which languages (codes of three letters; all that are installed if empty).

    Raises UsageError for any other mode.
    """

    mode: str = "auto"
    languages: tuple[str, ...] = ()

    def __post_init__(self) -> None:
        if self.mode not in MODES:
            raise UsageError(f"There is no mode {self.mode!r} of recognition; use one of {', '.join(MODES)}.")


AS_NEEDED = Recognition()
