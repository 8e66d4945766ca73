"""A table as rows of typed values: its lines and its totals, for what counts with them."""

from __future__ import annotations

import datetime
from collections.abc import Iterator, Sequence
from decimal import Decimal
from functools import partial

from ..checks import total_rows
from ..model import Table
from ..values import bare_of, date_of, decimal_mark, is_missing, number_of, typed_column, unit_of
from .data import DataColumn, DataKind, DataRow, DataValue, Rows

# Columns behind those of a table, which say where each row comes from.
ORIGIN = (
    DataColumn("document"), DataColumn("table", "integer"), DataColumn("page", "integer"),
    DataColumn("row", "integer"),
)  # fmt: skip


def table_data(table: Table, document: str, number: int) -> dict[str, tuple[list[DataColumn], Rows]]:
    """Return columns and rows of the "lines" of a table, and of its "totals" where it has any.

    A column holds numbers or days where each text of the lines is certainly one, else texts as printed. The
    totals begin with a column for what they are called. Behind stand the name of the document, the number of
    the table in it, the page and the row (from 1).
    """
    totals = set(total_rows(table))
    body = range(table.header_rows, table.rows)
    grid = table.grid()
    texts = [
        [
            "" if (c := grid[r][k]) is None or c.column != k else " ".join(c.shown.split())
            for k in range(table.columns)
        ]
        for r in range(table.rows)
    ]
    lines = [r for r in body if r not in totals and any(texts[r])]
    kinds = [_kind([texts[r][k] for r in lines]) for k in range(table.columns)]
    marks = [decimal_mark([bare_of(texts[r][k]) for r in lines]) for k in range(table.columns)]
    columns = [DataColumn(n, kind) for n, kind in zip(_names(table), kinds, strict=True)] + list(ORIGIN)

    def rows(numbers: Sequence[int], labelled: bool) -> Iterator[DataRow]:
        for r in numbers:
            values = [_value(t, kind, mark) for t, kind, mark in zip(texts[r], kinds, marks, strict=True)]
            page = next((c.places[0].page for c in grid[r] if c is not None and c.places), 0)
            label = [next(filter(None, texts[r]), "")] if labelled else []
            yield [*label, *values, document, number, page, r + 1]

    out: dict[str, tuple[list[DataColumn], Rows]] = {"lines": (columns, partial(rows, lines, False))}
    if totals:
        out["totals"] = [DataColumn("label"), *columns], partial(rows, sorted(totals), True)
    return out


def _names(table: Table) -> list[str]:
    """Names of columns: headers, or numbers where there is none, each once."""
    taken = {column.name for column in ORIGIN} | {"label"}
    out = []
    for k, label in enumerate(table.header_labels(), start=1):
        name = " ".join(label.split()) or f"column {k}"
        if name.casefold() in taken:
            name = f"{name} {k}"
        taken.add(name.casefold())
        out.append(name)
    return out


def _kind(texts: Sequence[str]) -> DataKind:
    kind = typed_column(texts).kind
    if kind != "number":
        return "date" if kind == "date" else "text"
    units = {unit_of(text) for text in texts if not is_missing(text)}
    return "percent" if units == {"%"} else "money" if units - {"", "%"} else "number"


def _value(text: str, kind: DataKind, mark: str) -> DataValue:
    if kind == "text":
        return text or None
    value: datetime.date | Decimal | None = (
        date_of(text) if kind == "date" else number_of(bare_of(text), mark)
    )
    return value
