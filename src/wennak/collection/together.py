"""What is written for a whole collection: its passages, and the cells of all its tables in long form.

Each worker writes the part of its document; at the end the parts are put one behind the other, in the order
of the sources, so that no more than one of them is in memory.
"""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Iterable, Iterator
from dataclasses import asdict, fields
from pathlib import Path
from typing import IO, Any

from ..emit import CellRow, EmitOptions, as_bytes, cell_rows, guarded, to_passages
from ..model import Document
from .files import FIELDS


def part(kind: str, document: Document, options: EmitOptions) -> bytes:
    """Return what a document gives to a file for the whole collection: lines of JSON."""
    if kind == "passages":
        return as_bytes(to_passages(document, options.limit, options.records))
    rows = (json.dumps(list(asdict(row).values()), ensure_ascii=False) for row in cell_rows(document))
    return as_bytes("".join(f"{row}\n" for row in rows))


def write_together(name: str, parts: Iterable[bytes], path: Path) -> None:
    """Write the parts of all documents as one file of a name in `FILES`, or of `FIELDS`."""
    if name == "parquet":
        _write_parquet(parts, path)
        return
    with path.open("wb") as file:
        if name in ("passages", FIELDS):
            for data in parts:
                file.write(data)
        else:
            _write_csv(parts, file)


def _rows(data: bytes) -> Iterator[list[Any]]:
    return (json.loads(line) for line in data.split(b"\n") if line)


def _write_csv(parts: Iterable[bytes], file: IO[bytes]) -> None:
    with io.TextIOWrapper(file, encoding="utf-8", newline="", write_through=True) as text:
        out = csv.writer(text, lineterminator="\n")
        out.writerow([column.name for column in fields(CellRow)])
        for data in parts:
            out.writerows([guarded(v) if isinstance(v, str) else v for v in row] for row in _rows(data))


def _write_parquet(parts: Iterable[bytes], path: Path) -> None:
    import pyarrow as pa
    from pyarrow import parquet

    kinds = {"str": pa.string(), "int": pa.int32(), "float": pa.float64()}
    kinds |= {"float | None": pa.float64(), "str | None": pa.string()}
    schema = pa.schema([(column.name, kinds[str(column.type)]) for column in fields(CellRow)])
    with parquet.ParquetWriter(path, schema) as writer:
        for data in parts:
            columns = list(zip(*_rows(data), strict=True))
            if columns:
                arrays = [pa.array(c, f.type) for c, f in zip(columns, schema, strict=True)]
                writer.write_table(pa.Table.from_arrays(arrays, schema=schema))
