"""Rows of typed values -> CSV, XLSX, Parquet, and tables of a database."""

from __future__ import annotations

import csv
import datetime
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal
from pathlib import Path
from typing import Any, Literal

from ..errors import UsageError
from .sheets import guarded, without_controls

DataValue = str | int | Decimal | datetime.date | None
DataRow = Sequence[DataValue]
# Rows as often as they are asked for; no more than some of them are in memory.
Rows = Callable[[], Iterator[DataRow]]
DataKind = Literal["text", "integer", "number", "money", "percent", "date"]
DATA_FORMATS = ("csv", "xlsx", "parquet")
PARQUET = "pip install 'wennak[parquet]'"
SQL = "pip install 'wennak[sql]'"
_EXACT = ("number", "money", "percent")
# So many rows are handed on at a time.
_CHUNK = 5000
# Decimal numbers of a Parquet file have so many digits.
_DIGITS = 38


@dataclass(frozen=True, slots=True)
class DataColumn:
    """A column: its name and what its values are. Numbers of money, percent and others are exact decimals."""

    name: str
    kind: DataKind = "text"


def write_csv(path: Path, columns: Sequence[DataColumn], rows: Rows) -> None:
    """Write rows as CSV: numbers as they are, days as 2024-05-31, nothing where a value is missing."""
    with path.open("w", encoding="utf-8", newline="") as file:
        out = csv.writer(file, lineterminator="\n")
        out.writerow([guarded(column.name) for column in columns])
        for row in rows():
            out.writerow([_plain(value) for value in row])


def _plain(value: DataValue) -> str:
    if isinstance(value, Decimal):
        return f"{value:f}"
    return "" if value is None else guarded(value) if isinstance(value, str) else str(value)


def write_xlsx(
    path: Path, sheets: Mapping[str, tuple[Sequence[DataColumn], Rows]], red: bool = False
) -> None:
    """Write a workbook with a sheet for each of `sheets` (by name its columns and rows): the header frozen,
    numbers and days with their formats; with `red` negative numbers in red.
    """
    from openpyxl import Workbook
    from openpyxl.cell import WriteOnlyCell
    from openpyxl.styles import Font
    from openpyxl.utils import get_column_letter

    book = Workbook(write_only=True)
    for name, (columns, rows) in sheets.items():
        sheet = book.create_sheet(name)
        sheet.freeze_panes = "A2"
        places, widths = _places(columns, rows), _widths(columns, rows)
        for k, width in enumerate(widths, start=1):
            sheet.column_dimensions[get_column_letter(k)].width = width
        formats = [_format_of(c, p, red) for c, p in zip(columns, places, strict=True)]
        head = []
        for column in columns:
            cell = WriteOnlyCell(sheet, without_controls(column.name))
            cell.font = Font(bold=True)
            head.append(cell)
        sheet.append(head)
        for row in rows():
            cells = []
            for value, format in zip(row, formats, strict=True):
                text = isinstance(value, str)
                held: Any = without_controls(value) if isinstance(value, str) else value
                cell = WriteOnlyCell(sheet, held)
                if text:
                    # Set as a string, text stays text, whatever it begins with.
                    cell.data_type = "s"
                elif format:
                    cell.number_format = format
                cells.append(cell)
            sheet.append(cells)
    book.save(path)


def _format_of(column: DataColumn, places: int, red: bool) -> str:
    if column.kind == "date":
        return "yyyy-mm-dd"
    if column.kind not in _EXACT:
        return ""
    number = ("#,##0" if column.kind == "money" else "0") + ("." + "0" * places if places else "")
    number += '" %"' if column.kind == "percent" else ""
    return f"{number};[Red]-{number}" if red else number


def _places(columns: Sequence[DataColumn], rows: Rows) -> list[int]:
    """The most decimal places in each column."""
    out = [0] * len(columns)
    for row in rows():
        for k, value in enumerate(row):
            if isinstance(value, Decimal):
                out[k] = max(out[k], -int(value.as_tuple().exponent))
    return out


def _widths(columns: Sequence[DataColumn], rows: Rows) -> list[float]:
    """Widths of columns in which what stands in them can be seen, in characters."""
    out = [len(column.name) for column in columns]
    for row in rows():
        texts = (f"{v:,}" if isinstance(v, Decimal) else str(v or "") for v in row)
        out = [max(n, len(text)) for n, text in zip(out, texts, strict=True)]
    return [min(n, 60) + 2.0 for n in out]


def check_parquet() -> None:
    """Raise UsageError where what writes Parquet is not installed."""
    try:
        import pyarrow  # noqa: F401
    except ImportError as error:
        raise UsageError(f"To write tables as Parquet: {PARQUET}") from error


def write_parquet(path: Path, columns: Sequence[DataColumn], rows: Rows) -> None:
    """Write rows as Parquet, numbers as exact decimals."""
    import pyarrow as pa
    from pyarrow import parquet

    kinds = {"text": pa.string(), "integer": pa.int64(), "date": pa.date32()}
    places = _places(columns, rows)
    schema = pa.schema(
        [
            (c.name, kinds.get(c.kind) or pa.decimal128(_DIGITS, p))
            for c, p in zip(columns, places, strict=True)
        ]
    )
    with parquet.ParquetWriter(path, schema) as writer:
        for chunk in _chunks(rows()):
            arrays = [pa.array(c, f.type) for c, f in zip(zip(*chunk, strict=True), schema, strict=True)]
            writer.write_table(pa.Table.from_arrays(arrays, schema=schema))


def _chunks(rows: Iterable[DataRow]) -> Iterator[list[DataRow]]:
    chunk: list[DataRow] = []
    for row in rows:
        chunk.append(row)
        if len(chunk) == _CHUNK:
            yield chunk
            chunk = []
    if chunk:
        yield chunk


def write_sheets(
    folder: Path,
    stem: str,
    sheets: Mapping[str, tuple[Sequence[DataColumn], Rows]],
    formats: Iterable[str],
    red: bool = False,
) -> list[str]:
    """Write "lines", and "totals" where there are some, as files of the formats; return their names.

    A workbook holds both; the other formats have a file for each. `red` is that of `write_xlsx`.
    """
    names = []
    for format in formats:
        if format == "xlsx":
            names.append(f"{stem}.xlsx")
            write_xlsx(folder / names[-1], sheets, red)
            continue
        write = write_csv if format == "csv" else write_parquet
        for name, (columns, rows) in sheets.items():
            names.append(f"{stem}{'-totals' * (name == 'totals')}.{format}")
            write(folder / names[-1], columns, rows)
    return names


@dataclass(frozen=True, slots=True)
class SqlTable:
    """A table of a database, written as `sqlite:///file.db#table`: an address as SQLAlchemy knows it, `#`,
    and the name of the table.
    """

    address: str
    name: str

    @staticmethod
    def of(text: str) -> SqlTable:
        """Return what a text names. Raises UsageError where it names none, or SQLAlchemy is not installed."""
        address, sign, name = text.rpartition("#")
        if not sign or not name or "://" not in address:
            raise UsageError(f"{text!r} names no table of a database; write it like sqlite:///file.db#table.")
        try:
            import sqlalchemy
        except ImportError as error:
            raise UsageError(f"To write into databases: {SQL}") from error
        try:
            sqlalchemy.make_url(address).get_dialect()
        except sqlalchemy.exc.ArgumentError as error:
            raise UsageError(
                f"{address!r} is no address of a database; write it like sqlite:///file.db."
            ) from error
        return SqlTable(address, name)


def write_sql(
    to: SqlTable, columns: Sequence[DataColumn], rows: Rows, own: str, replaced: Iterable[str]
) -> int:
    """Write rows into a table of a database, in one transaction; return how many.

    Rows whose column `own` is one of `replaced` are deleted before, so that doing it again doubles nothing.
    The table is made where there is none. Raises UsageError where it cannot be written to, or has other
    columns.
    """
    import pandas as pd
    import sqlalchemy as sql

    try:
        engine = sql.create_engine(to.address)
    except ImportError as error:
        raise UsageError(
            f"{to.address.split(':')[0]} needs a package that is not installed ({error})."
        ) from error
    # SQLite knows no exact decimals; what it is given reads back as the nearest number.
    exact: Any = sql.Float() if engine.dialect.name == "sqlite" else sql.Numeric(_DIGITS, 10)
    kinds: dict[str, Any] = {"text": sql.Text(), "integer": sql.BigInteger(), "date": sql.Date()}
    types = {c.name: kinds.get(c.kind, exact) for c in columns}
    count = 0
    try:
        with engine.begin() as connection:
            if sql.inspect(connection).has_table(to.name):
                table = sql.Table(to.name, sql.MetaData(), autoload_with=connection)
                lost = [c.name for c in columns if c.name not in table.columns]
                if lost:
                    said = f"The table {to.name} has no column {', '.join(lost)}"
                    raise UsageError(f"{said}; name another table, or drop it.")
                for names in _chunks([name] for name in replaced):
                    found = table.columns[own].in_([name for (name,) in names])
                    connection.execute(sql.delete(table).where(found))
            for chunk in _chunks(rows()):
                frame = pd.DataFrame(chunk, columns=[c.name for c in columns], dtype=object)
                for c in columns:
                    if c.kind in _EXACT and engine.dialect.name == "sqlite":
                        frame[c.name] = frame[c.name].map(lambda v: None if v is None else float(v))
                frame.to_sql(to.name, connection, if_exists="append", index=False, dtype=types)
                count += len(chunk)
    except sql.exc.SQLAlchemyError as error:
        said = str(getattr(error, "orig", None) or error).splitlines()[0]
        raise UsageError(f"The table {to.name} cannot be written to ({said}).") from error
    finally:
        engine.dispose()
    return count
