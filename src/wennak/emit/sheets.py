"""Tables -> CSV, TSV and XLSX: text as printed, guarded against being taken for a formula."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Collection, Sequence

from ..model import Table

# What a spreadsheet takes for a formula; numbers with a sign are none.
_FORMULA = re.compile(r"^[=+\-@\t\r]")
_SIGNED = re.compile(r"^[-+][0-9.,  ]+%?$")
# Control characters that a workbook cannot hold.
_CONTROL = re.compile(r"[\x00-\x08\x0b\x0c\x0e-\x1f]")
_SHEET_NAME = re.compile(r"[\[\]:*?/\\']")


def to_csv(table: Table, separator: str = ",", apart: Collection[int] = ()) -> str:
    """Return a table as CSV: a line a row, spanning text at its first place only.

    Before each of the rows in `apart` stands an empty line, so that sorting leaves them alone. Text that a
    spreadsheet would run as a formula gets an apostrophe before it.
    """
    texts = [[""] * table.columns for _ in range(table.rows)]
    for cell in table.cells:
        texts[cell.row][cell.column] = guarded(" ".join(cell.shown.split()))
    out = io.StringIO()
    writer = csv.writer(out, delimiter=separator, lineterminator="\n")
    for r, row in enumerate(texts):
        if r in apart:
            writer.writerow([""] * table.columns)
        writer.writerow(row)
    return out.getvalue()


def guarded(text: str) -> str:
    """Return a text that no spreadsheet takes for a formula."""
    return f"'{text}" if _FORMULA.match(text) and not _SIGNED.match(text) else text


def without_controls(text: str) -> str:
    """Return a text without the control characters that a workbook cannot hold."""
    return _CONTROL.sub("", text)


def to_workbook(tables: Sequence[Table], apart: Sequence[Collection[int]] = ()) -> bytes:
    """Return tables as an XLSX workbook with a sheet each; spans are merged cells, all texts are text."""
    from openpyxl import Workbook
    from openpyxl.styles import Alignment, Font

    book = Workbook(write_only=False)
    for name in book.sheetnames:
        del book[name]
    for number, table in enumerate(tables, start=1):
        name = _SHEET_NAME.sub(" ", table.caption).strip()[:24].strip()
        sheet = book.create_sheet(f"{number} {name}".strip())
        gaps = sorted(apart[number - 1]) if apart else []
        for cell in table.cells:
            row = cell.row + 1 + sum(gap <= cell.row for gap in gaps)
            place = sheet.cell(row, cell.column + 1)
            # Set as a string, text stays text, whatever it begins with.
            place.value = without_controls(cell.shown)
            place.data_type = "s"
            place.font = Font(bold=cell.header)
            place.alignment = Alignment(
                wrap_text="\n" in cell.text, vertical="top", indent=min(cell.indent, 15)
            )
            if cell.spans:
                last = cell.row + cell.rowspan - 1
                end = last + 1 + sum(gap <= last for gap in gaps)
                sheet.merge_cells(None, row, cell.column + 1, end, cell.column + cell.colspan)
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()
