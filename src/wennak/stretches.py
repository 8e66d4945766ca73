"""Stretches of pages: read apart, by one process or several, and joined into what one reading would give."""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Collection, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from math import nan
from statistics import fmean
from types import MappingProxyType

import numpy as np

from .errors import own_error
from .ink import Bools, PageInk, PdfFile
from .layout import (
    Line,
    PageItems,
    PageLayout,
    RunningKey,
    TableMark,
    find_figures,
    flow,
    lay_out,
    raised_ends,
    repeatable,
    zones_around,
)
from .model import Finding, PageSize, Table
from .tables import (
    LookAhead,
    Method,
    Near,
    Part,
    TableDraft,
    attach_captions,
    begun,
    confidences,
    continues,
    finished,
    follows,
    fonts_of,
    is_right_below,
    is_sentence,
    label_below,
    left_over,
    repeats_head,
    rows_above,
    text_columns,
    with_same_columns,
    without_text_below,
    without_title,
)

# A heavy line larger than the text by this factor and this near (em) to a table heads it, even where running
# heads stand.
LARGER = 1.05
NEAR = 1.6
# Running heads and feet stand in this share of the height at either end of a page.
MARGIN = 0.1
# Running heads and feet have fewer lines: of what stands around a table no more is kept.
RUNNING = 6
# What stands above a table and below it, nearest first, and the lines at the ends of its page.
Around = tuple[list[Near], list[Near], frozenset[RunningKey]]

# So many rows at the top of a column may be read before the table that goes on with them.
FEW = 2


@dataclass(slots=True, eq=False)
class Placed:
    """A draft, its number on the page, its page, and the table that it gives."""

    index: int
    draft: TableDraft
    layout: PageLayout
    part: Part

    def read_as(self, draft: TableDraft) -> Placed:
        """Return the same with another draft."""
        if draft is self.draft:
            return self
        return Placed(self.index, draft, self.layout, _part(draft, self.layout, self.around))

    @property
    def around(self) -> Around:
        """What stands above and below it, and at the ends of its page."""
        return self.part.above, self.part.below, self.part.ends

    def readings(self) -> list[Placed]:
        """Return the same in the ways it may be read where a table goes on: as it is, as this program reads
        it where a service was asked, and by the ink alone where tags say what it is.
        """
        others = [self.draft.own] if self.draft.own else []
        others += self.draft.alternatives[:1] if self.draft.method == "tagged" else []
        return [self, *(self.read_as(replace(other, caption=self.draft.caption)) for other in others)]


@dataclass(slots=True, eq=False)
class Page:
    """A page with the drafts of its tables, in their order, what stands on it around them, and where these
    stand.
    """

    ink: PageInk
    layout: PageLayout
    drafts: list[TableDraft]
    items: PageItems
    placed: list[Placed]


@dataclass(slots=True)
class Stretch:
    """What stands on some pages of a document, in order: sizes, findings, items, and the parts of tables with
    the page and the number on it of each.

    `first` is its first page as it is by itself, `end` its last one, and `until` the tables that may go on
    there; `last` are the tables of its last page that do not go on yet, with their number among the parts;
    `before` is what tables before it became, numbered backwards from -1, where one of this stretch shows how
    to read them; `inks` are pages that took long to recognise, kept by whoever may have to read the stretch
    again.
    """

    pages: list[PageSize] = field(default_factory=list)
    findings: list[Finding] = field(default_factory=list)
    items: list[PageItems] = field(default_factory=list)
    parts: list[Part] = field(default_factory=list)
    marks: list[tuple[int, int]] = field(default_factory=list)
    first: Page | None = None
    end: Page | None = None
    until: dict[int, Placed] = field(default_factory=dict)
    last: dict[int, Placed] = field(default_factory=dict)
    before: dict[int, Part] = field(default_factory=dict)
    inks: dict[int, PageInk] = field(default_factory=dict)


def read_stretch(
    pdf: PdfFile,
    inks: Iterable[PageInk],
    reader: Method | LookAhead,
    before: Mapping[int, Placed] = MappingProxyType({}),
    enough: Callable[[], bool] = lambda: False,
) -> Stretch:
    """Read pages that follow each other; `before` are the tables of the page before, numbered backwards from
    -1.

    Reading stops behind the first page after which there is `enough`; `pages` of the stretch tell how far it
    went.
    """
    out = Stretch(last=dict(before))
    for ink, layout, found in _drafted(inks, reader):
        page = _read_page(ink, layout, _captioned(layout, found))
        page = _with_begun(page, page.placed)
        width, height = round(ink.width, 2), round(ink.height, 2)
        label = pdf.page_label(ink.number)
        out.pages.append(PageSize(ink.number, width, height, label, ink.source, ink.turned))
        notes = [*ink.notes, *layout.findings]
        out.findings += [Finding(code, message, ink.number) for code, message in notes]
        _end_again(out, page)
        out.first = out.first or page
        _add(out, page)
        if enough():
            break
    return out


def _add(out: Stretch, page: Page) -> None:
    """Put what stands on the next page behind the rest of a stretch."""
    out.until = {k: p for k, p in out.last.items() if p.part.page == page.ink.number - 1}
    page = _with_left_over(out.until.values(), page)
    going_on = dict(out.until)
    out.end = page
    out.items.append(page.items)
    for placed in _in_order(page.placed):
        for k, earlier in reversed(going_on.items()):
            pair = _going_on(earlier, placed)
            if pair is not None:
                earlier, placed = pair
                if k >= 0:
                    out.parts[k] = earlier.part
                elif earlier is not going_on[k]:
                    out.before[k] = earlier.part
                del going_on[k]
                break
        going_on[len(out.parts)] = placed
        out.parts.append(placed.part)
        out.marks.append((page.ink.number, placed.index))
    out.last = {k: p for k, p in going_on.items() if p.part.page == page.ink.number}


def _in_order(placed: Sequence[Placed]) -> list[Placed]:
    """The tables of a page, a row or two at the top of a column behind the table that goes on with them:
    they may be read before what stands beside them.
    """
    out: list[Placed] = []
    for k, one in enumerate(placed):
        few = one.part.table.rows <= FEW
        if not few or not any(
            a.part.box.x1 <= one.part.box.x0 and _going_on(a, one) for a in placed[k + 1 :]
        ):
            out += [one, *(b for b in placed[:k] if b not in out and _going_on(one, b))]
    return out + [one for one in placed if one not in out]


def _end_again(out: Stretch, page: Page) -> None:
    """Where the tables of the next page begin at the foot of the last one of a stretch, read that again."""
    if out.end is None or out.end.ink.number != page.ink.number - 1:
        return
    again = _with_begun(out.end, page.placed)
    if again is not out.end:
        number = out.end.ink.number
        kept = sum(marked != number for marked, _ in out.marks)
        del out.items[-1], out.parts[kept:], out.marks[kept:]
        out.last = out.until
        _add(out, again)


def joined_stretches(
    stretches: Iterable[Stretch], read_again: Callable[[Stretch, Mapping[int, Placed]], Stretch]
) -> Stretch:
    """Join stretches that follow each other into the one that reading all their pages at once gives.

    Where a table goes on over a seam, and one of its parts is to be read in another way than by itself,
    `read_again` reads the pages of the later stretch with the last tables before them.
    """
    out = Stretch()
    for stretch in stretches:
        if stretch.first:
            _end_again(out, stretch.first)
        if stretch.first and _reaches_into(out.last.values(), stretch.first):
            stretch = read_again(stretch, {k - len(out.parts): placed for k, placed in out.last.items()})
        for k, part in stretch.before.items():
            out.parts[k] = part
        out.last = {k + len(out.parts): placed for k, placed in stretch.last.items()}
        out.until = {k + len(out.parts): placed for k, placed in stretch.until.items()}
        out.end = stretch.end
        out.pages += stretch.pages
        out.findings += stretch.findings
        out.items += stretch.items
        out.parts += stretch.parts
        out.marks += stretch.marks
    return out


def _reaches_into(earlier: Collection[Placed], page: Page) -> bool:
    """Whether a table before a page goes on there in such a way that either is to be read in another way than
    by itself.
    """
    pairs = [(last, first) for last in earlier for first in page.placed]
    changed = any(_going_on(*pair) not in (None, pair) for pair in pairs)
    return changed or _with_left_over(earlier, page, itself=False) is not page


def _with_begun(page: Page, later: Iterable[Placed]) -> Page:
    """Return a page where rows at its foot, or at that of a column, with which tables begin that stand on the
    next page, or further on here, are read as tables.
    """
    for first in later:
        page = _with_label_below(page, first)
        first = _again(page, first)
        if any(_going_on(last, first) for last in page.placed if last is not first):
            continue
        rows = begun(page.layout, _taken(page.layout, page.drafts), first.draft, first.part, first.layout)
        if rows is None:
            continue
        again, last = _with_rows(page, rows)
        if _going_on(last, _again(again, first)):
            attach_captions(page.layout, again.drafts)
            page = _read_page(page.ink, page.layout, again.drafts)
    return page


def _with_label_below(page: Page, first: Placed) -> Page:
    """Return a page where a label below a table of it is its last row, if another table goes on with it
    then.
    """
    for last in page.placed:
        rows = label_below(page.layout, _taken(page.layout, page.drafts), last.draft, last.part)
        if rows is not None and last.draft is not first.draft:
            again, placed = _with_rows(page, rows, last.draft)
            if _going_on(placed, _again(again, first)):
                return again
    return page


def _with_left_over(earlier: Iterable[Placed], page: Page, itself: bool = True) -> Page:
    """Return a page where rows at its top that go on with a table before it are read as a table, and
    (`itself`) those at the top of a column that go on with one of its own.
    """
    for last in [*earlier, *(page.placed if itself else ())]:
        if last.part.page < page.ink.number and any(near.key is None for near in last.part.below):
            # Below it stands what is no running foot.
            continue
        others = [placed for placed in page.placed if placed is not last]
        going_on = (p for p in others if _going_on(last, p) and not _is_further(page, p, last))
        on = next(going_on, None)
        tried = (_with_rows_above(page, last, first) for first in ([on] if on else others))
        if (with_rows := next((again for again in tried if again is not page), None)) is not None:
            page = with_rows
            continue
        if on is not None:
            continue
        rows = left_over(page.layout, _taken(page.layout, page.drafts), last.draft, last.part, last.layout)
        if rows is None:
            continue
        again, first = _with_rows(page, rows)
        if _going_on(_again(again, last), first):
            page = again
    return page


def _with_rows_above(page: Page, last: Placed, first: Placed) -> Page:
    """Return a page where the rows that stand above a table of it are read as its first ones, if it goes on
    with them from another page.
    """
    rows = rows_above(page.layout, _taken(page.layout, page.drafts), last.part, first.draft, first.part)
    if rows is None:
        return page
    again, placed = _with_rows(page, rows, first.draft)
    return again if _going_on(last, placed) else page


def _is_further(page: Page, placed: Placed, last: Placed) -> bool:
    """Whether a table of a page goes on from another one there than from `last`: in the next column."""
    return any(_going_on(other, placed) for other in page.placed if other not in (placed, last))


def _with_rows(page: Page, rows: TableDraft, instead: TableDraft | None = None) -> tuple[Page, Placed]:
    """A page read with one table more, or `instead` of another, and that table on it."""
    if instead is None:
        drafts = [*page.drafts, rows]
    else:
        drafts = [rows if draft is instead else draft for draft in page.drafts]
    again = _read_page(page.ink, page.layout, drafts)
    (placed,) = (p for p in again.placed if p.draft is rows)
    return again, placed


def _again(page: Page, placed: Placed) -> Placed:
    """A table as it is placed on a page that was read again; as it was, where it stands on another one."""
    return next((p for p in page.placed if p.draft is placed.draft), placed)


def _going_on(last: Placed, first: Placed) -> tuple[Placed, Placed] | None:
    """Two parts of one table, read so that one goes on with the other; None where they are no such parts."""
    if not follows(last.part, first.part):
        return None
    if last.part.origin >= 0 and last.part.origin == first.part.origin:
        return last, first
    for a in last.readings():
        for b in first.readings():
            for pair in _with_same_columns(a, b):
                if continues(pair[0].part, pair[1].part):
                    return pair
    return None


def _with_same_columns(last: Placed, first: Placed) -> Iterator[tuple[Placed, Placed]]:
    if is_right_below(last.part, first.part):
        # There what has other columns is another table.
        yield last, first
        return
    picture = last.part.picture and first.part.picture
    repeats = repeats_head(last.part.table, first.part.table, picture)
    for one, other in with_same_columns(last.draft, first.draft, last.layout, first.layout, repeats):
        yield last.read_as(one), first.read_as(other)


def _drafted(
    inks: Iterable[PageInk], reader: Method | LookAhead
) -> Iterator[tuple[PageInk, PageLayout, list[TableDraft]]]:
    """Each page with its layout and the drafts of its tables; of a method that looks ahead, some pages are
    begun before the first is done.
    """
    if not isinstance(reader, LookAhead):
        for ink in inks:
            layout = lay_out(ink)
            yield ink, layout, _read_by(reader, layout)
        return
    begun: deque[tuple[PageInk, PageLayout, Callable[[], list[TableDraft]]]] = deque()
    for ink in inks:
        layout = lay_out(ink)
        begun.append((ink, layout, reader.begin(layout)))
        if len(begun) > reader.pages:
            ink, layout, wait = begun.popleft()
            yield ink, layout, wait()
    for ink, layout, wait in begun:
        yield ink, layout, wait()


def _read_by(reader: Method, layout: PageLayout) -> list[TableDraft]:
    """The tables of a page: an error that costs them costs no more of a document."""
    try:
        return reader(layout)
    except Exception as error:
        layout.findings.append(own_error(error, f"the tables of page {layout.ink.number} were left as text"))
        return []


def read_page(ink: PageInk, reader: Method) -> Page:
    """Read one page by itself."""
    layout = lay_out(ink)
    return _read_page(ink, layout, _captioned(layout, reader(layout)))


def _captioned(layout: PageLayout, found: Iterable[TableDraft]) -> list[TableDraft]:
    own = (without_text_below(layout, without_title(layout, draft)) for draft in found)
    drafts = sorted(own, key=lambda d: (d.box.y0, d.box.x0))
    attach_captions(layout, drafts)
    return drafts


def _taken(layout: PageLayout, drafts: Iterable[TableDraft]) -> Bools:
    """Which words of a page stand in tables and their captions."""
    taken = np.zeros(len(layout.words), dtype=np.bool_)
    for draft in drafts:
        taken[draft.word_indices()] = True
    return taken


def _read_page(ink: PageInk, layout: PageLayout, drafts: list[TableDraft]) -> Page:
    """What stands on a page in reading order around its tables, and these in theirs."""
    taken = _taken(layout, drafts)
    fields = [area for area in layout.fields if not taken[area.words].any()]
    for area in fields:
        taken[area.words] = True
    figures = find_figures(layout, [draft.box for draft in drafts], taken)
    tables = [(draft.box, draft.word_indices()) for draft in drafts]
    blocks = [*tables, *((f.box, f.words) for f in figures)]
    captions = [np.array(draft.caption) for draft in drafts if draft.caption]
    blocks += [(layout.box(words), words) for words in captions]
    # Without tables and figures the zones are those that the page has.
    around = replace(layout, zones=zones_around(layout, blocks, known=True)) if blocks else layout
    found = flow(around, taken, tables, figures, fields)
    sideways, raised = bool(layout.turns % 2), raised_ends(layout.words)
    items = PageItems(ink.number, layout.width, layout.height, found, layout.em, sideways, raised)
    return Page(ink, layout, drafts, items, list(_placed(drafts, layout, items)))


def _placed(drafts: list[TableDraft], layout: PageLayout, items: PageItems) -> Iterator[Placed]:
    """The tables of a page in reading order, with what tells whether they continue over its ends."""
    lines = [item for item in items.items if isinstance(item, Line)]
    margin = MARGIN * layout.height
    keys = repeatable(lines, layout.height)
    for mark in (item for item in items.items if isinstance(item, TableMark)):
        draft = drafts[mark.index]
        box = draft.box
        beside = [d.box for d in drafts if d is not draft]
        # Notes at the foot are set smaller than the text; they end no table.
        texts = [line for line in lines if line.size > 0.95 * layout.em or line.box.y1 < box.y0 + 2]
        near = [Near(line.box, keys.get(id(line))) for line in texts] + [Near(b) for b in beside]
        near = [n for n in near if n.box.x0 < box.x1 and n.box.x1 > box.x0]
        heads = [
            line.box
            for line in lines
            if line.bold
            and line.size > LARGER * layout.em
            and box.y0 - line.box.y1 < NEAR * line.size
            and line.box.x0 > box.x0 - line.size
            and line.box.x1 < box.x1 + line.size
        ]
        # No running heads, wherever they stand; nor is a sentence in the text right below it.
        said = [
            line.box for line in texts
            if is_sentence(line.text) and -2 < line.box.y0 - box.y1 < NEAR * line.size
        ]  # fmt: skip
        sure = [*heads, *beside, *said]
        above = [n for n in near if n.box.y1 < box.y0 + 2 and (n.box.y0 > margin or n.box in sure)]
        foot = layout.height - margin
        below = [n for n in near if n.box.y0 > box.y1 - 2 and (n.box.y1 < foot or n.box in sure)]
        above.sort(key=lambda n: -n.box.y1)
        below.sort(key=lambda n: n.box.y0)
        around = above[:RUNNING], below[:RUNNING], frozenset(keys.values())
        yield Placed(mark.index, draft, layout, _part(draft, layout, around))


def _part(draft: TableDraft, layout: PageLayout, around: Around) -> Part:
    """The part of a table that a draft is, with what stands around it."""
    above, below, ends = around
    box = draft.box
    table = table_of(draft, layout)
    others = [table_of(other, layout) for other in draft.alternatives]
    table.alternatives = [other for other in others if _said(other) != _said(table)]
    return Part(
        table=table,
        page=layout.number,
        box=box,
        columns=text_columns(layout, draft),
        edges=[(x - box.x0) / max(box.x1 - box.x0, 1.0) for x in draft.column_edges],
        above=above,
        below=below,
        room=(1 - MARGIN) * layout.height - box.y1,
        ends=ends,
        caption_below=any(layout.words.y0[i] > box.y1 - 2 for i in draft.caption),
        picture=layout.ink.source == "picture",
        italic=_italic(draft, layout),
        heads=fonts_of(layout, [i for c in draft.cells if c.row < draft.header_rows for i in c.words]),
        rows=fonts_of(layout, [i for c in draft.cells if c.row >= draft.header_rows for i in c.words]),
        origin=draft.origin,
        row_elements=draft.row_elements,
        cell_elements={(c.row, c.column): c.element for c in draft.cells},
    )


def _italic(draft: TableDraft, layout: PageLayout) -> float:
    """The share of the words of two or more labels of rows that is in italics."""
    labels = [c.words for c in draft.cells if c.column == 0 and c.row >= draft.header_rows and c.words]
    if len(labels) < 2:
        return nan
    return fmean(layout.ink.fonts[layout.words.font[i]].italic for words in labels for i in words)


def table_of(draft: TableDraft, layout: PageLayout) -> Table:
    """The table that a draft is, with the confidence of its cells."""
    return finished(draft, layout, confidences(layout, draft).tolist())


def _said(table: Table) -> set[tuple[int, int, int, int, str]]:
    """What a reading says: each text with its place and extent in the grid."""
    return {(c.row, c.column, c.rowspan, c.colspan, c.text) for c in table.cells if c.text}
