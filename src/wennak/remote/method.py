"""Methods that ask a service: `remote`, which takes its tables, and any other one, which has its doubtful
tables answered.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from concurrent.futures import Future
from dataclasses import replace
from itertools import chain

import numpy as np

from ..ink import Bools
from ..layout import PageLayout
from ..model import Box
from ..tables import LookAhead, Method, TableDraft, structure_confidences
from .answer import TextTable, tables_of
from .ask import Answer, Asker
from .complete import complete
from .ground import Grounded, ground

# So many texts and lines are named in a finding.
NAMED = 3
ASKED, UNANSWERED, UNGROUNDED, LOST, PEELED = (
    "asked",
    "no-answer",
    "ungrounded",
    "lost-lines",
    "answer-peeled",
)
# A table whose cells are right with less than this chance, on average, is doubtful.
DOUBT = 0.9
# A region is asked about with a margin of so many em, so that its captions and edges are seen.
MARGIN = 1.5

Asked = Future[Answer[list[TextTable]]]


def remote_method(asker: Asker, regions: Method | None) -> LookAhead:
    """Return the method that reads a page as it was answered; findings say what was wrong with that.

    The whole page is asked about, or each table that the method `regions` finds.
    """

    def begin(layout: PageLayout) -> Callable[[], list[TableDraft]]:
        boxes = [draft.box for draft in regions(layout)] if regions else []
        if regions is None:
            asked = [asker.ask(layout.number, None, tables_of)]
            places = [np.ones(len(layout.words), dtype=np.bool_)]
        else:
            asked = [_ask(asker, layout, box) for box in boxes]
            places = [_within(layout, box) for box in boxes]
        return lambda: _taken(layout, asked, places, asker.asking.keep_ungrounded)

    return LookAhead(begin, asker.asking.at_once)


def hybrid_method(asker: Asker, own: Method) -> LookAhead:
    """Return the method that reads a page by `own` and asks about its doubtful tables.

    The structure that is answered is taken where every word of the table has its place in it.
    """

    def begin(layout: PageLayout) -> Callable[[], list[TableDraft]]:
        drafts = own(layout)
        doubtful = [k for k, draft in enumerate(drafts) if _sure(layout, draft) < DOUBT]
        asked = {k: _ask(asker, layout, drafts[k].box) for k in doubtful}
        return lambda: _improved(layout, drafts, asked)

    return LookAhead(begin, asker.asking.at_once)


def _sure(layout: PageLayout, draft: TableDraft) -> float:
    return float(structure_confidences(layout, draft).mean()) if draft.cells else 1.0


def _ask(asker: Asker, layout: PageLayout, box: Box) -> Asked:
    return asker.ask(layout.number, layout.place(_wider(layout, box)).box, tables_of)


def _wider(layout: PageLayout, box: Box) -> Box:
    by = MARGIN * layout.em
    return Box(
        max(0.0, box.x0 - by), max(0.0, box.y0 - by),
        min(layout.width, box.x1 + by), min(layout.height, box.y1 + by),
    )  # fmt: skip


def _within(layout: PageLayout, box: Box) -> Bools:
    """The words that are seen on the picture of a region."""
    w, b = layout.words, _wider(layout, box)
    inside: Bools = (w.x0 > b.x0) & (w.x1 < b.x1) & (w.y0 > b.y0) & (w.y1 < b.y1)
    return inside


def _taken(
    layout: PageLayout, asked: Sequence[Asked], places: Sequence[Bools], keep: bool
) -> list[TableDraft]:
    """The tables of a page as they were answered, one region after the other."""
    free = np.ones(len(layout.words), dtype=np.bool_)
    found: list[Grounded] = []
    for future, place in zip(asked, places, strict=True):
        answer = _told(layout, future)
        grounded = ground(layout, answer.content or [], place & free, keep)
        for one in grounded:
            if one.draft is not None:
                free[one.draft.word_indices()] = False
        found += grounded
    if asked:
        what = f"{len(asked)} tables of page" if len(places) > 1 else "page"
        _tell_asked(layout, what, asked)
    ungrounded = [
        f'"{text}" (table {number}, row {r}, column {c})'
        for number, one in enumerate(found, start=1)
        for r, c, text in one.ungrounded
    ]
    lost = [f'"{line}"' for line in chain.from_iterable(one.lost for one in found)]
    if ungrounded:
        said = f"texts of the answer for page {layout.number} that do not stand there: {len(ungrounded)}"
        become = "marked" if keep else "left out"
        layout.findings.append((UNGROUNDED, f"{said}, {become}: {_some(ungrounded)}"))
    if lost:
        said = f"lines within tables of page {layout.number} that are in no row of the answer: {len(lost)}"
        layout.findings.append((LOST, f"{said}, such as {_some(lost)}"))
    return [one.draft for one in found if one.draft is not None]


def _improved(layout: PageLayout, drafts: list[TableDraft], asked: dict[int, Asked]) -> list[TableDraft]:
    """The own tables of a page, with the structure that was answered where it holds all their words."""
    out = list(drafts)
    for k, future in asked.items():
        answer = _told(layout, future)
        own = drafts[k]
        others = np.ones(len(layout.words), dtype=np.bool_)
        for other in (d for d in drafts if d is not own):
            others[other.word_indices()] = False
        for one in ground(layout, answer.content or [], _within(layout, own.box) & others):
            draft = complete(layout, one, own.word_indices())
            if draft is not None:
                draft.own = own
                draft.alternatives = [replace(own, alternatives=[]), *own.alternatives]
                out[k] = draft
                break
    if asked:
        taken = sum(a is not b for a, b in zip(out, drafts, strict=True))
        what = f"{len(asked)} of the {len(drafts)} tables of page"
        _tell_asked(layout, what, list(asked.values()), f"; {taken} of the answers hold all its words")
    return out


def _told(layout: PageLayout, future: Asked) -> Answer[list[TextTable]]:
    """What came of asking; a finding says what was wrong with it."""
    answer = future.result()
    if answer.why:
        said = f"there is no answer for page {layout.number}: {answer.why}"
        layout.findings.append((UNANSWERED, said))
    if answer.peeled:
        said = f"there was text around the answer for page {layout.number}, which was left out"
        layout.findings.append((PEELED, said))
    return answer


def _tell_asked(layout: PageLayout, what: str, asked: Sequence[Asked], more: str = "") -> None:
    seconds = sum(future.result().seconds for future in asked)
    said = f"a service was asked about {what} {layout.number}, {seconds:.1f} s{more}"
    layout.findings.append((ASKED, said))


def _some(texts: list[str]) -> str:
    more = f" and {len(texts) - NAMED} more" if len(texts) > NAMED else ""
    return ", ".join(texts[:NAMED]) + more
