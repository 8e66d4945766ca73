"""Bringing in a truth that a person has worked on, with what they changed."""

from __future__ import annotations

import os
from dataclasses import dataclass, field
from pathlib import Path

from ..errors import SourceError, UsageError, existing
from ..model import Table
from .files import file_hash, load_truth, save_truth
from .model import Truth, TruthTable
from .sheets_in import ENDINGS, read_sheets


@dataclass(slots=True)
class Change:
    """What became of one table (number from 1): state before and after, and each changed cell as a line."""

    table: int
    before: str
    after: str
    lines: list[str] = field(default_factory=list)


def take(saved: str | Path, folder: str | Path, pdf: str | Path | None = None) -> tuple[Truth, list[Change]]:
    """Bring a saved truth file into a folder under its own name; return it and what changed there.

    A CSV, TSV or XLSX file becomes a truth in the state "given"; it needs the `pdf` whose table it is. The
    file it replaces is kept beside it with the ending .bak. Raises SourceError where the file cannot be read
    or holds no table, UsageError where the PDF is missing.
    """
    saved, folder = existing(saved), Path(folder)
    if saved.suffix.lower() in ENDINGS:
        if pdf is None:
            raise UsageError(f"{saved.name} does not say which PDF it is the truth of; name it with --pdf.")
        pages: list[int] = []
        tables = [TruthTable(table, pages=pages) for table in read_sheets(saved)]
        new = Truth(folder / f"{Path(pdf).stem}.html", "", "", tables)
    else:
        new = load_truth(saved)
        new.path = folder / saved.name
    if not new.tables:
        raise SourceError(f"{saved} holds no table; nothing was taken in.")
    old = load_truth(new.path) if new.path.exists() else None
    source = Path(pdf) if pdf is not None else (old.pdf if old and old.pdf else new.pdf)
    if source is None or not source.exists():
        raise UsageError(f"The PDF of {saved.name} is not there; name it with --pdf.")
    if new.sha256 and new.sha256 != file_hash(source):
        raise SourceError(f"{saved.name} was made for another file than {source}; name its PDF with --pdf.")
    new.source, new.sha256 = os.path.relpath(source, folder), file_hash(source)
    changes = differences(old, new)
    if old is not None:
        new.path.replace(new.path.with_suffix(".bak"))
    save_truth(new)
    return new, changes


def differences(old: Truth | None, new: Truth) -> list[Change]:
    """Return what differs between two states of a truth, table by table; tables pair by their number."""
    before = old.tables if old else []
    out = []
    for k in range(max(len(before), len(new.tables))):
        a = before[k] if k < len(before) else None
        b = new.tables[k] if k < len(new.tables) else None
        lines = _cell_changes(a.table if a else None, b.table if b else None)
        states = (a.state if a else "none", b.state if b else "removed")
        if lines or states[0] != states[1]:
            out.append(Change(k + 1, *states, lines))
    return out


def _cell_changes(a: Table | None, b: Table | None) -> list[str]:
    cells = [{(c.row, c.column): c for c in t.cells} if t else {} for t in (a, b)]
    lines = []
    if a and b and (a.rows, a.columns) != (b.rows, b.columns):
        lines.append(f"{a.rows} x {a.columns} became {b.rows} x {b.columns}")
    if not a or not b:
        return lines
    for at in sorted(cells[0].keys() | cells[1].keys()):
        x, y = cells[0].get(at), cells[1].get(at)
        where = f"row {at[0] + 1}, column {at[1] + 1}"
        if x and y and x.text != y.text:
            lines.append(f"{where}: {x.text!r} became {y.text!r}")
        if x and y and (x.rowspan, x.colspan) != (y.rowspan, y.colspan):
            lines.append(f"{where}: span {x.rowspan}x{x.colspan} became {y.rowspan}x{y.colspan}")
        if x and y and x.header != y.header:
            lines.append(f"{where}: {'became' if y.header else 'is no longer'} a header")
        if not y and x and x.text:
            lines.append(f"{where}: {x.text!r} is gone")
        if not x and y and y.text:
            lines.append(f"{where}: {y.text!r} is new")
    return lines
