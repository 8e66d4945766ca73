"""Saving tables as files, and into databases."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from pathlib import Path

import click

from ..checks import total_rows
from ..emit import (
    SqlTable,
    table_bytes,
    table_data,
    write_sheets,
    write_sql,
    write_whole,
)
from ..errors import UsageError
from ..model import Table
from .voice import tell
from .words import count_of


def chosen_table(found: Sequence[Table], number: int) -> Table:
    """Return a table by its number, from 1. Raises UsageError where there is none."""
    if number > len(found):
        raise UsageError(f"There is no table {number}; {len(found)} were found.")
    return found[number - 1]


def save_tables(
    found: Sequence[Table], source: Path, folder: Path, formats: Sequence[str], apart: bool
) -> None:
    """Save tables as they are printed; a workbook, a page, and JSON hold all of them."""
    if folder.exists() and not folder.is_dir():
        raise UsageError(f"{folder} is a file; name a folder to write to.")
    if not found:
        click.echo("No tables were found; nothing was saved.", err=True)
        return
    gaps: list[Collection[int]] = [total_rows(t) if apart else () for t in found]
    count = 0
    for name in formats:
        # A workbook and a page hold all tables; the other formats one each.
        whole = name in ("xlsx", "html", "md", "json")
        for number, table in enumerate(found, start=1):
            if whole and number > 1:
                break
            stem = source.stem if whole else f"{source.stem}-{number}"
            one = list(found) if whole else [table]
            rows = gaps if whole else [gaps[number - 1]]
            write_whole(folder / f"{stem}.{name}", table_bytes(one, name, rows, source.name))
            count += 1
    _saved(len(found), folder, count)


def _saved(tables: int, folder: Path, files: int) -> None:
    said = f"{count_of(tables, 'table')} saved to {folder} in {count_of(files, 'file')}"
    tell(f"{said}.")


def save_typed(found: Sequence[Table], source: Path, folder: Path, formats: Sequence[str], red: bool) -> None:
    """Save each table as files of typed values: a workbook has a sheet for lines and one for totals."""
    if folder.exists() and not folder.is_dir():
        raise UsageError(f"{folder} is a file; name a folder to write to.")
    folder.mkdir(parents=True, exist_ok=True)
    count = 0
    for number, table in enumerate(found, start=1):
        sheets = table_data(table, source.name, number)
        count += len(write_sheets(folder, f"{source.stem}-{number}", sheets, formats, red))
    _saved(len(found), folder, count)


def write_into(found: Sequence[Table], source: Path, target: SqlTable, number: int | None) -> None:
    """Write the lines of one table into a database, in the place of what the document gave before."""
    if number is None and len(found) != 1:
        raise UsageError(f"{len(found)} tables were found; choose the one to write with --show N.")
    chosen = number or 1
    columns, rows = table_data(chosen_table(found, chosen), source.name, chosen)["lines"]
    count = write_sql(target, columns, rows, "document", [source.name])
    tell(f"{count_of(count, 'row')} written to {target.name}.")
