"""How long a conversion takes, in process time, and in which room: python benchmarks/speed.py FILE.pdf...

Of each file (the first pages of it) and of drawn pages that are one dense table each, the time per page of
reading and writing Markdown, and its ratio to that of the object library parsing the content streams, both
measured in turn; then the share of each room, by looking at it a thousand times a second.
"""

from __future__ import annotations

import io
import random
import signal
import statistics
import sys
import time
from collections import Counter
from collections.abc import Callable
from pathlib import Path
from types import FrameType
from typing import Any

import pikepdf
from reportlab.lib.pagesizes import A4
from reportlab.platypus import SimpleDocTemplate, Table, TableStyle

import wennak
from wennak.ink import PdfFile

PAGES, ROUNDS = 60, 15
ROWS, COLUMNS = 60, 10
LOOKS: dict[str, list[Any]] = {
    "without lines": [],
    "with all lines": [("GRID", (0, 0), (-1, -1), 0.5, "black")],
}


def main(files: list[str]) -> int:
    """Print a line for each file and each drawn table."""
    for name in files:
        show(name, Path(name).read_bytes())
    for look, lines in LOOKS.items():
        show(f"a table of {ROWS} x {COLUMNS} {look}", drawn(lines))
    return 0


def show(name: str, data: bytes) -> None:
    """Measure one file and print what came out."""
    with PdfFile(data, name) as pdf:
        count = min(pdf.page_count, PAGES)

    def parse() -> None:
        with pikepdf.open(io.BytesIO(data)) as pdf:
            for page in list(pdf.pages)[:count]:
                pikepdf.parse_content_stream(page)

    def convert() -> None:
        wennak.read(data, pages=f"1-{count}").markdown()

    convert()
    rounds = [(timed(parse), timed(convert)) for _ in range(ROUNDS)]
    floor, whole = (statistics.median(column) / count * 1000 for column in zip(*rounds, strict=True))
    ratio = statistics.median(b / a for a, b in rounds)
    least = min(b for _, b in rounds) / count * 1000
    shares = rooms(convert)
    print(f"{name}: {whole:.1f} ms a page (best {least:.1f}), {ratio:.1f} x parsing ({floor:.2f} ms)")
    print("    " + ", ".join(f"{room} {share:.0%}" for room, share in shares))


def timed(act: Callable[[], None]) -> float:
    """Process time of one call, in seconds."""
    start = time.process_time()
    act()
    return time.process_time() - start


def rooms(act: Callable[[], None]) -> list[tuple[str, float]]:
    """Share of the time that each room of the package takes, the largest first."""
    seen: Counter[str] = Counter()

    def look(_: int, frame: FrameType | None) -> None:
        while frame is not None:
            found, inner = frame.f_code.co_filename.rpartition("/wennak/")[1:]
            if found:
                seen[inner.split("/")[0].removesuffix(".py")] += 1
                return
            frame = frame.f_back

    signal.signal(signal.SIGPROF, look)
    signal.setitimer(signal.ITIMER_PROF, 0.001, 0.001)
    for _ in range(ROUNDS):
        act()
    signal.setitimer(signal.ITIMER_PROF, 0)
    return [(room, count / seen.total()) for room, count in seen.most_common(6)]


def drawn(lines: list[Any]) -> bytes:
    """A page that is one dense table of numbers."""
    rng = random.Random(1)
    rows = [[f"row {r}", *(f"{rng.randrange(10**4):,}" for _ in range(COLUMNS - 1))] for r in range(ROWS)]
    style: list[Any] = [("FONTSIZE", (0, 0), (-1, -1), 8), ("TOPPADDING", (0, 0), (-1, -1), 0)]
    style += [("BOTTOMPADDING", (0, 0), (-1, -1), 0), *lines]
    out = io.BytesIO()
    SimpleDocTemplate(out, pagesize=A4).build(
        [Table(rows, colWidths=45, rowHeights=11, style=TableStyle(style))]
    )
    return out.getvalue()


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
