"""What a service answered -> tables as grids of texts, or the very reason why it is none."""

from __future__ import annotations

import json
from dataclasses import dataclass
from typing import Any

# So much of what came instead is told.
SHOWN = 80


@dataclass(frozen=True, slots=True)
class TextCell:
    """A cell as it was answered: first row and column, extent, text."""

    row: int
    column: int
    text: str
    rowspan: int = 1
    colspan: int = 1


@dataclass(frozen=True, slots=True)
class TextTable:
    """A table as it was answered."""

    rows: int
    columns: int
    cells: list[TextCell]
    header_rows: int = 0
    caption: str = ""


class BadAnswer(ValueError):
    """An answer is none; the message says why."""


def tables_of(answer: str) -> tuple[list[TextTable], bool]:
    """Return the tables of an answer, and whether there was text around its JSON.

    Raises BadAnswer where it holds no JSON, or other than was asked for.
    """
    data, around = peeled(answer)
    if not isinstance(data, dict) or not isinstance(data.get("tables"), list):
        raise BadAnswer(f"it holds no list of tables: {_start(answer)}")
    tables = [_table(entry, k) for k, entry in enumerate(data["tables"], start=1)]
    return [table for table in tables if table.cells], around


def peeled(answer: str) -> tuple[Any, bool]:
    """Return the JSON in an answer, and whether something stands around it. Raises BadAnswer where there is
    none.
    """
    text = answer.strip()
    start = text.find("{")
    if start < 0:
        raise BadAnswer(f"it is no JSON: {_start(answer)}")
    try:
        data, end = json.JSONDecoder().raw_decode(text, start)
    except (json.JSONDecodeError, RecursionError) as error:
        raise BadAnswer(f"its JSON breaks off or is wrong: {_start(text[start:])}") from error
    return data, start > 0 or end < len(text)


def _start(text: str) -> str:
    said = " ".join(text.split())
    return repr(said[:SHOWN] + ("..." if len(said) > SHOWN else ""))


def _table(entry: Any, number: int) -> TextTable:
    if not isinstance(entry, dict) or not isinstance(entry.get("rows"), list):
        raise BadAnswer(f"table {number} has no rows")
    cells: list[TextCell] = []
    taken: set[tuple[int, int]] = set()
    columns = 0
    for r, row in enumerate(entry["rows"]):
        if not isinstance(row, list):
            raise BadAnswer(f"row {r + 1} of table {number} is no list of cells")
        c = 0
        for value in row:
            while (r, c) in taken:
                c += 1
            text, down, across = _cell(value, f"row {r + 1} of table {number}")
            covered = {(r + i, c + j) for i in range(down) for j in range(across)}
            if covered & taken:
                raise BadAnswer(f"cells of table {number} overlap in row {r + 1}")
            taken |= covered
            if text:
                cells.append(TextCell(r, c, text, down, across))
            columns = max(columns, c + across)
            c += across
    rows = max([len(entry["rows"]), *(cell.row + cell.rowspan for cell in cells)], default=0)
    header = entry.get("header_rows", 0)
    caption = entry.get("caption", "")
    if not isinstance(header, int) or isinstance(header, bool) or not isinstance(caption, str):
        raise BadAnswer(f"header_rows or caption of table {number} are not what was asked for")
    return TextTable(rows, columns, cells, min(max(header, 0), rows), caption)


def _cell(value: Any, where: str) -> tuple[str, int, int]:
    if value is None:
        return "", 1, 1
    if isinstance(value, str):
        return value.strip(), 1, 1
    if isinstance(value, dict) and isinstance(value.get("text"), str):
        spans = [value.get(name, 1) for name in ("rowspan", "colspan")]
        if all(isinstance(n, int) and not isinstance(n, bool) and 1 <= n <= 1000 for n in spans):
            return value["text"].strip(), spans[0], spans[1]
    raise BadAnswer(f"{where} holds a cell that is no text: {_start(json.dumps(value))}")
