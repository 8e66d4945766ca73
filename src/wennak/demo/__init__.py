"""The made-up collection of the Skerra Sound Ferry and Harbour Board, shipped as small files."""

from __future__ import annotations

import shutil
from importlib import resources
from pathlib import Path


def file_names() -> list[str]:
    """Return the names of the collection's files: PDFs, the truth of each as HTML, what a clerk typed, scans
    and photographs, a recipe and a schema.
    """
    folder = resources.files(__name__).joinpath("files")
    endings = (".pdf", ".html", ".typed", ".jpg", ".yaml", ".json")
    return sorted(entry.name for entry in folder.iterdir() if entry.name.endswith(endings))


def write_collection(folder: Path) -> list[Path]:
    """Copy the collection into folders and return the paths of the papers and scans.

    `papers` holds the PDFs and their truth, `typed` the same tables as HTML with a clerk's slips: what some
    other way of getting at them might give, to be measured beside the methods. `scans` holds what says its
    text to the eye only: a scan, a photograph, and a notice whose font names no characters. `ledgers` are
    those of a year, `forms` inspections on three other forms, `recipes` what is to be done with them.
    """
    written = []
    for name in file_names():
        path = Path(name)
        target = folder / "papers" / name
        if path.stem.endswith(("-scan", "-photo", "-nameless")):
            target = folder / "scans" / name
        elif path.suffix in (".yaml", ".json"):
            target = folder / "recipes" / name
        elif path.stem.startswith("berth-charges-"):
            target = folder / "ledgers" / name
        elif path.stem.startswith("inspection-"):
            target = folder / "forms" / name
        elif path.suffix == ".typed":
            target = folder / "typed" / f"{path.stem}.html"
        target.parent.mkdir(parents=True, exist_ok=True)
        with resources.as_file(resources.files(__name__).joinpath("files", name)) as source:
            shutil.copyfile(source, target)
        if target.suffix in (".pdf", ".jpg"):
            written.append(target)
    return written


__all__ = ["file_names", "write_collection"]
