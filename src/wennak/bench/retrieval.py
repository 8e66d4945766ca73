"""Whether a retrieval system can answer from what was read.

Passages go into a full-text index (SQLite FTS5, ranked by BM25). Questions are made from the truth, one a
cell: "<column header> of <row label> in <caption>". An answer counts only where one passage holds the value
together with its row label and its column header in the right relation.
"""

from __future__ import annotations

import csv
import io
import re
import sqlite3
from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Literal

from ..emit import LIMIT, count_tokens, passages, table_bytes
from ..ink import PdfFile
from ..layout import lay_out
from ..model import Document
from .grid import Grid, header_paths, normal
from .results import RetrievalResult

DEPTHS = (1, 3, 5)
_WORD = re.compile(r"\w+")
Kind = Literal["table", "text", "csv"]
# What keeps a question from being answered, in the order of the report.
REASONS = ("value missing", "label lost", "header lost", "cut apart", "not found")


@dataclass(frozen=True, slots=True)
class Question:
    """A question and its answer, all as normal text. `row` holds all texts of its row and `head` those of the
    last header row, where neither has an empty place; else they are empty.
    """

    document: str
    header: str
    label: str
    caption: str
    value: str
    row: tuple[str, ...] = ()
    head: tuple[str, ...] = ()

    @property
    def text(self) -> str:
        """The question as it is asked."""
        named = f" in {self.caption}" if self.caption else ""
        return f"{self.header} of {self.label}{named}"


@dataclass(frozen=True, slots=True)
class Indexed:
    """A passage as it is searched: the document it is from, its kind, its text."""

    document: str
    kind: Kind
    text: str


def questions_of(document: str, grid: Grid) -> list[Question]:
    """Return a question for every cell right of the first column that has a header and a row label."""
    heads = header_paths(grid) if grid.header_rows else []
    out = []
    for r in range(grid.header_rows, grid.shape[0] if heads else 0):
        row = grid.texts[r].tolist()
        label = row[0]
        whole = tuple(row) if all(row) and len(set(grid.extents[r, :, 1].tolist())) == 1 else ()
        head = tuple(grid.texts[grid.header_rows - 1].tolist())
        for c in range(1, grid.shape[1]):
            starts = not grid.extents[r, c, :2].any()
            if label and row[c] and heads[c] and row[c] != label and starts:
                out.append(
                    Question(
                        document, heads[c], label, grid.caption, row[c],
                        whole if all(head) else (), head if all(head) else (),
                    )
                )  # fmt: skip
    return out


def document_passages(name: str, document: Document) -> list[Indexed]:
    """Return the passages of a document, headings before each, as they go into an index."""
    out = []
    for p in passages(document):
        above = " > ".join(p.headings)
        kind: Kind = "table" if p.kind == "table" else "text"
        out.append(Indexed(name, kind, f"{above}\n\n{p.text}" if above else p.text))
    return out


def plain_text(name: str, pdf: Path) -> list[Indexed]:
    """Return the baseline without structure: the lines of each page from top to bottom, in pieces."""
    out = []
    with PdfFile(pdf, pdf.name) as file:
        for number in range(1, file.page_count + 1):
            words = lay_out(file.page(number)).words
            rows: dict[int, list[str]] = {}
            for row, text in zip(words.row.tolist(), words.texts, strict=True):
                rows.setdefault(row, []).append(text)
            out += [Indexed(name, "text", t) for t in _pieces([" ".join(r) for r in rows.values()])]
    return out


def plain_csv(name: str, document: Document) -> list[Indexed]:
    """Return the baseline of bare tables: each as CSV, without caption, cut into pieces as lines come."""
    return [
        Indexed(name, "csv", piece)
        for table in document.tables
        for piece in _pieces(table_bytes([table], "csv").decode().splitlines())
    ]


def _pieces(lines: Iterable[str]) -> list[str]:
    out: list[list[str]] = [[]]
    size = 0
    for line in lines:
        size += count_tokens(line)
        if size > LIMIT and out[-1]:
            out.append([])
            size = count_tokens(line)
        out[-1].append(line)
    return ["\n".join(piece) for piece in out if piece]


def answer_all(questions: Sequence[Question], indexed: Sequence[Indexed]) -> RetrievalResult:
    """Ask every question of an index of the passages; count answers within the first 1, 3 and 5."""
    index = sqlite3.connect(":memory:")
    index.execute("CREATE VIRTUAL TABLE passages USING fts5(text, tokenize='unicode61')")
    index.executemany("INSERT INTO passages (rowid, text) VALUES (?, ?)", enumerate(p.text for p in indexed))
    read = [_Read(p) for p in indexed]
    own: dict[str, list[_Read]] = {}
    for entry in read:
        own.setdefault(entry.passage.document, []).append(entry)
    answered, lost = Counter[int](), Counter[str]()
    for question in questions:
        first = [read[i] for i in _search(index, question.text)]
        place = next((k for k, p in enumerate(first, start=1) if p.answers(question)), 0)
        for depth in DEPTHS:
            answered[depth] += 0 < place <= depth
        if not place:
            lost[_reason(question, own.get(question.document, []))] += 1
    index.close()
    n = max(1, len(questions))
    return RetrievalResult(
        len(questions), {d: answered[d] / n for d in DEPTHS}, {r: lost[r] for r in REASONS}
    )


def _search(index: sqlite3.Connection, text: str) -> list[int]:
    words = " OR ".join(f'"{w}"' for w in dict.fromkeys(_WORD.findall(text.lower())))
    if not words:
        return []
    query = "SELECT rowid FROM passages WHERE passages MATCH ? ORDER BY bm25(passages), rowid LIMIT ?"
    return [row[0] for row in index.execute(query, (words, DEPTHS[-1]))]


class _Read:
    """A passage taken apart once: rows of cells under a head, or lines."""

    def __init__(self, passage: Indexed) -> None:
        self.passage = passage
        self.whole = normal(passage.text)
        self.head: list[str] = []
        self.rows: list[list[str]] = []
        lines = passage.text.splitlines()
        self.lines = {normal(line) for line in lines}
        if passage.kind == "csv":
            rows = [[normal(t) for t in row] for row in csv.reader(io.StringIO(passage.text))]
            self.head, self.rows = (rows[0] if rows else []), rows[1:]
        elif passage.kind == "table":
            piped = [_cells(line) for line in lines if line.startswith("|")]
            ruled = next((k for k, row in enumerate(piped) if row and set("".join(row)) <= {"-"}), -1)
            # Where no head is marked, the first row stands over the others all the same.
            self.head = piped[max(0, ruled - 1)] if piped else []
            self.rows = piped[max(0, ruled) + 1 :]
        self.words = [set(text.split()) for text in self.head]

    def answers(self, question: Question) -> bool:
        """Whether value, label and header stand in the right relation."""
        if question.value not in self.whole:
            return False
        if self.passage.kind == "text":
            # In running lines a value is told from its neighbours only by counting: the row and the head must
            # have come whole, and nothing in them may be empty.
            row, head = " ".join(question.row), " ".join(question.head)
            return bool(row) and row in self.lines and head in self.lines
        return any(self._row_holds(row, question, label=True, header=True) for row in self.rows)

    def holds(self, question: Question, label: bool, header: bool) -> bool:
        """Whether the value stands in a row with the label, or under the header, or both."""
        return any(self._row_holds(row, question, label, header) for row in self.rows)

    def _row_holds(self, row: Sequence[str], question: Question, label: bool, header: bool) -> bool:
        if label and question.label not in row:
            return False
        needed = set(question.header.replace(" / ", " ").split())
        return any(
            text == question.value and (not header or (k < len(self.words) and needed <= self.words[k]))
            for k, text in enumerate(row)
        )


def _cells(line: str) -> list[str]:
    parts = re.split(r"(?<!\\)\|", line.strip().strip("|"))
    return [normal(part.replace("\\|", "|")) for part in parts]


def _reason(question: Question, own: Sequence[_Read]) -> str:
    """Why a question was not answered, by the passages of its own document."""
    holding = [p for p in own if question.value in p.whole]
    if not holding:
        return "value missing"
    if any(p.answers(question) for p in holding):
        return "not found"
    if any(p.holds(question, label=True, header=False) for p in holding):
        return "header lost"
    if any(p.holds(question, label=False, header=True) for p in holding):
        return "label lost"
    together = [p for p in holding if question.label in p.whole and question.header in p.whole]
    return "header lost" if together else "cut apart"
