"""What several tests need: the command line as a subprocess, small PDFs with known content."""

from __future__ import annotations

import io
import subprocess
import sys
import tempfile
import unittest
from collections import Counter
from pathlib import Path

import pikepdf

DEMO = Path(__file__).parent.parent / "src/wennak/demo/files"


def run(*args: object, cwd: Path | None = None) -> subprocess.CompletedProcess[str]:
    """Run the command line and return what it printed and its exit code."""
    command = [sys.executable, "-m", "wennak", *map(str, args)]
    return subprocess.run(command, capture_output=True, text=True, encoding="utf-8", cwd=cwd, timeout=120)


def pdf_of(content: str | bytes, fonts: dict[str, dict[str, object]] | None = None, **page: object) -> bytes:
    """A one-page PDF that draws `content`; Helvetica is /F1 where no fonts are given."""
    pdf = pikepdf.new()
    fonts = fonts or {"F1": {"Subtype": "/Type1", "BaseFont": "/Helvetica", "Encoding": "/WinAnsiEncoding"}}
    resources = pikepdf.Dictionary(Font=pikepdf.Dictionary())
    for name, entries in fonts.items():
        font = pikepdf.Dictionary(Type=pikepdf.Name.Font)
        for key, value in entries.items():
            is_name = isinstance(value, str) and value.startswith("/")
            font[f"/{key}"] = pikepdf.Name(value) if is_name else value
        resources.Font[f"/{name}"] = pdf.make_indirect(font)
    data = content.encode("latin-1") if isinstance(content, str) else content
    leaf = pikepdf.Dictionary(
        Type=pikepdf.Name.Page,
        MediaBox=pikepdf.Array([0, 0, 612, 792]),
        Resources=resources,
        Contents=pdf.make_stream(data),
    )
    for key, value in page.items():
        leaf[f"/{key}"] = pikepdf.Array(value) if isinstance(value, list) else value
    pdf.pages.append(pikepdf.Page(pdf.make_indirect(leaf)))
    out = io.BytesIO()
    pdf.save(out, deterministic_id=True)
    return out.getvalue()


def words(text: str) -> Counter[str]:
    return Counter(text.split())


class InFolder(unittest.TestCase):
    """A test with a fresh folder of its own."""

    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory(prefix="wennak-test-")
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
