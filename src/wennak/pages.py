"""Page choices such as "1-3,7", "last", or "found:balance sheet"."""

from __future__ import annotations

import re
from collections.abc import Callable

from .errors import MissingPage, UsageError

_PART = re.compile(r"^(\d+|last)(?:\s*-\s*(\d+|last))?$")


# What a choice begins with that means the pages where a phrase stands.
FOUND = "found:"


def check_pages(spec: str) -> None:
    """Raise UsageError if `spec` can be no choice of pages, whatever the document."""
    if spec.startswith(FOUND):
        _phrase(spec)
    else:
        page_numbers(spec, 10**9)


def page_numbers(
    spec: str | None, count: int, name: str = "The document", text: Callable[[int], str] | None = None
) -> list[int]:
    """Return the page numbers (from 1) that `spec` chooses of `count` pages, in order, each once.

    `spec` is a list of numbers and ranges with commas between; "last" is the last page; "found:" and a phrase
    are the pages where that stands, for which `text` gives the text of a page; None is every page.
    Raises UsageError if it cannot be understood, MissingPage if it names a page that does not exist, or a
    phrase that stands nowhere.
    """
    if spec is None:
        return list(range(1, count + 1))
    if spec.startswith(FOUND):
        phrase = _phrase(spec)
        if text is None:
            raise UsageError(f"{spec!r} cannot be used here; name pages by their numbers.")
        from .phrases import stands

        found = [number for number in range(1, count + 1) if stands(phrase, text(number))]
        if not found:
            raise MissingPage(f"{name} says {phrase!r} on no page.")
        return found
    chosen: set[int] = set()
    for part in spec.split(","):
        match = _PART.match(part.strip())
        if not match:
            raise UsageError(f"{spec!r} is no choice of pages; write it like 1-3,7 or last.")
        first, last = (count if v == "last" else int(v) for v in (match[1], match[2] or match[1]))
        for number in (first, last):
            if not 1 <= number <= count:
                pages = "1 page" if count == 1 else f"{count} pages"
                raise MissingPage(f"{name} has {pages}, so there is no page {number}.")
        if last < first:
            raise UsageError(f"{spec!r} runs backwards; write the lower page first.")
        chosen.update(range(first, last + 1))
    return sorted(chosen)


def _phrase(spec: str) -> str:
    from .phrases import has_words

    phrase = spec.removeprefix(FOUND).strip()
    if not has_words(phrase):
        raise UsageError(f"{spec!r} names no phrase; write it like found:balance sheet.")
    return phrase
