"""Ground truth as data: the tables of a document as they are in print, and who has checked them."""

from __future__ import annotations

from dataclasses import dataclass, field
from pathlib import Path
from typing import Literal

from ..model import Document, Table

# "given": no state is noted; whoever wrote the file vouches for it.
State = Literal["drafted", "checked", "given"]


@dataclass(slots=True)
class TruthTable:
    """One true table and its state.

    `by` and `when` say who checked it and on which day (ISO 8601), `remarks` what they noted. `doubts` gives,
    by row and column of a cell, why a person should look at it. `pages` are those it stands on, if known.
    """

    table: Table
    state: State = "given"
    by: str = ""
    when: str = ""
    remarks: str = ""
    pages: list[int] = field(default_factory=list)
    doubts: dict[tuple[int, int], str] = field(default_factory=dict)

    @property
    def counts(self) -> bool:
        """Whether the table enters scores without being asked for."""
        return self.state != "drafted"


@dataclass(slots=True)
class Truth:
    """The truth of one document.

    `path` is the truth file, `source` the path of the PDF as the file names it ("" if it does not), `sha256`
    the hash of that PDF when the truth was made. `document` holds all that the file holds, tables and text;
    its tables are those of `tables`, in order.
    """

    path: Path
    source: str = ""
    sha256: str = ""
    tables: list[TruthTable] = field(default_factory=list)
    document: Document = field(default_factory=lambda: Document(source=""))

    @property
    def pdf(self) -> Path | None:
        """The PDF: the one that is named, else the one of the same stem, else the only one in the folder."""
        folder = self.path.parent
        if self.source:
            return folder / self.source
        same = self.path.with_suffix(".pdf")
        if same.exists():
            return same
        others = sorted(folder.glob("*.pdf"))
        return others[0] if len(others) == 1 else None

    @property
    def has_text(self) -> bool:
        """Whether the truth tells of more than tables."""
        return any(block.kind != "table" for block in self.document.blocks)
