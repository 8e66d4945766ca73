"""CSV and XLSX files -> true tables."""

from __future__ import annotations

import csv
import io
from pathlib import Path

from ..errors import SourceError
from ..model import Cell, Table

ENDINGS = (".csv", ".tsv", ".xlsx")


def read_sheets(path: Path, header_rows: int = 1) -> list[Table]:
    """Return the tables of a CSV, TSV or XLSX file: one, or one a sheet with merged cells as spans.

    Sheets cannot say which rows are headers; the first `header_rows` are. Raises SourceError where the file
    cannot be read.
    """
    if path.suffix.lower() == ".xlsx":
        return _workbook(path, header_rows)
    try:
        text = path.read_text(encoding="utf-8-sig")
    except (OSError, UnicodeDecodeError) as error:
        raise SourceError(f"{path} cannot be read as text; save it as CSV in UTF-8.") from error
    separator = "\t" if path.suffix.lower() == ".tsv" else _separator(text)
    return [_table(list(csv.reader(io.StringIO(text), delimiter=separator)), {}, header_rows)]


def _separator(text: str) -> str:
    first = text.split("\n", 1)[0]
    return max(",;\t", key=first.count)


def _workbook(path: Path, header_rows: int) -> list[Table]:
    from openpyxl import load_workbook

    try:
        book = load_workbook(path, data_only=True)
    except Exception as error:  # The library raises whatever its parsers do.
        raise SourceError(f"{path} cannot be read as a workbook; save it as XLSX.") from error
    tables = []
    for sheet in book.worksheets:
        rows = [["" if v is None else str(v) for v in row] for row in sheet.iter_rows(values_only=True)]
        spans = {
            (r.min_row - 1, r.min_col - 1): (r.max_row - r.min_row + 1, r.max_col - r.min_col + 1)
            for r in sheet.merged_cells.ranges
        }
        if rows:
            tables.append(_table(rows, spans, header_rows))
    return tables


def _table(rows: list[list[str]], spans: dict[tuple[int, int], tuple[int, int]], header_rows: int) -> Table:
    while rows and not any(text.strip() for text in rows[-1]):
        rows.pop()
    columns = max((len(row) for row in rows), default=0)
    covered = {
        (r + i, c + j) for (r, c), (h, w) in spans.items() for i in range(h) for j in range(w) if i or j
    }
    cells = [
        Cell(r, c, text.strip(), *spans.get((r, c), (1, 1)), r < header_rows)
        for r, row in enumerate(rows)
        for c, text in enumerate(row)
        if (r, c) not in covered and (text.strip() or (r, c) in spans)
    ]
    return Table(len(rows), columns, cells, header_rows=min(header_rows, max(0, len(rows) - 1)))
