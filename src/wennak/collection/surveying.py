"""What lies in a collection, before any converting: a look at a few pages of each document."""

from __future__ import annotations

import time
import unicodedata
from collections import Counter, defaultdict
from collections.abc import Iterable, Mapping, Sequence
from concurrent.futures import Executor
from dataclasses import dataclass, field, replace
from pathlib import Path

import numpy as np

from ..emit import SurveyRow, SurveyTotals
from ..errors import DamagedPdf, LockedPdf, NotPdf, WennakError
from ..ink import PageInk, PdfFile
from ..intake import LIMITS, Limits, Named, content_hash
from ..layout import lay_out
from ..pipeline import opened
from ..scan import PageKind, installed_languages, seen_kind
from ..stretches import read_page
from ..tables import find_method
from .glance import table_kinds
from .streaming import in_order

# Of each document so many pages are looked at, and one more for so many that it has, spread over it.
LOOKED, MORE = 4, 24
# On one in so many documents, and on all with so many pages, the tables of a page are read, which tells how
# sure reading is there, and how long it takes.
EVERY, LONG = 32, 48
# Tables that are read less surely than this are hard.
HARD = 0.8
# Where fewer pages were read to their end, that takes so many times as long as looking at them; a page that
# is a picture takes so many seconds.
FEW, REST, PICTURE = 3, 5.0, 5.0
_ADVICE = {
    PageKind.PICTURE: "scanned: its pages will be recognised",
    PageKind.LAYERED: "scanned, with a text layer: it is compared with the picture",
    PageKind.MIXED: "pictures of text on its pages will be recognised",
    PageKind.NAMELESS: "fonts without Unicode: told by their shapes; look at a page",
}


@dataclass(frozen=True, slots=True)
class Survey:
    """What a survey found: a row for each document, and the totals."""

    rows: list[SurveyRow] = field(default_factory=list)
    totals: SurveyTotals = SurveyTotals()  # noqa: RUF009


def survey(
    sources: Named | Iterable[Named], workers: int | Executor = 1, password: str = "", limits: Limits = LIMITS
) -> Survey:
    """Look over a collection without converting it: pages and their kinds, tables and how hard they are, what
    is locked, damaged or there twice, and what to do about it.

    `sources` and `workers` are those of `convert`. Of long documents a few pages are looked at; `looked` says
    how many. Tables are guessed from words and rules; how sure they are read is measured on some pages.
    """
    rows: list[SurveyRow] = []
    first: dict[str, str] = {}
    for source, answer in in_order(sources, look_over, (password,), workers, limits):
        if isinstance(answer, WennakError):
            rows.append(
                SurveyRow(
                    source.name, state=_state(answer), advice=str(answer).removeprefix(source.name).strip()
                )
            )
            continue
        row, content = answer
        twin = first.setdefault(content, source.name)
        if twin != source.name:
            row = replace(row, same_as=twin, advice=f"the same content as {twin}; it is converted once")
        rows.append(row)
    return Survey(rows, totals(rows, workers if isinstance(workers, int) else 1))


def _state(error: WennakError) -> str:
    kinds = {LockedPdf: "locked", DamagedPdf: "damaged", NotPdf: "not a PDF"}
    return next((state for kind, state in kinds.items() if isinstance(error, kind)), "cannot be read")


def look_over(name: str, path: Path, password: str) -> tuple[SurveyRow, str]:
    """Look at a file; returns its row and the hash of its content."""
    begun = time.perf_counter()
    content = content_hash(path)
    name, data = opened(path, name)
    with PdfFile(data, name, password) as pdf:
        numbers = spread(pdf.page_count)
        kinds: defaultdict[str, float] = defaultdict(float)
        tables: defaultdict[str, float] = defaultdict(float)
        letters: Counter[str] = Counter()
        pictures, likely, broken = 0.0, 0, False
        for ink in pdf.pages(numbers):
            # A first page is a cover as often as not; each of the others stands for some more.
            weight = 1.0 if ink.number == 1 else (pdf.page_count - 1) / (len(numbers) - 1)
            kinds[seen_kind(pdf, ink).value] += weight
            pictures += weight * int(ink.pictures.visible.sum())
            broken |= any(code in ("broken-page", "broken-stream") for code, _ in ink.notes)
            letters.update(_scripts(ink))
            found = table_kinds(lay_out(ink)) if len(ink.glyphs) else []
            for kind in found:
                tables[kind] += weight
            likely = likely or (ink.number if found else 0)
        looking = (time.perf_counter() - begun) / len(numbers)
        confidence, seconds = None, 0.0
        if likely and (pdf.page_count >= LONG or int(content[:8], 16) % EVERY == 0):
            confidence, seconds = _read(pdf, likely)
        return (
            SurveyRow(
                name, "damaged" if broken else "ok", pdf.page_count, len(numbers),
                _whole(kinds, pdf.page_count), pdf.structure is not None, pdf.producer, pdf.language,
                letters.most_common(1)[0][0] if letters else "", _whole(tables), confidence,
                round(pictures), "", _advice(kinds, broken, confidence), round(looking, 5), round(seconds, 5),
            ),
            content,
        )  # fmt: skip


def spread(pages: int) -> list[int]:
    """Return the numbers of the pages that are looked at: all of a few, else some from first to last."""
    count = min(pages, LOOKED + pages // MORE)
    return sorted({round(k) for k in np.linspace(1, pages, count).tolist()})


def _whole(shares: Mapping[str, float], total: int = 0) -> dict[str, int]:
    """Counts as whole numbers, which sum to a total where there is one."""
    counts = {name: round(share) for name, share in sorted(shares.items())}
    if total and counts:
        most = max(counts, key=lambda name: counts[name])
        counts[most] += total - sum(counts.values())
    return {name: n for name, n in counts.items() if n}


def _read(pdf: PdfFile, number: int) -> tuple[float | None, float]:
    """How sure the tables of a page are read, and how long that takes (s)."""
    begun = time.perf_counter()
    drafts = read_page(pdf.page(number), find_method("combined")).drafts
    gains = [draft.gain for draft in drafts]
    return (round(float(np.mean(gains)), 3) if gains else None), time.perf_counter() - begun


def _scripts(ink: PageInk) -> Counter[str]:
    """Letters of a page by script."""
    texts, counts = np.unique(ink.glyphs.text, return_counts=True)
    found: Counter[str] = Counter()
    for text, count in zip(texts.tolist(), counts.tolist(), strict=True):
        character = ink.texts.strings[text][:1]
        if character.isalpha():
            found[unicodedata.name(character, "UNKNOWN").split()[0].title()] += count
    return found


def _advice(kinds: Mapping[str, float], broken: bool, confidence: float | None) -> str:
    said = [advice for kind, advice in _ADVICE.items() if kinds.get(kind.value)]
    if kinds.get(PageKind.PICTURE.value) and not installed_languages():
        said = ["scanned: to read its pages: pip install 'wennak[ocr]'", *said[1:]]
    if broken:
        said.append("some of its content is damaged; get it again if you can")
    if confidence is not None and confidence < HARD:
        said.append("hard tables: look at them, or make truth of some")
    return "; ".join(said)


def totals(rows: Sequence[SurveyRow], workers: int) -> SurveyTotals:
    """Add up rows, and estimate how long converting takes with so many workers (s)."""
    kinds: Counter[str] = Counter()
    tables: Counter[str] = Counter()
    read = [row.reading for row in rows if row.reading]
    once = [row for row in rows if not row.same_as]
    seconds = 0.0
    for row in once:
        kinds.update(row.kinds)
        tables.update(row.tables)
        pictured = row.kinds.get(PageKind.PICTURE.value, 0)
        a_page = float(np.median(read)) if len(read) >= FEW else row.looking * REST
        seconds += (row.pages - pictured) * a_page + pictured * PICTURE
    states = Counter(row.state for row in rows)
    sure = [row.confidence for row in rows if row.confidence is not None]
    return SurveyTotals(
        len(rows), sum(row.pages for row in once), dict(kinds.most_common()), dict(sorted(tables.items())),
        round(float(np.mean(sure)), 3) if sure else None, len(sure), sum(bool(row.same_as) for row in rows),
        {state: n for state, n in sorted(states.items()) if state != "ok"}, round(seconds / workers, 1),
    )  # fmt: skip
