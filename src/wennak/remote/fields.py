"""A caller's own schema, answered by a service page by page, and looked up on the page like tables are."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np

from ..filling import Filled, FilledSchema, label_score, typed, wanted_columns, wanted_fields
from ..layout import PageLayout
from ..model import Place
from .answer import BadAnswer, TextCell, TextTable, peeled
from .ask import Answer
from .ground import Grounded, ground
from .lines import NEXT_LINE, SAME_LINE, Lines, Stand

TASK = (
    "The picture shows one page of a document. Fill the given JSON schema with what is printed on it: each "
    "text exactly as printed, and beside single values the label that is printed with them; null for what "
    "is not on this page. Write nothing but the JSON."
)
BY = "remote"


@dataclass(slots=True)
class Said:
    """What an answer says of a page: text and label of single values, and records, by path."""

    singles: dict[str, tuple[str, str]] = field(default_factory=dict)
    records: dict[str, list[dict[str, str]]] = field(default_factory=dict)


def asked_schema(schema: Mapping[str, Any]) -> dict[str, Any]:
    """Return the schema of an answer about one page: that of the caller, with a text and its label for each
    value, all of which may be missing. Check boxes are not asked about: nothing is printed that could be
    looked up.
    """
    text: dict[str, Any] = {"type": ["string", "null"]}
    single = {"type": ["object", "null"], "required": ["text"], "properties": {"text": text, "label": text}}

    def properties(entry: Mapping[str, Any], leaf: dict[str, Any]) -> dict[str, Any]:
        out: dict[str, Any] = {}
        for name, inner in entry["properties"].items():
            told = {k: inner[k] for k in ("title", "description", "aliases") if k in inner}
            if "properties" in inner:
                out[name] = told | {"type": "object", "properties": properties(inner, leaf)}
            elif "items" in inner:
                items = {"type": "object", "properties": properties(inner["items"], text)}
                out[name] = told | {"type": "array", "maxItems": 2000, "items": items}
            elif inner.get("type") != "boolean":
                out[name] = told | leaf
        return out

    return {"type": "object", "properties": properties(schema, single)}


def said_by(schema: Mapping[str, Any]) -> Callable[[str], tuple[Said, bool]]:
    """Return what reads an answer; it raises BadAnswer for one that is of another form."""
    wanted = dict(wanted_fields(schema))

    def read(answer: str) -> tuple[Said, bool]:
        data, around = peeled(answer)
        if not isinstance(data, dict):
            raise BadAnswer("it is no object")
        said = Said()
        for path, entry in wanted.items():
            value = _at(data, path)
            if value is None:
                continue
            if entry["type"] == "array":
                said.records[path] = list(_records(value, path, entry))
            else:
                text, label = _text(value, path), value.get("label") if isinstance(value, dict) else ""
                if text:
                    said.singles[path] = text, label if isinstance(label, str) else ""
        return said, around

    return read


def _at(data: Any, path: str) -> Any:
    for name in path.split("."):
        data = data.get(name) if isinstance(data, dict) else None
    return data


def _text(value: Any, path: str) -> str:
    text = value.get("text") if isinstance(value, dict) else value
    if text is None:
        return ""
    if isinstance(text, (dict, list)):
        raise BadAnswer(f"{path} is no text: {json.dumps(text)[:60]}")
    return str(text).strip()


def _records(value: Any, path: str, entry: Mapping[str, Any]) -> Iterator[dict[str, str]]:
    if not isinstance(value, list) or not all(isinstance(row, dict) for row in value):
        raise BadAnswer(f"{path} is no list of records")
    names = [name for name, _ in wanted_columns(entry)]
    for row in value:
        texts = {name: _text(_at(row, name), f"{path}.{name}") for name in names}
        if any(texts.values()):
            yield texts


def fields_said(
    document: str, schema: Mapping[str, Any], pages: Sequence[tuple[PageLayout, Answer[Said]]]
) -> FilledSchema:
    """Return what was answered of each page, as far as it stands there, as a filled schema.

    A single value has to stand beside its label, or in one place only; records where their rows and columns
    cross. Pages without an answer are told in `why`, and so are lines that no record claims.
    """
    wanted = dict(wanted_fields(schema))
    out = FilledSchema(document)
    silent = [f"page {layout.number}: {answer.why}" for layout, answer in pages if answer.why]
    for path, entry in wanted.items():
        if entry["type"] == "array":
            out.records[path], lost = [], []
            for layout, answer in pages:
                rows = answer.content.records.get(path, []) if answer.content else []
                records, lines = _rows(layout, entry, rows)
                out.records[path] += records
                lost += [f'"{line}" on page {layout.number}' for line in lines]
            if lost:
                out.why[path] = f"lines that are in no record: {', '.join(lost)}"
            elif not out.records[path]:
                out.why[path] = "; ".join(silent) or "no page was answered to have such a list"
        else:
            found = [
                _single(layout, path, entry, *answer.content.singles[path])
                for layout, answer in pages
                if answer.content and path in answer.content.singles
            ]
            out.fields[path] = _one(found, silent)
    return out


def _one(found: Sequence[Filled], silent: Sequence[str]) -> Filled:
    """What the pages say together: one value, or why there is none."""
    given = [filled for filled in found if filled.value is not None]
    if not given:
        return found[0] if found else Filled(None, "; ".join(silent) or "no page was answered to have it")
    others = tuple(f"{f.label}: {f.text}" for f in given[1:] if f.value != given[0].value)
    if others:
        return replace(given[0], value=None, why="pages say it otherwise", ambiguous=others)
    return given[0]


def _single(layout: PageLayout, path: str, entry: Mapping[str, Any], text: str, label: str) -> Filled:
    lines = Lines(layout)
    stands = lines.stands(text)
    if not stands:
        return Filled(None, f"{text!r} was answered, and is not on page {layout.number}", label, method=BY)
    # Labels are told with their colon or without.
    bare = label.rstrip(" :：")
    labels = [at for form in (bare, f"{bare}:", f"{bare}：") for at in lines.stands(form)]
    beside = [stand for at in labels for stand in stands if _belongs(layout, at, stand)]
    if label and not beside:
        why = f"{text!r} was answered, and stands by no {label!r} on page {layout.number}"
        return Filled(None, why, label, text=text, method=BY)
    stands = beside or stands
    if len({stand.words for stand in stands}) > 1:
        return Filled(None, f"{text!r} stands in several places", label, text=text, method=BY)
    printed = " ".join(layout.words.texts[i] for i in stands[0].words)
    value = typed(entry, printed)
    why = "" if value is not None else f"{printed!r} is no {entry['type']}"
    score = round(label_score(path, entry, label), 3) if label else 0.0
    return Filled(value, why, label, score, printed, *_seen(layout, stands[0]), method=BY)


def _belongs(layout: PageLayout, label: Stand, value: Stand) -> bool:
    """Whether a value stands right of a label on its line, or right below it."""
    w = layout.words
    height = float(w.y1[label.words[0]] - w.y0[label.words[0]])
    if set(label.words) & set(value.words):
        return False
    if abs(value.top - label.bottom) < SAME_LINE * height:
        return value.x0 >= label.x1 - 1 and _nothing_between(layout, label, value)
    return 0 < value.top - label.bottom < NEXT_LINE * height and value.x0 < label.x1 and value.x1 > label.x0


def _nothing_between(layout: PageLayout, label: Stand, value: Stand) -> bool:
    """Whether no other label, a word that ends in a colon, stands between two on a line."""
    w = layout.words
    level = np.abs(w.baseline - value.top) < 1
    between = np.flatnonzero(level & (w.x0 >= label.x1) & (w.x1 <= value.x0))
    return not any(
        w.texts[i].endswith((":", "：")) and w.texts[i] not in (":", "：") for i in between.tolist()
    )


def _seen(layout: PageLayout, stand: Stand) -> tuple[Place, float]:
    """Where words stand, and how sure they are read."""
    words = np.array(stand.words, dtype=np.int64)
    return layout.place(layout.box(words)), float(layout.words.sure[words].min())


def _rows(
    layout: PageLayout, entry: Mapping[str, Any], rows: Sequence[Mapping[str, str]]
) -> tuple[list[dict[str, Filled]], list[str]]:
    """The records of a page, and the lines among them that none claims."""
    columns = wanted_columns(entry)
    cells = [
        TextCell(r, c, row[name])
        for r, row in enumerate(rows)
        for c, (name, _) in enumerate(columns)
        if row[name]
    ]
    if not cells:
        return [], []
    (found,) = ground(layout, [TextTable(len(rows), len(columns), cells)])
    stands = _stands(found)
    out: list[dict[str, Filled]] = []
    for r, row in enumerate(rows):
        record: dict[str, Filled] = {}
        for c, (name, kind) in enumerate(columns):
            stand = stands.get((r, c))
            if stand is not None:
                printed = " ".join(layout.words.texts[i] for i in stand.words)
                value = typed(kind, printed)
                why = "" if value is not None else f"{printed!r} is no {kind['type']}"
                record[name] = Filled(value, why, "", 0.0, printed, *_seen(layout, stand), method=BY)
            else:
                why = f"{row[name]!r} was answered, and does not stand there" if row[name] else "it is empty"
                record[name] = Filled(None, why, method=BY)
        if any(cell.text for cell in record.values()):
            out.append(record)
    return out, found.lost


def _stands(found: Grounded) -> dict[tuple[int, int], Stand]:
    return {(c.row, c.column): stand for c, stand in found.frame.cells} if found.frame else {}
