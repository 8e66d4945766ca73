"""Page choices such as "1-3,7" or "last"."""

from __future__ import annotations

import re

from .errors import MissingPage, UsageError

_PART = re.compile(r"^(\d+|last)(?:\s*-\s*(\d+|last))?$")


def page_numbers(spec: str | None, count: int, name: str = "The document") -> list[int]:
    """Return the page numbers (from 1) that `spec` chooses of `count` pages, in order, each once.

    `spec` is a list of numbers and ranges with commas between; "last" is the last page; None is every page.
    Raises UsageError if it cannot be understood, MissingPage if it names a page that does not exist.
    """
    if spec is None:
        return list(range(1, count + 1))
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
