"""A table that was recognised -> a first recipe for it, with comments, to be read and changed."""

from __future__ import annotations

import json
import re
from collections.abc import Iterable, Sequence

from ..model import Document, Heading, Table
from ..phrases import label_likeness
from ..values import bare_of, decimal_mark, is_missing, number_of, typed_column, unit_of
from .apply import apply_recipe
from .file import read_recipe
from .layout import layout_of
from .model import NUMERIC, ValueType
from .rows import Rowset, rows_of
from .where import find_table

_MONTHS = "January|February|March|April|May|June|July|August|September|October|November|December"
_MONTH_YEAR = re.compile(rf"\b(?P<month>{_MONTHS}) (?P<year>\d{{4}})\b")
_DAY_MONTH = re.compile(rf"\d{{1,2}} (?:{_MONTHS})$")
# A caption without its number.
_NUMBERED = re.compile(r"^\W*\w+\W? \d+[.:]?\s*[-:.]?\s*")


def draft_recipe(document: Document, table: Table, name: str) -> str:
    """Return a recipe for a table of a document, as YAML with comments.

    Its checks are those that hold of the document: what a total is the sum of is tried out, and where that
    does not come out, the check is a comment that says so.
    """
    number = _number(document, table, name)
    written = []
    for check in _candidates(table, _text(document, table, name, number, [])):
        recipe = read_recipe(_text(document, table, name, number, [f"  - {check}"]))
        applied = apply_recipe(recipe, document)
        if applied.good:
            written.append(f"  - {check}")
        elif check.startswith("adds_up") and applied.verdicts:
            written += [f"  # It does not hold here: {applied.verdicts[-1].said}", f"  # - {check}"]
    return _text(document, table, name, number, written)


def _number(document: Document, table: Table, name: str) -> int:
    """Which of the tables that the recipe would mean it is; 0 where it is the only one."""
    for number in range(len(document.tables) + 1):
        found = find_table(read_recipe(_text(document, table, name, number, [])), document).table
        if found is not None and found.places == table.places:
            return number
    return next(k for k, t in enumerate(document.tables, start=1) if t is table)


def _text(document: Document, table: Table, name: str, number: int, checks: Sequence[str]) -> str:
    rowset = rows_of(table)
    headings = [b.text for b in document.blocks if isinstance(b, Heading)]
    period = next((m for text in headings if (m := _MONTH_YEAR.search(text))), None)
    groups = [row.text for row in rowset.rows if row.kind == "group"]
    out = [
        "# What is said once here is done with every document of this layout.",
        f"# Made from {document.source}; read it through, change what is not meant, then try it:",
        f"#   wennak recipe try {name}.yaml {document.source}",
        "wennak-recipe: 1",
        f"name: {_quoted(name)}",
        "",
        "# Which documents it is for; also says_not, page_size, producer.",
        "documents:",
        f"  says: [{', '.join(map(_quoted, _constant(headings, document.title)))}]",
        "",
        "# Where the table is; also pages, number (the n-th like it), region.",
        "table:",
    ]
    near = _NUMBERED.sub("", table.caption) if table.caption else ""
    if words := _still(near):
        out.append(f"  near: {_quoted(words)}")
    labels = [label for label in table.header_labels() if label]
    if labels:
        out.append(f"  headers: [{', '.join(map(_quoted, labels))}]")
    if number or not (words or labels):
        out.append(f"  number: {max(number, 1)}")
    dated = _days(rowset) if period else ""
    if period and dated:
        out += [
            "",
            "# Values that stand outside the table; they can be joined to columns, and be columns.",
            "take:",
            f"  - pattern: '(?P<month>{_MONTHS}) (?P<year>\\d{{4}})'",
        ]
    steps = []
    if any(row.kind == "header" for row in rowset.rows):
        steps.append("  - drop: {rows: header}")
    if groups:
        steps += [
            f"  # Lines that head others, such as {_quoted(groups[0])}, become a column of those.",
            "  - carry: {rows: group, pattern: '(?P<group>.+)'}",
        ]
    if period and dated:
        steps.append(f"  - join: {{columns: [{_quoted(dated)}, year], into: {_quoted(dated)}}}")
    if steps:
        out += [
            "",
            "# How it is cleaned, in this order: drop, carry, records, split, join, fill.",
            "clean:",
            *steps,
        ]
    out += ["", "# The columns of the data; they are looked for by name and aliases.", "columns:"]
    if groups:
        out.append("  - name: group")
    for label, column, kind in _columns(rowset, dated if period else ""):
        out.append(f"  - name: {_quoted(column)}")
        if label_likeness(column, label) < 1:
            out.append(f"    aliases: [{_quoted(label)}]")
        if kind != "text":
            out.append(f"    type: {kind}")
        if kind == "date" and label == dated:
            out.append('    format: "%d %B %Y"')
    out += [
        "",
        "# What must hold, or the document goes to the review folder.",
        "checks:",
        "  - rows: {at_least: 1}",
        *checks,
        "",
        "# Also columns, order, totals (apart, none), red_negatives.",
        "output:",
        "  formats: [csv]",
    ]
    layout = layout_of(table, document)
    out += [
        "",
        "# What the table looked like here; wennak recipe drift compares with it.",
        "layout:",
        f"  page_size: {layout.page_size}",
        f"  headers: [{', '.join(map(_quoted, layout.headers))}]",
        f"  columns: [{', '.join(layout.columns)}]",
    ]
    return "\n".join(out) + "\n"


def _quoted(text: str) -> str:
    """A text as YAML holds it on one line."""
    plain = re.fullmatch(r"[A-Za-z][\w -]*", text) and text == text.strip()
    return text if plain else json.dumps(text, ensure_ascii=False)


def _constant(headings: Iterable[str], title: str) -> list[str]:
    """What the next document of this layout will say as well: the first heading, without its numbers."""
    for text in (*headings, title):
        if words := _still(text):
            return [words]
    return []


def _still(text: str) -> str:
    """The longest part of a text that names no number and no month."""
    parts = re.split(rf"[,;:()]|\b(?:{_MONTHS})\b|\S*\d\S*", text)
    return max((" ".join(part.split()) for part in parts), key=len, default="").strip(" -–—.")


def _days(rowset: Rowset) -> str:
    """The column whose texts are days without a year."""
    for label in rowset.columns:
        texts = [row.texts[label] for row in rowset.rows if row.kind == "line" and row.texts[label]]
        if texts and all(_DAY_MONTH.match(text) for text in texts):
            return label
    return ""


def _columns(rowset: Rowset, dated: str) -> list[tuple[str, str, ValueType]]:
    """Label, name and kind of each column."""
    out: list[tuple[str, str, ValueType]] = []
    for label in rowset.columns:
        name = re.sub(r"\W+", "_", label.casefold()).strip("_") or "column"
        taken = {used for _, used, _ in out}
        unique = name if name not in taken else f"{name}_{len(out) + 1}"
        texts = [row.texts[label] for row in rowset.rows if row.kind == "line"]
        out.append((label, unique, "date" if dated and label == dated else _kind(texts)))
    return out


def _kind(texts: Sequence[str]) -> ValueType:
    """What the texts of a column are, as far as they tell."""
    filled = [text for text in texts if not is_missing(text)]
    column = typed_column(texts)
    if column.kind == "date" or not filled:
        return "date" if filled else "text"
    if all(re.fullmatch(r"0\d+", text) for text in filled):
        return "identifier"
    if column.kind != "number":
        return "text"
    if all(unit_of(text) == "%" for text in filled):
        return "percent"
    mark = decimal_mark([bare_of(text) for text in filled])
    numbers = [n for text in filled if (n := number_of(bare_of(text), mark)) is not None]
    if any(unit_of(text) for text in filled) or all(n.as_tuple().exponent == -2 for n in numbers):
        return "money"
    # Whole numbers of one length, each there once, count nothing.
    lengths = {len(text) for text in filled}
    if len(filled) > 2 and len(lengths) == 1 and min(lengths) > 3 and len(set(filled)) == len(filled):
        return "identifier" if all(text.isdigit() for text in filled) else "number"
    return "number"


def _candidates(table: Table, text: str) -> list[str]:
    """Checks that may hold: for each label of totals, what they sum."""
    recipe = read_recipe(text)
    numeric = [c.name for c in recipe.columns if c.type in NUMERIC]
    unique = [c.name for c in recipe.columns if c.type == "identifier"]
    rows = rows_of(table).rows
    labels = dict.fromkeys(_still(row.text) for row in rows if row.kind == "total")
    grouped = any(c.name == "group" for c in recipe.columns)
    out = [f"unique: [{_quoted(name)}]" for name in unique]
    for label in filter(None, labels):
        pattern = "'^" + re.escape(label).replace("\\ ", " ").replace("'", "''") + "'"
        for column in numeric:
            tail = f"{{columns: [{_quoted(column)}], totals: {pattern}"
            out.append(f"adds_up: {tail}{', per: group' if grouped and label != 'Total' else ''}}}")
    return out


def draft_name(document: Document) -> str:
    """Return a name for the recipe of a document: that of its file, without numbers."""
    stem = re.sub(r"\.\w+$", "", document.source.rsplit("/", 1)[-1])
    return re.sub(r"\W*\d+\W*", "-", stem).strip("-_. ").replace(" ", "-") or "recipe"
