"""A caller's JSON Schema, filled from what a document says: by reading only, so that nothing is invented."""

from __future__ import annotations

import datetime
import json
import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import asdict, dataclass, field
from decimal import Decimal
from pathlib import Path
from typing import Any

from .checks import total_rows
from .errors import UsageError, existing
from .expected import with_expected_header
from .labelled import Pair, pairs_in
from .model import Document, Place, Table
from .phrases import CLOSE, SAME_LABEL, Match, label_likeness, matched
from .values import bare_of, date_of, decimal_mark, is_missing, number_of

# A table holds the records of a list where so many of their properties are columns of it.
SHARE = 0.5
# A label within a value: lines of a form that were joined.
_ANOTHER = re.compile(r"\s[^\W\d_][^\W_]*[:：]\s")
_TYPES = ("string", "number", "integer", "boolean", "array", "object", "null")


@dataclass(frozen=True, slots=True)
class Filled:
    """A value of a schema: None where it is missing, `why` then says so.

    `label` is what stands with it in print and `score` how alike that and the wanted label are, 0..1; `text`
    is what is printed, `place` where, and `confidence` how sure the reading of its cell is, 0..1. Where
    others would have done nearly as well, `ambiguous` are their labels and values. `method` is "remote" where
    a service was asked.
    """

    value: str | int | float | bool | None
    why: str = ""
    label: str = ""
    score: float = 0.0
    text: str = ""
    place: Place | None = None
    confidence: float = 1.0
    ambiguous: tuple[str, ...] = ()
    method: str = ""


@dataclass(slots=True)
class FilledSchema:
    """What a document says of a schema: `fields` by the path of their names ("vessel", "owner.name"),
    `records` the rows of lists by name, each by column; `why` says of a list why it has none.
    """

    document: str
    fields: dict[str, Filled] = field(default_factory=dict)
    records: dict[str, list[dict[str, Filled]]] = field(default_factory=dict)
    why: dict[str, str] = field(default_factory=dict)

    def missing(self) -> bool:
        """Whether any value or list has nothing."""
        return any(f.value is None for f in self.fields.values()) or not all(self.records.values())

    def completed(self, other: FilledSchema) -> FilledSchema:
        """Return the same with what is missing taken from another one of the same schema."""
        out = FilledSchema(self.document, dict(self.fields), dict(self.records), dict(self.why))
        for path, filled in self.fields.items():
            if filled.value is None and other.fields[path].value is not None:
                out.fields[path] = other.fields[path]
        for path, rows in self.records.items():
            if not rows and other.records[path]:
                out.records[path] = other.records[path]
                out.why.pop(path, None)
                if path in other.why:
                    out.why[path] = other.why[path]
        return out

    def values(self) -> dict[str, Any]:
        """Return the values alone, nested as the schema is."""
        out: dict[str, Any] = {}
        for path, filled in self.fields.items():
            _nested(out, path)[path.rsplit(".", 1)[-1]] = filled.value
        for path, rows in self.records.items():
            plain = [{name: cell.value for name, cell in row.items()} for row in rows]
            _nested(out, path)[path.rsplit(".", 1)[-1]] = plain
        return out


def filled_json(filled: FilledSchema) -> str:
    """Return a filled schema as one line of JSON: the values, and for each how it was come by."""
    told = {
        "document": filled.document,
        "values": filled.values(),
        "fields": {path: _told(entry) for path, entry in filled.fields.items()},
        "records": {
            path: [{name: _told(entry) for name, entry in row.items()} for row in rows]
            for path, rows in filled.records.items()
        },
        "why": filled.why,
    }
    return json.dumps(told, ensure_ascii=False)


def _told(entry: Filled) -> dict[str, Any]:
    """An entry without what it does not say."""
    return {name: value for name, value in asdict(entry).items() if name == "value" or value}


def load_schema(path: str | Path) -> dict[str, Any]:
    """Return the JSON Schema in a file. Raises MissingSource where there is none, UsageError for another."""
    file = existing(path)
    try:
        schema = json.loads(file.read_text(encoding="utf-8"))
    except (OSError, ValueError, RecursionError) as error:
        raise UsageError(f"{path} is no JSON; name a file that holds a JSON Schema of an object.") from error
    check_schema(schema)
    return dict(schema)


def check_schema(schema: object) -> None:
    """Raise UsageError where a schema cannot be filled."""
    if not isinstance(schema, Mapping):
        raise UsageError("The schema needs to be that of an object, with properties.")
    for path, entry in wanted_fields(schema):
        _names(path, entry)
        if entry["type"] == "array":
            wanted_columns(entry)


def _nested(out: dict[str, Any], path: str) -> dict[str, Any]:
    for name in path.split(".")[:-1]:
        out = out.setdefault(name, {})
    return out


def fields(document: Document, schema: Mapping[str, Any]) -> FilledSchema:
    """Fill a JSON Schema of an object from a document.

    Properties are looked for by name, `title` and `aliases` (a list of other labels): single values among the
    fields of forms, lines of "label: value", and tables of labels and values; lists of objects in the table
    whose columns match best, all columns matched at once. Nothing but what is printed comes out; what is not
    found is None and says why. Raises UsageError where the schema is none of an object.
    """
    check_schema(schema)
    wanted = dict(wanted_fields(schema))
    lists = {path: entry for path, entry in wanted.items() if entry.get("type") == "array"}
    out = FilledSchema(document.source)
    taken: set[int] = set()
    for path, entry in lists.items():
        out.records[path], out.why[path], table = _records(document, entry)
        taken |= {id(table)} if table is not None else set()
        if not out.why[path]:
            del out.why[path]
    singles = [(path, entry) for path, entry in wanted.items() if path not in lists]
    names = [name for path, entry in singles for name in _names(path, entry)]
    out.fields = dict(_singles(singles, list(pairs_in(document, names, taken))))
    return out


def _wanted(schema: Mapping[str, Any], path: str) -> Iterator[tuple[str, Mapping[str, Any]]]:
    """Every property that holds a value or a list, by path."""
    properties = schema.get("properties")
    if not isinstance(properties, Mapping) or not properties:
        where = f"the property {path[:-1]!r}" if path else "The schema"
        raise UsageError(f"{where} names no properties; give each value one, with its type.")
    for name, entry in properties.items():
        kind = entry.get("type") if isinstance(entry, Mapping) else None
        kinds = kind if isinstance(kind, list) else [kind or "string"]
        known = [k for k in kinds if k != "null"]
        if not isinstance(entry, Mapping) or len(known) != 1 or known[0] not in _TYPES:
            raise UsageError(f"The property {path}{name} needs one type of {', '.join(_TYPES)}.")
        if known[0] == "object":
            yield from _wanted(entry, f"{path}{name}.")
        else:
            yield path + str(name), {**entry, "type": known[0]}


def wanted_fields(schema: Mapping[str, Any]) -> Iterator[tuple[str, Mapping[str, Any]]]:
    """Yield every property of a schema that holds a value or a list, by path, with its one type."""
    return _wanted(schema, "")


def label_score(path: str, entry: Mapping[str, Any], label: str) -> float:
    """Return how alike a label in print and those of a property are, 0..1."""
    return max(label_likeness(name, label) for name in _names(path, entry))


def typed(entry: Mapping[str, Any], text: str) -> str | int | float | None:
    """Return a text as its property has it; None where it is none of that kind."""
    return _plain(entry["type"], entry.get("format"), text, "")


def _names(path: str, entry: Mapping[str, Any]) -> list[str]:
    aliases = entry.get("aliases", [])
    if not isinstance(aliases, list):
        raise UsageError(f"The aliases of {path} need to be a list of labels.")
    own = [path.rsplit(".", 1)[-1], str(entry.get("title", "")), *map(str, aliases)]
    return [name for name in own if name]


def _singles(
    wanted: Sequence[tuple[str, Mapping[str, Any]]], pairs: Sequence[Pair]
) -> Iterator[tuple[str, Filled]]:
    """Every single value, by path: labels are matched all at once, those with a value first."""
    names = [_names(path, entry) for path, entry in wanted]
    kinds = [
        [1.0 if not _blank(p) and _value(entry, p) is not None else 0.9 for p in pairs] for _, entry in wanted
    ]
    matches = matched(names, [pair.label for pair in pairs], SAME_LABEL, kinds)
    given = {match.found for match in matches}
    for (path, entry), own, match in zip(wanted, names, matches, strict=True):
        if match.found is None:
            yield path, Filled(None, "there is no label like it")
            continue
        alike = [max(label_likeness(name, pair.label) for name in own) for pair in pairs]
        pair, score = pairs[match.found], alike[match.found]
        value = None if _blank(pair) else _value(entry, pair)
        # The very label is outdone by none but one that says the same word for word.
        least = score if score == 1 else score - CLOSE
        rivals = tuple(
            f"{p.label}: {p.text}"
            for k, p in enumerate(pairs)
            if k not in given
            and alike[k] >= least
            and not _blank(p)
            and _value(entry, p) not in (None, value)
        )
        why = ""
        if _blank(pair):
            why = "it is not filled in"
        elif _ANOTHER.search(pair.text) and entry["type"] == "string":
            value, why = None, "another label stands within it"
        elif value is None:
            why = f"{pair.text!r} is no {entry['type']}"
        elif rivals:
            value, why = None, "several labels are as alike"
        known = (pair.label, round(score, 3), pair.text, pair.place, pair.confidence)
        yield path, Filled(value, why, *known, rivals)


def _blank(pair: Pair) -> bool:
    return pair.checked is None and is_missing(pair.text)


def _value(entry: Mapping[str, Any], pair: Pair) -> str | int | float | bool | None:
    """The value of a pair as its property has it; None where it is none of that kind."""
    kind = entry.get("type")
    if kind == "boolean":
        return pair.checked
    if pair.checked is not None and not pair.text:
        return None
    return _plain(kind, entry.get("format"), pair.text, "")


def _plain(kind: Any, form: Any, text: str, mark: str) -> str | int | float | None:
    if is_missing(text):
        return None
    if kind == "string":
        if form == "date":
            day = date_of(text)
            return day.isoformat() if isinstance(day, datetime.date) else None
        return text
    bare = bare_of(text)
    number = number_of(bare, mark or decimal_mark([bare]))
    if number is None or (kind == "integer" and number != number.to_integral_value()):
        return None
    return int(number) if kind == "integer" else _number(number)


def _number(number: Decimal) -> float | int:
    return int(number) if number == number.to_integral_value() else float(number)


def wanted_columns(entry: Mapping[str, Any]) -> list[tuple[str, Mapping[str, Any]]]:
    """Return the columns that a list wants, by name."""
    items = entry.get("items")
    if not isinstance(items, Mapping) or items.get("type", "object") != "object":
        raise UsageError("A list needs items of the type object, with a property for each column.")
    return [(path, e) for path, e in _wanted(items, "") if e["type"] != "array"]


def _records(
    document: Document, entry: Mapping[str, Any]
) -> tuple[list[dict[str, Filled]], str, Table | None]:
    """The rows of the table whose columns match a list best, or why there are none."""
    wanted = wanted_columns(entry)
    names = [_names(path, e) for path, e in wanted]
    best: tuple[float, Table | None, list[Match]] = (0.0, None, [])
    origin: Table | None = None
    for read in document.tables:
        table = with_expected_header(read, names)
        labels = table.header_labels() if table.header_rows else []
        kinds = [[_fits(e, table, k) for k in range(len(labels))] for _, e in wanted]
        matches = matched(names, labels, SAME_LABEL, kinds)
        score = sum(m.score for m in matches if m.found is not None) / len(wanted)
        if score > best[0]:
            best, origin = (score, table, matches), read
    reached, chosen, matches = best
    if chosen is None or reached < SHARE:
        return [], "no table has columns like its properties", None
    labels, grid, totals = chosen.header_labels(), chosen.grid(), set(total_rows(chosen))
    body = [grid[r] for r in range(chosen.header_rows, chosen.rows) if r not in totals]
    out: list[dict[str, Filled]] = [{} for _ in body]
    for (path, e), match in zip(wanted, matches, strict=True):
        k = match.found
        cells = [row[k] if k is not None else None for row in body]
        texts = [" ".join(cell.shown.split()) if cell is not None else "" for cell in cells]
        mark = decimal_mark([bare_of(text) for text in texts])
        for row, cell, text in zip(out, cells, texts, strict=True):
            value = _plain(e["type"], e.get("format"), text, mark)
            why = "" if value is not None else _why_not(k, text, e)
            label, score = (labels[k], round(match.score, 3)) if k is not None else ("", 0.0)
            place = cell.places[0] if cell and cell.places else None
            sure = cell.confidence if cell else 1.0
            row[path] = Filled(value, why, label, score, text, place, sure)
    return [row for row in out if any(cell.text for cell in row.values())], "", origin


def _why_not(column: int | None, text: str, entry: Mapping[str, Any]) -> str:
    if column is None:
        return "no column is like it"
    return f"{text!r} is no {entry['type']}" if text else "its cell is empty"


def _fits(entry: Mapping[str, Any], table: Table, column: int) -> float:
    """How well the values of a column are of the kind of a property: 1, or less where most are not."""
    if entry["type"] == "string" and entry.get("format") != "date":
        return 1.0
    texts = [c.shown for c in table.cells if c.column == column and c.row >= table.header_rows and c.text]
    mark = decimal_mark([bare_of(text) for text in texts])
    good = sum(_plain(entry["type"], entry.get("format"), text, mark) is not None for text in texts)
    return 1.0 if not texts or 2 * good >= len(texts) else 0.85
