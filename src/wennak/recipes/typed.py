"""Printed texts -> the values that a recipe says they are, exactly, or a sentence why not."""

from __future__ import annotations

import datetime
import re
from collections.abc import Sequence
from decimal import Decimal

from ..values import bare_of, date_of, decimal_mark, is_missing, number_of
from .formula import Value
from .model import NUMERIC, Column

# Credits and debits as accounts print them behind an amount.
_CREDIT = re.compile(r"\s*(?:CR|Cr)\.?$")
_DEBIT = re.compile(r"\s*(?:DR|Dr)\.?$")


def typed(column: Column, texts: Sequence[str]) -> tuple[list[Value], list[tuple[int, str]]]:
    """Return the value of each text of a column, None for a missing one; and what is wrong, by position.

    Money may be negative by parentheses, a minus before or after it, or CR behind it; DR is positive. Where
    the recipe names no decimal mark, that of all texts of the column counts.
    """
    values: list[Value] = []
    wrong: list[tuple[int, str]] = []
    mark: str = column.decimal or ""
    if column.type in NUMERIC and not mark:
        mark = decimal_mark([_amount(column, text)[0] for text in texts])
    for k, text in enumerate(texts):
        if _is_missing(column, text):
            values.append(None)
            if column.filled:
                wrong.append((k, f"{column.name} is empty"))
            continue
        value = _value(column, text, mark)
        values.append(value)
        if value is None:
            wrong.append((k, _why(column, text, mark)))
    return values, wrong


def _is_missing(column: Column, text: str) -> bool:
    if column.missing is not None:
        return not text or text in column.missing
    # In a text "-" may be a text; what stands for no number or day is known.
    return not text if column.type in ("text", "identifier") else is_missing(text)


def _amount(column: Column, text: str) -> tuple[str, bool]:
    """A number without its signs, and whether it is a credit."""
    if column.type != "money":
        return bare_of(text), False
    rest = _CREDIT.sub("", text)
    return bare_of(_DEBIT.sub("", rest)), rest != text


def _value(column: Column, text: str, mark: str) -> Value:
    match column.type:
        case "text":
            return text
        case "identifier":
            return "".join(text.split())
        case "date":
            return _day(column.format, text)
    bare, credit = _amount(column, text)
    number = number_of(bare, mark)
    return -number if credit and number is not None else number


def _day(form: str | None, text: str) -> datetime.date | None:
    if form is None:
        return date_of(text)
    try:
        found = datetime.datetime.strptime(text, form)
    except ValueError:
        return None
    return found.date()


def _why(column: Column, text: str, mark: str) -> str:
    if column.type == "date":
        form = f" of the form {column.format}" if column.format else "; give the column a format"
        return f"{column.name}: {text!r} is no date{form}"
    if not mark and re.search(r"[.,]", text):
        return f"{column.name}: {text!r} leaves its decimal mark open; say decimal: in the column"
    return f"{column.name}: {text!r} is no number"


def plain_value(text: str) -> Decimal | str:
    """Return a text that stands alone as a number, where it certainly is one, or as it is."""
    bare = bare_of(text)
    number = number_of(bare, decimal_mark([bare])) if bare else None
    return text if number is None else number
