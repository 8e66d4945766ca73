"""What reading a document gives: plain dataclasses, nothing but data.

Coordinates are in points, with the origin at the top left of the page as it is seen (after rotation and
the crop box) and y growing downwards. Pages are numbered from 1.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Any, Literal

from .scripts import scripted

if TYPE_CHECKING:
    import pandas as pd

    from .emit import Passage


# Cells and words less sure than this are in doubt.
DOUBTFUL = 0.6


@dataclass(slots=True)
class Box:
    """An upright rectangle, in points: left, top, right, bottom."""

    x0: float
    y0: float
    x1: float
    y1: float

    @property
    def area(self) -> float:
        """Width times height, in square points."""
        return (self.x1 - self.x0) * (self.y1 - self.y0)

    def shared(self, other: Box) -> float:
        """Return the area that two boxes share."""
        width = min(self.x1, other.x1) - max(self.x0, other.x0)
        height = min(self.y1, other.y1) - max(self.y0, other.y0)
        return max(0.0, width) * max(0.0, height)

    @staticmethod
    def around(boxes: Iterable[Box]) -> Box:
        """Smallest box that holds all of `boxes`.

        Raises ValueError if there are none.
        """
        found = list(boxes)
        return Box(
            min([b.x0 for b in found]),
            min([b.y0 for b in found]),
            max([b.x1 for b in found]),
            max([b.y1 for b in found]),
        )


@dataclass(slots=True)
class Place:
    """Where something stands: a page (from 1) and a box on it."""

    page: int
    box: Box


MarkKind = Literal["bold", "italic", "link", "note", "sup", "sub"]


@dataclass(slots=True)
class Mark:
    """What characters `start` to `end` (exclusive) of a text are: bold, italic, a superscript or subscript, a
    link to `target`, or the mark of the footnote whose id is `target`.
    """

    start: int
    end: int
    kind: MarkKind
    target: str = ""


@dataclass(slots=True)
class Heading:
    """A heading; `level` 1 is the highest."""

    text: str
    level: int
    places: list[Place] = field(default_factory=list)
    kind: Literal["heading"] = "heading"


@dataclass(slots=True)
class Paragraph:
    """Running text, joined over its lines, but for line breaks that were meant, as in an address; `quoted`
    where it is set in from both sides as a block quote.
    """

    text: str
    marks: list[Mark] = field(default_factory=list)
    quoted: bool = False
    places: list[Place] = field(default_factory=list)
    kind: Literal["paragraph"] = "paragraph"


@dataclass(slots=True)
class ListItem:
    """One item of a list, without its bullet; `label` is the printed bullet or number, or the term that the
    item defines; `depth` is 0 for the outermost items.
    """

    text: str
    label: str = ""
    depth: int = 0
    marks: list[Mark] = field(default_factory=list)
    places: list[Place] = field(default_factory=list)


@dataclass(slots=True)
class ListBlock:
    """A run of list items; `style` tells what their labels are: bullets, numbers (or letters), terms."""

    items: list[ListItem]
    style: Literal["bullets", "numbers", "terms"] = "bullets"
    places: list[Place] = field(default_factory=list)
    kind: Literal["list"] = "list"


@dataclass(slots=True)
class Code:
    """Text in fixed pitch whose line breaks and indentation carry meaning."""

    text: str
    places: list[Place] = field(default_factory=list)
    kind: Literal["code"] = "code"


@dataclass(slots=True)
class Formula:
    """A displayed formula as one line of Unicode text; `label` is its number in print, such as "(3)".

    `tex` and `mathml` give its structure, as TeX with the environments of amsmath and as a MathML element;
    both are empty where that could not be read. `picture` is the path of its picture file beside the output,
    where pictures were saved.
    """

    text: str
    label: str = ""
    tex: str = ""
    mathml: str = ""
    picture: str = ""
    places: list[Place] = field(default_factory=list)
    kind: Literal["formula"] = "formula"


@dataclass(slots=True)
class Figure:
    """A drawing or photograph: its caption, and the text that stands in it.

    `picture` is the path of its picture file beside the output, where pictures were saved.
    """

    caption: str = ""
    text: str = ""
    picture: str = ""
    places: list[Place] = field(default_factory=list)
    kind: Literal["figure"] = "figure"


@dataclass(slots=True)
class Footnote:
    """A note at the foot of a page; `id` is unique in the document, `label` is its printed mark."""

    id: str
    label: str
    text: str
    marks: list[Mark] = field(default_factory=list)
    places: list[Place] = field(default_factory=list)
    kind: Literal["footnote"] = "footnote"


@dataclass(slots=True)
class Field:
    """A label of a form and what is filled in beside it; `checked` is the state of a check box."""

    label: str
    value: str = ""
    checked: bool | None = None
    places: list[Place] = field(default_factory=list)


@dataclass(slots=True)
class Fields:
    """Labels of a form with their values."""

    fields: list[Field]
    places: list[Place] = field(default_factory=list)
    kind: Literal["fields"] = "fields"


@dataclass(slots=True)
class ContentsEntry:
    """A line of a table of contents or of an index: its text, the pages it names as printed (none for a
    letter that heads others), its depth from 0.
    """

    text: str
    page: str
    depth: int = 0


@dataclass(slots=True)
class Contents:
    """A table of contents or an index, or part of one."""

    entries: list[ContentsEntry]
    places: list[Place] = field(default_factory=list)
    kind: Literal["contents"] = "contents"


@dataclass(slots=True)
class Cell:
    """One cell of a table: its first row and column (from 0), its extent, and its text as printed.

    Where a cell holds a list, its items stand on lines of their own, each with its mark. `indent` counts the
    steps by which a label in the first column is set in. `marks` are its superscripts and subscripts.
    """

    row: int
    column: int
    text: str
    rowspan: int = 1
    colspan: int = 1
    header: bool = False
    places: list[Place] = field(default_factory=list)
    confidence: float = 1.0
    indent: int = 0
    marks: list[Mark] = field(default_factory=list)

    @property
    def shown(self) -> str:
        """The text with its superscripts and subscripts in the characters that Unicode has for them: a raised
        1 behind a number is no digit of it.
        """
        return scripted(self.text, [(m.start, m.end, m.kind) for m in self.marks])

    @property
    def spans(self) -> bool:
        """Whether it spans several rows or columns."""
        return self.rowspan > 1 or self.colspan > 1


@dataclass(frozen=True, slots=True)
class Check:
    """Arithmetic of a table: what cell (`row`, `column`) should hold and what it holds in print.

    `kind`: the "sum" of rows above it, the "row sum" of columns left of it, the "difference" of two of them,
    the "percentage" of a change or a share, the running "balance" of a column with the row before.
    """

    kind: Literal["sum", "row sum", "difference", "percentage", "balance"]
    row: int
    column: int
    expected: float
    printed: float
    passed: bool


@dataclass(slots=True, repr=False)
class Table:
    """A table as a grid of cells that do not overlap.

    Grid positions covered by no cell are empty in print. The first `header_rows` rows are column headers.
    `confidence` is in 0..1. `checks` are the sums that its totals should be. `heads` gives for each row the
    row above whose label heads it, -1 for none; it is empty where no row heads another. `alternatives` are
    what other methods read at the same place, where that differs.
    """

    rows: int
    columns: int
    cells: list[Cell]
    caption: str = ""
    header_rows: int = 0
    method: str = ""
    confidence: float = 1.0
    places: list[Place] = field(default_factory=list)
    checks: list[Check] = field(default_factory=list)
    heads: list[int] = field(default_factory=list)
    alternatives: list[Table] = field(default_factory=list)
    kind: Literal["table"] = "table"

    def __repr__(self) -> str:
        pages = self.page_numbers
        where = f", page {'-'.join(map(str, dict.fromkeys((pages[0], pages[-1]))))}" if pages else ""
        said = f": {self.caption}" if self.caption else ""
        how = f"{self.method} {self.confidence:.2f}" if self.method else f"{self.confidence:.2f}"
        return f"<Table {self.rows} x {self.columns}{where}, {how}{said}>"

    def _repr_html_(self) -> str:
        from .emit import shown_table

        return shown_table(self)

    @property
    def page_numbers(self) -> list[int]:
        """The pages that it stands on, in order."""
        return sorted({place.page for place in self.places})

    def grid(self) -> list[list[Cell | None]]:
        """Return `rows` lists of `columns` entries: the cell that covers each position, or None."""
        grid: list[list[Cell | None]] = [[None] * self.columns for _ in range(self.rows)]
        for cell in self.cells:
            for r in range(cell.row, cell.row + cell.rowspan):
                for c in range(cell.column, cell.column + cell.colspan):
                    grid[r][c] = cell
        return grid

    def header_labels(self) -> list[str]:
        """Return one label a column: its header cells from top to bottom, joined with " / "."""
        grid = self.grid()
        labels = []
        for c in range(self.columns):
            above = [cell for r in range(self.header_rows) if (cell := grid[r][c]) is not None and cell.text]
            labels.append(" / ".join(dict.fromkeys(cell.text for cell in above)))
        return labels

    def row_paths(self) -> list[list[str]]:
        """Return for each row the labels of the rows that head it, the outermost first."""
        label = {c.row: c.text for c in self.cells if c.column == 0}
        paths: list[list[str]] = []
        for row in range(self.rows):
            head = self.heads[row] if self.heads else -1
            paths.append([*paths[head], label[head]] if head >= 0 else [])
        return paths

    def frame(self, typed: bool = False) -> pd.DataFrame:
        """Return the body as a pandas DataFrame of text.

        Columns are named by the header labels, or numbered where there is no header. The text of a
        spanning cell stands at its first position only. With `typed`, columns whose every text is certainly a
        number or a date hold those; `frame.attrs["not_typed"]` gives, by column, the texts that kept one with
        other numbers in it from being typed.
        """
        import pandas as pd

        texts = [[""] * self.columns for _ in range(self.rows)]
        for cell in self.cells:
            texts[cell.row][cell.column] = cell.shown
        names = self.header_labels() if self.header_rows else range(self.columns)
        frame = pd.DataFrame(texts[self.header_rows :], columns=pd.Index(names))
        return _typed(frame) if typed else frame

    def save(self, path: str) -> None:
        """Write the table to `path` in the format of its ending: .csv, .tsv, .xlsx, .html, .md or .json.

        Raises UsageError for any other ending. The file appears whole or not at all.
        """
        from .emit import save_table

        save_table(self, path)


def _typed(frame: pd.DataFrame) -> pd.DataFrame:
    import pandas as pd

    from .values import typed_column

    left: dict[str, list[str]] = {}
    columns: list[Any] = []
    for k, name in enumerate(frame.columns):
        texts = frame.iloc[:, k].tolist()
        column = typed_column(texts)
        if column.kind == "number":
            numbers = pd.Series(column.values, dtype="Float64")
            whole = all(v is None or float(v).is_integer() for v in column.values)  # type: ignore[arg-type]
            columns.append(numbers.astype("Int64") if whole else numbers)
        elif column.kind == "date":
            columns.append(pd.to_datetime(pd.Series(column.values, dtype="object")))
        else:
            columns.append(frame.iloc[:, k])
            if column.odd:
                left[str(name)] = [texts[i] for i in column.odd]
    out = pd.concat(columns, axis=1) if columns else frame
    out.columns = frame.columns
    out.attrs["not_typed"] = left
    return out


Block = Heading | Paragraph | ListBlock | Code | Formula | Figure | Footnote | Fields | Contents | Table


def block_texts(block: Block) -> list[str]:
    """Return every piece of text of a block, labels and captions too, in reading order; none is empty."""
    match block:
        case Table():
            pieces = [block.caption, *(cell.text for cell in block.cells)]
        case ListBlock():
            pieces = [text for item in block.items for text in (item.label, item.text)]
        case Figure():
            pieces = [block.text, block.caption]
        case Fields():
            pieces = [text for entry in block.fields for text in (entry.label, entry.value)]
        case Contents():
            pieces = [text for entry in block.entries for text in (entry.text, entry.page)]
        case Formula() | Footnote():
            pieces = [block.label, block.text]
        case _:
            pieces = [block.text]
    return [piece for piece in pieces if piece]


@dataclass(slots=True)
class Running:
    """Text that belongs to the page, not to the content: running heads and feet, page numbers."""

    text: str
    place: Place


@dataclass(slots=True)
class Finding:
    """Something a person should look at. `code` is a stable short name, `page` is 0 for the whole file."""

    code: str
    message: str
    page: int = 0


@dataclass(slots=True)
class PageSize:
    """Number and seen size of a page, in points, and the label it is numbered with, if that differs.

    `source` says where its text comes from: "text" that is drawn, or the "picture" of the page. Where the
    picture did not stand level, coordinates are those of the page turned by `turned` degrees
    (counterclockwise about its middle).
    """

    number: int
    width: float
    height: float
    label: str = ""
    source: Literal["text", "picture"] = "text"
    turned: float = 0.0


@dataclass(slots=True, repr=False)
class Document:
    """A document that was read: its blocks in reading order, and what stands beside them.

    `producer` is the program that the file names as what made it.
    """

    source: str
    title: str = ""
    language: str = ""
    pages: list[PageSize] = field(default_factory=list)
    blocks: list[Block] = field(default_factory=list)
    running: list[Running] = field(default_factory=list)
    findings: list[Finding] = field(default_factory=list)
    producer: str = ""

    def __repr__(self) -> str:
        counts = ((len(self.pages), "page"), (len(self.tables), "table"), (len(self.findings), "finding"))
        said = ", ".join(f"{n} {what}{'' if n == 1 else 's'}" for n, what in counts)
        return f"<Document {self.source!r}: {said}>"

    def _repr_html_(self) -> str:
        from .emit import shown_document

        return shown_document(self)

    @property
    def tables(self) -> list[Table]:
        """The tables, in reading order."""
        return [b for b in self.blocks if isinstance(b, Table)]

    def texts(self) -> Iterator[str]:
        """Yield every piece of text in reading order, labels, captions and cells too."""
        for block in self.blocks:
            yield from block_texts(block)

    def markdown(self, page_marks: bool = False, records: bool = False) -> str:
        """Return the document as CommonMark with pipe tables.

        With `page_marks` a comment says where each page begins; with `records` tables are lists with an item
        for each row, which names the headers.
        """
        from .emit import to_markdown

        return to_markdown(self, page_marks, records)

    def html(self, page_marks: bool = False) -> str:
        """Return the document as one HTML5 page; with `page_marks` a line shows where each page begins."""
        from .emit import to_html

        return to_html(self, page_marks)

    def passages(
        self, limit: int = 300, count: Callable[[str], int] | None = None, records: bool = False
    ) -> list[Passage]:
        """Return the document in passages for retrieval, of at most `limit` tokens each.

        `count` gives the size of a text; by default it counts runs of letters and digits and every other
        character that is no blank. With `records` rows of tables are lines of "header: value".
        """
        from .emit import count_tokens, passages

        return passages(self, limit, count or count_tokens, records)

    def json(self) -> str:
        """Return the document as JSON of the format `wennak-document`."""
        from .emit import to_json

        return to_json(self)

    def save(self, path: str) -> None:
        """Write the document to `path` in the format of its ending: .md, .html, .json or .jsonl (passages).

        Raises UsageError for any other ending. The file appears whole or not at all.
        """
        from .emit import save

        save(self, path)
