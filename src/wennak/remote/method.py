"""The method `remote`: what a service answered of each page, grounded, as tables."""

from __future__ import annotations

from collections.abc import Mapping

from ..layout import PageLayout
from ..tables import Method, TableDraft
from .ask import Page
from .ground import ground

# So many texts and lines are named in a finding.
NAMED = 3
UNANSWERED, UNGROUNDED, LOST, PEELED = "no-answer", "ungrounded", "lost-lines", "answer-peeled"


def remote_method(pages: Mapping[int, Page]) -> Method:
    """Return the method that reads a page as it was answered; findings say what was wrong with that."""

    def read(layout: PageLayout) -> list[TableDraft]:
        page = pages.get(layout.number)
        if page is None or page.why:
            said = page.why if page is not None else "it was not asked about"
            layout.findings.append((UNANSWERED, f"there is no answer for page {layout.number}: {said}"))
            return []
        if page.peeled:
            said = f"there was text around the answer for page {layout.number}, which was left out"
            layout.findings.append((PEELED, said))
        return _grounded(layout, page)

    return read


def _grounded(layout: PageLayout, page: Page) -> list[TableDraft]:
    ungrounded: list[str] = []
    lost: list[str] = []
    found = ground(layout, page.tables)
    for number, one in enumerate(found, start=1):
        ungrounded += [f'"{text}" (table {number}, row {r}, column {c})' for r, c, text in one.ungrounded]
        lost += [f'"{line}"' for line in one.lost]
    if ungrounded:
        said = f"texts of the answer for page {layout.number} that do not stand there: {len(ungrounded)}"
        layout.findings.append((UNGROUNDED, f"{said}, left out: {_some(ungrounded)}"))
    if lost:
        said = f"lines within tables of page {layout.number} that are in no row of the answer: {len(lost)}"
        layout.findings.append((LOST, f"{said}, such as {_some(lost)}"))
    return [one.draft for one in found if one.draft is not None]


def _some(texts: list[str]) -> str:
    more = f" and {len(texts) - NAMED} more" if len(texts) > NAMED else ""
    return ", ".join(texts[:NAMED]) + more
