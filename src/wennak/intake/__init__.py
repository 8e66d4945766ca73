"""What a user names -> the PDFs that it stands for."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from ..errors import NotPdf, existing


@dataclass(frozen=True, slots=True)
class Found:
    """A PDF to read and its name below the source that led to it, with forward slashes."""

    path: Path
    name: str


def find_sources(source: str | Path) -> list[Found]:
    """Return the file that `source` names, or every PDF in the folder that it names, sorted by name.

    Raises MissingSource if nothing lies there, NotPdf if a folder holds no PDF.
    """
    path = existing(source)
    if path.is_dir():
        found = sorted(
            (p for p in path.rglob("*") if p.suffix.lower() == ".pdf" and p.is_file()),
            key=lambda p: p.relative_to(path).as_posix(),
        )
        if not found:
            raise NotPdf(f"{source} holds no PDF; name a folder with files that end in .pdf.")
        return [Found(p, p.relative_to(path).as_posix()) for p in found]
    return [Found(path, path.name)]
