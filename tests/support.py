"""What several tests need: the command line as a subprocess, small PDFs with known content."""

from __future__ import annotations

import importlib.util
import io
import os
import shutil
import subprocess
import sys
import tempfile
import unittest
from collections import Counter
from collections.abc import Iterable, Iterator
from contextlib import chdir, contextmanager
from pathlib import Path
from types import ModuleType
from typing import Any

import pikepdf

import wennak

DEMO = Path(__file__).parent.parent / "src/wennak/demo/files"


def run(
    *args: object, cwd: Path | None = None, env: dict[str, str] | None = None, given: bytes | None = None
) -> subprocess.CompletedProcess[str]:
    """Run the command line and return what it printed and its exit code; `given` is its standard input."""
    done = subprocess.run(
        command(*args),
        capture_output=True,
        cwd=cwd,
        env={**os.environ, **(env or {})},
        input=given,
        timeout=600,
    )
    texts = (data.decode().replace("\r\n", "\n") for data in (done.stdout, done.stderr))
    return subprocess.CompletedProcess(done.args, done.returncode, *texts)


def run_here(
    *args: object, cwd: Path | None = None, env: dict[str, str] | None = None
) -> subprocess.CompletedProcess[str]:
    """The same in this process, which begins no other: for the further cases of a command."""
    from click.testing import CliRunner

    from wennak.cli import main

    with chdir(cwd or Path.cwd()):
        done = CliRunner().invoke(main, [str(arg) for arg in args], env=env)
    return subprocess.CompletedProcess([], done.exit_code, done.stdout, done.stderr)


def command(*args: object) -> list[str]:
    """The command line as a list."""
    return [sys.executable, "-m", "wennak", *map(str, args)]


def text_pdf(*pages: str) -> bytes:
    """A PDF with a line of text on each page."""
    return joined(pdf_of(f"BT /F1 11 Tf 72 700 Td ({text}) Tj ET") for text in pages)


def joined(pdfs: Iterable[bytes]) -> bytes:
    """One PDF with the pages of all."""
    pdf = pikepdf.new()
    for data in pdfs:
        with pikepdf.open(io.BytesIO(data)) as one:
            pdf.pages.extend(one.pages)
    out = io.BytesIO()
    pdf.save(out, deterministic_id=True)
    return out.getvalue()


def method_of(folder: Path, source: str) -> dict[str, str]:
    """Install a table method of the given source, whose name is "tested", and return the environment in which
    it is found: that is how users add methods of their own.
    """
    info = folder / "plugins/tested-1.dist-info"
    info.mkdir(parents=True)
    (info / "METADATA").write_text("Metadata-Version: 2.1\nName: tested\nVersion: 1\n")
    (info / "entry_points.txt").write_text("[wennak.methods]\ntested = tested_method:read\n")
    (folder / "plugins/tested_method.py").write_text(source)
    return {"PYTHONPATH": str(folder / "plugins")}


def files_below(folder: Path) -> dict[str, bytes]:
    """All files below a folder by name, but for journals and what runs keep for themselves."""
    found = {p.relative_to(folder).as_posix(): p.read_bytes() for p in folder.rglob("*") if p.is_file()}
    return {n: data for n, data in found.items() if not n.startswith((".wennak", "wennak-journal"))}


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


def script(path: str) -> ModuleType:
    """A script of the project, such as "benchmarks/invariants.py", as a module."""
    spec = importlib.util.spec_from_file_location(Path(path).stem, Path(__file__).parent.parent / path)
    module = importlib.util.module_from_spec(spec)
    # Dataclasses look their module up by its name.
    sys.modules[spec.name] = module
    spec.loader.exec_module(module)
    return module


def words(text: str) -> Counter[str]:
    return Counter(text.split())


def covered(table: wennak.Table) -> list[tuple[int, int]]:
    """The places, as row and column, of all cells of a table: each once, where none overlap."""
    return [
        (row, column)
        for cell in table.cells
        for row in range(cell.row, cell.row + cell.rowspan)
        for column in range(cell.column, cell.column + cell.colspan)
    ]


class InFolder(unittest.TestCase):
    """A test with a fresh folder of its own."""

    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory(prefix="wennak-test-")
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)


@contextmanager
def browser(test: InFolder) -> Iterator[Any]:
    """A real headless browser whose downloads go to the folder of the test; skips where there is none."""
    try:
        from selenium import webdriver
    except ImportError:
        test.skipTest("needs the extra dev (selenium)")
    chromium, driver = shutil.which("chromium"), shutil.which("chromedriver")
    if not (chromium and driver):
        test.skipTest("needs a Chromium and its driver on the PATH")
    options = webdriver.ChromeOptions()
    options.binary_location = chromium
    for argument in ("--headless=new", "--no-sandbox", "--window-size=1280,800"):
        options.add_argument(argument)
    options.add_argument(f"--user-data-dir={test.folder / 'profile'}")
    options.add_experimental_option("prefs", {"download.default_directory": str(test.folder / "downloads")})
    service = webdriver.ChromeService(driver, env={**os.environ, "HOME": str(test.folder)})
    with webdriver.Chrome(options, service) as found:
        yield found
