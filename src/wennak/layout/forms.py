"""Fields of interactive forms: what the file says was filled in, against what is drawn."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from ..ink import Bools, Floats, Ints
from ..model import Box
from .page import FieldArea, PageLayout

# A label ends at most this far (em) before its field, or begins so far behind a check box.
REACH = 12.0
BOX_REACH = 2.5
# A gap this wide (em) parts a label from other text.
GAP = 2.5


def form_fields(layout: PageLayout) -> list[FieldArea]:
    """Return the fields of the form of a page that have a label beside them.

    Where the form holds another value than is drawn, that one counts, and a finding says so.
    """
    return list(_areas(layout))


def _areas(layout: PageLayout) -> Iterator[FieldArea]:
    w = layout.words
    for entry in layout.ink.form:
        box = layout.seen_box(Box(*entry.rectangle))
        inside = np.flatnonzero(_within((w.x0 + w.x1) / 2, (w.y0 + w.y1) / 2, box))
        level = (w.y0 < box.y1) & (w.y1 > box.y0) & ~w.turned
        level[inside] = False
        label = _before(layout, box, level) if entry.checked is None else _behind(layout, box, level)
        texts = [w.texts[i] for i in inside.tolist()]
        drawn = " ".join(texts)
        # Fields with a box for each letter, and such that wrap, part words otherwise.
        differs = entry.checked is None and "".join(drawn.split()) != "".join(entry.value.split())
        if differs:
            name = " ".join(w.texts[i] for i in label.tolist()) or entry.name
            shown = f'"{drawn}" is drawn' if drawn else "nothing is drawn"
            said = f'in "{name}" on page {layout.number} {shown}, but the form holds "{entry.value}"'
            layout.findings.append(("form-value", f"{said}, which counts"))
        if len(label):
            none = np.empty(0, dtype=np.int64)
            around = Box.around([box, layout.box(label)])
            words = np.sort(np.concatenate((label, inside)))
            value = inside if entry.checked is None else none
            yield FieldArea(around, words, label, value, entry.checked, entry.value if differs else None)


def _within(x: Floats, y: Floats, box: Box) -> Bools:
    inside: Bools = (x > box.x0) & (x < box.x1) & (y > box.y0) & (y < box.y1)
    return inside


def _before(layout: PageLayout, box: Box, level: Bools) -> Ints:
    """The words that end before a field on its line, back to the first wide gap."""
    w, em = layout.words, layout.em
    beside = np.flatnonzero(level & (w.x1 < box.x0 + 0.2 * em))
    beside = beside[np.argsort(-w.x1[beside], kind="stable")]
    out: list[int] = []
    reach, room = box.x0, REACH * em
    for i in beside.tolist():
        if reach - w.x1[i] > room:
            break
        out.append(i)
        reach, room = float(w.x0[i]), GAP * em
    return np.array(out[::-1], dtype=np.int64)


def _behind(layout: PageLayout, box: Box, level: Bools) -> Ints:
    """The words that follow a check box on its line, up to the first wide gap."""
    w, em = layout.words, layout.em
    beside = np.flatnonzero(level & (w.x0 > box.x1 - 0.2 * em))
    beside = beside[np.argsort(w.x0[beside], kind="stable")]
    out: list[int] = []
    reach, room = box.x1, BOX_REACH * em
    for i in beside.tolist():
        if w.x0[i] - reach > room:
            break
        out.append(i)
        reach, room = float(w.x1[i]), GAP * em
    return np.array(out, dtype=np.int64)
