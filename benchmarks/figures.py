"""Measure what the README tells, and write it there: python benchmarks/figures.py [--documents N] [--dry]

Time to load and to convert one small file, time a page of one core and how it grows with pages and with cells
of a table, pages a second by workers, peak memory, and the scores of the methods on documents drawn for it.
The figures go into README.md and docs/figures.md between their marks, the plot to docs/figures.svg; with
--dry they are printed only. Best with nothing else running: it takes some minutes.
"""

from __future__ import annotations

import argparse
import io
import os
import platform
import re
import resource
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Sequence
from datetime import UTC, datetime
from functools import partial
from pathlib import Path

import matplotlib as mpl
import numpy as np
from matplotlib.figure import Figure
from reportlab.lib.pagesizes import A4
from reportlab.lib.styles import getSampleStyleSheet
from reportlab.platypus import PageBreak, Paragraph, SimpleDocTemplate, Table

from wennak.bench import benchmark, summarise
from wennak.emit import write_whole

ROOT = Path(__file__).parent.parent
PAPERS = ROOT / "src/wennak/demo/files"
METHODS = ("combined", "spaced", "ruled", "plain")
PAGES, ROWS, WORKERS = (5, 20, 80), (10, 20, 40, 60), (1, 2)
# Each is measured so often, and the least time taken: what else runs only adds.
ROUNDS = 5
FIRST = 900_000
BEGIN, END = "<!-- figures -->", "<!-- end of figures -->"

Rows = list[tuple[str, str]]
Points = list[tuple[int, float]]


def main() -> None:
    """Measure and write."""
    parser = argparse.ArgumentParser(
        description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter
    )
    parser.add_argument("--documents", type=int, default=60)
    parser.add_argument("--dry", action="store_true")
    options = parser.parse_args()
    with tempfile.TemporaryDirectory() as folder:
        begun = beginnings()
        by_pages, by_cells, by_workers = growth(Path(folder))
        begun += memory(Path(folder))
        quality = scores(Path(folder), options.documents)
    when = datetime.now(UTC).strftime("%Y-%m-%d")
    machine = f"{os.cpu_count()} cores ({platform.machine()}), Python {platform.python_version()}"
    said = (
        f"Measured on {when}, {machine}, by `python benchmarks/figures.py --documents {options.documents}`."
    )
    short = "\n\n".join([table("measured", "", begun), quality, said])
    whole = "\n\n".join(
        [
            short,
            table(
                "pages of text in a document",
                "ms a page, one core",
                [(str(n), f"{t:.0f}") for n, t in by_pages],
            ),
            table(
                "cells in a table of a page",
                "ms a page, one core",
                [(str(n), f"{t:.0f}") for n, t in by_cells],
            ),
            table("workers", "pages a second", [(str(n), f"{t:.1f}") for n, t in by_workers]),
        ]
    )
    if options.dry:
        print(whole)
        return
    for path, text in ((ROOT / "README.md", short), (ROOT / "docs/figures.md", whole)):
        put(path, text)
    write_whole(ROOT / "docs/figures.svg", plot(by_pages, by_cells, by_workers))


def beginnings() -> Rows:
    """Return what it takes to begin: processor time of whole processes."""
    small = PAPERS / "fares-circular.pdf"
    commands = {
        "`import wennak`": ["-c", "import wennak"],
        "`wennak --help`": ["-m", "wennak", "--help"],
        "`wennak convert` of one page, all told": ["-m", "wennak", "convert", str(small)],
        "for comparison: Python alone": ["-c", "pass"],
        "for comparison: `import numpy, pikepdf, click`": ["-c", "import numpy, pikepdf, click"],
    }
    return [(name, f"{least(partial(process, command)):.2f} s") for name, command in commands.items()]


def process(command: Sequence[str]) -> float:
    """Return the processor time of a process (s)."""
    before = resource.getrusage(resource.RUSAGE_CHILDREN)
    subprocess.run([sys.executable, *command], check=True, capture_output=True)
    after = resource.getrusage(resource.RUSAGE_CHILDREN)
    return after.ru_utime + after.ru_stime - before.ru_utime - before.ru_stime


def least(measure: Callable[[], float]) -> float:
    """Return the least of several measurements."""
    return min(measure() for _ in range(ROUNDS))


def growth(folder: Path) -> tuple[Points, Points, Points]:
    """Return processor time a page (ms) by pages and by cells, and pages a second by workers."""
    by_pages = [(n, 1000 / n * least(partial(seconds, saved(folder, text_pages(n))))) for n in PAGES]
    by_cells = [(10 * n, 1000 * least(partial(seconds, saved(folder, one_table(n))))) for n in ROWS]
    papers = folder / "many"
    papers.mkdir()
    for k in range(24):
        (papers / f"{k}.pdf").write_bytes(text_pages(5, k))
    by_workers = []
    for workers in WORKERS:
        how = ["--out", str(folder / f"out{workers}"), "--workers", str(workers), "-q"]
        begun = time.monotonic()
        subprocess.run([sys.executable, "-m", "wennak", "convert", str(papers), *how], check=True)
        by_workers.append((workers, 24 * 5 / (time.monotonic() - begun)))
    return by_pages, by_cells, by_workers


def memory(folder: Path) -> Rows:
    """Return the peak memory of reading few pages and many."""
    peaks = [(n, reading(saved(folder, text_pages(n)))[1]) for n in (PAGES[0], PAGES[-1])]
    return [(f"memory of a process that reads {n} pages", f"{peak:.0f} MiB") for n, peak in peaks]


def saved(folder: Path, data: bytes) -> Path:
    """Return where a document was written to."""
    path = folder / "read.pdf"
    path.write_bytes(data)
    return path


def seconds(path: Path) -> float:
    """Return the processor time of reading a document."""
    return reading(path)[0]


def reading(path: Path) -> tuple[float, float]:
    """Return the processor time (s) of reading a document and writing it as Markdown, in a process that has
    read one before, and the most memory of that (MiB).
    """
    code = (
        "import resource, sys, time, wennak; wennak.read(sys.argv[2]).markdown(); t = time.process_time(); "
        "wennak.read(sys.argv[1]).markdown(); print(time.process_time() - t, "
        "resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024)"
    )
    small = PAPERS / "fares-circular.pdf"
    said = subprocess.run(
        [sys.executable, "-c", code, path, small], check=True, capture_output=True, text=True
    )
    taken, peak = said.stdout.split()
    return float(taken), float(peak)


def text_pages(count: int, seed: int = 0) -> bytes:
    """Return a PDF with pages of running text and a small table on each."""
    rng = np.random.default_rng(seed)
    style = getSampleStyleSheet()["BodyText"]
    words = "pier tide berth vessel sound quay harbour wind charge mooring signal buoy channel master".split()
    story: list[object] = []
    for page in range(count):
        story += [Paragraph(" ".join(rng.choice(words, 80)).capitalize() + ".", style) for _ in range(6)]
        story.append(Table([["Pier", "Single", "Return"], *([w, str(page), "10.60"] for w in words[:5])]))
        story.append(PageBreak())
    return pdf_of(story)


def one_table(rows: int) -> bytes:
    """Return a page with one table of ten columns and no lines."""
    rng = np.random.default_rng(rows)
    cells = [[f"{v:.2f}" for v in row] for row in rng.random((rows, 10)) * 100]
    return pdf_of([Table(cells, rowHeights=12)])


def pdf_of(story: list[object]) -> bytes:
    """Return what a story looks like as a PDF."""
    out = io.BytesIO()
    SimpleDocTemplate(out, pagesize=A4, topMargin=36, bottomMargin=36, invariant=1).build(story)
    return out.getvalue()


def scores(folder: Path, documents: int) -> str:
    """Return the scores of the methods on drawn documents, as a table."""
    drawn = folder / "drawn"
    draw = [sys.executable, str(ROOT / "tools/draw_documents.py"), str(drawn), str(documents), str(FIRST)]
    subprocess.run(draw, check=True, capture_output=True)
    summary = summarise(benchmark(drawn, METHODS, folder / "run", workers=os.cpu_count() or 1))
    lines = [
        f"| method | score | found, of {summary.tables} | without any error | invented | numbers wrong |"
    ]
    lines.append("| --- | --- | --- | --- | --- | --- |")
    for m in summary.methods:
        mean, wrong = m.means["score"], m.wrong_numbers
        span = f"{mean.low:.3f} to {mean.high:.3f}" if mean.low is not None and mean.high is not None else ""
        lines.append(
            f"| `{m.name}` | {mean.mean:.3f} ({span}) | {m.found} | {m.exact} | {m.extra} "
            f"| {wrong} of {m.numbers['truth']} |"
        )
    return "\n".join(lines)


def table(first: str, second: str, rows: Rows) -> str:
    """Return rows as a table in Markdown."""
    return "\n".join([f"| {first} | {second} |", "| --- | --- |", *(f"| {a} | {b} |" for a, b in rows)])


def put(path: Path, text: str) -> None:
    """Put a text between the marks of a file."""
    said = path.read_text(encoding="utf-8")
    new = re.sub(f"{BEGIN}.*{END}", lambda _: f"{BEGIN}\n{text}\n{END}", said, flags=re.S)
    write_whole(path, new.encode("utf-8"))


def plot(*lines: list[tuple[int, float]]) -> bytes:
    """Return the growth as a plot (SVG)."""
    names = (("pages", "ms a page"), ("cells in a table", "ms a page"), ("workers", "pages a second"))
    with mpl.rc_context({"svg.hashsalt": "wennak", "svg.fonttype": "none", "font.size": 10}):
        figure = Figure(figsize=(9, 2.8), layout="constrained")
        for axes, points, (x, y) in zip(figure.subplots(1, 3), lines, names, strict=True):
            axes.plot(*zip(*points, strict=True), "o-", color="#0072b2")
            axes.set(xlabel=x, ylabel=y, ylim=(0, 1.1 * max(value for _, value in points)))
            axes.set_xticks([count for count, _ in points])
        out = io.BytesIO()
        figure.savefig(out, format="svg", metadata={"Date": None})
    return out.getvalue()


if __name__ == "__main__":
    main()
