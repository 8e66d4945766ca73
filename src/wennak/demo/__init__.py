"""The made-up collection of the Skerra Sound Ferry and Harbour Board, shipped as small files."""

from __future__ import annotations

import shutil
from importlib import resources
from pathlib import Path


def file_names() -> list[str]:
    """Return the names of the collection's files: PDFs, each with its truth as HTML."""
    folder = resources.files(__name__).joinpath("files")
    return sorted(entry.name for entry in folder.iterdir() if entry.name.endswith((".pdf", ".html")))


def write_collection(folder: Path) -> list[Path]:
    """Copy the collection into a folder and return the paths written."""
    folder.mkdir(parents=True, exist_ok=True)
    written = []
    for name in file_names():
        with resources.as_file(resources.files(__name__).joinpath("files", name)) as source:
            shutil.copyfile(source, folder / name)
        written.append(folder / name)
    return written


__all__ = ["file_names", "write_collection"]
