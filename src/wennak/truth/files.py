"""Truth files: semantic HTML with the state of each table in `data-` attributes."""

from __future__ import annotations

import hashlib
import re
from html import escape
from pathlib import Path
from typing import cast

from ..emit import place_text, write_whole
from ..errors import MissingSource, SourceError, existing
from ..model import Cell
from .html_in import html_document, parse_html
from .model import State, Truth, TruthTable

STYLE = """body { font: 15px/1.5 system-ui, sans-serif; max-width: 70rem; margin: 1.5rem auto; padding: 0 1rem; }
table { border-collapse: collapse; margin: 0.4rem 0 1.6rem; }
caption { text-align: left; font-weight: 600; padding: 0.3rem 0; }
td, th { border: 1px solid #b5bcc6; padding: 0.15rem 0.5rem; text-align: left; vertical-align: top; white-space: pre-line; }
th { background: #eef1f5; }
[data-doubt] { outline: 2px solid #d55e00; outline-offset: -2px; }
"""  # noqa: E501


def file_hash(path: Path) -> str:
    """Return the SHA-256 of a file, in hexadecimal."""
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def load_truth(path: str | Path) -> Truth:
    """Return the truth in an HTML file.

    Any HTML with tables is a truth; without the attributes of this format its tables count as given. Raises
    MissingSource if there is no such file, SourceError if it cannot be read.
    """
    file = existing(path)
    try:
        text = file.read_text(encoding="utf-8", errors="replace")
    except OSError as error:
        raise SourceError(f"{path} cannot be read ({error.strerror}); check the file.") from error
    tree = parse_html(text, str(path))
    document, elements = html_document(tree, file.name)
    tables = []
    for table, element in zip(document.tables, elements, strict=True):
        state = element.get("data-state", "given")
        if state not in ("drafted", "checked", "given"):
            raise SourceError(
                f"{path} has a table in the state {state!r}; it must be drafted, checked or given."
            )
        starts = {(c.row, c.column): c for c in table.cells}
        doubts = {
            at: said
            for at, entry in zip(starts, element.iter("td", "th"), strict=False)
            if (said := entry.get("data-doubt"))
        }
        pages = [int(p) for p in re.findall(r"\d+", element.get("data-pages", ""))]
        tables.append(
            TruthTable(
                table, cast(State, state), element.get("data-by", ""), element.get("data-when", ""),
                element.get("data-remarks", ""), pages or table.page_numbers, doubts,
            )
        )  # fmt: skip
    source = tree.get("data-source", "")
    return Truth(file, source, tree.get("data-sha256", ""), tables, document)


def save_truth(truth: Truth) -> None:
    """Write a truth to its path; the file appears whole or not at all."""
    write_whole(truth.path, truth_html(truth))


def truth_html(truth: Truth) -> str:
    """Return the HTML of a truth: its tables with their states."""
    attributes = _attributes(
        {"lang": "en", "data-format": "wennak-truth", "data-version": "1", "data-source": truth.source,
         "data-sha256": truth.sha256}
    )  # fmt: skip
    title = escape(f"Truth of {truth.source or truth.path.stem}")
    head = f'<head>\n<meta charset="utf-8">\n<title>{title}</title>\n<style>\n{STYLE}</style>\n</head>\n'
    return (
        f"<!DOCTYPE html>\n<html{attributes}>\n{head}<body>\n<h1>{title}</h1>\n"
        f"{''.join(_table(k, t) for k, t in enumerate(truth.tables, start=1))}</body>\n</html>\n"
    )


def _table(number: int, entry: TruthTable) -> str:
    table = entry.table
    attributes = _attributes(
        {"id": f"table-{number}", "data-state": entry.state, "data-by": entry.by, "data-when": entry.when,
         "data-remarks": entry.remarks, "data-pages": ",".join(str(p) for p in entry.pages),
         "data-place": place_text(table.places)}
    )  # fmt: skip
    grid = table.grid()
    rows = []
    for r in range(table.rows):
        cells = ""
        for c in range(table.columns):
            cell = grid[r][c]
            if cell is None:
                cells += "<th></th>" if r < table.header_rows else "<td></td>"
            elif (cell.row, cell.column) == (r, c):
                cells += _cell(cell, entry.doubts.get((r, c), ""))
        rows.append(f"<tr>{cells}</tr>\n")
    head, body = "".join(rows[: table.header_rows]), "".join(rows[table.header_rows :])
    caption = f"<caption>{escape(table.caption, quote=False)}</caption>\n" if table.caption else ""
    return (
        f"<table{attributes}>\n{caption}{f'<thead>{chr(10)}{head}</thead>{chr(10)}' if head else ''}"
        f"<tbody>\n{body}</tbody>\n</table>\n"
    )


def _cell(cell: Cell, doubt: str) -> str:
    tag = "th" if cell.header else "td"
    attributes = _attributes(
        {"rowspan": str(cell.rowspan) if cell.rowspan > 1 else "",
         "colspan": str(cell.colspan) if cell.colspan > 1 else "",
         "data-doubt": doubt, "data-place": place_text(cell.places)}
    )  # fmt: skip
    text = escape(cell.text, quote=False).replace("\n", "<br>")
    return f"<{tag}{attributes}>{text}</{tag}>"


def _attributes(values: dict[str, str]) -> str:
    return "".join(f' {name}="{escape(value)}"' for name, value in values.items() if value)


def find_truth(folder: str | Path) -> list[Truth]:
    """Return the truths of a folder, by path: every HTML file in it that has its PDF.

    Raises MissingSource if there is none, SourceError if one cannot be read.
    """
    root = existing(folder)
    paths = [root] if root.is_file() else sorted(p for p in root.rglob("*.html") if p.is_file())
    found = [truth for truth in map(load_truth, paths) if truth.pdf is not None and truth.pdf.exists()]
    if not found:
        raise MissingSource(f"{folder} holds no truth; put NAME.html beside NAME.pdf.")
    return found


def truth_name(truth: Truth, root: Path) -> str:
    """Return the name of a truth below a folder: its path without the ending, or its folder."""
    if root.is_file():
        return truth.path.stem
    name = truth.path.relative_to(root).with_suffix("")
    lone = len(name.parts) > 1 and len(list(truth.path.parent.glob("*.html"))) == 1
    return (name.parent if lone and name.name == "truth" else name).as_posix()
