"""What the table of a recipe looks like, and what has moved since."""

from __future__ import annotations

from ..model import Document, PageSize, Table
from ..phrases import label_likeness, matched
from .model import Layout, size_of
from .where import SAME_SIZE

# A column has moved where both its edges lie farther from where they were than this (per cent of the width of
# the page): texts of other lengths move the one that they are not aligned to.
MOVED = 2.0


def layout_of(table: Table, document: Document) -> Layout:
    """Return what a table looks like: its headers, and where its columns lie."""
    page = _page_of(table, document)
    spans = _spans(table, page.width)
    return Layout(
        page_size=f"{page.width:.0f} x {page.height:.0f}",
        headers=tuple(table.header_labels()),
        columns=tuple(f"{low:.1f}-{high:.1f}" for low, high in spans),
    )


def moved(layout: Layout, table: Table, document: Document) -> list[str]:
    """Return what is not where or what it was when a layout was noted, a sentence each, with by how much."""
    out = []
    page = _page_of(table, document)
    width, height = size_of(layout.page_size)
    if max(abs(page.width - width), abs(page.height - height)) > SAME_SIZE:
        out.append(f"the page is {page.width:.0f} x {page.height:.0f} pt, was {layout.page_size}")
    labels = table.header_labels()
    matches = matched([[header] for header in layout.headers], labels)
    taken = {m.found for m in matches}
    spans = _spans(table, page.width)
    for k, (header, match) in enumerate(zip(layout.headers, matches, strict=True)):
        before = tuple(float(edge) for edge in layout.columns[k].rsplit("-", 1))
        if match.found is None:
            # Another header at its place is its new name.
            heir = next(
                (j for j, span in enumerate(spans) if j not in taken and not _apart(before, span)), None
            )
            if heir is None:
                out.append(f"the column {header!r} is gone")
                continue
            taken.add(heir)
            alike = label_likeness(header, labels[heir])
            out.append(f"the header {header!r} is now {labels[heir]!r} ({alike:.2f} alike)")
            continue
        found = match.found
        if labels[found] != header:
            out.append(f"the header {header!r} is now {labels[found]!r} ({match.score:.2f} alike)")
        if by := _apart(before, spans[found]):
            points = by * page.width / 100
            out.append(f"the column {labels[found]!r} stands {abs(points):.0f} pt farther {_side(by)}")
    out += [f"the column {label!r} is new" for j, label in enumerate(labels) if j not in taken]
    order = [m.found for m in matches if m.found is not None]
    if order != sorted(order):
        out.append("the columns stand in another order")
    return out


def _side(by: float) -> str:
    return "right" if by > 0 else "left"


def _apart(before: tuple[float, ...], now: tuple[float, float]) -> float:
    """How far a column has moved, by the edge that moved less; 0 where that is within the room for it."""
    edges = [new - old for old, new in zip(before, now, strict=True)]
    least = min(edges, key=abs)
    return least if abs(least) > MOVED else 0.0


def _page_of(table: Table, document: Document) -> PageSize:
    number = table.places[0].page if table.places else 0
    return next((page for page in document.pages if page.number == number), PageSize(number, 612.0, 792.0))


def _spans(table: Table, width: float) -> list[tuple[float, float]]:
    """Left and right edge of what stands in each column, in per cent of the width of the page."""
    out = []
    for k in range(table.columns):
        own = [c for c in table.cells if c.column == k and c.colspan == 1 and c.text]
        # A label alone in its row runs over other columns.
        beside = [c for c in own if any(d.row == c.row and d is not c and d.text for d in table.cells)]
        boxes = [place.box for c in beside or own for place in c.places]
        if boxes:
            out.append((min(b.x0 for b in boxes) / width * 100, max(b.x1 for b in boxes) / width * 100))
        else:
            out.append((0.0, 100.0))
    return out
