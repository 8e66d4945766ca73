"""The rows of a table as texts by column, and the steps that clean them."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, field, replace

from ..checks import total_rows
from ..model import DOUBTFUL, Box, Place, Table
from .model import Carry, Join, Records, RowKind, Rows, Split, Step

# So many texts of what a step dropped, carried or made are shown.
SAMPLES = 3


@dataclass(frozen=True, slots=True)
class Row:
    """A row: its texts by column, and where it comes from.

    `text` is all that is printed in it, one blank between cells. `kind` is "group" for one that holds a text
    in its first column only, "total" where it speaks of a total, "header" where it repeats the header.
    `number` counts the rows of the table from 1, with its header rows; `headed` tells whether it may stand
    below a group line; `places` is where the texts of columns stand, `doubtful` are the columns whose texts
    may have been read wrongly.
    """

    texts: dict[str, str]
    text: str
    kind: RowKind = "line"
    number: int = 0
    page: int = 0
    headed: bool = True
    places: dict[str, Place] = field(default_factory=dict)
    doubtful: frozenset[str] = frozenset()


@dataclass(frozen=True, slots=True)
class Rowset:
    """Rows with their columns, in order; `taken` are texts of the document that go with each of them."""

    columns: list[str]
    rows: list[Row]
    taken: dict[str, str] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Done:
    """What a step did: how many rows there were before and after, which columns came, in a sentence, with
    samples; `problem` is what went wrong.
    """

    step: str
    said: str
    before: int
    after: int
    samples: tuple[str, ...] = ()
    problem: str = ""


class StepError(ValueError):
    """A step cannot be done; the message says why."""


def rows_of(table: Table, taken: dict[str, str] | None = None, total: str | None = None) -> Rowset:
    """Return the rows below the header of a table; empty ones are left out.

    `total` is the pattern of rows that are totals; where it is None, their words tell.
    Columns are called as their headers, "column 2" where there is none, "Crowns 2" where one is there twice.
    What spans rows stands in each of them, what spans columns in the first.
    """
    labels = _distinct(table.header_labels())
    totals, grid = set(total_rows(table)), table.grid()
    heads = set(table.heads)
    out = []
    for r in range(table.header_rows, table.rows):
        cells = {k: cell for k, cell in enumerate(grid[r]) if cell is not None and cell.column == k}
        texts = {
            label: " ".join(cells[k].shown.split()) if k in cells else "" for k, label in enumerate(labels)
        }
        filled = [k for k, label in enumerate(labels) if texts[label]]
        if not filled:
            continue
        places = {labels[k]: cells[k].places[-1] for k in filled if cells[k].places}
        page = next(iter(places.values())).page if places else 0
        kind: RowKind = "line"
        if re.search(total, " ".join(texts.values())) if total else r in totals:
            kind = "total"
        elif filled == [0] and (len(labels) > 1 or r in heads):
            kind = "group"
        elif all(texts[label] in ("", label) for label in labels):
            kind = "header"
        text = " ".join(texts[labels[k]] for k in filled)
        headed = not table.heads or table.heads[r] >= 0
        doubtful = frozenset(labels[k] for k in filled if cells[k].confidence < DOUBTFUL)
        out.append(Row(texts, text, kind, r + 1, page, headed, places, doubtful))
    return Rowset(labels, out, taken or {})


def _distinct(labels: Sequence[str]) -> list[str]:
    out: list[str] = []
    for k, label in enumerate(labels, start=1):
        name = " ".join(label.split()) or f"column {k}"
        times = 1
        while (name if times == 1 else f"{name} {times}") in out:
            times += 1
        out.append(name if times == 1 else f"{name} {times}")
    return out


def do_step(step: Step, given: Rowset) -> tuple[Rowset, Done]:
    """Do a step. Raises StepError where it names a column that is not there."""
    match step:
        case Step(drop=Rows() as drop):
            return _dropped(drop, given)
        case Step(carry=Carry() as carry):
            return _carried(carry, given)
        case Step(records=Records() as records):
            return _records(records, given)
        case Step(split=Split() as split):
            return _split(split, given)
        case Step(join=Join() as join):
            return _joined(join, given)
    return _filled(step.fill or (), given)


def _text_in(row: Row, column: str | None) -> str:
    return row.text if column is None else row.texts.get(column, "")


def _chosen(rows: Rows, row: Row) -> bool:
    if rows.rows is not None and row.kind != rows.rows:
        return False
    return rows.pattern is None or re.search(rows.pattern, _text_in(row, rows.column)) is not None


def _check(columns: Sequence[str | None], given: Rowset) -> None:
    for column in columns:
        if column is not None and column not in given.columns:
            raise StepError(f"there is no column {column!r}; there are {', '.join(given.columns)}")


def _dropped(drop: Rows, given: Rowset) -> tuple[Rowset, Done]:
    _check([drop.column], given)
    kept = [row for row in given.rows if not _chosen(drop, row)]
    gone = [row.text for row in given.rows if _chosen(drop, row)]
    said = f"{_count(len(gone), 'row')} dropped"
    return replace(given, rows=kept), _done("drop", said, given, kept, gone)


def _carried(carry: Carry, given: Rowset) -> tuple[Rowset, Done]:
    """Rows that head those below give them their parts, and go."""
    _check([carry.column], given)
    parts = dict.fromkeys(carry.names(), "")
    kept, heads = [], []
    columns = [*(n for n in parts if n not in given.columns), *given.columns]
    for row in given.rows:
        found = re.search(carry.pattern, _text_in(row, carry.column)) if _chosen(carry, row) else None
        if found:
            parts = {name: text or "" for name, text in found.groupdict().items()}
            heads.append(row.text)
        else:
            # A total of all groups stands below none.
            own = parts if row.headed or carry.rows != "group" else dict.fromkeys(parts, "")
            kept.append(replace(row, texts={**dict.fromkeys(columns, ""), **row.texts, **own}))
    said = f"{_count(len(heads), 'row')} carried down as {', '.join(parts)}"
    problem = "" if heads else f"no row has the pattern {carry.pattern}"
    return replace(given, columns=columns, rows=kept), _done("carry", said, given, kept, heads, problem)


def _records(records: Records, given: Rowset) -> tuple[Rowset, Done]:
    """Lines put together to records; what belongs to none, or has no pattern, is told."""
    names = records.names()
    out: list[Row] = []
    unread: list[str] = []
    for row in given.rows:
        text = row.text
        if begun := re.search(records.begins, text):
            parts = dict.fromkeys(names, "") | _parts(begun)
            out.append(replace(row, texts=parts, kind="line", places=_place_of(row, _parts(begun))))
            continue
        found = next((m for line in records.lines if (m := re.search(line, text))), None)
        if found is None or not out:
            unread.append(f"row {row.number}: {text}")
            continue
        last = out[-1]
        again = [name for name in _parts(found) if last.texts[name]]
        if again:
            unread.append(f"row {row.number} gives {again[0]} once more: {text}")
            continue
        places = last.places | _place_of(row, _parts(found))
        out[-1] = replace(last, texts=last.texts | _parts(found), text=f"{last.text} {text}", places=places)
    problem = (
        f"{_count(len(unread), 'line')} with no pattern: {'; '.join(unread[:SAMPLES])}" if unread else ""
    )
    if not out:
        problem = f"no row has the pattern {records.begins}"
    said = f"{_count(len(given.rows), 'line')} put together to {_count(len(out), 'record')}"
    return replace(given, columns=names, rows=out), _done(
        "records", said, given, out, [row.text for row in out], problem
    )


def _parts(found: re.Match[str]) -> dict[str, str]:
    return {name: text.strip() for name, text in found.groupdict().items() if text is not None}


def _place_of(row: Row, parts: dict[str, str]) -> dict[str, Place]:
    if not row.places:
        return {}
    around = Place(row.page, Box.around(place.box for place in row.places.values()))
    return dict.fromkeys(parts, around)


def _split(split: Split, given: Rowset) -> tuple[Rowset, Done]:
    _check([split.column], given)
    names = list(re.compile(split.pattern).groupindex)
    columns: list[str] = []
    for column in given.columns:
        columns += (
            [column, *(n for n in names if n not in given.columns)] if column == split.column else [column]
        )
    rows, unread = [], []
    for row in given.rows:
        text = row.texts[split.column]
        found = re.search(split.pattern, text)
        parts = _parts(found) if found else {}
        if text and found is None and row.kind == "line":
            unread.append(text)
        places = dict(row.places)
        if split.column in places:
            places |= dict.fromkeys(parts, places[split.column])
        rows.append(replace(row, texts=dict.fromkeys(columns, "") | row.texts | parts, places=places))
    said = f"{split.column} parted into {', '.join(names)}"
    problem = (
        f"{_count(len(unread), 'text')} in {split.column} without the pattern: {unread[0]}" if unread else ""
    )
    return replace(given, columns=columns, rows=rows), _done(
        "split", said, given, rows, [r.text for r in rows], problem
    )


def _joined(join: Join, given: Rowset) -> tuple[Rowset, Done]:
    _check([name for name in join.columns if name not in given.taken], given)
    columns = given.columns if join.into in given.columns else [*given.columns, join.into]
    rows = []
    for row in given.rows:
        texts = [row.texts.get(name) or given.taken.get(name, "") for name in join.columns]
        # Labels of totals are left as they are.
        own = join.between.join(filter(None, texts)) if row.kind == "line" else row.texts.get(join.into, "")
        rows.append(replace(row, texts={**row.texts, join.into: own}))
    said = f"{' and '.join(join.columns)} put together into {join.into}"
    return replace(given, columns=columns, rows=rows), _done(
        "join", said, given, rows, [r.texts[join.into] for r in rows]
    )


def _filled(names: Sequence[str], given: Rowset) -> tuple[Rowset, Done]:
    """Where a column is empty, it says what it says above."""
    _check(names, given)
    last = dict.fromkeys(names, "")
    rows, count = [], 0
    for row in given.rows:
        if row.kind == "line":
            count += sum(not row.texts[name] and bool(last[name]) for name in names)
            last = {name: row.texts[name] or last[name] for name in names}
            row = replace(row, texts=row.texts | last)
        rows.append(row)
    said = f"{_count(count, 'cell')} of {', '.join(names)} filled from above"
    return replace(given, rows=rows), _done("fill", said, given, rows, [])


def _done(
    name: str, said: str, given: Rowset, rows: Sequence[Row], samples: Sequence[str], problem: str = ""
) -> Done:
    shown = tuple(text for text in samples if text)[:SAMPLES]
    return Done(name, said, len(given.rows), len(rows), shown, problem)


def _count(n: int, word: str) -> str:
    return f"{n} {word}{'' if n == 1 else 's'}"
