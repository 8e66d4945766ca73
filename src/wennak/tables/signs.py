"""Signs that stand in columns of their own, and labels that run out of theirs, go where they belong."""

from __future__ import annotations

from collections.abc import Callable
from itertools import pairwise

from ..layout import PageLayout
from .draft import CellDraft, TableDraft, cells_by_row, plain_text
from .numbers import CURRENCIES, is_given, is_numeric, is_value

# Signs before a number, and after it.
BEFORE = frozenset(("$", "€", "£", "¥", "US$", "CHF", "EUR", "GBP", "USD", "kr", "(", "($", "(€", "(£"))
# A sentence has more blanks than this.
SENTENCE = 3
AFTER = frozenset(("%", ")", ")%", "%)", "*", "†", "‡"))
# Marks of the items of a list, which begin so near after them (em).
MARKS = frozenset("•◦▪‣")
INDENT = 3.0


def join_signs(layout: PageLayout, draft: TableDraft) -> None:
    """Join columns that hold nothing but signs of currencies, per cent or parentheses to the numbers beside
    them.
    """
    if (BEFORE | AFTER).isdisjoint([layout.words.texts[i] for c in draft.cells for i in c.words]):
        return
    hand_over(layout, draft)

    def of_number(_: CellDraft, other: CellDraft) -> bool:
        return is_numeric(plain_text(layout, other.words))

    for column in range(draft.columns - 1, 0, -1):
        for signs, target in ((BEFORE, column + 1), (AFTER, column - 1)):
            if 0 < target < draft.columns and _holds_signs(layout, draft, column, signs, target, of_number):
                _join(layout, draft, min(column, target))
                break
    _hand_over_lone(layout, draft)


def join_labels(layout: PageLayout, draft: TableDraft) -> None:
    """Join columns that hold nothing but labels to the next one, which holds nothing but numbers below these:
    labels may stand off to the left of them.
    """
    for column in range(draft.columns - 2, 0, -1):
        ends = [(c, c.column, c.column + c.colspan - 1) for c in draft.cells if c.words]
        # Labels over both columns tell nothing.
        own = [c for c, first, last in ends if first <= column == last]
        beside = [c for c, first, last in ends if first == column + 1 <= last]
        if not own or not beside or max(c.row for c in own) >= min(c.row for c in beside):
            continue
        labels, values = ([plain_text(layout, c.words) for c in cells] for cells in (own, beside))
        # Signs alone belong to the numbers behind them.
        counted = all(map(is_given, values)) and any(c.isdigit() for text in values for c in text)
        if counted and not any(map(is_value, labels)):
            _join(layout, draft, column, signed=False)


def join_marks(layout: PageLayout, draft: TableDraft) -> None:
    """Join columns that hold nothing but marks of lists to the items beside them."""
    w = layout.words
    if MARKS.isdisjoint([w.texts[i] for c in draft.cells for i in c.words]):
        return

    def of_item(mark: CellDraft, other: CellDraft) -> bool:
        return bool(w.x0[other.words].min() - w.x1[mark.words].max() < INDENT * layout.em)

    for column in range(draft.columns - 2, 0, -1):
        if _holds_signs(layout, draft, column, MARKS, column + 1, of_item):
            _join(layout, draft, column, signed=False)


def _hand_over_lone(layout: PageLayout, draft: TableDraft) -> None:
    """Give a sign that has a cell to itself to the number right of it, in a column of something else: books
    set it before the first number of a column and the last. Where most numbers have one, it is a value.
    """
    texts = layout.words.texts
    given = []
    for column in range(1, draft.columns - 1):
        signs = {
            c.row: c for c in draft.cells
            if c.column == column and (c.rowspan, c.colspan, len(c.words)) == (1, 1, 1)
            and texts[c.words[0]] in CURRENCIES
        }  # fmt: skip
        beside = [c for c in draft.cells if signs and c.column == column + 1 and c.words]
        numbers = [c for c in beside if is_numeric(plain_text(layout, c.words))]
        if 2 * len(signs) < len(numbers):
            for c in numbers:
                if c.row in signs:
                    given.append(signs[c.row])
                    c.words.insert(0, signs[c.row].words[0])
                    c.signed = True
    draft.cells = [c for c in draft.cells if not any(c is sign for sign in given)]


def hand_over(layout: PageLayout, draft: TableDraft, least: int = 2, led: bool = False) -> None:
    """Give a sign at the end of a cell of at least so many words to the number right of it, in rows whose
    last number has none behind it, and if `led` whose first sign stands behind no number: there signs go
    before.
    """
    texts = layout.words.texts
    for cells in cells_by_row(draft).values():
        cells.sort(key=lambda c: c.column)
        signed = (c for c in cells if any(texts[i] in CURRENCIES for i in c.words))
        first = next(signed, None)
        if first is None or texts[cells[-1].words[-1]] in CURRENCIES:
            continue
        if (
            led
            and texts[first.words[0]] not in CURRENCIES
            and is_numeric(plain_text(layout, first.words[:1]))
        ):
            continue
        for a, b in reversed(list(pairwise(cells))):
            sign = texts[a.words[-1]] in CURRENCIES and len(a.words) >= least
            if sign and b.column == a.column + a.colspan and is_numeric(plain_text(layout, b.words)):
                b.words.insert(0, a.words.pop())
                b.signed = True


def _holds_signs(
    layout: PageLayout,
    draft: TableDraft,
    column: int,
    signs: frozenset[str],
    target: int,
    belongs: Callable[[CellDraft, CellDraft], bool],
) -> bool:
    """Whether every cell of a column holds signs and `belongs` to what is beside it in the target column, but
    for labels above them that stand over both.
    """
    texts = layout.words.texts
    own = [c for c in draft.cells if c.column == column and c.colspan == 1 and c.words]
    beside = {c.row: c for c in draft.cells if c.column == target and c.colspan == 1 and c.words}
    held = [c for c in own if all(texts[i] in signs for i in c.words)]
    first = min((c.row for c in held), default=0)
    labels = [c for c in own if c not in held]
    return (
        bool(held)
        and all(c.row < first and c.row not in beside for c in labels)
        and all(c.row in beside and belongs(c, beside[c.row]) for c in held)
    )


def _join(layout: PageLayout, draft: TableDraft, left: int, signed: bool = True) -> None:
    """Make one column of column `left` and the next; signs that are `signed` belong to their numbers."""
    w = layout.words
    first: dict[int, CellDraft] = {}
    kept = []
    for c in draft.cells:
        last = c.column + c.colspan - 1
        if c.column == left and last == left:
            first[c.row] = c
        elif c.column <= left < last:
            c.colspan -= 1
        if c.column == left + 1 and c.row in first and c.rowspan == first[c.row].rowspan:
            both = {*first[c.row].words, *c.words}
            first[c.row].words = sorted(both, key=lambda i: (int(w.row[i]), float(w.x0[i])))
            first[c.row].colspan = c.colspan
            first[c.row].signed = signed
            continue
        if c.column > left:
            c.column -= 1
        kept.append(c)
    draft.cells = kept
    draft.columns -= 1
    del draft.column_edges[left + 1]


def join_heads(layout: PageLayout, draft: TableDraft) -> None:
    """Make one column of a head with nothing below it, of a line or more, and values beside it that have no
    head, most of them numbers, but for the first column: a head may stand at the one side of its column, and
    all values at the other.
    """
    for column in range(draft.columns - 2, 0, -1):
        beside = [
            c for c in draft.cells
            if c.words and column <= c.column + c.colspan - 1 and c.column <= column + 1
        ]  # fmt: skip
        sides: tuple[list[CellDraft], list[CellDraft]] = ([], [])
        for cell in sorted(beside, key=lambda c: c.row):
            sides[cell.column == column + 1].append(cell)
        if not all(sides) or any(c.colspan > 1 or c.rowspan > 1 for c in beside):
            continue
        heads, values = sorted(sides, key=lambda side: side[0].row)
        if heads[0].row or heads[-1].row >= values[0].row or len(values) < 2:
            continue
        numbers = [[is_numeric(plain_text(layout, c.words)) for c in side] for side in (heads, values)]
        if not any(numbers[0]) and 2 * sum(numbers[1]) > len(values):
            _join(layout, draft, column)


def keep_labels(layout: PageLayout, draft: TableDraft) -> None:
    """Let a label that stands alone in its row and runs out of the first column stay a cell of that column,
    unless it runs over the whole table: its neighbours are empty, so print need not make room. A sentence is
    a note to all columns.
    """
    for cells in cells_by_row(draft).values():
        only = cells[0]
        if len(cells) == 1 and only.column == 0 and 1 < only.colspan < draft.columns:
            said = plain_text(layout, only.words)
            only.colspan = draft.columns if said[-1] == "." and said.count(" ") >= SENTENCE else 1
