"""What another program made of the documents: HTML, Markdown, CSV or JSON files -> documents."""

from __future__ import annotations

from pathlib import Path

from ..emit import load
from ..errors import SourceError, UsageError
from ..model import Document
from ..truth import html_document, parse_html
from ..truth.sheets_in import read_sheets

# In the order of preference where a document comes in several.
ENDINGS = (".html", ".htm", ".json", ".md", ".csv", ".tsv", ".xlsx")


def check_candidate(folder: str | Path) -> Path:
    """Return the folder of a candidate. Raises UsageError if it is none or holds no file that can be read."""
    path = Path(folder)
    if not path.is_dir():
        raise UsageError(f"{folder} is not a folder; a candidate is a folder with a file for each document.")
    if not any(p.suffix.lower() in ENDINGS for p in path.rglob("*")):
        raise UsageError(f"{folder} holds no file that ends in {', '.join(ENDINGS)}.")
    return path


def candidate_document(folder: Path, name: str) -> tuple[Document, int]:
    """Return what a candidate made of the document of that name, and the bytes of its files.

    It lies in NAME.html, .json (of this program), .md, .csv, .tsv or .xlsx; several tables as sheets may lie
    in NAME-1.csv, NAME-2.csv and so on. Raises SourceError where there is none or it cannot be read.
    """
    for ending in ENDINGS:
        path = folder / f"{name}{ending}"
        numbered = sorted(
            (p for p in path.parent.glob(f"{path.stem}-*{ending}") if p.stem[len(path.stem) + 1 :].isdigit()),
            key=lambda p: int(p.stem.rsplit("-", 1)[1]),
        )
        paths = [path] if path.exists() else numbered if ending in (".csv", ".tsv", ".xlsx") else []
        if paths:
            return _document(paths, ending), sum(p.stat().st_size for p in paths)
    raise SourceError(f"{folder} has nothing for {name}.")


def _document(paths: list[Path], ending: str) -> Document:
    if ending == ".json":
        return load(paths[0])
    if ending in (".csv", ".tsv", ".xlsx"):
        return Document(source=paths[0].stem, blocks=[t for p in paths for t in read_sheets(p)])
    text = paths[0].read_text(encoding="utf-8", errors="replace")
    if ending == ".md":
        from markdown_it import MarkdownIt

        text = MarkdownIt("commonmark").enable("table").render(text)
        text = f"<!DOCTYPE html><html><body>{text}</body></html>"
    return html_document(parse_html(text, str(paths[0])), paths[0].stem)[0]
