"""Printed texts -> numbers and dates, only where that is certain.

What a mark means is settled by a whole column: 2,40 beside 1,234.50 is something else than beside 3,75.
"""

from __future__ import annotations

import datetime
import re
from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

# What stands for no value.
_MISSING = re.compile(r"^(|[-–—−_]+|\.+|…+|n\.?/?a\.?|:)$", re.I)
# Signs of currencies, before or after a number; and marks of notes after it.
_SIGN = re.compile(r"[$€£¥]|\b(?:USD|EUR|GBP|CHF|SEK|NOK|DKK|kr)\b\.?")
_NOTE = re.compile(r"[*†‡§¶⁰¹²³⁴⁵⁶⁷⁸⁹ᵃᵇᶜᵈᵉᶠᵍʰ]+$")
# What holds none of all that.
_PLAIN = re.compile(r"[-+(]?[0-9][0-9.,]*\)?")
_POWER = re.compile(r"(?<!\d)10[⁰¹²³⁴⁵⁶⁷⁸⁹]+$")
_NUMBER = re.compile(r"^([-+−]?)([0-9][0-9.,'’  \u2009]*|[.,][0-9]+)$")
_NO_DIGIT = re.compile(r"[^0-9]")
_OTHER = re.compile(r"[^0-9.,]")
_THOUSANDS = {mark: re.compile(rf"\d{{1,3}}(\{mark}\d{{3}})+") for mark in ".,"}
_GROUPS = re.compile(r"^[0-9]{1,3}([ ' ’ \u2009])[0-9]{3}(?:\1[0-9]{3})*(?=[.,]|$)")
_ISO = re.compile(r"^(\d{4})-(\d{2})-(\d{2})$")
_MONTHS = "january february march april may june july august september october november december".split()
_SPOKEN = re.compile(r"^(\d{1,2}) ([A-Za-z]{3,9})\.? (\d{4})$")


@dataclass(frozen=True, slots=True)
class Column:
    """Typed values of a column, None for a missing one; `kind` is "number", "date" or "text".

    `odd` holds the positions of the texts that kept the column from being typed; it is then text throughout.
    """

    kind: str
    values: list[float | datetime.date | None]
    odd: list[int]


def typed_column(texts: Sequence[str]) -> Column:
    """Return the values of a column of printed texts, if every one of them is certain.

    Accounting negatives in parentheses, a trailing minus, currency and percent signs, thousands marks and
    decimal marks are understood; a percentage keeps the number in print. Numbers with leading zeros are
    identifiers, and "July 2007" is no day: both stay text.
    """
    bare = [bare_of(text) for text in texts]
    filled = [i for i, text in enumerate(bare) if not is_missing(text)]
    if not filled:
        return Column("text", [None] * len(texts), [])
    if all(date_of(bare[i]) for i in filled):
        return Column("date", [None if is_missing(text) else date_of(text) for text in bare], [])
    mark = decimal_mark([bare[i] for i in filled])
    numbers = {i: number_of(bare[i], mark) for i in filled}
    odd = [i for i, value in numbers.items() if value is None]
    if odd:
        return Column("text", [None] * len(texts), odd if len(odd) < len(filled) else [])
    known = {i: float(value) for i, value in numbers.items() if value is not None}
    return Column("number", [known.get(i) for i in range(len(texts))], [])


def unit_of(text: str) -> str:
    """Return the sign of a currency, or of percent, in a printed value; nothing where there is none."""
    sign = _SIGN.search(text)
    return sign[0].rstrip(".") if sign else "%" * text.rstrip().endswith("%")


def decimal_mark(texts: Sequence[str]) -> str:
    """Return "." or "," as the decimal mark of a column, or "" where the texts leave it open."""
    marks = {".": 0, ",": 0}
    single: set[str] = set()
    for text in texts:
        points, commas = text.count("."), text.count(",")
        if points and commas:
            marks["." if text.rindex(".") > text.rindex(",") else ","] += 1
        elif points + commas > 1:
            marks["," if points else "."] += 1
        elif points or commas:
            mark = "." if points else ","
            head, tail = (len(_NO_DIGIT.sub("", part)) for part in text.split(mark))
            if tail != 3 or head > 3 or head == 0 or text.lstrip("-+−(").startswith("0"):
                marks[mark] += 1
            else:
                single.add(mark)
    if marks["."] and marks[","]:
        return ""
    if marks["."] or marks[","]:
        return "." if marks["."] else ","
    # Only 1,234: thousands, if a comma; 1.234 may be either.
    return "." if single in (set(), {","}) else ""


def is_missing(text: str) -> bool:
    """Return whether a text stands for no value: nothing, dashes, points, a line to write on, "n/a"."""
    return _MISSING.match(text) is not None


def bare_of(text: str) -> str:
    """Return a text without signs of currency, percent and notes; powers of ten keep what is raised."""
    if _PLAIN.fullmatch(text):
        return text
    text = _SIGN.sub("", " ".join(text.split())).strip()
    text = text if _POWER.search(text) else _NOTE.sub("", text)
    return text.removesuffix("%").strip()


def number_of(text: str, mark: str) -> Decimal | None:
    """Return the number that a bare text says, exactly, with `mark` as its decimal mark; None if it is none.

    Parentheses and a trailing minus make it negative. With "" as the mark, numbers with points or commas are
    none; nor is what has leading zeros.
    """
    negative = False
    if text.startswith("(") and text.endswith(")"):
        negative, text = True, text[1:-1].strip()
    elif text[-1:] in "-−" and text[:-1]:
        negative, text = True, text[:-1].strip()
    match = _NUMBER.match(text.replace("− ", "−").replace("- ", "-"))
    if match is None:
        return None
    digits = match[2].strip()
    if _GROUPS.match(digits):
        digits = re.sub(r"[ ' ’ \u2009]", "", digits)
    elif _OTHER.search(digits):
        return None
    if digits[0] == "0" and digits[1:2].isdecimal():
        return None
    if "." in digits or "," in digits:
        if not mark:
            return None
        other = "," if mark == "." else "."
        whole, _, rest = digits.partition(mark)
        if other in rest or mark in rest or (other in whole and not _THOUSANDS[other].fullmatch(whole)):
            return None
        digits = whole.replace(other, "") + (f".{rest}" if rest else "")
    value = Decimal(digits if digits[0] != "." else f"0{digits}")
    return -value if negative or match[1] in ("-", "−") else value


def date_of(text: str) -> datetime.date | None:
    """Return the date of a text in an unambiguous form: 2024-05-31, or 31 May 2024; None for any other."""
    iso, spoken = _ISO.match(text), _SPOKEN.match(text)
    try:
        if iso:
            return datetime.date(*(int(part) for part in iso.groups()))
        if spoken:
            name = spoken[2].lower()
            months = [k for k, month in enumerate(_MONTHS, start=1) if month == name or month[:3] == name]
            return datetime.date(int(spoken[3]), months[0], int(spoken[1])) if months else None
    except ValueError:
        pass
    return None
