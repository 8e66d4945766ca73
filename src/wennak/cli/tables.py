"""`wennak tables`."""

from __future__ import annotations

import functools
import sys
from collections.abc import Callable, Collection, Sequence
from pathlib import Path

import click
from rich import box
from rich.console import Console
from rich.table import Table as Shown
from rich.text import Text

from ..checks import said_of
from ..emit import DATA_FORMATS, TABLE_FORMATS, SqlTable, check_parquet
from ..errors import UsageError
from ..model import DOUBTFUL, Table
from ..pipeline import read, read_table, service_at
from ..scan import Recognition
from .asking import TOLD, check_asking, service_options
from .commands import Command
from .fail import failing
from .options import method_option, pages_option, password_option
from .recognising import recognition_options
from .saving import chosen_table, save_tables, save_typed, write_into
from .voice import tell

# So many of them are listed.
LISTED = 10
# Marks in cells: without a blank before them, so that none is put on a line of its own.
IN_DOUBT, WRONG = "(?)", "(!)"
# Blanks around a column of a table.
BETWEEN = 3
COMPARED = ("combined", "ruled", "spaced", "plain")


@click.command(cls=Command, example="wennak tables report.pdf --show 2")
@click.argument("source", metavar="SOURCE")
@pages_option
@method_option
@password_option
@click.option("--show", type=click.IntRange(1), metavar="N", help="Print table N, doubtful cells marked.")
@click.option("--checks", is_flag=True, help="Say which sums, changes, shares and balances come out.")
@click.option("--compare", is_flag=True, help="Print what each method reads, differences marked.")
@click.option(
    "--region", metavar="PAGE,LEFT,TOP,RIGHT,BOTTOM", help="Read this place as one table (pt, mm, in, %)."
)
@click.option("--cuts", metavar="X,X...", default="", help="Where the columns of the region part.")
@click.option("--header-rows", type=click.IntRange(0), metavar="N", help="Header rows of the region.")
@click.option("--save", metavar="FOLDER", help="Save the tables as files.")
@click.option(
    "--as",
    "formats",
    default="csv",
    show_default=True,
    metavar="FORMATS",
    help=f"{', '.join(TABLE_FORMATS)}.",
)
@click.option(
    "--typed", is_flag=True,
    help="Save numbers and days as such, where a whole column is certain; totals apart (csv, xlsx, parquet).",
)  # fmt: skip
@click.option("--red", is_flag=True, help="With --typed: negative numbers in red (xlsx).")
@click.option(
    "--into", metavar="URL#TABLE", help="Write the rows of a table into a database: sqlite:///file.db#fares."
)
@click.option("--totals", type=click.Choice(["inline", "apart"]), default="inline", show_default=True,
              help="Set total rows off by an empty row (csv, tsv, xlsx).")  # fmt: skip
@service_options
@recognition_options
def tables(
    source: str, pages: str | None, method: str, password: str, show: int | None, checks: bool, compare: bool,
    region: str | None, cuts: str, header_rows: int | None, save: str | None, formats: str, typed: bool,
    red: bool, into: str | None, totals: str, service: str, budget: float | None, crops: bool,
    keep_ungrounded: bool, recognition: Recognition,
) -> None:  # fmt: skip
    """List the tables of a document, print one, compare methods, or save them.

    Where the automatic reading is off, --region, --cuts and --header-rows direct it.
    """
    with failing(save or "The folder"):
        check_asking(service, method, budget=budget, crops=crops, keep_ungrounded=keep_ungrounded)
        if (cuts or header_rows is not None) and not region:
            raise UsageError("--cuts and --header-rows need a place to read; name it with --region.")
        names = _formats(formats, DATA_FORMATS if typed else TABLE_FORMATS)
        target = SqlTable.of(into) if into else None
        console = Console(highlight=False)
        if compare:
            _compare(console, source, pages, password, recognition)
            return
        if region:
            parts = [cut for cut in cuts.split(",") if cut.strip()]
            found = [read_table(source, region, parts, header_rows, password, recognition)]
        else:
            asked = service_at(service, budget, crops, keep_ungrounded)
            document = read(source, pages, method, password, None, recognition, *asked)
            found = document.tables
            for finding in document.findings:
                if finding.code in (*TOLD, "unknown-language"):
                    tell(f"{finding.message}.")
        if target is not None:
            write_into(found, Path(source), target, show)
        elif save and typed:
            save_typed(found, Path(source), Path(save), names, red)
        elif save:
            save_tables(found, Path(source), Path(save), names, totals == "apart")
        elif checks:
            sys.exit(3 if _check(found) else 0)
        elif show or region:
            _print(console, chosen_table(found, show or 1), show or 1)
        else:
            _list(console, found)


def _formats(text: str, known: Sequence[str]) -> list[str]:
    names = [name.strip() for name in text.split(",") if name.strip()]
    for name in names:
        if name not in known:
            raise UsageError(f"There is no format {name!r} for tables; choose from {', '.join(known)}.")
    if "parquet" in names:
        check_parquet()
    return names


def _list(console: Console, found: Sequence[Table]) -> None:
    if not found:
        click.echo("No tables were found; try --method plain, or direct the reading with --region.")
        return
    shown = Shown(box=box.SIMPLE_HEAD)
    for name in ("No.", "Page", "Size", "Caption", "Method", "Confidence", "Sums"):
        shown.add_column(name, justify="right" if name in ("No.", "Confidence") else "left")
    for number, table in enumerate(found, start=1):
        pages = table.page_numbers
        at = f"{pages[0]}-{pages[-1]}" if len(pages) > 1 else str(pages[0])
        passed = sum(check.passed for check in table.checks)
        sums = f"{passed} of {len(table.checks)} right" if table.checks else ""
        caption = table.caption or "(none)"
        shown.add_row(
            str(number), at, f"{table.rows} x {table.columns}", Text(caption), table.method,
            f"{table.confidence:.2f}", sums,
        )  # fmt: skip
    console.print(shown)
    tell("Print one with --show N; save them with --save FOLDER --as csv,xlsx.", err=False)


def _check(found: Sequence[Table]) -> int:
    """Say what adds up in the tables, and what does not; return how many things do not."""
    wrong = 0
    for number, table in enumerate(found, start=1):
        if not table.checks:
            continue
        click.echo(f"Table {number}, page {table.places[0].page}: {table.caption or '(no caption)'}")
        for kind in dict.fromkeys(check.kind for check in table.checks):
            own = [check for check in table.checks if check.kind == kind]
            click.echo(f"  {kind}: {sum(check.passed for check in own)} of {len(own)} right")
        for check in table.checks:
            if not check.passed:
                wrong += 1
                label = next((c.text for c in table.cells if c.row == check.row and c.column == 0), "")
                at = f"row {check.row + 1}, column {check.column + 1}" + (f" ({label})" if label else "")
                click.echo(f"  {at}: {said_of(check)}")
    if not any(table.checks for table in found):
        click.echo("No table holds sums, changes, shares or balances that could be checked.")
    else:
        click.echo(f"{wrong} {'does' if wrong == 1 else 'do'} not come out.")
    return wrong


def _print(console: Console, table: Table, number: int) -> None:
    wrong = {(c.row, c.column) for c in table.checks if not c.passed}
    console.print(
        _grid(table, table.caption or f"Table {number}", lambda r, c, _: (r, c) in wrong, console.width)
    )
    for check in table.checks:
        if not check.passed:
            console.print(f"Row {check.row + 1}, column {check.column + 1}: {said_of(check)}.")
    doubtful = [c for c in table.cells if c.text and c.confidence < DOUBTFUL]
    if doubtful:
        console.print(f"Doubtful, the least sure first ({len(doubtful)} of {len(table.cells)} cells):")
    for cell in sorted(doubtful, key=lambda c: c.confidence)[:LISTED]:
        at = f"row {cell.row + 1}, column {cell.column + 1}"
        console.print(f"  {at}: {cell.text!r}, {cell.confidence:.2f}", markup=False)
    for other in table.alternatives:
        console.print(
            f"The method {other.method} reads {other.rows} x {other.columns} here; --compare shows how."
        )
    console.print(
        f"{IN_DOUBT} marks a doubtful cell, {WRONG} a total or change that does not come out; "
        "^ and < continue a span."
    )


def _grid(table: Table, title: str, is_wrong: Callable[[int, int, str], bool], width: int) -> Shown:
    shown = Shown(title=Text(title), title_justify="left", box=box.SIMPLE_HEAD, show_header=False)
    grid = table.grid()
    rows = []
    for r in range(table.rows):
        texts = []
        for c in range(table.columns):
            cell = grid[r][c]
            if cell is None:
                texts.append(Text(""))
                continue
            inside = (cell.row, cell.column) != (r, c)
            said = "  " * cell.indent + cell.shown if not inside else "^" if cell.row != r else "<"
            marked = f"{said}{WRONG}" if is_wrong(r, c, cell.text) else said
            doubtful = cell.confidence < DOUBTFUL and cell.text and not inside
            texts.append(
                Text(f"{marked}{IN_DOUBT}" if doubtful else marked, style="bold" if cell.header else "")
            )
        rows.append(texts)
    # No word, and no number with its mark, is cut apart, as far as the terminal has room for all of them.
    longest = [
        max(len(word) for row in rows for word in row[c].plain.split() or [""]) for c in range(table.columns)
    ]
    fits = sum(longest) + BETWEEN * table.columns <= width
    for least in longest:
        shown.add_column(overflow="fold", min_width=least if fits else None)
    for r, texts in enumerate(rows):
        shown.add_row(*texts, end_section=r == table.header_rows - 1)
    return shown


def _compare(
    console: Console, source: str, pages: str | None, password: str, recognition: Recognition
) -> None:
    """Print the first table of each method; a cell that the first method reads otherwise bears a mark."""
    readings = {
        name: read(source, pages, name, password, recognition=recognition).tables for name in COMPARED
    }
    base = readings[COMPARED[0]]
    for number, table in enumerate(base, start=1):
        texts = {cell.text for cell in table.cells}
        console.print(
            _grid(
                table,
                f"{number}: {COMPARED[0]}, {table.rows} x {table.columns}",
                lambda *_: False,
                console.width,
            )
        )
        for name in COMPARED[1:]:
            other = _same_place(table, readings[name])
            if other is None:
                console.print(f"{number}: {name} reads no table here.\n")
            elif _cells(other) == _cells(table):
                console.print(f"{number}: {name} reads the same.\n")
            else:
                title = f"{number}: {name}, {other.rows} x {other.columns}; "
                title += f"{WRONG} marks what combined reads otherwise"
                console.print(_grid(other, title, functools.partial(_is_new, texts), console.width))
    if not base:
        click.echo("No tables were found by the method combined.")


def _is_new(known: Collection[str], _row: int, _column: int, text: str) -> bool:
    return bool(text) and text not in known


def _cells(table: Table) -> set[tuple[int, int, int, int, str]]:
    return {(c.row, c.column, c.rowspan, c.colspan, c.text) for c in table.cells if c.text}


def _same_place(table: Table, others: Sequence[Table]) -> Table | None:
    def shared(other: Table) -> float:
        total = 0.0
        for a in table.places:
            for b in other.places:
                if a.page == b.page:
                    wide = min(a.box.x1, b.box.x1) - max(a.box.x0, b.box.x0)
                    total += max(0.0, wide) * max(0.0, min(a.box.y1, b.box.y1) - max(a.box.y0, b.box.y0))
        return total

    best = max(others, key=shared, default=None)
    return best if best is not None and shared(best) > 0 else None
