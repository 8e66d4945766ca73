"""How well schemas are filled: python benchmarks/fields.py TRUTH... [--worst N].

TRUTH are folders of documents, each a folder with doc.pdf and truth.html. The schema of each document is
made from its own truth: a property for each label of a "label: value" line and of each table of labels and
values, three labels of other documents, which it does not say, and a list with the columns of its first
table that has one header row and no spans. What comes back is compared with the truth, blanks and bullets
aside.
"""

from __future__ import annotations

import argparse
import re
from collections import Counter
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from lxml import html

import wennak
from wennak.checks import is_total
from wennak.values import is_missing

ABSENT = 3
_LINE = re.compile(r"^([^:]{2,80}?)\s*:\s+(\S.*)$")
_BARE = re.compile(r"[\s•▪–‣*·◦-]|^\d+\.")
Table = tuple[list[str], list[list[str]]]


def main() -> None:
    """Print precision and recall of single values and of the cells of lists."""
    parser = argparse.ArgumentParser(description=__doc__.split("\n")[0])
    parser.add_argument("truth", nargs="+", type=Path)
    parser.add_argument("--worst", type=int, default=0, help="so many mistakes are listed")
    options = parser.parse_args()
    counts: Counter[str] = Counter()
    mistakes: list[str] = []
    seen: list[str] = []
    for folder in sorted(path.parent for truth in options.truth for path in truth.glob("*/truth.html")):
        root = html.parse(str(folder / "truth.html")).getroot()
        pairs, table = truth_of(root)
        if pairs and table:
            absent = [label for label in seen if label.lower() not in root.text_content().lower()][-ABSENT:]
            mistakes += measured(folder, pairs, absent, table, counts)
            seen += [label for label in pairs if label not in seen]
    print(f"{counts['documents']} documents with labelled values and a table")
    for name in ("values", "cells"):
        right, wrong, lost = (counts[f"{name} {what}"] for what in ("right", "wrong", "lost"))
        precision, recall = right / max(right + wrong, 1), right / max(right + lost, 1)
        print(f"{name}: {right} right, {wrong} wrong, {lost} lost")
        print(f"  precision {precision:.4f}, recall {recall:.4f}")
    doubled = f"{counts['doubled']} of them said twice, and otherwise"
    print(f"ambiguous: {counts['ambiguous']}, {doubled}")
    for said in mistakes[: options.worst]:
        print(" ", said)


def truth_of(root: Any) -> tuple[dict[str, set[str]], Table | None]:
    """Return the labelled values of a truth, and its first table that can be a list of records.

    Labels that also stand elsewhere in tables are left out: what they say there is no single value.
    """
    pairs = [(m[1], m[2]) for p in root.iter("p") if (m := _LINE.match(_text(p))) and len(m[1].split()) <= 7]
    found: Table | None = None
    for element in root.iter("table"):
        rows, heads = element.xpath(".//tr"), element.xpath(".//thead/tr")
        if element.xpath(".//*[@rowspan or @colspan]"):
            continue
        if not heads and all(len(row) == 2 for row in rows):
            pairs += [(_text(row[0]).rstrip(" :"), _text(row[1])) for row in rows]
        elif len(heads) == 1 and len(heads[0]) > 2 and found is None:
            labels = [_text(cell) for cell in heads[0]]
            body = [[_text(cell) for cell in row] for row in element.xpath(".//tbody/tr")]
            if all(labels) and len(set(labels)) == len(labels):
                found = labels, [row for row in body if not is_total(next(filter(None, row), ""))]
    cells = Counter(_text(cell).rstrip(" :") for cell in root.iter("td", "th"))
    labelled = Counter(label for label, _ in pairs)
    out: dict[str, set[str]] = {}
    for label, value in pairs:
        if cells[label] <= labelled[label]:
            out.setdefault(label, set()).add(value)
    return out, found


def measured(
    folder: Path, pairs: dict[str, set[str]], absent: list[str], table: Table, counts: Counter[str]
) -> Iterator[str]:
    """Fill the schema of a document, count what is right, and yield the mistakes."""
    names = {f"value {k}": label for k, label in enumerate([*pairs, *absent])}
    columns = {f"column {k}": label for k, label in enumerate(table[0])}
    schema = {"properties": {
        **{name: {"type": "string", "title": label} for name, label in names.items()},
        "rows": {"type": "array", "items": {"properties": {
            name: {"type": "string", "title": label} for name, label in columns.items()
        }}},
    }}  # fmt: skip
    filled = wennak.fields(wennak.read(folder / "doc.pdf"), schema)
    counts["documents"] += 1
    for name, label in names.items():
        field = filled.fields[name]
        true = {value for value in pairs.get(label, set()) if not is_missing(value)}
        if field.ambiguous:
            counts["ambiguous"] += 1
            counts["doubled"] += len(true) > 1
        elif field.value is None:
            counts["values lost"] += bool(true)
        else:
            right = _bare(str(field.value)) in {_bare(value) for value in true}
            counts["values right" if right else "values wrong"] += 1
            if not right:
                yield f"{folder.name}: {label!r} is {sorted(true)}, not {field.value!r}"
    wanted = Counter((k, _bare(v)) for row in table[1] for k, v in enumerate(row) if not is_missing(v))
    got = Counter(
        (k, _bare(str(cell.value)))
        for row in filled.records["rows"]
        for k, cell in enumerate(row.values())
        if cell.value is not None
    )
    for what, some in (("right", wanted & got), ("wrong", got - wanted), ("lost", wanted - got)):
        counts[f"cells {what}"] += sum(some.values())
    if got - wanted:
        yield f"{folder.name}: {sum((got - wanted).values())} of {sum(got.values())} cells are wrong"


def _text(element: Any) -> str:
    return " ".join(element.text_content().split())


def _bare(text: str) -> str:
    return _BARE.sub("", text)


if __name__ == "__main__":
    main()
