"""What a recipe says, section by section: pydantic models, from which its JSON Schema is made."""

from __future__ import annotations

import re
from decimal import Decimal
from typing import Annotated, Literal, Self

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, model_validator

from ..errors import UsageError
from ..measures import points
from ..pages import page_numbers
from .formula import Formula, read_formula

# Sizes of paper by name, in millimetres.
PAPER = {"A3": (297.0, 420.0), "A4": (210.0, 297.0), "A5": (148.0, 210.0), "Letter": (215.9, 279.4),
         "Legal": (215.9, 355.6)}  # fmt: skip


def _pattern(text: str) -> str:
    try:
        re.compile(text)
    except re.error as error:
        raise ValueError(f"{text!r} is no regular expression: {error}") from error
    return text


def _named_groups(text: str) -> str:
    _pattern(text)
    if not re.compile(text).groupindex:
        raise ValueError(f"{text!r} names no part; write one as (?P<name>...)")
    return text


def _formula(text: str) -> str:
    read_formula(text)
    return text


def _statement(text: str) -> str:
    if not read_formula(text).compares:
        raise ValueError(f"{text!r} says nothing that can hold or not; compare two things with =, <, <= ...")
    return text


def _pages(text: str) -> str:
    try:
        page_numbers(text, 10**9)
    except UsageError as error:
        raise ValueError(str(error)) from error
    return text


def _length(text: str) -> str:
    try:
        points(text, 100.0)
    except UsageError as error:
        raise ValueError(str(error)) from error
    return text


def _page_size(text: str) -> str:
    size_of(text)
    return text


def size_of(text: str) -> tuple[float, float]:
    """Return width and height, in points, of "A4", "A4 landscape" or "210mm x 297mm"; ValueError if none."""
    name, _, turned = text.partition(" ")
    if name in PAPER and turned in ("", "landscape"):
        width, height = (points(f"{side}mm", 0.0) for side in PAPER[name])
        return (height, width) if turned else (width, height)
    sides = text.split(" x ")
    if len(sides) != 2 or "%" in text:
        raise ValueError(f"{text!r} is no page size; write it as A4, A4 landscape, or 210mm x 297mm")
    try:
        return points(sides[0], 0.0), points(sides[1], 0.0)
    except UsageError as error:
        raise ValueError(str(error)) from error


def _file_name(text: str) -> str:
    if not re.fullmatch(r"[A-Za-z0-9][\w.-]*", text):
        raise ValueError(f"{text!r} cannot name files; use letters, digits, dashes and points")
    return text


Text = Annotated[str, Field(min_length=1)]
FileName = Annotated[str, AfterValidator(_file_name)]
Pattern = Annotated[str, AfterValidator(_pattern)]
NamedGroups = Annotated[str, AfterValidator(_named_groups)]
FormulaText = Annotated[str, AfterValidator(_formula)]
Statement = Annotated[str, AfterValidator(_statement)]
Pages = Annotated[str, AfterValidator(_pages)]
Length = Annotated[str, AfterValidator(_length)]
PageSizeText = Annotated[str, AfterValidator(_page_size)]
RowKind = Literal["line", "group", "total", "header"]
ValueType = Literal["text", "identifier", "number", "money", "percent", "date"]
NUMERIC = ("number", "money", "percent")


class Section(BaseModel):
    """A part of a recipe; what it does not know is an error."""

    model_config = ConfigDict(extra="forbid", frozen=True, populate_by_name=True)


class Documents(Section):
    """Which documents the recipe is for; all that is said must hold."""

    says: tuple[Text, ...] = ()
    says_not: tuple[Text, ...] = ()
    page_size: PageSizeText | None = None
    producer: Text | None = None


class Region(Section):
    """A place on a page, from phrases that stand above and below it; to be read as one table."""

    below: Text | None = None
    above: Text | None = None
    left: Length = "0%"
    right: Length = "100%"

    @model_validator(mode="after")
    def _anchored(self) -> Self:
        if self.below is None and self.above is None:
            raise ValueError("A region hangs on a phrase; say what it stands below or above")
        return self


class Where(Section):
    """Which table: near a phrase (heading, caption, text before it), on pages, with such headers, the n-th
    of those (`number`, needed where there are several); or a region.
    """

    near: Text | None = None
    pages: Pages | None = None
    headers: tuple[Text, ...] = ()
    number: int = Field(default=1, ge=1)
    region: Region | None = None


class Reading(Section):
    """How the table is read. `join` puts what follows with the same headers behind it; `totals` is a pattern
    of rows that are totals, which are told by their words if it is not said.
    """

    method: Text = "combined"
    cuts: tuple[Length, ...] = ()
    header_rows: int | None = Field(default=None, ge=0)
    join: bool = False
    totals: Pattern | None = None


class Take(Section):
    """Values of the document that stand outside the table: by named parts of a pattern in its text, or the
    value of a field, called `name`.
    """

    pattern: NamedGroups | None = None
    field: Text | None = None
    name: Text | None = None

    @model_validator(mode="after")
    def _one(self) -> Self:
        if (self.pattern is None) == (self.field is None):
            raise ValueError("Take values by a pattern or from a field")
        if (self.field is None) != (self.name is None):
            raise ValueError("What is taken from a field needs a name, what a pattern takes has its own")
        return self

    def names(self) -> list[str]:
        """Return the names of what it takes."""
        return [self.name] if self.name else list(re.compile(self.pattern or "").groupindex)


class Rows(Section):
    """Rows, by their kind, by a pattern in a column (in the whole row where none is named), or both."""

    rows: RowKind | None = None
    pattern: Pattern | None = None
    column: Text | None = None

    @model_validator(mode="after")
    def _some(self) -> Self:
        if self.rows is None and self.pattern is None:
            raise ValueError("Name rows by their kind (line, group, total, header) or by a pattern")
        return self


class Carry(Rows):
    """Rows that head those below: the named parts of the pattern become columns of them."""

    pattern: NamedGroups

    def names(self) -> list[str]:
        """Return the columns that it makes."""
        return list(re.compile(self.pattern).groupindex)


class Records(Section):
    """Records over several lines: each begins with a row of a pattern; the named parts of the patterns of its
    other lines are its columns too.
    """

    begins: NamedGroups
    lines: tuple[NamedGroups, ...] = ()

    def names(self) -> list[str]:
        """Return the columns that it makes, in order."""
        patterns = (self.begins, *self.lines)
        return list(dict.fromkeys(name for text in patterns for name in re.compile(text).groupindex))


class Split(Section):
    """A column whose text is parted into columns, by the named parts of a pattern."""

    column: Text
    pattern: NamedGroups


class Join(Section):
    """Columns whose texts are put behind each other into one."""

    columns: tuple[Text, ...] = Field(min_length=2)
    into: Text
    between: str = " "


class Step(Section):
    """One step of cleaning; it does one thing."""

    drop: Rows | None = None
    carry: Carry | None = None
    records: Records | None = None
    split: Split | None = None
    join: Join | None = None
    fill: tuple[Text, ...] | None = None

    @model_validator(mode="after")
    def _one(self) -> Self:
        if len(self.model_fields_set) != 1:
            raise ValueError(
                f"A step does one thing of {', '.join(type(self).model_fields)}; begin a new step"
            )
        return self


class Column(Section):
    """A column of the data: where it comes from, what its values are; or a formula over other columns."""

    name: Text
    aliases: tuple[Text, ...] = ()
    type: ValueType = "text"
    format: Text | None = None
    decimal: Literal[".", ","] | None = None
    missing: tuple[str, ...] | None = None
    needed: bool = True
    filled: bool = False
    formula: FormulaText | None = None

    @model_validator(mode="after")
    def _sound(self) -> Self:
        if self.type == "date" and self.format is not None and not re.search("%[Yy]", self.format):
            raise ValueError(
                f'{self.format!r} has no year; write it like "%d %B %Y", and join the year to the text before'
            )
        if self.format is not None and self.type != "date":
            raise ValueError("Only dates have a format")
        if self.decimal is not None and self.type not in NUMERIC:
            raise ValueError("Only numbers have a decimal mark")
        if self.formula is not None and (self.aliases or self.missing is not None):
            raise ValueError("A column with a formula is not looked for in the table")
        return self


class Count(Section):
    """A range for how many rows there are."""

    at_least: int = Field(default=0, ge=0)
    at_most: int | None = Field(default=None, ge=0)


class Allowed(Section):
    """The values that a column may have."""

    column: Text
    values: tuple[Text, ...] = Field(min_length=1)


class Matching(Section):
    """The pattern that every text of a column has."""

    column: Text
    pattern: Pattern


class AddsUp(Section):
    """Printed totals (rows whose text has the pattern) that columns sum to: of the lines with the same value
    in the column `per`, or of all since the total before. `within` is how far off they may be.
    """

    columns: tuple[Text, ...] = Field(min_length=1)
    totals: Pattern
    per: Text | None = None
    within: Decimal = Field(default=Decimal(0), ge=0)


class Check(Section):
    """One thing that must hold, or the document goes to the review folder."""

    rows: Count | None = None
    unique: tuple[Text, ...] | None = None
    allowed: Allowed | None = None
    matching: Matching | None = None
    adds_up: AddsUp | None = None
    each: Statement | None = None
    whole: Statement | None = None

    @model_validator(mode="after")
    def _one(self) -> Self:
        if len(self.model_fields_set) != 1:
            raise ValueError(
                f"A check says one thing of {', '.join(type(self).model_fields)}; begin a new one"
            )
        return self

    def formula(self) -> Formula | None:
        """Return what must hold, where that is said by a formula."""
        text = self.each or self.whole
        return read_formula(text) if text else None


class Output(Section):
    """What is written: columns (all if none are named), sorted by some, total rows apart or left out, in
    which formats, and negative numbers in red where a format has colours.
    """

    columns: tuple[Text, ...] = ()
    order: tuple[Text, ...] = ()
    totals: Literal["apart", "none"] = "apart"
    formats: tuple[Literal["csv", "xlsx", "parquet"], ...] = Field(default=("csv",), min_length=1)
    red_negatives: bool = False


class Layout(Section):
    """What the table looked like where the recipe was made; headers, and where each column lies, from left to
    right in per cent of the width of the page ("12.5-30.1").
    """

    page_size: PageSizeText
    headers: tuple[str, ...]
    columns: tuple[Annotated[str, Field(pattern=r"^-?\d+(\.\d+)?-\d+(\.\d+)?$")], ...]

    @model_validator(mode="after")
    def _alike(self) -> Self:
        if len(self.headers) != len(self.columns):
            raise ValueError(f"There are {len(self.headers)} headers and {len(self.columns)} columns")
        return self


class Recipe(Section):
    """How the table of one layout becomes data: which documents, where, how to read, clean, check, write."""

    version: Literal["1"] = Field(alias="wennak-recipe")
    name: FileName
    about: str = ""
    documents: Documents = Documents()
    table: Where = Where()
    read: Reading = Reading()
    take: tuple[Take, ...] = ()
    clean: tuple[Step, ...] = ()
    columns: tuple[Column, ...] = Field(min_length=1)
    checks: tuple[Check, ...] = ()
    output: Output = Output()
    layout: Layout | None = None

    @property
    def taken(self) -> set[str]:
        """The names of the values that are taken from the document."""
        return {name for take in self.take for name in take.names()}

    @property
    def asks_earlier(self) -> bool:
        """Whether a check compares with the data of an earlier period."""
        return any(formula.asks_earlier() for check in self.checks if (formula := check.formula()))
